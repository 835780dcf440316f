package tariff

import (
	"math"
	"math/bits"

	"ninecoins/internal/core/pricelist"
)

// Cost is what a program costs at some readings, in minor units of the study's
// currency, without tax.
type Cost struct {
	Bill int64 // of the billing period
	Used int64 // of one month, billed as used
	Once int64 // at signing
	Way  int   // which set of add-ons and packs costs least
}

// at returns what holds so many months after signing.
func (p *Program) at(since int) *phase { return p.phases[p.since[min(since, len(p.since)-1)]] }

// holds reports whether every limit holds at some readings.
func (w *way) holds(q []int64) bool {
	for i := range w.limits {
		l := &w.limits[i]
		if q[l.meter] > l.at(q) {
			return false
		}
	}
	return true
}

// Cost prices a bill that begins since months after the signing of the plan, and
// what is used into months after that, with the set of add-ons and packs that asks for
// least each time. It is false where the plan does not serve
// these readings, or where an amount does not fit. It allocates nothing while
// readings are within 64 bits.
func (p *Program) Cost(since, into int, q []int64) (best Cost, ok bool) {
	now := p.at(since)
	least := int64(math.MaxInt64)
	for i := range now.ways {
		w := &now.ways[i]
		if !w.holds(q) {
			continue
		}
		bill, fits := w.bill.price(q)
		used, once := int64(0), int64(0)
		if p.Period != 1 && fits {
			used, fits = p.at(since + into).ways[i].used.price(q)
		}
		if since+into == 0 && len(w.once.lines) > 0 && fits {
			once, fits = w.once.price(q)
		}
		if !fits {
			continue
		}
		if all := bill + used*int64(max(1, p.Period)); all < least || all == least && once < best.Once {
			least, best, ok = all, Cost{bill, used, once, i}, true
		}
	}
	return best, ok
}

// Price returns what is due in the month in which a bill begins, since months
// after the signing of the plan: the bill, what is used in that month, and what is
// charged once at signing, in minor units of the study's currency without tax.
// It is false where the plan does not serve.
func (p *Program) Price(since int, q []int64) (minor int64, ok bool) {
	if w := p.quick; w != nil && since >= p.from {
		if len(w.limits) > 0 && !w.holds(q) {
			return 0, false
		}
		return w.bill.price(q)
	}
	c, ok := p.Cost(since, 0, q)
	return c.Bill + c.Used + c.Once, ok
}

// Columns are readings by meter: of each meter as many as there are usages.
type Columns [][]int64

// row copies the readings of one usage into q.
func (c Columns) row(at int, q []int64) {
	for m := range c {
		q[m] = c[m][at]
	}
}

// PriceAll writes what [Program.Price] returns for each usage into out, and
// [Never] where the plan does not serve. out is as long as each column.
func (p *Program) PriceAll(since int, q Columns, out []int64) {
	now := p.at(since)
	simple := (p.Period == 1 || len(now.ways) == 1 && len(now.ways[0].used.lines) == 0) && len(now.ways) == 1 &&
		!now.ways[0].bill.exactOnly && (since > 0 || len(now.ways[0].once.lines) == 0)
	if simple && now.ways[0].columns(q, out) {
		return
	}
	row := make([]int64, len(q))
	for i := range out {
		q.row(i, row)
		if price, ok := p.Price(since, row); ok {
			out[i] = price
		} else {
			out[i] = Never
		}
	}
}

// CostAll writes what [Program.Cost] returns for each usage: the bill, [Never] where
// the plan does not serve, and what is used. Both are as long as each column.
func (p *Program) CostAll(since, into int, q Columns, bill, used []int64) {
	now, then := p.at(since), p.at(since+into)
	if len(now.ways) == 1 && now.ways[0].columns(q, bill) && then.ways[0].used.columns(q, used) {
		for i, u := range used {
			if u == Never {
				bill[i] = Never
			}
		}
		return
	}
	row := make([]int64, len(q))
	for i := range bill {
		q.row(i, row)
		if c, ok := p.Cost(since, into, row); ok {
			bill[i], used[i] = c.Bill, c.Used
		} else {
			bill[i], used[i] = Never, 0
		}
	}
}

// columns prices a bill line by line. It is false where a reading is too large
// for 64 bits.
func (w *way) columns(q Columns, out []int64) bool {
	if !w.bill.columns(q, out) {
		return false
	}
	for i := range w.limits {
		w.limits[i].column(q, out)
	}
	return true
}

// columns prices a sheet line by line.
func (s *sheet) columns(q Columns, out []int64) bool {
	room, knees := s.room, s.knees
	if len(knees) > 0 {
		room |= knees[0].begin(q[knees[0].meter], s.fixed, out)
		knees = knees[1:]
	} else {
		for i := range out {
			out[i] = s.fixed
		}
	}
	for i := range knees {
		room |= knees[i].column(q[knees[i].meter], out)
	}
	for i := range s.stair {
		s.stair[i].column(q[s.stair[i].meter], out)
	}
	for i := range s.table {
		room |= s.table[i].column(q[s.table[i].meter], out)
	}
	for i := range s.packs {
		room |= s.packs[i].column(q, out)
	}
	if room < 0 {
		return false
	}
	if !s.same {
		for j, total := range out {
			if total > s.mostUnsettled {
				return false
			}
			out[j] = s.div.round(uint64(total) * s.num)
		}
	}
	over := int64(0)
	for _, total := range out {
		over |= s.most - total
	}
	for j := 0; over < 0 && j < len(out); j++ {
		if out[j] > s.most {
			out[j] = Never
		}
	}
	return true
}

// The columns keep what they need in registers, so they read fields once.

// begin is column where nothing but a fixed amount was added up before.
func (k *knee) begin(x []int64, fixed int64, out []int64) (room int64) {
	at, safe, start, rate, div := k.at, k.safe, k.start, k.rate, k.div
	out = out[:len(x)]
	for j, x := range x {
		room |= safe - x
		hi, _ := bits.Mul64(start+rate*above(x, at), div.mul)
		out[j] = fixed + int64(hi>>(div.shift&63))
	}
	return room
}

func (k *knee) column(x, out []int64) (room int64) {
	at, safe, start, rate, div := k.at, k.safe, k.start, k.rate, k.div
	out = out[:len(x)]
	for j, x := range x {
		room |= safe - x
		hi, _ := bits.Mul64(start+rate*above(x, at), div.mul)
		out[j] += int64(hi >> (div.shift & 63))
	}
	return room
}

func (t *stair) column(x, out []int64) {
	l, amounts := &t.ladder, t.amounts
	out = out[:len(x)]
	for j, x := range x {
		out[j] += amounts[l.find(x)]
	}
}

func (t *table) column(x, out []int64) (room int64) {
	l, bands, div, safe := &t.ladder, t.bands, t.div, t.safe
	out = out[:len(x)]
	for j, x := range x {
		room |= safe - x
		b := &bands[l.find(x)]
		hi, _ := bits.Mul64(b.start+b.rate*uint64(x), div.mul)
		out[j] += int64(hi >> (div.shift & 63))
	}
	return room
}

func (p *pack) column(q Columns, out []int64) (room int64) {
	x := q[p.meter]
	if out = out[:len(x)]; p.times == nil {
		start, scale, safe, rate, count, div := p.start, p.scale, p.safe, p.rate, p.count, p.div
		for j, x := range x {
			room |= safe - x
			n := above(x*scale, start)
			if !count.plain {
				n, _ = bits.Mul64(n+count.less, count.mul)
				n >>= count.shift & 63
			}
			hi, _ := bits.Mul64(n*rate+div.half, div.mul)
			out[j] += int64(hi >> (div.shift & 63))
		}
		return room
	}
	row := make([]int64, len(q))
	for j, x := range x {
		q.row(j, row)
		room |= p.safe - x
		out[j] += p.amount(x, startAt(p.start, p.times, row))
	}
	return room
}

func (l *limit) column(q Columns, out []int64) {
	row := make([]int64, len(q))
	for j, x := range q[l.meter][:len(out)] {
		most := l.most
		if l.times != nil {
			q.row(j, row)
			most = l.times.at(row)
		}
		if x > most {
			out[j] = Never
		}
	}
}

// Serves reports whether nothing but what is not yet known stands against the
// program at any usage.
func (p *Program) Serves() bool { return len(p.Barred) == 0 }

// ForLife reports whether the program is paid once and never ends.
func (p *Program) ForLife() bool { return p.Period == pricelist.Lifetime }

// Lines appends the amounts of the lines of what [Program.Price] adds up to,
// without what is used or charged once, in minor units of the list and in no
// order: the numbers of a receipt without its words.
func (p *Program) Lines(since int, q []int64, to []Entry) (Cost, []Entry, bool) {
	if w := p.quick; w != nil && since >= p.from && w.bill.room >= 0 {
		if !w.holds(q) {
			return Cost{}, to, false
		}
		first := len(to)
		if to, ok := w.bill.entries(q, to); ok {
			total := int64(0)
			for i := range to[first:] {
				total += to[first+i].Amount
			}
			total, ok = w.bill.settled(total, q)
			return Cost{Bill: total}, to, ok
		}
		return Cost{}, to, false
	}
	c, ok := p.Cost(since, 0, q)
	if ok {
		to, ok = p.at(since).ways[c.Way].bill.entries(q, to)
	}
	return c, to, ok
}

// Phase is which of [Program.Phases] holds so many months after signing.
func (p *Program) Phase(since int) int { return p.since[min(since, len(p.since)-1)] }

// Phases is in how many ways offers cover a bill, one after another.
func (p *Program) Phases() int { return len(p.phases) }

// Settles is after how many months no offer changes any more.
func (p *Program) Settles() int { return len(p.since) - 1 }

// Packs returns how many packs of each kind are begun, in the order of the charges,
// where the readings cost c.
func (p *Program) Packs(c Cost, since, into int, q []int64) (all []int64) {
	for _, s := range []*sheet{&p.at(since).ways[c.Way].bill, &p.at(since + into).ways[c.Way].used} {
		for i := range s.lines {
			if l := &s.lines[i]; l.size > 0 {
				if n := l.packs(q); n > 0 {
					all = append(all, n)
				}
			}
		}
	}
	return all
}

// Marks appends what tells one receipt from another beside its numbers, where the
// readings cost c: which add-ons and packs are taken, which months of it the offers
// cover, which band each charge falls in and how many packs are begun. Receipts of
// a program with the same marks differ in quantities and amounts alone.
func (p *Program) Marks(c Cost, since, into int, q []int64, to []int64) []int64 {
	last := len(p.since) - 1
	now, used := p.since[min(since, last)], p.since[min(since+into, last)]
	to = append(to, int64(c.Way), int64(now), int64(used))
	for _, s := range [2]*sheet{&p.phases[now].ways[c.Way].bill, &p.phases[used].ways[c.Way].used} {
		for i := range s.lines {
			switch l := &s.lines[i]; {
			case l.size > 0:
				to = append(to, l.packs(q))
			case l.meter >= 0:
				to = append(to, int64(l.band(q[l.meter])))
			}
		}
	}
	return to
}
