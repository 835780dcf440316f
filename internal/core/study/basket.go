package study

import (
	"fmt"
	"slices"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
)

// Basket is one plan on one term, priced on the same usage, in the same currency and
// without tax as all others.
type Basket struct {
	Result  int // index into the results
	Tool    int
	Receipt quote.Receipt
	Taken   bool
	Uneven  []string // what is not level between it and others, in words
}

// Baskets prices all plans of all options on today's usage: in the order of the results and
// of their lists. Options that cannot be computed have none.
func (o *Outcome) Baskets() (all []Basket) {
	s := o.Study
	for i := range o.Results {
		r := &o.Results[i]
		if r.AtFault {
			continue
		}
		for at := range r.Tools {
			t := &r.Tools[at]
			counts := countsOtherwise(t.Tool.Edition)
			for _, q := range t.Prices() {
				b := Basket{Result: i, Tool: at, Receipt: q, Taken: t.Today != nil && q.Plan.Key == t.Today.Plan.Key && q.Term.Key == t.Today.Term.Key}
				if e := t.Tool.Edition; e.Tax.Included {
					b.Uneven = append(b.Uneven, e.Tax.Rate.String()+" tax taken out")
				}
				if q.Conversion.Rate != 0 {
					b.Uneven = append(b.Uneven, "from "+q.Conversion.From.Code())
				}
				if q.Lowered() && q.Until > 0 {
					b.Uneven = append(b.Uneven, fmt.Sprintf("offer until %s, then %s", s.Month(q.Until-1), q.Conversion.To.Format(q.Then)))
				}
				switch {
				case q.Period == pricelist.Lifetime:
					b.Uneven = append(b.Uneven, "paid once for life, spread over the horizon")
				case q.Period > 1:
					b.Uneven = append(b.Uneven, fmt.Sprintf("%d months paid at once", q.Period))
				case q.Term.Months > 1:
					b.Uneven = append(b.Uneven, fmt.Sprintf("signed for %d months", q.Term.Months))
				}
				b.Uneven = append(b.Uneven, counts...)
				for _, reason := range q.Reasons {
					if reason.Kind == quote.MustMissing || reason.Kind == quote.MustNotKnown {
						b.Uneven = append(b.Uneven, s.SayWhy(reason))
					}
				}
				all = append(all, b)
			}
		}
	}
	return all
}

// countsOtherwise says which meters of a list do not count one for one.
func countsOtherwise(e *pricelist.Edition) (all []string) {
	for i := range e.Meters {
		m := &e.Meters[i]
		if text := m.Counts.String(); text != m.Key && !slices.ContainsFunc(usage.Catalogue(), func(d usage.Driver) bool { return d.Key == text }) {
			all = append(all, "counts "+quote.Plural(m.Unit)+" as "+m.Counts.Words(usage.Called))
		}
	}
	return all
}
