package pricelist

import (
	"strings"
	"sync/atomic"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/doors"
)

// Format is what the file of a price list says that it is.
const Format = "nine-coins/price-list/1"

// Rules say by which rules a list is read. The zero value takes no day that is
// past 1990.
type Rules struct {
	Latest time.Time // the last day that is not in the future
	// The list was taken before, perhaps under wider rules than those of today: it
	// goes on being read as it was.
	Kept bool
	// The list is a draft: its fields are edited.
	Draft bool
}

// last is the table that was asked for last: it hangs on the day alone.
var last atomic.Pointer[tableBy]

type tableBy struct {
	rules Rules
	table *document.Table[Edition]
}

// Fields is the table of a price list's fields.
func Fields(by Rules) *document.Table[Edition] {
	one := last.Load()
	if one == nil || one.rules != by {
		one = &tableBy{by, fieldsBy(by)}
		last.Store(one)
	}
	return one.table
}

// category is the notation of a kind of work: files write the usual ones small, people
// as they please, and pages as [ShowCategory] does.
func category(n document.Notation[string]) document.Notation[string] {
	n.Typed = func(text string) (string, error) { return n.Parse(Category(text)) }
	n.Show = ShowCategory
	return n
}

func fieldsBy(by Rules) *document.Table[Edition] {
	type e = *Edition
	t := tableOf(by)
	edits := t.edits
	return &document.Table[Edition]{Format: Format, Title: "A price list of Nine Coins", Loose: by.Kept, Parts: document.Parts[Edition]{
		document.Field("observed_on", "read on", t.observed, func(e e) *time.Time { return &e.ObservedOn }, document.Must, t.edits),
		document.Field("source", "source", t.line(300), func(e e) *string { return &e.Source }, document.Must, t.edits),
		document.Field("currency", "currency", t.currency, func(e e) *money.Currency { return &e.Currency }, document.Must, t.edits),
		document.Inside("platform", func(e e) *Platform { return &e.Platform }, document.Parts[Platform]{
			document.Field("key", "key", document.Key, func(p *Platform) *string { return &p.Key }, document.Must),
			document.Field("name", "name", t.line(60), func(p *Platform) *string { return &p.Name }, document.Must, t.edits),
			document.Texts("does", category(t.line(40)), 40, func(p *Platform) *[]string { return &p.Does }, document.Must, document.InLine(", ", "categories"), t.edits),
			document.Field("about", "what it does", t.line(300), func(p *Platform) *string { return &p.About }, t.edits),
			document.Texts("links", t.line(300), 20, func(p *Platform) *[]string { return &p.Links }, document.InLine(" ", "links"), t.edits),
		}, document.Must),
		document.Inside("tax", func(e e) *Tax { return &e.Tax }, document.Parts[Tax]{
			document.Field("included", "tax included", document.YesNo(), func(t *Tax) *bool { return &t.Included }, edits),
			document.Field("rate", "tax rate", notation.Share(0, money.Whole), func(t *Tax) *money.Share { return &t.Rate }, edits),
		}, document.Must),
		document.List("drivers", document.Of(func(e e) *[]usage.Driver { return &e.Drivers }, document.Items[Edition, usage.Driver]{Key: func(d *usage.Driver) string { return d.Key },
			Name: func(_ e, d *usage.Driver) string { return t.called(d.Name, d.Key) }, One: "driver", Most: 20}), t.driver(), t.edits),
		document.List("meters", document.Of(func(e e) *[]Meter { return &e.Meters }, document.Items[Edition, Meter]{Key: func(m *Meter) string { return m.Key },
			Name: func(_ e, m *Meter) string { return t.called(m.Unit, m.Key) }, One: "meter", Most: 40, Must: true}), t.meter(), t.edits),
		document.List("plans", document.Of(func(e e) *[]Plan { return &e.Plans }, document.Items[Edition, Plan]{Key: func(p *Plan) string { return p.Key },
			Name: func(_ e, p *Plan) string { return t.called(p.Name, p.Key) }, One: "plan", Most: MostPlans, Must: true}), t.plan(), t.edits),
		document.List("add_ons", document.Of(func(e e) *[]AddOn { return &e.AddOns }, document.Items[Edition, AddOn]{Key: func(a *AddOn) string { return a.Key },
			Name: func(_ e, a *AddOn) string { return t.called(a.Name, a.Key) }, One: "add-on", Most: 60}), t.addOn(), t.edits),
		document.List("offers", document.Of(func(e e) *[]Offer { return &e.Offers }, document.Items[Edition, Offer]{Key: func(o *Offer) string { return o.Key },
			Name: func(_ e, o *Offer) string { return t.called(o.Name, o.Key) }, One: "offer", Most: 60}), t.offer(), t.edits),
		document.Inside("trial", func(e e) *Trial { return &e.Trial }, document.Parts[Trial]{
			document.Field("days", "days of trial", document.Whole(0, 400), func(t *Trial) *int { return &t.Days }, edits),
			document.Field("refund_days", "refund days", document.Whole(0, 400), func(t *Trial) *int { return &t.RefundDays }, edits),
			document.Field("card_needed", "card needed", document.YesNo(), func(t *Trial) *bool { return &t.CardNeeded }, edits),
		}),
	}}
}

// listOf is a list whose items are told apart by a key.
func listOf[P, T any](name, one string, most int, at func(*P) *[]T, key func(*T) string, of document.Parts[T], more ...document.Option) document.Part[P] {
	return document.List(name, document.Of(at, document.Items[P, T]{Key: key, Name: func(_ *P, t *T) string { return key(t) }, One: one, Most: most}), of, more...)
}

// table holds what differs by the rules.
type table struct {
	observed document.Notation[time.Time]
	currency document.Notation[money.Currency]
	line     func(longest int) document.Notation[string]
	quantity document.Notation[usage.Quantity]
	formula  document.Notation[usage.Formula]
	edits    document.Option // what is edited in a draft
	draft    bool
}

// called names an item for the history of a draft; where faults of files name it, by
// its key.
func (t table) called(name, key string) string {
	if t.draft && name != "" {
		return name
	}
	return key
}

// orNone lets a field of a draft be emptied.
func (t table) orNone(n document.Notation[string]) document.Notation[string] {
	return orNot(n, t.draft)
}

func orNot[V ~string](n document.Notation[V], may bool) document.Notation[V] {
	parse := n.Parse
	n.Parse = func(s string) (V, error) {
		if may && s == "" {
			return "", nil
		}
		return parse(s)
	}
	return n
}

func tableOf(by Rules) table {
	t := table{observed: document.Until(by.Latest), currency: notation.Currency, line: notation.TitleOrNote, quantity: notation.Quantity, formula: formulaBy(usage.ParseFormula),
		edits: document.Needs(0), draft: by.Draft}
	if by.Draft {
		t.edits, t.currency = document.Needs(int(doors.ToEdit)), notation.KeptCurrency
	}
	if by.Kept {
		t.observed, t.currency = document.DayOrTime, notation.KeptCurrency
		t.line = func(longest int) document.Notation[string] {
			return document.Line(longest, func(rune) bool { return false })
		}
		t.quantity.Parse = func(s string) (usage.Quantity, error) { // commas were once taken for what stands between thousands
			return usage.ParseQuantity(strings.ReplaceAll(s, ",", ""))
		}
		t.formula = formulaBy(usage.KeptFormula)
	}
	return t
}

func formulaBy(parse func(string) (usage.Formula, error)) document.Notation[usage.Formula] {
	return document.Notation[usage.Formula]{
		Parse: func(s string) (usage.Formula, error) {
			f, err := parse(s)
			if err != nil {
				return f, document.Problem(err.Error())
			}
			return f, nil
		},
		Text: usage.Formula.String, Want: `a formula such as "contacts * 2"`, As: document.IsText, Input: document.Input{Longest: 500},
	}
}

// driver describes a driver that a list brings, which follows from no other.
func (t table) driver() document.Parts[usage.Driver] {
	type d = *usage.Driver
	return document.Parts[usage.Driver]{
		document.Field("key", "key", document.Key, func(d d) *string { return &d.Key }, document.Must),
		document.Field("name", "name", t.line(60), func(d d) *string { return &d.Name }, document.Must, t.edits),
		document.Field("unit", "unit", t.line(40), func(d d) *string { return &d.Unit }, document.Must, t.edits),
		document.Field("kind", "kind", document.Among(usage.Stock, usage.Flow), func(d d) *usage.Kind { return &d.Kind }, document.Must, t.edits),
		document.Field("whole", "in whole ones", document.YesNo(), func(d d) *bool { return &d.Whole }, t.edits),
		document.Field("about", "about", t.line(300), func(d d) *string { return &d.About }, t.edits),
	}
}

func (t table) meter() document.Parts[Meter] {
	type m = *Meter
	return document.Parts[Meter]{
		document.Field("key", "key", document.Key, func(m m) *string { return &m.Key }, document.Must),
		document.Field("unit", "unit", t.line(30), func(m m) *string { return &m.Unit }, document.Must, t.edits),
		document.Field("kind", "kind", document.Among(usage.Stock, usage.Flow), func(m m) *usage.Kind { return &m.Kind }, document.Must, t.edits),
		document.Field("counts", "counts", t.formula, func(m m) *usage.Formula { return &m.Counts }, document.Must, t.edits),
		document.Field("fractions", "billed in fractions", document.YesNo(), func(m m) *bool { return &m.Fractions }, t.edits),
	}
}

// FeatureKey is how features are named: "area/feature".
var FeatureKey = document.Matching(FeatureForm, `a feature such as "automation/event-triggers"`)

func (t table) plan() document.Parts[Plan] {
	type p = *Plan
	return document.Parts[Plan]{
		document.Field("key", "key", document.Key, func(p p) *string { return &p.Key }, document.Must),
		document.Field("name", "name", t.line(60), func(p p) *string { return &p.Name }, document.Must, t.edits),
		document.Field("offered", "offered", document.Among(Public, OnRequest, Closed), func(p p) *Offered { return &p.Offered }, document.Must, t.edits),
		document.Field("includes", "all of", t.orNone(document.Key), func(p p) *string { return &p.Includes }, t.edits),
		listOf("terms", "term", 12, func(p p) *[]Term { return &p.Terms }, func(t *Term) string { return t.Key }, t.term(), t.edits),
		document.List("charges", document.Of(func(p p) *[]Charge { return &p.Charges }, document.Items[Plan, Charge]{
			Key: func(c *Charge) string { return c.Key }, Name: func(_ p, c *Charge) string { return t.called(c.Label, c.Key) }, One: "charge", Most: 40}), t.charge(), t.edits),
		document.List("limits", document.Of(func(p p) *[]Limit { return &p.Limits }, document.Items[Plan, Limit]{
			Key: t.limitKey, Name: func(_ p, l *Limit) string { return l.Meter }, One: "limit", Most: 40}), t.limit(), t.edits),
		document.Cells("features", FeatureKey, MostFeatures, func(p p) *map[string]Feature { return &p.Features }, t.feature(), Cell, Feature.Kept, t.edits),
	}
}

func (t table) feature() document.Parts[Feature] {
	type f = *Feature
	return document.Parts[Feature]{
		document.Then(func(f f) { f.Direct = true }),
		document.Field("has", "has", document.Among(Yes, Partly, AsAddOn, Bridge, Announced, No, Unknown), func(f f) *Has { return &f.Has }, document.Must),
		document.Field("depth", "depth", document.Whole(1, 3), func(f f) *int { return &f.Depth }),
		number().Part(),
		document.Field("note", "note", t.line(300), func(f f) *string { return &f.Note }, t.edits),
		document.Field("from", "known from", orNot(document.Among(PricePage, Docs, Asked, HandsOn), t.draft), func(f f) *Known { return &f.From }, t.edits),
		document.Field("on", "known since", document.Day, func(f f) *time.Time { return &f.On }, t.edits),
		document.When([2]string{"has", string(AsAddOn)}, func(f f) bool { return f.Has == AsAddOn },
			document.Field("add_on", "add-on", document.Key, func(f f) *string { return &f.AddOn }, document.Must)),
		document.Inside("uses", func(f f) *Uses { return &f.Uses }, document.Parts[Uses]{
			document.Field("driver", "driver", document.Key, func(u *Uses) *string { return &u.Driver }),
			document.Field("amount", "amount", t.formulaText(), func(u *Uses) *string { return &u.Amount }),
			document.Check(func(u *Uses, tell document.Tell) {
				if (u.Driver == "") != (u.Amount == "") {
					tell("", "needs a driver and an amount")
				}
			}),
		}),
	}
}

// number is the number of a feature where one is meant.
func number() document.Varied[Feature] {
	return document.Varied[Feature]{
		Name: "number", Want: `a number, or "unlimited"`,
		Scalar: func(f *Feature, text string, _ document.Shape) (err error) {
			if f.Unlimited = text == unlimited; !f.Unlimited {
				f.Number, err = usage.ParseQuantity(text)
			}
			return err
		},
		Text: func(f *Feature) (string, document.Shape, bool) {
			if f.Unlimited {
				return unlimited, document.IsText, true
			}
			return f.Number.String(), document.IsText, f.Number > 0
		},
		Object: func(*Feature) bool { return false },
		Schema: quantityOr(unlimited),
	}
}

// formulaText is a formula that is kept as it is written.
func (t table) formulaText() document.Notation[string] {
	return document.Notation[string]{
		Parse: func(s string) (string, error) {
			f, err := t.formula.Parse(s)
			return f.String(), err
		},
		Text: func(s string) string { return s }, Want: t.formula.Want, As: document.IsText, Input: t.formula.Input,
	}
}

func (t table) addOn() document.Parts[AddOn] {
	type a = *AddOn
	return document.Parts[AddOn]{
		document.Field("key", "key", document.Key, func(a a) *string { return &a.Key }, document.Must),
		document.Field("name", "name", t.line(60), func(a a) *string { return &a.Name }, document.Must, t.edits),
		document.Texts("plans", document.Key, MostPlans, func(a a) *[]string { return &a.Plans }, document.Must, t.edits, document.InLine(", ", "sold on")),
		listOf("charges", "charge", 40, func(a a) *[]Charge { return &a.Charges }, func(c *Charge) string { return c.Key }, t.charge(), t.edits),
		document.Texts("included_on", document.Key, MostPlans, func(a a) *[]string { return &a.IncludedOn }, t.edits, document.InLine(", ", "included on")),
		document.Texts("gives", FeatureKey, MostFeatures, func(a a) *[]string { return &a.Gives }, t.edits, document.InLine(", ", "brings")),
		document.List("raises", document.Of(func(a a) *[]Raise { return &a.Raises }, document.Items[AddOn, Raise]{
			Key: func(r *Raise) string { return r.Meter }, Name: func(_ a, r *Raise) string { return r.Meter }, One: "raise", Most: 40}), t.raise(), t.edits),
	}
}

// takeNumber reads a number, or that there is no limit.
func (t table) takeNumber(text string, n *usage.Quantity, all *bool) (err error) {
	if *all = text == unlimited; !*all {
		*n, err = t.quantity.Parse(text)
	}
	return err
}

// numberOr writes what takeNumber reads.
func numberOr(n usage.Quantity, all bool) string {
	if all {
		return unlimited
	}
	return n.String()
}

// raise says that an add-on raises a limit: by a number, or as far as needed.
func (t table) raise() document.Parts[Raise] {
	type r = *Raise
	return document.Parts[Raise]{
		document.Field("meter", "meter", document.Key, func(r r) *string { return &r.Meter }, document.Must),
		document.Varied[Raise]{
			Name: "by", Want: `a number, or "unlimited"`, Must: true,
			Scalar: func(r r, text string, _ document.Shape) error { return t.takeNumber(text, &r.By, &r.Unlimited) },
			Text:   func(r r) (string, document.Shape, bool) { return numberOr(r.By, r.Unlimited), document.IsText, true },
			Object: func(r) bool { return false },
			Schema: quantityOr(unlimited), Words: t.byInWords(),
		}.Part(),
	}
}
