package usage_test

import (
	"testing"

	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestADriverThatIsRaisedFeedsWhatHangsOnIt(t *testing.T) {
	m, err := usage.NewModel([]usage.Driver{{Key: "half", Name: "Half", Kind: usage.Flow, Formula: "tasks / 2"}},
		map[string]usage.Path{"runs": {Now: usage.Of(100)}, "steps_per_run": {Now: usage.Of(3)}})
	require.NoError(t, err)
	c, err := m.Columns(2)
	require.NoError(t, err)
	more, err := m.Adding(c, "runs", []float64{10, 20})
	require.NoError(t, err)
	assert.Equal(t, []float64{110, 120}, more.Of("runs"))
	assert.Equal(t, []float64{330, 360}, more.Of("tasks"))
	assert.Equal(t, []float64{165, 180}, more.Of("half"))
	assert.Equal(t, []float64{100, 100}, c.Of("runs"), "what it was made from stays")
	derived, err := m.Adding(c, "tasks", []float64{5, 6})
	require.NoError(t, err)
	assert.Equal(t, []float64{305, 306}, derived.Of("tasks"), "a derived driver is raised itself")
	assert.Equal(t, []float64{152.5, 153}, derived.Of("half"))
	_, err = m.Adding(c, "dragons", []float64{1, 1})
	assert.ErrorContains(t, err, "is no driver")
	_, err = m.Adding(c, "tasks", []float64{0, usage.Most.Float()})
	assert.ErrorIs(t, err, usage.ErrRange)
}
