package tariff

import (
	"math"
	"math/big"
	"math/bits"
)

// Never is what [Program.PriceAll] gives where a plan does not serve: more than
// any amount.
const Never = math.MaxInt64

// mostMinor bounds the amount of a line and of a sheet, in minor units: sums of
// fewer than a hundred stay within 64 bits.
const mostMinor = math.MaxInt64 / 256

// knee is a line that is level up to a reading and straight from there: charges by
// the unit, with units included or a least number of them.
type knee struct {
	line, meter int
	at, safe    int64  // safe is the largest reading that 64 bits hold
	start, rate uint64 // of the numerator, with what rounds it half up
	div         divisor
}

// table is a line of several bands.
type table struct {
	line  int
	meter int
	safe  int64
	div   divisor
	ladder
	bands []band
}

// band is a straight line: its numerator at x is start + rate·x, modulo 2^64. What
// rounds it half up is in start.
type band struct{ start, rate uint64 }

// stair is a table without a slope: its amounts are rounded beforehand.
type stair struct {
	line, meter int
	ladder
	amounts []int64
}

// amount is that of the band that a reading falls in.
func (t *stair) amount(x int64) int64 { return t.amounts[t.find(x)] }

// pack is a line over the number of packs.
type pack struct {
	line, meter  int
	start, scale int64
	times        *multiple
	safe         int64
	count        ceiler
	rate         uint64
	div          divisor
}

// sheet is lines that are added up and settled together.
type sheet struct {
	lines  []exactLine
	refs   []ref // what each line was made from
	settle frac
	most   int64 // the largest amount in minor units that is held

	flats []Entry // what does not hang on a reading
	fixed int64   // the sum of these
	knees []knee
	stair []stair
	table []table
	packs []pack
	// Minor units of the study for one of the list: none where they are the same.
	same          bool
	num           uint64
	mostUnsettled int64
	div           divisor
	exactOnly     bool  // some line does not fit: all is worked out exactly
	room          int64 // below zero where that is so
}

// make compiles the lines.
func (s *sheet) make(largest []int64) {
	s.same = s.settle.is(1)
	s.mostUnsettled = mostMinor
	if !s.same {
		ok := s.settle.wide == nil
		if ok {
			n, d := uint64(s.settle.n), s.settle.d()
			if d == 1 {
				n, d = 2*n, 2
			}
			s.num = n
			if n > 0 {
				s.mostUnsettled = int64(min(mostMinor, uint64(math.MaxInt64)/n))
			}
			if ok {
				s.div, ok = reciprocal(d, uint64(s.mostUnsettled)*n)
			}
		}
		s.exactOnly = s.exactOnly || !ok
	}
	for i := range s.lines {
		if !s.add(i, largest) {
			s.exactOnly = true
		}
	}
	if s.exactOnly = s.exactOnly || s.fixed > mostMinor || len(s.lines) > 200; s.exactOnly {
		s.room, s.knees, s.stair, s.table, s.packs = -1, nil, nil, nil, nil
	}
}

// add compiles one line, or reports that 64 bits do not hold it.
func (s *sheet) add(at int, largest []int64) bool {
	l := &s.lines[at]
	if l.meter < 0 {
		amount, ok := l.stretches[0].base.times(l.by).rounded()
		if !ok || amount > mostMinor {
			return false
		}
		s.flats = append(s.flats, Entry{Line: at, Amount: amount})
		s.fixed += amount
		return s.fixed <= mostMinor
	}
	made, ok := l.compiled(largest[l.meter])
	switch {
	case !ok:
		return false
	case l.size > 0:
		return s.addPack(at, made.bands[0].rate, made.div, made.safe)
	case made.stair != nil:
		t := *made.stair
		t.line = at
		s.stair = append(s.stair, t)
	case made.table != nil:
		t := *made.table
		t.line = at
		s.table = append(s.table, t)
	default:
		k := made.knee
		k.line = at
		s.knees = append(s.knees, k)
	}
	return true
}

// addPack compiles a pack, whose line runs through nought.
func (s *sheet) addPack(at int, rate uint64, by divisor, most int64) bool {
	l := &s.lines[at]
	count, ok := ceiling(uint64(l.size), math.MaxInt64/4)
	if !ok {
		return false
	}
	p := pack{line: at, meter: l.meter, start: l.start, scale: l.scale, times: l.times, count: count, rate: rate, div: by, safe: math.MaxInt64 / 4}
	if most < math.MaxInt64/4/l.size {
		p.safe = most * l.size // above which even packs are too many
	}
	p.safe /= l.scale
	s.packs = append(s.packs, p)
	return true
}

func (k *knee) amount(x int64) int64 { return k.div.down(k.start + k.rate*above(x, k.at)) }

// above returns how far x lies above a reading, 0 below it. It has no branch:
// which side usage is on cannot be foreseen.
func above(x, reading int64) uint64 {
	d := x - reading
	return uint64(d &^ (d >> 63))
}

// ladder finds the band that a reading falls in: from the first that readings of
// its magnitude can fall in on.
type ladder struct {
	ends  []int64 // the last is the largest number
	first [65]int32
}

func ladderOf(ends []int64) ladder {
	l := ladder{ends: ends}
	for n := range l.first {
		least := int64(0)
		if n > 0 {
			least = int64(uint64(1)<<(n-1)) & math.MaxInt64
		}
		for ends[l.first[n]] < least {
			l.first[n]++
		}
	}
	return l
}

func (l *ladder) find(x int64) int {
	at := int(l.first[bits.Len64(uint64(x))])
	for x > l.ends[at] {
		at++
	}
	return at
}

func (b *band) amount(x int64, by *divisor) int64 { return by.down(b.start + b.rate*uint64(x)) }

// begun returns how many packs are begun.
func (p *pack) begun(x, start int64) uint64 { return p.count.of(above(x*p.scale, start)) }

func (p *pack) amount(x, start int64) int64 { return p.div.round(p.rate * p.begun(x, start)) }

// price adds the lines up and settles the sum, in minor units of the study. It is
// false where the amount does not fit.
func (s *sheet) price(q []int64) (int64, bool) {
	total, room := s.fixed, s.room // room is below zero once a reading is too large
	for i := range s.knees {
		k := &s.knees[i]
		x := q[k.meter]
		room |= k.safe - x
		total += k.amount(x)
	}
	for i := range s.stair {
		total += s.stair[i].amount(q[s.stair[i].meter])
	}
	for i := range s.table {
		t := &s.table[i]
		x := q[t.meter]
		room |= t.safe - x
		total += t.bands[t.find(x)].amount(x, &t.div)
	}
	for i := range s.packs {
		p := &s.packs[i]
		x, start := q[p.meter], p.start
		if p.times != nil {
			start = startAt(start, p.times, q)
		}
		room |= p.safe - x
		total += p.amount(x, start)
	}
	if room < 0 {
		return s.exactly(q)
	}
	if s.same {
		return total, total <= s.most
	}
	return s.settled(total, q)
}

// settled turns a sum in minor units of the list into one of the study.
func (s *sheet) settled(total int64, q []int64) (int64, bool) {
	if !s.same {
		if total > s.mostUnsettled {
			return s.exactly(q)
		}
		total = s.div.round(uint64(total) * s.num)
	}
	return total, total <= s.most
}

// Entry is the amount of one line, in minor units of the list.
type Entry struct {
	Line   int
	Amount int64
}

// entries appends the amounts of the lines, which come in no order. It is false
// where one does not fit.
func (s *sheet) entries(q []int64, to []Entry) ([]Entry, bool) {
	first, room := len(to), s.room
	to = append(to, s.flats...)
	for i := range s.knees {
		k := &s.knees[i]
		x := q[k.meter]
		room |= k.safe - x
		to = append(to, Entry{k.line, k.amount(x)})
	}
	for i := range s.stair {
		t := &s.stair[i]
		to = append(to, Entry{t.line, t.amount(q[t.meter])})
	}
	for i := range s.table {
		t := &s.table[i]
		x := q[t.meter]
		room |= t.safe - x
		to = append(to, Entry{t.line, t.bands[t.find(x)].amount(x, &t.div)})
	}
	for i := range s.packs {
		p := &s.packs[i]
		x := q[p.meter]
		room |= p.safe - x
		to = append(to, Entry{p.line, p.amount(x, startAt(p.start, p.times, q))})
	}
	if room < 0 {
		return s.exactEntries(q, to[:first])
	}
	return to, true
}

func (s *sheet) exactEntries(q []int64, to []Entry) ([]Entry, bool) {
	for i := range s.lines {
		_, amount := s.lines[i].at(q)
		minor := rounded(amount)
		if !minor.IsInt64() {
			return to, false
		}
		to = append(to, Entry{i, minor.Int64()})
	}
	return to, true
}

// exactly is price by whole numbers of any size.
func (s *sheet) exactly(q []int64) (int64, bool) {
	total := new(big.Int)
	for i := range s.lines {
		_, amount := s.lines[i].at(q)
		total.Add(total, rounded(amount))
	}
	return s.inMoney(total)
}

// inMoney converts a total of rounded lines.
func (s *sheet) inMoney(total *big.Int) (int64, bool) {
	total = rounded(new(big.Rat).Mul(new(big.Rat).SetInt(total), s.settle.rat()))
	if !total.IsInt64() || total.Int64() > s.most {
		return 0, false
	}
	return total.Int64(), true
}
