package projection

import (
	"context"
	"slices"

	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/work"
)

// Region is a run of values of a driver in which the same bidder costs least; of
// several that cost the same the one that stands first.
type Region struct {
	From, To int64
	Least    int // index of the bidder; -1 where none serves
	// Who costs the same there; where it takes turns with Least, they are up to Apart apart,
	// in minor units.
	Beside []int
	Apart  int64
}

// Level reports whether others cost the same, or take turns.
func (r *Region) Level() bool { return len(r.Beside) > 0 }

// mostLooks is how many stretches of a driver are looked at. What is not settled then
// goes by its first value.
const mostLooks = 60_000

// alive are the bidders, and their programs, that may still cost least on a stretch.
type alive struct {
	bidder   int
	programs [][]int32 // by tool
	straight bool      // what it counts goes straight with the driver
}

type stretchOf struct {
	from, to    int64
	first, last int32 // their places in a [lookout]
	alive       []alive
	lean        bool // it comes of a cut near its end
}

// Regions finds who costs least at every whole value of a driver from low to high.
// Stretches of values are cut until one bidder costs no more at any of their values than
// the others cost at any (bounds of [tariff.Program.Bounds]), or one value is left; of
// two that both go straight, until they are further apart at both ends than rounding
// and packs may move them. Nothing is sampled. It is exact where each meter rises or
// falls with the driver all the way, up to [mostLooks] stretches; whole tells whether
// these sufficed.
// Errors are those of reading usage at a value.
func Regions(bidders []Bidder, read Usages, low, high int64) (regions []Region, whole bool, err error) {
	courses := make([]course, len(bidders))
	for i, b := range bidders {
		courses[i] = anyOf(b, low)
	}
	return regionsOf(bidders, courses, read, low, high)
}

// regionsOf is [Regions] of bidders of which it is known which programs can be the cheapest where.
func regionsOf(bidders []Bidder, courses []course, read Usages, low, high int64) (regions []Region, whole bool, err error) {
	l := newLookout(bidders, read)
	whole = true
	looks, open := 0, l.begins(courses, low, high)
	for len(open) > 0 {
		if err := l.look(open); err != nil {
			return nil, false, err
		}
		next := make([]stretchOf, 0, len(open))
		found := make([]finding, len(open))
		if err := inParts(read.within(), len(open), func(i int) {
			s, one := &open[i], &found[i]
			if one.least, one.left, one.settled = s.settle(l); !one.settled && s.to-s.from >= shortest {
				one.second, one.third = s.cut(l, one.left)
			}
		}); err != nil {
			return nil, false, err
		}
		var short []stretchOf
		for i := range open {
			s := &open[i]
			looks++
			one := found[i]
			if !one.settled && s.to-s.from < shortest {
				s.alive = one.left
				short = append(short, *s)
				continue
			}
			if !one.settled && looks+len(next) > mostLooks {
				whole, one.settled = false, true
			}
			if one.settled {
				regions = append(regions, Region{From: s.from, To: s.to, Least: one.least})
				continue
			}
			lean := one.third == 0 && s.leans(one.second)
			for _, x := range []int64{one.second, one.third} {
				if x > s.from {
					next = append(next, stretchOf{s.from, x - 1, s.first, l.value(x - 1), one.left, lean})
					s.from, s.first = x, l.value(x)
				}
			}
			next = append(next, stretchOf{s.from, s.to, s.first, s.last, one.left, lean})
		}
		if len(short) > 0 {
			priced, err := l.each(short)
			if err != nil {
				return nil, false, err
			}
			regions = append(regions, priced...)
		}
		open = next
	}
	slices.SortFunc(regions, func(a, b Region) int { return int(max(-1, min(1, a.From-b.From))) })
	regions = level(joined(regions))
	return regions, whole, apart(bidders, read, regions)
}

// mostApart is at how many values at most two that take turns are held against each other.
const mostApart = 20_000

// apart finds by how much those lie apart at most who take turns in a region.
func apart(bidders []Bidder, read Usages, regions []Region) error {
	for i := range regions {
		r := &regions[i]
		if !r.Level() {
			continue
		}
		values, err := read.At(Ticks(r.From, r.To, mostApart))
		if err != nil {
			return err
		}
		one, _, err := Prices(bidders[r.Least], values)
		if err != nil {
			return err
		}
		other, _, err := Prices(bidders[r.Beside[0]], values)
		if err != nil {
			return err
		}
		for k := range one {
			if one[k] == tariff.Never || other[k] == tariff.Never {
				continue
			}
			r.Apart = max(r.Apart, one[k]-other[k], other[k]-one[k])
		}
	}
	return nil
}

// finding is what is found of a stretch.
type finding struct {
	least   int
	left    []alive
	settled bool
	second  int64 // the first value of its second part
	third   int64 // and of its third; 0: it has none
}

// inParts does something for each of n, a run of them on each processor.
func inParts(ctx context.Context, n int, do func(i int)) error {
	const run = 16
	if n <= run {
		for i := range n {
			do(i)
		}
		return nil
	}
	return work.Each(ctx, (n+run-1)/run, func(k int) error {
		for i := k * run; i < min(n, (k+1)*run); i++ {
			do(i)
		}
		return nil
	})
}

// joined puts runs of the same bidder together.
func joined(all []Region) (runs []Region) {
	for _, r := range all {
		if n := len(runs); n > 0 && runs[n-1].Least == r.Least {
			runs[n-1].To = r.To
			continue
		}
		runs = append(runs, r)
	}
	return runs
}

// flickers is how often two bidders take turns within a range of values for it to be
// said that they are level there.
const flickers = 4

// level joins runs in which two bidders take turns, each shorter than a hundredth of
// where it stands.
func level(all []Region) (runs []Region) {
	short := func(r Region) bool { return r.To-r.From < max(2, r.From/100) }
	for i := 0; i < len(all); {
		j := i
		for j+1 < len(all) && all[j].Least >= 0 && all[j+1].Least >= 0 && short(all[j+1]) && (j == i || all[j+1].Least == all[j-1].Least) {
			j++
		}
		if j-i < flickers {
			runs = append(runs, all[i])
			i++
			continue
		}
		if !short(all[i]) { // it leads up to where the turns begin
			runs = append(runs, all[i])
			i++
		}
		runs = append(runs, Region{From: all[i].From, To: all[j].To, Least: all[i].Least, Beside: []int{all[i+1].Least}})
		i = j + 1
	}
	return runs
}

// settle tells who costs least on the whole stretch, or who may.
func (s *stretchOf) settle(l *lookout) (least int, left []alive, settled bool) {
	type bounds struct {
		of        int // in s.alive
		low, high int64
	}
	var some [24]bounds
	var room [128]int64 // the lowest price of each program, and the highest of each tool
	all, lows := some[:0], room[:0]
	top := int64(tariff.Never)
	for i := range s.alive {
		one, here := &s.alive[i], bounds{of: i}
		for t, programs := range one.programs {
			bid := &l.bidders[one.bidder].Tools[t]
			lo, hi := between(l.ends(s, one.bidder, t))
			known, may, first := [2]int64{tariff.Never, tariff.Never}, [2]int64{tariff.Never, tariff.Never}, len(lows)
			for _, p := range programs {
				a, b := bid.Programs[p].Bounds(LongSince, lo, hi)
				of := &known
				if len(bid.Programs[p].Questions) > 0 {
					of = &may
				}
				lows, of[0], of[1] = append(lows, a), min(of[0], a), min(of[1], b)
			}
			// One that meets all musts for sure comes before those that may.
			low, high := min(known[0], may[0]), int64(tariff.Never)
			switch {
			case known[1] != tariff.Never:
				low, high = known[0], known[1]
				for k, p := range programs {
					if len(bid.Programs[p].Questions) > 0 {
						lows[first+k] = tariff.Never
					}
				}
			case known[0] == tariff.Never:
				high = may[1]
			}
			lows = append(lows, high)
			here.low, here.high = together(here.low, low), together(here.high, high)
		}
		less := l.bidders[one.bidder].Less
		here.low, here.high = cheaper(here.low, less), cheaper(here.high, less)
		all, top = append(all, here), min(top, here.high)
	}
	all = slices.DeleteFunc(all, func(one bounds) bool { return one.low > top || one.low == tariff.Never })
	if len(all) == 0 {
		return -1, nil, true
	}
	// The first of those with the lowest upper bound is the only one that can be sure.
	best := 0
	for i := range all {
		if all[i].high < all[best].high {
			best = i
		}
	}
	settled = all[best].high != tariff.Never
	for i := range all {
		if i < best {
			settled = settled && all[best].high < all[i].low
		} else if i > best {
			settled = settled && all[best].high <= all[i].low
		}
	}
	if !settled && s.from < s.to {
		left = make([]alive, 0, len(all))
		next := 0 // in all
		for i := range s.alive {
			one := s.alive[i]
			stays := next < len(all) && all[next].of == i
			programs := one.programs
			for t, of := range one.programs {
				if stays {
					if few := mayStill(of, lows[:len(of)], lows[len(of)]); len(few) < len(of) {
						if &programs[0] == &one.programs[0] { // they are of other stretches too
							programs = slices.Clone(programs)
						}
						programs[t] = few
					}
				}
				lows = lows[len(of)+1:]
			}
			if stays {
				left, next = append(left, alive{one.bidder, programs, one.straight}), next+1
			}
		}
		left, settled = s.apart(l, left)
		return left[0].bidder, left, settled
	}
	if !settled { // several cost the same: the first of them
		best = slices.IndexFunc(all, func(one bounds) bool { return one.low == top })
	}
	return s.alive[all[best].of].bidder, nil, true
}

// cheaper is a price by so much less, which may be [tariff.Never].
func cheaper(price, less int64) int64 {
	if price == tariff.Never {
		return price
	}
	return price - less
}

// mayStill are the programs that may cost no more than high.
func mayStill(programs []int32, lows []int64, high int64) []int32 {
	may := func(low int64) bool { return low <= high && low != tariff.Never }
	if !slices.ContainsFunc(lows, func(low int64) bool { return !may(low) }) {
		return programs
	}
	kept := make([]int32, 0, len(programs))
	for k, p := range programs {
		if may(lows[k]) {
			kept = append(kept, p)
		}
	}
	return kept
}

// apart leaves out who costs more than another at both ends of a stretch, and by more
// than either may lie off the straight line in between; settled tells that one is left
// that serves all of it.
func (s *stretchOf) apart(l *lookout, left []alive) (kept []alive, settled bool) {
	var room [24]straightLine
	all, best := room[:min(len(left), len(room))], -1
	if len(left) > len(room) {
		all = make([]straightLine, len(left))
	}
	for i := range left {
		if all[i].straight = s.follow(l, &left[i], &all[i]); all[i].straight && (best < 0 || all[i].from < all[best].from) {
			best = i
		}
	}
	if best < 0 {
		return left, false
	}
	kept = left[:0] // made for this stretch
	for i := range left {
		off := int64(0)
		if i != best && all[i].straight {
			off = all[i].off(&all[best])
		}
		if i == best || !all[i].straight || all[i].from-all[best].from <= off || all[i].to-all[best].to <= off {
			kept = append(kept, left[i])
		}
	}
	return kept, len(kept) == 1
}
