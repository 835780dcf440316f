package formats_test

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/demo"
	"ninecoins/internal/formats"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var day = time.Date(2026, 11, 24, 0, 0, 0, 0, time.UTC)

const smallList = `{
  "format": "nine-coins/price-list/1",
  "platform": {"key": "madder", "name": "Madder", "does": ["email"]},
  "observed_on": "2026-10-02",
  "source": "price page",
  "currency": "EUR",
  "tax": {"included": false},
  "meters": [{"key": "contacts", "unit": "contact", "kind": "stock", "counts": "contacts"}],
  "plans": [
    {"key": "root", "name": "Root", "offered": "public",
     "terms": [{"key": "monthly", "months": 1}, {"key": "yearly", "months": 12, "off": "15%"}],
     "charges": [
       {"key": "base", "kind": "stair", "meter": "contacts",
        "bands": [{"to": 1000, "price": "12.00", "yearly": "10.00"}, {"to": 5000, "price": 39.00}], "above": {"price": "4", "each": 1000}}
     ],
     "limits": [{"meter": "contacts", "most": 9000, "beyond": "move up"}],
     "features": {"letters/subject-tests": {"has": "yes", "depth": 2}}}
  ]
}`

func faultsOf(t *testing.T, err error) formats.Faults {
	t.Helper()
	var faults formats.Faults
	require.True(t, errors.As(err, &faults), "%v", err)
	require.NotEmpty(t, faults)
	return faults
}

func TestAPriceListIsReadWhole(t *testing.T) {
	e, err := formats.ReadPriceList(t.Context(), []byte(smallList), day)
	require.NoError(t, err)
	assert.Equal(t, "Madder", e.Platform.Name)
	assert.Equal(t, "2026-10-02", e.ObservedOn.Format(time.DateOnly))
	plan := e.Plans[0]
	assert.Equal(t, pricelist.Upfront, plan.Terms[1].Paid, "up front unless stated")
	bands := plan.Charges[0].Bands
	assert.Equal(t, usage.Of(1000), bands[0].To)
	own, off := bands[0].Price.For(plan.Terms[1])
	assert.Equal(t, "10", own.String())
	assert.Zero(t, off)
	usual, off := bands[1].Price.For(plan.Terms[1])
	assert.Equal(t, "39", usual.String())
	assert.Equal(t, "15%", off.String())
	assert.Equal(t, int64(1000), plan.Charges[0].Above.Each)
	assert.Equal(t, pricelist.Yes, plan.Feature("letters/subject-tests").Has)
	assert.Equal(t, pricelist.Unknown, plan.Feature("nobody/said").Has)
}

// TestEachFaultIsNamedWithItsLineAndField replaces one piece of a sound list
// and looks for the fault.
func TestEachFaultIsNamedWithItsLineAndField(t *testing.T) {
	for _, row := range []struct{ old, new, want string }{
		{`price-list/1`, `price-list/2`, `line 2, format: expected one of nine-coins/price-list/1`},
		{`"EUR"`, `"EURO"`, `line 6, currency: expected an ISO 4217 code such as "EUR", found "EURO"`},
		{`"2026-10-02"`, `"02.10.2026"`, `line 4, observed_on: expected a day such as`},
		{`"source": "price page",`, ``, `source: is missing`},
		{`"source": "price page"`, `"source": "  "`, `source: is empty`},
		{`"source": "price page"`, `"source": "a\u0000b"`, `control characters`},
		{`["email"]`, `["email", 5]`, `platform.does[1]: expected text, found "5"`},
		{`"key": "madder"`, `"key": "Mad der"`, `platform.key: expected a key of small letters`},
		{`"counts": "contacts"`, `"counts": "pigeons"`, `line 8, meters[0].counts: there is no driver "pigeons"`},
		{`"counts": "contacts"`, `"counts": "contacts +"`, `meters[0].counts: formula "contacts +", column`},
		{`"kind": "stock"`, `"kind": "pile"`, `meters[0].kind: expected one of stock, flow, found "pile"`},
		{`"price": "12.00"`, `"price": "12,00"`, `line 14, plans[0].charges[0].bands[0].price: expected an amount`},
		{`"price": "12.00"`, `"price": "-12.00"`, `expected an amount such as "12.00", from 0 to`},
		{`"price": "12.00"`, `"price": true`, `from 0 to 1,000,000,000, found "true"`},
		{`"price": "12.00"`, `"price": "99999999999999999999"`, `from 0 to 1,000,000,000, found "99999999999999999999"`},
		{`"to": 5000`, `"to": 900`, `line 14, plans[0].charges[0].bands[1].to: band 2 ends at 900, not above band 1, which ends at 1,000`},
		{`{"to": 1000, `, `{`, `only the last band may be without an end`},
		{`{"to": 5000, `, `{`, `the last band has no end, so nothing lies above it`},
		{`"yearly": "10.00"`, `"weekly": "10.00"`, `plans[0].charges[0].bands[0].weekly: is neither a field of a charge nor a term`},
		{`"plans": [`, `"offers": [{"key": "o", "plans": ["root"], "kind": "free months", "months": null}], "plans": [`, `offers[0].months: is missing; expected how many months are free`},
		{`{"to": 1000, `, `{"to": null, `, `only the last band may be without an end`},
		{`"plans": [`, `"add_ons": [{"key": "x", "name": "X", "plans": ["root"], "charges": [{"key": "f", "kind": "flat", "price": "5", "inclded": "2"}]}], "plans": [`, `add_ons[0].charges[0].inclded: is neither a field of a charge nor a term it is sold on`},
		{`"kind": "stair"`, `"kind": "once"`, `line 14, plans[0].charges[0].bands: is not a field here`},
		{`"kind": "stair"`, `"kind": "stairs"`, `expected one of flat, unit, stair`},
		{`"meter": "contacts",` + "\n", `"meter": "sends",` + "\n", `plans[0].charges[0].meter: there is no meter "sends"`},
		{`"months": 12`, `"months": 0`, `plans[0].terms[1].months: expected a whole number from 1 to 60, or "lifetime", found "0"`},
		{`"months": 12`, `"months": 1.5`, `found "1.5"`},
		{`"key": "yearly", "months"`, `"key": "price", "months"`, `"price" is the name of a field`},
		{`"key": "yearly", "months"`, `"key": "monthly", "months"`, `plans[0].terms[1]: term "monthly" stands twice`},
		{`"off": "15%"`, `"off": "150%"`, `expected a share from 0% to 100%`},
		{`"offered": "public"`, `"offered": "public", "includes": "stem"`, `plans[0].includes: plan "stem" must stand before`},
		{`"offered": "public"`, `"offered": "public", "colour": "red"`, `plans[0].colour: is not a field here`},
		{`"name": "Root"`, `"name": "Root", "name": "Toor"`, `plans[0].name: this field stands twice`},
		{`"most": 9000`, `"most": {"times": 2, "meter": "sends"}`, `plans[0].limits[0].most.meter: there is no meter "sends"`},
		{`"move up"`, `"buy a pack"`, `plans[0].limits[0].beyond: plan "root" sells no pack on meter "contacts"`},
		{`"has": "yes"`, `"has": "add-on", "add_on": "x"`, `plans[0].features.letters/subject-tests.add_on: there is no add-on "x"`},
		{`"letters/subject-tests"`, `"subject tests"`, `expected a feature such as`},
		{`"depth": 2`, `"depth": 4`, `depth: expected a whole number from 1 to 3`},
		{`"above": {"price": "4", "each": 1000}`, `"above": "ask us"`, `plans[0].charges[0].above: expected "on request" or a rate`},
		{`"plans": [`, `"offers": [{"key": "o", "plans": ["x"], "kind": "percent", "value": "5"}], "plans": [`, `offers[0].plans[0]: there is no plan "x"`},
		{`"plans": [`, `"offers": [{"key": "o", "plans": ["root"], "kind": "fixed", "value": "5"}], "plans": [`, `offers[0].kind: expected one of percent, fixed price, free months, found "fixed"`},
		{`"plans": [`, `"plans": {}, "x": [`, `plans: expected a list, found an object`},
		{`{"to": 1000,`, `{"to": "1,000",`, `line 14, plans[0].charges[0].bands[0].to: expected a number from 0 to 1,000,000,000,000, found "1,000"`},
		{`{"to": 1000,`, `{"to": "0,6",`, `bands[0].to: expected a number`},
		{`"most": 9000`, `"most": "9,000"`, `plans[0].limits[0].most: expected a number`},
		{`"price": "4"`, `"price": "4,5"`, `above.price: expected an amount such as "12.00"`},
		{`"off": "15%"`, `"off": "1,5%"`, `expected a share from 0%`},
		{`"2026-10-02"`, `"2026-11-26"`, `line 4, observed_on: 2026-11-26 is in the future`},
		{`"counts": "contacts"`, `"counts": "contacts // 2"`, `line 8, meters[0].counts: formula "contacts // 2", column 10: "//" begins a comment`},
		{`"counts": "contacts"`, `"counts": "contacts | min(3)"`, `column 10: '|' is not arithmetic`},
		{`"counts": "contacts"`, `"counts": "contacts/0"`, `column 9: can never be worked out: divides by zero`},
		{`"name": "Root"`, `"name": "Spr` + "\xef" + `ng"`, `line 10, plans[0].name: holds a character that was lost`},
		{`"name": "Root"`, `"name": "Spr\ud800ng"`, `line 10, plans[0].name: holds a character that was lost`},
		{`"name": "Root"`, `"name": "Spr\u0000ng"`, `line 10, plans[0].name: holds a NUL character`},
		{`"name": "Root"`, `"na` + "\xff" + `me": "Root"`, `plans[0].na` + "\ufffd" + `me: holds a character that was lost`},
		{`"source": "price page"`, `"source": "price` + "\xc3" + `"`, `line 5, source: holds a character that was lost`},
		{`"name": "Madder"`, `"name": "Mad\u200bder"`, `platform.name: holds a character that is not seen (U+200B)`},
		{`"source": "price page"`, `"source": "price \u202epage"`, `source: holds a character that is not seen (U+202E)`},
		{`["email"]`, `["email", "crm", "email"]`, `platform.does[2]: "email" stands twice`},
		{`"price": "12.00"`, `"price": null`, `bands[0].price: is missing`},
		{`"key": "contacts", "unit"`, `"key": "contacts", "unit": "x", "kind": "stock", "counts": "seats"}, {"key": "contacts", "unit"`, `meters[1]: meter "contacts" stands twice`},
	} {
		require.Contains(t, smallList, row.old)
		_, err := formats.ReadPriceList(t.Context(), []byte(strings.Replace(smallList, row.old, row.new, 1)), day)
		require.Error(t, err, row.new)
		faultsOf(t, err)
		assert.Contains(t, err.Error(), row.want)
	}
}

func TestAllFaultsAreListedAtOnce(t *testing.T) {
	broken := strings.NewReplacer(`"EUR"`, `"EURO"`, `"12.00"`, `"dear"`, `"months": 12`, `"months": "long"`).Replace(smallList)
	_, err := formats.ReadPriceList(t.Context(), []byte(broken), day)
	assert.Len(t, faultsOf(t, err), 3)
}

func TestWhatIsNoJSONIsSaidPlainly(t *testing.T) {
	for in, want := range map[string]string{
		"":                       "line 1: not valid JSON: the file ends too early",
		"{\n\"format\": \n":      "not valid JSON: the file ends too early",
		"{\n\n\"a\": nope}":      "line 3: not valid JSON: “o” does not fit there. Look just before it",
		"{\"a\": 1,}":            "not valid JSON: “}” does not fit there",
		"{\"a\": 1 \"b\": 2}":    "not valid JSON: “\"” does not fit there",
		"{} {}":                  "something follows",
		"[1]":                    "expected an object, found a list",
		strings.Repeat("[", 100): "nested more than 20 deep",
	} {
		_, err := formats.ReadPriceList(t.Context(), []byte(in), day)
		faultsOf(t, err)
		assert.Contains(t, err.Error(), want, in)
	}
	_, err := formats.ReadPriceList(t.Context(), make([]byte, 10<<20), day)
	assert.ErrorContains(t, err, "the file has 10.0 MB; at most 5 MB are read")
}

func TestUsageFiles(t *testing.T) {
	u, err := formats.ReadUsage(t.Context(), []byte(`{"format": "nine-coins/usage/1", "start": "2027-01", "drivers": [{"driver": "contacts", "now": 6400, "growth": "2%"}],
		"own_drivers": [{"key": "per_seat", "name": "Per seat", "unit": "contact", "kind": "stock", "formula": "contacts / 2"}]}`), day)
	require.NoError(t, err)
	assert.Equal(t, "Jan 2027", u.Start.String())
	values, err := u.Model.At(0)
	require.NoError(t, err)
	assert.Equal(t, 3200.0, values["per_seat"])
	for in, want := range map[string]string{
		`[{"driver": "pigeons", "now": 1}]`:                                    `driver "pigeons" is unknown`,
		`[{"driver": "contacts", "now": -1}]`:                                  "expected a number from 0",
		`[{"driver": "contacts", "now": "many"}]`:                              `found "many"`,
		`[{"driver": "contacts", "now": 1, "growth": "300%"}]`:                 "expected a share from -50% to 100%",
		`[{"driver": "emails_sent", "now": 1}]`:                                "is derived",
		`[{"driver": "contacts", "now": 1}, {"driver": "contacts", "now": 2}]`: `drivers[1]: driver "contacts" stands twice; keep one`,
		`"none"`: "expected a list",
	} {
		_, err := formats.ReadUsage(t.Context(), []byte(fmt.Sprintf(`{"format": "nine-coins/usage/1", "start": "2027-01", "drivers": %s}`, in)), day)
		faultsOf(t, err)
		assert.Contains(t, err.Error(), want, in)
	}
	_, err = formats.ReadUsage(t.Context(), []byte(`{"format": "nine-coins/usage/1", "start": "soon", "drivers": []}`), day)
	assert.ErrorContains(t, err, `start: expected a month such as 2027-01 or Jan 2027, found "soon"`)
}

// editionsOfTheDemo finds the demo's price lists by their platform.
func editionsOfTheDemo(t *testing.T) formats.FindEdition {
	t.Helper()
	editions := map[string]*pricelist.Edition{}
	for _, data := range demo.PriceLists() {
		e, err := formats.ReadPriceList(t.Context(), data, day)
		require.NoError(t, err)
		editions[e.Platform.Key] = e
	}
	return func(key string, _ time.Time) (*pricelist.Edition, bool) { e, ok := editions[key]; return e, ok }
}

func TestStudiesAreCheckedWhole(t *testing.T) {
	find := editionsOfTheDemo(t)
	sound := string(demo.Study())
	s, err := formats.ReadStudy(t.Context(), []byte(sound), day, find)
	require.NoError(t, err)
	assert.Len(t, s.Options, 5)
	for _, row := range []struct{ old, new, want string }{
		{`"platform": "fernwire"`, `"platform": "heron"`, `there is no edition of platform "heron" read on 2026-11-12`},
		{`"months": 36`, `"months": 999`, "months: expected a whole number from 1 to 120"},
		{`"value": "8.5"`, `"value": "8.25"`, "ratings[0].value: expected a rating that is a number from 0 to 9 in halves, such as 6.5, found \"8.25\""},
		{`"option": "quirebird", "criterion": "look"`, `"option": "heron", "criterion": "look"`, `there is no option "heron"`},
		{`"option": "quirebird", "criterion": "look"`, `"option": "quirebird", "criterion": "smell"`, `there is no criterion "smell"`},
		{`"option": "quirebird", "criterion": "look"`, `"option": "quirebird", "criterion": "help"`, `ratings[19]: rating "Imke Vroom/quirebird/help" stands twice; keep one`},
		{`"key": "osier-mail", "platform"`, `"key": "brindlepost", "platform"`, `option "brindlepost" stands twice`},
		{`"face": 1`, `"face": 25`, "face: expected a whole number from 1 to 24"},
		{`"level": "want"`, `"level": "wish"`, "expected one of must, want, bonus"},
		{`"rate": "1.17"`, `"rate": "0"`, "expected a rate above 0"},
		{`"rates": [`, `"rates": [{"currency": "GBP", "rate": "1.18", "on": "2026-11-20"}, `, `rates[1]: rate "GBP" stands twice; keep one`},
		{`"on": "2026-11-20"`, `"on": "2026-11-30"`, "rates[0].on: 2026-11-30 is in the future"},
		{`"needs": [`, `"needs": [{"feature": "automation/event-triggers", "name": "x", "level": "bonus"}, `, `needs[1]: need "automation/event-triggers" stands twice; keep one`},
		{`"drivers": [`, `"own_drivers": [{"key": "trays", "name": "Trays", "unit": "tray", "kind": "stock"}, {"key": "trays", "name": "Trays", "unit": "tray", "kind": "stock"}], "drivers": [`, `own_drivers[1]: driver "trays" stands twice; keep one`},
		{`"drivers": [`, `"drivers": [{"driver": "contacts", "now": 5}, `, `drivers[1]: driver "contacts" stands twice; keep one`},
		{`"now": 6400`, `"now": "6,400"`, "expected a number from 0"},
		{`"rater": "Imke Vroom"`, `"rater": "Im\u043ae Vroom"`, "one word of it has letters of"},
		{`"rater": "Imke Vroom"`, `"rater": "imke vroom"`, `"Imke Vroom" looks like "imke vroom", who rates too`},
	} {
		require.Contains(t, sound, row.old)
		_, err := formats.ReadStudy(t.Context(), []byte(strings.Replace(sound, row.old, row.new, 1)), day, find)
		faultsOf(t, err)
		assert.Contains(t, err.Error(), row.want)
	}
}

// TestWhatStandsTwiceInAWorkspaceIsRefused doubles a platform, a study and a
// person; a study in the bin may share its key with one that is there.
func TestWhatStandsTwiceInAWorkspaceIsRefused(t *testing.T) {
	version := 0
	file := func(people, platforms string, binned ...bool) string {
		version++
		var studies []string
		for _, in := range binned {
			bin := ""
			if in {
				bin = `"binned_at": "2026-11-01T00:00:00Z", `
			}
			studies = append(studies, `{`+bin+`"updated_at": "2026-11-01T00:00:00Z", "history": [], "study": {"format": "nine-coins/study/1", "key": "bare", "title": "Bare", "currency": "EUR", "start": "2027-01", "months": 1, "pay": "monthly", "patience_days": 90, "drivers": [], "options": []}}`)
		}
		return fmt.Sprintf(`{"format": "nine-coins/workspace/%d", "name": "Madder", "people": [%s], "platforms": [%s], "studies": [%s], "history": []}`, 1+version%2, people, platforms, strings.Join(studies, ", "))
	}
	for _, sound := range []string{file(`"Imke Vroom", "Dov Amsel"`, `{"key": "a", "editions": []}, {"key": "b", "editions": []}`, false, true, true), "\ufeff" + file("", "")} {
		_, err := formats.ReadWorkspace(t.Context(), []byte(sound), day)
		assert.NoError(t, err)
	}
	for want, broken := range map[string]string{
		`people[1]: "Imke Vroom" stands twice`:                        file(`"Imke Vroom", "Imke Vroom"`, ""),
		`people[1]: "imke vroom" looks like "Imke Vroom"`:             file(`"Imke Vroom", "imke vroom"`, ""),
		`people[0]: "Im\u200bke" is no name: it holds a character`:    file(`"Im\u200bke"`, ""),
		`platforms[1]: platform "a" stands twice`:                     file("", `{"key": "a", "editions": []}, {"key": "a", "editions": []}`),
		`studies[1]: study "bare" stands twice`:                       file("", "", false, false),
		`studies[0].updated_at: 2027-11-01T00:00:00Z is in the futu`:  strings.Replace(file("", "", false), "2026-11-01", "2027-11-01", 1),
		`studies[0].binned_at: 2027-11-01T00:00:00Z is in the future`: strings.Replace(file("", "", true), "2026-11-01", "2027-11-01", 1),
	} {
		_, err := formats.ReadWorkspace(t.Context(), []byte(broken), day)
		faultsOf(t, err)
		assert.ErrorContains(t, err, want)
	}
}

// A list that was taken under wider rules goes on being read as it was.
func TestKeptListsAreReadAsTheyWere(t *testing.T) {
	kept := strings.NewReplacer(`"to": 1000`, `"to": "1,000"`, `"2026-10-02"`, `"2029-10-02"`, `"counts": "contacts"`, `"counts": "contacts // 2"`, `"name": "Root"`, `"name": "Ro\u200bot"`, `["email"]`, `["email", "email"]`).Replace(smallList)
	_, err := formats.ReadPriceList(t.Context(), []byte(kept), day)
	assert.Len(t, faultsOf(t, err), 5)
	e, err := formats.KeptPriceList(t.Context(), []byte(kept))
	require.NoError(t, err)
	assert.Equal(t, usage.Of(1000), e.Plans[0].Charges[0].Bands[0].To)
	value, err := e.Meters[0].Counts.Value(map[string]float64{"contacts": 7})
	require.NoError(t, err)
	assert.Equal(t, 7.0, value)
}

// TestDamagedFilesAreReadOrRefusedInWords cuts, doubles and overwrites pieces
// of sound lists at random.
func TestDamagedFilesAreReadOrRefusedInWords(t *testing.T) {
	random := rand.New(rand.NewPCG(4, 2))
	lists := append(demo.PriceLists(), []byte(smallList))
	refused := 0
	for range 4000 {
		b := slices.Clone(lists[random.IntN(len(lists))])
		for range 1 + random.IntN(4) {
			i := random.IntN(len(b) - 30)
			switch random.IntN(3) {
			case 0:
				b[i] = byte(random.IntN(256))
			case 1:
				b = slices.Delete(b, i, i+random.IntN(30))
			case 2:
				b = slices.Insert(b, random.IntN(len(b)), slices.Clone(b[i:i+20])...)
			}
		}
		e, err := formats.ReadPriceList(t.Context(), b, day)
		if err == nil {
			require.NotEmpty(t, e.Plans)
			continue
		}
		refused++
		for _, fault := range faultsOf(t, err) {
			require.Positive(t, fault.Line)
			require.NotEmpty(t, fault.Problem)
		}
	}
	assert.Greater(t, refused, 1000)
}
