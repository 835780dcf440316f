package web

import (
	"html/template"
	"strings"
)

type verdictBody struct {
	Base      string
	Say, Next template.HTML
	Face      int
	Name      string
	Rows      []verdictRow
	Settle    []deskNote
	Settled   string   // said where nothing is to be settled
	Nothing   string   // counted as 0
	Unsaid    string   // counted as unlimited
	Rests     []string // offers that costs rest on
	Horizon   int
	Reasons   []reasonTold
}

// reasonTold is why one looked, and what became of it.
type reasonTold struct{ Text, Became string }

type verdictRow struct {
	Key, Name, Fit, Behind, Cost, Plan, Out, Range string
	Place, Face                                    int
	Now                                            bool
}

func buildVerdict(r *request) (any, error) {
	s, o := r.study(), r.outcome
	b := verdictBody{Base: r.base(), Say: phrase(o.SayVerdict()), Next: phrase(o.SayNext()), Horizon: s.Horizon}
	b.Settled, b.Nothing, b.Unsaid = o.SaySettled(), o.SayAtNothing(), o.SayUnsaid()
	for k, i := range []int{o.Pick.First, o.Cheapest} {
		if i < 0 || k > 0 && i == o.Pick.First {
			continue
		}
		if says := o.SayRests(&o.Results[i]); says != "" {
			b.Rests = append(b.Rests, says)
		}
	}
	for i := range o.Results {
		if says := s.SayFalls(&o.Results[i].Option); says != "" {
			b.Rests = append(b.Rests, says)
		}
	}
	if o.Pick.First >= 0 {
		b.Face, b.Name = o.Results[o.Pick.First].Option.Face, o.Results[o.Pick.First].Option.Name
	}
	for _, res := range o.Ranked() {
		p := newPile(s, res)
		row := verdictRow{Key: p.Key, Name: p.Name, Fit: p.Fit, Cost: p.Cost, Plan: p.Plan, Place: p.Place, Face: p.Face, Now: p.Now, Range: p.Range}
		if !p.Known {
			row.Fit = "–"
		}
		if !res.In() {
			row.Out = strings.Join(res.Standing.Out, "; ")
		} else if o.Pick.First >= 0 && res != &o.Results[o.Pick.First] && res.Standing.Complete() && o.Results[o.Pick.First].Standing.Complete() {
			row.Behind = o.Results[o.Pick.First].Standing.Fit.Ahead(res.Standing.Fit).String()
		}
		b.Rows = append(b.Rows, row)
	}
	for _, note := range o.Facts().Notes {
		b.Settle = append(b.Settle, deskNote{Link: r.base() + "/" + note.Coin, Study: s.Title, Text: note.Text, Do: note.Do})
	}
	for i := range s.Reasons {
		b.Reasons = append(b.Reasons, reasonTold{s.Reasons[i].Text, o.SayReason(&s.Reasons[i])})
	}
	return b, nil
}
