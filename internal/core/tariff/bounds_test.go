package tariff_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"

	"github.com/stretchr/testify/require"
)

// programs are those of a random list; none where they cannot be compiled.
func (r random) programs() (*pricelist.Edition, []*tariff.Program) {
	e, d := r.edition()
	programs, err := tariff.All(e, d)
	if err != nil {
		return e, nil
	}
	return e, programs
}

// between are two rows of readings, the lower and the higher of each meter apart.
func (r random) between(e *pricelist.Edition) (lo, hi []int64) {
	lo, hi = r.readings(e), r.readings(e)
	for m := range lo {
		lo[m], hi[m] = min(lo[m], hi[m]), max(lo[m], hi[m])
	}
	return lo, hi
}

// Over mixes of charges, limits, add-ons, offers and currencies: no reading between two
// rows costs less, or more, than the bounds of these, and the bounds of one row are
// what it costs.
func TestBoundsHoldForAllReadingsBetweenTwoRows(t *testing.T) {
	r := random{rand.New(rand.NewPCG(9, 9))}
	looked, settled := 0, 0
	for range lists() / 2 {
		e, programs := r.programs()
		for _, p := range programs {
			for range 3 {
				lo, hi := r.between(e)
				least, most := p.Bounds(1000, lo, hi)
				for range 6 {
					q := slices.Clone(lo)
					for m := range q {
						if hi[m] > lo[m] {
							q[m] += r.Int64N(hi[m] - lo[m] + 1)
						}
					}
					price, ok := p.Monthly(1000, q)
					looked++
					if !ok {
						price = tariff.Never
					} else {
						settled++
					}
					require.LessOrEqual(t, least, price, "%v between %v and %v", q, lo, hi)
					require.GreaterOrEqual(t, most, price, "%v between %v and %v", q, lo, hi)
					a, b := p.Bounds(1000, q, q)
					require.Equal(t, price, a, "%v", q)
					require.Equal(t, price, b, "%v", q)
				}
			}
		}
	}
	require.Greater(t, settled, looked/10)
}
