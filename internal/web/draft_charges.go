package web

import (
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
)

// chargeView writes a charge as a sentence with its fields: "12.00 for every seat above 2".
func (e *draftEditor) chargeView(owner document.Path, all []pricelist.Charge, j int, terms []pricelist.Term, at place, of string) chargeView {
	c := &all[j]
	path := owner.To("charges", c.Key)
	v := chargeView{Kind: string(c.Kind), sentence: sentence{ID: idOf(path), Place: at}}
	name := chargeName(c) + " of " + of
	units, unit := e.unitsOf(c.Meter), e.unitOf(c.Meter)
	amount := func(field, label string) { v.field(e.priceAt(path.To(field), label)) }
	number := func(field, label string) {
		f := e.field(path.To(field), label)
		f.Wide = true
		v.field(f)
	}
	cur := e.draft.Draft.Edition.Currency.Code()
	switch c.Kind {
	case pricelist.Flat:
		v.say("%s", cur)
		amount("price", "Price a month: "+name)
		v.say("a month")
	case pricelist.Unit:
		v.say("%s", cur)
		amount("price", "Price for each "+unit+": "+name)
		if c.Each > 1 {
			v.say("for")
			number("each", "The price is for so many "+units+": "+name)
			v.say("%s, above", units)
		} else {
			v.say("for every %s above", unit)
		}
		number("included", units+" included: "+name)
		v.say(", at least")
		number("at_least", "Least "+units+" billed: "+name)
	case pricelist.Pack:
		v.say("%s", cur)
		amount("price", "Price of a pack: "+name)
		v.say("for each started")
		number("size", "Size of a pack: "+name)
		v.say("%s above", units)
		number("included", units+" included: "+name)
		v.say(", only past a limit")
		v.field(e.field(path.To("optional"), "Bought only past a limit: "+name))
	case pricelist.Stair:
		v.say("by %s, the whole price of the band", units)
	case pricelist.Graduated, pricelist.Volume:
		v.say(map[pricelist.ChargeKind]string{pricelist.Graduated: "each %s at the rate of its own band, for", pricelist.Volume: "every %s at the rate of the band that all fall in, for"}[c.Kind], unit)
		number("each", "Rates are for so many "+units+": "+name)
	case pricelist.Share:
		number("rate", "Share: "+name)
		v.say("of %s, at least %s", units, cur)
		amount("floor", "Least a month: "+name)
		v.say(", at most")
		atMost := e.priceAt(path.To("cap"), "Most a month, 0 for no end: "+name)
		v.field(atMost)
	case pricelist.Once:
		if c.Meter != "" {
			number("rate", "Share: "+name)
			v.say("of %s, once at signing, waived on", units)
		} else {
			v.say("%s", cur)
			amount("price", "Amount at signing: "+name)
			v.say("once at signing, waived on")
		}
		waived := e.field(path.To("waived_on"), "Terms on which it is waived: "+name)
		waived.Empty = "no term"
		v.field(waived)
	}
	if !c.Kind.Banded() && c.Kind != pricelist.Once {
		e.ownPrices(&v.sentence, path, c.Kind, terms, map[bool]pricelist.Price{true: c.Rate, false: c.Price}[c.Kind == pricelist.Share], name)
	}
	if c.Kind.Banded() {
		v.Bands = e.bandTable(path, c, terms, name)
	}
	v.Faults = e.faultsOf(path)
	return v
}

// ownPrices adds what a charge costs on terms other than the first, as fields that stand
// empty where the usual price holds, less what the term takes off.
func (e *draftEditor) ownPrices(s *sentence, path document.Path, kind pricelist.ChargeKind, terms []pricelist.Term, p pricelist.Price, name string) {
	for _, t := range otherTerms(terms) {
		f := e.priceAt(path.To(t.Key), "Price "+study.SayTerm(t)+": "+name)
		if kind != pricelist.Share {
			f.Empty = less(e.draft.Draft.Edition.Currency, p.Usual, t)
		}
		s.say("; %s", study.SayTerm(t))
		s.field(f)
	}
}

// otherTerms are the terms beside the one by the month.
func otherTerms(terms []pricelist.Term) (others []pricelist.Term) {
	for i, t := range terms {
		if t.Months != 1 && !(i == 0 && len(terms) == 1) && !slices.Contains(pricelist.Reserved, t.Key) {
			others = append(others, t)
		}
	}
	return others
}

func (e *draftEditor) bandTable(path document.Path, c *pricelist.Charge, terms []pricelist.Term, name string) *bandTable {
	units := e.unitsOf(c.Meter)
	b := &bandTable{Path: string(path), ID: idOf(path), Of: units, Heads: []string{"month"}, Above: e.field(path.To("above"), "Above the last band: "+name), May: e.mayEdit()}
	b.Above.Long, b.Above.Wide = false, true
	others := otherTerms(terms)
	for _, t := range others {
		b.Heads = append(b.Heads, study.SayTerm(t)+", a month")
	}
	keys := keysIn(c.Bands, func(b *pricelist.Band) string { return b.KeyOf() })
	var rows []string
	for j := range c.Bands {
		band := &c.Bands[j]
		at := path.To("bands", keys[j])
		label := "up to " + band.To.Format()
		if band.Open {
			label = "all above"
		}
		row := bandRow{Open: band.Open, To: e.field(at.To("to"), "End of the band "+label+": "+name), Place: e.placeIn(path.To("bands"), keys, j, "the band "+label)}
		row.To.Wide = true
		if band.Open {
			row.To.Value, row.To.Empty = "", "more"
		}
		row.Cells = []editable{e.priceAt(at.To("price"), "Price "+label+": "+name)}
		text := band.To.Grouped() + "\t" + band.Price.Usual.Grouped()
		for _, t := range others {
			f := e.priceAt(at.To(t.Key), "Price "+label+", "+study.SayTerm(t)+": "+name)
			f.Empty = less(e.draft.Draft.Edition.Currency, band.Price.Usual, t)
			row.Cells = append(row.Cells, f)
			text += "\t" + f.Value
		}
		rows = append(rows, text)
		b.Backward = b.Backward || j > 0 && !band.Open && band.To <= c.Bands[j-1].To
		row.Faults = e.faultsOf(at)
		b.Rows = append(b.Rows, row)
	}
	b.Rows0 = strings.Join(rows, "\n")
	if p := e.problemAt("bands-" + b.ID); p != nil {
		b.Problem, b.Rows0, b.Open = p.Message, p.Typed, true
	}
	return b
}

// chargeOf is the charge whose list of bands a path names; nil where there is none.
func (e *draftEditor) chargeOf(bands document.Path) *pricelist.Charge {
	steps := bands.Steps()
	if len(steps) < 5 {
		return nil
	}
	charges := e.chargesOf(document.Path("").To(steps[:2]...))
	for i := range charges {
		if charges[i].Key == steps[3] {
			return &charges[i]
		}
	}
	return nil
}

// chargesOf are the charges of a plan or an add-on.
func (e *draftEditor) chargesOf(owner document.Path) []pricelist.Charge {
	ed := &e.draft.Draft.Edition
	steps := owner.Steps()
	if len(steps) != 2 {
		return nil
	}
	if p, ok := ed.Plan(steps[1]); ok && steps[0] == "plans" {
		return p.Charges
	}
	if a, ok := ed.AddOn(steps[1]); ok && steps[0] == "add_ons" {
		return a.Charges
	}
	return nil
}

// termsOf are the terms that prices of a plan or an add-on may be told for.
func (e *draftEditor) termsOf(owner document.Path) []pricelist.Term {
	ed := &e.draft.Draft.Edition
	steps := owner.Steps()
	if p, ok := ed.Plan(steps[1]); ok && steps[0] == "plans" {
		return p.Terms
	}
	var terms []pricelist.Term
	if a, ok := ed.AddOn(steps[1]); ok {
		for _, key := range a.Plans {
			if p, ok := ed.Plan(key); ok && len(p.Terms) > len(terms) {
				terms = p.Terms
			}
		}
	}
	return terms
}
