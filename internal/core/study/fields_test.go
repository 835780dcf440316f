package study_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const whole = `{"format": "nine-coins/study/1", "key": "spring", "title": "Spring", "company": "Marl & Thistle", "question": "Where <now>?",
	"currency": "EUR", "start": "2027-01", "months": 36, "pay": "monthly", "budget": "9000.5", "patience_days": 90,
	"rates": [{"currency": "GBP", "rate": "1.17", "on": "2026-11-20"}, {"currency": "USD", "rate": "0.92", "on": "2026-11-21"}],
	"drivers": [{"driver": "contacts", "now": "6400", "growth": "2%"}, {"driver": "seats", "now": "3.125", "growth": "-0.5%"}],
	"own_drivers": [{"key": "trays", "name": "Trays", "unit": "tray", "kind": "stock", "formula": "contacts / 20", "about": "of bulbs"}],
	"needs": [{"feature": "automation/event-triggers", "name": "Event triggers", "level": "must"}, {"feature": "links/shop", "name": "Shop", "note": "orders", "level": "want"}],
	"options": [{"key": "fern", "platform": "fernwire", "observed_on": "2026-10-02", "name": "Fernwire", "face": 1},
		{"key": "osier", "platform": "osier-mail", "observed_on": "2026-10-05", "name": "Osier", "face": 2, "now": true},
		{"key": "gone", "platform": "osier-mail", "observed_on": "2026-10-05", "name": "Gone", "face": 2, "binned_at": "2026-11-01T10:30:00.5Z"}],
	"private_offers": [{"option": "fern", "plan": "beacon", "months": 12, "paid": "upfront", "bill": "2400", "on": "2026-11-20", "until": "2027-03-31", "note": "call"},
		{"option": "gone", "plan": "x", "months": 1, "paid": "monthly", "bill": "9.5", "on": "2026-11-20"}],
	"criteria": [{"key": "cost", "name": "Cost", "source": "cost", "weight": "22.5%", "best": "4000", "worst": "10000"},
		{"key": "ease", "name": "Ease", "note": "daily", "source": "rated", "weight": "77.5%"}],
	"ratings": [{"rater": "Imke Vroom", "option": "fern", "criterion": "ease", "value": "6.5", "reason": "quick"},
		{"rater": "J. O. Sable ~ Rue", "option": "osier", "criterion": "ease", "value": "0"}]}`

var withBin = study.Fields(study.Sources{Latest: time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC), WithBin: true})

func readStudy(t *testing.T, table *document.Table[study.Study], text string) (study.Study, error) {
	t.Helper()
	var faults document.Gathering
	root, err := document.Parse(t.Context(), []byte(text), document.Bounds{Bytes: 1 << 20, Values: 100_000}, &faults)
	require.NoError(t, err)
	require.NotNil(t, root, "%v", faults.Err())
	s := table.Read(t.Context(), root, "", &faults)
	return s, faults.Err()
}

func TestAStudyIsWrittenAsItWasRead(t *testing.T) {
	s, err := readStudy(t, withBin, whole)
	require.NoError(t, err)
	assert.Equal(t, money.Amount(9_000_500_000), s.Budget)
	assert.Equal(t, usage.Quantity(3_125_000), s.Drivers[1].Path.Now)
	assert.Equal(t, "automation/event-triggers", s.Needs[0].ID)
	assert.Equal(t, 500*time.Millisecond, time.Duration(s.Options[2].BinnedAt.Nanosecond()))
	assert.Len(t, s.InTheRunning().Options, 2)
	assert.Len(t, s.InTheRunning().PrivateOffers, 1)
	out := withBin.Write(s)
	assert.JSONEq(t, whole, string(out))
	again, err := readStudy(t, withBin, string(out))
	require.NoError(t, err)
	assert.Equal(t, s, again)
	assert.Equal(t, out, withBin.Write(again), "letter by letter")
	_, err = readStudy(t, study.Fields(study.Sources{Latest: time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC)}), whole)
	assert.ErrorContains(t, err, "options[2].binned_at: is not a field here", "which only a workspace has")
}

// paths lists every path of the study above that ends in a field.
func paths(t *testing.T, s study.Study) (all []document.Path) {
	t.Helper()
	var tree map[string]any
	require.NoError(t, json.Unmarshal(withBin.Write(s), &tree))
	lists := map[string]func(int) string{
		"rates": func(i int) string { return []string{"GBP", "USD"}[i] }, "drivers": func(i int) string { return s.Drivers[i].Driver },
		"own_drivers": func(i int) string { return s.Own[i].Key }, "needs": func(i int) string { return s.Needs[i].Feature },
		"options": func(i int) string { return s.Options[i].Key }, "criteria": func(i int) string { return s.Criteria[i].ID },
		"ratings":        func(i int) string { return study.RatingKey(&s.Ratings[i]) },
		"private_offers": func(i int) string { return s.PrivateOffers[i].Key() },
	}
	for name, value := range tree {
		items, isList := value.([]any)
		if !isList {
			if name != "format" {
				all = append(all, document.Path("").To(name))
			}
			continue
		}
		for i, item := range items {
			for field := range item.(map[string]any) {
				all = append(all, document.Path("").To(name, lists[name](i), field))
			}
		}
	}
	return all
}

func TestEveryFieldIsAddressedShownAndEdited(t *testing.T) {
	s, err := readStudy(t, withBin, whole)
	require.NoError(t, err)
	before := withBin.Write(s)
	all := paths(t, s)
	assert.Greater(t, len(all), 60)
	for _, path := range all {
		spot, ok := withBin.Spot(s, path)
		require.True(t, ok, path)
		assert.NotEmpty(t, spot.Text, path)
		assert.NotEmpty(t, spot.Label, path)
		assert.True(t, spot.There, path)
		assert.NotEmpty(t, spot.Want, path)
		typed, err := withBin.Typed(s, path, spot.Shown)
		require.NoError(t, err, path)
		assert.Equal(t, spot.Text, typed, "what is shown, typed again, is what stands there: %s", path)
		// Set to what stands there, it is as it was; by what was not there, it is not set.
		same, made, err := withBin.Apply(s, document.Change{{Do: document.Set, Path: path, Was: spot.Text, To: spot.Text}})
		require.NoError(t, err, path)
		assert.Equal(t, spot.Text, made[0].To, "the text is canonical")
		assert.Equal(t, string(before), string(withBin.Write(same)), path)
		_, _, err = withBin.Apply(s, document.Change{{Do: document.Set, Path: path, Was: spot.Text + "?", To: spot.Text}})
		var changed *document.ChangedError
		require.ErrorAs(t, err, &changed, path)
		assert.Equal(t, spot.Text, changed.Now)
		assert.Equal(t, path, changed.Path)
		_, _, err = withBin.Apply(s, document.Change{{Do: document.Set, Path: path, Was: spot.Text, To: "\x00"}})
		var invalid *document.InvalidError
		assert.ErrorAs(t, err, &invalid, path)
		_, _, err = withBin.Apply(s, document.Change{{Do: document.Remove, Path: path}})
		assert.ErrorAs(t, err, &invalid, path)
	}
	for _, path := range []document.Path{"", "nothing", "criteria", "criteria.smell", "criteria.smell.weight", "criteria.ease.best",
		"criteria.ease.weight.more", "title.x", "rates.CHF.rate"} {
		spot, ok := withBin.Spot(s, path)
		assert.True(t, !ok || spot.Text == "", "%s: %v", path, spot)
		_, _, err := withBin.Apply(s, document.Change{{Do: document.Set, Path: path, To: "1"}})
		assert.Error(t, err, path)
	}
	spot, _ := withBin.Spot(s, "criteria.cost.weight")
	assert.Equal(t, "Cost, weight", spot.Label)
	assert.Equal(t, "22.5%", spot.Text)
	assert.Equal(t, "22.5", spot.Shown)
	assert.True(t, spot.Input.Decimal)
	text, err := withBin.Typed(s, "criteria.cost.weight", "30 %")
	require.NoError(t, err)
	assert.Equal(t, "30%", text)
	_, err = withBin.Typed(s, "drivers.contacts.now", "6.400")
	var asked *money.UnclearError
	assert.ErrorAs(t, err, &asked)
	_, err = withBin.Typed(s, "drivers.pigeons.now", "1")
	assert.Error(t, err)
	assert.Equal(t, string(before), string(withBin.Write(s)), "the study that was edited stays as it was")
}

// TestWhateverIsDoneIsTakenBack makes random changes of every kind, several
// edits to a change, and takes them back one by one: the study is then letter by
// letter as it was, at each step.
func TestWhateverIsDoneIsTakenBack(t *testing.T) {
	random := rand.New(rand.NewPCG(8, 1))
	s, err := readStudy(t, withBin, whole)
	require.NoError(t, err)
	type step struct {
		before string
		made   document.Change
	}
	var done []step
	kinds := map[document.Do]int{}
	for n := range 600 {
		var c document.Change
		for range 1 + random.IntN(3) {
			c = append(c, anyOp(random, s, n))
		}
		before := string(withBin.Write(s))
		edited, made, err := withBin.Apply(s, c)
		assert.Equal(t, before, string(withBin.Write(s)), "what was edited stays as it was")
		if err != nil {
			continue // two edits of one change may be of the same thing
		}
		for _, op := range made {
			kinds[op.Do]++
		}
		_ = withBin.Say(s, made)
		done = append(done, step{before, made})
		s = edited
	}
	for _, do := range []document.Do{document.Set, document.Insert, document.Remove, document.Move} {
		assert.Greater(t, kinds[do], 40, do)
	}
	for n := len(done) - 1; n >= 0; n-- {
		after := string(withBin.Write(s))
		back, undone, err := withBin.Apply(s, done[n].made.Inverse())
		require.NoError(t, err, "%v", done[n].made)
		require.Equal(t, done[n].before, string(withBin.Write(back)), "%v", done[n].made)
		again, _, err := withBin.Apply(back, undone.Inverse())
		require.NoError(t, err)
		require.Equal(t, after, string(withBin.Write(again)), "and made again")
		s = back
	}
}

// anyOp is a random edit of a study.
func anyOp(random *rand.Rand, s study.Study, n int) document.Op {
	pick := func(of int) int { return random.IntN(max(1, of)) }
	at := func(list string, keys []string) (document.Path, string) {
		before := ""
		if len(keys) > 0 && random.IntN(3) > 0 {
			before = keys[pick(len(keys))]
		}
		key := "none"
		if len(keys) > 0 {
			key = keys[pick(len(keys))]
		}
		return document.Path(list).To(key), before
	}
	var criteria, needs, rates []string
	for i := range s.Criteria {
		criteria = append(criteria, s.Criteria[i].ID)
	}
	for i := range s.Needs {
		needs = append(needs, s.Needs[i].Feature)
	}
	for code := range s.Rates {
		rates = append(rates, code)
	}
	set := func(path document.Path, to string) document.Op {
		spot, _ := withBin.Spot(s, path)
		return document.Op{Do: document.Set, Path: path, Was: spot.Text, To: to}
	}
	criterion, before := at("criteria", criteria)
	need, _ := at("needs", needs)
	rate, _ := at("rates", rates)
	switch random.IntN(11) {
	case 0:
		return set("title", fmt.Sprintf("Spring %d", n))
	case 1:
		return set("drivers.contacts.now", fmt.Sprint(random.IntN(9999)))
	case 2:
		return set(criterion.To("weight"), fmt.Sprintf("%d%%", random.IntN(100)))
	case 3:
		return set(rate.To("rate"), fmt.Sprintf("1.%d", 1+random.IntN(9999)))
	case 4:
		return document.Op{Do: document.Insert, Path: document.Path("criteria").To(fmt.Sprintf("c%d", n)),
			To: fmt.Sprintf(`{"key": "c%d", "name": "C", "source": "cost", "weight": 5, "best": 1, "worst": "2.50"}`, n), Before: before}
	case 5:
		return document.Op{Do: document.Insert, Path: document.Path("needs").To(fmt.Sprintf("a/n%d", n)), To: fmt.Sprintf(`{"feature": "a/n%d", "name": "N", "level": "bonus"}`, n)}
	case 6:
		return document.Op{Do: document.Remove, Path: []document.Path{criterion, need, rate}[random.IntN(3)]}
	case 8:
		key := fmt.Sprintf("fern/p%d/6-monthly", n)
		return document.Op{Do: document.Insert, Path: document.Path("private_offers").To(key),
			To: fmt.Sprintf(`{"option": "fern", "plan": "p%d", "months": 6, "paid": "monthly", "bill": "5", "on": "2026-11-01"}`, n)}
	case 9:
		return set(document.Path("private_offers").To("fern/beacon/12-upfront", "bill"), fmt.Sprint(random.IntN(9999)))
	case 7:
		return document.Op{Do: document.Insert, Path: document.Path("rates").To("CHF"), To: `{"currency": "CHF", "rate": "1.05", "on": "2026-11-01"}`}
	}
	return document.Op{Do: document.Move, Path: criterion, Before: before}
}

func TestEditsOfListsKeepTheirRules(t *testing.T) {
	s, err := readStudy(t, withBin, whole)
	require.NoError(t, err)
	for want, op := range map[string]document.Op{
		`criteria.new holds the key "ease"`:       {Do: document.Insert, Path: "criteria.new", To: `{"key": "ease", "name": "E", "source": "rated", "weight": "5%"}`},
		"criteria.ease was changed meanwhile":     {Do: document.Insert, Path: "criteria.ease", To: `{"key": "ease", "name": "E", "source": "rated", "weight": "5%"}`},
		"criteria.new line 1, weight: is missing": {Do: document.Insert, Path: "criteria.new", To: `{"key": "new", "name": "E", "source": "rated"}`},
		"criteria.new line 1, best: is not a field here": {Do: document.Insert, Path: "criteria.new",
			To: `{"key": "new", "name": "E", "source": "rated", "weight": "5%", "best": "1"}`},
		`criteria.new "nonsense" is no JSON`:                        {Do: document.Insert, Path: "criteria.new", To: "nonsense"},
		"criteria.gone was changed meanwhile":                       {Do: document.Remove, Path: "criteria.gone"},
		"criteria.ease cannot stand before itself":                  {Do: document.Move, Path: "criteria.ease", Before: "ease"},
		"criteria.ease is an item of a list":                        {Do: document.Set, Path: "criteria.ease", To: "x"},
		"criteria.ease.key is what tells the criterion from others": {Do: document.Set, Path: "criteria.ease.key", Was: "ease", To: "effort"},
		"rates.GBP.currency is what tells the rate from others":     {Do: document.Set, Path: "rates.GBP.currency", Was: "GBP", To: "CHF"},
		"title is empty": {Do: document.Set, Path: "title", Was: "Spring", To: " "},
		"months expected a whole number from 1 to 120":                  {Do: document.Set, Path: "months", Was: "36", To: "0"},
		"drivers.contacts.now expected a number from 0 to 1,000,000,00": {Do: document.Set, Path: "drivers.contacts.now", Was: "6400", To: "6,400"},
	} {
		_, _, err := withBin.Apply(s, document.Change{op})
		assert.ErrorContains(t, err, want)
	}
	twelve := s
	for n := range 600 {
		op := document.Op{Do: document.Insert, Path: document.Path("options").To(fmt.Sprintf("o%d", n)),
			To: fmt.Sprintf(`{"key": "o%d", "platform": "p", "observed_on": "2026-10-02", "face": 1}`, n)}
		if twelve, _, err = withBin.Apply(twelve, document.Change{op}); err != nil {
			break
		}
	}
	assert.ErrorContains(t, err, "at most 480 are taken, and this would be more")
	said := withBin.Say(s, document.Change{
		{Do: document.Set, Path: "criteria.ease.weight", Was: "77.5%", To: "60%"},
		{Do: document.Remove, Path: document.Path("ratings").To("J. O. Sable ~ Rue/osier/ease")}, {Do: document.Set, Path: "company", Was: "Marl & Thistle", To: ""},
		{Do: document.Move, Path: "criteria.ease", Before: "cost"}, {Do: document.Remove, Path: "needs.links/shop"},
		{Do: document.Insert, Path: "drivers.contacts.events.fair", To: `{"key": "fair", "month": "2027-05", "do": "add", "by": "5"}`},
		{Do: document.Remove, Path: "drivers.contacts.events.fair"},
	})
	assert.Equal(t, []document.Said{
		{Label: "Ease, weight", Was: "77.5%", To: "60%"}, {Label: "Osier on Ease", Was: "0", To: "not rated"}, {Label: "Who asks", Was: "Marl & Thistle", To: "nothing"},
		{Label: "Criterion Ease", Was: "last", To: "before Cost"}, {Label: "Need Shop", Was: "there", To: "removed"},
		{Label: "Contacts, event May 2027", Was: "–", To: "added"}, {Label: "Contacts, event May 2027", Was: "there", To: "removed"},
	}, said)
}

// TestOneOptionRunsToday marks another, however that is written.
func TestOneOptionRunsToday(t *testing.T) {
	s := study.Study{Options: []study.Option{{Key: "fern", Face: 1, Now: true}, {Key: "moss", Face: 2}}}
	for _, yes := range []string{"true", "1", "T"} {
		settled, err := study.Settle(s, document.Change{{Do: document.Set, Path: "options.moss.now", Was: "false", To: yes}})
		require.NoError(t, err)
		after, made, err := study.Kept().Apply(s, settled)
		require.NoError(t, err)
		assert.Equal(t, [2]bool{false, true}, [2]bool{after.Options[0].Now, after.Options[1].Now}, yes)
		before, _, err := study.Kept().Apply(after, made.Inverse())
		require.NoError(t, err)
		assert.Equal(t, s, before, yes)
	}
}

// TestPathsHoldAnyKey writes keys with points, tildes and slashes.
func TestPathsHoldAnyKey(t *testing.T) {
	for _, steps := range [][]string{{"a"}, {"ratings", "J. O. ~ Sable/x", "value"}, {"~1", "~0.", "..~~"}} {
		assert.Equal(t, steps, document.Path("").To(steps...).Steps())
	}
	assert.Empty(t, document.Path("").Steps())
	s, err := readStudy(t, withBin, whole)
	require.NoError(t, err)
	path := document.Path("ratings").To("J. O. Sable ~ Rue/osier/ease", "value")
	edited, _, err := withBin.Apply(s, document.Change{{Do: document.Set, Path: path, Was: "0", To: "9"}})
	require.NoError(t, err)
	assert.Equal(t, fit.Halves(18), edited.Ratings[1].Value)
}

// TestFaultsOfAStudyStandAtTheirPlace tells faults that are seen only once all
// has been read by line and by position.
func TestFaultsOfAStudyStandAtTheirPlace(t *testing.T) {
	lines := strings.ReplaceAll(whole, `}, {"key"`, "},\n{\"key\"")
	for want, change := range map[string][2]string{
		`ratings[1].option: there is no option "sedge"`:       {`"option": "osier"`, `"option": "sedge"`},
		`ratings[0].criterion: there is no criterion "smell"`: {`"criterion": "ease", "value": "6.5"`, `"criterion": "smell", "value": "6.5"`},
		`private_offers[0].option: there is no option "fer"`:  {`"option": "fern", "plan"`, `"option": "fer", "plan"`},
		`private_offers[0].on: 2027-11-20 is in the future`:   {`"2400", "on": "2026`, `"2400", "on": "2027`},
		`private_offers[1]: private offer "fern/beacon/12-upfront" stands`: {`"option": "gone", "plan": "x", "months": 1, "paid": "monthly"`,
			`"option": "fern", "plan": "beacon", "months": 12, "paid": "upfront"`},
		`rates[0].on: 2027-11-20 is in the future`:                              {`2026-11-20`, `2027-11-20`},
		`own_drivers[0].formula: formula "contacts // 20", column 10: "//" beg`: {`contacts / 20`, `contacts // 20`},
		`criteria[1].best: is not a field here`:                                 {`"source": "rated"`, `"source": "rated", "best": "1"`},
		`question: holds a character that is not seen (U+202E)`:                 {`Where`, `Wh\u202eere`},
		`title: has 121 characters; at most 120 are taken`:                      {`"Spring"`, `"` + strings.Repeat("é", 121) + `"`},
		`title: is empty`:                                                        {`"Spring"`, `"  "`},
		`title: expected text, found "5"`:                                        {`"Spring"`, `5`},
		`drivers: is missing; expected a list`:                                   {`"drivers": [`, `"drivers": null, "x": [`},
		`drivers: expected a list, found an object`:                              {`"drivers": [`, `"drivers": {}, "x": [`},
		`needs[0]: expected an object, found a number`:                           {`"needs": [`, `"needs": [5, `},
		`format: expected one of nine-coins/study/1, found "nine-coins/study/2"`: {`study/1`, `study/2`},
	} {
		require.Contains(t, lines, change[0])
		_, err := readStudy(t, withBin, strings.Replace(lines, change[0], change[1], 1))
		assert.ErrorContains(t, err, want)
	}
	_, err := readStudy(t, withBin, strings.Replace(lines, `"osier", "platform"`, `"osier", "platfrom"`, 1))
	assert.ErrorContains(t, err, "line 8, options[1].platfrom")

	// What the pages can come to hold comes in, and is told where it stands.
	for want, change := range map[string][2]string{
		`options.osier.face: two options have face 1`:                                               {`"Osier", "face": 2`, `"Osier", "face": 1`},
		`options.osier.now: only one option can be what runs today`:                                 {`"face": 1}`, `"face": 1, "now": true}`},
		`own_drivers.seats.key: driver "seats" is told twice`:                                       {`"trays"`, `"seats"`},
		`criteria.cost.worst: the worst cost, 10, is below the best, 4000`:                          {`"10000"`, `"10"`},
		`private_offers.fern/beacon/12-upfront.until: the last day to sign, 31 Mar 2026, is before`: {`2027-03-31`, `2026-03-31`},
	} {
		require.Contains(t, lines, change[0])
		s, err := readStudy(t, withBin, strings.Replace(lines, change[0], change[1], 1))
		require.NoError(t, err, want)
		var told []string
		study.Kept().Check(s, func(at document.Path, format string, a ...any) {
			told = append(told, string(at)+": "+fmt.Sprintf(format, a...))
		})
		assert.Contains(t, strings.Join(told, "\n"), want)
	}
	ended, cancel := context.WithCancel(t.Context())
	cancel()
	var faults document.Gathering
	root, err := document.Parse(t.Context(), []byte(whole), document.Bounds{Bytes: 1 << 20, Values: 1000}, &faults)
	require.NoError(t, err)
	assert.Empty(t, withBin.Read(ended, root, "", &faults).Criteria, "reading ends with its request")
}
