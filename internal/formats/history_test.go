package formats_test

import (
	"strings"
	"testing"

	"ninecoins/internal/core/usage"
	"ninecoins/internal/formats"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func historyLine(h formats.History, i int) string {
	var b strings.Builder
	b.WriteString(h.Records[i].Driver)
	for _, c := range h.Records[i].Counted {
		b.WriteString(" " + c.Month.ISO() + "=" + c.Value.String())
	}
	return b.String()
}

func TestHistoriesAreReadAsPeopleKeepThem(t *testing.T) {
	for name, row := range map[string]struct{ text, of, want, note string }{
		"plain":                        {"month,contacts\n2026-01,6120\n2026-02,6230\n", "", "contacts 2026-01=6120 2026-02=6230", ""},
		"without heads, of one driver": {"2026-01,6120\n2026-02,6230", "contacts", "contacts 2026-01=6120 2026-02=6230", ""},
		"a head that says value":       {"month,value\n2026-01,4", "seats", "seats 2026-01=4", ""},
		"tabs, and commas in numbers":  {"Month\tContacts\n2026-01\t6,120\n2026-02\t6 230", "", "contacts 2026-01=6120 2026-02=6230", ""},
		"quotation marks":              {"month,contacts\n\"2026-01\",\"6,120\"", "", "contacts 2026-01=6120", ""},
		"other dates, in no order": {"month;contacts\n3/2026;3\n31/01/2026;1\nFeb 2026;2\nApril 2026;4\n2026-05-31;5\n6.2026;6", "",
			"contacts 2026-01=1 2026-02=2 2026-03=3 2026-04=4 2026-05=5 2026-06=6", ""},
		"a byte order mark, empty line": {"\ufeffmonth,contacts\r\n\r\n2026-01,0.5\r\n", "", "contacts 2026-01=0.5", ""},
		"gaps": {"month,contacts\n2026-01,1\n2026-04,2", "", "contacts 2026-01=1 2026-04=2",
			"Contacts: nothing is told of Feb 2026, Mar 2026. The fit goes on without."},
		"twice the same": {"month,contacts\n2026-01,1\n2026-01,1", "", "contacts 2026-01=1", "Jan 2026 stands twice, with the same value; it counts once."},
	} {
		h, err := formats.ReadHistory(row.text, usage.Catalogue(), row.of)
		require.NoError(t, err, name)
		require.Len(t, h.Records, 1, name)
		assert.Equal(t, row.want, historyLine(h, 0), name)
		assert.Equal(t, row.note, strings.Join(h.Notes, "|"), name)
	}
	h, err := formats.ReadHistory("month,contacts,Seats\n2026-01,10,\n2026-02,,3\n2026-03,12,4", usage.Catalogue(), "")
	require.NoError(t, err)
	assert.Equal(t, "contacts 2026-01=10 2026-03=12", historyLine(h, 0))
	assert.Equal(t, "seats 2026-02=3 2026-03=4", historyLine(h, 1))
}

func TestAHistoryIsRefusedInWords(t *testing.T) {
	for text, want := range map[string]string{
		"":                                      "there is nothing here: paste lines of a month and a value, such as 2026-01,6120",
		"month,pigeons\n2026-01,3":              `column 2, "pigeons", is no driver of this study: it has contacts`,
		"month,contacts":                        "there is no line of a month and its value",
		"month\n2026-01":                        "there is one column",
		"2026-01,3":                             "say of which driver this is the history: begin with a line such as month,contacts",
		"month,contacts\n2026-13,3":             `line 2: "2026-13" is no month from 1900 to 2199`,
		"month,contacts\n03/04/2026,3":          `line 2: "03/04/2026" could be a day in either of two months; write months as 2027-01`,
		"month,contacts\nsoon,3":                `line 2: "soon" is no month`,
		"month,contacts\n,3":                    "line 2: the month is empty",
		"month;contacts\n2026-01;6.400":         `line 2: contacts: "6.400" could mean 6.4 or 6,400`,
		"month;contacts\n2026-01;0,6":           `line 2: contacts: "0,6" could mean 0.6`,
		"month,contacts\n2026-01,6,120":         "line 2: there are 3 cells, and 2 columns; where a comma stands in a number",
		"month,contacts\n2026-01,-4":            "line 2: contacts: -4 is below 0",
		"month,contacts\n2026-01,many":          `line 2: contacts: "many" is no number`,
		"month,contacts\n2026-01,1e9":           `is no number`,
		"month,contacts\n2026-01,9999999999999": "is more than 1,000,000,000,000",
		"month,contacts\n2026-01,3\n2026-01,4":  "line 3: contacts of Jan 2026 is 4 here and 3 in line 2; keep one",
		"month,contacts,contacts\n2026-01,3,3":  "contacts stands in two columns; keep one",
		"month,contacts\n2026-01,":              "the column of contacts has no value",
		strings.Repeat("2026-01,3\n", 2_001):    "there are more than 2000 lines",
	} {
		_, err := formats.ReadHistory(text, usage.Catalogue(), "")
		require.ErrorAs(t, err, &formats.Faults{}, text)
		assert.ErrorContains(t, err, want, text[:min(len(text), 60)])
	}
}

func FuzzHistory(f *testing.F) {
	f.Add("month,contacts\n2026-01,6120")
	f.Add("a;b\n\"1,\"\t2")
	f.Fuzz(func(t *testing.T, text string) {
		h, err := formats.ReadHistory(text, usage.Catalogue(), "seats")
		if err == nil {
			require.NotEmpty(t, h.Records)
			for _, r := range h.Records {
				require.NotEmpty(t, r.Counted)
			}
		}
	})
}
