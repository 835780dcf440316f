package tariff

import (
	"math"

	"ninecoins/internal/core/pricelist"
)

// CauseKind says why a price changes its course.
type CauseKind string

// The causes.
const (
	NextBand  CauseKind = "band"    // a band of a stair, or a stretch with another rate
	NextPack  CauseKind = "pack"    // another pack is begun
	PastLimit CauseKind = "limit"   // a limit of the plan is passed
	PastBands CauseKind = "bands"   // the last band with a price is passed
	Included  CauseKind = "charged" // what is included, or the least that is billed, is passed
	OtherWay  CauseKind = "add-ons" // another set of add-ons and packs costs less
)

// Cause is why a price changes its course at a reading.
type Cause struct {
	Kind   CauseKind
	Charge *pricelist.Charge // nil where it is a limit, or another set of add-ons
	AddOn  *pricelist.AddOn  // whose charge it is; nil for the plan's own
	Limit  *pricelist.Limit  // with [PastLimit]
}

// Next returns the first reading of a meter above q[meter] at which the price of
// since months after signing jumps, changes its slope or ends, the others held,
// and why. Between two such readings the exact price is one straight line of the
// reading, or level; what is rounded follows it. It is false where nothing changes
// up to the largest reading.
func (p *Program) Next(since, meter int, q []int64) (at int64, cause Cause, ok bool) {
	now := p.at(since)
	cost, serves := p.Cost(since, 0, q)
	at = math.MaxInt64
	take := func(x int64, why Cause) {
		if x > q[meter] && x < at {
			at, cause = x, why
		}
	}
	for i := range now.ways {
		w := &now.ways[i]
		w.breaks(meter, q, take)
		if p.Period != 1 {
			w.used.breaks(meter, q, take)
		}
	}
	if largest := largest(p.Edition)[meter]; at > largest {
		at = largest + 1
	}
	if len(now.ways) > 1 && serves {
		if x, found := p.otherWay(since, meter, q, cost.Way, at-1); found {
			return x, Cause{Kind: OtherWay}, true
		}
	}
	return at, cause, cause.Kind != ""
}

// otherWay finds the first reading up to an end, on which all ways are straight, at
// which another way is taken: bisected to where it must lie by the exact lines,
// which cross once, and walked from there over the cents by which roundings
// differ.
func (p *Program) otherWay(since, meter int, q []int64, way int, end int64) (int64, bool) {
	at := func(x int64) int {
		row := append([]int64(nil), q...)
		row[meter] = x
		c, ok := p.Cost(since, 0, row)
		if !ok {
			return -1
		}
		return c.Way
	}
	low, high := q[meter], end
	for probe := low + 1; probe < low+flicker && probe <= end; probe++ {
		if at(probe) != way {
			return probe, true
		}
	}
	if at(high) == way {
		return 0, false
	}
	for high-low > 1 {
		if mid := low + (high-low)/2; at(mid) == way {
			low = mid
		} else {
			high = mid
		}
	}
	for x := max(q[meter]+1, high-flicker); x < high; x++ {
		if at(x) != way {
			return x, true
		}
	}
	return high, true
}

// flicker is over how many readings around a crossing the rounded order may change
// to and fro.
const flicker = 256

// breaks tells at which readings of a meter above the present one the lines and
// limits of a way change their course next.
func (w *way) breaks(meter int, q []int64, take func(int64, Cause)) {
	w.bill.breaks(meter, q, take)
	for i := range w.limits {
		l := &w.limits[i]
		why := Cause{Kind: PastLimit, Limit: l.from}
		if l.from == nil {
			why.Kind = PastBands
		}
		if l.meter == meter && (l.times == nil || l.times.of != meter) {
			take(l.at(q)+1, why)
		} else if l.times != nil && l.times.of == meter && l.meter != meter {
			take(first(q[meter], math.MaxInt64/2, func(x int64) bool {
				row := append([]int64(nil), q...)
				row[meter] = x
				return (q[l.meter] > l.at(row)) != (q[l.meter] > l.at(q))
			}), why)
		}
	}
}

func (s *sheet) breaks(meter int, q []int64, take func(int64, Cause)) {
	for i := range s.lines {
		l, r := &s.lines[i], &s.refs[i]
		if l.meter != meter && (l.times == nil || l.times.of != meter) {
			continue
		}
		why := Cause{Kind: NextBand, Charge: r.charge, AddOn: r.addOn}
		if l.size > 0 {
			why.Kind = NextPack
			packs := l.packs(q)
			take(first(q[meter], math.MaxInt64/2/max(1, l.scale), func(x int64) bool {
				row := append([]int64(nil), q...)
				row[meter] = x
				return l.packs(row) != packs
			}), why)
			continue
		}
		if r.charge != nil && r.charge.Kind == pricelist.Unit {
			why.Kind = Included
		}
		for _, st := range l.stretches[:len(l.stretches)-1] {
			take(st.end+1, why)
		}
	}
}

// first returns the first x above low at which something is so that once it is so
// stays so, up to high; the largest number where it never is.
func first(low, high int64, is func(int64) bool) int64 {
	if high <= low || !is(high) {
		return math.MaxInt64
	}
	for high-low > 1 {
		if mid := low + (high-low)/2; is(mid) {
			high = mid
		} else {
			low = mid
		}
	}
	return high
}
