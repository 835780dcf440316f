package study_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// flat makes a tool whose plans cost so much a month and have so of each feature.
func flat(key string, plans ...map[string]pricelist.Has) study.Tool {
	e := &pricelist.Edition{Platform: pricelist.Platform{Key: key, Name: key}, Currency: eur}
	for i, has := range plans {
		p := pricelist.Plan{Key: fmt.Sprintf("p%d", i), Name: fmt.Sprintf("%s-%d", key, i), Offered: pricelist.Public, Terms: []pricelist.Term{{Key: "monthly", Months: 1}},
			Features: map[string]pricelist.Feature{}}
		for f, h := range has {
			p.Features[f] = pricelist.Feature{Has: h, Direct: true}
		}
		e.Plans = append(e.Plans, p)
	}
	return study.Tool{Key: key, Platform: key, Edition: e}
}

func costing(t study.Tool, prices ...int64) study.Tool {
	for i, price := range prices {
		t.Edition.Plans[i].Charges = []pricelist.Charge{{Key: "base", Kind: pricelist.Flat, Each: 1, Price: pricelist.Price{Usual: money.Units(price)}}}
	}
	return t
}

func stackOf(key string, tools ...study.Tool) study.Option {
	return study.Option{Key: key, Name: key, Tool: tools[0], With: tools[1:]}
}

func musts(s *study.Study, features ...string) *study.Study {
	for _, f := range features {
		s.Needs = append(s.Needs, coverage.Need{ID: f, Feature: f, Name: f, Level: coverage.Must})
	}
	s.Criteria = nil
	return s
}

type has = map[string]pricelist.Has

func TestAStackBringsTogetherWhatNoneOfItsToolsHas(t *testing.T) {
	letters := costing(flat("letters", has{"l/send": "yes", "g/glue": "no"}), 20)
	glue := costing(flat("glue", has{"l/send": "no", "g/glue": "yes"}, has{"l/send": "no", "g/glue": "yes", "g/deep": "yes"}), 9, 30)
	s := musts(of(stackOf("both", letters, glue), study.Option{Key: "one", Name: "one", Tool: letters}), "l/send", "g/glue")
	o := compute(t, s)
	both := &o.Results[0]
	assert.True(t, both.In())
	assert.Equal(t, []string{"no g/glue"}, o.Results[1].Standing.Out)
	assert.Equal(t, "letters-0 + glue-0", both.Takes())
	assert.Equal(t, money.Units(29), both.Monthly(0))
	assert.Equal(t, money.Units(29*6), both.Schedule.Total)
	assert.Equal(t, 1, both.Coverage[1].Tool)
	sum := money.Amount(0)
	for _, m := range both.Schedule.Months {
		for _, part := range m.Parts() {
			sum += part.Accrued
		}
	}
	assert.Equal(t, both.Schedule.Total, sum)

	musts(s, "g/deep")
	o = compute(t, s)
	assert.Equal(t, "letters-0 + glue-1", o.Results[0].Takes())
	require.Len(t, o.Results[0].Forced(), 1)
	assert.Equal(t, study.Force{Need: 2, Tool: 1, Without: o.Results[0].Forced()[0].Without, Saves: money.Units(21)}, o.Results[0].Forced()[0])
	assert.Equal(t, "glue-0", o.Results[0].Forced()[0].Without.Name)
}

// Each must is brought by whichever tool makes the whole cheapest: held against
// every assignment of musts to tools.
func TestMustsAreAssignedSoThatTheStackCostsLeast(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 2))
	features := []string{"a/1", "a/2", "a/3", "a/4", "a/5"}
	compared := 0
	for i := range 120 {
		var tools []study.Tool
		for n := range 2 + r.IntN(2) {
			var plans []map[string]pricelist.Has
			var prices []int64
			for p := range 1 + r.IntN(3) {
				of := has{}
				for _, f := range features {
					of[f] = []pricelist.Has{"yes", "no", "no", "partly", "unknown"}[r.IntN(5)]
				}
				plans, prices = append(plans, of), append(prices, int64(r.IntN(30)+10*p))
			}
			tools = append(tools, costing(flat(fmt.Sprintf("t%d", n), plans...), prices...))
		}
		s := musts(of(stackOf("stack", tools...)), features[:1+r.IntN(5)]...)
		got := &compute(t, s).Results[0]
		if !got.In() || len(got.Schedule.Questions) > 0 {
			continue
		}
		best := money.Amount(-1)
		for code := range pow(len(tools), len(s.Needs)) {
			sum, all := money.Amount(0), true
			for n := range tools {
				alone := musts(of(study.Option{Key: "x", Name: "x", Tool: tools[n]}))
				rest := code
				for _, need := range s.Needs {
					if rest%len(tools) == n {
						musts(alone, need.Feature)
					}
					rest /= len(tools)
				}
				one := &compute(t, alone).Results[0]
				all = all && one.In() && len(one.Schedule.Questions) == 0
				sum += one.Monthly(0)
			}
			if all && (best < 0 || sum < best) {
				best = sum
			}
		}
		compared++
		require.Equal(t, best, got.Monthly(0), "case %d: %s", i, got.Takes())
	}
	assert.Greater(t, compared, 20)
}

func pow(base, to int) int {
	n := 1
	for range to {
		n *= base
	}
	return n
}

// bridged has one feature over a bridge on its cheap plan and outright on the dear one.
func bridged(cheap, dear int64) study.Tool {
	t := costing(flat("shop", has{"l/orders": "bridge"}, has{"l/orders": "yes"}), cheap, dear)
	f := t.Edition.Plans[0].Features["l/orders"]
	f.Uses = pricelist.Uses{Driver: "tasks", Amount: "contacts * 2"}
	t.Edition.Plans[0].Features["l/orders"] = f
	return t
}

func TestABridgeOfUnknownTasksIsNotFree(t *testing.T) {
	for amount, why := range map[string]string{"": "does not say", "orders * 2": "orders"} {
		tool := bridged(10, 40)
		f := tool.Edition.Plans[0].Features["l/orders"]
		f.Uses = pricelist.Uses{Driver: "tasks", Amount: amount}
		tool.Edition.Plans[0].Features["l/orders"] = f
		s := musts(of(study.Option{Key: "a", Name: "a", Tool: tool}), "l/orders")
		s.Connector = study.Connector{Price: money.Units(4), Each: 100}
		o := compute(t, s)
		require.Equal(t, "shop-0", o.Results[0].Takes(), amount)
		b := o.Bridges(&o.Results[0])
		require.Len(t, b, 1, amount)
		assert.False(t, b[0].Told, amount)
		assert.Contains(t, b[0].Lacks, why)
		var said string
		for _, a := range o.Facts().Notes {
			said += a.Text
		}
		assert.Contains(t, said, "how many tasks its bridge", amount)
	}
}

func TestABridgeCostsItsTasks(t *testing.T) {
	s := musts(of(study.Option{Key: "a", Name: "a", Tool: bridged(10, 40)}), "l/orders")
	o := compute(t, s)
	assert.Equal(t, money.Units(10), o.Results[0].Monthly(0), "what tasks cost is not said")
	b := o.Bridges(&o.Results[0])
	require.Len(t, b, 1)
	assert.False(t, b[0].Told)
	assert.Equal(t, 200.0, b[0].Tasks)

	s.Connector = study.Connector{Price: money.Units(4), Each: 100}
	o = compute(t, s)
	assert.Equal(t, money.Units(18), o.Results[0].Monthly(0), "200 tasks at 4 a hundred")
	assert.Equal(t, "shop-0", o.Results[0].Takes())
	assert.Equal(t, "shop-1", o.Results[0].Schedule.Months[3].Called(), "1,600 tasks cost more than the plan that has it outright")
	assert.Equal(t, money.Units(8), o.Bridges(&o.Results[0])[0].Costs)
	line := o.Results[0].Today.Lines[1]
	assert.Equal(t, "Bridge: l/orders", line.AddOn)

	// In another currency and with tax the tasks come to the same.
	usd := money.MustCurrency("USD")
	s.Options[0].Edition.Currency, s.Options[0].Edition.Tax = usd, pricelist.Tax{Included: true, Rate: 210_000}
	s.Rates = map[string]quote.Rate{"USD": {Rate: 900_000}}
	for i := range s.Options[0].Edition.Plans {
		s.Options[0].Edition.Plans[i].Charges[0].Price.Usual = 0
	}
	s.Options[0].Edition.Plans[1].Charges[0].Price.Usual = money.Units(1000)
	o = compute(t, s)
	assert.InDelta(t, 8.00, o.Results[0].Monthly(0).Float(), 0.011)

	s.Connector = study.Connector{Through: "runner"}
	o = study.Compute(s)
	require.Len(t, o.Faults, 1)
	assert.EqualValues(t, "connector.through", o.Faults[0].At)
	assert.Contains(t, o.Faults[0].Text, "which nobody runs")
}

// carrier carries bridges, and has glue: so many tasks at a price.
func carrier(t *testing.T, each, price int64) study.Tool {
	counts, err := usage.ParseFormula("tasks")
	require.NoError(t, err)
	tool := flat("runner", has{"g/glue": "yes"})
	tool.Carries = true
	tool.Edition.Meters = []pricelist.Meter{{Key: "tasks", Unit: "task", Kind: usage.Flow, Counts: counts}}
	tool.Edition.Plans[0].Charges = []pricelist.Charge{{Key: "tasks", Kind: pricelist.Unit, Meter: "tasks", Each: each, Price: pricelist.Price{Usual: money.Units(price)}}}
	return tool
}

func TestATaskOfABridgeIsTheCarriersInAStack(t *testing.T) {
	runner := carrier(t, 100, 5)
	s := musts(of(stackOf("stack", bridged(10, 40), runner)), "l/orders", "g/glue")
	s.Drivers = append(s.Drivers, study.Setting{Driver: "runs", Path: usage.Path{Now: usage.Of(100)}}, study.Setting{Driver: "steps_per_run", Path: usage.Path{Now: usage.Of(1)}})
	s.Connector = study.Connector{Price: money.Units(500)} // does not count: the stack has a carrier
	o := compute(t, s)
	assert.Equal(t, money.Units(10+5*3), o.Results[0].Monthly(0), "100 tasks of its own and 200 of the bridge")
	assert.Equal(t, "runner", o.Bridges(&o.Results[0])[0].By)
	s.Options[0].With[0].Edition.Plans[0].Charges[0].Price.Usual = money.Units(50)
	o = compute(t, s)
	assert.Equal(t, "shop-1 + runner-0", o.Results[0].Takes(), "where tasks are dear the plan that has it outright is cheaper")
	assert.Equal(t, money.Units(40+50), o.Results[0].Monthly(0))
}

func TestAFindingOfTheStudyGoesBeforeThePriceList(t *testing.T) {
	tool := costing(flat("a", has{"x/y": "no"}, has{}), 10, 30)
	tool.Edition.Plans[1].Includes = "p0"
	require.Empty(t, tool.Edition.Inherit())
	s := musts(of(study.Option{Key: "a", Name: "a", Tool: tool}), "x/y")
	assert.Equal(t, []string{"no x/y"}, compute(t, s).Results[0].Standing.Out)
	s.Findings = []study.Finding{{Platform: "a", Plan: "p1", Feature: "x/y", Has: pricelist.Feature{Has: pricelist.Yes, Depth: 2}}}
	assert.Equal(t, "a-1", compute(t, s).Results[0].Takes())
	s.Findings[0].Plan = "p0"
	o := compute(t, s)
	assert.Equal(t, "a-0", o.Results[0].Takes())
	assert.Equal(t, pricelist.Yes, o.Results[0].Option.Edition.Plans[1].Feature("x/y").Has, "a plan that takes it over has it too")
	assert.Equal(t, pricelist.No, tool.Edition.Plans[0].Feature("x/y").Has, "the edition stays as it is")
	s.Needs[0].Depth = 3
	o = compute(t, s)
	assert.Equal(t, []string{"too little x/y"}, o.Results[0].Standing.Out)
}

func TestAPinnedPlanIsTheOneThatIsTaken(t *testing.T) {
	tool := costing(flat("a", has{"x/y": "yes"}, has{"x/y": "yes"}), 10, 30)
	pinned := study.Option{Key: "dear", Name: "dear", Tool: tool}
	pinned.Plan = "p1"
	s := musts(of(study.Option{Key: "a", Name: "a", Tool: tool}, pinned), "x/y")
	o := compute(t, s)
	assert.Equal(t, "a-0", o.Results[0].Takes())
	assert.Equal(t, "a-1", o.Results[1].Takes())
	assert.Len(t, o.Results[1].Prices(), 1)
	s.Options[1].Plan = "gone"
	o = study.Compute(s)
	require.Len(t, o.Faults, 1)
	assert.EqualValues(t, "options.dear.plan", o.Faults[0].At)
	assert.False(t, o.Results[1].Schedule.Serves())
}

func TestWhatIsSetAsideIsNotCompared(t *testing.T) {
	a, b := study.Option{Key: "a", Name: "a", Tool: costing(flat("a", has{}), 10)}, study.Option{Key: "b", Name: "b", Tool: costing(flat("b", has{}), 5)}
	s := musts(of(a, b))
	s.Ratings = nil
	change, err := s.SetAsideNow("b", "no letters in Frisian", s.Today)
	require.NoError(t, err)
	after, _, err := study.Kept().Apply(*s, change)
	require.NoError(t, err)
	o := study.Compute(&after)
	require.Len(t, o.Results, 1)
	assert.Equal(t, "a", o.Results[0].Option.Key)
	require.Len(t, after.SetAside(), 1)
	assert.Equal(t, "no letters in Frisian", after.SetAside()[0].Aside)
	assert.Equal(t, s.Today, after.SetAside()[0].AsideOn)
}

func TestWhichMustToGiveUpIsTold(t *testing.T) {
	a := study.Option{Key: "a", Name: "a", Tool: costing(flat("a", has{"x/1": "yes", "x/2": "no", "x/3": "yes"}), 10)}
	b := study.Option{Key: "b", Name: "b", Tool: costing(flat("b", has{"x/1": "no", "x/2": "no", "x/3": "yes"}), 5)}
	c := study.Option{Key: "c", Name: "c", Tool: costing(flat("c", has{"x/1": "yes", "x/2": "no", "x/3": "yes"}), 5)}
	s := musts(of(a, b, c), "x/1", "x/2", "x/3")
	o := compute(t, s)
	assert.Equal(t, "None of 3 options can meet all 3 musts. Giving up x/2 as a must lets 2 of 3 options back in.", o.SayCoverage().String())
	s.Needs = s.Needs[:2]
	s.Options = s.Options[1:2]
	assert.Equal(t, "No option can meet both musts. It misses more than one.", compute(t, s).SayCoverage().String())
}
