package study

import (
	"fmt"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/usage"
)

// Setting is the path that a driver is set to.
type Setting struct {
	Driver string
	Path   usage.Path
}

// How the values of paths are written and typed.
var (
	growthShare = notation.Share(usage.LeastGrowth, usage.MostGrowth)
	leavesShare = notation.Share(0, money.Whole)
	// A quantity that may be negative: what is added.
	amountOf = func() document.Notation[usage.Quantity] {
		parse := func(s string) (usage.Quantity, error) { a, err := money.ParseAmount(s); return usage.Quantity(a), err }
		n := document.Between(document.Notation[usage.Quantity]{
			Parse: parse, Typed: notation.Plainly(parse), Text: usage.Quantity.String, Show: usage.Quantity.Grouped,
			As: document.IsText, Also: document.IsNumber, Input: document.Input{Decimal: true, Longest: 40},
			Schema: map[string]any{"pattern": `^-?[0-9]+(\.[0-9]{1,6})?$`},
		}, -usage.Most, usage.Most)
		n.Want = "a number, below 0 where it takes away"
		return n
	}()
	factorOf = func() document.Notation[usage.Factor] {
		n := document.Between(document.Notation[usage.Factor]{
			Parse: usage.ParseFactor, Typed: notation.Plainly(usage.ParseFactor), Text: usage.Factor.String,
			As: document.IsText, Also: document.IsNumber, Input: document.Input{Decimal: true, Longest: 12},
			Schema: map[string]any{"pattern": `^[0-9]+(\.[0-9]{1,6})?$`, "minimum": 0, "maximum": usage.MostFactor},
		}, -money.Scale, (usage.MostFactor-1)*money.Scale)
		n.Want = fmt.Sprintf("a factor from 0 to %d, of which 1 is an average month", usage.MostFactor)
		return n
	}()
	caseOf  = caseNotation()
	shapeOf = shapesNotation(usage.Compound, usage.Constant, usage.Straight, usage.SCurve, usage.Turnover, usage.ByMonth)
	endOf   = shapesNotation(usage.Compound, usage.Constant, usage.Straight, usage.SCurve, usage.Turnover)
)

// compound is how files call the shape that is usual.
const compound = "compound"

// shapesNotation is a notation of some shapes.
func shapesNotation(all ...usage.Shape) document.Notation[usage.Shape] {
	names := make([]string, len(all))
	for i, s := range all {
		names[i] = shapeText(s)
	}
	n := document.Among(names...)
	return document.Notation[usage.Shape]{
		Parse: func(s string) (usage.Shape, error) {
			name, err := n.Parse(s)
			if name == compound {
				name = ""
			}
			return usage.Shape(name), err
		},
		Text: shapeText, Want: n.Want, As: n.As, Input: n.Input, Schema: n.Schema,
	}
}

func shapeText(s usage.Shape) string { return orElse(string(s), compound) }

func caseNotation() document.Notation[usage.Case] {
	n := document.Among(string(usage.Low), usage.Expected.Say(), string(usage.High))
	return document.Notation[usage.Case]{
		Parse: func(s string) (usage.Case, error) {
			name, err := n.Parse(s)
			if name == usage.Expected.Say() {
				name = ""
			}
			return usage.Case(name), err
		},
		Text: usage.Case.Say, Want: n.Want, As: n.As, Input: n.Input, Schema: n.Schema,
	}
}

// given is a notation of a value that need not be told.
func given[V any](of document.Notation[V]) document.Notation[usage.Given[V]] {
	text := func(write func(V) string) func(usage.Given[V]) string {
		return func(g usage.Given[V]) string {
			if !g.Told {
				return ""
			}
			return write(g.Value)
		}
	}
	read := func(parse func(string) (V, error)) func(string) (usage.Given[V], error) {
		return func(s string) (usage.Given[V], error) {
			if s == "" {
				return usage.Given[V]{}, nil
			}
			v, err := parse(s)
			return usage.Given[V]{Value: v, Told: err == nil}, err
		}
	}
	n := document.Notation[usage.Given[V]]{Parse: read(of.Parse), Text: text(of.Text), Want: of.Want, As: of.As, Also: of.Also, Input: of.Input, Schema: of.Schema}
	if of.Typed != nil {
		n.Typed = read(of.Typed)
	}
	if of.Show != nil {
		n.Show = text(of.Show)
	}
	return n
}

func settingParts() document.Parts[Setting] {
	type d = *Setting
	edits := document.Needs(toEdit)
	return document.Parts[Setting]{
		document.Field("driver", "driver", document.Key, func(d d) *string { return &d.Driver }, document.Must),
		document.Field("now", "", notation.Quantity, func(d d) *usage.Quantity { return &d.Path.Now }, document.Must, edits),
		document.Field("shape", "course", shapeOf, func(d d) *usage.Shape { return &d.Path.Shape }, edits),
		document.Field("growth", "growth a month", growthShare, func(d d) *money.Share { return &d.Path.Growth }, document.Always, edits),
		document.Field("add", "added each month", amountOf, func(d d) *usage.Quantity { return &d.Path.Add }, edits),
		document.Field("ceiling", "ceiling", notation.Quantity, func(d d) *usage.Quantity { return &d.Path.Ceiling }, edits),
		document.Field("joins", "sign-ups a month", notation.Quantity, func(d d) *usage.Quantity { return &d.Path.Joins }, edits),
		document.Field("leaves", "leavers a month", leavesShare, func(d d) *money.Share { return &d.Path.Leaves }, edits),
		document.List("told", document.Of(func(d d) *[]usage.Told { return &d.Path.Told }, document.Items[Setting, usage.Told]{
			Key: func(t *usage.Told) string { return t.Month.ISO() }, Name: func(_ d, t *usage.Told) string { return t.Month.String() }, One: "month",
			Most: MostMonths, Make: toldOf, Absent: "as the month before"}), toldParts(), edits),
		document.Field("then", "then", endOf, func(d d) *usage.Shape { return &d.Path.Then }, edits),
		document.Inside("season", func(d d) *usage.Season { return &d.Path.Season }, seasonParts()),
		document.List("events", document.Of(func(d d) *[]usage.Event { return &d.Path.Events }, document.Items[Setting, usage.Event]{
			Key: func(e *usage.Event) string { return e.Key }, Name: func(_ d, e *usage.Event) string { return nameOfEvent(e) }, One: "event", Most: 60,
			New: func(d) usage.Event { return usage.Event{Do: usage.Adds} }, Rekey: func(e *usage.Event, key string) { e.Key = key }}), eventParts(), edits),
		document.Field("clean_every", "cleaned every so many months", wholeOrNone(60), func(d d) *int { return &d.Path.Clean.Every }, edits),
		document.Field("clean_share", "of which leave", leavesShare, func(d d) *money.Share { return &d.Path.Clean.Share }, edits),
		document.Inside("low", func(d d) *usage.Variant { return &d.Path.Low }, variantParts("low")),
		document.Inside("high", func(d d) *usage.Variant { return &d.Path.High }, variantParts("high")),
	}
}

// nameOfEvent names an event by what is noted of it, or by its month.
func nameOfEvent(e *usage.Event) string { return orElse(e.Note, e.Month.String()) }

func toldOf(key string) (usage.Told, bool) {
	m, err := usage.ParseMonth(key)
	return usage.Told{Month: m}, err == nil
}

func toldParts() document.Parts[usage.Told] {
	return document.Parts[usage.Told]{
		document.Field("month", "month", notation.Month, func(t *usage.Told) *usage.Month { return &t.Month }, document.Must),
		document.Field("value", "", notation.Quantity, func(t *usage.Told) *usage.Quantity { return &t.Value }, document.Must, document.Needs(toEdit)),
	}
}

func seasonParts() (all document.Parts[usage.Season]) {
	for i, key := range usage.MonthKeys {
		all = append(all, document.Field(key, "season in "+strings.ToUpper(key[:1])+key[1:], factorOf,
			func(s *usage.Season) *usage.Factor { return &s[i] }, document.Needs(toEdit)))
	}
	return all
}

func eventParts() document.Parts[usage.Event] {
	type e = *usage.Event
	edits := document.Needs(toEdit)
	return document.Parts[usage.Event]{
		document.Field("key", "key", document.Key, func(e e) *string { return &e.Key }, document.Must),
		document.Field("month", "month", notation.Month, func(e e) *usage.Month { return &e.Month }, document.Must, edits),
		document.Field("do", "what it does", document.Among(usage.Adds, usage.Multiplies, usage.Sets), func(e e) *usage.Doing { return &e.Do }, document.Must, edits),
		document.Field("by", "by", amountOf, func(e e) *usage.Quantity { return &e.By }, document.Must, edits),
		document.Field("stays", "from then on", document.YesNo(), func(e e) *bool { return &e.Stays }, edits),
		document.Field("note", "note", notation.Note(80), func(e e) *string { return &e.Note }, edits),
		document.Kept(func(e e, tell tells) {
			if e.By < 0 && e.Do != usage.Adds {
				tell("by", "%s is below 0, to which nothing can be %s", e.By, map[usage.Doing]string{usage.Sets: "set", usage.Multiplies: "multiplied"}[e.Do])
			}
		}),
	}
}

func variantParts(of string) document.Parts[usage.Variant] {
	type v = *usage.Variant
	edits := document.Needs(toEdit)
	quantity := given(notation.Quantity)
	return document.Parts[usage.Variant]{
		document.Field("now", of, quantity, func(v v) *usage.Given[usage.Quantity] { return &v.Now }, edits),
		document.Field("growth", of+" growth a month", given(growthShare), func(v v) *usage.Given[money.Share] { return &v.Growth }, edits),
		document.Field("add", of+", added each month", given(amountOf), func(v v) *usage.Given[usage.Quantity] { return &v.Add }, edits),
		document.Field("ceiling", of+" ceiling", quantity, func(v v) *usage.Given[usage.Quantity] { return &v.Ceiling }, edits),
		document.Field("joins", of+", sign-ups a month", quantity, func(v v) *usage.Given[usage.Quantity] { return &v.Joins }, edits),
		document.Field("leaves", of+", leavers a month", given(leavesShare), func(v v) *usage.Given[money.Share] { return &v.Leaves }, edits),
	}
}
