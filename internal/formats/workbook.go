package formats

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"

	"github.com/xuri/excelize/v2"
)

// The sheets of a workbook of costs, and the cells of its inputs: each driver that is set
// has a row, from the second on, with where it stands today and its growth a month.
const (
	CostsSheet  = "Costs"
	InputsSheet = "Inputs"
	usageSheet  = "Usage"
)

// never stands in cells of plans that do not serve: more than any price.
const (
	never      = "1E+15"
	neverCosts = 1e15
)

// WriteWorkbook writes what options cost as a workbook of live formulas (Office Open
// XML): change an input, and usage, meters, prices and totals are worked out anew. Where
// each month costs the cheapest plan whatever was signed before, the plan is chosen anew
// too; else the plans of each month are as computed, and what they cost follows. Plans
// with a choice of add-ons stand as values. The sheet Inputs says which is which.
func WriteWorkbook(ctx context.Context, o *study.Outcome) ([]byte, error) {
	w := &workbook{within: ctx, f: excelize.NewFile(), o: o, st: o.Study, column: map[string]string{}}
	defer w.f.Close()
	if err := w.f.SetSheetName("Sheet1", CostsSheet); err != nil {
		return nil, err
	}
	w.sheet(InputsSheet)
	w.sheet(usageSheet)
	w.usage()
	w.costs()
	if w.err != nil {
		return nil, fmt.Errorf("writing the workbook: %w", w.err)
	}
	var out bytes.Buffer
	err := w.f.Write(&out)
	return out.Bytes(), err
}

type workbook struct {
	within context.Context // looked at with each sheet
	f      *excelize.File
	o      *study.Outcome
	st     *study.Study
	column map[string]string // of each driver on the sheet of usage
	notes  []string
	err    error
}

func (w *workbook) sheet(name string) {
	if w.err == nil {
		w.err = w.within.Err()
	}
	if _, err := w.f.NewSheet(name); err != nil && w.err == nil {
		w.err = err
	}
}

func (w *workbook) put(sheet, cell string, value any) {
	if w.err != nil {
		return
	}
	w.err = w.f.SetCellValue(sheet, cell, value)
}

// calc puts a formula into a cell: nothing that people wrote but formulas over drivers,
// which are spelled anew. The value is what it comes to, for who shows the file without working it out.
func (w *workbook) calc(sheet, cell, formula string, value any) {
	if w.put(sheet, cell, value); w.err == nil {
		w.err = w.f.SetCellFormula(sheet, cell, formula)
	}
}

func at(column string, row int) string { return fmt.Sprintf("%s%d", column, row) }

func letters(n int) string {
	name, err := excelize.ColumnNumberToName(n)
	if err != nil {
		return "XFD" // a study has fewer columns than a sheet
	}
	return name
}

// first is the row of the first month on every sheet of months.
const first = 3

// usage writes the drivers that meters look at: those that are set from the inputs, the
// others by their formulas.
func (w *workbook) usage() {
	w.put(InputsSheet, "A1", "Driver")
	w.put(InputsSheet, "B1", "Today")
	w.put(InputsSheet, "C1", "Growth a month")
	w.put(usageSheet, "A2", "Month")
	for t := range w.st.Horizon {
		w.put(usageSheet, at("A", first+t), w.st.Month(t).ISO())
	}
	input := map[string]int{}
	for i := range w.st.Drivers {
		d := &w.st.Drivers[i]
		row := i + 2
		input[d.Driver] = row
		path := d.Path.Under(w.st.Case)
		w.put(InputsSheet, at("A", row), d.Driver)
		w.put(InputsSheet, at("B", row), path.Now.Float())
		if live(&path) {
			w.put(InputsSheet, at("C", row), path.Growth.Float())
		} else {
			w.put(InputsSheet, at("C", row), "as planned")
		}
	}
	next := 2
	for _, d := range w.o.Model.Drivers() {
		if !d.Derived() && input[d.Key] == 0 {
			continue
		}
		w.column[d.Key] = letters(next)
		w.put(usageSheet, at(letters(next), 2), d.Name)
		w.put(usageSheet, at(letters(next), 1), d.Key)
		next++
	}
	for _, d := range w.o.Model.Drivers() {
		column, ok := w.column[d.Key]
		if !ok || slices.Contains(w.o.Broken, d.Key) {
			continue
		}
		for t, v := range w.o.Values.Of(d.Key) {
			cell := at(column, first+t)
			path, _ := w.o.Model.Path(d.Key)
			path = path.Under(w.st.Case)
			switch {
			case d.Derived():
				f, err := usage.KeptFormula(d.Formula)
				if err != nil {
					continue
				}
				w.calc(usageSheet, cell, rounding(d, w.formula(f, usageSheet, first+t)), known(v))
			case live(&path):
				w.calc(usageSheet, cell, rounding(d, fmt.Sprintf("%s!$B$%d*(1+%s!$C$%d)^%d", InputsSheet, input[d.Key], InputsSheet, input[d.Key], t)), known(v))
			case !math.IsNaN(v):
				w.put(usageSheet, cell, v)
			}
		}
	}
}

// rounding rounds a formula of a driver that comes in whole ones.
func rounding(d usage.Driver, formula string) string {
	if d.Whole {
		return "ROUND(" + formula + ",0)"
	}
	return formula
}

// known is a value of usage; nil where there is none.
func known(v float64) any {
	if math.IsNaN(v) {
		return nil
	}
	return v
}

// live reports whether a path is compound growth and nothing else, which a cell can say.
func live(p *usage.Path) bool {
	return p.Shape == usage.Compound && p.Season == usage.Season{} && len(p.Events) == 0 && p.Clean.Every == 0
}

// costs writes a sheet for each tool, and the sums.
func (w *workbook) costs() {
	w.put(CostsSheet, "A1", fmt.Sprintf("%s: costs in %s, tax left out, paid %s, %s growth", w.st.Title, w.st.Currency.Code(), w.st.Pay.Say(), w.st.Case.Say()))
	w.put(CostsSheet, "A2", "Month")
	end := first + w.st.Horizon
	for t := range w.st.Horizon {
		w.put(CostsSheet, at("A", first+t), w.st.Month(t).ISO())
	}
	w.put(CostsSheet, at("A", end), "In all")
	n := 0
	for i := range w.o.Results {
		r := &w.o.Results[i]
		column := letters(i + 2)
		months, falls, all := make([]float64, w.st.Horizon), make([]money.Amount, w.st.Horizon), r.Schedule.Total.Float()
		for t := range r.Schedule.Months {
			months[t], falls[t] = r.Schedule.Months[t].Accrued.Float(), r.Schedule.Months[t].Falls
		}
		w.put(CostsSheet, at(column, 2), r.Option.Name)
		var parts []string
		for k := range r.Tools {
			n++
			name := fmt.Sprintf("T%d %s", n, sheetName(r.Tools[k].Tool.Called()))
			w.sheet(name)
			parts = append(parts, "'"+name+"'!")
			w.tool(name, r, k)
		}
		for t := range w.st.Horizon {
			var sum []string
			for _, p := range parts {
				sum = append(sum, p+at("B", first+t))
			}
			if falls[t] > 0 {
				off := letters(len(w.o.Results) + 3 + i)
				w.put(CostsSheet, at(off, 2), r.Option.Name+": what it makes unneeded")
				w.put(CostsSheet, at(off, first+t), falls[t].Float())
				sum = append(sum, "-"+at(off, first+t))
			}
			w.calc(CostsSheet, at(column, first+t), strings.ReplaceAll(strings.Join(sum, "+"), "+-", "-"), months[t])
		}
		w.calc(CostsSheet, at(column, end), fmt.Sprintf("SUM(%s:%s)", at(column, first), at(column, end-1)), all)
	}
	for i, note := range w.notes {
		w.put(InputsSheet, at("E", i+1), note)
	}
	if w.err == nil {
		w.err = w.f.SetColWidth(CostsSheet, "A", letters(len(w.o.Results)+1), 14)
	}
}

// sheetName is what a sheet may be called.
func sheetName(s string) string {
	s = strings.Map(func(r rune) rune {
		if strings.ContainsRune(`:\/?*[]'`, r) {
			return ' '
		}
		return r
	}, s)
	r := []rune(s)
	return strings.TrimSpace(string(r[:min(len(r), 24)]))
}

// tool writes the months of a tool: what its meters read, and what each costs.
func (w *workbook) tool(sheet string, r *study.Result, k int) {
	t := &r.Tools[k]
	e := t.Tool.Edition
	if c := t.Candidate(); c.Edition != nil { // as it is priced, bridges among it
		e = c.Edition
	}
	w.put(sheet, "A1", r.Option.Name+", "+e.Platform.Name)
	for i, head := range []string{"Month", "Costs", "Plan"} {
		w.put(sheet, at(letters(i+1), 2), head)
	}
	for m := range e.Meters {
		w.put(sheet, at(letters(4+m), 2), e.Meters[m].Unit)
	}
	if r.AtFault {
		w.notes = append(w.notes, r.Option.Name+": cannot be computed.")
		return
	}
	for u := range w.st.Horizon {
		w.put(sheet, at("A", first+u), w.st.Month(u).ISO())
		readings := t.Schedule.Months[u].Readings()
		for m := range e.Meters {
			w.calc(sheet, at(letters(4+m), first+u), w.reading(&e.Meters[m], first+u), readings[e.Meters[m].Key].Float())
		}
	}
	programs, err := projection.Plainly(t.Candidate())
	if err == nil && programs != nil && w.choice(sheet, t, programs) {
		w.notes = append(w.notes, sheet+": the cheapest plan of each month is chosen anew.")
		return
	}
	for m := range e.Meters {
		w.put(sheet, at(letters(4+len(e.Meters)+m), 2), e.Meters[m].Unit+", billed")
	}
	w.put(sheet, at(letters(4+2*len(e.Meters)), 2), "once, or lost: as computed, does not follow the inputs")
	live := true
	for u := range w.st.Horizon {
		live = w.month(sheet, t, u) && live
	}
	if live {
		w.notes = append(w.notes, sheet+": plans are as computed; what they cost follows the inputs.")
	} else {
		w.notes = append(w.notes, sheet+": months with a choice of add-ons stand as values.")
	}
}

// choice writes what each program costs in each month, and takes the least; false, with
// nothing written of it, where one cannot be written down.
func (w *workbook) choice(sheet string, t *study.ToolResult, programs []*tariff.Program) bool {
	var all []tariff.Written
	for _, p := range programs {
		one, ok := p.Write(projection.LongSince, 0)
		if !ok || deep(&one) {
			return false
		}
		all = append(all, one)
	}
	meters := len(t.Candidate().Edition.Meters)
	from, to := letters(5+meters), letters(4+meters+len(all))
	for i, p := range programs {
		w.put(sheet, at(letters(5+meters+i), 2), p.Plan.Name)
	}
	computed := letters(6 + meters + len(all))
	w.put(sheet, at(computed, 2), "Plan as computed")
	for u := range w.st.Horizon {
		row := first + u
		cell := func(m int) string { return at(letters(4+m), row) }
		for i := range all {
			costs := float64(neverCosts)
			if c, ok := programs[i].Cost(projection.LongSince, 0, t.Candidate().Rows[u]); ok {
				costs = float64(c.Bill)
			}
			w.calc(sheet, at(letters(5+meters+i), row), serving(&all[i], cell, sum(&all[i], all[i].Bill, cell)), costs)
		}
		plan := "nothing serves"
		if m := &t.Schedule.Months[u]; m.Serves {
			plan = m.Plan().Name
		}
		span := at(from, row) + ":" + at(to, row)
		w.calc(sheet, at("B", row), fmt.Sprintf("IF(MIN(%s)<%s,MIN(%s)/%d,0)", span, never, span, w.whole()), t.Schedule.Months[u].Accrued.Float())
		w.calc(sheet, at("C", row), fmt.Sprintf(`IF(MIN(%s)<%s,INDEX(%s:%s,1,MATCH(MIN(%s),%s,0)),"nothing serves")`, span, never, "$"+from+"$2", "$"+to+"$2", span, span), nil) // a formula's text cannot be carried
		w.put(sheet, at(computed, row), plan)
	}
	return true
}

// whole is how many minor units the study's currency has to one.
func (w *workbook) whole() int64 { return int64(math.Pow10(w.st.Currency.Decimals())) }

// month writes what a month costs on the plan that was computed for it; false where it
// stands as a value.
func (w *workbook) month(sheet string, t *study.ToolResult, u int) bool {
	m := &t.Schedule.Months[u]
	row := first + u
	if !m.Serves {
		w.put(sheet, at("B", row), m.Accrued.Float())
		w.put(sheet, at("C", row), "nothing serves")
		return true
	}
	w.put(sheet, at("C", row), fmt.Sprintf("%s, %s", m.Plan().Name, m.Term().Key))
	how := m.Working()
	one, ok := how.Program.Write(how.Since, how.Into)
	if !ok || deep(&one) {
		w.put(sheet, at("B", row), m.Accrued.Float())
		return false
	}
	e := t.Candidate().Edition
	n, billed := len(e.Meters), m.Billed()
	for meter := range e.Meters { // inside a term stocks are billed at their highest so far
		column, from := letters(4+meter), row
		if e.Meters[meter].Kind == usage.Stock {
			from = first + how.From
		}
		w.calc(sheet, at(letters(4+n+meter), row), fmt.Sprintf("MAX(%s:%s)", at(column, from), at(column, row)), billed[e.Meters[meter].Key].Float())
	}
	cell := func(meter int) string { return at(letters(4+n+meter), row) }
	text := sum(&one, one.Bill, cell)
	if how.Months > 1 {
		k := u - how.From
		share := func(n int) string {
			if n >= how.Months {
				return text
			}
			return fmt.Sprintf("ROUND(ROUND(%s*%d/%d,6),0)", text, n, how.Months)
		}
		text = fmt.Sprintf("(%s-%s+%s)", share(k+1), share(k), sum(&one, one.Used, cell))
	}
	fixed := at(letters(4+2*n), row)
	w.put(sheet, fixed, (how.Once + how.Lost).Float())
	w.calc(sheet, at("B", row), fmt.Sprintf("%s/%d+%s", text, w.whole(), fixed), m.Accrued.Float())
	return true
}
