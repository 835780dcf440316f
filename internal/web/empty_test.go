package web_test

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"

	"ninecoins/internal/demo"
	"ninecoins/internal/formats"
	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAnEmptyDeskOffersWaysToBegin makes a workspace, reads what it says while it is
// empty, and brings the example in.
func TestAnEmptyDeskOffersWaysToBegin(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	post(t, app.Client, app.Address+"/workspaces", "edit", "make", "value", "Madder & Son")
	a := get(t, app.Client, app.Address+"/")
	for _, want := range []string{"It has nine coins", "Bring the example in", "Begin a study", "Bring files in", "How the files look"} {
		assert.Contains(t, words(a), want)
	}
	assert.NotContains(t, words(get(t, app.Client, app.Address+"/shelf?brought=Nowhere")), "was brought in", "only what is there")
	a = get(t, app.Client, app.Address+"/files")
	assert.Contains(t, words(a), "nine-coins/price-list/1")
	for _, name := range []string{"price-list.schema.json", "study.schema.json", "workspace.schema.json", "price-list.example.json"} {
		require.Contains(t, a.body, `href="/files/`+name+`"`)
		file := get(t, app.Client, app.Address+"/files/"+name)
		assert.Equal(t, `attachment; filename="`+name+`"`, file.header.Get("Content-Disposition"))
		assert.True(t, json.Valid([]byte(file.body)), name)
	}
	_, err := formats.ReadPriceList(t.Context(), []byte(get(t, app.Client, app.Address+"/files/price-list.example.json").body), testkit.Day)
	require.NoError(t, err, "the example of a price list can be brought in")
	assert.Equal(t, http.StatusNotFound, get(t, app.Client, app.Address+"/files/secrets.json").status)

	a = post(t, app.Client, app.Address+"/", "op", "example")
	assert.Contains(t, a.at, "/brief")
	assert.Contains(t, words(a), "The study was brought in")
	assert.Contains(t, words(get(t, app.Client, app.Address+"/")), "Pick Brindlepost")
	a = post(t, app.Client, app.Address+"/", "op", "example")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "already", "it is there once")
	assert.Equal(t, len(demo.PriceListNames)+len(demo.FurtherNames), strings.Count(get(t, app.Client, app.Address+"/shelf").body, `href="/shelf/platforms/`), "the platforms are there once")
}

// TestEmptyPagesMakeSense reads the pages of a study in which nothing stands.
func TestEmptyPagesMakeSense(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	a := post(t, app.Client, app.Address+"/", "op", "new", "title", "Where to next", "company", "")
	at := app.Address + a.at[:len(a.at)-len("brief")]
	post(t, app.Client, at+"coverage", "op", "insert", "path", "needs", "item.name", "Event triggers", "item.feature", "automation/event-triggers", "item.level", "must")
	for page, want := range map[string]string{
		"brief": "A study has nine coins", "line-up": "Nothing is in the running yet", "coverage": "The line-up is empty: no option is held against the must yet.",
		"prices": "No plan of any option can serve", "costs": "There is nothing to cost yet", "verdict": "There is nothing to rely on yet",
	} {
		text := words(get(t, app.Client, at+page))
		assert.Contains(t, text, want, page)
		for _, bad := range []string{"0 of 0", "the least costs: .", "ratings are complete", "all 0", "1 options", "all 1 "} {
			assert.NotContains(t, text, bad, page)
		}
	}
}
