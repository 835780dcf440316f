package document

import (
	"context"
	"fmt"
	"slices"
	"strings"
)

// Main is the part of a document that holds all that does not stand apart.
const Main = "main"

// Pieces writes a document as it is kept: the main part, and each list that
// stands apart.
func (t *Table[P]) Pieces(p P) map[string]string {
	all := map[string]string{}
	rest := t.Parts
	for _, name := range t.Apart {
		at := slices.IndexFunc(rest, func(part Part[P]) bool { return nameOf(part) == name })
		if at < 0 {
			panic("document: there is no list " + name + " to stand apart")
		}
		all[name] = t.written(rest[at:at+1], &p)
		rest = slices.Delete(slices.Clone(rest), at, at+1)
	}
	all[Main] = t.written(rest, &p)
	return all
}

// PieceOf returns in which part of a document a path leads.
func (t *Table[P]) PieceOf(path Path) string {
	first, _, _ := strings.Cut(string(path), ".")
	if slices.Contains(t.Apart, first) {
		return first
	}
	return Main
}

func nameOf(part any) string {
	if one, ok := part.(interface{ called() []string }); ok {
		return one.called()[0]
	}
	return ""
}

func (t *Table[P]) written(parts Parts[P], p *P) string {
	w := &writer{}
	w.object(func() {
		w.field("format", func() { w.value(IsText, t.Format) })
		parts.write(w, p)
	})
	return w.b.String()
}

// NewerError reports a document that a later version of the program has kept.
type NewerError struct{ Format string }

func (e *NewerError) Error() string {
	return fmt.Sprintf("it was kept by a newer version of Nine Coins (%s); this one leaves it alone", e.Format)
}

// mostKept bounds the values of a part that was kept.
const mostKept = 3_000_000

// Join reads a document from the parts in which it is kept, without the checks
// of files: what was kept may be at fault.
func (t *Table[P]) Join(ctx context.Context, pieces map[string]string) (p P, err error) {
	joined := &Node{Shape: IsObject, Line: 1}
	var faults Gathering
	for _, name := range append([]string{Main}, t.Apart...) {
		if pieces[name] == "" {
			continue
		}
		n, err := Parse(ctx, []byte(pieces[name]), Bounds{Bytes: len(pieces[name]), Values: mostKept}, &faults)
		if err == nil {
			err = faults.Err()
		}
		if err == nil {
			err = t.upgrade(n)
		}
		if err != nil {
			return p, fmt.Errorf("%s: %w", name, err)
		}
		for i, field := range n.Names {
			if field != "format" || name == Main {
				joined.put(field, n.Items[i])
			}
		}
	}
	r := &reading{ctx: ctx, faults: &faults, places: map[Path]place{}}
	o := t.opened(r, joined, "")
	t.Parts.read(r, o, &p)
	o.done(r)
	if ctx.Err() != nil {
		return p, ctx.Err()
	}
	return p, faults.Err()
}

// Version is an earlier format of a document and how it becomes the next.
type Version struct {
	Format  string
	Upgrade func(*Node) error
}

// upgrade brings a document of an earlier format up to this one.
func (t *Table[P]) upgrade(n *Node) error {
	format := n.Field("format")
	if format == nil || format.Text == t.Format {
		return nil
	}
	at := slices.IndexFunc(t.Earlier, func(v Version) bool { return v.Format == format.Text })
	if at < 0 {
		if family := t.Format[:strings.LastIndex(t.Format, "/")+1]; strings.HasPrefix(format.Text, family) {
			return &NewerError{format.Text}
		}
		return nil
	}
	for _, v := range t.Earlier[at:] {
		if err := v.Upgrade(n); err != nil {
			return fmt.Errorf("bringing %s up to date: %w", v.Format, err)
		}
	}
	format.Text = t.Format
	return nil
}
