package web

import (
	"fmt"
	"slices"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

// stackView is the cheapest stack out of the platforms of the study.
type stackView struct {
	Say   string
	Tools []toolView
	Add   []hiddenField // what adds it
	Show  string        // where it is worked out; "" where it was
}

type hiddenField struct{ Name, Value string }

// bestStack works out the cheapest stack where it is asked for (?stack=cheapest); nil
// where there is nothing to stack.
func (r *request) bestStack() (*stackView, error) {
	o := r.outcome
	if len(o.Results) < 2 || !slices.ContainsFunc(r.study().Needs, func(n coverage.Need) bool { return n.Level == coverage.Must }) {
		return nil, nil
	}
	if r.c.Query("stack") != "cheapest" {
		return &stackView{Show: r.with("stack", "cheapest") + "#stack"}, nil
	}
	best, err := o.BestStack()
	if err != nil {
		return nil, err
	}
	v := &stackView{}
	if len(best.Tools) == 0 {
		v.Say = "No stack out of these platforms meets every must."
		if len(best.Missing) > 0 {
			var names []string
			for _, n := range best.Missing {
				names = append(names, usage.LowerFirst(n.Name))
			}
			v.Say += " None of them has " + list(names) + "."
		}
		return v, nil
	}
	for i, t := range best.Tools {
		plan, _ := t.Edition.Plan(t.Plan)
		v.Tools = append(v.Tools, toolView{Name: t.Edition.Platform.Name, Plan: plan.Name})
		if i < study.MostTools {
			v.Add = append(v.Add, hiddenField{"tool", t.Platform + " " + pricelist.ReadText(t.ObservedOn) + " " + t.Plan})
		}
	}
	v.Say = fmt.Sprintf("Out of the platforms in this study, what meets every must at today's usage for the least is this, at %s a month.", r.study().Currency.Format(best.Month))
	if len(best.Tools) == 1 {
		v.Say = fmt.Sprintf("One platform alone meets every must for less than any stack of these would: %s a month.", r.study().Currency.Format(best.Month))
	}
	return v, nil
}
