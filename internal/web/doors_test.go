package web_test

import (
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/demo"
	"ninecoins/internal/testkit"
	"ninecoins/internal/web"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestSigningInAndOut(t *testing.T) {
	app := testkit.Start(t, true)
	app.SignIn(t, demo.People[0].Email) // gives the owner a password
	c := testkit.Visitor(t)
	a := get(t, c, app.Page("costs?as=table"))
	assert.Equal(t, "/sign-in?next="+url.QueryEscape("/studies/"+app.Study.String()+"/costs?as=table"), a.at)
	next := regexp.MustCompile(`name="next" value="([^"]*)"`).FindStringSubmatch(a.body)[1]

	wrong := post(t, c, app.Address+"/sign-in", "email", demo.People[0].Email, "password", "not the one it is")
	nobody := post(t, c, app.Address+"/sign-in", "email", "nobody@marl.example", "password", "not the one it is")
	assert.Equal(t, http.StatusUnprocessableEntity, wrong.status)
	assert.Equal(t, strings.ReplaceAll(wrong.body, demo.People[0].Email, "nobody@marl.example"), nobody.body, "whether there is such an account is not told")
	assert.NotContains(t, wrong.body, "not the one it is")

	planted := app.SignIn(t, demo.People[1].Email)
	before := app.Cookie(t, planted).Value
	a = post(t, planted, app.Address+"/sign-in", "email", strings.ToUpper(demo.People[0].Email), "password", testkit.Password, "next", strings.ReplaceAll(next, "&amp;", "&"))
	assert.Contains(t, a.at, "costs?as=table", "one comes where one wanted to go")
	assert.NotEqual(t, before, app.Cookie(t, planted).Value, "under a new token")

	resp, err := (&http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}).PostForm(app.Address+"/sign-in", values([]string{"email", demo.People[0].Email, "password", testkit.Password, "next", "//elsewhere.example"}))
	a = read(t, resp, err)
	assert.Equal(t, "/", a.header.Get("Location"), "and nowhere else")
	cookie := a.header.Get("Set-Cookie")
	assert.Contains(t, cookie, "HttpOnly")
	assert.Contains(t, cookie, "SameSite=Lax")
	assert.NotContains(t, cookie, "Secure")

	// Signing out everywhere ends every session of the account, on every server process.
	elsewhere := app.SignIn(t, demo.People[0].Email)
	other := app.Another(t)
	moveCookies(t, elsewhere, app.Address, other)
	assert.Equal(t, "/", get(t, elsewhere, other+"/").at)
	copied := app.Cookie(t, planted)
	a = post(t, planted, app.Address+"/sign-out/everywhere")
	assert.Equal(t, "/sign-in", a.at)
	assert.Contains(t, get(t, elsewhere, other+"/").at, "/sign-in")
	thief := testkit.Visitor(t)
	at, _ := url.Parse(app.Address)
	thief.Jar.SetCookies(at, []*http.Cookie{copied})
	assert.Contains(t, get(t, thief, app.Page("costs")).at, "/sign-in", "a copy of the cookie is worth nothing")
}

func TestCookiesAreSecureUnderTLS(t *testing.T) {
	app := testkit.Start(t, false)
	s, err := web.New(t.Context(), web.Options{Store: app.Store, Address: "https://localhost:9010", Now: time.Now, Demo: demo.People[0].Email})
	require.NoError(t, err)
	handler, err := s.Handler()
	require.NoError(t, err)
	recorded := record(t, handler, "POST", "/demo", "127.0.0.1:5", map[string]string{"Host": "localhost"})
	assert.Equal(t, http.StatusSeeOther, recorded.status)
	assert.Contains(t, recorded.header.Get("Set-Cookie"), "Secure")
}

func TestTheDemosOwnerIsThereOnlyOnThisMachine(t *testing.T) {
	app := testkit.Start(t, true)
	handler, err := app.Server.Handler()
	require.NoError(t, err)
	for _, row := range []struct {
		from   string
		header map[string]string
		let    bool
	}{
		{"127.0.0.1:5", map[string]string{"Host": "127.0.0.1:9009"}, true},
		{"[::1]:5", map[string]string{"Host": "[::1]:9009"}, true},
		{"127.0.0.1:5", map[string]string{"Host": "localhost:9009"}, true},
		{"192.168.1.7:5", map[string]string{"Host": "127.0.0.1:9009"}, false},
		{"127.0.0.1:5", map[string]string{"Host": "coins.example"}, false},
		{"127.0.0.1:5", map[string]string{"Host": "localhost", "X-Forwarded-For": "203.0.113.9"}, false},
		{"127.0.0.1:5", map[string]string{"Host": "localhost", "Forwarded": "for=203.0.113.9"}, false},
	} {
		assert.Equal(t, row.let, record(t, handler, "POST", "/demo", row.from, row.header).status == http.StatusSeeOther, "%v", row)
		assert.Equal(t, row.let, strings.Contains(record(t, handler, "GET", "/sign-in", row.from, row.header).body, "Look around as Imke Vroom"), "%v", row)
	}
	// Without the demo there is neither the door nor the mailbox.
	bare, err := web.New(t.Context(), web.Options{Store: app.Store, Address: app.Address, Now: time.Now})
	require.NoError(t, err)
	handler, err = bare.Handler()
	require.NoError(t, err)
	assert.Equal(t, http.StatusNotFound, record(t, handler, "POST", "/demo", "127.0.0.1:5", map[string]string{"Host": "localhost"}).status)
	assert.NotContains(t, record(t, handler, "GET", "/sign-in", "127.0.0.1:5", map[string]string{"Host": "localhost"}).body, "Look around")
}

func TestTriesAtTheDoorAreLimitedOnAllServersTogether(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	app.SignIn(t, demo.People[1].Email)
	servers := []string{app.Address, app.Another(t)}
	for n := range 8 {
		assert.Equal(t, http.StatusUnprocessableEntity, post(t, testkit.Visitor(t), servers[n%2]+"/sign-in", "email", demo.People[1].Email, "password", "guess number one").status)
		assert.Equal(t, http.StatusUnprocessableEntity, post(t, testkit.Visitor(t), servers[n%2]+"/sign-in", "email", "nobody@marl.example", "password", "guess number one").status)
	}
	a := post(t, testkit.Visitor(t), servers[0]+"/sign-in", "email", demo.People[1].Email, "password", testkit.Password)
	assert.Equal(t, http.StatusTooManyRequests, a.status, "not even with the right one")
	assert.Regexp(t, `Too many tries, with this email or from this computer. Wait 1[45] minutes and try again`, words(a))
	b := post(t, testkit.Visitor(t), servers[1]+"/sign-in", "email", "nobody@marl.example", "password", testkit.Password)
	assert.Equal(t, http.StatusTooManyRequests, b.status, "the same for an email without an account")
	app.SignIn(t, demo.People[2].Email)
	for range 30 {
		post(t, testkit.Visitor(t), servers[0]+"/sign-in", "email", uuid.NewString()+"@marl.example", "password", "x")
	}
	a = post(t, testkit.Visitor(t), servers[0]+"/sign-in", "email", "fresh@marl.example", "password", "x")
	assert.Equal(t, http.StatusTooManyRequests, a.status, "nor other emails, from the same address")
}
