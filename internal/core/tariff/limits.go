package tariff

import (
	"math"
	"math/bits"
	"slices"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// limit is the most of a meter that is served: a number, or a multiple of another
// reading.
type limit struct {
	meter int
	most  int64
	times *multiple
	from  *pricelist.Limit // nil: the end of a charge's bands, above which the price is on request
}

// multiple is ⌊(x·num + more)/den⌋ + plus of a reading x.
type multiple struct {
	of             int
	num, den, more uint64 // more is below den
	plus           int64
}

func (m *multiple) at(q []int64) int64 {
	hi, lo := bits.Mul64(uint64(q[m.of]), m.num)
	lo, carry := bits.Add64(lo, m.more, 0)
	if hi += carry; hi >= m.den {
		return math.MaxInt64
	}
	n, _ := bits.Div64(hi, lo, m.den)
	return int64(min(n, uint64(math.MaxInt64-m.plus))) + m.plus
}

// limits compiles the limits that hold with a set of add-ons and packs.
func (c *Program) limits(w *way) {
	for i := range c.Plan.Limits {
		l := &c.Plan.Limits[i]
		raised, any := w.raised(l.Meter)
		if !l.Holds() || any || l.Beyond == pricelist.BuyPack && (c.billsPacks(l.Meter) ||
			slices.ContainsFunc(w.packs, func(ch *pricelist.Charge) bool { return ch.Meter == l.Meter })) {
			continue
		}
		w.limits = append(w.limits, c.limit(l, raised))
	}
}

// raised is by how much the add-ons raise limits on a meter, and whether as far
// as needed.
func (w *way) raised(meter string) (by usage.Quantity, unlimited bool) {
	for _, a := range w.addOns {
		for _, r := range a.Raises {
			if r.Meter == meter {
				by, unlimited = min(usage.Most, by+r.By), unlimited || r.Unlimited
			}
		}
	}
	return by, unlimited
}

func (c *Program) limit(l *pricelist.Limit, raised usage.Quantity) limit {
	one := limit{meter: c.meter(l.Meter), from: l}
	if l.OfMeter != "" {
		one.times = c.multiple(l, raised, 1)
	} else {
		one.most = int64(min(usage.Most, l.Most+raised)) / c.grain(one.meter)
	}
	return one
}

// multiple is what a limit that is one allows of its meter, raised by so much, in
// parts of a reading. Numbers with six decimals over meters of a grain of 10^6
// at most keep within 64 bits.
func (c *Program) multiple(l *pricelist.Limit, raised usage.Quantity, parts int64) *multiple {
	m, of := c.meter(l.Meter), c.meter(l.OfMeter)
	by := ratio(int64(l.Times), int64(usage.One))
	by = by.times(ratio(c.grain(of)*parts, c.grain(m)))
	plus := c.grains(raised, m).times(whole(parts))
	den, _ := multipleOf(by.d(), plus.d())
	one := &multiple{of: of, den: den, plus: plus.floor()}
	one.num, _ = by.scaled(den)
	one.more, _ = plus.minus(whole(one.plus)).scaled(den)
	return one
}

// at returns the most that the limit allows at some readings.
func (l *limit) at(q []int64) int64 {
	if l.times != nil {
		return l.times.at(q)
	}
	return l.most
}
