package formats_test

import (
	"bytes"
	"encoding/json"
	"os"
	"strings"
	"testing"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/demo"
	"ninecoins/internal/formats"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const published = "../../docs/formats/study.schema.json"

// TestThePublishedSchemasAreThoseOfTheTables compares them; with
// NINECOINS_WRITE=1 it writes the published ones anew.
func TestThePublishedSchemasAreThoseOfTheTables(t *testing.T) {
	for file, schema := range map[string][]byte{published: study.Fields(study.Sources{}).Schema(), "../../docs/formats/usage.schema.json": study.UsageFields.Schema(),
		"../../docs/formats/price-list.schema.json": pricelist.Fields(pricelist.Rules{}).Schema(), "../../docs/formats/workspace.schema.json": formats.WorkspaceSchema()} {
		if os.Getenv("NINECOINS_WRITE") != "" {
			require.NoError(t, os.WriteFile(file, schema, 0o644))
		}
		there, err := os.ReadFile(file)
		require.NoError(t, err)
		assert.Equal(t, string(schema), string(there), "write it anew with: NINECOINS_WRITE=1 go test -run PublishedSchemas ./internal/formats")
	}
}

func TestTheSchemaOfUsageTakesTheExample(t *testing.T) {
	schema, err := jsonschema.NewCompiler().Compile("../../docs/formats/usage.schema.json")
	require.NoError(t, err)
	data, err := os.ReadFile("../../docs/examples/usage.json")
	require.NoError(t, err)
	for text, taken := range map[string]bool{string(data): true, strings.Replace(string(data), `"now"`, `"then"`, 1): false} {
		value, err := jsonschema.UnmarshalJSON(strings.NewReader(text))
		require.NoError(t, err)
		assert.Equal(t, taken, schema.Validate(value) == nil)
		_, err = formats.ReadUsage(t.Context(), []byte(text), day)
		assert.Equal(t, taken, err == nil)
	}
}

// TestTheSchemaTakesWhatIsTakenAndRefusesWhatIsNot holds the published schema
// against the demo's study, what is written of it, and the faults of shape.
func TestTheSchemaTakesWhatIsTakenAndRefusesWhatIsNot(t *testing.T) {
	compiler := jsonschema.NewCompiler()
	compiler.DefaultDraft(jsonschema.Draft2020)
	compiler.AssertFormat()
	schema, err := compiler.Compile(published)
	require.NoError(t, err)
	judge := func(data []byte) error {
		value, err := jsonschema.UnmarshalJSON(bytes.NewReader(data))
		require.NoError(t, err)
		return schema.Validate(value)
	}
	require.NoError(t, judge(demo.Study()))
	find := editionsOfTheDemo(t)
	s, err := formats.ReadStudy(t.Context(), demo.Study(), day, find)
	require.NoError(t, err)
	out, err := formats.WriteStudy(s)
	require.NoError(t, err)
	require.NoError(t, judge(out))
	again, err := formats.ReadStudy(t.Context(), out, day, find)
	require.NoError(t, err)
	assert.Equal(t, s, again)
	for _, row := range [][2]string{
		{`"months": 36`, `"months": 999`}, {`"months": 36`, `"months": "36"`}, {`"months": 36`, `"months": 1.5`}, {`"value": "8.5"`, `"value": "8.25"`}, {`"value": "8.5"`, `"value": 8.25`},
		{`"face": 1`, `"face": 25`}, {`"face": 1`, `"colour": 1`}, {`"level": "want"`, `"level": "wish"`}, {`"now": 6400`, `"now": "6,400"`}, {`"now": 6400`, `"now": -1`}, {`"growth": "2%"`, `"growth": "2,5%"`},
		{`"key": "spring-list"`, `"key": "Spring list"`}, {`"currency": "EUR"`, `"currency": "Euro"`}, {`"observed_on": "2026-10-02"`, `"observed_on": "2026-13-02"`}, {`"worst": "10000.00"`, `"wurst": "10000.00"`},
		{`"source": "rated"`, `"source": "rated", "best": "1"`}, {`"title": "Spring list"`, `"title": "` + strings.Repeat("x", 121) + `"`}, {`"format": "nine-coins/study/1"`, `"format": "nine-coins/study/9"`}, {`"start": "2027-01"`, `"start": "January"`},
	} {
		changed := []byte(strings.Replace(string(demo.Study()), row[0], row[1], 1))
		require.NotEqual(t, demo.Study(), changed, row[0])
		assert.Error(t, judge(changed), row[1])
		_, err := formats.ReadStudy(t.Context(), changed, day, find)
		assert.Error(t, err, "and so does the reader: %s", row[1])
	}
	assert.True(t, json.Valid(out))
}
