package study

import (
	"fmt"
	"slices"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// SayCoverage tells how many options meet every must, and which must pushes
// one to a dearer plan, and what that costs; where none meets them all, which one to
// give up.
func (o *Outcome) SayCoverage() Phrase {
	musts, meets := 0, 0
	for _, n := range o.Study.Needs {
		musts += count(n.Level == coverage.Must)
	}
	switch {
	case len(o.Study.Needs) == 0:
		return say("No needs are told yet; every plan will do.")
	case musts == 0:
		return say("None of the needs is a must; every plan will do.")
	case len(o.Results) == 0:
		return say("The line-up is empty: no option is held against *%s* yet.", allOf(musts, "must"))
	}
	may := 0
	for i := range o.Results {
		answer := o.Results[i].meetsMusts()
		meets, may = meets+count(answer == coverage.Met), may+count(answer == coverage.Open)
	}
	p := say("*%s* can meet *%s*.", outOf(meets, len(o.Results), "option"), allOf(musts, "must"))
	switch {
	case may == len(o.Results):
		p = say("Of *%s* it is not yet known whether *%s* can be met.", outOfAll(may), allOf(musts, "must"))
	case may > 0:
		p = p.and(say("Of *%d* it is not yet known.", may))
	}
	if meets+may == 0 {
		return p.and(o.sayDrop())
	}
	var most *Result // where a must costs most
	saves := Force{}
	for i := range o.Results {
		r := &o.Results[i]
		for _, f := range r.Forced() {
			if r.In() && (most == nil || f.Saves > saves.Saves) {
				most, saves = r, f
			}
		}
	}
	if most == nil {
		return p
	}
	return p.and(most.sayForce(o.Study, saves))
}

// outOfAll is who a sentence is about that holds for all of some options.
func outOfAll(n int) string {
	if n == 1 {
		return "the only option"
	}
	return allOf(n, "option")
}

// meetsMusts says whether one plan meets every must, or of a stack its tools together: as far as is
// known of what they have, whatever they cost and limit.
func (r *Result) meetsMusts() coverage.Answer {
	worst := coverage.Met
	for i := range r.Coverage {
		if c := &r.Coverage[i]; c.Need.Level == coverage.Must {
			worst = min(worst, c.Answer)
		}
	}
	if r.Option.Stack() || worst == coverage.Unmet {
		return worst
	}
	best := coverage.Unmet
	e := r.Tools[0].Tool.Edition
	for i := range e.Plans {
		p := &e.Plans[i]
		if p.Offered == pricelist.Closed && !r.Option.Now {
			continue
		}
		here := coverage.Met
		for j := range r.Coverage {
			if n := &r.Coverage[j].Need; n.Level == coverage.Must {
				here = min(here, n.Meets(p.Feature(n.Feature)))
			}
		}
		best = max(best, here)
	}
	return best
}

// sayForce tells what pushes an option to a plan, and what it would save without.
func (r *Result) sayForce(s *Study, f Force) Phrase {
	name, on := r.Coverage[f.Need].Need.Name, r.Tools[f.Tool].Today.Plan.Name
	if f.Saves <= 0 {
		return say("*%s* is what pushes %s to *%s*.", name, r.Option.Name, on)
	}
	return say("*%s* is what pushes %s to *%s*; without it %s would do and save *%s* a month.", name, r.Option.Name, on, f.Without.Name,
		s.Currency.Format(f.Saves))
}

// SayForced tells what a must costs an option: "event triggers cost you €63.00 a month
// here".
func (o *Outcome) SayForced(r *Result, f Force) string {
	name := usage.LowerFirst(r.Coverage[f.Need].Need.Name)
	if f.Saves <= 0 {
		return name + " decides the plan here; " + f.Without.Name + " would do without it, and cost no less"
	}
	return name + " costs you " + o.Study.Currency.Format(f.Saves) + " a month here: without it " + f.Without.Name + " would do"
}

// Drop is a must, and how many options would meet the others without it.
type Drop struct {
	Need     int
	LetsBack int
}

// Drops lists musts that options miss, by how many options come back without the one
// alone, most first.
func (o *Outcome) Drops() (all []Drop) {
	for n, need := range o.Study.Needs {
		if need.Level != coverage.Must {
			continue
		}
		d, missed := Drop{Need: n}, false
		for i := range o.Results {
			cells := o.Results[i].Coverage
			if !fails(&cells[n]) {
				continue
			}
			missed = true
			others := slices.ContainsFunc(slices.Concat(cells[:n], cells[n+1:]), func(c coverage.Cell) bool { return fails(&c) })
			d.LetsBack += count(!others)
		}
		if missed {
			all = append(all, d)
		}
	}
	slices.SortStableFunc(all, func(a, b Drop) int { return b.LetsBack - a.LetsBack })
	return all
}

// sayDrop tells which must lets most options back in.
func (o *Outcome) sayDrop() Phrase {
	drops := o.Drops()
	if len(drops) == 0 {
		return say("Each must is met somewhere, but no one plan meets them all.")
	}
	best := drops[0]
	switch {
	case best.LetsBack == 0 && len(o.Results) > 1:
		return say("Each misses more than one, so giving up a single must lets none back in.")
	case best.LetsBack == 0:
		return say("It misses more than one.")
	}
	var names []string
	for _, d := range drops {
		if d.LetsBack == best.LetsBack {
			names = append(names, o.Study.Needs[d.Need].Name)
		}
	}
	p := say("Giving up *%s* as a must lets *%s* back in", usage.LowerFirst(names[0]), usage.LowerFirst(outOf(best.LetsBack, len(o.Results), "option")))
	if len(names) > 1 {
		return append(p, say("; so does %s.", listOr(names[1:]))...)
	}
	return append(p, Part{Text: "."})
}

// listOr joins names as a choice: "a, b or c".
func listOr(names []string) string {
	lower := make([]string, len(names))
	for i, n := range names {
		lower[i] = usage.LowerFirst(n)
	}
	if len(lower) < 2 {
		return list(lower)
	}
	return list(lower[:len(lower)-1]) + " or " + lower[len(lower)-1]
}

// SayShareOf says how much of the needs is covered: "61%", or "27% to 61%" while some are not known.
func SayShareOf(low, high float64) string {
	if low == high {
		return fmt.Sprintf("%.0f%%", 100*low)
	}
	return fmt.Sprintf("%.0f%% to %.0f%%", 100*low, 100*high)
}
