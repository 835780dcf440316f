package reader

import (
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// beyond makes charges of what more of a thing costs than is included.
func (b *builder) beyond(p *pricelist.Plan, at document.Path, facts []fact) {
	for _, f := range of(facts, extra) {
		key := f.thing.meter
		if slices.ContainsFunc(p.Charges, func(c pricelist.Charge) bool { return c.Key == key }) {
			continue
		}
		here := at.To("charges", key)
		c := pricelist.Charge{Key: key, Label: capital(f.thing.unit) + "s", Kind: pricelist.Unit, Meter: b.meter(f.thing), Each: 1, Price: pricelist.Price{Usual: f.value}}
		if f.each > usage.One {
			c.Kind, c.Size = pricelist.Pack, f.each
			c.Optional = slices.ContainsFunc(facts, func(g fact) bool { return g.what == times && g.thing.meter == f.thing.meter }) // past a multiple
			b.claim(here.To("size"), f.each.String(), f.guess, f.size)
		}
		b.claim(here.To("price"), f.value.String(), f.guess, f.price)
		for _, g := range of(facts, count) {
			if g.thing.meter == f.thing.meter && c.Included == 0 {
				c.Included = g.n
				b.claim(here.To("included"), g.n.String(), g.guess, g.count)
			}
		}
		p.Charges = append(p.Charges, c)
	}
}

// counts makes limits of the numbers of things that nothing charges for.
func (b *builder) counts(p *pricelist.Plan, at document.Path, facts []fact) {
	seen := map[string]usage.Quantity{}
	for _, f := range facts {
		charged := slices.ContainsFunc(p.Charges, func(c pricelist.Charge) bool {
			return c.Meter == f.thing.meter && (c.Key != "base" || c.Kind.Banded())
		})
		key := f.thing.meter
		l := pricelist.Limit{Meter: key, Beyond: pricelist.MoveUp}
		field := "most"
		switch {
		case f.what == count && !charged:
			l.Most = f.n
		case f.what == times && !charged:
			l.Times, l.OfMeter = f.n, f.of.meter
			key, field = key+"/"+f.of.meter, "most.times"
		case f.what == times: // with packs beyond it
			b.boughtBeyond(p, at, f)
			continue
		case f.what == unlimited && !charged:
			l.Unlimited, l.Beyond = true, ""
			if strings.Contains(f.name, "fair") {
				l.Beyond = pricelist.FairUse
			}
		default:
			continue
		}
		if was, told := seen[key]; told {
			if was == f.n && f.count != nil {
				b.claim(at.To("limits", key, field), f.n.String(), f.guess, f.count)
			}
			continue
		}
		seen[key] = f.n
		b.meter(f.thing)
		if f.what == times {
			b.meter(f.of)
		}
		p.Limits = append(p.Limits, l)
		b.claim(at.To("limits", key).To(strings.Split(field, ".")...), f.n.String(), f.guess, f.count)
	}
}

// boughtBeyond makes a limit that is a multiple, beyond which packs are bought.
func (b *builder) boughtBeyond(p *pricelist.Plan, at document.Path, f fact) {
	beyond := pricelist.MoveUp
	if slices.ContainsFunc(p.Charges, func(c pricelist.Charge) bool { return c.Kind == pricelist.Pack && c.Meter == f.thing.meter }) {
		beyond = pricelist.BuyPack
	}
	b.meter(f.of)
	p.Limits = append(p.Limits, pricelist.Limit{Meter: f.thing.meter, Times: f.n, OfMeter: f.of.meter, Beyond: beyond})
	b.claim(at.To("limits", f.thing.meter+"/"+f.of.meter, "most", "times"), f.n.String(), f.guess, f.count)
}

// atOnce makes charges of what is due at signing.
func (b *builder) atOnce(p *pricelist.Plan, at document.Path, facts []fact) {
	for _, f := range of(facts, once) {
		if slices.ContainsFunc(p.Charges, func(c pricelist.Charge) bool { return c.Key == "setup" }) || len(p.Charges) == 0 {
			continue
		}
		c := pricelist.Charge{Key: "setup", Label: capital(f.name), Kind: pricelist.Once, Price: pricelist.Price{Usual: f.value}}
		if _, sold := p.Term(f.waived); sold {
			c.WaivedOn = []string{f.waived}
		}
		b.claim(at.To("charges", "setup", "price"), f.value.String(), f.guess, f.price)
		p.Charges = append(p.Charges, c)
	}
}

// currency is the one that most amounts are in, or that the page names.
func (r *reading) currency(e *pricelist.Edition) {
	votes := map[string]int{}
	for _, line := range r.figures {
		for _, f := range line {
			if f.sort == amount && f.currency != "" {
				votes[f.currency]++
			}
		}
	}
	best, most := "", 0
	for sign, n := range votes {
		if n > most || n == most && sign < best {
			best, most = sign, n
		}
	}
	code := map[string]string{"€": "EUR", "£": "GBP", "$": "USD", "US$": "USD", "¥": "JPY", "₹": "INR"}[best]
	if code == "" {
		code = best
	}
	if code == "" {
		code = r.namedCurrency()
	}
	e.Currency, _ = money.ParseCurrency(orElse(code, "EUR"))
	for _, line := range r.figures {
		for _, f := range line {
			if f.sort == amount && f.currency != "" && f.currency != best {
				f.sort, f.unsure = number, "in another currency than the rest"
			}
		}
	}
}

// namedCurrency is the one that the words of the page name.
func (r *reading) namedCurrency() string {
	for _, l := range r.lines {
		for _, word := range strings.FieldsFunc(l.Text, func(c rune) bool { return !isLetter(c) && c != '$' }) {
			if _, err := money.ParseCurrency(word); err == nil {
				return word
			}
			switch strings.ToLower(word) {
			case "euro", "euros":
				return "EUR"
			case "dollars", "us$":
				return "USD"
			case "pounds":
				return "GBP"
			}
		}
	}
	return ""
}

// extras makes the add-ons.
func (b *builder) extras() {
	for _, a := range b.addOns {
		name := shortened(a.name)
		key := document.KeyFor(name, func(key string) bool { _, there := b.e.AddOn(key); return there })
		one := pricelist.AddOn{Key: key, Name: name, Plans: b.keysOf(a.on), IncludedOn: b.keysOf(a.held),
			Charges: []pricelist.Charge{{Key: "price", Label: name, Kind: pricelist.Flat, Price: pricelist.Price{Usual: a.value}}}}
		if one.Plans == nil {
			one.Plans = []string{}
		}
		b.claim(document.Path("add_ons").To(key, "charges", "price", "price"), a.value.String(), a.guess, a.figure)
		b.e.AddOns = append(b.e.AddOns, one)
	}
}

func (b *builder) keysOf(plans []int) (keys []string) {
	for _, i := range plans {
		if key, made := b.keys[i]; made {
			keys = append(keys, key)
		}
	}
	return keys
}

// offers makes the offers, on the plan that they stand with or on all.
func (b *builder) offers() {
	for _, o := range b.offered {
		one := pricelist.Offer{Name: o.name, Kind: o.kind, Months: o.months, Until: o.until, NewCustomers: true}
		named := o.name
		if o.plan >= 0 {
			one.Plans = b.keysOf([]int{o.plan})
			named = orElse(named, b.found[o.plan].name+" first months")
		} else {
			for _, p := range b.e.Plans {
				if p.Offered == pricelist.Public {
					one.Plans = append(one.Plans, p.Key)
				}
			}
		}
		if len(one.Plans) == 0 {
			continue
		}
		one.Key = document.KeyFor(orElse(named, "offer"), func(key string) bool {
			return slices.ContainsFunc(b.e.Offers, func(o pricelist.Offer) bool { return o.Key == key })
		})
		at := document.Path("offers").To(one.Key)
		switch o.kind {
		case pricelist.PercentOff:
			one.Off = money.Share(o.value)
			b.claim(at.To("value"), one.Off.String(), o.guess, o.figure)
		case pricelist.FixedPrice:
			one.Price = o.value
			b.claim(at.To("price"), o.value.String(), o.guess, o.figure)
		}
		if o.length != nil {
			b.claim(at.To("months"), quantityOf(o.length).String(), o.guess, o.length)
		}
		if o.by != nil {
			b.claim(at.To("until"), o.until.Format("2006-01-02"), o.guess, o.by)
		}
		b.e.Offers = append(b.e.Offers, one)
	}
}
