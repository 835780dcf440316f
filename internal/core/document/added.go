package document

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"golang.org/x/text/unicode/norm"
)

// Column is a field of the items of a list, as they are added.
type Column struct {
	Name, Label, Want string
	Input             Input
	Must              bool
}

// Columns are the fields of one item of a list, and how one is called.
type Columns struct {
	One    string // "criterion"
	Most   int
	Need   int
	Fields []Column
}

// listEnd is a list as a whole.
type listEnd[P, T any] struct {
	list *list[P, T]
	p    *P
}

func (e *listEnd[P, T]) spot() Spot {
	return Spot{Label: capital(e.list.items.One), Need: e.list.need}
}

func (e *listEnd[P, T]) apply(op *Op) error {
	return &InvalidError{op.Path, "is a list, of which items are edited"}
}

func (e *listEnd[P, T]) columns() Columns {
	c := Columns{One: e.list.items.One, Most: e.list.items.Most, Need: e.list.need}
	for _, part := range e.list.parts {
		if f, ok := part.(interface{ column() Column }); ok {
			c.Fields = append(c.Fields, f.column())
		}
		if w, ok := part.(interface{ columns() []Column }); ok {
			c.Fields = append(c.Fields, w.columns()...)
		}
	}
	return c
}

// TypedError reports a field of an item that cannot be added as it was typed.
type TypedError struct {
	Name string // of the field
	Err  error
}

func (e *TypedError) Error() string { return fmt.Sprintf("%s: %v", e.Name, e.Err) }
func (e *TypedError) Unwrap() error { return e.Err }

// add makes the item that was typed and returns how it is inserted. What is not
// typed stays as a new item has it.
func (e *listEnd[P, T]) add(at Path, typed map[string]string) (Op, error) {
	item := e.list.blank(e.p)
	for range 2 { // the fields of a kind are there once the kind is set
		for name, text := range typed {
			end := e.list.parts.at(&item, []string{name}, true)
			f, ok := end.(interface {
				typed(string) (string, error)
				put(string) error
			})
			if !ok || text == "" {
				continue
			}
			canonical, err := f.typed(text)
			if err == nil {
				err = f.put(canonical)
			}
			if err != nil {
				return Op{}, &TypedError{name, err}
			}
		}
	}
	for _, name := range slices.Sorted(maps.Keys(typed)) {
		if typed[name] != "" && e.list.parts.at(&item, []string{name}, false) == nil {
			return Op{}, &TypedError{name, Problem("does not belong to a " + e.list.items.One + " of this kind; leave it empty")}
		}
	}
	for _, c := range e.columns().Fields {
		f, ok := e.list.parts.at(&item, []string{c.Name}, false).(interface{ isMust() bool })
		if ok && f.isMust() && f.(end).spot().Text == "" && (e.list.items.Rekey == nil || c.Name != "key") {
			return Op{}, &TypedError{c.Name, Problem("is empty; type " + c.Want)}
		}
	}
	i := e.list.items
	if i.Rekey != nil {
		i.Rekey(&item, e.fresh(i.Name(e.p, &item)))
	}
	key := i.Key(&item)
	text := (&itemEnd[P, T]{e.list, e.p, key, -1}).text(&item)
	return Op{Do: Insert, Path: at.To(key), To: text}, nil
}

// blank is a new item before anything is typed.
func (l *list[P, T]) blank(p *P) (item T) {
	if l.items.New != nil {
		return l.items.New(p)
	}
	return item
}

var between = regexp.MustCompile(`[^a-z0-9]+`)

// fresh returns a key that follows from a name and that no item has.
func (e *listEnd[P, T]) fresh(name string) string {
	taken := map[string]bool{}
	for _, item := range e.list.items.Get(e.p) {
		taken[e.list.items.Key(&item)] = true
	}
	return KeyFor(name, func(key string) bool { return taken[key] })
}

// KeyFor returns a key that follows from a name and is not taken.
func KeyFor(name string, taken func(string) bool) string {
	var plain strings.Builder
	for _, r := range norm.NFD.String(strings.ToLower(name)) {
		if r < 0x300 || r > 0x36f { // without accents
			plain.WriteRune(r)
		}
	}
	key := strings.Trim(between.ReplaceAllString(plain.String(), "-"), "-")
	key = strings.TrimRight(key[:min(len(key), 50)], "-")
	if key == "" {
		key = "item"
	}
	for n := 1; ; n++ {
		one := key
		if n > 1 {
			one = fmt.Sprintf("%s-%d", key, n)
		}
		if !taken(one) {
			return one
		}
	}
}
