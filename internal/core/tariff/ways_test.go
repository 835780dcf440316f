package tariff_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// overlapping is a list of one plan with add-ons that overlap in what they bring.
func overlapping(r *rand.Rand, addOns, musts int) (*pricelist.Edition, []string) {
	eur, _ := money.ParseCurrency("EUR")
	e := &pricelist.Edition{Currency: eur}
	price := func(most int) pricelist.Price { return pricelist.Price{Usual: money.Amount(r.IntN(most)) * 10_000} }
	e.Plans = []pricelist.Plan{{Key: "one", Name: "One", Offered: pricelist.Public, Features: map[string]pricelist.Feature{},
		Terms:   []pricelist.Term{{Key: "monthly", Months: 1}, {Key: "yearly", Months: 12, Paid: pricelist.Upfront, Off: money.Share(r.IntN(400_000))}},
		Charges: []pricelist.Charge{{Key: "base", Kind: pricelist.Flat, Price: price(9_000), Each: 1}}}}
	var keys []string
	for n := range musts {
		keys = append(keys, fmt.Sprintf("needed/f%d", n))
	}
	for i := range addOns {
		a := pricelist.AddOn{Key: fmt.Sprintf("a%d", i), Name: fmt.Sprintf("A%d", i), Plans: []string{"one"},
			Charges: []pricelist.Charge{{Key: "fee", Kind: pricelist.Flat, Price: price(4_000), Each: 1}}}
		for n := range musts {
			if r.IntN(3) == 0 {
				a.Gives = append(a.Gives, keys[n])
			}
		}
		e.AddOns = append(e.AddOns, a)
	}
	return e, keys
}

// Overlapping add-ons: the receipt is that of the cheapest subset, found by trying
// each.
func TestTheCheapestAddOnsAreTaken(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 1))
	served := 0
	for i := range 300 {
		e, musts := overlapping(r, 1+r.IntN(8), 1+r.IntN(6))
		d := tariff.Deal{Musts: musts, Basis: quote.Basis{Currency: e.Currency}}
		for _, term := range e.Plans[0].Terms {
			got, err := tariff.Quote(e, &e.Plans[0], term, d, 0, 0, nil)
			require.NoError(t, err)
			best, found := money.Amount(math.MaxInt64), false
			for subset := range 1 << len(e.AddOns) {
				bare, _ := tariff.Quote(e, &e.Plans[0], term, tariff.Deal{Basis: d.Basis}, 0, 0, nil)
				sum, has := bare.Bill, map[string]bool{}
				for at, a := range e.AddOns {
					if subset&(1<<at) == 0 {
						continue
					}
					alone := *e
					alone.AddOns = []pricelist.AddOn{a}
					one, err := tariff.Quote(&alone, &e.Plans[0], term, tariff.Deal{Musts: a.Gives, Basis: d.Basis}, 0, 0, nil)
					require.NoError(t, err)
					if len(a.Gives) > 0 {
						sum += one.Bill - bare.Bill
					}
					for _, f := range a.Gives {
						has[f] = true
					}
				}
				if !slices.ContainsFunc(musts, func(m string) bool { return !has[m] }) {
					best, found = min(best, sum), true
				}
			}
			require.Equal(t, found, len(got.Reasons) == 0, "case %d: %v", i, got.Reasons)
			if found {
				served++
				require.Equal(t, best, got.Bill, "case %d on %s", i, term.Key)
			}
		}
	}
	assert.Greater(t, served, 200)
}

// Forty add-ons of which each must has many: more sets than could be compared one by
// one.
func TestManyOverlappingAddOnsAreNoHindrance(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 1))
	e, musts := overlapping(r, 40, 12)
	got, err := tariff.Quote(e, &e.Plans[0], e.Plans[0].Terms[0], tariff.Deal{Musts: musts, Basis: quote.Basis{Currency: e.Currency}}, 0, 0, nil)
	require.NoError(t, err)
	assert.Empty(t, got.Reasons)
	assert.NotEmpty(t, got.AddOns)
}
