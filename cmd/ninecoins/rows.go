package main

import (
	"bufio"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
)

// priced is a plan on a term, which many usages are priced on.
type priced struct {
	edition  *pricelist.Edition
	programs []*tariff.Program
}

// quoteRows prices a CSV of usages, row by row: what comes in goes out again, with
// a column for each plan on each term behind it, which holds what it costs a
// month, or nothing where it does not serve. It holds a batch of rows at a time.
func (in *computeInput) quoteRows(ctx context.Context, out io.Writer) error {
	from := io.Reader(os.Stdin)
	if in.rows != "-" {
		f, err := os.Open(in.rows)
		if err != nil {
			return errInput{err.Error()}
		}
		defer f.Close()
		from = f
	}
	r := csv.NewReader(bufio.NewReaderSize(from, 1<<16))
	r.ReuseRecord = true
	head, err := r.Read()
	if err != nil {
		return errInput{fmt.Sprintf("the rows begin with a line of drivers, such as contacts,newsletters,seats: %v", err)}
	}
	names := slices.Clone(head)
	for i, name := range names {
		if err := in.settable(name); err != nil {
			return errInput{fmt.Sprintf("line 1, column %d: %v", i+1, err)}
		}
		if slices.Contains(names[:i], name) {
			return errInput{fmt.Sprintf("line 1, column %d: driver %q stands twice; keep one", i+1, name)}
		}
	}
	columns, heads, err := in.columns()
	if err != nil {
		return err
	}
	w := csv.NewWriter(bufio.NewWriterSize(out, 1<<16))
	if err := w.Write(append(slices.Clone(names), heads...)); err != nil {
		return err
	}
	b := batch{names: names, columns: columns, set: map[string][]float64{}}
	for done := false; !done && ctx.Err() == nil; {
		var fault error // in a row after those that were filled in
		done, fault = b.fill(r)
		if err := b.price(in); err != nil {
			return err
		}
		if err := errors.Join(w.WriteAll(b.lines), fault); err != nil {
			return err
		}
	}
	return ctx.Err()
}

// mostBatch is how many rows are priced at once.
const mostBatch = 512

// batch is rows that are priced together.
type batch struct {
	names   []string
	columns []priced
	set     map[string][]float64 // by driver
	at      []int                // the line of each row
	lines   [][]string           // what goes out
}

// fill reads the next rows, and reports whether they are the last.
func (b *batch) fill(r *csv.Reader) (done bool, err error) {
	b.at, b.lines = b.at[:0], b.lines[:0]
	for _, name := range b.names {
		b.set[name] = b.set[name][:0]
	}
	for len(b.lines) < mostBatch {
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			return true, nil
		}
		if err != nil {
			return true, errInput{err.Error()}
		}
		at, _ := r.FieldPos(0)
		cells := make([]float64, len(record))
		for i, text := range record {
			q, err := usage.ParseQuantity(text)
			if err != nil {
				return true, errInput{fmt.Sprintf("line %d, %s: %v", at, b.names[i], err)}
			}
			cells[i] = q.Float()
		}
		for i, name := range b.names {
			b.set[name] = append(b.set[name], cells[i])
		}
		line := make([]string, 0, len(b.names)+len(b.columns))
		b.at, b.lines = append(b.at, at), append(b.lines, append(line, record...))
	}
	return false, nil
}

// settable makes sure that a column is a driver that is set.
func (in *computeInput) settable(name string) error {
	for _, d := range in.usage.Model.Drivers() {
		if d.Key == name && !d.Derived() {
			return nil
		}
		if d.Key == name {
			return fmt.Errorf("driver %q is derived (%s) and cannot be set", name, d.Formula)
		}
	}
	return fmt.Errorf("there is no driver %q", name)
}

// columns compiles what is priced.
func (in *computeInput) columns() (all []priced, heads []string, err error) {
	for _, e := range in.lists {
		c, err := in.candidate(e, 1)
		if err != nil {
			return nil, nil, err
		}
		for i := range e.Plans {
			if in.plan != "" && in.plan != e.Plans[i].Key {
				continue
			}
			for _, t := range e.Plans[i].Terms {
				some, err := tariff.Compile(e, &e.Plans[i], t, tariff.Deal{Musts: c.Musts, Customer: c.Customer, Basis: c.Basis})
				if err != nil {
					return nil, nil, errInput{err.Error()}
				}
				some = slices.DeleteFunc(some, func(p *tariff.Program) bool { return !p.MayBeSigned(c.Customer.Sign, !c.Customer.Here) })
				all, heads = append(all, priced{e, some}), append(heads, e.Platform.Key+"/"+e.Plans[i].Key+"/"+t.Key)
			}
		}
	}
	if len(all) == 0 {
		return nil, nil, errInput{fmt.Sprintf("there is no plan %q in these lists", in.plan)}
	}
	return all, heads, nil
}

// price appends to each row what each column costs a month.
func (b *batch) price(in *computeInput) error {
	told := func(err error) error {
		if at := (*usage.RowError)(nil); errors.As(err, &at) {
			return errInput{fmt.Sprintf("line %d: %v", b.at[at.Row], at.Err)}
		}
		return err
	}
	values, err := in.usage.Model.Usages(in.month-1, len(b.lines), b.set)
	if err != nil {
		return told(err)
	}
	var of *pricelist.Edition
	var rows [][]int64
	for _, column := range b.columns {
		if column.edition != of {
			if rows, err = tariff.Read(column.edition, values); err != nil {
				return told(err)
			}
			of = column.edition
		}
		for i, row := range rows {
			b.lines[i] = append(b.lines[i], cheapest(column.programs, row, in.here))
		}
	}
	return nil
}

// cheapest is what the best choice of offers costs a month; "" where none serves.
func cheapest(programs []*tariff.Program, row []int64, here bool) string {
	since, best, text := 0, int64(tariff.Never), ""
	if here {
		since = projection.LongSince
	}
	for _, p := range programs {
		if !p.Serves() || len(p.Questions) > 0 {
			continue
		}
		c, ok := p.Cost(since, 0, row)
		if total := c.Bill + c.Used + c.Once; ok && total < best {
			n := max(1, int64(p.Period))
			best, text = total, money.Amount.String(p.Amount((2*c.Bill+n)/(2*n)+c.Used))
		}
	}
	return text
}
