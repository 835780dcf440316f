package web_test

import (
	"net/http"
	"net/url"
	"ninecoins/internal/core/study"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/demo"
	"ninecoins/internal/doors"
	"ninecoins/internal/testkit"
	"ninecoins/internal/web"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestWithTheDatabaseAwayNoPasswordIsOnThePage sends every form that asks for a
// password while the database is away, with fields that nobody knows among
// them; and every other one, which is kept to be sent again.
func TestWithTheDatabaseAwayNoPasswordIsOnThePage(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	app.SignIn(t, demo.People[0].Email)
	e := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner)
	token, hash := doors.NewToken()
	_, err := app.Store.Invite(t.Context(), e, "rue@marl.example", doors.Reader, hash, time.Hour)
	require.NoError(t, err)
	reset, resetHash := doors.NewToken()
	require.NoError(t, app.Store.MakeNewPassword(t.Context(), account(t, app, "Sedge").ID, resetHash, time.Hour))
	rows, err := app.Store.Editions(t.Context(), app.Workspace.ID)
	require.NoError(t, err)
	var forms []sheet
	for _, page := range []string{"/sign-in", "/new-password/" + reset, "/join/" + token} {
		forms = append(forms, formsOf(t, get(t, testkit.Visitor(t), app.Address+page))...)
	}
	for _, page := range pagesOf(app, rows[0].ID.String()) {
		forms = append(forms, formsOf(t, get(t, app.Client, app.Address+page))...)
	}
	forms = append(forms, sheet{"/set-up/x", []field{{"workspace", "", "text"}, {"password", "", "password"}}}, sheet{"/account", []field{{"edit", "pin", "hidden"}, {"pin", "", "password"}}})
	app.Store.Close()
	secret, kept, withheld := "fennel under glass 9", 0, 0
	for _, f := range forms {
		values, secrets := url.Values{}, false
		for _, one := range f.fields {
			values.Set(one.name, "typed & kept")
			if one.kind == "password" {
				secrets = true
				values.Set(one.name, secret)
			}
		}
		if strings.HasSuffix(f.action, "/files") || len(values) == 0 {
			continue
		}
		resp, err := app.Client.PostForm(app.Address+f.action, values)
		a := read(t, resp, err)
		require.Equal(t, http.StatusServiceUnavailable, a.status, f.action)
		assert.NotContains(t, a.body, secret, f.action)
		if secrets {
			withheld++
			assert.Contains(t, words(a), "it may hold a secret")
			assert.NotContains(t, words(a), "Send it again")
			continue
		}
		kept++
		assert.Contains(t, words(a), "What you sent is kept on this page", "%s %v", f.action, values)
		assert.Contains(t, a.body, "typed &amp; kept")
	}
	assert.Greater(t, kept, 30)
	assert.GreaterOrEqual(t, withheld, 7)
}

// TestAFullDiskIsToldAsSuch lets the database refuse as it does when its disk
// is full.
func TestAFullDiskIsToldAsSuch(t *testing.T) {
	app := testkit.Start(t, true)
	conn, err := pgx.Connect(t.Context(), app.Database)
	require.NoError(t, err)
	defer conn.Close(t.Context())
	_, err = conn.Exec(t.Context(), `create function full_disk() returns trigger language plpgsql as $$ begin raise exception 'could not extend file: No space left on device' using errcode = 'disk_full'; end $$;
		create trigger full_disk before insert on changes for each row execute function full_disk()`)
	require.NoError(t, err)
	a := post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.contacts.now", "was", "6400", "value", "7000")
	assert.Equal(t, http.StatusInsufficientStorage, a.status)
	assert.Contains(t, words(a), "The disk of the database is full")
	assert.Contains(t, words(a), "Nothing was saved")
	assert.Contains(t, a.body, `name="value" value="7000"`, "what was typed is kept")
	assert.NotContains(t, words(a), "does not answer")
	a = post(t, app.Client, app.Address+"/", "op", "delete", "of", app.Study.String())
	assert.Equal(t, http.StatusInsufficientStorage, a.status)
	assert.Equal(t, http.StatusOK, get(t, app.Client, app.Page("growth")).status, "what is there can be read")
	_, err = conn.Exec(t.Context(), "drop trigger full_disk on changes")
	require.NoError(t, err)
	assert.Equal(t, http.StatusOK, post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.contacts.now", "was", "6400", "value", "7000").status)
}

func TestUnderHTTPSBrowsersAreKeptToIt(t *testing.T) {
	app := testkit.Start(t, false)
	for address, want := range map[string]string{"https://coins.example": "max-age=31536000", "http://coins.example": "", "http://127.0.0.1:9009": ""} {
		s, err := web.New(t.Context(), web.Options{Store: app.Store, Address: address, Now: time.Now})
		require.NoError(t, err)
		handler, err := s.Handler()
		require.NoError(t, err)
		for _, path := range []string{"/sign-in", "/healthz", "/nowhere", "/assets/x/y"} {
			assert.Equal(t, want, record(t, handler, "GET", path, "127.0.0.1:5", nil).header.Get("Strict-Transport-Security"), "%s%s", address, path)
		}
	}
}

// TestTheDemosDoorIsShutUnderAPublicAddress asks as whoever sits at the machine
// would, and as a proxy on it does that hides where it was asked from.
func TestTheDemosDoorIsShutUnderAPublicAddress(t *testing.T) {
	app := testkit.Start(t, true)
	for address, open := range map[string]bool{"https://coins.example": false, "http://coins.example:9009": false, "http://192.168.1.7:9009": false, "https://127.0.0.1.coins.example": false,
		"http://127.0.0.1:9009": true, "http://localhost:9009": true, "https://localhost": true, "http://[::1]:9009": true, "http://0.0.0.0:9009": true, "http://[::]:9009": true} {
		s, err := web.New(t.Context(), web.Options{Store: app.Store, Address: address, Demo: demo.People[0].Email, Now: time.Now})
		require.NoError(t, err)
		handler, err := s.Handler()
		require.NoError(t, err)
		here := map[string]string{"Host": "127.0.0.1:9009"}
		assert.Equal(t, open, record(t, handler, "POST", "/demo", "127.0.0.1:5", here).status == http.StatusSeeOther, address)
		assert.Equal(t, open, strings.Contains(record(t, handler, "GET", "/sign-in", "127.0.0.1:5", here).body, "Look around as"), address)
		assert.Equal(t, !open, record(t, handler, "GET", "/mailbox", "127.0.0.1:5", here).status == http.StatusNotFound, address)
	}
}

// TestARoleThatWasLoweredIsOfferedWhatItMayUndo takes a role away from somebody
// who changed a number after rating.
func TestARoleThatWasLoweredIsOfferedWhatItMayUndo(t *testing.T) {
	app := testkit.Start(t, true)
	c := app.As(t, doors.Editor)
	theirs := "ratings." + testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Editor).By.String() + "/tallowpost/help.value"
	post(t, c, app.Page("scores"), "op", "set", "path", theirs, "was", "", "value", "4.5")
	post(t, c, app.Page("growth"), "op", "set", "path", "drivers.seats.now", "was", "3", "value", "4")
	owner := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner)
	dov := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Editor)
	require.NoError(t, app.Store.SetRole(t.Context(), owner, dov.By, doors.Editor, doors.Rater))
	a := get(t, c, app.Page("scores"))
	assert.NotContains(t, words(a), "Undo: Seats")
	assert.Contains(t, words(a), "Undo: Tallowpost on")
	a = post(t, c, app.Page("scores"), "op", "undo")
	assert.Equal(t, http.StatusOK, a.status)
	assert.Contains(t, words(a), "Redo : Tallowpost on")
	assert.NotContains(t, words(a), "Undo:")
	a = post(t, c, app.Page("scores"), "op", "redo")
	assert.Contains(t, words(a), "Undo: Tallowpost on")
	require.NoError(t, app.Store.SetRole(t.Context(), owner, dov.By, doors.Rater, doors.Reader))
	assert.NotContains(t, words(get(t, c, app.Page("scores"))), "Undo:")
	assert.Equal(t, http.StatusForbidden, post(t, c, app.Page("scores"), "op", "undo").status)
	require.NoError(t, app.Store.SetRole(t.Context(), owner, dov.By, doors.Reader, doors.Editor))
	a = post(t, c, app.Page("scores"), "op", "undo")
	assert.Contains(t, words(a), "Undo: Tallowpost on", "the newest is undone first again")
	st, err := app.Store.Study(t.Context(), dov.Workspace, dov.Study, dov.Today)
	require.NoError(t, err)
	spot, _ := study.Kept().Spot(*st, "drivers.seats.now")
	assert.Equal(t, "3", spot.Text)
}
