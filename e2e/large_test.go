package e2e_test

import (
	"fmt"
	"testing"

	"ninecoins/e2e/browser"
	"ninecoins/internal/testkit"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// TestTheLargestStudyIsLookedAt opens the coins of a study of 24 options over 120 months, wide and on a
// phone: all of it is there, nothing sticks out, and no page is laid out anew for each of thousands of
// names.
func TestTheLargestStudyIsLookedAt(t *testing.T) {
	t.Parallel()
	app := testkit.StartLarge(t, testkit.UpperCase)
	v := enter(t, app, app.Address, app.Cookie(t, app.Client), 1280, 800)
	v.do(browser.Beforehand(`window.measured = 0;
		for (const [type, how] of [[SVGTextContentElement, "getComputedTextLength"], [SVGGraphicsElement, "getBBox"]]) {
			const real = type.prototype[how];
			type.prototype[how] = function () { window.measured++; return real.call(this); };
		}`))
	for path, all := range map[string]struct {
		of   string
		many int
	}{
		"growth":         {"main input", 2},
		"line-up":        {".lineup tbody tr", 24},
		"coverage":       {".takes-card", 24},
		"prices":         {".price-option", 24},
		"costs":          {"[data-chart] .ribbon", 24},
		"costs?as=table": {"main table tbody tr", 120},
		"scores":         {"main tbody tr", 2},
		"verdict":        {"main tbody tr", 24},
	} {
		for _, width := range []int64{1280, 390} {
			v.do(chromedp.EmulateViewport(width, 800))
			v.open(path)
			what := fmt.Sprintf("%s at %d", path, width)
			assert.GreaterOrEqual(t, see[int](v, fmt.Sprintf(`document.querySelectorAll(%q).length`, all.of)), all.many, what)
			assert.Equal(t, 24, see[int](v, `document.querySelectorAll("[data-pile]").length`), what)
			assert.LessOrEqual(t, see[int](v, `document.documentElement.scrollWidth - innerWidth`), 0, what)
			assert.Less(t, see[int](v, `window.measured`), 500, "names measured in the page, %s", what)
		}
	}
}
