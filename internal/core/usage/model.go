package usage

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
)

// Model is a study's usage: a path for each driver that it sets, and a formula
// for each that is derived. [NewModel] makes one.
type Model struct {
	drivers []Driver
	paths   map[string]Path
	derived []derived // in an order in which each needs only earlier ones
	assumed []string
}

type derived struct {
	key     string
	formula Formula
}

// Values are the drivers' values in one month, by key.
type Values map[string]float64

// DriverError reports a driver that cannot be worked out.
type DriverError struct {
	Driver string // its key
	Month  int    // from 1; 0 where it is none of one month
	Err    error
}

func (e *DriverError) Error() string {
	var formula *FormulaError
	gap := " "
	if errors.As(e.Err, &formula) {
		gap = ": "
	}
	if e.Month > 0 {
		return fmt.Sprintf("driver %q in month %d%s%v", e.Driver, e.Month, gap, e.Err)
	}
	return fmt.Sprintf("driver %q%s%v", e.Driver, gap, e.Err)
}

func (e *DriverError) Unwrap() error { return e.Err }

// NewModel joins the standard catalogue, a study's own drivers and the paths
// it sets. It refuses a path for an unknown or derived driver, a driver told
// twice, formulas at fault, names that no driver has, and drivers that depend
// on themselves.
func NewModel(own []Driver, paths map[string]Path) (*Model, error) {
	standard := slices.DeleteFunc(Catalogue(), func(d Driver) bool {
		return Yields(d.Key) && slices.ContainsFunc(own, func(o Driver) bool { return o.Key == d.Key })
	})
	m := &Model{drivers: append(standard, own...), paths: paths}
	byKey := map[string]Driver{}
	for _, d := range m.drivers {
		if _, twice := byKey[d.Key]; twice {
			return nil, &DriverError{d.Key, 0, errors.New("is told twice")}
		}
		byKey[d.Key] = d
	}
	for key, path := range paths {
		d, ok := byKey[key]
		if !ok {
			return nil, &DriverError{key, 0, errors.New("is unknown; the drivers are " + strings.Join(settable(m.drivers), ", "))}
		}
		if d.Derived() {
			return nil, &DriverError{key, 0, fmt.Errorf("is derived (%s) and cannot be set", d.Formula)}
		}
		if err := path.Check(); err != nil {
			return nil, &DriverError{key, 0, err}
		}
	}
	if err := m.order(byKey); err != nil {
		return nil, err
	}
	for _, d := range m.drivers {
		if _, set := paths[d.Key]; !set && !d.Derived() {
			m.assumed = append(m.assumed, d.Key)
		}
	}
	return m, nil
}

// order sorts the derived drivers so that each comes after those it needs.
func (m *Model) order(byKey map[string]Driver) error {
	const begun, settled = 1, 2
	state := map[string]int{}
	var visit func(d Driver, way []string) error
	visit = func(d Driver, way []string) error {
		way = append(way, d.Key)
		if state[d.Key] == settled {
			return nil
		}
		if state[d.Key] == begun {
			return &DriverError{d.Key, 0, &FormulaError{Formula: d.Formula, Reason: "refers to itself: " + strings.Join(way, " needs ")}}
		}
		state[d.Key] = begun
		if d.Derived() {
			f, err := KeptFormula(d.Formula)
			if err != nil {
				return &DriverError{d.Key, 0, err}
			}
			for _, name := range f.Names() {
				needed, ok := byKey[name]
				if !ok {
					return &DriverError{d.Key, 0, &FormulaError{Formula: d.Formula, Column: strings.Index(d.Formula, name) + 1,
						Reason: fmt.Sprintf("there is no driver %q", name)}}
				}
				if err := visit(needed, way); err != nil {
					return err
				}
			}
			m.derived = append(m.derived, derived{d.Key, f})
		}
		state[d.Key] = settled
		return nil
	}
	for _, d := range m.drivers {
		if err := visit(d, nil); err != nil {
			return err
		}
	}
	return nil
}

// Without returns the model with a driver that stands at 0, whatever it was set
// to or follows from.
func (m *Model) Without(key string) *Model {
	less := *m
	less.paths = maps.Clone(m.paths)
	delete(less.paths, key)
	less.derived = slices.DeleteFunc(slices.Clone(m.derived), func(d derived) bool { return d.key == key })
	return &less
}

// Fed returns the keys of the drivers that any of some drivers feeds, those
// themselves among them.
func (m *Model) Fed(by ...string) []string {
	if len(by) == 0 {
		return nil
	}
	fed := map[string]bool{}
	for _, key := range by {
		fed[key] = true
	}
	for range m.drivers { // a chain of formulas is no longer than that
		for _, d := range m.drivers {
			f, err := KeptFormula(d.Formula)
			if !d.Derived() || err != nil {
				continue
			}
			for _, name := range f.Names() {
				fed[d.Key] = fed[d.Key] || fed[name]
			}
		}
	}
	return slices.Sorted(func(yield func(string) bool) {
		for key, is := range fed {
			if is && !yield(key) {
				return
			}
		}
	})
}

// Drivers returns every driver that the model knows, standard ones first.
func (m *Model) Drivers() []Driver { return m.drivers }

// Assumed returns the keys of the drivers that nothing sets: they stand at 0.
func (m *Model) Assumed() []string { return m.assumed }

// Path returns the path that a driver was set to.
func (m *Model) Path(key string) (Path, bool) {
	p, ok := m.paths[key]
	return p, ok
}

// At returns every driver's value in month t, from 0, or the fault of a
// formula, with the month it arises in.
func (m *Model) At(t int) (Values, error) { return m.With(t, nil) }

// With is At with other values for some of the drivers that are set, by key. Keys
// of derived drivers are passed over.
func (m *Model) With(t int, set Values) (Values, error) {
	values := make(Values, len(m.drivers))
	for _, d := range m.drivers {
		values[d.Key] = 0
	}
	for key, p := range m.paths {
		v := p.At(t)
		if v > Most.Float() {
			return nil, &DriverError{key, t + 1, fmt.Errorf("passes %s: %w", Most.Format(), ErrRange)}
		}
		values[key] = v
	}
	for key, v := range set {
		values[key] = v
	}
	for _, d := range m.derived {
		v, err := d.formula.Value(values)
		if err != nil {
			return nil, &DriverError{d.key, t + 1, err}
		}
		if v < 0 || v > Most.Float() {
			return nil, &DriverError{d.key, t + 1, fmt.Errorf("is %.0f, which is %w", v, ErrRange)}
		}
		values[d.key] = v
	}
	return values, nil
}

func settable(drivers []Driver) []string {
	var keys []string
	for _, d := range drivers {
		if !d.Derived() {
			keys = append(keys, d.Key)
		}
	}
	return keys
}
