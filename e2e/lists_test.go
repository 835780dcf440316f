package e2e_test

import (
	"fmt"
	"testing"

	"ninecoins/e2e/browser"
	"ninecoins/internal/doors"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const criteria = `[...document.querySelectorAll("[data-row] [data-item^='criteria.']")].map((row) => row.dataset.item.slice(9)).join(" ")`

func focus(id string) chromedp.Action[chromedp.Void] {
	return chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.getElementById(%q).focus()`, id))
}

// tab goes on by the Tab key until an element that a selector names has the
// focus.
func (v *visitor) tab(selector string) {
	v.t.Helper()
	for range 150 {
		v.do(chromedp.KeyEvent(kb.Tab))
		if see[bool](v, fmt.Sprintf(`document.activeElement.matches(%q)`, selector)) {
			return
		}
	}
	require.Fail(v.t, "the Tab key does not come to "+selector)
}

// TestListsAreEditedByKeyboardAndMouse moves, adds and removes criteria by keys
// alone, then drags one; the focus stays where one works.
func TestListsAreEditedByKeyboardAndMouse(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 1000)
	v.open("scores")
	v.do(focus("criteria-ease-weight"), chromedp.KeyEvent(kb.ArrowUp, chromedp.KeyModifiers(chromedp.ModifierAlt)))
	v.await(criteria + ` === "cost ease automation trade look help"`)
	assert.Equal(t, "criteria-ease-weight", see[string](v, `document.activeElement.id`), "the focus goes with the row")
	v.do(chromedp.KeyEvent(kb.ArrowDown, chromedp.KeyModifiers(chromedp.ModifierAlt)))
	v.await(criteria + ` === "cost automation ease trade look help"`)
	v.tab("summary")
	v.do(chromedp.KeyEvent(kb.Enter))
	v.tab("#add-criteria-name")
	v.do(chromedp.KeyEvent("Smell"), chromedp.KeyEvent(kb.Tab), chromedp.KeyEvent("heavy"), chromedp.KeyEvent(kb.Enter))
	v.await(`document.getElementById("add-criteria-weight-problem")?.textContent.includes("is not a share")`)
	assert.Equal(t, "Smell", see[string](v, `document.getElementById("add-criteria-name").value`), "what was typed stays")
	v.do(chromedp.Evaluate[chromedp.Void](`document.getElementById("add-criteria-weight").focus(); document.getElementById("add-criteria-weight").select()`), chromedp.KeyEvent("6"), chromedp.KeyEvent(kb.Enter))
	v.await(criteria + ` === "cost automation ease trade look help smell"`)
	v.await(`document.activeElement.id === "add-criteria-name" && document.activeElement.value === ""`)
	assert.True(t, see[bool](v, `document.getElementById("add-criteria-more").open`), "ready for the next")
	v.do(chromedp.KeyEvent("Taste"), chromedp.KeyEvent(kb.Tab), chromedp.KeyEvent("4"), chromedp.KeyEvent(kb.Enter))
	v.await(criteria + `.endsWith("smell taste")`)
	v.do(focus("criteria-smell-weight"), chromedp.KeyEvent(kb.Delete, chromedp.KeyModifiers(chromedp.ModifierAlt)))
	v.await(criteria + ` === "cost automation ease trade look help taste"`)
	v.await(`document.activeElement !== document.body`)
	v.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(chromedp.ModifierCtrl)))
	v.await(criteria + ` === "cost automation ease trade look help smell taste"`)

	// By mouse: the last one is dragged above the second.
	from := see[[]float64](v, `(() => { const b = document.querySelector('[data-item="criteria.help"] [data-grip]').getBoundingClientRect(); return [b.x + 8, b.y + 8]; })()`)
	to := see[[]float64](v, `(() => { const b = document.querySelector('[data-item="criteria.automation"]').closest("tr").getBoundingClientRect(); return [b.x + 8, b.y + 4]; })()`)
	v.do(chromedp.MouseEvent(chromedp.MousePressed, from[0], from[1], chromedp.ButtonLeft), chromedp.MouseEvent(chromedp.MouseMoved, from[0], (from[1]+to[1])/2, chromedp.ButtonLeft),
		chromedp.MouseEvent(chromedp.MouseMoved, from[0], to[1], chromedp.ButtonLeft), chromedp.MouseEvent(chromedp.MouseReleased, from[0], to[1], chromedp.ButtonLeft))
	v.await(criteria + ` === "cost help automation ease trade look smell taste"`)
	assert.Zero(t, see[int](v, `document.querySelectorAll(".dragged, .drop-above, .drop-below").length`))
}

// TestWhatIsHalfTypedStaysWhileOthersEdit has several forms half typed and a
// panel open when somebody else's edit is shown.
func TestWhatIsHalfTypedStaysWhileOthersEdit(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 1000)
	v.open("scores")
	colleague := enter(t, v.app, v.app.Address, v.app.Cookie(t, v.app.As(t, doors.Editor)), 1280, 1000)
	colleague.open("scores")
	colleague.do(chromedp.Evaluate[chromedp.Void](`document.getElementById("add-criteria-more").open = true; document.getElementById("add-criteria-name").value = "Smell";
		document.getElementById("add-criteria-source").selectedIndex = 1; document.getElementById("add-criteria-rows").value = "A\t1"; window.same = document.getElementById("add-criteria-name")`), focus("add-criteria-weight"), chromedp.KeyEvent("12"))
	v.change("criteria-ease-weight", "40")
	colleague.await(`document.getElementById("criteria-ease-weight").value === "40"`)
	for id, want := range map[string]string{"add-criteria-name": "Smell", "add-criteria-weight": "12", "add-criteria-rows": "A\t1", "add-criteria-source": "cost"} {
		assert.Equal(t, want, see[string](colleague, fmt.Sprintf(`document.getElementById(%q).value`, id)), id)
	}
	assert.Equal(t, "add-criteria-weight", see[string](colleague, `document.activeElement.id`))
	assert.True(t, see[bool](colleague, `window.same === document.getElementById("add-criteria-name")`), "it is the same field, not another one like it")
	v.do(focus("criteria-help-weight"), chromedp.KeyEvent(kb.ArrowUp, chromedp.KeyModifiers(chromedp.ModifierAlt)))
	colleague.await(criteria + ` === "cost automation ease trade help look"`)
	assert.Equal(t, "12", see[string](colleague, `document.getElementById("add-criteria-weight").value`))
	colleague.do(chromedp.KeyEvent(kb.Enter))
	v.await(criteria + `.endsWith("smell")`)
}

// TestANewStudyIsMadeByKeyboardAlone goes from the Desk to a verdict with Tab,
// Enter and letters.
func TestANewStudyIsMadeByKeyboardAlone(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 900)
	v.do(chromedp.Navigate(v.app.Address+"/"), browser.Settled())
	v.tab("#new-title")
	v.do(chromedp.KeyEvent("Where to next"), chromedp.KeyEvent(kb.Enter))
	v.await(`document.querySelector("h1")?.textContent === "Brief" && document.querySelector(".study-title").textContent === "Where to next"`)
	v.tab(".next a")
	v.do(chromedp.KeyEvent(kb.Enter))
	v.await(`document.querySelector("h1")?.textContent === "Line-up"`)
	for n := range 2 {
		v.tab("[data-found] button")
		v.do(chromedp.KeyEvent(kb.Enter))
		v.await(fmt.Sprintf(`document.querySelectorAll("[data-row]").length === %d`, n+1))
	}
	v.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`), chromedp.KeyEvent("5"))
	v.await(`document.querySelector("h1")?.textContent === "Growth"`)
	v.tab("#add-drivers-now")
	v.do(chromedp.KeyEvent("6400"), chromedp.KeyEvent(kb.Enter))
	v.await(`document.getElementById("drivers-contacts-now")?.value === "6,400"`)
	v.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`), chromedp.KeyEvent("8"))
	v.await(`document.querySelector("h1")?.textContent === "Scores"`)
	v.tab("#add-criteria-name")
	v.do(chromedp.KeyEvent("Ease"), chromedp.KeyEvent(kb.Tab), chromedp.KeyEvent("100"), chromedp.KeyEvent(kb.Enter))
	v.await(`document.getElementById("criteria-ease-weight") !== null`)
	for n, rating := range []string{"7", "5.5"} {
		ids := see[[]string](v, `[...document.querySelectorAll(".score-cell input:not([type=hidden])")].map((field) => field.id)`)
		v.do(focus(ids[n]), chromedp.KeyEvent(rating), chromedp.KeyEvent(kb.Tab))
		v.await(fmt.Sprintf(`document.getElementById(%q).defaultValue === %q`, ids[n], rating))
	}
	v.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`), chromedp.KeyEvent("9"))
	v.await(`document.querySelector("h1")?.textContent === "Verdict"`)
	assert.Contains(t, see[string](v, `document.querySelector("main").textContent`), "Pick ")
}

// TestListsAreEditedWithoutScripts adds, moves and removes criteria, and begins a
// study, in a browser that runs no scripts.
func TestListsAreEditedWithoutScripts(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 1000)
	press := func(selector string) {
		t.Helper()
		_, err := chromedp.RunResponse(v.ctx, chromedp.Click(selector))
		require.NoError(t, err, selector)
	}
	rows := func() string {
		t.Helper()
		text, err := chromedp.Run(v.ctx, chromedp.Evaluate[string](criteria))
		require.NoError(t, err)
		return text
	}
	v.do(browser.WithoutScripts(), chromedp.Navigate(v.app.Page("scores")), chromedp.Click("#add-criteria-more summary"),
		chromedp.SetValue("#add-criteria-name", "Smell"), chromedp.SetValue("#add-criteria-weight", "5"))
	press("#add-criteria .go")
	assert.Equal(t, "cost automation ease trade look help smell", rows())
	press(`[id="up-criteria.smell"]`)
	assert.Equal(t, "cost automation ease trade look smell help", rows())
	press(`[id="remove-criteria.ease"]`)
	assert.Equal(t, "cost automation trade look smell help", rows())
	v.do(chromedp.SetValue("#criteria-smell-name", "Scent"))
	press("#fields-criteria-smell .save")
	press("[data-undo] button")
	press("[data-undo] button")
	assert.Equal(t, "cost automation ease trade look smell help", rows())
	v.do(chromedp.Navigate(v.app.Address+"/"), chromedp.SetValue("#new-title", "Where to next"))
	press(".new-study .go")
	v.do(chromedp.WaitVisible("h1"))
	assert.Contains(t, see[string](v, `document.querySelector("main").textContent`), "What comes next")
}

// TestTwoPeopleFillAStudyAtOnce begins a study and fills it in two browsers, each
// adding to lists while the other does: nothing of either is lost.
func TestTwoPeopleFillAStudyAtOnce(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 1000)
	v.do(chromedp.Navigate(v.app.Address+"/"), browser.Settled(), chromedp.Focus("#new-title"), chromedp.KeyEvent("Both of us"), chromedp.KeyEvent(kb.Enter))
	v.await(`document.querySelector(".study-title")?.textContent === "Both of us"`)
	at := see[string](v, `location.pathname.replace("/brief", "")`)
	colleague := enter(t, v.app, v.app.Address, v.app.Cookie(t, v.app.As(t, doors.Editor)), 1280, 1000)
	for _, one := range []*visitor{v, colleague} {
		one.do(chromedp.Navigate(v.app.Address+at+"/scores"), browser.Settled(), chromedp.Evaluate[chromedp.Void](`document.getElementById("add-criteria-more").open = true`))
	}
	for n := range 3 {
		for who, one := range []*visitor{v, colleague} {
			one.do(focus("add-criteria-name"), chromedp.KeyEvent(fmt.Sprintf("c%d%d", who, n)), chromedp.KeyEvent(kb.Tab), chromedp.KeyEvent("10"), chromedp.KeyEvent(kb.Enter))
		}
	}
	for _, one := range []*visitor{v, colleague} {
		one.await(criteria + `.split(" ").sort().join(" ") === "c00 c01 c02 c10 c11 c12"`)
	}
	assert.Equal(t, see[string](v, criteria), see[string](colleague, criteria), "in one order")
	v.do(chromedp.Navigate(v.app.Address+at+"/line-up"), browser.Settled(), chromedp.Click("[data-found] button"))
	v.await(`document.querySelectorAll("[data-row]").length === 1`)
	colleague.await(`document.querySelectorAll(".score-cell input:not([type=hidden])").length === 6`)
	id := see[string](colleague, `document.querySelector(".score-cell input:not([type=hidden])").id`)
	colleague.do(focus(id), chromedp.KeyEvent("8"), chromedp.KeyEvent(kb.Tab))
	v.await(`document.querySelector(".pile .pile-fit b") !== null`)
	colleague.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(chromedp.ModifierCtrl)))
	v.await(`document.querySelector(".pile .pile-fit b") === null`)
}
