package tariff

import (
	"math"
	"math/big"
)

// Along is what a program costs along one of its meters, the others held.
type Along struct {
	Program *Program
	Since   int
	Meter   int
	At      []int64 // the readings of the other meters
}

func (a *Along) row(x int64) []int64 {
	row := append([]int64(nil), a.At...)
	row[a.Meter] = x
	return row
}

// Price returns what [Program.Price] does at a reading of the meter.
func (a *Along) Price(x int64) (int64, bool) { return a.Program.Price(a.Since, a.row(x)) }

// next is the first reading above x at which the price changes its course; the
// largest number where it does not.
func (a *Along) next(x int64) int64 {
	if at, _, ok := a.Program.Next(a.Since, a.Meter, a.row(x)); ok {
		return at
	}
	return math.MaxInt64
}

// straight returns the exact price at a reading and what one more adds to it, in
// minor units of the study before rounding, and by how much rounding may move it.
func (a *Along) straight(x int64) (value, slope, noise *big.Rat) {
	p, row := a.Program, a.row(x)
	c, _ := p.Cost(a.Since, 0, row)
	w := &p.at(a.Since).ways[c.Way]
	value, slope, noise = new(big.Rat), new(big.Rat), new(big.Rat)
	half := big.NewRat(1, 2)
	sheets := []*sheet{&w.bill}
	if p.Period != 1 {
		sheets = append(sheets, &w.used)
	}
	if a.Since == 0 {
		sheets = append(sheets, &w.once)
	}
	for _, s := range sheets {
		settle := s.settle.rat()
		for i := range s.lines {
			l := &s.lines[i]
			at, amount := l.at(row)
			value.Add(value, new(big.Rat).Mul(amount, settle))
			if l.meter == a.Meter && l.size == 0 {
				slope.Add(slope, new(big.Rat).Mul(l.rate(at), settle))
			}
		}
		noise.Add(noise, new(big.Rat).Mul(big.NewRat(int64(len(s.lines)), 2), settle))
		noise.Add(noise, half)
	}
	return value, slope, noise
}

// turns are the crossings of two prices that are looked at from one end to the other.
type turns struct {
	a, b prices
	now  Order
	all  []Crossing
}

func (t *turns) look(x int64) {
	if o := orderAt(x, t.a, t.b); o != t.now {
		t.all, t.now = append(t.all, Crossing{x, t.now, o}), o
	}
}

// Order says which of two prices is lower: -1 the first, 1 the second, 0 neither.
type Order int

// Crossing is a reading at which the order of two prices changes.
type Crossing struct {
	At     int64
	Before Order
	After  Order
}

// levelReadings is how many readings in a row are looked at one by one where two prices run
// so close to each other that only rounding tells them apart.
const levelReadings = 100_000

// Crossings returns every reading above low, up to high, at which the order of the
// rounded prices of two programs changes, a plan that does not serve costing more
// than any that does. Between two breaks both exact prices are straight, so they
// cross once; around that, where rounding may turn the order, each reading is
// priced. Where prices run level for more than a hundred thousand readings within
// what rounding may move them by, only the first of these are looked at one by
// one.
func Crossings(a, b *Along, low, high int64) []Crossing {
	seen := turns{a: a, b: b, now: orderAt(low, a, b)}
	for x := low; x < high; {
		end := min(a.next(x), b.next(x), high+1) - 1 // the last reading that is straight
		from, to := unsure(a, b, x, end)
		for y := from; y <= min(to, from+levelReadings); y++ {
			seen.look(y)
		}
		seen.look(max(end, x))
		if end < high {
			seen.look(end + 1)
		}
		x = end + 1
	}
	return seen.all
}

// unsure returns the readings of a straight stretch after x at which rounding may
// turn the order of two prices.
func unsure(a, b *Along, x, end int64) (from, to int64) {
	if _, ok := a.Price(x); !ok {
		return x + 1, x
	}
	if _, ok := b.Price(x); !ok {
		return x + 1, x
	}
	p, up, noise := a.straight(x)
	q, down, more := b.straight(x)
	apart, slope := p.Sub(p, q), up.Sub(up, down)
	noise.Add(noise, more)
	first, last, ok := near(apart, slope, noise)
	if !ok {
		return x + 1, x
	}
	return min(end, addUp(x, max(1, first))), min(end, addUp(x, last))
}

// near returns how many steps on two prices that lie apart, by more with each step,
// are within what rounding may move them by; false where they never are.
func near(apart, slope, noise *big.Rat) (first, last int64, ok bool) {
	if slope.Sign() == 0 {
		return 0, math.MaxInt64, new(big.Rat).Abs(apart).Cmp(noise) <= 0
	}
	// |apart + slope·d| <= noise for d between these two.
	from := new(big.Rat).Quo(new(big.Rat).Sub(new(big.Rat).Neg(noise), apart), slope)
	to := new(big.Rat).Quo(new(big.Rat).Sub(noise, apart), slope)
	if from.Cmp(to) > 0 {
		from, to = to, from
	}
	if to.Sign() < 0 {
		return 0, 0, false
	}
	if from.Sign() > 0 {
		first = narrowed(from).floor()
	}
	return first, addUp(narrowed(to).floor(), 1), true
}

// prices is what has a price along something.
type prices interface{ Price(x int64) (int64, bool) }

// orderAt tells which of two prices is lower, a plan that does not serve costing
// more than any that does.
func orderAt(x int64, a, b prices) Order {
	p, ok := a.Price(x)
	q, served := b.Price(x)
	switch {
	case ok && (!served || p < q):
		return -1
	case served && (!ok || q < p):
		return 1
	}
	return 0
}

// addUp adds, held at the largest number.
func addUp(a, b int64) int64 {
	if a > math.MaxInt64-b {
		return math.MaxInt64
	}
	return a + b
}
