package pricelist

import (
	"testing"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
)

func compared() *Edition {
	price := func(n int64) Price { return Price{Usual: money.Units(n)} }
	return &Edition{Currency: money.MustCurrency("EUR"), Meters: []Meter{{Key: "contacts", Unit: "contact", Kind: usage.Stock}, {Key: "seats", Unit: "seat", Kind: usage.Stock}},
		Plans: []Plan{{Key: "sprig", Name: "Sprig", Offered: Public, Terms: []Term{{Key: "monthly", Months: 1}, {Key: "yearly", Months: 12, Off: money.Whole / 5}},
			Charges: []Charge{{Key: "base", Label: "Contacts", Kind: Stair, Meter: "contacts", Bands: []Band{{To: usage.Of(500), Price: price(9)}, {To: usage.Of(2500), Price: price(19)}}},
				{Key: "seats", Label: "Seats", Kind: Unit, Meter: "seats", Included: usage.Of(2), AtLeast: usage.Of(1), Price: price(5)}},
			Limits:   []Limit{{Meter: "contacts", Most: usage.Of(2500), Beyond: MoveUp}},
			Features: map[string]Feature{"automation/event-triggers": {Has: No}}}},
		AddOns: []AddOn{{Key: "texting", Name: "Texting", Plans: []string{"sprig"}, Charges: []Charge{{Key: "price", Label: "Texting", Kind: Flat, Price: price(10)}}}},
		Offers: []Offer{{Key: "spring", Name: "spring", Plans: []string{"sprig"}, Kind: PercentOff, Off: money.Whole / 2, Months: 3}}}
}

func TestALikeListHasNoDifferences(t *testing.T) {
	later := compared().Unchanged(time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC))
	assert.Empty(t, Compare(compared(), &later))
	assert.Equal(t, 2026, later.ObservedOn.Year())
}

func TestEachThingThatChangesIsTold(t *testing.T) {
	for name, one := range map[string]struct {
		change func(*Edition)
		want   Difference
	}{
		"a band rises": {func(e *Edition) { e.Plans[0].Charges[0].Bands[1].Price.Usual = money.Units(22) },
			Difference{Plan: "Sprig", What: "contacts up to 2,500", Was: "€19.00", Is: "€22.00", Turn: Dearer, Share: 3.0 / 19}},
		"a band falls": {func(e *Edition) { e.Plans[0].Charges[0].Bands[0].Price.Usual = money.Units(6) },
			Difference{Plan: "Sprig", What: "contacts up to 500", Was: "€9.00", Is: "€6.00", Turn: Cheaper, Share: -3.0 / 9}},
		"a price of a term comes": {func(e *Edition) {
			e.Plans[0].Charges[1].Price.ByKey = map[string]money.Amount{"yearly": money.Units(4)}
		},
			Difference{Plan: "Sprig", What: "seats, yearly", Is: "€4.00", Turn: Added}},
		"less is included": {func(e *Edition) { e.Plans[0].Charges[1].Included = usage.Of(1) },
			Difference{Plan: "Sprig", What: "seats included", Was: "2", Is: "1", Turn: Less}},
		"more are billed at least": {func(e *Edition) { e.Plans[0].Charges[1].AtLeast = usage.Of(3) },
			Difference{Plan: "Sprig", What: "seats, least that is billed", Was: "1", Is: "3", Turn: Less}},
		"a limit falls": {func(e *Edition) { e.Plans[0].Limits[0].Most = usage.Of(2000) },
			Difference{Plan: "Sprig", What: "limit on contacts", Was: "2,500", Is: "2,000", Turn: Less}},
		"a limit goes": {func(e *Edition) { e.Plans[0].Limits = nil },
			Difference{Plan: "Sprig", What: "limit on contacts", Was: "2,500", Turn: Gone}},
		"a feature comes": {func(e *Edition) { e.Plans[0].Features = map[string]Feature{"automation/event-triggers": {Has: Yes}} },
			Difference{Plan: "Sprig", What: "event triggers", Was: "no", Is: "yes", Turn: More, Feature: "automation/event-triggers"}},
		"a plan goes":     {func(e *Edition) { e.Plans = nil }, Difference{Plan: "Sprig", What: "plan", Was: "there", Turn: Gone}},
		"an add-on rises": {func(e *Edition) { e.AddOns[0].Charges[0].Price.Usual = money.Units(12) }, Difference{Plan: "Texting", What: "texting", Was: "€10.00", Is: "€12.00", Turn: Dearer, Share: 0.2}},
		"an offer goes":   {func(e *Edition) { e.Offers = nil }, Difference{What: "offer", Was: "spring, 3 months", Turn: Gone}},
		"the tax":         {func(e *Edition) { e.Tax = Tax{Included: true, Rate: money.Whole / 5} }, Difference{What: "tax", Was: "not included", Is: "included, 20%", Turn: Altered}},
		"beyond the bands": {func(e *Edition) { e.Plans[0].Charges[0].Above = &Above{Price: Price{Usual: money.Units(1)}, Each: 100} },
			Difference{Plan: "Sprig", What: "contacts, beyond the bands", Is: "€1.00", Turn: Added}},
	} {
		t.Run(name, func(t *testing.T) {
			before, after := compared(), compared()
			one.change(after)
			assert.Equal(t, []Difference{one.want}, Compare(before, after))
			// And back: as many differences, none of them the same.
			assert.Len(t, Compare(after, before), 1)
		})
	}
}
