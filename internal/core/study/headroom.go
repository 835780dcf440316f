package study

import (
	"fmt"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
)

// Headroom is how far a meter of an option can go before its bill steps.
type Headroom struct {
	Result, Tool int
	Plan         string // in force in the month that is looked from
	Unit         string // of one
	Now, Until   usage.Quantity
	Left         usage.Quantity // Until less Now
	Why          string         // "contacts pass 8,000"
	Month        int            // in which the step comes, from 0; -1: not within the horizon
	To           string         // the plan from there on; "": nothing serves
	Delta        money.Amount   // a month, at today's other readings
	Serves       bool
}

// Headroom tells of each option, and each meter that its plan of a month is billed or
// limited by, how far the next step is; none of those that have no step above them.
// Offers that end are left out of what the step costs.
func (o *Outcome) Headroom(month int) (all []Headroom) {
	for i := range o.Results {
		r := &o.Results[i]
		for k := range r.Tools {
			t := &r.Tools[k]
			if r.AtFault || !t.Schedule.Months[month].Serves {
				continue
			}
			for m := range t.candidate.Edition.Meters {
				if h, ok := o.headroom(r, k, m, month); ok {
					h.Result = i
					all = append(all, h)
				}
			}
		}
	}
	return all
}

// mostFlats is how many breaks without a step are passed on the way to one.
const mostFlats = 60

func (o *Outcome) headroom(r *Result, tool, meter, month int) (h Headroom, ok bool) {
	c := &r.Tools[tool].candidate
	p := r.Tools[tool].Schedule.Months[month].Program
	row := append([]int64(nil), c.Rows[month]...)
	now := row[meter]
	for range mostFlats {
		at, cause, found := p.Next(projection.LongSince, meter, row)
		if !found {
			return h, false
		}
		if steps(cause) {
			return o.step(r, tool, meter, month, now, at, cause), true
		}
		row[meter] = at
	}
	return h, false
}

// steps reports whether a price jumps where it takes another course for a cause.
func steps(c tariff.Cause) bool {
	switch c.Kind {
	case tariff.NextPack, tariff.PastLimit, tariff.PastBands:
		return true
	case tariff.NextBand:
		return c.Charge != nil && c.Charge.Kind != pricelist.Graduated
	}
	return false
}

func (o *Outcome) step(r *Result, tool, meter, month int, now, at int64, cause tariff.Cause) Headroom {
	t := &r.Tools[tool]
	c := &t.candidate
	m := &c.Edition.Meters[meter]
	quantity := func(x int64) usage.Quantity { return usage.Quantity(x * tariff.Grain(m)) }
	h := Headroom{Tool: tool, Plan: t.Schedule.Months[month].Plan().Name, Unit: m.Unit, Now: quantity(now), Until: quantity(at - 1), Left: quantity(at - 1 - now), Month: -1}
	h.Why = fmt.Sprintf("%s pass %s", quote.Plural(m.Unit), h.Until.Format())
	if cause.Kind == tariff.NextPack {
		h.Why += ", a pack begins"
	}
	for u := month; u < len(c.Rows); u++ {
		if c.Rows[u][meter] >= at {
			h.Month = u
			break
		}
	}
	bid := o.bids(r, month).Tools[tool]
	before, after := append([]int64(nil), c.Rows[month]...), append([]int64(nil), c.Rows[month]...)
	before[meter], after[meter] = at-1, at
	was, _ := cheapest(bid.Programs, before)
	then, p := cheapest(bid.Programs, after)
	if p != nil {
		h.To, h.Serves = p.Plan.Name, true
		if was != tariff.Never {
			h.Delta = p.Amount(then - was)
		}
	}
	return h
}

// cheapest is the program that costs least a month at some readings; nil where none
// serves.
func cheapest(all []*tariff.Program, row []int64) (minor int64, best *tariff.Program) {
	minor = tariff.Never
	for _, p := range all {
		if v, ok := p.Monthly(projection.LongSince, row); ok && v < minor {
			minor, best = v, p
		}
	}
	return minor, best
}
