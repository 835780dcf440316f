package demo_test

import (
	"testing"

	"ninecoins/internal/core/study"
	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestMovesAreLookedAtInFewerMonthsWhereSearchesAreLong has offers that anybody can have at each signing,
// on so many plans and months that looking at moves in each would take too long.
func TestMovesAreLookedAtInFewerMonthsWhereSearchesAreLong(t *testing.T) {
	o := study.Compute(testkit.Upper(t, testkit.Size{Options: 2, Plans: 8, Terms: 4, Bands: 3, AddOns: 1, Offers: 1, Packs: 2, Months: 120, Anybody: true}))
	require.Nil(t, o.Panic)
	roads, err := o.Roads(t.Context(), nil)
	require.NoError(t, err)
	every := roads.Every()
	require.Greater(t, every, 1)
	for month := range 121 {
		road, looked := roads.Pair(0, 1, month)
		require.Equal(t, month%every == 0, looked, month)
		if looked {
			require.Positive(t, road.Total)
			require.Zero(t, road.Unserved())
		}
	}
	month, best, ok := roads.BestMonth(0, 1)
	require.True(t, ok)
	assert.Zero(t, month%every)
	cheapest, ok := roads.Cheapest()
	require.True(t, ok)
	assert.LessOrEqual(t, cheapest.Total, best.Total)
	for _, leg := range cheapest.Legs {
		assert.Zero(t, leg.From%every)
	}
}
