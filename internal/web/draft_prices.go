package web

import (
	"fmt"
	"html/template"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
)

// pricesDraft is the page of a draft's prices: everything that the price model can say.
type pricesDraft struct {
	Begun             bool  // from an edition
	At                int64 // the revision that is shown
	Base, Name, Since string
	Say               template.HTML // what rises, for whom
	Faults            []string      // those that stand at no place of the page
	Gaps              []string      // what may be published empty
	Plans             []planColumn
	Windows           []choiceView // which plans of many are shown
	AddOns            []addOnView
	Offers            []offerView
	Meters            []meterView
	Drivers           []meterView // of the list's own
	Facts             []briefFact
	FactsForm         template.HTML
	NewPlan, NewAddOn *draftAdd
	NewOffer          *draftAdd
	NewMeter          *draftAdd
	Trial             *trialView
	May               bool
	Undo              undoLine
	Table             string // that was not taken
	TableProblem      string
}

// planColumn is one plan, from its name down to its limits.
type planColumn struct {
	Key, Name                string
	Title, Offered, Includes editable
	Terms                    []sentence
	Charges                  []chargeView
	Limits                   []sentence
	NewCharge, NewLimit      *draftAdd
	NewTerm                  *draftAdd
	CopyName                 string
	Faults                   []string
	Form                     template.HTML
	Place                    place
	Lit                      bool // it is what the trial usage takes
}

// sentence is a rule of the list as words with fields between them.
type sentence struct {
	ID     string
	Pieces []piece
	Place  place
	Faults []string
}

type piece struct {
	Text  string
	Field *editable
}

// chargeView is a charge as a sentence, with its bands as a table.
type chargeView struct {
	sentence
	Kind  string
	Bands *bandTable
}

// bandTable is the table of a charge's bands.
type bandTable struct {
	Path, ID string
	Of       string // what the bands are of
	Heads    []string
	Rows     []bandRow
	Above    editable
	Rows0    string // the table as rows out of a spreadsheet
	Problem  string
	Typed    string
	Open     bool
	Backward bool // a band ends below the one before: they can be set in order
	May      bool
}

type bandRow struct {
	To     editable
	Open   bool
	Cells  []editable
	Place  place
	Faults []string
}

type addOnView struct {
	sentence
	Charges   []chargeView
	Raises    []sentence
	NewCharge *draftAdd
	Form      template.HTML
}

type offerView struct {
	sentence
	Form template.HTML
}

type meterView struct {
	sentence
	Words string
	Form  template.HTML
}

// draftAdd is a form that adds something to a draft.
type draftAdd struct {
	Op, On, ID, Title string
	Fields            []addField
	Open              bool
	Problem           string
}

// words and fields of a sentence.
func (s *sentence) say(format string, a ...any) {
	s.Pieces = append(s.Pieces, piece{Text: fmt.Sprintf(format, a...)})
}

func (s *sentence) field(e editable) {
	s.Pieces = append(s.Pieces, piece{Field: &e})
}

// pricesBody draws the prices of a draft.
func (s *Server) pricesBody(e *draftEditor) (*pricesDraft, error) {
	d := &e.draft.Draft
	ed := &d.Edition
	b := &pricesDraft{Gaps: ed.Gaps(), Base: "/shelf/platforms/" + ed.Platform.Key, Name: ed.Platform.Name, At: e.draft.Revision, May: e.mayEdit()}
	b.Since = "begun from nothing"
	if b.Begun = !d.Base.IsZero(); b.Begun {
		b.Since = "begun from the edition of " + d.Base.Format("2 Jan 2006")
	}
	e.atPlaces()
	from, to := e.window()
	for i := from; i < to; i++ {
		b.Plans = append(b.Plans, e.planColumn(i))
	}
	b.Windows = e.windows()
	for i := range ed.AddOns {
		b.AddOns = append(b.AddOns, e.addOnView(i))
	}
	for i := range ed.Offers {
		b.Offers = append(b.Offers, e.offerView(i))
	}
	for i := range ed.Meters {
		b.Meters = append(b.Meters, e.meterView(i))
	}
	for i := range ed.Drivers {
		b.Drivers = append(b.Drivers, e.driverView(i))
	}
	e.listFacts(b)
	if p := e.problemAt("prices-table"); p != nil {
		b.Table, b.TableProblem = p.Typed, p.Message
	}
	if b.May {
		e.adders(b)
	}
	var err error
	if b.Trial, err = s.trial(e); err != nil {
		return nil, err
	}
	for i := range b.Plans {
		b.Plans[i].Lit = b.Plans[i].Key == b.Trial.Takes
	}
	for _, one := range e.faultsAt {
		b.Faults = append(b.Faults, one...)
	}
	b.Say = phrase(b.Trial.say)
	return b, nil
}

// atPlaces sorts what is wrong with the draft by where it stands.
func (e *draftEditor) atPlaces() {
	e.faultsAt = map[document.Path][]string{}
	for _, f := range e.draft.Faults {
		at := e.draft.Draft.Edition.At(f.Path)
		e.faultsAt[at] = append(e.faultsAt[at], capital(f.Problem)+".")
	}
}

// faults takes what is wrong at a place, or below it.
func (e *draftEditor) faultsOf(at document.Path) (all []string) {
	for path, some := range e.faultsAt {
		if path == at || strings.HasPrefix(string(path), string(at)+".") {
			all = append(all, some...)
			delete(e.faultsAt, path)
		}
	}
	return all
}

// placeIn is where an item of a list of the draft stands.
func (e *draftEditor) placeIn(list document.Path, keys []string, i int, name string) place {
	p := place{Path: string(list.To(keys[i])), Remove: string(list.To(keys[i])), Name: name, First: i == 0, Last: i == len(keys)-1, May: e.mayEdit()}
	if i > 0 {
		p.Up = keys[i-1]
	}
	if i+2 < len(keys) {
		p.Down = keys[i+2]
	}
	return p
}

func keysIn[T any](all []T, key func(*T) string) []string {
	keys := make([]string, len(all))
	for i := range all {
		keys[i] = key(&all[i])
	}
	return keys
}

// price is a field for an amount, with the sign of its currency before it.
func (e *draftEditor) priceAt(path document.Path, label string) editable {
	f := e.field(path, label)
	f.Wide = true
	return f
}

func (e *draftEditor) planColumn(i int) planColumn {
	ed := &e.draft.Draft.Edition
	p := &ed.Plans[i]
	path := document.Path("plans").To(p.Key)
	c := planColumn{Key: p.Key, Name: p.Name, Title: e.field(path.To("name"), "Name of plan "+p.Name), Offered: e.field(path.To("offered"), p.Name+" is offered"),
		Includes: e.field(path.To("includes"), "Plan that "+p.Name+" has all of"), CopyName: p.Name + " 2",
		Place: e.placeIn("plans", keysIn(ed.Plans, func(p *pricelist.Plan) string { return p.Key }), i, "plan "+p.Name)}
	c.Title.Long = false
	c.Includes.Choices = []choiceView{{Label: "nothing below", Value: "", Chosen: p.Includes == ""}}
	for _, below := range ed.Plans[:i] {
		c.Includes.Choices = append(c.Includes.Choices, choiceView{Label: "all of " + below.Name + ", and", Value: below.Key, Chosen: below.Key == p.Includes})
	}
	keys := keysIn(p.Terms, func(t *pricelist.Term) string { return t.Key })
	for j := range p.Terms {
		c.Terms = append(c.Terms, e.termSentence(p, j, e.placeIn(path.To("terms"), keys, j, study.SayTerm(p.Terms[j])+" on "+p.Name)))
	}
	keys = keysIn(p.Charges, func(c *pricelist.Charge) string { return c.Key })
	for j := range p.Charges {
		c.Charges = append(c.Charges, e.chargeView(path, p.Charges, j, p.Terms, e.placeIn(path.To("charges"), keys, j, chargeName(&p.Charges[j])+" of "+p.Name), p.Name))
	}
	keys = keysIn(p.Limits, func(l *pricelist.Limit) string { return l.KeyOf() })
	for j := range p.Limits {
		c.Limits = append(c.Limits, e.limitSentence(p, path, j, e.placeIn(path.To("limits"), keys, j, "the limit on "+e.unitsOf(p.Limits[j].Meter)+" of "+p.Name)))
	}
	c.Faults = e.faultsOf(path)
	c.Form = rowForm(c.Title)
	return c
}

func chargeName(c *pricelist.Charge) string { return orElse(c.Label != "", c.Label, c.Key) }

// unitsOf is what a meter counts, several of them.
func (e *draftEditor) unitsOf(meter string) string {
	if m, ok := e.draft.Draft.Edition.Meter(meter); ok {
		return quote.Plural(m.Unit)
	}
	return orElse(meter != "", meter, "nothing")
}

func (e *draftEditor) unitOf(meter string) string {
	if m, ok := e.draft.Draft.Edition.Meter(meter); ok {
		return m.Unit
	}
	return orElse(meter != "", meter, "thing")
}

func (e *draftEditor) termSentence(p *pricelist.Plan, j int, at place) sentence {
	t := &p.Terms[j]
	path := document.Path("plans").To(p.Key, "terms", t.Key)
	s := sentence{ID: idOf(path), Place: at}
	if t.Months == 1 {
		s.say("monthly")
	} else {
		s.say("%s", map[bool]string{true: "or for", false: "for"}[j > 0])
		s.field(e.field(path.To("months"), "Months of a term of "+p.Name))
		s.say("months,")
		s.field(e.field(path.To("paid"), "How that term of "+p.Name+" is paid"))
	}
	if t.Months > 1 || t.Off > 0 {
		s.say("less")
		s.field(e.field(path.To("off"), "What a term of "+study.SayTerm(*t)+" takes off the prices of "+p.Name))
	}
	s.Faults = e.faultsOf(path)
	return s
}

// listFacts are what holds for the whole list.
func (e *draftEditor) listFacts(b *pricesDraft) {
	b.Facts = []briefFact{{Name: "Read on", Field: e.field("observed_on", "Day on which the prices were read")}, {Name: "From", Field: e.field("source", "Where the prices were read")},
		{Name: "Currency", Field: e.field("currency", "Currency of its prices")}, {Name: "Hold tax", Field: e.field("tax.included", "Prices hold tax")},
		{Name: "Tax rate", Field: e.field("tax.rate", "Rate of tax")}, {Name: "Days of trial", Field: e.field("trial.days", "Days of trial")},
		{Name: "Days to get money back", Field: e.field("trial.refund_days", "Days within which the money comes back")}, {Name: "Card needed", Field: e.field("trial.card_needed", "A card is needed for the trial")}}
	for i := range b.Facts {
		b.Facts[i].Field.Form = "fields-list"
	}
	b.FactsForm = rowForm(b.Facts[0].Field)
}

// less is what a price comes to on a term that states none of its own.
func less(c money.Currency, usual money.Amount, t pricelist.Term) string {
	return (usual - money.Amount(float64(usual)*float64(t.Off)/float64(money.Whole))).Grouped()
}
