package formats

import (
	"os"
	"testing"
	"time"

	"ninecoins/internal/core/pricelist"
	pages "ninecoins/internal/core/reader"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The exercise in docs, read by rules, comes to its solution, which was written by hand.
func TestTheExerciseIsReadToItsSolution(t *testing.T) {
	data, err := os.ReadFile("../../docs/exercise/price-page.html")
	require.NoError(t, err)
	file, err := os.ReadFile("../../docs/exercise/solution.json")
	require.NoError(t, err)
	want, err := StatedPriceList(t.Context(), file)
	require.NoError(t, err)
	page, err := ParsePage(data)
	require.NoError(t, err)
	got := pages.Page(page, pricelist.Platform{Key: "wicker-letters", Name: "Wicker Letters", Does: []string{"email"}}, time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC), "a test")
	plain, err := WritePriceList(&got.Edition)
	require.NoError(t, err)
	e, err := StatedPriceList(t.Context(), plain)
	require.NoError(t, err)
	assert.Empty(t, pricelist.Compare(&want, &e))
	a, err := WritePrices(&want)
	require.NoError(t, err)
	b, err := WritePrices(&e)
	require.NoError(t, err)
	assert.Equal(t, string(a), string(b))
	assert.Equal(t, want.Trial, e.Trial)
	assert.Equal(t, want.AddOns[0].IncludedOn, e.AddOns[0].IncludedOn)
	assert.Len(t, got.Left, 3, "the year, the stars and the shops")
}
