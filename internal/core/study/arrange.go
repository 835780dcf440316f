package study

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// arranged is a price list that is changed for one study: what is changed of it is
// copied, and the edition itself stays as it is.
type arranged struct {
	*pricelist.Edition
	own   bool
	plans map[int]bool // plans whose features are copies
}

func (a *arranged) change() {
	if a.own {
		return
	}
	copied := *a.Edition
	copied.Plans = slices.Clone(a.Plans)
	a.Edition, a.own = &copied, true
}

// set says what a plan has of a feature.
func (a *arranged) set(plan int, key string, f pricelist.Feature) {
	a.change()
	p := &a.Plans[plan]
	if a.plans == nil {
		a.plans = map[int]bool{}
	}
	if !a.plans[plan] {
		a.plans[plan] = true
		if p.Features = maps.Clone(p.Features); p.Features == nil {
			p.Features = map[string]pricelist.Feature{}
		}
	}
	p.Features[key] = f
}

// seen is the price list of a tool as the study sees it: with private offers, with
// what was found about plans, with features that mean the same under one name, and
// of a pinned plan that plan alone. What names nothing is told as a fault.
func (o *Outcome) seen(option *Option, at int, t Tool) *pricelist.Edition {
	a := arranged{Edition: o.privately(option, t.Edition)}
	a.own = a.Edition != t.Edition
	if o.Study.Catalogue.Merges() {
		a.merge(o.Study)
	}
	for i := range o.Study.Findings {
		if f := &o.Study.Findings[i]; f.Platform == t.Platform {
			a.find(f)
		}
	}
	path := document.Path("options").To(option.Key)
	if at > 0 {
		path = path.To("with", t.Key)
	}
	if t.Term != "" {
		if only := onTerm(a.Edition, t.Term); only != nil {
			a.Edition = only
		} else {
			o.fault(path.To("term"), "%s is pinned to a term %q, on which no plan of the price list of %s is sold: choose another term, or none",
				option.Name, t.Term, pricelist.SayRead(t.ObservedOn))
		}
	}
	if t.Plan == "" {
		return a.Edition
	}
	one, ok := pinned(a.Edition, t.Plan)
	if !ok {
		o.fault(path.To("plan"), "%s is pinned to a plan %q, which the price list of %s has not got: choose another plan, or another list",
			option.Name, t.Plan, pricelist.SayRead(t.ObservedOn))
		none := *a.Edition
		none.Plans = []pricelist.Plan{{Key: t.Plan, Name: t.Plan, Offered: pricelist.OnRequest}}
		return &none
	}
	return one
}

// merge puts features that mean the same under one name; where a plan has both, the
// better way of having it counts.
func (a *arranged) merge(s *Study) {
	for i := range a.Plans {
		for _, key := range slices.Sorted(maps.Keys(a.Plans[i].Features)) {
			into := s.Catalogue.Key(key)
			if into == key {
				continue
			}
			f := a.Plans[i].Features[key]
			if there, has := a.Plans[i].Features[into]; !has || coverage.BetterWay(f.Has, there.Has) {
				a.set(i, into, f)
			}
		}
	}
	for i, add := range a.AddOns {
		for j, key := range add.Gives {
			if into := s.Catalogue.Key(key); into != key && !slices.Contains(add.Gives, into) {
				a.change()
				a.AddOns = slices.Clone(a.AddOns)
				a.AddOns[i].Gives = slices.Clone(add.Gives)
				a.AddOns[i].Gives[j] = into
				add = a.AddOns[i]
			}
		}
	}
}

// find puts what was found about a plan in the place of what the list says of it, and
// of the plans that take it over.
func (a *arranged) find(found *Finding) {
	f := found.Has
	f.Note, f.From, f.On = found.Note, found.From, found.On
	from := found.Plan
	for i := range a.Plans {
		p := &a.Plans[i]
		if !p.Is(found.Plan) && (p.Includes != from && !p.Is(from) || p.Features[found.Feature].Direct) {
			continue
		}
		if f.Uses.Driver == "" {
			f.Uses = p.Features[found.Feature].Uses
		}
		f.Direct = p.Is(found.Plan)
		if a.set(i, found.Feature, f); p.QuotedOf == "" {
			from = p.Key
		}
	}
}

// priced is a price list by which an option is costed: plans have of each must what
// meets it and no less, and bridges are sold as what their tasks cost. native are
// musts that have to be met without a bridge.
func (s *Study) priced(e *pricelist.Edition, musts []coverage.Need, native map[string]bool) (*pricelist.Edition, error) {
	a := arranged{Edition: e}
	for n := range musts {
		need := &musts[n]
		var bridges []crossing // that lead to it, by what they use
		for i := range a.Plans {
			f := a.Plans[i].Feature(need.Feature)
			bridge := f.Has == pricelist.Bridge
			switch answer := need.Meets(f); {
			case bridge && native[need.Feature]:
				f.Has = pricelist.No
			case answer == coverage.Open && (f.Has != pricelist.Unknown || need.Depth > 0 || need.Number > 0):
				f.Has = pricelist.Unknown
			case answer == coverage.Unmet && f.Has.Meets():
				f.Has = pricelist.Partly
			case bridge && f.Uses.Amount != "" && s.Connector.Price > 0:
				at := slices.IndexFunc(bridges, func(b crossing) bool { return b.uses == f.Uses })
				if at < 0 {
					at, bridges = len(bridges), append(bridges, crossing{uses: f.Uses})
				}
				f.Has, f.AddOn, f.Alone = pricelist.AsAddOn, bridgeKey(n, at), true
				bridges[at].plans = append(bridges[at].plans, a.Plans[i].Key)
			case f.Has == pricelist.AsAddOn && (need.Depth > 0 || need.Number > 0):
				f.Alone = true
			default:
				continue
			}
			f.Direct = true
			a.set(i, need.Feature, f)
		}
		for at := range bridges {
			if err := s.bridge(&a, bridgeKey(n, at), need, &bridges[at], e); err != nil {
				return nil, err
			}
		}
	}
	return a.Edition, nil
}

// crossing is a bridge from some plans that uses the same.
type crossing struct {
	uses  pricelist.Uses
	plans []string
}

func bridgeKey(need, at int) string { return fmt.Sprintf("bridge-%d-%d", need+1, at+1) }

// tasksOf is the formula of the tasks that a bridge takes: of runs, their steps.
func tasksOf(uses pricelist.Uses) (usage.Formula, error) {
	if uses.Driver == "runs" {
		return usage.ParseFormula("(" + uses.Amount + ") * steps_per_run")
	}
	return usage.ParseFormula(uses.Amount)
}

// bridge sells what a bridge uses as an add-on of the list: tasks at the study's
// price, turned into the list's currency and tax so that they come out at that
// price again.
func (s *Study) bridge(a *arranged, key string, need *coverage.Need, c *crossing, e *pricelist.Edition) error {
	tasks, err := tasksOf(c.uses)
	if err != nil {
		return fmt.Errorf("the bridge to %s: %w", need.Name, err)
	}
	rate := money.Amount(money.Scale)
	if e.Currency != s.Currency {
		r, ok := s.Rates[e.Currency.Code()]
		if !ok {
			return nil // the list is not priced at all without it
		}
		rate = r.Rate
	}
	tax := money.Amount(money.Scale)
	if e.Tax.Included {
		tax += money.Amount(e.Tax.Rate)
	}
	if rate > mostRate {
		return fmt.Errorf("the rate of %s, %s, is too large to price tasks by", e.Currency.Code(), rate)
	}
	price, each := int64(s.Connector.Price*tax), int64(rate)*int64(max(1, s.Connector.Each))
	by := divisor(price, each)
	a.change()
	a.Meters = append(slices.Clone(a.Meters), pricelist.Meter{Key: key, Unit: "task", Kind: usage.Flow, Counts: tasks})
	a.AddOns = append(slices.Clone(a.AddOns), pricelist.AddOn{Key: key, Name: bridge + usage.LowerFirst(need.Name), Plans: c.plans, Gives: []string{need.Feature},
		Charges: []pricelist.Charge{{Key: key, Label: "Tasks", Kind: pricelist.Unit, Meter: key,
			Price: pricelist.Price{Usual: money.Amount(price / by)}, Each: each / by}}})
	return nil
}

// bridge begins the name of what stands for a bridge among the add-ons of a list.
const bridge = "Bridge: "

// SayWith ends what is said of a plan by the add-ons that are bought with it: " with Flows". Bridges are
// named for themselves.
func SayWith(addOns []string) string {
	bought := slices.DeleteFunc(slices.Clone(addOns), func(name string) bool { return strings.HasPrefix(name, bridge) })
	if len(bought) == 0 {
		return ""
	}
	return " with " + list(bought)
}

// sayWith ends what is said of the plans taken today by the add-ons that are bought with them.
func (r *Result) sayWith() string {
	var all []string
	for i := range r.Tools {
		if t := r.Tools[i].Today; t != nil {
			all = append(all, t.AddOns...)
		}
	}
	return SayWith(all)
}

// mostRate is the largest rate by which tasks are priced: above it their price would
// not fit.
const mostRate = 1_000_000 * money.Scale

// divisor is the greatest common divisor of two numbers, of which the second is above 0.
func divisor(a, b int64) int64 {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}
