package study

import (
	"slices"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
)

// TermWay is a way of paying for the plan that is taken today.
type TermWay struct {
	Receipt quote.Receipt
	Monthly money.Amount
	AtOnce  money.Amount // what must be paid at the beginning
	// Against paying by the month, with what offers take off either: over the term, or of
	// a lifetime over the horizon.
	Saves money.Amount
	Share float64
	// From which month on it has paid to have paid ahead: no more was paid than by the month, to the
	// end of the term. 0: never, or nothing is paid ahead.
	From int
	// Given up after so many months, what it would have cost more than by the month.
	Lost []EarlyEnd
}

// EarlyEnd is a term that is given up early: what was paid is lost.
type EarlyEnd struct {
	After int          // months
	More  money.Amount // than by the month; negative where it has paid all the same
}

// paid is what has been paid, offers and what is charged once among it, after each of so many months
// of who signs the plan of a receipt on its term and goes on with today's usage; nil where it cannot be
// told.
func (t *ToolResult) paid(q *quote.Receipt, months int) []money.Amount {
	c := t.candidate
	c.Policy, c.Plan, c.Term = projection.Fixed, q.Plan.Key, q.Term.Key
	c.Rows, c.Readings = slices.Repeat(c.Rows[:1], months), nil
	s, err := projection.Project(c)
	if err != nil || !s.Serves() {
		return nil
	}
	all, sum := make([]money.Amount, months), money.Amount(0)
	for k := range all {
		sum += s.Months[k].Cash
		all[k] = sum
	}
	return all
}

// Terms sets the ways of paying for the plan that a tool takes today beside each other, at
// today's usage; nil where nothing serves, or there is one way alone. The first is by the
// month where the plan is sold so.
func (o *Outcome) Terms(r *Result, at int) []TermWay {
	t := &r.Tools[at]
	if r.AtFault || t.Today == nil {
		return nil
	}
	var ways []TermWay
	for _, q := range t.Prices() {
		if q.Plan.Key == t.Today.Plan.Key && q.May() {
			ways = append(ways, TermWay{Receipt: q, Monthly: q.Monthly(), AtOnce: q.Settled})
		}
	}
	if len(ways) < 2 {
		return nil
	}
	base := slices.IndexFunc(ways, func(w TermWay) bool { return w.Receipt.Term.Months == 1 })
	if base < 0 {
		return ways
	}
	most := o.Study.Horizon // months that are looked at
	for i := range ways {
		if most = max(most, ways[i].Receipt.Term.Months); ways[i].Receipt.Period == pricelist.Lifetime {
			most = max(most, o.Study.Horizon+projection.MostAhead)
		}
	}
	monthly := t.paid(&ways[base].Receipt, most)
	for i := range ways {
		w := &ways[i]
		term := w.Receipt.Term.Months
		over, to := term, term
		if term == pricelist.Lifetime {
			over, to = o.Study.Horizon, most
		}
		paid := t.paid(&w.Receipt, most)
		if i == base || monthly == nil || paid == nil || monthly[over-1] <= 0 {
			continue
		}
		w.Saves = monthly[over-1] - paid[over-1]
		w.Share = float64(w.Saves) / float64(monthly[over-1])
		if w.Receipt.Period == 1 {
			continue
		}
		for k := to - 1; k >= 0 && paid[k] <= monthly[k]; k-- {
			w.From = k + 1
		}
		for _, after := range []int{3, 6, 12, 24} {
			if after < over {
				w.Lost = append(w.Lost, EarlyEnd{after, paid[after-1] - monthly[after-1]})
			}
		}
	}
	return ways
}
