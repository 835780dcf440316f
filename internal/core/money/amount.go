package money

import (
	"errors"
	"fmt"
	"math"
	"strings"
)

// Scale is the number of parts that an Amount's unit is counted in.
const Scale = 1_000_000

// ErrOverflow reports a result that does not fit its type.
var ErrOverflow = errors.New("amount is too large")

// ErrSyntax reports text that is not a plain decimal number.
var ErrSyntax = errors.New("not a plain number")

// Amount is a sum of money in millionths of a currency's unit. The zero value
// is no money. The currency stands beside it, not in it.
type Amount int64

// ParseAmount reads a plain decimal with a point and up to six decimals, such
// as "12", "-0.5" or "1249.99". It returns an error wrapping [ErrSyntax] or
// [ErrOverflow].
func ParseAmount(s string) (Amount, error) {
	v, err := parseScaled(s, 6)
	return Amount(v), err
}

// Units returns n whole units of a currency.
func Units(n int64) Amount { return Amount(n * Scale) }

// Plus returns a+b, or [ErrOverflow].
func (a Amount) Plus(b Amount) (Amount, error) {
	sum := a + b
	if (b > 0 && sum < a) || (b < 0 && sum > a) {
		return 0, fmt.Errorf("adding %s and %s: %w", a, b, ErrOverflow)
	}
	return sum, nil
}

// Sum adds amounts, or returns [ErrOverflow].
func Sum(amounts ...Amount) (Amount, error) {
	var total Amount
	for _, a := range amounts {
		var err error
		if total, err = total.Plus(a); err != nil {
			return 0, err
		}
	}
	return total, nil
}

// String writes the amount as a plain decimal with a point and no more
// decimals than it has, as files hold it: "12", "-0.5".
func (a Amount) String() string { return scaledString(int64(a)) }

// Grouped writes the amount as a field holds it: with thousands apart, and so
// that [Plain] reads it back: "1,249.5".
func (a Amount) Grouped() string { return Legible(a.String()) }

// MarshalJSON writes the amount as decimal text: "12.5".
func (a Amount) MarshalJSON() ([]byte, error) { return []byte(`"` + a.String() + `"`), nil }

// Float returns the amount in units, rounded to binary floating point. It is
// for positions in a chart and for value functions, never for sums.
func (a Amount) Float() float64 { return float64(a) / Scale }

func scaledString(v int64) string {
	sign, mag := "", uint64(v)
	if v < 0 {
		sign, mag = "-", uint64(-v)
	}
	whole, frac := mag/Scale, mag%Scale
	if frac == 0 {
		return fmt.Sprintf("%s%d", sign, whole)
	}
	return sign + strings.TrimRight(fmt.Sprintf("%d.%06d", whole, frac), "0")
}

// parseScaled reads a decimal into millionths, allowing at most places
// decimals.
func parseScaled(s string, places int) (int64, error) {
	rest, negative := s, false
	if strings.HasPrefix(rest, "-") {
		rest, negative = rest[1:], true
	}
	whole, frac, hasPoint := strings.Cut(rest, ".")
	if whole == "" || (hasPoint && frac == "") {
		return 0, fmt.Errorf("%q: %w", s, ErrSyntax)
	}
	if len(frac) > places {
		return 0, fmt.Errorf("%q has more than %d decimals: %w", s, places, ErrSyntax)
	}
	var v uint64
	digits := whole + frac + strings.Repeat("0", 6-len(frac))
	for _, c := range []byte(digits) {
		if c < '0' || c > '9' {
			return 0, fmt.Errorf("%q: %w", s, ErrSyntax)
		}
		if v > (math.MaxInt64-uint64(c-'0'))/10 {
			return 0, fmt.Errorf("%q: %w", s, ErrOverflow)
		}
		v = v*10 + uint64(c-'0')
	}
	if negative {
		return -int64(v), nil
	}
	return int64(v), nil
}
