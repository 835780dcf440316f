package formats_test

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/demo"
	"ninecoins/internal/formats"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

var workbookDay = time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC)

// demoStudies are those of the demo, with their price lists.
func demoStudies(t testing.TB) (all []*study.Study) {
	lists := map[string]*pricelist.Edition{}
	for _, file := range demo.Shelf() {
		e, err := formats.ReadPriceList(context.Background(), file, workbookDay)
		require.NoError(t, err)
		lists[e.Platform.Key+e.ObservedOn.Format(time.DateOnly)] = e
	}
	for _, file := range demo.Studies() {
		s, err := formats.ReadStudy(context.Background(), file, workbookDay, func(platform string, on time.Time) (*pricelist.Edition, bool) {
			e, ok := lists[platform+on.Format(time.DateOnly)]
			return e, ok
		})
		require.NoError(t, err)
		s.Today = workbookDay
		all = append(all, s)
	}
	return all
}

// totals works the last row of the costs out by the formulas alone.
func totals(t *testing.T, f *excelize.File, o *study.Outcome) (all []float64) {
	for i := range o.Results {
		column, err := excelize.ColumnNumberToName(i + 2)
		require.NoError(t, err)
		sum := 0.0
		for u := range o.Study.Horizon {
			text, err := f.CalcCellValue(formats.CostsSheet, fmt.Sprintf("%s%d", column, 3+u), excelize.Options{RawCellValue: true})
			require.NoError(t, err)
			v, err := strconv.ParseFloat(text, 64)
			require.NoError(t, err, "%s: %q", o.Results[i].Option.Name, text)
			sum += v
		}
		all = append(all, sum)
	}
	return all
}

// The formulas of a workbook, worked out by excelize, come to what the engine says: as
// written, and after an input cell was changed to what the study then says.
func TestAWorkbookComesToWhatTheEngineSays(t *testing.T) {
	live, formulas := 0, 0
	for _, s := range demoStudies(t) {
		for _, pay := range []projection.Policy{projection.Monthly, projection.Mix} {
			s.Pay, s.Horizon = pay, 18
			o := study.Compute(s)
			data, err := formats.WriteWorkbook(context.Background(), o)
			require.NoError(t, err)
			f, err := excelize.OpenReader(bytes.NewReader(data))
			require.NoError(t, err)
			for i, total := range totals(t, f, o) {
				assert.InDelta(t, o.Results[i].Schedule.Total.Float(), total, 0.005, "%s, %s, %s", s.Title, pay, o.Results[i].Option.Name)
			}
			formulas += carried(t, f)
			d := s.Drivers[0] // contacts, keywords, …
			for _, percent := range []int64{101, 104, 300} {
				if d.Path.Shape != usage.Compound {
					break
				}
				other := *s
				other.Drivers = append([]study.Setting(nil), s.Drivers...)
				other.Drivers[0].Path.Now = d.Path.Now / 100 * usage.Quantity(percent)
				require.NoError(t, f.SetCellValue(formats.InputsSheet, "B2", other.Drivers[0].Path.Now.Float()))
				then := study.Compute(&other)
				for i, total := range totals(t, f, o) {
					if chosenAnew(&o.Results[i]) || samePlans(&o.Results[i], &then.Results[i]) {
						live++
						assert.InDelta(t, then.Results[i].Schedule.Total.Float(), total, 0.005, "%s, %s, at %d percent", s.Title, o.Results[i].Option.Name, percent)
					}
				}
			}
			require.NoError(t, f.Close())
		}
	}
	assert.Greater(t, live, 30, "options that follow the inputs")
	assert.Greater(t, formulas, 5_000)
}

// carried holds what the cells with a formula say without being worked out against what they come to,
// and counts them.
func carried(t *testing.T, f *excelize.File) (n int) {
	for _, sheet := range f.GetSheetList() {
		rows, err := f.GetRows(sheet, excelize.Options{RawCellValue: true})
		require.NoError(t, err)
		for i, row := range rows {
			for j := range row {
				cell, err := excelize.CoordinatesToCellName(j+1, i+1)
				require.NoError(t, err)
				formula, err := f.GetCellFormula(sheet, cell)
				require.NoError(t, err)
				if formula == "" {
					continue
				}
				n++
				comes, err := f.CalcCellValue(sheet, cell, excelize.Options{RawCellValue: true})
				require.NoError(t, err)
				a, errA := strconv.ParseFloat(row[j], 64)
				b, errB := strconv.ParseFloat(comes, 64)
				if strings.HasPrefix(cell, "C") && errB != nil { // a plan's name, which stands as computed in the last column
					require.Equal(t, comes, row[len(row)-1], "%s %s: %s", sheet, cell, formula)
					continue
				}
				require.NoError(t, errA)
				require.NoError(t, errB)
				require.InDelta(t, b, a, 0.005+1e-9*math.Abs(b), "%s %s: %s", sheet, cell, formula)
			}
		}
	}
	return n
}

// What is charged once, and what is lost, stands in a cell that says that it does not follow the inputs.
func TestAWorkbookMarksWhatIsFixed(t *testing.T) {
	s := demoStudies(t)[1]
	s.Pay = projection.Yearly
	o := study.Compute(s)
	data, err := formats.WriteWorkbook(context.Background(), o)
	require.NoError(t, err)
	f, err := excelize.OpenReader(bytes.NewReader(data))
	require.NoError(t, err)
	defer f.Close()
	fixed := 0
	for _, sheet := range f.GetSheetList() {
		rows, err := f.GetRows(sheet, excelize.Options{RawCellValue: true})
		require.NoError(t, err)
		if len(rows) < 3 {
			continue
		}
		at := slices.Index(rows[1], "once, or lost: as computed, does not follow the inputs")
		if at < 0 {
			continue
		}
		column, err := excelize.ColumnNumberToName(at + 1)
		require.NoError(t, err)
		for i := range rows[2:] {
			formula, err := f.GetCellFormula(sheet, fmt.Sprintf("B%d", i+3))
			require.NoError(t, err)
			if formula != "" {
				assert.True(t, strings.HasSuffix(formula, fmt.Sprintf("+%s%d", column, i+3)), formula)
				fixed++
			}
		}
	}
	assert.Positive(t, fixed)
}

// chosenAnew reports whether the workbook chooses the plans of all tools of an option anew.
func chosenAnew(r *study.Result) bool {
	for k := range r.Tools {
		c := r.Tools[k].Candidate()
		programs, err := projection.Plainly(c)
		if err != nil || programs == nil {
			return false
		}
		for _, p := range programs {
			if _, ok := p.Write(projection.LongSince, 0); !ok {
				return false
			}
		}
	}
	return true
}

// samePlans reports whether an option takes the same plans on the same terms in every
// month of two outcomes, all of which can be written as formulas.
func samePlans(a, b *study.Result) bool {
	for k := range a.Tools {
		for t := range a.Tools[k].Schedule.Months {
			m, n := &a.Tools[k].Schedule.Months[t], &b.Tools[k].Schedule.Months[t]
			if !m.Serves || !n.Serves || m.Plan().Key != n.Plan().Key || m.Term().Key != n.Term().Key {
				return false
			}
			how, then := m.Working(), n.Working()
			then.Program = how.Program
			if how != then {
				return false
			}
			if _, ok := how.Program.Write(how.Since, how.Into); !ok {
				return false
			}
		}
	}
	return true
}

func TestSheetsOfHostileNamesCanBeRead(t *testing.T) {
	s := demoStudies(t)[0]
	s.Options[0].Name = "=1+1"
	s.Title = "'[]:*?/\\"
	data, err := formats.WriteWorkbook(context.Background(), study.Compute(s))
	require.NoError(t, err)
	f, err := excelize.OpenReader(bytes.NewReader(data))
	require.NoError(t, err)
	defer f.Close()
	text, err := f.GetCellValue(formats.CostsSheet, "B2")
	require.NoError(t, err)
	assert.Equal(t, "=1+1", text, "a name is no formula")
	formula, err := f.GetCellFormula(formats.CostsSheet, "B2")
	require.NoError(t, err)
	assert.Empty(t, formula)
}
