package pricelist

import (
	"errors"
	"maps"
	"strconv"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/doors"
)

// lifetime is how a term without an end is written.
const lifetime = "lifetime"

func (tb table) term() document.Parts[Term] {
	type t = *Term
	return document.Parts[Term]{
		document.Field("key", "key", document.Key, func(t t) *string { return &t.Key }, document.Must),
		document.Varied[Term]{
			Name: "months", Want: `a whole number from 1 to 60, or "lifetime"`, Must: true,
			Scalar: func(t t, text string, as document.Shape) (err error) {
				if text == lifetime && as == document.IsText {
					t.Months = Lifetime
					return nil
				}
				t.Months, err = document.Whole(1, 60).Parse(text)
				return err
			},
			Text: func(t t) (string, document.Shape, bool) {
				if t.Months == Lifetime {
					return lifetime, document.IsText, true
				}
				return strconv.Itoa(t.Months), document.IsNumber, true
			},
			Object: func(t) bool { return false },
			Schema: map[string]any{"anyOf": []any{map[string]any{"const": lifetime}, map[string]any{"type": "integer", "minimum": 1, "maximum": 60}}},
			Words:  tb.monthsInWords(),
		}.Part(),
		document.Absent("paid", func(t t) { t.Paid = Upfront }),
		document.Field("paid", "paid", document.Among(Upfront, Monthly), func(t t) *Paid { return &t.Paid }, tb.edits),
		document.Field("off", "taken off", notation.Share(0, money.Whole), func(t t) *money.Share { return &t.Off }, tb.edits),
	}
}

// unlimited is how a limit is written that bounds nothing.
const unlimited = "unlimited"

// quantityOr is the schema of a quantity, or of a word in its place.
func quantityOr(word string) map[string]any {
	quantity := maps.Clone(notation.Quantity.Schema)
	quantity["type"] = []string{"string", "number"}
	return map[string]any{"anyOf": []any{map[string]any{"const": word}, quantity}}
}

func (t table) limit() document.Parts[Limit] {
	type l = *Limit
	return document.Parts[Limit]{
		document.Field("meter", "meter", document.Key, func(l l) *string { return &l.Meter }, document.Must),
		document.Varied[Limit]{
			Name: "most", Want: `a number, "unlimited", or a multiple such as {"times": 12, "meter": "contacts"}`, Must: true,
			Scalar: func(l l, text string, _ document.Shape) error { return t.takeNumber(text, &l.Most, &l.Unlimited) },
			Text:   func(l l) (string, document.Shape, bool) { return numberOr(l.Most, l.Unlimited), document.IsText, true },
			Object: func(l l) bool { return l.OfMeter != "" },
			Begin:  func(l) {},
			Parts: document.Parts[Limit]{
				document.Field("times", "times", t.quantity, func(l l) *usage.Quantity { return &l.Times }, document.Must, t.edits),
				document.Field("meter", "of", document.Key, func(l l) *string { return &l.OfMeter }, document.Must),
			},
			Schema: quantityOr(unlimited), Words: t.mostInWords(),
		}.Part(),
		document.Field("beyond", "beyond it", document.Among(MoveUp, BuyPack, Stops, FairUse), func(l l) *Beyond { return &l.Beyond }, t.edits),
		document.Field("note", "note", t.line(300), func(l l) *string { return &l.Note }, t.edits),
	}
}

func (t table) offer() document.Parts[Offer] {
	type o = *Offer
	return document.Parts[Offer]{
		document.Field("key", "key", document.Key, func(o o) *string { return &o.Key }, document.Must),
		document.Field("name", "name", t.line(60), func(o o) *string { return &o.Name }, t.edits),
		document.Texts("plans", document.Key, MostPlans, func(o o) *[]string { return &o.Plans }, document.Must, t.edits, document.InLine(", ", "plans")),
		document.Texts("terms", document.Key, 12, func(o o) *[]string { return &o.Terms }, t.edits, document.InLine(", ", "terms")),
		document.Field("kind", "kind", document.Among(PercentOff, FixedPrice, FreeMonths), func(o o) *OfferKind { return &o.Kind }, document.Must),
		document.Unread(func(o o) bool { return o.Kind == "" }), // what belongs to it cannot be told
		document.When([2]string{"kind", string(FixedPrice)}, func(o o) bool { return o.Kind == FixedPrice },
			document.Field("price", "price", notation.Price, func(o o) *money.Amount { return &o.Price }, document.Must, t.edits)),
		document.When([2]string{"kind", string(PercentOff)}, func(o o) bool { return o.Kind == PercentOff },
			document.Field("value", "taken off", notation.Share(0, money.Whole), func(o o) *money.Share { return &o.Off }, document.Must, t.edits)),
		document.Field("months", "months", document.Whole(1, 120), func(o o) *int { return &o.Months }, t.edits),
		document.Check(func(o o, tell document.Tell) {
			if o.Kind == FreeMonths && o.Months == 0 {
				tell("months", "is missing; expected how many months are free")
			}
		}),
		document.Field("together", "together with others", document.YesNo(), func(o o) *bool { return &o.Together }, t.edits),
		document.Field("new_customers", "for new customers", document.YesNo(), func(o o) *bool { return &o.NewCustomers }, t.edits),
		document.Field("until", "until", document.Day, func(o o) *time.Time { return &o.Until }, t.edits),
	}
}

// need is what editing what is varied needs.
func (t table) need() int {
	if t.draft {
		return int(doors.ToEdit)
	}
	return 0
}

// monthsInWords is how long a term is, as one text: "12", "lifetime".
func (t table) monthsInWords() *document.Wording[Term] {
	return &document.Wording[Term]{Label: "months", Want: `a whole number from 1 to 60, or "lifetime"`, Input: document.Input{Longest: 12}, Need: t.need(),
		Text: func(t *Term) string {
			if t.Months == Lifetime {
				return lifetime
			}
			return strconv.Itoa(t.Months)
		},
		Set: func(t *Term, text string) (err error) {
			if t.Months = Lifetime; text != lifetime {
				t.Months, err = document.Whole(1, 60).Parse(text)
			}
			return err
		},
		Typed: func(text string) (string, error) { return strings.ToLower(strings.TrimSpace(text)), nil },
	}
}

// limitKey tells the limits of a draft apart: "contacts", "emails_sent/contacts" for a
// multiple.
func (t table) limitKey(l *Limit) string {
	switch {
	case !t.draft:
		return ""
	case l.OfMeter != "":
		return l.Meter + "/" + l.OfMeter
	}
	return l.Meter
}

// numberOr reads a quantity as people type it, or a word in its place.
func (t table) numberOr(word string) func(string) (string, error) {
	return func(text string) (string, error) {
		if text = strings.ToLower(strings.TrimSpace(text)); text == word {
			return word, nil
		}
		q, err := t.quantity.Typed(text)
		return q.String(), err
	}
}

// mostInWords is how much a limit takes, as one text: "2500", "unlimited". The multiple
// of another meter is edited below it.
func (t table) mostInWords() *document.Wording[Limit] {
	return &document.Wording[Limit]{Label: "most", Want: `a number, or "unlimited"`, Input: document.Input{Longest: 40}, Need: t.need(),
		Text: func(l *Limit) string {
			switch {
			case l.OfMeter != "":
				return ""
			case l.Unlimited:
				return unlimited
			}
			return l.Most.String()
		},
		Show: func(l *Limit) string {
			if l.Unlimited || l.OfMeter != "" {
				return unlimited
			}
			return l.Most.Grouped()
		},
		Set: func(l *Limit, text string) error {
			if l.OfMeter != "" {
				return errors.New("a multiple")
			}
			most, err := usage.Quantity(0), error(nil)
			if text != unlimited {
				most, err = t.quantity.Parse(text)
			}
			if err == nil {
				l.Most, l.Unlimited = most, text == unlimited
			}
			return err
		},
		Typed: t.numberOr(unlimited),
	}
}

// byInWords is by how much an add-on raises a limit, as one text.
func (t table) byInWords() *document.Wording[Raise] {
	return &document.Wording[Raise]{Label: "by", Want: `a number, or "unlimited"`, Input: document.Input{Longest: 40}, Need: t.need(),
		Text: func(r *Raise) string {
			if r.Unlimited {
				return unlimited
			}
			return r.By.String()
		},
		Set: func(r *Raise, text string) (err error) {
			by := usage.Quantity(0)
			if text != unlimited {
				by, err = t.quantity.Parse(text)
			}
			if err == nil {
				r.By, r.Unlimited = by, text == unlimited
			}
			return err
		},
		Typed: t.numberOr(unlimited),
	}
}
