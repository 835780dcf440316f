package usage

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"

	"ninecoins/internal/core/money"
)

// Quantity is a number of things (contacts, emails, seats) in millionths. The
// zero value is none.
type Quantity int64

// One is a quantity of 1.
const One Quantity = 1_000_000

// Most is the largest quantity that is taken: a million million.
const Most = 1_000_000_000_000 * One

// ErrRange reports a quantity that is negative, past [Most], or no number.
var ErrRange = errors.New("out of range")

// Of returns n whole things.
func Of(n int64) Quantity { return Quantity(n) * One }

// FromFloat rounds x to the nearest millionth, which takes away the noise of
// binary floating point (6400·1.1 is 7040, not 7040.000000000001). It returns
// an error wrapping [ErrRange] for x below 0, past [Most], or not a number.
func FromFloat(x float64) (Quantity, error) {
	if !(x >= 0 && x <= float64(Most/One)) {
		return 0, fmt.Errorf("quantity %g: %w", x, ErrRange)
	}
	return Quantity(math.Round(x * float64(One))), nil
}

// ParseQuantity reads a plain decimal from 0 to [Most]. Errors wrap
// [money.ErrSyntax] or [ErrRange].
func ParseQuantity(s string) (Quantity, error) {
	a, err := money.ParseAmount(s)
	if errors.Is(err, money.ErrOverflow) {
		return 0, fmt.Errorf("quantity %q: %w", s, ErrRange)
	}
	if err != nil {
		return 0, fmt.Errorf("quantity %q: %w", s, money.ErrSyntax)
	}
	if a < 0 || Quantity(a) > Most {
		return 0, fmt.Errorf("quantity %q: %w", s, ErrRange)
	}
	return Quantity(a), nil
}

// Ceil returns q rounded up to whole things.
func (q Quantity) Ceil() Quantity { return (q + One - 1) / One * One }

// Whole returns the whole things in q, rounded down.
func (q Quantity) Whole() int64 { return int64(q / One) }

// Float returns q as a number of things.
func (q Quantity) Float() float64 { return float64(q) / float64(One) }

// String writes a plain decimal, as files hold it.
func (q Quantity) String() string { return money.Amount(q).String() }

// Format writes q for people: thousands apart and at most two decimals.
func (q Quantity) Format() string {
	whole, frac := q/One, (q%One+5_000)/10_000
	if frac == 100 {
		whole, frac = whole+1, 0
	}
	s := money.Thousands(uint64(whole))
	if frac == 0 {
		return s
	}
	return s + strings.TrimRight("."+fmt.Sprintf("%02d", frac), "0")
}

// Grouped writes q in full, thousands apart: what a field holds.
func (q Quantity) Grouped() string { return money.Amount(q).Grouped() }

// MarshalJSON writes q as a JSON number.
func (q Quantity) MarshalJSON() ([]byte, error) { return []byte(q.String()), nil }

// Month is a calendar month, counted from January of year 0. The zero value is
// no month.
type Month int

// ParseMonth reads "2027-01" (ISO 8601), from 1900-01 to 2199-12.
func ParseMonth(s string) (Month, error) {
	y, m, ok := strings.Cut(s, "-")
	year, err1 := strconv.Atoi(y)
	month, err2 := strconv.Atoi(m)
	if !ok || err1 != nil || err2 != nil || len(y) != 4 || len(m) != 2 || month < 1 || month > 12 || year < 1900 || year > 2199 {
		return 0, fmt.Errorf("month %q is not of the form 2027-01", s)
	}
	return Month(year*12 + month - 1), nil
}

// Plus returns the month n months later.
func (m Month) Plus(n int) Month { return m + Month(n) }

// Year returns the calendar year.
func (m Month) Year() int { return int(m) / 12 }

// Number returns the month of the year, 1 to 12.
func (m Month) Number() int { return int(m)%12 + 1 }

// Short returns the name of the month, "Sep".
func (m Month) Short() string {
	return [...]string{"Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"}[m.Number()-1]
}

// String writes "Sep 2027".
func (m Month) String() string { return fmt.Sprintf("%s %d", m.Short(), m.Year()) }

// ISO writes "2027-09".
func (m Month) ISO() string { return fmt.Sprintf("%04d-%02d", m.Year(), m.Number()) }
