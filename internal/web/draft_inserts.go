package web

import (
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

// typing reads the fields of a form that adds; the first that cannot be read is told.
type typing struct {
	typed map[string]string
	in    money.Currency // of amounts
	err   error
}

func (t *typing) wrong(name, why string) {
	if t.err == nil {
		t.err = &wrongAdd{name, why}
	}
}

func (t *typing) amount(name string) money.Amount {
	if t.typed[name] == "" {
		return 0
	}
	a, why := typedAmount(t.typed[name], t.in)
	if why != "" {
		t.wrong(name, why+".")
	}
	return a
}

func (t *typing) quantity(name string) usage.Quantity {
	if t.typed[name] == "" {
		return 0
	}
	q, err := typedQuantity(t.typed[name])
	if err != nil {
		t.wrong(name, quoted(t.typed[name])+" is no number such as 2500.")
	}
	return q
}

func (t *typing) share(name string) money.Share {
	if t.typed[name] == "" {
		return 0
	}
	s, err := notation.Share(0, money.Whole).Typed(t.typed[name])
	if err != nil {
		t.wrong(name, quoted(t.typed[name])+" is no share from 0 to 100 per cent.")
	}
	return s
}

// meterFor is the change that makes the meter of a driver where the list has none.
func (e *draftEditor) meterFor(key string) document.Change {
	ed := &e.draft.Draft.Edition
	if _, there := ed.Meter(key); there || key == "" {
		return nil
	}
	d, ok := e.driver(key)
	if !ok {
		return nil
	}
	f, _ := usage.ParseFormula(d.Key)
	unit, _, _ := strings.Cut(d.Unit, " a month")
	m := pricelist.Meter{Key: d.Key, Unit: unit, Kind: d.Kind, Counts: f}
	return document.Change{{Do: document.Insert, Path: document.Path("meters").To(d.Key), To: pricelist.Written(m)}}
}

// inserted is the change that adds what was typed.
func (e *draftEditor) inserted(op string, on document.Path, typed map[string]string) (document.Change, error) {
	t := &typing{typed: typed, in: e.draft.Draft.Edition.Currency}
	var all document.Change
	switch op {
	case "charge":
		all = e.newCharge(t, on)
	case "limit":
		all = e.newLimit(t, on)
	case "term":
		all = e.newTerm(t, on)
	case "addon":
		all = e.newAddOn(t)
	case "offer":
		all = e.newOffer(t)
	case "meter":
		all = e.newMeter(t)
	}
	return all, t.err
}

func (e *draftEditor) newCharge(t *typing, on document.Path) document.Change {
	charges := e.chargesOf(on)
	c := pricelist.Charge{Kind: pricelist.ChargeKind(t.typed["kind"]), Label: t.typed["label"], Meter: t.typed["meter"], Each: 1}
	var price money.Amount
	if c.Kind != pricelist.Share {
		price = t.amount("price")
	}
	size := t.quantity("size")
	switch c.Kind {
	case pricelist.Flat:
		c.Meter = ""
		c.Price.Usual = price
	case pricelist.Unit:
		c.Price.Usual, c.Included = price, 0
		if size > 0 {
			c.Each = max(1, size.Whole())
		}
	case pricelist.Pack:
		if c.Size, c.Price.Usual = size, price; size <= 0 {
			t.wrong("size", "A pack needs how many it holds.")
		}
	case pricelist.Stair, pricelist.Graduated, pricelist.Volume:
		c.Bands = []pricelist.Band{{To: size, Open: size == 0, Price: pricelist.Price{Usual: price}}}
	case pricelist.Share:
		c.Rate.Usual = money.Amount(t.share("price"))
	case pricelist.Once:
		c.Price.Usual, c.Meter = price, ""
	default:
		t.wrong("kind", "Choose how it is charged.")
	}
	if _, known := e.driver(c.Meter); c.Meter == "" && c.Kind != pricelist.Flat && c.Kind != pricelist.Once {
		t.wrong("meter", "Choose what is counted.")
	} else if _, there := e.draft.Draft.Edition.Meter(c.Meter); c.Meter != "" && !known && !there {
		t.wrong("meter", "There is no such meter.")
	}
	if c.Label == "" {
		c.Label = map[pricelist.ChargeKind]string{pricelist.Flat: "A month", pricelist.Once: "Set-up"}[c.Kind]
	}
	change := e.meterFor(c.Meter)
	if c.Label == "" {
		c.Label = capital(e.unitsOf(c.Meter))
		if d, ok := e.driver(c.Meter); ok && len(change) > 0 {
			c.Label = d.Name
		}
	}
	c.Key = document.KeyFor(c.Label, func(key string) bool {
		return slices.ContainsFunc(charges, func(o pricelist.Charge) bool { return o.Key == key })
	})
	change = append(change, document.Op{Do: document.Insert, Path: on.To("charges", c.Key), To: pricelist.Written(c)})
	// What has a price is sold by the month, and to everybody, until something else is said.
	if p, ok := e.draft.Draft.Edition.Plan(on.Steps()[1]); ok && on.Steps()[0] == "plans" && len(p.Charges) == 0 {
		if len(p.Terms) == 0 {
			change = append(change, document.Op{Do: document.Insert, Path: on.To("terms", "monthly"), To: pricelist.Written(pricelist.Term{Key: "monthly", Months: 1, Paid: pricelist.Upfront})})
		}
		if p.Offered == pricelist.OnRequest {
			change = append(change, document.Op{Do: document.Set, Path: on.To("offered"), Was: string(pricelist.OnRequest), To: string(pricelist.Public)})
		}
	}
	return change
}

func (e *draftEditor) newLimit(t *typing, on document.Path) document.Change {
	l := pricelist.Limit{Meter: t.typed["meter"], Beyond: pricelist.MoveUp}
	text := strings.ToLower(strings.ReplaceAll(t.typed["most"], "×", "x"))
	times, of, multiple := strings.Cut(text, "x")
	var also document.Change
	switch {
	case text == "":
		t.wrong("most", "Type how much it takes: 2500, unlimited, or 12 x contacts.")
	case text == "unlimited":
		l.Unlimited, l.Beyond = true, ""
	case multiple:
		q, err := typedQuantity(strings.TrimSpace(times))
		of = strings.TrimSpace(of)
		for _, m := range e.meterChoices() {
			if strings.EqualFold(m.Label, of) || m.Value == of || strings.EqualFold(m.Label, of+"s") {
				l.OfMeter = m.Value
			}
		}
		if err != nil || q <= 0 || l.OfMeter == "" {
			t.wrong("most", quoted(t.typed["most"])+" is no multiple such as 12 x contacts.")
		}
		l.Times, also = q, e.meterFor(l.OfMeter)
	default:
		q, err := typedQuantity(text)
		if err != nil {
			t.wrong("most", quoted(t.typed["most"])+" is no number such as 2500.")
		}
		l.Most = q
	}
	if p, ok := e.draft.Draft.Edition.Plan(on.Steps()[len(on.Steps())-1]); ok {
		for i := range p.Limits {
			if p.Limits[i].KeyOf() == l.KeyOf() {
				t.wrong("meter", p.Name+" has such a limit already; change it where it stands.")
			}
		}
	}
	return append(append(e.meterFor(l.Meter), also...), document.Op{Do: document.Insert, Path: on.To("limits", l.KeyOf()), To: pricelist.Written(l)})
}

// termNames are what usual terms are called in files.
var termNames = map[int]string{1: "monthly", 3: "quarterly", 6: "half-yearly", 12: "yearly", 24: "two-years", 36: "three-years", pricelist.Lifetime: "lifetime"}

func (e *draftEditor) newTerm(t *typing, on document.Path) document.Change {
	one := pricelist.Term{Paid: pricelist.Paid(orElse(t.typed["paid"] != "", t.typed["paid"], string(pricelist.Upfront))), Off: t.share("off")}
	if strings.EqualFold(t.typed["months"], "lifetime") {
		one.Months = pricelist.Lifetime
	} else {
		n, err := document.Whole(1, 60).Parse(t.typed["months"])
		if err != nil {
			t.wrong("months", quoted(t.typed["months"])+" is neither a number of months from 1 to 60 nor lifetime.")
		}
		one.Months = n
	}
	p, ok := e.draft.Draft.Edition.Plan(on.Steps()[len(on.Steps())-1])
	name := orElse(termNames[one.Months] != "", termNames[one.Months], "months")
	if one.Months == 12 && one.Paid == pricelist.Monthly {
		name = "contract"
	}
	one.Key = document.KeyFor(name, func(key string) bool {
		if !ok {
			return false
		}
		_, there := p.Term(key)
		return there
	})
	return document.Change{{Do: document.Insert, Path: on.To("terms", one.Key), To: pricelist.Written(one)}}
}

func (e *draftEditor) newAddOn(t *typing) document.Change {
	ed := &e.draft.Draft.Edition
	a := pricelist.AddOn{Name: t.typed["name"], Plans: []string{}}
	if a.Name == "" {
		t.wrong("name", "An add-on needs a name.")
	}
	for i := range ed.Plans {
		a.Plans = append(a.Plans, ed.Plans[i].Key)
	}
	a.Key = document.KeyFor(a.Name, func(key string) bool { _, there := ed.AddOn(key); return there })
	a.Charges = []pricelist.Charge{{Key: "price", Label: a.Name, Kind: pricelist.Flat, Price: pricelist.Price{Usual: t.amount("price")}}}
	return document.Change{{Do: document.Insert, Path: document.Path("add_ons").To(a.Key), To: pricelist.Written(a)}}
}

func (e *draftEditor) newOffer(t *typing) document.Change {
	ed := &e.draft.Draft.Edition
	o := pricelist.Offer{Name: t.typed["name"], Kind: pricelist.OfferKind(t.typed["kind"]), NewCustomers: true, Plans: []string{}}
	for i := range ed.Plans {
		o.Plans = append(o.Plans, ed.Plans[i].Key)
	}
	if t.typed["months"] != "" {
		n, err := document.Whole(1, 120).Parse(t.typed["months"])
		if err != nil {
			t.wrong("months", quoted(t.typed["months"])+" is no number of months from 1 to 120.")
		}
		o.Months = n
	}
	switch o.Kind {
	case pricelist.PercentOff:
		if o.Off = t.share("value"); o.Off == 0 {
			t.wrong("value", "Type how much it takes off, in per cent.")
		}
	case pricelist.FixedPrice:
		if o.Price = t.amount("value"); t.typed["value"] == "" {
			t.wrong("value", "Type the price a month.")
		}
	case pricelist.FreeMonths:
		if o.Months == 0 {
			t.wrong("months", "Type how many months are free.")
		}
	default:
		t.wrong("kind", "Choose what it gives.")
	}
	o.Key = document.KeyFor(orElse(o.Name != "", o.Name, "offer"), func(key string) bool {
		return slices.ContainsFunc(ed.Offers, func(o pricelist.Offer) bool { return o.Key == key })
	})
	return document.Change{{Do: document.Insert, Path: document.Path("offers").To(o.Key), To: pricelist.Written(o)}}
}

func (e *draftEditor) newMeter(t *typing) document.Change {
	ed := &e.draft.Draft.Edition
	d, _ := e.driver(t.typed["driver"])
	var made document.Change
	if t.typed["driver"] == ownDriverOf {
		if d = e.ownDriver(t); t.err != nil {
			return nil
		}
		made = document.Change{{Do: document.Insert, Path: document.Path("drivers").To(d.Key), To: pricelist.Written(d)}}
	}
	text := orElse(t.typed["counts"] != "", t.typed["counts"], d.Key)
	f, err := usage.ParseFormula(text)
	if err != nil {
		t.wrong("counts", quoted(text)+" is no formula such as contacts * 2: "+err.Error()+".")
	}
	unit, _, _ := strings.Cut(d.Unit, " a month")
	m := pricelist.Meter{Unit: orElse(t.typed["unit"] != "", t.typed["unit"], unit), Kind: d.Kind, Counts: f}
	if m.Kind == "" {
		m.Kind = usage.Stock
	}
	m.Key = document.KeyFor(orElse(t.typed["unit"] != "", t.typed["unit"], strings.ReplaceAll(d.Key, "_", " ")), func(key string) bool { _, there := ed.Meter(key); return there })
	if _, there := ed.Meter(d.Key); !there && (t.typed["unit"] == "" || made != nil) && t.typed["counts"] == "" {
		m.Key = d.Key
	}
	return append(made, document.Op{Do: document.Insert, Path: document.Path("meters").To(m.Key), To: pricelist.Written(m)})
}

// ownDriverOf is what is chosen where a meter counts something that no driver is yet.
const ownDriverOf = "own"

// driver finds a driver that the list can count: a standard one, or one of its own.
func (e *draftEditor) driver(key string) (usage.Driver, bool) {
	for _, d := range e.draft.Draft.Edition.Drivers {
		if d.Key == key {
			return d, true
		}
	}
	return usage.InCatalogue(key)
}

// drivers are those that the list can count.
func (e *draftEditor) drivers() []usage.Driver {
	return append(usage.Catalogue(), e.draft.Draft.Edition.Drivers...)
}

// ownDriver makes a driver of the list out of what one of it is called.
func (e *draftEditor) ownDriver(t *typing) usage.Driver {
	unit := strings.TrimSpace(t.typed["unit"])
	if unit == "" {
		t.wrong("unit", "Say what one of them is called, such as course.")
		return usage.Driver{}
	}
	d := usage.Driver{Name: capital(quote.Plural(unit)), Unit: unit, Kind: usage.Kind(t.typed["kind"])}
	if d.Kind != usage.Flow {
		d.Kind, d.Whole = usage.Stock, true
	}
	d.Key = study.FreshDriver(document.KeyFor(d.Name, func(key string) bool { _, there := e.driver(study.FreshDriver(key)); return there }))
	return d
}
