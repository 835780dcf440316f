package web_test

import (
	"bytes"
	"encoding/csv"
	"encoding/xml"
	"errors"
	"io"
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"ninecoins/internal/demo"
	"ninecoins/internal/doors"
	"ninecoins/internal/testkit"

	ics "github.com/arran4/golang-ical"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// hostileNames are what people, or files of others, may call things.
var hostileNames = []string{`=HYPERLINK(\"http://x.example\";\"a\")`, `+1+cmd|' /C calc'!A0`, `@SUM(1)`, `-2+3`, `</text><script>alert(1)</script>`,
	`a;b,c:BEGIN:VEVENT\\nX-EVIL:1`, `]]>&amp;<b onload=x>`}

// TestFilesOfHostileNamesHoldThemAsText hands out every file of a study whose names are hostile, and opens
// each with a parser: nothing of them is a formula, an event, an element or a column.
func TestFilesOfHostileNamesHoldThemAsText(t *testing.T) {
	for _, name := range hostileNames {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			app := testkit.Start(t, false)
			e := testkit.As(t, app.Store, app.Workspace.ID, uuid.Nil, doors.Owner)
			rename := func(file []byte) []byte {
				text := string(file)
				for _, old := range []string{"Sprig", "Bough", "Candle", "Brindlepost", "Fernwire", "Spring list", "Ease of daily work", "Event triggers", "Referrals"} {
					text = strings.ReplaceAll(text, `"`+old+`"`, `"`+name+`"`)
				}
				return []byte(text)
			}
			for i, list := range demo.PriceLists() {
				text := rename(list)
				if i > 0 && bytes.Contains(text, []byte(`"name": "`+name+`", "does"`)) { // platforms keep their names apart
					text = list
				}
				_, err := app.Store.ImportPriceList(t.Context(), e, text)
				require.NoError(t, err)
			}
			study, err := app.Store.ImportStudy(t.Context(), e, rename(demo.Study()))
			require.NoError(t, err)
			_, err = app.Store.OpenDraft(t.Context(), e, "brindlepost") // whose features are a file
			require.NoError(t, err)
			base := app.Address + "/studies/" + study.String() + "/"
			plain, err := strconv.Unquote(`"` + name + `"`)
			require.NoError(t, err)
			held := false
			for _, file := range []string{base + "costs/take/months.csv", base + "questions.csv", app.Address + "/shelf/platforms/brindlepost/prices.csv", app.Address + "/shelf/platforms/brindlepost/features.csv"} {
				a := get(t, app.Client, file)
				require.Equal(t, http.StatusOK, a.status, file)
				rows, err := csv.NewReader(strings.NewReader(a.body)).ReadAll()
				require.NoError(t, err, file)
				for _, row := range rows {
					require.Len(t, row, len(rows[0]), file)
					for _, cell := range row {
						held = held || strings.Contains(cell, plain)
						if _, err := strconv.ParseFloat(cell, 64); cell != "" && err != nil {
							assert.NotContains(t, "=+-@\t\r", cell[:1], "%s would work %q out", file, cell)
						}
					}
				}
			}
			assert.True(t, held, "some file holds the name")

			a := get(t, app.Client, base+"costs/take/months.xlsx")
			book, err := excelize.OpenReader(strings.NewReader(a.body))
			require.NoError(t, err)
			defer book.Close()
			for _, sheet := range book.GetSheetList() {
				rows, err := book.GetRows(sheet)
				require.NoError(t, err)
				for y := range rows {
					for x := range rows[y] {
						at, _ := excelize.CoordinatesToCellName(x+1, y+1)
						formula, err := book.GetCellFormula(sheet, at)
						require.NoError(t, err)
						formula = sheetNames.ReplaceAllString(formula, "") // which are quoted
						require.NotContains(t, formula, "HYPERLINK")
						require.NotContains(t, formula, "cmd|")
						require.NotContains(t, formula, "SUM(1)")
					}
				}
			}
			for _, file := range []string{base + "costs/doing/brindlepost/todo.ics", app.Address + "/shelf/read-again.ics"} {
				a := get(t, app.Client, file)
				require.Equal(t, http.StatusOK, a.status, file)
				cal, err := ics.ParseCalendar(strings.NewReader(a.body))
				require.NoError(t, err, file)
				assert.Len(t, cal.Events(), strings.Count(a.body, "\nBEGIN:VEVENT"), file)
				assert.NotRegexp(t, `(?m)^X-EVIL`, a.body)
			}
			for _, page := range []string{"costs/chance?now=1", "prices", "line-up", "verdict"} {
				a := get(t, app.Client, base+page)
				require.Equal(t, http.StatusOK, a.status, page)
				for _, svg := range pictures(a.body) {
					parses(t, svg)
				}
				assert.NotContains(t, a.body, "<script>alert")
			}
		})
	}
}

// pictures are the drawings of a page, with those inside them.
func pictures(page string) (all []string) {
	depth, from := 0, 0
	for _, at := range regexp.MustCompile(`</?svg\b`).FindAllStringIndex(page, -1) {
		switch opens := page[at[0]+1] != '/'; {
		case opens && depth == 0:
			depth, from = 1, at[0]
		case opens:
			depth++
		default:
			if depth--; depth == 0 {
				all = append(all, page[from:at[1]]+">")
			}
		}
	}
	return all
}

// sheetNames are references to sheets, in which an apostrophe is doubled (Office Open XML).
var sheetNames = regexp.MustCompile(`'(?:[^']|'')*'!`)

// parses opens a picture as XML, in which nothing runs.
func parses(t *testing.T, svg string) {
	t.Helper()
	d := xml.NewDecoder(strings.NewReader(svg))
	d.Entity = xml.HTMLEntity
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			return
		}
		if !assert.NoError(t, err, svg) {
			return
		}
		if start, is := token.(xml.StartElement); is {
			assert.NotEqual(t, "script", start.Name.Local)
			for _, a := range start.Attr {
				assert.False(t, strings.HasPrefix(a.Name.Local, "on"), a.Name.Local)
			}
		}
	}
}
