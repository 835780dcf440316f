package document

import (
	"fmt"
	"strings"
)

// Inside describes an object of its own below a P.
func Inside[P, T any](name string, at func(*P) *T, of Parts[T], more ...Option) Part[P] {
	return &inside[P, T]{name, at, of, traitsOf(more)}
}

// Nested describes a document of another table below a P, with the format that
// it says it is of.
func Nested[P, T any](name string, at func(*P) *T, table *Table[T], more ...Option) Part[P] {
	format := Field("format", "format", Among(table.Format), func(*T) *string { f := table.Format; return &f }, Must)
	return Inside(name, at, append(Parts[T]{format}, table.Parts...), more...)
}

type inside[P, T any] struct {
	name  string
	value func(*P) *T
	parts Parts[T]
	traits
}

func (i *inside[P, T]) called() []string { return []string{i.name} }

func (i *inside[P, T]) read(r *reading, o *opened, p *P) {
	n, path := o.take(r, i.name, "an object", i.traits)
	if n == nil {
		return
	}
	inner := r.open(n, path, o.at.To(i.name))
	if n.Shape != IsObject {
		return
	}
	r.places[inner.at] = place{n, path}
	i.parts.read(r, inner, i.value(p))
	inner.done(r)
}

func (i *inside[P, T]) write(w *writer, p *P) {
	inner := &writer{}
	inner.object(func() { i.parts.write(inner, i.value(p)) })
	if text := inner.b.String(); i.must || text != "{}" {
		w.field(i.name, func() { w.b.WriteString(text) })
	}
}

func (i *inside[P, T]) schema(s *object) {
	inner := newObject()
	i.parts.schema(inner)
	s.property(i.name, i.must, inner.end())
}

func (i *inside[P, T]) at(p *P, steps []string, editing bool) end {
	if len(steps) < 2 || steps[0] != i.name {
		return nil
	}
	return i.parts.at(i.value(p), steps[1:], editing)
}

func (i *inside[P, T]) check(p *P, at Path, tell tellings) {
	i.parts.check(i.value(p), at.To(i.name), tell)
}

func (i *inside[P, T]) needs(steps []string) (int, bool) {
	if len(steps) < 2 || steps[0] != i.name {
		return 0, false
	}
	return i.parts.needs(steps[1:])
}

// Texts describes a list of values without fields.
func Texts[P, V any](name string, n Notation[V], most int, at func(*P) *[]V, more ...Option) Part[P] {
	return &texts[P, V]{name: name, n: n, most: most, values: at, traits: traitsOf(more)}
}

type texts[P, V any] struct {
	silent[P]
	name   string
	n      Notation[V]
	most   int
	values func(*P) *[]V
	traits
}

func (t *texts[P, V]) called() []string { return []string{t.name} }

func (t *texts[P, V]) read(r *reading, o *opened, p *P) {
	n, path := o.take(r, t.name, "a list", t.traits)
	switch {
	case n == nil:
		return
	case n.Shape != IsList:
		r.refuse(n, path, "expected a list, found %s", n.Describe())
		return
	case len(n.Items) > t.most:
		r.refuse(n, path, "has %d entries; at most %d are taken", len(n.Items), t.most)
		return
	}
	one := Field[V, V](t.name, "", t.n, func(v *V) *V { return v }, Must).(*field[V, V])
	values := t.values(p)
	seen := map[string]bool{}
	for i, item := range n.Items {
		if r.ctx.Err() != nil {
			return
		}
		if seen[item.Text] && item.Shape == IsText && !r.loose {
			r.refuse(item, position(path, i), "%s stands twice", item.Describe())
			continue
		}
		seen[item.Text] = true
		var v V
		before := r.faults.Count()
		if one.take(r, item, position(path, i), &v); r.faults.Count() > before {
			continue
		}
		*values = append(*values, v)
		r.places[o.at.To(t.name, fmt.Sprint(i))] = place{item, position(path, i)}
	}
}

func (t *texts[P, V]) write(w *writer, p *P) {
	all := *t.values(p)
	if len(all) == 0 && !t.must {
		return
	}
	w.field(t.name, func() { w.list(len(all), func(i int) { w.value(t.n.As, t.n.Text(all[i])) }) })
}

func (t *texts[P, V]) schema(s *object) {
	s.property(t.name, t.must, map[string]any{"type": "array", "maxItems": t.most, "items": t.n.describe()})
}

func (t *texts[P, V]) needs(steps []string) (int, bool) {
	return t.need, len(steps) == 1 && steps[0] == t.name && t.apart != ""
}

func (t *texts[P, V]) at(p *P, steps []string, editing bool) end {
	if len(steps) != 1 || steps[0] != t.name || t.apart == "" {
		return nil
	}
	line := t.line()
	return &fieldEnd[[]V]{t.name, t.label, line, t.values(p), t.must, t.need}
}

// line is the notation of all the texts in one line.
func (t *texts[P, V]) line() Notation[[]V] {
	split := func(parse func(string) (V, error)) func(string) ([]V, error) {
		return func(line string) (all []V, err error) {
			seen := map[string]bool{}
			for text := range strings.SplitSeq(line, orElse(strings.TrimSpace(t.apart), " ")) {
				if text = strings.TrimSpace(text); text == "" || seen[text] {
					continue
				}
				seen[text] = true
				v, err := parse(text)
				if err != nil {
					return nil, err
				}
				if all = append(all, v); len(all) > t.most {
					return nil, Problem(fmt.Sprintf("has more than %d entries", t.most))
				}
			}
			return all, nil
		}
	}
	show := func(of func(V) string) func([]V) string {
		return func(all []V) string {
			texts := make([]string, len(all))
			for i, v := range all {
				texts[i] = of(v)
			}
			return strings.Join(texts, t.apart)
		}
	}
	return Notation[[]V]{Parse: split(t.n.Parse), Typed: split(t.n.typed), Text: show(t.n.Text), Show: show(t.n.show), Want: t.n.Want, As: IsText,
		Input: Input{Longest: 600}}
}

// Within describes by a part of a T what stands in a P, in the same object.
func Within[P, T any](at func(*P) *T, of Part[T]) Part[P] { return &same[P, T]{at, of} }

type same[P, T any] struct {
	value func(*P) *T
	part  Part[T]
}

func (s *same[P, T]) read(r *reading, o *opened, p *P) { s.part.read(r, o, s.value(p)) }
func (s *same[P, T]) write(w *writer, p *P)            { s.part.write(w, s.value(p)) }
func (s *same[P, T]) schema(o *object)                 { s.part.schema(o) }
func (s *same[P, T]) at(p *P, steps []string, editing bool) end {
	return s.part.at(s.value(p), steps, editing)
}
func (s *same[P, T]) check(p *P, at Path, tell tellings)        { s.part.check(s.value(p), at, tell) }
func (s *same[P, T]) needs(steps []string) (need int, has bool) { return s.part.needs(steps) }
