package study

import (
	"cmp"
	"fmt"
	"maps"
	"slices"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
)

// Common is what options have alike, and what only one has: features by key, in
// the order of the catalogue, on the plans that are taken today.
type Common struct {
	All  []string
	Only [][]string // by result
}

// Common holds the options that are in the running and served today against each
// other. A feature counts where it is had outright, as an add-on or through a bridge.
func (o *Outcome) Common() Common {
	c := Common{Only: make([][]string, len(o.Results))}
	had, of := map[string][]int{}, 0
	for i := range o.Results {
		r := &o.Results[i]
		if r.Today == nil {
			continue
		}
		of++
		for key, f := range r.features() {
			if f.Has.Meets() {
				had[key] = append(had[key], i)
			}
		}
	}
	if of < 2 {
		return c
	}
	for _, key := range slices.SortedFunc(maps.Keys(had), o.inOrder) {
		switch by := had[key]; {
		case len(by) == of:
			c.All = append(c.All, key)
		case len(by) == 1:
			c.Only[by[0]] = append(c.Only[by[0]], key)
		}
	}
	return c
}

// inOrder orders features as the catalogue does.
func (o *Outcome) inOrder(a, b string) int {
	return cmp.Or(o.Study.Catalogue.Place(a)-o.Study.Catalogue.Place(b), cmp.Compare(a, b))
}

// features is what is had of each feature on the plans that are taken today: of a
// stack, on the one that has it best.
func (r *Result) features() map[string]pricelist.Feature {
	all := map[string]pricelist.Feature{}
	for i := range r.Tools {
		if plan, ok := r.Tools[i].Tool.Edition.Plan(r.Tools[i].Today.Plan.Key); ok {
			gather(all, plan)
		}
	}
	return all
}

func gather(into map[string]pricelist.Feature, plan *pricelist.Plan) {
	for key, f := range plan.Features {
		if was, there := into[key]; !there || better(f, was) {
			into[key] = f
		}
	}
}

// better reports whether one way of having a feature is better than another: by the
// way, then by depth, then by number.
func better(f, than pricelist.Feature) bool {
	rank := map[pricelist.Has]int{pricelist.Yes: 5, pricelist.AsAddOn: 4, pricelist.Bridge: 3, pricelist.Partly: 2, pricelist.Announced: 1}
	number := func(f pricelist.Feature) int64 {
		if f.Unlimited {
			return 1 << 62
		}
		return int64(f.Number)
	}
	return cmp.Or(rank[f.Has]-rank[than.Has], f.Depth-than.Depth, cmp.Compare(number(f), number(than))) > 0
}

// Side is an option, or a plan of its, in a comparison of two.
type Side struct {
	Result int
	Plan   *pricelist.Plan // nil: what is taken today
	Month  money.Amount    // what it costs a month today; 0 where it has no price
	has    map[string]pricelist.Feature
}

// Has is what the side has of a feature.
func (s *Side) Has(key string) pricelist.Feature {
	if f, ok := s.has[key]; ok {
		return f
	}
	return pricelist.Feature{Has: pricelist.Unknown}
}

// Differences are the features in which two sides differ, in the order of the
// catalogue; those that neither tells of are left out.
func (o *Outcome) Differences(a, b *Side) (keys []string) {
	seen := map[string]bool{}
	for _, s := range []*Side{a, b} {
		for key := range s.has {
			seen[key] = true
		}
	}
	for _, key := range slices.SortedFunc(maps.Keys(seen), o.inOrder) {
		x, y := a.Has(key), b.Has(key)
		if better(x, y) || better(y, x) || x.Has != y.Has {
			keys = append(keys, key)
		}
	}
	return keys
}

// SideOf is one side of a comparison: a plan of an option of one tool, or ("" for the
// plan) what the option takes today. It is false where there is none such.
func (o *Outcome) SideOf(result int, plan string) (Side, bool) {
	r := &o.Results[result]
	s := Side{Result: result, has: map[string]pricelist.Feature{}}
	if plan == "" || r.Option.Stack() {
		if r.Today == nil {
			return s, false
		}
		s.has, s.Month = r.features(), r.Monthly(0)
		if !r.Option.Stack() {
			s.Plan, _ = r.Option.Edition.Plan(r.Today.Plan.Key)
		}
		return s, true
	}
	p, ok := r.Option.Edition.Plan(plan)
	if !ok {
		return s, false
	}
	s.Plan = p
	gather(s.has, p)
	if q := o.cheapestTerm(r, plan); q != nil {
		s.Month = q.Monthly()
	}
	return s, true
}

// cheapestTerm is the receipt of a plan on the term on which it costs least a month
// today among those that serve; nil where none does.
func (o *Outcome) cheapestTerm(r *Result, plan string) (best *quote.Receipt) {
	prices := r.Prices()
	for i := range prices {
		q := &prices[i]
		if q.Plan.Key == plan && q.Priced && q.Period != pricelist.Lifetime && (best == nil || q.Monthly() < best.Monthly()) {
			best = q
		}
	}
	return best
}

// Comparable is the plan of an option that costs most nearly what a side costs; "" where
// none has a price.
func (o *Outcome) Comparable(to *Side, result int) (plan string) {
	r := &o.Results[result]
	if r.Option.Stack() {
		return ""
	}
	best := money.Amount(-1)
	for i := range r.Option.Edition.Plans {
		q := o.cheapestTerm(r, r.Option.Edition.Plans[i].Key)
		if q == nil {
			continue
		}
		if off := max(q.Monthly()-to.Month, to.Month-q.Monthly()); best < 0 || off < best {
			best, plan = off, q.Plan.Key
		}
	}
	return plan
}

// Next is the next dearer plan than the one that is taken, and what it would add.
type Next struct {
	Plan  *pricelist.Plan
	More  money.Amount // a month
	Needs []int        // indices of needs that it has and the plan taken has not
	Open  []int        // and of those of which that is not known of the plan taken
}

// SayNextUp tells what the next plan up costs more, and adds.
func (o *Outcome) SayNextUp(next *Next) string {
	named := func(needs []int) string {
		var names []string
		for _, n := range needs {
			names = append(names, usage.LowerFirst(o.Study.Needs[n].Name))
		}
		return list(names)
	}
	text := fmt.Sprintf("Next up is %s, for %s more a month: it ", next.Plan.Name, o.Study.Currency.Format(next.More))
	switch {
	case len(next.Needs) == 0 && len(next.Open) == 0:
		return text + "adds nothing that is needed."
	case len(next.Needs) == 0:
		return text + "has " + named(next.Open) + ", not yet known of what is taken."
	case len(next.Open) == 0:
		return text + "adds " + named(next.Needs) + "."
	}
	return text + "adds " + named(next.Needs) + ", and has " + named(next.Open) + ", not yet known of what is taken."
}

// NextUp is the cheapest plan above the one that a tool takes today and that serves as
// well, paid like it; nil where there is none.
func (o *Outcome) NextUp(r *Result, tool int) *Next {
	t := &r.Tools[tool]
	if r.Today == nil {
		return nil
	}
	var best *Next
	prices := t.Prices()
	for i := range prices {
		q := &prices[i]
		now, more := beside(t.Today, q)
		more -= now
		if !q.May() || !q.Term.Like(t.Today.Term) || q.Plan.Key == t.Today.Plan.Key || rankIn(t, q.Plan.Key) <= rankIn(t, t.Today.Plan.Key) || more < 0 {
			continue
		}
		if best == nil || more < best.More {
			plan, _ := t.Tool.Edition.Plan(q.Plan.Key)
			best = &Next{Plan: plan, More: more}
		}
	}
	if best == nil {
		return nil
	}
	for i, n := range o.Study.Needs {
		if n.Meets(best.Plan.Feature(n.Feature)) != coverage.Met {
			continue
		}
		switch n.Meets(r.Has[i]) {
		case coverage.Unmet:
			best.Needs = append(best.Needs, i)
		case coverage.Open:
			best.Open = append(best.Open, i)
		}
	}
	return best
}

// beside are what two receipts cost a month, with what offers take off where that lasts as long on both.
func beside(a, b *quote.Receipt) (money.Amount, money.Amount) {
	if a.Until == b.Until {
		return a.Monthly(), b.Monthly()
	}
	usual := func(q *quote.Receipt) money.Amount {
		if q.Until > 0 {
			return q.Then
		}
		return q.Monthly()
	}
	return usual(a), usual(b)
}

func rankIn(t *ToolResult, plan string) int {
	return slices.IndexFunc(t.Tool.Edition.Plans, func(p pricelist.Plan) bool { return p.Key == plan })
}
