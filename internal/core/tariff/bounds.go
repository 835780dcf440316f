package tariff

import (
	"math"
	"slices"

	"ninecoins/internal/core/pricelist"
)

// Monthly returns what a month costs of a bill that begins since months after
// signing: the bill spread over its months, rounded, and what is used in one, in minor
// units of the study. Charges at signing are left out. It is false where the plan does
// not serve, and for what is bought for life.
func (p *Program) Monthly(since int, q []int64) (int64, bool) {
	c, ok := p.Cost(since, 0, q)
	if !ok || p.ForLife() {
		return Never, false
	}
	return spread(c.Bill, int64(p.Period)) + c.Used, true
}

func spread(bill, months int64) int64 {
	if months == 1 {
		return bill
	}
	return (2*bill + months) / (2 * months)
}

// MonthlyAll writes what [Program.Monthly] returns for each usage into out, [Never]
// where the plan does not serve. room is as long as out and is written over.
func (p *Program) MonthlyAll(since int, q Columns, out, room []int64) {
	if p.ForLife() {
		for i := range out {
			out[i] = Never
		}
		return
	}
	if p.Period == 1 && since > 0 {
		p.PriceAll(since, q, out)
		return
	}
	p.CostAll(since, 0, q, out, room)
	for i, bill := range out {
		if bill != Never {
			out[i] = spread(bill, int64(p.Period)) + room[i]
		}
	}
}

// Bounds returns numbers that [Program.Monthly] is between at all readings that lie
// between two rows of them, meter by meter: least is [Never] where the plan serves
// none of them, most where it may not serve all. At a single row both are what Monthly
// returns.
func (p *Program) Bounds(since int, lo, hi []int64) (least, most int64) {
	least, most = Never, Never
	if p.ForLife() {
		return least, most
	}
	now := p.at(since)
	months, wide := int64(p.Period), false
	for i := range now.ways {
		w := &now.ways[i]
		may, sure := w.within(lo, hi)
		if !may {
			continue
		}
		low, high, ok := w.bill.bounds(lo, hi)
		if ok && months != 1 {
			a, b, fits := w.used.bounds(lo, hi)
			low, high, ok = low+a*months, high+b*months, fits
		}
		if !ok { // too large for quick numbers
			low, high, wide = 0, Never, true
		}
		least = min(least, low)
		if sure {
			most = min(most, high)
		}
	}
	if least != Never {
		least = spread(least, months)
	}
	if most != Never {
		most = spread(most, months)
	}
	if wide && slices.Equal(lo, hi) {
		if c, ok := p.Monthly(since, lo); ok {
			return c, c
		}
		return Never, Never
	}
	return least, most
}

// within reports whether every limit holds at some of the readings between two rows,
// and whether at all of them.
func (w *way) within(lo, hi []int64) (may, sure bool) {
	may, sure = true, true
	for i := range w.limits {
		l := &w.limits[i]
		may = may && lo[l.meter] <= l.at(hi)
		sure = sure && hi[l.meter] <= l.at(lo)
	}
	return may, sure
}

// bounds adds up the least and the most that each line comes to between two rows of
// readings, settled. It is false where they are too large for 64 bits.
func (s *sheet) bounds(lo, hi []int64) (least, most int64, ok bool) {
	least, most = s.fixed, s.fixed
	room := s.room
	for i := range s.knees {
		k := &s.knees[i]
		room |= k.safe - hi[k.meter]
		least, most = least+k.amount(lo[k.meter]), most+k.amount(hi[k.meter])
	}
	for i := range s.stair {
		t := &s.stair[i]
		from, to := t.find(lo[t.meter]), t.find(hi[t.meter])
		low, high := t.amounts[from], t.amounts[from]
		for _, a := range t.amounts[from : to+1] {
			low, high = min(low, a), max(high, a)
		}
		least, most = least+low, most+high
	}
	for i := range s.table {
		t := &s.table[i]
		a, b := lo[t.meter], hi[t.meter]
		if room |= t.safe - b; room < 0 {
			break
		}
		low, high := int64(math.MaxInt64), int64(0)
		for at, end := t.find(a), t.find(b); at <= end; at++ {
			first, last := a, min(b, t.ends[at])
			if at > 0 {
				first = max(a, t.ends[at-1]+1)
			}
			low, high = min(low, t.bands[at].amount(first, &t.div)), max(high, t.bands[at].amount(last, &t.div))
		}
		least, most = least+low, most+high
	}
	for i := range s.packs {
		p := &s.packs[i]
		room |= p.safe - hi[p.meter]
		late, early := p.start, p.start
		if p.times != nil {
			late, early = startAt(p.start, p.times, hi), startAt(p.start, p.times, lo)
		}
		least, most = least+p.amount(lo[p.meter], late), most+p.amount(hi[p.meter], early)
	}
	if room < 0 || !s.same && most > s.mostUnsettled {
		return 0, 0, false
	}
	if !s.same {
		least, most = s.div.round(uint64(least)*s.num), s.div.round(uint64(most)*s.num)
	}
	return least, most, most <= s.most
}

// Straight reports whether [Program.Monthly] runs in a straight line while all readings
// go straight, each rounded to whole ones, from one row to another: the plan serves them
// all, by one set of add-ons and packs, and each charge stays in one band. noise is by
// how much the price may lie off that line, in minor units: lines are rounded, readings
// go by whole ones, and packs begin one at a time. Beside another program of the same
// list and term, charges that are the same in both move neither against the other and
// are left out of it.
func (p *Program) Straight(since int, lo, hi []int64, beside *Program) (noise int64, ok bool) {
	now := p.at(since)
	if p.ForLife() || len(now.ways) != 1 {
		return 0, false
	}
	w := &now.ways[0]
	if _, sure := w.within(lo, hi); !sure {
		return 0, false
	}
	var bill, also *sheet
	if beside != nil && beside.Edition == p.Edition && beside.Period == p.Period {
		if then := beside.at(since); len(then.ways) == 1 {
			bill, also = &then.ways[0].bill, &then.ways[0].used
		}
	}
	noise, ok = w.bill.straight(lo, hi, bill)
	if ok && p.Period != 1 {
		var used int64
		used, ok = w.used.straight(lo, hi, also)
		noise = noise/int64(p.Period) + 1 + used
	}
	return noise, ok && noise < mostMinor
}

// straight is what [Program.Straight] says of a sheet, beside another one or none.
func (s *sheet) straight(lo, hi []int64, beside *sheet) (noise int64, ok bool) {
	if s.room < 0 {
		return 0, false
	}
	for i := range s.knees {
		k := &s.knees[i]
		if beside != nil && slices.ContainsFunc(beside.knees, k.same) {
			continue
		}
		if k.safe < hi[k.meter] || lo[k.meter] < k.at && hi[k.meter] > k.at {
			return 0, false
		}
		noise += 2 + k.div.down(k.rate)
	}
	for i := range s.stair {
		t := &s.stair[i]
		if t.find(lo[t.meter]) != t.find(hi[t.meter]) {
			return 0, false
		}
	}
	for i := range s.table {
		t := &s.table[i]
		at := t.find(lo[t.meter])
		if t.safe < hi[t.meter] || at != t.find(hi[t.meter]) {
			return 0, false
		}
		noise += 2 + t.div.down(t.bands[at].rate)
	}
	for i := range s.packs {
		p := &s.packs[i]
		late, early := p.start, p.start
		if p.times != nil {
			late, early = startAt(p.start, p.times, hi), startAt(p.start, p.times, lo)
		}
		if beside != nil && slices.ContainsFunc(beside.packs, p.same) {
			continue
		}
		if p.safe < hi[p.meter] || lo[p.meter]*p.scale < max(late, early) && hi[p.meter]*p.scale > min(late, early) {
			return 0, false
		}
		noise += 2 + 2*p.div.round(p.rate)
	}
	if !s.same {
		if noise > s.mostUnsettled {
			return 0, false
		}
		noise = s.div.round(uint64(noise)*s.num) + 1
	}
	return noise + 1, true
}

// same reports whether two lines come to the same at every reading.
func (k *knee) same(o knee) bool { o.line = k.line; return o == *k }

func (p *pack) same(o pack) bool {
	o.line = p.line
	return p.times == nil && o == *p
}

// Breaks returns the readings of a meter, above low and up to high, from which on a
// bill since months after signing takes another course for the meter alone: the first
// readings past a band, a limit, what is included, and each pack; each reading, too, of a
// charge per unit, where that is asked for. Where a charge has more than so many steps on
// the way, only the first is told and whole is false. Limits and packs that are multiples
// of another meter are left out.
func (p *Program) Breaks(since, meter int, low, high int64, steps int, each bool) (all []int64, whole bool) {
	whole = true
	take := func(x int64) {
		if x > low && x <= high {
			all = append(all, x)
		}
	}
	now := p.at(since)
	for i := range now.ways {
		w := &now.ways[i]
		for j := range w.limits {
			if l := &w.limits[j]; l.meter == meter && l.times == nil && l.most < math.MaxInt64 {
				take(l.most + 1)
			}
		}
		for _, s := range []*sheet{&w.bill, &w.used} {
			for j := range s.lines {
				l := &s.lines[j]
				switch {
				case l.meter != meter:
				case l.size == 0:
					for _, st := range l.stretches[:len(l.stretches)-1] {
						take(st.end + 1)
					}
					if !each || !slices.ContainsFunc(l.stretches, func(st stretch) bool { return st.rate.sign() != 0 }) {
						continue
					}
					for x := low + 1; x <= min(high, low+int64(steps)); x++ {
						take(x)
					}
					whole = whole && high-low <= int64(steps)
				case l.times == nil && high*l.scale > l.start:
					first, last := max(0, (low*l.scale-l.start)/l.size-1), (high*l.scale-l.start-1)/l.size
					if last-first >= int64(steps) { // the bend from which on they begin is told
						whole, last = false, min(first, last)
					}
					for n := first; n <= last; n++ {
						take((l.start+n*l.size)/l.scale + 1) // the first reading of pack n+1
					}
				}
			}
		}
	}
	return all, whole
}

// Leads reports whether a program is one that can be signed in a month by who is not
// on its plan, or by who is: closed plans are kept, not begun.
func (p *Program) Leads(here bool) bool {
	return p.Serves() && !p.ForLife() && (here || p.Plan.Offered != pricelist.Closed)
}
