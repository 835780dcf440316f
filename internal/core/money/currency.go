package money

import (
	"fmt"
	"strings"

	"golang.org/x/text/currency"
)

// Currency is an ISO 4217 currency. The zero value is no currency and rounds
// like one with two decimals.
type Currency struct {
	code     string
	decimals int
	known    bool
}

// ParseCurrency reads the three-letter code, in capitals, of a currency that ISO
// 4217 lists today, such as "EUR".
func ParseCurrency(code string) (Currency, error) {
	decimals, ok := minorUnits[code]
	if !ok {
		return Currency{}, fmt.Errorf("currency %q is not an ISO 4217 code such as EUR or GBP", code)
	}
	return Currency{code: code, decimals: decimals, known: true}, nil
}

// KeptCurrency reads a code that was taken at some time, perhaps one that has been
// withdrawn since.
func KeptCurrency(code string) (Currency, error) {
	c, err := ParseCurrency(code)
	if err == nil {
		return c, nil
	}
	unit, unknown := currency.ParseISO(code)
	if unknown != nil || unit.String() != code {
		return Currency{}, err
	}
	decimals, _ := currency.Standard.Rounding(unit)
	return Currency{code: code, decimals: min(decimals, 6), known: true}, nil
}

// MustCurrency is ParseCurrency for codes that are constants of the program.
func MustCurrency(code string) Currency {
	c, err := ParseCurrency(code)
	if err != nil {
		panic(err)
	}
	return c
}

// Code returns the ISO 4217 code.
func (c Currency) Code() string { return c.code }

// IsZero reports whether c is no currency.
func (c Currency) IsZero() bool { return c.code == "" }

// Decimals returns how many decimals the minor unit has: 2 for EUR, 0 for JPY.
func (c Currency) Decimals() int {
	if !c.known {
		return 2
	}
	return c.decimals
}

// Symbol returns the sign that stands before an amount: "€" or, for a currency
// without a sign of its own here, its code and a no-break space.
func (c Currency) Symbol() string {
	switch c.code {
	case "EUR":
		return "€"
	case "GBP":
		return "£"
	case "USD":
		return "$"
	case "JPY":
		return "¥"
	case "INR":
		return "₹"
	case "":
		return ""
	}
	return c.code + "\u00a0"
}

// Minor returns the minor unit in millionths: 10000 for a cent.
func (c Currency) Minor() int64 {
	step := int64(Scale)
	for range c.Decimals() {
		step /= 10
	}
	return step
}

// Format writes an amount to the minor unit with its sign and thousands
// apart: "€1,249.90".
func (c Currency) Format(a Amount) string { return c.format(a, c.Decimals()) }

// FormatShort is Format without decimals from 1,000 up, for charts and the
// counter: "€9,412", "€214.50".
func (c Currency) FormatShort(a Amount) string {
	if a >= Units(1000) || a <= Units(-1000) {
		return c.FormatWhole(a)
	}
	return c.Format(a)
}

// FormatWhole writes an amount rounded to whole units, "€214"; one below a hundred that is none to
// the minor unit, "€0.72": a small total would say nothing, or something else.
func (c Currency) FormatWhole(a Amount) string {
	if a%Scale != 0 && a < Units(100) && a > Units(-100) {
		return c.format(a, c.Decimals())
	}
	return c.format(a, 0)
}

// FormatExact writes a price with all its decimals, at least those of the
// minor unit: "€0.0125", "€9.20".
func (c Currency) FormatExact(a Amount) string {
	places := 6
	for step := int64(10); places > c.Decimals() && int64(a)%step == 0; step *= 10 {
		places--
	}
	return c.format(a, places)
}

func (c Currency) format(a Amount, places int) string {
	step := int64(Scale)
	for range places {
		step /= 10
	}
	rounded, err := Exactly(a).RoundTo(step)
	if err != nil {
		rounded = a
	}
	sign, mag := "", uint64(rounded)
	if rounded < 0 {
		sign, mag = "−", uint64(-rounded)
	}
	out := sign + c.Symbol() + Thousands(mag/Scale)
	if places > 0 {
		out += "." + fmt.Sprintf("%06d", mag%Scale)[:places]
	}
	return out
}

// Thousands writes n with a comma between groups of three digits.
func Thousands(n uint64) string { return group(fmt.Sprint(n)) }

// group puts a comma between groups of three digits.
func group(s string) string {
	var b strings.Builder
	for i, digit := range s {
		if i > 0 && (len(s)-i)%3 == 0 {
			b.WriteByte(',')
		}
		b.WriteRune(digit)
	}
	return b.String()
}
