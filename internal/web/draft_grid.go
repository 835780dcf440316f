package web

import (
	"html/template"
	"net/url"
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/feature"
	"ninecoins/internal/core/pricelist"
)

// draftBody is the page of a draft: the platform, its plans, and a grid of what each
// plan has.
type draftBody struct {
	Base, Name    string
	At            int64 // the revision that is shown
	Since         string
	Told, Changed int
	Rows          int
	Faults        []string
	Gaps          []string // what may be published empty
	Facts         []briefFact
	FactsForm     template.HTML
	Plans         []draftPlan
	Windows       []choiceView // which plans of many are shown
	Groups        []gridGroup
	Filters       []choiceView
	Panel         *gridPanel
	OpenPlans     bool
	Ask           string
	Asks          int
	May           bool
	Undo          undoLine
	New           map[string]string // what was typed of a plan that was not taken
	NewProblems   map[string]string
	Features      string // keys of the rows, for a block that is pasted
	Keys          string // keys of the plans, likewise
	TableProblem  string
	Table         string
}

type draftPlan struct {
	Key, Name       string
	Field, Includes editable
	Price           *editable
	Priced          string // what stands in place of a flat price
	Place           place
	Form            template.HTML
	Below           string       // name of the plan that it has all of
	Others          []choiceView // plans that it could be filled from
}

type gridGroup struct {
	Name string
	Rows []gridRow
}

type gridRow struct {
	Key, ID, Name, Question, Link string
	Unit                          bool
	Cells                         []gridCell
	Form                          template.HTML
}

// gridCell is what a plan has of a feature; where it says nothing itself, Taken is what
// it takes over.
type gridCell struct {
	editable
	Taken string
	State string
}

// gridPanel tells of one feature: where it is known from, what it was, who asks for it.
type gridPanel struct {
	Key, Name, About, Question string
	Plans                      []panelPlan
	Asked                      []string
}

type panelPlan struct {
	Name, Was      string
	From, On, Note editable
	Form           template.HTML
}

// rowFilters are the choices of rows of the grid.
var rowFilters = [][2]string{{"", "Usual"}, {"told", "Told"}, {"open", "Not told"}, {"all", "All"}}

func (s *Server) draftBody(e *draftEditor) (*draftBody, error) {
	d := &e.draft.Draft
	ed := &d.Edition
	b := &draftBody{Gaps: ed.Gaps(), Base: "/shelf/platforms/" + ed.Platform.Key, Name: ed.Platform.Name, At: e.draft.Revision, May: e.mayEdit(), New: map[string]string{}, NewProblems: map[string]string{}}
	b.Since = "begun from nothing"
	if !d.Base.IsZero() {
		b.Since = "begun from the edition of " + d.Base.Format("2 Jan 2006")
	}
	for _, f := range e.draft.Faults {
		b.Faults = append(b.Faults, f.String())
	}
	name, does := e.field("platform.name", "Name of the platform"), e.field("platform.does", "What it does")
	about, links := e.field("platform.about", "What it does, in a line or two"), e.field("platform.links", "Links")
	b.Facts = []briefFact{{Name: "Name", Field: name}, {Name: "Does", About: "Categories, with commas between them.", Field: does}, {Name: "In a line or two", Field: about},
		{Name: "Links", About: "Kept as text, with spaces between them.", Field: links}, {Name: "From", About: "Where the prices were read.", Field: e.field("source", "Where the prices were read")},
		{Name: "Currency", Field: e.field("currency", "Currency of its prices")}}
	for i := range b.Facts {
		b.Facts[i].Field.Form = "fields-platform-all"
	}
	b.FactsForm = rowForm(b.Facts[0].Field)
	e.plans(b)
	e.grid(b)
	b.OpenPlans = d.Base.IsZero()
	for i := range b.Plans {
		b.OpenPlans = b.OpenPlans || b.Plans[i].Field.Told() || b.Plans[i].Includes.Told()
	}
	for _, field := range []string{"name", "price", "includes"} {
		if p := e.problemAt("plan-" + field); p != nil {
			b.NewProblems[field], b.New, b.OpenPlans = p.Message, p.Item, true
		}
	}
	if p := e.problemAt("grid-table"); p != nil {
		b.TableProblem, b.Table = p.Message, p.Typed
	}
	var err error
	b.Panel, err = s.panel(e)
	return b, err
}

func (e *draftEditor) plans(b *draftBody) {
	ed := &e.draft.Draft.Edition
	keys := make([]string, len(ed.Plans))
	for i := range ed.Plans {
		keys[i] = ed.Plans[i].Key
	}
	from, to := e.window()
	for i := from; i < to; i++ {
		p := &ed.Plans[i]
		path := document.Path("plans").To(p.Key)
		one := draftPlan{Key: p.Key, Name: p.Name, Field: e.field(path.To("name"), "Name of plan "+p.Name), Includes: e.field(path.To("includes"), "Plan that "+p.Name+" has all of"),
			Place: place{Path: string(path), Remove: string(path), Name: "plan " + p.Name, First: i == 0, Last: i == len(keys)-1, May: b.May}}
		if i > 0 {
			one.Place.Up = keys[i-1]
		}
		if i+2 < len(keys) {
			one.Place.Down = keys[i+2]
		}
		one.Field.Long = false
		one.Includes.Choices = []choiceView{{Label: "nothing below", Value: "", Chosen: p.Includes == ""}}
		for _, below := range ed.Plans[:i] {
			one.Includes.Choices = append(one.Includes.Choices, choiceView{Label: "all of " + below.Name + ", and", Value: below.Key, Chosen: below.Key == p.Includes})
		}
		for j, other := range ed.Plans[:to] {
			if j != i && j >= from-1 {
				one.Others = append(one.Others, choiceView{Label: other.Name, Value: other.Key, Chosen: j == i-1})
			}
		}
		if below, ok := ed.Plan(p.Includes); ok {
			one.Below = below.Name
		}
		switch {
		case len(p.Charges) == 1 && p.Charges[0].Kind == pricelist.Flat:
			price := e.number(path.To("charges", p.Charges[0].Key, "price"), "Price a month of "+p.Name)
			price.Form, one.Price = one.Field.Form, &price
			one.Priced = ed.Currency.Code() + " a month"
		case p.Offered == pricelist.OnRequest:
			one.Priced = "price on request"
		default:
			one.Priced = "prices as read"
		}
		one.Form = rowForm(one.Field)
		b.Plans = append(b.Plans, one)
	}
	b.Keys = strings.Join(keys[from:to], ",")
	b.Windows = e.windows()
}

// grid makes the rows of the grid, by area.
func (e *draftEditor) grid(b *draftBody) {
	ed, q := &e.draft.Draft.Edition, e.c.Query("rows")
	told := map[string]bool{}
	for i := range ed.Plans {
		for key := range ed.Plans[i].Features {
			told[key] = true
		}
	}
	usual := e.catalogue.AreasFor(ed.Platform.Does)
	shows := func(key string) bool {
		switch {
		case q == "told":
			return told[key]
		case q == "open":
			return !told[key] && slices.Contains(usual, feature.AreaOf(key))
		case q == "all":
			return true
		case strings.HasPrefix(q, "in-"):
			return feature.AreaOf(key) == q[3:]
		}
		return told[key] || slices.Contains(usual, feature.AreaOf(key))
	}
	for _, f := range rowFilters {
		link := e.c.Request.URL.Path
		if f[0] != "" {
			link += "?rows=" + f[0]
		}
		b.Filters = append(b.Filters, choiceView{Label: f[1], Link: link, Chosen: q == f[0]})
	}
	for _, a := range e.catalogue.Areas() {
		b.Filters = append(b.Filters, choiceView{Label: a.Name, Link: e.c.Request.URL.Path + "?rows=in-" + a.Key, Chosen: q == "in-"+a.Key})
	}
	listed := map[string]bool{}
	var keys, ask []string
	add := func(area string, f feature.Feature) {
		listed[f.Key] = true
		if !shows(f.Key) {
			return
		}
		if n := len(b.Groups); n == 0 || b.Groups[n-1].Name != area {
			b.Groups = append(b.Groups, gridGroup{Name: area})
		}
		g := &b.Groups[len(b.Groups)-1]
		g.Rows = append(g.Rows, e.row(&f))
		keys = append(keys, f.Key)
		b.Rows++
		if told[f.Key] {
			b.Told++
		} else if f.Question != "" {
			ask = append(ask, f.Name+": "+f.Question)
		}
	}
	for _, a := range e.catalogue.Areas() {
		for _, f := range e.catalogue.Of(a.Key) {
			add(a.Name, f)
		}
	}
	for _, key := range sortedOf(told) { // what the catalogue has not got
		if !listed[key] {
			f, _ := e.catalogue.Find(key)
			f.Key = key
			add(e.catalogue.Name(feature.AreaOf(key)), f)
		}
	}
	b.Features, b.Asks = strings.Join(keys, ","), len(ask)
	b.Ask = strings.Join(ask, "\n")
	b.Changed = e.changed()
}

func sortedOf(set map[string]bool) []string {
	keys := make([]string, 0, len(set))
	for key := range set {
		keys = append(keys, key)
	}
	slices.Sort(keys)
	return keys
}

func (e *draftEditor) row(f *feature.Feature) gridRow {
	q := url.Values{"feature": {f.Key}}
	if rows := e.c.Query("rows"); rows != "" {
		q.Set("rows", rows)
	}
	r := gridRow{Key: f.Key, ID: cellID(f.Key), Name: f.Name, Question: f.Question, Unit: f.Unit != "", Link: e.c.Request.URL.Path + "?" + q.Encode() + "#panel"}
	ed := &e.draft.Draft.Edition
	from, to := e.window()
	for i := from; i < to; i++ {
		p := &ed.Plans[i]
		cell := gridCell{editable: e.field(document.Path("plans").To(p.Key, "features", f.Key), f.Name+" on "+p.Name)}
		cell.Long, cell.Text, cell.Short, cell.Empty = false, true, true, ""
		own, told := p.Features[f.Key]
		if whole, ok := e.draft.Whole.Plan(p.Key); ok && !told {
			if taken, ok := whole.Features[f.Key]; ok {
				cell.Taken = shortCell(taken)
				cell.Empty = cell.Taken
			}
		}
		cell.State = string(own.Has)
		if cell.Problem == "" && told {
			cell.Value = shortCell(own)
		}
		r.Cells = append(r.Cells, cell)
	}
	if len(r.Cells) > 0 {
		r.Form = rowForm(r.Cells[0].editable)
	}
	return r
}

// shortCell writes a cell as the grid shows it: "20" for yes with a number.
func shortCell(f pricelist.Feature) string {
	switch {
	case f.Has == pricelist.Yes && f.Unlimited && f.Depth == 0:
		return "unlimited"
	case f.Has == pricelist.Yes && f.Number > 0 && f.Depth == 0:
		return f.Number.Format()
	}
	return f.Cell()
}

// changed counts what differs from the edition that the draft began from.
func (e *draftEditor) changed() (n int) {
	ed := &e.draft.Draft.Edition
	for i := range ed.Plans {
		was := map[string]pricelist.Feature{}
		if e.base != nil {
			if p, ok := e.base.Plan(ed.Plans[i].Key); ok {
				was = p.Features
			}
		}
		for key, f := range ed.Plans[i].Features {
			if was[key].Cell() != f.Cell() {
				n++
			}
		}
		for key, f := range was {
			if _, there := ed.Plans[i].Features[key]; f.Direct && !there {
				n++
			}
		}
	}
	return n
}

// panel tells of the feature that the address names (?feature=); nil for none.
func (s *Server) panel(e *draftEditor) (*gridPanel, error) {
	key := e.c.Query("feature")
	if _, err := pricelist.FeatureKey.Parse(key); err != nil {
		return nil, nil
	}
	f, _ := e.catalogue.Find(key)
	b := &gridPanel{Key: key, Name: f.Name, About: f.About, Question: f.Question}
	ed := &e.draft.Draft.Edition
	from, to := e.window()
	for i := from; i < to; i++ {
		p := &ed.Plans[i]
		one := panelPlan{Name: p.Name}
		if e.base != nil {
			if base, ok := e.base.Plan(p.Key); ok && base.Features[key].Cell() != p.Features[key].Cell() && base.Features[key].Direct {
				one.Was = sayHas(base.Features[key]) + ", in the edition of " + e.draft.Draft.Base.Format("2 Jan 2006")
			}
		}
		if _, told := p.Features[key]; told {
			at := document.Path("plans").To(p.Key, "features", key)
			one.From, one.On = e.field(at.To("from"), "Where it is known from, on "+p.Name).orNothing("–"), e.field(at.To("on"), "Since when it is known, on "+p.Name)
			one.Note = e.field(at.To("note"), "Note on "+p.Name)
			one.On.Empty, one.Note.Empty = "day", "a note"
			for _, field := range []*editable{&one.From, &one.On, &one.Note} {
				field.Form = "fields-panel-" + p.Key
			}
			one.Form = rowForm(one.From)
		}
		b.Plans = append(b.Plans, one)
	}
	asked, err := s.askedFor(e, key)
	b.Asked = asked
	return b, err
}
