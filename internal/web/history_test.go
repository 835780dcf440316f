package web_test

import (
	"net/http"
	"regexp"
	"testing"

	"ninecoins/internal/doors"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestChangesAreToldUndoneAndPutBack(t *testing.T) {
	app := testkit.Start(t, true)
	assert.NotContains(t, get(t, app.Client, app.Page("growth")).body, "Undo:")
	assert.Contains(t, words(get(t, app.Client, app.Page("history"))), "Study file Spring list – brought in")
	post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.contacts.now", "was", "6400", "value", "7000")
	post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.contacts.growth", "was", "2%", "value", "1.5")
	post(t, app.Client, app.Page("costs"), "op", "set", "path", "pay", "was", "monthly", "value", "yearly")
	post(t, app.Client, app.Page("scores"), "op", "set", "path", "criteria.cost.best", "was", "4000", "value", "3000")
	a := post(t, app.Client, app.Page("scores"), "op", "set", "path", ratingPath(t, app, "fernwire", "ease"), "was", "5", "value", "")
	assert.Contains(t, words(a), "Undo: Fernwire on Ease of daily work back to 5")

	a = post(t, app.Client, app.Page("scores"), "op", "undo")
	assert.Contains(t, words(a), "Undo: Cost over the horizon, scores 9 at back to €4,000.00")
	assert.Contains(t, words(a), "Redo : Fernwire on Ease of daily work to not rated")
	a = post(t, app.Client, app.Page("verdict"), "op", "redo")
	assert.Contains(t, words(a), "Undo: Fernwire on Ease of daily work back to 5", "on whichever page one is")

	a = get(t, app.Client, app.Page("history"))
	assert.Regexp(t, `Growth Contacts 6,400 7,000 .*Put back 6,400`, words(a))
	assert.Contains(t, words(a), "Contacts, growth a month 2% 1.5%")
	assert.NotContains(t, words(get(t, app.Client, app.Page("history?coin=Costs"))), "Contacts, growth")
	first := regexp.MustCompile(`name="change" value="([0-9a-f-]{36})">\s*<input type="hidden" name="was" value="7000"`).FindStringSubmatch(a.body)
	require.Len(t, first, 2)
	a = post(t, app.Client, app.Page("history"), "op", "put-back", "change", first[1], "was", "7000")
	assert.Contains(t, words(a), "Imke Vroom Growth Contacts 7,000 6,400")
	a = post(t, app.Client, app.Page("history"), "op", "put-back", "change", first[1], "was", "7000")
	assert.Equal(t, http.StatusOK, a.status, "sent again, it stands there already")
	post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.contacts.now", "was", "6400", "value", "6500")
	a = post(t, app.Client, app.Page("history"), "op", "put-back", "change", first[1], "was", "7000")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "Nothing was taken back: Contacts was changed since by Imke Vroom, at ")
	assert.Equal(t, http.StatusNotFound, post(t, app.Client, app.Page("history"), "op", "put-back", "change", uuid.NewString()).status)
	assert.Equal(t, http.StatusNotFound, post(t, app.Client, app.Page("history"), "op", "put-back", "change", "nonsense").status)
}

// TestUndoGetsPastWhatHasLostItsPlace takes back a rating whose criterion somebody
// removed since: it is said, and undo goes on once it is left.
func TestUndoGetsPastWhatHasLostItsPlace(t *testing.T) {
	app := testkit.Start(t, true)
	post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.seats.now", "was", "3", "value", "4")
	post(t, app.Client, app.Page("scores"), "op", "set", "path", ratingPath(t, app, "fernwire", "ease"), "was", "5", "value", "")
	editor := app.As(t, doors.Editor)
	require.Equal(t, http.StatusOK, post(t, editor, app.Page("scores"), "op", "remove", "path", "criteria.ease").status)
	a := post(t, app.Client, app.Page("scores"), "op", "undo")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "Nothing was taken back: it rates an option or a criterion that is not in the study. Leave it")
	change := regexp.MustCompile(`name="change" value="([0-9a-f-]{36})"`).FindStringSubmatch(a.body)
	require.Len(t, change, 2)
	post(t, app.Client, app.Page("scores"), "op", "pass-over", "change", change[1])
	a = post(t, app.Client, app.Page("growth"), "op", "undo")
	assert.Contains(t, a.body, `value="3" name="value.drivers.seats.now"`)
	a = post(t, editor, app.Page("scores"), "op", "undo")
	assert.Equal(t, http.StatusOK, a.status)
	assert.Contains(t, words(a), "Ease of daily work")
}
