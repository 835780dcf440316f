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
