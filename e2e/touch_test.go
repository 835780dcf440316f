package e2e_test

import (
	"context"
	"testing"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
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
}
