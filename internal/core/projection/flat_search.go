package projection

import (
	"math/bits"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"
)

// choose finds the cheapest way.
func (f *flat) choose() []stay {
	f.search()
	way := f.path()
	f.space.leave()
	return way
}

// search works out what is to be paid from each month on, from the last back.
func (f *flat) search() {
	months := len(f.choosing.rows)
	f.entered, f.free = f.space.values(months*len(f.all)), f.space.values((months+1)*(f.ranks+2))
	clear(f.free[months*(f.ranks+2):])
	for at := range f.kinds {
		k := &f.kinds[at]
		k.inside = f.space.values(months * len(k.programs) * k.n)
	}
	for u := months - 1; u >= 0; u-- {
		for at := range f.kinds {
			f.sweep(&f.kinds[at], u)
		}
		f.between(u)
	}
}

// Where what no plan runs for stands behind the ranks.
func (f *flat) freeAt(u, state int) *packed { return &f.free[u*(f.ranks+2)+state] }

func (f *flat) none(state int) bool { return state >= f.ranks }

// between works out what is cheapest in a month between terms.
func (f *flat) between(u int) {
	row := f.free[u*(f.ranks+2):][:f.ranks+2]
	for state := range row {
		row[state] = unable
	}
	least := unable // to sign what nothing is charged for
	for i, v := range f.entered[u*len(f.all):][:len(f.all)] {
		if v == unable || f.first.twin[i] >= 0 {
			continue
		}
		rank := f.quick[i].rank
		row[rank] = min(row[rank], v)
		switch {
		case !f.may[i]:
		case !f.once[i]:
			least = min(least, v+oneMove)
		default:
			for state, move := range f.moves[i] {
				if state != rank {
					row[state] = min(row[state], v+move)
				}
			}
		}
	}
	gapped := oneGap + *f.freeAt(u+1, f.ranks+lapsed)
	for state := range row {
		if row[state] = min(row[state], least); row[state] == unable {
			row[state] = gapped
		}
	}
}

// sweep works out month u of every term of a kind. A bill counts with what each
// month takes of it; what is paid ahead and lost comes on top.
func (f *flat) sweep(k *flatKind, u int) {
	months, rows, n, size := len(f.choosing.rows), len(f.billed), k.n, len(k.programs)
	if n == 1 {
		for j, i := range k.programs {
			v := k.pay[j*rows+u] + k.shares[k.spread[j*rows+u]]
			if v < unable && u+1 < months {
				v += f.free[(u+1)*(f.ranks+2)+f.quick[i].rank]
			}
			k.inside[u*size+j], f.entered[u*len(f.all)+i] = v, v
		}
		return
	}
	deep := min(n, u+1)      // terms that can have begun
	going := min(deep, n-1)  // and go on
	easy := f.easy(u, going) // of which so many are billed the readings of their months
	if u+1 == months {
		going, easy = 0, 0
	}
	for j, i := range k.programs {
		to := k.inside[(u*size+j)*n:][:deep]
		if easy > 0 {
			f.plainly(k, u, j, to[:easy])
		}
		for b := easy; b < deep; b++ {
			from := j*rows + int(f.rows[u*f.deepest+b])
			v := k.pay[from]
			switch {
			case v == unable:
			case b < going:
				next, _ := f.next(k, u, b, j)
				v += k.shares[int(k.spread[from])+b] + next
			case u+1 == months:
				v += k.shares[int(k.spread[from])+b] + f.ending(k, from, b)
			default:
				v += k.shares[int(k.spread[from])+b] + *f.freeAt(u+1, f.quick[i].rank)
			}
			to[b] = v
		}
		f.entered[u*len(f.all)+i] = to[0]
	}
}

// easy is how many of the terms under way in a month are billed its own readings,
// and those of the next month in that.
func (f *flat) easy(u, going int) int {
	if u+1 == len(f.choosing.rows) {
		return 0
	}
	for going > 0 && (f.rows[u*f.deepest+going-1] != int32(u) || f.rows[(u+1)*f.deepest+going] != int32(u+1)) {
		going--
	}
	return going
}

// plainly works out month u of the terms that are billed the readings of their
// months.
func (f *flat) plainly(k *flatKind, u, j int, to []packed) {
	rows, n, size := len(f.billed), k.n, len(k.programs)
	from := j*rows + u
	pay := k.pay[from]
	if pay == unable {
		for b := range to {
			to[b] = unable
		}
		return
	}
	nobody := true
	for m := j; m < size; m++ {
		if m == j+1 {
			if m = k.up[j]; m >= size {
				break
			}
		}
		after := m*rows + u + 1
		if k.bill[after] == tariff.Never || m != j && !f.may[k.programs[m]] {
			continue
		}
		next := k.inside[((u+1)*size+m)*n+1:][:len(to)]
		move := packed(0)
		if m != j {
			move = f.moves[k.programs[m]][f.quick[k.programs[j]].rank]
		}
		switch loses := k.mayLose(from, after); {
		case loses:
			for b, v := range next {
				v += move + paying(k.lost(from, after, b+1))
				if to[b] = min(to[b], v); nobody {
					to[b] = v
				}
			}
		case nobody:
			for b, v := range next {
				to[b] = v + move
			}
		default:
			for b, v := range next {
				to[b] = min(to[b], v+move)
			}
		}
		nobody = false
	}
	if nobody { // the term is left
		free := *f.freeAt(u+1, f.quick[k.programs[j]].rank)
		for b := range to {
			to[b] = free + paying(k.left(from, b+1))
		}
	}
	for b, share := range k.shares[k.spread[from]:][:len(to)] {
		to[b] += pay + share
	}
}

// next is the least that is to be paid after month u of a term that began b months
// before and goes on, and on which program of the kind; -1 where it is left.
func (f *flat) next(k *flatKind, u, b, j int) (packed, int) {
	rows, n, size := len(f.billed), k.n, len(k.programs)
	from, row := j*rows+int(f.rows[u*f.deepest+b]), int(f.rows[(u+1)*f.deepest+b+1])
	best, to := unable, -1
	for m := j; m < size; m++ {
		if m == j+1 {
			if m = k.up[j]; m >= size {
				break
			}
		}
		after := m*rows + row
		if k.bill[after] == tariff.Never || m != j && !f.may[k.programs[m]] {
			continue
		}
		v := k.inside[((u+1)*size+m)*n+b+1]
		if m != j {
			v += f.moves[k.programs[m]][f.quick[k.programs[j]].rank]
		}
		if k.mayLose(from, after) {
			v += paying(k.lost(from, after, b+1))
		}
		if v < best {
			best, to = v, m
		}
	}
	if to < 0 {
		return *f.freeAt(u+1, f.quick[k.programs[j]].rank) + paying(k.left(from, b+1)), -1
	}
	return best, to
}

// ending is what is still due in the last month of a term that began b months before.
func (f *flat) ending(k *flatKind, from, b int) packed {
	switch {
	case !f.Leaves:
		return 0
	case k.monthly:
		return paying(k.bill[from] * int64(k.n-b-1))
	}
	return paying(k.left(from, b+1))
}

// mayLose reports whether less may be left of the next bill than of the one before.
func (k *flatKind) mayLose(before, after int) bool {
	return !k.monthly && k.bill[after] < k.bill[before]
}

// lost is how much more is left of a bill in month b of a term than of the next
// one.
func (k *flatKind) lost(before, after, b int) int64 {
	return max(0, k.left(before, b)-k.left(after, b))
}

// until is what the months before month b of a term take of a bill.
func (k *flatKind) until(bill int64, b int) int64 {
	if b >= k.n {
		return bill
	}
	hi, _ := bits.Mul64(2*uint64(bill)*uint64(b)+uint64(k.n), k.by)
	return int64(hi)
}

// left is what the months from month b on take of a bill, inside the horizon or past it.
func (k *flatKind) left(bill, b int) int64 {
	split := k.split[k.spread[bill]:][:k.n+1]
	return split[k.n] - split[b]
}

// path walks the best way from the first month on.
func (f *flat) path() []stay {
	months := len(f.choosing.rows)
	way := make([]stay, months)
	rank, contract, age := f.ranks+atStart, -1, 0
	var ch *chain // since the first signing
	for u := 0; u < months; {
		if ch == nil && len(f.first.programs) > 0 || rank == f.ranks+atStart {
			ch = f.signedIn(u)
		}
		_, program, signs := f.best(u, rank, contract, age, ch)
		if program < 0 {
			if rank != f.ranks+atStart {
				rank, contract = f.ranks+lapsed, -1
			}
			u++
			continue
		}
		var before *pricelist.Plan
		if !f.none(rank) {
			before = &f.Edition.Plans[rank]
		}
		if signs {
			age = 0
		}
		if contract = -1; f.first.twin[program] >= 0 {
			contract = f.of[program]
		}
		k, start, begun := &f.kinds[f.kind[program]], u, age
		offered := contract >= 0 && age < f.contracts[contract].lasts
		for {
			way[u] = stay{program: f.all[program], start: start, signed: signs, before: before}
			if rank = f.quick[program].rank; contract >= 0 {
				way[u].age = age
			}
			next := -1
			if u, age = u+1, age+1; u < months && u-start < k.n {
				if offered {
					_, next = ch.step(program, begun, u-1-start, ch.term(program, begun)[u-start])
				} else if _, next = f.next(k, u-1, u-1-start, f.at[program]); next >= 0 {
					next = k.programs[next]
				}
			}
			if next < 0 {
				break
			}
			if signs, before = !f.goesOn(program, next), f.all[program].Plan; signs { // to a higher plan
				program, contract, age, offered = next, -1, 0, false
			}
		}
	}
	return way
}

// goesOn reports whether a program that is next is the one under way, whose offers may be over.
func (f *flat) goesOn(program, next int) bool {
	return next == program || f.first.twin[program] == next
}
