package study

import (
	"slices"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/tariff"
)

// force finds the musts without which a lower plan would have been taken in
// the first month, and what would be saved. Where a list cannot be compiled without
// one of them, that one is left out.
func (r *Result) force() (all []Force) {
	if r.Today == nil {
		return nil
	}
	for at := range r.Tools {
		t := &r.Tools[at]
		c := t.candidate
		c.Rows = c.Rows[:1]
		for i, cell := range r.Coverage {
			must := cell.Need.Feature
			if cell.Need.Level != coverage.Must || cell.Plan == nil || !slices.Contains(t.Musts, must) || !t.lacksBelow(must) {
				continue
			}
			c.Musts = slices.DeleteFunc(slices.Clone(t.candidate.Musts), func(f string) bool { return f == must })
			c.Programs, _ = tariff.Without(must, t.candidate.Programs)
			without, err := projection.Project(c)
			if err != nil {
				continue
			}
			now, then := &t.Schedule.Months[0], &without.Months[0]
			if then.Serves && then.Program.Rank < now.Program.Rank {
				all = append(all, Force{Need: i, Tool: at, Without: then.Plan(), Saves: max(0, now.Monthly()-then.Monthly())})
			}
		}
	}
	slices.SortStableFunc(all, func(a, b Force) int { return a.Need - b.Need })
	return all
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
