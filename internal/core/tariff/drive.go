package tariff

import (
	"math/big"
	"slices"
)

// Drive is what a program costs along a driver of the study, at whole values of
// it. Read gives the readings of the meters at a value, by the same steps by which
// they are always read ([Read]), so that break points never disagree with prices.
//
// What is found is exact where each meter rises, or falls, with the driver all the
// way; a meter that does both between two values that are looked at may hide a
// break from view.
type Drive struct {
	Program *Program
	Since   int
	Read    func(x int64) []int64
}

// Price returns what [Program.Price] does at a value of the driver.
func (d *Drive) Price(x int64) (int64, bool) { return d.Program.Price(d.Since, d.Read(x)) }

// course is what holds as long as the price keeps its course: whether the plan
// serves, which set of add-ons and packs it takes, which band each charge falls in
// and how many packs are begun.
func (d *Drive) course(x int64, to []int64) []int64 {
	q := d.Read(x)
	c, ok := d.Program.Cost(d.Since, 0, q)
	if !ok {
		return append(to, -1)
	}
	return d.Program.Marks(c, d.Since, 0, q, to)
}

// Next returns the first value of the driver above x, up to most, at which the
// price changes its course, and which meter has brought it there and why; false
// where there is none.
func (d *Drive) Next(x, most int64) (at int64, meter int, cause Cause, ok bool) {
	at, ok = d.next(x, most)
	if !ok {
		return most, -1, Cause{}, false
	}
	before, after := d.Read(at-1), d.Read(at)
	meter = -1
	least := 0.0
	for m := range before {
		if after[m] == before[m] {
			continue
		}
		row := before
		if after[m] < before[m] {
			row = after // told from below
		}
		first, why, found := d.Program.Next(d.Since, m, row)
		if !found || first > max(before[m], after[m]) {
			continue
		}
		// Of several the one that comes first on the way from one value to the next.
		if share := float64(first-row[m]) / float64(max(before[m], after[m])-row[m]); meter < 0 || share < least {
			meter, cause, least = m, why, share
		}
	}
	return at, meter, cause, true
}

func (d *Drive) next(x, most int64) (int64, bool) {
	now := d.course(x, nil)
	var room [64]int64
	other := func(y int64) bool { return !slices.Equal(d.course(y, room[:0]), now) }
	low, high := x, x
	if d.wavers() {
		for ; high < min(most, x+flicker); low = high {
			if high++; other(high) {
				return high, true
			}
		}
	}
	for step := int64(1); ; step *= 2 {
		if high >= most {
			return 0, false
		}
		if high = addUp(low, step); high > most {
			high = most
		}
		if other(high) {
			break
		}
		low = high
	}
	from := low
	for high-low > 1 {
		if mid := low + (high-low)/2; other(mid) {
			high = mid
		} else {
			low = mid
		}
	}
	if d.wavers() {
		for y := max(from+1, high-flicker); y < high; y++ {
			if other(y) {
				return y, true
			}
		}
	}
	return high, true
}

// wavers reports whether rounding may turn the course to and fro where it changes:
// between sets of add-ons and packs, and about limits that are multiples of what
// the driver moves too.
func (d *Drive) wavers() bool {
	now := d.Program.at(d.Since)
	return len(now.ways) > 1 || slices.ContainsFunc(now.ways, func(w way) bool {
		return slices.ContainsFunc(w.limits, func(l limit) bool { return l.times != nil }) ||
			slices.ContainsFunc(w.bill.lines, func(l exactLine) bool { return l.times != nil })
	})
}

// exact is the price at a value before lines are rounded, and by how much that and
// the rounding of readings to whole units may move it, in minor units of the study.
func (d *Drive) exact(x int64) (value, noise *big.Rat) {
	p, row := d.Program, d.Read(x)
	c, _ := p.Cost(d.Since, 0, row)
	value, noise = new(big.Rat), new(big.Rat)
	w := &p.at(d.Since).ways[c.Way]
	for _, s := range []*sheet{&w.bill, &w.used, &w.once} {
		if s == &w.once && d.Since > 0 {
			break
		}
		settle := s.settle.rat()
		for i := range s.lines {
			l := &s.lines[i]
			at, amount := l.at(row)
			value.Add(value, new(big.Rat).Mul(amount, settle))
			unit := big.NewRat(1, 2)
			if l.size == 0 {
				unit.Add(unit, l.rate(at))
			}
			noise.Add(noise, unit.Mul(unit, settle))
		}
		noise.Add(noise, big.NewRat(1, 2))
	}
	return value, noise
}

// DriveCrossings returns every value of a driver above low, up to high, at which
// the order of the rounded prices of two programs changes, as [Crossings] does
// along a meter. Where a meter does not follow the driver in a straight line between
// two breaks, the way is halved until it nearly does; a bend that no half, quarter
// or eighth of the way shows may be missed.
func DriveCrossings(a, b *Drive, low, high int64) []Crossing {
	seen := turns{a: a, b: b, now: orderAt(low, a, b)}
	for x := low; x < high; {
		end := high
		for _, d := range []*Drive{a, b} {
			if at, ok := d.next(x, end); ok {
				end = min(end, at-1)
			}
		}
		end = max(end, x)
		between(a, b, x, end, seen.look)
		if end < high {
			seen.look(end + 1)
		}
		x = end + 1
	}
	return seen.all
}

// shortWay is how many values are looked at one by one.
const shortWay = 32

// between looks at the values above one, up to an end, at which rounding may turn the
// order of two prices, and at the end. Both keep their course on the way.
func between(a, b *Drive, x, end int64, look func(int64)) {
	_, ok := a.Price(x)
	if _, served := b.Price(x); !ok || !served {
		look(max(x, end))
		return
	}
	if end-x <= shortWay {
		for y := x + 1; y <= end; y++ {
			look(y)
		}
		return
	}
	first, noise := apart(a, b, x)
	last, more := apart(a, b, end)
	noise.Add(noise, more)
	noise.Add(noise, noise) // both ends may be off, and what lies between them
	slope := new(big.Rat).Quo(new(big.Rat).Sub(last, first), new(big.Rat).SetInt64(end-x))
	for part := int64(1); part < 8; part++ {
		at := (end - x) / 8 * part
		value, _ := apart(a, b, x+at)
		straight := new(big.Rat).Mul(slope, new(big.Rat).SetInt64(at))
		straight.Add(straight, first)
		if off := straight.Sub(straight, value); off.Abs(off).Cmp(noise) > 0 {
			middle := x + (end-x)/2
			between(a, b, x, middle, look)
			between(a, b, middle, end, look)
			return
		}
	}
	if left, right, ok := near(first, slope, noise); ok {
		from := max(x+1, addUp(x, left))
		for y := from; y <= min(addUp(x, right), addUp(from, levelReadings), end); y++ {
			look(y)
		}
	}
	look(end)
}

// apart is how far two prices lie apart before rounding, and by how much that may
// move them.
func apart(a, b *Drive, x int64) (value, noise *big.Rat) {
	p, noise := a.exact(x)
	q, more := b.exact(x)
	return p.Sub(p, q), noise.Add(noise, more)
}
