package tariff_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	"ninecoins/internal/core/tariff"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestWithoutAMustIsAsIfItHadNeverBeenAsked holds programs from which a must was
// taken against those that were compiled without it.
func TestWithoutAMustIsAsIfItHadNeverBeenAsked(t *testing.T) {
	r := random{rand.New(rand.NewPCG(9, 77))}
	reused, anew := 0, 0
	for range 2_000 {
		e, d := r.edition()
		if len(d.Musts) == 0 {
			continue
		}
		all, err := tariff.All(e, d)
		require.NoError(t, err)
		must := d.Musts[r.IntN(len(d.Musts))]
		got, ok := tariff.Without(must, all)
		if !ok {
			anew++
			continue
		}
		d.Musts = slices.DeleteFunc(slices.Clone(d.Musts), func(m string) bool { return m == must })
		want, err := tariff.All(e, d)
		require.NoError(t, err)
		require.Len(t, got, len(want))
		row := r.readings(e)
		for i := range want {
			require.ElementsMatch(t, want[i].Barred, got[i].Barred)
			require.ElementsMatch(t, want[i].Questions, got[i].Questions)
			a, served := want[i].Price(0, row)
			b, too := got[i].Price(0, row)
			require.Equal(t, served, too)
			require.Equal(t, a, b)
			if len(all[i].Barred)+len(all[i].Questions) > len(got[i].Barred)+len(got[i].Questions) {
				reused++
			}
		}
	}
	assert.Greater(t, reused, 50)
	assert.Greater(t, anew, 50)
}
