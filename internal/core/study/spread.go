package study

import (
	"context"
	"errors"
	"slices"

	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/core/work"
)

// Spread is what options cost over simulated growth.
type Spread struct {
	*projection.Simulation
	Results []int               // which result each of its options is
	Random  []string            // drivers that differ from path to path, by key
	Budgets []projection.Budget // what shares of paths that spend more are told of
}

// ErrNoSpread reports that no driver has a low and a high case, nor a history, that paths
// could differ by.
var ErrNoSpread = errors.New("no driver has a low or a high case, or a history: every path would be the expected one")

// simulated is how many paths are drawn, and from where.
const (
	simulatedPaths = 10_000
	simulationSeed = 9
)

// Spread simulates growth, the expected case in the middle, and keeps what came of it.
// progress hears how far it is; nil: nobody. It ends early with the error of the context, and fails with [ErrNoSpread] where there
// is no chance in it.
func (o *Outcome) Spread(ctx context.Context, progress work.Tell) (*Spread, error) {
	return o.Draw(ctx, 1, progress)
}

// Draws is how many times the paths can be drawn anew, each time the same.
const Draws = 4

// Draw is [Outcome.Spread] over other paths, from 1 to [Draws]; 1 is what Spread draws.
func (o *Outcome) Draw(ctx context.Context, draw int, progress work.Tell) (*Spread, error) {
	return o.late.spread[draw-1].Get(ctx, progress, func(ctx context.Context, tell work.Tell) (*Spread, error) {
		noise := map[string]float64{}
		for _, d := range o.Study.Drivers {
			if f, err := usage.FitGrowth(o.Study.HistoryOf(d.Driver)); err == nil && !slices.Contains(o.Broken, d.Driver) {
				noise[d.Driver] = f.Spread
			}
		}
		spread, err := o.Model.Spread(o.Study.Horizon, noise)
		if err != nil {
			return nil, err
		}
		out := &Spread{Random: spread.Random(), Budgets: o.Study.Budgets()}
		if len(out.Random) == 0 {
			return nil, ErrNoSpread
		}
		s := projection.Simulating{Spread: spread, Months: o.Study.Horizon, Budgets: out.Budgets, Seed: simulationSeed + uint64(draw-1), Most: simulatedPaths, Progress: tell}
		for i := range o.Results {
			r := &o.Results[i]
			if r.AtFault {
				continue
			}
			var tools []projection.Candidate
			for k := range r.Tools {
				tools = append(tools, r.Tools[k].candidate)
			}
			s.Tools, s.Less, s.Out, out.Results = append(s.Tools, tools), append(s.Less, o.Study.FallsAway(&r.Option)), append(s.Out, r.fails()), append(out.Results, i)
		}
		if len(s.Tools) == 0 {
			return out, nil
		}
		out.Simulation, err = s.Run(ctx)
		return out, err
	})
}

// Drawn is what was drawn, if it was already.
func (o *Outcome) Drawn(draw int) (*Spread, bool) { return o.late.spread[draw-1].Known() }

// Budgets are what may be spent: over the horizon where the budget is one in all, else year by
// year, of which the last may be a part with its share, rounded down to the minor unit; none
// when none is set.
func (s *Study) Budgets() (all []projection.Budget) {
	if s.Budget == 0 {
		return nil
	}
	if s.Brief.BudgetFor != ForMonth && s.Brief.BudgetFor != ForYear {
		return []projection.Budget{{To: s.Horizon, Most: s.Budget}}
	}
	for from := 0; from < s.Horizon; from += 12 {
		to := min(s.Horizon, from+12)
		all = append(all, projection.Budget{To: to, Most: s.budgetFor(to - from)})
	}
	return all
}

// InCase is the study as it is in a case of growth, computed once.
func (o *Outcome) InCase(c usage.Case) *Outcome {
	if c == o.Study.Case {
		return o
	}
	all, _ := o.Cases(context.Background())
	return all[slices.Index(usage.Cases(), c)]
}

// Cases are the study in each of [usage.Cases]; none where it is in that case itself. Its error
// is that of the context.
func (o *Outcome) Cases(ctx context.Context) ([3]*Outcome, error) {
	return o.late.cases.Get(ctx, nil, func(ctx context.Context, _ work.Tell) (all [3]*Outcome, err error) {
		err = work.Each(ctx, len(all), func(i int) (err error) {
			other := *o.Study
			if other.Case = usage.Cases()[i]; other.Case != o.Study.Case {
				all[i], err = computeLike(ctx, &other, o)
			}
			return err
		})
		return all, err
	})
}

// compiled is what was made of the one tool of an option, where it has to bring the
// same musts; nil for none.
func (o *Outcome) compiled(r *Result, musts []string) *projection.Candidate {
	if o == nil {
		return nil
	}
	i := slices.IndexFunc(o.Results, func(like Result) bool { return like.Option.Key == r.Option.Key && len(like.Tools) == 1 })
	if i < 0 || !slices.Equal(o.Results[i].Tools[0].Musts, musts) {
		return nil
	}
	if c := &o.Results[i].Tools[0].candidate; c.Programs != nil {
		return c
	}
	return nil
}
