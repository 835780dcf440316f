package projection

import (
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"
)

// Offers for who signs first of all are had from the first signing on alone, and lapse into the
// plan as it is sold to everybody. So the flat search knows nothing of them but a chain of states
// beside its own: on which contract under an offer one is, and since when, while its offers last.

// isFirst reports whether a program is under such an offer, of which none is for good.
func isFirst(p *tariff.Program) bool {
	for _, o := range p.Offers {
		if o.Months == 0 {
			return false
		}
	}
	return p.NewOnly && len(p.Offers) > 0
}

// firsts are the programs under offers for first signers, and what they cost.
type firsts struct {
	programs []int
	of       [][]int        // by kind of term, in the order of their ranks
	twin     []int          // of each program of all: it without its offers; -1 for who has none
	priced   [][]*paid      // of each program of all, by phases
	phases   []int          // of each program of all
	read     tariff.Columns // the rows that are billed
	large    bool           // some amount does not fit
	most     int64
}

// paid is what a program costs in a month of a term, by row; its bill is [tariff.Never] where it does
// not serve.
type paid struct{ bill, used []int64 }

// paid prices a program that was signed age months before month u of a term that began k months
// before.
func (f *flat) paid(i, u, k, age int) *paid {
	since, into := billing(f.all[i], u-k, u, age)
	return f.phase(i, since, into)
}

// phase prices it at what holds so many months after signing.
func (f *flat) phase(i, since, into int) *paid {
	p, n := f.all[i], f.first.phases[i]
	if f.first.priced[i] == nil {
		f.first.priced[i] = make([]*paid, n*n)
	}
	c := &f.first.priced[i][p.Phase(since)*n+p.Phase(since+into)]
	if *c == nil {
		*c = &paid{f.space.numbers(len(f.billed)), f.space.numbers(len(f.billed))}
		p.CostAll(since, into, f.first.read, (*c).bill, (*c).used)
		for row, bill := range (*c).bill {
			f.first.large = f.first.large || bill != tariff.Never && (bill > f.first.most || (*c).used[row] > f.first.most-bill)
		}
	}
	return *c
}

// row is which row of readings is billed in month u of a term that began k months before.
func (f *flat) row(u, k int) int { return int(f.rows[u*f.deepest+k]) }

// chain is what follows the first signing of all in a month, under offers for it.
type chain struct {
	*flat
	month   int
	between [][]packed // of each contract under an offer, by months since signing
	terms   map[[2]int][]packed
}

// signedIn is the chain of who signs first in a month.
func (f *flat) signedIn(month int) *chain {
	return &chain{f, month, make([][]packed, len(f.contracts)), map[[2]int][]packed{}}
}

// free is what is to be paid from so many months after signing on, between terms.
func (c *chain) free(contract, age int) packed {
	of, u := &c.contracts[contract], c.month+age
	switch {
	case u >= len(c.choosing.rows):
		return 0
	case age >= of.lasts:
		return *c.freeAt(u, of.rank)
	}
	if c.between[contract] == nil {
		c.between[contract] = make([]packed, of.lasts)
	}
	at := &c.between[contract][age]
	if *at == 0 {
		if *at, _, _ = c.best(u, of.rank, contract, age, c); *at == unable {
			*at = oneGap + *c.freeAt(u+1, c.ranks+lapsed)
		}
	}
	return *at
}

// term is what each month of a term and all after it take, of a program that was signed age months
// before the term began.
func (c *chain) term(i, age int) []packed {
	if all := c.terms[[2]int{i, age}]; all != nil {
		return all
	}
	n := min(c.length(i, c.month+age), len(c.choosing.rows)-c.month-age)
	all := make([]packed, n+1)
	all[n] = unable
	for k := n - 1; k >= 0; k-- {
		all[k], _ = c.step(i, age, k, all[k+1])
	}
	c.terms[[2]int{i, age}] = all
	return all
}

// step is what month k of a term and all after it take, where goes is what the month after it
// does on the same program; and on which program of its kind one goes on: itself, a higher one, or
// -1 where the term ends or is left.
func (c *chain) step(i, age, k int, goes packed) (packed, int) {
	u, n := c.month+age+k, c.length(i, c.month+age)
	q, kind, now := &c.quick[i], &c.kinds[c.kind[i]], c.paid(i, u, k, age+k)
	bill := now.bill[c.row(u, k)]
	if bill == tariff.Never {
		return unable, -1
	}
	v := paying(now.used[c.row(u, k)]) + oneAsk*packed(q.asks)
	if q.monthly {
		v += paying(bill)
	} else {
		v += paying(share(bill, k, n))
	}
	rest := func(bill int64) int64 {
		if q.monthly {
			return 0
		}
		return left(bill, k+1, n)
	}
	switch {
	case u+1 == len(c.choosing.rows) && c.Leaves && q.monthly:
		return v + paying(c.bound(i, u-k, u, age+k, c.billed[c.row(u, k)])), -1
	case u+1 == len(c.choosing.rows) && c.Leaves:
		return v + paying(rest(bill)), -1
	case u+1 == len(c.choosing.rows):
		return v, -1
	case k+1 == n:
		return v + c.free(c.of[i], age+n), -1
	}
	best, to := unable, -1
	if goes != unable {
		best, to = goes+paying(max(0, rest(bill)-rest(c.paid(i, u+1, k+1, age+k+1).bill[c.row(u+1, k+1)]))), i
	}
	row, rows, size := c.row(u+1, k+1), len(c.billed), len(kind.programs)
	unused := rest(bill)
	for m := kind.up[c.at[i]]; m < size; m++ {
		other, at := kind.programs[m], m*rows+row
		if kind.bill[at] == tariff.Never || !c.may[other] {
			continue
		}
		if w := kind.inside[((u+1)*size+m)*kind.n+k+1] + c.moves[other][q.rank] + paying(max(0, unused-kind.left(at, k+1))); w < best {
			best, to = w, other
		}
	}
	if to < 0 {
		best = c.free(c.of[i], age+k+1) + paying(rest(bill))
	}
	return v + best, to
}

// best is the least that is to be paid from month u on, by who is between terms: on a rank or on no
// plan, and under which contract since how many months; -1 for none. ch is the chain of who is on
// one, or of who signs in the month. And by which program, and whether that is signed.
func (f *flat) best(u, rank, contract, age int, ch *chain) (best packed, program int, signs bool) {
	best, program = unable, -1
	for i := range f.all {
		var v packed
		here := !f.none(rank) && f.quick[i].rank == rank || rank == f.ranks+atStart && f.Customer.Here && u == 0
		switch offered := f.first.twin[i] >= 0; {
		case offered && contract == f.of[i] && age >= f.contracts[contract].lasts: // its offers are over
			v = f.entered[u*len(f.all)+f.first.twin[i]]
		case offered && contract == f.of[i]:
			v = ch.term(i, age)[0]
		case offered && rank == f.ranks+atStart && f.mayFirst[i][u]:
			v, here = ch.term(i, 0)[0], false
		case offered:
			continue
		case !here && !f.may[i]:
			continue
		default:
			v = f.entered[u*len(f.all)+i]
		}
		if v == unable {
			continue
		}
		if !here {
			v += f.moves[i][rank]
		}
		if v < best {
			best, program, signs = v, i, !here
		}
	}
	return best, program, signs
}

// firstsOf sorts out the programs under offers for first signers; false where some program has
// another kind of offer.
func (f *flat) firstsOf() bool {
	f.first.twin, f.first.priced, f.first.phases = make([]int, len(f.all)), make([][]*paid, len(f.all)), make([]int, len(f.all))
	for i, p := range f.all {
		f.first.twin[i] = -1
		if len(p.Offers) == 0 {
			continue
		}
		if !isFirst(p) || p.Plan.Offered == pricelist.Closed {
			return false
		}
		for j, other := range f.all {
			if len(other.Offers) == 0 && other.Plan == p.Plan && other.Term.Key == p.Term.Key {
				f.first.twin[i] = j
			}
		}
		if f.first.twin[i] < 0 {
			return false
		}
		f.first.programs, f.first.phases[i] = append(f.first.programs, i), p.Phases()
	}
	return true
}
