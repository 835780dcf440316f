package formats

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
)

// costColumns are the columns of a month of an option.
var costColumns = []string{"month", "option", "plan", "term", "per_month", "accrued", "running", "cash", "once", "lost", "serves"}

// WriteCosts writes what options cost month by month as CSV: a line for each month of
// each option, amounts as plain decimals in the study's currency, tax left out.
func WriteCosts(_ context.Context, o *study.Outcome) ([]byte, error) {
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	if err := w.Write(costColumns); err != nil {
		return nil, err
	}
	for i := range o.Results {
		r := &o.Results[i]
		for t := range r.Schedule.Months {
			m := &r.Schedule.Months[t]
			line := []string{o.Study.Month(t).ISO(), guarded(r.Option.Name), "", "", "", m.Accrued.String(), m.Running.String(), m.Cash.String(),
				m.Once.String(), m.Lost.String(), fmt.Sprint(m.Serves)}
			if m.Serves {
				line[2], line[3], line[4] = guarded(m.Called()), m.Term().Key, m.Monthly().String()
			}
			if err := w.Write(line); err != nil {
				return nil, err
			}
		}
	}
	w.Flush()
	return out.Bytes(), w.Error()
}

// SweepLine is what somebody costs at a value of a driver.
type SweepLine struct {
	At       string // a plain decimal
	Option   string
	Plan     string
	PerMonth *money.Amount // nil: nothing serves
}

// WriteSweep writes lines along a driver as CSV.
func WriteSweep(driver string, lines []SweepLine) ([]byte, error) {
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	if err := w.Write([]string{driver, "option", "plan", "per_month"}); err != nil {
		return nil, err
	}
	for _, l := range lines {
		cost := ""
		if l.PerMonth != nil {
			cost = l.PerMonth.String()
		}
		if err := w.Write([]string{l.At, guarded(l.Option), guarded(l.Plan), cost}); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return out.Bytes(), w.Error()
}
