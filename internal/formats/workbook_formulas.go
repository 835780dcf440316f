package formats

import (
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
)

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
