package document

import (
	"encoding/json"
	"strings"
)

// writer writes JSON, field by field in the order that it is told.
type writer struct {
	b     strings.Builder
	empty bool // nothing stands yet in the object or list that is open
}

func (w *writer) next() {
	if !w.empty {
		w.b.WriteByte(',')
	}
	w.empty = false
}

func (w *writer) between(opens, shuts byte, inside func()) {
	w.b.WriteByte(opens)
	w.empty = true
	inside()
	w.b.WriteByte(shuts)
	w.empty = false
}

func (w *writer) object(inside func()) { w.between('{', '}', inside) }

func (w *writer) list(n int, item func(int)) {
	w.between('[', ']', func() {
		for i := range n {
			w.next()
			item(i)
		}
	})
}

func (w *writer) field(name string, value func()) {
	w.next()
	w.text(name)
	w.b.WriteByte(':')
	value()
}

// value writes a text, or what is a number or true or false by its letters.
func (w *writer) value(as Shape, text string) {
	if as == IsText {
		w.text(text)
		return
	}
	w.b.WriteString(text)
}

func (w *writer) text(s string) {
	data, _ := json.Marshal(s) // of a string it never fails
	w.b.Write(data)
}
