package money_test

import (
	"fmt"
	"math"
	"math/big"
	"testing"

	"ninecoins/internal/core/money"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func amount(t *testing.T, s string) money.Amount {
	t.Helper()
	a, err := money.ParseAmount(s)
	require.NoError(t, err)
	return a
}

func TestAmountsAreReadExactlyOrRefused(t *testing.T) {
	for _, row := range []struct {
		in, out string
		err     error
	}{
		{"12", "12", nil},
		{"0.10", "0.1", nil},
		{"-3.000001", "-3.000001", nil},
		{"9223372036854.775807", "9223372036854.775807", nil},
		{"9223372036854.775808", "", money.ErrOverflow},
		{"1.0000001", "", money.ErrSyntax},
		{"", "", money.ErrSyntax},
		{".5", "", money.ErrSyntax},
		{"5.", "", money.ErrSyntax},
		{"1e3", "", money.ErrSyntax},
		{"1,000", "", money.ErrSyntax},
		{"--1", "", money.ErrSyntax},
		{"+1", "", money.ErrSyntax},
		{"NaN", "", money.ErrSyntax},
	} {
		got, err := money.ParseAmount(row.in)
		if row.err != nil {
			assert.ErrorIs(t, err, row.err, row.in)
			continue
		}
		require.NoError(t, err, row.in)
		assert.Equal(t, row.out, got.String())
	}
}

func TestSumsThatDoNotFitAreRefused(t *testing.T) {
	_, err := money.Sum(math.MaxInt64, 1)
	assert.ErrorIs(t, err, money.ErrOverflow)
	_, err = money.Amount(math.MinInt64).Plus(-1)
	assert.ErrorIs(t, err, money.ErrOverflow)
	total, err := money.Sum(amount(t, "0.1"), amount(t, "0.2"))
	require.NoError(t, err)
	assert.Equal(t, "0.3", total.String())
}

func TestHalfCentsRoundAwayFromZero(t *testing.T) {
	eur, yen := money.MustCurrency("EUR"), money.MustCurrency("JPY")
	for _, row := range []struct {
		price string
		n, d  int64
		c     money.Currency
		want  string
	}{
		{"0.125", 1, 1, eur, "0.13"},
		{"0.115", 1, 1, eur, "0.12"}, // half to even would give 0.12 here and 0.12 above
		{"-0.125", 1, 1, eur, "-0.13"},
		{"0.124999", 1, 1, eur, "0.12"},
		{"1", 1, 3, eur, "0.33"},
		{"1", 2, 3, eur, "0.67"},
		{"1", 1, 200, eur, "0.01"},
		{"1", 1, 201, eur, "0"},
		{"2.5", 1, 1, yen, "3"},
		{"10", 25_600_000_000, 1_000_000_000, eur, "256"},
	} {
		f, err := money.Exactly(amount(t, row.price)).Times(row.n, row.d)
		require.NoError(t, err)
		got, err := f.Round(row.c)
		require.NoError(t, err)
		assert.Equal(t, row.want, got.String(), "%s x %d/%d", row.price, row.n, row.d)
	}
}

func TestAThirdThreeTimesIsWhole(t *testing.T) {
	third, err := money.Exactly(money.Units(1)).Times(1, 3)
	require.NoError(t, err)
	sum := money.Fraction{}
	for range 3 {
		sum, err = sum.Plus(third)
		require.NoError(t, err)
	}
	order, err := sum.Cmp(money.Exactly(money.Units(1)))
	require.NoError(t, err)
	assert.Zero(t, order)
}

// FuzzFractionAgainstBigRat holds the 128-bit arithmetic against math/big.
func FuzzFractionAgainstBigRat(f *testing.F) {
	f.Add(int64(125_000), int64(1), int64(1), int64(12_000_000), int64(17), int64(20))
	f.Add(int64(math.MaxInt64), int64(math.MaxInt64), int64(3), int64(-1), int64(7), int64(11))
	f.Add(int64(-5_000), int64(1), int64(1), int64(0), int64(0), int64(9))
	f.Add(int64(1), int64(math.MinInt64+1), int64(math.MaxInt64), int64(1), int64(1), int64(2))
	f.Fuzz(func(t *testing.T, a, n, d, b, m, e int64) {
		if d <= 0 || e <= 0 || a == math.MinInt64 || b == math.MinInt64 || n == math.MinInt64 || m == math.MinInt64 {
			t.Skip()
		}
		x, err := money.Exactly(money.Amount(a)).Times(n, d)
		if err != nil {
			return
		}
		y, err := money.Exactly(money.Amount(b)).Times(m, e)
		if err != nil {
			return
		}
		rx := new(big.Rat).Mul(big.NewRat(a, 1), big.NewRat(n, d))
		ry := new(big.Rat).Mul(big.NewRat(b, 1), big.NewRat(m, e))
		if order, err := x.Cmp(y); err == nil {
			assert.Equal(t, rx.Cmp(ry), order)
		}
		sum, err := x.Plus(y)
		if err != nil {
			return
		}
		want := roundAway(new(big.Rat).Add(rx, ry), 10_000)
		got, err := sum.RoundTo(10_000)
		if err != nil {
			assert.False(t, want.IsInt64(), "%s fits but was refused", want)
			return
		}
		assert.Equal(t, want.String(), fmt.Sprint(int64(got)))
	})
}

// roundAway is the slow, readable rounding: half away from zero to a multiple
// of step.
func roundAway(r *big.Rat, step int64) *big.Int {
	parts := new(big.Rat).Quo(r, big.NewRat(step, 1))
	half := big.NewRat(1, 2)
	up := new(big.Rat).Add(new(big.Rat).Abs(parts), half)
	whole := new(big.Int).Quo(up.Num(), up.Denom())
	if r.Sign() < 0 {
		whole.Neg(whole)
	}
	return whole.Mul(whole, big.NewInt(step))
}

func TestCurrenciesAreISO4217(t *testing.T) {
	for code, decimals := range map[string]int{"EUR": 2, "GBP": 2, "JPY": 0, "KWD": 3, "CLF": 4, "RSD": 2, "ALL": 2, "COP": 2, "LBP": 2, "IQD": 3, "IRR": 2, "AFN": 2,
		"MGA": 2, "HUF": 2, "XCG": 2, "SLE": 2, "VES": 2, "ZWG": 2} {
		c, err := money.ParseCurrency(code)
		require.NoError(t, err)
		assert.Equal(t, decimals, c.Decimals(), code)
	}
	for _, code := range []string{"", "eur", "EU", "EURO", "ZZZ", "€", "<b>", "DEM", "HRK", "XAU", "XTS", "XXX", "ZWL"} {
		_, err := money.ParseCurrency(code)
		assert.ErrorContains(t, err, "ISO 4217", code)
	}
	for code, decimals := range map[string]int{"DEM": 2, "HRK": 2, "RSD": 2} {
		c, err := money.KeptCurrency(code)
		require.NoError(t, err, "what was taken before is still read")
		assert.Equal(t, decimals, c.Decimals(), code)
	}
	_, err := money.KeptCurrency("ZZZ")
	assert.ErrorContains(t, err, "ISO 4217")
}

func TestMoneyIsWrittenForPeople(t *testing.T) {
	eur := money.MustCurrency("EUR")
	assert.Equal(t, "€1,234,567.50", eur.Format(amount(t, "1234567.5")))
	assert.Equal(t, "−€0.05", eur.Format(amount(t, "-0.05")))
	assert.Equal(t, "€9,412", eur.FormatShort(amount(t, "9411.50")))
	assert.Equal(t, "€999.99", eur.FormatShort(amount(t, "999.99")))
	assert.Equal(t, "€0.0125", eur.FormatExact(amount(t, "0.0125")))
	assert.Equal(t, "€9.20", eur.FormatExact(amount(t, "9.2")))
	assert.Equal(t, "CHF\u00a010.00", money.MustCurrency("CHF").Format(money.Units(10)))
	assert.Equal(t, "¥1,000", money.MustCurrency("JPY").Format(money.Units(1000)))
}

func TestSharesAreReadWithOrWithoutTheirSign(t *testing.T) {
	for in, want := range map[string]string{"15%": "15%", "12.5": "12.5%", "0": "0%", "-3 %": "-3%", "33.3333%": "33.3333%"} {
		got, err := money.ParseShare(in)
		require.NoError(t, err, in)
		assert.Equal(t, want, got.String())
	}
	_, err := money.ParseShare("a lot")
	assert.ErrorIs(t, err, money.ErrSyntax)
}

func ExampleFraction_Round() {
	price, _ := money.ParseAmount("11.00") // per 1,000 contacts
	line, _ := money.Exactly(price).Times(6_413, 1_000)
	total, _ := line.Round(money.MustCurrency("EUR"))
	fmt.Println(total)
	// Output: 70.54
}

func TestSmallTotalsAreWrittenWithTheirCents(t *testing.T) {
	eur, kwd := money.MustCurrency("EUR"), money.MustCurrency("KWD")
	for _, row := range []struct {
		of     money.Currency
		amount money.Amount
		want   string
	}{{eur, 720_000, "€0.72"}, {eur, 99_990_000, "€99.99"}, {eur, 60_000_000, "€60"}, {eur, 214_500_000, "€215"}, {eur, -720_000, "−€0.72"}, {eur, 0, "€0"},
		{kwd, 4_000, kwd.Symbol() + "0.004"}} {
		assert.Equal(t, row.want, row.of.FormatWhole(row.amount))
	}
}
