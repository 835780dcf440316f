package tariff_test

import (
	"math/big"
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

// TestTheLawsOfEveryKind holds for random charges of each kind: no price is
// negative; none falls as a quantity grows, but for volume; a graduated one does
// not jump where a band ends; columns and single prices agree; the lines of a
// receipt sum to the whole.
func TestTheLawsOfEveryKind(t *testing.T) {
	r := random{rand.New(rand.NewPCG(25, 11))}
	fell := map[pricelist.ChargeKind]int{}
	for n := range 1_500 {
		kind := pricelist.ChargeKinds[n%len(pricelist.ChargeKinds)]
		e, d := r.edition()
		ch := r.charge("c", kind)
		ch.Optional = false
		for i := 1; i < len(ch.Bands) && kind == pricelist.Stair; i++ { // which rises
			ch.Bands[i].Price.Usual = max(ch.Bands[i].Price.Usual, ch.Bands[i-1].Price.Usual)
		}
		e.AddOns, e.Offers, d.Musts = nil, nil, nil
		p := &e.Plans[0]
		p.Charges, p.Limits = []pricelist.Charge{ch}, nil
		all, err := tariff.Compile(e, p, p.Terms[0], d)
		require.NoError(t, err)
		m := 3
		for i := range e.Meters {
			if e.Meters[i].Key == ch.Meter {
				m = i
			}
		}
		columns, out, last := make(tariff.Columns, len(e.Meters)), make([]int64, 400), int64(0)
		for i := range columns {
			columns[i] = make([]int64, len(out))
		}
		x := int64(0)
		for i := range out {
			columns[m][i] = x
			x += r.Int64N(40) * int64(usage.One) / tariff.Grain(&e.Meters[m]) / 2
		}
		all[0].PriceAll(1, columns, out)
		row := make([]int64, len(e.Meters))
		for i, price := range out {
			row[m] = columns[m][i]
			one, ok := all[0].Price(1, row)
			if !ok {
				require.Equal(t, int64(tariff.Never), price)
				break // past the last band
			}
			require.Equal(t, one, price, "case %d: columns and single prices", n)
			require.GreaterOrEqual(t, price, int64(0))
			if price < last {
				fell[kind]++
			}
			last = price
			if i%16 != 0 {
				continue
			}
			receipt := all[0].Explain(1, 0, row)
			sum := money.Amount(0)
			for _, l := range receipt.Lines {
				sum += l.Amount
			}
			require.Equal(t, receipt.Bill+receipt.Used+receipt.Once, sum)
			require.Equal(t, all[0].Amount(price), receipt.Settled)
		}
	}
	for kind, times := range fell {
		assert.Equal(t, pricelist.Volume, kind, "fell %d times", times)
	}
	assert.Positive(t, fell[pricelist.Volume], "which is why it is the exception")
}

func TestAGraduatedPriceDoesNotJump(t *testing.T) {
	e := listOf(pricelist.Charge{Key: "g", Kind: pricelist.Graduated, Meter: "contacts", Each: 1000, Bands: []pricelist.Band{
		{To: usage.Of(10_000), Price: price("11.00")}, {To: usage.Of(50_000), Price: price("7.50")}, {Open: true, Price: price("4.00")}}})
	for _, row := range []struct {
		contacts int64
		want     string
	}{{0, "0"}, {10_000, "110"}, {10_001, "110.01"}, {50_000, "410"}, {50_001, "410"}, {50_002, "410.01"}, {1_000_000_000_000, "4000000210"}} {
		r, err := of(ask(e, 0, row.contacts, 0))
		require.NoError(t, err)
		assert.Equal(t, row.want, r.Bill.String(), "%d contacts", row.contacts)
	}
}

// TestWhatYouHostYourselfIsPricedLikeAnyOther prices a server by bands of capacity, the
// hours that it takes once, and those each month, at what an hour costs.
func TestWhatYouHostYourselfIsPricedLikeAnyOther(t *testing.T) {
	formula := func(s string) usage.Formula {
		f, err := usage.ParseFormula(s)
		require.NoError(t, err)
		return f
	}
	all := pricelist.Price{Usual: money.Amount(money.Whole)}
	e := &pricelist.Edition{Platform: pricelist.Platform{Name: "Own server"}, Currency: money.MustCurrency("GBP"),
		Meters: []pricelist.Meter{{Key: "contacts", Unit: "contact", Kind: usage.Stock, Counts: formula("contacts")},
			{Key: "setup", Unit: "money", Kind: usage.Stock, Counts: formula("setup_hours * hourly_cost"), Fractions: true},
			{Key: "upkeep", Unit: "money", Kind: usage.Flow, Counts: formula("upkeep_hours * hourly_cost"), Fractions: true}},
		Plans: []pricelist.Plan{{Key: "server", Name: "Server", Offered: pricelist.Public, Terms: []pricelist.Term{{Key: "monthly", Months: 1, Paid: pricelist.Upfront}},
			Charges: []pricelist.Charge{{Key: "server", Kind: pricelist.Stair, Meter: "contacts", Bands: []pricelist.Band{{To: usage.Of(5000), Price: price("20")}, {Open: true, Price: price("40")}}},
				{Key: "setup", Kind: pricelist.Once, Meter: "setup", Rate: all}, {Key: "upkeep", Kind: pricelist.Share, Meter: "upkeep", Rate: all}}}}}
	model, err := usage.NewModel(nil, map[string]usage.Path{"contacts": {Now: usage.Of(6000)}, "hourly_cost": {Now: usage.Of(35)}, "setup_hours": {Now: usage.Of(10)}, "upkeep_hours": {Now: usage.Of(2)}})
	require.NoError(t, err)
	values, err := model.Columns(1)
	require.NoError(t, err)
	rows, err := tariff.Read(e, values)
	require.NoError(t, err)
	d := tariff.Deal{Basis: quote.Basis{Currency: eur, Rates: map[string]quote.Rate{"GBP": {Rate: amount("1.25")}}}}
	r, err := tariff.Quote(e, &e.Plans[0], e.Plans[0].Terms[0], d, 0, 0, rows[0])
	require.NoError(t, err)
	assert.Equal(t, "120", r.Settled.String(), "50 of a server of 40 in pounds, and 70 of two hours in the study's money")
	assert.Equal(t, "350", r.AtSigning.String(), "ten hours, in the study's money")
}

// TestLargeReadingsAreExact prices with a divisor that is odd and large, up to the
// most that is read.
func TestLargeReadingsAreExact(t *testing.T) {
	e := listOf(pricelist.Charge{Key: "u", Kind: pricelist.Unit, Meter: "contacts", Price: pricelist.Price{Usual: 333_333}, Each: 999_983, Included: 0})
	all, err := tariff.Compile(e, &e.Plans[0], pricelist.Term{Key: "odd", Months: 1, Paid: pricelist.Upfront, Off: 123_457}, ask(e, 0, 0, 0).deal)
	require.NoError(t, err)
	for _, x := range []int64{0, 1, 999_982, 999_983, 1 << 39, 999_999_999_999, 1_000_000_000_000} {
		got, ok := all[0].Price(1, []int64{x, 0, 0})
		require.True(t, ok)
		// 0.333333 x 0.876543 / 999983 for one, in cents
		want := nearest(mul(rat(x, 999_983), mul(rat(333_333, 10_000), rat(876_543, 1_000_000))))
		assert.Equal(t, want.String(), big.NewInt(got).String(), "%d", x)
	}
}
