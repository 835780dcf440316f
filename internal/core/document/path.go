package document

import "strings"

// Path names a value within a document: names of fields and keys of items with
// points between them, never positions: "criteria.ease.weight". Within a key ~
// is written ~0 and a point ~1. The zero value is the whole document.
type Path string

var (
	escape   = strings.NewReplacer("~", "~0", ".", "~1")
	unescape = strings.NewReplacer("~1", ".", "~0", "~")
)

// To returns the path to a field or an item below p.
func (p Path) To(steps ...string) Path {
	for _, step := range steps {
		if p != "" {
			p += "."
		}
		p += Path(escape.Replace(step))
	}
	return p
}

// Steps returns the names and keys of a path, as they are.
func (p Path) Steps() []string {
	if p == "" {
		return nil
	}
	steps := strings.Split(string(p), ".")
	for i, step := range steps {
		steps[i] = unescape.Replace(step)
	}
	return steps
}
