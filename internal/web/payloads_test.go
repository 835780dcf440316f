package web_test

import (
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/doors"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"
)

// payloads are what people try in fields, short enough for all of them.
var payloads = []string{
	`<script>pwned()</script>`,
	`"><img src=x onerror=pwned()>`,
	`' onmouseover='pwned()`,
	`"autofocus onfocus=pwned()//`,
	`</title><svg/onload=pwned()>`,
	`javascript:pwned()//`,
	`{{.}}<%=7*7%>${7*7}`,
	`&lt;script&gt;pwned()`,
	"a\x00b",
	"\xff\xfe",
	strings.Repeat("<b>", 60),
}

// sheet is a form as a page shows it.
type sheet struct {
	action string
	fields []field
}

type field struct{ name, value, kind string }

// formsOf reads the forms of a page that are posted, with the fields that
// belong to them wherever they stand.
func formsOf(t *testing.T, a answer) []sheet {
	t.Helper()
	root, err := html.Parse(strings.NewReader(a.body))
	require.NoError(t, err)
	var forms []sheet
	byID := map[string]int{}
	var apart []func() // fields that stand outside their form
	var visit func(n *html.Node, in int)
	visit = func(n *html.Node, in int) {
		attr := attributes(n)
		switch {
		case n.Type == html.ElementNode && n.Data == "form" && strings.EqualFold(attr["method"], "post"):
			action := attr["action"]
			if action == "" {
				action = a.at
			}
			in = len(forms)
			forms = append(forms, sheet{action: action})
			byID[attr["id"]] = in
		case n.Type == html.ElementNode && attr["name"] != "" && slices.Contains([]string{"input", "select", "textarea", "button"}, n.Data):
			if n.Data != "input" && n.Data != "button" {
				attr["value"] = shownIn(n)
			}
			at := in
			if attr["form"] != "" { // it may stand before its form
				at = -1
				apart = append(apart, func() {
					if i, ok := byID[attr["form"]]; ok {
						forms[i].fields = append(forms[i].fields, field{attr["name"], attr["value"], attr["type"]})
					}
				})
			}
			if at >= 0 {
				forms[at].fields = append(forms[at].fields, field{attr["name"], attr["value"], attr["type"]})
			}
		}
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			visit(c, in)
		}
	}
	visit(root, -1)
	for _, add := range apart {
		add()
	}
	return forms
}

// shownIn is what a select or a textarea holds.
func shownIn(n *html.Node) string {
	for one := range n.Descendants() {
		attr := attributes(one)
		_, chosen := attr["selected"]
		switch {
		case n.Data == "textarea":
			return one.Data
		case one.Data == "option" && chosen:
			return attr["value"]
		}
	}
	return ""
}

func attributes(n *html.Node) map[string]string {
	all := map[string]string{}
	for _, a := range n.Attr {
		all[a.Key] = a.Val
	}
	return all
}

// harmless complains of anything in a page that could run: elements that the
// application never writes, handlers, addresses that are scripts.
func harmless(t *testing.T, a answer, when string) {
	t.Helper()
	if !strings.HasPrefix(a.header.Get("Content-Type"), "text/html") {
		assert.Equal(t, "nosniff", a.header.Get("X-Content-Type-Options"), when)
		return
	}
	root, err := html.Parse(strings.NewReader(a.body))
	require.NoError(t, err)
	for n := range root.Descendants() {
		if n.Type != html.ElementNode {
			continue
		}
		attr := attributes(n)
		if n.Data == "script" {
			assert.True(t, attr["src"] != "" || attr["type"] == "application/json", "%s: a script stands in %s", when, a.at)
		}
		assert.NotContains(t, []string{"img", "iframe", "object", "embed", "base", "style", "math"}, n.Data, "%s: an element of a payload stands in %s", when, a.at)
		for name, value := range attr {
			assert.False(t, strings.HasPrefix(name, "on") || name == "style", "%s: %s stands in %s", when, name, a.at)
			if name == "href" || name == "src" || name == "action" {
				assert.False(t, strings.HasPrefix(strings.ToLower(strings.TrimSpace(value)), "javascript:"), "%s: a script's address stands in %s", when, a.at)
			}
		}
	}
	assert.NotContains(t, a.header.Get("Content-Security-Policy"), "unsafe", when)
}

// pagesOf lists the pages that an owner sees.
func pagesOf(app *testkit.App, edition string) []string {
	pages := []string{"/", "/account", "/workspace", "/shelf", "/shelf/" + edition, "/bin", "/history", "/mailbox"}
	for _, page := range append(append(slices.Clone(coins), costViews...), "options/brindlepost", "receipts/brindlepost?month=2027-01", "history", "links") {
		pages = append(pages, "/studies/"+app.Study.String()+"/"+page)
	}
	return pages
}

var kindOfForm = regexp.MustCompile(`[0-9a-f]{8}-[0-9a-f-]{27}`)

// TestWhatIsTypedIntoAnyFieldIsHarmless finds every form on every page and
// sends every payload in every field of it, hidden ones too; then it looks at
// every page.
func TestWhatIsTypedIntoAnyFieldIsHarmless(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	e := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner)
	require.NoError(t, testkit.Set(t.Context(), app.Store, e, "drivers.seats.now", "3", "4"))
	require.NoError(t, testkit.Delete(t.Context(), app.Store, e, "options.quirebird"))
	readingLink(t, app, true)
	rows, err := app.Store.Editions(t.Context(), app.Workspace.ID)
	require.NoError(t, err)
	token, hash := doors.NewToken()
	_, err = app.Store.Invite(t.Context(), e, "rue@marl.example", doors.Reader, hash, time.Hour)
	require.NoError(t, err)
	reset, resetHash := doors.NewToken()
	require.NoError(t, app.Store.MakeNewPassword(t.Context(), account(t, app, "Sedge").ID, resetHash, time.Hour))
	guest := testkit.Visitor(t)

	seen, sent := map[string]bool{}, 0
	try := func(c *http.Client, page string) {
		for _, f := range formsOf(t, get(t, c, app.Address+page)) {
			edit := ""
			for _, one := range f.fields {
				if one.name == "edit" || one.name == "op" || one.name == "kind" {
					edit = one.value
				}
			}
			if key := kindOfForm.ReplaceAllString(f.action, "") + " " + edit; seen[key] {
				continue
			} else {
				seen[key] = true
			}
			for i, target := range f.fields {
				if target.kind == "password" || target.kind == "file" {
					continue
				}
				for n, payload := range payloads {
					values := url.Values{}
					for j, one := range f.fields {
						values.Set(one.name, one.value)
						if i == j {
							values.Set(one.name, payload)
						}
						if one.kind == "password" {
							values.Set(one.name, testkit.Password)
						}
					}
					resp, err := c.PostForm(app.Address+f.action, values)
					a := read(t, resp, err)
					when := fmt.Sprintf("payload %d in %s of %s", n, target.name, f.action)
					assert.Less(t, a.status, 500, when)
					harmless(t, a, when)
					sent++
				}
			}
		}
	}
	for _, page := range []string{"/sign-in?next=" + url.QueryEscape("/studies"), "/forgot", "/new-password/" + reset, "/join/" + token} {
		try(guest, page)
		guest = testkit.Visitor(t)
	}
	pages := pagesOf(app, rows[0].ID.String())
	for _, page := range pages {
		try(app.Client, page)
		post(t, app.Client, app.Address+"/workspaces", "edit", "choose", "of", app.Workspace.ID.String()) // for one was made and chosen
	}
	for _, kind := range []string{"/sign-in ", "/forgot ", "/join/" + token + " ", "/account name", "/account email", "/workspace invite", "/workspace name", "/workspace role", "/workspaces make", "/ delete", "/ new", "/ copy", "/studies//growth fields", "/studies//growth insert", "/studies//scores fields", "/studies//scores paste", "/studies//line-up move", "/studies//costs set", "/studies//links make", "/studies//history put-back", "/bin parts"} {
		assert.True(t, seen[kind], "no form %q was found", kind)
	}
	t.Logf("%d forms, %d sent", len(seen), sent)

	// What was kept is shown everywhere without harm, and so is what an address brings along.
	for _, page := range pages {
		harmless(t, get(t, app.Client, app.Address+page), "afterwards")
	}
	for _, payload := range payloads {
		q := url.QueryEscape(payload)
		for _, page := range []string{"/sign-in?next=" + q, "/sign-in?next=/" + q, "/history?before=" + q, "/nowhere/" + url.PathEscape(payload), "/join/" + url.PathEscape(payload), "/read/" + url.PathEscape(payload), "/shelf/" + url.PathEscape(payload), "/studies/" + url.PathEscape(payload) + "/costs"} {
			harmless(t, get(t, testkit.Visitor(t), app.Address+page), page)
			harmless(t, get(t, app.Client, app.Address+page), page)
		}
		for _, page := range []string{"scores?rater=" + q, "costs?show=" + q + "&as=" + q, "growth?driver=" + q, "costs/along?driver=" + q + "&at=" + q + "&to=" + q + "&axis=" + q + "&per=" + q, "costs/field?driver=" + q + "&by=" + q + "&to=" + q + "&up=" + q + "&who=" + q, "costs/leaving?from=" + q + "&into=" + q, "costs/doing?at=" + q, "costs/take/" + url.PathEscape(payload), "history?coin=" + q + "&person=" + q + "&before=" + q, "options/" + url.PathEscape(payload), "receipts/brindlepost?month=" + q + "&plan=" + q + "&term=" + q} {
			harmless(t, get(t, app.Client, app.Page(page)), page)
		}
	}
}

// TestPostsFromOtherSitesAreRefused sends every form's post as another site's
// page would make a browser send it.
func TestPostsFromOtherSitesAreRefused(t *testing.T) {
	app := testkit.Start(t, true)
	before := contents(t, app)
	for route := range table {
		method, path, _ := strings.Cut(route, " ")
		if method != http.MethodPost {
			continue
		}
		path = strings.NewReplacer(":study", app.Study.String(), ":option", "brindlepost", ":platform", "brindlepost", ":token", "nonsense").Replace(path)
		for _, header := range []http.Header{{"Sec-Fetch-Site": {"cross-site"}}, {"Sec-Fetch-Site": {"same-site"}}, {"Origin": {"http://elsewhere.example"}}, {"Origin": {"null"}}} {
			req, err := http.NewRequest(method, app.Address+path, strings.NewReader("edit=delete&of="+app.Study.String()))
			require.NoError(t, err)
			req.Header = header
			req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
			resp, err := app.Client.Do(req)
			a := read(t, resp, err)
			assert.Equal(t, http.StatusForbidden, a.status, "%s %v", route, header)
			assert.Contains(t, a.body, "came from another site")
		}
	}
	assert.Equal(t, before, contents(t, app))
	assert.Equal(t, "/", get(t, app.Client, app.Address+"/").at, "nobody was signed out")
}

// TestIdsCannotBeGuessed looks at the ids in the addresses of the owner's
// pages.
func TestIdsCannotBeGuessed(t *testing.T) {
	app := testkit.Start(t, true)
	found := 0
	for _, page := range []string{"/", "/shelf/platforms/brindlepost", "/studies/" + app.Study.String() + "/scores"} {
		for _, m := range regexp.MustCompile(`/(?:studies|shelf)/([^/"?]+)`).FindAllStringSubmatch(get(t, app.Client, app.Address+page).body, -1) {
			if m[1] == "platforms" || strings.HasPrefix(m[1], "read") { // which are named by their keys; where pages are read
				continue
			}
			id, err := uuid.Parse(m[1])
			require.NoError(t, err, m[1])
			assert.EqualValues(t, 7, id.Version())
			found++
		}
	}
	assert.Greater(t, found, 20)
}
