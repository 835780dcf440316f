package document

import "errors"

// Varied describes a field that is written as an object in some cases and as a
// text or a number in others.
type Varied[P any] struct {
	Name, Want string
	Must       bool
	// Scalar takes what is no object; an error that is no [Problem] says only that
	// it is not what is wanted.
	Scalar func(p *P, text string, as Shape) error
	// Text writes what is no object; false where there is nothing to write.
	Text func(p *P) (text string, as Shape, ok bool)
	// Object reports whether it is written as an object, and Begin makes it one.
	Object func(p *P) bool
	Begin  func(p *P)
	Parts  Parts[P]
	// What the schema says of a text or number.
	Schema map[string]any
	// How all of it is edited as one text; nil: it is not. What an edit changes below a
	// pointer is made anew by Copy, so that it is shared with nothing.
	Words *Wording[P]
	Copy  func(p *P)
}

// Wording is how a value that is written in several shapes stands in one text.
type Wording[P any] struct {
	Label, Want string
	Input       Input
	Need        int
	Text        func(*P) string               // as the history holds it
	Show        func(*P) string               // on the screen; nil: as Text
	Set         func(p *P, text string) error // by the text that the history holds
	Typed       func(string) (string, error)  // from what people type to that; nil: as it is
}

// Part makes a part of it.
func (v Varied[P]) Part() Part[P] { return &varied[P]{v} }

type varied[P any] struct{ Varied[P] }

func (v *varied[P]) read(r *reading, o *opened, p *P) {
	n, path := o.take(r, v.Name, v.Want, traits{must: v.Must})
	switch {
	case n == nil:
		return
	case n.Shape == IsObject:
		v.Begin(p)
		inner := r.open(n, path, o.at.To(v.Name))
		v.Parts.read(r, inner, p)
		inner.done(r)
		return
	case n.Shape == IsText || n.Shape == IsNumber:
		if v.Scalar(p, n.Text, n.Shape) == nil {
			return
		}
	}
	r.refuse(n, path, "expected %s, found %s", v.Want, n.Describe())
}

func (v *varied[P]) write(w *writer, p *P) {
	if v.Object(p) {
		w.field(v.Name, func() { w.object(func() { v.Parts.write(w, p) }) })
		return
	}
	if text, as, ok := v.Text(p); ok {
		w.field(v.Name, func() { w.value(as, text) })
	}
}

func (v *varied[P]) schema(s *object) {
	inner := newObject()
	v.Parts.schema(inner)
	s.property(v.Name, v.Must, map[string]any{"description": v.Want, "anyOf": []any{v.Schema, inner.end()}})
}

func (v *varied[P]) at(p *P, steps []string, editing bool) end {
	if len(steps) == 1 && steps[0] == v.Name && v.Words != nil {
		return &lineEnd[P]{v, p}
	}
	if len(steps) > 1 && steps[0] == v.Name && editing && v.Copy != nil && v.Object(p) {
		v.Copy(p)
	}
	if len(steps) < 2 || steps[0] != v.Name || !v.Object(p) {
		return nil
	}
	return v.Parts.at(p, steps[1:], editing)
}

func (v *varied[P]) check(p *P, at Path, tell tellings) {
	if v.Object(p) {
		v.Parts.check(p, at.To(v.Name), tell)
	}
}

func (v *varied[P]) column() Column {
	if v.Words == nil {
		return Column{Name: v.Name, Label: v.Name, Want: v.Want, Must: v.Must}
	}
	return Column{v.Name, v.Words.Label, v.Words.Want, v.Words.Input, v.Must}
}

// lineEnd is what is varied as one text.
type lineEnd[P any] struct {
	v *varied[P]
	p *P
}

func (e *lineEnd[P]) spot() Spot {
	l := e.v.Words
	s := Spot{Label: l.Label, Text: l.Text(e.p), Want: l.Want, Input: l.Input, Need: l.Need, There: true}
	s.Shown = s.Text
	if l.Show != nil {
		s.Shown = l.Show(e.p)
	}
	return s
}

func (e *lineEnd[P]) isMust() bool { return e.v.Must }

func (e *lineEnd[P]) put(text string) error { return e.v.Words.Set(e.p, text) }

func (e *lineEnd[P]) typed(text string) (string, error) {
	if e.v.Words.Typed == nil {
		return text, nil
	}
	return e.v.Words.Typed(text)
}

func (e *lineEnd[P]) apply(op *Op) error {
	now := e.v.Words.Text(e.p)
	switch {
	case op.Do != Set:
		return &InvalidError{op.Path, "is a field, which is set"}
	case op.Was != now:
		return &ChangedError{op.Path, now}
	}
	err := e.v.Words.Set(e.p, op.To)
	var own Problem
	switch {
	case errors.As(err, &own):
		return &InvalidError{op.Path, string(own)}
	case err != nil:
		return &InvalidError{op.Path, "expected " + e.v.Words.Want}
	}
	op.To = e.v.Words.Text(e.p)
	return nil
}

func (v *varied[P]) needs(steps []string) (int, bool) {
	if len(steps) == 1 && steps[0] == v.Name && v.Words != nil {
		return v.Words.Need, true
	}
	if len(steps) < 2 || steps[0] != v.Name {
		return 0, false
	}
	return v.Parts.needs(steps[1:])
}

// Absent does something with a P that has no field of a name.
func Absent[P any](name string, do func(*P)) Part[P] { return absent[P]{name: name, do: do} }

type absent[P any] struct {
	silent[P]
	name string
	do   func(*P)
}

func (a absent[P]) read(_ *reading, o *opened, p *P) {
	if o.node.Field(a.name) == nil {
		a.do(p)
	}
}

// Unread lets all fields pass of a P that is refused as a whole.
func Unread[P any](is func(*P) bool) Part[P] { return unread[P]{is: is} }

type unread[P any] struct {
	silent[P]
	is func(*P) bool
}

func (u unread[P]) read(_ *reading, o *opened, p *P) {
	if u.is(p) {
		o.known = append(o.known, o.node.Names...)
	}
}
