package document

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
)

// Items say what a list holds: where it is in a P, and what tells its items
// apart.
type Items[P, T any] struct {
	Get func(*P) []T
	Set func(*P, []T)
	Key func(*T) string
	// What one is called in words: "criterion", and by which of its fields.
	One  string
	Name func(*T) string
	Most int // that are taken
	Must bool
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
		} else if key != "" {
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
	if len(steps) < 2 || steps[0] != l.name {
		return nil
	}
	all := l.items.Get(p)
	if editing {
		all = slices.Clone(all)
		l.items.Set(p, all)
	}
	at := slices.IndexFunc(all, func(t T) bool { return l.items.Key(&t) == steps[1] })
	if len(steps) == 2 {
		return &itemEnd[P, T]{l, p, steps[1], at}
	}
	if at < 0 {
		return nil
	}
	e := l.parts.at(&all[at], steps[2:], editing)
	if e == nil {
		return nil
	}
	return &within[P, T]{e, l, p, &all[at], all}
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

func (w *within[P, T]) spot() Spot {
	s := w.end.spot()
	s.Label = fmt.Sprintf("%s, %s", w.list.items.Name(w.item), s.Label)
	return s
}

func (w *within[P, T]) apply(op *Op) error {
	key := w.list.items.Key(w.item)
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
	if f, ok := w.end.(interface{ typed(string) (string, error) }); ok {
		return f.typed(text)
	}
	return "", &InvalidError{"", "is no field"}
}

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
	s := Spot{Label: e.list.items.One + " " + e.key, Need: e.list.need}
	if e.at >= 0 {
		item := &e.all()[e.at]
		s.Label, s.Text, s.Shown = e.list.items.One+" "+e.list.items.Name(item), e.text(item), e.list.items.Name(item)
	}
	return s
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
	if at := slices.IndexFunc(all, func(t T) bool { return e.list.items.Key(&t) == key }); key != "" && at >= 0 {
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
		if op.Was != "" && op.Was != now {
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

func (e *itemEnd[P, T]) insert(op *Op) error {
	if len(e.all()) >= e.list.items.Most {
		return &InvalidError{op.Path, fmt.Sprintf("there are %d already, and that is the most", e.list.items.Most)}
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
		r.check()
	}
	return item, faults.Err()
}
