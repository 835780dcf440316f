package main

import (
	"encoding/csv"
	"encoding/json"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// listFile is a price list of the demo, and usageFile the usage of the examples.
func listFile(name string) string {
	return filepath.Join("..", "..", "internal", "demo", "files", name+".json")
}

var usageExample = filepath.Join("..", "..", "docs", "examples", "usage.json")

func TestSweepTellsWhoCostsLeastWhere(t *testing.T) {
	args := []string{"sweep", "-usage", usageExample, "-along", "contacts", "-to", "30000", "-json", listFile("osier-mail"), listFile("quirebird")}
	code, out, errs := call(t, args...)
	require.Zero(t, code, errs)
	var s struct {
		Driver, Currency string
		Whole            bool
		Regions          []struct {
			From, To int64
			Least    *string
		}
		Lines []struct {
			Platform string
			Turns    []struct {
				At     int64
				Before *string
				After  *string
				Plan   string
			}
		}
	}
	require.NoError(t, json.Unmarshal([]byte(out), &s))
	assert.Equal(t, "contacts", s.Driver)
	assert.True(t, s.Whole)
	next := int64(1)
	for _, r := range s.Regions {
		assert.Equal(t, next, r.From)
		next = r.To + 1
	}
	assert.Equal(t, int64(30_001), next, "every value has its place")
	assert.Greater(t, len(s.Lines[1].Turns), 2)
	// What stands at a turn is what quote says there.
	turn := s.Lines[1].Turns[1]
	rows := file(t, "rows.csv", []byte("contacts\n"+jsonOf(t, turn.At)+"\n"))
	code, out, errs = call(t, "quote", "-usage", usageExample, "-here", "-rows", rows, listFile("quirebird"))
	require.Zero(t, code, errs)
	require.NotNil(t, turn.After)
	assert.Contains(t, out, strings.TrimSuffix(*turn.After, ".00"))

	code, out, _ = call(t, append(append([]string{}, args[:7]...), "-csv", listFile("osier-mail"))...)
	require.Zero(t, code)
	lines, err := csv.NewReader(strings.NewReader(out)).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, []string{"contacts", "to", "option", "plan", "per_month", "stands", "other", "apart"}, lines[0])
	assert.Equal(t, []string{"1", "30000", "osier-mail", "", "", "costs least", "", ""}, lines[len(lines)-1])
	code, out, _ = call(t, append(append([]string{}, args[:7]...), listFile("osier-mail"), listFile("quirebird"))...)
	require.Zero(t, code)
	assert.Contains(t, out, "COSTS LEAST")
	assert.Contains(t, out, "quirebird costs less than osier-mail")
}

func TestSweepFollowsSharesInParts(t *testing.T) {
	args := []string{"sweep", "-usage", usageExample, "-along", "automated_emails", "-parts", "100", "-to", "200"}
	code, out, errs := call(t, append(args, "-csv", "-currency", "EUR", "-rate", "GBP=1.17", listFile("fernwire"))...)
	require.Zero(t, code, errs)
	lines, err := csv.NewReader(strings.NewReader(out)).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, "0.01", lines[1][0])
	// 6,400 contacts get four letters and these: 35,000 emails are 1.46875 of them.
	assert.Equal(t, "1.47", lines[len(lines)-2][0])
	code, out, _ = call(t, append(args, "-json", listFile("quirebird"))...)
	require.Zero(t, code)
	assert.Contains(t, out, `"parts": 100`)
}

func jsonOf(t *testing.T, v any) string {
	data, err := json.Marshal(v)
	require.NoError(t, err)
	return string(data)
}

func TestSweepSaysWhatItCannotFollow(t *testing.T) {
	for want, args := range map[string][]string{
		"sweep needs a usage file":        {"sweep"},
		"-pay \"never\" is none of":       {"sweep", "-usage", usageExample, "-pay", "never", listFile("quirebird")},
		"-parts 7 is none of":             {"sweep", "-usage", usageExample, "-parts", "7", listFile("quirebird")},
		"-from 9 -to 3":                   {"sweep", "-usage", usageExample, "-from", "9", "-to", "3", listFile("quirebird")},
		"-along":                          {"sweep", "-usage", usageExample, "-along", "emails_sent", listFile("quirebird")},
		"the study has no rate from GBP":  {"sweep", "-usage", usageExample, listFile("quirebird"), listFile("fernwire")},
		"is not of the form GBP=1.17":     {"sweep", "-usage", usageExample, "-rate", "GBP", listFile("fernwire")},
		"-case \"wild\" is none of":       {"project", "-usage", usageExample, "-case", "wild", listFile("quirebird")},
		"-month 0 is not between 1 and 1": {"sweep", "-usage", usageExample, "-month", "0", listFile("quirebird")},
	} {
		code, _, errs := call(t, args...)
		assert.Equal(t, 2, code, "%v", args)
		assert.Contains(t, errs, want)
	}
	code, _, errs := call(t, "sweep", "-usage", usageExample, "-currency", "EUR", "-rate", "GBP=1.17", listFile("quirebird"), listFile("fernwire"))
	assert.Zero(t, code, errs)
}

func TestProjectFollowsACaseAndWritesCSV(t *testing.T) {
	usage := file(t, "usage.json", []byte(`{"format": "nine-coins/usage/1", "start": "2027-01", "drivers": [
		{"driver": "contacts", "now": 6000, "growth": "2%", "low": {"growth": "0%"}, "season": {"apr": "1.5"}}, {"driver": "newsletters", "now": 4, "growth": "0%"}]}`))
	total := map[string]string{}
	for _, c := range []string{"low", "expected"} {
		code, out, errs := call(t, "project", "-usage", usage, "-months", "12", "-case", c, "-csv", listFile("osier-mail"))
		require.Zero(t, code, errs)
		lines, err := csv.NewReader(strings.NewReader(out)).ReadAll()
		require.NoError(t, err)
		require.Len(t, lines, 13)
		total[c] = lines[12][6]
	}
	code, out, errs := call(t, "project", "-usage", usage, "-months", "12", "-json", listFile("osier-mail"))
	require.Zero(t, code, errs)
	assert.Contains(t, out, total["expected"])
	assert.NotEmpty(t, total["low"])
}

func TestOutcomeWritesMonthsAndChance(t *testing.T) {
	code, out, errs := call(t, append([]string{"outcome", "-today", "2026-11-24", "-csv"}, demoFiles(t)...)...)
	require.Zero(t, code, errs)
	assert.Equal(t, 1+5*36, strings.Count(out, "\n"))
	code, out, errs = call(t, append([]string{"outcome", "-today", "2026-11-24", "-spread"}, demoFiles(t)...)...)
	require.Zero(t, code, errs)
	var o struct {
		Spread *struct{ Paths int }
		Road   *struct{ Legs []any }
	}
	require.NoError(t, json.Unmarshal([]byte(out), &o))
	assert.Greater(t, o.Spread.Paths, 100)
	assert.NotEmpty(t, o.Road.Legs)
}
