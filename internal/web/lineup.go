package web

import (
	"fmt"
	"html/template"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/study"
	"ninecoins/internal/store"
)

type lineUpBody struct {
	Base    string
	Options []lineUpRow
	May     bool
	Add     *addForm
	Shelf   int // price lists that could be added
}

type lineUpRow struct {
	Key, Does, Plan          string
	Face                     int
	Name, FaceIs, Now, Since editable
	Out                      []string
	Plans                    int
	Place                    place
	Form                     template.HTML
}

// buildLineUp makes the line-up, with what is on the shelf to be added.
func (s *Server) buildLineUp(r *request) (any, error) {
	editions, err := s.store.Editions(r.c, r.caller.workspace())
	if err != nil {
		return nil, err
	}
	b := lineUpBody{Base: r.base(), May: r.caller.mayEdit("options")}
	keys := make([]string, len(r.study().Options))
	for i, o := range r.study().Options {
		keys[i] = o.Key
	}
	for i := range r.outcome.Results {
		res := &r.outcome.Results[i]
		o := &res.Option
		path := document.Path("options").To(o.Key)
		row := lineUpRow{Key: o.Key, Face: o.Face, Plan: "none", Out: res.Standing.Out, Plans: len(o.Edition.Plans),
			Does: list(o.Edition.Platform.Does), Place: r.placeOf("options", o.Name, keys, i),
			Name: r.field(path.To("name"), "Name of "+o.Name), FaceIs: r.field(path.To("face"), "Face of "+o.Name), Now: r.field(path.To("now"), o.Name+" runs today"),
			Since: r.field(path.To("observed_on"), "Price list of "+o.Name)}
		row.FaceIs.Choices, row.Since.Choices = faces(o.Face), listsOf(editions, o)
		row.Name.Text = true
		row.Form = rowForm(row.Name)
		if res.Today != nil {
			row.Plan = res.Takes()
		}
		b.Options = append(b.Options, row)
	}
	b.Add = r.adding("options", "list", "name")
	var choices []choiceView
	for i, e := range editions {
		if i == 0 || editions[i-1].Platform != e.Platform { // its newest
			choices = append(choices, choiceView{Label: fmt.Sprintf("%s, read %s", e.Name, e.ObservedOn.Format("2 Jan 2006")),
				Value: e.Platform + " " + e.ObservedOn.Format(time.DateOnly)})
		}
	}
	b.Shelf = len(choices)
	// What is not in the line-up yet comes first.
	slices.SortStableFunc(choices, func(a, b choiceView) int { return r.inLineUp(a.Value) - r.inLineUp(b.Value) })
	b.Add.oneByOne()
	b.Add.set("list", "Price list on the shelf", choices)
	b.Add.set("name", "Name, if another than the platform's", nil)
	return b, nil
}

// inLineUp returns 1 where an option of the platform that a choice names is in
// the line-up.
func (r *request) inLineUp(choice string) int {
	platform, _, _ := strings.Cut(choice, " ")
	if slices.ContainsFunc(r.study().Options, func(o study.Option) bool { return o.Platform == platform }) {
		return 1
	}
	return 0
}

func faces(chosen int) (all []choiceView) {
	for face := 1; face <= study.MostOptions; face++ {
		all = append(all, choiceView{Label: fmt.Sprint(face), Value: fmt.Sprint(face), Chosen: face == chosen})
	}
	return all
}

// listsOf are the price lists that an option could go by.
func listsOf(editions []store.EditionRow, o *study.Option) (all []choiceView) {
	for _, e := range editions {
		if e.Platform == o.Platform {
			all = append(all, choiceView{Label: e.ObservedOn.Format("2 Jan 2006"), Value: e.ObservedOn.Format(time.DateOnly), Chosen: e.ObservedOn.Equal(o.ObservedOn)})
		}
	}
	return all
}
