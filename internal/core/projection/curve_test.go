package projection

import (
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A curve says at each value what pricing that value says, over mixes of charges.
func TestCurvesAgreeWithPricesAtEachValue(t *testing.T) {
	eur := money.MustCurrency("EUR")
	counts, err := usage.ParseFormula("contacts * 1.1")
	require.NoError(t, err)
	plain, err := usage.ParseFormula("contacts")
	require.NoError(t, err)
	price := func(units int64) pricelist.Price { return pricelist.Price{Usual: money.Units(units)} }
	monthly := []pricelist.Term{{Key: "monthly", Months: 1}, {Key: "yearly", Months: 12, Paid: pricelist.Upfront, Off: money.Whole / 5}}
	e := &pricelist.Edition{Currency: eur, Meters: []pricelist.Meter{{Key: "contacts", Unit: "contact", Kind: usage.Stock, Counts: counts}, {Key: "plain", Unit: "person", Kind: usage.Stock, Counts: plain}},
		Plans: []pricelist.Plan{
			{Key: "stair", Terms: monthly, Charges: []pricelist.Charge{{Key: "a", Kind: pricelist.Stair, Meter: "contacts",
				Bands: []pricelist.Band{{To: usage.Of(100), Price: price(9)}, {To: usage.Of(300), Price: price(19)}}, Above: &pricelist.Above{Price: price(3), Each: 10}}}},
			{Key: "packs", Terms: monthly, Charges: []pricelist.Charge{{Key: "a", Kind: pricelist.Flat, Price: price(5)},
				{Key: "b", Kind: pricelist.Pack, Meter: "plain", Included: usage.Of(150), Size: usage.Of(75), Price: price(4)}}, Limits: []pricelist.Limit{{Meter: "plain", Most: usage.Of(700), Beyond: pricelist.MoveUp}}},
			{Key: "graduated", Terms: monthly, Charges: []pricelist.Charge{{Key: "a", Kind: pricelist.Graduated, Meter: "contacts", Each: 1,
				Bands: []pricelist.Band{{To: usage.Of(200), Price: pricelist.Price{Usual: 70_000}}, {Open: true, Price: pricelist.Price{Usual: 30_000}}}}}},
		}}
	require.Empty(t, e.Check())
	read := func(x int64) []int64 {
		return tariff.Row(e, quote.Readings{"contacts": usage.Quantity(float64(x) * 1.1 * float64(usage.One)).Ceil(), "plain": usage.Of(x)})
	}
	deal := tariff.Deal{Basis: quote.Basis{Currency: eur}}
	for _, months := range []int{1, 12} {
		curves, err := Curves(e, deal, months, read, 0, 1000)
		require.NoError(t, err)
		require.Len(t, curves, 3)
		programs, err := tariff.All(e, deal)
		require.NoError(t, err)
		for i := range curves {
			c := &curves[i]
			assert.False(t, c.Cut)
			for _, p := range programs {
				if p.Plan != c.Plan || p.Term.Months != months {
					continue
				}
				for x := int64(0); x <= 1000; x++ {
					want := p.Explain(LongSince, 0, read(x))
					got, serves := c.At(x)
					require.Equal(t, want.Serves(), serves, "%s at %d", c.Plan.Key, x)
					if serves {
						// A cent, by rounding between turns; and what one contact costs (0.30), as the meter counts whole ones.
						assert.InDelta(t, float64(want.Monthly()), float64(got), 310_000, "%s at %d", c.Plan.Key, x)
					}
				}
			}
		}
	}
}
