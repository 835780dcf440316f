package pricelist_test

import (
	"fmt"
	"testing"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
)

// sound is a list without faults, for tests to spoil.
func sound() *pricelist.Edition {
	return &pricelist.Edition{
		ObservedOn: time.Date(2026, 10, 2, 0, 0, 0, 0, time.UTC),
		Meters:     []pricelist.Meter{{Key: "contacts", Unit: "contact", Kind: usage.Stock}},
		Plans: []pricelist.Plan{
			{Key: "low", Offered: pricelist.Public, Terms: []pricelist.Term{{Key: "monthly", Months: 1}},
				Charges:  []pricelist.Charge{{Key: "base", Kind: pricelist.Stair, Meter: "contacts", Bands: []pricelist.Band{{To: usage.Of(10)}, {To: usage.Of(20)}}}},
				Features: map[string]pricelist.Feature{"a/b": {Has: pricelist.Yes, Direct: true}, "a/c": {Has: pricelist.No, Direct: true}}},
			{Key: "high", Offered: pricelist.Public, Includes: "low", Terms: []pricelist.Term{{Key: "monthly", Months: 1}},
				Charges:  []pricelist.Charge{{Key: "base", Kind: pricelist.Flat}},
				Features: map[string]pricelist.Feature{"a/c": {Has: pricelist.AsAddOn, AddOn: "extra", Direct: true}}},
		},
		AddOns: []pricelist.AddOn{{Key: "extra", Plans: []string{"high"}, Gives: []string{"a/c"}}},
		Offers: []pricelist.Offer{{Key: "hello", Plans: []string{"low"}, Terms: []string{"monthly"}, Kind: pricelist.PercentOff}},
	}
}

func TestASoundListHasNoFaults(t *testing.T) {
	e := sound()
	assert.Empty(t, e.Inherit())
	assert.Empty(t, e.Check())
	high, ok := e.Plan("high")
	assert.True(t, ok)
	assert.Equal(t, pricelist.Yes, high.Feature("a/b").Has, "taken over from the plan it includes")
	assert.False(t, high.Feature("a/b").Direct)
	assert.Equal(t, pricelist.AsAddOn, high.Feature("a/c").Has, "its own word counts")
	assert.Equal(t, pricelist.Unknown, high.Feature("a/d").Has, "what is not told is not known")
}

func TestEachFaultHasItsPlace(t *testing.T) {
	for want, spoil := range map[string]func(e *pricelist.Edition){
		"plans: a list needs at least one plan":                                           func(e *pricelist.Edition) { e.Plans, e.AddOns, e.Offers = nil, nil, nil },
		`meters[1].key: "contacts" is the key of meters[0] already`:                       func(e *pricelist.Edition) { e.Meters = append(e.Meters, e.Meters[0]) },
		`plans[0].terms: plan "low" needs at least one term`:                              func(e *pricelist.Edition) { e.Plans[0].Terms = nil; e.Offers = nil },
		`plans[1].charges: plan "high" has no charge; a free plan has a flat charge of 0`: func(e *pricelist.Edition) { e.Plans[1].Charges = nil },
		`plans[0].charges[0].meter: there is no meter "sends"`:                            func(e *pricelist.Edition) { e.Plans[0].Charges[0].Meter = "sends" },
		"plans[0].charges[0].bands[1].to: band 2 ends at 10, not above band 1, which ends at 10": func(e *pricelist.Edition) {
			e.Plans[0].Charges[0].Bands[1].To = usage.Of(10)
		},
		`add_ons[0].charges[0].inclded: is neither a field of a charge nor a term it is sold on`: func(e *pricelist.Edition) {
			e.AddOns[0].Charges = []pricelist.Charge{{Key: "fee", Kind: pricelist.Flat, Price: pricelist.Price{ByKey: map[string]money.Amount{"inclded": 2}}}}
		},
		`add_ons[0].raises[0].meter: there is no meter "sends"`:            func(e *pricelist.Edition) { e.AddOns[0].Raises = []pricelist.Raise{{Meter: "sends"}} },
		`add_ons[0].plans[0]: plan "high" holds it already`:                func(e *pricelist.Edition) { e.AddOns[0].IncludedOn = []string{"high"} },
		`plans[1].charges[0].waived_on[0]: there is no term "weekly" here`: func(e *pricelist.Edition) { e.Plans[1].Charges[0].WaivedOn = []string{"weekly"} },
		`plans[1].charges[0].cap: the most, 1, is below the least, 2`: func(e *pricelist.Edition) {
			e.Plans[1].Charges[0].Floor, e.Plans[1].Charges[0].Cap = money.Units(2), money.Units(1)
		},
		`plans[0].terms[0].paid: a lifetime is paid once, not monthly`: func(e *pricelist.Edition) {
			e.Plans[0].Terms[0].Months, e.Plans[0].Terms[0].Paid = pricelist.Lifetime, pricelist.Monthly
		},
		`plans[0].terms[0].off: a lifetime is no share off a month`: func(e *pricelist.Edition) {
			e.Plans[0].Terms[0].Months, e.Plans[0].Terms[0].Off = pricelist.Lifetime, 1
		},
		"plans[0].charges[0].bands[0].weekly: is neither a field of a charge nor a term it is sold on": func(e *pricelist.Edition) {
			e.Plans[0].Charges[0].Bands[0].Price.ByKey = map[string]money.Amount{"weekly": 1}
		},
		`plans[1].features.a/c.add_on: add-on "extra" cannot be bought on plan "high"`: func(e *pricelist.Edition) { e.AddOns[0].Plans = []string{"low"} },
		`plans[1].features.a/c.add_on: add-on "extra" does not give "a/c"`:             func(e *pricelist.Edition) { e.AddOns[0].Gives = nil },
		`add_ons[0].plans[1]: there is no plan "top"`:                                  func(e *pricelist.Edition) { e.AddOns[0].Plans = []string{"high", "top"} },
		`offers[0].terms[0]: no plan has a term "weekly"`:                              func(e *pricelist.Edition) { e.Offers[0].Terms = []string{"weekly"} },
		`plans[1].includes: plan "top" must stand before plan "high"`:                  func(e *pricelist.Edition) { e.Plans[1].Includes = "top" },
		`plans[0].includes: plan "high" must stand before plan "low"`:                  func(e *pricelist.Edition) { e.Plans[0].Includes = "high" },
		`plans[0].limits[0].meter: there is no meter "sends"`:                          func(e *pricelist.Edition) { e.Plans[0].Limits = []pricelist.Limit{{Meter: "sends"}} },
	} {
		e := sound()
		spoil(e)
		faults := append(e.Inherit(), e.Check()...)
		if assert.Len(t, faults, 1, want) {
			assert.Contains(t, faults[0].String(), want)
		}
	}
}

// TestAnAddOnIsTakenOverOnlyWhereItIsSold looks at a plan that builds on one with an
// add-on which is sold on that one, on both, or a part of the higher one.
func TestAnAddOnIsTakenOverOnlyWhereItIsSold(t *testing.T) {
	for has, spoil := range map[pricelist.Has]func(a *pricelist.AddOn){
		pricelist.Unknown: func(*pricelist.AddOn) {},
		pricelist.AsAddOn: func(a *pricelist.AddOn) { a.Plans = []string{"low", "high"} },
		pricelist.Yes:     func(a *pricelist.AddOn) { a.IncludedOn = []string{"high"} },
	} {
		e := sound()
		e.AddOns = append(e.AddOns, pricelist.AddOn{Key: "more", Plans: []string{"low"}, Gives: []string{"a/e"}})
		spoil(&e.AddOns[1])
		e.Plans[0].Features["a/e"] = pricelist.Feature{Has: pricelist.AsAddOn, AddOn: "more", Direct: true}
		assert.Empty(t, e.Inherit())
		assert.Empty(t, e.Check())
		assert.Equal(t, has, e.Plans[1].Feature("a/e").Has)
	}
}

func TestPlansOnRequestNeedNeitherTermsNorCharges(t *testing.T) {
	e := sound()
	e.Plans = append(e.Plans, pricelist.Plan{Key: "top", Offered: pricelist.OnRequest})
	assert.Empty(t, e.Check())
}

func TestAListGetsOlderByTheDay(t *testing.T) {
	e := sound()
	assert.Zero(t, e.DaysOld(e.ObservedOn))
	assert.Equal(t, 53, e.DaysOld(time.Date(2026, 11, 24, 0, 0, 0, 0, time.UTC)))
}

func ExamplePrice_For() {
	p := pricelist.Price{Usual: money.Units(12), ByKey: map[string]money.Amount{"yearly": money.Units(10)}}
	for _, term := range []pricelist.Term{{Key: "monthly"}, {Key: "yearly", Off: 150_000}, {Key: "two-years", Off: 300_000}} {
		price, off := p.For(term)
		fmt.Println(term.Key, price, off)
	}
	// Output:
	// monthly 12 0%
	// yearly 10 0%
	// two-years 12 30%
}

// TestPlansAreKnownByTheirNames where they are typed into a list.
func TestPlansAreKnownByTheirNames(t *testing.T) {
	at, other := document.Path("offers.spring.plans"), document.Path("offers.spring.terms")
	e := pricelist.Edition{Plans: []pricelist.Plan{{Key: "low", Name: "Low"}, {Key: "high", Name: "Top of all"}, {Key: "third", Name: "high"}}}
	for _, one := range []struct {
		at                document.Path
		text, want, wrong string
	}{
		{at, "low ,TOP OF ALL", "low, high", ""},
		{at, "high", "high", ""}, // a key before a name
		{document.Path("add_ons.texts.included_on"), "Low", "low", ""},
		{at, "low, none such", "low, none such", "there is no plan “none such”"},
		{at, "", "", ""},
		{other, "Low", "Low", ""},
		{document.Path("add_ons.texts.name"), "Low", "Low", ""},
	} {
		keys, err := e.ByKey(one.at, one.text)
		assert.Equal(t, one.want, keys)
		if one.wrong == "" {
			assert.NoError(t, err)
		} else {
			assert.EqualError(t, err, one.wrong)
		}
	}
}
