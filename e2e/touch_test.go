package e2e_test

import (
	"context"
	"testing"

	"ninecoins/e2e/browser"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// On a phone the point at the end of a course is pulled up by a finger; the page does
// not scroll away under it.
func TestACourseIsDraggedByAFinger(t *testing.T) {
	t.Parallel()
	v := visit(t, 390, 844)
	v.open("growth")
	v.do(chromedp.Evaluate[chromedp.Void](`document.querySelector(".growth-chart").scrollIntoView({ block: "center" })`))
	at := see[[]float64](v, `(() => { const knob = document.querySelector(".knob").getBoundingClientRect(); return [knob.x + knob.width / 2, knob.y + knob.height / 2]; })()`)
	finger := func(kind input.DispatchTouchEventType, dy float64) chromedp.Action[chromedp.Void] {
		points := []*input.TouchPoint{{X: at[0], Y: at[1] + dy}}
		if kind == input.DispatchTouchEventTypeTouchEnd {
			points = []*input.TouchPoint{}
		}
		return chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
			_, err := cdp.Call(ctx, t, input.DispatchTouchEvent, input.DispatchTouchEventParams{Type: kind, TouchPoints: points})
			return err
		})
	}
	v.do(finger(input.DispatchTouchEventTypeTouchStart, 0), finger(input.DispatchTouchEventTypeTouchMove, 20), finger(input.DispatchTouchEventTypeTouchMove, 40),
		finger(input.DispatchTouchEventTypeTouchMove, 60), finger(input.DispatchTouchEventTypeTouchEnd, 0))
	v.await(`!document.querySelector(".lead-in").textContent.includes("to 12,800")`)

	// A finger that passes over the bars of the season scrolls, and changes none.
	v.do(chromedp.Evaluate[chromedp.Void](`document.querySelector(".growth-chart .bar").scrollIntoView({ block: "center" })`))
	height := see[string](v, `document.querySelectorAll(".growth-chart .bar")[3].getAttribute("height")`)
	at = see[[]float64](v, `(() => { const bar = document.querySelectorAll(".growth-chart .bar")[3].getBoundingClientRect(); return [bar.x + bar.width / 2, bar.y + 4]; })()`)
	v.do(finger(input.DispatchTouchEventTypeTouchStart, 0), finger(input.DispatchTouchEventTypeTouchMove, 10), finger(input.DispatchTouchEventTypeTouchMove, 20),
		finger(input.DispatchTouchEventTypeTouchMove, 30), finger(input.DispatchTouchEventTypeTouchEnd, 0))
	assert.Equal(t, height, see[string](v, `document.querySelectorAll(".growth-chart .bar")[3].getAttribute("height")`))
	assert.Equal(t, "1", see[string](v, `document.getElementById("drivers-contacts-season-apr").value`))
}

// What is sent and not answered yet says so, and goes out once, however often it is pressed.
func TestAFormOnItsWayIsNotSentTwice(t *testing.T) {
	t.Parallel()
	v := visit(t, 390, 844)
	v.do(chromedp.Navigate(v.address+"/shelf/platforms/brindlepost"), browser.Settled())
	v.do(chromedp.Evaluate[chromedp.Void](`window.sent = 0; addEventListener("submit", (event) => { if (!event.defaultPrevented) sent++; event.preventDefault(); })`))
	const press = `[...document.querySelectorAll("main form")].find((form) => form.elements.op?.value === "open").querySelector("button").click()`
	v.do(chromedp.Evaluate[chromedp.Void](press), chromedp.Evaluate[chromedp.Void](press))
	assert.Equal(t, 1, see[int](v, "sent"))
	v.await(`document.querySelector("main button[aria-busy]") !== null`)
	v.await(`document.querySelector("[data-live-says]").textContent.includes("on its way")`)
	// Shown again as it was, it can be sent again.
	v.do(chromedp.Evaluate[chromedp.Void](`dispatchEvent(new PageTransitionEvent("pagehide"))`), chromedp.Evaluate[chromedp.Void](press))
	assert.Equal(t, 2, see[int](v, "sent"))
}
