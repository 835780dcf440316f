package pricelist_test

import (
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"

	"github.com/stretchr/testify/assert"
)

// What may be published empty is told by plan; what a plan has through another is no gap.
func TestGapsTellWhatIsPublishedEmpty(t *testing.T) {
	e := &pricelist.Edition{}
	assert.Equal(t, []string{"It is not said where the prices were read."}, e.Gaps())
	yes := pricelist.Feature{Has: pricelist.Yes}
	flat := []pricelist.Charge{{Key: "base", Kind: pricelist.Flat, Price: pricelist.Price{Usual: money.Units(9)}}}
	e = &pricelist.Edition{Source: "their page", Meters: []pricelist.Meter{{Key: "contacts"}, {Key: "seats"}}, Plans: []pricelist.Plan{
		{Key: "a", Name: "A", Offered: pricelist.Public, Features: map[string]pricelist.Feature{"x/one": yes}, Limits: []pricelist.Limit{{Meter: "contacts", Unlimited: true}, {Meter: "seats", Most: 2}}},
		{Key: "b", Name: "B", Offered: pricelist.Public, Includes: "a", Charges: flat, Features: map[string]pricelist.Feature{"x/two": yes}},
		{Key: "c", Name: "C", Offered: pricelist.OnRequest},
		{Key: "d", Name: "D", Offered: pricelist.Closed}}}
	assert.Equal(t, []string{"A has no price: it counts as free.", "1 of 2 features is not known of A.", "B neither bills nor limits contacts, seats: counted as unlimited.",
		"Nothing is said of what C has."}, e.Gaps())
	e.Plans = e.Plans[1:2]
	e.Plans[0].Includes, e.Plans[0].Features, e.Meters = "", nil, nil
	assert.Equal(t, []string{"Nothing is said of what any plan has: every need will be a question.",
		"Nothing that is used is billed or limited: prices stay as they are however much is used."}, e.Gaps())
}

// A month's price is not the one for life: a plan that is sold for life says what that costs.
func TestAPriceForLifeIsStated(t *testing.T) {
	p := pricelist.Plan{Key: "a", Name: "A", Offered: pricelist.Public, Terms: []pricelist.Term{{Key: "lifetime", Months: pricelist.Lifetime}},
		Charges: []pricelist.Charge{{Key: "base", Kind: pricelist.Flat, Price: pricelist.Price{Usual: money.Units(25)}}}}
	e := pricelist.Edition{Source: "x", Plans: []pricelist.Plan{p}}
	assert.Contains(t, e.Gaps(), "A is sold for life, and no charge says what it costs then: it is not priced so.")
	e.Plans[0].Charges[0].Price.ByKey = map[string]money.Amount{"lifetime": money.Units(300)}
	assert.NotContains(t, e.Gaps(), "A is sold for life, and no charge says what it costs then: it is not priced so.")
	e.Plans[0].Charges = []pricelist.Charge{{Key: "tasks", Kind: pricelist.Unit, Meter: "tasks", Price: pricelist.Price{Usual: money.Units(1)}}}
	assert.True(t, e.Plans[0].StatesForLife("lifetime"), "it asks for what is used alone")
}
