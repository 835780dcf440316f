package study_test

import (
	"context"
	"math/rand/v2"
	"slices"
	"testing"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/require"
)

// Over lists of three plans with bands, of which some may meet a must that is not known:
// the first value at which the price that lines along the driver show is another is the
// step that is told, with what it costs and the plan that it leads to; and the lines stay
// on plans that are known to do as long as one serves, as a schedule does.
func TestHeadroomEndsWhereTheLineSteps(t *testing.T) {
	r := rand.New(rand.NewPCG(24, 5))
	steps, may := 0, 0
	for n := range 300 {
		bands := func(most int64) []int64 {
			var pairs []int64
			for to := 60 + r.Int64N(300); ; to += 50 + r.Int64N(900) {
				pairs = append(pairs, min(to, most), r.Int64N(40))
				if to >= most {
					return pairs
				}
			}
		}
		a := option("A", bands(400+r.Int64N(1000))...)
		plans := &a.Edition.Plans
		for k, name := range []string{"Second", "Third"} {
			p := option("x", bands(500+r.Int64N(2500))...).Edition.Plans[0]
			p.Key, p.Name = name, name
			has := []pricelist.Has{pricelist.Yes, pricelist.Unknown}[r.IntN(2)]
			p.Features = map[string]pricelist.Feature{"a/must": {Has: has}}
			*plans = append(*plans, p)
			(*plans)[0].Features["a/must"] = pricelist.Feature{Has: []pricelist.Has{pricelist.Yes, pricelist.Unknown}[k%2]}
		}
		s := of(a)
		s.Needs = []coverage.Need{{ID: "a/must", Feature: "a/must", Name: "forms", Level: coverage.Must}}
		o := compute(t, s)
		if !o.Results[0].Schedule.Months[0].Serves {
			continue
		}
		contacts, ok := o.Axis("contacts")
		require.True(t, ok)
		var xs []int64
		for x := int64(100); x < 5000; x++ {
			xs = append(xs, x)
		}
		prices, names, err := o.PricesAt(context.Background(), 0, contacts, 0, xs)
		require.NoError(t, err)
		if o.Results[0].Schedule.Months[0].Plan().Name != names[0] { // another of the same price
			require.Equal(t, o.Results[0].Schedule.Months[0].Accrued, *prices[0], "list %d", n)
			continue
		}
		for k, name := range names {
			for _, p := range *plans {
				if p.Name != name || p.Features["a/must"].Has == pricelist.Yes {
					continue
				}
				may++
				for _, other := range *plans { // none that is known to do serves there
					last := other.Charges[0].Bands[len(other.Charges[0].Bands)-1]
					require.False(t, other.Features["a/must"].Has == pricelist.Yes && last.To >= usage.Of(xs[k]), "list %d at %d", n, xs[k])
				}
			}
		}
		all, err := o.Headroom(context.Background(), 0)
		require.NoError(t, err)
		at := 1
		for ; at < len(xs) && (prices[at] == nil) == (prices[at-1] == nil) && (prices[at] == nil || *prices[at] == *prices[at-1]); at++ {
		}
		require.Len(t, all, 1, "list %d", n)
		h := &all[0]
		for at < len(xs) && h.Until+1 < xs[at] { // a band of the same price, or another plan at the same
			require.True(t, h.Serves && h.Delta == 0, "list %d: %+v", n, h)
			at = len(xs)
		}
		if at == len(xs) {
			continue
		}
		require.Equal(t, xs[at], h.Until+1, "list %d: %+v", n, h)
		require.Equal(t, int64(100), h.Now)
		require.Equal(t, h.Until-100, h.Left)
		comes := slices.IndexFunc(o.Values.Of("contacts"), func(v float64) bool { return int64(v) > h.Until })
		require.Equal(t, comes, h.Month, "as the driver comes there, the others held")
		if require.Equal(t, prices[at] != nil, h.Serves); h.Serves {
			require.Equal(t, *prices[at]-*prices[at-1], h.Delta, "list %d: %+v", n, h)
			steps++
			continue
		}
		require.Equal(t, money.Amount(0), h.Delta)
	}
	require.Greater(t, steps, 60)
	require.Greater(t, may, 100)
}

// All tools of a stack go along with the driver that they share.
func TestHeadroomOfAStackMovesAllItsMeters(t *testing.T) {
	a := option("A", 300, 10, 9999, 30)
	beside := option("B", 180, 5, 9999, 9).Tool
	beside.Key = "beside"
	a.With = []study.Tool{beside}
	o := compute(t, of(a))
	all, err := o.Headroom(context.Background(), 0)
	require.NoError(t, err)
	require.Len(t, all, 1)
	require.Equal(t, int64(180), all[0].Until)
	require.Equal(t, money.Units(4), all[0].Delta)
	require.Equal(t, 1, all[0].Tool)
}
