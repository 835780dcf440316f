package web

import (
	"cmp"
	"encoding/json"
	"fmt"
	"html/template"
	"net/url"
	"slices"

	"ninecoins/internal/core/document"
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
	Picker   picker
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
	Add      *addForm
	May      bool
}

type criterionRow struct {
	Name, Note, Source editable
	Place              place
	Weight             editable
	Scale              *scaleView
	Cells              []scoreCell
	Form               template.HTML
}

type scaleView struct {
	Best, Worst editable
	Says        string // that it does not tell the options apart
}

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

// rater is somebody whose ratings can be shown.
type rater struct{ Key, Name string }

// raters lists who has rated, by name, and the caller where they may rate.
func (r *request) raters() []rater {
	var all []rater
	for _, one := range r.study().Ratings {
		all = append(all, rater{one.Rater, r.study().NameOf(one.Rater)})
	}
	if r.caller.may(doors.ToRate) {
		all = append(all, r.self())
	}
	slices.SortFunc(all, func(a, b rater) int { return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.Key, b.Key)) })
	return slices.Compact(all)
}

func (r *request) self() rater { return rater{r.caller.seat.Person.String(), r.caller.seat.Name} }

// rater returns whose ratings the page shows: those asked for (?rater=), else
// the caller's own where they may rate, else the first rater's.
func (r *request) rater(all []rater) rater {
	asked := slices.IndexFunc(all, func(one rater) bool { return one.Name == r.c.Query("rater") })
	switch {
	case asked >= 0:
		return all[asked]
	case r.caller.may(doors.ToRate):
		return r.self()
	case len(all) > 0:
		return all[0]
	}
	return rater{}
}

func buildScores(r *request) (any, error) {
	s, o := r.study(), r.outcome
	all := r.raters()
	whose := r.rater(all)
	b := scoresBody{Base: r.base(), Say: phrase(o.SayScores()), Rater: whose.Name, Heads: r.heads(), Picker: r.picking(), May: r.caller.mayEdit("criteria")}
	b.Whose = "rated 0 to 9 by " + orElse(b.Rater == "", "nobody yet", b.Rater)
	if len(all) > 1 {
		b.Whose += "; the mean of all raters counts"
		for _, one := range all {
			label := orElse(one == r.self() && r.caller.may(doors.ToRate), "Yours", one.Name)
			b.Raters = append(b.Raters, choiceView{Label: label, Link: r.base() + "/scores?rater=" + url.QueryEscape(one.Name), Chosen: one == whose})
		}
	}
	b.Add = r.adding("criteria", "name", "weight", "note", "source", "best", "worst")
	b.Add.openWhere(len(s.Criteria) == 0)
	b.Add.set("source", "How it is known", []choiceView{{Label: "people rate it", Value: string(fit.Rated)},
		{Label: "the cost over the horizon", Value: string(fit.Cost)}, {Label: "the share of needs met", Value: string(fit.Coverage)}})
	b.Add.set("best", "Scores 9 at", nil)
	b.Add.set("worst", "Scores 0 at", nil)
	keys := make([]string, len(s.Criteria))
	for i, c := range s.Criteria {
		keys[i] = c.ID
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
		row := r.criterionRow(i, c, whose)
		row.Place = r.placeOf("criteria", c.Name, keys, i)
		b.Rows = append(b.Rows, row)
	}
	for i := range o.Results {
		b.Totals = append(b.Totals, fitOf(&o.Results[i]))
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

func (r *request) criterionRow(at int, c fit.Criterion, whose rater) criterionRow {
	path := document.Path("criteria").To(c.ID)
	row := criterionRow{Name: r.field(path.To("name"), "Name of the criterion "+c.Name), Note: r.field(path.To("note"), "Note on "+c.Name),
		Weight: r.field(path.To("weight"), "Weight of "+c.Name)}
	row.Weight.Unit = ""
	if c.Source == fit.Cost {
		row.Scale = &scaleView{Best: r.number(path.To("best"), "Cost that scores 9"), Worst: r.number(path.To("worst"), "Cost that scores 0")}
		if scale, ok := r.outcome.ScaleOf(at); ok {
			row.Scale.Says = scale.Says
		}
	}
	var rated []editable
	for i := range r.outcome.Results {
		res := &r.outcome.Results[i]
		part := res.Standing.Parts[at]
		cell := scoreCell{Score: "–", Link: r.base() + "/options/" + res.Option.Key}
		if part.Known {
			cell.Score = part.Score.String()
		}
		switch c.Source {
		case fit.Cost:
			switch {
			case r.outcome.NoRate(res) != "":
				cell.Why = noRate(r.outcome, res)
			case !res.Schedule.Serves():
				cell.Why = "does not serve all months"
			default:
				cell.Why = r.study().Currency.FormatWhole(res.Schedule.Total)
			}
		case fit.Coverage:
			switch {
			case len(r.study().Needs) == 0:
				cell.Why = "no needs yet"
			case r.outcome.NoRate(res) != "":
				cell.Why = noRate(r.outcome, res)
			case res.Today == nil:
				cell.Why = "no plan serves"
			default:
				cell.Why = study.SayShareOf(res.Share, res.MayBe)
			}
			if !part.Known && part.Low < part.High {
				cell.Score = fmt.Sprintf("%s–%s", part.Low, part.High)
			}
		default:
			one := fit.Rating{Rater: whose.Key, Option: res.Option.Key, Criterion: c.ID}
			e := r.field(document.Path("ratings").To(study.RatingKey(&one), "value"), res.Option.Name+" on "+c.Name)
			if whose != r.self() && r.caller.may(doors.ToRate) {
				e.Locked = "A rating is changed by who gave it: " + whose.Name + "."
			}
			rated = append(rated, e)
			cell.Rating, cell.Why = &e, reasonOf(r.study(), whose.Key, res.Option.Key, c.ID)
		}
		row.Cells = append(row.Cells, cell)
	}
	row.Form = rowForm(append(rated, row.Weight)...)
	return row
}

func noRate(o *study.Outcome, res *study.Result) string {
	return "no price: there is no rate from " + o.NoRate(res)
}

func reasonOf(s *study.Study, rater, option, criterion string) string {
	for _, one := range s.Ratings {
		if one.Rater == rater && one.Option == option && one.Criterion == criterion {
			return one.Reason
		}
	}
	return ""
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
	bar := scoreBar{Name: res.Option.Name, Face: res.Option.Face, Fit: fitOf(res)}
	row := partRow{Name: bar.Name, Face: bar.Face, Fit: bar.Fit}
	for _, p := range res.Standing.Parts {
		points, shown := 0.0, "not rated"
		if p.Known {
			points = p.Points()
			shown = fit.Score(points).String()
		} else if p.Criterion.Source == fit.Coverage && p.Low < p.High {
			points = p.Weight * float64(p.Low) // what is certain
			shown = fmt.Sprintf("%s–%s", fit.Score(points), fit.Score(p.Weight*float64(p.High)))
		}
		bar.Points, bar.Shown, row.Points = append(bar.Points, points), append(bar.Shown, shown), append(row.Points, shown)
	}
	return bar, row
}
