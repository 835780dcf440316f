package tariff_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// counts are formulas over a driver by which meters are read: some meters follow
// it, at a rate and rounded, and some do not.
var counts = []string{"contacts", "contacts * 1.18", "contacts * 4", "ceil(contacts / 3)", "contacts * 0.35 + 40", "max(contacts - 500, 0)", "700", "4000 - contacts / 2", "contacts * contacts / 2000"}

// driven reads the meters of an edition along contacts.
func driven(t *testing.T, r random, e *pricelist.Edition) func(int64) []int64 {
	t.Helper()
	e.Meters = slices.Clone(e.Meters)
	for m := range e.Meters {
		f, err := usage.ParseFormula(counts[r.IntN(len(counts))])
		require.NoError(t, err)
		e.Meters[m].Counts = f
	}
	model, err := usage.NewModel(nil, nil)
	require.NoError(t, err)
	return func(x int64) []int64 {
		values, err := model.Usages(0, 1, map[string][]float64{"contacts": {float64(x)}})
		require.NoError(t, err)
		rows, err := tariff.Read(e, values)
		require.NoError(t, err)
		return rows[0]
	}
}

// remembered reads each value once.
func remembered(read func(int64) []int64) func(int64) []int64 {
	known := map[int64][]int64{}
	return func(x int64) []int64 {
		if known[x] == nil {
			known[x] = read(x)
		}
		return known[x]
	}
}

// TestBreaksAlongADriverAreThoseOfItsMeters walks every value of a driver in a range:
// the course of the price changes at the breaks that are found and nowhere else.
func TestBreaksAlongADriverAreThoseOfItsMeters(t *testing.T) {
	t.Parallel()
	r := random{rand.New(rand.NewPCG(9, 40))}
	found, causes := 0, map[tariff.CauseKind]int{}
	for n := range 500 {
		e, d := r.edition()
		e.Offers = nil
		if n%3 == 0 {
			e.Plans[0].Limits = append(e.Plans[0].Limits, pricelist.Limit{Meter: e.Meters[n%2].Key, Most: usage.Of(1 + r.Int64N(4_000)), Beyond: pricelist.MoveUp})
		}
		if n%2 == 0 {
			e.AddOns, d.Musts = nil, nil
		}
		p := &e.Plans[0]
		read := remembered(driven(t, r, e))
		all, err := tariff.Compile(e, p, p.Terms[0], d)
		require.NoError(t, err)
		drive := &tariff.Drive{Program: all[0], Since: 1, Read: read}
		from := r.Int64N(3_000)
		const span = 600
		course := func(x int64) []int64 {
			c, ok := all[0].Cost(1, 0, read(x))
			if !ok {
				return nil
			}
			return all[0].Marks(c, 1, 0, read(x), nil)
		}
		var want []int64
		for x := from + 1; x <= from+span; x++ {
			if !slices.Equal(course(x), course(x-1)) {
				want = append(want, x)
			}
		}
		var got []int64
		for x := from; ; {
			at, meter, cause, ok := drive.Next(x, from+span)
			if !ok {
				break
			}
			require.Greater(t, at, x)
			require.LessOrEqual(t, at, from+span)
			if got, x = append(got, at), at; meter >= 0 {
				causes[cause.Kind]++
				require.NotEqual(t, read(at)[meter], read(at - 1)[meter], "what brings it there has moved")
			}
		}
		require.Equal(t, want, got, "case %d", n)
		found += len(want)
	}
	assert.Greater(t, found, 1_000)
	for _, kind := range []tariff.CauseKind{tariff.NextBand, tariff.NextPack, tariff.PastLimit, tariff.Included} {
		assert.Greater(t, causes[kind], 10, kind)
	}
}

// TestCrossingsAlongADriver prices every value in a range on two plans.
func TestCrossingsAlongADriver(t *testing.T) {
	t.Parallel()
	r := random{rand.New(rand.NewPCG(9, 41))}
	found := 0
	for n := range 300 {
		e, d := r.edition()
		other, _ := r.edition()
		e.AddOns, e.Offers, d.Musts = nil, nil, nil
		read := remembered(driven(t, r, e))
		high := other.Plans[0]
		high.Key = "high"
		if n%2 == 0 { // two that run close to each other
			r.near(e, &e.Plans[0], &high)
		}
		e.Plans = append(e.Plans, high)
		var drives [2]*tariff.Drive
		for i := range drives {
			all, err := tariff.Compile(e, &e.Plans[i], e.Plans[i].Terms[0], d)
			require.NoError(t, err)
			drives[i] = &tariff.Drive{Program: all[0], Since: 1, Read: read}
		}
		from := r.Int64N(3_000)
		const span = 900
		want := walked(drives[0], drives[1], from, span)
		require.Equal(t, want, tariff.DriveCrossings(drives[0], drives[1], from, from+span), "case %d", n)
		found += len(want)
	}
	assert.Greater(t, found, 100)
}
