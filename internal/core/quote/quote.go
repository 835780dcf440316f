package quote

import (
	"fmt"
	"slices"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// Ask is what is asked of a plan.
type Ask struct {
	Edition  *pricelist.Edition
	Plan     *pricelist.Plan
	Term     pricelist.Term
	Readings Readings
	Musts    []string // features that must be had
	Customer Customer
	Since    int // months since signing when the billing period began
	Into     int // months since then; only lines billed as used look at it
	Basis    Basis
}

// Customer is who asks: someone new who signs on a day, or someone who is on
// the platform today.
type Customer struct {
	Here bool // a customer already: may stay on closed plans, gets no offer for new customers
	Sign time.Time
}

// Basis is what totals are settled in.
type Basis struct {
	Currency money.Currency
	Rates    map[string]Rate // by ISO 4217 code
}

// Rate is an exchange rate on a day: units of the study's currency for one
// unit of another.
type Rate struct {
	Rate money.Amount
	On   time.Time
}

// Of returns the receipt of a plan. Reasons why it cannot serve are part of
// the receipt; an error means that an amount does not fit or that a list was
// not checked.
func Of(a Ask) (Receipt, error) {
	r := Receipt{Plan: a.Plan, Term: a.Term, Period: 1, Priced: true}
	if a.Term.Paid == pricelist.Upfront {
		r.Period = max(1, a.Term.Months)
	}
	r.Lines = make([]Line, 0, len(a.Plan.Charges)+1)
	r.access(a)
	addOns := r.musts(a)
	r.limits(a)
	for i := range a.Plan.Charges {
		if err := r.charge(a, &a.Plan.Charges[i], ""); err != nil {
			return r, fmt.Errorf("%s, plan %q: %w", a.Edition.Platform.Name, a.Plan.Key, err)
		}
	}
	for _, key := range addOns {
		add, ok := a.Edition.AddOn(key)
		if !ok {
			return r, fmt.Errorf("%s, plan %q: there is no add-on %q", a.Edition.Platform.Name, a.Plan.Key, key)
		}
		for i := range add.Charges {
			if err := r.charge(a, &add.Charges[i], add.Name); err != nil {
				return r, fmt.Errorf("%s, add-on %q: %w", a.Edition.Platform.Name, key, err)
			}
		}
	}
	return r, r.settle(a)
}

func (r *Receipt) access(a Ask) {
	switch {
	case a.Plan.Offered == pricelist.OnRequest:
		r.Reasons = append(r.Reasons, Reason{Kind: PriceOnAsking})
		r.Priced = len(a.Plan.Charges) > 0
	case a.Plan.Offered == pricelist.Closed && !a.Customer.Here:
		r.Reasons = append(r.Reasons, Reason{Kind: ClosedToNew})
	}
}

// musts notes the musts that the plan lacks and returns the add-ons that
// others of them ask for.
func (r *Receipt) musts(a Ask) (addOns []string) {
	for _, key := range a.Musts {
		f := a.Plan.Feature(key)
		switch {
		case f.Has == pricelist.AsAddOn:
			if !slices.Contains(addOns, f.AddOn) {
				addOns = append(addOns, f.AddOn)
			}
		case f.Has == pricelist.Unknown:
			r.Reasons = append(r.Reasons, Reason{Kind: MustNotKnown, Feature: key, Has: f.Has})
		case !f.Has.Meets():
			r.Reasons = append(r.Reasons, Reason{Kind: MustMissing, Feature: key, Has: f.Has})
		}
	}
	return addOns
}

func (r *Receipt) limits(a Ask) {
	for _, l := range a.Plan.Limits {
		if l.Unlimited || l.Beyond == pricelist.BuyPack {
			continue
		}
		reason := Reason{Kind: PastLimit, Meter: l.Meter, Unit: unit(a.Edition, l.Meter), Reading: a.Readings[l.Meter], Most: l.Most}
		if l.OfMeter != "" {
			reason.Times, reason.OfUnit = l.Times, unit(a.Edition, l.OfMeter)
			reason.Most = multiply(l.Times, a.Readings[l.OfMeter])
		}
		if reason.Reading > reason.Most {
			r.Reasons = append(r.Reasons, reason)
		}
	}
}

// multiply returns a·b, held at [usage.Most]: a limit beyond every reading.
func multiply(a, b usage.Quantity) usage.Quantity {
	product, err := money.Exactly(money.Amount(a)).Times(int64(b), int64(usage.One))
	if err != nil {
		return usage.Most
	}
	whole, err := product.RoundTo(1)
	if err != nil {
		return usage.Most
	}
	return min(usage.Most, usage.Quantity(whole))
}

func (r *Receipt) charge(a Ask, ch *pricelist.Charge, addOn string) error {
	if ch.Optional {
		return nil
	}
	l := Line{Key: ch.Key, Label: ch.Label, AddOn: addOn, Kind: ch.Kind, Meter: ch.Meter, Included: ch.Included, Months: r.Period}
	if l.Label == "" {
		l.Label = ch.Key
	}
	since := a.Since
	if m, ok := a.Edition.Meter(ch.Meter); ok {
		l.Unit, l.Quantity = m.Unit, a.Readings[m.Key]
		if m.Kind == usage.Flow && r.Period > 1 {
			l.AsUsed, l.Months, since = true, 1, a.Since+a.Into
		}
	}
	exact, reason, err := oneMonth(&l, ch, l.Quantity, a.Term)
	if err != nil {
		return err
	}
	if reason != nil {
		r.Reasons = append(r.Reasons, *reason)
		r.Priced = false
	}
	l.offer(a, since)
	// n months less the share that the offer takes off those it covers.
	share := int64(l.Months)*int64(money.Whole) - int64(l.OfferMonths)*int64(l.OfferOff)
	if exact, err = exact.Times(share, int64(money.Whole)); err != nil {
		return err
	}
	if l.Amount, err = exact.Round(a.Edition.Currency); err != nil {
		return err
	}
	total := &r.Bill
	if l.AsUsed {
		total = &r.Used
	}
	if *total, err = total.Plus(l.Amount); err != nil {
		return err
	}
	r.Lines = append(r.Lines, l)
	return nil
}

// offer finds the offer that takes most off this line. Offers do not add up.
func (l *Line) offer(a Ask, since int) {
	best := int64(0)
	for _, o := range a.Edition.Offers {
		if l.AddOn != "" || !slices.Contains(o.Plans, a.Plan.Key) || (len(o.Terms) > 0 && !slices.Contains(o.Terms, a.Term.Key)) ||
			(o.NewCustomers && a.Customer.Here) || (!o.Until.IsZero() && a.Customer.Sign.After(o.Until)) {
			continue
		}
		covered := l.Months
		if o.Months > 0 {
			covered = min(l.Months, max(0, o.Months-since))
		}
		off := o.Off
		if o.Kind == pricelist.FreeMonths {
			off = money.Whole
		}
		if saves := int64(covered) * int64(off); saves > best {
			best = saves
			l.Offer, l.OfferOff, l.OfferMonths = o.Key, off, covered
		}
	}
}

// settle converts both totals into the study's currency without tax.
func (r *Receipt) settle(a Ask) error {
	c := Conversion{From: a.Edition.Currency, To: a.Basis.Currency}
	if a.Edition.Tax.Included {
		c.Tax = a.Edition.Tax.Rate
	}
	if c.From != c.To {
		rate, ok := a.Basis.Rates[c.From.Code()]
		if !ok {
			r.Priced = false
			r.Reasons = append(r.Reasons, Reason{Kind: NoRate, Text: fmt.Sprintf("prices are in %s and the study has no rate from %s to %s",
				c.From.Code(), c.From.Code(), c.To.Code())})
		}
		c.Rate, c.On = rate.Rate, rate.On
	}
	r.Conversion = c
	var err error
	if r.Settled, err = c.settle(r.Bill); err != nil {
		return err
	}
	r.AsYou, err = c.settle(r.Used)
	return err
}

// settle returns a·Rate/(1+Tax), rounded once to the minor unit of To.
func (c Conversion) settle(a money.Amount) (money.Amount, error) {
	if c.Tax == 0 && c.Rate == 0 {
		return a, nil
	}
	exact, err := money.Exactly(a).Times(int64(money.Whole), int64(money.Whole+c.Tax))
	if err == nil && c.Rate != 0 {
		exact, err = exact.Times(int64(c.Rate), money.Scale)
	}
	if err != nil {
		return 0, err
	}
	return exact.Round(c.To)
}

func unit(e *pricelist.Edition, meter string) string {
	if m, ok := e.Meter(meter); ok {
		return m.Unit
	}
	return meter
}
