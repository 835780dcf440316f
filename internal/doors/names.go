package doors

import (
	"errors"
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/mtibben/confusables"
	"golang.org/x/text/secure/precis"
	"golang.org/x/text/unicode/norm"
)

// MostName is how many letters a name of a person or a workspace may have.
const MostName = 60

// Hidden reports whether a character is not seen and may turn or join what
// stands around it: the format characters of Unicode, without the two joiners
// that several scripts and signs are written with.
func Hidden(r rune) bool {
	return unicode.Is(unicode.Cf, r) && r != '\u200c' && r != '\u200d'
}

// HiddenInNotes is [Hidden] for notes, which are copied from pages: they may
// hold places for a hyphen and single marks of direction. Names would look
// alike with and without them.
func HiddenInNotes(r rune) bool {
	return Hidden(r) && r != '\u00ad' && r != '\u200e' && r != '\u200f' && r != '\u061c'
}

// FoldSpaces writes every run of spaces, of whichever kind, as one plain space.
func FoldSpaces(s string) string { return strings.Join(strings.FieldsFunc(s, unicode.IsSpace), " ") }

// JudgeTitle refuses what is no name for a thing, such as a workspace: none, a
// long one, one with characters that are not seen. It returns the name with
// its spaces folded.
func JudgeTitle(title string) (string, error) {
	title = FoldSpaces(title)
	switch {
	case title == "":
		return "", errors.New("it is empty")
	case utf8.RuneCountInString(title) > MostName:
		return title, fmt.Errorf("it may have at most %d characters", MostName)
	case !utf8.ValidString(title) || strings.ContainsFunc(title, unicode.IsControl):
		return title, errors.New("it may hold letters, digits and signs only")
	case strings.ContainsFunc(title, func(r rune) bool { return Hidden(r) || r == '\u200c' || r == '\u200d' }):
		return title, errors.New("it holds a character that is not seen; type it anew")
	}
	return title, nil
}

// FoldName returns a person's name in the form in which it is kept, by the
// Nickname profile of PRECIS (RFC 8266): spaces folded, widths and ligatures
// resolved. What is no name is refused: control and format characters, and
// letters of several scripts in one word, which are there to be taken for
// others.
func FoldName(name string) (string, error) {
	title, err := JudgeTitle(name)
	if err != nil {
		return title, err
	}
	folded, err := precis.Nickname.String(title)
	if err != nil {
		return title, errors.New("it may hold letters, digits and signs only")
	}
	if utf8.RuneCountInString(folded) > MostName {
		return folded, fmt.Errorf("it may have at most %d characters", MostName)
	}
	for _, word := range strings.FieldsFunc(folded, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsMark(r) }) {
		if one, other := scripts(word); other != "" {
			return folded, fmt.Errorf("one word of it has letters of %s and of %s; type it in one script", one, other)
		}
	}
	return folded, nil
}

// together maps scripts that are written in one word to one name (UTS #39,
// section 5.1).
var together = map[string]string{"Hiragana": "Han", "Katakana": "Han", "Hangul": "Han", "Bopomofo": "Han"}

// scripts returns the script of a word's letters, and another one where there
// are two.
func scripts(word string) (one, other string) {
	for _, r := range word {
		script := scriptOf(r)
		if joined, ok := together[script]; ok {
			script = joined
		}
		switch {
		case script == "" || script == one:
		case one == "":
			one = script
		default:
			return one, script
		}
	}
	return one, ""
}

// scriptOf returns the script of a letter; "" for what belongs to none.
func scriptOf(r rune) string {
	if r < utf8.RuneSelf || unicode.Is(unicode.Latin, r) {
		return "Latin"
	}
	for name, table := range unicode.Scripts {
		if name != "Common" && name != "Inherited" && unicode.Is(table, r) {
			return name
		}
	}
	return ""
}

// Likeness returns what a name looks like: two names with the same likeness
// could be taken for one another. It follows the confusables of UTS #39 for
// all letters beyond ASCII; within ASCII only 1 and l, and 0 and o, are alike,
// in either case.
func Likeness(name string) string {
	var b strings.Builder
	for _, r := range norm.NFD.String(norm.NFKC.String(FoldSpaces(name))) {
		look := string(r)
		if r >= utf8.RuneSelf {
			look = confusables.Skeleton(look)
			if look == "l" && unicode.IsUpper(r) {
				look = "i" // a capital that looks like I
			}
		}
		b.WriteString(look)
	}
	return strings.NewReplacer("1", "l", "0", "o").Replace(strings.ToLower(b.String()))
}
