package web_test

import (
	"fmt"
	"net/http"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/study"
	"strings"
	"testing"

	"ninecoins/internal/doors"
	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestNumbersThatMayMeanSomethingElseAreAskedAbout types into every kind of
// number field what is read otherwise elsewhere: nothing is saved, what was
// typed stays, and each reading that is offered is what is then saved.
func TestNumbersThatMayMeanSomethingElseAreAskedAbout(t *testing.T) {
	app := testkit.Start(t, true)
	at := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner)
	stands := func(path string) string {
		st, err := app.Store.Study(t.Context(), at.Workspace, at.Study, at.Today)
		require.NoError(t, err)
		spot, there := study.Kept().Spot(*st, document.Path(path))
		require.True(t, there, path)
		return spot.Text
	}
	type offer struct{ button, kept string }
	for _, row := range []struct {
		coin   string
		path   string
		typed  string
		offers []offer
	}{
		{"growth", "drivers.contacts.now", "6,5", []offer{{"6.5", "6.5"}}},
		{"growth", "drivers.contacts.now", "0,6", []offer{{"0.6", "0.6"}}},
		{"growth", "drivers.contacts.now", "12,50", []offer{{"12.5", "12.5"}}},
		{"growth", "drivers.contacts.now", "7.400,00", []offer{{"7,400", "7400"}}},
		{"growth", "drivers.contacts.now", "7.400", []offer{{"7.4", "7.4"}, {"7,400", "7400"}}},
		{"growth", "drivers.contacts.now", "7.125", []offer{{"7.1250", "7.125"}, {"7,125", "7125"}}},
		{"growth", "drivers.contacts.now", "6300%", []offer{{"6,300", "6300"}, {"63", "63"}}},
		{"scores", "criteria.cost.best", "45%", []offer{{"45", "45"}, {"0.45", "0.45"}}},
		{"growth", "drivers.contacts.growth", "1,5", []offer{{"1.5", "1.5%"}}},
		{"growth", "drivers.contacts.growth", "−0,5%", []offer{{"-0.5", "-0.5%"}}},
		{"growth", "drivers.contacts.growth", "1.500", []offer{{"1.5", "1.5%"}}},
		{"scores", "criteria.ease.weight", "17,5", []offer{{"17.5", "17.5%"}}},
		{"scores", "criteria.ease.weight", "17.500", []offer{{"17.5", "17.5%"}}},
		{"scores", "criteria.cost.best", "3999,50", []offer{{"3,999.5", "3999.5"}}},
		{"scores", "criteria.cost.best", "3.500", []offer{{"3.5", "3.5"}, {"3,500", "3500"}}},
		{"scores", "criteria.cost.worst", "11.000,00", []offer{{"11,000", "11000"}}},
		{"scores", ratingPath(t, app, "fernwire", "ease"), "6,5", []offer{{"6.5", "6.5"}}},
		{"scores", ratingPath(t, app, "fernwire", "ease"), "6.500", []offer{{"6.5", "6.5"}}},
	} {
		before := stands(row.path)
		form := []string{"op", "set", "path", row.path, "was", before}
		a := post(t, app.Client, app.Page(row.coin), append(form, "value", row.typed)...)
		assert.Equal(t, http.StatusUnprocessableEntity, a.status, row.typed)
		assert.Equal(t, before, stands(row.path), "%s is not saved", row.typed)
		assert.Contains(t, words(a), "Did you mean "+row.offers[0].button)
		assert.Regexp(t, `value="`+strings.NewReplacer("+", "&#43;").Replace(strings.TrimSuffix(row.typed, "%"))+`%?"[^>]*aria-invalid="true"`, a.body, "what was typed stays")
		var shown []string
		for _, f := range formsOf(t, a) {
			values := map[string]string{}
			for _, one := range f.fields {
				values[one.name] = one.value
			}
			if values["path"] == row.path && strings.Contains(a.body, ">Save "+values["value"]+"<") {
				shown = append(shown, values["value"])
				assert.Equal(t, before, values["was"])
			}
		}
		for _, o := range row.offers {
			assert.Contains(t, shown, o.button, row.typed)
			a = post(t, app.Client, app.Page(row.coin), append(form, "value", o.button)...)
			assert.Equal(t, http.StatusOK, a.status)
			assert.Equal(t, o.kept, stands(row.path), "%s, meant as %s", row.typed, o.button)
			post(t, app.Client, app.Page(row.coin), "op", "undo")
			assert.Equal(t, before, stands(row.path))
		}
		assert.Len(t, shown, len(row.offers), "only what the field takes is offered for %s", row.typed)
	}
	// What stands in a field, typed again, is no change; nor is it asked about.
	require.Equal(t, http.StatusOK, post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.contacts.now", "was", "6400", "value", "6.1250").status)
	a := get(t, app.Client, app.Page("growth"))
	assert.Contains(t, a.body, `value="6.1250"`)
	a = post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.contacts.now", "was", "6.125", "value", "6.1250")
	assert.Equal(t, http.StatusOK, a.status)
	a = post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.contacts.now", "was", "6.125", "value", "6 400")
	assert.Equal(t, http.StatusOK, a.status)
	assert.Equal(t, "6400", stands("drivers.contacts.now"))
}

// TestTheFieldsOfARowAreSavedTogether sends rows as pages without scripts do: what
// was not touched is left alone, what is wrong is told beside its field, and the
// rest is saved.
func TestTheFieldsOfARowAreSavedTogether(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	row := func(page, path string) map[string]string {
		values := map[string]string{}
		for _, f := range formsOf(t, get(t, app.Client, app.Page(page))) {
			for _, one := range f.fields {
				if one.name == "value."+path {
					for _, one := range f.fields {
						values[one.name] = one.value
					}
				}
			}
		}
		require.NotEmpty(t, values, path)
		return values
	}
	send := func(page string, values map[string]string) answer {
		var fields []string
		for name, value := range values {
			fields = append(fields, name, value)
		}
		return post(t, app.Client, app.Page(page), fields...)
	}
	value := func(page, path string) string { return row(page, path)["value."+path] }
	changes := func() int { return strings.Count(get(t, app.Client, app.Page("history")).body, `scope="row"`) }

	before := changes()
	for page, path := range map[string]string{"growth": "drivers.contacts.now", "scores": "criteria.cost.weight", "brief": "budget", "line-up": "options.fernwire.name"} {
		assert.Equal(t, http.StatusOK, send(page, row(page, path)).status, page)
	}
	assert.Equal(t, before, changes(), "sent as it stands, nothing is changed")

	both := row("growth", "drivers.contacts.now")
	both["value.drivers.contacts.now"], both["value.drivers.contacts.growth"] = "9,000", "3"
	assert.Equal(t, http.StatusOK, send("growth", both).status)
	assert.Equal(t, "9,000", value("growth", "drivers.contacts.now"))
	assert.Equal(t, "3", value("growth", "drivers.contacts.growth"))
	a := send("growth", both)
	assert.Equal(t, http.StatusOK, a.status, "what is sent twice is there")

	some := row("scores", "criteria.ease.weight")
	some["value.criteria.ease.weight"], some["value.criteria.ease.name"] = "lots", "Ease of it"
	mine := ratingPath(t, app, "fernwire", "ease")
	some["value."+mine] = "99"
	a = send("scores", some)
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "“lots” is not")
	assert.Contains(t, words(a), "“99” is not")
	assert.Equal(t, 2, strings.Count(a.body, "aria-invalid"))
	assert.Contains(t, a.body, `value="lots"`)
	assert.Contains(t, get(t, app.Client, app.Page("scores")).body, ">Ease of it</textarea>", "what was right is saved")

	// Somebody else wrote meanwhile: only what both changed stands in the way.
	stale := row("growth", "drivers.seats.now")
	require.Equal(t, http.StatusOK, post(t, app.As(t, doors.Editor), app.Page("growth"), "op", "set", "path", "drivers.seats.now", "was", stale["was.drivers.seats.now"], "value", "8").status)
	stale["value.drivers.seats.growth"] = "1"
	assert.Equal(t, http.StatusOK, send("growth", stale).status)
	assert.Equal(t, "8", value("growth", "drivers.seats.now"), "theirs stays")
	assert.Equal(t, "1", value("growth", "drivers.seats.growth"))
	stale["value.drivers.seats.now"] = "9"
	a = send("growth", stale)
	assert.Equal(t, http.StatusConflict, a.status)
	assert.Contains(t, words(a), "changed this at")

	// A rater may send ratings, and nothing else.
	rater := app.As(t, doors.Rater)
	own := ratingPath(t, app, "fernwire", "look")
	before = changes()
	assert.Equal(t, http.StatusForbidden, post(t, rater, app.Page("scores"), "op", "fields", "value.criteria.cost.weight", "1", "was.criteria.cost.weight", "22%",
		"value."+own, "1", "was."+own, "5").status)
	assert.Equal(t, before, changes(), "and then none of it is saved")
	var many []string
	for i := range 50 {
		many = append(many, fmt.Sprintf("value.drivers.d%d.now", i), "1")
	}
	assert.Equal(t, http.StatusRequestEntityTooLarge, post(t, app.Client, app.Page("growth"), append(many, "op", "fields")...).status)
}
