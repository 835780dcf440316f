package web

import (
	"fmt"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
)

// quoted says where a price comes from that is in no list.
func (b *receiptPaper) quoted(s *study.Study, res *study.Result, plan *pricelist.Plan) {
	if on := s.QuotedOn(res.Option.Key, plan); !on.IsZero() {
		b.Explanation = append(b.Explanation, fmt.Sprintf("The price is on request; this is what you were quoted on %s, in this study alone.", on.Format("2 Jan 2006")))
	}
}

// share adds what the month of a schedule takes of the bill.
func (b *receiptPaper) share(s *study.Study, m *projection.Month, q *quote.Receipt, t int) {
	if n := max(q.Period, q.Over); n > 1 {
		b.total(fmt.Sprintf("Share of %s, month %d of %d", s.Month(t), t-m.Start+1, n), s.Currency.Format(m.Accrued), true)
		b.Explanation = append(b.Explanation, fmt.Sprintf("The bill is spread over its %d months so that the running total is rounded each month; shares may differ by a cent.", n))
	}
	if m.Lost > 0 {
		b.Explanation = append(b.Explanation, fmt.Sprintf("%s that was paid ahead is lost in this month: the credit for it ends at the new bill.", s.Currency.Format(m.Lost)))
	}
	if m.Cash != m.Accrued {
		b.total("Paid in "+s.Month(t).String(), s.Currency.Format(m.Cash), false)
	}
}

func (b *receiptPaper) total(label, amount string, strong bool) {
	b.Totals = append(b.Totals, receiptTotal{label, amount, strong})
}
