package projection

import (
	"cmp"
	"context"
	"slices"

	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/core/work"
)

// Pair gives the values of all drivers at pairs of values of two that are followed.
type Pair func(xs, ys []int64) (usage.Columns, error)

// AlongTwo are the usages of month t, from 0, along two drivers that a study sets.
func AlongTwo(ctx context.Context, m *usage.Model, t int, x, y Axis) Pair {
	return func(xs, ys []int64) (usage.Columns, error) {
		if err := ctx.Err(); err != nil {
			return usage.Columns{}, err
		}
		return m.Usages(t, len(xs), map[string][]float64{x.Driver: x.values(xs), y.Driver: y.values(ys)})
	}
}

// Chooser tells which bidder is best where each costs so much, in minor units a month;
// -1 where none is. [tariff.Never] is what does not serve.
type Chooser func(prices []int64) int

// Cheapest chooses who costs least, the first of several.
func Cheapest(prices []int64) int {
	best := -1
	for i, p := range prices {
		if p != tariff.Never && (best < 0 || p < prices[best]) {
			best = i
		}
	}
	return best
}

// Field is who is best where, over two drivers.
type Field struct {
	Xs, Ys []int64
	Rows   [][]Region // of each value of Ys, the runs along x from the first of Xs to the last
	Best   [][]int    // of each value of Ys, at each of Xs
}

// NewField prices bidders at every pair of values, and finds to the unit where along x
// the best changes between two of them. Where it changes and changes back between two
// neighbouring values, neither is seen. Errors are those of reading usage.
func NewField(ctx context.Context, bidders []Bidder, read Pair, xs, ys []int64, choose Chooser) (*Field, error) {
	f := &Field{Xs: xs, Ys: ys}
	n := len(xs)
	ax, ay := make([]int64, 0, n*len(ys)), make([]int64, 0, n*len(ys))
	for _, y := range ys {
		for _, x := range xs {
			ax, ay = append(ax, x), append(ay, y)
		}
	}
	best, err := BestAt(ctx, bidders, read, ax, ay, choose)
	if err != nil {
		return nil, err
	}
	for j := range ys {
		f.Best = append(f.Best, best[j*n:(j+1)*n])
	}
	return f, f.refine(ctx, bidders, read, choose)
}

// BestAt chooses at each pair of values. Errors are those of reading usage.
func BestAt(ctx context.Context, bidders []Bidder, read Pair, xs, ys []int64, choose Chooser) ([]int, error) {
	best := make([]int, len(xs))
	return best, pricesAt(ctx, bidders, read, xs, ys, func(k int, prices []int64) { best[k] = choose(prices) })
}

// LevelAt returns at each pair of values who else costs the same as who is best there. Errors are those of
// reading usage.
func LevelAt(ctx context.Context, bidders []Bidder, read Pair, xs, ys []int64, best []int) ([][]int, error) {
	level := make([][]int, len(xs))
	return level, pricesAt(ctx, bidders, read, xs, ys, func(k int, prices []int64) {
		for i := range prices {
			if best[k] >= 0 && i != best[k] && prices[i] == prices[best[k]] {
				level[k] = append(level[k], i)
			}
		}
	})
}

// pricesAt hands on what all bidders cost at each pair of values.
func pricesAt(ctx context.Context, bidders []Bidder, read Pair, xs, ys []int64, take func(k int, prices []int64)) error {
	values, err := read(xs, ys)
	if err != nil {
		return err
	}
	all := make([][]int64, len(bidders))
	if err := work.Each(ctx, len(bidders), func(i int) (err error) { all[i], _, err = Prices(bidders[i], values); return err }); err != nil {
		return err
	}
	prices := make([]int64, len(bidders))
	for k := range xs {
		for i := range all {
			prices[i] = all[i][k]
		}
		take(k, prices)
	}
	return nil
}

// edge is where the best changes between two neighbouring values of a row.
type edge struct {
	row    int
	lo, hi int64
	left   int // the best at lo
	best   int // and at hi
	end    int64
	right  int // the best at end, the later of the neighbours
	nth    int // of those between the same two
}

// mostEdges is how often the best may change between two neighbours for each of the
// changes to be found.
const mostEdges = 3

// refine bisects all edges at once, and again from each to its later neighbour where a
// third is the best behind it, and makes the runs of each row.
func (f *Field) refine(ctx context.Context, bidders []Bidder, read Pair, choose Chooser) error {
	var edges []edge
	for j, row := range f.Best {
		for i := 1; i < len(row); i++ {
			if row[i] != row[i-1] {
				edges = append(edges, edge{row: j, lo: f.Xs[i-1], hi: f.Xs[i], left: row[i-1], best: row[i], end: f.Xs[i], right: row[i]})
			}
		}
	}
	for from := 0; from < len(edges); {
		found := edges[from:]
		if err := f.bisect(ctx, found, bidders, read, choose); err != nil {
			return err
		}
		from = len(edges)
		for i, e := range found {
			switch {
			case e.best == e.right:
			case e.nth == mostEdges: // enough: the rest goes by the later neighbour
				found[i].best = e.right
			default:
				edges = append(edges, edge{row: e.row, lo: e.hi, hi: e.end, left: e.best, best: e.right, end: e.end, right: e.right, nth: e.nth + 1})
			}
		}
	}
	slices.SortFunc(edges, func(a, b edge) int { return cmp.Or(cmp.Compare(a.row, b.row), cmp.Compare(a.hi, b.hi)) })
	f.Rows = make([][]Region, len(f.Ys))
	last := f.Xs[len(f.Xs)-1]
	for j, row := range f.Best {
		f.Rows[j] = []Region{{From: f.Xs[0], To: last, Least: row[0]}}
	}
	for _, e := range edges {
		row := f.Rows[e.row]
		row[len(row)-1].To = e.hi - 1
		f.Rows[e.row] = append(row, Region{From: e.hi, To: last, Least: e.best})
	}
	return nil
}

// bisect narrows each edge to two values next to each other.
func (f *Field) bisect(ctx context.Context, edges []edge, bidders []Bidder, read Pair, choose Chooser) error {
	for {
		var open []*edge
		var xs, ys []int64
		for i := range edges {
			if e := &edges[i]; e.hi-e.lo > 1 {
				open, xs, ys = append(open, e), append(xs, e.lo+(e.hi-e.lo)/2), append(ys, f.Ys[e.row])
			}
		}
		if len(open) == 0 {
			return nil
		}
		best, err := BestAt(ctx, bidders, read, xs, ys, choose)
		if err != nil {
			return err
		}
		for i, e := range open {
			if best[i] == e.left {
				e.lo = xs[i]
			} else {
				e.hi, e.best = xs[i], best[i]
			}
		}
	}
}

// Ticks returns about n whole values from low to high, evenly apart, the ends among
// them; each whole one where there are no more than n.
func Ticks(low, high int64, n int) []int64 {
	if high-low < int64(n) {
		all := make([]int64, 0, high-low+1)
		for x := low; x <= high; x++ {
			all = append(all, x)
		}
		return all
	}
	all := make([]int64, n)
	for i := range all {
		all[i] = low + (high-low)*int64(i)/int64(n-1)
	}
	return all
}
