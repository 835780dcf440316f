package document

import (
	"context"
	"encoding/json"
)

// Table is the one description of a kind of document.
type Table[P any] struct {
	Format string // what its files say that they are: "nine-coins/study/1"
	Title  string // for the schema
	Parts  Parts[P]
	// Lists that are kept apart from the rest, so that an edit of the one does not
	// write the other.
	Apart []string
	// Fields that are not known, and items that stand twice, are let pass, as
	// before they were looked at.
	Loose bool
	// The formats before this one, the oldest first.
	Earlier []Version
	// What a spot shows that hangs on the whole document, such as its currency;
	// nil: nothing.
	Finish func(*P, *Spot)
}

// Read reads a document below a node, gathering its faults. path is where the
// node stands in the file, by positions; "" for all of it.
func (t *Table[P]) Read(ctx context.Context, n *Node, path string, faults *Gathering) P {
	var p P
	r := &reading{ctx: ctx, faults: faults, places: map[Path]place{}, loose: t.Loose}
	if err := t.upgrade(n); err != nil && len(t.Earlier) > 0 {
		r.refuse(n, Join(path, "format"), "%v", err)
		return p
	}
	o := t.opened(r, n, path)
	t.Parts.read(r, o, &p)
	o.done(r)
	if ctx.Err() == nil {
		t.Parts.check(&p, "", tellings{r.tell, func(Path, string, ...any) {}})
	}
	return p
}

// opened opens a document's object, which must say that it is of its format.
func (t *Table[P]) opened(r *reading, n *Node, path string) *opened {
	o := r.open(n, path, "")
	r.places[""] = place{o.node, path}
	Field("format", "format", Among(t.Format), func(s *string) *string { return s }, Must).read(r, o, new(string))
	return o
}

// Check tells what is wrong with a document, at which path.
func (t *Table[P]) Check(p P, tell Tell) {
	t.Parts.check(&p, "", tellings{tell, tell})
}

// NeedOf returns what editing what stands at a path needs; 0 where the table has
// no such path.
func (t *Table[P]) NeedOf(path Path) int {
	need, _ := t.Parts.needs(path.Steps())
	return need
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
	s.Path, s.Said = path, orElse(s.Said, s.Shown)
	if s.Input.Unit != "" && s.There {
		s.Said += s.Input.Unit
	}
	if t.Finish != nil {
		t.Finish(&p, &s)
	}
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

// Columns returns the fields of the items of a list; false where the path is
// no list's.
func (t *Table[P]) Columns(p P, path Path) (Columns, bool) {
	e, ok := t.Parts.at(&p, path.Steps(), false).(interface{ columns() Columns })
	if !ok {
		return Columns{}, false
	}
	return e.columns(), true
}

// Add turns what was typed into the fields of a new item of a list, by name,
// into its insertion. A field that cannot be read is a [*TypedError].
func (t *Table[P]) Add(p P, path Path, typed map[string]string) (Op, error) {
	e, ok := t.Parts.at(&p, path.Steps(), false).(interface {
		add(Path, map[string]string) (Op, error)
	})
	if !ok {
		return Op{}, &InvalidError{path, "is no list"}
	}
	return e.add(path, typed)
}

// Say tells a change in words, edit by edit, with names as they are in p: the
// document as it was before.
func (t *Table[P]) Say(p P, c Change) []Said {
	said := make([]Said, 0, len(c))
	for _, op := range c {
		after, made, err := t.Apply(p, Change{op})
		if err == nil {
			op = made[0]
		}
		said = append(said, t.say(p, op))
		if err == nil {
			p = after
		}
	}
	return said
}

func (t *Table[P]) say(p P, op Op) Said {
	e := t.Parts.at(&p, op.Path.Steps(), false)
	if s, ok := say(e, op); ok {
		return s
	}
	s := Said{Label: string(op.Path), Was: t.said(p, op.Path, op.Was), To: t.said(p, op.Path, op.To)}
	if spot, ok := t.Spot(p, op.Path); ok {
		s.Label = spot.Label
	}
	return s
}

// said is how a canonical text at a path stands in a sentence, whatever stands
// there now.
func (t *Table[P]) said(p P, path Path, text string) string {
	spot, ok := t.Spot(p, path)
	if ok && spot.Text != text {
		if p, _, err := t.Apply(p, Change{{Do: Set, Path: path, Was: spot.Text, To: text}}); err == nil {
			spot, ok = t.Spot(p, path)
		} else {
			ok = false
		}
	}
	if !ok {
		return orElse(text, "nothing")
	}
	return orElse(spot.Said, "nothing")
}
