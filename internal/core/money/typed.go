package money

import (
	"fmt"
	"regexp"
	"strings"
)

// UnclearError reports a typed number that may not mean what it says. Readings
// are what it may have been meant for, each in a form that [Plain] takes
// without asking; there is at least one.
type UnclearError struct {
	Typed    string
	Readings []string
}

func (e *UnclearError) Error() string {
	return fmt.Sprintf("%q could mean %s", e.Typed, strings.Join(e.Readings, " or "))
}

// Between groups of three digits stands a comma, or one of the spaces that
// are set there: thin, narrow no-break, no-break, or the one of the keyboard.
const apart = `[ \x{00a0}\x{2009}\x{202f}]`

var (
	ungrouped = regexp.MustCompile(`^\d+(\.\d+)?$`)
	grouped   = regexp.MustCompile(`^[1-9]\d{0,2}((,\d{3})+|( \d{3})+|(\x{00a0}\d{3})+|(\x{2009}\d{3})+|(\x{202f}\d{3})+)(\.\d+)?$`)
	either    = regexp.MustCompile(`^([1-9]\d{0,2})\.(\d{3})$`)                     // 6.400
	decimal   = regexp.MustCompile(`^(\d+),(\d+)$`)                                 // 0,6
	turned    = regexp.MustCompile(`^([1-9]\d{0,2}(?:\.\d{3})+),(\d+)$`)            // 6.400,00
	points    = regexp.MustCompile(`^[1-9]\d{0,2}(?:\.\d{3}){2,}$`)                 // 1.234.567
	spaced    = regexp.MustCompile(`^([1-9]\d{0,2}(?:` + apart + `\d{3})+),(\d+)$`) // 6 400,00
	bare      = regexp.MustCompile(`^\.(\d+)$`)                                     // .6
)

// Plain turns a number as people type it into the plain decimal that files
// hold: "6,400.5" into "6400.5". It is the one way in which the program reads
// typed numbers. A point begins the decimals; a comma or a space stands only
// between whole groups of three digits; a sign may stand before. What people
// elsewhere write otherwise is never guessed at: "0,6", "12,50", "6.400,00",
// and "6.400", which could be either, are each an [*UnclearError], and so is a
// percentage: "45%". What is no number wraps [ErrSyntax].
func Plain(typed string) (string, error) {
	s, sign := strings.TrimSpace(typed), ""
	switch {
	case strings.HasPrefix(s, "-"), strings.HasPrefix(s, "−"):
		s, sign = strings.TrimPrefix(strings.TrimPrefix(s, "-"), "−"), "-"
	case strings.HasPrefix(s, "+"):
		s = s[1:]
	}
	unclear := func(readings ...string) (string, error) {
		for i, r := range readings {
			readings[i] = sign + Legible(r)
		}
		return "", &UnclearError{typed, readings}
	}
	if share, is := strings.CutSuffix(s, "%"); is {
		plain, err := Plain(strings.TrimSpace(share))
		switch {
		case err != nil:
			return "", err
		case strings.IndexAny(share, "+-−") == 0:
			return "", fmt.Errorf("%q: %w", typed, ErrSyntax)
		}
		return unclear(plain, hundredth(plain))
	}
	switch {
	case either.MatchString(s):
		return unclear(s, strings.Replace(s, ".", "", 1))
	case ungrouped.MatchString(s):
		return sign + s, nil
	case grouped.MatchString(s):
		return sign + digits(s), nil
	case bare.MatchString(s):
		return unclear("0" + s)
	case points.MatchString(s):
		return unclear(strings.ReplaceAll(s, ".", ""))
	}
	for _, form := range []*regexp.Regexp{decimal, turned, spaced} {
		if m := form.FindStringSubmatch(s); m != nil {
			return unclear(strings.ReplaceAll(digits(m[1]), ".", "") + "." + m[2])
		}
	}
	return "", fmt.Errorf("%q: %w", typed, ErrSyntax)
}

// hundredth moves the point of a plain decimal without a sign by two places.
func hundredth(plain string) string {
	whole, frac, _ := strings.Cut(plain, ".")
	whole = strings.Repeat("0", max(0, 3-len(whole))) + whole
	return whole[:len(whole)-2] + "." + whole[len(whole)-2:] + frac
}

// digits takes out what stands between groups of digits.
func digits(s string) string {
	return strings.NewReplacer(",", "", " ", "", "\u00a0", "", "\u2009", "", "\u202f", "").Replace(s)
}

// Legible writes a plain decimal for a field: with a comma between groups of
// three digits and without noughts at its end, so that [Plain] reads it back
// without asking. 6.125 gets a fourth decimal for that: "6.1250".
func Legible(plain string) string {
	sign := ""
	if strings.HasPrefix(plain, "-") {
		sign, plain = "-", plain[1:]
	}
	whole, frac, _ := strings.Cut(plain, ".")
	frac = strings.TrimRight(frac, "0")
	if whole = strings.TrimLeft(whole, "0"); whole == "" {
		whole = "0"
	}
	if len(frac) == 3 && len(whole) <= 3 && whole != "0" {
		frac += "0"
	}
	if frac != "" {
		frac = "." + frac
	}
	return sign + group(whole) + frac
}
