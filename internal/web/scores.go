package web

import (
	"encoding/json"
	"fmt"
	"html/template"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
)

type scoresBody struct {
	Base     string
	Say      template.HTML
	Rater    string
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

// raterOf returns who rates on this page: the study's rater, the first by name
// where there are several.
func raterOf(s *study.Study) string {
	if len(s.Ratings) > 0 {
		return s.Ratings[0].Rater
	}
	return "The team"
}

func buildScores(r *request) (any, error) {
	s, o := r.study(), r.outcome
	b := scoresBody{Base: r.base(), Say: phrase(o.SayScores()), Rater: raterOf(s), Heads: r.heads()}
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
	row.Weight = r.field(editable{Edit: "weight", Of: c.ID, Value: c.Weight.Percent(), Label: "Weight of " + c.Name})
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
			e := r.field(editable{Edit: "rating", Of: c.ID, Option: res.Option.Key, Rater: rater, Value: value, Label: res.Option.Name + " on " + c.Name})
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
