package study

import (
	"maps"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/doors"
)

// Format is what the file of a study says that it is.
const Format = "nine-coins/study/1"

// Sources say what a study is read against. The zero value takes no day that
// is past 1990 and knows no edition.
type Sources struct {
	// The last day that is not in the future.
	Latest time.Time
	// Returns the edition of a platform that was read on a day; nil: none is
	// looked up, and the options have none.
	Find func(platform string, observedOn time.Time) (*pricelist.Edition, bool)
	// Options that rest in the bin are read and written too, as files of version 1
	// of workspaces hold them.
	WithBin bool
	// As the database keeps it: raters are keys of people, not their names.
	Kept bool
}

// Kept is the table of studies as they are kept.
func Kept() *document.Table[Study] { return kept }

var kept = Fields(Sources{Latest: anyDay, Kept: true})

const (
	toEdit = int(doors.ToEdit)
	toRate = int(doors.ToRate)
)

// Fields is the table of a study's fields: what its files hold, how each is
// edited, and what that needs ([doors.Need]).
func Fields(from Sources) *document.Table[Study] {
	type s = *Study
	edits, currency := document.Needs(toEdit), notation.Currency
	if from.Kept {
		currency = notation.KeptCurrency
	}
	parts := document.Parts[Study]{
		document.Field("key", "key", document.Key, func(s s) *string { return &s.Key }, document.Must),
		document.Field("title", "Title", notation.Title(120), func(s s) *string { return &s.Title }, document.Must, edits),
		document.Field("company", "Who asks", notation.Title(80), func(s s) *string { return &s.Company }, edits),
		document.Field("question", "Question", notation.Note(600), func(s s) *string { return &s.Question }, edits),
		document.Field("currency", "Currency", currency, func(s s) *money.Currency { return &s.Currency }, document.Must, edits),
		document.Field("start", "First month", notation.Month, func(s s) *usage.Month { return &s.Start }, document.Must, edits),
		document.Field("months", "Months", document.Whole(1, MostMonths), func(s s) *int { return &s.Horizon }, document.Must, edits),
		document.Field("case", "Growth case", caseOf, func(s s) *usage.Case { return &s.Case }, edits),
		document.Field("pay", "Payment", document.Among(projection.Monthly, projection.Yearly, projection.Fixed, projection.Mix), func(s s) *projection.Policy { return &s.Pay }, document.Must, edits),
		document.Field("budget", "Budget", notation.Budget, func(s s) *money.Amount { return &s.Budget }, edits),
		document.Field("patience_days", "Patience, in days", document.Whole(1, 3650), func(s s) *int { return &s.Patience }, document.Must, edits),
		document.List("rates", document.Items[Study, exchange]{
			Get: exchanges, Set: setExchanges, Key: func(e *exchange) string { return e.code }, Name: func(_ s,
				e *exchange) string {
				return e.code
			}, One: "rate", Most: 40},
			exchangeParts(from.Latest, currency), edits),
	}
	parts = append(parts, briefParts()...)
	parts = append(parts, driversOf(func(s s) *[]Setting { return &s.Drivers }, func(s s) *[]usage.Driver { return &s.Own })...)
	parts = append(parts, historyPart(),
		document.List("needs", document.Of(func(s s) *[]coverage.Need { return &s.Needs }, document.Items[Study, coverage.Need]{
			Key: func(n *coverage.Need) string { return n.Feature }, Name: func(_ s, n *coverage.Need) string { return n.Name }, One: "need", Most: 200,
			New: func(s) coverage.Need { return coverage.Need{Level: coverage.Want} }}), needParts(), edits),
		document.List("options", document.Of(func(s s) *[]Option { return &s.Options }, document.Items[Study, Option]{
			Key: func(o *Option) string { return o.Key }, Name: func(_ s,
				o *Option) string {
				return orElse(o.Name, o.Key)
			}, One: "option", Most: orMore(from.WithBin), Must: true,
			Here: "in the line-up", Gone: "in the bin", New: newOption, Rekey: func(o *Option, key string) { o.Key = key }}), optionParts(from), edits),
		document.List("private_offers", document.Of(func(s s) *[]PrivateOffer { return &s.PrivateOffers }, document.Items[Study, PrivateOffer]{
			Key: func(p *PrivateOffer) string { return p.Key() }, Name: privateName, One: "private offer", Most: 100,
			New: newPrivateOffer}), privateParts(from.Latest), edits),
		document.List("criteria", document.Of(func(s s) *[]fit.Criterion { return &s.Criteria }, document.Items[Study, fit.Criterion]{
			Key: func(c *fit.Criterion) string { return c.ID }, Name: func(_ s, c *fit.Criterion) string { return c.Name }, One: "criterion", Most: 60,
			New: func(s) fit.Criterion { return fit.Criterion{Source: fit.Rated} }, Rekey: func(c *fit.Criterion, key string) { c.ID = key }}), criterionParts(), edits),
		document.List("ratings", document.Of(func(s s) *[]fit.Rating { return &s.Ratings }, document.Items[Study, fit.Rating]{
			Key: RatingKey, Name: ratingName, One: "rating", Most: 5_000,
			Make: ratingOf, Owner: func(r *fit.Rating) string { return r.Rater }, Absent: "not rated"}), ratingParts(from.Kept), document.Needs(toRate)),
		document.Check(listed(from)), document.Check(ratingsHaveTheirPlace), document.Check(privateOffersHaveTheirPlace),
		document.Kept(lineUp), document.Kept(privateOffersEnd))
	if !from.Kept {
		parts = append(parts, document.Check(ratersDiffer))
	}
	return &document.Table[Study]{Format: Format, Title: "A study of Nine Coins", Parts: parts, Apart: []string{"ratings", "history"}, Finish: inMoney}
}

// orMore gives room for what rests in the bin beside what is in the running.
func orMore(withBin bool) int {
	if withBin {
		return 20 * MostOptions
	}
	return MostOptions
}

// exchange is a rate with its currency.
type exchange struct {
	code string
	quote.Rate
}

func exchanges(s *Study) []exchange {
	var all []exchange
	for _, code := range slices.Sorted(maps.Keys(s.Rates)) {
		all = append(all, exchange{code, s.Rates[code]})
	}
	return all
}

func setExchanges(s *Study, all []exchange) {
	s.Rates = map[string]quote.Rate{}
	for _, e := range all {
		s.Rates[e.code] = e.Rate
	}
}

func exchangeParts(latest time.Time, currency document.Notation[money.Currency]) document.Parts[exchange] {
	return document.Parts[exchange]{
		document.Field("currency", "currency", notation.Code(currency), func(e *exchange) *string { return &e.code }, document.Must),
		document.Field("rate", "rate", notation.Rate, func(e *exchange) *money.Amount { return &e.Rate.Rate }, document.Must, document.Needs(toEdit)),
		document.Field("on", "day", document.Until(latest), func(e *exchange) *time.Time { return &e.On }, document.Must, document.Needs(toEdit)),
	}
}

// inMoney shows amounts in the study's currency.
func inMoney(s *Study, spot *document.Spot) {
	if spot.Input.Money && spot.There {
		if a, err := money.ParseAmount(spot.Text); err == nil {
			spot.Said = s.Currency.Format(a)
		}
	}
}

func orElse(s, other string) string {
	if s == "" {
		return other
	}
	return s
}

func driverParts() document.Parts[usage.Driver] {
	edits := document.Needs(toEdit)
	return document.Parts[usage.Driver]{
		document.Field("key", "key", document.Key, func(d *usage.Driver) *string { return &d.Key }, document.Must),
		document.Field("name", "name", notation.Title(60), func(d *usage.Driver) *string { return &d.Name }, document.Must, edits),
		document.Field("unit", "unit", notation.Title(40), func(d *usage.Driver) *string { return &d.Unit }, document.Must, edits),
		document.Field("kind", "kind", document.Among(usage.Stock, usage.Flow), func(d *usage.Driver) *usage.Kind { return &d.Kind }, document.Must, edits),
		document.Field("whole", "in whole ones", document.YesNo(), func(d *usage.Driver) *bool { return &d.Whole }, edits),
		document.Field("formula", "formula", notation.Formula, func(d *usage.Driver) *string { return &d.Formula }, edits),
		document.Field("about", "about", notation.Note(300), func(d *usage.Driver) *string { return &d.About }, edits),
	}
}

func needParts() document.Parts[coverage.Need] {
	edits := document.Needs(toEdit)
	return document.Parts[coverage.Need]{
		document.Field("feature", "feature", pricelist.FeatureKey, func(n *coverage.Need) *string { return &n.Feature }, document.Must),
		document.Then(func(n *coverage.Need) { n.ID = n.Feature }),
		document.Field("name", "name", notation.Title(80), func(n *coverage.Need) *string { return &n.Name }, document.Must, edits),
		document.Field("note", "note", notation.Note(200), func(n *coverage.Need) *string { return &n.Note }, edits),
		document.Field("level", "level", document.Among(coverage.Must, coverage.Want, coverage.Bonus),
			func(n *coverage.Need) *coverage.Level { return &n.Level }, document.Must, edits),
		document.Field("depth", "least depth", wholeOrNone(3), func(n *coverage.Need) *int { return &n.Depth }, edits),
		document.Field("number", "at least", quantityOrNone, func(n *coverage.Need) *usage.Quantity { return &n.Number }, edits),
	}
}

func criterionParts() document.Parts[fit.Criterion] {
	type c = *fit.Criterion
	edits := document.Needs(toEdit)
	return document.Parts[fit.Criterion]{
		document.Field("key", "key", document.Key, func(c c) *string { return &c.ID }, document.Must),
		document.Field("name", "name", notation.Title(60), func(c c) *string { return &c.Name }, document.Must, edits),
		document.Field("note", "note", notation.Note(200), func(c c) *string { return &c.Note }, edits),
		document.Field("source", "source", document.Among(fit.Rated, fit.Cost, fit.Coverage), func(c c) *fit.Source { return &c.Source }, document.Must, edits),
		document.Field("weight", "weight", notation.Share(0, money.Whole), func(c c) *money.Share { return &c.Weight }, document.Must, edits),
		document.When([2]string{"source", string(fit.Cost)}, func(c c) bool { return c.Source == fit.Cost },
			document.Field("best", "scores 9 at", notation.Price, func(c c) *money.Amount { return &c.Best }, document.Must, edits),
			document.Field("worst", "scores 0 at", notation.Price, func(c c) *money.Amount { return &c.Worst }, document.Must, edits)),
		document.Kept(func(c c, tell func(document.Path, string, ...any)) {
			if c.Source == fit.Cost && c.Worst < c.Best {
				tell("worst", "the worst cost, %s, is below the best, %s", c.Worst, c.Best)
			}
		}),
	}
}

// RatingKey tells ratings apart: who rates what on which criterion.
func RatingKey(r *fit.Rating) string {
	return strings.Join([]string{r.Rater, r.Option, r.Criterion}, "/")
}

// ratingOf is the rating that a key names, without its value.
func ratingOf(key string) (fit.Rating, bool) {
	steps := strings.Split(key, "/")
	if len(steps) < 3 {
		return fit.Rating{}, false
	}
	n := len(steps)
	return fit.Rating{Rater: strings.Join(steps[:n-2], "/"), Option: steps[n-2], Criterion: steps[n-1]}, true
}

// ratingName says what is rated on what; whose rating it is stands beside it.
func ratingName(s *Study, r *fit.Rating) string {
	option, criterion := r.Option, r.Criterion
	for _, o := range s.Options {
		if o.Key == r.Option {
			option = orElse(o.Name, o.Key)
		}
	}
	for _, c := range s.Criteria {
		if c.ID == r.Criterion {
			criterion = c.Name
		}
	}
	return option + " on " + criterion
}

func ratingParts(byKey bool) document.Parts[fit.Rating] {
	type r = *fit.Rating
	who := notation.Person
	if byKey {
		who = personKey
	}
	rates := document.Needs(toRate)
	return document.Parts[fit.Rating]{
		document.Field("rater", "rater", who, func(r r) *string { return &r.Rater }, document.Must),
		document.Field("option", "option", document.Key, func(r r) *string { return &r.Option }, document.Must),
		document.Field("criterion", "criterion", document.Key, func(r r) *string { return &r.Criterion }, document.Must),
		document.Field("value", "", halves, func(r r) *fit.Halves { return &r.Value }, document.Must, rates),
		document.Field("reason", "reason", notation.Note(300), func(r r) *string { return &r.Reason }, rates),
	}
}

type tells = func(at document.Path, format string, a ...any)

// listed gives each option its editions.
func listed(from Sources) func(*Study, tells) {
	return func(s *Study, tell tells) {
		for i := range s.Options {
			if from.Find != nil {
				s.Options[i].editions(from.Find, tell)
			}
		}
	}
}

// lineUp tells which options can't be told apart: in the bin an option may have another's face.
func lineUp(s *Study, tell tells) {
	faces, now := map[int]bool{}, 0
	for i := range s.Options {
		o := &s.Options[i]
		at := document.Path("options").To(o.Key)
		if o.BinnedAt.IsZero() {
			if o.Face > 0 && faces[o.Face] {
				tell(at.To("face"), "two options have face %d; each needs one of its own", o.Face)
			}
			faces[o.Face] = true
			if o.Now {
				now++
			}
			if o.Now && now > 1 {
				tell(at.To("now"), "only one option can be what runs today")
			}
		}
		toolsDiffer(o, func(below document.Path, format string, a ...any) { tell(at.To(below.Steps()...), format, a...) })
	}
}

func ratingsHaveTheirPlace(s *Study, tell tells) {
	options, criteria := map[string]bool{}, map[string]bool{}
	for _, o := range s.Options {
		options[o.Key] = true
	}
	for _, c := range s.Criteria {
		criteria[c.ID] = true
	}
	for _, r := range s.Ratings {
		at := document.Path("ratings").To(RatingKey(&r))
		if !options[r.Option] {
			tell(at.To("option"), "there is no option %q", r.Option)
		}
		if !criteria[r.Criterion] {
			tell(at.To("criterion"), "there is no criterion %q", r.Criterion)
		}
	}
}

// ratersDiffer refuses names that could be taken for one another.
func ratersDiffer(s *Study, tell tells) {
	called := map[string]string{}
	for _, r := range s.Ratings {
		like := doors.Likeness(r.Rater)
		if other, known := called[like]; !known {
			called[like] = r.Rater
		} else if other != r.Rater {
			tell(document.Path("ratings").To(RatingKey(&r), "rater"), "%q looks like %q, who rates too; write the name the same way", r.Rater, other)
		}
	}
}

// InTheRunning returns the study as it is computed: without what rests in the
// bin.
func (s *Study) InTheRunning() *Study {
	binned := map[string]bool{}
	for _, o := range s.Options {
		if !o.BinnedAt.IsZero() {
			binned[o.Key] = true
		}
	}
	if len(binned) == 0 {
		return s
	}
	rest := *s
	rest.Options = slices.DeleteFunc(slices.Clone(s.Options), func(o Option) bool { return binned[o.Key] })
	rest.PrivateOffers = slices.DeleteFunc(slices.Clone(s.PrivateOffers), func(p PrivateOffer) bool { return binned[p.Option] })
	rest.Ratings = slices.DeleteFunc(slices.Clone(s.Ratings), func(r fit.Rating) bool { return binned[r.Option] })
	return &rest
}
