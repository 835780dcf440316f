package main

import (
	"encoding/json"
	"path/filepath"
	"strings"
	"testing"

	"ninecoins/internal/demo"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// demoFiles writes the demo's study, with something changed, and its lists, and
// returns their names, the study's first.
func demoFiles(t *testing.T, change ...string) []string {
	t.Helper()
	study := strings.NewReplacer(change...).Replace(string(demo.Study()))
	names := []string{file(t, "study.json", []byte(study))}
	for _, data := range demo.PriceLists() {
		names = append(names, file(t, "list.json", data))
	}
	return names
}

// TestTheOutcomeIsAsItsSchemaSays computes the demo whole, thin and at fault, and
// holds each outcome against the published schema.
func TestTheOutcomeIsAsItsSchemaSays(t *testing.T) {
	compiler := jsonschema.NewCompiler()
	compiler.DefaultDraft(jsonschema.Draft2020)
	compiler.AssertFormat()
	schema, err := compiler.Compile(filepath.Join("..", "..", "docs", "formats", "outcome.schema.json"))
	require.NoError(t, err)
	for name, change := range map[string][]string{
		"whole": nil, "a driver at fault": {`"growth": "2%"`, `"growth": "95%"`}, "no rate": {`"currency": "GBP", "rate"`, `"currency": "CHF", "rate"`}, "yearly": {`"pay": "monthly"`, `"pay": "yearly"`},
		"one month": {`"months": 36`, `"months": 1`}, "nothing weighs": {`"weight": "22%"`, `"weight": "0%"`},
	} {
		code, out, errs := call(t, append([]string{"outcome", "-today", "2026-11-24"}, demoFiles(t, change...)...)...)
		require.Zero(t, code, "%s: %s", name, errs)
		value, err := jsonschema.UnmarshalJSON(strings.NewReader(out))
		require.NoError(t, err)
		assert.NoError(t, schema.Validate(value), name)
		if name == "whole" {
			broken := strings.Replace(out, `"order"`, `"rank"`, 1)
			value, err = jsonschema.UnmarshalJSON(strings.NewReader(broken))
			require.NoError(t, err)
			assert.Error(t, schema.Validate(value), "the schema takes not everything")
		}
	}
}

func TestTheOutcomeTellsWhatThePagesTell(t *testing.T) {
	code, out, errs := call(t, append([]string{"outcome", "-today", "2026-11-24"}, demoFiles(t)...)...)
	require.Zero(t, code, errs)
	var o struct {
		Options []struct {
			Key, Total string
			Stale      bool
			Out        []string
			Fit        float64
			Schedule   []struct{ Plan, Running string }
		}
		Order    []string
		Cheapest string
		Pick     struct{ First, Next, Dearer string }
		Faults   []any
	}
	require.NoError(t, json.Unmarshal([]byte(out), &o))
	assert.Equal(t, []string{"brindlepost", "fernwire", "osier-mail", "quirebird", "tallowpost"}, o.Order)
	assert.Equal(t, "quirebird", o.Cheapest)
	assert.Equal(t, "brindlepost", o.Pick.First)
	assert.Equal(t, "7036", o.Options[0].Total)
	assert.Equal(t, o.Options[0].Total, o.Options[0].Schedule[35].Running)
	assert.InDelta(t, 6.898, o.Options[0].Fit, 0.001)
	assert.Equal(t, []string{"no trade-buyer lists"}, o.Options[4].Out)
	assert.True(t, o.Options[3].Stale)
	assert.Empty(t, o.Faults)

	code, out, _ = call(t, append([]string{"outcome"}, demoFiles(t, `"growth": "2%"`, `"growth": "95%"`)...)...)
	require.Zero(t, code)
	assert.Contains(t, out, `"at": "drivers.contacts.growth"`)
	assert.Contains(t, out, `"total": null`)
}

func TestAnOutcomeNeedsItsFiles(t *testing.T) {
	files := demoFiles(t)
	for want, args := range map[string][]string{
		"outcome needs a study":         {"outcome"},
		"there is no edition of platf":  {"outcome", files[0]},
		"is not a day such as":          {"outcome", "-today", "soon", files[0]},
		"no such file":                  {"outcome", "nowhere.json"},
		"study.json: format: expected ": {"outcome", files[0], files[0]},
	} {
		code, _, errs := call(t, args...)
		assert.Equal(t, 2, code, want)
		assert.Contains(t, strings.ReplaceAll(errs, "format: study.json: ", "study.json: format: "), want)
	}
}
