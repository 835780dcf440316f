package pricelist

import (
	"errors"
	"strconv"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/usage"
)

// is reports whether a charge is of a kind.
func is(kind ChargeKind) func(*Charge) bool { return func(c *Charge) bool { return c.Kind == kind } }

// charge describes what all charges have, and the fields of each kind. A price
// for a term of its own stands under the term's key.
func (t table) charge() document.Parts[Charge] {
	type c = *Charge
	price := pricedAt(t, func(c c) *Price { return &c.Price })
	included := document.Field("included", "included", t.quantity, func(c c) *usage.Quantity { return &c.Included }, t.edits)
	of := func(kind ChargeKind, parts ...document.Part[Charge]) document.Part[Charge] {
		return document.When([2]string{"kind", string(kind)}, is(kind), parts...)
	}
	meter := document.Field("meter", "meter", document.Key, func(c c) *string { return &c.Meter }, document.Must, t.edits)
	eachOne := document.Absent("each", func(c c) { c.Each = 1 })
	perEach := document.Field("each", "each", each, func(c c) *int64 { return &c.Each }, t.edits)
	rate := document.Parts[Charge]{
		document.Field("rate", "rate", shareAsRate, func(c c) *money.Amount { return &c.Rate.Usual }, document.Must, t.edits),
		document.Rest(document.Key, Reserved, shareAsRate, func(c c) *map[string]money.Amount { return &c.Rate.ByKey }, t.edits),
	}
	bands := document.List("bands", document.Of(func(c c) *[]Band { return &c.Bands }, document.Items[Charge, Band]{
		Key: bandKey, Name: func(_ c, b *Band) string { return bandKey(b) }, One: "band", Most: 300, Must: true}), t.band(), t.edits)
	needsBands := document.Check(func(c c, tell document.Tell) {
		if c.Kind.Banded() && len(c.Bands) == 0 {
			tell("bands", `a %s needs at least one band, such as {"to": 1000, "price": "12.00"}`, c.Kind)
		}
	})
	return document.Parts[Charge]{
		document.Field("key", "key", document.Key, func(c c) *string { return &c.Key }, document.Must),
		document.Field("label", "label", t.line(60), func(c c) *string { return &c.Label }, t.edits),
		document.Field("kind", "kind", document.Among(ChargeKinds...), func(c c) *ChargeKind { return &c.Kind }, document.Must),
		document.Field("optional", "optional", document.YesNo(), func(c c) *bool { return &c.Optional }, t.edits),
		of(Flat, price...),
		of(Unit, append(document.Parts[Charge]{meter, included,
			document.Field("at_least", "at least", t.quantity, func(c c) *usage.Quantity { return &c.AtLeast }, t.edits),
			eachOne, perEach}, price...)...),
		of(Pack, append(document.Parts[Charge]{meter, included, document.Field("size", "size", aboveZero(t.quantity),
			func(c c) *usage.Quantity { return &c.Size }, document.Must, t.edits)}, price...)...),
		of(Stair, meter, bands, needsBands, t.aboveBands()),
		of(Graduated, meter, eachOne, perEach, bands, needsBands, t.aboveBands()),
		of(Volume, meter, eachOne, perEach, bands, needsBands, t.aboveBands()),
		of(Share, append(document.Parts[Charge]{meter,
			document.Field("floor", "at least", notation.Price, func(c c) *money.Amount { return &c.Floor }, t.edits),
			document.Field("cap", "at most", notation.Price, func(c c) *money.Amount { return &c.Cap }, t.edits)}, rate...)...),
		of(Once, document.Parts[Charge]{
			document.Field("meter", "meter", document.Key, func(c c) *string { return &c.Meter }),
			document.Texts("waived_on", document.Key, 12, func(c c) *[]string { return &c.WaivedOn }, t.edits, document.InLine(", ", "waived on")),
			document.Field("rate", "rate", shareAsRate, func(c c) *money.Amount { return &c.Rate.Usual }, t.edits),
			document.Field("price", "price", notation.Price, func(c c) *money.Amount { return &c.Price.Usual }, t.edits),
			document.Check(func(c c, tell document.Tell) {
				if c.Kind == Once && c.Meter == "" && c.Rate.Usual != 0 {
					tell("meter", "is missing; a rate is one of a meter's money")
				}
				if c.Kind == Once && c.Meter != "" && c.Price.Usual != 0 {
					tell("price", "is one too many: with a meter, a charge has a rate of the meter's money")
				}
			}),
			document.Rest(document.Key, Reserved, notation.Price, func(c c) *map[string]money.Amount { return &c.Price.ByKey }, t.edits)}...),
	}
}

// shareAsRate is a share that a charge takes of money.
var shareAsRate = func() document.Notation[money.Amount] {
	share := notation.Share(0, money.Whole)
	return document.Notation[money.Amount]{
		Parse: func(s string) (money.Amount, error) { v, err := share.Parse(s); return money.Amount(v), err },
		Text:  func(a money.Amount) string { return money.Share(a).String() },
		Want:  share.Want, As: share.As, Also: share.Also, Input: share.Input, Schema: share.Schema,
	}
}()

// pricedAt describes a price: the usual one, and those of terms under the keys
// of these.
func pricedAt[P any](t table, at func(*P) *Price) document.Parts[P] {
	return document.Parts[P]{
		document.Field("price", "price", notation.Price, func(p *P) *money.Amount { return &at(p).Usual }, document.Must, t.edits),
		document.Rest(document.Key, Reserved, notation.Price, func(p *P) *map[string]money.Amount { return &at(p).ByKey }, t.edits),
	}
}

var each = document.Between(document.Notation[int64]{
	Parse: func(s string) (int64, error) { return strconv.ParseInt(s, 10, 64) }, Text: func(n int64) string { return strconv.FormatInt(n, 10) },
	Want: "a whole number from 1 to 1000000000", As: document.IsNumber, Input: document.Input{Decimal: true,
		Longest: 12}, Schema: map[string]any{"type": "integer", "minimum": 1, "maximum": 1_000_000_000},
}, 1, 1_000_000_000)

func aboveZero(n document.Notation[usage.Quantity]) document.Notation[usage.Quantity] {
	parse := n.Parse
	n.Want = "a number above 0"
	n.Parse = func(s string) (usage.Quantity, error) {
		q, err := parse(s)
		if err == nil && q <= 0 {
			err = errors.New("not above 0")
		}
		return q, err
	}
	return n
}

// bandKey tells the bands of a stair apart: by where they end.
func bandKey(b *Band) string {
	if b.Open {
		return "open"
	}
	return b.To.String()
}

func (t table) band() document.Parts[Band] {
	parts := document.Parts[Band]{
		document.Absent("to", func(b *Band) { b.Open = true }),
		document.Field("to", "up to", t.quantity, func(b *Band) *usage.Quantity { return &b.To }, t.edits),
	}
	return append(parts, pricedAt(t, func(b *Band) *Price { return &b.Price })...)
}

// aboveBands is what holds past the last band: a rate, or on request.
func (t table) aboveBands() document.Part[Charge] {
	type c = *Charge
	parts := document.Parts[Charge]{
		document.Absent("each", func(c c) { c.Above.Each = 1 }),
		document.Field("each", "each", each, func(c c) *int64 { return &c.Above.Each }, t.edits),
	}
	return document.Varied[Charge]{
		Name: "above", Want: `"` + Ask + `" or a rate such as {"price": "4.00", "each": 1000}`,
		Scalar: func(_ c, text string, as document.Shape) error {
			if as != document.IsText || text != Ask {
				return errors.New("neither")
			}
			return nil
		},
		Text:   func(c) (string, document.Shape, bool) { return "", document.IsNull, false },
		Object: func(c c) bool { return c.Above != nil },
		Begin:  func(c c) { c.Above = &Above{} },
		Parts:  append(parts, pricedAt(t, func(c c) *Price { return &c.Above.Price })...),
		Schema: map[string]any{"const": Ask}, Words: t.aboveInWords(),
		Copy: func(c c) { above := *c.Above; c.Above = &above },
	}.Part()
}

// aboveInWords is what holds past the last band, as one text: "on request", or
// "4.00 per 1000".
func (t table) aboveInWords() *document.Wording[Charge] {
	return &document.Wording[Charge]{Label: "above the last band", Want: `"` + Ask + `", or a rate such as "4.00 per 1000"`, Input: document.Input{Longest: 60}, Need: t.need(),
		Text: func(c *Charge) string {
			if c.Above == nil {
				return Ask
			}
			return c.Above.Price.Usual.String() + " per " + strconv.FormatInt(c.Above.Each, 10)
		},
		Show: func(c *Charge) string {
			if c.Above == nil {
				return Ask
			}
			return c.Above.Price.Usual.Grouped() + " per " + usage.Of(c.Above.Each).Grouped()
		},
		Set: func(c *Charge, text string) error {
			if text == Ask || text == "" {
				c.Above = nil
				return nil
			}
			price, per, _ := strings.Cut(text, " per ")
			amount, err := notation.Price.Parse(price)
			above := Above{Price: Price{Usual: amount}, Each: 1}
			if c.Above != nil {
				above.Price.ByKey = c.Above.Price.ByKey
			}
			if err == nil && per != "" {
				above.Each, err = each.Parse(per)
			}
			if err == nil {
				c.Above = &above
			}
			return err
		},
		Typed: func(text string) (string, error) {
			text = strings.ToLower(strings.TrimSpace(text))
			if text == Ask || text == "" {
				return Ask, nil
			}
			price, per, has := strings.Cut(text, "per ")
			amount, err := notation.Price.Typed(strings.TrimSpace(price))
			if err != nil || !has {
				return amount.String() + " per 1", err
			}
			n, err := notation.Quantity.Typed(strings.TrimSpace(per))
			return amount.String() + " per " + n.String(), err
		},
	}
}
