package tariff_test

import (
	"cmp"
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestCrossingsAreWhereTheOrderOfRoundedPricesChanges prices every reading in a
// range on two plans, and holds the changes of order against those found.
func TestCrossingsAreWhereTheOrderOfRoundedPricesChanges(t *testing.T) {
	r := random{rand.New(rand.NewPCG(7, 25))}
	found := 0
	for n := range 400 {
		e, d := r.edition()
		other, _ := r.edition()
		e.AddOns, e.Offers, d.Musts = nil, nil, nil
		high := other.Plans[0]
		high.Key = "high"
		if n%2 == 0 { // two that run close to each other and cross, to and fro by cents
			r.near(e, &e.Plans[0], &high)
		}
		e.Plans = append(e.Plans, high)
		meter := r.IntN(2) * (n % 2)
		var along [2]*tariff.Along
		q := r.readings(e)
		for m := range q {
			q[m] %= 4_000
		}
		for i := range along {
			p := &e.Plans[i]
			for j := range p.Charges {
				p.Charges[j].Optional = p.Charges[j].Kind == pricelist.Once
			}
			all, err := tariff.Compile(e, p, p.Terms[0], d)
			require.NoError(t, err)
			along[i] = &tariff.Along{Program: all[0], Since: 1, Meter: meter, At: q}
		}
		from := r.Int64N(3_000)
		const span = 1_500
		want := walked(along[0], along[1], from, span)
		require.Equal(t, want, tariff.Crossings(along[0], along[1], from, from+span), "case %d", n)
		found += len(want)
	}
	assert.Greater(t, found, 300)
}

// near makes two plans cost almost the same, by the unit, so that their prices cross
// to and fro by cents.
func (r random) near(e *pricelist.Edition, low, high *pricelist.Plan) {
	dear, off := money.Amount(20_000+r.Int64N(40_000)), money.Amount(r.Int64N(300))
	unit := func(price money.Amount) pricelist.Charge {
		return pricelist.Charge{Key: "u", Kind: pricelist.Unit, Meter: e.Meters[0].Key, Each: 7, Price: pricelist.Price{Usual: price}}
	}
	low.Charges, low.Limits = []pricelist.Charge{unit(dear)}, nil
	high.Charges, high.Limits = []pricelist.Charge{unit(dear - off), {Key: "f", Kind: pricelist.Flat, Price: pricelist.Price{Usual: off * money.Amount(r.Int64N(600))}}}, nil
}

// walked finds the crossings of two prices by looking at each one in a range.
func walked(a, b interface{ Price(int64) (int64, bool) }, from, span int64) (all []tariff.Crossing) {
	order := func(x int64) tariff.Order {
		p, ok := a.Price(x)
		q, served := b.Price(x)
		if !ok {
			p = tariff.Never
		}
		if !served {
			q = tariff.Never
		}
		return tariff.Order(cmp.Compare(p, q))
	}
	for x := from + 1; x <= from+span; x++ {
		if before, after := order(x-1), order(x); before != after {
			all = append(all, tariff.Crossing{At: x, Before: before, After: after})
		}
	}
	return all
}
