package money_test

import (
	"errors"
	"math/rand/v2"
	"strings"
	"testing"

	"ninecoins/internal/core/money"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTypedNumbersAreReadWhereTheyMeanOneThing(t *testing.T) {
	for typed, want := range map[string]string{
		"6400": "6400", "0.6": "0.6", "12.50": "12.50", " 7 ": "7", "-0.5": "-0.5", "−2": "-2", "+1.5": "1.5", "0": "0", "0.600": "0.600", "6400.125": "6400.125",
		"6,400": "6400", "1,234,567.89": "1234567.89", "6,400.125": "6400.125", "-6,400": "-6400",
		"6 400": "6400", "6\u2009400": "6400", "6\u202f400.5": "6400.5", "1\u00a0234\u00a0567": "1234567", "007": "007", "6.4000": "6.4000",
	} {
		got, err := money.Plain(typed)
		assert.NoError(t, err, typed)
		assert.Equal(t, want, got, typed)
	}
}

func TestTypedNumbersThatCouldMeanSomethingElseAreAskedAbout(t *testing.T) {
	for typed, want := range map[string][]string{
		"6,5": {"6.5"}, "0,6": {"0.6"}, "12,50": {"12.5"}, "-0,5": {"-0.5"}, "0,600": {"0.6"}, "1234,567": {"1,234.567"}, "6,4000": {"6.4"},
		"6.400,00": {"6,400"}, "6.400,5": {"6,400.5"}, "1.234.567": {"1,234,567"}, "1.234.567,89": {"1,234,567.89"}, "6 400,5": {"6,400.5"}, "6\u202f400,50": {"6,400.5"},
		"6.400": {"6.4", "6,400"}, "12.500": {"12.5", "12,500"}, "-6.125": {"-6.1250", "-6,125"}, "100.000": {"100", "100,000"}, ".6": {"0.6"},
		"45%": {"45", "0.45"}, "300 %": {"300", "3"}, "1,250.5%": {"1,250.5", "12.5050"}, "-5%": {"-5", "-0.05"}, "0.5%": {"0.5", "0.005"}, "6,5%": {"6.5"},
	} {
		_, err := money.Plain(typed)
		var asked *money.UnclearError
		require.True(t, errors.As(err, &asked), "%q: %v", typed, err)
		assert.Equal(t, want, asked.Readings, typed)
		assert.ErrorContains(t, err, strings.Join(want, " or "))
		for _, r := range asked.Readings {
			_, err := money.Plain(r)
			assert.NoError(t, err, "what is offered for %q is taken", typed)
		}
	}
}

func TestWhatIsNoNumberIsRefused(t *testing.T) {
	for _, typed := range []string{"", " ", "many", "1e3", "0x10", "1_000", "6,40,0", "6,400,5", "1,234,56", "6,400 000", "6 40", "6. 400", "5.", "--5", "+-5", "- 5", "6,", ",6", "6'400", "٦", "6,400.5,5", "1.2.3", "12.34.567", "NaN", "∞", "6\t400", "%", "--5%", "-+5%", "many%"} {
		_, err := money.Plain(typed)
		assert.ErrorIs(t, err, money.ErrSyntax, "%q", typed)
	}
}

// TestWhatAFieldShowsReadsBackAsItself holds for every amount: a value that is
// copied out of a field and typed again is the same value.
func TestWhatAFieldShowsReadsBackAsItself(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 5))
	values := []money.Amount{0, 1, 6_125_000, 999_999_000, 1_000_125_000, 100, 125_000, 6_400_000_000}
	for range 5000 {
		v := money.Amount(random.Int64N(1 << (1 + random.IntN(62))))
		for range random.IntN(7) {
			v = v / 10 * 10
		}
		values = append(values, v)
	}
	for _, v := range values {
		for _, v := range []money.Amount{v, -v} {
			plain, err := money.Plain(v.Grouped())
			require.NoError(t, err, v.Grouped())
			back, err := money.ParseAmount(plain)
			require.NoError(t, err)
			require.Equal(t, v, back, v.Grouped())
		}
	}
	assert.Equal(t, "6.1250", money.Amount(6_125_000).Grouped())
	assert.Equal(t, "2.1250", money.Share(21_250).Grouped())
	assert.Equal(t, "0.125", money.Amount(125_000).Grouped())
	assert.Equal(t, "1,249.5", money.Amount(1_249_500_000).Grouped())
}
