package tariff_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/require"
)

// bench is a plan with a flat charge, seats, a stair of 12 bands, 5 graduated ones
// and packs, for which byHand is written.
func bench(t testing.TB) *tariff.Program {
	t.Helper()
	cents := func(n int64) pricelist.Price { return pricelist.Price{Usual: money.Amount(n * 10_000)} }
	stair := pricelist.Charge{Key: "stair", Kind: pricelist.Stair, Meter: "contacts"}
	for i := range int64(12) {
		stair.Bands = append(stair.Bands, pricelist.Band{To: usage.Of(1000 * (i + 1) * (i + 1)), Price: cents(1000 + 900*i)})
	}
	stair.Bands[11].Open, stair.Bands[11].To = true, 0
	graduated := pricelist.Charge{Key: "graduated", Kind: pricelist.Graduated, Meter: "sends", Each: 1000}
	for i, to := range []int64{10_000, 50_000, 200_000, 1_000_000, 0} {
		graduated.Bands = append(graduated.Bands, pricelist.Band{To: usage.Of(to), Open: to == 0, Price: cents(120 - 20*int64(i))})
	}
	e := &pricelist.Edition{Currency: money.MustCurrency("EUR"), Meters: []pricelist.Meter{{Key: "contacts"}, {Key: "sends", Kind: usage.Flow}, {Key: "seats"}, {Key: "tasks", Kind: usage.Flow}},
		Plans: []pricelist.Plan{{Key: "p", Offered: pricelist.Public, Terms: []pricelist.Term{{Key: "monthly", Months: 1, Paid: pricelist.Upfront}}, Charges: []pricelist.Charge{
			{Key: "flat", Kind: pricelist.Flat, Price: cents(2900)}, {Key: "seats", Kind: pricelist.Unit, Meter: "seats", Included: usage.Of(2), Each: 1, Price: cents(900)}, stair, graduated,
			{Key: "packs", Kind: pricelist.Pack, Meter: "tasks", Included: usage.Of(1000), Size: usage.Of(750), Price: cents(700)}}}}}
	all, err := tariff.Compile(e, &e.Plans[0], e.Plans[0].Terms[0], tariff.Deal{Basis: quote.Basis{Currency: e.Currency}})
	require.NoError(t, err)
	return all[0]
}

var stairEnds = [12]int64{1000, 4000, 9000, 16_000, 25_000, 36_000, 49_000, 64_000, 81_000, 100_000, 121_000, 1 << 62}

// byHand is what somebody would write for this plan and no other, in cents.
func byHand(contacts, sends, seats, tasks int64) int64 {
	total := int64(2900)
	if seats > 2 {
		total += (seats - 2) * 900
	}
	i := int64(0)
	for contacts > stairEnds[i] {
		i++
	}
	total += 1000 + 900*i
	switch {
	case sends <= 10_000:
		total += (sends*120 + 500) / 1000
	case sends <= 50_000:
		total += (1_200_000 + (sends-10_000)*100 + 500) / 1000
	case sends <= 200_000:
		total += (5_200_000 + (sends-50_000)*80 + 500) / 1000
	case sends <= 1_000_000:
		total += (17_200_000 + (sends-200_000)*60 + 500) / 1000
	default:
		total += (65_200_000 + (sends-1_000_000)*40 + 500) / 1000
	}
	if tasks > 1000 {
		total += (tasks - 1000 + 749) / 750 * 700
	}
	return total
}

// usages are spread evenly over orders of magnitude, so that no branch can be
// foreseen.
func usages(n int) tariff.Columns {
	r := rand.New(rand.NewPCG(1, 2))
	q := tariff.Columns{make([]int64, n), make([]int64, n), make([]int64, n), make([]int64, n)}
	for i := range n {
		for m, decades := range []float64{5.3, 6.3, 2, 4.5} {
			q[m][i] = int64(math.Pow(10, r.Float64()*decades))
		}
	}
	return q
}

func BenchmarkPlan(b *testing.B) {
	p, q := bench(b), usages(12_000)
	rows := make([][]int64, len(q[0]))
	for i := range rows {
		rows[i] = []int64{q[0][i], q[1][i], q[2][i], q[3][i]}
		got, ok := p.Price(1, rows[i])
		require.True(b, ok)
		require.Equal(b, byHand(q[0][i], q[1][i], q[2][i], q[3][i]), got, rows[i])
	}
	sum := int64(0)
	each := func(b *testing.B, price func(row []int64) int64) {
		b.ReportAllocs()
		for b.Loop() {
			for _, row := range rows {
				sum += price(row)
			}
		}
		b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/float64(len(rows)), "ns/quote")
	}
	b.Run("hand", func(b *testing.B) {
		each(b, func(row []int64) int64 { return byHand(row[0], row[1], row[2], row[3]) })
	})
	b.Run("price", func(b *testing.B) {
		each(b, func(row []int64) int64 { price, _ := p.Price(1, row); return price })
	})
	b.Run("columns", func(b *testing.B) {
		b.ReportAllocs()
		out := make([]int64, len(rows))
		for b.Loop() {
			p.PriceAll(1, q, out)
		}
		b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/float64(len(rows)), "ns/quote")
	})
	b.Run("receipt", func(b *testing.B) {
		var entries []tariff.Entry
		each(b, func(row []int64) int64 {
			_, entries, _ = p.Lines(1, row, entries[:0])
			return entries[0].Amount
		})
	})
}
