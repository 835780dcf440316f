package money

import (
	"fmt"
	"strings"
)

// Share is a part of a whole in millionths: 150000 is 15%. The zero value is
// nothing.
type Share int64

// Whole is the share of everything, 100%.
const Whole Share = 1_000_000

// ParseShare reads a percentage with or without its sign, such as "15%" or
// "12.5", with up to four decimals. It returns an error wrapping [ErrSyntax]
// or [ErrOverflow].
func ParseShare(s string) (Share, error) {
	v, err := parseScaled(strings.TrimSpace(strings.TrimSuffix(s, "%")), 4)
	if err != nil {
		return 0, fmt.Errorf("share %w", err)
	}
	return Share(v / 100), nil
}

// String writes the share as a percentage: "12.5%".
func (s Share) String() string { return s.Percent() + "%" }

// Percent writes the share in percent without the sign: "12.5".
func (s Share) Percent() string { return scaledString(int64(s) * 100) }

// Grouped writes the share in percent as a field holds it, so that [Plain]
// reads it back: "2.1250" for 2.125%.
func (s Share) Grouped() string { return Legible(s.Percent()) }

// Float returns the share as a ratio, 0.125 for 12.5%.
func (s Share) Float() float64 { return float64(s) / float64(Whole) }
