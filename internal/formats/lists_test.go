package formats_test

import (
	"encoding/json"
	"os"
	"strings"
	"testing"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/demo"
	"ninecoins/internal/formats"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var listFields = pricelist.Fields(pricelist.Rules{Latest: day})

// schemaOf compiles a published schema.
func schemaOf(t *testing.T, name string) func(data []byte) error {
	t.Helper()
	compiler := jsonschema.NewCompiler()
	compiler.DefaultDraft(jsonschema.Draft2020)
	compiler.AssertFormat()
	schema, err := compiler.Compile("../../docs/formats/" + name)
	require.NoError(t, err)
	return func(data []byte) error {
		value, err := jsonschema.UnmarshalJSON(strings.NewReader(string(data)))
		require.NoError(t, err)
		return schema.Validate(value)
	}
}

// every is a list in which every field of every kind of charge is told.
const every = `{"format": "nine-coins/price-list/1", "observed_on": "2026-10-02", "source": "by hand", "currency": "GBP",
	"platform": {"key": "sedge", "name": "Sedge", "does": ["email", "crm"]}, "tax": {"included": true, "rate": "20%"},
	"meters": [{"key": "contacts", "unit": "contact", "kind": "stock", "counts": "contacts * 2", "fractions": true}, {"key": "sends", "unit": "email", "kind": "flow", "counts": "emails_sent"}],
	"plans": [
		{"key": "low", "name": "Low", "offered": "public", "terms": [{"key": "m", "months": 1, "paid": "monthly"}, {"key": "y", "months": 12, "off": "15%"}, {"key": "life", "months": "lifetime"}],
			"charges": [{"key": "f", "kind": "flat", "label": "Base", "price": "9", "y": "8.5"}, {"key": "u", "kind": "unit", "meter": "contacts", "included": "2", "at_least": "3", "each": 1000, "price": "4", "optional": true},
				{"key": "p", "kind": "pack", "meter": "sends", "included": "100", "size": "50", "price": "1.25"},
				{"key": "s", "kind": "stair", "meter": "contacts", "bands": [{"to": "1000", "price": "12", "y": "11"}, {"price": "20"}]},
				{"key": "g", "kind": "graduated", "meter": "sends", "each": 1000, "bands": [{"to": "5000", "price": "1", "life": "40"}, {"price": "0.5"}]},
				{"key": "v", "kind": "volume", "meter": "sends", "bands": [{"to": "5000", "price": "0.01"}], "above": {"each": 100, "price": "4"}},
				{"key": "a", "kind": "share", "meter": "contacts", "rate": "2.5%", "y": "2%", "floor": "10", "cap": "90"},
				{"key": "o", "kind": "once", "price": "170", "y": "100", "waived_on": ["life"]}, {"key": "h", "kind": "once", "meter": "contacts", "rate": "1%"}],
			"limits": [{"meter": "sends", "most": {"times": "12", "meter": "contacts"}, "beyond": "buy a pack"}, {"meter": "contacts", "most": "unlimited", "note": "fair use"}],
			"features": {"automation/triggers": {"has": "yes", "depth": 2, "note": "n"}, "growth/referrals": {"has": "add-on", "add_on": "ref"}, "links/till": {"has": "bridge", "uses": {"driver": "emails_sent", "amount": "contacts * 2"}}}},
		{"key": "high", "name": "High", "offered": "on request", "includes": "low", "terms": [{"key": "m", "months": 1}],
			"charges": [{"key": "s", "kind": "stair", "meter": "contacts", "bands": [{"to": "5000", "price": "30"}], "above": {"each": 1000, "price": "4", "m": "5"}}], "limits": [{"meter": "sends", "most": "500"}]}],
	"add_ons": [{"key": "ref", "name": "Referrals", "plans": ["low"], "charges": [{"key": "f", "kind": "flat", "price": "5", "y": "4"}], "gives": ["growth/referrals"]},
		{"key": "room", "name": "Room", "plans": ["low"], "included_on": ["high"], "charges": [{"key": "f", "kind": "unit", "meter": "sends", "price": "5"}], "raises": [{"meter": "sends", "by": "500"}, {"meter": "contacts", "by": "unlimited"}]}],
	"offers": [{"key": "half", "plans": ["low"], "terms": ["y"], "kind": "percent", "value": "50%", "months": 3, "new_customers": true, "until": "2027-01-31"}, {"key": "free", "plans": ["low"], "kind": "free months", "months": 2, "together": true}, {"key": "flat", "name": "First spring", "plans": ["low"], "kind": "fixed price", "price": "1", "months": 2}],
	"trial": {"days": 14, "refund_days": 30, "card_needed": true}}`

// TestAPriceListIsWrittenAsItWasRead writes the demo's lists, and one that tells
// all there is, and reads them back equal; the published schema takes both.
func TestAPriceListIsWrittenAsItWasRead(t *testing.T) {
	judge := schemaOf(t, "price-list.schema.json")
	for _, data := range append(demo.PriceLists(), []byte(every)) {
		require.NoError(t, judge(data))
		read := func(text []byte) pricelist.Edition {
			var faults document.Gathering
			root, err := document.Parse(t.Context(), text, document.Bounds{Bytes: 1 << 20, Values: 100_000}, &faults)
			require.NoError(t, err)
			e := listFields.Read(t.Context(), root, "", &faults)
			require.NoError(t, faults.Err())
			return e
		}
		first := read(data)
		out := listFields.Write(first)
		require.NoError(t, judge(out))
		second := read(out)
		assert.Equal(t, string(out), string(listFields.Write(second)), "letter by letter")
		whole, err := formats.ReadPriceList(t.Context(), data, day)
		require.NoError(t, err)
		again, err := formats.ReadPriceList(t.Context(), out, day)
		require.NoError(t, err)
		assert.Equal(t, whole.Plans, again.Plans)
		assert.Equal(t, whole.Offers, again.Offers)
	}
	var asWritten any
	require.NoError(t, json.Unmarshal([]byte(every), &asWritten))
	for from, to := range map[string]string{`"kind": "flat", "label"`: `"kind": "slab", "label"`, `"months": 12`: `"months": 99`, `"has": "yes"`: `"has": "maybe"`, `"price": "1.25"`: `"price": [1]`, `"times": "12", `: ``, `"size": "50", `: ``, `"months": "lifetime"`: `"months": "forever"`, `"y": "2%"`: `"y": "2,5%"`, `"by": "500"`: `"by": "some"`, `"kind": "fixed price", "price": "1"`: `"kind": "fixed price"`} {
		broken := strings.Replace(every, from, to, 1)
		require.NotEqual(t, every, broken)
		assert.Error(t, judge([]byte(broken)), to)
		_, err := formats.ReadPriceList(t.Context(), []byte(broken), day)
		assert.Error(t, err, to)
	}
}

// TestPartsOfAListAreAddressed edits fields of a list where they stand, in bands
// and by features: drafts of lists will be edited so.
func TestPartsOfAListAreAddressed(t *testing.T) {
	var faults document.Gathering
	root, err := document.Parse(t.Context(), []byte(every), document.Bounds{Bytes: 1 << 20, Values: 100_000}, &faults)
	require.NoError(t, err)
	e := listFields.Read(t.Context(), root, "", &faults)
	before := string(listFields.Write(e))
	for path, want := range map[document.Path]string{
		"plans.low.charges.s.bands.1000.price": "12", "plans.low.charges.u.each": "1000", "plans.low.features.automation/triggers.depth": "2", "tax.rate": "20%", "platform.name": "Sedge",
		"plans.high.charges.s.above.price": "4", "plans.low.terms.y.off": "15%", "offers.half.until": "2027-01-31", "meters.contacts.counts": "contacts * 2",
	} {
		spot, there := listFields.Spot(e, path)
		require.True(t, there, path)
		assert.Equal(t, want, spot.Text, path)
		to := map[string]string{"2": "3", "Sedge": "Sedge Mail", "2027-01-31": "2027-02-01", "contacts * 2": "contacts * 3", "20%": "21%", "15%": "10%"}[want]
		if to == "" {
			to = "7"
		}
		edited, made, err := listFields.Apply(e, document.Change{{Do: document.Set, Path: path, Was: want, To: to}})
		require.NoError(t, err, path)
		assert.NotEqual(t, before, string(listFields.Write(edited)), path)
		back, _, err := listFields.Apply(edited, made.Inverse())
		require.NoError(t, err, path)
		assert.Equal(t, before, string(listFields.Write(back)), path)
	}
}

// TestTheSchemaOfWorkspacesTakesWhatIsWritten holds a workspace with a history
// against the published schema.
func TestTheSchemaOfWorkspacesTakesWhatIsWritten(t *testing.T) {
	data, err := os.ReadFile("../store/testdata/workspace-1.json")
	require.NoError(t, err)
	w, err := formats.ReadWorkspace(t.Context(), data, day.AddDate(1, 0, 0))
	require.NoError(t, err)
	out, err := formats.WriteWorkspace(w)
	require.NoError(t, err)
	judge := schemaOf(t, "workspace.schema.json")
	assert.NoError(t, judge(out))
	assert.Error(t, judge([]byte(strings.Replace(string(out), `"do": "set"`, `"do": "sit"`, 1))))
	again, err := formats.ReadWorkspace(t.Context(), out, day.AddDate(1, 0, 0))
	require.NoError(t, err)
	for i := range w.Studies {
		fields := study.Fields(study.Sources{})
		assert.Equal(t, string(fields.Write(*w.Studies[i].Study.Named())), string(fields.Write(*again.Studies[i].Study.Named())))
		assert.Equal(t, w.Studies[i].History, again.Studies[i].History)
	}
}
