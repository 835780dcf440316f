package web_test

import (
	"net/http"
	"regexp"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/demo"
	"ninecoins/internal/doors"
	"ninecoins/internal/mail"
	"ninecoins/internal/standin"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// letter waits for a letter, ten seconds at most, and returns the link in it.
func letter(t *testing.T, app *testkit.App) (mail.Letter, string) {
	t.Helper()
	select {
	case l := <-app.Letters:
		return l, regexp.MustCompile(`https?://\S+`).FindString(l.Text)
	case <-time.After(10 * time.Second):
		require.Fail(t, "no letter came")
		return mail.Letter{}, ""
	}
}

func TestTheFirstOwnerSetsUpByALink(t *testing.T) {
	app := testkit.Start(t, false)
	s, err := store.Open(t.Context(), testkit.Database(t))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	require.NoError(t, s.Migrate(t.Context()))
	address, _ := app.Serve(t, s, nil)
	token, hash := doors.NewToken()
	require.NoError(t, s.MakeSetUp(t.Context(), hash, time.Hour))
	c := testkit.Visitor(t)
	door := address + "/set-up/" + token
	assert.Contains(t, words(get(t, c, door)), "You are the first here")
	a := post(t, c, door, "workspace", "", "name", " ", "email", "no email", "password", "password99881")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	for _, want := range []string{"Type a name for the workspace", "Type a name.", "“no email” is no email address", "That is a common password"} {
		assert.Contains(t, words(a), want)
	}
	assert.NotContains(t, a.body, "password99881")
	a = post(t, c, door, "workspace", "Madder & Son", "name", "Rue Sable", "email", "rue@madder.example", "password", testkit.Password)
	assert.Equal(t, "/", a.at)
	assert.Contains(t, words(a), "Nothing on the Desk yet")
	assert.Contains(t, words(a), "Madder &amp; Son")
	assert.Equal(t, http.StatusGone, get(t, c, door).status)
	assert.Contains(t, words(post(t, c, door, "workspace", "x")), "It was used before, and opens only once")
	assert.Equal(t, http.StatusGone, get(t, c, address+"/set-up/nonsense").status)

	// Files come in by the Desk: price lists, then the study; or they are refused with every fault.
	a = upload(t, c, address+"/files", demo.Study())
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "there is no edition of platform &#34;brindlepost&#34; read on 2026-10-02; bring its price list in first")
	for _, list := range demo.PriceLists() {
		a = upload(t, c, address+"/files", list)
		assert.True(t, strings.HasPrefix(a.at, "/shelf?brought="), a.at)
		assert.Contains(t, words(a), "was brought in and stands here, on the price shelf")
	}
	assert.Contains(t, upload(t, c, address+"/files", demo.Study()).at, "/brief")
	assert.Equal(t, http.StatusUnsupportedMediaType, post(t, c, address+"/files", "file", "x").status)
	empty, err := c.Post(address+"/files", "multipart/form-data; boundary=x", strings.NewReader("--x\r\nContent-Disposition: form-data; name=\"other\"\r\n\r\n1\r\n--x--\r\n"))
	a = read(t, empty, err)
	assert.Equal(t, http.StatusBadRequest, a.status)
	assert.Contains(t, words(a), "No file came along")
	assert.Equal(t, http.StatusUnprocessableEntity, upload(t, c, address+"/files", []byte("not json")).status)
	assert.Contains(t, words(post(t, c, address+"/shelf", "op", "delete", "of", "fernwire")), "Nothing was changed: its price lists are relied on by Spring list")

	// The whole workspace goes out, and into another one that is empty.
	file := get(t, c, address+"/workspace/export")
	assert.Contains(t, file.header.Get("Content-Disposition"), "workspace-2026-11-24.json")
	assert.Contains(t, words(upload(t, c, address+"/files", []byte(file.body))), "A whole workspace comes only into an empty one")
	a = post(t, c, address+"/workspaces", "edit", "make", "value", "A second home")
	assert.Contains(t, words(a), "Nothing on the Desk yet")
	a = upload(t, c, address+"/files", []byte(file.body))
	assert.Contains(t, words(a), "Spring list")
	assert.Equal(t, file.body, get(t, c, address+"/workspace/export").body)
}

func TestInvitationsAreSentAndTakenUp(t *testing.T) {
	app := testkit.Start(t, true)
	a := post(t, app.Client, app.Address+"/workspace", "edit", "invite", "email", "not one", "role", "rater")
	assert.Contains(t, words(a), "“not one” is no email address")
	assert.Contains(t, a.body, `value="not one"`)
	a = post(t, app.Client, app.Address+"/workspace", "edit", "invite", "email", demo.People[1].Email, "role", "rater")
	assert.Contains(t, words(a), "Whoever has that email is a member already")
	assert.Equal(t, http.StatusBadRequest, post(t, app.Client, app.Address+"/workspace", "edit", "invite", "email", "rue@marl.example", "role", "king").status)

	a = post(t, app.Client, app.Address+"/workspace", "edit", "invite", "email", "rue@marl.example", "role", "rater")
	l, link := letter(t, app)
	assert.Equal(t, "rue@marl.example", l.To)
	assert.Contains(t, l.Subject, "Imke Vroom invites you to Marl & Thistle")
	assert.Contains(t, a.body, `value="`+link+`"`, "the owner sees it once")
	assert.False(t, strings.Contains(get(t, app.Client, app.Address+"/workspace").body, link))
	rue := testkit.Visitor(t)
	assert.Contains(t, words(get(t, rue, link)), "Imke Vroom invites rue@marl.example to be a rater, who may rate, log trials and note findings")
	assert.Contains(t, words(post(t, rue, link, "name", "Dov Amsel", "password", testkit.Password)), "Somebody else goes by that name, or one that looks like it, in Marl &amp; Thistle")
	assert.Contains(t, words(post(t, app.Client, link)), "You are a member already")
	a = post(t, rue, link, "name", "Rue Sable", "password", testkit.Password)
	assert.Equal(t, "/", a.at)
	assert.Contains(t, words(a), "Spring list")
	assert.Equal(t, http.StatusGone, get(t, testkit.Visitor(t), link).status)

	// Somebody with an account joins a second workspace with its password.
	post(t, app.Client, app.Address+"/workspaces", "edit", "make", "value", "Bulbs abroad")
	post(t, app.Client, app.Address+"/workspace", "edit", "invite", "email", "rue@marl.example", "role", "editor")
	_, link = letter(t, app)
	fresh := testkit.Visitor(t)
	assert.Contains(t, words(get(t, fresh, link)), "That email has an account already: type its password to join")
	assert.Contains(t, words(post(t, fresh, link, "password", "something else here")), "do not belong together")
	a = post(t, fresh, link, "password", testkit.Password)
	assert.Contains(t, words(a), "Bulbs abroad")
	a = get(t, fresh, app.Address+"/account")
	assert.Contains(t, words(a), "Marl &amp; Thistle rater")
	assert.Contains(t, words(a), "Bulbs abroad editor")
	seat := regexp.MustCompile(`name="of" value="([0-9a-f-]{36})"`).FindStringSubmatch(a.body)[1]
	assert.Contains(t, words(post(t, fresh, app.Address+"/workspaces", "edit", "choose", "of", seat)), "The studies of Marl &amp; Thistle")
	assert.Equal(t, http.StatusNotFound, post(t, fresh, app.Address+"/workspaces", "edit", "choose", "of", uuid.NewString()).status)
	assert.Equal(t, http.StatusUnprocessableEntity, post(t, fresh, app.Address+"/workspaces", "edit", "make", "value", " ").status)
	other := regexp.MustCompile(`(?s)Bulbs abroad</th>.*?name="of" value="([0-9a-f-]{36})"`).FindStringSubmatch(get(t, fresh, app.Address+"/account").body)[1]
	post(t, fresh, app.Address+"/workspaces", "edit", "choose", "of", other)
	req, err := http.NewRequest(http.MethodGet, app.Page("growth"), nil)
	require.NoError(t, err)
	req.Header.Set("Sec-Fetch-Mode", "cors")
	resp, err := fresh.Do(req)
	assert.Equal(t, http.StatusOK, read(t, resp, err).status, "a study opens whichever workspace was chosen last")
	assert.Contains(t, words(get(t, fresh, app.Address+"/")), "Nothing on the Desk yet", "a look in the background chooses nothing")
	get(t, fresh, app.Page("growth"))
	assert.Contains(t, words(get(t, fresh, app.Address+"/")), "The studies of Marl &amp; Thistle", "going there does")

	post(t, app.Client, app.Address+"/workspace", "edit", "invite", "email", "sedge@marl.example", "role", "editor")
	_, link = letter(t, app)
	a = get(t, app.Client, app.Address+"/workspace")
	open := regexp.MustCompile(`value="withdraw">\s*<input type="hidden" name="of" value="([^"]*)"`).FindStringSubmatch(a.body)[1]
	post(t, app.Client, app.Address+"/workspace", "edit", "withdraw", "of", open)
	assert.Contains(t, words(get(t, testkit.Visitor(t), link)), "It was withdrawn")
	assert.Equal(t, http.StatusConflict, post(t, app.Client, app.Address+"/workspace", "edit", "withdraw", "of", open).status)
}

func TestAForgottenPasswordIsReplacedByLetter(t *testing.T) {
	app := testkit.Start(t, true)
	c := app.SignIn(t, demo.People[1].Email)
	guest := testkit.Visitor(t)
	known := post(t, guest, app.Address+"/forgot", "email", demo.People[1].Email)
	unknown := post(t, guest, app.Address+"/forgot", "email", "nobody@marl.example")
	assert.Equal(t, known.body, unknown.body, "whether there is such an account is not told")
	l, link := letter(t, app)
	assert.Equal(t, demo.People[1].Email, l.To)
	assert.Contains(t, words(post(t, guest, link, "password", "short")), "at least 12 characters")
	a := post(t, guest, link, "password", "rue and sedge by the pond")
	assert.Equal(t, "/", a.at, "and one is in")
	assert.Contains(t, get(t, c, app.Address+"/").at, "/sign-in", "older sessions have ended")
	assert.Equal(t, http.StatusGone, get(t, guest, link).status)
	assert.Equal(t, http.StatusUnprocessableEntity, post(t, testkit.Visitor(t), app.Address+"/sign-in", "email", demo.People[1].Email, "password", testkit.Password).status)
	for range 3 {
		a = post(t, guest, app.Address+"/forgot", "email", "NOBODY@marl.example")
	}
	assert.Equal(t, http.StatusTooManyRequests, a.status)
	assert.Contains(t, words(post(t, guest, app.Address+"/forgot", "email", "x")), "is no email address")
}

func TestAnAccountIsChangedByItsOwner(t *testing.T) {
	app := testkit.Start(t, true)
	page := app.Address + "/account"
	other := app.SignIn(t, demo.People[0].Email)
	assert.Contains(t, words(post(t, app.Client, page, "edit", "password", "current", "wrong", "password", "rue and sedge by the pond")), "That is not your password of today")
	assert.Contains(t, words(post(t, app.Client, page, "edit", "password", "current", testkit.Password, "password", "imkevroom2026")), "mostly your name or email")
	before := app.Cookie(t, app.Client).Value
	a := post(t, app.Client, page, "edit", "password", "current", testkit.Password, "password", "rue and sedge by the pond")
	assert.Equal(t, "/account", a.at)
	assert.NotEqual(t, before, app.Cookie(t, app.Client).Value)
	assert.Contains(t, get(t, other, page).at, "/sign-in", "the other sessions have ended")
	assert.Contains(t, words(post(t, app.Client, page, "edit", "email", "email", demo.People[1].Email, "current", "rue and sedge by the pond")), "That email has an account already")
	a = post(t, app.Client, page, "edit", "email", "email", "imke.vroom@marl.example", "current", "rue and sedge by the pond")
	assert.Contains(t, words(a), "Your account, as imke@marl-thistle.example")
	assert.Contains(t, words(a), "A letter is on its way to imke.vroom@marl.example")
	assert.Contains(t, words(post(t, app.Client, page, "edit", "name", "name", "Dov Amsel")), "Somebody else goes by that name, or one that looks like it, in a workspace of yours")
	a = post(t, app.Client, page, "edit", "name", "name", "Imke V. Sable")
	assert.Contains(t, words(a), "Imke V. Sable")
	assert.Contains(t, words(get(t, app.Client, app.Page("scores"))), "rated 0 to 9 by Imke V. Sable")
	assert.Equal(t, http.StatusBadRequest, post(t, app.Client, page, "edit", "crown").status)
}

func TestPeopleAreGivenRolesAndTheLastOwnerStays(t *testing.T) {
	app := testkit.Start(t, true)
	page := app.Address + "/workspace"
	imke := testkit.As(t, app.Store, app.Workspace.ID, uuid.Nil, doors.Owner)
	dov := testkit.As(t, app.Store, app.Workspace.ID, uuid.Nil, doors.Editor)
	c := app.As(t, doors.Editor)
	assert.Contains(t, words(get(t, c, page)), "An owner can change it")
	assert.Contains(t, words(post(t, app.Client, page, "edit", "role", "of", imke.By.String(), "was", "owner", "value", "reader")), "a workspace needs an owner")
	post(t, app.Client, page, "edit", "role", "of", dov.By.String(), "was", "editor", "value", "reader")
	a := get(t, c, app.Page("growth"))
	assert.Contains(t, words(a), "You are a reader here: you may see everything and change nothing")
	assert.False(t, strings.Contains(a.body, `name="value"`), "nothing to type into")
	assert.Equal(t, http.StatusConflict, post(t, app.Client, page, "edit", "role", "of", dov.By.String(), "was", "editor", "value", "rater").status)
	assert.Equal(t, http.StatusBadRequest, post(t, app.Client, page, "edit", "role", "of", dov.By.String(), "was", "reader", "value", "king").status)
	post(t, app.Client, page, "edit", "remove", "of", dov.By.String(), "was", "reader")
	assert.Equal(t, http.StatusNotFound, get(t, c, app.Page("growth")).status)
	assert.Contains(t, words(get(t, c, app.Address+"/")), "You are in no workspace")
	assert.Contains(t, words(get(t, c, app.Address+"/shelf")), "You are in no workspace at present")
	assert.Contains(t, words(post(t, app.Client, page, "edit", "name", "value", "")), "Type a name for the workspace")
	a = post(t, app.Client, page, "edit", "name", "value", "Madder")
	assert.Contains(t, words(a), "Madder")
	a = get(t, app.Client, app.Address+"/history")
	assert.Contains(t, words(a), "Imke Vroom Role Dov Amsel editor reader")
}

func TestTheMailboxShowsLettersToTheDemosOwner(t *testing.T) {
	app := testkit.Start(t, false)
	assert.Contains(t, words(get(t, app.Client, app.Address+"/mailbox")), "No letters yet")
	var box mail.Sender = standin.Mailbox{Store: app.Store}
	require.NoError(t, box.Send(t.Context(), mail.Letter{To: "rue@marl.example", Subject: "Come & see", Text: "Open this:\n" + app.Address + "/join/abc\nhttp://elsewhere.example/x\n"}))
	a := get(t, app.Client, app.Address+"/mailbox")
	assert.Contains(t, words(a), "Come &amp; see to rue@marl.example")
	assert.Contains(t, a.body, `<a href="/join/abc">`)
	assert.False(t, strings.Contains(a.body, `href="http://elsewhere`), "only the application's own addresses can be followed")
	var console strings.Builder
	require.NoError(t, (&standin.Console{Out: &console}).Send(t.Context(), mail.Letter{To: "rue@marl.example", Subject: "Come", Text: "Open this"}))
	assert.Contains(t, console.String(), "To: rue@marl.example\nSubject: Come\n\nOpen this")
}
