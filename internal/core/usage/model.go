package usage

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"ninecoins/internal/core/money"
)

// Model is a study's usage: a path for each driver that it sets, and a formula
// for each that is derived. [NewModel] makes one.
type Model struct {
	when    When
	drivers []Driver
	paths   map[string]Path
	derived []derived // in an order in which each needs only earlier ones
	assumed []string
	at      map[string]int // where a driver stands
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
func NewModel(own []Driver, paths map[string]Path) (*Model, error) { return When{}.Model(own, paths) }

// Model joins what [NewModel] does, from a first month on and in one of the cases.
func (w When) Model(own []Driver, paths map[string]Path) (*Model, error) {
	standard := slices.DeleteFunc(Catalogue(), func(d Driver) bool {
		return Yields(d.Key) && slices.ContainsFunc(own, func(o Driver) bool { return o.Key == d.Key })
	})
	m := &Model{when: w, drivers: append(standard, own...), paths: paths}
	byKey := make(map[string]Driver, len(m.drivers))
	m.at = make(map[string]int, len(m.drivers))
	for i, d := range m.drivers {
		m.at[d.Key] = i
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
		if err := path.Under(w.Case).Check(); err != nil {
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

// When is the first month of the model, and the case that it follows.
func (m *Model) When() When { return m.when }

// Path returns the path that a driver was set to.
func (m *Model) Path(key string) (Path, bool) {
	p, ok := m.paths[key]
	return p, ok
}

// Columns returns every driver's value in each of the first months, or the fault of
// a driver with the month in which it arises, a [*DriverError].
func (m *Model) Columns(months int) (Columns, error) {
	return m.work(months, func(row int) int { return row }, nil)
}

// Usages returns every driver's value in month t, from 0, at usages that set some
// of the drivers by key, as many as each of these has values. Keys of derived
// drivers are passed over. The fault of the first usage that has one is a
// [*RowError] of a [*DriverError].
func (m *Model) Usages(t, rows int, set map[string][]float64) (Columns, error) {
	return m.work(rows, func(int) int { return t }, set)
}

func (m *Model) work(rows int, month func(row int) int, set map[string][]float64) (Columns, error) {
	c := Columns{rows, m.at, make([][]float64, len(m.drivers))}
	room := make([]float64, rows*(len(m.paths)+1))
	take := func() (some []float64) { some, room = room[:rows:rows], room[rows:]; return some }
	none := take()
	first := RowError{Row: rows}
	fault := func(row int, driver string, err error) {
		if row < first.Row {
			first = RowError{row, &DriverError{driver, month(row) + 1, err}}
		}
	}
	for i, d := range m.drivers {
		p, is := m.paths[d.Key]
		given, too := set[d.Key]
		switch {
		case d.Derived():
			c.all[i] = none // until it is worked out
		case too:
			c.all[i] = d.rounded(given)
		case is:
			c.all[i] = take()
			m.follow(&p, month, set != nil, c.all[i])
			for row, v := range c.all[i] {
				c.all[i][row] = d.Rounded(v)
			}
			for row, v := range c.all[i] {
				if err := inRange(v); err != nil {
					fault(row, d.Key, err)
					break
				}
			}
		default:
			c.all[i] = none
		}
	}
	for _, d := range m.derived {
		values, err := d.formula.Over(c)
		if at := (*RowError)(nil); errors.As(err, &at) {
			fault(at.Row, d.key, at.Err)
		}
		values = m.drivers[m.at[d.key]].rounded(values)
		c.all[m.at[d.key]] = values // which hold before the row at fault
		for row, v := range values {
			if v < 0 || v > Most.Float() {
				fault(row, d.key, fmt.Errorf("is %.0f, which is %w", v, ErrRange))
				break
			}
		}
	}
	switch {
	case first.Err == nil:
		return c, nil
	case set == nil:
		return c, first.Err
	}
	return c, &first
}

// follow puts the values of a path into rows, which are months, or all of one.
func (m *Model) follow(p *Path, month func(row int) int, one bool, into []float64) {
	if one && len(into) > 0 {
		v := p.in(m.when, month(0))
		for row := range into {
			into[row] = v
		}
		return
	}
	copy(into, p.Over(m.when, len(into)))
}

// inRange refuses a value of a path that no driver takes.
func inRange(v float64) error {
	switch {
	case v < 0:
		return outOfRange("falls to " + money.Amount(max(-math.MaxInt64/2, v*money.Scale)).Grouped() + ", which is below none")
	case v > Most.Float() || math.IsNaN(v):
		return fmt.Errorf("passes %s: %w", Most.Format(), ErrRange)
	}
	return nil
}

// At returns every driver's value in month t, from 0, or the fault of a
// formula, with the month it arises in.
func (m *Model) At(t int) (Values, error) {
	c, err := m.Usages(t, 1, map[string][]float64{})
	if at := (*RowError)(nil); errors.As(err, &at) {
		return nil, at.Err
	}
	values := make(Values, len(m.drivers))
	for _, d := range m.drivers {
		values[d.Key] = c.Of(d.Key)[0]
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
