package web_test

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"

	"ninecoins/internal/demo"
	"ninecoins/internal/doors"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// noLetter fails the test when a letter was sent.
func noLetter(t *testing.T, app *testkit.App) {
	t.Helper()
	select {
	case l := <-app.Letters:
		assert.Fail(t, "a letter was sent", "%s to %s", l.Subject, l.To)
	default:
	}
}

func TestAnEmailChangesWhenItsLetterIsAnswered(t *testing.T) {
	app := testkit.Start(t, true)
	app.SignIn(t, demo.People[0].Email) // gives the owner a password
	page, old := app.Address+"/account", demo.People[0].Email
	ask := func(email string) answer {
		return post(t, app.Client, page, "edit", "email", "email", email, "current", testkit.Password)
	}
	a := ask("imke.vroom@marl.example")
	assert.Contains(t, words(a), "Your account, as "+old)
	assert.Contains(t, words(a), "A letter is on its way to imke.vroom@marl.example")
	letters := map[string]string{}
	for range 2 {
		l, link := letter(t, app)
		letters[l.To] = link
	}
	require.Contains(t, letters, old, "the email of today is told")
	assert.Equal(t, app.Address+"/account", letters[old])
	first := letters["imke.vroom@marl.example"]
	require.Contains(t, first, "/new-email/")

	// Until then the true owner of the new email is not in anybody's way.
	_, _, err := app.Store.AtDoor(t.Context(), "imke.vroom@marl.example")
	assert.Error(t, err)
	a = post(t, app.Client, app.Address+"/workspace", "edit", "invite", "email", "imke.vroom@marl.example", "role", "rater")
	assert.Contains(t, words(a), "The invitation is made")
	_, join := letter(t, app)
	assert.Contains(t, words(get(t, testkit.Visitor(t), join)), "New password")

	// A letter that was asked for again shuts the one before; so does a change of password, and leaving it.
	ask("imke.v@marl.example")
	for range 2 {
		l, link := letter(t, app)
		letters[l.To] = link
	}
	assert.Contains(t, words(post(t, testkit.Visitor(t), first)), "It was withdrawn")
	second := letters["imke.v@marl.example"]
	a = post(t, app.Client, page, "edit", "withdraw email")
	assert.NotContains(t, words(a), "A letter is on its way")
	assert.Equal(t, http.StatusGone, get(t, testkit.Visitor(t), second).status)
	ask("imke.v@marl.example")
	for range 2 {
		l, link := letter(t, app)
		letters[l.To] = link
	}
	third := letters["imke.v@marl.example"]
	guest := testkit.Visitor(t)
	assert.Contains(t, words(get(t, guest, third)), "imke.v@marl.example")
	assert.Contains(t, words(get(t, app.Client, page)), "Your account, as "+old, "looking at the door changes nothing")
	assert.Contains(t, words(post(t, guest, third)), "The email is changed")
	l, _ := letter(t, app)
	assert.Equal(t, old, l.To)
	assert.Contains(t, l.Text, "imke.v@marl.example")
	assert.Contains(t, words(get(t, app.Client, page)), "Your account, as imke.v@marl.example", "sessions go on")
	assert.Contains(t, get(t, guest, app.Address+"/").at, "/sign-in", "and the link signs nobody in")
	assert.Equal(t, http.StatusGone, post(t, guest, third).status)
	assert.Contains(t, words(ask("IMKE.V@marl.example")), "That is your email already")
	assert.Contains(t, words(ask(demo.People[1].Email)), "That email has an account already")

	// Somebody else may have got the email meanwhile.
	ask("late@marl.example")
	for range 2 {
		l, link := letter(t, app)
		letters[l.To] = link
	}
	_, err = app.Store.NewAccount(t.Context(), app.Workspace.ID, "Late Sedge", "late@marl.example", "", doors.Reader)
	require.NoError(t, err)
	assert.Contains(t, words(post(t, guest, letters["late@marl.example"])), "That email has an account by now")
}

func TestLettersAndWorkspacesAreLimited(t *testing.T) {
	app := testkit.Start(t, true)
	app.SignIn(t, demo.People[0].Email)
	invite := func(email string) answer {
		return post(t, app.Client, app.Address+"/workspace", "edit", "invite", "email", email, "role", "rater")
	}
	for n := range 3 {
		assert.Contains(t, words(invite("rue@marl.example")), "The invitation is made", n)
		letter(t, app)
	}
	a := invite("RUE@marl.example")
	assert.Equal(t, http.StatusTooManyRequests, a.status)
	assert.Contains(t, words(a), "Too many letters, to this email or by you: at most 3 an hour to one email and 60 in all. Wait")
	assert.Contains(t, a.body, `value="RUE@marl.example"`, "what was typed stays")
	noLetter(t, app)
	// From another workspace of the same owner it is the same person writing.
	post(t, app.Client, app.Address+"/workspaces", "edit", "make", "value", "Bulbs abroad")
	assert.Equal(t, http.StatusTooManyRequests, invite("rue@marl.example").status)
	sent := 3
	for n := range 70 {
		if invite(fmt.Sprintf("r%d@marl.example", n)).status == http.StatusTooManyRequests {
			break
		}
		letter(t, app)
		sent++
	}
	assert.Equal(t, 60, sent, "letters of one account within an hour")
	a = post(t, app.Client, app.Address+"/account", "edit", "email", "email", "other@marl.example", "current", testkit.Password)
	assert.Equal(t, http.StatusTooManyRequests, a.status, "whichever kind they are")
	noLetter(t, app)
	made := 0
	for made < 30 && post(t, app.Client, app.Address+"/workspaces", "edit", "make", "value", "Another").status == http.StatusOK {
		made++
	}
	assert.Equal(t, 19, made, "beside the one above")
}

// TestColleaguesBehindOneAddressDoNotLockEachOtherOut signs many in from one
// address; wrong passwords still count.
func TestColleaguesBehindOneAddressDoNotLockEachOtherOut(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	var emails []string
	for n := range 50 {
		emails = append(emails, app.NewAccount(t, app.Workspace.ID, fmt.Sprintf("Colleague %d", n), doors.Reader))
	}
	var all sync.WaitGroup
	for part := range 2 {
		all.Go(func() {
			for n := part; n < len(emails); n += 2 {
				resp, err := testkit.Visitor(t).PostForm(app.Address+"/sign-in", url.Values{"email": {emails[n]}, "password": {testkit.Password}})
				if assert.NoError(t, err) {
					resp.Body.Close()
					assert.Equal(t, "/", resp.Request.URL.Path, "colleague %d", n)
				}
			}
		})
	}
	all.Wait()
	refused := 0
	for n := range 41 {
		if post(t, testkit.Visitor(t), app.Address+"/sign-in", "email", uuid.NewString()+"@marl.example", "password", "x").status == http.StatusTooManyRequests {
			refused++
			assert.Equal(t, 40, n, "the right ones do not count, the wrong ones do")
		}
	}
	assert.Equal(t, 1, refused)
}

// TestLinksThatAreOpenedAtOnceAllWork opens six reading links in one browser at
// the same moment, without a session and with one.
func TestLinksThatAreOpenedAtOnceAllWork(t *testing.T) {
	app := testkit.Start(t, true)
	editor := testkit.As(t, app.Store, app.Workspace.ID, uuid.Nil, doors.Editor)
	var studies []uuid.UUID
	var tokens []string
	for n := range 6 {
		id, err := app.Store.ImportStudy(t.Context(), editor, []byte(strings.Replace(string(demo.Study()), `"key": "spring-list"`, fmt.Sprintf(`"key": "list-%d"`, n), 1)))
		require.NoError(t, err)
		token, hash := doors.NewToken()
		at := editor
		at.Study = id
		require.NoError(t, app.Store.MakeReadingLink(t.Context(), at, "The board", false, hash, time.Now().Add(time.Hour)))
		studies, tokens = append(studies, id), append(tokens, token)
	}
	w, err := app.Store.NewWorkspace(t.Context(), account(t, app, "Stranger"), "Elsewhere")
	require.NoError(t, err)
	stranger := app.SignIn(t, app.NewAccount(t, w.ID, "Owner elsewhere", doors.Owner))
	for _, c := range []*http.Client{testkit.Visitor(t), stranger} {
		var all sync.WaitGroup
		for _, token := range tokens {
			all.Go(func() {
				resp, err := c.Get(app.Address + "/read/" + token)
				if assert.NoError(t, err) {
					resp.Body.Close()
					assert.Contains(t, resp.Request.URL.Path, "/brief")
				}
			})
		}
		all.Wait()
		for n, id := range studies {
			a := get(t, c, app.Address+"/studies/"+id.String()+"/costs")
			assert.Equal(t, http.StatusOK, a.status)
			assert.Contains(t, words(a), "You read this study by a link", "link %d", n)
		}
	}
	for _, token := range tokens { // once more: the browser has its secret already
		get(t, stranger, app.Address+"/read/"+token)
	}
	links, err := app.Store.ReadingLinks(t.Context(), app.Workspace.ID, studies[0])
	require.NoError(t, err)
	assert.EqualValues(t, 3, links[0].Opened)
	assert.Equal(t, "/sign-in", post(t, stranger, app.Address+"/sign-out").at)
	assert.Contains(t, get(t, stranger, app.Address+"/studies/"+studies[0].String()+"/costs").at, "/sign-in", "signing out ends what this browser reads")

	// A look at the head alone is no opening, and neither is one after the link was withdrawn.
	fresh := testkit.Visitor(t)
	resp, err := fresh.Head(app.Address + "/read/" + tokens[0])
	require.NoError(t, err)
	resp.Body.Close()
	at := editor
	at.Study = studies[0]
	require.NoError(t, app.Store.WithdrawReadingLink(t.Context(), at, links[0].ID))
	assert.Equal(t, http.StatusGone, get(t, fresh, app.Address+"/read/"+tokens[0]).status)
	links, err = app.Store.ReadingLinks(t.Context(), app.Workspace.ID, studies[0])
	require.NoError(t, err)
	assert.EqualValues(t, 3, links[0].Opened)
}

// TestABrowserRemembersTwentyLinks opens more: the newest work, and the cookies
// do not pile up.
func TestABrowserRemembersTwentyLinks(t *testing.T) {
	app := testkit.Start(t, true)
	c := testkit.Visitor(t)
	for range 25 {
		assert.Contains(t, get(t, c, app.Address+"/read/"+readingLink(t, app, false)).at, "/brief")
	}
	at, err := url.Parse(app.Address)
	require.NoError(t, err)
	assert.Len(t, c.Jar.Cookies(at), 20)
	assert.Equal(t, http.StatusOK, get(t, c, app.Page("costs")).status)
}

// TestTwoThatInviteAtOnceAreBothShownTheirAddress posts from two tabs of one
// browser.
func TestTwoThatInviteAtOnceAreBothShownTheirAddress(t *testing.T) {
	app := testkit.Start(t, true)
	c := *app.Client
	c.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	var all sync.WaitGroup
	for n := range 4 {
		all.Go(func() {
			resp, err := c.PostForm(app.Address+"/workspace", url.Values{"edit": {"invite"}, "email": {fmt.Sprintf("r%d@marl.example", n)}, "role": {"rater"}})
			if assert.NoError(t, err) {
				resp.Body.Close()
				assert.Equal(t, http.StatusSeeOther, resp.StatusCode)
			}
		})
	}
	all.Wait()
	a := get(t, app.Client, app.Address+"/workspace")
	for range 4 {
		_, link := letter(t, app)
		assert.Contains(t, a.body, `value="`+link+`"`)
	}
	assert.NotContains(t, get(t, app.Client, app.Address+"/workspace").body, "/join/", "and only once")
}
