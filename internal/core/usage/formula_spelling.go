package usage

import (
	"fmt"
	"regexp"
	"strings"
	"unicode/utf8"
)

// piece is one word, number or sign of a formula, or the first thing that is
// none of them. A number is plain: digits, perhaps a point and decimals,
// perhaps a power of ten.
var piece = regexp.MustCompile(`^(?:[ \t]+|[A-Za-z_][A-Za-z0-9_]*|[0-9]+(?:\.[0-9]+)?(?:[eE][+-]?[0-9]+)?|[-+*/(),])`)

// spelled refuses what the formula language would read and arithmetic does
// not hold: comments, pipes, numbers in other bases or with separators.
func spelled(text string) *FormulaError {
	if len(text) > longestFormula {
		return nil // told by its length
	}
	column, before := 1, ""
	refuse := func(format string, a ...any) *FormulaError {
		return &FormulaError{Formula: text, Column: column, Reason: fmt.Sprintf(format, a...)}
	}
	for rest := text; rest != ""; {
		word := piece.FindString(rest)
		next, _ := utf8.DecodeRuneInString(rest)
		switch {
		case word == "":
			return refuse("%q is not arithmetic: a formula holds numbers, driver names and + - * / ( ) only", next)
		case before == "/" && (word == "/" || word == "*"):
			column--
			return refuse("%q begins a comment, and a formula holds none", before+word)
		case isDigit(before) && !strings.ContainsAny(word[:1], " \t-+*/(),"):
			return refuse("a number is written in plain digits, such as 1000 or 0.5")
		}
		before, rest = word, rest[len(word):]
		column += utf8.RuneCountInString(word)
	}
	return nil
}

// isDigit reports whether a piece is a number.
func isDigit(word string) bool { return word != "" && word[0] >= '0' && word[0] <= '9' }

// trials are the values at which a formula is tried out; each name gets
// another one of them.
var trials = []float64{1, 0, 2, 7, 60, 1_300, 45_000, 2_100_000, 990_000_000}

// hopeless returns the fault that a formula meets whatever its drivers are;
// nil where it can be worked out. It is tried at every value for all names
// alike, and at all shifts of the values over the names.
func (f Formula) hopeless() *FormulaError {
	var met *FormulaError
	for shift := range trials {
		for _, step := range []int{0, 1, 2} {
			values := map[string]float64{}
			for i, name := range f.names {
				values[name] = trials[(shift+i*step)%len(trials)]
			}
			_, err := f.Value(values)
			if err == nil {
				return nil
			}
			if fault, ok := err.(*FormulaError); ok && met == nil {
				met = fault
			}
		}
		if len(f.names) == 0 {
			break
		}
	}
	met.Reason = "can never be worked out: " + met.Reason
	return met
}
