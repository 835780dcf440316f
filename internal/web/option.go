package web

import (
	"fmt"

	"ninecoins/internal/core/study"
)

type optionBody struct {
	Base      string
	Head      optionHead
	Fit       string
	Out       []string
	Edition   string
	Total     string
	Runs      []runView
	Months    []statementRow
	Merits    []partView
	Beyond    string
	PaysOff   string
	Questions []string
}

// runView is a run of months on one plan.
type runView struct{ Plan, From, To, Why string }

type statementRow struct {
	Month, Plan, Accrued, Running, Cash, Link string
	Step                                      string
}

type partView struct {
	Criterion, Weight, Score, Points string
	Reasons                          []string // that raters gave
}

// buildOption makes the page of one option: its statement over the horizon,
// with a receipt behind each month.
func buildOption(r *request) (any, error) {
	s := r.study()
	res, ok := r.outcome.Result(r.c.Param("option"))
	if !ok {
		return nil, notFound("There is no such option in this study.")
	}
	b := optionBody{Base: r.base(), Fit: fitOf(res), Out: res.Standing.Out, Total: s.Currency.Format(res.Schedule.Total),
		Edition: "read " + res.Option.Edition.ObservedOn.Format("2 Jan 2006") + ", " + res.Option.Edition.Source}
	for i, h := range r.heads() {
		if r.outcome.Results[i].Option.Key == res.Option.Key {
			b.Head = h
		}
	}
	if m := res.Schedule.PaysOff; m > 0 {
		b.PaysOff = fmt.Sprintf("Paid once for life, it pays for itself in month %d, %s: from then on it has cost less than paying for terms would have.", m, s.Month(m-1))
	}
	if res.Schedule.Beyond > 0 {
		b.Beyond = fmt.Sprintf("A further %s is paid, or still owed, for months after %s, and not counted here.", s.Currency.Format(res.Schedule.Beyond), s.Month(s.Horizon-1))
	}
	for _, q := range res.Schedule.Questions {
		b.Questions = append(b.Questions, q.String())
	}
	b.Months = r.statement(res)
	for _, p := range res.Standing.Parts {
		v := partView{Criterion: p.Criterion.Name, Weight: fmt.Sprintf("%.0f%%", p.Weight*100), Score: "not rated", Points: "–"}
		if p.Known {
			v.Score, v.Points = p.Score.String(), fmt.Sprintf("%.2f", p.Points())
		}
		for _, one := range s.Ratings {
			if one.Option == res.Option.Key && one.Criterion == p.Criterion.ID && one.Reason != "" {
				v.Reasons = append(v.Reasons, fmt.Sprintf("%s: %s", s.NameOf(one.Rater), one.Reason))
			}
		}
		b.Merits = append(b.Merits, v)
	}
	return b, nil
}

// fitOf is an option's fit as far as it is known.
func fitOf(res *study.Result) string {
	if res.Standing.Known == 0 {
		return "–"
	}
	return res.Standing.String()
}

func (r *request) statement(res *study.Result) []statementRow {
	s := r.study()
	steps := map[int]string{}
	for _, step := range res.Schedule.Steps {
		steps[step.Month] = study.Event{Step: &step}.Say() + " (" + signed(s.Currency, step.Delta) + " a month)"
	}
	var rows []statementRow
	for t, m := range res.Schedule.Months {
		row := statementRow{Month: s.Month(t).String(), Plan: "no plan serves", Accrued: "–", Running: "–", Cash: "–", Step: steps[t]}
		if m.Serves {
			row.Plan, row.Link = m.Called()+", "+study.PaidIn(&m), r.receiptLink(res, t)
			row.Accrued, row.Running, row.Cash = s.Currency.Format(m.Accrued), s.Currency.Format(m.Running), s.Currency.Format(m.Cash)
		}
		rows = append(rows, row)
	}
	return rows
}
