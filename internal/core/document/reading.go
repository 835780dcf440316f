package document

import (
	"context"
	"fmt"
	"slices"
	"strings"
)

// reading is a document while it is read.
type reading struct {
	ctx    context.Context
	faults *Gathering
	places map[Path]place // of items that were read
	loose  bool           // what is not known, and what stands twice, is let pass
}

// place is where something stands in the file.
type place struct {
	node *Node
	path string // by positions: "options[1]"
}

// opened is an object of the file and what is known of its fields.
type opened struct {
	node  *Node
	path  string // by positions
	at    Path   // by keys
	known []string
	keys  map[string]bool // names that are no fields, but keys
}

// pass notes that a name is a key.
func (o *opened) pass(name string) {
	if o.keys == nil {
		o.keys = map[string]bool{}
	}
	o.keys[name] = true
}

// open opens an object; what is none has a fault, and no fields.
func (r *reading) open(n *Node, path string, at Path) *opened {
	o := &opened{node: n, path: path, at: at, known: make([]string, 0, 12)}
	if n.Shape != IsObject {
		r.refuse(n, path, "expected an object, found %s", n.Shape)
		o.node = &Node{Shape: IsObject, Line: n.Line}
	}
	return o
}

func (r *reading) refuse(n *Node, path, format string, a ...any) {
	r.faults.Add(int(n.Line), path, format, a...)
}

// tell puts a fault at the end of a path by keys, or as near to it as there is
// something in the file.
func (r *reading) tell(at Path, format string, a ...any) {
	steps := at.Steps()
	for n := len(steps); n >= 0; n-- {
		found, ok := r.places[Path("").To(steps[:n]...)]
		if !ok {
			continue
		}
		path := found.path
		if n < len(steps) {
			path = Join(path, steps[n])
			if field := found.node.Field(steps[n]); field != nil {
				found.node = field
			}
		}
		r.refuse(found.node, path, format, a...)
		return
	}
}

// take returns a field's value, under whichever of its names; nil where it is
// missing or null.
func (o *opened) take(r *reading, name, want string, t traits) (n *Node, path string) {
	o.known = append(o.known, name)
	if n = o.node.Field(name); n == nil {
		for _, one := range t.formerly {
			o.known = append(o.known, one)
			if n == nil {
				n, path = o.node.Field(one), Join(o.path, one)
			}
		}
	}
	switch {
	case n == nil && t.must:
		r.refuse(o.node, Join(o.path, name), "is missing; expected %s", want)
	case n != nil && path == "":
		path = Join(o.path, name)
	}
	return n, path
}

// done reports the fields that do not belong to an object.
func (o *opened) done(r *reading) {
	if r.loose {
		return
	}
	for i, name := range o.node.Names {
		if !o.keys[name] && !slices.Contains(o.known, name) {
			if r.faults.Full() { // it is only counted
				r.faults.Add(int(o.node.Items[i].Line), "", "")
				continue
			}
			r.refuse(o.node.Items[i], Join(o.path, Shorten(name, LongestField)), "is not a field here; there are %s",
				strings.Join(slices.Compact(slices.Sorted(slices.Values(o.known))), ", "))
		}
	}
}

func position(path string, i int) string { return fmt.Sprintf("%s[%d]", path, i) }
