package projection

import (
	"slices"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/work"
)

// Line is what a bidder costs a month along a driver.
type Line struct {
	Turns []Turn
	// Steps that are too many to be told one by one are drawn as a slope.
	Sloped bool

	course course
}

// Turn is a value of the driver from which on the price takes another course: up to it,
// from the turn before, it is straight but for cents, for steps that are drawn as a
// slope, and for bends that a formula makes of the driver itself.
type Turn struct {
	X       int64
	Before  money.Amount // a month at X-1
	After   money.Amount // a month at X
	Served  bool         // at X-1
	Serves  bool         // at X
	Program int          // of the first tool, at X
}

// mostTold is how many packs, or readings, of a charge are told one by one.
const mostTold = 60

// Sweep is what several bidders cost along a driver from Low to High.
type Sweep struct {
	Low, High int64
	Lines     []Line
	Regions   []Region // who costs least where, of those that are not out
	Pairs     []Two    // how every two lines stand to each other
	Whole     bool     // every value was settled
}

// NewSweep follows bidders along a driver. Turns are exact where each meter rises or
// falls with the driver all the way. Errors are those of reading usage.
func NewSweep(c money.Currency, bidders []Bidder, read Usages, low, high int64) (*Sweep, error) {
	s := &Sweep{Low: low, High: high}
	var err error
	breaks, sloped, err := breaksOf(bidders, read, low, high)
	if err != nil {
		return nil, err
	}
	s.Lines = make([]Line, len(bidders))
	err = work.Each(read.within(), len(bidders), func(i int) (err error) {
		s.Lines[i], err = lineOf(c, bidders[i], read, low, high, breaks[i])
		s.Lines[i].Sloped = sloped[i]
		return err
	})
	if err != nil {
		return nil, err
	}
	if err := s.lead(bidders, read); err != nil {
		return nil, err
	}
	if s.Pairs, err = s.pairs(bidders, read); err != nil {
		return nil, err
	}
	s.Regions = Level(s.Regions, slices.DeleteFunc(slices.Clone(s.Pairs), func(p Two) bool { return bidders[p.A].Out || bidders[p.B].Out }))
	return s, nil
}

// lead finds who costs least at every value, of those that may.
func (s *Sweep) lead(bidders []Bidder, read Usages) (err error) {
	var some []Bidder
	var courses []course
	var of []int
	for i, b := range bidders {
		if !b.Out {
			some, courses, of = append(some, b), append(courses, s.Lines[i].course), append(of, i)
		}
	}
	s.Regions, s.Whole, err = regionsOf(some, courses, read, s.Low, s.High)
	Named(s.Regions, of)
	return err
}

// Named gives the bidders of regions the numbers that they have elsewhere.
func Named(regions []Region, of []int) {
	for k := range regions {
		if r := &regions[k]; r.Least >= 0 {
			r.Least = of[r.Least]
			for i := range r.Beside {
				r.Beside[i] = of[r.Beside[i]]
			}
		}
	}
}

// lineOf follows one bidder, whose programs take another course at some values.
func lineOf(c money.Currency, b Bidder, read Usages, low, high int64, breaks []int64) (line Line, err error) {
	if line.course, err = courseOf(b, read, low, high); err != nil {
		return line, err
	}
	for _, run := range line.course[0] {
		breaks = append(breaks, run.from)
	}
	line.Turns, err = line.turnsAt(c, b, read, low, breaks)
	return line, err
}

// turnsAt prices a bidder before and at each value.
func (l *Line) turnsAt(c money.Currency, b Bidder, read Usages, low int64, at []int64) ([]Turn, error) {
	slices.Sort(at)
	at = slices.Compact(append([]int64{low}, at...))
	xs := make([]int64, 0, 2*len(at))
	for _, x := range at {
		xs = append(xs, max(low, x-1), x)
	}
	values, err := read.At(xs)
	if err != nil {
		return nil, err
	}
	prices, programs, err := l.course.prices(b, values, xs)
	if err != nil {
		return nil, err
	}
	turns := make([]Turn, len(at))
	for i, x := range at {
		before, after := prices[2*i], prices[2*i+1]
		turns[i] = Turn{X: x, Served: before != tariff.Never, Serves: after != tariff.Never, Program: programs[2*i+1]}
		if turns[i].Served {
			turns[i].Before = amountOf(c, before)
		}
		if turns[i].Serves {
			turns[i].After = amountOf(c, after)
		}
	}
	return turns, nil
}

// broken is a reading of a meter from which on a program takes another course, and the
// value of the driver that reaches it.
type broken struct {
	edition *pricelist.Edition
	meter   int
	reading int64
	falls   bool // the reading falls as the driver rises
	lo, hi  int64
	ends    [2]int64 // the readings there, before anything was looked at
	owners  []int    // bidders
}

// breaksOf finds the values of the driver at which some program of each bidder takes
// another course.
func breaksOf(bidders []Bidder, read Usages, low, high int64) (at [][]int64, sloped []bool, err error) {
	at, sloped = make([][]int64, len(bidders)), make([]bool, len(bidders))
	ends, err := readAll(bidders, read, []int64{low, high})
	if err != nil {
		return nil, nil, err
	}
	type key struct {
		edition *pricelist.Edition
		meter   int
		reading int64
	}
	known := map[key]*broken{}
	var all []*broken
	for i, b := range bidders {
		for t, bid := range b.Tools {
			for m := range bid.Edition.Meters {
				from, to := ends[i][t][0][m], ends[i][t][1][m]
				falls := to < from
				if falls {
					from, to = to, from
				}
				for _, p := range bid.Programs {
					readings, whole := p.Breaks(LongSince, m, from, to, mostTold, to-from < high-low || to-from <= mostTold)
					sloped[i] = sloped[i] || !whole
					for _, r := range readings {
						k := key{bid.Edition, m, r}
						one, ok := known[k]
						if !ok {
							one = &broken{edition: bid.Edition, meter: m, reading: r, falls: falls, lo: low, hi: high, ends: [2]int64{ends[i][t][0][m], ends[i][t][1][m]}}
							known[k], all = one, append(all, one)
						}
						if !slices.Contains(one.owners, i) {
							one.owners = append(one.owners, i)
						}
					}
				}
			}
		}
	}
	if err := reach(all, read); err != nil {
		return nil, nil, err
	}
	for _, one := range all {
		for _, i := range one.owners {
			at[i] = append(at[i], one.hi)
		}
	}
	return at, sloped, nil
}

// reach finds for all at once the first value of the driver whose reading is past a
// break: it looks where a straight meter would come to it, then halves what is left.
func reach(all []*broken, read Usages) error {
	for first := true; ; first = false {
		var xs []int64
		var open []*broken
		for _, one := range all {
			if one.hi-one.lo <= 1 {
				continue
			}
			x := one.lo + (one.hi-one.lo)/2
			if first {
				if x = about(one.lo, one.hi, one.ends[0], one.ends[1], one.reading); x < one.hi {
					open, xs = append(open, one), append(xs, x)
				}
				x--
			}
			if x > one.lo {
				open, xs = append(open, one), append(xs, x)
			}
		}
		if len(open) == 0 {
			if first {
				continue
			}
			return nil
		}
		values, err := read.At(xs)
		if err != nil {
			return err
		}
		of := map[*pricelist.Edition][]int{}
		place := make([]int, len(open))
		for i, one := range open {
			place[i] = len(of[one.edition])
			of[one.edition] = append(of[one.edition], i)
		}
		rows := map[*pricelist.Edition][][]int64{}
		for e, at := range of {
			if rows[e], err = tariff.Read(e, values.Pick(at)); err != nil {
				return err
			}
		}
		for i, one := range open {
			switch past := rows[one.edition][place[i]][one.meter] >= one.reading; {
			case past != one.falls:
				one.hi = min(one.hi, xs[i])
			default:
				one.lo = max(one.lo, xs[i])
			}
		}
	}
}
