package tariff

import (
	"math"
	"slices"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// ref says what a line was made from, for receipts.
type ref struct {
	charge *pricelist.Charge // nil for the fixed price of offers
	addOn  *pricelist.AddOn
	months int // that one amount of the line covers
	asUsed bool
	// Of the months that the amount covers, what is left of each after offers, in
	// millionths; nil where no offer applies.
	shares []money.Share
	had    []hadLine // of what is charged at signing: what other plans charge under its key
}

// hadLine is what a plan charges at signing.
type hadLine struct {
	plan string
	line exactLine
}

// charge adds the line of a charge to the sheet that it is settled in.
func (c *Program) charge(w *way, ch *pricelist.Charge, addOn *pricelist.AddOn, covered []int) {
	r := ref{charge: ch, addOn: addOn, months: 1}
	into := &w.bill
	switch {
	case ch.Kind == pricelist.Once:
		if slices.Contains(ch.WaivedOn, c.Term.Key) {
			return
		}
		if into = &w.once; addOn == nil {
			r.had = c.had(w, ch)
		} else {
			c.drawn.fees = true
		}
	case c.Period == pricelist.Lifetime:
		if !ch.StatesFor(c.Term.Key) {
			into, r.asUsed = &w.used, true
		}
	case c.Period > 1:
		if m := c.meter(ch.Meter); m >= 0 && c.Edition.Meters[m].Kind == usage.Flow {
			into, r.asUsed = &w.used, true
		} else {
			r.months = c.Period
		}
	}
	line, end := c.lineOnce(w, ch)
	if end >= 0 {
		w.limits = append(w.limits, limit{meter: line.meter, most: end})
	}
	line.by = whole(int64(r.months))
	if ch.Kind != pricelist.Once && addOn == nil {
		if r.shares = c.shares(covered, r.months); r.shares != nil {
			left := int64(0)
			for _, share := range r.shares {
				left += int64(share)
			}
			line.by = ratio(left, int64(money.Whole))
		}
	}
	into.lines, into.refs = append(into.lines, line), append(into.refs, r)
}

// had are what the other plans of the list charge at signing under the key of a charge.
func (c *Program) had(w *way, ch *pricelist.Charge) (all []hadLine) {
	for i := range c.Edition.Plans {
		o := &c.Edition.Plans[i]
		for j := range o.Charges {
			if o.Key != c.Plan.Key && o.Charges[j].Kind == pricelist.Once && o.Charges[j].Key == ch.Key {
				line, _ := c.lineOnce(w, &o.Charges[j])
				line.by = whole(1)
				all = append(all, hadLine{o.Key, line})
			}
		}
	}
	return all
}

// shares returns what the offers leave of each of the first months of a bill; nil
// where they leave all. Shares that go together add up, to the whole at most; a
// month at a fixed price has nothing left of its lines.
func (c *Program) shares(covered []int, months int) []money.Share {
	var all []money.Share
	for i, o := range c.Offers {
		for k := range min(months, covered[i]) {
			if all == nil {
				all = slices.Repeat([]money.Share{money.Whole}, months)
			}
			switch o.Kind {
			case pricelist.PercentOff:
				all[k] = max(0, all[k]-o.Off)
			case pricelist.FixedPrice, pricelist.FreeMonths:
				all[k] = 0
			}
		}
	}
	return all
}

// fixedPrices adds what the months at a fixed price cost, to the sheet of the
// bill: where several offers fix one, the lowest holds.
func (c *Program) fixedPrices(w *way, covered []int) {
	total, months := frac{}, 0
	for k := range max(1, c.Period) {
		least := money.Amount(math.MaxInt64)
		for i, o := range c.Offers {
			if o.Kind == pricelist.FixedPrice && k < covered[i] {
				least = min(least, o.Price)
			}
		}
		if least != math.MaxInt64 {
			total = total.plus(c.minor(least))
			months++
		}
	}
	if months > 0 {
		w.bill.lines = append(w.bill.lines, one(total))
		w.bill.refs = append(w.bill.refs, ref{months: months})
	}
}

// minor is an amount in minor units of the list.
func (c *Program) minor(a money.Amount) frac { return ratio(int64(a), c.conv.From.Minor()) }

// price is what a price comes to on the term, in minor units of the list.
func (c *Program) price(p pricelist.Price) frac {
	price, off := p.For(c.Term)
	if off == 0 {
		return c.minor(price)
	}
	return c.minor(price).times(ratio(int64(money.Whole-off), int64(money.Whole)))
}

// per says what prices for so many units come to for one of a meter's readings.
func (c *Program) per(each int64, meter int) func(pricelist.Price) frac {
	one := ratio(c.grain(meter), int64(usage.One)).times(ratio(1, max(1, each))).times(ratio(1, c.conv.From.Minor()))
	by, of := one, money.Share(0) // what an amount is multiplied by where so much is off
	return func(p pricelist.Price) frac {
		price, off := p.For(c.Term)
		if off != of {
			by, of = one.times(ratio(int64(money.Whole-off), int64(money.Whole))), off
		}
		return whole(int64(price)).times(by)
	}
}

// grains is a quantity in a meter's readings.
func (c *Program) grains(q usage.Quantity, meter int) frac {
	return ratio(int64(q), c.grain(meter))
}

// bend is a line under the making: stretches that end at readings which need not
// be whole.
type bend struct{ exactLine }

// to adds a stretch that goes on from where the last one ended, up to a reading.
// Its value at x is base + rate·(x - at) there.
func (b *bend) to(end, at, base, rate frac) { b.until(end.floor(), at, base, rate) }

// on adds a stretch that never ends.
func (b *bend) on(at, base, rate frac) { b.until(math.MaxInt64, at, base, rate) }

func (b *bend) until(last int64, at, base, rate frac) {
	from := int64(0)
	if n := len(b.stretches); n > 0 {
		from = b.stretches[n-1].end
	}
	value := func(x int64) frac { return whole(x).minus(at).times(rate).plus(base) }
	start := base
	if rate.sign() != 0 && !at.is(from) {
		start = value(from)
	}
	if start.sign() < 0 { // the stretch before ended between two readings
		from++
		start = value(from)
	}
	if last < from && len(b.stretches) > 0 {
		return // no reading falls into it
	}
	b.stretches = append(b.stretches, stretch{from, last, start, rate})
}

// lineOnce is line, made once for all ways, phases and sets of offers of a plan on a
// term but for packs, which begin where a way has its limits.
func (c *Program) lineOnce(w *way, ch *pricelist.Charge) (exactLine, int64) {
	if ch.Kind == pricelist.Pack {
		return c.line(w, ch)
	}
	made, ok := c.drawn.lines[ch]
	if !ok {
		made.exactLine, made.end = c.line(w, ch)
		made.cast = made.casting()
		c.drawn.lines[ch] = made
	}
	return made.exactLine, made.end
}

// lineOf is the line of a charge, and the last reading that it has a price for.
type lineOf struct {
	exactLine
	end int64
}

// line makes the exact line of one month of a charge, in minor units of the list,
// and returns the last reading that has a price, -1 for every one.
//
// With q the reading, the rules are:
//
//	flat       price
//	unit       max(0, max(q, at least) - included) x price / each
//	stair      price of the first band with q <= to
//	graduated  sum over bands of the units that fall in the band x price / each
//	volume     q x price of the band that q falls in / each
//	pack       ceil(max(0, q - included) / size) x price
//	share      min(cap, max(floor, q x rate)), q being money in the study's currency
//	once       price, or q x rate
//
// Past the last band is what is charged at its end, and (q - to) x the rate above
// / each.
func (c *Program) line(w *way, ch *pricelist.Charge) (exactLine, int64) {
	m := c.meter(ch.Meter)
	b := bend{exactLine{meter: m, scale: 1, by: whole(1)}}
	if len(ch.Bands) > 0 {
		b.stretches = make([]stretch, 0, len(ch.Bands)+1)
	}
	switch ch.Kind {
	case pricelist.Flat:
		return one(c.price(ch.Price)), -1
	case pricelist.Once:
		if m < 0 {
			return one(c.price(ch.Price)), -1
		}
		b.on(frac{}, frac{}, c.money(ch, m))
	case pricelist.Unit:
		rate, included := c.per(ch.Each, m)(ch.Price), c.grains(ch.Included, m)
		from := c.grains(max(ch.AtLeast, ch.Included), m)
		b.to(from, frac{}, rate.times(from.minus(included)), frac{})
		b.on(included, frac{}, rate)
	case pricelist.Pack:
		return c.packLine(w, ch, b.exactLine), -1
	case pricelist.Share:
		c.shareLine(&b, ch, m)
	default:
		return c.banded(&b, ch, m)
	}
	return b.exactLine, -1
}

// money is how many minor units of the list one reading of a meter of the study's
// money brings to a charge.
func (c *Program) money(ch *pricelist.Charge, m int) frac {
	rate, off := ch.Rate.For(c.Term)
	by := ratio(int64(rate), int64(money.Whole))
	by = by.times(ratio(int64(money.Whole-off), int64(money.Whole)))
	by = by.times(ratio(c.grain(m), c.conv.From.Minor()))
	if c.conv.Rate != 0 {
		by = by.times(ratio(money.Scale, int64(c.conv.Rate)))
	}
	return by
}

func (c *Program) shareLine(b *bend, ch *pricelist.Charge, m int) {
	rate := c.money(ch, m)
	_, off := ch.Rate.For(c.Term)
	bound := func(a money.Amount) frac {
		return c.minor(a).times(ratio(int64(money.Whole-off), int64(money.Whole)))
	}
	least := bound(ch.Floor)
	if rate.sign() == 0 {
		b.on(frac{}, least, frac{})
		return
	}
	if ch.Floor > 0 {
		b.to(least.over(rate), frac{}, least, frac{})
	}
	if ch.Cap == 0 {
		b.on(frac{}, frac{}, rate)
		return
	}
	most := bound(ch.Cap)
	b.to(most.over(rate), frac{}, frac{}, rate)
	b.on(frac{}, most, frac{})
}

func (c *Program) banded(b *bend, ch *pricelist.Charge, m int) (exactLine, int64) {
	var value, from frac // the amount at the end of the band before, and that end
	per := c.per(ch.Each, m)
	for i := range ch.Bands {
		band := &ch.Bands[i]
		var at, base, rate frac
		switch ch.Kind {
		case pricelist.Stair:
			base = c.price(band.Price)
		case pricelist.Graduated:
			at, base, rate = from, value, per(band.Price)
		case pricelist.Volume:
			rate = per(band.Price)
		}
		if band.Open {
			b.on(at, base, rate)
			continue
		}
		end := c.grains(band.To, m)
		b.to(end, at, base, rate)
		value, from = end.minus(at).times(rate).plus(base), end
	}
	switch last := ch.Bands[len(ch.Bands)-1]; {
	case last.Open:
		return b.exactLine, -1
	case ch.Above == nil:
		return b.exactLine, from.floor()
	default:
		b.on(from, value, c.per(ch.Above.Each, m)(ch.Above.Price))
		return b.exactLine, -1
	}
}

// packLine runs over packs above what is included. Where a pack is taken because a
// limit asks for it, it begins at the limit, if that is higher.
func (c *Program) packLine(w *way, ch *pricelist.Charge, l exactLine) exactLine {
	l.stretches = []stretch{{end: math.MaxInt64, rate: c.price(ch.Price)}}
	grain := c.grain(l.meter)
	l.size, l.start = int64(ch.Size)/grain, int64(ch.Included)/grain
	if int64(ch.Size)%grain != 0 || int64(ch.Included)%grain != 0 {
		l.size, l.start, l.scale = int64(ch.Size), int64(ch.Included), grain
	}
	if !slices.Contains(w.packs, ch) {
		return l
	}
	for i := range c.Plan.Limits {
		lim := &c.Plan.Limits[i]
		if lim.Meter != ch.Meter || lim.Beyond != pricelist.BuyPack || !lim.Holds() {
			continue
		}
		raised, any := w.raised(lim.Meter)
		switch {
		case any:
			l.start = math.MaxInt64
		case lim.OfMeter == "":
			l.start = max(l.start, int64(min(usage.Most, lim.Most+raised))/(grain/l.scale))
		default:
			l.times = c.multiple(lim, raised, l.scale)
		}
		break
	}
	return l
}
