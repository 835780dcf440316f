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
var costColumns = []string{"month", "option", "plan", "term", "per_month", "accrued", "running", "cash", "once", "lost", "falls_away", "serves"}

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
				m.Once.String(), m.Lost.String(), m.Falls.String(), fmt.Sprint(m.Serves)}
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

// SweepLine is what somebody costs from a value of a driver on, or how they stand to others
// over a run of values.
type SweepLine struct {
	At       string // a plain decimal
	To       string // the last value of a run; "" where a price takes another course
	Option   string
	Plan     string
	PerMonth *money.Amount // nil: nothing serves, or it is a run
	Stands   string        // "costs least", "less than", "same as" or "takes turns with"
	Other    string        // than, as or with whom
	Apart    *money.Amount // of who takes turns, at most
}

// WriteSweep writes lines along a driver as CSV.
func WriteSweep(driver string, lines []SweepLine) ([]byte, error) {
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	if err := w.Write([]string{driver, "to", "option", "plan", "per_month", "stands", "other", "apart"}); err != nil {
		return nil, err
	}
	for _, l := range lines {
		text := func(a *money.Amount) string {
			if a == nil {
				return ""
			}
			return a.String()
		}
		if err := w.Write([]string{l.At, l.To, guarded(l.Option), guarded(l.Plan), text(l.PerMonth), l.Stands, guarded(l.Other), text(l.Apart)}); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return out.Bytes(), w.Error()
}
