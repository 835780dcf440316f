package study

import (
	"slices"

	"ninecoins/internal/core/cover"
	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
)

// BestStack is the cheapest set of plans of a study's platforms that brings every
// must together, at today's usage.
type BestStack struct {
	Tools []Tool   // pinned to their plans
	With  []string // what is bought with each of them: " with Flows"
	Month money.Amount
	// The musts that no plan of any platform has; then there is no stack.
	Missing []coverage.Need
}

// offer is a plan that can be a part of a stack.
type offer struct {
	option *Option
	tool   Tool
	choice cover.Choice
	extras []string           // names of what brings more, as in the choice; "" for what is no add-on
	priced *pricelist.Edition // the list with this plan alone, and bridges as add-ons
}

// BestStack finds the cheapest stack out of the platforms that the options in the
// running are made of: of each platform one plan at most, with the add-ons and
// bridges that bring what it lacks. It is exact ([cover.Cheapest]) for lists whose
// add-ons do not also raise the limits that today's usage meets: what an add-on
// costs is what it adds to its plan's bill alone. Two platforms whose bridges share
// a connector are counted each by themselves. The zero value is returned for a study
// without musts.
func (o *Outcome) BestStack() (best BestStack, err error) {
	var musts []coverage.Need
	for _, n := range o.Study.Needs {
		if n.Level == coverage.Must {
			musts = append(musts, n)
		}
	}
	if len(musts) == 0 {
		return best, nil
	}
	var groups []cover.Group
	var offers [][]offer
	seen := map[string]bool{}
	for i := range o.Results {
		r := &o.Results[i]
		for t := range r.Tools {
			tool := r.Tools[t].Tool
			if seen[tool.Platform] || r.AtFault {
				continue
			}
			seen[tool.Platform] = true
			tool.Edition = o.seen(&r.Option, t, Tool{Key: tool.Key, Platform: tool.Platform, ObservedOn: tool.ObservedOn, Edition: r.full(t)})
			some, err := o.offers(&r.Option, tool, musts)
			if err != nil {
				return best, err
			}
			group := cover.Group{}
			for _, one := range some {
				group.Choices = append(group.Choices, one.choice)
			}
			groups, offers = append(groups, group), append(offers, some)
		}
	}
	taken, _, ok := cover.Cheapest(groups, len(musts))
	if !ok {
		for n := range musts {
			if !slices.ContainsFunc(groups, func(g cover.Group) bool {
				return slices.ContainsFunc(g.Choices, func(c cover.Choice) bool {
					return c.Brings.Has(n) || slices.ContainsFunc(c.Extras, func(e cover.Extra) bool { return e.Brings.Has(n) })
				})
			}) {
				best.Missing = append(best.Missing, musts[n])
			}
		}
		return best, nil
	}
	for g, t := range taken {
		if t.Choice < 0 {
			continue
		}
		one := &offers[g][t.Choice]
		cost, err := o.bill(one, musts, t.Extras)
		if err != nil {
			return best, err
		}
		best.Tools, best.Month = append(best.Tools, one.tool), best.Month+cost
		var bought []string
		for _, x := range t.Extras {
			if one.extras[x] != "" {
				bought = append(bought, one.extras[x])
			}
		}
		best.With = append(best.With, SayWith(bought))
	}
	return best, nil
}

// full is the price list of a tool as it was read, with all its plans.
func (r *Result) full(tool int) *pricelist.Edition { return r.Option.Tools()[tool].Edition }

// offers are the plans of a tool that serve today, with what they cost and bring.
func (o *Outcome) offers(option *Option, tool Tool, musts []coverage.Need) (all []offer, err error) {
	for i := range tool.Edition.Plans {
		one, _ := pinned(tool.Edition, tool.Edition.Plans[i].Key)
		base, serves, err := o.today(option, one, nil)
		if err != nil {
			return nil, err
		}
		if !serves {
			continue
		}
		plan := &one.Plans[0]
		t := tool
		t.Plan = plan.Key
		c := cover.Choice{Cost: int64(base)}
		for n := range musts {
			if f := plan.Feature(musts[n].Feature); f.Has == pricelist.Yes && musts[n].Meets(f) == coverage.Met {
				c.Brings = c.Brings.With(n)
			}
		}
		priced, err := o.Study.priced(one, musts, nil)
		if err != nil {
			return nil, err
		}
		extras, names, err := o.extras(option, priced, musts, base)
		if err != nil {
			return nil, err
		}
		c.Extras = extras
		all = append(all, offer{option, t, c, names, priced})
	}
	return all, nil
}

// bill is what a plan of a stack costs in the first month with all that is bought on top of it: one
// bill, rounded and converted once.
func (o *Outcome) bill(one *offer, musts []coverage.Need, extras []int) (money.Amount, error) {
	var asked []coverage.Need
	for n := range musts {
		if slices.ContainsFunc(extras, func(x int) bool { return one.choice.Extras[x].Brings.Has(n) }) {
			asked = append(asked, musts[n])
		}
	}
	cost, _, err := o.today(one.option, one.priced, asked)
	return cost, err
}

// extras are the add-ons and bridges of a plan that bring musts which it lacks.
func (o *Outcome) extras(option *Option, priced *pricelist.Edition, musts []coverage.Need, base money.Amount) (all []cover.Extra, names []string, err error) {
	plan := &priced.Plans[0]
	for i := range priced.AddOns {
		a := &priced.AddOns[i]
		var brings cover.Set
		var asked []coverage.Need
		for n := range musts {
			f := priced.Plans[0].Feature(musts[n].Feature)
			if slices.Contains(a.Plans, plan.Key) && f.Has == pricelist.AsAddOn && (f.AddOn == a.Key || !f.Alone && slices.Contains(a.Gives, musts[n].Feature)) {
				brings, asked = brings.With(n), append(asked, musts[n])
			}
		}
		if len(asked) == 0 {
			continue
		}
		alone := *priced
		alone.AddOns = priced.AddOns[i : i+1 : i+1]
		with, serves, err := o.today(option, &alone, asked)
		if err != nil {
			return nil, nil, err
		}
		if serves {
			all, names = append(all, cover.Extra{Cost: int64(max(0, with-base)), Brings: brings}), append(names, a.Name)
		}
	}
	for n := range musts { // bridges of which nobody said what they cost
		if f := priced.Plans[0].Feature(musts[n].Feature); f.Has == pricelist.Bridge && musts[n].Meets(f) == coverage.Met {
			all, names = append(all, cover.Extra{Brings: cover.SetOf(n)}), append(names, "")
		}
	}
	return all, names, nil
}

// today is what a list costs in the first month for who needs some features.
func (o *Outcome) today(option *Option, e *pricelist.Edition, needs []coverage.Need) (cost money.Amount, serves bool, err error) {
	musts := make([]string, len(needs))
	for i, n := range needs {
		musts[i] = n.Feature
	}
	c, err := o.candidate(option, e, musts, o.Values, nil)
	if err != nil {
		return 0, false, err
	}
	c.Rows = c.Rows[:1]
	s, err := projection.Project(c)
	if err != nil {
		return 0, false, err
	}
	m := &s.Months[0]
	return m.Monthly(), m.Serves && len(s.Questions) == 0, nil
}
