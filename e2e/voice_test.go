package e2e_test

import (
	"fmt"
	"net/http"
	"testing"
	"time"

	"ninecoins/e2e/browser"
	"ninecoins/internal/doors"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const (
	said    = `document.querySelector("[data-live-says]").textContent`
	focused = `(document.activeElement.id || document.activeElement.textContent.trim())`
)

func (v *visitor) run(script string) {
	v.t.Helper()
	v.do(chromedp.Evaluate[chromedp.Void](script, chromedp.EvalAwaitPromise))
}

// colleague lets an editor change something while the visitor looks on.
func (v *visitor) colleague(page string, form ...string) {
	v.t.Helper()
	values := map[string][]string{}
	for i := 0; i < len(form); i += 2 {
		values[form[i]] = []string{form[i+1]}
	}
	resp, err := v.app.As(v.t, doors.Editor).PostForm(v.app.Page(page), values)
	require.NoError(v.t, err)
	resp.Body.Close()
	require.Equal(v.t, http.StatusOK, resp.StatusCode)
}

func TestTheLiveRegionSaysWhatChangedAndWhatFollows(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("growth")
	v.change("drivers-contacts-now", "9000")
	v.await(said + ` === "Contacts is now 9,000. Brindlepost stays first, €8,706."`)
	v.do(chromedp.Click("[data-undo] button"))
	v.await(said + ` === "Undone: Contacts back to 6,400. Brindlepost stays first, €7,036."`)
	v.do(chromedp.Click("[data-redo] button"))
	v.await(said + ` === "Contacts is now 9,000. Brindlepost stays first, €8,706."`)
	v.change("drivers-contacts-now", "lots")
	v.await(said + `.startsWith("“lots” is not a number")`)
	v.do(chromedp.Evaluate[chromedp.Void](`document.getElementById("drivers-contacts-now").focus()`), chromedp.KeyEvent(kb.Escape))
	assert.Equal(t, "9,000", see[string](v, `document.getElementById("drivers-contacts-now").value`), "Esc puts back what stands there")
	assert.Zero(t, see[int](v, `document.querySelectorAll("[aria-invalid], .problem").length`))
	// What somebody else changed is told as theirs; that nothing changed is not told.
	v.run(said + ` = ""`)
	v.colleague("growth", "op", "set", "path", "drivers.seats.now", "was", "3", "value", "4")
	v.await(`document.querySelector("[data-note-text]").textContent.includes("changed Seats from 3 to 4")`)
	assert.Empty(t, see[string](v, said))
	// Every other way of changing something says what it did.
	v.open("scores")
	v.run(`document.querySelector('[data-item="criteria.cost"] [data-move="down"] button').click()`)
	v.await(said + `.startsWith("Criterion Cost over the horizon")`)
	v.run(`document.querySelector('[data-item="criteria.help"] [data-remove] button').click()`)
	v.await(said + `.startsWith("Criterion Help when stuck removed")`)
}

// TestTheFocusStaysWhereItWas goes through what swaps the page under the one who
// works on it.
func TestTheFocusStaysWhereItWas(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("costs")
	v.run(`document.querySelector('button[value="yearly"]').focus()`)
	v.do(chromedp.KeyEvent(kb.Enter))
	v.await(`document.querySelector(".facts").textContent.includes("yearly")`)
	assert.Equal(t, "Yearly", see[string](v, focused), "billing")
	v.run(`document.querySelector("[data-undo] button").focus()`)
	v.do(chromedp.KeyEvent(kb.Enter))
	v.await(`document.querySelector(".facts").textContent.includes("monthly")`)
	assert.Contains(t, see[string](v, focused), "Redo", "undo, where nothing is left to undo")
	// The slider while somebody else edits.
	v.run(`document.querySelector("[data-chart]").focus()`)
	v.do(chromedp.KeyEvent(kb.ArrowRight), chromedp.KeyEvent(kb.ArrowRight), chromedp.KeyEvent(kb.ArrowRight))
	assert.Equal(t, "2", see[string](v, `document.activeElement.getAttribute("aria-valuenow")`))
	v.colleague("growth", "op", "set", "path", "drivers.contacts.now", "was", "6400", "value", "6500")
	v.await(`document.querySelector("[data-note-text]").textContent.includes("6,500")`)
	assert.Equal(t, "2", see[string](v, `document.activeElement.getAttribute("aria-valuenow")`), "the month that was looked at")
	assert.Equal(t, "visible", see[string](v, `document.querySelector(".scrubber").getAttribute("visibility")`))
	assert.Contains(t, see[string](v, `document.activeElement.getAttribute("aria-valuetext")`), "Mar 2027 · ")
	// A receipt, closed by Esc.
	v.run(`document.querySelectorAll(".events a")[2].focus()`)
	opener := see[string](v, `document.activeElement.href`)
	v.do(chromedp.KeyEvent(kb.Enter))
	v.await(`document.querySelector(".slip.show") && document.querySelector("[data-slip]").contains(document.activeElement)`)
	// Letters are no keys while it is open.
	v.do(chromedp.KeyEvent("?"), chromedp.KeyEvent("2"))
	assert.False(t, see[bool](v, `document.querySelector("[data-keys-dialog]").open`))
	v.do(chromedp.KeyEvent(kb.Escape))
	v.await(`!document.querySelector(".slip.show, .slip.hiding")`)
	assert.Equal(t, opener, see[string](v, `document.activeElement.href`))
	// An item that is removed.
	v.open("scores")
	v.run(`document.querySelector('[data-item="criteria.ease"] [data-remove] button').focus()`)
	v.do(chromedp.KeyEvent(kb.Enter))
	v.await(`!document.querySelector('[data-item="criteria.ease"]')`)
	assert.Equal(t, "remove-criteria.trade", see[string](v, focused))
	// A study that is deleted on the Desk.
	v.do(chromedp.Navigate(v.address+"/"), browser.Settled())
	v.run(`window.same = true; document.querySelector('[aria-label^="Delete"]').focus()`)
	v.do(chromedp.KeyEvent(kb.Enter))
	v.await(`!document.querySelector(".study-card") && document.activeElement !== document.body && window.same`)
	v.do(chromedp.Navigate(v.address+"/bin"), browser.Settled())
	v.run(`window.same = true; document.querySelector('[aria-label^="Bring back"]').focus()`)
	v.do(chromedp.KeyEvent(kb.Enter))
	v.await(`!document.querySelector('[aria-label^="Bring back Spring list"]') && document.activeElement !== document.body && window.same`)
}

// TestAChoiceIsMadeWhenItIsLeft walks a list of choices by keys: nothing is saved
// until Enter, or until the field is left.
func TestAChoiceIsMadeWhenItIsLeft(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("coverage")
	first := `document.querySelector("select[name$='.level']")`
	v.run(first + ".focus()")
	before := see[string](v, first+".value")
	require.Equal(t, "must", before)
	v.do(chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent(kb.ArrowDown))
	assert.Empty(t, see[string](v, said))
	v.do(chromedp.KeyEvent(kb.Tab))
	v.await(said + `.includes(" is now bonus.")`)
	v.do(chromedp.Navigate(v.address+"/workspace"), browser.Settled())
	v.run(`document.querySelectorAll(".role-form select")[1].focus(); window.same = true`)
	v.do(chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent(kb.Tab))
	assert.True(t, see[bool](v, `window.same`), "a role is given by its button alone")
	assert.Equal(t, "Give", see[string](v, focused))
}

// TestTheMainPartScrollsByKeys presses what scrolls before anything has the focus.
func TestTheMainPartScrollsByKeys(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("coverage")
	const at = `document.getElementById("main").scrollTop`
	v.run(`document.activeElement.blur()`)
	require.Zero(t, see[float64](v, at))
	v.do(chromedp.KeyEvent(kb.PageDown))
	v.await(at + " > 100")
	v.do(chromedp.KeyEvent(kb.Home))
	v.await(at + " === 0")
	v.do(chromedp.KeyEvent(" "))
	v.await(at + " > 100")
}

// TestWhatIsWrongHasTheFocusAfterALoad sends wrong things without scripts.
func TestWhatIsWrongHasTheFocusAfterALoad(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.do(browser.WithoutScripts())
	for _, one := range []struct{ page, field, value, press, focus string }{
		{v.app.Page("growth"), "#drivers-contacts-now", "lots", "#fields-drivers-contacts .save", "drivers-contacts-now"},
		{v.app.Page("links"), "#link-label", " ", ".inline-form .go", "link-label"},
		{v.address + "/workspace", "#invite-email", "nobody", ".inline-form .go", "invite-email"},
		{v.address + "/account", "#email-email", "nobody", "form:has(#email-email) .go", "email-email"},
		{v.address + "/", "#new-title", " ", ".new-study .go", "new-title"},
	} {
		v.do(chromedp.Navigate(one.page))
		v.run(fmt.Sprintf(`document.querySelector(%q).value = %q; for (const f of document.forms) f.noValidate = true`, one.field, one.value))
		_, err := chromedp.RunResponse(v.ctx, chromedp.Click(one.press))
		require.NoError(t, err)
		assert.Eventually(t, func() bool { return see[string](v, focused) == one.focus }, 30*time.Second, 50*time.Millisecond, one.page)
	}
}

// TestAPhoneShowsOneOptionAtATime picks by the strip, by a swipe, and keeps what
// is picked over a save.
func TestAPhoneShowsOneOptionAtATime(t *testing.T) {
	t.Parallel()
	v := visit(t, 390, 844)
	const shown = `[...document.querySelectorAll("thead [data-column]")].filter((cell) => cell.checkVisibility()).map((cell) => cell.textContent.trim().split(/\s+/)[0]).join(" ")`
	for _, page := range []string{"scores", "coverage"} {
		v.open(page)
		assert.Equal(t, "Brindlepost", see[string](v, shown), page)
		assert.LessOrEqual(t, see[float64](v, `document.querySelector("[data-picked]").scrollWidth`), 368.0, "all of %s is in reach", page)
		v.run(`document.querySelectorAll("[data-picker] a")[2].click()`)
		assert.Equal(t, "Fernwire", see[string](v, shown), page)
		v.run(`{ const cell = document.querySelector("[data-picked] tbody td:not(.other)"); const at = (x) => [new Touch({ identifier: 1, target: cell, clientX: x, clientY: 500 })];
			const send = (name, x) => cell.dispatchEvent(new TouchEvent(name, { bubbles: true, touches: name === "touchend" ? [] : at(x), changedTouches: at(x) }));
			send("touchstart", 300); send("touchend", 120); }`)
		assert.Equal(t, "Quirebird", see[string](v, shown), page)
		v.do(chromedp.Navigate(see[string](v, `location.href`)), browser.Settled())
		assert.Equal(t, "Quirebird", see[string](v, shown), "after a load")
	}
	v.open("scores?option=fernwire")
	v.change("ratings-fernwire-ease-value", "9")
	v.await(said + `.includes(" is now 9")`)
	assert.Equal(t, "Fernwire", see[string](v, shown), "after a save")
	v.run(`document.querySelector("[data-picker] [data-all]").click()`)
	assert.Equal(t, "Brindlepost Osier Fernwire Quirebird Tallowpost", see[string](v, shown))
	// Why a rating is what it is can be read without a mouse.
	v.run(`document.querySelector(".why").focus()`)
	v.do(chromedp.KeyEvent(kb.Enter))
	assert.Contains(t, see[string](v, `document.querySelector(":popover-open").textContent`), "Branches on trade account type")
	v.do(chromedp.KeyEvent(kb.Escape))
	assert.Zero(t, see[int](v, `document.querySelectorAll(":popover-open").length`))
}

// TestWhatHasTheFocusIsNeverCovered walks the table of costs, whose head and foot
// stay in place, and a page with the counter under it.
func TestWhatHasTheFocusIsNeverCovered(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 600)
	for _, page := range []string{"costs?as=table", "scores", "coverage"} {
		v.open(page)
		covered := see[[]string](v, `[...document.querySelectorAll(".main a, .main input:not([type=hidden]), .main button, .main select, .main textarea")].filter((node) => node.checkVisibility() && !node.disabled).filter((node) => {
			node.focus();
			const box = node.getBoundingClientRect();
			const top = document.elementFromPoint(box.left + Math.min(box.width, 40) / 2, box.top + box.height / 2);
			return !(node.contains(top) || top?.contains(node));
		}).map((node) => node.textContent || node.id)`)
		assert.Empty(t, covered, page)
	}
}
