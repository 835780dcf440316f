package web

import (
	"fmt"
	"html/template"
	"net/url"
	"slices"
	"strings"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/pricelist"
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
	Repays    []template.HTML
	WaysIn    string
	Questions []string
	Tools     []optionTool
	Needs     []optionNeed
	Share     string // of the needs that is covered on what it takes
	Takes     takesCard
	Lets      []letsGo
}

// optionTool is a tool of the option: what it does, and what its plans cost today.
type optionTool struct {
	Name, About, Does, For, Edition, Link string
	Plans                                 []optionPlan
}

type optionPlan struct {
	Name, Price, Link string
	Taken             bool
	Why               []string
}

// optionNeed is a need with how the option has it.
type optionNeed struct {
	Name, Level, On string
	Cell            coverageCell
	Here            string // what is had of it on the plan that is taken
}

// letsGo is a tool that runs today, and whether the option makes it unneeded.
type letsGo struct {
	Name, Cost, GivesUp string
	Lets                bool
	Path, Was, Value    string // what says otherwise
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
	b := optionBody{Base: r.base(), Fit: fitOf(res), Out: res.Standing.Out, WaysIn: r.outcome.SayWaysIn(res), Total: s.Currency.Format(res.Schedule.Total),
		Edition: "read " + pricelist.SayRead(res.Option.Edition.ObservedOn) + ", " + res.Option.Edition.Source}
	for i, h := range r.heads() {
		if r.outcome.Results[i].Option.Key == res.Option.Key {
			b.Head = h
		}
	}
	for i := range res.Tools {
		if p := r.outcome.SayRepays(&res.Tools[i]); p != nil {
			b.Repays = append(b.Repays, phrase(p))
		}
	}
	if res.Schedule.Beyond > 0 {
		b.Beyond = capital(r.outcome.SayBeyond(res, false)) + "."
	}
	for _, q := range r.outcome.SayOpen(res) {
		b.Questions = append(b.Questions, capital(q))
	}
	b.Months = r.statement(res)
	r.described(&b, res)
	for _, p := range res.Standing.Parts {
		v := partView{Criterion: p.Criterion.Name, Weight: fmt.Sprintf("%.0f%%", p.Weight*100), Score: "not rated", Points: "–"}
		if p.Known {
			v.Score, v.Points = p.Score.String(), fmt.Sprintf("%.2f", p.Points())
		} else if p.Criterion.Source == fit.Coverage && p.Low < p.High {
			v.Score = fmt.Sprintf("%s–%s", p.Low, p.High)
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

// described fills in what the option is made of, and what it has of the needs.
func (r *request) described(b *optionBody, res *study.Result) {
	s, o := r.study(), r.outcome
	heads := r.heads()
	for i := range res.Tools {
		t := &res.Tools[i]
		e := t.Tool.Edition
		one := optionTool{Name: e.Platform.Name, About: e.Platform.About, Does: doing(e.Platform.Does), For: t.Tool.For, Link: orElse(r.caller.link == nil, "/shelf/platforms/"+t.Tool.Platform, ""),
			Edition: "read " + pricelist.SayRead(e.ObservedOn) + ", " + e.Source}
		rungs := r.priceOption(res, i, heads[0], nil, nil).Rungs
		for _, rung := range rungs {
			plan := optionPlan{Name: rung.Name, Taken: rung.Taken, Why: rung.Why, Price: "on request"}
			if len(rung.Prices) > 0 {
				plan.Price, plan.Link = rung.Prices[0].Amount+", "+rung.Prices[0].Term, rung.Prices[0].Link
			}
			one.Plans = append(one.Plans, plan)
		}
		b.Tools = append(b.Tools, one)
	}
	for i := range o.Results {
		if &o.Results[i] != res {
			continue
		}
		b.Takes = r.takes(i)
		for n := range s.Needs {
			row := optionNeed{Name: s.Needs[n].Name, Level: string(s.Needs[n].Level), Cell: r.coverageCell(i, n)}
			row.Cell.Link = r.base() + "/coverage?cell=" + url.QueryEscape(res.Option.Key+" "+s.Needs[n].Feature) + "#cell"
			if res.Has != nil {
				row.Here = map[coverage.Answer]string{coverage.Met: "yes", coverage.Unmet: "no", coverage.Open: "not yet known"}[s.Needs[n].Meets(res.Has[n])]
			}
			b.Needs = append(b.Needs, row)
		}
	}
	if res.Today != nil && len(s.Needs) > 0 {
		b.Share = study.SayShareOf(res.Share, res.MayBe)
	}
	for _, run := range s.Running {
		one := letsGo{Name: run.Name, Cost: s.Currency.Format(run.Cost), GivesUp: run.GivesUp, Lets: slices.Contains(res.Option.Lets, run.Key)}
		if r.caller.mayEdit("options") {
			keys := slices.DeleteFunc(slices.Clone(res.Option.Lets), func(key string) bool { return key == run.Key })
			if !one.Lets {
				keys = append(keys, run.Key)
			}
			one.Path = string(document.Path("options").To(res.Option.Key, "lets"))
			one.Was, one.Value = strings.Join(res.Option.Lets, " "), strings.Join(keys, " ")
		}
		b.Lets = append(b.Lets, one)
	}
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
