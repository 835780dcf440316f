package e2e_test

import (
	"fmt"
	"strings"
	"testing"

	"ninecoins/e2e/browser"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// keys strikes keys one after the other.
func (v *visitor) keys(all ...string) {
	v.t.Helper()
	for _, key := range all {
		v.do(chromedp.KeyEvent(key))
	}
}

// find adds what is found on the shelf by some letters to the line-up: by "/", the
// letters, an arrow and Enter.
func (v *visitor) find(letters, name string, options int) {
	v.t.Helper()
	v.await(`document.activeElement.tagName !== "INPUT"`)
	v.run(`document.body.dispatchEvent(new KeyboardEvent("keydown", { key: "/", bubbles: true, cancelable: true }))`) // the driver types what a key would not
	v.await(`document.activeElement.id === "find"`)
	v.keys(letters)
	v.await(fmt.Sprintf(`document.querySelector("[data-found] li b")?.textContent === %q`, name))
	v.keys(kb.ArrowDown)
	v.await(`document.activeElement.matches("[data-found] button")`)
	v.keys(kb.Enter)
	v.await(fmt.Sprintf(`document.querySelectorAll(".lineup tbody tr").length === %d`, options))
	v.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
}

// TestALateAnswerLeavesTheFocusInWhatWasFound walks into the list while an answer to the last letter is on its way.
func TestALateAnswerLeavesTheFocusInWhatWasFound(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 1000)
	v.open("line-up")
	v.run(`document.getElementById("find").focus()`)
	v.keys("brindl")
	v.await(`document.querySelector("[data-found] li b")?.textContent === "Brindlepost" && document.querySelectorAll("[data-found] li").length === 1`)
	v.run(`const plain = window.fetch;
		window.fetch = async (...all) => {
			const answer = await plain(...all);
			await new Promise((go) => { window.letGo = go; });
			window.late = true;
			return answer;
		}`)
	v.keys("e")
	v.await(`window.letGo !== undefined`)
	v.keys(kb.ArrowDown)
	v.await(`document.activeElement.matches("[data-found] button")`)
	v.run(`window.before = document.activeElement; window.letGo()`)
	v.await(`window.late && !window.before.isConnected`)
	assert.Equal(t, "Brindlepost", see[string](v, `document.activeElement.closest("[data-found] li")?.querySelector("b").textContent ?? "nowhere"`))
}

// TestFromABriefToWhatEachReallyHasByKeyboardAlone begins a study with a shipped brief,
// makes a platform by hand, fills its grid of 40 features by 3 plans, adds it and two
// others, and reads off which plan each takes and why.
func TestFromABriefToWhatEachReallyHasByKeyboardAlone(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 1000)
	v.do(chromedp.Navigate(v.address+"/shelf"), browser.Settled())
	v.tab("#new-name")
	v.keys("Larkspur Post", kb.Tab, "email", kb.Tab, "Letters for small shops", kb.Tab, kb.Tab, kb.Tab, kb.Enter)
	v.await(`document.querySelector("h1").textContent === "Larkspur Post: what it has"`)
	v.do(browser.Settled())
	v.tab("#plan-name")
	for i, plan := range [][2]string{{"Bed", "15"}, {"Border", "65"}, {"Park", "140"}} {
		for range 9 { // back to the form's first field
			if !see[bool](v, `document.activeElement.matches("#plan-name")`) {
				v.do(chromedp.KeyEvent(kb.Tab, chromedp.KeyModifiers(chromedp.ModifierShift)))
			}
		}
		v.keys(plan[0], kb.Tab, plan[1], kb.Tab)
		if i > 0 { // all of the one before: the next choice of the list
			for range i {
				v.keys(kb.ArrowDown)
			}
			v.keys(kb.Tab)
		}
		v.keys(kb.Enter)
		v.await(fmt.Sprintf(`document.querySelectorAll("[data-grid] thead th").length === %d`, i+2))
	}

	// 40 rows: no on the first plan, yes on the second, and depth 3 on the third; a number
	// where one is meant.
	v.tab("[data-grid] tbody [data-cell] input")
	const active = `document.activeElement`
	numbers, last := 0, ""
	for range 40 {
		last = see[string](v, active+`.closest("tr").id`)
		if see[bool](v, active+`.closest("td").dataset.number !== undefined`) {
			numbers++
			v.keys("5", kb.Enter, kb.ArrowRight, "2", "0", kb.Enter, kb.ArrowRight, ">", kb.ArrowLeft, kb.ArrowLeft)
		} else {
			v.keys("n", kb.ArrowRight, "y", kb.ArrowRight, "y", "3", kb.ArrowLeft, kb.ArrowLeft)
		}
		v.keys(kb.ArrowDown)
	}
	assert.Positive(t, numbers)
	assert.NotEmpty(t, last)
	v.await(`document.querySelectorAll("[data-cell] .saving").length === 0 && document.querySelector(".lead-in strong").textContent.startsWith("40 of")`)
	d, _, err := v.app.Store.Draft(t.Context(), v.app.Workspace.ID, "larkspur-post")
	require.NoError(t, err)
	v.await(`true`)
	cells := 0
	for _, p := range d.Draft.Edition.Plans {
		cells += len(p.Features)
	}
	assert.Equal(t, 120, cells, "every cell was saved")
	assert.Equal(t, "yes 3", d.Draft.Edition.Plans[2].Features["automation/event-triggers"].Cell())

	v.do(chromedp.Navigate(v.address+"/shelf/platforms/larkspur-post/draft"), browser.Settled())
	v.tab(".actions button")
	v.keys(kb.Enter)
	v.await(`document.querySelector(".notice")?.textContent.includes("The draft was published")`)

	// An empty study begins with the choice of a brief.
	v.do(chromedp.Navigate(v.address+"/"), browser.Settled())
	v.tab("#new-title")
	v.keys("Which of these?", kb.Enter)
	v.await(`document.querySelectorAll(".start-card").length === 10`)
	v.do(browser.Settled())
	v.tab(".start-card button")
	v.keys(kb.Enter)
	v.await(`document.querySelector('[data-coin="3"]').textContent.includes("14 needs")`)
	v.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	v.keys("2")
	v.await(`document.querySelector("h1").textContent === "Line-up"`)
	v.do(browser.Settled())
	v.find("lark", "Larkspur Post", 1)
	v.find("brindle", "Brindlepost", 2)
	v.find("osier", "Osier Mail", 3)
	v.keys("3")
	v.await(`document.querySelector("h1").textContent === "Coverage"`)
	v.do(browser.Settled())
	takes := see[string](v, `document.querySelector('.takes-card[aria-label="Larkspur Post"]').innerText`)
	assert.Contains(t, takes, "Border, paid monthly: €65.00 a month")
	assert.Contains(t, takes, "Bed would not do: no event triggers, no segments")
	assert.Contains(t, takes, "Next up is Park, for €75.00 more a month")
	assert.Contains(t, strings.ToLower(see[string](v, `document.querySelector(".lead-in").textContent`)), "musts")
}

// TestABlockIsPastedIntoTheGrid pastes what a spreadsheet copies, and takes it back.
func TestABlockIsPastedIntoTheGrid(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 900)
	_, err := v.app.Store.OpenDraft(t.Context(), wideOf(v), "fernwire")
	require.NoError(t, err)
	v.do(chromedp.Navigate(v.address+"/shelf/platforms/fernwire/draft?rows=in-ads"), browser.Settled())
	paste := func(text string) {
		v.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`(() => { const field = document.querySelector("[data-grid] tbody [data-cell] input"); field.focus();
			const data = new DataTransfer(); data.setData("text/plain", %q); field.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true })); })()`, text)))
	}
	first := `document.querySelectorAll("[data-grid] tbody [data-cell] input:not([type=hidden])")`
	paste("no\tyes 2\n5,000\tunlimited\n")
	v.await(first + `[0].value === "no" && ` + first + `[1].value === "yes 2" && ` + first + `[4].value === "unlimited"`)
	assert.Equal(t, "5,000", see[string](v, first+`[3].value`))
	v.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`), chromedp.KeyEvent("z", chromedp.KeyModifiers(chromedp.ModifierCtrl)))
	v.await(first + `[0].value === "" && ` + first + `[4].value === ""`)
	paste("no\tperhaps\n")
	v.await(`document.querySelector(".notice.trouble")?.textContent.includes("“perhaps” is no way of having a feature")`)
	assert.Empty(t, see[string](v, first+`[0].value`), "nothing was written")
}
