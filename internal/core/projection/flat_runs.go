package projection

import (
	"slices"

	"ninecoins/internal/core/tariff"
)

// What happens inside a term does not hang on where the horizon ends. So what an option costs over
// every run of months is found from each first month on, forward: what it takes to get between terms
// on each rank in each later month, and from there what it takes to be left in any month after.

// legs is what it takes to go through a term that begins in a month, by how it is left: with the option
// itself after so many months, or between terms.
type legs struct {
	exits []packed // after 1, 2, … months
	ends  []legEnd
}

// legEnd is between terms on a rank, so many months after the term began.
type legEnd struct {
	cost         packed
	months, rank int32
}

// runs are what the option costs from each month before each later one, left there, and to the
// horizon, where nothing is left, at from·(months+1)+before; [unable] elsewhere.
type runs struct {
	*flat
	all    []packed
	cost   []packed // to be between terms: by month and state, as free has them
	legs   []*legs  // by month, kind, and who enters: by the state that one was in before
	open   []bool   // whether a program may be signed in a month, and serves
	own    []bool   // whether one of a rank does, by month and rank
	closed bool     // some plan is
	now    []packed // of a term, by program of its kind
	then   []packed
	chains [][]packed // of each contract under an offer, by months since signing
	lasts  int        // for how many months after signing some is under an offer
	joins  []packed   // who moves up from a term under an offer, by its month and program
	joined []bool     // whether somebody does, by month
	signs  []packed   // who is on programs under offers, in a term of a kind
	bills  []int64    // what they are billed
	costs  []*paid    // and cost
	laid   legs       // while they are worked out
}

// here is who is a customer when the horizon begins, and stays on whatever plan that was.
func (r *runs) here() int { return r.ranks + 2 }

// every works out all runs. The candidate is one that is left.
func (f *flat) every() ([]packed, error) {
	months := len(f.choosing.rows)
	r := &runs{flat: f, all: make([]packed, (months+1)*(months+1)), cost: make([]packed, (months+1)*(f.ranks+2)),
		legs: make([]*legs, months*len(f.kinds)*(f.ranks+3)), open: make([]bool, months), own: make([]bool, months*f.ranks)}
	for i := range r.all {
		r.all[i] = unable
	}
	for at := range f.kinds {
		k := &f.kinds[at]
		for j, i := range k.programs {
			r.closed = r.closed || !f.may[i]
			for u := range months {
				if k.pay[j*len(f.billed)+u] != unable {
					r.own[u*f.ranks+f.quick[i].rank] = true
					r.open[u] = r.open[u] || f.may[i]
				}
			}
		}
	}
	if len(f.first.programs) > 0 {
		r.chains = make([][]packed, len(f.contracts))
		for c := range r.chains {
			r.chains[c] = make([]packed, f.contracts[c].lasts+1)
			r.lasts = max(r.lasts, f.contracts[c].lasts)
		}
	}
	for from := range months {
		if err := f.ended(); err != nil {
			return nil, err
		}
		r.begin(from)
	}
	return r.all, nil
}

// reach lowers a cost.
func (r *runs) reach(at *packed, v packed) { *at = min(*at, v) }

// begin works out the runs from a month on.
func (r *runs) begin(from int) {
	months, states := len(r.choosing.rows), r.ranks+2
	for i := from * states; i < len(r.cost); i++ {
		r.cost[i] = unable
	}
	r.cost[from*states+r.ranks+atStart] = 0
	to := r.all[from*(months+1):][:months+1]
	signed := -1 // the month of the first signing under offers
	for u := from; u < months; u++ {
		row := r.cost[u*states:][:states]
		if start := row[r.ranks+atStart]; start != unable {
			if r.open[u] && len(r.first.programs) > 0 {
				signed = u
				for c := range r.chains {
					for age := range r.chains[c] {
						r.chains[c][age] = unable
					}
				}
			}
		}
		if signed >= 0 && u-signed < max(1, r.lasts) {
			r.offered(to, signed, u)
		}
		least := unable
		for _, v := range row {
			least = min(least, v)
		}
		if least == unable {
			continue
		}
		for at := range r.kinds {
			for state, v := range row {
				if state == r.ranks+atStart && r.Customer.Here && u == 0 {
					state = r.here()
				}
				if v != unable && (v < least+r.fees || r.closed) { // others are no better than who stands best, and signs
					r.enter(to, u, at, state, v)
				}
			}
		}
		if r.open[u] {
			continue
		}
		for state, v := range row {
			stays := state < r.ranks && r.own[u*r.ranks+state] // on a plan that is sold to nobody else
			if state == r.ranks+atStart && r.Customer.Here && u == 0 {
				stays = slices.Contains(r.own[u*r.ranks:][:r.ranks], true)
			}
			if v == unable || stays {
				continue
			}
			next := lapsed
			if state == r.ranks+atStart {
				next = atStart
			}
			r.reach(&r.cost[(u+1)*states+r.ranks+next], v+oneGap)
			r.reach(&to[u+1], v+oneGap)
		}
	}
}

// enter goes through the terms of a kind that begin in a month, by who enters them at what it took to
// come there.
func (r *runs) enter(to []packed, u, kind, who int, cost packed) {
	at := &r.legs[(u*len(r.kinds)+kind)*(r.ranks+3)+who]
	if *at == nil {
		*at = r.through(u, kind, who)
	}
	months, states := len(r.choosing.rows), r.ranks+2
	for k, v := range (*at).exits {
		if v != unable {
			r.reach(&to[u+k+1], cost+v)
		}
	}
	for _, end := range (*at).ends {
		if at := u + int(end.months); at < months {
			r.reach(&r.cost[at*states+int(end.rank)], cost+end.cost)
		}
	}
}

// through works out the legs of a term.
func (r *runs) through(u, kind, who int) *legs {
	k := &r.kinds[kind]
	r.sized(len(k.programs))
	for j, i := range k.programs {
		switch {
		case who == r.here() || who == r.quick[i].rank:
			r.now[j] = 0
		case r.may[i]:
			r.now[j] = r.moves[i][who]
		default:
			r.now[j] = unable
		}
	}
	l := &r.laid
	l.exits, l.ends = l.exits[:0], l.ends[:0]
	r.follow(l, u, kind, func(int) {})
	return &legs{slices.Clone(l.exits), slices.Clone(l.ends)}
}

func (r *runs) sized(n int) {
	if len(r.now) < n {
		r.now, r.then = make([]packed, n), make([]packed, n)
	}
}

// follow goes through a term of a kind that began in month u, on the programs on which r.now says that
// one is in its first month; joining adds, before each later month, who comes from elsewhere.
func (r *runs) follow(l *legs, u, kind int, joining func(k int)) {
	k, rows, months := &r.kinds[kind], len(r.billed), len(r.choosing.rows)
	n, size := min(k.n, months-u), len(k.programs)
	for b := range n {
		row, exit := r.row(u+b, b), unable
		for j := range size {
			if r.now[j] == unable {
				continue
			}
			from := j*rows + row
			pay := k.pay[from]
			if pay == unable {
				r.now[j] = unable
				continue
			}
			r.now[j] += pay + k.shares[int(k.spread[from])+b]
			if u+b+1 == months { // nothing is left
				exit = min(exit, r.now[j])
				continue
			}
			exit = min(exit, r.now[j]+r.ending(k, from, b))
			if b+1 == k.n {
				l.ends = append(l.ends, legEnd{r.now[j], int32(k.n), int32(r.quick[k.programs[j]].rank)})
			}
		}
		l.exits = append(l.exits, exit)
		if b+1 == n {
			return
		}
		after := r.row(u+b+1, b+1)
		best, below, top := -1, 0, -1 // of those below on lower ranks, and the highest that one may move up to
		for m, other := range k.programs {
			for ; below < m && k.up[below] <= m; below++ {
				if r.now[below] != unable && (best < 0 || r.now[below] < r.now[best]) {
					best = below
				}
			}
			next := m*rows + after
			r.then[m] = unable
			if k.bill[next] == tariff.Never {
				continue
			}
			r.then[m] = r.onward(k, m, m, row, next, b)
			if !r.may[other] {
				continue
			}
			if top = m; best < 0 {
				continue
			}
			if !r.once[other] && !k.mayLose(best*rows+row, next) {
				r.then[m] = min(r.then[m], r.now[best]+oneMove)
				continue
			}
			for j := range below {
				r.then[m] = min(r.then[m], r.onward(k, j, m, row, next, b))
			}
		}
		for j := range size {
			if r.now[j] != unable && k.bill[j*rows+after] == tariff.Never && k.up[j] > top { // the term is left
				l.ends = append(l.ends, legEnd{r.now[j] + paying(k.left(j*rows+row, b+1)), int32(b + 1), int32(r.quick[k.programs[j]].rank)})
			}
		}
		r.now, r.then = r.then, r.now
		joining(b + 1)
	}
}

// onward is what it takes to go on inside a term on program m, from j and month b on.
func (r *runs) onward(k *flatKind, j, m, row, next, b int) packed {
	v, from := r.now[j], j*len(r.billed)+row
	if v == unable {
		return unable
	}
	if m != j {
		v += r.moves[k.programs[m]][r.quick[k.programs[j]].rank]
	}
	if k.mayLose(from, next) {
		v += paying(k.lost(from, next, b+1))
	}
	return v
}
