package document

import (
	"fmt"
	"slices"
	"strings"
)

// Items say what a list holds: where it is in a P, and what tells its items
// apart.
type Items[P, T any] struct {
	Get func(*P) []T
	Set func(*P, []T)
	Key func(*T) string
	// What one is called in words: "criterion", and which one it is.
	One  string
	Name func(*P, *T) string
	Most int // that are taken
	Must bool
	// Whose an item is: by a key of the document's owner; nil: nobody's.
	Owner func(*T) string
	// Makes an item from its key alone: it is there as soon as one of its fields
	// is set, and goes when one that must be there is emptied. nil: items are
	// inserted and removed.
	Make func(key string) (T, bool)
	// Makes a new item before anything of it is typed; nil: an empty one.
	New func(*P) T
	// Gives an item that is added the key that follows from its name; nil: the
	// key is typed.
	Rekey func(item *T, key string)
	// How it is said that one is there, has gone, or is not; "" as usual.
	Here, Gone, Absent string
}

// indexOf is where the item of a key stands; -1: nowhere.
func (i *Items[P, T]) indexOf(all []T, key string) int {
	for at := range all {
		if i.Key(&all[at]) == key {
			return at
		}
	}
	return -1
}

// Of makes the items of a slice.
func Of[P, T any](at func(*P) *[]T, i Items[P, T]) Items[P, T] {
	i.Get = func(p *P) []T { return *at(p) }
	i.Set = func(p *P, list []T) { *at(p) = list }
	return i
}

// List describes a list of objects, each with the parts of a T. Its items are
// told apart by keys, of which none stands twice.
func List[P, T any](name string, i Items[P, T], of Parts[T], more ...Option) Part[P] {
	return &list[P, T]{name, i, of, traitsOf(more)}
}

type list[P, T any] struct {
	name  string
	items Items[P, T]
	parts Parts[T]
	traits
}

func (l *list[P, T]) called() []string { return []string{l.name} }

func (l *list[P, T]) read(r *reading, o *opened, p *P) {
	t := l.traits
	t.must = l.items.Must
	n, path := o.take(r, l.name, "a list", t)
	switch {
	case n == nil:
		return
	case n.Shape != IsList:
		r.refuse(n, path, "expected a list, found %s", n.Describe())
		return
	case len(n.Items) > l.items.Most:
		r.refuse(n, path, "has %d entries; at most %d are taken", len(n.Items), l.items.Most)
		return
	}
	all := l.items.Get(p)
	seen := map[string]bool{}
	for i, node := range n.Items {
		if r.ctx.Err() != nil {
			return
		}
		var item T
		inner := r.open(node, position(path, i), "")
		if node.Shape != IsObject {
			continue
		}
		// The key is known once the fields are read; checks of them come later.
		l.parts.read(r, inner, &item)
		key := l.items.Key(&item)
		inner.at = o.at.To(l.name, key)
		if !seen[key] {
			r.places[inner.at] = place{node, inner.path}
		} else if key != "" && !r.loose {
			r.refuse(node, inner.path, "%s %q stands twice; keep one", l.items.One, key)
		}
		seen[key] = true
		inner.done(r)
		all = append(all, item)
	}
	l.items.Set(p, all)
}

func (l *list[P, T]) write(w *writer, p *P) {
	all := l.items.Get(p)
	if len(all) == 0 && !l.items.Must {
		return
	}
	w.field(l.name, func() {
		w.list(len(all), func(i int) { w.object(func() { l.parts.write(w, &all[i]) }) })
	})
}

func (l *list[P, T]) schema(s *object) {
	item := newObject()
	l.parts.schema(item)
	s.property(l.name, l.items.Must, map[string]any{"type": "array", "maxItems": l.items.Most, "items": item.end()})
}

func (l *list[P, T]) at(p *P, steps []string, editing bool) end {
	if len(steps) == 0 || steps[0] != l.name {
		return nil
	}
	if len(steps) == 1 {
		return &listEnd[P, T]{l, p}
	}
	all := l.items.Get(p)
	if editing {
		all = slices.Clone(all)
		l.items.Set(p, all)
	}
	at := l.items.indexOf(all, steps[1])
	if len(steps) == 2 {
		return &itemEnd[P, T]{l, p, steps[1], at}
	}
	if at < 0 {
		return l.cell(p, steps)
	}
	e := l.parts.at(&all[at], steps[2:], editing)
	if e == nil {
		return nil
	}
	return &within[P, T]{e, l, p, &all[at], all}
}

func (l *list[P, T]) check(p *P, at Path, tell tellings) {
	all := l.items.Get(p)
	for i := range all {
		l.parts.check(&all[i], at.To(l.name, l.items.Key(&all[i])), tell)
	}
}

func (l *list[P, T]) needs(steps []string) (int, bool) {
	switch {
	case len(steps) == 0 || steps[0] != l.name:
		return 0, false
	case len(steps) > 2:
		return l.parts.needs(steps[2:])
	}
	return l.need, true
}

// within is an end below an item, which may lend its name to it. A list that is
// no slice of its own is put back when the end has been edited.
type within[P, T any] struct {
	end
	list *list[P, T]
	p    *P
	item *T
	all  []T
}

func (w *within[P, T]) spot() Spot { return w.named(w.end.spot()) }

func (w *within[P, T]) say(op Op) (Said, bool) {
	s, ok := say(w.end, op)
	s.Label = w.named(Spot{Label: s.Label}).Label
	return s, ok
}

// named adds whose it is; an item below an item begins small.
func (w *within[P, T]) named(s Spot) Spot {
	if e, is := w.end.(interface{ one() string }); is {
		if name, begins := strings.CutPrefix(s.Label, capital(e.one())); begins {
			s.Label = e.one() + name
		}
	}
	return w.list.named(w.p, w.item, s)
}

// named adds to a spot of an item's field whose item it is.
func (l *list[P, T]) named(p *P, item *T, s Spot) Spot {
	name := l.items.Name(p, item)
	switch {
	case s.Label == "":
		s.Label = name
	default:
		s.Label = name + ", " + s.Label
	}
	if l.items.Owner != nil {
		s.Owner = l.items.Owner(item)
	}
	return s
}

func (w *within[P, T]) apply(op *Op) error {
	key := w.list.items.Key(w.item)
	if e, must := w.end.(interface{ isMust() bool }); must && e.isMust() && w.list.items.Make != nil && op.Do == Set && op.To == "" {
		if now := w.end.spot().Text; op.Was != now {
			return &ChangedError{op.Path, now}
		}
		steps := op.Path.Steps()
		*op = Op{Do: Remove, Path: Path("").To(steps[:len(steps)-1]...)}
		at := w.list.items.indexOf(w.all, key)
		return (&itemEnd[P, T]{w.list, w.p, key, at}).apply(op)
	}
	if err := w.end.apply(op); err != nil {
		return err
	}
	if now := w.list.items.Key(w.item); now != key {
		return &InvalidError{op.Path, fmt.Sprintf("is what tells the %s from others, and stays", w.list.items.One)}
	}
	w.list.items.Set(w.p, w.all)
	return nil
}

func (w *within[P, T]) typed(text string) (string, error) {
	if e, must := w.end.(interface{ isMust() bool }); must && e.isMust() && w.list.items.Make != nil && text == "" {
		return "", nil // it goes
	}
	if f, ok := w.end.(interface{ typed(string) (string, error) }); ok {
		return f.typed(text)
	}
	return "", &InvalidError{"", "is no field"}
}

// add and columns are those of a list below the item.
func (w *within[P, T]) add(at Path, typed map[string]string) (Op, error) {
	if e, ok := w.end.(interface {
		add(Path, map[string]string) (Op, error)
	}); ok {
		return e.add(at, typed)
	}
	return Op{}, &InvalidError{at, "is no list"}
}

func (w *within[P, T]) columns() Columns {
	if e, ok := w.end.(interface{ columns() Columns }); ok {
		return e.columns()
	}
	return Columns{}
}
