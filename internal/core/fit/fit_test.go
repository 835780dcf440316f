package fit_test

import (
	"fmt"
	"testing"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var criteria = []fit.Criterion{
	{ID: "cost", Source: fit.Cost, Weight: 250_000, Best: money.Units(1000), Worst: money.Units(5000)},
	{ID: "ease", Source: fit.Rated, Weight: 500_000},
	{ID: "look", Source: fit.Rated, Weight: 250_000},
}

func rating(option, criterion string, halves fit.Halves) fit.Rating {
	return fit.Rating{Rater: "Ada", Option: option, Criterion: criterion, Value: halves}
}

func subject(option string, cost int64, gates ...string) fit.Subject {
	return fit.Subject{Option: option, Measured: map[string]money.Amount{"cost": money.Units(cost)}, Gates: gates}
}

func TestFitIsTheWeightedMean(t *testing.T) {
	all, err := fit.Judge([]fit.Subject{subject("a", 3000), subject("b", 1000)}, criteria,
		[]fit.Rating{rating("a", "ease", 16), rating("a", "look", 12), rating("b", "ease", 10), rating("b", "look", 18)})
	require.NoError(t, err)
	assert.InDelta(t, 0.25*4.5+0.5*8+0.25*6, all[0].Fit, 1e-12)
	assert.InDelta(t, 0.25*9+0.5*5+0.25*9, all[1].Fit, 1e-12)
	assert.Equal(t, []int{2, 1}, []int{all[0].Place, all[1].Place})
	sum := 0.0
	for _, p := range all[0].Parts {
		sum += p.Points()
	}
	assert.InDelta(t, all[0].Fit, sum, 1e-12, "parts sum to the whole")
	assert.Equal(t, all[0].Low, all[0].High)
}

func TestOnlyTheRatioOfWeightsCounts(t *testing.T) {
	doubled := append([]fit.Criterion(nil), criteria...)
	for i := range doubled {
		doubled[i].Weight *= 2
	}
	ratings := []fit.Rating{rating("a", "ease", 16), rating("a", "look", 3)}
	one, err := fit.Judge([]fit.Subject{subject("a", 2000)}, criteria, ratings)
	require.NoError(t, err)
	two, err := fit.Judge([]fit.Subject{subject("a", 2000)}, doubled, ratings)
	require.NoError(t, err)
	assert.InDelta(t, one[0].Fit, two[0].Fit, 1e-12)
}

func TestAMissingRatingMakesARangeNotAZero(t *testing.T) {
	all, err := fit.Judge([]fit.Subject{subject("a", 1000), {Option: "b"}}, criteria, []fit.Rating{rating("a", "look", 12)})
	require.NoError(t, err)
	a := all[0]
	assert.InDelta(t, (0.25*9+0.25*6)/0.5, a.Fit, 1e-12)
	assert.InDelta(t, 0.25*9+0.25*6, a.Low, 1e-12)
	assert.InDelta(t, a.Low+0.5*9, a.High, 1e-12)
	assert.Zero(t, all[1].Known)
	assert.Zero(t, all[1].Place, "nothing known, no place")
}

func TestSeveralRatersMeanAndSpread(t *testing.T) {
	second := rating("a", "ease", 18)
	second.Rater = "Bo"
	all, err := fit.Judge([]fit.Subject{subject("a", 1000)}, criteria, []fit.Rating{rating("a", "ease", 12), second})
	require.NoError(t, err)
	p := all[0].Parts[1]
	assert.Equal(t, 7.5, p.Score)
	assert.Equal(t, 2, p.Raters)
	assert.GreaterOrEqual(t, p.Spread, float64(fit.Disagreement))
}

func TestWhatIsOutStaysVisibleButHasNoPlace(t *testing.T) {
	ratings := []fit.Rating{rating("a", "ease", 18), rating("b", "ease", 2), rating("c", "ease", 2)}
	all, err := fit.Judge([]fit.Subject{subject("a", 1000, "no event triggers"), subject("b", 1000), subject("c", 1000)}, criteria, ratings)
	require.NoError(t, err)
	assert.Equal(t, []int{1, 2, 0}, fit.Order(all), "equals keep the order of the line-up; out comes last")
	assert.Equal(t, []int{0, 1, 2}, []int{all[0].Place, all[1].Place, all[2].Place})
	assert.Greater(t, all[0].Fit, all[1].Fit)
}

func TestCostScoresBetweenItsEnds(t *testing.T) {
	c := criteria[0]
	for cost, want := range map[int64]float64{0: 9, 1000: 9, 3000: 4.5, 5000: 0, 9999: 0} {
		assert.InDelta(t, want, c.Value(money.Units(cost)), 1e-12, "%d", cost)
	}
	c.Worst = c.Best
	assert.Equal(t, 9.0, c.Value(money.Units(1000)))
	assert.Equal(t, 0.0, c.Value(money.Units(1001)), "a threshold")
}

func TestWeightsThatAreAllZeroAreRefused(t *testing.T) {
	_, err := fit.Judge([]fit.Subject{subject("a", 1)}, []fit.Criterion{{ID: "ease", Source: fit.Rated}}, nil)
	assert.ErrorIs(t, err, fit.ErrWeights)
	all, err := fit.Judge([]fit.Subject{subject("a", 1)}, nil, nil)
	require.NoError(t, err, "no criteria is no fault")
	assert.Zero(t, all[0].Place)
}

func TestRatingsAreHalves(t *testing.T) {
	for in, want := range map[string]string{"7": "7", "6.5": "6.5", "0": "0", "9": "9", "6.50": "6.5"} {
		h, err := fit.ParseHalves(in)
		require.NoError(t, err)
		assert.Equal(t, want, h.String())
	}
	for _, bad := range []string{"", "9.5", "-1", "6.25", "seven", "1e1", "10"} {
		_, err := fit.ParseHalves(bad)
		assert.ErrorContains(t, err, "0 to 9 in halves", bad)
	}
}

func ExampleJudge() {
	all, _ := fit.Judge([]fit.Subject{{Option: "a"}, {Option: "b"}}, []fit.Criterion{{ID: "ease", Source: fit.Rated, Weight: money.Whole}},
		[]fit.Rating{{Option: "a", Criterion: "ease", Value: 13}, {Option: "b", Criterion: "ease", Value: 15}})
	for _, s := range all {
		fmt.Printf("%s %.1f, place %d\n", s.Option, s.Fit, s.Place)
	}
	// Output:
	// a 6.5, place 2
	// b 7.5, place 1
}
