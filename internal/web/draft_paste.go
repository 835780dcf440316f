package web

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

// mostCells is how many cells are pasted at once.
const mostCells = 4_000

// pasteCells fills cells from a block out of a spreadsheet: all of it or none. A block
// is pasted at a cell of the grid, whose rows and columns come along; a table names
// its features in its first column and its plans in its first row.
func (s *Server) pasteCells(c *gin.Context, e *draftEditor, form draftForm) (*refusal, error) {
	var wanted []wantedCell
	var faults []string
	if form.Op == "block" {
		wanted, faults = e.block(form)
	} else {
		wanted, faults = e.table(form.Rows)
	}
	var all document.Change
	for _, w := range wanted {
		change, fault := e.fill(w)
		if fault != "" {
			faults = append(faults, fault)
		}
		all = append(all, change...)
	}
	field := "grid-table"
	if form.Op == "block" {
		field = ""
	}
	switch {
	case len(faults) > 0:
		return refuse(field, form.Rows, "Nothing was written. "+sayFaults(faults)), nil
	case len(all) == 0:
		return refuse(field, form.Rows, "Nothing was written: all of that stands there already."), nil
	}
	return saved(c, s.store.Edit(c, e.at, all), field, form.Rows)
}

// wantedCell is what is to stand in a cell, and where that was said.
type wantedCell struct{ place, plan, feature, text string }

// block reads a block that is pasted at a cell.
func (e *draftEditor) block(form draftForm) (all []wantedCell, faults []string) {
	steps := document.Path(form.Path).Steps()
	features, plans := strings.Split(form.Features, ","), strings.Split(form.Plans, ",")
	if len(steps) != 4 {
		return nil, []string{"it was pasted nowhere"}
	}
	row, column := slices.Index(features, steps[3]), slices.Index(plans, steps[1])
	if row < 0 || column < 0 {
		return nil, []string{"the grid has changed meanwhile; paste it again"}
	}
	for i, cells := range cellsOf(form.Rows, '\t') {
		for j, text := range cells {
			place := fmt.Sprintf("row %d, column %d", i+1, j+1)
			if row+i >= len(features) || column+j >= len(plans) {
				return nil, []string{place + " lies beyond the grid"}
			}
			all = append(all, wantedCell{place, plans[column+j], features[row+i], text})
		}
	}
	if len(all) > mostCells {
		return nil, []string{fmt.Sprintf("there are %d cells; at most %d go in at once", len(all), mostCells)}
	}
	return all, faults
}

// table reads a table with a head: features below each other, plans beside each other,
// by their names or keys. What is unknown is listed.
func (e *draftEditor) table(text string) (all []wantedCell, faults []string) {
	rows := cellsOf(text, separatorOf(text))
	if len(rows) < 2 {
		return nil, []string{"a table has a head, “Feature” and the names of plans, and a row for each feature"}
	}
	ed := &e.draft.Draft.Edition
	var plans []string
	for _, name := range rows[0][1:] {
		at := slices.IndexFunc(ed.Plans, func(p pricelist.Plan) bool { return strings.EqualFold(p.Name, name) || p.Key == name })
		if at < 0 {
			faults = append(faults, "there is no plan "+quoted(name))
			plans = append(plans, "")
			continue
		}
		plans = append(plans, ed.Plans[at].Key)
	}
	var unknown []string
	for i, cells := range rows[1:] {
		f, ok := e.catalogue.Named(cells[0])
		switch {
		case !ok:
			unknown = append(unknown, quoted(cells[0]))
			continue
		case len(cells)-1 > len(plans):
			faults = append(faults, fmt.Sprintf("row %d has %d cells; there are %d plans in the head", i+2, len(cells)-1, len(plans)))
			continue
		}
		for j, text := range cells[1:] {
			if plans[j] != "" {
				all = append(all, wantedCell{fmt.Sprintf("row %d, %s", i+2, rows[0][j+1]), plans[j], f.Key, text})
			}
		}
	}
	if len(unknown) > 0 {
		const most = 12
		text := "the catalogue has no " + strings.Join(unknown[:min(len(unknown), most)], ", ")
		if n := len(unknown) - most; n > 0 {
			text += fmt.Sprintf(" and %d more", n)
		}
		faults = append([]string{text + ": add them there, or write them as it does"}, faults...)
	}
	if len(all) > mostCells {
		faults = append(faults, fmt.Sprintf("there are %d cells; at most %d go in at once", len(all), mostCells))
	}
	return all, faults
}

// separatorOf is what stands between the cells of a table: a tab, a semicolon or a comma.
func separatorOf(text string) rune {
	head, _, _ := strings.Cut(strings.TrimLeft(text, "\r\n"), "\n")
	for _, r := range []rune{'\t', ';'} {
		if strings.ContainsRune(head, r) {
			return r
		}
	}
	return ','
}

// cellsOf cuts a text into rows and cells. What is no proper CSV is cut at its
// separators.
func cellsOf(text string, separator rune) (rows [][]string) {
	r := csv.NewReader(strings.NewReader(text))
	r.Comma, r.FieldsPerRecord, r.LazyQuotes, r.TrimLeadingSpace = separator, -1, true, separator != '\t'
	rows, err := r.ReadAll()
	if err != nil {
		rows = nil
		for line := range strings.SplitSeq(strings.ReplaceAll(text, "\r\n", "\n"), "\n") {
			if strings.TrimSpace(line) != "" {
				rows = append(rows, strings.Split(line, string(separator)))
			}
		}
	}
	for _, row := range rows {
		for i := range row {
			row[i] = strings.TrimSpace(row[i])
		}
	}
	return rows
}

// fill is the change that puts a text into a cell; none where it stands there already.
func (e *draftEditor) fill(w wantedCell) (document.Change, string) {
	path := document.Path("plans").To(w.plan, "features", w.feature)
	p, ok := e.draft.Draft.Edition.Plan(w.plan)
	if !ok {
		return nil, w.place + ": there is no such plan any more"
	}
	was := p.Features[w.feature]
	to, err := pricelist.Drafts().Typed(e.draft.Draft, path, w.text)
	var own document.Problem
	switch {
	case errors.As(err, &own):
		return nil, fmt.Sprintf("%s: %s %s", w.place, quoted(w.text), own)
	case err != nil:
		return nil, fmt.Sprintf("%s: %s is no way of having a feature", w.place, quoted(w.text))
	case to == was.Cell():
		return nil, ""
	case to == "":
		return pricelist.ClearCell(w.plan, w.feature, was), ""
	}
	return document.Change{{Do: document.Set, Path: path, Was: was.Cell(), To: to}}, ""
}

// copyColumn fills what a plan does not say yet with what another one says.
func (s *Server) copyColumn(c *gin.Context, e *draftEditor, form draftForm) (*refusal, error) {
	from, ok := e.draft.Draft.Edition.Plan(form.From)
	to, there := e.draft.Draft.Edition.Plan(form.To)
	if !ok || !there || form.From == form.To {
		return refuse("", "", "Nothing was copied: there is no such plan any more."), nil
	}
	var all document.Change
	for _, key := range sortedOf(keysOf(from.Features)) {
		if _, told := to.Features[key]; !told {
			all = append(all, document.Op{Do: document.Set, Path: document.Path("plans").To(to.Key, "features", key), To: from.Features[key].Cell()})
		}
	}
	if len(all) == 0 {
		return refuse("", "", fmt.Sprintf("Nothing was copied: %s says of each of them already how it has it.", to.Name)), nil
	}
	return saved(c, s.store.Edit(c, e.at, all), "", "")
}

func keysOf[V any](of map[string]V) map[string]bool {
	keys := map[string]bool{}
	for key := range of {
		keys[key] = true
	}
	return keys
}

// gridFile hands the grid out as CSV: a feature a row, a plan a column, as a table that
// can be pasted back.
func (s *Server) gridFile(c *gin.Context) {
	e, err := s.openDraft(c)
	if errors.Is(err, store.ErrMissing) {
		err = notFound("There is no draft of this price list.")
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	ed := &e.draft.Draft.Edition
	head, told := []string{"Feature"}, map[string]bool{}
	for i := range ed.Plans {
		head = append(head, plainCell(ed.Plans[i].Name))
		for key := range ed.Plans[i].Features {
			told[key] = true
		}
	}
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	_ = w.Write(head)
	keys := sortedOf(told)
	slices.SortStableFunc(keys, func(a, b string) int { return e.catalogue.Place(a) - e.catalogue.Place(b) })
	for _, key := range keys {
		row := []string{key}
		for i := range ed.Plans {
			row = append(row, ed.Plans[i].Features[key].Cell())
		}
		_ = w.Write(row)
	}
	w.Flush()
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="features-%s.csv"`, ed.Platform.Key))
	c.Data(http.StatusOK, "text/csv; charset=utf-8", out.Bytes())
}
