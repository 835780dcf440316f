package tariff

import (
	"math"
	"math/big"
)

// stretch is a band of an exact line: at x it is base + rate·(x - from).
type stretch struct {
	from       int64
	end        int64 // the last reading that it holds for
	base, rate frac
}

// exactLine is a charge as it is written, in minor units of the list for each
// month or bill: what compiled numbers are made from, and what prices readings
// that are too large for them.
type exactLine struct {
	meter     int // -1 for what hangs on no reading
	stretches []stretch
	// A pack: the line runs over the number of packs of a size above a start, and
	// above a multiple of another reading, if that is higher. Both are counted in
	// scale parts of a reading.
	size, start, scale int64
	times              *multiple

	by   frac // what amounts are multiplied by: months, and what offers leave
	cast *cast
}

// one is the line of a fixed amount.
func one(amount frac) exactLine {
	return exactLine{meter: -1, stretches: []stretch{{end: math.MaxInt64, base: amount}}, by: whole(1)}
}

// packs returns how many packs are begun at some readings.
func (l *exactLine) packs(q []int64) int64 {
	x := q[l.meter]*l.scale - startAt(l.start, l.times, q)
	if x <= 0 {
		return 0
	}
	n := x / l.size
	if x%l.size != 0 {
		n++
	}
	return n
}

// startAt is above which reading packs are counted.
func startAt(start int64, times *multiple, q []int64) int64 {
	if times == nil {
		return start
	}
	return max(start, times.at(q))
}

// band is which stretch holds at a reading.
func (l *exactLine) band(x int64) int {
	i := 0
	for i < len(l.stretches)-1 && x > l.stretches[i].end {
		i++
	}
	return i
}

// at returns which stretch holds at some readings, and the exact amount there.
func (l *exactLine) at(q []int64) (int, *big.Rat) {
	x := int64(0)
	switch {
	case l.size > 0:
		x = l.packs(q)
	case l.meter >= 0:
		x = q[l.meter]
	}
	i := l.band(x)
	s := &l.stretches[i]
	amount := new(big.Rat).Mul(s.rate.rat(), new(big.Rat).SetInt64(x-s.from))
	amount.Add(amount, s.base.rat())
	return i, amount.Mul(amount, l.by.rat())
}

// rate is what one more adds in a stretch.
func (l *exactLine) rate(at int) *big.Rat { return l.stretches[at].rate.times(l.by).rat() }

// rounded returns r rounded to a whole number, half away from zero. No amount is
// negative.
func rounded(r *big.Rat) *big.Int {
	twice := new(big.Int).Lsh(r.Num(), 1)
	twice.Add(twice, r.Denom())
	return twice.Quo(twice, new(big.Int).Lsh(r.Denom(), 1))
}
