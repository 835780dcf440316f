package projection

import (
	"slices"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"
)

// Repays is by when what was bought for life has cost less than another term would have: what is paid
// is added up month by month, past the horizon as in its last month.
type Repays struct {
	Term pricelist.Term
	// The month from which on less was paid, from 1; 0 where that is not within [MostAhead] months after
	// the horizon.
	Month int
}

// MostAhead is how many months past the horizon are looked at.
const MostAhead = 120

// Repays is by when the schedule of a candidate has paid for itself against each other term that its
// list sells and on which something serves in each month. It is nil where the last month is not
// for life. Errors are those of [Project].
func (s *Schedule) Repays(c Candidate) (all []Repays, err error) {
	if last := &s.Months[len(s.Months)-1]; !last.Serves || !last.Program.ForLife() {
		return nil, nil
	}
	var terms []pricelist.Term
	for _, p := range c.Edition.Plans {
		for _, t := range p.Terms {
			if t.Months != pricelist.Lifetime && !slices.ContainsFunc(terms, func(o pricelist.Term) bool { return o.Like(t) }) {
				terms = append(terms, t)
			}
		}
	}
	rows := c.rows()
	c.Readings, c.Policy = nil, Mix
	c.Rows = append(slices.Clone(rows), slices.Repeat(rows[len(rows)-1:], MostAhead)...)
	if c.Programs == nil {
		if err := c.Compile(); err != nil {
			return nil, err
		}
	}
	programs := c.Programs
	for _, t := range terms {
		c.Programs = slices.DeleteFunc(slices.Clone(programs), func(p *tariff.Program) bool { return !p.Term.Like(t) })
		h, err := newChoosing(&c)
		if err != nil {
			return nil, err
		}
		way, err := h.choose()
		if err != nil {
			return nil, err
		}
		other, err := h.book(way)
		if err != nil {
			return nil, err
		}
		if other.Serves() {
			all = append(all, Repays{t, s.repays(&other)})
		}
	}
	return all, nil
}

// repays is the month from which on less was paid than by another schedule of more months.
func (s *Schedule) repays(other *Schedule) (from int) {
	var paid, otherwise money.Amount
	for t := range other.Months {
		last := &s.Months[min(t, len(s.Months)-1)]
		now := last.Cash
		if t >= len(s.Months) {
			now = last.Program.Amount(last.cost.Used)
		}
		paid, otherwise = paid+now, otherwise+other.Months[t].Cash
		switch {
		case paid > otherwise:
			from = 0
		case from == 0:
			from = t + 1
		}
	}
	return from
}

// forLife makes room for what each month's purchase for life comes to, where something is sold so.
func (h *choosing) forLife() {
	if !slices.ContainsFunc(h.all, (*tariff.Program).ForLife) {
		return
	}
	h.bought = make([][]value, len(h.rows))
	for t := range h.bought {
		h.bought[t] = make([]value, len(h.entered))
	}
}

// again is what is to be paid from a month on, in which a program is bought for life in place of
// another, of which so much is unused.
func (h *choosing) again(program, t, age int, unused int64) value {
	v := h.bought[t][h.offset[program]+age]
	if !v.can() {
		return never
	}
	c, _ := h.cost(program, t, t, age, h.rows[t])
	v.cost -= min(unused, c.Bill)
	return v
}
