package document

import (
	"context"
	"encoding/json"
	"fmt"
)

// Table is the one description of a kind of document.
type Table[P any] struct {
	Format string // what its files say that they are: "nine-coins/study/1"
	Title  string // for the schema
	Parts  Parts[P]
}

// Read reads a document below a node, gathering its faults. path is where the
// node stands in the file, by positions; "" for all of it.
func (t *Table[P]) Read(ctx context.Context, n *Node, path string, faults *Gathering) P {
	var p P
	r := &reading{ctx: ctx, faults: faults, places: map[Path]place{}}
	o := r.open(n, path, "")
	r.places[""] = place{o.node, path}
	Field("format", "format", Among(t.Format), func(s *string) *string { return s }, Must).read(r, o, new(string))
	t.Parts.read(r, o, &p)
	o.done(r)
	r.check()
	return p
}

// check runs the checks of what was read.
func (r *reading) check() {
	for _, look := range r.later {
		if r.ctx.Err() == nil {
			look()
		}
	}
}

// Write writes a document, as [Table.Read] reads it back equal.
func (t *Table[P]) Write(p P) json.RawMessage {
	w := &writer{}
	w.object(func() {
		w.field("format", func() { w.value(IsText, t.Format) })
		t.Parts.write(w, &p)
	})
	return json.RawMessage(w.b.String())
}

// Apply makes a change, in full or not at all, and returns it with what stood
// there filled in. What p shares with others stays as it is. An edit of what
// was changed meanwhile is a [*ChangedError], one that cannot be made an
// [*InvalidError].
func (t *Table[P]) Apply(p P, c Change) (P, Change, error) {
	edited, made := p, make(Change, 0, len(c))
	for _, op := range c {
		e := t.Parts.at(&edited, op.Path.Steps(), true)
		if e == nil {
			return p, nil, &ChangedError{op.Path, ""}
		}
		if err := e.apply(&op); err != nil {
			return p, nil, err
		}
		made = append(made, op)
	}
	return edited, made, nil
}

// Spot returns what stands at a path, and how it is edited; false where the
// document has no such path.
func (t *Table[P]) Spot(p P, path Path) (Spot, bool) {
	e := t.Parts.at(&p, path.Steps(), false)
	if e == nil {
		return Spot{}, false
	}
	s := e.spot()
	s.Path = path
	return s, true
}

// Typed turns what was typed at a path into its canonical text.
func (t *Table[P]) Typed(p P, path Path, text string) (string, error) {
	e := t.Parts.at(&p, path.Steps(), false)
	if f, ok := e.(interface{ typed(string) (string, error) }); ok {
		return f.typed(text)
	}
	return "", &ChangedError{path, ""}
}

// Say tells a change in words, with names as they are in p: the document as it
// was before.
func (t *Table[P]) Say(p P, c Change) []string {
	var said []string
	for _, op := range c {
		s, there := t.Spot(p, op.Path)
		if !there {
			s.Label = string(op.Path)
		}
		switch op.Do {
		case Set:
			to := op.To
			if after, _, err := t.Apply(p, Change{op}); err == nil {
				now, _ := t.Spot(after, op.Path)
				to = now.Shown
			}
			said = append(said, fmt.Sprintf("%s: from %s to %s", s.Label, orNothing(s.Shown), orNothing(to)))
		case Insert:
			said = append(said, s.Label+" added")
		case Remove:
			said = append(said, s.Label+" removed")
		case Move:
			said = append(said, s.Label+" moved")
		}
		if after, _, err := t.Apply(p, Change{op}); err == nil {
			p = after
		}
	}
	return said
}

func orNothing(s string) string {
	if s == "" {
		return "nothing"
	}
	return s
}
