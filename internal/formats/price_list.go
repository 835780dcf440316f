package formats

import (
	"slices"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// PriceListFormat is the first word of a price list file.
const PriceListFormat = "nine-coins/price-list/1"

// ReadPriceList reads a price list and checks it whole. A list at fault is
// refused with [Faults].
func ReadPriceList(data []byte) (*pricelist.Edition, error) {
	root, faults := parse(data)
	if root == nil {
		return nil, faults
	}
	f := open(root, "", &faults)
	f.format(PriceListFormat)
	e := &pricelist.Edition{ObservedOn: f.day("observed_on", must), Source: f.text("source", must, 300), Currency: f.currency("currency")}
	if p := f.inside("platform", must); p != nil {
		e.Platform = pricelist.Platform{Key: p.key("key", must), Name: p.text("name", must, 60)}
		e.Platform.Does = p.texts("does", must, func(s string) bool { return slices.Contains(pricelist.Categories, s) }, "one of email, newsletter, crm, search, automation, social")
		p.done()
	}
	if t := f.inside("tax", must); t != nil {
		e.Tax = pricelist.Tax{Included: t.yes("included"), Rate: t.share("rate", optional, 0, money.Whole)}
		t.done()
	}
	f.each("meters", must, 40, func(m *fields) {
		e.Meters = append(e.Meters, pricelist.Meter{Key: m.key("key", must), Unit: m.text("unit", must, 30),
			Kind:   usage.Kind(m.choice("kind", must, string(usage.Stock), string(usage.Flow))),
			Counts: m.formula("counts"), Fractions: m.yes("fractions")})
	})
	f.each("plans", must, 60, func(p *fields) { e.Plans = append(e.Plans, readPlan(p)) })
	f.each("add_ons", optional, 60, func(a *fields) {
		e.AddOns = append(e.AddOns, pricelist.AddOn{Key: a.key("key", must), Name: a.text("name", must, 60), Plans: a.keys("plans", must),
			Charges: readCharges(a), Gives: a.texts("gives", optional, featureForm.MatchString, "a feature such as \"growth/referrals\"")})
	})
	f.each("offers", optional, 60, func(o *fields) { e.Offers = append(e.Offers, readOffer(o)) })
	if t := f.inside("trial", optional); t != nil {
		e.Trial = pricelist.Trial{Days: t.whole("days", optional, 0, 400), RefundDays: t.whole("refund_days", optional, 0, 400), CardNeeded: t.yes("card_needed")}
		t.done()
	}
	f.done()
	if len(faults) == 0 {
		checkMeters(e, f)
		for _, fault := range append(e.Inherit(), e.Check()...) {
			faults = append(faults, Fault{root.lineOf(fault.Path), fault.Path, fault.Problem})
		}
	}
	if len(faults) > 0 {
		return nil, faults
	}
	return e, nil
}

// checkMeters refuses meters that count what no standard driver is. A study's
// own drivers are known only to the study.
func checkMeters(e *pricelist.Edition, f *fields) {
	for i, m := range e.Meters {
		for _, name := range m.Counts.Names() {
			if _, ok := usage.InCatalogue(name); !ok {
				n := f.node.fields["meters"].items[i].fields["counts"]
				*f.faults = append(*f.faults, Fault{n.line, join("meters["+itoa(i)+"]", "counts"), "there is no driver \"" + name + "\""})
			}
		}
	}
}

func readPlan(p *fields) pricelist.Plan {
	plan := pricelist.Plan{Key: p.key("key", must), Name: p.text("name", must, 60), Includes: p.key("includes", optional),
		Offered: pricelist.Offered(p.choice("offered", must, string(pricelist.Public), string(pricelist.OnRequest), string(pricelist.Closed)))}
	p.each("terms", optional, 12, func(t *fields) {
		term := pricelist.Term{Key: t.key("key", must), Months: t.whole("months", must, 1, 60), Off: t.share("off", optional, 0, money.Whole), Paid: pricelist.Upfront}
		if paid := t.choice("paid", optional, string(pricelist.Upfront), string(pricelist.Monthly)); paid != "" {
			term.Paid = pricelist.Paid(paid)
		}
		plan.Terms = append(plan.Terms, term)
	})
	plan.Charges = readCharges(p)
	p.each("limits", optional, 40, func(l *fields) { plan.Limits = append(plan.Limits, readLimit(l)) })
	if all := p.inside("features", optional); all != nil {
		plan.Features = map[string]pricelist.Feature{}
		for _, key := range slices.Clone(all.node.names) {
			if !featureForm.MatchString(key) {
				all.refuse(all.node.fields[key], key, "expected a feature such as \"automation/event-triggers\"")
			}
			if one := all.inside(key, must); one != nil {
				plan.Features[key] = readFeature(one)
			}
		}
	}
	return plan
}

func readCharges(owner *fields) []pricelist.Charge {
	var charges []pricelist.Charge
	owner.each("charges", optional, 40, func(c *fields) { charges = append(charges, readCharge(c)) })
	return charges
}

func readCharge(c *fields) pricelist.Charge {
	kinds := make([]string, len(pricelist.ChargeKinds))
	for i, k := range pricelist.ChargeKinds {
		kinds[i] = string(k)
	}
	ch := pricelist.Charge{Key: c.key("key", must), Label: c.text("label", optional, 60), Kind: pricelist.ChargeKind(c.choice("kind", must, kinds...)), Optional: c.yes("optional")}
	if !ch.Kind.Priced() { // named by the list's check; its own fields are not looked at
		for _, name := range c.rest() {
			c.asked[name] = true
		}
		return ch
	}
	if ch.Kind != pricelist.Flat {
		ch.Meter = c.key("meter", must)
	}
	switch ch.Kind {
	case pricelist.Flat:
		ch.Price = readPrice(c, must)
	case pricelist.Unit:
		ch.Included, ch.AtLeast, ch.Each = c.quantity("included", optional), c.quantity("at_least", optional), readEach(c)
		ch.Price = readPrice(c, must)
	case pricelist.Pack:
		ch.Included, ch.Size = c.quantity("included", optional), c.quantity("size", must)
		if n := c.node.fields["size"]; n != nil && ch.Size <= 0 {
			c.refuse(n, "size", "expected a number above 0, found %s", n.describe())
		}
		ch.Price = readPrice(c, must)
	case pricelist.Stair:
		c.each("bands", must, 300, func(b *fields) {
			band := pricelist.Band{Open: b.node.fields["to"] == nil, To: b.quantity("to", optional)}
			band.Price = readPrice(b, must)
			ch.Bands = append(ch.Bands, band)
		})
		if n := c.node.fields["bands"]; n != nil && len(n.items) == 0 {
			c.refuse(n, "bands", "a stair needs at least one band, such as {\"to\": 1000, \"price\": \"12.00\"}")
		}
		ch.Above = readAbove(c)
	}
	return ch
}

func readEach(c *fields) int64 {
	if each := c.whole("each", optional, 1, 1_000_000_000); each > 0 {
		return int64(each)
	}
	return 1
}

// readPrice reads "price" and the fields left over as prices of terms; whether
// they name terms is for the list's check to say.
func readPrice(c *fields, required bool) pricelist.Price {
	p := pricelist.Price{Usual: c.amount("price", required)}
	for _, name := range c.rest() {
		if slices.Contains(pricelist.Reserved, name) || !keyForm.MatchString(name) {
			continue
		}
		c.asked[name] = true
		if p.ByKey == nil {
			p.ByKey = map[string]money.Amount{}
		}
		p.ByKey[name] = c.price(c.node.fields[name], name)
	}
	return p
}

func readAbove(c *fields) *pricelist.Above {
	n := c.take("above", optional, "")
	if n == nil || (n.shape == text && n.text == pricelist.Ask) {
		return nil
	}
	if n.shape != object {
		c.refuse(n, "above", "expected %q or a rate such as {\"price\": \"4.00\", \"each\": 1000}, found %s", pricelist.Ask, n.describe())
		return nil
	}
	inner := open(n, join(c.path, "above"), c.faults)
	above := &pricelist.Above{Each: readEach(inner)}
	above.Price = readPrice(inner, must)
	inner.done()
	return above
}

func readLimit(l *fields) pricelist.Limit {
	limit := pricelist.Limit{Meter: l.key("meter", must), Note: l.text("note", optional, 300),
		Beyond: pricelist.Beyond(l.choice("beyond", optional, string(pricelist.MoveUp), string(pricelist.BuyPack), string(pricelist.Stops)))}
	n := l.take("most", must, "a number, \"unlimited\", or a multiple such as {\"times\": 12, \"meter\": \"contacts\"}")
	switch {
	case n == nil:
	case n.shape == text && n.text == "unlimited":
		limit.Unlimited = true
	case n.shape == object:
		m := open(n, join(l.path, "most"), l.faults)
		limit.Times, limit.OfMeter = m.quantity("times", must), m.key("meter", must)
		m.done()
	default:
		limit.Most = l.quantity("most", must)
	}
	return limit
}

func readFeature(f *fields) pricelist.Feature {
	out := pricelist.Feature{Direct: true, Depth: f.whole("depth", optional, 1, 3), Note: f.text("note", optional, 300),
		Has: pricelist.Has(f.choice("has", must, string(pricelist.Yes), string(pricelist.Partly), string(pricelist.AsAddOn), string(pricelist.Bridge),
			string(pricelist.Announced), string(pricelist.No), string(pricelist.Unknown)))}
	if out.Has == pricelist.AsAddOn {
		out.AddOn = f.key("add_on", must)
	}
	if u := f.inside("uses", optional); u != nil {
		out.Uses = pricelist.Uses{Driver: u.key("driver", must), Amount: u.formula("amount").String()}
		u.done()
	}
	f.done()
	return out
}

func readOffer(o *fields) pricelist.Offer {
	offer := pricelist.Offer{Key: o.key("key", must), Plans: o.keys("plans", must), Terms: o.keys("terms", optional),
		Kind:   pricelist.OfferKind(o.text("kind", must, 30)),
		Months: o.whole("months", optional, 1, 120), NewCustomers: o.yes("new_customers"), Until: o.day("until", optional)}
	switch offer.Kind {
	case pricelist.PercentOff:
		offer.Off = o.share("value", must, 0, money.Whole)
	case pricelist.FreeMonths:
		if o.node.fields["months"] == nil {
			o.refuse(o.node, "months", "is missing; expected how many months are free")
		}
	default: // named by the list's check
		o.asked["value"] = true
	}
	return offer
}
