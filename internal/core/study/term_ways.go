package study

import (
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
)

// TermWay is a way of paying for the plan that is taken today.
type TermWay struct {
	Receipt quote.Receipt
	Monthly money.Amount
	AtOnce  money.Amount // what must be paid at the beginning
	// Against paying by the month, while an offer does not lower it: over the term, or of
	// a lifetime over the horizon.
	Saves money.Amount
	Share float64
	// From which month on it has paid to have paid ahead: the bill of the term is no more
	// than so many months by the month. 0: never, or nothing is paid ahead.
	From int
	// Given up after so many months, what it would have cost more than by the month.
	Lost []EarlyEnd
}

// EarlyEnd is a term that is given up early: what was paid is lost.
type EarlyEnd struct {
	After int          // months
	More  money.Amount // than by the month; negative where it has paid all the same
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
		if q.Plan.Key == t.Today.Plan.Key && q.Serves() {
			ways = append(ways, TermWay{Receipt: q, Monthly: q.Monthly(), AtOnce: q.Settled})
		}
	}
	if len(ways) < 2 {
		return nil
	}
	monthly := money.Amount(-1)
	for i := range ways {
		if q := &ways[i].Receipt; q.Term.Months == 1 {
			monthly = ways[i].Monthly
			if q.Then > 0 {
				monthly = q.Then // what holds once the offer has ended
			}
		}
	}
	if monthly <= 0 {
		return ways
	}
	for i := range ways {
		w := &ways[i]
		term := w.Receipt.Term
		months := term.Months
		if months == pricelist.Lifetime {
			months = o.Study.Horizon
			w.Saves = monthly*money.Amount(months) - w.AtOnce
		} else if months > 1 {
			w.Saves = (monthly - w.Monthly) * money.Amount(months)
		}
		if months > 0 {
			w.Share = float64(w.Saves) / float64(monthly*money.Amount(months))
		}
		if w.Receipt.Period == 1 {
			continue
		}
		if from := int((w.AtOnce + monthly - 1) / monthly); from <= months || term.Months == pricelist.Lifetime {
			w.From = from
		}
		for _, after := range []int{3, 6, 12, 24} {
			if after < months {
				w.Lost = append(w.Lost, EarlyEnd{after, w.AtOnce - monthly*money.Amount(after)})
			}
		}
	}
	return ways
}
