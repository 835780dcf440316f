package study_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var eur = money.MustCurrency("EUR")

// option makes an option of one plan, a stair over contacts: pairs of an end
// and a price in whole euros.
func option(key string, pairs ...int64) study.Option {
	counts, err := usage.ParseFormula("contacts")
	if err != nil {
		panic(err)
	}
	ch := pricelist.Charge{Key: "base", Kind: pricelist.Stair, Meter: "contacts"}
	for i := 0; i < len(pairs); i += 2 {
		ch.Bands = append(ch.Bands, pricelist.Band{To: usage.Of(pairs[i]), Price: pricelist.Price{Usual: money.Units(pairs[i+1])}})
	}
	return study.Option{Key: key, Name: key, Face: 1, Tool: study.Tool{Platform: key, Edition: &pricelist.Edition{Platform: pricelist.Platform{Key: key, Name: key}, Currency: eur,
		Meters: []pricelist.Meter{{Key: "contacts", Unit: "contact", Kind: usage.Stock, Counts: counts}},
		Plans: []pricelist.Plan{{Key: "plan", Name: "Plan", Offered: pricelist.Public, Terms: []pricelist.Term{{Key: "monthly", Months: 1}},
			Charges: []pricelist.Charge{ch}, Features: map[string]pricelist.Feature{"a/no": {Has: pricelist.No}, "a/yes": {Has: pricelist.Yes}}}}}}}
}

// of makes a study over six months in which contacts double each month from
// 100: 100, 200, 400, 800, 1600, 3200.
func of(options ...study.Option) *study.Study {
	for i := range options {
		options[i].Face = i + 1
	}
	return &study.Study{Title: "T", Currency: eur, Start: 2027 * 12, Horizon: 6, Pay: projection.Monthly, Patience: 90, Today: time.Date(2026, 11, 24, 0, 0, 0, 0, time.UTC),
		Drivers:  []study.Setting{{Driver: "contacts", Path: usage.Path{Now: usage.Of(100), Growth: money.Whole}}},
		Options:  options,
		Criteria: []fit.Criterion{{ID: "cost", Name: "Cost", Source: fit.Cost, Weight: 500_000, Worst: money.Units(100)}, {ID: "ease", Name: "Ease", Source: fit.Rated, Weight: 500_000}}}
}

func rate(s *study.Study, option string, halves fit.Halves) {
	s.Ratings = append(s.Ratings, fit.Rating{Rater: "Ada", Option: option, Criterion: "ease", Value: halves})
}

func compute(t *testing.T, s *study.Study) *study.Outcome {
	t.Helper()
	o := study.Compute(s)
	require.Empty(t, o.Faults)
	return o
}

func TestTheCostsSentenceFollowsTheLead(t *testing.T) {
	for _, row := range []struct {
		name    string
		options []study.Option
		want    string
	}{
		{"one leads throughout", []study.Option{option("A", 9999, 10), option("B", 9999, 11)},
			"A is the cheapest way through all 6 months, at €60. It costs least in every month."},
		{"equals are named", []study.Option{option("A", 9999, 10), option("B", 9999, 10), option("C", 9999, 11)},
			"A and B cost least over all 6 months, and the same: €60."},
		{"nothing is no cheapest", []study.Option{option("A", 9999, 0), option("B", 9999, 0)}, "A and B cost nothing over all 6 months."},
		{"one is left in", []study.Option{option("A", 9999, 10), option("B", 150, 1)}, "A is the only option left in, at €60 over all 6 months."},
		{"there is one", []study.Option{option("A", 9999, 10)}, "A is the only option, at €60 over all 6 months."},
		{"the cheapest overall begins dearer", []study.Option{option("A", 9999, 10), option("B", 200, 9, 9999, 30)},
			"A is the cheapest way through all 6 months, at €60. Until Feb 2027 B costs less each month; then contacts pass 200 and it steps up."},
		{"the cheapest overall ends dearer", []study.Option{option("A", 9999, 10), option("B", 1600, 2, 9999, 30)},
			"B is the cheapest way through all 6 months, at €40. In Jun 2027 A costs less; then contacts pass 1,600 and B steps up."},
		{"the lead goes to and fro", []study.Option{option("A", 400, 1, 800, 20, 9999, 2), option("B", 9999, 10)},
			"A is the cheapest way through all 6 months, at €27. In Apr 2027 B costs less; then A steps down: contacts pass 800. The cheapest changes 2 times in all."},
	} {
		assert.Equal(t, row.want, compute(t, of(row.options...)).SayCosts().String(), row.name)
	}
}

func TestOptionsThatCannotServeLeadNothing(t *testing.T) {
	s := of(option("A", 800, 1), option("B", 800, 2))
	o := compute(t, s)
	assert.Equal(t, "No option serves all 6 months. Each is out for the reason that the counter gives.", o.SayCosts().String())
	assert.Equal(t, []string{"from May 2027: contacts pass 800 on Plan, above which the price is on request"}, o.Results[0].Standing.Out)
	assert.Contains(t, o.SayVerdict().String(), "There is no pick yet. Every option is out")
	assert.Empty(t, o.Leads)
	assert.Nil(t, o.SayNext())
	s = of(option("A", 50, 1))
	assert.Equal(t, []string{"contacts pass 50 on Plan, above which the price is on request"}, compute(t, s).Results[0].Standing.Out, "from the first month on")
	assert.Contains(t, compute(t, s).SayPrices().String(), "No plan of any option can serve")
}

func TestTheVerdictSaysWhatThePickCosts(t *testing.T) {
	s := of(option("A", 9999, 10), option("B", 9999, 12), option("C", 9999, 12))
	rate(s, "A", 4)
	rate(s, "B", 16)
	rate(s, "C", 16)
	o := compute(t, s)
	assert.Equal(t, "Pick B on Plan, paid monthly. It is level on fit with C and no dearer, and costs €12 more than the cheapest, A, over 6 months.", o.SayVerdict().String())
	assert.Equal(t, "Next is C, level on fit and costs the same.", o.SayNext().String())
	s.Ratings[0].Value = 18
	o = compute(t, s)
	assert.Equal(t, "Pick A on Plan, paid monthly. It leads on cost and ease, and costs least: €60 over 6 months.", o.SayVerdict().String())
	assert.Equal(t, "Next is B, 1.0 behind on fit but costs €12 more.", o.SayNext().String())
	assert.Equal(t, "A leads on fit with 6.3 of 9 to 5.3 for B. Ease carries the most of it, 4.5 points.", o.SayScores().String())
	assert.Contains(t, compute(t, s).Facts().Verdict.String(), "Pick A")

	// What is missing could not turn it: it stays.
	s.Criteria[0].Weight, s.Criteria[1].Weight = 900_000, 100_000
	s.Options[2].Edition.Plans[0].Charges[0].Bands[0].Price.Usual = money.Units(16)
	s.Ratings = s.Ratings[:2]
	o = compute(t, s)
	assert.Contains(t, o.SayVerdict().String(), "Pick A")
	assert.Equal(t, 3, o.Results[2].Standing.Place)
	assert.Equal(t, "0.3–1.2", o.Results[2].Standing.String())
	s.Options[1].Edition.Plans[0].Charges[0].Bands[0].Price.Usual = money.Units(10)
	s.Options[2].Edition.Plans[0].Charges[0].Bands[0].Price.Usual = money.Units(16)
	s.Ratings = nil
	rate(s, "A", 4)
	rate(s, "B", 18)
	assert.Contains(t, compute(t, s).SayVerdict().String(), "costs least, as does A: €60")
}

// TestNothingIsPickedOnMissingRatings has ratings missing that could turn the order,
// of some or of all, and options that could come first for them.
func TestNothingIsPickedOnMissingRatings(t *testing.T) {
	s := of(option("A", 9999, 10), option("B", 9999, 12), option("C", 9999, 30), option("D", 9999, 14))
	s.Criteria[0].Worst = money.Units(200)
	for want, ratings := range map[string]func(){
		"It is too early to pick: 4 ratings are missing, and each of the 4 options could come first.":       func() {},
		"It is too early to pick: 2 ratings are missing, and A (3.2–7.7) and B (2.9–7.4) could come first.": func() { rate(s, "C", 10); rate(s, "D", 0) },
		"It is too early to pick: 1 rating is missing, and A (6.2) and B (2.9–7.4) could come first.":       func() { rate(s, "A", 12); rate(s, "C", 10); rate(s, "D", 0) },
	} {
		s.Ratings = nil
		ratings()
		o := compute(t, s)
		assert.Equal(t, want, o.SayVerdict().String())
		assert.Equal(t, -1, o.Pick.First)
		assert.Nil(t, o.SayNext())
		assert.Zero(t, o.Facts().Face)
		assert.Equal(t, strings.Replace(want, "It is too early to pick", "No option leads yet", 1), o.SayScores().String())
	}
	alone := of(option("A", 9999, 10), option("B", 10, 5))
	alone.Criteria = alone.Criteria[1:]
	assert.Equal(t, "It is too early to pick: 1 rating is missing, and only A is in.", compute(t, alone).SayVerdict().String())
	// One that is left alone leads on nothing: it has no rival.
	s = of(option("A", 9999, 10), option("B", 10, 5))
	rate(s, "A", 10)
	assert.NotContains(t, compute(t, s).SayVerdict().String(), "leads on")
}

// TestOneMonthIsNotAllOfThem computes a study of a single month.
func TestOneMonthIsNotAllOfThem(t *testing.T) {
	s := of(option("A", 9999, 10), option("B", 9999, 12))
	s.Horizon = 1
	assert.Equal(t, "A is the cheapest way through the month, at €10.", compute(t, s).SayCosts().String())
	s = of(option("A", 10, 5))
	s.Horizon = 1
	assert.Contains(t, compute(t, s).SayCosts().String(), "No option serves the month.")
}

// TestTwoOptionsOfOneNameAreToldApart names options alike.
func TestTwoOptionsOfOneNameAreToldApart(t *testing.T) {
	s := of(option("a", 9999, 10), option("b", 9999, 12), option("c", 9999, 14))
	s.Options[0].Name, s.Options[1].Name = "Same", "Same"
	for _, o := range []string{"a", "b", "c"} {
		rate(s, o, 10)
	}
	o := compute(t, s)
	assert.Contains(t, o.SayVerdict().String(), "Pick Same (no. 1)")
	assert.Contains(t, o.SayNext().String(), "Next is Same (no. 2)")
	assert.Equal(t, "c", o.Results[2].Option.Name)
	assert.Equal(t, "Same", s.Options[0].Name, "in the study itself they keep their names")
}

func TestMustsPutOutAskOrForce(t *testing.T) {
	s := of(option("A", 9999, 10), option("B", 9999, 12))
	s.Needs = []coverage.Need{{ID: "1", Feature: "a/no", Name: "RSS letters", Level: coverage.Must}}
	o := compute(t, s)
	assert.Equal(t, []string{"no RSS letters"}, o.Results[0].Standing.Out, "an abbreviation keeps its capitals")
	s.Needs[0].Feature = "a/unheard"
	o = compute(t, s)
	assert.True(t, o.Results[0].In(), "what is not yet known puts nothing out")
	assert.Equal(t, "unheard not yet known", o.Results[0].Schedule.Questions[0].String())
	assert.NotContains(t, o.SayVerdict().String(), "meets every must")

	e := s.Options[0].Edition
	higher := e.Plans[0]
	higher.Key, higher.Name = "higher", "Higher"
	higher.Charges = []pricelist.Charge{{Key: "base", Kind: pricelist.Flat, Price: pricelist.Price{Usual: money.Units(99)}}}
	higher.Features = map[string]pricelist.Feature{"a/unheard": {Has: pricelist.Yes}}
	e.Plans = append(e.Plans, higher)
	o = compute(t, s)
	assert.Equal(t, "Higher", o.Results[0].Today.Plan.Name)
	require.Len(t, o.Results[0].Forced(), 1)
	assert.Equal(t, 0, o.Results[0].Forced()[0].Need)
	assert.Equal(t, "Plan", o.Results[0].Forced()[0].Without.Name)
	assert.Equal(t, o.Results[0].Monthly(0)-money.Units(10), o.Results[0].Forced()[0].Saves)
	assert.Contains(t, o.SayCoverage().String(), "RSS letters is what pushes A to Higher; without it Plan would do and save €89.00 a month.")
}

func TestHeavierCostNeverHelpsTheDearer(t *testing.T) {
	s := of(option("A", 9999, 10), option("B", 9999, 14))
	rate(s, "A", 8)
	rate(s, "B", 16)
	gap := -100.0
	for weight := money.Share(0); weight <= money.Whole; weight += 50_000 {
		s.Criteria[0].Weight, s.Criteria[1].Weight = weight, money.Whole-weight
		o := compute(t, s)
		now := float64(o.Results[0].Standing.Fit - o.Results[1].Standing.Fit)
		require.GreaterOrEqual(t, now, gap)
		gap = now
	}
	assert.Positive(t, gap)
}

func TestAsterisksInNamesMarkNothing(t *testing.T) {
	o := compute(t, of(option("*A* 100%s", 9999, 10)))
	var strong []string
	for _, p := range o.SayCosts() {
		if p.Strong {
			strong = append(strong, p.Text)
		}
	}
	assert.Equal(t, []string{"*A* 100%s", "€60"}, strong)
}

func TestEventsStandByMonth(t *testing.T) {
	o := compute(t, of(option("A", 400, 1, 9999, 20), option("B", 9999, 10)))
	var got []string
	for _, e := range o.Events() {
		got = append(got, fmt.Sprintf("%s %s %s %s", o.Study.Month(e.Month), o.Results[e.Result].Option.Name, e.Say(), e.Delta))
	}
	assert.Equal(t, []string{"Apr 2027 A on Plan: contacts pass 400 19", "Apr 2027 B now costs least each month -10"}, got)
	assert.Equal(t, "Month by month, the least costs: Jan 2027 to Mar 2027: A; Apr 2027 to Jun 2027: B.", o.SayLeads())
}

func ExampleCompute() {
	s := of(option("A", 9999, 10), option("B", 9999, 11))
	o := study.Compute(s)
	fmt.Println(o.SayCosts())
	// Output: A is the cheapest way through all 6 months, at €60. It costs least in every month.
}

// TestAMustForcesAPlanOnlyWhereALowerOneWouldDo takes a must away: a lower plan
// that is taken then was forced up by it; a higher one that costs less was not.
func TestAMustForcesAPlanOnlyWhereALowerOneWouldDo(t *testing.T) {
	flat := func(key string, price int64, has pricelist.Has) pricelist.Plan {
		return pricelist.Plan{Key: key, Name: key, Offered: pricelist.Public, Terms: []pricelist.Term{{Key: "monthly", Months: 1}},
			Charges: []pricelist.Charge{{Key: "f", Kind: pricelist.Flat, Price: pricelist.Price{Usual: money.Units(price)}}}, Features: map[string]pricelist.Feature{"a/x": {Has: has}}}
	}
	for _, row := range []struct {
		plans  []pricelist.Plan
		taken  string
		forced int
	}{
		{[]pricelist.Plan{flat("low", 5, pricelist.No), flat("mid", 10, pricelist.Yes)}, "mid", 1},
		{[]pricelist.Plan{flat("low", 20, pricelist.No), flat("mid", 10, pricelist.Yes), flat("high", 8, pricelist.No)}, "mid", 0},
		{[]pricelist.Plan{flat("low", 20, pricelist.Yes), flat("mid", 10, pricelist.Yes)}, "mid", 0},
	} {
		one := option("A", 9999, 10)
		one.Edition.Plans = row.plans
		s := of(one)
		s.Needs = []coverage.Need{{Feature: "a/x", Name: "X", Level: coverage.Must}}
		o := compute(t, s)
		assert.Equal(t, row.taken, o.Results[0].Today.Plan.Key)
		assert.Len(t, o.Results[0].Forced(), row.forced)
	}
}
