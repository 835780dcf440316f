package usage_test

import (
	"fmt"
	"math"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// passengers are those of international airlines by month, January 1949 to December
// 1960, in thousands: series G of Box & Jenkins, Time Series Analysis (1970).
var passengers = []float64{
	112, 118, 132, 129, 121, 135, 148, 148, 136, 119, 104, 118,
	115, 126, 141, 135, 125, 149, 170, 170, 158, 133, 114, 140,
	145, 150, 178, 163, 172, 178, 199, 199, 184, 162, 146, 166,
	171, 180, 193, 181, 183, 218, 230, 242, 209, 191, 172, 194,
	196, 196, 236, 235, 229, 243, 264, 272, 237, 211, 180, 201,
	204, 188, 235, 227, 234, 264, 302, 293, 259, 229, 203, 229,
	242, 233, 267, 269, 270, 315, 364, 347, 312, 274, 237, 278,
	284, 277, 317, 313, 318, 374, 413, 405, 355, 306, 271, 306,
	315, 301, 356, 348, 355, 422, 465, 467, 404, 347, 305, 336,
	340, 318, 362, 348, 363, 435, 491, 505, 404, 359, 310, 337,
	360, 342, 406, 396, 420, 472, 548, 559, 463, 407, 362, 405,
	417, 391, 419, 461, 472, 535, 622, 606, 508, 461, 390, 432,
}

func counted(from usage.Month, values ...float64) (all []usage.Counted) {
	for t, v := range values {
		q, _ := usage.FromFloat(v)
		all = append(all, usage.Counted{Month: from.Plus(t), Value: q})
	}
	return all
}

func month(t *testing.T, s string) usage.Month {
	m, err := usage.ParseMonth(s)
	require.NoError(t, err)
	return m
}

// The seasonal figures of the series by classical multiplicative decomposition are
// printed in many textbooks, such as Cowpertwait & Metcalfe, Introductory Time Series
// with R (2009), chapter 1; the factors here are kept to three decimals.
func TestASeasonIsFittedByRatioToTheCentredMovingAverage(t *testing.T) {
	f, err := usage.FitGrowth(counted(month(t, "1949-01"), passengers...))
	require.NoError(t, err)
	require.True(t, f.Seasonal)
	published := []float64{0.9102304, 0.8836253, 1.0073663, 0.9759060, 0.9813780, 1.1127758, 1.2265555, 1.2199110, 1.0604919, 0.9217572, 0.8011781, 0.8988244}
	for i, want := range published {
		assert.InDelta(t, want, f.Season[i].Float(), 0.0005, "month %d", i+1)
	}
	assert.InDelta(t, 1, f.Season.Mean(), 0.0005)
	assert.Len(t, f.Points, 144)
	assert.Empty(t, f.Gaps)
	assert.Greater(t, f.R2, 0.98)
}

// Growth without a season against the normal equations, solved by hand (Cramer).
func TestGrowthIsFittedByLeastSquaresOnTheLogarithm(t *testing.T) {
	for _, n := range []int{3, 5, 12, 23} {
		var sx, sy, sxx, sxy, syy float64
		for i, v := range passengers[:n] {
			x, y := float64(i), math.Log(v)
			sx, sy, sxx, sxy, syy = sx+x, sy+y, sxx+x*x, sxy+x*y, syy+y*y
		}
		m := float64(n)
		b := (m*sxy - sx*sy) / (m*sxx - sx*sx)
		a := (sy*sxx - sx*sxy) / (m*sxx - sx*sx)
		r2 := math.Pow(m*sxy-sx*sy, 2) / (m*sxx - sx*sx) / (m*syy - sy*sy)
		f, err := usage.FitGrowth(counted(month(t, "1949-01"), passengers[:n]...))
		require.NoError(t, err)
		assert.False(t, f.Seasonal)
		assert.InDelta(t, math.Exp(b)-1, f.Growth.Float(), 0.00005, "%d months", n)
		assert.InDelta(t, r2, f.R2, 1e-9, "%d months", n)
		assert.InDelta(t, math.Exp(a), f.Points[0].Fitted, 1e-6)
	}
}

func TestWhatWasGrownIsFittedBack(t *testing.T) {
	start := month(t, "2024-03")
	p := usage.Path{Now: usage.Of(6400), Growth: 19_000}
	for i, v := range []float64{0.9, 1.05, 1.35, 1.4, 1.2, 0.95, 0.85, 0.8, 0.9, 0.85, 0.85, 0.9} {
		p.Season[i] = usage.Factor(math.Round((v - 1) * money.Scale))
	}
	history := counted(start, p.Over(usage.When{Start: start}, 48)...)
	f, err := usage.FitGrowth(history)
	require.NoError(t, err)
	require.True(t, f.Seasonal)
	assert.InDelta(t, 0.019, f.Growth.Float(), 0.0006)
	for i := range p.Season {
		assert.InDelta(t, p.Season[i].Float(), f.Season[i].Float(), 0.01, usage.MonthKeys[i])
	}

	gappy := append(history[:5:5], history[6:]...)
	f, err = usage.FitGrowth(gappy)
	require.NoError(t, err)
	assert.Equal(t, []usage.Month{start.Plus(5)}, f.Gaps)
	assert.InDelta(t, 0.019, f.Growth.Float(), 0.001)

	f, err = usage.FitGrowth([]usage.Counted{history[40], history[0], history[20]})
	require.NoError(t, err, "in any order, however far apart")
	assert.Len(t, f.Gaps, 38)
	assert.False(t, f.Seasonal)
}

func TestWhatCannotBeFitted(t *testing.T) {
	from := month(t, "2026-01")
	for want, history := range map[error][]usage.Counted{
		usage.ErrTooFew: counted(from, 100, 110),
		usage.ErrNone:   counted(from, 100, 0, 120),
		usage.ErrSteep:  counted(from, 1, 100, 10_000),
	} {
		_, err := usage.FitGrowth(history)
		assert.ErrorIs(t, err, want)
	}
	f, err := usage.FitGrowth(counted(from, 5, 5, 5, 5))
	require.NoError(t, err)
	assert.Zero(t, f.Growth)
	assert.Equal(t, 1.0, f.R2)
	assert.Zero(t, f.Spread)
}

// The population of the United States by Pearl & Reed, On the rate of growth of the
// population of the United States since 1790 and its mathematical representation
// (PNAS 6, 1920): y = 2.9303009 / (0.014854 + e^(-0.0313395·x)), x in years from 1780,
// and their table of what it gives, in millions.
func TestAnSCurveIsTheLogisticOfPearlAndReed(t *testing.T) {
	thousands := func(millions float64) usage.Quantity {
		q, err := usage.FromFloat(millions * 1000)
		require.NoError(t, err)
		return q
	}
	p := usage.Path{Now: thousands(3.929), Shape: usage.SCurve, Ceiling: thousands(2.9303009 / 0.014854), Growth: money.Share(math.Round((math.Exp(0.0313395) - 1) * 1e6))}
	require.NoError(t, p.Check())
	for decade, want := range []float64{3.929, 5.336, 7.228, 9.757, 13.109, 17.506, 23.192, 30.412, 39.372, 50.177, 62.769, 76.870, 91.972} {
		assert.InDelta(t, want, p.At(10*decade)/1000, 0.02, fmt.Sprint(1790+10*decade))
	}
}
