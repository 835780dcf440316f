package e2e_test

import (
	"bytes"
	"compress/gzip"
	_ "embed"
	"encoding/json"
	"fmt"
	"io"
	"strconv"
	"strings"
	"testing"

	"ninecoins/e2e/browser"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
	"ninecoins/internal/testkit"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// axe is axe-core 4.14.1, which checks pages by the rules of WCAG; for tests
// alone.
//
//go:embed testdata/axe.min.js.gz
var axe []byte

//go:embed testdata/look.js
var look string

// text makes all text of a page larger, or spaces it.
//
//go:embed testdata/text.js
var text string

func axeSource(t *testing.T) string {
	t.Helper()
	r, err := gzip.NewReader(bytes.NewReader(axe))
	require.NoError(t, err)
	text, err := io.ReadAll(r)
	require.NoError(t, err)
	return string(text)
}

// pages of a study, and those outside it.
var (
	inStudy = []string{"brief", "line-up", "coverage", "prices", "growth", "costs", "costs?as=table", "costs/along", "costs/field", "costs/chance?now=1", "costs/leaving", "costs/doing", "costs/bargain", "trials", "scores", "verdict", "history", "links",
		"questions", "differences", "coverage?rows=unknown", "line-up?find=e&stack=cheapest", "coverage?cell=brindlepost+automation/event-triggers",
		"prices?view=basket&rows=all", "prices?view=terms", "prices?view=curve", "receipts/brindlepost?plan=bough&term=monthly&against=canopy+monthly"}
	outside = []string{"", "sign-in", "shelf", "bin", "workspace", "account", "files", "mailbox", "history", "nowhere", "forgot", "features", "features?area=automation", "shelf/platforms/brindlepost",
		"shelf/platforms/brindlepost/draft?feature=automation/event-triggers", "shelf/platforms/brindlepost/draft/prices", "shelf/platforms/brindlepost/compare?to=draft",
		"shelf/read", "shelf/news"}
)

// fillings are states in which every page is looked at.
var fillings = map[string]func(t *testing.T, app *testkit.App){
	"full":   func(*testing.T, *testkit.App) {},
	"hard":   hard,
	"twelve": twelve,
	"empty":  emptied,
}

// word is long, and nothing in it says where it could be broken.
func word(letters int) string {
	return strings.Repeat("Wollknaeuelbindfadenrollenhalterung", 4)[:letters]
}

func edit(t *testing.T, app *testkit.App, c ...document.Op) {
	t.Helper()
	require.NoError(t, app.Store.Edit(t.Context(), testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner), c))
}

func set(t *testing.T, app *testkit.App, path document.Path, to string) {
	t.Helper()
	st, err := app.Store.Study(t.Context(), app.Workspace.ID, app.Study, testkit.Day)
	require.NoError(t, err)
	spot, there := study.Kept().Spot(*st, path)
	require.True(t, there, path)
	edit(t, app, document.Op{Do: document.Set, Path: path, Was: spot.Text, To: to})
}

// hard gives everything the longest names and the largest numbers.
func hard(t *testing.T, app *testkit.App) {
	st, err := app.Store.Study(t.Context(), app.Workspace.ID, app.Study, testkit.Day)
	require.NoError(t, err)
	set(t, app, "title", word(80)+" and its list")
	set(t, app, "company", word(80))
	set(t, app, "question", word(80)+"? "+word(80))
	set(t, app, "budget", "999999999")
	set(t, app, "drivers.contacts.now", "999999999999")
	for i, o := range st.Options {
		set(t, app, document.Path("options").To(o.Key, "name"), fmt.Sprint(i, word(59)))
	}
	for i, c := range st.Criteria {
		set(t, app, document.Path("criteria").To(c.ID, "name"), fmt.Sprint(i, word(59)))
		set(t, app, document.Path("criteria").To(c.ID, "note"), word(80)+" "+word(80))
	}
	for i, n := range st.Needs {
		set(t, app, document.Path("needs").To(n.Feature, "name"), fmt.Sprint(i, word(79)))
	}
	edit(t, app, document.Op{Do: document.Insert, Path: document.Path("private_offers").To("fernwire/beacon/12-upfront"),
		To: fmt.Sprintf(`{"option": "fernwire", "plan": "beacon", "months": 12, "paid": "upfront", "bill": "999999999.99", "on": "2026-11-20", "note": %q}`, word(120)+" "+word(79))})
}

// twelve puts as many options into the line-up as there may be.
func twelve(t *testing.T, app *testkit.App) {
	st, err := app.Store.Study(t.Context(), app.Workspace.ID, app.Study, testkit.Day)
	require.NoError(t, err)
	for n := len(st.Options); n < study.MostOptions; n++ {
		o := st.Options[n%len(st.Options)]
		key := fmt.Sprintf("%s-%d", o.Key, n)
		edit(t, app, document.Op{Do: document.Insert, Path: document.Path("options").To(key),
			To: fmt.Sprintf(`{"key": %q, "platform": %q, "observed_on": %q, "name": "%s %d", "face": %d}`, key, o.Platform, o.ObservedOn.Format("2006-01-02"), o.Name, n, n+1)})
	}
}

// emptied takes everything out of the study.
func emptied(t *testing.T, app *testkit.App) {
	st, err := app.Store.Study(t.Context(), app.Workspace.ID, app.Study, testkit.Day)
	require.NoError(t, err)
	owner := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner)
	remove := func(list, key string) {
		require.NoError(t, testkit.Delete(t.Context(), app.Store, owner, string(document.Path(list).To(key))))
	}
	for _, o := range st.Options {
		remove("options", o.Key)
	}
	for _, c := range st.Criteria {
		remove("criteria", c.ID)
	}
	for _, n := range st.Needs {
		remove("needs", n.Feature)
	}
	for _, d := range st.Drivers {
		remove("drivers", d.Driver)
	}
	for code := range st.Rates {
		remove("rates", code)
	}
}

// trouble is what a look at a page finds wrong.
type trouble struct {
	Overflow []string `json:"overflow"` // what stands out at the side
	Overlaps []string `json:"overlaps"` // words that stand on each other
	Cut      []string `json:"cut"`      // words that are cut off, without a way to read them
	Faint    []string `json:"faint"`    // edges, rings, words and shades of charts that stand out too little
}

// seeTrouble looks at a page for what is laid out wrongly, after a script has changed
// it.
func (v *visitor) seeTrouble(after string) (all []string) {
	v.t.Helper()
	var found trouble
	require.NoError(v.t, json.Unmarshal([]byte(see[string](v, after+";"+look)), &found))
	for name, some := range map[string][]string{"stands out": found.Overflow, "overlap": found.Overlaps, "cut": found.Cut, "faint": found.Faint} {
		for _, one := range some {
			all = append(all, name+": "+one)
		}
	}
	return all
}

// seeViolations checks a page by the rules of WCAG 2.2, A and AA, after a script has
// changed it. The source of axe is taken from the page where it is there already.
func (v *visitor) seeViolations(after, source string) []string {
	v.t.Helper()
	if source != "" {
		v.do(chromedp.Evaluate[chromedp.Void](source + ";0"))
	}
	text, err := chromedp.Run(v.ctx, chromedp.Evaluate[string](after+`;axe.run(document, {runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"], resultTypes: ["violations"]})
		.then((r) => JSON.stringify(r.violations.flatMap((one) => one.nodes.map((n) => one.id + ": " + n.target.join(" ") + " " + (n.any[0]?.message ?? "")))))`, chromedp.EvalAwaitPromise))
	require.NoError(v.t, err)
	var all []string
	require.NoError(v.t, json.Unmarshal([]byte(text), &all))
	return all
}

// walk goes through every page in a state and a size; mode "rules" checks it by
// the rules of WCAG too, "larger" and "spaced" change its text.
func walk(t *testing.T, filling string, width, height int64, mode string) {
	v := visit(t, width, height)
	fillings[filling](t, v.app)
	source := axeSource(t)
	rules := mode == "rules"
	at := func(address string) {
		v.do(chromedp.Navigate(address), browser.Settled())
		if mode == "larger" || mode == "spaced" {
			v.do(chromedp.Evaluate[chromedp.Void](strings.Replace(text, "MODE", strconv.Quote(mode), 1), chromedp.EvalAwaitPromise), browser.Settled())
		}
		troubles := v.seeTrouble("")
		if rules {
			troubles = append(troubles, v.seeViolations("", source)...)
		}
		assert.Empty(t, troubles, "%s at %dx%d, %s %s", strings.TrimPrefix(address, v.address), width, height, filling, mode)
	}
	base := v.address + "/studies/" + v.app.Study.String() + "/"
	for _, page := range inStudy {
		at(base + page)
		if mode != "larger" && mode != "spaced" {
			assert.LessOrEqual(t, see[int](v, `document.documentElement.scrollHeight`), int(height), "%s at %d scrolls as a whole", page, width)
		}
	}
	st, err := v.app.Store.Study(t.Context(), v.app.Workspace.ID, v.app.Study, testkit.Day)
	require.NoError(t, err)
	if len(st.Options) > 0 {
		key := st.Options[0].Key
		at(base + "options/" + key)
		at(base + "receipts/" + key + "?month=" + st.Start.ISO())
	}
	if filling == "full" || filling == "hard" {
		require.NoError(t, v.app.Store.KeepLetter(t.Context(), "rue@marl.example", "Come", v.app.Address+"/join/"+strings.Repeat("a1B2", 11)))
		_, err := v.app.Store.OpenDraft(t.Context(), wideOf(v), "brindlepost")
		require.NoError(t, err)
		require.NoError(t, moveStudy(v, true))
		for _, page := range outside {
			at(v.address + "/" + page)
		}
	}
}

func TestEveryPageIsInOrder(t *testing.T) {
	t.Parallel()
	for filling := range fillings {
		for _, size := range [][2]int64{{1280, 800}, {390, 844}} {
			t.Run(fmt.Sprintf("%s-%d", filling, size[0]), func(t *testing.T) {
				t.Parallel()
				walk(t, filling, size[0], size[1], "rules")
			})
		}
	}
}

// TestPagesStandLargerAndSpacedText doubles every size of text, and spaces text by
// WCAG 1.4.12.
func TestPagesStandLargerAndSpacedText(t *testing.T) {
	t.Parallel()
	for _, mode := range []string{"larger", "spaced"} {
		for _, size := range [][2]int64{{1280, 800}, {390, 844}} {
			if mode == "spaced" && size[0] > 390 {
				continue // where there is least room says most
			}
			t.Run(fmt.Sprintf("%s-%d", mode, size[0]), func(t *testing.T) {
				t.Parallel()
				walk(t, "full", size[0], size[1], mode)
			})
		}
	}
}

// TestTheWalkSeesFaults puts faults into a page on purpose.
func TestTheWalkSeesFaults(t *testing.T) {
	t.Parallel()
	v := visit(t, 390, 844)
	v.open("brief")
	require.Empty(t, v.seeTrouble(""))
	source := axeSource(t)
	const put = `const p = document.createElement("p"); p.textContent = "words that go on and on"; document.querySelector("h1").after(p); `
	for want, fault := range map[string]string{
		"stands out":     put + `p.style.width = "900px"`,
		"overlap":        put + `p.style.marginTop = "-30px"`,
		"cut":            put + `p.style.width = "60px"; p.style.overflow = "hidden"; p.style.whiteSpace = "nowrap"`,
		"faint: edge":    put + `p.append(document.createElement("input")); p.lastChild.style.border = "1px solid #ddd"`,
		"faint: focus":   `document.querySelector(".head a").style.outlineColor = "#8A5A0B"`,
		"image-alt":      put + `p.append(new Image())`,
		"color-contrast": put + `p.style.color = "#ddd"`,
	} {
		v.open("brief")
		v.do(chromedp.Evaluate[chromedp.Void](source + ";0"))
		found := append(v.seeTrouble("{ "+fault+" }"), v.seeViolations("{ "+fault+" }", "")...)
		assert.Contains(t, strings.Join(found, "\n"), want)
	}
}
