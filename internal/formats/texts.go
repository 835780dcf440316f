package formats

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

	"ninecoins/internal/core/document"
	"ninecoins/internal/doors"
)

// text reads a text of one line, at most longest characters.
func (f *fields) text(name string, required bool, longest int) string {
	n := f.of(name, required, "text", document.IsText)
	if n == nil {
		return ""
	}
	s := strings.TrimSpace(n.Text)
	f.line(n, name, s, required, longest)
	return s
}

// line says what is wrong with a text of one line.
func (f *fields) line(n *document.Node, name, s string, required bool, longest int) {
	switch {
	case s == "" && required:
		f.refuse(n, name, "is empty")
	case utf8.RuneCountInString(s) > longest:
		f.refuse(n, name, "has %d characters; at most %d are taken", utf8.RuneCountInString(s), longest)
	case strings.ContainsFunc(s, unicode.IsControl):
		f.refuse(n, name, "holds control characters")
	case !f.r.kept && strings.ContainsFunc(s, unseen(longest)):
		at := strings.IndexFunc(s, unseen(longest))
		r, _ := utf8.DecodeRuneInString(s[at:])
		f.refuse(n, name, "holds a character that is not seen (%U); take it out", r)
	}
}

// longestTitle is how long names and titles may be; notes are longer.
const longestTitle = 120

// unseen reports the characters that a text must not hold because they are not
// seen.
func unseen(longest int) func(rune) bool {
	if longest <= longestTitle {
		return doors.Hidden
	}
	return doors.HiddenInNotes
}

// person reads the name of somebody.
func (f *fields) person(name string, required bool) string {
	n := f.of(name, required, "a name", document.IsText)
	if n == nil {
		return ""
	}
	return f.personIn(n, name, required)
}

func (f *fields) personIn(n *document.Node, name string, required bool) string {
	if n.Shape != document.IsText {
		f.refuse(n, name, "expected a name, found %s", n.Describe())
		return ""
	}
	if n.Text == "" && !required {
		return ""
	}
	folded, err := doors.FoldName(n.Text)
	if err != nil {
		f.refuse(n, name, "%s is no name: %v", n.Describe(), err)
	}
	return folded
}

func (f *fields) key(name string, required bool) string {
	n := f.of(name, required, "a key such as \"brindlepost\"", document.IsText)
	if n == nil {
		return ""
	}
	if !document.KeyForm.MatchString(n.Text) {
		f.refuse(n, name, "expected a key of small letters, digits, - and _, found %s", n.Describe())
	}
	return n.Text
}

// texts reads a list of texts, of which none stands twice.
func (f *fields) texts(name string, required bool, check func(string) bool, want string) []string {
	n := f.of(name, required, "a list of "+want, document.IsList)
	if n == nil {
		return nil
	}
	var out []string
	seen := map[string]bool{}
	for i, item := range n.Items {
		if seen[item.Text] && item.Shape == document.IsText && !f.r.kept {
			f.refuse(item, fmt.Sprintf("%s[%d]", name, i), "%s stands twice", item.Describe())
			continue
		}
		seen[item.Text] = true
		if item.Shape != document.IsText || !check(item.Text) {
			f.refuse(item, fmt.Sprintf("%s[%d]", name, i), "expected %s, found %s", want, item.Describe())
			continue
		}
		out = append(out, item.Text)
	}
	return out
}

func (f *fields) keys(name string, required bool) []string {
	return f.texts(name, required, document.KeyForm.MatchString, "a key")
}
