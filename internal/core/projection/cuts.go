package projection

import (
	"math"
	"slices"

	"ninecoins/internal/core/tariff"
)

// cut is where a stretch that is not settled is taken apart: the first values of its
// second and its third part; no third is 0. Any cut is right; a good one settles most of
// both sides at once. Of what goes straight: with bends inside, it is the bend in the
// middle of the charge that has most, of any program that is left; without, the two
// sides of where the two that are cheapest at either end cross; where these are as wide
// as all of it, where a pack begins. Where nothing helps, the middle.
func (s *stretchOf) cut(l *lookout, left []alive) (second, third int64) {
	if s.lean || slices.ContainsFunc(left, func(a alive) bool { return !a.straight }) {
		return s.middle(), 0
	}
	if second, ok := s.bend(l, left, false); ok {
		return second, 0
	}
	if second, third, ok := s.crossing(l, left); ok {
		return second, third
	}
	if second, ok := s.bend(l, left, true); ok {
		return second, 0
	}
	return s.middle(), 0
}

// leans reports whether a cut leaves next to nothing on one side: where a meter counts
// by thousands, a bend is not quite where it should be, and would be missed again and
// again, one value at a time. What is left is then halved.
func (s *stretchOf) leans(second int64) bool {
	return min(second-s.from, s.to-second+1) < (s.to-s.from)/8
}

// bend is the value about the middle bend of the charge that has most.
func (s *stretchOf) bend(l *lookout, left []alive, packs bool) (second int64, ok bool) {
	most := 0
	for i := range left {
		for t, programs := range left[i].programs {
			from, to := l.ends(s, left[i].bidder, t)
			lo, hi := between(from, to)
			for _, p := range programs {
				meter, reading, many := l.bidders[left[i].bidder].Tools[t].Programs[p].Bend(LongSince, lo, hi, packs)
				if many > most {
					most, second = many, about(s.from, s.to, from[meter], to[meter], reading)
				}
			}
		}
	}
	return second, most > 0
}

// middle is a value of a stretch that halves it; prices turn by orders of magnitude.
func (s *stretchOf) middle() int64 {
	if s.to > 4*max(1, s.from) {
		return max(s.from, int64(math.Sqrt(float64(max(1, s.from))*float64(s.to)))) + 1
	}
	return s.from + (s.to-s.from)/2 + 1
}

// about is where a meter that goes straight from one reading, at a value of a driver, to
// another comes to a reading between them, or falls below it: above from, up to to.
func about(from, to, a, b, reading int64) int64 {
	far := float64(reading-a) / float64(b-a)
	if b < a {
		far = float64(a-reading+1) / float64(a-b)
	}
	return valueIn(from, to, float64(from)+math.Ceil(far*float64(to-from)))
}

// valueIn is a whole value above from, up to to.
func valueIn(from, to int64, x float64) int64 {
	return int64(min(max(x, float64(from+1)), float64(to)))
}

// straightLine is what a program, or a bidder of several tools of one each, costs at
// both ends of a stretch on which it goes straight, and by how much it may lie off.
type straightLine struct {
	from, to, noise int64
	straight        bool
	only            *tariff.Program // of one tool
	lo, hi          []int64         // its readings
}

// follow makes the line of a bidder that has one program left of each tool; false where
// it has more, or does not go straight.
func (s *stretchOf) follow(l *lookout, one *alive, line *straightLine) bool {
	if !one.straight {
		return false
	}
	tools := l.bidders[one.bidder].Tools
	for t, programs := range one.programs {
		if len(programs) != 1 {
			return false
		}
		p := tools[t].Programs[programs[0]]
		if len(tools) == 1 {
			line.only = p
		}
		from, to := l.ends(s, one.bidder, t)
		if !line.add(p, from, to) {
			return false
		}
	}
	line.less(l.bidders[one.bidder].Less)
	return true
}

// off is by how much two lines have to be apart to be sure of their order.
func (l *straightLine) off(o *straightLine) int64 {
	if l.only == nil || o.only == nil || l.only.Edition != o.only.Edition {
		return 2 * (l.noise + o.noise)
	}
	a, _ := l.only.Straight(LongSince, l.lo, l.hi, o.only)
	b, _ := o.only.Straight(LongSince, o.lo, o.hi, l.only)
	return 2 * (a + b)
}

// add puts a program of one more tool on a line; it is false where that does not go
// straight.
func (l *straightLine) add(p *tariff.Program, from, to []int64) bool {
	l.lo, l.hi = between(from, to)
	noise, ok := p.Straight(LongSince, l.lo, l.hi, nil)
	if !ok {
		return false
	}
	a, _ := p.Monthly(LongSince, from)
	b, _ := p.Monthly(LongSince, to)
	l.from, l.to, l.noise = l.from+a, l.to+b, l.noise+noise
	return true
}

// less counts off what falls away.
func (l *straightLine) less(by int64) { l.from, l.to = l.from-by, l.to-by }

// crossing cuts out of a stretch on which all goes straight where the cheapest at its
// beginning and the cheapest at its end are too close to be sure of.
func (s *stretchOf) crossing(l *lookout, left []alive) (second, third int64, ok bool) {
	var begins, ends straightLine // the cheapest there
	begins.from, ends.to = tariff.Never, tariff.Never
	cheapest := func(line straightLine) {
		if line.from < begins.from {
			begins = line
		}
		if line.to < ends.to {
			ends = line
		}
	}
	for i := range left {
		tools := l.bidders[left[i].bidder].Tools
		if len(tools) > 1 {
			var line straightLine
			if !s.follow(l, &left[i], &line) {
				return 0, 0, false
			}
			cheapest(line)
			continue
		}
		from, to := l.ends(s, left[i].bidder, 0)
		for _, p := range left[i].programs[0] { // each for itself
			line := straightLine{only: tools[0].Programs[p]}
			if !line.add(line.only, from, to) {
				return 0, 0, false
			}
			line.less(l.bidders[left[i].bidder].Less)
			cheapest(line)
		}
	}
	before, after := float64(ends.from-begins.from), float64(begins.to-ends.to)
	if before+after <= 0 {
		return 0, 0, false
	}
	long := float64(s.to - s.from)
	cross, wide := float64(s.from)+long*before/(before+after), long*float64(begins.off(&ends))/(before+after)
	if 4*wide+4 > long {
		return 0, 0, false
	}
	return valueIn(s.from, s.to, math.Floor(cross-wide)), valueIn(s.from, s.to, math.Ceil(cross+wide)+1), true
}
