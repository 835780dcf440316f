package projection

import (
	"slices"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"
)

// choosing finds the cheapest way by dynamic programming over months (Bellman
// 1957): from the last month back, what it costs from a month on in each state.
// Between terms, a state is which contract one is on and how old it is, as far as
// offers hang on that. Inside a term it is the program, and the month in which the
// term began: how high stocks have ratcheted follows from that.
type choosing struct {
	*Candidate
	all       []*tariff.Program // that cannot be barred
	of        []int             // contract of each
	deep      []int             // ages that are told apart inside a term, by program
	offset    []int             // first state inside a term, by program
	contracts []contract
	kinds     [][]int // programs by kind of term
	rows      [][]int64
	stock     []bool
	levelled  []int // the last month before which some stock stood higher; -1 for none
	cells     [][]cell
	free      [][]value  // by month and state between terms
	taken     [][]int    // program taken there; -1 for none
	inside    [][]inside // by month of the term and state inside it
	row       [][]int64  // what is billed in each month of the term
	quick     []quick
	entered   []value   // what a term costs that begins in the month under way, by state inside it
	bought    [][]value // the same of each month, where something is sold for life
	may       [][]bool  // whether a program can be signed in a month
	mayFirst  [][]bool  // and by who signs first of all
	offered   [][]bool  // whether its offers can be had by who is on the plan
	stateOf   []int     // contract of each state between terms
	once      []bool    // whether something is charged at its signing
	states    int
	depth     int
	general   bool // the search for what is simple is left out
}

// The states in which no contract runs.
const (
	atStart = iota // nothing was signed yet
	lapsed
	firstContract
)

// entry says at which age a program is entered from a state between terms, and
// whether it is signed then; false where it cannot be. Another term of the plan
// that one is on is no new signing, so offers go on to count; one that stands alone may be left
// out then, and not be taken up.
func (h *choosing) entry(program, t, state int) (age int, signs, may bool) {
	p := h.all[program]
	if state >= firstContract {
		if on := h.stateOf[state]; on == h.of[program] {
			return state - h.contracts[on].at, false, true
		} else if h.contracts[on].rank == p.Rank {
			to := h.contracts[h.of[program]].chosen
			return state - h.contracts[on].at, false, h.offered[program][t] && !p.NewOnly && (to == nil || to == h.contracts[on].chosen)
		}
	}
	if state == atStart && h.Customer.Here && t == 0 {
		return h.deep[program], false, !p.NewOnly
	}
	return 0, true, h.may[program][t] || state == atStart && !h.Customer.Here && h.mayFirst[program][t]
}

// planOf is the plan of a state between terms; nil where none runs.
func (h *choosing) planOf(state int) *pricelist.Plan {
	if state < firstContract {
		return nil
	}
	return &h.Edition.Plans[h.contracts[h.stateOf[state]].rank]
}

// after is the state between terms once a program is an age old.
func (h *choosing) after(program, age int) int {
	c := &h.contracts[h.of[program]]
	return c.at + min(age, c.lasts)
}

// signing is what signing a program costs once: nothing for charges that the plan
// left had too.
func (h *choosing) signing(program, t int, left *pricelist.Plan) value {
	if !h.once[program] {
		return value{moves: 1}
	}
	once, ok := h.all[program].Signing(h.rows[t], left)
	if !ok {
		return never
	}
	return value{cost: once, moves: 1}
}

// begun is what a month costs once for add-ons that begin in it on a plan which was signed before: those
// that the readings billed in it ask for, and those before it do not.
func (h *choosing) begun(program, start, t, age int, before, row []int64) value {
	if !h.once[program] {
		return value{}
	}
	since, into := billing(h.all[program], start, t, age)
	if into == 0 {
		since = max(1, since)
	}
	once, ok := h.all[program].Begun(since, into, before, row)
	if !ok {
		return never
	}
	return value{cost: once}
}

// choose finds the cheapest way through the months by a policy. Its error is that of the
// context, which is looked at in each month.
func (h *choosing) choose() ([]stay, error) {
	if f := h.flatten(); f != nil {
		if way := f.choose(); !f.first.large {
			return way, h.ended()
		}
	}
	n := len(h.rows)
	h.free, h.taken = make([][]value, n+1), make([][]int, n)
	values, takens := make([]value, (n+1)*h.states), make([]int, n*h.states)
	for t := range h.free {
		h.free[t] = values[t*h.states:][:h.states]
	}
	h.forLife()
	for t := n - 1; t >= 0; t-- {
		if err := h.ended(); err != nil {
			return nil, err
		}
		h.taken[t] = takens[t*h.states:][:h.states]
		for _, kind := range h.kinds {
			h.fill(kind, t)
			for _, i := range kind {
				h.enter(i, t)
			}
		}
		if h.bought != nil {
			copy(h.bought[t], h.entered)
		}
		for state := range h.states {
			h.free[t][state], h.taken[t][state] = h.best(t, state)
		}
	}
	return h.path(), nil
}

// gap is what a month costs that nothing serves.
func (h *choosing) gap(t, state int) value {
	next := lapsed
	if state == atStart {
		next = atStart
	}
	return value{gravest: gap}.plus(h.free[t+1][next])
}

// best takes the best program between terms.
func (h *choosing) best(t, state int) (value, int) {
	best, taken := never, -1
	rank := -1
	if state >= firstContract {
		rank = h.contracts[h.stateOf[state]].rank
	}
	for i := range h.all {
		if rank >= 0 && h.quick[i].rank != rank && !h.once[i] { // signed like from anywhere else
			v := h.entered[h.offset[i]]
			if v.moves++; v.less(best) && h.quick[i].may[t] {
				best, taken = v, i
			}
			continue
		}
		age, signs, may := h.entry(i, t, state)
		if !may {
			continue
		}
		v := h.entered[h.offset[i]+min(age, h.deep[i])]
		switch {
		case signs:
			v = v.plus(h.signing(i, t, h.planOf(state)))
		case t > 0:
			v = v.plus(h.begun(i, t, t, age, h.rows[t-1], h.rows[t]))
		}
		if v.less(best) {
			best, taken = v, i
		}
	}
	if !best.can() {
		return h.gap(t, state), -1
	}
	return best, taken
}

// enter works out what a term costs that begins in a month, its first bill among
// it.
func (h *choosing) enter(program, t int) {
	for age := range h.deep[program] + 1 {
		at := h.offset[program] + age
		first := &h.inside[0][at]
		v := first.value
		if h.all[program].Period != 1 && first.ok {
			v.cost += first.bill
		}
		h.entered[at] = v
	}
}

// inside is a month inside a term, in one state: what is still to be paid from it
// on, the bill that runs apart.
type inside struct {
	value      value
	bill, used int64
	ok         bool
}

// fill works out what a term of a kind costs that begins in a month, in each
// month and state inside it.
func (h *choosing) fill(kind []int, start int) {
	n := h.length(kind[0], start)
	months := min(n, len(h.rows)-start)
	for len(h.inside) < months {
		h.inside = append(h.inside, make([]inside, h.depth))
	}
	h.levels(start, months)
	for k := range months {
		month := h.inside[k]
		for _, i := range kind {
			deep, offset := h.deep[i], h.offset[i]
			for age := range deep + 1 {
				s := &month[offset+age]
				c, ok := h.cost(i, start, start+k, age, h.row[k])
				if s.ok, s.bill, s.used = ok, c.Bill, c.Used; !ok {
					s.value = never
				}
			}
		}
	}
	for k := months - 1; k >= 0; k-- {
		for _, i := range kind {
			for age := range h.deep[i] + 1 {
				if s := &h.inside[k][h.offset[i]+age]; s.ok {
					s.value, _ = h.month(kind, i, start, start+k, age)
				}
			}
		}
	}
}

// known is what a program costs in a month where that hangs neither on the month
// in which the term began nor on how old its signing is.
func (h *choosing) known(program, u, start int) *cell {
	if h.levelled[u] >= start && u > start || h.contracts[h.of[program]].lasts > 0 {
		return nil
	}
	if h.cells[program] == nil {
		h.cells[program] = make([]cell, len(h.rows))
	}
	c := &h.cells[program][u]
	if !c.known {
		c.Cost, c.ok = h.all[program].Cost(1, 0, h.rows[u])
		c.known = true
	}
	return c
}

// next is where one goes from a month inside a term.
type next struct {
	program, age int  // inside the term; program is -1 where it ends or is left
	anew         bool // it is bought for life in place of the one before
}

// month is what is to be paid from a month inside a term on, where the program
// serves: what is used, and what another bill asks for beyond the credit for this
// one.
func (h *choosing) month(kind []int, program, start, u, age int) (value, next) {
	q, n, k := &h.quick[program], h.length(program, start), u-start
	s := &h.inside[k][q.offset+age]
	now := value{cost: s.used, gravest: q.asks}
	if q.monthly {
		now.cost += s.bill
	}
	if u+1 == len(h.rows) {
		if now.cost += h.due(program, start, u, age, h.row[k]); !q.monthly && !h.Leaves {
			now.cost -= left(s.bill, k+1, n) // what is left in a term that runs on
		}
		return now, next{program: -1}
	}
	if k+1 == n {
		return now.plus(h.free[u+1][q.at+min(age+1, q.lasts)]), next{program: -1}
	}
	best, to, after := never, next{program: -1}, h.inside[k+1]
	older := min(age+1, q.deep)
	life := h.all[program].ForLife()
	if one := &after[q.offset+older]; one.ok && life && one.bill > s.bill {
		best, to = h.again(program, u+1, older, left(s.bill, k+1, n)), next{program, older, true}
	} else if one.ok {
		best, to = following(q, s, one, k+1, n), next{program: program, age: older}
	}
	if best.can() && h.once[program] {
		best = best.plus(h.begun(program, start, u+1, older, h.row[k], h.row[k+1]))
	}
	for _, i := range kind {
		o := &h.quick[i]
		if life {
			if o.rank > q.rank && o.may[u+1] {
				v := h.again(i, u+1, 0, left(s.bill, k+1, n)).plus(h.signing(i, u+1, h.all[program].Plan))
				if v.less(best) {
					best, to = v, next{program: i, anew: true}
				}
			}
			continue
		}
		one := &after[o.offset]
		if o.rank <= q.rank || !one.ok || !one.value.less(best) || !o.may[u+1] {
			continue
		}
		v := following(q, s, one, k+1, n).plus(h.signing(i, u+1, h.all[program].Plan))
		if v.less(best) {
			best, to = v, next{program: i}
		}
	}
	if to.program < 0 { // what was paid ahead is lost
		best = h.free[u+1][q.at+min(age+1, q.lasts)]
	}
	return now.plus(best), to
}

// following is what is to be paid from month k of a term on, where another bill
// may take the place of the one before.
func following(q *quick, before, after *inside, k, n int) value {
	v := after.value
	if !q.monthly && after.bill != before.bill {
		v.cost += max(0, left(after.bill, k, n)-left(before.bill, k, n))
	}
	return v
}

// path walks the best way from the first month on.
func (h *choosing) path() []stay {
	way := make([]stay, len(h.rows))
	state := atStart
	for t := 0; t < len(h.rows); {
		program := h.taken[t][state]
		if program < 0 {
			if state != atStart {
				state = lapsed
			}
			t++
			continue
		}
		age, signs, _ := h.entry(program, t, state)
		age = min(age, h.deep[program])
		before := h.planOf(state)
		kind := h.kinds[slices.IndexFunc(h.kinds, func(k []int) bool { return slices.Contains(k, program) })]
		h.fill(kind, t)
		start, anew := t, false
		for {
			way[t] = stay{h.all[program], start, age, signs, before, anew}
			_, to := h.month(kind, program, start, t, age)
			t++
			if anew = to.anew; anew {
				start = t
				h.fill(kind, t)
			}
			if to.program < 0 {
				state = h.after(program, age+1)
				break
			}
			signs, before = to.program != program, h.all[program].Plan
			program, age = to.program, to.age
		}
	}
	return way
}
