package document

// Part describes some of the fields of a P: one of them, a list, the fields of
// one kind, or a check of several.
type Part[P any] interface {
	read(r *reading, o *opened, p *P)
	write(w *writer, p *P)
	schema(s *object)
	// at returns the end of the steps below p; nil where the part has none such.
	// For editing, what lies on the way is copied, so that p shares nothing with
	// what it was copied from.
	at(p *P, steps []string, editing bool) end
	// check tells what is wrong with p, at which path.
	check(p *P, at Path, tell tellings)
	// needs returns what editing the end of the steps needs; false where the
	// part has none such.
	needs(steps []string) (need int, ok bool)
}

// Tell tells what is wrong at a path.
type Tell = func(at Path, format string, a ...any)

// Parts describe all fields of a P, in the order in which they are written.
type Parts[P any] []Part[P]

func (parts Parts[P]) read(r *reading, o *opened, p *P) {
	for _, part := range parts {
		part.read(r, o, p)
	}
}

func (parts Parts[P]) write(w *writer, p *P) {
	for _, part := range parts {
		part.write(w, p)
	}
}

func (parts Parts[P]) schema(s *object) {
	for _, part := range parts {
		part.schema(s)
	}
}

func (parts Parts[P]) at(p *P, steps []string, editing bool) end {
	for _, part := range parts {
		if e := part.at(p, steps, editing); e != nil {
			return e
		}
	}
	return nil
}

func (parts Parts[P]) check(p *P, at Path, tell tellings) {
	for _, part := range parts {
		part.check(p, at, tell)
	}
}

func (parts Parts[P]) needs(steps []string) (int, bool) {
	for _, part := range parts {
		if need, ok := part.needs(steps); ok {
			return need, true
		}
	}
	return 0, false
}

// Option says more of a field or a list.
type Option func(*traits)

type traits struct {
	must     bool
	always   bool
	need     int
	formerly []string
	apart    string // what stands between texts that are edited in one line
	label    string
}

func traitsOf(more []Option) (t traits) {
	for _, option := range more {
		option(&t)
	}
	return t
}

// Must says that a field has to be there.
func Must(t *traits) { t.must = true }

// Always says that a field is written also where it is empty or nought.
func Always(t *traits) { t.always = true }

// Needs says what changing a field needs of whoever does, in a measure of the
// document's owner; 0 where nothing is told.
func Needs(need int) Option { return func(t *traits) { t.need = need } }

// InLine says that a list of texts is edited in one line, with what between them,
// and what it is called.
func InLine(apart, label string) Option {
	return func(t *traits) { t.apart, t.label = apart, label }
}

// Called says what the fields that no other part names are called for people.
func Called(label string) Option { return func(t *traits) { t.label = label } }

// Formerly says what a field was called in earlier files.
func Formerly(name string) Option {
	return func(t *traits) { t.formerly = append(t.formerly, name) }
}

// When describes fields that a P has only where is holds. condition names the
// field and the value by which it does, for the schema.
func When[P any](condition [2]string, is func(*P) bool, of ...Part[P]) Part[P] {
	return &when[P]{condition, is, of}
}

type when[P any] struct {
	condition [2]string
	is        func(*P) bool
	parts     Parts[P]
}

func (w *when[P]) read(r *reading, o *opened, p *P) {
	if w.is(p) {
		w.parts.read(r, o, p)
	}
}

func (w *when[P]) write(out *writer, p *P) {
	if w.is(p) {
		w.parts.write(out, p)
	}
}

func (w *when[P]) at(p *P, steps []string, editing bool) end {
	if !w.is(p) {
		return nil
	}
	return w.parts.at(p, steps, editing)
}

func (w *when[P]) check(p *P, at Path, tell tellings) {
	if w.is(p) {
		w.parts.check(p, at, tell)
	}
}

func (w *when[P]) columns() (all []Column) {
	for _, part := range w.parts {
		if f, ok := part.(interface{ column() Column }); ok {
			all = append(all, f.column())
		}
	}
	return all
}

func (w *when[P]) needs(steps []string) (int, bool) { return w.parts.needs(steps) }

// Check looks at a P once all of it has been read, and tells what is wrong at
// which path below it.
func Check[P any](look func(p *P, tell Tell)) Part[P] { return check[P]{look: look} }

type check[P any] struct {
	silent[P]
	look func(*P, Tell)
}

func (c check[P]) check(p *P, at Path, tell tellings) {
	c.look(p, under(at, tell.refuse))
}

// tellings are told what keeps a file out, and what can be kept though it is at fault.
type tellings struct{ refuse, keep Tell }

// under tells of what is below a path.
func under(at Path, tell Tell) Tell {
	return func(below Path, format string, a ...any) { tell(at.To(below.Steps()...), format, a...) }
}

// Kept looks at a P as [Check] does, for what can be kept and is told where it stands: it keeps no
// file out, so that whatever is held goes out and comes in again.
func Kept[P any](look func(p *P, tell Tell)) Part[P] { return kept[P]{look: look} }

type kept[P any] struct {
	silent[P]
	look func(*P, Tell)
}

func (k kept[P]) check(p *P, at Path, tell tellings) { k.look(p, under(at, tell.keep)) }

// Then does something with a P as soon as what stands before has been read.
func Then[P any](do func(*P)) Part[P] { return then[P]{do: do} }

type then[P any] struct {
	silent[P]
	do func(*P)
}

func (t then[P]) read(_ *reading, _ *opened, p *P) { t.do(p) }

// silent is a part that has no field of its own.
type silent[P any] struct{}

func (silent[P]) read(*reading, *opened, *P) {}
func (silent[P]) write(*writer, *P)          {}
func (silent[P]) schema(*object)             {}
func (silent[P]) at(*P, []string, bool) end  { return nil }
func (silent[P]) check(*P, Path, tellings)   {}
func (silent[P]) needs([]string) (int, bool) { return 0, false }
