package web

import (
	"fmt"

	"ninecoins/internal/core/quote"
)

type trialsBody struct{ Rows []trialRow }

type trialRow struct {
	Name, Days, Card, Refund string
	Face                     int
	Now                      bool
}

func buildTrials(r *request) (any, error) {
	var b trialsBody
	for i := range r.outcome.Results {
		o := r.outcome.Results[i].Option
		t := o.Edition.Trial
		row := trialRow{Name: o.Name, Face: o.Face, Now: o.Now, Days: "no trial", Card: "no", Refund: "none"}
		if t.Days > 0 {
			row.Days = fmt.Sprintf("%d days", t.Days)
		}
		if t.CardNeeded {
			row.Card = "yes"
		}
		if t.RefundDays > 0 {
			row.Refund = fmt.Sprintf("%d days", t.RefundDays)
		}
		b.Rows = append(b.Rows, row)
	}
	return b, nil
}

func list(names []string) string {
	s := ""
	for i, n := range names {
		switch {
		case i == 0:
		case i == len(names)-1:
			s += " and "
		default:
			s += ", "
		}
		s += n
	}
	return s
}

// monthlyOf writes what a receipt comes to in a month, or why it has no price.
func monthlyOf(r *quote.Receipt) string {
	if !r.Priced {
		for _, reason := range r.Reasons {
			switch reason.Kind {
			case quote.NoRate:
				return "no rate"
			case quote.NoLifePrice:
				return "not stated"
			}
		}
		return "on request"
	}
	return r.Conversion.To.Format(r.Monthly())
}
