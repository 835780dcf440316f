package study

import (
	"slices"
	"sync"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/tariff"
)

// lately is what is worked out once it is asked for; many may ask at once.
type lately struct {
	once    sync.Once
	all     []Force
	without func(need int) (Result, error) // the option with one need less
}

// Forced lists the musts without which a lower plan would be taken today, in the order
// of the needs. It is worked out when it is first asked for.
func (r *Result) Forced() []Force {
	if r.forced == nil {
		return nil
	}
	r.forced.once.Do(func() { r.forced.all = r.force() })
	return r.forced.all
}

// Forces reports whether a must forces a dearer plan.
func (r *Result) Forces(need int) bool {
	return slices.ContainsFunc(r.Forced(), func(f Force) bool { return f.Need == need })
}

// force finds the musts without which a lower plan would have been taken in
// the first month, and what the whole option would cost less then. Where it cannot be
// worked out without one of them, that one is left out.
func (r *Result) force() (all []Force) {
	if r.Today == nil {
		return nil
	}
	now := r.Schedule.Months[0].Parts()
	for i, cell := range r.Coverage {
		must := cell.Need.Feature
		if cell.Need.Level != coverage.Must || cell.Plan == nil || !r.Option.Stack() && !r.Tools[0].lacksBelow(must) {
			continue
		}
		then, err := r.doingWithout(i)
		if err != nil || !then.Serves {
			continue
		}
		for at, part := range then.Parts() {
			if part.Program.Rank < now[at].Program.Rank {
				all = append(all, Force{Need: i, Tool: at, Without: part.Plan(), Saves: max(0, r.Monthly(0)-then.Monthly())})
				break
			}
		}
	}
	return all
}

// doingWithout is the first month of the option if a must were no need.
func (r *Result) doingWithout(need int) (*projection.Month, error) {
	if r.Option.Stack() { // another tool may bring each must then
		then, err := r.forced.without(need)
		if err != nil {
			return nil, err
		}
		return &then.Schedule.Months[0], nil
	}
	c := r.Tools[0].candidate
	must := r.Coverage[need].Need.Feature
	c.Musts = slices.DeleteFunc(slices.Clone(c.Musts), func(f string) bool { return f == must })
	c.Programs, _ = tariff.Without(must, c.Programs)
	if c.Policy == projection.Fixed {
		if err := stay(&c); err != nil {
			return nil, err
		}
	}
	then, err := projection.Project(c)
	if err != nil {
		return nil, err
	}
	return &then.Months[0], nil
}

// without works an option out as if one need were none, in a study of its own.
func (o *Outcome) without(option Option) func(need int) (Result, error) {
	own := Outcome{Study: o.Study, Model: o.Model, Values: o.Values, Broken: o.Broken, late: &late{}}
	return func(need int) (Result, error) {
		s, one := *own.Study, own
		s.Needs = slices.Delete(slices.Clone(s.Needs), need, need+1)
		one.Study = &s
		return one.result(option)
	}
}

// lacksBelow reports whether a plan below the one taken today has not got a
// feature.
func (t *ToolResult) lacksBelow(feature string) bool {
	for i := range t.Schedule.Months[0].Program.Rank {
		if has := t.candidate.Edition.Plans[i].Feature(feature).Has; has != pricelist.Yes && has != pricelist.Bridge {
			return true
		}
	}
	return false
}
