package study

import (
	"fmt"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"
)

// Phrase is a sentence or two in parts, of which some are strong: figures and
// names that the sentence is about.
type Phrase []Part

// Part is a piece of a phrase.
type Part struct {
	Text   string `json:"text"`
	Strong bool   `json:"strong,omitempty"`
}

// say builds a phrase from a pattern in which *…* marks what is strong. Names
// are handed in as arguments, so that an asterisk in one marks nothing.
func say(pattern string, args ...any) Phrase {
	var p Phrase
	for i, piece := range strings.Split(pattern, "*") {
		n := strings.Count(piece, "%")
		if text := fmt.Sprintf(piece, args[:n]...); text != "" {
			p = append(p, Part{Text: text, Strong: i%2 == 1})
		}
		args = args[n:]
	}
	return p
}

// and joins phrases with a space between them.
func (p Phrase) and(q Phrase) Phrase {
	if len(p) == 0 {
		return q
	}
	if len(q) == 0 {
		return p
	}
	return append(append(p, Part{Text: " "}), q...)
}

// String returns the phrase as plain text.
func (p Phrase) String() string {
	var b strings.Builder
	for _, part := range p {
		b.WriteString(part.Text)
	}
	return b.String()
}

// list joins names as a sentence does: "a, b and c".
func list(names []string) string {
	if len(names) < 2 {
		return strings.Join(names, "")
	}
	return strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1]
}

// are says of so many things that they are: "1 rating is", "5 ratings are"; of
// nothing by name "1 is", "5 are".
func are(n int, one string) string {
	verb := " are"
	if n == 1 {
		verb = " is"
	}
	if one == "" {
		return fmt.Sprint(n) + verb
	}
	return plural(n, one) + verb
}

// allOf says of so many things that it is about each: "all 36 months", "the month".
func allOf(n int, one string) string {
	if n == 1 {
		return "the " + one
	}
	if n == 2 {
		return "both " + plural(n, one)[2:]
	}
	return "all " + plural(n, one)
}

// AnyOne is one of something: "a contact", "an account".
func AnyOne(unit string) string {
	if strings.ContainsAny(unit[:min(1, len(unit))], "aeioAEIO") || strings.HasPrefix(unit, "hour") {
		return "an " + unit
	}
	return "a " + unit
}

// outOf says how many of some there are: "3 of 5 options", "the only option", "none
// of 5 options".
func outOf(n, all int, one string) string {
	switch {
	case all == 1 && n == 1:
		return "The only " + one
	case all == 1:
		return "No " + one
	case n == 0:
		return "None of " + plural(all, one)
	case n == all && n == 2:
		return "Both " + plural(all, one)[2:]
	case n == all:
		return "All " + plural(all, one)
	}
	return fmt.Sprintf("%d of %s", n, plural(all, one))
}

// span says from when to when: "Jan 2027 to Mar 2027", "Jan 2027".
func span(from, to usage.Month) string {
	if from == to {
		return from.String()
	}
	return from.String() + " to " + to.String()
}

func plural(n int, one string) string {
	if n == 1 {
		return "1 " + one
	}
	return money.Thousands(uint64(n)) + " " + one + "s"
}
