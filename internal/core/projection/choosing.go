package projection

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
)

// stay is a month of the chosen way: which program it is on, and since when.
type stay struct {
	program *tariff.Program // nil where nothing serves
	start   int             // month in which the term began
	age     int             // months since the plan was signed, as far as that matters
	signed  bool            // the plan was signed in this month
	before  *pricelist.Plan // with signed: what was left for it
	anew    bool            // bought for life in place of what was before, whose unused part is credited
}

// value is what a way costs: months that nothing serves weigh more than months
// on a plan that has a must not yet known, these more than money, and money more
// than changes of plan.
type value struct {
	gravest int64 // months that nothing serves x gap, and months with a must not known
	cost    int64
	moves   int64
}

const gap = 1 << 20

// never is what a way weighs that cannot be gone. What is added to it stays above
// all else.
var never = value{gravest: math.MaxInt64 / 2}

func (v value) plus(o value) value {
	return value{v.gravest + o.gravest, v.cost + o.cost, v.moves + o.moves}
}

// can reports whether the way can be gone.
func (v value) can() bool { return v.gravest < never.gravest }

func (v value) less(o value) bool {
	if v.gravest != o.gravest {
		return v.gravest < o.gravest
	}
	return v.cost < o.cost || v.cost == o.cost && v.moves < o.moves
}

// quick is what is asked of a program again and again.
type quick struct {
	rank, offset, deep, at, lasts int
	monthly                       bool // a bill covers one month
	asks                          int64
	may                           []bool
}

type cell struct {
	tariff.Cost
	known, ok bool
}

func newChoosing(c *Candidate) (*choosing, error) {
	h := &choosing{Candidate: c, rows: c.rows()}
	if c.Programs == nil {
		if err := c.Compile(); err != nil {
			return nil, err
		}
	}
	for _, p := range c.Programs {
		if p.Serves() && c.takes(p.Plan, p.Term) {
			h.add(p, chosenOf(p))
		}
	}
	h.choices()
	settles := make([]int, len(h.contracts))
	for i := range h.contracts {
		settles[i] = h.contracts[i].lasts
	}
	for i, p := range h.all { // which goes on counting from the signing of another contract of its plan
		for k := range h.contracts {
			if one := &h.contracts[k]; one.rank == p.Rank && !p.NewOnly {
				one.lasts = max(one.lasts, settles[h.of[i]])
			}
		}
	}
	h.stateOf = make([]int, firstContract)
	for i := range h.contracts {
		h.contracts[i].at = len(h.stateOf)
		for range h.contracts[i].lasts + 1 {
			h.stateOf = append(h.stateOf, i)
		}
	}
	h.states = len(h.stateOf)
	for i := range h.all {
		deep := 0
		if lasts := h.contracts[h.of[i]].lasts; lasts > 0 {
			if deep = lasts; h.all[i].Period != 1 { // what is billed hangs on the age when the term began
				deep += h.length(i, 0)
			}
		}
		h.deep, h.offset = append(h.deep, deep), append(h.offset, h.depth)
		h.depth += deep + 1
	}
	if err := h.bounded(); err != nil {
		return nil, err
	}
	h.fallen()
	always, never := slices.Repeat([]bool{true}, len(h.rows)), make([]bool, len(h.rows))
	for _, p := range h.all {
		h.once = append(h.once, p.ChargesOnce())
		open := p.Plan.Offered != pricelist.Closed
		var may, first, offered []bool
		switch {
		case !p.Until.IsZero():
			may, first, offered = make([]bool, len(h.rows)), make([]bool, len(h.rows)), make([]bool, len(h.rows))
			for t := range may {
				on := c.Customer.Sign.AddDate(0, t, 0)
				offered[t] = p.MayBeSigned(on, true)
				may[t], first[t] = open && p.MayBeSigned(on, false), open && offered[t]
			}
		case !open:
			may, first, offered = never, never, always
		case p.NewOnly:
			may, first, offered = never, always, always
		default:
			may, first, offered = always, always, always
		}
		h.may, h.mayFirst, h.offered = append(h.may, may), append(h.mayFirst, first), append(h.offered, offered)
	}
	for i, p := range h.all {
		c := &h.contracts[h.of[i]]
		h.quick = append(h.quick, quick{p.Rank, h.offset[i], h.deep[i], c.at, c.lasts, p.Period == 1, int64(min(1, len(p.Questions))), h.may[i]})
	}
	h.cells = make([][]cell, len(h.all))
	h.entered = make([]value, h.depth)
	return h, nil
}

// ErrTooMany reports a list with more plans, terms and offers than ways are looked
// for through.
var ErrTooMany = errors.New("it has too many plans, terms and offers to look for the cheapest way through so many months")

// The most states inside terms, and the most steps between them, that a search goes
// through.
const (
	mostStates = 2_000_000
	mostSteps  = 50_000_000
)

func (h *choosing) bounded() error {
	if h.stepsOfAll() > mostSteps || h.depth*len(h.rows) > mostStates {
		return fmt.Errorf("%s: %w", h.Edition.Platform.Name, ErrTooMany)
	}
	return nil
}

// stepsOfAll is how many steps the general search takes.
func (h *choosing) stepsOfAll() (steps int) {
	for _, kind := range h.kinds {
		ages := 0
		for _, i := range kind {
			ages += h.deep[i] + 1
		}
		steps += len(h.rows) * min(len(h.rows), h.length(kind[0], 0)) * ages * len(kind)
	}
	return steps
}

// steps is how many steps the search takes that is made.
func (h *choosing) steps() (steps int) {
	f := h.flatten()
	if f == nil {
		return h.stepsOfAll()
	}
	defer f.space.leave()
	for i := range f.kinds {
		size := len(f.kinds[i].programs)
		steps += len(h.rows) * min(len(h.rows), f.kinds[i].n) * size * (size + 1) / 2
	}
	return steps
}

// Takes reports whether the policy takes a plan on a term.
func (c *Candidate) Takes(p *pricelist.Plan, t pricelist.Term) bool { return c.takes(p, t) }

// takes reports whether the policy takes a plan on a term. Where a plan is not
// sold for as long as is wished, the longest term that is not longer is taken,
// and where all are longer the shortest.
func (c *Candidate) takes(p *pricelist.Plan, term pricelist.Term) bool {
	wish := 1
	switch c.Policy {
	case Mix:
		return true
	case Fixed:
		return p.Key == c.Plan && term.Key == c.Term
	case Yearly:
		wish = 12
	}
	best := 0
	long := func(t pricelist.Term) int {
		if t.Months == pricelist.Lifetime {
			return math.MaxInt
		}
		return t.Months
	}
	for _, t := range p.Terms {
		n := long(t)
		if best == 0 || n <= wish && (n > best || best > wish) || n > wish && best > wish && n < best {
			best = n
		}
	}
	return long(term) == best
}

// rows are the readings in the order of the meters.
func (c *Candidate) rows() [][]int64 {
	if c.Rows != nil {
		return c.Rows
	}
	rows := make([][]int64, len(c.Readings))
	for t, r := range c.Readings {
		rows[t] = tariff.Row(c.Edition, r)
	}
	return rows
}

// fallen finds where stocks fell.
func (h *choosing) fallen() {
	h.levelled, h.stock = make([]int, len(h.rows)), make([]bool, len(h.Edition.Meters))
	for m := range h.Edition.Meters {
		h.stock[m] = h.Edition.Meters[m].Kind == usage.Stock
	}
	most := make([]int64, len(h.stock))
	for t, row := range h.rows {
		h.levelled[t] = -1
		for m, is := range h.stock {
			if !is || row[m] >= most[m] {
				most[m] = max(most[m], row[m])
				continue
			}
			before := t - 1
			for h.rows[before][m] <= row[m] {
				before--
			}
			h.levelled[t] = max(h.levelled[t], before)
		}
	}
}

// level is what is billed in month u of a term that began in month start: of
// stocks the highest so far, of flows what is used.
func (h *choosing) level(start, u int) []int64 {
	if h.levelled[u] < start {
		return h.rows[u]
	}
	row := slices.Clone(h.rows[u])
	for m, is := range h.stock {
		for t := start; is && t < u; t++ {
			row[m] = max(row[m], h.rows[t][m])
		}
	}
	return row
}

// length is how many months a term has that begins in a month: what is bought for
// life lasts to the horizon.
func (h *choosing) length(program, start int) int {
	if p := h.all[program]; !p.ForLife() {
		return max(1, p.Term.Months)
	}
	return len(h.rows) - start
}

// levels works out what is billed in each month of a term.
func (h *choosing) levels(start, months int) {
	h.row = h.row[:0]
	for k := range months {
		row := h.rows[start+k]
		if h.levelled[start+k] >= start {
			row = slices.Clone(row)
			for m, is := range h.stock {
				if is {
					row[m] = max(row[m], h.row[k-1][m])
				}
			}
		}
		h.row = append(h.row, row)
	}
}

// cost is what a program costs in month u of a term that began in month start, age
// months after its signing, where row is billed.
func (h *choosing) cost(program, start, u, age int, row []int64) (tariff.Cost, bool) {
	if c := h.known(program, u, start); c != nil {
		return c.Cost, c.ok
	}
	p := h.all[program]
	since, into := billing(p, start, u, age)
	return p.Cost(since, into, row)
}

// billing says how many months after signing the bill of a month began, and how
// many months ago that was. A plan moved to inside a term is billed as if it had
// been signed when its bill begins.
func billing(p *tariff.Program, start, u, age int) (since, into int) {
	if p.Period == 1 {
		return age, 0
	}
	return max(0, age-(u-start)), u - start
}

// share is what month k of n, from 0, takes of a bill: the running total is
// rounded each month.
func share(bill int64, k, n int) int64 { return cumulative(bill, k+1, n) - cumulative(bill, k, n) }

// cumulative returns round(bill·k/n), which is the bill from k = n on.
func cumulative(bill int64, k, n int) int64 {
	if k >= n {
		return bill
	}
	return (2*bill*int64(k) + int64(n)) / (2 * int64(n))
}

// due is what a term still asks for when the option is left after month u.
func (h *choosing) due(program, start, u, age int, row []int64) int64 {
	if !h.Leaves || h.all[program].Period != 1 {
		return 0 // what was paid ahead is paid already
	}
	return h.bound(program, start, u, age, row)
}

// bound is what the months after month u cost for which one is bound to a term that is
// paid by the month, at the level of that month.
func (h *choosing) bound(program, start, u, age int, row []int64) (owed int64) {
	for t := u + 1; t < start+h.length(program, start); t++ {
		c, _ := h.all[program].Cost(max(1, age+t-u), 0, row)
		owed += c.Bill
	}
	return owed
}

// left is what months k and later of a term take of a bill, inside the horizon or past it.
func left(bill int64, k, n int) int64 { return bill - cumulative(bill, k, n) }
