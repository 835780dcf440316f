package formats

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

// mostHistoryLines is how many lines of a history are read.
const mostHistoryLines = 2_000

// History is what a table of months holds, with what was noticed about it that is no
// fault: months that lack, lines that say the same twice.
type History struct {
	Records []study.Record
	Notes   []string
}

// ReadHistory reads a table of months and values: a column of months, and one for
// each driver under its name or key. Cells stand apart by tabs, semicolons or commas.
// Without a line of heads there is one column of values, which are those of a driver
// that is named besides. Months are written as 2027-01, 2027-01-31, 01/2027, Jan 2027
// or January 2027; values as people write them. It is taken whole, or refused with
// [Faults] that name the lines.
func ReadHistory(text string, drivers []usage.Driver, of string) (History, error) {
	var faults document.Gathering
	r := historyReader{drivers: drivers, faults: &faults}
	rows, err := r.rows(text)
	if err != nil {
		return History{}, err
	}
	var h History
	columns := r.columns(rows[0].cells, of)
	if columns != nil && rows[0].head {
		rows = rows[1:]
	}
	if faults.Count() == 0 && len(rows) == 0 {
		faults.Add(1, "", "there is no line of a month and its value")
	}
	if faults.Count() > 0 {
		return h, faults.Err()
	}
	records := make([]study.Record, len(columns))
	for i, d := range columns {
		records[i].Driver = d.Key
	}
	lines := make([]map[usage.Month]int, len(columns))
	for _, row := range rows {
		r.row(row, columns, records, lines, &h)
	}
	for i, d := range columns {
		if n := len(records[i].Counted); n == 0 && faults.Count() == 0 {
			faults.Add(1, "", "the column of %s has no value", usage.LowerFirst(d.Name))
		} else if n > study.MostCounted {
			faults.Add(1, "", "%s has %d months; at most %d are taken", usage.LowerFirst(d.Name), n, study.MostCounted)
		}
	}
	if faults.Count() > 0 {
		return h, faults.Err()
	}
	for i, d := range columns {
		slices.SortFunc(records[i].Counted, func(a, b usage.Counted) int { return int(a.Month - b.Month) })
		if note := gaps(d, records[i].Counted); note != "" {
			h.Notes = append(h.Notes, note)
		}
	}
	h.Records = records
	return h, nil
}

type historyReader struct {
	drivers []usage.Driver
	faults  *document.Gathering
}

type historyRow struct {
	line  int
	cells []string
	head  bool
}

// rows splits the text into lines of cells.
func (r *historyReader) rows(text string) (rows []historyRow, err error) {
	text = strings.TrimPrefix(text, "\ufeff")
	in := csv.NewReader(strings.NewReader(text))
	in.Comma, in.FieldsPerRecord, in.LazyQuotes = apartBy(text), -1, true
	for {
		cells, err := in.Read()
		if err == io.EOF {
			break
		}
		if err != nil {
			r.faults.Add(0, "", "this cannot be read as a table: %v", err)
			return nil, r.faults.Err()
		}
		for i := range cells {
			cells[i] = strings.TrimSpace(cells[i])
		}
		line, _ := in.FieldPos(0)
		if strings.Join(cells, "") == "" {
			continue
		}
		if rows = append(rows, historyRow{line: line, cells: cells}); len(rows) > mostHistoryLines {
			r.faults.Add(line, "", "there are more than %d lines", mostHistoryLines)
			return nil, r.faults.Err()
		}
	}
	if len(rows) == 0 {
		r.faults.Add(1, "", "there is nothing here: paste lines of a month and a value, such as 2026-01,6120")
		return nil, r.faults.Err()
	}
	_, err = historyMonth(rows[0].cells[0])
	rows[0].head = err != nil && !strings.ContainsAny(rows[0].cells[0], "0123456789")
	return rows, nil
}

// apartBy is what stands between cells: tabs or semicolons where there are any.
func apartBy(text string) rune {
	for _, r := range "\t;" {
		if strings.ContainsRune(text, r) {
			return r
		}
	}
	return ','
}

// columns finds the drivers of the columns after the first.
func (r *historyReader) columns(head []string, of string) (all []usage.Driver) {
	known := func(name string) (usage.Driver, bool) {
		at := slices.IndexFunc(r.drivers, func(d usage.Driver) bool { return strings.EqualFold(d.Key, name) || strings.EqualFold(d.Name, name) })
		if at < 0 {
			return usage.Driver{}, false
		}
		return r.drivers[at], true
	}
	if _, err := historyMonth(head[0]); err == nil || strings.ContainsAny(head[0], "0123456789") {
		if d, ok := known(of); ok {
			return []usage.Driver{d}
		}
		r.faults.Add(1, "", "say of which driver this is the history: begin with a line such as month,contacts")
		return nil
	}
	if len(head) < 2 {
		r.faults.Add(1, "", "there is one column; a month and a value were expected, apart by a comma, a semicolon or a tab")
		return nil
	}
	for i, name := range head[1:] {
		d, ok := known(name)
		if !ok && len(head) == 2 && of != "" && slices.Contains([]string{"value", "values", "count"}, strings.ToLower(name)) {
			d, ok = known(of)
		}
		switch {
		case !ok:
			r.faults.Add(1, "", "column %d, %q, is no driver of this study: %s", i+2, document.Shorten(name, 40), r.choices())
		case slices.ContainsFunc(all, func(o usage.Driver) bool { return o.Key == d.Key }):
			r.faults.Add(1, "", "%s stands in two columns; keep one", usage.LowerFirst(d.Name))
		}
		all = append(all, d)
	}
	return all
}

// choices lists drivers that a column may be of.
func (r *historyReader) choices() string {
	var names []string
	for _, d := range r.drivers {
		names = append(names, usage.LowerFirst(d.Name))
	}
	if len(names) > 8 {
		names = append(names[:8], "…")
	}
	return "it has " + strings.Join(names, ", ")
}

// row takes a line.
func (r *historyReader) row(row historyRow, columns []usage.Driver, records []study.Record, lines []map[usage.Month]int, h *History) {
	m, err := historyMonth(row.cells[0])
	if err != nil {
		r.faults.Add(row.line, "", "%v", err)
		return
	}
	if n := len(row.cells); n > len(columns)+1 {
		why := ""
		if n == 3 && len(columns) == 1 {
			why = "; where a comma stands in a number, put the number in quotation marks or the cells apart by tabs"
		}
		r.faults.Add(row.line, "", "there are %d cells, and %d columns%s", n, len(columns)+1, why)
		return
	}
	for i := range columns {
		if i+1 >= len(row.cells) || row.cells[i+1] == "" {
			continue
		}
		q, err := historyValue(row.cells[i+1])
		if err != nil {
			r.faults.Add(row.line, "", "%s: %v", usage.LowerFirst(columns[i].Name), err)
			continue
		}
		if lines[i] == nil {
			lines[i] = map[usage.Month]int{}
		}
		first, twice := lines[i][m]
		if !twice {
			lines[i][m] = row.line
			records[i].Counted = append(records[i].Counted, usage.Counted{Month: m, Value: q})
			continue
		}
		at := slices.IndexFunc(records[i].Counted, func(c usage.Counted) bool { return c.Month == m })
		if was := records[i].Counted[at].Value; was != q {
			r.faults.Add(row.line, "", "%s of %s is %s here and %s in line %d; keep one", usage.LowerFirst(columns[i].Name), m, q.Grouped(), was.Grouped(), first)
			continue
		}
		h.Notes = append(h.Notes, fmt.Sprintf("%s stands twice, with the same value; it counts once.", m))
	}
}

// historyValue reads a value as people write it.
func historyValue(s string) (usage.Quantity, error) {
	plain, err := money.Plain(s)
	var unclear *money.UnclearError
	switch {
	case errors.As(err, &unclear):
		return 0, fmt.Errorf("%w; write it without a sign between thousands, and decimals after a point", err)
	case err != nil:
		return 0, fmt.Errorf("%q is no number", document.Shorten(s, 30))
	case strings.HasPrefix(plain, "-"):
		return 0, fmt.Errorf("%s is below 0, which no driver is", plain)
	}
	q, err := usage.ParseQuantity(plain)
	if err != nil {
		return 0, fmt.Errorf("%s is more than %s, or has more than six decimals", plain, usage.Most.Format())
	}
	return q, nil
}

var (
	slashed = regexp.MustCompile(`^(\d{1,2})[./-](\d{4})$`)               // 01/2027
	dayed   = regexp.MustCompile(`^(\d{1,2})[./-](\d{1,2})[./-](\d{4})$`) // 31/01/2027
	yearly  = regexp.MustCompile(`^(\d{4})[./-](\d{1,2})(?:[./-]\d{1,2})?(?:[T ].*)?$`)
)

// historyMonth reads the month of a line.
func historyMonth(s string) (usage.Month, error) {
	refuse := func(why string) (usage.Month, error) {
		return 0, fmt.Errorf("%q %s; write months as 2027-01", document.Shorten(s, 30), why)
	}
	of := func(year, month string) (usage.Month, error) {
		n, _ := strconv.Atoi(month)
		m, err := usage.ParseMonth(fmt.Sprintf("%s-%02d", year, n))
		if err != nil {
			return refuse("is no month from 1900 to 2199")
		}
		return m, nil
	}
	if m := yearly.FindStringSubmatch(s); m != nil {
		return of(m[1], m[2])
	}
	if m := slashed.FindStringSubmatch(s); m != nil {
		return of(m[2], m[1])
	}
	if m := dayed.FindStringSubmatch(s); m != nil {
		a, _ := strconv.Atoi(m[1])
		b, _ := strconv.Atoi(m[2])
		switch {
		case a == b || a > 12:
			return of(m[3], m[2])
		case b > 12:
			return of(m[3], m[1])
		}
		return refuse("could be a day in either of two months")
	}
	for _, form := range []string{"Jan 2006", "January 2006", "Jan-2006", "2006 Jan", "2 Jan 2006", "2 January 2006", "January 2, 2006"} {
		if at, err := time.Parse(form, s); err == nil {
			return of(at.Format("2006"), at.Format("1"))
		}
	}
	if s == "" {
		return 0, errors.New("the month is empty; write months as 2027-01")
	}
	return refuse("is no month")
}

// gaps says which months lack between the first and the last.
func gaps(d usage.Driver, all []usage.Counted) string {
	var lacks []string
	for i := 1; i < len(all); i++ {
		for m := all[i-1].Month + 1; m < all[i].Month; m++ {
			lacks = append(lacks, m.String())
		}
	}
	n := len(lacks)
	switch {
	case n == 0:
		return ""
	case n > 4:
		lacks = append(lacks[:3], fmt.Sprintf("and %d more", n-3))
	}
	return fmt.Sprintf("%s: nothing is told of %s. The fit goes on without.", d.Name, strings.Join(lacks, ", "))
}
