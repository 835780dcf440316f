package web_test

import (
	"bytes"
	"compress/gzip"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/demo"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// answer is a response with its body read.
type answer struct {
	status int
	header http.Header
	body   string
	at     string // path and query that redirects led to
}

func read(t testing.TB, resp *http.Response, err error) answer {
	t.Helper()
	require.NoError(t, err)
	defer resp.Body.Close()
	body, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	return answer{resp.StatusCode, resp.Header, string(body), resp.Request.URL.RequestURI()}
}

func get(t testing.TB, c *http.Client, address string) answer {
	t.Helper()
	resp, err := c.Get(address)
	return read(t, resp, err)
}

// post sends a form as a browser without scripts does, following redirects.
func post(t testing.TB, c *http.Client, address string, pairs ...string) answer {
	t.Helper()
	resp, err := c.PostForm(address, values(pairs))
	return read(t, resp, err)
}

// values are a form's fields, told in pairs.
func values(pairs []string) url.Values {
	form := url.Values{}
	for i := 0; i < len(pairs); i += 2 {
		form.Set(pairs[i], pairs[i+1])
	}
	return form
}

var tags = regexp.MustCompile(`<[^>]*>`)

// words returns a page's text without its tags, white space folded.
func words(a answer) string {
	return strings.Join(strings.Fields(tags.ReplaceAllString(strings.ReplaceAll(a.body, "&#43;", "+"), " ")), " ")
}

var coins = []string{"brief", "line-up", "coverage", "prices", "growth", "costs", "trials", "scores", "verdict"}

// costViews are the views of costs beside that along months.
var costViews = []string{"costs/along", "costs/field", "costs/chance?now=1", "costs/leaving", "costs/doing", "costs/bargain"}

func TestEveryPageOfTheDemoIsDrawn(t *testing.T) {
	app := testkit.Start(t, true)
	wants := map[string]string{
		"brief":    "Pick Brindlepost on Bough, paid monthly",
		"line-up":  "Out: no trade-buyer lists",
		"coverage": "Event triggers is what pushes Brindlepost to Bough",
		"prices":   "143 days ago older than this study allows: read it again",
		"growth":   "contacts * (newsletters + automated_emails)",
		"costs":    "moves to Lantern: emails pass 35,000",
		"trials":   "30 days",
		"scores":   "Where each score comes from",
		"verdict":  "Next is Fernwire , 0.6 behind on fit",
	}
	for _, coin := range coins {
		a := get(t, app.Client, app.Page(coin))
		assert.Equal(t, http.StatusOK, a.status, coin)
		assert.Contains(t, words(a), wants[coin], coin)
		assert.Contains(t, a.body, `data-pile="brindlepost"`, "the counter stands on %s", coin)
		assert.NotContains(t, a.body, "ZgotmplZ", coin)
		assert.Equal(t, 1, strings.Count(a.body, "<h1"), coin)
	}
	assert.Contains(t, words(get(t, app.Client, app.Page("options/osier-mail"))), "all months come to €5,945.45")
	assert.Contains(t, words(get(t, app.Client, app.Address+"/")), "Quirebird: prices were read 143 days ago")
	shelf := get(t, app.Client, app.Address+"/shelf/platforms/brindlepost")
	link := regexp.MustCompile(`/shelf/[0-9a-f-]{36}`).FindString(shelf.body)
	assert.Contains(t, words(get(t, app.Client, app.Address+link)), "contacts up to 1,000: €19.00")
}

func TestReceiptsShowHowTheyCameAbout(t *testing.T) {
	app := testkit.Start(t, true)
	for path, wants := range map[string][]string{
		"receipts/brindlepost?month=2028-01": {"8,117 contacts, in the band to 12,000: €189.00", "3 seats, 2 included: 1 × €12.00",
			"Total for 1 month €201.00", "The bill changes by +€40.00 a month: contacts pass 8,000"},
		"receipts/fernwire?month=2028-11": {"45,514 emails, 45,000 included: 1 × £14.00 for each started 5,000", "Total for 1 month £153.00",
			"× 1.17, rate of 20 Nov 2026", "€179.01"},
		"receipts/osier-mail?month=2028-12": {"× 12 months", "Total for 12 months €2,628.00", "without 21% tax (÷ 1.21)", "€2,171.90",
			"Share of Dec 2028, month 12 of 12 €180.99", "Paid in Dec 2028 €24.79"},
		"receipts/quirebird?plan=leaflet&term=monthly": {"offer “Half-price start”: 50% off 1 of 1 month", "€44.50"},
		"receipts/brindlepost?plan=sprig&term=yearly":  {"less 15% on this term", "This plan cannot serve: no event triggers"},
	} {
		a := get(t, app.Client, app.Page(path))
		require.Equal(t, http.StatusOK, a.status, path)
		for _, want := range wants {
			assert.Contains(t, words(a), want, path)
		}
	}
	for _, path := range []string{"receipts/heron?month=2027-01", "receipts/fernwire?month=1999-01", "receipts/fernwire?month=soon",
		"receipts/fernwire?plan=beacon&term=x", "options/heron"} {
		a := get(t, app.Client, app.Page(path))
		assert.Equal(t, http.StatusNotFound, a.status, path)
		assert.Contains(t, a.body, "To the Desk")
	}
}

// TestEveryFigureOnCostsOpensAReceiptThatAgrees follows the links of the table
// for the first and the last month of each option.
func TestEveryFigureOnCostsOpensAReceiptThatAgrees(t *testing.T) {
	app := testkit.Start(t, true)
	a := get(t, app.Client, app.Page("costs?as=table"))
	figures := regexp.MustCompile(`<a href="(/studies/[^"]*month=(?:2027-01|2028-12|2029-12))" data-receipt title="[^"]*">([^<]*)</a>`).FindAllStringSubmatch(a.body, -1)
	require.Len(t, figures, 15)
	for _, f := range figures {
		receipt := get(t, app.Client, app.Address+f[1])
		assert.Contains(t, receipt.body, "<td>"+f[2]+"</td>", f[1])
	}
}

func TestEditsAreSavedAndLeadBackToThePage(t *testing.T) {
	app := testkit.Start(t, true)
	a := post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.contacts.now", "was", "6400", "value", "8,000")
	assert.Equal(t, http.StatusOK, a.status)
	assert.Contains(t, words(a), "contacts go from 8,000 to 16,000")
	a = post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.contacts.growth", "was", "2%", "value", "+1.5%")
	assert.Contains(t, a.body, `value="1.5"`)
	a = post(t, app.Client, app.Page("costs?show=cash&as=table"), "op", "set", "path", "pay", "was", "monthly", "value", "yearly")
	assert.Contains(t, a.at, "costs?show=cash&as=table", "the view stays as it was")
	assert.Contains(t, words(a), "Paid yearly")
	a = post(t, app.Client, app.Page("scores"), "op", "set", "path", "criteria.cost.weight", "was", "22%", "value", "80")
	assert.Contains(t, words(a), "158 not 100, so each counts as its share of 158")
	a = post(t, app.Client, app.Page("scores"), "op", "set", "path", "criteria.cost.best", "was", "4000", "value", "5,000")
	assert.Contains(t, a.body, `value="5,000"`)
	a = post(t, app.Client, app.Page("scores"), "op", "set", "path", "criteria.cost.worst", "was", "10000", "value", "12500.50")
	assert.Contains(t, a.body, `value="12,500.5"`)
	a = post(t, app.Client, app.Page("scores"), "op", "set", "path", ratingPath(t, app, "fernwire", "ease"), "was", "5", "value", "8.5")
	assert.Contains(t, a.body, `value="8.5"`)
	a = post(t, app.Client, app.Page("scores"), "op", "set", "path", ratingPath(t, app, "fernwire", "ease"), "was", "8.5", "value", "")
	assert.Contains(t, a.body, "–", "without a rating the fit is a range")
	assert.Contains(t, words(get(t, app.Client, app.Address+"/")), "Fernwire: 1 rating is missing")
}

// TestBadInputIsToldBesideItsFieldAndChangesNothing tries every kind of field.
func TestBadInputIsToldBesideItsFieldAndChangesNothing(t *testing.T) {
	app := testkit.Start(t, true)
	before := map[string]string{}
	for _, coin := range []string{"growth", "scores", "costs"} {
		before[coin] = get(t, app.Client, app.Page(coin)).body
	}
	contacts := func(value string) []string {
		return []string{"op", "set", "path", "drivers.contacts.now", "was", "6400", "value", value}
	}
	growth := func(value string) []string {
		return []string{"op", "set", "path", "drivers.contacts.growth", "was", "2%", "value", value}
	}
	rating := func(value string) []string {
		return []string{"op", "set", "path", ratingPath(t, app, "fernwire", "ease"), "was", "5", "value", value}
	}
	for _, row := range []struct {
		coin, field string
		form        []string
		want        string
	}{
		{"growth", "drivers-contacts-now", contacts("-5"), "“-5” is not a number from 0 to"},
		{"growth", "drivers-contacts-now", contacts("many"), "“many” is not a number"},
		{"growth", "drivers-contacts-now", contacts(""), "“” is not a number"},
		{"growth", "drivers-contacts-now", contacts("99999999999999999999"), "is not a number from 0 to"},
		{"growth", "drivers-contacts-now", contacts("<script>alert(1)</script>"), "&lt;script&gt;alert(1)&lt;/script&gt;"},
		{"growth", "drivers-contacts-now", []string{"op", "set", "path", "drivers.contacts.now", "was", "5000", "value", "7000"}, "yours (7000) was not saved"},
		{"growth", "drivers-contacts-now", []string{"op", "set", "path", "drivers.contacts.now", "was", "x", "value", "7000"}, "yours (7000) was not saved"},
		{"growth", "drivers-contacts-growth", growth("300"), "“300” is not a share from -50% to 100%"},
		{"growth", "drivers-contacts-growth", growth("fast"), "“fast” is not a share"},
		{"scores", "criteria-cost-weight", []string{"op", "set", "path", "criteria.cost.weight", "was", "22%", "value", "120"}, "“120” is not a share from 0% to 100%"},
		{"scores", "criteria-cost-worst", []string{"op", "set", "path", "criteria.cost.worst", "was", "10000", "value", "cheap"}, "“cheap” is not an amount such as"},
		{"scores", "ratings-fernwire-ease-value", rating("9.5"), "“9.5” is not a rating"},
		{"costs", "", []string{"op", "set", "path", "pay", "was", "monthly", "value", "weekly"}, "“weekly” is not one of monthly, yearly"},
		{"costs", "", []string{"edit", "everything"}, "This form could not be read"},
	} {
		a := post(t, app.Client, app.Page(row.coin), row.form...)
		assert.GreaterOrEqual(t, a.status, 400, row.want)
		assert.Less(t, a.status, 500, row.want)
		assert.Contains(t, a.body, row.want)
		if row.field != "" {
			assert.Regexp(t, `id="`+row.field+`"[^>]*aria-invalid="true"`, a.body)
		}
		assert.Equal(t, before[row.coin], get(t, app.Client, app.Page(row.coin)).body, "after %s nothing is changed", row.want)
	}
}

func TestADeletedStudyIsToldInWords(t *testing.T) {
	app := testkit.Start(t, true)
	a := post(t, app.Client, app.Address+"/", "op", "delete", "of", app.Study.String())
	assert.Contains(t, words(a), "Undo: Spring list back out of the bin")
	assert.Contains(t, words(a), "Nothing on the Desk yet")
	for _, a := range []answer{get(t, app.Client, app.Page("costs")),
		post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.contacts.now", "was", "6400", "value", "1"),
		get(t, app.Client, app.Address+"/studies/nonsense/costs"), get(t, app.Client, app.Address+"/studies/"+uuid.NewString()+"/costs")} {
		assert.Equal(t, http.StatusNotFound, a.status)
		assert.Contains(t, words(a), "This study is not here any more. It was deleted, perhaps in another tab")
	}
	a = post(t, app.Client, app.Address+"/", "op", "undo")
	assert.Contains(t, words(a), "Spring list")
	assert.Equal(t, http.StatusOK, get(t, app.Client, app.Page("costs")).status)
	assert.Equal(t, http.StatusBadRequest, post(t, app.Client, app.Address+"/", "op", "burn", "of", app.Study.String()).status)
}

func TestNamesFullOfHTMLAreShownAsText(t *testing.T) {
	app := testkit.Start(t, false)
	hostile := `<img src=x onerror=alert(1)>\"'</script><b>`
	for _, file := range demo.PriceLists() {
		file = bytes.ReplaceAll(file, []byte(`"name": "Sprig"`), []byte(`"name": "`+hostile+`"`))
		_, err := app.Store.ImportPriceList(t.Context(), store.Editing{Workspace: app.Workspace.ID},
			bytes.ReplaceAll(file, []byte(`"name": "Brindlepost"`), []byte(`"name": "`+hostile+`"`)))
		require.NoError(t, err)
	}
	st := strings.NewReplacer(`"title": "Spring list"`, `"title": "`+hostile+`"`, `"rater": "Imke Vroom"`, `"rater": "`+hostile+`"`,
		`"name": "Ease of daily work"`, `"name": "`+hostile+`"`).Replace(string(demo.Study()))
	var err error
	app.Study, err = app.Store.ImportStudy(t.Context(), store.Editing{Workspace: app.Workspace.ID}, []byte(st))
	require.NoError(t, err)
	for _, path := range append(coins, "options/brindlepost", "receipts/brindlepost?month=2027-01") {
		a := get(t, app.Client, app.Page(path))
		assert.Equal(t, http.StatusOK, a.status, path)
		assert.NotContains(t, a.body, "<img", path)
		assert.NotContains(t, strings.ReplaceAll(a.body, `<script type="application/json"`, ""), "</script><b>", path)
	}
	assert.NotContains(t, get(t, app.Client, app.Address+"/").body, "<img")
}

func TestEmptyPagesSayWhatToDo(t *testing.T) {
	app := testkit.Start(t, false)
	assert.Contains(t, words(get(t, app.Client, app.Address+"/")), "Nothing on the Desk yet")
	assert.Contains(t, words(get(t, app.Client, app.Address+"/shelf")), "The shelf is empty")
	bare := `{"format": "nine-coins/study/1", "key": "bare", "title": "Bare", "currency": "EUR", "start": "2027-01", "months": 1,
		"pay": "monthly", "patience_days": 90, "drivers": [], "options": []}`
	var err error
	app.Study, err = app.Store.ImportStudy(t.Context(), store.Editing{Workspace: app.Workspace.ID}, []byte(bare))
	require.NoError(t, err)
	for _, coin := range coins {
		assert.Equal(t, http.StatusOK, get(t, app.Client, app.Page(coin)).status, coin)
	}
	assert.Contains(t, words(get(t, app.Client, app.Page("verdict"))), "There is no pick yet. The line-up is empty.")
	assert.Contains(t, words(get(t, app.Client, app.Page("growth"))), "No drivers yet")
}

func TestTwelveOptionsWithLongNamesAreDrawn(t *testing.T) {
	app := testkit.Start(t, false)
	long := strings.Repeat("Marsh-mallow & Meadowsweet ", 2)[:54]
	var options []string
	for n := range 12 {
		file := strings.NewReplacer(`"key": "brindlepost",`, fmt.Sprintf(`"key": "p%d",`, n),
			`"name": "Brindlepost"`, fmt.Sprintf(`"name": "%s %d"`, long, n)).Replace(string(demo.PriceLists()[0]))
		_, err := app.Store.ImportPriceList(t.Context(), store.Editing{Workspace: app.Workspace.ID}, []byte(file))
		require.NoError(t, err)
		options = append(options, fmt.Sprintf(`{"key": "o%d", "platform": "p%d", "observed_on": "2026-10-02", "face": %d}`, n, n, n+1))
	}
	st := string(demo.Study())
	from, to := strings.Index(st, `"options": [`), strings.Index(st, `"criteria"`)
	st = st[:from] + `"options": [` + strings.Join(options, ",") + `], ` + st[to:strings.Index(st, `"ratings"`)] + `"ratings": []}`
	var err error
	app.Study, err = app.Store.ImportStudy(t.Context(), store.Editing{Workspace: app.Workspace.ID}, []byte(st))
	require.NoError(t, err)
	for _, coin := range coins {
		a := get(t, app.Client, app.Page(coin))
		assert.Equal(t, http.StatusOK, a.status)
		assert.Equal(t, 12, strings.Count(a.body, "data-pile="))
	}
}

func TestHeadersKeepOtherSitesOut(t *testing.T) {
	app := testkit.Start(t, true)
	a := get(t, app.Client, app.Page("costs"))
	csp := a.header.Get("Content-Security-Policy")
	assert.Contains(t, csp, "default-src 'none'")
	assert.NotContains(t, csp, "unsafe")
	assert.Equal(t, "no-store", a.header.Get("Cache-Control"))
	assert.Equal(t, "nosniff", a.header.Get("X-Content-Type-Options"))
	assert.NotRegexp(t, ` style="| on[a-z]+="|<style|<script>`, a.body, "nothing inline")

	req, err := http.NewRequest(http.MethodPost, app.Page("costs"), strings.NewReader("edit=pay&value=yearly"))
	require.NoError(t, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("Sec-Fetch-Site", "cross-site")
	resp, err := app.Client.Do(req)
	refused := read(t, resp, err)
	assert.Equal(t, http.StatusForbidden, refused.status)
	assert.Contains(t, refused.body, "came from another site")
	assert.Contains(t, words(get(t, app.Client, app.Page("costs"))), "Paid monthly")
}

func TestAssetsAreKeptForGood(t *testing.T) {
	app := testkit.Start(t, false)
	page := get(t, app.Client, app.Address+"/")
	for _, path := range regexp.MustCompile(`/assets/[^"]*`).FindAllString(page.body, -1) {
		a := get(t, app.Client, app.Address+path)
		assert.Equal(t, http.StatusOK, a.status, path)
		assert.Contains(t, a.header.Get("Cache-Control"), "immutable")
	}
	assert.Equal(t, http.StatusNotFound, get(t, app.Client, app.Address+"/assets/old/app.css").status)
	assert.Equal(t, http.StatusNotFound, get(t, app.Client, app.Address+regexp.MustCompile(`/assets/[0-9a-f]*/`).FindString(page.body)+"../web.go").status)
	assert.Equal(t, http.StatusOK, get(t, app.Client, app.Address+"/favicon.ico").status)
}

func TestOddRequestsAreAnsweredInWords(t *testing.T) {
	app := testkit.Start(t, true)
	assert.Contains(t, words(get(t, app.Client, app.Address+"/nowhere")), "There is no such page")
	assert.Contains(t, words(get(t, app.Client, app.Address+"/shelf/nonsense")), "There is no such edition")
	assert.Contains(t, words(get(t, app.Client, app.Address+"/shelf/"+uuid.NewString())), "There is no such edition")
	resp, err := app.Client.Post(app.Page("growth"), "application/x-www-form-urlencoded", strings.NewReader("edit=driver&value="+strings.Repeat("9", 10<<20)))
	a := read(t, resp, err)
	assert.Equal(t, http.StatusRequestEntityTooLarge, a.status)
	assert.Contains(t, words(a), "That was too much to send")
	resp, err = app.Client.Post(app.Page("growth"), "multipart/form-data", strings.NewReader("nonsense"))
	assert.Equal(t, http.StatusBadRequest, read(t, resp, err).status)
	assert.Contains(t, get(t, app.Client, app.Address+"/healthz").body, `"ok"`)
}

func TestWhenTheDatabaseIsGoneAPageSaysSo(t *testing.T) {
	app := testkit.Start(t, true)
	app.Store.Close()
	a := get(t, app.Client, app.Page("costs"))
	assert.Equal(t, http.StatusServiceUnavailable, a.status)
	assert.Contains(t, words(a), "The database does not answer at present")
	a = post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.contacts.now", "was", "6400", "value", "7000 & more")
	assert.Equal(t, http.StatusServiceUnavailable, a.status)
	assert.Contains(t, a.body, `name="value" value="7000 &amp; more"`, "what was typed is kept")
	assert.Contains(t, words(a), "Send it again")
	a = post(t, app.Client, app.Address+"/sign-in", "email", "imke@marl-thistle.example", "password", "secret words here")
	assert.Equal(t, http.StatusServiceUnavailable, a.status)
	assert.NotContains(t, a.body, "secret words here", "but no password")
	assert.Equal(t, http.StatusServiceUnavailable, get(t, app.Client, app.Address+"/healthz").status)
}

func BenchmarkPages(b *testing.B) {
	app := testkit.Start(b, true)
	for _, page := range []string{"costs", "scores", "verdict"} {
		b.Run(page, func(b *testing.B) {
			for b.Loop() {
				get(b, app.Client, app.Page(page))
			}
		})
	}
	b.Run("desk", func(b *testing.B) {
		for b.Loop() {
			get(b, app.Client, app.Address+"/")
		}
	})
}

// TestPagesAreLight asks for pages as a browser does that takes compressed ones: the
// first with all that it loads, and others when that is there already.
func TestPagesAreLight(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	size := func(address string) (int, string) {
		req, err := http.NewRequestWithContext(t.Context(), http.MethodGet, address, nil)
		require.NoError(t, err)
		req.Header.Set("Accept-Encoding", "gzip")
		resp, err := app.Client.Do(req)
		require.NoError(t, err)
		defer resp.Body.Close()
		require.Equal(t, http.StatusOK, resp.StatusCode, address)
		data, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		if resp.Header.Get("Content-Encoding") != "gzip" {
			return len(data), string(data)
		}
		assert.Contains(t, resp.Header.Values("Vary"), "Accept-Encoding")
		r, err := gzip.NewReader(bytes.NewReader(data))
		require.NoError(t, err)
		text, err := io.ReadAll(r)
		require.NoError(t, err)
		return len(data), string(text)
	}
	imports := regexp.MustCompile(`(?m)^import [^"\n]*"([^"\n]+)"`)
	cold := map[string]bool{}
	var load func(path string) int
	load = func(path string) int {
		if cold[path] {
			return 0
		}
		cold[path] = true
		n, text := size(app.Address + path)
		if strings.HasSuffix(path, ".js") {
			for _, m := range imports.FindAllStringSubmatch(text, -1) {
				at, err := url.Parse(path)
				require.NoError(t, err)
				next, err := at.Parse(m[1])
				require.NoError(t, err)
				n += load(next.Path)
			}
		}
		return n
	}
	for _, page := range []string{"brief", "line-up", "coverage", "prices", "growth", "costs", "trials", "scores", "verdict"} {
		n, text := size(app.Page(page))
		assert.Less(t, n, 15<<10, page)
		warm := n
		clear(cold)
		for _, m := range regexp.MustCompile(`(?:href|src)="(/assets/[^"]+)"`).FindAllStringSubmatch(text, -1) {
			n += load(m[1])
		}
		base := regexp.MustCompile(`/assets/[0-9a-f]+/js/`).FindString(text)
		if drawn := map[string]string{"costs": "costs.js", "scores": "bars.js"}[page]; drawn != "" { // once there is something to draw
			n += load(base + drawn)
		}
		assert.Greater(t, len(cold), 15, "styles, fonts and every module")
		assert.Less(t, n, 120<<10, "%s with all that it loads", page)
		t.Logf("%s: %.1f KB cold, %.1f KB warm", page, float64(n)/1024, float64(warm)/1024)
	}
	// The largest page that there is: what a swap brings.
	as := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner)
	st, err := app.Store.Study(t.Context(), app.Workspace.ID, app.Study, testkit.Day)
	require.NoError(t, err)
	require.NoError(t, testkit.Set(t.Context(), app.Store, as, "months", "36", "120"))
	for n := len(st.Options); n < 12; n++ {
		o := st.Options[n%len(st.Options)]
		key := fmt.Sprintf("%s-%d", o.Key, n)
		require.NoError(t, app.Store.Edit(t.Context(), as, document.Change{{Do: document.Insert, Path: document.Path("options").To(key),
			To: fmt.Sprintf(`{"key": %q, "platform": %q, "observed_on": %q, "name": "%s %d", "face": %d}`, key, o.Platform, o.ObservedOn.Format(time.DateOnly), o.Name, n, n+1)}}))
	}
	for _, page := range []string{"costs", "costs?as=table"} {
		n, text := size(app.Page(page))
		assert.Less(t, n, 25<<10, page)
		t.Logf("%s of 12 options over 120 months: %.1f KB, %d as it is read", page, float64(n)/1024, len(text))
	}
	resp, err := app.Client.Get(app.Page("costs")) // which takes it compressed, and reads it
	a := read(t, resp, err)
	assert.Contains(t, a.body, "</html>")
}
