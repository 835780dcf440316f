package formats

import (
	"context"
	"fmt"
	"slices"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// PriceListFormat is the first word of a price list file.
const PriceListFormat = "nine-coins/price-list/1"

// ReadPriceList reads a price list on a day and checks it whole. A list at
// fault is refused with [Faults].
func ReadPriceList(ctx context.Context, data []byte, today time.Time) (*pricelist.Edition, error) {
	file, err := openUpTo(ctx, data, today, single)
	if err != nil {
		return nil, err
	}
	return file.PriceList()
}

// KeptPriceList reads a price list that was taken before, perhaps under wider
// rules than those of today: a published edition never changes, and goes on
// being read as it was.
func KeptPriceList(ctx context.Context, data []byte) (*pricelist.Edition, error) {
	file := &File{Data: data, r: &reader{ctx: ctx, kept: true}}
	if err := file.parse(whole); err != nil {
		return nil, err
	}
	file.r.faults = document.Gathering{} // what the letters of a kept text are is not judged again
	return file.PriceList()
}

// PriceList reads the file as a price list.
func (file *File) PriceList() (*pricelist.Edition, error) {
	f := file.fields(PriceListFormat)
	e := &pricelist.Edition{ObservedOn: f.pastDay("observed_on"), Source: f.text("source", must, 300), Currency: f.currency("currency")}
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
			Charges: readCharges(a), Gives: a.texts("gives", optional, pricelist.FeatureForm.MatchString, "a feature such as \"growth/referrals\"")})
	})
	f.each("offers", optional, 60, func(o *fields) { e.Offers = append(e.Offers, readOffer(o)) })
	if t := f.inside("trial", optional); t != nil {
		e.Trial = pricelist.Trial{Days: t.whole("days", optional, 0, 400), RefundDays: t.whole("refund_days", optional, 0, 400), CardNeeded: t.yes("card_needed")}
		t.done()
	}
	f.done()
	if file.r.faults.Count() == 0 && !file.r.ended() {
		checkMeters(e, f)
		for _, fault := range append(e.Inherit(), e.Check()...) {
			file.r.faults.Add(file.root.LineOf(fault.Path), fault.Path, "%s", fault.Problem)
		}
	}
	if err := file.r.done(); err != nil {
		return nil, err
	}
	return e, nil
}

// checkMeters refuses meters that count what no standard driver is. A study's
// own drivers are known only to the study.
func checkMeters(e *pricelist.Edition, f *fields) {
	for i, m := range e.Meters {
		for _, name := range m.Counts.Names() {
			if _, ok := usage.InCatalogue(name); !ok {
				f.refuse(f.node.Field("meters").Items[i].Field("counts"), fmt.Sprintf("meters[%d].counts", i), "there is no driver %q", name)
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
		if len(all.node.Names) > pricelist.MostFeatures {
			all.refuse(all.node, "", "has %d entries; at most %d are taken", len(all.node.Names), pricelist.MostFeatures)
			return plan
		}
		for i, key := range all.node.Names {
			if !pricelist.FeatureForm.MatchString(key) {
				all.refuse(all.node.Items[i], key, "expected a feature such as \"automation/event-triggers\"")
				continue
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
			c.pass(name)
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
		if n := c.node.Field("size"); n != nil && ch.Size <= 0 {
			c.refuse(n, "size", "expected a number above 0, found %s", n.Describe())
		}
		ch.Price = readPrice(c, must)
	case pricelist.Stair:
		c.each("bands", must, 300, func(b *fields) {
			band := pricelist.Band{Open: b.node.Field("to") == nil, To: b.quantity("to", optional)}
			band.Price = readPrice(b, must)
			ch.Bands = append(ch.Bands, band)
		})
		if n := c.node.Field("bands"); n != nil && len(n.Items) == 0 {
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
		if slices.Contains(pricelist.Reserved, name) || !document.KeyForm.MatchString(name) {
			continue
		}
		c.pass(name)
		n := c.node.Field(name)
		if n == nil { // null is the same as absent
			continue
		}
		if p.ByKey == nil {
			p.ByKey = map[string]money.Amount{}
		}
		p.ByKey[name] = c.price(n, name)
	}
	return p
}

func readAbove(c *fields) *pricelist.Above {
	n := c.take("above", optional, "")
	if n == nil || (n.Shape == document.IsText && n.Text == pricelist.Ask) {
		return nil
	}
	if n.Shape != document.IsObject {
		c.refuse(n, "above", "expected %q or a rate such as {\"price\": \"4.00\", \"each\": 1000}, found %s", pricelist.Ask, n.Describe())
		return nil
	}
	inner := open(n, document.Join(c.path, "above"), c.r)
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
	case n.Shape == document.IsText && n.Text == "unlimited":
		limit.Unlimited = true
	case n.Shape == document.IsObject:
		m := open(n, document.Join(l.path, "most"), l.r)
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
		if o.node.Field("months") == nil {
			o.refuse(o.node, "months", "is missing; expected how many months are free")
		}
	default: // named by the list's check
		o.know("value")
	}
	return offer
}
