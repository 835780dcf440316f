package projection

import (
	"context"
	"fmt"
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// growing is usage of which contacts may grow slowly or fast.
func growing(t testing.TB, low, high money.Share) *usage.Model {
	contacts := usage.Path{Now: usage.Of(2000), Growth: 20_000}
	if low != 0 {
		contacts.Low.Growth = usage.Given[money.Share]{Value: low, Told: true}
		contacts.High.Growth = usage.Given[money.Share]{Value: high, Told: true}
	}
	m, err := usage.NewModel(nil, map[string]usage.Path{"contacts": contacts, "newsletters": {Now: usage.Of(4)}, "seats": {Now: usage.Of(3)}})
	require.NoError(t, err)
	return m
}

// simulated sets options against usage.
func simulated(t testing.TB, m *usage.Model, all []Bidder, policy Policy, months int) *Simulating {
	spread, err := m.Spread(months, nil)
	require.NoError(t, err)
	values, err := m.Columns(months)
	require.NoError(t, err)
	s := &Simulating{Spread: spread, Months: months, Out: make([]bool, len(all)), Seed: 7, Most: 400}
	for _, b := range all {
		var tools []Candidate
		for _, bid := range b.Tools {
			c := Candidate{Edition: bid.Edition, Policy: policy, Basis: quote.Basis{Currency: money.MustCurrency("EUR"), Rates: map[string]quote.Rate{"GBP": {Rate: 1_163_700}}}}
			c.Rows, err = tariff.Read(bid.Edition, values)
			require.NoError(t, err)
			require.NoError(t, c.Compile())
			tools = append(tools, c)
		}
		s.Tools = append(s.Tools, tools)
	}
	return s
}

func TestWithoutChanceEveryPathIsTheProjection(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 9))
	quick, unserved := 0, 0
	for n := range 40 {
		all, _ := bidders(t, r, bent)
		for _, policy := range []Policy{Monthly, Yearly, Mix} {
			s := simulated(t, growing(t, 0, 0), all, policy, 18)
			s.Most = 40
			got, err := s.Run(context.Background())
			require.NoError(t, err)
			require.Equal(t, 40, got.Paths)
			for i, tools := range s.Tools {
				total, serves := money.Amount(0), true
				for k := range tools {
					q, err := quickOf(&tools[k])
					require.NoError(t, err)
					if q != nil {
						quick++
					}
					p, err := Project(tools[k])
					require.NoError(t, err)
					total, serves = total+p.Total, serves && p.Serves()
				}
				o := got.Options[i]
				require.Equal(t, [3]money.Amount{total, total, total}, o.Total, "case %d, %s, option %d", n, policy, i)
				require.Equal(t, !serves, o.Unserved > 0)
				if !serves {
					unserved++
				}
			}
		}
	}
	assert.Greater(t, quick, 100)
	assert.Greater(t, unserved, 10)
}

func TestPathsSpreadAsTheCasesSay(t *testing.T) {
	m := growing(t, 5_000, 40_000)
	e := onePlan(0)
	count, err := usage.ParseFormula("contacts")
	require.NoError(t, err)
	e.Meters[0].Counts = count
	e.Plans[0].Charges = []pricelist.Charge{{Key: "c", Kind: pricelist.Unit, Meter: "contacts", Each: 1, Price: pricelist.Price{Usual: 10_000}}}
	dear := onePlan(100_000)
	dear.Plans[0].Limits = []pricelist.Limit{{Meter: "contacts", Most: usage.Of(3000), Beyond: pricelist.MoveUp}}
	dear.Meters[0].Counts = count
	all := []Bidder{{Tools: []Bid{{Edition: e}}}, {Tools: []Bid{{Edition: dear}}}}
	s := simulated(t, m, all, Monthly, 24)
	s.Most, s.Budgets = 4000, []Budget{{12, money.Units(300)}, {24, money.Units(300)}}
	calls := 0
	s.Progress = func(done, of int) { calls++ }
	got, err := s.Run(context.Background())
	require.NoError(t, err)
	assert.Equal(t, 125, calls)
	of := func(c usage.Case) float64 {
		w := usage.When{Case: c}
		p, _ := m.Path("contacts")
		sum := 0.0
		for _, v := range p.Over(w, 24) {
			sum += v / 100
		}
		return sum
	}
	for k, c := range usage.Cases() { // one path in ten lies below low, one in ten above high
		assert.InEpsilon(t, of(c), got.Options[0].Total[k].Float(), 0.02, "%s", c)
	}
	assert.Equal(t, 1.0, got.Options[0].Least, "the other costs 24,000")
	assert.InDelta(t, 0, got.Options[1].Least, 1e-9)
	assert.InDelta(t, 1, got.Options[1].Over[0], 1e-9)
	assert.Greater(t, got.Options[0].Over[1], 0.3)
	assert.Less(t, got.Options[0].Over[0], got.Options[0].Over[1])
	assert.Greater(t, got.Options[1].Outgrown, 0.02, "3,000 contacts within a year take more than 3.4% a month")
	assert.Less(t, got.Options[1].Outgrown, 0.3)
	assert.Greater(t, got.Options[1].Unserved, got.Options[1].Outgrown)

	again, err := s.Run(context.Background())
	require.NoError(t, err)
	assert.Equal(t, got, again, "the same seed, the same numbers")

	ctx, leave := context.WithCancel(context.Background())
	s.Progress = func(done, of int) { leave() }
	_, err = s.Run(ctx)
	assert.ErrorIs(t, err, context.Canceled)
}

func TestQuantilesAreValuesOfTheSample(t *testing.T) {
	var ten []int64
	for v := range int64(10) {
		ten = append(ten, v+1)
	}
	assert.Equal(t, []int64{1, 5, 9}, []int64{quantile(ten, 10), quantile(ten, 50), quantile(ten, 90)})
	assert.Equal(t, int64(4), quantile([]int64{4}, 10))
}

// BenchmarkSimulation draws 10,000 paths of 36 months for options of four plans, and as
// a yardstick prices as many plans in as many months.
func BenchmarkSimulation(b *testing.B) {
	for _, options := range []int{3, 6, 12} {
		all, _ := swept(b, options, 4)
		s := simulated(b, growing(b, 5_000, 40_000), all, Monthly, 36)
		s.Most = 10_000
		b.Run(fmt.Sprint(options), func(b *testing.B) {
			for b.Loop() {
				got, err := s.Run(context.Background())
				require.NoError(b, err)
				require.Equal(b, 10_000, got.Paths)
			}
		})
	}
}
