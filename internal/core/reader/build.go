package reader

import (
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// claim notes where a figure of the page went.
func (r *reading) claim(path document.Path, value, guess string, figures ...*Figure) {
	c := Claim{Path: path, Value: value, Mark: Read, Why: guess}
	if guess != "" {
		c.Mark = Guessed
	}
	for _, f := range figures {
		if f == nil {
			continue
		}
		f.claimed = true
		if f.unsure != "" && c.Mark == Read {
			c.Mark, c.Why = Guessed, f.unsure
		}
		c.Spans = append(c.Spans, f.span())
	}
	if len(c.Spans) > 0 {
		r.claims = append(r.claims, c)
	}
}

// draft makes a price list of what was read.
func (r *reading) draft(platform pricelist.Platform, on time.Time, source string) pricelist.Edition {
	e := pricelist.Edition{Platform: platform, ObservedOn: on, Source: source, Meters: []pricelist.Meter{}, Plans: []pricelist.Plan{}}
	if e.Platform.Does == nil {
		e.Platform.Does = []string{}
	}
	r.currency(&e)
	if r.tax != nil {
		e.Tax.Included = r.tax.included
		if f := r.tax.figure; f != nil {
			e.Tax.Rate = money.Share(f.value)
			r.claim("tax.rate", money.Share(f.value).String(), "", f)
		}
	}
	if f := r.trial; f != nil && f.value <= 400*money.Scale {
		e.Trial.Days = int(f.value / money.Scale)
		r.claim("trial.days", quantityOf(f).String(), "", f)
	}
	if f := r.refund; f != nil && f.value <= 400*money.Scale {
		e.Trial.RefundDays = int(f.value / money.Scale)
		r.claim("trial.refund_days", quantityOf(f).String(), "", f)
	}
	e.Trial.CardNeeded = r.card != nil && *r.card
	b := &builder{reading: r, e: &e}
	for i := range r.found {
		b.plan(i)
	}
	b.extras()
	b.offers()
	return e
}

// builder puts together a draft.
type builder struct {
	*reading
	e    *pricelist.Edition
	keys map[int]string // of the plans that were made
}

// meter is the meter that counts a thing; it is made where there is none yet.
func (b *builder) meter(t thing) string {
	if _, there := b.e.Meter(t.meter); !there {
		f, _ := usage.ParseFormula(t.meter)
		b.e.Meters = append(b.e.Meters, pricelist.Meter{Key: t.meter, Unit: t.unit, Kind: t.kind, Counts: f})
	}
	return t.meter
}

// of are the facts of one sort.
func of(all []fact, w what) (some []fact) {
	for _, f := range all {
		if f.what == w {
			some = append(some, f)
		}
	}
	return some
}

// plan makes one plan of its facts; one of which nothing is told is none.
func (b *builder) plan(i int) {
	var facts []fact
	if i < len(b.facts) {
		facts = append(facts, b.facts[i]...)
	}
	for _, f := range b.pageFacts {
		if f.what == once || f.what == off || f.what == extra || len(b.found) == 1 {
			facts = append(facts, f)
		}
	}
	priced := slices.ContainsFunc(facts, func(f fact) bool {
		return slices.Contains([]what{price, unit, band, rate, share}, f.what)
	})
	if !priced {
		if len(of(facts, asked)) == 0 {
			return
		}
		facts = slices.DeleteFunc(facts, func(f fact) bool { // what is on request has limits alone
			return !slices.Contains([]what{count, times, unlimited, below}, f.what)
		})
	}
	for at := range facts {
		facts[at].guess = orElse(facts[at].guess, b.doubt(facts[at]))
	}
	p := pricelist.Plan{Key: b.found[i].key, Name: shortened(b.found[i].name), Offered: pricelist.Public}
	at := document.Path("plans").To(p.Key)
	b.terms(&p, at, facts)
	b.base(&p, at, facts)
	b.share(&p, at, facts)
	b.beyond(&p, at, facts)
	b.counts(&p, at, facts)
	b.atOnce(&p, at, facts)
	for _, f := range of(facts, below) {
		for _, earlier := range b.e.Plans {
			if strings.EqualFold(earlier.Name, f.name) {
				p.Includes = earlier.Key
			}
		}
	}
	if !priced {
		p.Offered = pricelist.OnRequest
	}
	if b.keys == nil {
		b.keys = map[int]string{}
	}
	b.keys[i] = p.Key
	b.e.Plans = append(b.e.Plans, p)
}

// doubt says why a fact may be meant otherwise though its words are clear: its sentence
// has an amount that no rule took, or the page names no plan.
func (b *builder) doubt(f fact) string {
	if b.unnamed {
		return "the page names no plan"
	}
	if f.said == nil {
		return ""
	}
	for i, g := range f.said.figures {
		if (g.sort == amount || g.sort == percent) && !g.word && !f.said.used[i] && !g.claimed {
			return "the sentence says more than was understood"
		}
	}
	return ""
}

func shortened(name string) string { return strings.TrimSpace(document.Shorten(name, 60)) }

// terms finds the terms that prices are told for.
func (b *builder) terms(p *pricelist.Plan, at document.Path, facts []fact) {
	for _, t := range allTerms {
		priced := slices.ContainsFunc(facts, func(f fact) bool {
			return f.term == t && (f.what == price || f.what == unit || f.what == band)
		})
		plain := t == monthly && slices.ContainsFunc(facts, func(f fact) bool { return f.what == rate || f.what == share })
		less := slices.IndexFunc(facts, func(f fact) bool { return f.what == off && f.term == t })
		one := pricelist.Term{Key: t.key, Months: t.months, Paid: t.paid}
		switch {
		case priced || plain:
			if less >= 0 {
				b.agrees(facts, t, facts[less])
			}
		case less >= 0 && facts[less].value > 0 && facts[less].value < money.Amount(money.Whole):
			one.Off = money.Share(facts[less].value)
			b.claim(at.To("terms", t.key, "off"), one.Off.String(), facts[less].guess, facts[less].price)
		default:
			continue
		}
		p.Terms = append(p.Terms, one)
	}
}

// agrees uses the figure of a saving that follows from the prices told; else it stays
// left over.
func (b *builder) agrees(facts []fact, t term, saving fact) {
	for _, f := range facts {
		for _, g := range facts {
			if f.what != g.what || f.term != t || g.term != monthly || f.what != price && f.what != unit || g.value == 0 {
				continue
			}
			told := float64(saving.value) / float64(money.Whole)
			if got := 1 - float64(f.value)/float64(g.value); got-told < 0.015 && told-got < 0.015 && saving.price != nil {
				saving.price.claimed = true
			}
		}
	}
}

// byTerm puts a price told for a term into a price.
func byTerm(p *pricelist.Price, t term, value money.Amount, usual bool) (field string) {
	if usual {
		p.Usual = value
		return "price"
	}
	if p.ByKey == nil {
		p.ByKey = map[string]money.Amount{}
	}
	p.ByKey[t.key] = value
	return t.key
}

// usualOf is the term whose price is the usual one: by the month where that is told.
func usualOf(p *pricelist.Plan) string {
	if len(p.Terms) == 0 {
		return monthly.key
	}
	return p.Terms[0].Key
}

// fill puts the prices of a charge by term; the first figure that tells one holds.
func (b *builder) fill(p *pricelist.Plan, into *pricelist.Price, at document.Path, facts []fact) {
	seen := map[string]money.Amount{}
	for _, f := range facts {
		if was, told := seen[f.term.key]; told {
			if was == f.value {
				b.claim(at.To(fieldOf(p, f.term)), f.value.String(), f.guess, f.price)
			}
			continue
		}
		seen[f.term.key] = f.value
		field := byTerm(into, f.term, f.value, f.term.key == usualOf(p))
		b.claim(at.To(field), f.value.String(), f.guess, f.price)
	}
	if _, told := seen[usualOf(p)]; !told {
		for _, f := range facts {
			into.Usual = f.value
			break
		}
	}
}

func fieldOf(p *pricelist.Plan, t term) string {
	if t.key == usualOf(p) {
		return "price"
	}
	return t.key
}

// base makes what the plan itself costs.
func (b *builder) base(p *pricelist.Plan, at document.Path, facts []fact) {
	base := at.To("charges", "base")
	bands, rates, units, prices := of(facts, band), of(facts, rate), of(facts, unit), of(facts, price)
	switch {
	case len(bands) > 0:
		b.bands(p, base, bands, prices)
		return
	case len(rates) > 0:
		b.rates(p, base, rates, of(facts, rateAbove))
		return
	case len(units) > 0 && len(prices) == 0:
		b.units(p, base, "base", units, facts)
		return
	case len(prices) > 0:
		c := pricelist.Charge{Key: "base", Label: "A month", Kind: pricelist.Flat}
		b.fill(p, &c.Price, base, prices)
		p.Charges = append(p.Charges, c)
	}
	if len(units) > 0 {
		b.units(p, at.To("charges", units[0].thing.meter), units[0].thing.meter, units, facts)
	}
}

func (b *builder) units(p *pricelist.Plan, at document.Path, key string, units, facts []fact) {
	t := units[0].thing
	c := pricelist.Charge{Key: key, Label: capital(t.unit) + "s", Kind: pricelist.Unit, Meter: b.meter(t), Each: 1}
	b.fill(p, &c.Price, at, slices.DeleteFunc(slices.Clone(units), func(f fact) bool { return f.thing.meter != t.meter }))
	for _, f := range of(facts, least) {
		if f.thing.meter == t.meter && c.AtLeast == 0 {
			c.AtLeast = f.n
			b.claim(at.To("at_least"), f.n.String(), f.guess, f.count)
		}
	}
	p.Charges = append(p.Charges, c)
}

// bands makes a stair of what is told up to each number of a thing.
func (b *builder) bands(p *pricelist.Plan, at document.Path, bands, prices []fact) {
	t := bands[0].thing
	c := pricelist.Charge{Key: "base", Label: capital(t.unit) + "s", Kind: pricelist.Stair, Meter: b.meter(t), Each: 1}
	var ends []usage.Quantity
	for _, f := range bands {
		if f.thing.meter == t.meter && !slices.Contains(ends, f.n) && f.n > 0 {
			ends = append(ends, f.n)
		}
	}
	slices.Sort(ends)
	for _, to := range ends[:min(len(ends), 300)] {
		one := pricelist.Band{To: to}
		here := at.To("bands", to.String())
		var told []fact
		for _, f := range bands {
			if f.n == to && f.thing.meter == t.meter {
				told = append(told, f)
				b.claim(here.To("to"), to.String(), "", f.count)
			}
		}
		b.fill(p, &one.Price, here, told)
		c.Bands = append(c.Bands, one)
		for _, f := range prices { // "from €25" says the same
			for _, g := range told {
				if f.value == g.value && f.term == g.term && !f.price.claimed {
					b.claim(here.To(fieldOf(p, f.term)), f.value.String(), "", f.price)
				}
			}
		}
	}
	p.Charges = append(p.Charges, c)
}

// rates makes a charge of prices for each of a thing that fall with their number.
func (b *builder) rates(p *pricelist.Plan, at document.Path, rates, above []fact) {
	t := rates[0].thing
	c := pricelist.Charge{Key: "base", Label: capital(t.unit) + "s", Kind: pricelist.Graduated, Meter: b.meter(t), Each: 1}
	if b.allUnits {
		c.Kind = pricelist.Volume
	}
	if e := rates[0].each; e > 0 {
		c.Each = e.Whole()
		b.claim(at.To("each"), e.String(), "", rates[0].size)
	}
	var end usage.Quantity
	for _, f := range rates {
		to := f.n
		if f.from {
			to += end // "the next 90,000"
		}
		if to <= end || f.thing.meter != t.meter {
			continue
		}
		end = to
		here := at.To("bands", to.String())
		b.claim(here.To("to"), to.String(), f.guess, f.count)
		b.claim(here.To("price"), f.value.String(), f.guess, f.price)
		b.same(at, c, f)
		c.Bands = append(c.Bands, pricelist.Band{To: to, Price: pricelist.Price{Usual: f.value}})
	}
	for _, f := range above {
		if c.Above != nil {
			break
		}
		c.Above = &pricelist.Above{Price: pricelist.Price{Usual: f.value}, Each: c.Each}
		b.claim(at.To("above", "price"), f.value.String(), f.guess, f.price)
		b.same(at, c, f)
	}
	p.Charges = append(p.Charges, c)
}

// same uses the figure of what a price is for where it says what stands already.
func (b *builder) same(at document.Path, c pricelist.Charge, f fact) {
	if f.size != nil && f.each.Whole() == c.Each && !f.size.claimed {
		b.claim(at.To("each"), f.each.String(), "", f.size)
	}
}

// share makes a charge that is a share of money.
func (b *builder) share(p *pricelist.Plan, at document.Path, facts []fact) {
	shares := of(facts, share)
	if len(shares) == 0 {
		return
	}
	f := shares[0]
	here := at.To("charges", "base")
	c := pricelist.Charge{Key: "base", Label: capital(f.thing.unit), Kind: pricelist.Share, Meter: b.meter(f.thing), Rate: pricelist.Price{Usual: f.value}}
	b.claim(here.To("rate"), money.Share(f.value).String(), f.guess, f.price)
	for _, f := range of(facts, floor) {
		if c.Floor == 0 {
			c.Floor = f.value
			b.claim(here.To("floor"), f.value.String(), "", f.price)
		}
	}
	for _, f := range of(facts, ceiling) {
		if c.Cap == 0 {
			c.Cap = f.value
			b.claim(here.To("cap"), f.value.String(), "", f.price)
		}
	}
	p.Charges = append(p.Charges, c)
}

func capital(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}
