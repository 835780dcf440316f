package document

import (
	"maps"
	"slices"
)

// Rest describes the fields of an object that no other part names: each holds a
// value under a key of a form. It stands last among the parts. Names that are
// kept for fields are none.
func Rest[P, V any](key Notation[string], kept []string, n Notation[V], at func(*P) *map[string]V, more ...Option) Part[P] {
	taken := cells[V]{n, func(now, _ V) V { return now }}
	return &rest[P, V]{key: key, kept: kept, n: taken, values: at, traits: traitsOf(more)}
}

type rest[P, V any] struct {
	silent[P]
	key    Notation[string]
	kept   []string
	n      cells[V]
	values func(*P) *map[string]V
	traits
}

func (f *rest[P, V]) names(steps []string) bool {
	if len(steps) != 1 || slices.Contains(f.kept, steps[0]) || f.need == 0 {
		return false
	}
	_, err := f.key.Parse(steps[0])
	return err == nil
}

func (f *rest[P, V]) needs(steps []string) (int, bool) { return f.need, f.names(steps) }

func (f *rest[P, V]) at(p *P, steps []string, _ bool) end {
	if !f.names(steps) {
		return nil
	}
	return &entryEnd[V]{f.values(p), steps[0], orElse(f.label, steps[0]), &f.n, f.need, 0}
}

func (f *rest[P, V]) read(r *reading, o *opened, p *P) {
	one := Field[V, V]("", "", f.n.Notation, func(v *V) *V { return v }).(*field[V, V])
	var all map[string]V
	for i, name := range o.node.Names {
		if slices.Contains(o.known, name) || slices.Contains(f.kept, name) {
			continue
		}
		if _, err := f.key.Parse(name); err != nil {
			continue
		}
		o.pass(name)
		if o.node.Items[i].Shape == IsNull {
			continue
		}
		if all == nil {
			all = map[string]V{}
		}
		var v V
		one.take(r, o.node.Items[i], Join(o.path, name), &v)
		all[name] = v
	}
	*f.values(p) = all
}

func (f *rest[P, V]) write(w *writer, p *P) {
	all := *f.values(p)
	for _, key := range slices.Sorted(maps.Keys(all)) {
		w.field(key, func() { w.value(f.n.As, f.n.Text(all[key])) })
	}
}

func (f *rest[P, V]) schema(s *object) { s.otherwise(f.n.describe()) }
