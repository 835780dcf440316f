package tariff

import (
	"math"
	"math/bits"
	"slices"
)

// cast is what the lines of a charge have in common, whatever they are multiplied by.
type cast struct {
	parts  uint64     // of a minor unit, in which amounts are whole; 0 where none are
	bands  []straight // as far as 64 bits hold them, in these parts
	ladder ladder
	made   []piece
}

// straight is what a stretch begins with, and what one more adds.
type straight struct{ base, rate uint64 }

// piece is a line times a factor, as numbers of 64 bits: a knee, or what is not nil.
type piece struct {
	by    frac // the factor
	fits  bool
	knee  knee
	stair *stair
	table *table
	bands []straight // of packs
	div   divisor
	safe  int64
}

// casting finds the parts in which all amounts of a line are whole.
func (l *exactLine) casting() *cast {
	c, d := &cast{}, uint64(1)
	for i := range l.stretches {
		for _, f := range [2]*frac{&l.stretches[i].base, &l.stretches[i].rate} {
			if f.wide != nil {
				continue // it is cut off below
			}
			var ok bool
			if d, ok = multipleOf(d, f.d()); !ok {
				return c
			}
		}
	}
	c.parts, c.bands = d, make([]straight, 0, len(l.stretches))
	ends := make([]int64, 0, len(l.stretches))
	for i := range l.stretches {
		st := &l.stretches[i]
		base, fits := st.base.scaled(d)
		rate, small := st.rate.scaled(d)
		if !fits || !small {
			break
		}
		c.bands, ends = append(c.bands, straight{base, rate}), append(ends, st.end)
	}
	c.ladder = ladderUpTo(ends)
	return c
}

// ladderUpTo is a ladder whose last band goes on.
func ladderUpTo(ends []int64) (l ladder) {
	if len(ends) > 0 {
		ends[len(ends)-1] = math.MaxInt64
		l = ladderOf(ends)
	}
	return l
}

// upTo is the ladder over so many bands.
func (c *cast) upTo(n int) ladder {
	if n == len(c.bands) {
		return c.ladder
	}
	return ladderUpTo(slices.Clone(c.ladder.ends[:n]))
}

// compiled is a line as numbers of 64 bits, or false where these do not hold it. It is
// made once for each factor.
func (l *exactLine) compiled(largest int64) (piece, bool) {
	if l.cast == nil {
		l.cast = l.casting()
	}
	for i := range l.cast.made {
		if m := &l.cast.made[i]; m.by == l.by {
			return *m, m.fits
		}
	}
	made := l.cast.times(l, largest)
	made.by = l.by
	l.cast.made = append(l.cast.made, made)
	return made, made.fits
}

func (c *cast) times(l *exactLine, largest int64) (p piece) {
	if c.parts == 0 || l.by.wide != nil || l.by.n < 0 {
		return p
	}
	g := gcd(c.parts, magnitude(l.by.n))
	by := magnitude(l.by.n) / g
	d, ok := times64(c.parts/g, l.by.d())
	if d == 1 {
		d = 2 // a reciprocal of one does not fit
		by *= 2
	}
	if !ok || d > math.MaxInt64/4 {
		return p
	}
	safe := largest
	if l.size > 0 {
		safe = math.MaxInt64 / 4
	}
	limit := int64(math.MaxInt64 / 4) // what numerators may come to
	if hi, lo := bits.Mul64(d, mostMinor); hi == 0 && lo < math.MaxInt64 {
		limit = min(limit, int64(lo))
	}
	all := make([]straight, 0, len(c.bands))
	for i, b := range c.bands {
		base, fits := times64(b.base, by)
		rate, small := times64(b.rate, by)
		if !fits || !small || base > uint64(limit) || rate > uint64(limit) {
			break
		}
		all = append(all, straight{base, rate})
		if st := &l.stretches[i]; rate > 0 {
			if reach := (uint64(limit) - base) / rate; reach < uint64(min(st.end, safe)-min(st.from, safe)) {
				safe = min(safe, st.from+int64(reach))
			}
		}
	}
	cut := len(all) < len(l.stretches)
	if len(all) == 0 {
		return p
	}
	if cut {
		safe = min(safe, l.stretches[len(all)-1].end)
	}
	if p.div, p.fits = reciprocal(d, uint64(limit)); !p.fits {
		return p
	}
	p.safe = safe
	first := &l.stretches[0]
	switch {
	case l.size > 0:
		p.bands = all
	case len(all) == 2 && all[0].rate == 0 && l.stretches[1].from == first.end && all[0].base == all[1].base:
		p.knee = knee{0, l.meter, first.end, safe, all[1].base + p.div.half, all[1].rate, p.div}
	case len(all) == 1 && first.from == 0:
		p.knee = knee{0, l.meter, 0, safe, all[0].base + p.div.half, all[0].rate, p.div}
	case safe == largest && !slices.ContainsFunc(all, func(b straight) bool { return b.rate != 0 }):
		p.stair = &stair{meter: l.meter, ladder: c.upTo(len(all)), amounts: make([]int64, len(all))}
		for i, b := range all {
			p.stair.amounts[i] = p.div.round(b.base)
		}
	default:
		p.table = &table{meter: l.meter, safe: safe, div: p.div, ladder: c.upTo(len(all)), bands: make([]band, len(all))}
		for i, b := range all {
			p.table.bands[i] = band{b.base + p.div.half - b.rate*uint64(l.stretches[i].from), b.rate}
		}
	}
	return p
}
