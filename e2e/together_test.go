package e2e_test

import (
	"testing"
	"time"

	"ninecoins/e2e/browser"
	"ninecoins/internal/demo"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// two opens the demo in two browsers, on two server processes that share the
// database: Imke's, who owns it, and Dov's, who edits.
func two(t *testing.T) (imke, dov *visitor) {
	t.Helper()
	imke = visit(t, 1280, 800)
	app := imke.app
	return imke, enter(t, app, app.Another(t), app.Cookie(t, app.As(t, doors.Editor)), 1280, 800)
}

func (v *visitor) text(selector string) string {
	v.t.Helper()
	return see[string](v, `document.querySelector(`+"`"+selector+"`"+`)?.textContent.replace(/\s+/g, " ").trim() ?? ""`)
}

// told waits for the note of what somebody else did: it follows the page.
func (v *visitor) told(what string) {
	v.t.Helper()
	v.await(`document.querySelector("[data-note-text]").textContent.replace(/\s+/g, " ").trim() === "` + what + `"`)
}

func ctrlZ(shift bool) chromedp.Action[chromedp.Void] {
	keys := chromedp.ModifierCtrl
	if shift {
		keys |= chromedp.ModifierShift
	}
	return chromedp.KeyEvent("z", chromedp.KeyModifiers(keys))
}

func TestTwoPeopleEditOneStudyOnTwoServers(t *testing.T) {
	t.Parallel()
	imke, dov := two(t)
	imke.open("growth")
	dov.open("growth")

	// Each edit is followed, with a note of who made it; the counter follows too.
	imke.change("drivers-contacts-now", "9000")
	dov.await(`document.querySelector(".lead-in").textContent.includes("from 9,000 to")`)
	dov.told("Imke Vroom changed Contacts from 6,400 to 9,000.")
	assert.Equal(t, "€8,706", dov.counter("brindlepost", "[data-cost]"))
	assert.Empty(t, dov.text("[data-undo]"), "what Imke changed is not Dov's to undo")

	// Different fields never disturb each other, and each undoes one's own.
	dov.change("drivers-seats-now", "5")
	imke.await(`document.getElementById("drivers-seats-now").value === "5"`)
	assert.Contains(t, imke.text("[data-undo]"), "Contacts back to 6,400")
	imke.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`), ctrlZ(false))
	dov.await(`document.querySelector(".lead-in").textContent.includes("from 6,400 to")`)
	dov.told("Imke Vroom took back Contacts: 6,400 again.")
	assert.Equal(t, "5", see[string](imke, `document.getElementById("drivers-seats-now").value`), "Dov's stays")
	imke.do(ctrlZ(true))
	dov.await(`document.querySelector(".lead-in").textContent.includes("from 9,000 to")`)

	// Undo of what somebody else changed since says so and shows both values.
	dov.change("drivers-contacts-now", "9500")
	imke.await(`document.querySelector(".lead-in").textContent.includes("from 9,500 to")`)
	imke.do(ctrlZ(false))
	imke.await(`document.querySelector(".notice.trouble") !== null`)
	assert.Regexp(t, `Nothing was taken back: Contacts was changed since by Dov Amsel, at \d\d:\d\d, and stands at 9,500 now. You had changed it from 6,400 to 9,000.`, imke.text(".notice"))
	imke.do(chromedp.Click(".notice form:nth-of-type(2) button"))
	imke.await(`document.querySelector(".notice") === null && !document.querySelector("[data-undo]")`)
	assert.Contains(t, lead(imke), "from 9,500 to", "left as it is")

	// Both type into one field: the later save is told what the other wrote, and chooses.
	dov.do(chromedp.Evaluate[chromedp.Void](`document.getElementById("drivers-contacts-now").focus(); document.getElementById("drivers-contacts-now").select()`), chromedp.KeyEvent("8800"))
	imke.change("drivers-contacts-now", "8000")
	dov.await(`document.querySelector(".lead-in").textContent.includes("from 8,000 to")`)
	assert.Equal(t, "8800", see[string](dov, `document.getElementById("drivers-contacts-now").value`), "what is typed stays")
	dov.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	dov.await(`document.getElementById("drivers-contacts-now-problem") !== null`)
	assert.Regexp(t, `Imke Vroom changed this at \d\d:\d\d, while you typed. What stands there now is theirs; yours \(8800\) was not saved. ?Save mine: 8800 Keep theirs: 8,000`, dov.text("#drivers-contacts-now-problem"))
	dov.do(chromedp.Click("#drivers-contacts-now-problem button"))
	imke.await(`document.querySelector(".lead-in").textContent.includes("from 8,800 to")`)
	imke.told("Dov Amsel changed Contacts from 8,000 to 8,800.")

	// The history tells all of it, and what stood before can be put back.
	dov.open("history")
	assert.Regexp(t, `Dov Amsel\s*Growth\s*Contacts\s*8,000\s*8,800\s*Put back 8,000`, dov.text("table"))
	assert.Regexp(t, `Imke Vroom\s*Growth\s*Contacts\s*9,500\s*8,000`, dov.text("table"))
	dov.do(chromedp.Click(`button[aria-label="Put back 8,000: Contacts"]`))
	imke.await(`document.querySelector(".lead-in").textContent.includes("from 8,000 to")`)

	// Who signs out everywhere is out on every server, and their open pages say so.
	dov.open("growth")
	resp, err := imke.app.As(t, doors.Editor).Post(imke.app.Address+"/sign-out/everywhere", "", nil)
	require.NoError(t, err)
	resp.Body.Close()
	dov.change("drivers-seats-now", "6")
	dov.await(`!document.querySelector("[data-snag]").hidden`)
	assert.Contains(t, dov.text("[data-snag-text]"), "You are not signed in, or your session was ended.")
	assert.Equal(t, "6", see[string](dov, `document.getElementById("drivers-seats-now").value`), "what was typed stays")
}

func TestAnEditSurvivesADatabaseThatGoesAway(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	cable := testkit.NewCable(t, v.app.Database)
	s, err := store.Open(t.Context(), cable.URL)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	v.address, _ = v.app.Serve(t, s, nil)
	v.quiet = true // a browser writes refused requests to its console
	v.do(browser.WithCookie(v.address, v.app.Cookie(t, v.app.Client)))
	v.open("growth")
	cable.Cut()
	v.change("drivers-contacts-now", "9000")
	v.await(`!document.querySelector("[data-snag]").hidden`)
	assert.Contains(t, v.text("[data-snag-text]"), "Not saved yet: The database does not answer at present. What you typed is still in its field, and is saved by itself as soon as that is possible.")
	v.change("drivers-seats-now", "5")
	assert.Equal(t, "9000", see[string](v, `document.getElementById("drivers-contacts-now").value`))
	cable.Mend()
	v.await(`document.querySelector(".lead-in").textContent.includes("from 9,000 to") && document.getElementById("drivers-seats-now").defaultValue === "5" && document.querySelector("[data-snag]").hidden`)
	assert.Zero(t, see[int](v, `document.querySelectorAll(".problem").length`), "saved by itself, and once")

	// Following goes on afterwards too.
	dov := enter(t, v.app, v.app.Address, v.app.Cookie(t, v.app.As(t, doors.Editor)), 1280, 800)
	dov.open("growth")
	dov.change("drivers-contacts-now", "9100")
	v.await(`document.querySelector(".lead-in").textContent.includes("from 9,100 to")`)
}

// TestARaterRatesAndIsToldWhatElseIsNotTheirs goes through a rater's and a
// reader's day.
func TestARaterRatesAndIsToldWhatElseIsNotTheirs(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	hedy := enter(t, v.app, v.app.Address, v.app.Cookie(t, v.app.As(t, doors.Rater)), 1280, 800)
	hedy.open("scores")
	assert.Equal(t, "You are a rater here: you may rate, log trials and note findings. An owner can give you another role.", hedy.text(".limits"))
	assert.Zero(t, see[int](hedy, `document.querySelectorAll("#criteria-ease-weight, #criteria-cost-best").length`))
	assert.Equal(t, "This is changed by editors.", see[string](hedy, `document.querySelector(".scores .locked").title`))
	hedy.change("ratings-brindlepost-ease-value", "3")
	hedy.await(`document.querySelector("[data-undo]")?.textContent.includes("Brindlepost on Ease of daily work back to not rated")`)
	assert.Equal(t, "6.5", see[string](hedy, `document.querySelector('[data-pile="brindlepost"] .pile-fit b').textContent`), "the mean of 7 and 3 counts")
	hedy.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll(".controls a")].find((a) => a.textContent === "Imke Vroom").click()`))
	hedy.await(`document.querySelectorAll(".scores .locked").length > 20 && document.querySelectorAll(".scores input").length === 0`)
	assert.Contains(t, hedy.text(".scores"), "8.5", "Imke's ratings are shown and are hers")

	link := testkit.Visitor(t)
	token, hash := doors.NewToken()
	owner := testkit.As(t, v.app.Store, v.app.Workspace.ID, v.app.Study, doors.Owner)
	require.NoError(t, v.app.Store.MakeReadingLink(t.Context(), owner, "The board", false, hash, time.Now().Add(time.Hour)))
	resp, err := link.Get(v.app.Address + "/read/" + token)
	require.NoError(t, err)
	resp.Body.Close()
	board := enter(t, v.app, v.app.Address, v.app.Cookie(t, link), 1280, 800)
	board.open("growth")
	assert.Zero(t, see[int](board, `document.querySelectorAll("main input, main button:not([data-save])").length`))
	v.open("growth")
	v.change("drivers-contacts-now", "9000")
	board.await(`document.querySelector(".lead-in").textContent.includes("from 9,000 to")`)
	board.told("Somebody changed Contacts from 6,400 to 9,000.")
}

// TestANewcomerGoesThroughTheDoors signs in as the demo's owner, invites
// somebody, deletes and brings back, and signs out, by hand.
func TestANewcomerGoesThroughTheDoors(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	v := enter(t, app, app.Address, nil, 1280, 800)
	v.do(chromedp.Navigate(app.Page("costs")), browser.Settled())
	assert.Equal(t, "Sign in", v.text("h1"))
	v.do(chromedp.Click("[data-demo]"))
	v.await(`document.querySelector("h1")?.textContent === "Costs"`)
	v.do(chromedp.Navigate(app.Address+"/workspace"), browser.Settled(), chromedp.Focus("#invite-email"), chromedp.KeyEvent("rue@marl.example\r"))
	v.await(`document.querySelector(".secret") !== null`)
	link := see[string](v, `document.querySelector(".secret").value`)
	assert.Equal(t, demo.People[0].Name, v.text(".who"))

	rue := enter(t, app, app.Address, nil, 390, 844)
	rue.do(chromedp.Navigate(link), browser.Settled(), chromedp.Focus("#door-name"), chromedp.KeyEvent("Rue Sable"), chromedp.Focus("#door-password"), chromedp.KeyEvent("sunflower2026\r"))
	rue.await(`document.querySelector("#door-password-problem") !== null`)
	assert.Equal(t, "Rue Sable", see[string](rue, `document.getElementById("door-name").value`), "what was typed stays")
	rue.do(chromedp.Focus("#door-password"), chromedp.KeyEvent("sedge by the still pond\r"))
	rue.await(`document.querySelector("h1")?.textContent === "Desk"`)

	// Deleting asks nothing, and is undone by key.
	v.do(chromedp.Navigate(app.Address+"/"), browser.Settled(), chromedp.Click(`button[aria-label="Delete Spring list"]`))
	v.await(`document.querySelector(".study-card") === null && document.querySelector("[data-undo]") !== null`)
	v.do(chromedp.Navigate(app.Address+"/bin"), browser.Settled())
	assert.Contains(t, v.text("table"), "studySpring list")
	v.do(chromedp.Navigate(app.Address+"/"), browser.Settled(), ctrlZ(false))
	v.await(`document.querySelector(".study-card") !== null`)
	v.do(chromedp.Navigate(app.Address+"/account"), browser.Settled(), chromedp.Click(".page-head button"))
	v.await(`document.querySelector("h1")?.textContent === "Sign in"`)
}

// TestStoredScriptsDoNotRun keeps payloads wherever names are kept and walks
// the pages.
func TestStoredScriptsDoNotRun(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	ctx, app := t.Context(), v.app
	hostile := `<img src=x onerror="window.pwned=1"><script>window.pwned=1</script>`
	owner := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner)
	account, _, err := app.Store.AtDoor(ctx, demo.People[0].Email)
	require.NoError(t, err)
	require.NoError(t, app.Store.SetName(ctx, account.ID, hostile))
	owner.Name = hostile
	wide := owner
	wide.Study = [16]byte{}
	require.NoError(t, app.Store.SetWorkspaceName(ctx, wide, hostile))
	_, hash := doors.NewToken()
	require.NoError(t, app.Store.MakeReadingLink(ctx, owner, hostile, true, hash, time.Now().Add(time.Hour)))
	dov := enter(t, app, app.Address, app.Cookie(t, app.As(t, doors.Editor)), 1280, 800)
	dov.open("growth")
	v.open("growth")
	v.change("drivers-contacts-now", "9000")
	dov.await(`!document.querySelector("[data-note]").hidden`)
	assert.Contains(t, dov.text("[data-note-text]"), "<script>", "the name is shown as it is")
	for _, page := range []string{"scores", "history", "links", "brief"} {
		dov.open(page)
		assert.False(t, see[bool](dov, `"pwned" in window`), page)
	}
	for _, page := range []string{"/", "/workspace", "/account", "/history", "/bin"} {
		v.do(chromedp.Navigate(app.Address+page), browser.Settled())
		assert.False(t, see[bool](v, `"pwned" in window`), page)
	}
}

// TestAnAddressThatIsShownOnceStaysToBeCopied makes a reading link while the
// same page is open in another tab and a colleague edits.
func TestAnAddressThatIsShownOnceStaysToBeCopied(t *testing.T) {
	t.Parallel()
	v, dov := two(t)
	other := enter(t, v.app, v.app.Address, v.app.Cookie(t, v.app.Client), 1280, 800)
	dov.open("growth")
	for n := range 3 {
		v.open("links")
		other.open("links")
		v.do(chromedp.Focus("#link-label"), chromedp.KeyEvent("The board\r"))
		v.await(`document.querySelector(".secret") !== null`)
		address := see[string](v, `document.querySelector(".secret").value`)
		assert.Contains(t, address, v.app.Address+"/read/")
		dov.change("drivers-contacts-now", []string{"9000", "9100", "9200"}[n])
		other.await(`document.querySelector("[data-note-text]").textContent.includes("` + []string{"9,000", "9,100", "9,200"}[n] + `")`)
		assert.Equal(t, address, see[string](v, `document.querySelector(".secret")?.value ?? "gone"`), "following does not take it away")
		assert.Zero(t, see[int](other, `document.querySelectorAll(".secret").length`), "nor is it shown where nobody made it")
	}
}

// TestManyTabsOfAStudyHoldOneStream opens more tabs of a study than a browser has connections to a server
// that speaks HTTP/1.1: each is drawn, one holds the stream, and all follow.
func TestManyTabsOfAStudyHoldOneStream(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("growth")
	tabs := []*visitor{v}
	for range 8 {
		ctx, closeTab := chromedp.NewContext(v.ctx)
		t.Cleanup(closeTab)
		one := &visitor{t: t, app: v.app, address: v.address, ctx: ctx}
		one.open("growth")
		assert.Equal(t, "Growth", see[string](one, `document.querySelector("h1").textContent`))
		tabs = append(tabs, one)
	}
	last := tabs[len(tabs)-1]
	last.await(`document.querySelector("[data-study]") !== null`)
	held := `navigator.locks.query().then(({ held, pending }) => { window.holds = [held, pending].map((all) => all.filter(({ name }) => name.startsWith("study")).length).join(); })`
	last.await(held + ` && window.holds?.startsWith("1,")`)
	e := testkit.As(t, v.app.Store, v.app.Workspace.ID, v.app.Study, doors.Editor)
	require.NoError(t, testkit.Set(t.Context(), v.app.Store, e, "drivers.seats.now", "3", "7"))
	for _, one := range tabs {
		one.await(`document.hidden || document.getElementById("drivers-seats-now").value === "7"`)
	}
	assert.Equal(t, "7", see[string](last, `document.getElementById("drivers-seats-now").value`))
}
