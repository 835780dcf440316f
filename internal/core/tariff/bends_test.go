package tariff_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
)

// Over the same lists as the bounds: a bend is one of the breaks between two rows, and
// there is one, packs counted, where there are breaks.
func TestABendIsOneOfTheBreaks(t *testing.T) {
	r := random{rand.New(rand.NewPCG(4, 4))}
	bends, none, packs := 0, 0, 0
	for range lists() / 2 {
		e, programs := r.programs()
		for _, p := range programs {
			lo, hi := r.between(e)
			breaks, count, whole := make([][]int64, len(lo)), 0, true
			for m := range lo {
				hi[m] = min(hi[m], 1_000_000_000)
				lo[m] = min(lo[m], hi[m])
				all, ok := p.Breaks(1000, m, lo[m], hi[m], 40, false)
				breaks[m], count, whole = all, count+len(all), whole && ok
			}
			if !whole {
				continue
			}
			meter, reading, many := p.Bend(1000, lo, hi, true)
			require.Equal(t, count > 0, many > 0, "%v to %v: %v", lo, hi, breaks)
			if many > 0 {
				require.True(t, slices.Contains(breaks[meter], reading), "%v to %v", lo, hi)
				require.LessOrEqual(t, many, count)
				bends++
			} else {
				none++
			}
			if m, at, n := p.Bend(1000, lo, hi, false); n > 0 {
				require.True(t, slices.Contains(breaks[m], at), "%v to %v", lo, hi)
			} else if many > 0 {
				packs++
			}
		}
	}
	require.Greater(t, bends, 200)
	require.Greater(t, none, 100)
	require.Greater(t, packs, 10)
}
