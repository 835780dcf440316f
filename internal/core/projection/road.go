package projection

import (
	"context"
	"sync/atomic"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/work"
)

// Mover is an option that a road may lead over: its tools, and what it takes to move
// there.
type Mover struct {
	Tools []Candidate // over all months
	In    money.Amount
	// Months in which the option that is left for it runs on, and is paid too.
	Twice int
	Now   bool // it runs today: the road begins on it without a move
	Out   bool // no road leads over it
	// What falls away in each month that is spent on it, but for those in which it runs on
	// beside the next; nil: nothing.
	Less []money.Amount
}

// Leg is a run of months on one option.
type Leg struct {
	Option   int // index of the mover
	From, To int // months, the last included
	In       money.Amount
	// What the option costs on the way, and after it while it is paid beside the next;
	// what its terms ask for past that is in it.
	Costs  money.Amount
	Beside money.Amount // what runs today, while it is paid beside the first leg
}

// Road is a way through all months that may move from option to option.
type Road struct {
	Legs  []Leg
	Total money.Amount // of legs and moves
	Gaps  int64        // months that nothing serves, and musts not known, as searches weigh them
}

// Unserved is how many months of the road nothing serves, by tool.
func (r *Road) Unserved() int64 { return r.Gaps / gap }

// Moves is how often the road moves after its first month.
func (r *Road) Moves() int { return len(r.Legs) - 1 }

// Roads answers what roads over some options cost.
type Roads struct {
	movers []Mover
	months int
	minor  money.Amount
	from   [][]value // by option: what it costs from month s to before month e, at s·(months+1)+e
	now    int       // the option that runs today; -1
	every  int       // moves are looked at in every so many months
	less   [][]int64 // by option: what falls away before month t, in minor units
}

// Every is in every how many months moves are looked at: in each, but where the searches of it would
// come to more than a bound.
func (r *Roads) Every() int { return r.every }

// mostRoads is how many steps the searches of all roads take at most, as far as every twenty-fourth
// month comes to no more.
const mostRoads = 100_000_000

// space says in every how many months moves are looked at.
func (r *Roads) space() error {
	for _, r.every = range []int{1, 3, 6, 12, 24} {
		steps := 0
		for i := range r.movers {
			for _, c := range r.movers[i].Tools {
				one, err := c.roadSteps(r.months, r.every)
				if err != nil {
					return err
				}
				steps += one
			}
		}
		if steps <= mostRoads {
			break
		}
	}
	return nil
}

// roadSteps is how many steps it takes to search what a tool costs up to every so many months.
func (c *Candidate) roadSteps(months, every int) (int, error) {
	one := *c
	one.Rows, one.Leaves = c.rows()[:months], true
	h, err := newChoosing(&one)
	if err != nil {
		return 0, err
	}
	if f := h.flatten(); f != nil {
		f.space.leave()
		return 0, nil // which takes one pass
	}
	return h.stepsOfAll() * (months/every + 1) / 2, nil
}

// looked reports whether a road may move in a month.
func (r *Roads) looked(month int) bool { return month%r.every == 0 || month == r.months }

// ends are the months before which options are left on some road.
func (r *Roads) ends() []bool {
	all := make([]bool, r.months+1)
	for t := range all {
		for j := range r.movers {
			all[r.until(j, t)] = all[r.until(j, t)] || r.looked(t)
		}
		all[t] = all[t] || r.looked(t)
	}
	return all
}

// NewRoads works out what each option costs over each run of months: signed anew where
// the run begins, by the policy of its candidates, and left where it ends, what its
// terms ask for past that paid in full. Runs to the horizon are as [Project] has them.
// told hears how many options are done; nil: nobody. Errors are
// those of [Project].
func NewRoads(ctx context.Context, movers []Mover, months int, told func(done, of int)) (*Roads, error) {
	r := &Roads{movers: movers, months: months, from: make([][]value, len(movers)), now: -1}
	for i := range movers {
		if movers[i].Now {
			r.now = i
		}
		for _, c := range movers[i].Tools {
			r.minor = money.Amount(c.Basis.Currency.Minor())
		}
	}
	for i := range movers {
		sum := make([]int64, months+1)
		for t := range months {
			if sum[t+1] = sum[t]; t < len(movers[i].Less) {
				sum[t+1] += int64(movers[i].Less[t] / r.minor)
			}
		}
		r.less = append(r.less, sum)
	}
	if err := r.space(); err != nil {
		return nil, err
	}
	var done atomic.Int64
	err := work.Each(ctx, len(movers), func(i int) (err error) {
		r.from[i], err = r.runs(ctx, &movers[i])
		if n := done.Add(1); told != nil {
			told(int(n), len(movers))
		}
		return err
	})
	return r, err
}

// runs works out what an option costs over each run of months.
func (r *Roads) runs(ctx context.Context, m *Mover) ([]value, error) {
	n := r.months + 1
	all := make([]value, n*n)
	if m.Out {
		for i := range all {
			all[i] = never
		}
		return all, nil
	}
	for _, c := range m.Tools {
		rows := c.rows()
		if flat, err := flatRuns(ctx, c); err != nil {
			return nil, err
		} else if flat != nil {
			for i, v := range flat {
				if i/n < i%n {
					all[i] = all[i].plus(v.value())
				}
			}
			continue
		}
		ends := r.ends()
		for end := 1; end <= r.months; end++ {
			if !ends[end] {
				continue
			}
			c.Rows, c.Readings, c.Leaves, c.Within = rows[:end], nil, end < r.months, ctx
			h, err := newChoosing(&c)
			if err != nil {
				return nil, err
			}
			starts, err := h.starts()
			if err != nil {
				return nil, err
			}
			for s, v := range starts {
				all[s*n+end] = all[s*n+end].plus(v)
			}
		}
	}
	return all, nil
}

// flatRuns is what a tool costs from each month before each later one, left there, and to the horizon;
// nil where the flat search does not apply.
func flatRuns(ctx context.Context, c Candidate) ([]packed, error) {
	c.Rows, c.Readings, c.Leaves, c.Within = c.rows(), nil, true, ctx
	h, err := newChoosing(&c)
	if err != nil {
		return nil, err
	}
	f := h.flatten()
	if f == nil {
		return nil, nil
	}
	defer f.space.leave()
	all, err := f.every()
	if f.first.large {
		return nil, err
	}
	return all, err
}

// starts is what the cheapest way costs from each month on that nothing was signed
// before.
func (h *choosing) starts() ([]value, error) {
	h.general = true
	if _, err := h.choose(); err != nil {
		return nil, err
	}
	all := make([]value, len(h.rows))
	for t := range all {
		all[t] = h.free[t][atStart]
	}
	return all, nil
}

// run is what an option costs from a month to before a later one, what falls away counted off.
func (r *Roads) run(option, from, to int) value { return r.besides(option, from, to, to) }

// besides is what it costs where from a month on it runs on beside another, and nothing
// falls away by it.
func (r *Roads) besides(option, from, beside, to int) value {
	v := r.from[option][from*(r.months+1)+to]
	if less := r.less[option]; v.can() {
		v.cost -= less[beside] - less[from]
	}
	return v
}

// enters is what moving to an option costs in a month: of itself, and by what the one
// before costs while it runs on; before is -1 where there is none.
func (r *Roads) enters(option int) value { return value{cost: int64(r.movers[option].In / r.minor)} }

// until is the month before which an option is left that is moved from in a month.
func (r *Roads) until(to, month int) int { return min(r.months, month+r.movers[to].Twice) }

// left is what an option costs from a month on that is left in a later one for another,
// with the months in which it is paid beside that. What it does not serve in these is
// served by the other.
func (r *Roads) left(option, from, month, to int) value {
	v := r.besides(option, from, month, r.until(to, month))
	if v.can() {
		v.gravest = r.run(option, from, month).gravest
	}
	return v
}

// begins is what it costs to begin on an option in the first month.
func (r *Roads) begins(option int) value {
	if r.movers[option].Now {
		return value{}
	}
	v := r.enters(option)
	if r.now >= 0 {
		v = v.plus(r.left(r.now, 0, 0, option))
	}
	return v
}

// Cheapest finds the road that costs least of all that there are, with any number of
// moves, by dynamic programming over months; of several the one with the fewest moves
// that was looked at first. It is false where no option is open.
func (r *Roads) Cheapest() (Road, bool) {
	type step struct {
		value        value
		option, from int // the leg before; -1: none
	}
	n := len(r.movers)
	entered := make([]step, r.months*n) // having moved to an option in a month, all before paid
	at := func(t, option int) *step { return &entered[t*n+option] }
	for t := range r.months {
		for j := range n {
			best := step{never, -1, -1}
			if t == 0 && !r.movers[j].Out {
				best.value = r.begins(j)
			}
			if !r.looked(t) {
				*at(t, j) = best
				continue
			}
			for s := range t {
				for i := range n {
					if i == j || !at(s, i).value.can() {
						continue
					}
					v := at(s, i).value.plus(r.left(i, s, t, j)).plus(r.enters(j))
					v.moves++
					if v.less(best.value) {
						best = step{v, i, s}
					}
				}
			}
			*at(t, j) = best
		}
	}
	end, last := never, step{option: -1}
	for t := range r.months {
		for i := range n {
			if v := at(t, i).value.plus(r.run(i, t, r.months)); at(t, i).value.can() && v.less(end) {
				end, last = v, step{v, i, t}
			}
		}
	}
	if last.option < 0 {
		return Road{}, false
	}
	road := Road{Total: money.Amount(end.cost) * r.minor, Gaps: end.gravest}
	to, until := r.months, r.months
	for last.option >= 0 {
		leg := Leg{Option: last.option, From: last.from, To: to - 1, Costs: money.Amount(r.besides(last.option, last.from, to, until).cost) * r.minor}
		before := *at(last.from, last.option)
		if leg.In = r.movers[last.option].In; before.option < 0 && r.movers[last.option].Now {
			leg.In = 0
		} else if before.option < 0 {
			leg.Beside = r.beside(last.option)
		}
		road.Legs = append([]Leg{leg}, road.Legs...)
		to, until = last.from, r.until(last.option, last.from)
		last = step{option: before.option, from: before.from}
	}
	return road, true
}

// Alone is the road that stays on one option from the first month on; false where it
// is not open.
func (r *Roads) Alone(option int) (Road, bool) { return r.Pair(option, option, r.months) }

// Pair is the road that begins on one option and moves to another in a month, from 0;
// the horizon, or the same option, is never. It is false where one is not open, or the month is
// not looked at.
func (r *Roads) Pair(from, to, month int) (Road, bool) {
	if r.movers[from].Out || r.movers[to].Out || from != to && month < r.months && !r.looked(month) {
		return Road{}, false
	}
	amount := func(v value) money.Amount { return money.Amount(v.cost) * r.minor }
	v := r.begins(from)
	if from == to || month >= r.months {
		run := r.run(from, 0, r.months)
		all := v.plus(run)
		return Road{[]Leg{{from, 0, r.months - 1, r.first(from), amount(run), r.beside(from)}}, amount(all), all.gravest}, true
	}
	if month == 0 {
		run := r.run(to, 0, r.months)
		all := r.begins(to).plus(run)
		return Road{[]Leg{{to, 0, r.months - 1, r.first(to), amount(run), r.beside(to)}}, amount(all), all.gravest}, true
	}
	a, b := r.left(from, 0, month, to), r.run(to, month, r.months)
	all := v.plus(a).plus(r.enters(to)).plus(b)
	return Road{[]Leg{{from, 0, month - 1, r.first(from), amount(a), r.beside(from)}, {to, month, r.months - 1, r.movers[to].In, amount(b), 0}}, amount(all), all.gravest}, true
}

// first is what moving to an option in the first month costs of itself.
func (r *Roads) first(option int) money.Amount {
	if r.movers[option].Now {
		return 0
	}
	return r.movers[option].In
}

// beside is what runs today, while it is paid beside the option that one begins on.
func (r *Roads) beside(option int) money.Amount {
	if r.movers[option].Now || r.now < 0 {
		return 0
	}
	return money.Amount(r.left(r.now, 0, 0, option).cost) * r.minor
}

// BestMonth is the month in which moving from one option to another costs least over
// all months, the horizon where staying costs no more; of several the first. Roads that leave
// fewer months unserved go before cheaper ones.
func (r *Roads) BestMonth(from, to int) (month int, best Road, ok bool) {
	for t := range r.months + 1 {
		road, open := r.Pair(from, to, t)
		if !open {
			continue
		}
		if !ok || road.Gaps < best.Gaps || road.Gaps == best.Gaps && (road.Total < best.Total || road.Total == best.Total && t == r.months) {
			month, best, ok = t, road, true
		}
	}
	return month, best, ok
}
