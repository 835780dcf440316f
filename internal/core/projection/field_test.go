package projection

import (
	"context"
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/require"
)

func TestAFieldIsWhatPricingEveryPairSays(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	model, err := usage.NewModel(nil, map[string]usage.Path{"automated_emails": {Now: usage.Quantity(600_000)}})
	require.NoError(t, err)
	edges := 0
	for range 40 {
		all, _ := bidders(t, r, bent)
		pair := AlongTwo(context.Background(), model, 0, Whole("contacts"), Whole("newsletters"))
		xs, ys := Ticks(1, 2000, 40), Ticks(0, 6, 20)
		require.Len(t, ys, 7)
		f, err := NewField(context.Background(), all, pair, xs, ys, Cheapest)
		require.NoError(t, err)
		for j, y := range ys {
			next := int64(1)
			for k, run := range f.Rows[j] {
				require.Equal(t, next, run.From)
				next = run.To + 1
				// A run is what it says at its ends, and at each value that was looked at.
				at := []int64{run.From, run.To}
				if k > 0 {
					at = append(at, run.From-1)
					edges++
				}
				same := make([]int64, len(at))
				for i := range same {
					same[i] = y
				}
				best, err := BestAt(context.Background(), all, pair, at, same, Cheapest)
				require.NoError(t, err)
				require.Equal(t, run.Least, best[0])
				if k > 0 {
					require.Equal(t, f.Rows[j][k-1].Least, best[2], "the last one before the edge")
				}
			}
			require.Equal(t, int64(2001), next)
			for i, x := range xs {
				for _, run := range f.Rows[j] {
					if run.From <= x && x <= run.To {
						require.Equal(t, f.Best[j][i], run.Least)
					}
				}
			}
		}
	}
	require.Greater(t, edges, 50)
}

func TestTicks(t *testing.T) {
	require.Equal(t, []int64{1, 2, 3}, Ticks(1, 3, 50))
	require.Equal(t, []int64{0, 25, 50, 75, 100}, Ticks(0, 100, 5))
	require.Equal(t, []int64{7}, Ticks(7, 7, 5))
}

// BenchmarkField prices 80 by 50 pairs.
func BenchmarkField(b *testing.B) {
	for _, options := range []int{3, 6, 12} {
		all, _ := swept(b, options, 4)
		model, err := usage.NewModel(nil, map[string]usage.Path{"newsletters": {Now: usage.Of(4)}})
		require.NoError(b, err)
		pair := AlongTwo(context.Background(), model, 0, Whole("contacts"), Whole("seats"))
		b.Run(string(rune('0'+options/3)), func(b *testing.B) {
			for b.Loop() {
				_, err := NewField(context.Background(), all, pair, Ticks(0, 60_000, 80), Ticks(1, 50, 50), Cheapest)
				require.NoError(b, err)
			}
		})
	}
}
