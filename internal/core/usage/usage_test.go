package usage_test

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestFormulasAreArithmetic(t *testing.T) {
	values := map[string]float64{"contacts": 6400, "list_overlap": 0.1, "none": 0}
	for text, want := range map[string]float64{
		"contacts":                            6400,
		"contacts * (1 + list_overlap)":       7040,
		"-contacts + 2*contacts":              6400,
		"7 / 2":                               3.5,
		"ceil(contacts * (1 + list_overlap))": 7040, // noise is not rounded up
		"min(contacts, 100, 3) + max(1, 2)":   5,
		"floor(2.7) + round(2.5)":             5,
		"9223372036854775807 + 1":             9223372036854775808,
	} {
		f, err := usage.ParseFormula(text)
		require.NoError(t, err, text)
		got, err := f.Value(values)
		require.NoError(t, err, text)
		assert.InDelta(t, want, got, 1e-6*math.Max(1, want), text)
	}
}

func TestFaultyFormulasSayWhere(t *testing.T) {
	for _, row := range []struct {
		text, reason string
		column       int
	}{
		{"", "is empty", 0},
		{"contacts +", "unexpected token", 10},
		{"contacts ** 2", "not one of + - * /", 10},
		{"contacts % 2", "'%' is not arithmetic", 10},
		{"contacts // 2", `"//" begins a comment`, 10},
		{"contacts /* a note */ * 2", `"/*" begins a comment`, 10},
		{"contacts / / 2", "unexpected token", 12},
		{"contacts # 2", "'#' is not arithmetic", 10},
		{"contacts | min(3)", "'|' is not arithmetic", 10},
		{"2 * 0x10", "plain digits", 6},
		{"0b11", "plain digits", 2},
		{"0o17", "plain digits", 2},
		{"1_000 * contacts", "plain digits", 2},
		{"2contacts", "plain digits", 2},
		{"5.", "'.' is not arithmetic", 2},
		{".5", "'.' is not arithmetic", 1},
		{"1..3", "'.' is not arithmetic", 2},
		{"kontakte * größe", "'ö' is not arithmetic", 14},
		{"contacts\n* 2", "is not arithmetic", 9},
		{"contacts; 2", "';' is not arithmetic", 9},
		{"let x = 1; x", "'=' is not arithmetic", 7},
		{"contacts ?? 2", "'?' is not arithmetic", 10},
		{"contacts and 2", "not one of + - * /", 10},
		{"contacts/0", "can never be worked out: divides by zero", 9},
		{"contacts / (3 - 1.5*2)", "can never be worked out: divides by zero", 10},
		{"1 + contacts / (seats - seats)", "can never be worked out: divides by zero", 14},
		{"1e308 * 10", "can never be worked out: the result is too large", 0},
		{`"a" + 1`, "numbers, driver names", 1},
		{"[1,2]", "numbers, driver names", 1},
		{"contacts > 5 ? 1 : 2", "numbers, driver names", 0},
		{"map([1], 2)", "'[' is not arithmetic", 5},
		{"len(contacts)", "unknown here", 1},
		{"system(1)", "can call min", 1},
		{"round(1, 2)", "takes 1 to 1", 1},
		{"contacts.length", "numbers, driver names", 0},
		{"not contacts", "not arithmetic", 1},
		{strings.Repeat("1+", 300) + "1", "longer than", 0},
	} {
		_, err := usage.ParseFormula(row.text)
		var fault *usage.FormulaError
		require.True(t, errors.As(err, &fault), "%q: %v", row.text, err)
		assert.Contains(t, fault.Reason, row.reason, row.text)
		if row.column > 0 {
			assert.Equal(t, row.column, fault.Column, row.text)
		}
	}
	f, err := usage.ParseFormula("1 + 6 / (none - 1 + 1)")
	require.NoError(t, err)
	_, err = f.Value(map[string]float64{"none": 0})
	assert.ErrorContains(t, err, "column 7: divides by zero")
	f, err = usage.ParseFormula("1e308 * contacts")
	require.NoError(t, err)
	_, err = f.Value(map[string]float64{"contacts": 10})
	assert.ErrorContains(t, err, "too large")
}

func TestFormulasThatComputeForSomeDriversAreTaken(t *testing.T) {
	for _, text := range []string{"contacts / seats", "1 / (contacts - seats)", "contacts / (seats - 1)", "contacts / floor(contacts / 5000000)", "1 / max(0, contacts - 1000000)", "min(1, 2)", "0", "contacts * 1e3", "a - b + c - d + e"} {
		_, err := usage.ParseFormula(text)
		assert.NoError(t, err, text)
	}
}

// What was kept under wider rules goes on computing as it did.
func TestKeptFormulasGoOnComputing(t *testing.T) {
	for text, want := range map[string]float64{"contacts // 2": 100, "contacts | min(3)": 3, "0x10": 16, "1_000": 1000} {
		f, err := usage.KeptFormula(text)
		require.NoError(t, err, text)
		got, err := f.Value(map[string]float64{"contacts": 100})
		require.NoError(t, err)
		assert.Equal(t, want, got, text)
	}
	m, err := usage.NewModel([]usage.Driver{{Key: "half", Formula: "contacts // 2"}}, map[string]usage.Path{"contacts": {Now: usage.Of(100)}})
	require.NoError(t, err)
	values, err := m.At(0)
	require.NoError(t, err)
	assert.Equal(t, 100.0, values["half"])
}

func TestModelRefusesWhatCannotBe(t *testing.T) {
	paths := map[string]usage.Path{"contacts": {Now: usage.Of(100)}}
	own := func(pairs ...string) (out []usage.Driver) {
		for i := 0; i < len(pairs); i += 2 {
			out = append(out, usage.Driver{Key: pairs[i], Formula: pairs[i+1]})
		}
		return out
	}
	for _, row := range []struct {
		own   []usage.Driver
		paths map[string]usage.Path
		want  string
	}{
		{nil, map[string]usage.Path{"pigeons": {}}, `driver "pigeons" is unknown`},
		{nil, map[string]usage.Path{"emails_sent": {}}, "is derived"},
		{nil, map[string]usage.Path{"contacts": {Growth: 2 * money.Whole}}, "growth 200% a month"},
		{nil, map[string]usage.Path{"contacts": {Now: -1}}, "is not from 0 to 1,000,000,000,000"},
		{own("contacts", "1"), paths, "told twice"},
		{own("a", "b+1", "b", "a*2"), paths, "refers to itself: a needs b needs a"},
		{own("a", "a"), paths, "refers to itself"},
		{own("a", "2 * pigeons"), paths, `column 5: there is no driver "pigeons"`},
	} {
		_, err := usage.NewModel(row.own, row.paths)
		assert.ErrorContains(t, err, row.want)
	}
	m, err := usage.NewModel(own("per_seat", "contacts / seats"), paths)
	require.NoError(t, err)
	_, err = m.At(0)
	assert.ErrorContains(t, err, `driver "per_seat" in month 1`)
	assert.ErrorContains(t, err, "divides by zero")
	m, err = usage.NewModel(nil, map[string]usage.Path{"contacts": {Now: usage.Of(1e6), Growth: money.Whole}})
	require.NoError(t, err)
	_, err = m.At(119)
	assert.ErrorIs(t, err, usage.ErrRange)
}

func TestDerivedDriversFollowTheirSources(t *testing.T) {
	growth, _ := money.ParseShare("2%")
	letters, _ := usage.ParseQuantity("4")
	automated, _ := usage.ParseQuantity("0.6")
	m, err := usage.NewModel([]usage.Driver{{Key: "twice", Formula: "2 * emails_sent"}}, map[string]usage.Path{
		"contacts":         {Now: usage.Of(6400), Growth: growth},
		"newsletters":      {Now: letters},
		"automated_emails": {Now: automated},
	})
	require.NoError(t, err)
	first, err := m.At(0)
	require.NoError(t, err)
	assert.InDelta(t, 29_440, first["emails_sent"], 1e-6)
	assert.InDelta(t, 58_880, first["twice"], 1e-6)
	year, err := m.At(12)
	require.NoError(t, err)
	assert.InDelta(t, 6400*math.Pow(1.02, 12), year["contacts"], 1e-6)
	assert.Contains(t, m.Assumed(), "list_overlap")
	assert.NotContains(t, m.Assumed(), "contacts")
}

func TestGrowthNeverTurnsALevelNegative(t *testing.T) {
	for _, g := range []money.Share{usage.LeastGrowth, -1, 0, 1, usage.MostGrowth} {
		p := usage.Path{Now: usage.Of(10), Growth: g}
		for month := 1; month < 30; month++ {
			assert.GreaterOrEqual(t, p.At(month), 0.0)
			assert.Equal(t, g > 0, p.At(month) > p.At(month-1))
		}
	}
}

func TestQuantitiesAreHeldToTheMillionth(t *testing.T) {
	q, err := usage.FromFloat(6400 * 1.1)
	require.NoError(t, err)
	assert.Equal(t, usage.Of(7040), q.Ceil())
	half, _ := usage.ParseQuantity("1234.5")
	assert.Equal(t, usage.Of(1235), half.Ceil())
	assert.Equal(t, "1,234.5", half.Format())
	almost, _ := usage.ParseQuantity("0.999")
	assert.Equal(t, "1", almost.Format())
	for _, bad := range []string{"-1", "1e9", "1,234", "0,6", "many", "", "9999999999999", "99999999999999999999"} {
		_, err := usage.ParseQuantity(bad)
		assert.Error(t, err, bad)
	}
	for _, bad := range []float64{math.NaN(), math.Inf(1), -0.1, 1e13} {
		_, err := usage.FromFloat(bad)
		assert.ErrorIs(t, err, usage.ErrRange)
	}
}

func TestMonthsCountAcrossYears(t *testing.T) {
	m, err := usage.ParseMonth("2027-11")
	require.NoError(t, err)
	assert.Equal(t, "Jan 2028", m.Plus(2).String())
	assert.Equal(t, "2028-01", m.Plus(2).ISO())
	for _, bad := range []string{"", "2027", "2027-13", "2027-0", "27-01", "2027-1", "1500-01", "2027-01-01"} {
		_, err := usage.ParseMonth(bad)
		assert.Error(t, err, bad)
	}
}

func FuzzFormulaNeverPanics(f *testing.F) {
	for _, start := range []string{"contacts * (1 + list_overlap)", "min(1,", "((((", "a|b", "{a:1}", "#", "let x = 1; x", "1 / 0", "ceil()"} {
		f.Add(start)
	}
	f.Fuzz(func(t *testing.T, text string) {
		formula, err := usage.ParseFormula(text)
		if err != nil {
			var fault *usage.FormulaError
			assert.True(t, errors.As(err, &fault))
			return
		}
		if v, err := formula.Value(map[string]float64{"contacts": 1}); err == nil {
			assert.False(t, math.IsNaN(v) || math.IsInf(v, 0))
		}
	})
}

func ExamplePath_At() {
	growth, _ := money.ParseShare("10%")
	p := usage.Path{Now: usage.Of(1000), Growth: growth}
	fmt.Printf("%.0f %.0f %.0f\n", p.At(0), p.At(1), p.At(2))
	// Output: 1000 1100 1210
}

func TestADriverOfTheStudysOwnTakesThePlaceOfALaterStandardOne(t *testing.T) {
	own := []usage.Driver{{Key: "hourly_cost", Name: "What an hour costs us", Kind: usage.Stock, Formula: "seats * 20"}}
	m, err := usage.NewModel(own, map[string]usage.Path{"seats": {Now: usage.Of(2)}})
	require.NoError(t, err)
	values, err := m.At(0)
	require.NoError(t, err)
	assert.Equal(t, 40.0, values["hourly_cost"])
	_, err = usage.NewModel([]usage.Driver{{Key: "seats", Name: "Seats", Kind: usage.Stock}}, nil)
	assert.ErrorContains(t, err, "told twice")
}

func TestFormulasAreSaidInWords(t *testing.T) {
	for formula, want := range map[string]string{
		"contacts": "contacts",
		"contacts * (newsletters + automated_emails)": "contacts times (letters a month plus automated emails per contact)",
		"contacts + unsubscribed + 10":                "contacts plus unsubscribed plus 10",
		"contacts - (seats - 1)":                      "contacts minus (seats minus 1)",
		"contacts / 2 / 5":                            "(contacts divided by 2) divided by 5",
		"contacts + 0.5 * seats":                      "contacts plus (0.5 times seats)",
		"max(contacts, 500)":                          "the larger of (contacts and 500)",
		"min(contacts, seats, my_own_thing)":          "the smallest of (contacts, seats and my own thing)",
		"ceil(contacts / 100) * 100":                  "(contacts divided by 100) rounded up times 100",
		"-seats":                                      "minus seats",
		"max(seats)":                                  "seats",
	} {
		f, err := usage.ParseFormula(formula)
		require.NoError(t, err, formula)
		assert.Equal(t, want, f.Words(usage.Called), formula)
	}
}

func TestWhatComesInWholeOnesIsWhole(t *testing.T) {
	own := []usage.Driver{{Key: "desks", Name: "Desks", Unit: "desk", Kind: usage.Stock, Whole: true}, {Key: "chairs", Name: "Chairs", Unit: "chair", Kind: usage.Stock, Whole: true, Formula: "desks * 1.5"},
		{Key: "hours", Name: "Hours", Unit: "hour", Kind: usage.Flow, Formula: "seats * 7.25"}}
	path := func(now float64) usage.Path {
		q, err := usage.FromFloat(now)
		require.NoError(t, err)
		return usage.Path{Now: q, Growth: 35_000, High: usage.Variant{Growth: usage.Given[money.Share]{Value: 60_000, Told: true}}}
	}
	m, err := usage.NewModel(own, map[string]usage.Path{"seats": path(2), "desks": path(3), "contacts": path(1000)})
	require.NoError(t, err)
	c, err := m.Columns(24)
	require.NoError(t, err)
	assert.Equal(t, []float64{2, 2, 2, 2, 2, 2, 2, 3}, c.Of("seats")[:8], "2.07 seats are 2")
	assert.Equal(t, 1035.0, math.Round(c.Of("contacts")[1]*1000)/1000, "contacts go on as they grow")
	spread, err := m.Spread(24, nil)
	require.NoError(t, err)
	drawn, err := spread.Paths(rand.New(rand.NewPCG(1, 2)), 50)
	require.NoError(t, err)
	set, err := m.Usages(0, 3, map[string][]float64{"seats": {2.2, 2.5, 7}})
	require.NoError(t, err)
	assert.Equal(t, []float64{2, 3, 7}, set.Of("seats"))
	more, err := m.Adding(c, "desks", slices.Repeat([]float64{0.4}, 24))
	require.NoError(t, err)
	for _, all := range []usage.Columns{c, drawn, set, more} {
		for row, seats := range all.Of("seats") {
			desks := all.Of("desks")[row]
			require.Equal(t, []float64{math.Round(seats), math.Round(desks)}, []float64{seats, desks})
			require.Equal(t, math.Round(desks*1.5), all.Of("chairs")[row])
			require.InDelta(t, seats*7.25, all.Of("hours")[row], 1e-9)
		}
	}
}
