package web_test

import (
	"net/http"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/demo"
	"ninecoins/internal/doors"
	"ninecoins/internal/standin"
	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAStudyMovesToANewerList publishes a dearer list, reads what it changes, and moves the
// study; undo moves it back.
func TestAStudyMovesToANewerList(t *testing.T) {
	app := testkit.Start(t, true)
	c, base := app.Client, app.Address+"/shelf/platforms/brindlepost"
	assert.Contains(t, words(get(t, c, base+"/compare")), "There is one list of it only.")
	post(t, c, base, "op", "open")
	post(t, c, base+"/draft/prices", "op", "set", "path", "plans.bough.charges.base.bands.8000.price", "was", "149", "value", "159")
	a := get(t, c, base+"/compare?to=draft")
	assert.Contains(t, words(a), "Between the list of 2 Oct 2026 and the draft 1 price rises , by up to 6.7%.")
	assert.Contains(t, words(a), "contacts up to 8,000 €149.00 €159.00 dearer +6.7%")
	assert.NotContains(t, a.body, "go by this list</button>", "a draft is no list to go by")
	require.Contains(t, publish(t, c, base+"/draft/prices").at, "published=yes")

	a = get(t, c, app.Page("prices"))
	assert.Contains(t, words(a), "There is a list of 24 Nov 2026: what changes")
	a = get(t, c, base+"/compare")
	assert.Contains(t, words(a), "Let Spring list go by this list")
	assert.Contains(t, words(get(t, c, base)), "Bough rose from €161.00 in Oct 2026 to €171.00.")
	a = post(t, app.As(t, doors.Reader), base+"/compare", "study", app.Study.String(), "to", "2026-11-24")
	assert.Equal(t, http.StatusForbidden, a.status)
	a = post(t, c, base+"/compare", "study", app.Study.String(), "to", "2026-11-24")
	assert.Contains(t, words(a), "Spring list goes by this list now.")
	assert.Contains(t, words(a), "more over 36 months")
	assert.Contains(t, words(a), "It goes by the list of 24 Nov 2026 today.")
	assert.NotContains(t, words(a), "Nothing changes for", "the two lists are set against each other, not what it goes by against itself")
	assert.Contains(t, words(get(t, c, app.Page("prices"))), "Brindlepost read 24 Nov 2026")
	post(t, c, app.Page("prices"), "op", "undo")
	assert.Contains(t, words(get(t, c, app.Page("prices"))), "Brindlepost read 2 Oct 2026")
	for _, wrong := range []string{"draft", "2020-01-01", "soon"} {
		assert.Equal(t, http.StatusNotFound, post(t, c, base+"/compare", "study", app.Study.String(), "to", wrong).status)
	}
	assert.Equal(t, http.StatusBadRequest, post(t, c, base+"/compare", "study", "x", "to", "2026-11-24").status)
}

func TestAListIsReadAgainUnchanged(t *testing.T) {
	app := testkit.Start(t, true)
	c, base := app.Client, app.Address+"/shelf/platforms/quirebird"
	desk := words(get(t, c, app.Address+"/"))
	assert.Contains(t, desk, "Price lists to read again Quirebird read 4 Jul 2026, used in 1 study due since 2 Oct 2026")
	calendar := get(t, c, app.Address+"/shelf/read-again.ics")
	assert.Equal(t, "text/calendar; charset=utf-8", calendar.header.Get("Content-Type"))
	assert.Contains(t, calendar.body, "DTSTART;VALUE=DATE:20261002\r\n")
	assert.Equal(t, 5, strings.Count(calendar.body, "BEGIN:VEVENT"))

	a := post(t, c, base, "op", "unchanged")
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.Contains(t, words(a), "Noted: read again today, unchanged.")
	assert.Contains(t, words(get(t, c, app.Page("prices"))), "Quirebird read 24 Nov 2026, today")
	assert.NotContains(t, words(get(t, c, app.Address+"/")), "Quirebird read 4 Jul 2026, used in 1 study")
	a = post(t, c, base, "op", "unchanged")
	assert.Equal(t, http.StatusConflict, a.status)
	assert.Contains(t, words(a), "was read today already")
	assert.Equal(t, http.StatusForbidden, post(t, app.As(t, doors.Reader), base, "op", "unchanged").status)
}

func TestNewsIsAcceptedAsADraft(t *testing.T) {
	app := testkit.StartOutside(t, &standin.Services{Lists: demo.Newest(), Today: func() time.Time { return testkit.Day.Truncate(24 * time.Hour) }})
	at := app.Address + "/shelf/news"
	assert.Contains(t, words(get(t, app.Client, at)), "A price feed publishes lists in the open format.")
	a := post(t, app.Client, at, "op", "look")
	require.Equal(t, http.StatusOK, a.status)
	assert.Contains(t, words(a), "Fernwire 23 Nov 2026 12 Nov 2026 Between the list of 12 Nov 2026 and 23 Nov 2026")
	assert.Contains(t, words(a), "Alderdesk 23 Nov 2026 not yet Not on the shelf yet")
	a = post(t, app.Client, at, "op", "accept", "platform", "fernwire", "day", "2026-11-23")
	require.Equal(t, "/shelf/platforms/fernwire/draft/prices", a.at, words(a))
	assert.Contains(t, words(a), "begun from the edition of 12 Nov 2026")
	a = post(t, app.Client, at, "op", "accept", "platform", "fernwire", "day", "2026-11-23")
	assert.Equal(t, http.StatusConflict, a.status)
	a = post(t, app.Client, at, "op", "accept", "platform", "alderdesk", "day", "2026-11-23")
	assert.Equal(t, "/shelf/platforms/alderdesk/draft/prices", a.at, words(a))
	a = post(t, app.Client, at, "op", "accept", "platform", "nobody", "day", "2026-11-23")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "The feed has no such list any more.")
}

func TestAFeedThatFailsIsTold(t *testing.T) {
	app := testkit.StartOutside(t, http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte("hello")) }))
	a := post(t, app.Client, app.Address+"/shelf/news", "op", "look")
	assert.Contains(t, words(a), "The price feed gave nothing that can be used: what it sends is no index of price lists.")
	a = post(t, app.Client, app.Page("rates"), "day", "")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "The reference rates could not be taken: what it sends is no table of rates.")
	none := testkit.Start(t, true)
	assert.Contains(t, words(get(t, none.Client, none.Address+"/shelf/news")), "No price feed is set up here.")
	assert.Contains(t, words(post(t, none.Client, none.Page("rates"))), "No reference rates are set up here.")
}

func TestReferenceRatesArePinned(t *testing.T) {
	app := testkit.StartOutside(t, &standin.Services{Lists: demo.Newest(), Today: func() time.Time { return testkit.Day.Truncate(24 * time.Hour) }})
	require.NoError(t, app.Server.AskForRates(t.Context()))
	a := get(t, app.Client, app.Page("brief"))
	assert.Contains(t, words(a), "on 24 Nov 2026: +3.")
	assert.Contains(t, words(a), "% since")
	assert.Contains(t, words(get(t, app.Client, app.Page("prices"))), "from GBP at 1.17 of")
	assert.Contains(t, words(post(t, app.Client, app.Page("rates"), "day", "tomorrow")), "is no day up to today")
	a = post(t, app.Client, app.Page("rates"), "day", "20 Nov 2026")
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.NotContains(t, words(a), "% since")
	assert.Contains(t, words(get(t, app.Client, app.Page("receipts/fernwire?plan=candle&term=monthly"))), "rate of 20 Nov 2026")
	a = post(t, app.Client, app.Page("brief"), "op", "undo")
	assert.Contains(t, words(a), "% since", "one undo puts back the rate and its day")
}
