package e2e_test

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// A course is led by keys and by the pointer, a factor of its season likewise; the
// counter follows each.
func TestACourseIsDraggedAndTheCounterFollows(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("growth")
	before := v.counter("brindlepost", "[data-cost]")
	v.do(chromedp.Evaluate[chromedp.Void](`document.querySelector(".knob").focus()`), chromedp.KeyEvent(kb.End))
	assert.Equal(t, "Dec 2029: 12,800", see[string](v, `document.querySelector(".knob").getAttribute("aria-valuetext")`))
	for range 12 {
		v.do(chromedp.KeyEvent(kb.ArrowUp))
	}
	v.await(`document.querySelector(".lead-in").textContent.includes("to 14,")`)
	assert.NotEqual(t, before, v.counter("brindlepost", "[data-cost]"))
	assert.Contains(t, v.text("[data-undo]"), "Undo: Contacts, growth a month back to 2%")

	// The point at the end is pulled down.
	v.do(chromedp.Evaluate[chromedp.Void](`(() => {
		const svg = document.querySelector("[data-growth-chart] svg"), knob = svg.querySelector(".knob").getBoundingClientRect();
		const at = (type, dy) => svg.dispatchEvent(new PointerEvent(type, { bubbles: true, pointerId: 1, clientX: knob.x + knob.width / 2, clientY: knob.y + knob.height / 2 + dy, buttons: 1 }));
		svg.setPointerCapture = () => {};
		at("pointerdown", 0); at("pointermove", 60); at("pointerup", 60);
	})()`))
	v.await(`!document.querySelector(".lead-in").textContent.includes("to 14,")`)

	v.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll(".growth-chart .bar")[3].focus()`))
	for range 4 {
		v.do(chromedp.KeyEvent(kb.ArrowUp))
	}
	v.do(chromedp.KeyEvent(kb.Enter))
	v.await(`document.getElementById("drivers-contacts-season-apr").value === "1.2"`)
	v.await(`document.querySelector(".growth-main .chosen .grows").textContent.includes("a season")`)
}

// Costs are followed along a driver by keys, with the counter; chance is simulated where
// it is asked for.
func TestCostsAreLookedAtEveryWay(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.open("costs/along")
	v.await(`document.querySelectorAll("[data-lines] svg path").length > 5`)
	v.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("[data-lines]").focus()`), chromedp.KeyEvent(kb.Home))
	assert.Equal(t, "1 contacts, a month", v.text("[data-counter-says]"))
	assert.Equal(t, "€39.00", v.counter("quirebird", "[data-cost]"))
	v.do(chromedp.KeyEvent(kb.Escape))
	assert.Equal(t, "fit out of nine, 36-month cost", v.text("[data-counter-says]"))

	v.open("costs/field")
	v.await(`document.querySelectorAll("[data-plane] .field-runs rect").length > 10`)
	assert.Contains(t, v.text(".lead-in"), "Where we stand Quirebird costs least")

	v.open("costs/chance")
	v.await(`document.querySelector(".lead-in").textContent.includes("paths of growth")`)

	v.open("costs/leaving")
	v.change("options-brindlepost-move-hours", "0")
	v.await(`document.querySelector(".leaving").textContent.includes("saves €2,101")`)
}
