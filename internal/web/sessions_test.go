package web_test

import (
	"bufio"
	"fmt"
	"html"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"ninecoins/internal/demo"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAReadingLinkShowsOneStudyAndNoNames(t *testing.T) {
	app := testkit.Start(t, true)
	page := app.Page("links")
	assert.Contains(t, words(post(t, app.Client, page, "edit", "make", "label", "", "until", "2026-12-01")), "Type for whom the link is")
	assert.Contains(t, words(post(t, app.Client, page, "edit", "make", "label", "The board", "until", "yesterday")), "“yesterday” is no day from today to 2027-11-25")
	assert.Contains(t, words(post(t, app.Client, page, "edit", "make", "label", "The board", "until", "2026-11-23")), "is no day from today")
	a := post(t, app.Client, page, "edit", "make", "label", "The board", "until", "2126-11-23")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	a = post(t, app.Client, page, "edit", "make", "label", "The board", "until", "2026-11-27")
	conn, err := pgx.Connect(t.Context(), app.Database)
	require.NoError(t, err)
	defer conn.Close(t.Context())
	_, err = conn.Exec(t.Context(), "update reading_links set ends_at = now() + interval '1 day'") // the tests' day may be past
	require.NoError(t, err)
	secret := regexp.MustCompile(`http://[^"]*/read/[A-Za-z0-9_-]{43}`).FindString(a.body)
	require.NotEmpty(t, secret)
	assert.False(t, strings.Contains(get(t, app.Client, page).body, secret), "shown once")

	c := testkit.Visitor(t)
	a = get(t, c, secret)
	assert.Contains(t, a.at, "/brief")
	assert.Contains(t, words(a), "You read this study by a link, until")
	for _, coin := range append(coins, "options/brindlepost", "receipts/brindlepost?month=2027-01") {
		a := get(t, c, app.Page(coin))
		assert.Equal(t, http.StatusOK, a.status, coin)
		for _, p := range demo.People {
			assert.False(t, strings.Contains(a.body, p.Name), "%s on %s", p.Name, coin)
		}
		assert.False(t, regexp.MustCompile(`<input[^>]*name="value"`).MatchString(a.body), "nothing to type into on %s", coin)
		assert.False(t, strings.Contains(a.body, "Undo:"), coin)
	}
	assert.Contains(t, words(get(t, c, app.Page("scores"))), "rated 0 to 9 by Rater 1")
	other, err := app.Store.ImportStudy(t.Context(), store.Editing{Workspace: app.Workspace.ID}, []byte(strings.Replace(string(demo.Study()), `"key": "spring-list"`, `"key": "autumn-list"`, 1)))
	require.NoError(t, err)
	assert.Contains(t, get(t, c, app.Address+"/studies/"+other.String()+"/brief").at, "/sign-in", "no other study")

	named := testkit.Visitor(t)
	get(t, named, app.Address+"/read/"+readingLink(t, app, true))
	assert.Contains(t, words(get(t, named, app.Page("scores"))), "rated 0 to 9 by Imke Vroom", "ticked, names are shown")

	a = get(t, app.Client, page)
	id := regexp.MustCompile(`value="withdraw">\s*<input type="hidden" name="of" value="([^"]*)">\s*<button class="link" aria-label="Withdraw the link for The board"`).FindAllStringSubmatch(a.body, -1)
	require.Len(t, id, 2)
	for _, one := range id {
		post(t, app.Client, page, "edit", "withdraw", "of", one[1])
	}
	assert.Contains(t, get(t, c, app.Page("scores")).at, "/sign-in")
	assert.Equal(t, http.StatusGone, get(t, testkit.Visitor(t), secret).status)
	assert.Equal(t, http.StatusNotFound, post(t, app.Client, page, "edit", "withdraw", "of", id[0][1]).status)
	assert.Equal(t, http.StatusBadRequest, post(t, app.Client, page, "edit", "frame").status)
}

// TestASessionShowsOnlyItsOwnUnderLoad has people of several workspaces ask
// for their pages all at once, on two servers.
func TestASessionShowsOnlyItsOwnUnderLoad(t *testing.T) {
	app := testkit.Start(t, true)
	servers := []string{app.Address, app.Another(t)}
	type person struct {
		client *http.Client
		name   string
		study  uuid.UUID
	}
	var people []person
	for n := range 6 {
		w, err := app.Store.NewWorkspace(t.Context(), account(t, app, fmt.Sprintf("Founder %d", n)), fmt.Sprintf("Workspace-%d.", n))
		require.NoError(t, err)
		by := store.Editing{Workspace: w.ID}
		for _, list := range demo.PriceLists() {
			_, err = app.Store.ImportPriceList(t.Context(), by, list)
			require.NoError(t, err)
		}
		study, err := app.Store.ImportStudy(t.Context(), by, []byte(strings.ReplaceAll(string(demo.Study()), "Spring list", fmt.Sprintf("Study-%d.", n))))
		require.NoError(t, err)
		p := person{client: app.SignIn(t, app.NewAccount(t, w.ID, fmt.Sprintf("Person-%d.", n), doors.Editor)), name: fmt.Sprint(n, "."), study: study}
		moveCookies(t, p.client, servers[0], servers[1])
		people = append(people, p)
	}
	mine := regexp.MustCompile(`(?:Workspace|Study|Person)-(\d\.)`)
	var all sync.WaitGroup
	for n, p := range people {
		all.Go(func() {
			for round := range 12 {
				server := servers[(n+round)%2]
				pages := []string{server + "/", server + "/studies/" + p.study.String() + "/scores", server + "/account", server + "/workspace", server + "/studies/" + p.study.String() + "/history"}
				a := get(t, p.client, pages[round%len(pages)])
				found := mine.FindAllStringSubmatch(a.body, -1)
				assert.NotEmpty(t, found)
				for _, m := range found {
					assert.Equal(t, p.name, m[1])
				}
				post(t, p.client, server+"/studies/"+p.study.String()+"/growth", "op", "set", "path", "drivers.seats.now", "was", fmt.Sprint(3+round), "value", fmt.Sprint(4+round))
				another := people[(n+1)%len(people)].study
				assert.Equal(t, http.StatusNotFound, get(t, p.client, server+"/studies/"+another.String()+"/costs").status)
			}
		})
	}
	all.Wait()
	for _, p := range people {
		assert.Contains(t, get(t, p.client, servers[0]+"/studies/"+p.study.String()+"/growth").body, `value="15" name="value.drivers.seats.now"`)
	}
}

// TestAnOpenStreamEndsWithItsLink follows a study by a reading link until that is
// withdrawn.
func TestAnOpenStreamEndsWithItsLink(t *testing.T) {
	app := testkit.Start(t, true)
	owner := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner)
	c := testkit.Visitor(t)
	get(t, c, app.Address+"/read/"+readingLink(t, app, false))
	c.Timeout = 0
	resp, err := c.Get(app.Page("events"))
	require.NoError(t, err)
	defer resp.Body.Close()
	lines, seats := bufio.NewScanner(resp.Body), int64(3)
	require.True(t, lines.Scan())
	heard, ended := make(chan bool, 100), make(chan bool)
	go func() {
		for lines.Scan() {
			if lines.Text() == "event: changed" {
				heard <- true
			}
		}
		close(ended)
	}()
	change := func() {
		seats++
		assert.NoError(t, testkit.Set(t.Context(), app.Store, owner, "drivers.seats.now", fmt.Sprint(seats-1), fmt.Sprint(seats)))
	}
	require.Eventually(t, func() bool { // the watcher may still be connecting
		change()
		select {
		case <-heard:
			return true
		case <-ended:
			assert.Fail(t, "the stream ended while the link was open")
			return true
		case <-time.After(200 * time.Millisecond):
			return false
		}
	}, 20*time.Second, time.Millisecond)
	change()
	links, err := app.Store.ReadingLinks(t.Context(), app.Workspace.ID, app.Study)
	require.NoError(t, err)
	require.NoError(t, app.Store.WithdrawReadingLink(t.Context(), owner, links[0].ID))
	<-ended
	assert.Contains(t, get(t, c, app.Page("costs")).at, "/sign-in")
}

func TestAnOpenStreamEndsWithTheSeat(t *testing.T) {
	app := testkit.Start(t, true)
	dov := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Editor)
	owner := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner)
	c := app.As(t, doors.Editor)
	c.Timeout = 0
	resp, err := c.Get(app.Page("events"))
	require.NoError(t, err)
	defer resp.Body.Close()
	lines := bufio.NewScanner(resp.Body)
	require.True(t, lines.Scan())
	assert.Equal(t, ": following", lines.Text())
	// The watcher may still be connecting: changes are made until one is heard.
	seats, heard := int64(3), make(chan bool)
	go func() {
		for lines.Scan() && lines.Text() != "event: changed" {
		}
		close(heard)
	}()
	require.Eventually(t, func() bool {
		seats++
		if !assert.NoError(t, testkit.Set(t.Context(), app.Store, owner, "drivers.seats.now", fmt.Sprint(seats-1), fmt.Sprint(seats))) {
			return true
		}
		select {
		case <-heard:
			return true
		case <-time.After(200 * time.Millisecond):
			return false
		}
	}, 20*time.Second, time.Millisecond)
	require.NoError(t, app.Store.SetRole(t.Context(), owner, dov.By, doors.Editor, ""))
	require.NoError(t, testkit.Set(t.Context(), app.Store, owner, "drivers.contacts.now", "6400", "7000"))
	for lines.Scan() {
	}
	assert.NoError(t, lines.Err(), "the stream comes to its end")
	assert.Equal(t, http.StatusNotFound, get(t, c, app.Page("events")).status, "and is not opened again")
}

// TestAStreamTellsWhatItsPageMissed opens streams for pages that were made before and
// after a change: who has missed it is told at once, and nobody else.
func TestAStreamTellsWhatItsPageMissed(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	owner := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner)
	c := app.As(t, doors.Editor)
	c.Timeout = 0
	at := regexp.MustCompile(`data-last="([^"]*)"`)
	newest := func() string {
		return html.UnescapeString(at.FindStringSubmatch(get(t, c, app.Page("growth")).body)[1])
	}
	first := func(page string) string { // what the stream says before anything else happens
		resp, err := c.Get(app.Page("events?" + url.Values{"at": {page}}.Encode()))
		require.NoError(t, err)
		defer resp.Body.Close()
		assert.Equal(t, "no", resp.Header.Get("X-Accel-Buffering"), "no proxy holds it back")
		lines := bufio.NewScanner(resp.Body)
		for range 5 { // ": following", and the same as an event, with the lines that end them
			require.True(t, lines.Scan())
		}
		said := make(chan string, 1)
		go func() { lines.Scan(); said <- lines.Text() }()
		select {
		case text := <-said:
			return text
		case <-time.After(300 * time.Millisecond):
			return "nothing"
		}
	}
	before := newest()
	require.NoError(t, testkit.Set(t.Context(), app.Store, owner, "drivers.seats.now", "3", "4"))
	after := newest()
	require.NotEqual(t, before, after)
	assert.Equal(t, "event: changed", first(before))
	_, err := app.Store.Undo(t.Context(), owner)
	require.NoError(t, err)
	assert.Equal(t, "event: changed", first(after), "it was taken back")
	time.Sleep(300 * time.Millisecond) // until what was told has been heard by all
	assert.Equal(t, "nothing", first(newest()))
}

// TestSigningOutEndsThisBrowsersSession signs one account in in three browsers.
func TestSigningOutEndsThisBrowsersSession(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	here, there, elsewhere := app.As(t, doors.Editor), app.As(t, doors.Editor), app.As(t, doors.Editor)
	in := func(c *http.Client) bool { return !strings.Contains(get(t, c, app.Page("costs")).at, "sign-in") }
	assert.Contains(t, get(t, here, app.Address+"/account").body, `action="/sign-out/everywhere"`)
	assert.Equal(t, "/sign-in", post(t, here, app.Address+"/sign-out").at)
	assert.False(t, in(here))
	assert.True(t, in(there) && in(elsewhere), "the others go on")
	assert.Equal(t, "/sign-in", post(t, there, app.Address+"/sign-out/everywhere").at)
	assert.False(t, in(there) || in(elsewhere))
}
