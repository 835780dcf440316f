package web_test

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"
	"ninecoins/internal/web"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// actors stand in the order of the table's columns.
var actors = []string{"nobody", "reading link", "reader", "rater", "editor", "owner", "owner of another workspace"}

// table tells for each route what becomes of each actor: y is let in, s is
// asked to sign in, f is told that the role (or link) does not reach, n is told
// that there is no such thing.
var table = map[string]string{
	"GET /healthz":              "yyyyyyy",
	"GET /assets/:hash/*path":   "yyyyyyy",
	"GET /favicon.ico":          "yyyyyyy",
	"GET /sign-in":              "yyyyyyy",
	"POST /sign-in":             "yyyyyyy",
	"POST /demo":                "yyyyyyy",
	"GET /forgot":               "yyyyyyy",
	"POST /forgot":              "yyyyyyy",
	"GET /new-password/:token":  "yyyyyyy",
	"POST /new-password/:token": "yyyyyyy",
	"GET /new-email/:token":     "yyyyyyy",
	"POST /new-email/:token":    "yyyyyyy",
	"GET /set-up/:token":        "yyyyyyy",
	"POST /set-up/:token":       "yyyyyyy",
	"GET /join/:token":          "yyyyyyy",
	"POST /join/:token":         "yyyyyyy",
	"GET /read/:token":          "yyyyyyy",

	"GET /":                           "ssyyyyy",
	"POST /":                          "ssffyyy",
	"POST /sign-out":                  "ssyyyyy",
	"POST /sign-out/everywhere":       "ssyyyyy",
	"GET /account":                    "ssyyyyy",
	"POST /account":                   "ssyyyyy",
	"POST /workspaces":                "ssyyyyy",
	"GET /shelf":                      "ssyyyyy",
	"POST /shelf":                     "ssffyyy",
	"GET /shelf/:edition":             "ssyyyyn",
	"GET /shelf/platforms/:platform":  "ssyyyyn",
	"POST /shelf/platforms/:platform": "ssffyyy",
	"GET /shelf/platforms/:platform/draft/prices":  "ssyyyyy",
	"POST /shelf/platforms/:platform/draft/prices": "ssffnnn",
	"GET /shelf/platforms/:platform/compare":       "ssyyyyn",
	"POST /shelf/platforms/:platform/compare":      "ssffyyy",
	"GET /shelf/news":                             "ssyyyyy",
	"POST /shelf/news":                            "ssffyyy",
	"GET /shelf/read-again.ics":                   "ssyyyyy",
	"GET /shelf/platforms/:platform/prices.csv":   "ssyyyyn",
	"POST /studies/:study/rates":                  "sfffyyn",
	"GET /shelf/read":                             "ssffyyy",
	"POST /shelf/read":                            "ssffyyy",
	"GET /shelf/platforms/:platform/draft":        "ssyyyyy",
	"POST /shelf/platforms/:platform/draft":       "ssffnnn",
	"GET /shelf/platforms/:platform/features.csv": "ssnnnnn",
	"GET /features":                               "ssyyyyy",
	"POST /features":                              "ssffyyy",
	"GET /bin":                                    "ssyyyyy",
	"POST /bin":                                   "ssffyyy",
	"GET /history":                                "ssyyyyy",
	"GET /files":                                  "ssyyyyy",
	"GET /files/:name":                            "ssyyyyy",
	"POST /files":                                 "ssffyyy",
	"GET /workspace":                              "ssyyyyy",
	"POST /workspace":                             "ssfffyy",
	"GET /workspace/export":                       "ssfffyy",
	"GET /mailbox":                                "ssfffyy",

	"GET /studies/:study":                              "syyyyyn",
	"GET /studies/:study/events":                       "syyyyyn",
	"GET /studies/:study/options/:option":              "syyyyyn",
	"POST /studies/:study/options/:option":             "sffyyyn",
	"GET /studies/:study/receipts/:option":             "syyyyyn",
	"GET /studies/:study/questions":                    "syyyyyn",
	"POST /studies/:study/questions":                   "sfffyyn",
	"GET /studies/:study/questions.csv":                "syyyyyn",
	"GET /studies/:study/differences":                  "syyyyyn",
	"GET /studies/:study/history":                      "sfyyyyn",
	"POST /studies/:study/history":                     "sffyyyn",
	"GET /studies/:study/links":                        "sfffyyn",
	"POST /studies/:study/links":                       "sfffyyn",
	"GET /studies/:study/brief":                        "syyyyyn",
	"POST /studies/:study/brief":                       "sffyyyn",
	"GET /studies/:study/line-up":                      "syyyyyn",
	"POST /studies/:study/line-up":                     "sffyyyn",
	"GET /studies/:study/coverage":                     "syyyyyn",
	"POST /studies/:study/coverage":                    "sffyyyn",
	"GET /studies/:study/prices":                       "syyyyyn",
	"POST /studies/:study/prices":                      "sffyyyn",
	"GET /studies/:study/growth":                       "syyyyyn",
	"POST /studies/:study/growth":                      "sffyyyn",
	"GET /studies/:study/costs":                        "syyyyyn",
	"POST /studies/:study/costs":                       "sffyyyn",
	"GET /studies/:study/costs/along":                  "syyyyyn",
	"POST /studies/:study/costs/along":                 "sffyyyn",
	"GET /studies/:study/costs/field":                  "syyyyyn",
	"POST /studies/:study/costs/field":                 "sffyyyn",
	"GET /studies/:study/costs/chance":                 "syyyyyn",
	"POST /studies/:study/costs/chance":                "sffyyyn",
	"GET /studies/:study/costs/leaving":                "syyyyyn",
	"POST /studies/:study/costs/leaving":               "sffyyyn",
	"GET /studies/:study/costs/doing":                  "syyyyyn",
	"POST /studies/:study/costs/doing":                 "sffyyyn",
	"GET /studies/:study/costs/bargain":                "syyyyyn",
	"POST /studies/:study/costs/bargain":               "sffyyyn",
	"GET /studies/:study/costs/chance/work":            "syyyyyn",
	"GET /studies/:study/costs/leaving/work":           "syyyyyn",
	"GET /studies/:study/costs/bargain/work":           "syyyyyn",
	"GET /studies/:study/costs/take/:file":             "syyyyyn",
	"GET /studies/:study/costs/doing/:option/todo.ics": "syyyyyn",
	"GET /studies/:study/trials":                       "syyyyyn",
	"POST /studies/:study/trials":                      "sffyyyn",
	"GET /studies/:study/scores":                       "syyyyyn",
	"POST /studies/:study/scores":                      "sffyyyn",
	"GET /studies/:study/verdict":                      "syyyyyn",
	"POST /studies/:study/verdict":                     "sffyyyn",
}

// cast signs all actors in, in the order of the columns, and returns the id of
// an edition. Nobody follows redirects, so that they can be looked at.
func cast(t *testing.T, app *testkit.App) (clients []*http.Client, edition string) {
	t.Helper()
	link := testkit.Visitor(t)
	get(t, link, app.Address+"/read/"+readingLink(t, app, false))
	other, err := app.Store.NewWorkspace(t.Context(), account(t, app, "Some stranger"), "Elsewhere")
	require.NoError(t, err)
	stranger := app.NewAccount(t, other.ID, "Owner elsewhere", doors.Owner)
	clients = []*http.Client{testkit.Visitor(t), link, app.As(t, doors.Reader), app.As(t, doors.Rater), app.As(t, doors.Editor), app.As(t, doors.Owner), app.SignIn(t, stranger)}
	for _, c := range clients {
		c.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	}
	rows, err := app.Store.Editions(t.Context(), app.Workspace.ID)
	require.NoError(t, err)
	return clients, rows[0].ID.String()
}

// account makes an account that has no seat in the app's workspace.
func account(t *testing.T, app *testkit.App, name string) store.Account {
	t.Helper()
	w, _, err := app.Store.FirstWorkspace(t.Context(), "")
	require.NoError(t, err)
	email := app.NewAccount(t, w.ID, name, doors.Reader)
	a, _, err := app.Store.AtDoor(t.Context(), email)
	require.NoError(t, err)
	owner := testkit.As(t, app.Store, w.ID, uuid.Nil, doors.Owner)
	members, err := app.Store.Members(t.Context(), w.ID)
	require.NoError(t, err)
	for _, m := range members {
		if m.Email == email {
			require.NoError(t, app.Store.SetRole(t.Context(), owner, m.Person, doors.Reader, ""))
		}
	}
	return a
}

// readingLink makes a reading link to the demo's study and returns its secret.
func readingLink(t *testing.T, app *testkit.App, names bool) string {
	t.Helper()
	token, hash := doors.NewToken()
	editor := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Editor)
	require.NoError(t, app.Store.MakeReadingLink(t.Context(), editor, "The board", names, hash, time.Now().Add(time.Hour)))
	return token
}

// ask makes a request and says what became of it, in the table's letters.
func ask(t *testing.T, c *http.Client, method, address string) (outcome string, a answer) {
	t.Helper()
	ctx := t.Context()
	req, err := http.NewRequestWithContext(ctx, method, address, strings.NewReader(""))
	require.NoError(t, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	if strings.HasSuffix(address, "/files") || strings.HasSuffix(address, "/shelf/read") {
		req.Header.Set("Content-Type", "multipart/form-data; boundary=none")
	}
	resp, err := c.Do(req)
	require.NoError(t, err)
	if resp.Header.Get("Content-Type") == "text/event-stream" {
		resp.Body.Close()
		return "y", answer{}
	}
	a = read(t, resp, nil)
	return outcomeOf(a), a
}

func outcomeOf(a answer) string {
	switch {
	case a.status == http.StatusUnauthorized, strings.HasPrefix(a.header.Get("Location"), "/sign-in?next="):
		return "s"
	case a.status == http.StatusForbidden:
		return "f"
	case strings.Contains(a.body, "This study is not here any more"), strings.Contains(a.body, "There is no such edition"), strings.Contains(a.body, "There is no such platform"),
		strings.Contains(a.body, "There is no draft of this price list"):
		return "n"
	case a.status >= 500:
		return "broken"
	}
	return "y"
}

// walk asks for routes as every actor and returns what is not as the table
// says. Of a route that is not in the table it complains too. Whoever is turned
// away changes nothing and is told why in words.
func walk(t *testing.T, app *testkit.App, address string, routes []string, clients []*http.Client, edition string) (faults []string) {
	t.Helper()
	for _, route := range routes {
		want, known := table[route]
		if !known {
			faults = append(faults, route+" is served and not in the table")
			continue
		}
		method, path, _ := strings.Cut(route, " ")
		path = strings.NewReplacer(":study", app.Study.String(), ":option", "brindlepost", ":file", "months.csv", ":edition", edition, ":platform", "brindlepost", ":token", "nonsense", ":hash/*path", "old/app.css").Replace(path)
		if path == "/studies/"+app.Study.String()+"/receipts/brindlepost" {
			path += "?month=2027-01"
		}
		for i, actor := range actors {
			client := clients[i]
			if strings.HasPrefix(route, "POST /sign-out") && want[i] == 'y' {
				continue // it would end the session; tested on its own
			}
			if route == "POST /demo" || route == "POST /sign-in" {
				client = testkit.Visitor(t)
				client.CheckRedirect = clients[i].CheckRedirect
			}
			var before string
			if want[i] != 'y' {
				before = contents(t, app)
			}
			got, a := ask(t, client, method, address+path)
			if got != string(want[i]) {
				faults = append(faults, fmt.Sprintf("%s as %s: %s, wanted %c", route, actor, got, want[i]))
			}
			if want[i] != 'y' && before != contents(t, app) {
				faults = append(faults, fmt.Sprintf("%s as %s was turned away and changed something", route, actor))
			}
			if (got == "f" || got == "n") && !strings.Contains(a.body, "data-failure-text") {
				faults = append(faults, fmt.Sprintf("%s as %s was turned away without words", route, actor))
			}
			if actor == "owner of another workspace" && (strings.Contains(a.body, "Spring list") || strings.Contains(a.body, "Brindlepost")) {
				faults = append(faults, route+" shows "+actor+" what is not theirs")
			}
		}
	}
	return faults
}

// contents is everything that the app's workspace holds.
func contents(t *testing.T, app *testkit.App) string {
	t.Helper()
	var out strings.Builder
	require.NoError(t, app.Store.ExportWorkspace(t.Context(), app.Workspace.ID, &out))
	return out.String()
}

func TestEveryRouteLetsInWhomItShould(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	clients, edition := cast(t, app)
	routes := app.Server.Routes()
	for route := range table {
		assert.Contains(t, routes, route, "in the table and not served")
	}
	assert.Empty(t, walk(t, app, app.Address, routes, clients, edition))
}

// TestTheWalkFindsARouteThatIsLeftOpen leaves routes open on purpose: a check
// that cannot fail checks nothing.
func TestTheWalkFindsARouteThatIsLeftOpen(t *testing.T) {
	app := testkit.Start(t, true)
	clients, edition := cast(t, app)
	for _, row := range []struct {
		method, path string
		need         doors.Need
		want         string
	}{
		{"GET", "/shelf", doors.Anyone, "GET /shelf as nobody: y, wanted s"},
		{"GET", "/studies/:study/history", doors.ToView, "GET /studies/:study/history as reading link: y, wanted f"},
		{"POST", "/workspace", doors.ToEdit, "POST /workspace as editor: y, wanted f"},
		{"GET", "/studies/:study/notes", doors.Anyone, "GET /studies/:study/notes is served and not in the table"},
	} {
		address, server := app.Serve(t, app.Store, func(s *web.Server) { s.Tell(row.method, row.path, row.need) })
		for _, c := range clients {
			moveCookies(t, c, app.Address, address)
		}
		require.Contains(t, server.Routes(), row.method+" "+row.path)
		faults := walk(t, app, address, []string{row.method + " " + row.path}, clients, edition)
		assert.Contains(t, faults, row.want)
	}
	untold, err := web.New(t.Context(), web.Options{Store: app.Store, Now: time.Now})
	require.NoError(t, err)
	untold.Tell("GET", "/open", doors.Untold)
	_, err = untold.Handler()
	assert.ErrorContains(t, err, "GET /open does not tell what it needs")
}

// moveCookies lets a client go to another server process with its session.
func moveCookies(t *testing.T, c *http.Client, from, to string) {
	t.Helper()
	a, err := url.Parse(from)
	require.NoError(t, err)
	b, err := url.Parse(to)
	require.NoError(t, err)
	c.Jar.SetCookies(b, c.Jar.Cookies(a))
}

// edits are edits of every field and every list that the table of a study has,
// one of each kind: who may, the coin it is posted to, and the form.
func edits(t *testing.T, app *testkit.App, person string) (all []kindOfEdit) {
	t.Helper()
	st, err := app.Store.Study(t.Context(), app.Workspace.ID, app.Study, testkit.Day)
	require.NoError(t, err)
	editors, raters := "sfffyyn", "sffyyyn"
	add := func(may string, form ...string) {
		all = append(all, kindOfEdit{study.CoinOf(document.Path(form[3])), may, form})
	}
	for path, value := range map[string]string{
		"title": "Autumn list", "company": "Madder & Weld", "question": "Which?", "currency": "USD", "start": "Mar 2027", "months": "24", "pay": "yearly", "budget": "9,000", "patience_days": "30",
		"rates.GBP.rate": "1.25", "rates.GBP.on": "2026-11-01", "drivers.contacts.now": "7000", "drivers.contacts.growth": "3",
		"case": "high", "drivers.contacts.shape": "straight", "drivers.contacts.low.growth": "0.5", "drivers.contacts.season.apr": "1.3", "drivers.contacts.told.2027-06.value": "9000",
		"drivers.contacts.clean_every": "6", "history.contacts.counted.2026-12.value": "6300", "options.quirebird.move.hours": "9", "options.quirebird.term": "yearly", "resale": "40",
		"needs.automation/event-triggers.name": "Triggers", "needs.automation/event-triggers.note": "by purchase", "needs.automation/event-triggers.level": "bonus",
		"options.quirebird.name": "Quire", "options.quirebird.face": "9", "options.quirebird.now": "true",
		"criteria.ease.name": "Effort", "criteria.ease.note": "a day", "criteria.ease.source": "cost", "criteria.ease.weight": "20", "criteria.cost.best": "3000", "criteria.cost.worst": "11000",
	} {
		spot, there := study.Kept().Spot(*st, document.Path(path))
		require.True(t, there, path)
		add(editors, "op", "set", "path", path, "was", spot.Text, "value", value)
	}
	for list, item := range map[string][]string{
		"rates": {"currency", "CHF", "rate", "1.05", "on", "2026-11-02"}, "drivers": {"driver", "stored_records", "now", "5", "growth", "1"}, "own_drivers": {"name", "Trays", "unit", "tray", "kind", "stock"},
		"needs": {"feature", "links/till", "name", "Till", "level", "want"}, "options": {"list", "fernwire " + st.Options[2].ObservedOn.Format(time.DateOnly)}, "private_offers": {"of", "fernwire beacon", "months", "12", "paid", "upfront", "bill", "2,400", "on", "20 Nov 2026"}, "criteria": {"name", "Smell", "weight", "5", "source", "rated"},
	} {
		form := []string{"op", "insert", "path", list}
		for i := 0; i < len(item); i += 2 {
			form = append(form, "item."+item[i], item[i+1])
		}
		add(editors, form...)
	}
	for list, key := range map[string]string{"rates": "GBP", "drivers": "seats", "needs": "automation/event-triggers", "options": "quirebird", "criteria": "ease"} {
		add(editors, "op", "remove", "path", list+"."+key)
		if list != "rates" {
			add(editors, "op", "move", "path", list+"."+key)
		}
	}
	add(editors, "op", "bend", "path", "drivers.contacts", "before", "Jun 2027", "value", "9,000")
	add(editors, "op", "take-over", "path", "drivers.contacts")
	add(editors, "op", "history", "path", "drivers", "value", "contacts", "rows", "2025-01,5000\n2025-02,5100")
	add(editors, "op", "paste", "path", "criteria", "columns", "name,weight", "rows", "Smell\t5\nTaste\t6")
	add(raters, "op", "set", "path", "ratings."+person+"/tallowpost/help.value", "was", "", "value", "4.5")
	return all
}

type kindOfEdit struct {
	coin, may string
	form      []string
}

// TestEveryKindOfEditIsOpenToWhomItShould posts every kind of edit as every
// actor: whoever may changes something, whoever may not changes nothing; and
// what was done is undone.
func TestEveryKindOfEditIsOpenToWhomItShould(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	clients, _ := cast(t, app)
	require.NoError(t, testkit.Set(t.Context(), app.Store, testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner), strings.Replace(ratingPath(t, app, "x", "y"), "x/y", "tallowpost/help", 1), "5", ""))
	people := map[string]string{}
	for _, role := range doors.Roles {
		people[string(role)] = testkit.As(t, app.Store, app.Workspace.ID, app.Study, role).By.String()
	}
	before := contents(t, app)
	n := 0
	for i, actor := range actors {
		for _, one := range edits(t, app, orElse(people[actor], people["reader"])) {
			a := post(t, clients[i], app.Page(one.coin), one.form...)
			assert.Equal(t, string(one.may[i]), outcomeOf(a), "%v as %s: %s", one.form, actor, words(a))
			after := contents(t, app)
			assert.Equal(t, one.may[i] == 'y', before != after, "%v as %s: %s", one.form, actor, words(a))
			n++
			if one.may[i] != 'y' {
				continue
			}
			a = post(t, clients[i], app.Page(one.coin), "op", "undo")
			assert.Equal(t, http.StatusSeeOther, a.status, "%v as %s: %s", one.form, actor, words(a))
			before = contents(t, app)
		}
	}
	t.Logf("%d edits", n)
	for _, path := range []string{"key", "unheard.of", "criteria.ease.key", "options.fernwire.platform", ""} {
		a := post(t, app.Client, app.Page("scores"), "op", "set", "path", path, "value", "x")
		assert.GreaterOrEqual(t, a.status, 400, path)
		assert.Less(t, a.status, 500, path)
		assert.Equal(t, before, contents(t, app), path)
	}
}

func orElse(s, other string) string {
	if s == "" {
		return other
	}
	return s
}

func TestAPutBackNeedsWhatTheEditNeeds(t *testing.T) {
	app := testkit.Start(t, true)
	owner := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner)
	post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.contacts.now", "was", "6400", "value", "7000")
	post(t, app.Client, app.Page("scores"), "op", "set", "path", ratingPath(t, app, "fernwire", "ease"), "was", "5", "value", "6")
	changes, err := app.Store.History(t.Context(), app.Workspace.ID, app.Study, store.Asked{Fields: []string{"drivers", "ratings"}, Most: 5})
	require.NoError(t, err)
	require.Len(t, changes, 2)
	rater, editor := app.As(t, doors.Rater), app.As(t, doors.Editor)
	a := post(t, rater, app.Page("history"), "op", "put-back", "change", changes[1].ID.String(), "was", "7000")
	assert.Equal(t, http.StatusForbidden, a.status)
	assert.Contains(t, words(a), "This needs an editor; you are a rater in Marl &amp; Thistle")
	a = post(t, editor, app.Page("history"), "op", "put-back", "change", changes[0].ID.String(), "was", "6")
	assert.Equal(t, http.StatusForbidden, a.status)
	assert.Contains(t, words(a), "A rating is changed by who gave it: Imke Vroom")
	a = post(t, editor, app.Page("history"), "op", "put-back", "change", changes[1].ID.String(), "was", "7000")
	assert.Equal(t, http.StatusOK, a.status)

	// A role that was lowered no longer undoes what it once did.
	post(t, editor, app.Page("growth"), "op", "set", "path", "drivers.seats.now", "was", "3", "value", "4")
	dov := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Editor)
	require.NoError(t, app.Store.SetRole(t.Context(), owner, dov.By, doors.Editor, doors.Rater))
	a = post(t, editor, app.Page("growth"), "op", "undo")
	assert.Equal(t, http.StatusOK, a.status, "there is nothing for it to undo")
	assert.False(t, strings.Contains(a.body, "Undo:"))
	st, err := app.Store.Study(t.Context(), dov.Workspace, dov.Study, dov.Today)
	require.NoError(t, err)
	spot, _ := study.Kept().Spot(*st, "drivers.seats.now")
	assert.Equal(t, "4", spot.Text)
	_, err = app.Store.Undo(t.Context(), dov)
	var refused *store.NotAllowedError
	assert.ErrorAs(t, err, &refused, "nor where the role is one that somebody had")
}
