package study_test

import (
	"testing"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"

	"github.com/stretchr/testify/assert"
)

// plans gives an option plans of the first one's kind, up to so many contacts each; 0: on request.
func plans(o study.Option, most ...int64) study.Option {
	first := o.Edition.Plans[0]
	o.Edition.Plans = nil
	for i, n := range most {
		p := first
		p.Key, p.Name = []string{"solo", "team", "grove"}[i], []string{"Solo", "Team", "Grove"}[i]
		if n == 0 {
			p.Offered, p.Charges, p.Terms = pricelist.OnRequest, nil, nil
		} else {
			p.Charges = option("x", n, int64(10*(i+1))).Edition.Plans[0].Charges
		}
		o.Edition.Plans = append(o.Edition.Plans, p)
	}
	return o
}

func TestWhyAnOptionIsOutNamesThePlanThatComesNearest(t *testing.T) {
	o := compute(t, of(plans(option("A"), 800, 1600, 0), option("B", 9999, 1)))
	r := &o.Results[0]
	assert.Equal(t, []string{"from Jun 2027: contacts pass 1,600 on Team, above which the price is on request"}, r.Standing.Out)
	assert.Equal(t, "Next nearest is Solo: contacts pass 800, above which the price is on request. The price of Grove is on request: ask them, and enter what they quote.", o.SayWaysIn(r))
	assert.Empty(t, o.SayWaysIn(&o.Results[1]), "it serves")

	s := of(plans(option("A"), 50, 0), option("B", 9999, 1))
	s.Needs = []coverage.Need{{Feature: "a/unknown", Name: "Routes", Level: coverage.Must}}
	o = compute(t, s)
	assert.Equal(t, []string{"contacts pass 50 on Solo, above which the price is on request"}, o.Results[0].Standing.Out, "what is not yet known is not the reason")
	assert.Equal(t, "The price of Team is on request: ask them, and enter what they quote.", o.SayWaysIn(&o.Results[0]))

	s = of(plans(option("A"), 0), option("B", 9999, 1))
	o = compute(t, s)
	assert.Equal(t, []string{"the price of Solo is on request"}, o.Results[0].Standing.Out)
}

func TestAMissingRateIsNamedFirst(t *testing.T) {
	s := of(option("A", 9999, 1), option("B", 9999, 1))
	s.Options[0].Edition.Currency = money.MustCurrency("GBP")
	s.Needs = []coverage.Need{{Feature: "a/no", Name: "Routes", Level: coverage.Must}}
	o := compute(t, s)
	assert.Equal(t, []string{"its prices are in GBP, and there is no rate from GBP to EUR", "no routes"}, o.Results[0].Standing.Out)
	q := o.Results[0].Prices()[0]
	assert.Equal(t, "prices are in GBP and the study has no rate from GBP to EUR", o.Study.SayWhy(q.Reasons[0]))
}

func TestPricesSayWhatIsNotYetKnown(t *testing.T) {
	s := of(option("A", 9999, 1))
	s.Needs = []coverage.Need{{Feature: "a/yes", Name: "Routes", Level: coverage.Must}}
	assert.Equal(t, "In Jan 2027 Plan of A costs €1.00 a month, and is the only plan with everything you must have.", compute(t, s).SayPrices().String())
	s.Needs = append(s.Needs, coverage.Need{Feature: "a/unknown", Name: "Visits", Level: coverage.Must})
	assert.Equal(t, "In Jan 2027 Plan of A costs €1.00 a month, and is the only plan that may have everything you must have.", compute(t, s).SayPrices().String())
	s = of(option("A", 9999, 1), option("B", 9999, 2))
	s.Options[0].Edition.Plans[0].Features["a/more"] = pricelist.Feature{Has: pricelist.Yes}
	s.Needs = []coverage.Need{{Feature: "a/more", Name: "Visits", Level: coverage.Must}}
	assert.Equal(t, "In Jan 2027 the plans that have, or may have, everything you must have cost from €1.00 a month (A on Plan) to €2.00 (B on Plan).", compute(t, s).SayPrices().String())
}

func TestAllMovesOfThePickAreTold(t *testing.T) {
	s := of(plans(option("A"), 200, 800, 9999), option("B", 9999, 100))
	rate(s, "A", 18)
	rate(s, "B", 2)
	o := compute(t, s)
	assert.Contains(t, o.SayVerdict().String(), "Pick A on Solo, paid monthly, moving to Team in Mar 2027 and to Grove in May 2027.")
	s.Horizon = 9
	o = compute(t, s)
	plan, paid, months := o.Results[0].Mostly()
	assert.Equal(t, "Grove monthly", plan+" "+paid)
	assert.Equal(t, 3, months, "of May, Jun and Jul; from Aug on nothing serves")
}

func TestWhatIsSettledSaysWhatIsOpen(t *testing.T) {
	s := of(option("A", 9999, 1))
	rate(s, "A", 18)
	s.Needs = []coverage.Need{{Feature: "a/yes", Name: "Routes", Level: coverage.Must}}
	assert.Equal(t, "Nothing to settle: prices are fresh, needs are known and ratings are complete.", compute(t, s).SaySettled())
	s.Needs = append(s.Needs, coverage.Need{Feature: "a/unknown", Name: "Visits", Level: coverage.Want})
	assert.Equal(t, "Nothing to settle: prices are fresh and ratings are complete. Still open: 1 question for vendors.", compute(t, s).SaySettled())
}

// The offers that costs rest on are named, with what they come to without.
func TestOffersThatCostsRestOnAreNamed(t *testing.T) {
	s := of(option("A", 9999, 10), option("B", 9999, 11))
	assert.Empty(t, compute(t, s).SayRests(&compute(t, s).Results[0]))
	e := s.Options[0].Edition
	e.Offers = []pricelist.Offer{{Key: "half", Name: "Half-price start", Plans: []string{"plan"}, Kind: pricelist.PercentOff, Off: 500_000, Months: 3}}
	o := compute(t, s)
	assert.Equal(t, "€45", o.Study.Currency.FormatWhole(o.Results[0].Schedule.Total))
	assert.Equal(t, "The cost of A includes “Half-price start”; without, it is €60 over 6 months, not €45.", o.SayRests(&o.Results[0]))
	assert.Empty(t, o.SayRests(&o.Results[1]))
}

func TestAScaleThatTellsNothingApartIsSaid(t *testing.T) {
	s := of(option("A", 9999, 100), option("B", 9999, 110), option("C", 150, 1))
	scale, ok := compute(t, s).ScaleOf(0)
	assert.True(t, ok)
	assert.Equal(t, "All score 0 here, at €600 to €660. 9 at €600 and 0 at €670 would tell these apart.", scale.Says)
	s.Criteria[0].Best, s.Criteria[0].Worst = scale.Best, scale.Worst
	o := compute(t, s)
	_, ok = o.ScaleOf(0)
	assert.False(t, ok)
	assert.NotEqual(t, o.Results[0].Standing.Parts[0].Score, o.Results[1].Standing.Parts[0].Score)
	s.Criteria[0].Best, s.Criteria[0].Worst = money.Units(700), money.Units(900)
	scale, _ = compute(t, s).ScaleOf(0)
	assert.Contains(t, scale.Says, "All score 9 here")
	s.Criteria[0].Best, s.Criteria[0].Worst = 0, 0
	scale, _ = compute(t, s).ScaleOf(0)
	assert.Contains(t, scale.Says, "Say what cost scores 9, and what 0.")
	_, ok = compute(t, s).ScaleOf(1)
	assert.False(t, ok, "it is rated by people")
}

func TestWhenWhatIsPaidForLifeBreaksEvenIsSaid(t *testing.T) {
	s := of(option("A", 9999, 10))
	p := &s.Options[0].Edition.Plans[0]
	p.Terms = append(p.Terms, pricelist.Term{Key: "life", Months: pricelist.Lifetime, Paid: pricelist.Upfront}, pricelist.Term{Key: "yearly", Months: 12, Paid: pricelist.Upfront})
	p.Charges[0].Bands[0].Price.ByKey = map[string]money.Amount{"life": money.Units(55), "yearly": money.Units(4)}
	s.Pay, s.Horizon, s.Drivers[0].Path.Growth = projection.Mix, 24, 0
	o := compute(t, s)
	assert.Equal(t, "Paid once for life, A breaks even with paying monthly in Jun 2027 (month 6) and with paying yearly in Jan 2028 (month 13).", o.SayRepays(&o.Results[0].Tools[0]).String())
	s.Horizon = 12
	o = compute(t, s)
	assert.Nil(t, o.SayRepays(&o.Results[0].Tools[0]), "a year is cheaper")
}

// A scale that is the wrong way round is at fault: that is why it is too early, and no other scale is
// offered beside it.
func TestAScaleTheWrongWayRoundIsWhyItIsTooEarly(t *testing.T) {
	s := of(option("A", 9999, 10), option("B", 9999, 11))
	rate(s, "A", 10)
	rate(s, "B", 10)
	s.Criteria[0].Best, s.Criteria[0].Worst = money.Units(9), money.Units(1)
	o := study.Compute(s)
	assert.NotEmpty(t, o.Faults)
	_, said := o.ScaleOf(0)
	assert.False(t, said)
	assert.Equal(t, "It is too early to pick: the scale of cost is to be mended, and A (2.5–7.0) and B (2.5–7.0) could come first.", o.SayVerdict().String())
}

func TestCoverageWithoutNeedsIsWhyItIsTooEarly(t *testing.T) {
	s := of(option("A", 9999, 10), option("B", 9999, 11))
	s.Criteria = append(s.Criteria, fit.Criterion{ID: "has", Name: "100% of *it*", Source: fit.Coverage, Weight: 500_000})
	rate(s, "A", 10)
	rate(s, "B", 10)
	assert.Contains(t, study.Compute(s).SayVerdict().String(), "It is too early to pick: 100% of *it* has no needs to go by, and A (")
}
