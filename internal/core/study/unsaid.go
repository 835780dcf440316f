package study

import (
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// Unsaid is something that lists here bill or limit, and of which the plan that an option
// takes in the first month says nothing: it counts as unlimited there.
type Unsaid struct {
	Result int
	Plan   *pricelist.Plan // of its first tool
	Driver usage.Driver
}

// Unsaid lists it, by the drivers that meters count alone, in the order of the catalogue.
// What stands at nothing in all months is left out, and so are hours and sums of money.
func (o *Outcome) Unsaid() (all []Unsaid) {
	for _, d := range o.Model.Drivers() {
		if strings.HasPrefix(d.Unit, "money") || strings.HasPrefix(d.Unit, "hour") || d.Unit == "share" ||
			!slices.ContainsFunc(o.Values.Of(d.Key), func(v float64) bool { return v > 0 }) {
			continue
		}
		fed := o.Model.Fed(d.Key)
		var silent []Unsaid
		said := false
		for i := range o.Results {
			r := &o.Results[i]
			if !r.In() || r.Today == nil {
				continue
			}
			says := false
			for k := range r.Tools {
				p := r.Tools[k].Today.Plan
				alone, at := speaks(r.Tools[k].Tool.Edition, p, d.Key, fed)
				said, says = said || alone, says || at
			}
			if !says {
				silent = append(silent, Unsaid{Result: i, Plan: r.Tools[0].Today.Plan, Driver: d})
			}
		}
		if said {
			all = append(all, silent...)
		}
	}
	return all
}

// speaks reports whether a list bills or limits a driver by a meter that counts it alone, on
// any plan; and whether a plan of it does so, of the driver or of what that feeds.
func speaks(e *pricelist.Edition, p *pricelist.Plan, driver string, fed []string) (alone, here bool) {
	for i := range e.Meters {
		m := &e.Meters[i]
		names := m.Counts.Names()
		if !slices.ContainsFunc(names, func(name string) bool { return slices.Contains(fed, name) }) {
			continue
		}
		alone = alone || len(names) == 1 && names[0] == driver
		here = here || e.Counts(p, m.Key)
	}
	return alone, here
}

// mostUnsaid is how many drivers are named in one sentence.
const mostUnsaid = 3

// SayUnsaid tells what counts as unlimited as nothing is said of it; "" where nothing does.
func (o *Outcome) SayUnsaid() string {
	var drivers []string
	where := map[string][]string{}
	for _, u := range o.Unsaid() {
		name := usage.LowerFirst(u.Driver.Name)
		if where[name] == nil {
			drivers = append(drivers, name)
		}
		option := o.name(u.Result)
		if !o.Results[u.Result].Option.Stack() {
			option = fmt.Sprintf("%s (%s)", u.Plan.Name, option)
		}
		where[name] = append(where[name], option)
	}
	if len(drivers) == 0 {
		return ""
	}
	rest := ""
	if n := len(drivers) - mostUnsaid; n > 0 {
		rest, drivers = fmt.Sprintf("; and %d more", n), drivers[:mostUnsaid]
	}
	for i, name := range drivers {
		drivers[i] += " on " + list(where[name])
	}
	of := "it"
	if len(where) > 1 {
		of = "them"
	}
	return "Counted as unlimited, as the price list says nothing of " + of + ": " + strings.Join(drivers, "; ") + rest + "."
}

// unsaid adds to each vendor what is to be asked about what its list says nothing of; of a
// stack, no tool is the one to say it.
func (o *Outcome) unsaid(all []Vendor) {
	for _, u := range o.Unsaid() {
		if o.Results[u.Result].Option.Stack() {
			continue
		}
		key := o.Results[u.Result].Tools[0].Tool.Edition.Platform.Key
		v := &all[slices.IndexFunc(all, func(v Vendor) bool { return v.Platform == key })]
		text := fmt.Sprintf("Is there a limit or a price for %s on %s? Your price list says nothing of it.", usage.LowerFirst(u.Driver.Name), u.Plan.Name)
		if !slices.Contains(v.Unsaid, text) {
			v.Unsaid = append(v.Unsaid, text)
		}
	}
}
