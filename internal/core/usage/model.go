package usage

import (
	"fmt"
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

// NewModel joins the standard catalogue, a study's own drivers and the paths
// it sets. It refuses a path for an unknown or derived driver, a driver told
// twice, formulas at fault, names that no driver has, and drivers that depend
// on themselves.
func NewModel(own []Driver, paths map[string]Path) (*Model, error) {
	m := &Model{drivers: append(Catalogue(), own...), paths: paths}
	byKey := map[string]Driver{}
	for _, d := range m.drivers {
		if _, twice := byKey[d.Key]; twice {
			return nil, fmt.Errorf("driver %q is told twice", d.Key)
		}
		byKey[d.Key] = d
	}
	for key, path := range paths {
		d, ok := byKey[key]
		if !ok {
			return nil, fmt.Errorf("driver %q is unknown; the drivers are %s", key, strings.Join(settable(m.drivers), ", "))
		}
		if d.Derived() {
			return nil, fmt.Errorf("driver %q is derived (%s) and cannot be set", key, d.Formula)
		}
		if err := path.Check(); err != nil {
			return nil, fmt.Errorf("driver %q: %w", key, err)
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
			return fmt.Errorf("driver %q: %w", d.Key, &FormulaError{Formula: d.Formula, Reason: "refers to itself: " + strings.Join(way, " needs ")})
		}
		state[d.Key] = begun
		if d.Derived() {
			f, err := KeptFormula(d.Formula)
			if err != nil {
				return fmt.Errorf("driver %q: %w", d.Key, err)
			}
			for _, name := range f.Names() {
				needed, ok := byKey[name]
				if !ok {
					return fmt.Errorf("driver %q: %w", d.Key, &FormulaError{Formula: d.Formula, Column: strings.Index(d.Formula, name) + 1, Reason: fmt.Sprintf("there is no driver %q", name)})
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
func (m *Model) At(t int) (Values, error) {
	values := make(Values, len(m.drivers))
	for _, d := range m.drivers {
		values[d.Key] = 0
	}
	for key, p := range m.paths {
		v := p.At(t)
		if v > Most.Float() {
			return nil, fmt.Errorf("driver %q passes %s in month %d: %w", key, Most.Format(), t+1, ErrRange)
		}
		values[key] = v
	}
	for _, d := range m.derived {
		v, err := d.formula.Value(values)
		if err != nil {
			return nil, fmt.Errorf("driver %q in month %d: %w", d.key, t+1, err)
		}
		if v < 0 || v > Most.Float() {
			return nil, fmt.Errorf("driver %q is %g in month %d: %w", d.key, v, t+1, ErrRange)
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
