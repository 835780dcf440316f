package study_test

import (
	"testing"
	"time"

	"ninecoins/internal/core/feature"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEachStartingPointMakesASoundStudy(t *testing.T) {
	assert.Len(t, study.Starts(), 10)
	for _, start := range study.Starts() {
		s := study.Begun(time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC), money.Currency{})
		s.Key, s.Title = "s", "S"
		assert.True(t, s.Begins())
		change := start.Into(&s)
		after, made, err := study.Kept().Apply(s, change)
		require.NoError(t, err, start.Key)
		o := study.Compute(&after)
		assert.Empty(t, o.Faults, start.Key)
		assert.False(t, after.Begins())
		assert.NotEmpty(t, after.Question)
		musts, sum := 0, money.Share(0)
		for _, n := range after.Needs {
			_, shipped := (*feature.Catalogue)(nil).Find(n.Feature)
			assert.True(t, shipped, "%s: %s is no feature that ships", start.Key, n.Feature)
			if n.Level == "must" {
				musts++
			}
		}
		for _, c := range after.Criteria {
			sum += c.Weight
		}
		assert.GreaterOrEqual(t, musts, 2, start.Key)
		assert.Equal(t, money.Share(money.Whole), sum, "%s: the weights are shares of 100", start.Key)
		for _, d := range after.Drivers {
			one, standard := usage.InCatalogue(d.Driver)
			assert.True(t, standard && !one.Derived(), "%s: %s", start.Key, d.Driver)
		}
		assert.Empty(t, start.Into(&after), "what is there already is not brought again")
		before, _, err := study.Kept().Apply(after, made.Inverse())
		require.NoError(t, err)
		assert.Equal(t, study.Kept().Pieces(s), study.Kept().Pieces(before), "one undo takes it back")
	}
}
