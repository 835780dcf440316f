package study

import (
	"slices"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// Tried is a usage that a price list is tried at: the drivers that its meters look at,
// each with a value.
type Tried struct {
	Model   *usage.Model
	Drivers []usage.Driver // those that are set, in the order of the catalogue
	Values  map[string]usage.Quantity
}

// typical are values of drivers for a list that no study uses yet.
var typical = map[string]int64{"contacts": 5_000, "newsletters": 4, "automated_emails": 1, "seats": 3, "clients": 3, "accounts_per_client": 4, "posts": 60, "keywords": 250,
	"sites": 1, "crawled_pages": 5_000, "runs": 1_000, "steps_per_run": 3, "workflows": 10, "conversations": 500, "bots": 1, "ad_clicks": 5_000, "ad_spend": 2_000, "storage": 5,
	"ai_credits": 100, "products": 50, "orders": 200, "hourly_cost": 40, "setup_hours": 10, "upkeep_hours": 4}

// Try is the usage at which a list is tried: what a study has in its first month, else
// typical values, where given does not say otherwise. own are the study's own drivers.
func Try(e *pricelist.Edition, from *Outcome, given map[string]usage.Quantity) (*Tried, error) {
	var own []usage.Driver
	if from != nil {
		own = from.Study.Own
	}
	model, err := usage.NewModel(own, nil)
	if err != nil {
		return nil, err
	}
	t := &Tried{Values: map[string]usage.Quantity{}}
	var names []string
	for i := range e.Meters {
		names = append(names, e.Meters[i].Counts.Names()...)
	}
	for i := 0; i < len(names); i++ { // derived ones stand on others
		for _, d := range model.Drivers() {
			if d.Key == names[i] && d.Derived() {
				if f, err := usage.ParseFormula(d.Formula); err == nil {
					for _, n := range f.Names() {
						if !slices.Contains(names, n) {
							names = append(names, n)
						}
					}
				}
			}
		}
	}
	paths := map[string]usage.Path{}
	for _, d := range model.Drivers() {
		if d.Derived() || !slices.Contains(names, d.Key) {
			continue
		}
		q, told := given[d.Key]
		if !told && from != nil {
			if v := from.Values.Of(d.Key); len(v) > 0 {
				q, _ = usage.FromFloat(v[0])
			}
		}
		if !told && q == 0 && (from == nil || !slices.ContainsFunc(from.Study.Drivers, func(s Setting) bool { return s.Driver == d.Key })) {
			q = usage.Of(typical[d.Key])
		}
		t.Drivers, t.Values[d.Key], paths[d.Key] = append(t.Drivers, d), q, usage.Path{Now: q}
	}
	t.Model, err = usage.NewModel(own, paths)
	return t, err
}
