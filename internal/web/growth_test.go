package web_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"mime/multipart"
	"net/http"
	"strings"
	"testing"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/doors"
	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// alter changes the demo's study as a whole, whatever edits would say.
func alter(t *testing.T, app *testkit.App, change func(s *study.Study) document.Change) {
	t.Helper()
	st, err := app.Store.Study(t.Context(), app.Workspace.ID, app.Study, testkit.Day)
	require.NoError(t, err)
	require.NoError(t, app.Store.Edit(t.Context(), testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner), change(st)))
}

func set(path, was, to string) document.Op {
	return document.Op{Do: document.Set, Path: document.Path(path), Was: was, To: to}
}

func TestGrowthIsEditedWhereItStands(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	page := app.Page("growth")
	a := get(t, app.Client, page)
	assert.Contains(t, words(a), "As expected, contacts go from 6,400 to 12,800 by Dec 2029")
	assert.Contains(t, words(a), "letters 87%, automated 13%")
	assert.Contains(t, words(a), "Our own 26 months fit")
	assert.Contains(t, words(a), "Tallowpost counts 7,300", "what is billed differs")

	a = post(t, app.Client, page, "op", "set", "path", "case", "was", "expected", "value", "high")
	assert.Contains(t, words(a), "Growth high")
	assert.Contains(t, words(a), "As fast growth has it, contacts go from 6,400 to 16,825")
	post(t, app.Client, page, "op", "undo")

	a = post(t, app.Client, page, "op", "bend", "path", "drivers.contacts", "before", "Dec 2029", "value", "10,000")
	assert.Contains(t, words(a), "contacts go from 6,400 to 10,00")
	a = post(t, app.Client, page, "op", "bend", "path", "drivers.contacts", "before", "soon", "value", "10,000")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "“soon” is not a month")
	a = post(t, app.Client, page, "op", "bend", "path", "drivers.contacts", "before", "Feb 2027", "value", "999,999")
	assert.Contains(t, words(a), "No growth that is taken leads to 999,999 in Feb 2027; nothing was changed.")

	a = post(t, app.Client, page, "op", "take-over", "path", "drivers.contacts")
	assert.Contains(t, words(a), "with a season")
	a = post(t, app.Client, page, "op", "set", "path", "drivers.contacts.season.apr", "was", aprilOf(t, app), "value", "2.4")
	assert.Contains(t, words(a), "not 1. That moves no value")
	a = post(t, app.Client, page, "op", "even", "path", "drivers.contacts")
	assert.NotContains(t, words(a), "not 1. That moves no value")

	a = post(t, app.Client, page, "op", "insert", "path", "drivers.seats.events", "item.month", "Sep 2031", "item.do", "add", "item.by", "2",
		"item.stays", "true", "item.note", "a new shop")
	require.Equal(t, http.StatusOK, a.status, words(a))
	a = get(t, app.Client, page+"?driver=seats")
	assert.Contains(t, words(a), "a new shop (Sep 2031) lies outside the horizon")
	a = post(t, app.Client, page+"?driver=seats", "op", "set", "path", "drivers.seats.shape", "was", "compound", "value", "s-curve")
	assert.Contains(t, words(a), "the ceiling, 0, is below today")
}

func aprilOf(t *testing.T, app *testkit.App) string {
	st, err := app.Store.Study(t.Context(), app.Workspace.ID, app.Study, testkit.Day)
	require.NoError(t, err)
	return st.Drivers[0].Path.Season[3].String()
}

func TestAHistoryComesInWholeOrIsRefusedInWords(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	page := app.Page("growth")
	a := post(t, app.Client, page, "op", "history", "path", "drivers", "value", "seats", "rows", "month,seats\n2026-01,2\n2026-02,lots\n03/04/2026,3")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "Nothing was kept. Line 3: ")
	assert.Contains(t, words(a), "could be a day in either of two months")
	assert.Contains(t, a.body, "2026-02,lots", "what was pasted stays")
	a = post(t, app.Client, page+"?driver=seats", "op", "history", "path", "drivers", "value", "seats", "rows", "2026-01,2\n2026-02,2")
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.Contains(t, words(a), "Nothing is fitted to our own 2 months: growth is fitted to 3 months or more.")

	var form bytes.Buffer
	w := multipart.NewWriter(&form)
	for name, value := range map[string]string{"op": "history", "path": "drivers", "value": "seats", "rows": ""} {
		require.NoError(t, w.WriteField(name, value))
	}
	file, err := w.CreateFormFile("file", "seats.csv")
	require.NoError(t, err)
	_, _ = file.Write([]byte("month;Seats\n2026-01;2\n2026-02;3\n2026-03;4"))
	require.NoError(t, w.Close())
	req, err := http.NewRequestWithContext(t.Context(), http.MethodPost, page+"?driver=seats", &form)
	require.NoError(t, err)
	req.Header.Set("Content-Type", w.FormDataContentType())
	req.Header.Set("Origin", app.Address)
	resp, err := app.Client.Do(req)
	a = read(t, resp, err)
	assert.Contains(t, words(a), "Our own 3 months fit", "a file is taken without scripts too")
}

// The pages answer on the worst that a study can be: nothing in it, a horizon of one
// month or 120, 24 options, a driver at fault, an option without a rate.
func TestCostsAnswerAtTheEdges(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	look := func(what string) {
		for _, view := range append(costViews, "costs", "costs/along?axis=log&per=unit&to=1,000,000", "costs/along?driver=seats&at=2029-12",
			"costs/field?who=fit", "growth", "costs/take/months.csv", "costs/take/months.xlsx") {
			a := get(t, app.Client, app.Page(view))
			assert.Equal(t, http.StatusOK, a.status, "%s: %s", what, view)
			for _, bad := range []string{"NaN", "%!", "+Inf", "-1 months"} {
				assert.NotContains(t, a.body, bad, "%s: %s", what, view)
			}
		}
	}
	look("the demo")
	for _, months := range []string{"1", "120"} {
		alter(t, app, func(s *study.Study) document.Change {
			return document.Change{set("months", fmt.Sprint(s.Horizon), months)}
		})
		look(months + " months")
	}
	alter(t, app, func(s *study.Study) document.Change {
		return document.Change{set("months", "120", "36"), set("pay", "monthly", "mix")}
	})
	look("the cheapest mix")
	alter(t, app, func(s *study.Study) document.Change {
		return document.Change{{Do: document.Remove, Path: "rates.GBP"}, set("drivers.contacts.shape", "compound", "s-curve")}
	})
	look("without a rate, and a driver at fault")
	alter(t, app, func(s *study.Study) (c document.Change) {
		c = append(c, set("drivers.contacts.shape", "s-curve", "compound"))
		for n := len(s.Options); n < study.MostOptions; n++ {
			o := s.Options[n%2]
			o.Key, o.Face, o.Name, o.Now = fmt.Sprint("more-", n), n+1, fmt.Sprint("A platform with a long name, number ", n), false
			c = append(c, document.Op{Do: document.Insert, Path: document.Path("options").To(o.Key), To: study.WriteOption(o)})
		}
		return c
	})
	look("24 options")
	alter(t, app, func(s *study.Study) (c document.Change) {
		for _, d := range s.Drivers {
			c = append(c, document.Op{Do: document.Remove, Path: document.Path("drivers").To(d.Driver)})
		}
		return c
	})
	look("no drivers")
}

func TestCostsAreHandedOverMonthByMonth(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	a := get(t, app.Client, app.Page("costs/take/months.csv"))
	assert.Equal(t, `attachment; filename="costs-spring-list.csv"`, a.header.Get("Content-Disposition"))
	rows, err := csv.NewReader(strings.NewReader(a.body)).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 1+5*36)
	assert.Equal(t, []string{"2027-01", "Brindlepost", "Bough", "monthly", "161", "161", "161", "161", "0", "0", "0", "true"}, rows[1])
	a = get(t, app.Client, app.Page("costs/take/months.xlsx"))
	assert.Equal(t, "PK", a.body[:2])
	assert.Equal(t, http.StatusNotFound, get(t, app.Client, app.Page("costs/take/years.csv")).status)
	a = get(t, app.Client, app.Page("costs/doing/fernwire/todo.ics"))
	assert.Contains(t, a.body, "BEGIN:VEVENT")
	assert.Equal(t, http.StatusNotFound, get(t, app.Client, app.Page("costs/doing/nobody/todo.ics")).status)
}

// Chance is simulated when its page is opened; the work is told line by line, and what came of it stands
// on the page then.
func TestChanceIsSimulatedWhenItIsOpened(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	opened := get(t, app.Client, app.Page("costs/chance"))
	assert.True(t, strings.Contains(opened.body, "data-work-begins") || strings.Contains(words(opened), "paths of growth"), "it is there, or begins by itself")
	a := get(t, app.Client, app.Page("costs/chance/work"))
	assert.Equal(t, "application/x-ndjson", a.header.Get("Content-Type"))
	lines := strings.Split(strings.TrimSpace(a.body), "\n")
	assert.Greater(t, len(lines), 5)
	assert.Contains(t, lines[len(lines)-1], `"ready":true`)
	assert.Contains(t, words(get(t, app.Client, app.Page("costs/chance"))), "paths of growth")
	alter(t, app, func(s *study.Study) document.Change {
		c := document.Change{{Do: document.Remove, Path: "history.contacts"}}
		return append(c, set("drivers.contacts.low.growth", "1.1%", ""), set("drivers.contacts.high.growth", "2.8%", ""),
			set("drivers.newsletters.high.now", usage.Of(5).String(), ""))
	})
	assert.Contains(t, get(t, app.Client, app.Page("costs/chance/work")).body, "No driver has a low or a high case")
	assert.Contains(t, words(get(t, app.Client, app.Page("costs/chance?now=1"))), "Enter low and high growth of a driver on Growth")
}

func TestWhereNothingServesReadsWell(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	for _, key := range []string{"brindlepost", "osier-mail", "fernwire"} {
		require.Equal(t, http.StatusOK, post(t, app.Client, app.Page("line-up"), "op", "remove", "path", "options."+key).status)
	}
	page := words(get(t, app.Client, app.Page("costs/along?to=50000")))
	assert.Contains(t, page, "Quirebird costs least up to 30,000 contacts.")
	assert.Contains(t, page, "Nothing serves above 30,000 contacts.")
	assert.NotContains(t, page, "Nothing that serves serves")
	assert.Contains(t, words(get(t, app.Client, app.Page("costs/field?to=50000"))), "Nothing serves above 30,000 contacts.")
}

// Where no plan changes, bills may still follow what is used; only what stays is said to
// stay.
func TestWhatFollowsUsageIsNotSaidToStay(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	for _, key := range []string{"osier-mail", "quirebird", "fernwire", "tallowpost"} {
		require.Equal(t, http.StatusOK, post(t, app.Client, app.Page("line-up"), "op", "remove", "path", "options."+key).status)
	}
	for driver, was := range map[string]string{"contacts": "2%", "unsubscribed": "1%"} {
		require.Equal(t, http.StatusOK, post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers."+driver+".growth", "was", was, "value", "0%").status)
	}
	assert.Contains(t, words(get(t, app.Client, app.Page("costs"))), "Nothing changes: every bill stays as it is through the horizon.")
	require.Equal(t, http.StatusOK, post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.seats.growth", "was", "0%", "value", "2%").status)
	assert.Contains(t, words(get(t, app.Client, app.Page("costs"))), "No plan changes, no offer ends and no step comes: bills follow what is used.")
}

func TestGrowthIsDrawnAsFarAsItIsLaidOut(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	page := get(t, app.Client, app.Page("costs/field?to=1000"))
	assert.Contains(t, page.body, "Where we stand lies outside what is laid out here.")
	assert.Contains(t, page.body, `"path":[]`)
	page = get(t, app.Client, app.Page("costs/field?to=8000"))
	assert.Contains(t, words(page), "In Jan 2028 it leaves what is laid out here.")
	assert.Contains(t, page.body, `"end":"Dec 2027"`)
}

func TestAveragesAreFollowedInHundredths(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	page := words(get(t, app.Client, app.Page("costs/along?driver=automated_emails&per=unit")))
	assert.Contains(t, page, "With automated emails per contact at 0.6 , as in Jan 2027, Quirebird costs least.")
	assert.Contains(t, page, "1.47 Fernwire moves from Candle to Lantern")
	assert.Contains(t, page, "found to the hundredth")
	assert.NotContains(t, page, "Per email")
	assert.Contains(t, get(t, app.Client, app.Page("costs/along?driver=automated_emails&to=0.25")).body, `name="to" value="0.25"`)
	assert.Contains(t, words(get(t, app.Client, app.Page("costs/along?driver=automated_emails&to=0.01"))), "is not a number from 0.02 to 1,000,000; it goes to 2.")
	assert.Contains(t, words(get(t, app.Client, app.Page("costs/field?by=automated_emails"))), "With automated emails per contact at 0.6")
	// From none on where a driver stands at none.
	require.Equal(t, http.StatusOK, post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.automated_emails.now", "was", "0.6", "value", "0").status)
	assert.Contains(t, words(get(t, app.Client, app.Page("costs/along?driver=automated_emails"))), "At the 0 automated emails per contact of Jan 2027 Quirebird costs least")
}

func TestStayingThatCannotGoOnIsNoMeasure(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	require.Equal(t, http.StatusOK, post(t, app.Client, app.Page("costs"), "op", "set", "path", "pay", "was", "monthly", "value", "fixed").status)
	assert.Contains(t, words(get(t, app.Client, app.Page("costs"))), "but serves only until Feb 2027.")
	page := words(get(t, app.Client, app.Page("costs/leaving")))
	assert.Contains(t, page, "Of those that serve all months, leaving it now for Osier Mail costs least: €6,908 , the move counted.")
	assert.Contains(t, page, "€6,908 with the move")
	assert.Contains(t, page, "waiting a quarter longer leaves months unserved")
	assert.NotContains(t, page, "never within the horizon")
	assert.Contains(t, words(get(t, app.Client, app.Page("costs/bargain"))), "today’s does not serve all months")
}
