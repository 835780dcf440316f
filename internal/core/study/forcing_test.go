package study_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// features are what random tools have or have not.
var features = []string{"a/1", "a/2", "a/3", "a/4"}

// anyTool is a tool of up to three plans with features, add-ons and bridges at random, in one of two
// currencies.
func anyTool(r *rand.Rand, n int, ways ...pricelist.Has) study.Tool {
	var plans []has
	var prices []int64
	for p := range 1 + r.IntN(3) {
		of := has{}
		for _, f := range features {
			of[f] = ways[r.IntN(len(ways))]
		}
		plans, prices = append(plans, of), append(prices, int64(r.IntN(30)+10*p))
	}
	t := costing(flat(fmt.Sprintf("t%d", n), plans...), prices...)
	if r.IntN(2) == 0 {
		t.Edition.Currency = money.MustCurrency("USD")
	}
	for p := range t.Edition.Plans {
		t.Edition.Plans[p].Terms = append(t.Edition.Plans[p].Terms, pricelist.Term{Key: "yearly", Months: 12, Paid: pricelist.Upfront, Off: 130_000})
		for key, f := range t.Edition.Plans[p].Features {
			if f.Has == pricelist.Bridge {
				f.Uses = pricelist.Uses{Driver: "tasks", Amount: "contacts"}
			}
			f.Direct = f.Has != pricelist.AsAddOn
			t.Edition.Plans[p].Features[key] = f
		}
	}
	for _, f := range features {
		a := pricelist.AddOn{Key: f[2:], Name: "More " + f[2:], Gives: []string{f}, Charges: []pricelist.Charge{{Key: "fee", Kind: pricelist.Flat, Price: pricelist.Price{Usual: money.Units(int64(3 + r.IntN(9)))}}}}
		for p := range t.Edition.Plans {
			a.Plans = append(a.Plans, t.Edition.Plans[p].Key)
		}
		t.Edition.AddOns = append(t.Edition.AddOns, a)
	}
	return t
}

var ofUSD = map[string]quote.Rate{"USD": {Rate: 913_700}}

// What a must costs an option is what the whole option costs less a month in a study that does not
// need it: another tool of a stack may bring the others then.
func TestWhatAMustCostsIsWhatTheWholeOptionCostsLessWithoutIt(t *testing.T) {
	r := rand.New(rand.NewPCG(24, 14))
	alone, stacked, dearer := 0, 0, 0
	for i := range 1200 {
		option := study.Option{Key: "x", Name: "x", Tool: anyTool(r, 0, "yes", "no", "add-on", "bridge")}
		if r.IntN(2) == 0 {
			option = stackOf("x", option.Tool, anyTool(r, 1, "yes", "no", "no", "add-on"))
		}
		s := musts(of(option), features[:1+r.IntN(4)]...)
		s.Pay = []projection.Policy{projection.Monthly, projection.Yearly, projection.Mix, projection.Fixed}[r.IntN(4)]
		s.Rates, s.Connector = ofUSD, study.Connector{Price: money.Units(int64(1 + r.IntN(9))), Each: 100}
		got := &compute(t, s).Results[0]
		if !got.In() {
			continue
		}
		for n := range s.Needs {
			at := slices.IndexFunc(got.Forced(), func(f study.Force) bool { return f.Need == n })
			less := *s
			less.Needs = slices.Delete(slices.Clone(s.Needs), n, n+1)
			then := &compute(t, &less).Results[0]
			lower := -1
			for k, part := range then.Schedule.Months[0].Parts() {
				if lower < 0 && part.Program.Rank < got.Schedule.Months[0].Parts()[k].Program.Rank {
					lower = k
				}
			}
			if at < 0 {
				require.Negative(t, lower, "case %d, need %d: %s without, %s with", i, n, then.Takes(), got.Takes())
				continue
			}
			f := got.Forced()[at]
			require.Equal(t, study.Force{Need: n, Tool: lower, Without: f.Without, Saves: max(0, got.Monthly(0)-then.Monthly(0))}, f, "case %d", i)
			require.Equal(t, then.Schedule.Months[0].Parts()[lower].Plan().Key, f.Without.Key)
			if option.Stack() {
				stacked++
			} else {
				alone++
			}
			if f.Saves > 0 {
				dearer++
			}
		}
	}
	assert.Greater(t, alone, 50)
	assert.Greater(t, stacked, 30)
	assert.Greater(t, dearer, 50)
}

// The cheapest stack costs what it does as an option, rounded and converted once for each of its bills,
// and no other set of plans costs less than by the cents of rounding.
func TestTheCheapestStackCostsWhatItDoesInTheLineUp(t *testing.T) {
	r := rand.New(rand.NewPCG(24, 15))
	compared, several := 0, 0
	for i := range 150 {
		var options []study.Option
		for n := range 3 {
			tool := anyTool(r, n, "yes", "no", "no", "add-on", "add-on")
			options = append(options, study.Option{Key: tool.Key, Name: tool.Key, Tool: tool})
		}
		s := musts(of(options...), features[:1+r.IntN(4)]...)
		s.Rates = ofUSD
		best, err := compute(t, s).BestStack()
		require.NoError(t, err)
		if len(best.Tools) == 0 {
			continue
		}
		whole := *s
		whole.Options = []study.Option{{Key: "s", Name: "s", Tool: best.Tools[0], With: best.Tools[1:]}}
		got := &compute(t, &whole).Results[0]
		require.True(t, got.In(), "case %d", i)
		require.Equal(t, got.Monthly(0), best.Month, "case %d: %s", i, got.Takes())
		compared++
		if len(best.Tools) > 1 {
			several++
		}
	}
	assert.Greater(t, compared, 80)
	assert.Greater(t, several, 10)
}

// A must of which it is not known whether a plan meets it hides nothing: the plan is taken, so its terms,
// its price and its next step are shown.
func TestAMustNotYetKnownHidesNoPrice(t *testing.T) {
	tool := costing(flat("t", has{"a/1": "unknown"}, has{"a/1": "unknown"}), 10, 30)
	for p := range tool.Edition.Plans {
		tool.Edition.Plans[p].Terms = append(tool.Edition.Plans[p].Terms, pricelist.Term{Key: "yearly", Months: 12, Paid: pricelist.Upfront, Off: 200_000})
	}
	s := musts(of(study.Option{Key: "t", Name: "T", Tool: tool}), "a/1")
	o := compute(t, s)
	ways := o.Terms(&o.Results[0], 0)
	require.Len(t, ways, 2)
	assert.Equal(t, money.Units(8), ways[1].Monthly)
	for _, b := range o.Baskets() {
		assert.True(t, b.Receipt.May())
		assert.Contains(t, b.Uneven, "a/1 not yet known")
	}
	tool.Edition.Plans[1].Features["a/1"] = pricelist.Feature{Has: pricelist.No, Direct: true}
	o = compute(t, musts(of(study.Option{Key: "t", Name: "T", Tool: tool}), "a/1"))
	assert.Equal(t, coverage.Open, o.Results[0].Coverage[0].Answer)
	assert.False(t, o.Baskets()[2].Receipt.May())
}
