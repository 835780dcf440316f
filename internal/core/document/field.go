package document

import "errors"

// Field describes one value of a P: its name in files and paths, its label for
// people, how it is written, and where it is.
func Field[P, V any](name, label string, n Notation[V], at func(*P) *V, more ...Option) Part[P] {
	return &field[P, V]{name, label, n, at, traitsOf(more)}
}

type field[P, V any] struct {
	name, label string
	n           Notation[V]
	value       func(*P) *V
	traits
}

func (f *field[P, V]) read(r *reading, o *opened, p *P) {
	n, path := o.take(r, f.name, f.n.Want, f.traits)
	if n != nil {
		f.take(r, n, path, f.value(p))
	}
}

// take reads a value.
func (f *field[P, V]) take(r *reading, n *Node, path string, into *V) {
	if !f.n.takes(n.Shape) {
		r.refuse(n, path, "expected %s, found %s", f.n.Want, n.Describe())
		return
	}
	v, err := f.n.Parse(n.Text)
	var own Problem
	switch {
	case errors.As(err, &own):
		r.refuse(n, path, "%s", own)
	case err != nil:
		r.refuse(n, path, "expected %s, found %s", f.n.Want, n.Describe())
	case f.must && f.n.As == IsText && f.n.Text(v) == "":
		r.refuse(n, path, "is empty")
	default:
		*into = v
	}
}

func (f *field[P, V]) write(w *writer, p *P) {
	var none V
	text := f.n.Text(*f.value(p))
	if f.must || f.always || text != f.n.Text(none) {
		w.field(f.name, func() { w.value(f.n.As, text) })
	}
}

func (f *field[P, V]) schema(s *object) {
	s.property(f.name, f.must, f.n.describe())
}

func (f *field[P, V]) check(*P, Path, tellings) {}

func (f *field[P, V]) needs(steps []string) (int, bool) {
	return f.need, len(steps) == 1 && steps[0] == f.name
}

func (f *field[P, V]) at(p *P, steps []string, _ bool) end {
	if len(steps) != 1 || steps[0] != f.name {
		return nil
	}
	return &fieldEnd[V]{f.name, f.label, f.n, f.value(p), f.must, f.need}
}

func (f *field[P, V]) column() Column {
	return Column{f.name, f.label, f.n.Want, f.n.Input, f.must}
}

// leading reports whether the field has to be there and is not part of a key.
func (f *field[P, V]) leading() bool    { return f.must && f.need > 0 }
func (f *field[P, V]) called() []string { return []string{f.name} }

// end is where a path leads: a field, or an item of a list.
type end interface {
	spot() Spot
	apply(op *Op) error
}

type fieldEnd[V any] struct {
	name, label string
	n           Notation[V]
	value       *V
	must        bool
	need        int
}

func (e *fieldEnd[V]) spot() Spot {
	return Spot{Label: e.label, Text: e.n.Text(*e.value), Shown: e.n.show(*e.value), Want: e.n.Want, Input: e.n.Input, Need: e.need, There: true}
}

func (e *fieldEnd[V]) isMust() bool { return e.must }

// put sets the value by its canonical text.
func (e *fieldEnd[V]) put(text string) error {
	v, err := e.parsed(text, e.n.Parse)
	if err == nil {
		*e.value = v
	}
	return err
}

func (e *fieldEnd[V]) apply(op *Op) error {
	if op.Do != Set {
		return &InvalidError{op.Path, "is a field, which is set"}
	}
	now := e.n.Text(*e.value)
	if op.Was != now {
		return &ChangedError{op.Path, now}
	}
	v, err := e.parsed(op.To, e.n.Parse)
	var own Problem
	switch {
	case errors.As(err, &own):
		return &InvalidError{op.Path, string(own)}
	case err != nil:
		return &InvalidError{op.Path, "expected " + e.n.Want}
	case e.must && e.n.As == IsText && e.n.Text(v) == "":
		return &InvalidError{op.Path, "is empty"}
	}
	op.To = e.n.Text(v)
	*e.value = v
	return nil
}

// typed turns what was typed into the canonical text.
func (e *fieldEnd[V]) typed(text string) (string, error) {
	v, err := e.parsed(text, e.n.typed)
	return e.n.Text(v), err
}

// parsed reads a text; what need not be there and is written as nothing may be emptied.
func (e *fieldEnd[V]) parsed(text string, parse func(string) (V, error)) (V, error) {
	var none V
	if !e.must && text == "" && e.n.Text(none) == "" {
		return none, nil
	}
	return parse(text)
}
