package projection

import (
	"slices"

	"ninecoins/internal/core/tariff"
)

// offered goes through the terms under offers that begin in month u, by who signed first in an earlier
// month, or signs in this one.
func (r *runs) offered(to []packed, signed, u int) {
	states, months := r.ranks+2, len(r.choosing.rows)
	age := u - signed
	begin := r.cost[u*states+r.ranks+atStart]
	for c := range r.contracts {
		if of := &r.contracts[c]; age > 0 && age < of.lasts && r.chains[c][age] != unable {
			r.reach(&r.cost[u*states+of.rank], r.chains[c][age])
		}
	}
	l := &r.laid
	for at := range r.kinds {
		k := &r.kinds[at]
		size := len(k.programs)
		r.joins, r.joined = slices.Grow(r.joins[:0], (k.n+1)*size)[:(k.n+1)*size], slices.Grow(r.joined[:0], k.n+1)[:k.n+1]
		clear(r.joined)
		some, any := r.first.of[at], false
		if n := len(some); len(r.signs) < n {
			r.signs, r.bills, r.costs = make([]packed, n), make([]int64, n), make([]*paid, n)
		}
		for s, i := range some {
			v := unable
			if c := r.of[i]; age == 0 && r.mayFirst[i][u] {
				v = begin + r.moves[i][r.ranks+atStart]
			} else if age > 0 && age < r.contracts[c].lasts {
				v = r.chains[c][age]
			}
			r.signs[s], any = v, any || v != unable
		}
		if any {
			r.under(to, at, u, age)
		}
		if !slices.Contains(r.joined, true) {
			continue
		}
		l.exits, l.ends = l.exits[:0], l.ends[:0]
		r.sized(size)
		for j := range k.programs {
			r.now[j] = unable
		}
		r.follow(l, u, at, func(b int) {
			if r.joined[b] {
				for j, v := range r.joins[b*size:][:size] {
					r.reach(&r.now[j], v)
				}
			}
		})
		for b, v := range l.exits {
			r.reach(&to[u+b+1], v)
		}
		for _, end := range l.ends {
			if at := u + int(end.months); at < months {
				r.reach(&r.cost[at*states+int(end.rank)], end.cost)
			}
		}
	}
}

// under goes through the terms of a kind under offers that begin in month u, on the programs on which
// r.signs says that one is in its first month, and notes who goes on inside them without an offer, and where.
func (r *runs) under(to []packed, kind, u, age int) {
	k, some, rows, months, states := &r.kinds[kind], r.first.of[kind], len(r.billed), len(r.choosing.rows), r.ranks+2
	size := len(k.programs)
	for b := range min(k.n, months-u) {
		row, least := r.row(u+b, b), unable // the least of who is left
		for s, i := range some {
			if r.signs[s] == unable {
				continue
			}
			if b == 0 {
				r.costs[s] = r.paid(i, u, 0, age)
			}
			now := r.costs[s]
			bill := now.bill[row]
			if r.bills[s] = bill; bill == tariff.Never {
				r.signs[s] = unable
				continue
			}
			v := r.signs[s] + paying(now.used[row]) + oneAsk*packed(r.quick[i].asks)
			exit := v
			switch {
			case !k.monthly:
				v += paying(k.until(bill, b+1) - k.until(bill, b))
				exit = v + paying(bill-k.until(bill, b+1))
			default:
				v += paying(bill)
				exit = v + paying(r.owed(i, age, b, k.n, row))
			}
			if r.signs[s] = v; u+b+1 == months { // nothing is left
				exit = v
			}
			least = min(least, exit)
		}
		r.reach(&to[u+b+1], least)
		if least == unable || u+b+1 == months {
			return
		}
		land := func(s int, v packed) { // between terms
			i := some[s]
			if of := r.of[i]; age+b+1 < r.contracts[of].lasts {
				r.reach(&r.chains[of][age+b+1], v)
			} else {
				r.reach(&r.cost[(u+b+1)*states+r.quick[i].rank], v)
			}
			r.signs[s] = unable
		}
		if b+1 == k.n {
			for s, v := range r.signs[:len(some)] {
				if v != unable {
					land(s, v)
				}
			}
			return
		}
		joins, top := r.joins[(b+1)*size:][:size], -1 // the highest that takes part
		after := r.row(u+b+1, b+1)
		best, below := -1, 0 // of those below on lower ranks
		for m, other := range k.programs {
			joins[m] = unable
			for ; below < len(some) && k.up[r.at[some[below]]] <= m; below++ {
				if r.signs[below] != unable && (best < 0 || r.signs[below] < r.signs[best]) {
					best = below
				}
			}
			at := m*rows + after
			if k.bill[at] == tariff.Never || !r.may[other] {
				continue
			}
			if top = m; best < 0 {
				continue
			}
			joins[m] = r.joining(k, some, best, m, at, b)
			if r.once[other] || !k.monthly && k.bill[at] < r.bills[best] { // it hangs on what is left
				for s := range below {
					joins[m] = min(joins[m], r.joining(k, some, s, m, at, b))
				}
			}
			r.joined[b+1] = true
		}
		for s, i := range some {
			v, twin := r.signs[s], r.at[i]
			if v == unable {
				continue
			}
			if k.monthly && age+b+1 >= r.contracts[r.of[i]].lasts && k.bill[twin*rows+after] != tariff.Never {
				r.reach(&joins[twin], v) // its offers are over
				r.joined[b+1], r.signs[s] = true, unable
				continue
			}
			r.costs[s] = r.paid(i, u+b+1, b+1, age+b+1)
			switch bill := r.costs[s].bill[after]; {
			case bill != tariff.Never && !k.monthly && bill < r.bills[s]:
				r.signs[s] = v + paying(max(0, r.bills[s]-k.until(r.bills[s], b+1)-bill+k.until(bill, b+1)))
			case bill != tariff.Never:
			case k.up[twin] <= top:
				r.signs[s] = unable
			case k.monthly:
				land(s, v)
			default: // the term is left
				land(s, v+paying(r.bills[s]-k.until(r.bills[s], b+1)))
			}
		}
	}
}

// joining is what it takes to move up inside a term, after its month b, from one under an offer to a
// program without.
func (r *runs) joining(k *flatKind, some []int, s, m, at, b int) packed {
	if r.signs[s] == unable {
		return unable
	}
	v := r.signs[s] + r.moves[k.programs[m]][r.quick[some[s]].rank]
	if !k.monthly && k.bill[at] < r.bills[s] {
		v += paying(max(0, r.bills[s]-k.until(r.bills[s], b+1)-k.left(at, b+1)))
	}
	return v
}

// owed is what a term that is paid by the month still asks for when it is left after its month b.
func (r *runs) owed(i, age, b, n, row int) (sum int64) {
	for j := b + 1; j < n; j++ {
		if bill := r.phase(i, max(1, age+j), 0).bill[row]; bill != tariff.Never {
			sum += bill
		}
	}
	return sum
}
