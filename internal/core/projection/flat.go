package projection

import (
	"math"
	"math/bits"
	"slices"
	"sync"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"
)

// flat is the search of [choosing] where nothing is bought for life, what is charged at signing
// hangs on no reading, and all offers are for who signs first of all ([firsts]): what one costs then hangs on the readings that are
// billed and on nothing else. Values are packed into one number each, and one
// sweep from the last month back goes through all terms at once, by how many months
// ago they began.
type flat struct {
	*choosing
	kinds []flatKind
	kind  []int // of each program, and where it stands in it
	at    []int
	// Which row of readings is billed in month u of a term that began k months
	// before: rows[u·deepest+k]; that of the month itself, or one in which stocks
	// have stayed at a higher level.
	rows    []int32
	billed  [][]int64
	deepest int
	entered []packed // what a term costs that begins in a month, by month and program
	free    []packed // by month and rank, and after these what no plan runs for
	ranks   int
	may     []bool // whether a program may be signed by who is not on its plan
	space   *space
	first   firsts
	moves   [][]packed // what it takes to sign a program, by the rank that is left, or none
	fees    packed     // the most that it takes
}

// space is memory that searches use one after another. What it gives holds what
// was there before.
type space struct {
	ints              []int64
	packs             []packed
	smalls            []int32
	int, pack, little int // that are in use
}

var spaces = sync.Pool{New: func() any { return &space{} }}

func (s *space) numbers(n int) []int64 {
	if s.int += n; s.int > len(s.ints) {
		s.ints, s.int = make([]int64, max(n, 2*len(s.ints))), n
	}
	return s.ints[s.int-n : s.int : s.int]
}

func (s *space) values(n int) []packed {
	if s.pack += n; s.pack > len(s.packs) {
		s.packs, s.pack = make([]packed, max(n, 2*len(s.packs))), n
	}
	return s.packs[s.pack-n : s.pack : s.pack]
}

func (s *space) small(n int) []int32 {
	if s.little += n; s.little > len(s.smalls) {
		s.smalls, s.little = make([]int32, max(n, 2*len(s.smalls))), n
	}
	return s.smalls[s.little-n : s.little : s.little]
}

func (s *space) leave() {
	if s.int, s.pack, s.little = 0, 0, 0; len(s.ints)+len(s.packs) < 1<<20 {
		spaces.Put(s)
	}
}

// packed holds, from the top, months that nothing serves, months with a must not
// yet known, money in minor units, and changes of plan: the order of [value].
type packed int64

const (
	movesBits = 8
	costBits  = 41
	oneMove   = packed(1)
	oneAsk    = packed(1) << (movesBits + costBits)
	oneGap    = packed(1) << (movesBits + costBits + 7)
	unable    = packed(math.MaxInt64)
	mostFlat  = 120 // months whose number fits
)

// value unpacks it.
func (p packed) value() value {
	return value{int64(p>>(movesBits+costBits+7))*gap + int64(p>>(movesBits+costBits))&(1<<7-1), int64(p>>movesBits) & (1<<costBits - 1), int64(p) & (1<<movesBits - 1)}
}

func paying(cost int64) packed { return packed(cost) << movesBits }

// flatKind are the programs of a kind of term, in the order of their ranks.
type flatKind struct {
	programs []int
	n        int
	monthly  bool
	bill     []int64  // by program and row of readings
	pay      []packed // in a month, likewise
	up       []int    // the first program of a higher rank
	inside   []packed // what month k of a term and all after it take, by month, program and k
	by       uint64   // the reciprocal of 2n
	// How bills are spread, by program and row: split[at+m] is round(bill·m/n), and
	// shares[at+m] what month m takes of it, where at is spread's.
	split  []int64
	shares []packed
	spread []int32
}

// flatten makes the flat search; nil where it does not apply.
func (h *choosing) flatten() *flat {
	months := len(h.rows)
	if months > mostFlat || h.general {
		return nil
	}
	f := &flat{choosing: h, ranks: len(h.Edition.Plans), kind: make([]int, len(h.all)), at: make([]int, len(h.all))}
	if !f.firstsOf() {
		return nil
	}
	for i, p := range h.all {
		if p.ForLife() || h.once[i] && !p.SignsAtFixed() {
			return nil
		}
		f.may = append(f.may, p.Plan.Offered != pricelist.Closed)
	}
	f.deepest = 1
	for _, all := range h.kinds {
		var programs []int // without those under offers
		for _, i := range all {
			if f.kind[i] = len(f.kinds); f.first.twin[i] < 0 {
				programs = append(programs, i)
			}
		}
		n := h.length(programs[0], 0)
		k := flatKind{programs: programs, n: n, monthly: h.quick[programs[0]].monthly, by: math.MaxUint64/uint64(2*n) + 1}
		f.deepest = max(f.deepest, min(n, months))
		for j, i := range programs {
			f.at[i] = j
			up := j + 1
			for up < len(programs) && h.quick[programs[up]].rank <= h.quick[i].rank {
				up++
			}
			k.up = append(k.up, up)
		}
		f.kinds = append(f.kinds, k)
	}
	f.first.of = make([][]int, len(f.kinds))
	for _, i := range f.first.programs {
		f.at[i] = f.at[f.first.twin[i]]
		f.first.of[f.kind[i]] = append(f.first.of[f.kind[i]], i)
	}
	for _, some := range f.first.of {
		slices.SortStableFunc(some, func(a, b int) int { return f.at[a] - f.at[b] })
	}
	if !f.signing() {
		return nil
	}
	f.space = spaces.Get().(*space)
	f.levels()
	if !f.price() {
		f.space.leave()
		return nil
	}
	return f
}

// signing works out what it takes to sign each program. It is false where an amount is too large.
func (f *flat) signing() bool {
	free := make([]packed, f.ranks+2)
	for state := range free {
		free[state] = oneMove
	}
	f.fees = oneMove
	f.moves = make([][]packed, len(f.all))
	for i := range f.all {
		if f.moves[i] = free; !f.once[i] {
			continue
		}
		f.moves[i] = make([]packed, f.ranks+2)
		for state := range f.moves[i] {
			var left *pricelist.Plan
			if !f.none(state) {
				left = &f.Edition.Plans[state]
			}
			v := f.choosing.signing(i, 0, left)
			if !v.can() || v.cost > 1<<costBits/mostFlat/4 {
				return false
			}
			f.moves[i][state] = oneMove + paying(v.cost)
			f.fees = max(f.fees, f.moves[i][state])
		}
	}
	return true
}

// levels finds the rows of readings that are billed: stocks stay at the highest
// level that they have had in the term.
func (f *flat) levels() {
	months := len(f.choosing.rows)
	f.rows, f.billed = f.space.small(months*f.deepest), slices.Clone(f.choosing.rows)
	for u := range months {
		last, row := int32(u), f.choosing.rows[u]
		for k := range min(f.deepest, u+1) {
			if before := f.choosing.rows[u-k]; f.levelled[u] >= u-k && f.above(before, row) {
				row = slices.Clone(row)
				for m, is := range f.stock {
					if is {
						row[m] = max(row[m], before[m])
					}
				}
				last = int32(len(f.billed))
				f.billed = append(f.billed, row)
			}
			f.rows[u*f.deepest+k] = last
		}
	}
}

// above reports whether some stock stood higher.
func (f *flat) above(before, row []int64) bool {
	for m, is := range f.stock {
		if is && before[m] > row[m] {
			return true
		}
	}
	return false
}

// price prices every program at every row. It is false where amounts are too large
// to be packed.
func (f *flat) price() bool {
	n := len(f.billed)
	q := make(tariff.Columns, len(f.stock))
	all := f.space.numbers(n * (len(f.stock) + 2*len(f.all)))
	take := func(columns int) (some []int64) { some, all = all[:columns*n], all[columns*n:]; return some }
	for m := range q {
		q[m] = take(1)
		for i, row := range f.billed {
			q[m][i] = row[m]
		}
	}
	months := len(f.choosing.rows)
	for i := range f.kinds {
		months = max(months, len(f.choosing.rows)+f.kinds[i].n) // what is lost may lie past the horizon
	}
	most := int64(1)<<costBits/int64(months) - 1
	f.first.most, f.first.read = most, q
	for at := range f.kinds {
		k := &f.kinds[at]
		k.bill, k.pay = take(len(k.programs)), f.space.values(n*len(k.programs))
		used := take(len(k.programs))[:n]
		for j, i := range k.programs {
			bill, pay := k.bill[j*n:][:n], k.pay[j*n:][:n]
			f.all[i].CostAll(1, 0, q, bill, used)
			asks := oneAsk * packed(f.quick[i].asks)
			for row, b := range bill {
				if b == tariff.Never {
					pay[row] = unable
					continue
				}
				now := used[row]
				if b > most || now > most-b {
					return false
				}
				if k.monthly {
					now += b
				}
				pay[row] = paying(now) + asks
			}
		}
		k.spreads(f.space, n)
	}
	return true
}

// spreads works out how the bills of so many rows are spread over their months.
// Those that follow each other are mostly the same. What is paid by the month has
// no bill to be spread.
func (k *flatKind) spreads(to *space, rows int) {
	k.spread = to.small(len(k.bill))
	if k.monthly {
		clear(k.spread)
		k.split, k.shares = to.numbers(k.n+1), to.values(k.n+1)
		clear(k.split)
		clear(k.shares)
		return
	}
	distinct := 0
	for at, bill := range k.bill {
		if at%rows == 0 || bill != k.bill[at-1] {
			distinct++
		}
		k.spread[at] = int32((distinct - 1) * (k.n + 1))
	}
	k.split, k.shares = to.numbers(distinct*(k.n+1)), to.values(distinct*(k.n+1))
	for at, bill := range k.bill {
		if bill == tariff.Never || at > 0 && k.spread[at] == k.spread[at-1] {
			continue
		}
		split, shares := k.split[k.spread[at]:][:k.n+1], k.shares[k.spread[at]:][:k.n]
		// Numerators are below 2^50 and 2n is at most 2^7, so the reciprocal is exact.
		last, numerator := int64(0), uint64(k.n)
		for m := range shares {
			numerator += 2 * uint64(bill)
			hi, _ := bits.Mul64(numerator, k.by)
			split[m], shares[m] = last, paying(int64(hi)-last)
			last = int64(hi)
		}
		split[k.n] = last
	}
}
