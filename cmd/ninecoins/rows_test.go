package main

import (
	"fmt"
	"strings"
	"testing"

	"ninecoins/internal/demo"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestManyUsagesArePricedRowByRow(t *testing.T) {
	with := file(t, "u.json", []byte(`{"format": "nine-coins/usage/1", "start": "2027-01", "drivers": [{"driver": "contacts", "now": 100}, {"driver": "newsletters", "now": 4}, {"driver": "seats", "now": 3}]}`))
	list := file(t, "list.json", demo.PriceLists()[0])
	var rows strings.Builder
	rows.WriteString("contacts,seats\n")
	for i := range 2_000 {
		fmt.Fprintf(&rows, "%d,%d\n", i*10, i%9)
	}
	code, out, errs := call(t, "quote", "-usage", with, "-rows", file(t, "rows.csv", []byte(rows.String())), list)
	require.Zero(t, code, errs)
	lines := strings.Split(strings.TrimSpace(out), "\n")
	require.Len(t, lines, 2_001)
	heads := strings.Split(lines[0], ",")
	assert.Equal(t, []string{"contacts", "seats"}, heads[:2])
	// Each cell is what a quote of that usage alone says.
	for _, at := range []int{1, 77, 640, 2000} {
		cells := strings.Split(lines[at], ",")
		one := file(t, "one.json", fmt.Appendf(nil, `{"format": "nine-coins/usage/1", "start": "2027-01", "drivers": [{"driver": "contacts", "now": %s}, {"driver": "newsletters", "now": 4}, {"driver": "seats", "now": %s}]}`, cells[0], cells[1]))
		_, table, _ := call(t, "quote", "-usage", one, list)
		for i, head := range heads[2:] {
			parts := strings.Split(head, "/")
			for _, row := range strings.Split(table, "\n") {
				if f := strings.Fields(row); len(f) > 3 && f[0] == parts[0] && f[1] == parts[1] && f[2] == parts[2] {
					want := f[3]
					if !strings.HasSuffix(row, "serves") {
						want = ""
					}
					assert.Equal(t, want, cells[i+2], "%s in row %d", head, at)
				}
			}
		}
	}
	for content, want := range map[string]string{
		"":                              "the rows begin with a line of drivers",
		"pigeons\n1\n":                  `line 1, column 1: there is no driver "pigeons"`,
		"seats,emails_sent\n1,2\n":      `line 1, column 2: driver "emails_sent" is derived`,
		"seats\n1\n\"1,200\"\n":         `line 3, seats: quantity "1,200": not a plain number`,
		"seats,contacts\n1\n":           "wrong number of fields",
		"contacts\n-4\n":                "line 2, contacts",
		"contacts\n99999999999999":      "out of range",
		"seats,contacts,seats\n1,2,3\n": `line 1, column 3: driver "seats" stands twice; keep one`,
	} {
		code, _, errs := call(t, "quote", "-usage", with, "-rows", file(t, "bad.csv", []byte(content)), list)
		assert.Equal(t, 2, code, content)
		assert.Contains(t, errs, want)
	}
}

// TestWhatStandsBeforeAFaultIsPriced has a row at fault in the middle of many: its
// line is told, and a fault of an earlier row, found later, comes first.
func TestWhatStandsBeforeAFaultIsPriced(t *testing.T) {
	with := file(t, "u.json", []byte(`{"format": "nine-coins/usage/1", "start": "2027-01", "drivers": [{"driver": "contacts", "now": 100}, {"driver": "seats", "now": 2}], "own_drivers": [{"key": "per_seat", "name": "Per seat", "unit": "contact", "kind": "stock", "formula": "contacts / seats"}]}`))
	list := file(t, "list.json", demo.PriceLists()[0])
	for _, at := range []int{2, 511, 512, 513, 514, 700, 1026} {
		for _, early := range []bool{false, true} {
			var rows strings.Builder
			rows.WriteString("contacts,seats\n")
			for line := 2; line < 1200; line++ {
				seats := 2
				if early && line == at {
					seats = 0 // which no contacts can be shared among
				}
				last := ""
				if line == at+1 {
					last = "x"
				}
				fmt.Fprintf(&rows, "%d,%d%s\n", line, seats, last)
			}
			code, out, errs := call(t, "quote", "-usage", with, "-rows", file(t, "rows.csv", []byte(rows.String())), list)
			assert.Equal(t, 2, code)
			want := fmt.Sprintf("line %d, seats", at+1)
			if early {
				want = fmt.Sprintf("line %d: driver \"per_seat\"", at)
			}
			assert.Contains(t, errs, want)
			if !early {
				assert.Equal(t, at, strings.Count(out, "\n"), "the head, and every row before")
			}
		}
	}
}
