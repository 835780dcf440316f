package web_test

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

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

	"GET /":                 "ssyyyyy",
	"POST /":                "ssffyyy",
	"POST /sign-out":        "ssyyyyy",
	"GET /account":          "ssyyyyy",
	"POST /account":         "ssyyyyy",
	"POST /workspaces":      "ssyyyyy",
	"GET /shelf":            "ssyyyyy",
	"POST /shelf":           "ssffyyy",
	"GET /shelf/:edition":   "ssyyyyn",
	"GET /bin":              "ssyyyyy",
	"POST /bin":             "ssffyyy",
	"GET /history":          "ssyyyyy",
	"POST /files":           "ssffyyy",
	"GET /workspace":        "ssyyyyy",
	"POST /workspace":       "ssfffyy",
	"GET /workspace/export": "ssfffyy",
	"GET /mailbox":          "ssfffyy",

	"GET /studies/:study":                  "syyyyyn",
	"GET /studies/:study/events":           "syyyyyn",
	"GET /studies/:study/options/:option":  "syyyyyn",
	"POST /studies/:study/options/:option": "sffyyyn",
	"GET /studies/:study/receipts/:option": "syyyyyn",
	"GET /studies/:study/history":          "sfyyyyn",
	"POST /studies/:study/history":         "sffyyyn",
	"GET /studies/:study/links":            "sfffyyn",
	"POST /studies/:study/links":           "sfffyyn",
	"GET /studies/:study/brief":            "syyyyyn",
	"POST /studies/:study/brief":           "sffyyyn",
	"GET /studies/:study/line-up":          "syyyyyn",
	"POST /studies/:study/line-up":         "sffyyyn",
	"GET /studies/:study/coverage":         "syyyyyn",
	"POST /studies/:study/coverage":        "sffyyyn",
	"GET /studies/:study/prices":           "syyyyyn",
	"POST /studies/:study/prices":          "sffyyyn",
	"GET /studies/:study/growth":           "syyyyyn",
	"POST /studies/:study/growth":          "sffyyyn",
	"GET /studies/:study/costs":            "syyyyyn",
	"POST /studies/:study/costs":           "sffyyyn",
	"GET /studies/:study/trials":           "syyyyyn",
	"POST /studies/:study/trials":          "sffyyyn",
	"GET /studies/:study/scores":           "syyyyyn",
	"POST /studies/:study/scores":          "sffyyyn",
	"GET /studies/:study/verdict":          "syyyyyn",
	"POST /studies/:study/verdict":         "sffyyyn",
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
	if strings.HasSuffix(address, "/files") {
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
	case strings.Contains(a.body, "This study is not here any more"), strings.Contains(a.body, "There is no such edition"):
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
		path = strings.NewReplacer(":study", app.Study.String(), ":option", "brindlepost", ":edition", edition, ":token", "nonsense", ":hash/*path", "old/app.css").Replace(path)
		if path == "/studies/"+app.Study.String()+"/receipts/brindlepost" {
			path += "?month=2027-01"
		}
		for i, actor := range actors {
			client := clients[i]
			if route == "POST /sign-out" && want[i] == 'y' {
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
	data, err := app.Store.ExportWorkspace(t.Context(), app.Workspace.ID)
	require.NoError(t, err)
	return string(data)
}

func TestEveryRouteLetsInWhomItShould(t *testing.T) {
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

// TestEveryKindOfEditIsOpenToWhomItShould posts every kind of edit as every
// actor: whoever may changes something, whoever may not changes nothing.
func TestEveryKindOfEditIsOpenToWhomItShould(t *testing.T) {
	app := testkit.Start(t, true)
	clients, _ := cast(t, app)
	editors, raters := "sfffyyn", "sffyyyn"
	for _, row := range []struct {
		coin, may string
		form      []string
		back      []string
	}{
		{"costs", editors, []string{"edit", "pay", "was", "monthly", "value", "yearly"}, []string{"edit", "undo"}},
		{"growth", editors, []string{"edit", "driver", "of", "contacts", "was", "6400", "value", "7000"}, []string{"edit", "undo"}},
		{"growth", editors, []string{"edit", "growth", "of", "contacts", "was", "2", "value", "3"}, []string{"edit", "undo"}},
		{"scores", editors, []string{"edit", "weight", "of", "ease", "was", "18", "value", "20"}, []string{"edit", "undo"}},
		{"scores", editors, []string{"edit", "best", "of", "cost", "was", "4000", "value", "3000"}, []string{"edit", "undo"}},
		{"scores", editors, []string{"edit", "worst", "of", "cost", "was", "10000", "value", "11000"}, []string{"edit", "undo"}},
		{"line-up", editors, []string{"edit", "option", "of", "quirebird"}, []string{"edit", "undo"}},
		{"scores", raters, []string{"edit", "rating", "of", "help", "option", "tallowpost", "was", "", "value", "4.5"}, []string{"edit", "undo"}},
	} {
		for i, actor := range actors {
			if row.coin == "scores" && row.form[1] == "rating" && actor == "owner" {
				row.form[7], row.form[9] = "5", "4.5" // the demo's owner has rated it already
			}
			before := contents(t, app)
			a := post(t, clients[i], app.Page(row.coin), row.form...)
			assert.Equal(t, string(row.may[i]), outcomeOf(a), "%v as %s", row.form, actor)
			assert.Equal(t, row.may[i] == 'y', before != contents(t, app), "%v as %s: %s", row.form, actor, words(a))
			if row.may[i] == 'y' {
				a = post(t, clients[i], app.Page(row.coin), row.back...)
				assert.Equal(t, http.StatusSeeOther, a.status, "%v as %s: %s", row.back, actor, words(a))
			}
		}
	}
	assert.Equal(t, doors.Untold, store.NeedOf("unheard of"))
}

func TestAPutBackNeedsWhatTheEditNeeds(t *testing.T) {
	app := testkit.Start(t, true)
	owner := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner)
	post(t, app.Client, app.Page("growth"), "edit", "driver", "of", "contacts", "was", "6400", "value", "7000")
	post(t, app.Client, app.Page("scores"), "edit", "rating", "of", "ease", "option", "fernwire", "was", "5", "value", "6")
	changes, err := app.Store.History(t.Context(), app.Workspace.ID, app.Study, store.Asked{Edits: []string{"driver", "rating"}, Most: 5})
	require.NoError(t, err)
	require.Len(t, changes, 2)
	rater, editor := app.As(t, doors.Rater), app.As(t, doors.Editor)
	a := post(t, rater, app.Page("history"), "edit", "put-back", "of", changes[1].ID.String(), "was", "7000")
	assert.Equal(t, http.StatusForbidden, a.status)
	assert.Contains(t, words(a), "This needs an editor; you are a rater in Marl &amp; Thistle")
	a = post(t, editor, app.Page("history"), "edit", "put-back", "of", changes[0].ID.String(), "was", "6")
	assert.Equal(t, http.StatusForbidden, a.status)
	assert.Contains(t, words(a), "A rating is changed by who gave it: Imke Vroom")
	a = post(t, editor, app.Page("history"), "edit", "put-back", "of", changes[1].ID.String(), "was", "7000")
	assert.Equal(t, http.StatusOK, a.status)

	// A role that was lowered no longer undoes what it once did.
	post(t, editor, app.Page("growth"), "edit", "driver", "of", "seats", "was", "3", "value", "4")
	dov := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Editor)
	require.NoError(t, app.Store.SetRole(t.Context(), owner, dov.By, doors.Editor, doors.Rater))
	a = post(t, editor, app.Page("growth"), "edit", "undo")
	assert.Equal(t, http.StatusOK, a.status, "there is nothing for it to undo")
	assert.False(t, strings.Contains(a.body, "Undo:"))
	st, err := app.Store.Study(t.Context(), dov.Workspace, dov.Study, dov.Today)
	require.NoError(t, err)
	assert.Equal(t, "4", store.Field{Edit: "driver", Of: "seats"}.In(st))
	_, err = app.Store.Undo(t.Context(), dov)
	var refused *store.NotAllowedError
	assert.ErrorAs(t, err, &refused, "nor where the role is one that somebody had")
}
