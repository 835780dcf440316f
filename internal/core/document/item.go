package document

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
)

type itemEnd[P, T any] struct {
	list *list[P, T]
	p    *P
	key  string
	at   int // -1: it is not there
}

func (e *itemEnd[P, T]) all() []T { return e.list.items.Get(e.p) }

// text is the item as the history holds it.
func (e *itemEnd[P, T]) text(item *T) string {
	w := &writer{}
	w.object(func() { e.list.parts.write(w, item) })
	return w.b.String()
}

func (e *itemEnd[P, T]) spot() Spot {
	s := Spot{Label: capital(e.list.items.One) + " " + e.key, Need: e.list.need}
	if e.at >= 0 {
		item := &e.all()[e.at]
		s.Text, s.Shown, s.There = e.text(item), e.list.items.Name(e.p, item), true
		s.Label = e.called(item)
		if e.list.items.Owner != nil {
			s.Owner = e.list.items.Owner(item)
		}
	}
	return s
}

// called names an item; what springs from its key is named by itself.
func (e *itemEnd[P, T]) called(item *T) string {
	if e.list.items.Make != nil {
		return e.list.items.Name(e.p, item)
	}
	return capital(e.list.items.One) + " " + e.list.items.Name(e.p, item)
}

// say tells an edit in words where it is of an item that came, went or moved, at any depth.
func say(e end, op Op) (s Said, ok bool) {
	if item, is := e.(interface{ say(Op) (Said, bool) }); is {
		return item.say(op)
	}
	return s, false
}

func (e *itemEnd[P, T]) say(op Op) (Said, bool) {
	i := e.list.items
	s := Said{Label: e.spot().Label, Was: orElse(i.Here, "there"), To: orElse(i.Gone, "removed")}
	item, err := readOne(e.list.parts, []byte(op.Was+op.To))
	if err == nil && e.at < 0 {
		s.Label = e.called(&item)
	}
	if i.Make != nil && err == nil {
		s.Was = e.list.shown(&item)
		s.To = orElse(i.Absent, "nothing")
	}
	if op.Do == Insert {
		s.Was, s.To = s.To, s.Was
		if i.Make == nil {
			s.Was, s.To = "–", orElse(i.Here, "added")
		}
	}
	if op.Do == Move {
		s.Was, s.To = e.beside(op.Was), e.beside(op.Before)
	}
	return s, true
}

// one is what the items are called.
func (e *itemEnd[P, T]) one() string { return e.list.items.One }

// beside says before which item another one stands.
func (e *itemEnd[P, T]) beside(key string) string {
	all := e.all()
	if at := e.place(key); at < len(all) {
		return "before " + e.list.items.Name(e.p, &all[at])
	}
	return "last"
}

// shown is what the first field of an item shows that must be there beside its
// key.
func (l *list[P, T]) shown(item *T) string {
	for _, part := range l.parts {
		if f, ok := part.(interface{ leading() bool }); ok && f.leading() {
			if e := part.at(item, part.(interface{ called() []string }).called(), false); e != nil {
				return e.spot().Shown
			}
		}
	}
	return ""
}

func orElse(s, other string) string {
	if s == "" {
		return other
	}
	return s
}

func capital(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

// before is the key of the item that follows a place; "" at the end.
func (e *itemEnd[P, T]) before(at int) string {
	if all := e.all(); at+1 < len(all) {
		return e.list.items.Key(&all[at+1])
	}
	return ""
}

// place is where an item of a key stands; the end where there is none.
func (e *itemEnd[P, T]) place(key string) int {
	all := e.all()
	if at := e.list.items.indexOf(all, key); key != "" && at >= 0 {
		return at
	}
	return len(all)
}

func (e *itemEnd[P, T]) apply(op *Op) error {
	there := e.at >= 0
	switch {
	case op.Do == Insert && there:
		return &ChangedError{op.Path, e.text(&e.all()[e.at])}
	case op.Do != Insert && !there:
		return &ChangedError{op.Path, ""}
	}
	switch op.Do {
	case Insert:
		return e.insert(op)
	case Remove:
		now := e.text(&e.all()[e.at])
		if op.Was != "" && op.Was != now && e.canonical(op.Was) != now {
			return &ChangedError{op.Path, now}
		}
		op.Was, op.Before = now, e.before(e.at)
		e.list.items.Set(e.p, slices.Delete(slices.Clone(e.all()), e.at, e.at+1))
		return nil
	case Move:
		if op.Before == e.key {
			return &InvalidError{op.Path, "cannot stand before itself"}
		}
		item := e.all()[e.at]
		op.Was = e.before(e.at)
		e.list.items.Set(e.p, slices.Delete(slices.Clone(e.all()), e.at, e.at+1))
		e.list.items.Set(e.p, slices.Insert(slices.Clone(e.all()), e.place(op.Before), item))
		return nil
	}
	return &InvalidError{op.Path, "is an item of a list, which is inserted, removed or moved"}
}

// canonical is an item as it would be written today.
func (e *itemEnd[P, T]) canonical(text string) string {
	item, err := readOne(e.list.parts, []byte(text))
	if err != nil {
		return text
	}
	return e.text(&item)
}

func (e *itemEnd[P, T]) insert(op *Op) error {
	if len(e.all()) >= e.list.items.Most {
		return &InvalidError{op.Path, fmt.Sprintf("at most %d are taken, and this would be more", e.list.items.Most)}
	}
	item, err := readOne(e.list.parts, []byte(op.To))
	if err != nil {
		return &InvalidError{op.Path, err.Error()}
	}
	if key := e.list.items.Key(&item); key != e.key {
		return &InvalidError{op.Path, fmt.Sprintf("holds the key %q", key)}
	}
	op.To = e.text(&item)
	e.list.items.Set(e.p, slices.Insert(slices.Clone(e.all()), e.place(op.Before), item))
	return nil
}

// readOne reads one item.
func readOne[T any](parts Parts[T], data []byte) (item T, err error) {
	var faults Gathering
	if !json.Valid(data) {
		return item, fmt.Errorf("%q is no JSON", Shorten(string(data), 40))
	}
	root, err := Parse(context.Background(), data, Bounds{Bytes: len(data), Values: 10_000}, &faults)
	if err == nil && root != nil {
		r := &reading{ctx: context.Background(), faults: &faults, places: map[Path]place{}}
		o := r.open(root, "", "")
		r.places[""] = place{o.node, ""}
		parts.read(r, o, &item)
		o.done(r)
	}
	return item, faults.Err()
}

// Alone reads and writes items by themselves, as the history holds them.
type Alone[T any] struct{ parts Parts[T] }

// Item is how items of some parts stand by themselves.
func Item[T any](of Parts[T]) Alone[T] { return Alone[T]{of} }

// ReadItem reads an item. The error tells what is wrong with it.
func (a Alone[T]) ReadItem(text string) (T, error) { return readOne(a.parts, []byte(text)) }

// WriteItem writes an item.
func (a Alone[T]) WriteItem(item T) string {
	w := &writer{}
	w.object(func() { a.parts.write(w, &item) })
	return w.b.String()
}
