package e2e_test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"ninecoins/e2e/browser"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/formats"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// typist enters things by hand and counts what hands do.
type typist struct {
	*visitor
	keystrokes, points, thoughts int
}

func (y *typist) point(selector string) {
	y.t.Helper()
	y.points++
	y.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.querySelector(%q).scrollIntoView({ block: "center" })`, selector)), chromedp.Click(selector))
}

func (y *typist) strike(text string) {
	y.t.Helper()
	y.keystrokes += len(text)
	y.keys(text)
}

// down walks so many choices down a list.
func down(n int) string { return strings.Repeat(kb.ArrowDown, n) }

// add fills a form that adds, from its first field on, and waits for what follows.
func (y *typist) add(form, then string, fields ...string) {
	y.t.Helper()
	y.thoughts++
	// The page may move under the pointer while it takes an answer in: who misses points again.
	for tries := 0; tries < 5 && !see[bool](y.visitor, fmt.Sprintf(`document.getElementById(%q).open`, form+"-more")); tries++ {
		y.point("#" + form + "-more > summary")
	}
	y.points++ // a list that is pressed would open over the page: it is only gone to
	y.run(fmt.Sprintf(`document.querySelector(%q).focus()`, "#"+form+" :is(input:not([type=hidden]), select)"))
	for i, text := range fields {
		if i > 0 {
			y.strike(kb.Tab)
		}
		// Who types looks where the caret stands.
		require.Equal(y.t, form, see[string](y.visitor, `document.activeElement.form?.id ?? document.activeElement.outerHTML.slice(0, 300)`), "field %d", i)
		if text != "" {
			y.strike(text)
		}
	}
	y.strike(kb.Enter)
	y.await(then)
}

// set types into a field in place of what stands there.
func (y *typist) set(id, text, then string) {
	y.t.Helper()
	y.thoughts++
	y.point("#" + id)
	y.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.getElementById(%q).select?.()`, id)))
	y.strike(text)
	y.strike(kb.Tab)
	y.await(then)
}

func (y *typist) draft() pricelist.Edition {
	y.t.Helper()
	d, _, err := y.app.Store.Draft(y.t.Context(), y.app.Workspace.ID, "wicker-letters")
	require.NoError(y.t, err)
	return d.Draft.Edition
}

// TestTheExerciseIsEnteredByHand enters the printed page of docs/exercise by typing alone,
// and comes to the prices of its solution.
func TestTheExerciseIsEnteredByHand(t *testing.T) {
	t.Parallel()
	y := &typist{visitor: visit(t, 1280, 1000)}
	y.do(chromedp.Navigate(y.address+"/shelf"), browser.Settled())
	y.point("#new-name")
	y.strike("Wicker Letters" + kb.Tab + "email" + kb.Enter)
	y.await(`document.querySelector("h1").textContent.startsWith("Wicker Letters")`)
	y.points++
	y.do(chromedp.Navigate(y.address+"/shelf/platforms/wicker-letters/draft/prices"), browser.Settled())
	has := func(selector string) string { return fmt.Sprintf(`!!document.querySelector(%q)`, selector) }
	value := func(id, v string) string {
		return fmt.Sprintf(`document.getElementById(%q)?.value === %q && !document.getElementById(%q).matches(".saving")`, id, v, id)
	}

	y.add("add-plan-plans", has("#plan-stem"), "Stem")
	y.add("add-charge-plans-stem", has("#plans-stem-charges-contacts")+" && "+has("#plans-stem-terms-monthly"), "15", down(3), "1000", "con", "")
	y.add("add-term-plans-stem", has("#plans-stem-terms-yearly-off"), "", "", "20") // twelve months, paid up front, as it stands there
	bands := func(plan, text, then string) {
		id := "bands-plans-" + plan + "-charges-contacts"
		y.thoughts++
		if !see[bool](y.visitor, fmt.Sprintf(`document.getElementById(%q).closest("details").open`, id)) {
			y.points++
			y.run(fmt.Sprintf(`document.getElementById(%q).closest("details").open = true`, id))
		}
		y.point("#" + id)
		y.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.getElementById(%q).select()`, id)))
		y.strike(text)
		y.points++
		y.run(fmt.Sprintf(`document.getElementById(%q).form.querySelector("button").click()`, id))
		y.await(then)
	}
	bands("stem", "1000;15\r5000;39\r15000;79\r40000;149", has(`#plans-stem-charges-contacts-bands-40000-price`))
	y.add("add-charge-plans-stem", has("#plans-stem-charges-seats"), "6", down(1), "", "sea", "")
	y.set("plans-stem-charges-seats-included", "2", value("plans-stem-charges-seats-included", "2"))
	y.add("add-limit-plans-stem", has("#plans-stem-limits-emails_sent-contacts"), "emails", "10 x contacts")
	y.add("add-limit-plans-stem", has("#plans-stem-limits-workflows"), "active", "5")
	// The second plan is like the first.
	y.thoughts++
	y.point("#copy-stem")
	y.do(chromedp.Evaluate[chromedp.Void](`document.getElementById("copy-stem").select()`))
	y.strike("Crown" + kb.Enter)
	y.await(has("#plan-crown"))
	bands("crown", "1000;35\r5000;69\r15000;129\r40000;229", value("plans-crown-charges-contacts-bands-40000-price", "229"))
	y.set("plans-crown-charges-seats-price", "9", value("plans-crown-charges-seats-price", "9"))
	y.set("plans-crown-charges-seats-included", "5", value("plans-crown-charges-seats-included", "5"))
	y.set("plans-crown-limits-emails_sent-contacts-most-times", "15", value("plans-crown-limits-emails_sent-contacts-most-times", "15"))
	y.set("plans-crown-limits-workflows-most", "unlimited", value("plans-crown-limits-workflows-most", "unlimited"))

	y.add("add-addon-add_ons", has("#add_ons-texting"), "Texting", "19")
	y.set("add_ons-texting-plans", "stem", value("add_ons-texting-plans", "stem"))
	y.set("add_ons-texting-included_on", "crown", value("add_ons-texting-included_on", "crown"))
	y.add("add-offer-offers", has("#offers-autumn-offer"), "Autumn offer", "", "50", "2")
	y.set("trial-days", "30", value("trial-days", "30"))

	file, err := os.ReadFile("../docs/exercise/solution.json")
	require.NoError(t, err)
	solution, err := formats.StatedPriceList(t.Context(), file)
	require.NoError(t, err)
	same(t, solution, y.draft())
	y.point(`.actions button`)
	y.await(`document.querySelector(".notice")?.textContent.includes("The draft was published")`)

	// By the keystroke-level model (Card, Moran and Newell 1980): 0.28 s a keystroke of an
	// average typist, 1.1 s to point, 1.35 s to make up one's mind.
	seconds := 0.28*float64(y.keystrokes) + 1.1*float64(y.points) + 1.35*float64(y.thoughts)
	t.Logf("by hand: %d keystrokes, %d times pointed, %d times made up one's mind: %.0f s by the keystroke-level model", y.keystrokes, y.points, y.thoughts, seconds)
	assert.Less(t, seconds, 300.0, "under five minutes")
}

// same prices two lists at many usages: they come to the same wherever either serves.
func same(t *testing.T, a, b pricelist.Edition) {
	t.Helper()
	require.Len(t, b.Plans, len(a.Plans))
	price := func(e *pricelist.Edition, values map[string]int64, musts []string) map[string]money.Amount {
		paths := map[string]usage.Path{}
		for key, n := range values {
			paths[key] = usage.Path{Now: usage.Of(n)}
		}
		model, err := usage.NewModel(nil, paths)
		require.NoError(t, err)
		columns, err := model.Columns(1)
		require.NoError(t, err)
		rows, err := tariff.Read(e, columns)
		require.NoError(t, err)
		all, err := projection.Preview(projection.Candidate{Edition: e, Rows: rows, Musts: musts, Basis: quote.Basis{Currency: e.Currency}}, 0)
		require.NoError(t, err)
		got := map[string]money.Amount{}
		for i := range all {
			if all[i].Serves() {
				got[all[i].Plan.Name+all[i].Term.Key] = all[i].Monthly()
				got[all[i].Plan.Name+all[i].Term.Key+" then"] = all[i].Then
			}
		}
		return got
	}
	served := 0
	for _, contacts := range []int64{1, 1000, 1001, 3400, 15_000, 15_001, 40_001} {
		for _, seats := range []int64{1, 3, 6} {
			for _, letters := range []int64{4, 11, 16} {
				for _, workflows := range []int64{5, 6} {
					values := map[string]int64{"contacts": contacts, "seats": seats, "newsletters": letters, "workflows": workflows}
					want := price(&a, values, nil)
					assert.Equal(t, want, price(&b, values, nil), "%v", values)
					served += len(want)
				}
			}
		}
	}
	assert.Greater(t, served, 100)
	require.Len(t, b.AddOns, len(a.AddOns))
	assert.Equal(t, a.AddOns[0].Plans, b.AddOns[0].Plans)
	assert.Equal(t, a.AddOns[0].IncludedOn, b.AddOns[0].IncludedOn)
	assert.Equal(t, a.AddOns[0].Charges[0].Price, b.AddOns[0].Charges[0].Price)
	assert.Equal(t, a.Trial, b.Trial)
}

// TestTheExerciseIsEnteredByReading brings the printed page in, looks at what was read, and
// makes it a draft.
func TestTheExerciseIsEnteredByReading(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 900)
	page, err := os.ReadFile("../docs/exercise/price-page.html")
	require.NoError(t, err)
	v.do(chromedp.Navigate(v.address+"/shelf/read?platform=Wicker+Letters"), browser.Settled())
	// What the clipboard holds of a page: its HTML beside its words.
	v.run(fmt.Sprintf(`const field = document.querySelector("[data-paste-page]"); field.focus();
		const data = new DataTransfer(); data.setData("text/html", %q); data.setData("text/plain", "its words");
		field.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true })); field.value = "its words"`, string(page)))
	v.await(`document.querySelector("[data-paste-note]").textContent.includes("came along")`)
	v.do(chromedp.Click("[data-read-form] button"))
	v.await(`document.querySelector(".lead-in strong")?.textContent === "2 plans"`)
	v.do(browser.Settled())
	// A figure and what was read of it light each other.
	v.run(`document.querySelector(".read-mark").focus()`)
	v.await(`document.querySelectorAll(".read-claim.lit-claim").length > 0`)
	v.do(chromedp.Click(".read-make button"))
	v.await(`document.querySelector("h1").textContent === "Wicker Letters: a new edition"`)
	v.do(browser.Settled())
	d, _, err := v.app.Store.Draft(t.Context(), v.app.Workspace.ID, "wicker-letters")
	require.NoError(t, err)
	file, err := os.ReadFile("../docs/exercise/solution.json")
	require.NoError(t, err)
	solution, err := formats.StatedPriceList(t.Context(), file)
	require.NoError(t, err)
	same(t, solution, d.Draft.Edition)
	v.do(chromedp.Click(".actions button"))
	v.await(`document.querySelector(".notice")?.textContent.includes("The draft was published")`)
}
