package formats

import (
	"bytes"
	"fmt"
	"math"
	"slices"
	"strings"

	"ninecoins/internal/core/pricelist"
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
const never = "1E+15"

// WriteWorkbook writes what options cost as a workbook of live formulas (Office Open
// XML): change an input, and usage, meters, prices and totals are worked out anew. Where
// each month costs the cheapest plan whatever was signed before, the plan is chosen anew
// too; else the plans of each month are as computed, and what they cost follows. Plans
// with a choice of add-ons stand as values. The sheet Inputs says which is which.
func WriteWorkbook(o *study.Outcome) ([]byte, error) {
	w := &workbook{f: excelize.NewFile(), o: o, st: o.Study, column: map[string]string{}}
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
	f      *excelize.File
	o      *study.Outcome
	st     *study.Study
	column map[string]string // of each driver on the sheet of usage
	notes  []string
	err    error
}

func (w *workbook) sheet(name string) {
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
// which are spelled anew.
func (w *workbook) calc(sheet, cell, formula string) {
	if w.err == nil {
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
				w.calc(usageSheet, cell, w.formula(f, usageSheet, first+t))
			case live(&path):
				w.calc(usageSheet, cell, fmt.Sprintf("%s!$B$%d*(1+%s!$C$%d)^%d", InputsSheet, input[d.Key], InputsSheet, input[d.Key], t))
			case !math.IsNaN(v):
				w.put(usageSheet, cell, v)
			}
		}
	}
}

// live reports whether a path is compound growth and nothing else, which a cell can say.
func live(p *usage.Path) bool {
	return p.Shape == usage.Compound && p.Season == usage.Season{} && len(p.Events) == 0 && p.Clean.Every == 0
}

// formula writes a formula over drivers for a row of a sheet.
func (w *workbook) formula(f usage.Formula, sheet string, row int) string {
	text := f.String()
	var b strings.Builder
	var open []string // how brackets end that do not as they are written
	for i := 0; i < len(text); {
		j := i
		for j < len(text) && (text[j] == '_' || text[j] >= 'a' && text[j] <= 'z' || text[j] >= 'A' && text[j] <= 'Z' || j > i && text[j] >= '0' && text[j] <= '9') {
			j++
		}
		if name := text[i:j]; j > i {
			rounds := map[string]string{"ceil": "(INT(", "floor": "(INT(", "round": "(ROUND(0+", "min": "MIN(", "max": "MAX("}
			switch column, driver := w.column[name]; {
			case rounds[name] != "" && j < len(text) && strings.HasPrefix(strings.TrimLeft(text[j:], " "), "("):
				j += strings.Index(text[j:], "(") + 1
				ends := name != "min" && name != "max"
				if b.WriteString(rounds[name]); ends {
					b.WriteString("ROUND(")
				}
				open = append(open, map[string]string{"ceil": ",6)+0.9999995))", "floor": ",6)))", "round": ",6),0))"}[name])
			case driver && sheet == usageSheet:
				b.WriteString(at(column, row))
			case driver:
				b.WriteString(usageSheet + "!" + at(column, row))
			default:
				b.WriteString("0")
			}
			i = j
			continue
		}
		switch text[i] {
		case '(':
			open = append(open, "")
			b.WriteByte('(')
		case ')':
			if n := len(open); n > 0 && open[n-1] != "" {
				b.WriteString(open[n-1])
			} else {
				b.WriteByte(')')
			}
			open = open[:max(0, len(open)-1)]
		default:
			b.WriteByte(text[i])
		}
		i++
	}
	return b.String()
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
			w.calc(CostsSheet, at(column, first+t), strings.Join(sum, "+"))
		}
		w.calc(CostsSheet, at(column, end), fmt.Sprintf("SUM(%s:%s)", at(column, first), at(column, end-1)))
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
		for m := range e.Meters {
			w.calc(sheet, at(letters(4+m), first+u), w.reading(&e.Meters[m], first+u))
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

// reading is what a meter reads in a row, in the parts that prices count.
func (w *workbook) reading(m *pricelist.Meter, row int) string {
	text := "ROUND(" + w.formula(m.Counts, "", row) + ",6)"
	if !m.Fractions {
		text = "INT(" + text + "+0.9999995)" // it has six decimals
	}
	if grain := tariff.Grain(m); grain != int64(usage.One) {
		text += fmt.Sprintf("*%d", int64(usage.One)/grain)
	}
	return text
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
	for u := range w.st.Horizon {
		row := first + u
		cell := func(m int) string { return at(letters(4+m), row) }
		for i := range all {
			w.calc(sheet, at(letters(5+meters+i), row), serving(&all[i], cell, sum(&all[i], all[i].Bill, cell)))
		}
		span := at(from, row) + ":" + at(to, row)
		w.calc(sheet, at("B", row), fmt.Sprintf("IF(MIN(%s)<%s,MIN(%s)/%d,0)", span, never, span, w.whole()))
		w.calc(sheet, at("C", row), fmt.Sprintf(`IF(MIN(%s)<%s,INDEX(%s:%s,MATCH(MIN(%s),%s,0)),"nothing serves")`, span, never, "$"+from+"$2", "$"+to+"$2", span, span))
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
	n := len(e.Meters)
	for meter := range e.Meters { // inside a term stocks are billed at their highest so far
		column, from := letters(4+meter), row
		if e.Meters[meter].Kind == usage.Stock {
			from = first + how.From
		}
		w.calc(sheet, at(letters(4+n+meter), row), fmt.Sprintf("MAX(%s:%s)", at(column, from), at(column, row)))
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
	w.calc(sheet, at("B", row), fmt.Sprintf("%s/%d+%v", text, w.whole(), (how.Once+how.Lost).Float()))
	return true
}

// mostBandsWritten is how many stretches a line may have to be written as a formula: cells nest
// no deeper than 64.
const mostBandsWritten = 60

func deep(w *tariff.Written) bool {
	long := func(l tariff.WrittenLine) bool { return len(l.Stretches) > mostBandsWritten }
	return slices.ContainsFunc(w.Bill, long) || slices.ContainsFunc(w.Used, long)
}

// sum adds lines up, each rounded to the minor unit, and settles the whole.
func sum(w *tariff.Written, lines []tariff.WrittenLine, cell func(meter int) string) string {
	if len(lines) == 0 {
		return "0"
	}
	var parts []string
	for i := range lines {
		parts = append(parts, line(&lines[i], cell))
	}
	text := "(" + strings.Join(parts, "+") + ")"
	if w.Settle != 1 {
		text = fmt.Sprintf("ROUND(ROUND(%s*%v,6),0)", text, w.Settle)
	}
	return text
}

func line(l *tariff.WrittenLine, cell func(meter int) string) string {
	round := func(text string) string { return "ROUND(ROUND(" + text + ",6),0)" }
	if l.Meter < 0 {
		return round(fmt.Sprint(l.Stretches[0].Base))
	}
	x := cell(l.Meter)
	if l.Size > 0 {
		return round(fmt.Sprintf("INT((MAX(0,%s*%d-%d)+%d)/%d)*%v", x, l.Scale, l.Start, l.Size-1, l.Size, l.Stretches[0].Rate))
	}
	straight := func(s *tariff.WrittenStretch) string {
		switch {
		case s.Rate == 0:
			return fmt.Sprint(s.Base)
		case s.From == 0:
			return fmt.Sprintf("%v+%s*%v", s.Base, x, s.Rate)
		}
		return fmt.Sprintf("%v+(%s-%d)*%v", s.Base, x, s.From, s.Rate)
	}
	if a := l.Stretches; len(a) == 2 && a[0].Rate == 0 && a[1].From == a[0].End && a[0].Base == a[1].Base {
		return round(fmt.Sprintf("%v+MAX(0,%s-%d)*%v", a[0].Base, x, a[0].End, a[1].Rate))
	}
	text := straight(&l.Stretches[len(l.Stretches)-1])
	for i := len(l.Stretches) - 2; i >= 0; i-- {
		text = fmt.Sprintf("IF(%s-%d<=0,%s,%s)", x, l.Stretches[i].End, straight(&l.Stretches[i]), text)
	}
	return round(text)
}

// serving is a price where all limits hold, and never where one does not.
func serving(w *tariff.Written, cell func(meter int) string, price string) string {
	if len(w.Limits) == 0 {
		return price
	}
	var holds []string
	for _, l := range w.Limits {
		holds = append(holds, fmt.Sprintf("%s-%d<=0", cell(l.Meter), l.Most))
	}
	return fmt.Sprintf("IF(AND(%s),%s,%s)", strings.Join(holds, ","), price, never)
}
