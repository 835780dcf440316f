package study

import (
	"slices"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/pricelist"
)

// cover holds what the option offers against the needs: of a stack, what the tool
// offers that does so best.
func (r *Result) cover(s *Study) {
	for _, n := range s.Needs {
		best := coverage.Of(r.Tools[0].Tool.Edition, n, r.Option.Now)
		for i := 1; i < len(r.Tools); i++ {
			if c := coverage.Of(r.Tools[i].Tool.Edition, n, r.Option.Now); c.Better(&best) {
				best, best.Tool = c, i
			}
		}
		r.Coverage = append(r.Coverage, best)
	}
}

// brought shows each must of a stack on the tool that brings it.
func (r *Result) brought() {
	if !r.Option.Stack() {
		return
	}
	for at := range r.Tools {
		for i := range r.Coverage {
			cell := &r.Coverage[i]
			if cell.Need.Level == coverage.Must && cell.Tool != at && slices.Contains(r.Tools[at].Musts, cell.Need.Feature) {
				*cell = coverage.Of(r.Tools[at].Tool.Edition, cell.Need, r.Option.Now)
				cell.Tool = at
			}
		}
	}
}

// had notes what is had of each need on the plans that are taken today.
func (r *Result) had(s *Study) {
	if r.Today == nil {
		return
	}
	for i := range s.Needs {
		var best pricelist.Feature
		for _, t := range r.Tools {
			plan, ok := t.Tool.Edition.Plan(t.Today.Plan.Key)
			if !ok {
				continue
			}
			if f := plan.Feature(s.Needs[i].Feature); best.Has == "" || betterHad(&s.Needs[i], f, best) {
				best = f
			}
		}
		r.Has = append(r.Has, best)
	}
	r.Share, r.MayBe, r.Known = coverage.Share(s.Needs, r.Has)
}

// Meets is whether an option meets a need with the plans that it takes today; where nothing serves,
// whether a plan of it does.
func (r *Result) Meets(need int) coverage.Answer {
	if need < len(r.Has) {
		return r.Coverage[need].Need.Meets(r.Has[need])
	}
	return r.Coverage[need].Answer
}

// betterHad reports whether having a feature one way is worth more to a need than
// another: by what is certain, then by what may be.
func betterHad(n *coverage.Need, f, than pricelist.Feature) bool {
	a, most := coverage.Worth(n, f)
	b, other := coverage.Worth(n, than)
	return a > b || a == b && most > other
}
