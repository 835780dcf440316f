package e2e_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"ninecoins/e2e/browser"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// shifts is how far what is seen moved by itself while the page came, as the Layout
// Instability specification counts it.
const shifts = `new Promise((done) => {
	const all = [];
	new PerformanceObserver((list) => { for (const one of list.getEntries()) if (!one.hadRecentInput) all.push(one); }).observe({ type: "layout-shift", buffered: true });
	setTimeout(() => done({ sum: all.reduce((sum, one) => sum + one.value, 0), of: all.flatMap((one) => one.sources.map((s) => (s.node?.className ?? "") + " " + (s.node?.nodeName ?? ""))).join(", ") }), 300);
})`

// load opens a page. One that does not come within a minute over a line that the browser itself slows down is
// asked for once more; what stood then is logged.
func (v *visitor) load(page string) {
	v.t.Helper()
	once, stop := context.WithTimeout(v.ctx, time.Minute)
	defer stop()
	if err := chromedp.Do(once, chromedp.Navigate(page), browser.Settled()); err != nil {
		state, now := chromedp.Run(v.ctx, chromedp.Evaluate[string](`[location.href, document.readyState, document.visibilityState, document.fonts.status].join(" ")`))
		v.t.Logf("%s: %v; %s %v", page, err, state, now)
		v.do(chromedp.Navigate(page), browser.Settled())
	}
}

type shift struct {
	Sum float64 `json:"sum"`
	Of  string  `json:"of"` // what moved
}

// TestPagesDoNotShift loads pages afresh over a slow line: nothing that is seen
// moves when fonts and charts come.
func TestPagesDoNotShift(t *testing.T) {
	t.Parallel()
	for _, size := range [][2]int64{{1280, 800}, {390, 844}} {
		v := visit(t, size[0], size[1])
		v.do(browser.SlowLine())
		for _, page := range []string{v.address + "/", v.app.Page("brief"), v.app.Page("coverage"), v.app.Page("growth"), v.app.Page("costs"), v.app.Page("scores")} {
			v.load(page)
			moved, err := chromedp.Run(v.ctx, chromedp.Evaluate[shift](shifts, chromedp.EvalAwaitPromise))
			require.NoError(t, err)
			t.Logf("%s at %d: %.4f", strings.TrimPrefix(page, v.address), size[0], moved.Sum)
			assert.Less(t, moved.Sum, 0.02, "%s at %d: %s", page, size[0], moved.Of)
		}
	}
}
