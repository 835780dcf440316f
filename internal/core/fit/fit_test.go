package fit_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
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
	assert.InDelta(t, 0.25*4.5+0.5*8+0.25*6, float64(all[0].Fit), 1e-12)
	assert.InDelta(t, 0.25*9+0.5*5+0.25*9, float64(all[1].Fit), 1e-12)
	assert.Equal(t, []int{2, 1}, []int{all[0].Place, all[1].Place})
	sum := 0.0
	for _, p := range all[0].Parts {
		sum += p.Points()
	}
	assert.InDelta(t, float64(all[0].Fit), sum, 1e-12, "parts sum to the whole")
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
	assert.InDelta(t, float64(one[0].Fit), float64(two[0].Fit), 1e-12)
}

func TestAMissingRatingMakesARangeNotAZero(t *testing.T) {
	all, err := fit.Judge([]fit.Subject{subject("a", 1000), {Option: "b"}}, criteria, []fit.Rating{rating("a", "look", 12)})
	require.NoError(t, err)
	a := all[0]
	assert.InDelta(t, (0.25*9+0.25*6)/0.5, float64(a.Fit), 1e-12)
	assert.InDelta(t, 0.25*9+0.25*6, float64(a.Low), 1e-12)
	assert.InDelta(t, float64(a.Low)+0.5*9, float64(a.High), 1e-12)
	assert.Zero(t, all[1].Known)
	assert.Zero(t, all[1].Place, "nothing known, no place")
}

func TestSeveralRatersMeanAndSpread(t *testing.T) {
	second := rating("a", "ease", 18)
	second.Rater = "Bo"
	all, err := fit.Judge([]fit.Subject{subject("a", 1000)}, criteria, []fit.Rating{rating("a", "ease", 12), second})
	require.NoError(t, err)
	p := all[0].Parts[1]
	assert.Equal(t, fit.Score(7.5), p.Score)
	assert.Equal(t, 2, p.Raters)
	assert.GreaterOrEqual(t, p.Spread, fit.Score(fit.Disagreement))
}

func TestWhatIsOutStaysVisibleButHasNoPlace(t *testing.T) {
	ratings := []fit.Rating{rating("a", "ease", 18), rating("b", "ease", 2), rating("c", "ease", 2)}
	all, err := fit.Judge([]fit.Subject{subject("a", 1000, "no event triggers"), subject("b", 1000), subject("c", 1000)}, criteria, ratings)
	require.NoError(t, err)
	assert.Equal(t, []int{1, 2, 0}, fit.Order(all), "equals keep the order of the line-up; out comes last")
	assert.Equal(t, []int{0, 0, 0}, []int{all[0].Place, all[1].Place, all[2].Place}, "a rating that is missing could turn the order")
	for _, option := range []string{"b", "c"} {
		ratings = append(ratings, rating(option, "look", 9))
	}
	all, err = fit.Judge([]fit.Subject{subject("a", 1000, "no event triggers"), subject("b", 1000), subject("c", 1000)}, criteria, ratings)
	require.NoError(t, err)
	assert.Equal(t, []int{0, 1, 2}, []int{all[0].Place, all[1].Place, all[2].Place})
	assert.True(t, all[1].Tied && all[2].Tied && !all[0].Tied)
	assert.Greater(t, all[0].Fit, all[1].Fit)
	all, err = fit.Judge([]fit.Subject{{Option: "b", Costs: 2, Measured: subject("", 1000).Measured}, {Option: "c", Costs: 1, Measured: subject("", 1000).Measured}}, criteria, ratings)
	require.NoError(t, err)
	assert.Equal(t, []int{2, 1}, []int{all[0].Place, all[1].Place}, "of equals the cheaper comes first")
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
		fmt.Printf("%s %s, place %d\n", s.Option, s.Fit, s.Place)
	}
	// Output:
	// a 6.5, place 2
	// b 7.5, place 1
}

// TestAPlaceIsWhatNoMissingRatingCanTurn fills missing ratings in at their ends, in
// every way, and sees in which orders the options can come to stand: who has a
// place has it in all of them, who has none stands at several, and who could lead
// does in some.
func TestAPlaceIsWhatNoMissingRatingCanTurn(t *testing.T) {
	r := rand.New(rand.NewPCG(10, 1))
	firm, open := 0, 0
	for range 3000 {
		subjects := []fit.Subject{subject("a", 1000+r.Int64N(4000)), subject("b", 1000+r.Int64N(4000)), subject("c", 1000+r.Int64N(4000))}
		var known []fit.Rating
		var missing []fit.Rating
		for i, s := range subjects {
			subjects[i].Costs = s.Measured["cost"]
			for _, c := range []string{"ease", "look"} {
				if one := rating(s.Option, c, fit.Halves(r.IntN(19))); r.IntN(4) > 0 {
					known = append(known, one)
				} else {
					missing = append(missing, one)
				}
			}
		}
		all, err := fit.Judge(subjects, criteria, known)
		require.NoError(t, err)
		var ahead [3][3]bool // whether one was ever seen ahead of another, as they are shown
		for way := range 1 << len(missing) {
			filled := slices.Clone(known)
			for i, one := range missing {
				one.Value = fit.Halves(18 * (way >> i & 1))
				filled = append(filled, one)
			}
			full, err := fit.Judge(subjects, criteria, filled)
			require.NoError(t, err)
			for i := range full {
				for j := range full {
					ahead[i][j] = ahead[i][j] || full[i].Fit.Tenths() > full[j].Fit.Tenths()
				}
			}
		}
		could := fit.CouldLead(all)
		for i := range all {
			turns, beaten := false, false
			for j := range all {
				turns = turns || ahead[i][j] && ahead[j][i]
				beaten = beaten || j != i && ahead[j][i] && !ahead[i][j] && all[j].Low.Tenths() > all[i].High.Tenths()
			}
			if turns {
				open++
				require.Zero(t, all[i].Place, "%v", all)
			} else {
				firm++
				require.NotZero(t, all[i].Place, "%v", all)
			}
			require.Equal(t, !beaten, slices.Contains(could, i))
		}
	}
	assert.Greater(t, firm, 500)
	assert.Greater(t, open, 500)
}

// TestWhatIsShownIsWhatIsSubtracted goes through pairs of scores: the difference that
// is told is that of the numbers beside it.
func TestWhatIsShownIsWhatIsSubtracted(t *testing.T) {
	for x := range 901 {
		for _, y := range []int{0, 605, 615, 624, 625, 626, 900} {
			a, b := fit.Score(float64(x)/100), fit.Score(float64(y)/100)
			told, err := strconv.ParseFloat(a.Ahead(b).String(), 64)
			require.NoError(t, err)
			shownA, _ := strconv.ParseFloat(a.String(), 64)
			shownB, _ := strconv.ParseFloat(b.String(), 64)
			require.InDelta(t, max(0, shownA-shownB), told, 1e-9, "%s and %s", a, b)
		}
	}
	assert.Equal(t, "6.3", fit.Score(6.25).String(), "half rounds up")
	assert.Equal(t, "0.0", fit.Score(0).String())
	assert.Equal(t, "9.0", fit.Score(8.96).String())
}
