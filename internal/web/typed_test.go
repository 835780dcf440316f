package web_test

import (
	"net/http"
	"strings"
	"testing"

	"ninecoins/internal/doors"
	"ninecoins/internal/store"
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
	stands := func(f store.Field) string {
		st, err := app.Store.Study(t.Context(), at.Workspace, at.Study, at.Today)
		require.NoError(t, err)
		return f.In(st)
	}
	type offer struct{ button, kept string }
	for _, row := range []struct {
		coin   string
		field  store.Field
		was    string // as the page sends it
		typed  string
		offers []offer
	}{
		{"growth", store.Field{Edit: "driver", Of: "contacts"}, "6,400", "6,5", []offer{{"6.5", "6.5"}}},
		{"growth", store.Field{Edit: "driver", Of: "contacts"}, "6,400", "0,6", []offer{{"0.6", "0.6"}}},
		{"growth", store.Field{Edit: "driver", Of: "contacts"}, "6,400", "12,50", []offer{{"12.5", "12.5"}}},
		{"growth", store.Field{Edit: "driver", Of: "contacts"}, "6,400", "7.400,00", []offer{{"7,400", "7400"}}},
		{"growth", store.Field{Edit: "driver", Of: "contacts"}, "6,400", "7.400", []offer{{"7.4", "7.4"}, {"7,400", "7400"}}},
		{"growth", store.Field{Edit: "driver", Of: "contacts"}, "6,400", "7.125", []offer{{"7.1250", "7.125"}, {"7,125", "7125"}}},
		{"growth", store.Field{Edit: "growth", Of: "contacts"}, "2", "1,5", []offer{{"1.5", "0.015"}}},
		{"growth", store.Field{Edit: "growth", Of: "contacts"}, "2", "−0,5%", []offer{{"-0.5", "-0.005"}}},
		{"growth", store.Field{Edit: "growth", Of: "contacts"}, "2", "1.500", []offer{{"1.5", "0.015"}}},
		{"scores", store.Field{Edit: "weight", Of: "ease"}, "18", "17,5", []offer{{"17.5", "0.175"}}},
		{"scores", store.Field{Edit: "weight", Of: "ease"}, "18", "17.500", []offer{{"17.5", "0.175"}}},
		{"scores", store.Field{Edit: "best", Of: "cost"}, "4,000", "3999,50", []offer{{"3,999.5", "3999.5"}}},
		{"scores", store.Field{Edit: "best", Of: "cost"}, "4,000", "3.500", []offer{{"3.5", "3.5"}, {"3,500", "3500"}}},
		{"scores", store.Field{Edit: "worst", Of: "cost"}, "10,000", "11.000,00", []offer{{"11,000", "11000"}}},
		{"scores", store.Field{Edit: "rating", Of: "ease", Option: "fernwire", Rater: "Imke Vroom"}, "5", "6,5", []offer{{"6.5", "6.5"}}},
		{"scores", store.Field{Edit: "rating", Of: "ease", Option: "fernwire", Rater: "Imke Vroom"}, "5", "6.500", []offer{{"6.5", "6.5"}}},
	} {
		before := stands(row.field)
		form := []string{"edit", row.field.Edit, "of", row.field.Of, "option", row.field.Option, "was", row.was}
		a := post(t, app.Client, app.Page(row.coin), append(form, "value", row.typed)...)
		assert.Equal(t, http.StatusUnprocessableEntity, a.status, row.typed)
		assert.Equal(t, before, stands(row.field), "%s is not saved", row.typed)
		assert.Contains(t, words(a), "Did you mean "+row.offers[0].button)
		assert.Regexp(t, `name="value" value="`+strings.NewReplacer("+", "&#43;").Replace(strings.TrimSuffix(row.typed, "%"))+`"[^>]*aria-invalid="true"`, a.body, "what was typed stays")
		var shown []string
		for _, f := range formsOf(t, a) {
			values := map[string]string{}
			for _, one := range f.fields {
				values[one.name] = one.value
			}
			if values["edit"] == row.field.Edit && values["of"] == row.field.Of && values["option"] == row.field.Option && strings.Contains(a.body, ">Save "+values["value"]+"<") {
				shown = append(shown, values["value"])
				assert.Equal(t, row.was, values["was"])
			}
		}
		for _, o := range row.offers {
			assert.Contains(t, shown, o.button, row.typed)
			a = post(t, app.Client, app.Page(row.coin), append(form, "value", o.button)...)
			assert.Equal(t, http.StatusOK, a.status)
			assert.Equal(t, o.kept, stands(row.field), "%s, meant as %s", row.typed, o.button)
			post(t, app.Client, app.Page(row.coin), "edit", "undo")
			assert.Equal(t, before, stands(row.field))
		}
		assert.Len(t, shown, len(row.offers), "only what the field takes is offered for %s", row.typed)
	}
	// What stands in a field, typed again, is no change; nor is it asked about.
	require.Equal(t, http.StatusOK, post(t, app.Client, app.Page("growth"), "edit", "driver", "of", "contacts", "was", "6,400", "value", "6.1250").status)
	a := get(t, app.Client, app.Page("growth"))
	assert.Contains(t, a.body, `name="value" value="6.1250"`)
	a = post(t, app.Client, app.Page("growth"), "edit", "driver", "of", "contacts", "was", "6.1250", "value", "6.1250")
	assert.Equal(t, http.StatusOK, a.status)
	a = post(t, app.Client, app.Page("growth"), "edit", "driver", "of", "contacts", "was", "6.1250", "value", "6 400")
	assert.Equal(t, http.StatusOK, a.status)
	assert.Equal(t, "6400", stands(store.Field{Edit: "driver", Of: "contacts"}))
}
