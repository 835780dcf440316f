package projection

import (
	"context"
	"math/rand/v2"
	"slices"
	"sync"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/core/work"
)

// Simulation is what options cost over many random paths of growth.
type Simulation struct {
	Paths   int
	Options []Simulated
}

// Simulated is what one option costs over the paths. Shares are of all paths.
type Simulated struct {
	// At the 10th, 50th and 90th percentile of the paths: in all, and so far in each month.
	Total   [3]money.Amount
	Running [][3]money.Amount
	Least   float64   // it costs least of all that are in and serve every month
	Over    []float64 // budget by budget: more than it is spent
	// The plan that it begins on does not serve any more within a year.
	Outgrown float64
	Unserved float64 // some month has nothing that serves
}

// Budget is what may be spent from where the one before ends.
type Budget struct {
	To   int // month before which it ends
	Most money.Amount
}

// Simulating is what a simulation is made of.
type Simulating struct {
	Spread  *usage.Spread
	Months  int
	Tools   [][]Candidate    // of each option; their rows are put in place of by those of paths
	Less    [][]money.Amount // what falls away by each in each month; nil: nothing
	Out     []bool           // options that are out cost something, but are never the least
	Budgets []Budget         // one after another
	Seed    uint64
	Most    int // paths, at most
	// Told now and then how many paths are done; nil: nobody.
	Progress func(done, of int)
}

// How many paths are drawn at once, and how many numbers are kept in all. Where prices of a month
// do not suffice, how many steps the searches for the cheapest way take in all, and how many paths
// are drawn however many these take.
const (
	pathsAtOnce = 32
	mostKept    = 4_500_000
	mostSearch  = 250_000_000
	leastPaths  = 100
)

// percentiles that are told, of 100.
var percentiles = [3]int{10, 50, 90}

// Run draws the paths and projects every option over each: month by month at the
// cheapest plan where the policy is monthly and nothing hangs on when a plan was signed,
// else by the search of [Project]. The same seed gives the same numbers. It ends early
// with the error of the context; other errors are those of [Project].
func (s *Simulating) Run(ctx context.Context) (*Simulation, error) {
	run := &simulating{Simulating: s, n: min(s.Most, mostKept/max(1, s.Months*len(s.Tools)))}
	steps := 0
	for _, tools := range s.Tools {
		for k := range tools {
			quick, err := quickOf(&tools[k])
			if err != nil {
				return nil, err
			}
			if quick == nil {
				h, err := newChoosing(&tools[k])
				if err != nil {
					return nil, err
				}
				steps += h.steps()
			}
			run.quick = append(run.quick, quick)
		}
	}
	if steps > 0 {
		run.n = min(run.n, max(leastPaths, mostSearch/steps))
	}
	run.running = make([][]int64, len(s.Tools))
	run.outgrown, run.unserved = make([][]bool, len(s.Tools)), make([][]bool, len(s.Tools))
	for i := range s.Tools {
		run.running[i] = make([]int64, run.n*s.Months)
		run.outgrown[i], run.unserved[i] = make([]bool, run.n), make([]bool, run.n)
	}
	chunks := (run.n + pathsAtOnce - 1) / pathsAtOnce
	var done int
	var mu sync.Mutex
	err := work.Each(ctx, chunks, func(k int) error {
		first := k * pathsAtOnce
		if err := run.chunk(ctx, uint64(k), first, min(pathsAtOnce, run.n-first)); err != nil {
			return err
		}
		mu.Lock()
		defer mu.Unlock()
		if done += min(pathsAtOnce, run.n-first); s.Progress != nil {
			s.Progress(done, run.n)
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	return run.sum(ctx)
}

type simulating struct {
	*Simulating
	n     int
	quick [][]*tariff.Program // of each tool, in their order; nil where a search is needed
	// By option: what is spent so far, at path·months + month; and what became of paths.
	running            [][]int64
	outgrown, unserved [][]bool
}

// quickOf returns the programs of which a month costs the cheapest; nil where costs hang
// on what was signed when.
func quickOf(c *Candidate) ([]*tariff.Program, error) {
	if c.Policy != Monthly {
		return nil, nil
	}
	h, err := newChoosing(c)
	if err != nil {
		return nil, err
	}
	for i, p := range h.all {
		if len(p.Offers) > 0 || h.once[i] || p.Period != 1 || p.Term.Months != 1 || p.Plan.Offered != pricelist.Public || len(p.Questions) > 0 {
			return nil, nil
		}
	}
	return h.all, nil
}

// chunk draws some paths, from a first one on, and projects all options over them.
func (s *simulating) chunk(ctx context.Context, k uint64, first, n int) error {
	values, err := s.Spread.Paths(rand.New(rand.NewPCG(s.Seed, k)), n)
	if err != nil {
		return err
	}
	at := 0
	for i, tools := range s.Tools {
		for t := range tools {
			quick := s.quick[at]
			at++
			if quick != nil {
				err = s.monthly(i, &tools[t], quick, values, first, n)
			} else {
				err = s.search(ctx, i, tools[t], values, first, n)
			}
			if err != nil {
				return err
			}
		}
		for p := first; p < first+n; p++ { // months so far become sums
			row := s.running[i][p*s.Months:][:s.Months]
			for m := range row {
				if len(s.Less) > i && m < len(s.Less[i]) {
					row[m] -= int64(s.Less[i][m]) / tools[0].Basis.Currency.Minor()
				}
				if m > 0 {
					row[m] += row[m-1]
				}
			}
		}
	}
	return nil
}

// monthly adds what a tool costs at the cheapest of its programs in each month.
func (s *simulating) monthly(option int, c *Candidate, programs []*tariff.Program, values usage.Columns, first, n int) error {
	q, err := tariff.ReadColumns(c.Edition, values)
	if err != nil {
		return err
	}
	rows := n * s.Months
	best, out := make([]int64, rows), make([]int64, rows)
	begun, outgrown := make([]int, n), s.outgrown[option]
	for i := range best {
		best[i] = tariff.Never
	}
	for k, p := range programs {
		p.PriceAll(LongSince, q, out)
		for i, v := range out {
			if v < best[i] {
				if best[i] = v; i%s.Months == 0 {
					begun[i/s.Months] = k
				}
			}
		}
	}
	for k, p := range programs { // who began on it looks whether it goes on to serve
		if !slices.Contains(begun, k) {
			continue
		}
		p.PriceAll(LongSince, q, out)
		for path := range n {
			year := out[path*s.Months:][:min(12, s.Months)]
			if begun[path] == k && best[path*s.Months] != tariff.Never && slices.Contains(year, tariff.Never) {
				outgrown[first+path] = true
			}
		}
	}
	running := s.running[option][first*s.Months:][:rows]
	for i, v := range best {
		if v == tariff.Never {
			s.unserved[option][first+i/s.Months] = true
			continue
		}
		running[i] += v
	}
	return nil
}

// search adds what the way costs that the policy takes over each path.
func (s *simulating) search(ctx context.Context, option int, c Candidate, values usage.Columns, first, n int) error {
	rows, err := tariff.Read(c.Edition, values)
	if err != nil {
		return err
	}
	for path := range n {
		c.Rows, c.Readings, c.Within = rows[path*s.Months:][:s.Months], nil, ctx
		h, err := newChoosing(&c)
		if err != nil {
			return err
		}
		way, err := h.choose()
		if err != nil {
			return err
		}
		booked, err := h.book(way)
		if err != nil {
			return err
		}
		running := s.running[option][(first+path)*s.Months:][:s.Months]
		for t := range booked.Months {
			m := &booked.Months[t]
			running[t] += int64(m.Accrued) / c.Basis.Currency.Minor()
			if !m.Serves {
				s.unserved[option][first+path] = true
			}
			if began := way[0].program; began != nil && t < 12 {
				if _, ok := began.Cost(LongSince, 0, h.rows[t]); !ok {
					s.outgrown[option][first+path] = true
				}
			}
		}
	}
	return nil
}

// sum makes what is told of all paths.
func (s *simulating) sum(ctx context.Context) (*Simulation, error) {
	out := &Simulation{Paths: s.n, Options: make([]Simulated, len(s.Tools))}
	for p := range s.n {
		least := -1
		for i := range s.Tools {
			if total := s.total(i, p); !s.Out[i] && !s.unserved[i][p] && (least < 0 || total < s.total(least, p)) {
				least = i
			}
		}
		if least >= 0 {
			out.Options[least].Least++
		}
	}
	err := work.Each(ctx, len(s.Tools), func(i int) error {
		o := &out.Options[i]
		var minor money.Amount
		for _, c := range s.Tools[i] {
			minor = money.Amount(c.Basis.Currency.Minor())
		}
		column := make([]int64, s.n)
		for t := range s.Months {
			for p := range column {
				column[p] = s.running[i][p*s.Months+t]
			}
			slices.Sort(column)
			var band [3]money.Amount
			for k, percent := range percentiles {
				band[k] = money.Amount(quantile(column, percent)) * minor
			}
			o.Running = append(o.Running, band)
		}
		o.Total = o.Running[s.Months-1]
		o.Over = make([]float64, len(s.Budgets))
		for p := range s.n {
			if s.outgrown[i][p] {
				o.Outgrown++
			}
			if s.unserved[i][p] {
				o.Unserved++
			}
			from := int64(0)
			for y, b := range s.Budgets {
				to := s.running[i][p*s.Months+b.To-1]
				if money.Amount(to-from)*minor > b.Most {
					o.Over[y]++
				}
				from = to
			}
		}
		n := float64(s.n)
		o.Least, o.Outgrown, o.Unserved = o.Least/n, o.Outgrown/n, o.Unserved/n
		for y := range o.Over {
			o.Over[y] /= n
		}
		return nil
	})
	return out, err
}

func (s *simulating) total(option, path int) int64 {
	return s.running[option][path*s.Months+s.Months-1]
}

// quantile is the least value that so many of a hundred do not exceed (Hyndman & Fan
// 1996, definition 1), of values in order.
func quantile(sorted []int64, percent int) int64 {
	return sorted[max(0, (len(sorted)*percent+99)/100-1)]
}
