package web_test

import (
	"net/http"
	"strings"
	"testing"

	"ninecoins/internal/demo"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A need in words of one's own is a feature of the workspace: every list can answer it, and every
// study need it, typed or pasted.
func TestANeedInOnesOwnWordsIsTheWorkspaces(t *testing.T) {
	app := testkit.Start(t, true)
	c := app.Client
	a := post(t, c, app.Page("coverage"), "op", "insert", "path", "needs", "item.name", "Seed swaps", "item.level", "must", "item.number", "5")
	require.Equal(t, http.StatusOK, a.status, words(a))
	a = post(t, c, app.Page("coverage"), "op", "paste", "path", "needs", "rows", "Seed lots by name\twant\nLots for members\twant", "columns", "name,level")
	require.Equal(t, http.StatusOK, a.status, words(a))
	all := words(get(t, c, app.Address+"/features"))
	assert.Contains(t, all, "188 features in areas")
	assert.Contains(t, all, "Our own")
	own, _, _, err := app.Store.Catalogue(t.Context(), app.Workspace.ID)
	require.NoError(t, err)
	courses, ok := own.Find("own/seed-swaps")
	require.True(t, ok)
	assert.Equal(t, "seed swap", courses.Unit)

	// A draft has a row for each, and what it says meets the need.
	post(t, c, app.Address+"/shelf/platforms/brindlepost", "op", "open")
	draft := app.Address + "/shelf/platforms/brindlepost/draft"
	assert.Contains(t, words(get(t, c, draft)), "Seed lots by name")
	a = post(t, c, draft, "op", "set", "path", "plans.bough.features.own/seed-swaps", "was", "", "value", "8")
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.Contains(t, a.body, `value="8"`)

	// Another study finds it by its name, and nothing is there twice.
	other, err := app.Store.ImportStudy(t.Context(), store.Editing{Workspace: app.Workspace.ID}, []byte(strings.Replace(string(demo.Study()), `"key": "spring-list"`, `"key": "other"`, 1)))
	require.NoError(t, err)
	a = post(t, c, app.Address+"/studies/"+other.String()+"/coverage", "op", "insert", "path", "needs", "item.name", "seed SWAPS", "item.level", "want")
	require.Equal(t, http.StatusOK, a.status, words(a))
	st, err := app.Store.Study(t.Context(), app.Workspace.ID, other, testkit.Day)
	require.NoError(t, err)
	assert.Equal(t, "own/seed-swaps", st.Needs[len(st.Needs)-1].Feature)
	assert.Contains(t, words(get(t, c, app.Address+"/features")), "188 features in areas")
}

// Columns that nothing uses are left out: contacts where no price follows them, what is paid at once
// where all is paid by the month.
func TestColumnsThatNothingUsesAreLeftOut(t *testing.T) {
	app := testkit.Start(t, true)
	assert.Contains(t, get(t, app.Client, app.Page("costs?as=table")).body, `<th scope="col" class="number">Contacts</th>`)
	assert.Contains(t, get(t, app.Client, app.Page("prices?view=basket")).body, "At once</th>")
	list := `{"format": "nine-coins/price-list/1", "platform": {"key": "reed", "name": "Reed", "does": ["social"]}, "observed_on": "2026-11-20", "source": "a page", "tax": {"included": false}, "currency": "EUR",
		"meters": [{"key": "seats", "unit": "seat", "kind": "stock", "counts": "seats"}],
		"plans": [{"key": "one", "name": "One", "offered": "public", "terms": [{"key": "monthly", "months": 1}], "charges": [{"key": "seats", "label": "Seats", "kind": "unit", "meter": "seats", "price": "7.00"}]}]}`
	id, err := app.Store.ImportPriceList(t.Context(), store.Editing{Workspace: app.Workspace.ID}, []byte(list))
	require.NoError(t, err)
	require.NotNil(t, id)
	app.Study, err = app.Store.ImportStudy(t.Context(), store.Editing{Workspace: app.Workspace.ID}, []byte(`{"format": "nine-coins/study/1", "key": "seats", "title": "Seats", "currency": "EUR",
		"start": "2027-01", "months": 3, "pay": "monthly", "patience_days": 90, "drivers": [{"driver": "contacts", "now": "6400"}, {"driver": "seats", "now": "4"}],
		"options": [{"key": "reed", "platform": "reed", "observed_on": "2026-11-20", "face": 1}]}`))
	require.NoError(t, err)
	costs := get(t, app.Client, app.Page("costs?as=table")).body
	assert.Contains(t, costs, `<th scope="col" class="number">Seats</th>`)
	assert.NotContains(t, costs, "Contacts</th>")
	assert.Contains(t, costs, `"4 seats"`)
	basket := get(t, app.Client, app.Page("prices?view=basket")).body
	assert.NotContains(t, basket, "At once</th>")
	assert.NotContains(t, basket, "Not level</th>")
	assert.Contains(t, words(get(t, app.Client, app.Page("prices?view=basket"))), "Reed One")
}
