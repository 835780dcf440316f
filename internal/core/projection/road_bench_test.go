package projection

import (
	"context"
	"fmt"
	"testing"

	"ninecoins/internal/core/money"

	"github.com/stretchr/testify/require"
)

// BenchmarkRoads finds the cheapest road over 12 options.
func BenchmarkRoads(b *testing.B) {
	for _, months := range []int{30, 60, 120} {
		var all []Mover
		for i, c := range field(12, 4, months) {
			require.NoError(b, c.Compile())
			all = append(all, Mover{Tools: []Candidate{c}, In: money.Units(200), Twice: 1, Now: i == 0})
		}
		b.Run(fmt.Sprint(months), func(b *testing.B) {
			for b.Loop() {
				r, err := NewRoads(context.Background(), all, months, nil)
				require.NoError(b, err)
				_, ok := r.Cheapest()
				require.True(b, ok)
			}
		})
	}
}
