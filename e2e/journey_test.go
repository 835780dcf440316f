// Package e2e_test goes through whole jobs in a real browser.
package e2e_test

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"ninecoins/e2e/browser"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) {
	testkit.Main(m, func() {
		if shared.close != nil {
			shared.close()
		}
	})
}

// shared is the browser that all tests are visitors in: each with windows,
// cookies and storage of its own.
var shared struct {
	sync.Once
	ctx   context.Context
	close func()
	err   error
}

// visitor is a browser tab that fails the test on anything odd: script errors,
// refused resources, waits without end.
type visitor struct {
	t   *testing.T
	ctx context.Context
	app *testkit.App
	// where its server answers
	address string
	quiet   bool // what the console says does not fail the test
}

// visit opens the demo in a browser, signed in as its owner.
func visit(t *testing.T, width, height int64) *visitor {
	t.Helper()
	app := testkit.Start(t, true)
	return enter(t, app, app.Address, app.Cookie(t, app.Client), width, height)
}

// enter opens an application as a visitor of its own, with a session's cookie;
// nil for nobody's.
func enter(t *testing.T, app *testkit.App, address string, cookie *http.Cookie, width, height int64) *visitor {
	t.Helper()
	shared.Do(func() { shared.ctx, shared.close, shared.err = browser.Open(context.Background()) })
	require.NoError(t, shared.err)
	ctx, cancel := context.WithTimeout(shared.ctx, 6*time.Minute)
	t.Cleanup(cancel)
	tab, closeTab := chromedp.NewContext(ctx, chromedp.WithNewBrowserContext(), chromedp.WithNewWindow(true))
	t.Cleanup(closeTab)
	v := &visitor{t: t, app: app, address: address}
	require.NoError(t, chromedp.Listen(tab, func(event any) {
		switch e := event.(type) {
		case *runtime.EventExceptionThrown:
			text := e.ExceptionDetails.Text
			if e.ExceptionDetails.Exception != nil {
				text += " " + e.ExceptionDetails.Exception.Description
			}
			t.Errorf("script error: %s", text)
		case *runtime.EventConsoleAPICalled:
			if e.Type == runtime.ConsoleAPICalledTypeError && !v.quiet {
				t.Errorf("console error: %v", e.Args)
			}
		}
	}))
	v.ctx = tab
	v.do(chromedp.EmulateViewport(width, height), browser.Foremost())
	if cookie != nil {
		v.do(browser.WithCookie(address, cookie))
	}
	return v
}

// moveStudy deletes the demo's study behind the browser's back, or brings it
// back.
func moveStudy(v *visitor, intoBin bool) error {
	owner := testkit.As(v.t, v.app.Store, v.app.Workspace.ID, uuid.Nil, doors.Owner)
	return v.app.Store.Move(v.t.Context(), owner, store.Studies, v.app.Study.String(), intoBin)
}

func (v *visitor) do(steps ...chromedp.Action[chromedp.Void]) {
	v.t.Helper()
	require.NoError(v.t, chromedp.Do(v.ctx, steps...))
}

func (v *visitor) open(path string) {
	v.t.Helper()
	v.do(chromedp.Navigate(v.address+"/studies/"+v.app.Study.String()+"/"+path), browser.Settled())
}

// see evaluates an expression in the page; what it looks at may come a moment later,
// with the rest of a page or what is swapped in.
func see[T any](v *visitor, expression string) T {
	v.t.Helper()
	got, err := chromedp.Run(v.ctx, chromedp.Evaluate[T](expression))
	for end := time.Now().Add(10 * time.Second); err != nil && strings.Contains(err.Error(), "of null") && time.Now().Before(end); {
		time.Sleep(20 * time.Millisecond)
		got, err = chromedp.Run(v.ctx, chromedp.Evaluate[T](expression))
	}
	require.NoError(v.t, err, expression)
	return got
}

// await waits until an expression is true in the page; what it looks at may not
// be there yet while a page comes.
func (v *visitor) await(expression string) {
	v.t.Helper()
	wait := fmt.Sprintf(`new Promise((done) => { const end = Date.now() + 180000; const holds = () => { try { return %s; } catch { return false; } };
		const look = () => holds() ? done("") : Date.now() > end ? done(document.querySelector("[data-live-says]").textContent + "; " + document.querySelector("main").innerText.slice(0, 400)) : setTimeout(look, 20); look(); })`, expression)
	seen, err := chromedp.Run(v.ctx, chromedp.Evaluate[string](wait, chromedp.EvalAwaitPromise))
	for err != nil && v.ctx.Err() == nil && strings.Contains(err.Error(), "navigated") { // to the page that is waited for
		seen, err = chromedp.Run(v.ctx, chromedp.Evaluate[string](wait, chromedp.EvalAwaitPromise))
	}
	require.NoError(v.t, err, "waiting for %s", expression)
	require.Empty(v.t, seen, "waited for %s in vain", expression)
}

// change types into a field and leaves it.
func (v *visitor) change(id, value string) {
	v.t.Helper()
	v.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.getElementById(%q).focus(); document.getElementById(%q).select()`, id, id)),
		chromedp.KeyEvent(value), chromedp.KeyEvent(kb.Tab))
}

const pile = `document.querySelector('[data-pile=%q] %s').textContent.trim()`

func (v *visitor) counter(option, part string) string {
	v.t.Helper()
	return see[string](v, fmt.Sprintf(pile, option, part))
}

func lead(v *visitor) string {
	v.t.Helper()
	return see[string](v, `document.querySelector(".lead-in").textContent`)
}

func TestOneChangedNumberIsFollowedEverywhereWithoutALoad(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("growth")
	v.do(chromedp.Evaluate[chromedp.Void](`window.same = true`))
	assert.Equal(t, "€7,036", v.counter("brindlepost", "[data-cost]"))
	v.change("drivers-contacts-now", "9000")
	v.await(`document.querySelector(".lead-in").textContent.includes("9,000")`)
	assert.Equal(t, "€8,706", v.counter("brindlepost", "[data-cost]"))
	assert.True(t, see[bool](v, `window.same === true`), "no page was loaded")
	assert.Equal(t, "Contacts is now 9,000. Brindlepost stays first, €8,706.", see[string](v, `document.querySelector("[data-live-says]").textContent`))
	assert.Equal(t, "drivers-contacts-growth", see[string](v, `document.activeElement.id`), "focus went on to the next field")
	v.change("drivers-contacts-growth", "0")
	v.await(`document.querySelector(".lead-in").textContent.includes("stay at 9,000")`)
	v.open("costs")
	assert.Contains(t, lead(v), "Quirebird is the cheapest way through all 36 months, at €5,348. It costs least in every month.")
}

func TestARefusedEditKeepsTheOldValueAndSaysWhy(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("growth")
	v.change("drivers-contacts-now", "lots")
	v.await(`document.getElementById("drivers-contacts-now-problem") !== null`)
	assert.Contains(t, see[string](v, `document.getElementById("drivers-contacts-now-problem").textContent`), "“lots” is not a number")
	assert.Equal(t, "€7,036", v.counter("brindlepost", "[data-cost]"))
	v.change("drivers-contacts-now", "6500")
	v.await(`document.getElementById("drivers-contacts-now-problem") === null && document.querySelector(".lead-in").textContent.includes("6,500")`)
	// A colleague changes the number that is being typed over.
	v.do(chromedp.Evaluate[chromedp.Void](`document.getElementById("drivers-contacts-now").focus(); document.getElementById("drivers-contacts-now").select()`), chromedp.KeyEvent("6600"))
	colleague := v.app.As(t, doors.Editor)
	resp, err := colleague.PostForm(v.app.Page("growth"), map[string][]string{"op": {"set"}, "path": {"drivers.contacts.now"}, "was": {"6500"}, "value": {"7000"}})
	require.NoError(t, err)
	resp.Body.Close()
	v.await(`document.querySelector(".lead-in").textContent.includes("from 7,000 to")`)
	assert.Equal(t, "6600", see[string](v, `document.getElementById("drivers-contacts-now").value`), "what is typed stays")
	v.do(chromedp.KeyEvent(kb.Tab))
	v.await(`document.getElementById("drivers-contacts-now-problem") !== null`)
	assert.Contains(t, see[string](v, `document.getElementById("drivers-contacts-now-problem").textContent`), "Dov Amsel changed this at ")
	assert.Equal(t, "7,000", see[string](v, `document.getElementById("drivers-contacts-now").value`), "theirs is shown")
	v.do(chromedp.Click("#drivers-contacts-now-problem button"))
	v.await(`document.querySelector(".lead-in").textContent.includes("from 6,600 to")`)
	assert.Zero(t, see[int](v, `document.querySelectorAll(".problem").length`), "one's own was saved all the same")
}

// TestANumberThatMayMeanTwoThingsIsAskedAbout types as people write numbers
// elsewhere, and answers by mouse, by typing on, and by key.
func TestANumberThatMayMeanTwoThingsIsAskedAbout(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("growth")
	v.change("drivers-contacts-now", "7.500")
	v.await(`document.getElementById("drivers-contacts-now-problem") !== null`)
	asked := see[string](v, `document.getElementById("drivers-contacts-now-problem").textContent`)
	assert.Contains(t, asked, "Did you mean 7.5 or 7,500?")
	assert.Equal(t, "7.500", see[string](v, `document.getElementById("drivers-contacts-now").value`), "what was typed stays")
	assert.Equal(t, "€7,036", v.counter("brindlepost", "[data-cost]"), "and nothing was saved")
	v.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll("#drivers-contacts-now-problem button")].find((b) => b.textContent === "Save 7,500").click()`))
	v.await(`document.querySelector(".lead-in").textContent.includes("from 7,500 to")`)
	assert.Zero(t, see[int](v, `document.querySelectorAll(".problem").length`))
	v.change("drivers-automated_emails-now", "0,8")
	v.await(`document.getElementById("drivers-automated_emails-now-problem") !== null`)
	v.change("drivers-automated_emails-now", "0.8")
	v.await(`document.getElementById("drivers-automated_emails-now-problem") === null && document.getElementById("drivers-automated_emails-now").defaultValue === "0.8"`)
	v.change("drivers-contacts-growth", "1,5")
	v.await(`document.getElementById("drivers-contacts-growth-problem") !== null`)
	v.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("#drivers-contacts-growth-problem button").focus()`), chromedp.KeyEvent(kb.Enter))
	v.await(`document.getElementById("drivers-contacts-growth").defaultValue === "1.5"`)
	assert.Equal(t, "7,500", see[string](v, `document.getElementById("drivers-contacts-now").value`))
}

func TestAStudyDeletedInAnotherTabIsSaidAndNothingTypedIsLost(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("growth")
	require.NoError(t, moveStudy(v, true))
	v.change("drivers-contacts-now", "7777")
	v.await(`!document.querySelector("[data-snag]").hidden`)
	assert.Contains(t, see[string](v, `document.querySelector("[data-snag-text]").textContent`), "This study is not here any more")
	assert.Equal(t, "7777", see[string](v, `document.getElementById("drivers-contacts-now").value`))
	require.NoError(t, moveStudy(v, false))
	v.do(chromedp.Click("[data-snag-again]"))
	v.await(`document.querySelector(".lead-in").textContent.includes("7,777")`)
	assert.True(t, see[bool](v, `document.querySelector("[data-snag]").hidden`))
}

func TestCostsAreReadByLineByMonthAndByReceipt(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("costs")
	assert.Equal(t, 5, see[int](v, `document.querySelectorAll("[data-line]").length`))
	assert.Equal(t, 13, see[int](v, `document.querySelectorAll(".ribbon rect").length`), "a block for each run on a plan with its packs")
	assert.Contains(t, see[string](v, `document.querySelector(".events").textContent`), "emails pass 35,000")

	// The scrubber goes by keys; the counter shows the month, and the horizon again when it is left.
	v.do(chromedp.Focus("[data-chart]"), chromedp.KeyEvent(kb.ArrowRight), chromedp.KeyEvent(kb.ArrowRight))
	assert.Equal(t, "Feb 2027 · 6,528 contacts", see[string](v, `document.querySelector(".scrubber text").textContent`))
	assert.Equal(t, "€44.50", v.counter("quirebird", "[data-cost]"))
	assert.Equal(t, "Feb 2027, per month", see[string](v, `document.querySelector("[data-counter-says]").textContent`))
	v.do(chromedp.KeyEvent(kb.ArrowRight, chromedp.KeyModifiers(chromedp.ModifierShift)))
	assert.Contains(t, see[string](v, `document.querySelector("[data-chart]").getAttribute("aria-valuetext")`), "Mar 2027")
	v.do(chromedp.KeyEvent(kb.Escape))
	assert.Equal(t, "€5,653", v.counter("quirebird", "[data-cost]"))

	// A change opens as its receipt, in a slip at the side.
	v.do(chromedp.Click(`.events a[data-at="22"]`))
	v.await(`document.querySelector("[data-slip].show") !== null`)
	assert.Contains(t, see[string](v, `document.querySelector("[data-slip-body]").textContent`), "1 × £14.00 for each started 5,000")
	v.do(chromedp.KeyEvent(kb.Escape))
	v.await(`document.querySelector("[data-slip].show, [data-slip].hiding") === null`)

	v.do(chromedp.Click(`button[value="yearly"]`))
	v.await(`document.querySelector('button[value="yearly"]').getAttribute("aria-pressed") === "true"`)
	assert.Equal(t, "Bough, yearly", v.counter("brindlepost", "[data-plan]"))
	assert.Equal(t, 5, see[int](v, `document.querySelectorAll("[data-line]").length`), "drawn anew")
	v.do(chromedp.Click(`a[href$="as=table"]`))
	v.await(`getComputedStyle(document.querySelector(".cost-table")).display !== "none"`)
	v.await(`document.querySelectorAll(".cost-table tbody tr").length === 36`)
}

// TestYearsDoNotStandOnEachOther begins a study in December: its first year has one
// month.
func TestYearsDoNotStandOnEachOther(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	for start, want := range map[string]string{"2026-12": "2027 2028 2029", "2026-11": "", "2027-01": "2027 2028 2029"} {
		set(t, v.app, "start", start)
		v.open("costs")
		years := see[string](v, `[...document.querySelectorAll(".months .year")].map((e) => e.textContent).join(" ")`)
		if want != "" { // two months may have room for the number of their year, or not
			assert.Equal(t, want, years, start)
		}
		assert.Empty(t, see[string](v, `(() => { const b = [...document.querySelectorAll(".months .year")].map((e) => e.getBoundingClientRect()); return b.some((r, i) => i && r.left < b[i - 1].right) ? "overlap" : ""; })()`), start)
	}
}

func TestWeightsAndRatingsMoveTheVerdict(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("scores")
	assert.Equal(t, 4, see[int](v, `document.querySelectorAll(".bar-fit").length`))
	v.change("criteria-cost-weight", "90")
	v.await(`!document.querySelector('[data-pile="brindlepost"]').classList.contains("first")`)
	v.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`), chromedp.KeyEvent("9"))
	v.await(`document.querySelector("h1")?.textContent === "Verdict"`)
	assert.NotContains(t, see[string](v, `document.querySelector(".pick").textContent`), "Brindlepost on")
	v.open("scores")
	v.do(chromedp.Evaluate[chromedp.Void](`document.getElementById("ratings-brindlepost-ease-value").focus()`), chromedp.KeyEvent(kb.ArrowDown))
	assert.Equal(t, "ratings-brindlepost-trade-value", see[string](v, `document.activeElement.id`))
	v.change("ratings-quirebird-ease-value", "")
	v.do(chromedp.Evaluate[chromedp.Void](`(() => { const f = document.getElementById("ratings-quirebird-look-value"); f.value = ""; f.form.requestSubmit(); })()`))
	v.await(`document.querySelector('[data-pile="quirebird"] b').textContent.includes("–")`)
}

func TestTheSameEditsWorkWithoutScripts(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.do(browser.WithoutScripts(), chromedp.Navigate(v.app.Page("growth")), chromedp.SetValue("#drivers-contacts-now", "9000"), chromedp.SetValue("#drivers-contacts-growth", "lots"))
	_, err := chromedp.RunResponse(v.ctx, chromedp.Click("#fields-drivers-contacts .save"))
	require.NoError(t, err)
	text, err := chromedp.Run(v.ctx, chromedp.Text(".lead-in"))
	require.NoError(t, err)
	assert.Contains(t, text, "9,000")
	assert.Equal(t, "lots", see[string](v, `document.getElementById("drivers-contacts-growth").value`), "what is wrong keeps what was typed")
	assert.Equal(t, "drivers-contacts-growth", see[string](v, `document.activeElement.id`))
	assert.Equal(t, "none", see[string](v, `getComputedStyle(document.querySelector(".grip")).display`), "what scripts alone move has no handle")
	v.do(chromedp.Navigate(v.app.Page("costs")))
	_, err = chromedp.RunResponse(v.ctx, chromedp.Click(`button[value="yearly"]`))
	require.NoError(t, err)
	v.do(chromedp.WaitVisible(".cost-table"))
	text, err = chromedp.Run(v.ctx, chromedp.Text(".facts"))
	require.NoError(t, err)
	assert.Contains(t, text, "yearly")
}

func TestAssetsComeOnlyFromTheApplication(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("costs")
	for _, from := range see[[]string](v, `performance.getEntriesByType("resource").map((r) => r.name)`) {
		assert.True(t, strings.HasPrefix(from, v.app.Address), from)
	}
	assert.True(t, see[bool](v, `[...document.fonts].some((f) => f.status === "loaded" && f.family.includes("Petrona"))`), "the headings' font was loaded")
	resp, err := v.app.Client.Get(v.app.Page("costs"))
	require.NoError(t, err)
	defer resp.Body.Close()
	body, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	assert.NotContains(t, string(body), "http://", "no page names another host")
}

// wideOf is the owner as who changes what belongs to the workspace.
func wideOf(v *visitor) store.Editing {
	return testkit.As(v.t, v.app.Store, v.app.Workspace.ID, uuid.Nil, doors.Owner)
}
