package web

import (
	"fmt"
	"html/template"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/doors"
)

type fact struct{ Name, Value, About string }

type briefBody struct {
	Base                   string
	Company, Question      string
	Verdict, Costs, Scores template.HTML
	Facts                  []fact
}

func (r *request) base() string { return "/studies/" + r.id }

func buildBrief(r *request) (any, error) {
	s, o := r.study(), r.outcome
	b := briefBody{Base: r.base(), Company: s.Company, Question: s.Question, Verdict: phrase(o.SayVerdict()), Costs: phrase(o.SayCosts()), Scores: phrase(o.SayScores())}
	now := "nothing yet"
	for i := range o.Results {
		if res := &o.Results[i]; res.Option.Now {
			now = res.Option.Name
			if res.Today != nil {
				now += fmt.Sprintf(", %s a month on %s", s.Currency.Format(res.Monthly(0)), res.Today.Plan.Name)
			}
		}
	}
	budget := "none set"
	if s.Budget > 0 {
		budget = s.Currency.FormatWhole(s.Budget) + fmt.Sprintf(" over %d months", s.Horizon)
	}
	b.Facts = []fact{
		{"Runs today", now, "What every option is held against."},
		{"Horizon", fmt.Sprintf("%d months, %s to %s", s.Horizon, s.Start, s.Month(s.Horizon-1)), "How far costs are followed."},
		{"Currency", s.Currency.Code() + ", tax left out", "Prices in other currencies are converted at the rates below; prices with tax are shown without it."},
		{"Budget", budget, "What the pick should cost at most."},
		{"Patience", fmt.Sprintf("%d days", s.Patience), "Price lists read longer ago are called stale wherever they appear."},
	}
	for code, rate := range s.Rates {
		b.Facts = append(b.Facts, fact{"Rate", fmt.Sprintf("1 %s = %s %s", code, rate.Rate, s.Currency.Code()), "As of " + rate.On.Format("2 Jan 2006") + "."})
	}
	return b, nil
}

type lineUpBody struct {
	Base    string
	Options []lineUpRow
	May     bool
}

type lineUpRow struct {
	Key, Name, Does, Plan, Read string
	Face                        int
	Now                         bool
	Out                         []string
	Plans                       int
}

func buildLineUp(r *request) (any, error) {
	b := lineUpBody{Base: r.base(), May: r.caller.may(doors.ToEdit)}
	for i := range r.outcome.Results {
		res := &r.outcome.Results[i]
		row := lineUpRow{Key: res.Option.Key, Name: res.Option.Name, Face: res.Option.Face, Now: res.Option.Now, Plan: "none", Out: res.Standing.Out,
			Plans: len(res.Option.Edition.Plans), Read: res.Option.Edition.ObservedOn.Format("2 Jan 2006"), Does: list(res.Option.Edition.Platform.Does)}
		if res.Today != nil {
			row.Plan = res.Today.Plan.Name
		}
		b.Options = append(b.Options, row)
	}
	return b, nil
}

type coverageBody struct {
	Heads  []optionHead
	Groups []coverageGroup
	Say    template.HTML
}

type optionHead struct {
	Key, Name string
	Face      int
	Now       bool
	Takes     string
	Monthly   string
	Out       bool
}

type coverageGroup struct {
	Name, About string
	Rows        []coverageRow
}

type coverageRow struct {
	Name, Note string
	Cells      []coverageCell
}

type coverageCell struct {
	Text, Note string
	Pips       []struct{} // one for each step of depth
	No, Ask    bool
	Forces     bool
}

func (r *request) heads() []optionHead {
	var heads []optionHead
	for i := range r.outcome.Results {
		res := &r.outcome.Results[i]
		h := optionHead{Key: res.Option.Key, Name: res.Option.Name, Face: res.Option.Face, Now: res.Option.Now, Out: !res.In()}
		if res.Today != nil {
			h.Takes, h.Monthly = res.Today.Plan.Name, r.study().Currency.Format(res.Monthly(0))
		}
		heads = append(heads, h)
	}
	return heads
}

func buildCoverage(r *request) (any, error) {
	o := r.outcome
	b := coverageBody{Heads: r.heads(), Say: phrase(o.SayCoverage())}
	about := map[coverage.Level]string{coverage.Must: "an option that misses one is out", coverage.Want: "should be there, but none is out without it", coverage.Bonus: "nice to have"}
	for _, level := range coverage.Levels {
		g := coverageGroup{Name: map[coverage.Level]string{coverage.Must: "Must", coverage.Want: "Want", coverage.Bonus: "Bonus"}[level], About: about[level]}
		for i, n := range r.study().Needs {
			if n.Level != level {
				continue
			}
			row := coverageRow{Name: n.Name, Note: n.Note}
			for at := range o.Results {
				row.Cells = append(row.Cells, newCell(r, at, i))
			}
			g.Rows = append(g.Rows, row)
		}
		if len(g.Rows) > 0 {
			b.Groups = append(b.Groups, g)
		}
	}
	return b, nil
}

func newCell(r *request, result, need int) coverageCell {
	res := &r.outcome.Results[result]
	c := res.Coverage[need]
	cell := coverageCell{Pips: make([]struct{}, c.Depth), No: c.Has == pricelist.No, Ask: c.Has == pricelist.Unknown, Note: c.Note}
	for _, forced := range res.Forced {
		cell.Forces = cell.Forces || forced == need
	}
	switch {
	case c.Has == pricelist.Yes && len(res.Option.Edition.Plans) > 1:
		cell.Text = c.Plan.Name
	case c.Has == pricelist.AsAddOn && c.AddOn != nil && len(c.AddOn.Charges) > 0:
		cell.Text = "add-on " + res.Option.Edition.Currency.Format(c.AddOn.Charges[0].Price.Usual)
	default:
		cell.Text = has(c.Has)
	}
	if cell.Forces && cell.Note == "" {
		cell.Note = "needs " + c.Plan.Name
	}
	return cell
}

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
		return "on request"
	}
	return r.Conversion.To.Format(r.Monthly())
}
