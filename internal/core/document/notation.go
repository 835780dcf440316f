package document

import (
	"cmp"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Notation is how a value stands in text. Parse and Text undo each other.
type Notation[V any] struct {
	Parse func(string) (V, error) // strict, as files hold it
	Typed func(string) (V, error) // as people type it; nil: as Parse
	Text  func(V) string          // as files and the history hold it
	Show  func(V) string          // on the screen; nil: as Text
	Want  string                  // what is wanted, as in "expected a day such as …"
	As    Shape                   // how it is written
	Also  Shape                   // how it may be written besides; [IsNull]: in no other way
	Input Input
	// What the schema says of the written text or number beside its type.
	Schema map[string]any
}

// Input is how a value is typed in.
type Input struct {
	Decimal bool // by digits
	Money   bool // in the currency of the document
	Unit    string
	Longest int      // characters
	Choices []string // one of these
	YesNo   bool
}

// Problem is an error that says what is wrong in words of its own, rather than
// what was wanted.
type Problem string

func (p Problem) Error() string { return string(p) }

func (n Notation[V]) typed(s string) (V, error) {
	if n.Typed != nil {
		return n.Typed(s)
	}
	return n.Parse(s)
}

func (n Notation[V]) show(v V) string {
	if n.Show != nil {
		return n.Show(v)
	}
	return n.Text(v)
}

// takes reports whether a value may be written in a shape.
func (n Notation[V]) takes(s Shape) bool { return s == n.As || s == n.Also && s != IsNull }

// Between is a notation whose values lie within bounds, told as text for the
// faults.
func Between[V cmp.Ordered](n Notation[V], least, most V) Notation[V] {
	within := func(parse func(string) (V, error)) func(string) (V, error) {
		return func(s string) (V, error) {
			v, err := parse(s)
			if err == nil && (v < least || v > most) {
				err = fmt.Errorf("%s is not from %s to %s", n.Text(v), n.Text(least), n.Text(most))
			}
			return v, err
		}
	}
	bounded := n
	bounded.Parse = within(n.Parse)
	if n.Typed != nil {
		bounded.Typed = within(n.Typed)
	}
	return bounded
}

// Whole is a notation of whole numbers within bounds.
func Whole(least, most int) Notation[int] {
	n := Between(Notation[int]{Parse: strconv.Atoi, Text: strconv.Itoa, As: IsNumber, Input: Input{Decimal: true, Longest: 12}}, least, most)
	n.Want = fmt.Sprintf("a whole number from %d to %d", least, most)
	n.Schema = map[string]any{"type": "integer", "minimum": least, "maximum": most}
	return n
}

// Among is a notation of names of which there are only some.
func Among[V ~string](all ...V) Notation[V] {
	names := make([]string, len(all))
	for i, v := range all {
		names[i] = string(v)
	}
	want := "one of " + strings.Join(names, ", ")
	return Notation[V]{
		Parse: func(s string) (V, error) {
			if !slices.Contains(names, s) {
				return "", fmt.Errorf("%q is not %s", s, want)
			}
			return V(s), nil
		},
		Text: func(v V) string { return string(v) },
		Want: want, As: IsText, Input: Input{Choices: names}, Schema: map[string]any{"enum": names},
	}
}

// YesNo is the notation of what holds or does not: true or false in files, yes or no on the screen.
func YesNo() Notation[bool] {
	typed := func(s string) (bool, error) {
		switch strings.ToLower(s) {
		case "yes", "y":
			return true, nil
		case "no", "n":
			return false, nil
		}
		return strconv.ParseBool(s)
	}
	show := func(v bool) string {
		if v {
			return "yes"
		}
		return "no"
	}
	return Notation[bool]{Parse: strconv.ParseBool, Typed: typed, Text: strconv.FormatBool, Show: show, Want: "true or false", As: IsBool, Input: Input{YesNo: true}}
}

// KeyForm is the form of keys in all documents.
var KeyForm = regexp.MustCompile(`^[a-z0-9][a-z0-9_-]{0,59}$`)

// Key is how keys are written.
var Key = Matching(KeyForm, "a key of small letters, digits, - and _")

// Matching is a notation of texts of a form.
func Matching(form *regexp.Regexp, want string) Notation[string] {
	return Notation[string]{
		Parse: func(s string) (string, error) {
			if !form.MatchString(s) {
				return s, fmt.Errorf("%q is not %s", s, want)
			}
			return s, nil
		},
		Text: func(s string) string { return s }, Want: want, As: IsText, Schema: map[string]any{"pattern": form.String()},
	}
}

// Line is a notation of texts of one line, of so many characters at most.
// Whether a character may not stand there, because it is not seen, is for
// hidden to say.
func Line(longest int, hidden func(rune) bool) Notation[string] {
	return Notation[string]{
		Parse: func(s string) (string, error) {
			s = strings.TrimSpace(s)
			switch at := strings.IndexFunc(s, hidden); {
			case utf8.RuneCountInString(s) > longest:
				return s, Problem(fmt.Sprintf("has %d characters; at most %d are taken", utf8.RuneCountInString(s), longest))
			case strings.ContainsFunc(s, unicode.IsControl):
				return s, Problem("holds control characters")
			case at >= 0:
				r, _ := utf8.DecodeRuneInString(s[at:])
				return s, Problem(fmt.Sprintf("holds a character that is not seen (%U); take it out", r))
			}
			return s, nil
		},
		Text: func(s string) string { return s }, Want: "text", As: IsText, Input: Input{Longest: longest},
	}
}
