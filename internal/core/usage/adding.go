package usage

import (
	"errors"
	"fmt"
	"slices"
)

// Adding returns the columns of a model with a driver raised by so much in each row,
// and the drivers that it feeds worked out anew. A driver that the model has not got
// is a [*DriverError]; so is one that comes to too much, with its row as the month.
func (m *Model) Adding(c Columns, driver string, more []float64) (Columns, error) {
	at, ok := m.at[driver]
	if !ok {
		return c, &DriverError{Driver: driver, Err: errors.New("is no driver")}
	}
	raised := slices.Clone(c.all[at])
	for row := range raised {
		if raised[row] = m.drivers[at].Rounded(raised[row] + more[row]); raised[row] < 0 || raised[row] > Most.Float() {
			return c, &DriverError{driver, row + 1, fmt.Errorf("passes %s: %w", Most.Format(), ErrRange)}
		}
	}
	c.all = slices.Clone(c.all)
	c.all[at] = raised
	fed := m.Fed(driver)
	for _, d := range m.derived {
		if d.key == driver || !slices.Contains(fed, d.key) {
			continue
		}
		values, err := d.formula.Over(c)
		if err != nil {
			return c, &DriverError{Driver: d.key, Err: err}
		}
		for row, v := range values {
			if v < 0 || v > Most.Float() {
				return c, &DriverError{d.key, row + 1, fmt.Errorf("is %.0f, which is %w", v, ErrRange)}
			}
		}
		c.all[m.at[d.key]] = m.drivers[m.at[d.key]].rounded(values)
	}
	return c, nil
}
