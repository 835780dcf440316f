package usage

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"ninecoins/internal/core/money"

	"gonum.org/v1/gonum/stat"
)

// Counted is what was counted of a driver in a month.
type Counted struct {
	Month Month
	Value Quantity
}

// Fit is compound growth, and a season where there is enough to tell one, as they
// follow from a history.
type Fit struct {
	Growth money.Share // a month, to a hundredth of a percent
	// With 24 months or more in which every month of the year can be told; else even.
	Season   Season
	Seasonal bool
	R2       float64 // share of the variance of the logarithms that is explained, 0 to 1
	Spread   float64 // standard deviation of what is left, as a share of the value: 0.03 is 3%
	Points   []FitPoint
	Gaps     []Month // between the first and the last month, of which nothing is told
}

// FitPoint is a month of a history with what the fit gives for it.
type FitPoint struct {
	Month         Month
	Value, Fitted float64
	Off           float64 // Value/Fitted - 1
}

// The least months that growth, and a season, are fitted to.
const (
	LeastMonths = 3
	SeasonAfter = 24
)

// Why no fit can be made.
var (
	ErrTooFew = fmt.Errorf("growth is fitted to %d months or more", LeastMonths)
	ErrNone   = errors.New("growth in percent needs values above 0")
	ErrSteep  = errors.New("it grows or falls more steeply than is taken")
)

// FitGrowth fits compound growth to a history by least squares on the natural
// logarithm: ln v = a + b·t, growth = e^b - 1. Where two years or more are told,
// seasonal factors by the ratio to the centred moving average of twelve months
// (Macaulay 1931; classical decomposition) are taken out first. Errors are [ErrTooFew], [ErrNone]
// and [ErrSteep].
func FitGrowth(history []Counted) (Fit, error) {
	all := slices.Clone(history)
	slices.SortFunc(all, func(a, b Counted) int { return int(a.Month - b.Month) })
	if len(all) < LeastMonths {
		return Fit{}, ErrTooFew
	}
	for _, one := range all {
		if one.Value <= 0 {
			return Fit{}, fmt.Errorf("%s is %s: %w", one.Month, one.Value, ErrNone)
		}
	}
	var f Fit
	first := all[0].Month
	values := make([]float64, int(all[len(all)-1].Month-first)+1) // 0 where nothing is told
	for _, one := range all {
		values[one.Month-first] = one.Value.Float()
	}
	for t, v := range values {
		if v == 0 {
			f.Gaps = append(f.Gaps, first.Plus(t))
		}
	}
	factors := [12]float64{1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1}
	if len(all) >= SeasonAfter {
		if found, ok := seasonOf(first, values); ok {
			factors, f.Seasonal = found, true
		}
	}
	factor := func(t int) float64 { return factors[first.Plus(t).Number()-1] }
	var at, logs, raw []float64
	for t, v := range values {
		if v > 0 {
			at, logs, raw = append(at, float64(t)), append(logs, math.Log(v/factor(t))), append(raw, math.Log(v))
		}
	}
	a, b := stat.LinearRegression(at, logs, nil, false)
	n, mean, explained, total := float64(len(at)), stat.Mean(raw, nil), 0.0, 0.0
	for t, v := range values {
		if v == 0 {
			continue
		}
		fitted := math.Exp(a+b*float64(t)) * factor(t)
		f.Points = append(f.Points, FitPoint{first.Plus(t), v, fitted, v/fitted - 1})
		explained += math.Pow(math.Log(v/fitted), 2)
		total += math.Pow(math.Log(v)-mean, 2)
	}
	f.R2 = 1
	if total > 0 {
		f.R2 = 1 - explained/total
	}
	free := n - 2
	if f.Seasonal {
		free -= 11
	}
	f.Spread = math.Sqrt(explained / max(1, free))
	growth := math.Round((math.Exp(b) - 1) * 10_000)
	if f.Growth = money.Share(growth) * (money.Whole / 10_000); f.Growth < LeastGrowth || f.Growth > MostGrowth {
		return f, ErrSteep
	}
	if f.Seasonal {
		for i, v := range factors {
			f.Season[i] = Factor(math.Round((min(v, MostFactor)-1)*1000) * money.Scale / 1000)
		}
	}
	return f, nil
}

// seasonOf returns the mean ratio of each month of the year to the centred moving
// average of twelve months around it, evened to a mean of 1; false where a month of
// the year has none. The average of month t is that of the two means of twelve months
// of which it is the seventh and the sixth, so 13 months in a row have to be told.
func seasonOf(first Month, values []float64) (factors [12]float64, ok bool) {
	var sums, counts [12]float64
	for t := 6; t+6 < len(values); t++ {
		window := values[t-6 : t+7]
		if slices.Contains(window, 0) {
			continue
		}
		average := (window[0] + window[12]) / 24
		for _, v := range window[1:12] {
			average += v / 12
		}
		at := first.Plus(t).Number() - 1
		sums[at] += values[t] / average
		counts[at]++
	}
	mean := 0.0
	for i := range sums {
		if counts[i] == 0 {
			return factors, false
		}
		factors[i] = sums[i] / counts[i]
		mean += factors[i] / 12
	}
	for i := range factors {
		factors[i] /= mean
	}
	return factors, true
}
