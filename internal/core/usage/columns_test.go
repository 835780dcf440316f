package usage_test

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// anyFormula is a random formula over some names, of which some cannot be worked
// out everywhere.
func anyFormula(r *rand.Rand, names []string, deep int) string {
	if deep == 0 {
		if r.IntN(3) == 0 {
			return fmt.Sprint(r.IntN(4))
		}
		return names[r.IntN(len(names))]
	}
	a, b := anyFormula(r, names, deep-1), anyFormula(r, names, r.IntN(deep))
	switch r.IntN(8) {
	case 0:
		return "min(" + a + ", " + b + ", 40)"
	case 1:
		return "max(" + a + ", " + b + ")"
	case 2:
		return []string{"ceil", "floor", "round"}[r.IntN(3)] + "(" + a + ")"
	case 3:
		return "(-" + a + ")"
	}
	return "(" + a + " " + []string{"+", "-", "*", "/"}[r.IntN(4)] + " " + b + ")"
}

// TestAFormulaOverColumnsIsTheSameRowByRow holds columns against one row at a time:
// the values, and which row is the first that has a fault, and which.
func TestAFormulaOverColumnsIsTheSameRowByRow(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 9))
	names, faults := []string{"contacts", "seats", "newsletters"}, 0
	for range 3000 {
		f, err := usage.KeptFormula(anyFormula(r, names, 3))
		require.NoError(t, err)
		rows := 1 + r.IntN(12)
		set := map[string][]float64{}
		for _, name := range names {
			for range rows {
				set[name] = append(set[name], float64(r.IntN(7)))
			}
		}
		m, err := usage.NewModel(nil, nil)
		require.NoError(t, err)
		c, err := m.Usages(0, rows, set)
		require.NoError(t, err)
		got, fault := f.Over(c)
		for row := range rows {
			values := map[string]float64{}
			for _, name := range names {
				values[name] = set[name][row]
			}
			want, err := f.Value(values)
			if err != nil {
				var at *usage.RowError
				require.ErrorAs(t, fault, &at, "%s", f)
				require.Equal(t, row, at.Row, "%s", f)
				require.Equal(t, err.Error(), at.Err.Error())
				faults++
				fault = nil
				break
			}
			require.Equal(t, want, got[row], "%s in row %d", f, row)
		}
		require.NoError(t, fault, "%s", f)
	}
	assert.Greater(t, faults, 300)
}

// TestMonthsAreTheSameByColumns works a model out by columns and month by month,
// with drivers of its own that fall out of their range on the way.
func TestMonthsAreTheSameByColumns(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 10))
	faults := 0
	for range 400 {
		paths := map[string]usage.Path{
			"contacts": {Now: usage.Of(r.Int64N(9000)), Growth: money.Share(r.Int64N(200_000) - 50_000)}, "seats": {Now: usage.Of(r.Int64N(9))},
			"newsletters": {Now: usage.Of(4), Growth: money.Share(r.Int64N(20_000))},
		}
		own := []usage.Driver{{Key: "trays", Name: "Trays", Unit: "tray", Kind: usage.Stock, Formula: anyFormula(r, []string{"contacts", "seats", "newsletters"}, 2)},
			{Key: "vans", Name: "Vans", Unit: "van", Kind: usage.Stock, Formula: anyFormula(r, []string{"trays", "contacts"}, 2)}}
		m, err := usage.NewModel(own, paths)
		require.NoError(t, err)
		c, fault := m.Columns(36)
		for month := range 36 {
			values, err := m.At(month)
			if err != nil {
				require.Equal(t, err, fault)
				require.ErrorContains(t, fault, fmt.Sprintf("in month %d", month+1))
				faults++
				fault = nil
				break
			}
			for key, v := range values {
				require.Equal(t, v, c.Of(key)[month], "%s in month %d", key, month+1)
			}
		}
		require.NoError(t, fault)
	}
	assert.Greater(t, faults, 50)
}

func TestColumnsTellWhatTheyLack(t *testing.T) {
	m, err := usage.NewModel(nil, map[string]usage.Path{"contacts": {Now: usage.Of(5)}})
	require.NoError(t, err)
	c, err := m.Columns(3)
	require.NoError(t, err)
	assert.Equal(t, 3, c.Rows())
	assert.Equal(t, []float64{5, 5, 5}, c.Of("contacts"))
	assert.Equal(t, []float64{0, 0, 0}, c.Of("seats"), "set by nobody")
	assert.Equal(t, []float64{0, 0, 0}, c.Of("pigeons"), "unknown")
	gone := c.Without("contacts", "pigeons")
	assert.NotEqual(t, gone.Of("contacts")[0], gone.Of("contacts")[0], "no number")
	assert.Equal(t, []float64{5, 5, 5}, c.Of("contacts"), "the columns themselves stay")

	// The first usage at fault is told, by its row.
	_, err = m.Usages(4, 3, map[string][]float64{"contacts": {1, 2e12, 3e12}, "newsletters": {1e6, 1e6, 1e6}})
	var at *usage.RowError
	require.ErrorAs(t, err, &at)
	assert.Equal(t, 1, at.Row)
	var driver *usage.DriverError
	require.True(t, errors.As(err, &driver))
	assert.Equal(t, 5, driver.Month)
	assert.True(t, strings.HasPrefix(err.Error(), "row 2: driver "), err.Error())
	empty, err := m.Usages(0, 0, map[string][]float64{"contacts": {}})
	require.NoError(t, err)
	assert.Zero(t, empty.Rows())
}
