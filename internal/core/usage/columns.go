package usage

import (
	"fmt"
	"math"
	"slices"
)

// Columns are values of drivers in several rows, which are months or usages: a
// column for each driver, all of one length.
type Columns struct {
	rows int
	at   map[string]int // where the column of a driver stands
	all  [][]float64
}

// Rows is how many values each column has.
func (c Columns) Rows() int { return c.rows }

// Drivers is how many columns there are.
func (c Columns) Drivers() int { return len(c.all) }

// Of returns the values of a driver, in the order of the rows: 0 in each for one that
// is unknown.
func (c Columns) Of(driver string) []float64 {
	if at, ok := c.at[driver]; ok {
		return c.all[at]
	}
	return make([]float64, c.rows)
}

// Pick returns some of the rows, in their order; all of them are the columns as they
// are.
func (c Columns) Pick(rows []int) Columns {
	if len(rows) == c.rows {
		return c
	}
	all := make([][]float64, len(c.all))
	var level *float64 // the column that many drivers share, as they stand at 0
	var picked []float64
	for i, column := range c.all {
		if len(column) > 0 && level == &column[0] {
			all[i] = picked
			continue
		}
		some := make([]float64, len(rows))
		for k, row := range rows {
			some[k] = column[row]
		}
		if all[i] = some; level == nil && len(column) > 0 && !slices.ContainsFunc(column, func(v float64) bool { return v != 0 }) {
			level, picked = &column[0], some
		}
	}
	return Columns{len(rows), c.at, all}
}

// Without returns the columns with some drivers that are no numbers in any row.
func (c Columns) Without(drivers ...string) Columns {
	if len(drivers) == 0 {
		return c
	}
	c.all = slices.Clone(c.all)
	none := slices.Repeat([]float64{math.NaN()}, c.rows)
	for _, driver := range drivers {
		if at, ok := c.at[driver]; ok {
			c.all[at] = none
		}
	}
	return c
}

// RowError reports the first row in which something cannot be worked out.
type RowError struct {
	Row int // from 0
	Err error
}

func (e *RowError) Error() string { return fmt.Sprintf("row %d: %v", e.Row+1, e.Err) }
func (e *RowError) Unwrap() error { return e.Err }

// frame is what a formula is worked out in: the columns that it looks at, and the
// fault of the first row that has one.
type frame struct {
	*Columns
	fault *FormulaError
	row   int
	spare []float64
}

// take returns room for a column.
func (in *frame) take() []float64 {
	if len(in.spare) < in.rows {
		in.spare = make([]float64, in.rows*max(1, min(4, 256/in.rows)))
	}
	some := in.spare[:in.rows:in.rows]
	in.spare = in.spare[in.rows:]
	return some
}

// refuse notes a fault, unless an earlier row has one.
func (in *frame) refuse(row, column int, format string, a ...any) {
	if in.fault == nil || row < in.row {
		in.fault, in.row = &FormulaError{Column: column, Reason: fmt.Sprintf(format, a...)}, row
	}
}

// Over works the formula out in every row. A name that is missing, a division by
// zero and a result that is no finite number are each a [*FormulaError], that of
// the first row that has one a [*RowError]; before that row the values hold.
func (f Formula) Over(c Columns) ([]float64, error) {
	in := frame{Columns: &c}
	values := f.value(&in)
	for row, v := range values {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			in.refuse(row, 0, "the result is too large to hold")
			break
		}
	}
	if in.fault != nil && c.rows > 0 {
		in.fault.Formula = f.text
		return values, &RowError{in.row, in.fault}
	}
	return values, nil
}

// Value works the formula out at some values. Errors are those of [Formula.Over],
// without the row.
func (f Formula) Value(values map[string]float64) (float64, error) {
	c := Columns{rows: 1, at: map[string]int{}}
	for _, name := range f.names {
		if v, ok := values[name]; ok {
			c.at[name], c.all = len(c.all), append(c.all, []float64{v})
		}
	}
	all, err := f.Over(c)
	if err != nil {
		return 0, err.(*RowError).Err
	}
	return all[0], nil
}
