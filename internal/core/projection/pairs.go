package projection

import (
	"cmp"
	"slices"

	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/work"
)

// Two is how two lines stand to each other along a driver, over all of it.
type Two struct {
	A, B int // A comes first
	Runs []Run
}

// Run is a run of values at which the same of two costs less.
type Run struct {
	From, To int64
	Less     int   // A or B; [Same], [Turning] or [Unserved]
	Apart    int64 // [Turning]: by how much they are apart at most, in minor units
}

// What [Run.Less] is where it names neither of the two.
const (
	Same     = -1 // both cost the same
	Turning  = -2 // the two take turns, each for a few values
	Unserved = -3 // one has nothing that serves, or both
)

// mostGrid is at how many values more two are held against each other where their prices
// do not go straight between turns.
const mostGrid = 240

// aboutIt is how many values on either side of where two trade places are looked at one by
// one, where a meter rounds what it counts, so that they may trade back for a while.
const aboutIt = 64

// pairs holds every two lines of a sweep against each other: between their turns both go
// straight, so that what differs at two neighbouring turns is found by halving. It is
// exact but for cents, for lines that are [Line.Sloped] or have meters that bend between
// turns, which are looked at in [mostGrid] places more, and for two that rounding of a
// meter lets trade to and fro farther than [aboutIt] from there. Errors are those of
// reading usage.
func (s *Sweep) pairs(bidders []Bidder, read Usages) ([]Two, error) {
	xs := []int64{s.Low, s.High}
	for i, line := range s.Lines {
		if line.Sloped || slices.ContainsFunc(bidders[i].Tools, func(t Bid) bool { return !read.goesStraight(t.Edition) }) {
			xs = append(xs, Ticks(s.Low, s.High, mostGrid)...)
		}
		for k, t := range line.Turns {
			if line.bends(k, s.High) {
				xs = append(xs, max(s.Low, t.X-1), t.X)
			}
		}
	}
	slices.Sort(xs)
	w := &weighing{lines: s.Lines, bidders: bidders, read: read, xs: slices.Compact(xs), prices: make([][]int64, len(bidders))}
	values, err := read.At(w.xs)
	if err != nil {
		return nil, err
	}
	if err := work.Each(read.within(), len(bidders), func(i int) (err error) {
		w.prices[i], _, err = s.Lines[i].course.prices(bidders[i], values, w.xs)
		return err
	}); err != nil {
		return nil, err
	}
	var all []Two
	var open []unsettled
	for a := range bidders {
		for b := a + 1; b < len(bidders); b++ {
			for k := 1; k < len(w.xs); k++ {
				if left, right := w.stands(a, b, k-1), w.stands(a, b, k); left.less != right.less {
					open = append(open, unsettled{pair: len(all), left: left, right: right})
				}
			}
			all = append(all, Two{A: a, B: b})
		}
	}
	found, err := w.close(all, open)
	if err != nil {
		return nil, err
	}
	if err := w.lookAbout(all, found); err != nil {
		return nil, err
	}
	for i := range all {
		all[i].Runs = w.runs(&all[i], found[i])
	}
	return all, nil
}

// bends reports whether a line takes another course at a turn: it jumps, or another slope
// begins there, by more than the cents of rounding.
func (l *Line) bends(k int, high int64) bool {
	const cents = 30_000 // of millionths
	if k == 0 || k == len(l.Turns)-1 {
		return true
	}
	was, t, next := &l.Turns[k-1], &l.Turns[k], &l.Turns[k+1]
	if !was.Serves || !t.Served || !t.Serves || !next.Served {
		return true
	}
	first, second := float64(max(1, t.X-1-was.X)), float64(max(1, next.X-1-t.X))
	before, after := float64(t.Before-was.After)/first, float64(next.Before-t.After)/second
	jump := float64(t.After - t.Before)
	off := max(jump-before, before-jump)
	return off > cents || (after-before)*second > cents || (before-after)*second > cents
}

// standing is how two stand at a value.
type standing struct {
	x    int64
	less int
	by   int64 // they are apart
}

// unsettled lies between two neighbouring values at which a pair stands otherwise.
type unsettled struct {
	pair        int
	left, right standing
	at          int64 // the value that is looked at
}

// next is the value that is looked at next in an unsettled gap: where straight lines
// would cross, then a little to its longer side, then the middle.
func (g *unsettled) next(round int) int64 {
	long := g.right.x - g.left.x
	if apart := g.left.by + g.right.by; round < 3 && apart > 0 {
		x := g.left.x + int64(float64(long)*float64(g.left.by)/float64(apart))
		switch {
		case round == 0:
		case x-g.left.x > g.right.x-x:
			x -= 2
		default:
			x += 2
		}
		return min(max(x, g.left.x+1), g.right.x-1)
	}
	return g.left.x + long/2
}

// weighing holds bidders against each other at some values.
type weighing struct {
	lines   []Line
	bidders []Bidder
	read    Usages
	xs      []int64
	prices  [][]int64 // of each at each
}

func (w *weighing) stands(a, b, k int) standing {
	return standingOf(a, b, w.xs[k], w.prices[a][k], w.prices[b][k])
}

func standingOf(a, b int, x, costsA, costsB int64) standing {
	switch {
	case costsA == tariff.Never || costsB == tariff.Never:
		return standing{x, Unserved, 0}
	case costsA < costsB:
		return standing{x, a, costsB - costsA}
	case costsB < costsA:
		return standing{x, b, costsA - costsB}
	}
	return standing{x, Same, 0}
}

// close halves gaps until their sides are neighbours, and returns the values that were
// looked at, by pair.
func (w *weighing) close(pairs []Two, open []unsettled) (found [][]standing, err error) {
	found = make([][]standing, len(pairs))
	of := make([][]int, len(w.bidders)) // places in xs that are asked of each
	prices := make([][]int64, len(w.bidders))
	var xs, own []int64
	for round := 0; ; round++ {
		still := open[:0]
		for _, g := range open {
			if g.right.x-g.left.x > 1 {
				g.at = g.next(round)
				still = append(still, g)
			}
		}
		if open = still; len(open) == 0 {
			return found, nil
		}
		slices.SortFunc(open, func(a, b unsettled) int { return cmp.Compare(a.at, b.at) })
		xs = xs[:0]
		for i := range open {
			p := &pairs[open[i].pair]
			of[p.A], of[p.B] = append(of[p.A], i), append(of[p.B], i)
			xs = append(xs, open[i].at)
		}
		values, err := w.read.At(xs)
		if err != nil {
			return nil, err
		}
		for i, at := range of {
			if len(at) == 0 {
				continue
			}
			own = own[:0]
			for _, k := range at {
				own = append(own, xs[k])
			}
			if prices[i], _, err = w.lines[i].course.prices(w.bidders[i], values.Pick(at), own); err != nil {
				return nil, err
			}
			of[i] = at[:0]
		}
		for i := range len(open) {
			g := &open[i]
			p := &pairs[g.pair]
			mid := standingOf(p.A, p.B, xs[i], prices[p.A][0], prices[p.B][0])
			prices[p.A], prices[p.B] = prices[p.A][1:], prices[p.B][1:] // asked in this order
			found[g.pair] = append(found[g.pair], mid)
			switch mid.less {
			case g.left.less:
				g.left = mid
			case g.right.less:
				g.right = mid
			default: // a third way in between: both sides of it are open
				open = append(open, unsettled{pair: g.pair, left: mid, right: g.right})
				open[i].right = mid
			}
		}
	}
}

// lookAbout looks at each value near where two trade places that meters round for.
func (w *weighing) lookAbout(pairs []Two, found [][]standing) error {
	low, high := w.xs[0], w.xs[len(w.xs)-1]
	ends, err := readAll(w.bidders, w.read, []int64{low, high})
	if err != nil {
		return err
	}
	uneven := make([]bool, len(w.bidders))
	for i, tools := range ends {
		for t := range tools {
			for m, from := range tools[t][0] {
				uneven[i] = uneven[i] || (tools[t][1][m]-from)%(high-low) != 0
			}
		}
	}
	for i := range pairs {
		p := &pairs[i]
		if !uneven[p.A] && !uneven[p.B] || len(found[i]) == 0 {
			continue
		}
		var xs []int64
		last := low - 1
		for _, r := range w.runs(p, found[i])[1:] {
			for x := max(last+1, r.From-aboutIt); x <= min(high, r.From+aboutIt); x++ {
				xs, last = append(xs, x), x
			}
		}
		values, err := w.read.At(xs)
		if err != nil {
			return err
		}
		a, _, err := w.lines[p.A].course.prices(w.bidders[p.A], values, xs)
		if err != nil {
			return err
		}
		b, _, err := w.lines[p.B].course.prices(w.bidders[p.B], values, xs)
		if err != nil {
			return err
		}
		for k, x := range xs {
			found[i] = append(found[i], standingOf(p.A, p.B, x, a[k], b[k]))
		}
	}
	return nil
}

// runs puts together where a pair stands the same way, and short runs in turns.
func (w *weighing) runs(p *Two, found []standing) (all []Run) {
	slices.SortFunc(found, func(a, b standing) int { return cmp.Compare(a.x, b.x) })
	w.each(p, found, func(at standing) {
		if n := len(all); n == 0 || all[n-1].Less != at.less {
			all = append(all, Run{From: at.x, To: at.x, Less: at.less})
			return
		}
		all[len(all)-1].To = at.x
	})
	all = turning(all)
	for i := range all {
		if r := &all[i]; r.Less == Turning {
			w.each(p, found, func(at standing) {
				if at.x >= r.From && at.x <= r.To {
					r.Apart = max(r.Apart, at.by)
				}
			})
		}
	}
	return all
}

// each goes over the values at which a pair was held against each other.
func (w *weighing) each(p *Two, found []standing, take func(standing)) {
	a, b := w.prices[p.A], w.prices[p.B]
	for k, x := range w.xs {
		for ; len(found) > 0 && found[0].x < x; found = found[1:] {
			take(found[0])
		}
		take(standingOf(p.A, p.B, x, a[k], b[k]))
	}
}

// turning joins runs in which two take turns.
func turning(all []Run) (runs []Run) {
	short := func(r Run) bool { return r.Less != Unserved && r.To-r.From < max(2, r.From/100) }
	for i := 0; i < len(all); i++ {
		j := i
		for j < len(all) && short(all[j]) {
			j++
		}
		if j-i <= flickers {
			runs = append(runs, all[i])
			continue
		}
		runs, i = append(runs, Run{From: all[i].From, To: all[j-1].To, Less: Turning}), j-1
	}
	return runs
}

// Level marks in regions where others cost the same as the cheapest, by the pairs of it
// and them; regions and pairs name the same bidders.
func Level(regions []Region, pairs []Two) (all []Region) {
	for _, r := range regions {
		if r.Least < 0 || r.Level() {
			all = append(all, r)
			continue
		}
		type tie struct {
			with int
			Run
		}
		var ties []tie
		cuts := []int64{r.From}
		for i := range pairs {
			p := &pairs[i]
			if p.A != r.Least && p.B != r.Least {
				continue
			}
			for _, run := range p.Runs {
				if run.Less == Same && run.From <= r.To && run.To >= r.From {
					ties = append(ties, tie{p.A + p.B - r.Least, run})
					if cuts = append(cuts, max(run.From, r.From)); run.To < r.To {
						cuts = append(cuts, run.To+1)
					}
				}
			}
		}
		slices.Sort(cuts)
		cuts = slices.Compact(cuts)
		for k, from := range cuts {
			one := Region{From: from, To: r.To, Least: r.Least}
			if k+1 < len(cuts) {
				one.To = cuts[k+1] - 1
			}
			for _, t := range ties {
				if t.From <= one.From && t.To >= one.To {
					one.Beside = append(one.Beside, t.with)
				}
			}
			slices.Sort(one.Beside)
			all = append(all, one)
		}
	}
	return all
}
