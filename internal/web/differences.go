package web

import (
	"fmt"
	"net/url"

	"ninecoins/internal/core/feature"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
)

// differencesBody holds two options against each other, plan against comparable plan.
type differencesBody struct {
	Base   string
	Pairs  [2][]choiceView // which option stands on each side
	Plans  []choiceView    // of the first
	Sides  [2]sideView
	Groups []differenceGroup
	Say    string
	Empty  string
}

type sideView struct {
	Name, Plan, Month string
	Face              int
}

type differenceGroup struct {
	Name string
	Rows []differenceRow
}

type differenceRow struct {
	Name, Need string
	Cells      [2]featureCell
}

// featureCell is what a plan has of a feature.
type featureCell struct {
	Text    string
	Pips    []struct{}
	No, Ask bool
}

func newFeatureCell(f pricelist.Feature) featureCell {
	text := has(f.Has)
	switch {
	case f.Unlimited:
		text = "unlimited"
	case f.Number > 0:
		text = f.Number.Format()
	}
	return featureCell{Text: text, Pips: make([]struct{}, f.Depth), No: f.Has == pricelist.No, Ask: f.Has == pricelist.Unknown || f.Has == ""}
}

func (s *Server) differencesPage() coinPage {
	return coinPage{"differences", "differences", buildDifferences}
}

// buildDifferences compares two options (?a=…&b=…), of the first a plan (?plan=…), of the
// second the one that costs most nearly the same.
func buildDifferences(r *request) (any, error) {
	o := r.outcome
	b := differencesBody{Base: r.base()}
	if len(o.Results) < 2 {
		b.Empty = "Two options can be held against each other once there are two in the running."
		return b, nil
	}
	at := [2]int{0, 1}
	for i := range o.Results {
		if o.Results[i].Option.Key == r.c.Query("a") {
			at[0] = i
		}
	}
	if at[0] == 1 {
		at[1] = 0
	}
	for i := range o.Results {
		if o.Results[i].Option.Key == r.c.Query("b") && i != at[0] {
			at[1] = i
		}
	}
	link := func(a, c int, plan string) string {
		q := url.Values{"a": {o.Results[a].Option.Key}, "b": {o.Results[c].Option.Key}}
		if plan != "" {
			q.Set("plan", plan)
		}
		return r.c.Request.URL.Path + "?" + q.Encode()
	}
	for i := range o.Results {
		name := o.Results[i].Option.Name
		if i != at[1] {
			b.Pairs[0] = append(b.Pairs[0], choiceView{Label: name, Link: link(i, at[1], ""), Chosen: i == at[0]})
		}
		if i != at[0] {
			b.Pairs[1] = append(b.Pairs[1], choiceView{Label: name, Link: link(at[0], i, ""), Chosen: i == at[1]})
		}
	}
	first := &o.Results[at[0]]
	plan := r.c.Query("plan")
	x, okX := o.SideOf(at[0], plan)
	other := ""
	if okX && plan != "" {
		other = o.Comparable(&x, at[1])
	}
	y, okY := o.SideOf(at[1], other)
	if !okX || !okY {
		b.Empty = "One of them has no plan that serves today's usage, so there is nothing to compare."
		for _, i := range at {
			if none := o.SayNoPrice(&o.Results[i]); none != "" {
				b.Empty = r.nameOf(i) + " " + none + ". So there is nothing to compare."
			}
		}
		return b, nil
	}
	if !first.Option.Stack() {
		b.Plans = append(b.Plans, choiceView{Label: "what each takes", Link: link(at[0], at[1], ""), Chosen: plan == ""})
		for _, p := range first.Option.Edition.Plans {
			b.Plans = append(b.Plans, choiceView{Label: p.Name, Link: link(at[0], at[1], p.Key), Chosen: p.Key == plan})
		}
	}
	b.Sides = [2]sideView{r.sideView(&x), r.sideView(&y)}
	b.fill(r, &x, &y)
	return b, nil
}

func (r *request) sideView(s *study.Side) sideView {
	res := &r.outcome.Results[s.Result]
	v := sideView{Name: res.Option.Name, Face: res.Option.Face, Plan: res.Takes()}
	if s.Plan != nil {
		v.Plan = s.Plan.Name
	}
	if s.Month > 0 {
		v.Month = r.study().Currency.Format(s.Month) + " a month"
	}
	return v
}

func (b *differencesBody) fill(r *request, x, y *study.Side) {
	keys := r.outcome.Differences(x, y)
	needs := map[string]string{}
	for _, n := range r.study().Needs {
		needs[r.study().Catalogue.Key(n.Feature)] = string(n.Level)
	}
	asked := 0
	for _, key := range keys {
		f, _ := r.study().Catalogue.Find(key)
		area := r.study().Catalogue.Name(feature.AreaOf(key))
		if n := len(b.Groups); n == 0 || b.Groups[n-1].Name != area {
			b.Groups = append(b.Groups, differenceGroup{Name: area})
		}
		row := differenceRow{Name: f.Name, Need: needs[key], Cells: [2]featureCell{newFeatureCell(x.Has(key)), newFeatureCell(y.Has(key))}}
		if row.Need != "" {
			asked++
		}
		g := &b.Groups[len(b.Groups)-1]
		g.Rows = append(g.Rows, row)
	}
	switch {
	case len(keys) == 0:
		b.Say = "They have the same, as far as their price lists tell."
	case asked == 0:
		b.Say = fmt.Sprintf("They differ in %s; none of them is among your needs.", features(len(keys)))
	default:
		b.Say = fmt.Sprintf("They differ in %s; %d of them %s among your needs.", features(len(keys)), asked, orElse(asked == 1, "is", "are"))
	}
}

func features(n int) string { return counted(n, "feature", "features") }
