package web

import (
	"encoding/json"
	"fmt"
	"html/template"
	"net/url"
	"slices"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
)

type scoresBody struct {
	Base     string
	Say      template.HTML
	Rater    string // whose ratings are shown
	Raters   []choiceView
	Whose    string // says whose ratings are shown, and what becomes of them
	Heads    []optionHead
	Rows     []criterionRow
	Sum      string
	SumNote  string
	Totals   []string
	Data     json.RawMessage
	Parts    []partRow
	Names    []string
	OutNotes []outNote
}

type criterionRow struct {
	Name, Note string
	Weight     editable
	Scale      *scaleView
	Cells      []scoreCell
}

type scaleView struct{ Best, Worst editable }

type scoreCell struct {
	Rating *editable // nil for a measured score
	Score  string
	Why    string
	Link   string
}

type partRow struct {
	Name   string
	Face   int
	Points []string
	Fit    string
}

type outNote struct {
	Name, Why string
	Face      int
}

// raters lists who has rated, by name, and the caller where they may rate.
func (r *request) raters() []string {
	var names []string
	for _, one := range r.study().Ratings {
		names = append(names, one.Rater)
	}
	if r.caller.may(doors.ToRate) {
		names = append(names, r.caller.seat.Name)
	}
	slices.Sort(names)
	return slices.Compact(names)
}

// rater returns whose ratings the page shows: those asked for (?rater=), else
// the caller's own where they may rate, else the first rater's.
func (r *request) rater(names []string) string {
	own := r.caller.seat.Name
	switch asked := r.c.Query("rater"); {
	case slices.Contains(names, asked):
		return asked
	case r.caller.may(doors.ToRate):
		return own
	case len(names) > 0:
		return names[0]
	}
	return ""
}

func buildScores(r *request) (any, error) {
	s, o := r.study(), r.outcome
	names := r.raters()
	b := scoresBody{Base: r.base(), Say: phrase(o.SayScores()), Rater: r.rater(names), Heads: r.heads()}
	b.Whose = "rated 0 to 9 by " + orElse(b.Rater == "", "nobody yet", b.Rater)
	if len(names) > 1 {
		b.Whose += "; the mean of all raters counts"
		for _, name := range names {
			label := orElse(name == r.caller.seat.Name && r.caller.may(doors.ToRate), "Yours", name)
			b.Raters = append(b.Raters, choiceView{Label: label, Link: r.base() + "/scores?rater=" + url.QueryEscape(name), Chosen: name == b.Rater})
		}
	}
	var sum money.Share
	for _, c := range s.Criteria {
		sum += c.Weight
	}
	b.Sum = sum.Percent()
	if sum != money.Whole {
		b.SumNote = "not 100, so each counts as its share of " + sum.Percent()
	}
	for i, c := range s.Criteria {
		b.Rows = append(b.Rows, r.criterionRow(i, c, b.Rater))
	}
	for i := range o.Results {
		st := o.Results[i].Standing
		b.Totals = append(b.Totals, fmt.Sprintf("%.1f", st.Fit))
	}
	parts := scoreParts{}
	for _, c := range s.Criteria {
		parts.Criteria = append(parts.Criteria, c.Name)
		b.Names = append(b.Names, c.Name)
	}
	for _, res := range o.Ranked() {
		if !res.In() {
			b.OutNotes = append(b.OutNotes, outNote{res.Option.Name, list(res.Standing.Out), res.Option.Face})
			continue
		}
		bar, row := newBar(res)
		parts.Bars = append(parts.Bars, bar)
		b.Parts = append(b.Parts, row)
	}
	var err error
	b.Data, err = json.Marshal(parts)
	return b, err
}

func (r *request) criterionRow(at int, c fit.Criterion, rater string) criterionRow {
	row := criterionRow{Name: c.Name, Note: c.Note}
	row.Weight = r.field(editable{Edit: "weight", Of: c.ID, Value: c.Weight.Grouped(), Label: "Weight of " + c.Name})
	if c.Source == fit.Cost {
		best, worst := c.Best.Grouped(), c.Worst.Grouped()
		row.Scale = &scaleView{
			Best:  r.field(editable{Edit: "best", Of: c.ID, Value: best, Label: "Cost that scores 9", Wide: true}),
			Worst: r.field(editable{Edit: "worst", Of: c.ID, Value: worst, Label: "Cost that scores 0", Wide: true}),
		}
	}
	for i := range r.outcome.Results {
		res := &r.outcome.Results[i]
		part := res.Standing.Parts[at]
		cell := scoreCell{Score: "–", Link: r.base() + "/options/" + res.Option.Key}
		if part.Known {
			cell.Score = fmt.Sprintf("%.1f", part.Score)
		}
		if c.Source == fit.Cost {
			cell.Why = r.study().Currency.FormatWhole(res.Schedule.Total)
		} else {
			value, reason := ratingOf(r.study(), rater, res.Option.Key, c.ID)
			rating := editable{Edit: "rating", Of: c.ID, Option: res.Option.Key, Value: value, Label: res.Option.Name + " on " + c.Name}
			if rater != r.caller.seat.Name && r.caller.may(doors.ToRate) {
				rating.Locked = "A rating is changed by who gave it: " + rater + "."
			}
			e := r.field(rating)
			cell.Rating, cell.Why = &e, reason
		}
		row.Cells = append(row.Cells, cell)
	}
	return row
}

func ratingOf(s *study.Study, rater, option, criterion string) (value, reason string) {
	for _, one := range s.Ratings {
		if one.Rater == rater && one.Option == option && one.Criterion == criterion {
			return one.Value.String(), one.Reason
		}
	}
	return "", ""
}

// scoreParts is what the stacked bars are drawn from.
type scoreParts struct {
	Criteria []string   `json:"criteria"`
	Bars     []scoreBar `json:"bars"`
}

type scoreBar struct {
	Name   string    `json:"name"`
	Face   int       `json:"face"`
	Points []float64 `json:"points"` // of 9, for the widths
	Shown  []string  `json:"shown"`
	Fit    string    `json:"fit"`
}

func newBar(res *study.Result) (scoreBar, partRow) {
	bar := scoreBar{Name: res.Option.Name, Face: res.Option.Face, Fit: fmt.Sprintf("%.1f", res.Standing.Fit)}
	row := partRow{Name: bar.Name, Face: bar.Face, Fit: bar.Fit}
	for _, p := range res.Standing.Parts {
		points, shown := 0.0, "not rated"
		if p.Known {
			points = p.Points() / res.Standing.Known
			shown = fmt.Sprintf("%.1f", points)
		}
		bar.Points, bar.Shown, row.Points = append(bar.Points, points), append(bar.Shown, shown), append(row.Points, shown)
	}
	return bar, row
}
