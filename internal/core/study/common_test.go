package study_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func alone(t study.Tool) study.Option { return study.Option{Key: t.Key, Name: t.Key, Tool: t} }

func TestWhatAllHaveAndWhatOnlyOneHas(t *testing.T) {
	a := alone(costing(flat("a", has{"letters/polls": "yes", "lists/tags": "yes", "social/queue": "yes"}), 10))
	b := alone(costing(flat("b", has{"letters/polls": "add-on", "lists/tags": "no", "search/local": "yes"}, has{"lists/scoring": "yes"}), 10, 90))
	o := compute(t, musts(of(a, b)))
	c := o.Common()
	assert.Equal(t, []string{"letters/polls"}, c.All)
	assert.Equal(t, [][]string{{"lists/tags", "social/queue"}, {"search/local"}}, c.Only, "in the order of the catalogue, on the plans that are taken")
	x, ok := o.SideOf(0, "")
	require.True(t, ok)
	y, ok := o.SideOf(1, o.Comparable(&x, 1))
	require.True(t, ok)
	assert.Equal(t, "b-0", y.Plan.Name, "of the price nearest")
	assert.Equal(t, []string{"letters/polls", "lists/tags", "search/local", "social/queue"}, o.Differences(&x, &y))
	assert.Equal(t, pricelist.Unknown, y.Has("social/queue").Has)
	dear, _ := o.SideOf(1, "p1")
	assert.Equal(t, "p1", o.Comparable(&dear, 1))
	_, ok = o.SideOf(0, "gone")
	assert.False(t, ok)
	one := compute(t, musts(of(a))).Common()
	assert.Empty(t, one.All, "one option has nothing in common")
	assert.Empty(t, one.Only[0])
}

func TestTheNextPlanUpAndWhatItAdds(t *testing.T) {
	a := alone(costing(flat("a", has{"x/1": "yes", "x/2": "no"}, has{"x/1": "yes", "x/2": "no"}, has{"x/1": "yes", "x/2": "yes"}), 10, 60, 35))
	s := musts(of(a), "x/1")
	s.Needs = append(s.Needs, coverage.Need{ID: "x/2", Feature: "x/2", Name: "Two", Level: coverage.Want})
	o := compute(t, s)
	next := o.NextUp(&o.Results[0], 0)
	require.NotNil(t, next)
	assert.Equal(t, "a-2", next.Plan.Name, "the cheapest of those above it")
	assert.Equal(t, money.Units(25), next.More)
	assert.Equal(t, []int{1}, next.Needs)
	assert.Equal(t, "Next up is a-2, for €25.00 more a month: it adds two.", o.SayNextUp(next))
	assert.InDelta(t, 0.6, o.Results[0].Share, 1e-12, "one area, weights 3 and 2")
	s.Criteria = append(s.Criteria, coverageCriterion)
	o = compute(t, s)
	assert.InDelta(t, 9*0.6, float64(o.Results[0].Standing.Fit), 1e-6)
}

func TestUnknownsBecomeQuestions(t *testing.T) {
	a := costing(flat("a", has{"automation/event-triggers": "unknown", "own/thing": "no"}, has{"automation/event-triggers": "unknown"}), 10, 20)
	w := a.Edition.Plans[0].Features
	w["automation/workflows"] = pricelist.Feature{Has: pricelist.Yes, Direct: true}
	s := musts(of(alone(a)), "automation/event-triggers", "automation/workflows")
	s.Company = "Marl & Thistle"
	s.Needs[0].Name, s.Needs[1].Name, s.Needs[1].Number, s.Needs[1].Level = "Event triggers", "Active workflows", usage.Of(20), coverage.Want
	s.Needs = append(s.Needs, coverage.Need{ID: "own/thing", Feature: "own/thing", Name: "A thing of ours", Level: coverage.Bonus})
	o := compute(t, s)
	vendors := o.Vendors()
	require.Len(t, vendors, 1)
	assert.Equal(t, `Marl & Thistle: questions about a

1. Event triggers on a-0: does a purchase start a letter without anybody's hand? (We cannot do without it.)
2. Active workflows: how many workflows are there on a-0? We need 20.
3. Is there a thing of ours on a-1, and how far does it go?
`, o.AskVendor(&vendors[0]))
	assert.Equal(t, "a/p0/automation/event-triggers", vendors[0].Questions[0].Finding)
	path := "findings." + vendors[0].Questions[0].Finding + ".has"
	spot, ok := study.Kept().Spot(*s, document.Path(path))
	require.True(t, ok)
	assert.Equal(t, "Event triggers on a, a-0", spot.Label)
	after, made, err := study.Kept().Apply(*s, setting(path, "", "yes 2"))
	require.NoError(t, err)
	assert.Equal(t, pricelist.Yes, compute(t, &after).Results[0].Option.Edition.Plans[0].Feature("automation/event-triggers").Has)
	back, _, err := study.Kept().Apply(after, made.Inverse())
	require.NoError(t, err)
	assert.Empty(t, back.Findings)
}

// The cheapest stack is held against every choice of plans of every subset of
// platforms, each costed as a stack option is.
func TestTheCheapestStackIsThatOfTryingAll(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 3))
	features := []string{"a/1", "a/2", "a/3", "a/4"}
	found, none := 0, 0
	for i := range 60 {
		var tools []study.Tool
		var options []study.Option
		for n := range 3 {
			var plans []map[string]pricelist.Has
			var prices []int64
			for p := range 1 + r.IntN(2) {
				of := has{}
				for _, f := range features {
					of[f] = []pricelist.Has{"yes", "no", "bridge", "no", "partly"}[r.IntN(5)]
				}
				plans, prices = append(plans, of), append(prices, int64(5+r.IntN(30)+15*p))
			}
			t := costing(flat(fmt.Sprintf("t%d", n), plans...), prices...)
			for p := range t.Edition.Plans {
				for key, f := range t.Edition.Plans[p].Features {
					if f.Has == pricelist.Bridge {
						f.Uses = pricelist.Uses{Driver: "tasks", Amount: "contacts"}
						t.Edition.Plans[p].Features[key] = f
					}
				}
			}
			tools, options = append(tools, t), append(options, alone(t))
		}
		s := musts(of(options...), features[:1+r.IntN(4)]...)
		s.Connector = study.Connector{Price: money.Units(int64(1 + r.IntN(9))), Each: 100}
		best, err := compute(t, s).BestStack()
		require.NoError(t, err)
		want := money.Amount(-1)
		counts := []int{1 + len(tools[0].Edition.Plans), 1 + len(tools[1].Edition.Plans), 1 + len(tools[2].Edition.Plans)}
		for code := range counts[0] * counts[1] * counts[2] {
			var some []study.Tool
			rest := code
			for n := range tools {
				if p := rest % counts[n]; p > 0 {
					one := tools[n]
					one.Plan = fmt.Sprintf("p%d", p-1)
					some = append(some, one)
				}
				rest /= counts[n]
			}
			if len(some) == 0 {
				continue
			}
			whole := *s
			whole.Options = []study.Option{stackOf("stack", some...)}
			if got := &compute(t, &whole).Results[0]; got.In() && (want < 0 || got.Monthly(0) < want) {
				want = got.Monthly(0)
			}
		}
		if want < 0 {
			none++
			require.Empty(t, best.Tools, "case %d", i)
			continue
		}
		found++
		require.Equal(t, want, best.Month, "case %d", i)
	}
	assert.Greater(t, found, 20)
	assert.Positive(t, none)
}

var coverageCriterion = fit.Criterion{ID: "covers", Name: "Covers", Source: fit.Coverage, Weight: money.Whole}

func setting(path, was, to string) document.Change {
	return document.Change{{Do: document.Set, Path: document.Path(path), Was: was, To: to}}
}
