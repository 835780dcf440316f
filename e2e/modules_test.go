package e2e_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"ninecoins/e2e/browser"
	"ninecoins/internal/doors"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// module evaluates an expression with a module of the application imported as
// m.
func module[T any](v *visitor, name, expression string) T {
	v.t.Helper()
	base := see[string](v, `document.querySelector('script[type="module"]').src.replace("main.js", "")`)
	got, err := chromedp.Run(v.ctx, chromedp.Evaluate[T](fmt.Sprintf(`import(%q).then((m) => (%s))`, base+name, expression), chromedp.EvalAwaitPromise))
	require.NoError(v.t, err, expression)
	return got
}

func TestLabelsAndTicksAreLaidOutApart(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("costs")
	places := module[[]float64](v, "layout.js", `m.labelPlaces([{y: 100}, {y: 101}, {y: 102}, {y: 300}], 16).map((p) => p.at)`)
	require.Len(t, places, 4)
	for i := 1; i < len(places); i++ {
		assert.GreaterOrEqual(t, places[i]-places[i-1], 15.9)
	}
	assert.InDelta(t, 101, (places[0]+places[1]+places[2])/3, 0.5, "a heap stays about its middle")
	assert.Equal(t, 300.0, places[3], "who has room does not move")
	places = module[[]float64](v, "layout.js", `m.labelPlaces(Array.from({ length: 12 }, () => ({ y: 190 })), 16, 8, 230).map((p) => p.at)`)
	for i := 1; i < len(places); i++ {
		assert.GreaterOrEqual(t, places[i]-places[i-1], 15.9, "twelve that cost the same")
	}
	assert.GreaterOrEqual(t, places[0], 8.0)
	assert.LessOrEqual(t, places[11], 230.1)
	for months, want := range map[int]int{1: 1, 12: 1, 36: 3, 60: 6, 120: 12} {
		ticks := module[[]int](v, "layout.js", fmt.Sprintf(`m.ticksOf(%d, 12)`, months))
		assert.LessOrEqual(t, len(ticks), 12)
		if len(ticks) > 1 {
			assert.Equal(t, want, ticks[1]-ticks[0], "%d months", months)
		}
	}
	at := module[[]int](v, "layout.js", `[-50, 0, 99, 100, 5000].map((px) => m.monthAt(px, { invert: (p) => p / 100 }, 12))`)
	assert.Equal(t, []int{0, 0, 0, 1, 11}, at)
}

func TestWhatIsTypedSurvivesAServerThatDoesNotAnswer(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("growth")
	v.do(chromedp.Evaluate[chromedp.Void](`window.real = window.fetch; window.fetch = () => Promise.reject(new TypeError("gone"))`))
	v.change("drivers-seats-now", "4")
	v.await(`!document.querySelector("[data-snag]").hidden`)
	assert.Contains(t, see[string](v, `document.querySelector("[data-snag-text]").textContent`), "Not saved yet: Nine Coins does not answer. What you typed is still in its field")
	assert.Equal(t, "4", see[string](v, `document.getElementById("drivers-seats-now").value`))
	v.do(chromedp.Evaluate[chromedp.Void](`window.fetch = window.real`), chromedp.Click("[data-snag-again]"))
	v.await(`document.getElementById("drivers-seats-now").defaultValue === "4"`)
	assert.True(t, see[bool](v, `document.querySelector("[data-snag]").hidden`))
}

func TestEditsInARowDoNotGetInEachOthersWay(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("growth")
	v.change("drivers-contacts-now", "7000")
	v.change("drivers-contacts-growth", "3")
	v.change("drivers-contacts-now", "7500")
	v.await(`document.querySelector(".lead-in").textContent.includes("from 7,500 to") && document.getElementById("drivers-contacts-growth").defaultValue === "3"`)
	assert.Zero(t, see[int](v, `document.querySelectorAll(".problem").length`))
}

// TestEditsAreQuickerThanTheServer types on in fields, and into the form that adds,
// before what was sent from them is answered.
func TestEditsAreQuickerThanTheServer(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 1000)
	v.open("growth")
	v.do(chromedp.Evaluate[chromedp.Void](`(() => { const soon = window.fetch; window.fetch = (...all) => new Promise((answer) => setTimeout(() => answer(soon(...all)), 700)); })()`))
	v.change("drivers-contacts-now", "7,000")
	v.change("drivers-contacts-growth", "3")
	v.change("drivers-contacts-now", "7,500")
	v.change("drivers-contacts-growth", "4")
	v.do(focus("drivers-contacts-now"), chromedp.KeyEvent("8"))
	v.await(`document.getElementById("drivers-contacts-growth").defaultValue === "4"`)
	assert.Contains(t, lead(v), "from 7,500 to")
	assert.Contains(t, see[string](v, `document.getElementById("drivers-contacts-now").value`), "8", "what is half typed stays")
	assert.Zero(t, see[int](v, `document.querySelectorAll(".problem").length`))
	v.do(chromedp.KeyEvent(kb.Escape), chromedp.Evaluate[chromedp.Void](`document.getElementById("add-own_drivers-more").open = true`))
	for _, name := range []string{"Trays", "Boxes"} {
		v.do(chromedp.Evaluate[chromedp.Void](`document.getElementById("add-own_drivers-name").focus(); document.getElementById("add-own_drivers-name").select()`), chromedp.KeyEvent(name))
		if name == "Trays" {
			v.do(chromedp.Evaluate[chromedp.Void](`document.getElementById("add-own_drivers-unit").value = "one"`), chromedp.KeyEvent(kb.Enter))
		}
	}
	v.await(`document.getElementById("drivers-trays-now") !== null`)
	assert.Equal(t, "Boxes", see[string](v, `document.getElementById("add-own_drivers-name").value`), "the next is being typed already")
}

func TestTheLastChangeIsTakenBackByKeyAndByLine(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("growth")
	v.change("drivers-contacts-now", "9000")
	v.await(`document.querySelector("[data-undo]")?.textContent.includes("Contacts back to 6,400")`)
	v.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`), chromedp.KeyEvent("z", chromedp.KeyModifiers(chromedp.ModifierCtrl)))
	v.await(`document.querySelector(".lead-in").textContent.includes("from 6,400 to")`)
	assert.Equal(t, "€7,036", v.counter("brindlepost", "[data-cost]"), "the counter follows")
	v.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(chromedp.ModifierCtrl, chromedp.ModifierShift)))
	v.await(`document.querySelector(".lead-in").textContent.includes("from 9,000 to")`)
	v.do(chromedp.Click("[data-undo] button"))
	v.await(`document.querySelector("[data-undo]") === null && document.querySelector("[data-redo]") !== null`)
	// In a field that is being typed in, the browser's own undo stays.
	v.do(chromedp.Focus("#drivers-seats-now"), chromedp.KeyEvent("7"), chromedp.KeyEvent("z", chromedp.KeyModifiers(chromedp.ModifierCtrl, chromedp.ModifierShift)))
	assert.Contains(t, lead(v), "from 6,400 to")
}

// TestKeysThatAreQuickerThanTheServerAreKept presses undo, redo and undo again
// before the first of them was answered.
func TestKeysThatAreQuickerThanTheServerAreKept(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("growth")
	for _, contacts := range []string{"7000", "7500"} {
		v.change("drivers-contacts-now", contacts)
		v.await(fmt.Sprintf(`document.getElementById("drivers-contacts-now").defaultValue.replace(",", "") === %q`, contacts))
	}
	v.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur(); for (const shift of [false, true, false]) document.body.dispatchEvent(new KeyboardEvent("keydown", {key: "z", ctrlKey: true, shiftKey: shift, bubbles: true, cancelable: true}))`))
	v.await(`document.querySelector("[data-redo]") !== null && document.getElementById("drivers-contacts-now").defaultValue === "7,000" && performance.getEntriesByType("resource").filter((r) => r.initiatorType === "fetch" && r.name.includes("/growth")).length >= 5`)
	v.change("drivers-seats-now", "4") // saved in its turn, after all of them
	v.await(`document.querySelector("[data-undo]")?.textContent.includes("Seats back to 3")`)
	assert.Equal(t, "7,000", see[string](v, `document.getElementById("drivers-contacts-now").value`), "one change is taken back, not two")
}

func TestOpenPagesFollowEachOther(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("growth")
	colleague := enter(t, v.app, v.app.Address, v.app.Cookie(t, v.app.As(t, doors.Editor)), 1280, 800)
	colleague.open("growth")
	colleague.do(chromedp.Focus("#drivers-seats-now"), chromedp.KeyEvent("1"))
	require.Equal(t, "1", see[string](colleague, `document.getElementById("drivers-seats-now").value`)[:1])

	v.change("drivers-contacts-now", "9000")
	colleague.await(`document.querySelector(".lead-in").textContent.includes("from 9,000 to")`)
	assert.Equal(t, "€8,706", colleague.counter("brindlepost", "[data-cost]"))
	colleague.await(`!document.querySelector("[data-note]").hidden`)
	assert.Contains(t, see[string](colleague, `document.querySelector("[data-note-text]").textContent`), "Imke Vroom changed Contacts from 6,400 to 9,000.")
	assert.Equal(t, "drivers-seats-now", see[string](colleague, `document.activeElement.id`), "who is typing is not disturbed")
	assert.Contains(t, see[string](colleague, `document.getElementById("drivers-seats-now").value`), "1")
	assert.Equal(t, "3", see[string](colleague, `document.getElementById("drivers-seats-now").defaultValue`), "and what is half typed is not saved")
	assert.Empty(t, see[string](v, `document.querySelector("[data-note-text]").textContent`), "one is not told of one's own change")

	require.NoError(t, moveStudy(v, true))
	colleague.await(`document.querySelector("[data-note-text]").textContent.includes("not here any more")`)
}

func TestKeysGoWhereTheySay(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("brief")
	v.do(chromedp.KeyEvent("5"))
	v.await(`document.querySelector("h1")?.textContent === "Growth" && document.readyState === "complete"`)
	v.do(browser.Settled(), chromedp.Focus("#drivers-contacts-now"), chromedp.KeyEvent("6"))
	assert.Equal(t, "Growth", see[string](v, `document.querySelector("h1").textContent`), "in a field a digit is a digit")
	v.do(chromedp.KeyEvent(kb.Escape))
	assert.Equal(t, "6,400", see[string](v, `document.getElementById("drivers-contacts-now").value`), "Escape puts back what stood there")
	v.do(chromedp.KeyEvent(kb.ArrowDown))
	assert.Equal(t, "drivers-unsubscribed-now", see[string](v, `document.activeElement.id`))
	v.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`), chromedp.KeyEvent("?"))
	v.await(`document.querySelector("[data-keys-dialog]").open`)
}

// TestWhatFollowsIsToldOfEveryPair says what a change means for who is first.
func TestWhatFollowsIsToldOfEveryPair(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("brief")
	for _, one := range [][3]string{
		{"null", "null", ""}, {"a", "null", "No option is first any more."}, {"null", "b", "Birch is first, €2."},
		{"a", "a", "Ash stays first, €1."}, {"a", "b", "Birch is first now, €2, before Ash."},
	} {
		said := module[string](v, "voice.js", fmt.Sprintf(`(() => { const a = { key: "a", name: "Ash", cost: "€1" }, b = { key: "b", name: "Birch", cost: "€2" }; return m.follows(%s, %s); })()`, one[0], one[1]))
		assert.Equal(t, one[2], said)
	}
	const look = `{ last: %q, did: "Done.", undid: "Undone: it.", first: null }`
	for _, one := range [][4]string{{"set", "1", "1", ""}, {"set", "1", "2", "Done."}, {"undo", "1", "2", "Undone: it."}, {"redo", "", "2", "Done."}} {
		assert.Equal(t, one[3], module[string](v, "voice.js", fmt.Sprintf("m.changes(%q, "+look+", "+look+")", one[0], one[1], one[2])))
	}
}

func TestKeysOfOneLetterAreSwitchedOff(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	press := func(button string) {
		t.Helper()
		v.do(chromedp.Navigate(v.address+"/account"), browser.Settled())
		_, err := chromedp.RunResponse(v.ctx, chromedp.Click("#keys button"))
		require.NoError(t, err)
		v.await(fmt.Sprintf(`document.querySelector("#keys button").textContent === %q`, button))
	}
	press("Switch them on")
	v.open("brief")
	v.do(chromedp.KeyEvent("?"), chromedp.KeyEvent("5"), chromedp.KeyEvent(kb.PageDown))
	assert.False(t, see[bool](v, `document.querySelector("[data-keys-dialog]").open`))
	assert.Equal(t, "Brief", v.text("h1"))
	press("Switch them off")
	v.open("brief")
	v.do(chromedp.KeyEvent("5"))
	v.await(`document.querySelector("h1")?.textContent === "Growth"`)
}

func TestOnANarrowScreenTheCounterIsADrawer(t *testing.T) {
	t.Parallel()
	v := visit(t, 390, 844)
	v.open("verdict")
	assert.False(t, see[bool](v, `document.querySelector(".pile").checkVisibility()`))
	assert.Contains(t, see[string](v, `document.querySelector("[data-drawer]").textContent`), "Brindlepost leads with 6.9")
	v.do(chromedp.Click("[data-drawer]"), browser.Settled())
	assert.True(t, see[bool](v, `document.querySelector(".pile").checkVisibility()`))
	assert.Equal(t, "true", see[string](v, `document.querySelector("[data-drawer]").getAttribute("aria-expanded")`))
	assert.True(t, see[bool](v, `(() => { const r = document.querySelector(".rail [aria-current]").getBoundingClientRect(); return r.left >= 0 && r.right <= innerWidth; })()`), "the rail shows where one is")
}

// TestAMessageIsReadOnAPhone has a server that does not answer tell so on a phone: over the width that there is.
func TestAMessageIsReadOnAPhone(t *testing.T) {
	t.Parallel()
	v := visit(t, 390, 844)
	v.open("growth")
	v.run(`window.real = window.fetch; window.fetch = () => Promise.reject(new TypeError("gone"))`)
	v.quiet = true
	v.change("drivers-contacts-now", "7000")
	v.await(`!document.querySelector("[data-snag]").hidden`)
	box := see[map[string]float64](v, `(() => { const s = document.querySelector("[data-snag]").getBoundingClientRect(), p = document.querySelector("[data-snag-text]").getBoundingClientRect();
		return { left: s.left, right: s.right, top: s.top, text: p.width }; })()`)
	assert.Greater(t, box["text"], 220.0, "its words have room")
	assert.GreaterOrEqual(t, box["left"], 0.0)
	assert.LessOrEqual(t, box["right"], 390.0)
	assert.GreaterOrEqual(t, box["top"], 0.0)
}

func TestTheChartIsSavedWhole(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("costs")
	v.do(chromedp.Evaluate[chromedp.Void](`window.saved = []; const make = URL.createObjectURL; URL.createObjectURL = (blob) => { window.saved.push(blob); return make(blob); }; HTMLAnchorElement.prototype.click = function () { this.dataset.saved = this.download; }`))
	v.do(chromedp.Click(`[data-save="svg"]`))
	v.await(`window.saved.length === 1`)
	svg, err := chromedp.Run(v.ctx, chromedp.Evaluate[string](`window.saved[0].text()`, chromedp.EvalAwaitPromise))
	require.NoError(t, err)
	assert.Contains(t, svg, `id="face-5"`, "the faces are taken along")
	assert.Contains(t, svg, "Lantern")
	assert.NotContains(t, svg, "scrubber")
	v.do(chromedp.Click(`[data-save="png"]`))
	v.await(`window.saved.length === 2`)
	head, err := chromedp.Run(v.ctx, chromedp.Evaluate[[]byte](`window.saved[1].arrayBuffer().then((b) => [...new Uint8Array(b.slice(1, 4))])`, chromedp.EvalAwaitPromise))
	require.NoError(t, err)
	var letters []byte
	var codes []int
	require.NoError(t, json.Unmarshal(head, &codes))
	for _, c := range codes {
		letters = append(letters, byte(c))
	}
	assert.Equal(t, "PNG", string(letters))
}
