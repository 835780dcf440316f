package tariff

import (
	"slices"

	"ninecoins/internal/core/cover"
	"ninecoins/internal/core/pricelist"
)

// givers returns the add-ons sold on the plan that bring a feature which it has as one, or of
// which the list says nothing else.
func (c *Program) givers(feature string) (all []*pricelist.AddOn) {
	f, stated := c.Plan.Features[feature]
	if stated && f.Has != pricelist.AsAddOn || len(c.Edition.AddOns) == 0 {
		return nil
	}
	named := false // the add-on that the plan names is among those that give it
	for _, a := range c.deal.giving(c.Edition, feature) {
		if slices.Contains(a.Plans, c.Plan.Key) && (!f.Alone || f.AddOn == a.Key) {
			all, named = append(all, a), named || f.AddOn == a.Key
		}
	}
	if a, ok := c.Edition.AddOn(f.AddOn); f.Has == pricelist.AsAddOn && !named && ok && slices.Contains(a.Plans, c.Plan.Key) {
		all = append(all, a)
		slices.SortFunc(all, func(a, b *pricelist.AddOn) int { return place(c.Edition, a) - place(c.Edition, b) })
	}
	return all
}

// place is where an add-on stands in its list.
func place(e *pricelist.Edition, a *pricelist.AddOn) int {
	return slices.IndexFunc(e.AddOns, func(one pricelist.AddOn) bool { return one.Key == a.Key })
}

// giving returns the add-ons of a list that give a feature, looked up once for each
// must.
func (d *Deal) giving(e *pricelist.Edition, feature string) []*pricelist.AddOn {
	if d.gives == nil || d.of != e {
		d.of, d.gives = e, map[string][]*pricelist.AddOn{}
		for i := range e.AddOns {
			for _, key := range e.AddOns[i].Gives {
				d.gives[key] = append(d.gives[key], &e.AddOns[i])
			}
		}
	}
	return d.gives[feature]
}

// wayTo is a set of add-ons and packs.
type wayTo struct {
	addOns []*pricelist.AddOn
	packs  []*pricelist.Charge
}

// ways returns every set of add-ons and packs worth a comparison: each holds
// what the musts ask for and nothing that neither a must nor a limit does. Of
// add-ons at a price that hangs on no reading, the cheapest that bring what the
// others leave are taken, by an exact search.
func (c *Program) ways() ([]wayTo, error) {
	var plain, others []*pricelist.AddOn
	needs := map[string][]*pricelist.AddOn{}
	var missing []string // musts that add-ons bring, in their order
	for _, key := range c.deal.Musts {
		if givers := c.givers(key); len(givers) > 0 && needs[key] == nil {
			needs[key], missing = givers, append(missing, key)
		}
	}
	for i := range c.Edition.AddOns {
		a := &c.Edition.AddOns[i]
		gives := slices.ContainsFunc(missing, func(m string) bool { return slices.Contains(needs[m], a) })
		switch {
		case !slices.Contains(a.Plans, c.Plan.Key):
		case c.raises(a):
			others = append(others, a)
		case gives && c.plain(a):
			plain = append(plain, a)
		case gives:
			others = append(others, a)
		}
	}
	all := []wayTo{{}}
	for _, a := range others {
		for _, w := range slices.Clone(all) {
			all = append(all, wayTo{addOns: append(slices.Clone(w.addOns), a)})
		}
		if len(all) > 1<<14 {
			return nil, ErrTooManyWays
		}
	}
	if len(plain) > 0 {
		all = c.completed(all, plain, missing, needs)
	}
	all = slices.DeleteFunc(all, func(w wayTo) bool { return !c.needed(w.addOns, needs) })
	for _, packs := range c.packs() {
		for _, w := range slices.Clone(all) {
			for _, ch := range packs[1:] {
				all = append(all, wayTo{w.addOns, append(slices.Clone(w.packs), ch)})
			}
		}
		for i := range all {
			if !slices.ContainsFunc(all[i].packs, func(ch *pricelist.Charge) bool { return slices.Contains(packs, ch) }) {
				all[i].packs = append(all[i].packs, packs[0])
			}
		}
	}
	if len(all) > mostWays {
		return nil, ErrTooManyWays
	}
	return all, nil
}

// plain reports whether an add-on costs the same a month at any usage.
func (c *Program) plain(a *pricelist.AddOn) bool {
	return c.Period != pricelist.Lifetime && !slices.ContainsFunc(a.Charges, func(ch pricelist.Charge) bool {
		return ch.Kind != pricelist.Flat && !ch.Optional
	})
}

// completed adds to each set the cheapest plain add-ons that bring what it leaves of
// the musts; sets for which there are none fall away.
func (c *Program) completed(sets []wayTo, plain []*pricelist.AddOn, musts []string, needs map[string][]*pricelist.AddOn) (all []wayTo) {
	for _, w := range sets {
		var left []string
		for _, m := range musts {
			if !slices.ContainsFunc(w.addOns, func(a *pricelist.AddOn) bool { return slices.Contains(needs[m], a) }) {
				left = append(left, m)
			}
		}
		groups := make([]cover.Group, len(plain))
		for i, a := range plain {
			choice := cover.Choice{Cost: c.fee(a)}
			for n, m := range left {
				if slices.Contains(needs[m], a) {
					choice.Brings = choice.Brings.With(n)
				}
			}
			groups[i].Choices = []cover.Choice{choice}
		}
		taken, _, ok := cover.Cheapest(groups, len(left))
		if !ok {
			continue
		}
		whole := wayTo{}
		for i := range c.Edition.AddOns { // in the order of the list
			a := &c.Edition.AddOns[i]
			at := slices.Index(plain, a)
			if slices.Contains(w.addOns, a) || at >= 0 && taken[at].Choice >= 0 {
				whole.addOns = append(whole.addOns, a)
			}
		}
		all = append(all, whole)
	}
	return all
}

// dear is more than any add-on costs that can be billed.
const dear = 1 << 50

// fee is what a plain add-on comes to in a bill, in minor units of the list.
func (c *Program) fee(a *pricelist.AddOn) (sum int64) {
	for i := range a.Charges {
		if ch := &a.Charges[i]; !ch.Optional {
			amount, fits := c.price(ch.Price).times(whole(int64(c.Period))).rounded()
			if !fits {
				amount = dear
			}
			sum = min(dear, sum+min(dear, amount))
		}
	}
	return sum
}

// raises reports whether an add-on raises a limit of the plan.
func (c *Program) raises(a *pricelist.AddOn) bool {
	return slices.ContainsFunc(a.Raises, func(r pricelist.Raise) bool {
		return slices.ContainsFunc(c.Plan.Limits, func(l pricelist.Limit) bool { return l.Holds() && l.Meter == r.Meter })
	})
}

// needed reports whether a set of add-ons meets every must, and would not without
// any of them that raises no limit.
func (c *Program) needed(set []*pricelist.AddOn, needs map[string][]*pricelist.AddOn) bool {
	meets := func(without *pricelist.AddOn) bool {
		for _, givers := range needs {
			if !slices.ContainsFunc(givers, func(a *pricelist.AddOn) bool { return a != without && slices.Contains(set, a) }) {
				return false
			}
		}
		return true
	}
	return meets(nil) && !slices.ContainsFunc(set, func(a *pricelist.AddOn) bool { return !c.raises(a) && meets(a) })
}

// packs returns, for each limit past which a pack is to be bought and none is
// billed anyhow, the optional packs that may be: one kind of them is taken.
func (c *Program) packs() (all [][]*pricelist.Charge) {
	for i := range c.Plan.Limits {
		l := &c.Plan.Limits[i]
		if !l.Holds() || l.Beyond != pricelist.BuyPack || c.billsPacks(l.Meter) {
			continue
		}
		var some []*pricelist.Charge
		for j := range c.Plan.Charges {
			if ch := &c.Plan.Charges[j]; ch.Kind == pricelist.Pack && ch.Meter == l.Meter {
				some = append(some, ch)
			}
		}
		if len(some) > 0 && !slices.ContainsFunc(all, func(o []*pricelist.Charge) bool { return o[0] == some[0] }) {
			all = append(all, some)
		}
	}
	return all
}

func (c *Program) billsPacks(meter string) bool {
	return slices.ContainsFunc(c.Plan.Charges, func(ch pricelist.Charge) bool {
		return ch.Kind == pricelist.Pack && ch.Meter == meter && !ch.Optional
	})
}

// weight is how many bands a plan with a set of add-ons has, a charge without bands
// counting for one.
func (w wayTo) weight(p *pricelist.Plan) (n int) {
	count := func(charges []pricelist.Charge) {
		for i := range charges {
			n += 1 + len(charges[i].Bands)
		}
	}
	count(p.Charges)
	for _, a := range w.addOns {
		count(a.Charges)
	}
	return n
}
