package study_test

import (
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sold is a list of two plans at 5 and 50, with an add-on at 4 on the first.
func sold(low, high pricelist.Feature) study.Option {
	t := costing(flat("t", has{}, has{}), 5, 50)
	low.Direct, high.Direct = true, true
	if low.Has != "" {
		t.Edition.Plans[0].Features["x/y"] = low
	}
	t.Edition.Plans[1].Features["x/y"] = high
	t.Edition.AddOns = []pricelist.AddOn{{Key: "more", Name: "More", Plans: []string{"p0"}, Gives: []string{"x/y"},
		Charges: []pricelist.Charge{{Key: "fee", Label: "More", Kind: pricelist.Flat, Price: pricelist.Price{Usual: money.Units(4)}}}}}
	return study.Option{Key: "t", Name: "T", Tool: t}
}

// An add-on meets a must with the depth and the number that are stated of it, and where neither the
// list nor a finding says no.
func TestAnAddOnMeetsAMustAsFarAsItGoes(t *testing.T) {
	addOn := func(depth int, number int64) pricelist.Feature {
		return pricelist.Feature{Has: pricelist.AsAddOn, AddOn: "more", Depth: depth, Number: usage.Of(number)}
	}
	yes := pricelist.Feature{Has: pricelist.Yes, Depth: 3, Number: usage.Of(100)}
	for _, row := range []struct {
		name  string
		low   pricelist.Feature
		need  coverage.Need
		found pricelist.Has
		want  int64 // a month
	}{
		{"any will do", addOn(1, 0), coverage.Need{}, "", 9},
		{"deep enough", addOn(2, 0), coverage.Need{Depth: 2}, "", 9},
		{"not deep enough", addOn(1, 0), coverage.Need{Depth: 2}, "", 50},
		{"how deep is not told", addOn(0, 0), coverage.Need{Depth: 2}, "", 50},
		{"too few of them", addOn(0, 5), coverage.Need{Number: usage.Of(8)}, "", 50},
		{"enough of them", addOn(0, 8), coverage.Need{Number: usage.Of(8)}, "", 9},
		{"the list says no", pricelist.Feature{Has: pricelist.No}, coverage.Need{}, "", 50},
		{"in part alone", pricelist.Feature{Has: pricelist.Partly}, coverage.Need{}, "", 50},
		{"a finding says no", addOn(3, 100), coverage.Need{}, pricelist.No, 50},
		{"a finding says how", addOn(1, 0), coverage.Need{}, pricelist.Yes, 5},
		{"of the plan nothing else is said", pricelist.Feature{}, coverage.Need{}, "", 9},
		{"nor how deep", pricelist.Feature{}, coverage.Need{Depth: 2}, "", 50},
	} {
		s := musts(of(sold(row.low, yes)), "x/y")
		s.Needs[0].Depth, s.Needs[0].Number = row.need.Depth, row.need.Number
		if row.found != "" {
			s.Findings = []study.Finding{{Platform: "t", Plan: "p0", Feature: "x/y", Has: pricelist.Feature{Has: row.found}}}
		}
		o := compute(t, s)
		require.True(t, o.Results[0].In(), row.name)
		assert.Equal(t, money.Units(row.want), o.Results[0].Monthly(0), row.name)
		assert.Empty(t, o.Results[0].Schedule.Questions, row.name)
	}
}

// What one plan has not, or not enough of, puts an option out only where no other may have it.
func TestUnknownPutsNothingOut(t *testing.T) {
	r := rand.New(rand.NewPCG(12, 4))
	ways := []pricelist.Feature{{Has: pricelist.Yes}, {Has: pricelist.Yes, Depth: 1}, {Has: pricelist.Yes, Depth: 2}, {Has: pricelist.Partly}, {Has: pricelist.Announced}, {Has: pricelist.No}, {Has: pricelist.Unknown}}
	asked, out := 0, 0
	for n := range 600 {
		tool := costing(flat("t", has{}, has{}, has{}), 5, 10, 20)
		s := musts(of(study.Option{Key: "t", Name: "T", Tool: tool}), "x/y", "x/z")
		s.Needs[0].Depth = 2
		best, questions := coverage.Unmet, 0
		var price int64
		for i := range tool.Edition.Plans {
			here, open := coverage.Met, 0
			for _, need := range s.Needs {
				f := ways[r.IntN(len(ways))]
				f.Direct = true
				tool.Edition.Plans[i].Features[need.Feature] = f
				answer := need.Meets(f)
				here, open = min(here, answer), open+map[bool]int{true: 1}[answer == coverage.Open]
			}
			if here > best {
				best, questions, price = here, open, []int64{5, 10, 20}[i]
			}
		}
		o := compute(t, s)
		got := &o.Results[0]
		require.Equal(t, best != coverage.Unmet, got.In(), "case %d: %v", n, got.Standing.Out)
		said := o.SayCoverage().String()
		switch best {
		case coverage.Met:
			assert.Contains(t, said, "The only option can meet both musts.")
			assert.Empty(t, got.Schedule.Questions)
		case coverage.Open:
			asked++
			assert.Contains(t, said, "Of the only option it is not yet known whether both musts can be met.")
			require.Len(t, got.Schedule.Questions, questions)
			var needs []int
			for _, q := range o.Vendors()[0].Questions {
				assert.Equal(t, got.Today.Plan.Key, q.Plan.Key, "what is asked is asked of the plan that is taken")
				needs = append(needs, q.Need)
			}
			assert.Len(t, needs, questions)
		default:
			out++
			assert.Contains(t, said, "No option can meet both musts.")
			continue
		}
		require.Equal(t, money.Units(price), got.Monthly(0), "case %d", n)
	}
	assert.Greater(t, asked, 50)
	assert.Greater(t, out, 50)
}

// Reading less of a list never scores more for certain: what is not known makes a range about what it
// turns out to be, of the share that is covered, of the fit, and of the place.
func TestWhatIsNotKnownIsARange(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 11))
	features := []string{"a/1", "a/2", "b/3", "b/4", "c/5"}
	early := 0
	for n := range 300 {
		full, less := has{}, has{}
		for _, f := range features {
			full[f] = []pricelist.Has{"yes", "no", "partly", "bridge"}[r.IntN(4)]
			if less[f] = full[f]; r.IntN(3) == 0 {
				less[f] = "unknown"
			}
		}
		result := func(of map[string]pricelist.Has) (*study.Outcome, *study.Result) {
			s := of2(costing(flat("t", of), 5), costing(flat("u", has{"a/1": "yes", "a/2": "yes", "b/3": "yes", "b/4": "no", "c/5": "no"}), 6))
			for _, f := range features {
				s.Needs = append(s.Needs, coverage.Need{ID: f, Feature: f, Name: f, Level: coverage.Want})
			}
			s.Criteria = []fit.Criterion{{ID: "covers", Name: "Coverage", Source: fit.Coverage, Weight: 500_000}, {ID: "cost", Name: "Cost", Source: fit.Cost, Weight: 500_000, Worst: money.Units(100)}}
			o := compute(t, s)
			return o, &o.Results[0]
		}
		_, known := result(full)
		o, open := result(less)
		require.InDelta(t, known.Share, known.MayBe, 1e-12)
		require.LessOrEqual(t, open.Share, known.Share+1e-12, "case %d", n)
		require.GreaterOrEqual(t, open.MayBe, known.MayBe-1e-12, "case %d", n)
		require.LessOrEqual(t, open.Standing.Low, known.Standing.Fit+1e-9)
		require.GreaterOrEqual(t, open.Standing.High, known.Standing.Fit-1e-9)
		require.Equal(t, open.Known == len(features), open.Standing.Complete())
		said := o.SayVerdict().String()
		if len(o.Pick.Could) > 0 {
			early++
			require.Contains(t, said, "not yet known, and")
			require.NotContains(t, said, "0 rating")
		} else {
			require.Contains(t, said, "Pick")
		}
	}
	assert.Greater(t, early, 20)
}

func of2(a, b study.Tool) *study.Study {
	return of(study.Option{Key: "t", Name: "T", Tool: a}, study.Option{Key: "u", Name: "U", Tool: b})
}

// What is bought with a plan is named wherever one is told to take it: in the verdict, among what is to be done, in
// the way of an option and in the cheapest stack; an add-on that begins later has a day of its own.
func TestAddOnsAreNamedWhereTheirPlanIs(t *testing.T) {
	fee := func(units int64) []pricelist.Charge {
		return []pricelist.Charge{{Key: "fee", Label: "Fee", Kind: pricelist.Flat, Price: pricelist.Price{Usual: money.Units(units)}}}
	}
	one := option("A", 9999, 10)
	one.Platform, one.Key = "A", "A"
	p := &one.Edition.Plans[0]
	p.Features["x/y"] = pricelist.Feature{Has: pricelist.AsAddOn, AddOn: "flows"}
	p.Limits = []pricelist.Limit{{Meter: "contacts", Most: usage.Of(400)}}
	one.Edition.AddOns = []pricelist.AddOn{{Key: "flows", Name: "Flows", Plans: []string{"plan"}, Gives: []string{"x/y"}, Charges: fee(4)},
		{Key: "room", Name: "Room", Plans: []string{"plan"}, Raises: []pricelist.Raise{{Meter: "contacts", By: usage.Of(5000)}}, Charges: fee(2)}}
	s := musts(of(one), "x/y")
	s.Criteria = []fit.Criterion{{ID: "cost", Name: "Cost", Source: fit.Cost, Weight: 1_000_000, Best: money.Units(1), Worst: money.Units(100)}}
	o := compute(t, s)
	require.True(t, o.Results[0].In())
	assert.Contains(t, o.SayVerdict().String(), "Pick A on Plan with Flows, paid monthly")
	assert.Equal(t, "Plan with Flows monthly until Mar 2027, then Plan with Flows and Room monthly", o.SayDeeds(&o.Results[0]))
	var texts []string
	for _, d := range o.Deeds(&o.Results[0]) {
		texts = append(texts, s.Month(d.Month).String()+" "+d.Text)
	}
	assert.Equal(t, []string{"Jan 2027 take Plan with Flows monthly", "Apr 2027 Plan with Flows and Room from here on"}, texts)
	best, err := o.BestStack()
	require.NoError(t, err)
	assert.Equal(t, []string{" with Flows"}, best.With)
	assert.Equal(t, money.Units(14), best.Month)
	assert.Empty(t, study.SayWith([]string{"Bridge: orders"}), "a bridge is not bought with the plan")
}
