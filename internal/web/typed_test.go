package web_test

import (
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
		assert.Regexp(t, `value="`+strings.NewReplacer("+", "&#43;").Replace(strings.TrimSuffix(row.typed, "%"))+`"[^>]*aria-invalid="true"`, a.body, "what was typed stays")
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
