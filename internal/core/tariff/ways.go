package tariff

import (
	"slices"

	"ninecoins/internal/core/pricelist"
)

// givers returns the add-ons sold on the plan that bring a feature which it lacks.
func (c *Program) givers(feature string) (all []*pricelist.AddOn) {
	f := c.Plan.Feature(feature)
	if f.Has == pricelist.Yes || f.Has == pricelist.Bridge {
		return nil
	}
	for i := range c.Edition.AddOns {
		a := &c.Edition.AddOns[i]
		if slices.Contains(a.Plans, c.Plan.Key) && (slices.Contains(a.Gives, feature) || f.Has == pricelist.AsAddOn && f.AddOn == a.Key) {
			all = append(all, a)
		}
	}
	return all
}

// wayTo is a set of add-ons and packs.
type wayTo struct {
	addOns []*pricelist.AddOn
	packs  []*pricelist.Charge
}

// ways returns every set of add-ons and packs worth a comparison: each holds
// what the musts ask for and nothing that neither a must nor a limit does.
func (c *Program) ways() ([]wayTo, error) {
	var useful []*pricelist.AddOn
	needs := map[string][]*pricelist.AddOn{}
	for _, key := range c.deal.Musts {
		if givers := c.givers(key); len(givers) > 0 {
			needs[key] = givers
		}
	}
	for i := range c.Edition.AddOns {
		a := &c.Edition.AddOns[i]
		gives := slices.ContainsFunc(c.deal.Musts, func(m string) bool { return slices.Contains(needs[m], a) })
		if slices.Contains(a.Plans, c.Plan.Key) && (gives || c.raises(a)) {
			useful = append(useful, a)
		}
	}
	all := []wayTo{{}}
	for _, a := range useful {
		for _, w := range slices.Clone(all) {
			all = append(all, wayTo{addOns: append(slices.Clone(w.addOns), a)})
		}
		if len(all) > 1<<14 {
			return nil, ErrTooManyWays
		}
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
