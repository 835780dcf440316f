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
	"ninecoins/internal/core/quote"
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
// month, or nothing where it does not serve. It holds one row at a time.
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
	}
	columns, heads, err := in.columns()
	if err != nil {
		return err
	}
	w := csv.NewWriter(bufio.NewWriterSize(out, 1<<16))
	if err := w.Write(append(slices.Clone(names), heads...)); err != nil {
		return err
	}
	set, line := usage.Values{}, make([]string, 0, len(names)+len(heads))
	for ctx.Err() == nil {
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return errInput{err.Error()}
		}
		at, _ := r.FieldPos(0)
		for i, text := range record {
			q, err := usage.ParseQuantity(text)
			if err != nil {
				return errInput{fmt.Sprintf("line %d, %s: %v", at, names[i], err)}
			}
			set[names[i]] = q.Float()
		}
		line = append(line[:0], record...)
		if line, err = in.price(columns, set, line); err != nil {
			return errInput{fmt.Sprintf("line %d: %v", at, err)}
		}
		if err := w.Write(line); err != nil {
			return err
		}
	}
	w.Flush()
	return errors.Join(w.Error(), ctx.Err())
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

// price appends what each column costs a month at some usage.
func (in *computeInput) price(columns []priced, set usage.Values, line []string) ([]string, error) {
	values, err := in.usage.Model.With(in.month-1, set)
	if err != nil {
		return line, err
	}
	var of *pricelist.Edition
	var row []int64
	for _, column := range columns {
		if column.edition != of {
			readings, err := quote.Read(column.edition, values)
			if err != nil {
				return line, err
			}
			of, row = column.edition, tariff.Row(column.edition, readings)
		}
		line = append(line, cheapest(column.programs, row, in.here))
	}
	return line, nil
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
