package document

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
)

// Map describes an object whose fields are not named beforehand: each name is a
// key of a form, and holds an object with the parts of a T.
func Map[P, T any](name string, key Notation[string], most int, at func(*P) *map[string]T, of Parts[T], more ...Option) Part[P] {
	return &mapped[P, T]{name, key, most, at, of, traitsOf(more), nil}
}

// Cells describes an object like [Map] whose entries are also edited as one text
// each, as in a grid: "" where there is none. keep adds to what was typed what
// stays of what stood there.
func Cells[P, T any](name string, key Notation[string], most int, at func(*P) *map[string]T, of Parts[T], cell Notation[T], keep func(now, was T) T,
	more ...Option) Part[P] {
	return &mapped[P, T]{name, key, most, at, of, traitsOf(more), &cells[T]{cell, keep}}
}

type mapped[P, T any] struct {
	name   string
	key    Notation[string]
	most   int
	values func(*P) *map[string]T
	parts  Parts[T]
	traits
	cells *cells[T] // nil: entries are not edited as a whole
}

type cells[T any] struct {
	Notation[T]
	keep func(now, was T) T
}

func (m *mapped[P, T]) called() []string { return []string{m.name} }

func (m *mapped[P, T]) read(r *reading, o *opened, p *P) {
	n, path := o.take(r, m.name, "an object", m.traits)
	switch {
	case n == nil:
		return
	case n.Shape != IsObject:
		r.refuse(n, path, "expected an object, found %s", n.Describe())
		return
	case len(n.Names) > m.most:
		r.refuse(n, path, "has %d entries; at most %d are taken", len(n.Names), m.most)
		return
	}
	all := make(map[string]T, len(n.Names))
	for i, key := range n.Names {
		if _, err := m.key.Parse(key); err != nil {
			r.refuse(n.Items[i], Join(path, Shorten(key, LongestField)), "expected %s", m.key.Want)
			continue
		}
		if n.Items[i].Shape == IsNull {
			continue
		}
		inner := r.open(n.Items[i], Join(path, key), o.at.To(m.name, key))
		if n.Items[i].Shape != IsObject {
			continue
		}
		var item T
		m.parts.read(r, inner, &item)
		inner.done(r)
		all[key] = item
	}
	*m.values(p) = all
}

func (m *mapped[P, T]) write(w *writer, p *P) {
	all := *m.values(p)
	if len(all) == 0 && !m.must {
		return
	}
	w.field(m.name, func() {
		w.object(func() {
			for _, key := range slices.Sorted(maps.Keys(all)) {
				item := all[key]
				w.field(key, func() { w.object(func() { m.parts.write(w, &item) }) })
			}
		})
	})
}

func (m *mapped[P, T]) schema(s *object) {
	item := newObject()
	m.parts.schema(item)
	of := map[string]any{"type": "object", "maxProperties": m.most, "additionalProperties": item.end(), "propertyNames": m.key.Schema}
	s.property(m.name, m.must, of)
}

func (m *mapped[P, T]) at(p *P, steps []string, editing bool) end {
	if len(steps) == 2 && steps[0] == m.name && m.cells != nil {
		if _, err := m.key.Parse(steps[1]); err != nil {
			return nil
		}
		return &entryEnd[T]{m.values(p), steps[1], steps[1], m.cells, m.need, m.most}
	}
	if len(steps) < 3 || steps[0] != m.name {
		return nil
	}
	item, ok := (*m.values(p))[steps[1]]
	if !ok {
		return nil
	}
	e := m.parts.at(&item, steps[2:], editing)
	if e == nil {
		return nil
	}
	return &mapEnd[P, T]{e, m, p, steps[1], &item}
}

// mapEnd is an end below an entry, which is put back when it has been edited.
type mapEnd[P, T any] struct {
	end
	m    *mapped[P, T]
	p    *P
	key  string
	item *T
}

func (e *mapEnd[P, T]) say(op Op) (Said, bool) { return say(e.end, op) }

func (e *mapEnd[P, T]) apply(op *Op) error {
	if err := e.end.apply(op); err != nil {
		return err
	}
	all := maps.Clone(*e.m.values(e.p))
	all[e.key] = *e.item
	*e.m.values(e.p) = all
	return nil
}

// typed turns what was typed into the canonical text.
func (e *mapEnd[P, T]) typed(text string) (string, error) {
	if f, ok := e.end.(interface{ typed(string) (string, error) }); ok {
		return f.typed(text)
	}
	return "", &InvalidError{"", "is no field"}
}

// entryEnd is an entry as one text; "" where there is none.
type entryEnd[V any] struct {
	all        *map[string]V
	key, label string
	n          *cells[V]
	need       int
	most       int // so many entries are taken; 0: any number
}

func (e *entryEnd[V]) spot() Spot {
	s := Spot{Label: e.label, Want: e.n.Want, Input: e.n.Input, Need: e.need}
	if v, there := (*e.all)[e.key]; there {
		s.Text, s.Shown, s.There = e.n.Text(v), e.n.show(v), true
	}
	return s
}

func (e *entryEnd[V]) typed(text string) (string, error) {
	if strings.TrimSpace(text) == "" {
		return "", nil
	}
	v, err := e.n.typed(text)
	return e.n.Text(v), err
}

func (e *entryEnd[V]) apply(op *Op) error {
	now := e.spot().Text
	switch {
	case op.Do != Set:
		return &InvalidError{op.Path, "is a field, which is set"}
	case op.Was != now:
		return &ChangedError{op.Path, now}
	}
	all := maps.Clone(*e.all)
	if all == nil {
		all = map[string]V{}
	}
	if op.To == "" {
		delete(all, e.key)
	} else {
		v, err := e.n.Parse(op.To)
		var own Problem
		switch {
		case errors.As(err, &own):
			return &InvalidError{op.Path, string(own)}
		case err != nil:
			return &InvalidError{op.Path, "expected " + e.n.Want}
		case e.most > 0 && now == "" && len(all) >= e.most:
			return &InvalidError{op.Path, fmt.Sprintf("at most %d are taken, and this would be more", e.most)}
		}
		all[e.key] = e.n.keep(v, all[e.key])
		op.To = e.n.Text(v)
	}
	*e.all = all
	return nil
}

func (m *mapped[P, T]) check(p *P, at Path, tell tellings) {
	all := *m.values(p)
	for _, key := range slices.Sorted(maps.Keys(all)) {
		item := all[key]
		m.parts.check(&item, at.To(m.name, key), tell)
	}
}

func (m *mapped[P, T]) needs(steps []string) (int, bool) {
	if len(steps) == 2 && steps[0] == m.name && m.cells != nil {
		return m.need, true
	}
	if len(steps) < 3 || steps[0] != m.name {
		return 0, false
	}
	return m.parts.needs(steps[2:])
}
