package web_test

import (
	"bytes"
	"flag"
	"fmt"
	"mime/multipart"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"
)

var anew = flag.Bool("anew", false, "write the pages that are kept as files anew")

// kept compares what a page shows with what is kept of it in a file.
func kept(t *testing.T, name, got string) {
	t.Helper()
	at := filepath.Join("testdata", "pages", filepath.FromSlash(name))
	if *anew {
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(got), 0o644))
		return
	}
	want, err := os.ReadFile(at)
	require.NoError(t, err, "go test ./internal/web -run TestPagesAreAsKept -anew writes it")
	if string(want) == got {
		return
	}
	was, is := strings.Split(string(want), "\n"), strings.Split(got, "\n")
	n := 0
	for n < min(len(was), len(is)) && was[n] == is[n] {
		n++
	}
	around := func(lines []string) string {
		return strings.Join(lines[min(max(n-3, 0), len(lines)):min(n+4, len(lines))], "\n")
	}
	assert.Fail(t, "not as kept", "%s, line %d\n--- kept\n%s\n--- now\n%s\n(-anew writes it anew, where that is meant)", name, n+1, around(was), around(is))
}

var (
	ids    = regexp.MustCompile(`[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}`)
	stamps = regexp.MustCompile(`/assets/[0-9a-f]{6,}/|\?v=[0-9a-f]+|data-revision="\d+"|name="revision" value="\d+"`)
	digits = regexp.MustCompile(`[0-9a-f]+`)
)

// settled takes out of a page what differs from run to run: ids are numbered in the order in
// which they come up.
func settled(page string) string {
	seen := map[string]string{}
	page = ids.ReplaceAllStringFunc(page, func(id string) string {
		if seen[id] == "" {
			seen[id] = fmt.Sprint("id-", len(seen)+1)
		}
		return seen[id]
	})
	return stamps.ReplaceAllStringFunc(page, func(s string) string {
		at := strings.LastIndexAny(strings.TrimRight(s, `"/`), `/=`)
		return s[:at] + digits.ReplaceAllString(s[at:], "…")
	})
}

// marked is what a page has in its main part, an element that does not stand within a line on a line of its own,
// so that a difference is seen where it is. What stands around it is the same on all pages and kept once.
func marked(page string, whole bool) string {
	page = settled(page)
	if from, to := strings.Index(page, "<main"), strings.Index(page, "</main>"); !whole && from >= 0 && to > from {
		page = page[from:to]
	}
	var b strings.Builder
	for z := html.NewTokenizer(strings.NewReader(page)); ; {
		kind := z.Next()
		if kind == html.ErrorToken {
			return b.String() + "\n"
		}
		raw := strings.Join(strings.Fields(string(z.Raw())), " ")
		name, _ := z.TagName()
		if kind == html.StartTagToken && !slices.Contains(inline, string(name)) || kind == html.SelfClosingTagToken {
			b.WriteString("\n")
		}
		b.WriteString(strings.ReplaceAll(raw, `" form="`, "\"\n  form=\""))
	}
}

// inline are the elements that stand within a line.
var inline = []string{"a", "abbr", "b", "button", "code", "em", "i", "label", "small", "span", "strong", "sub", "sup", "time", "text", "tspan"}

// said is what a page says, a line for each thing that stands by itself.
func said(page string) string {
	var lines []string
	var line strings.Builder
	end := func() {
		if s := strings.Join(strings.Fields(line.String()), " "); s != "" {
			lines = append(lines, s)
		}
		line.Reset()
	}
	hidden := ""
	for z := html.NewTokenizer(strings.NewReader(page)); ; {
		kind := z.Next()
		name, _ := z.TagName()
		tag := string(name)
		switch {
		case kind == html.ErrorToken:
			end()
			return strings.Join(lines, "\n") + "\n"
		case hidden != "":
			if kind == html.EndTagToken && tag == hidden {
				hidden = ""
			}
		case kind == html.StartTagToken && slices.Contains([]string{"head", "script", "style", "template", "select", "nav", "dialog"}, tag):
			hidden = tag
		case kind == html.TextToken:
			line.WriteString(html.UnescapeString(string(z.Raw())))
		case tag == "td" || tag == "th":
			line.WriteString(" | ")
		case !slices.Contains(inline, tag):
			end()
		default:
			line.WriteString(" ")
		}
	}
}

// brought takes files into the workspace as a reader does, and returns where the last led to.
func brought(t *testing.T, app *testkit.App, files []string) string {
	t.Helper()
	var at string
	for _, file := range files {
		data, err := os.ReadFile(file)
		require.NoError(t, err)
		var body bytes.Buffer
		form := multipart.NewWriter(&body)
		part, err := form.CreateFormFile("file", filepath.Base(file))
		require.NoError(t, err)
		_, err = part.Write(data)
		require.NoError(t, err)
		require.NoError(t, form.Close())
		resp, err := app.Client.Post(app.Address+"/files", form.FormDataContentType(), &body)
		a := read(t, resp, err)
		require.Equal(t, http.StatusOK, a.status, "%s: %s", file, words(a))
		at = a.at
	}
	return at
}

// studyPages are the pages that each study has; history has moments in it, and is left out.
var studyPages = append(slices.Concat(coins, costViews), "costs?as=table", "costs?unit=year", "differences")

// TestComparisonsSayWhatIsKept brings in nine comparisons of the trade as a reader does: what
// all pages of each say stands together in one file, to be read.
func TestComparisonsSayWhatIsKept(t *testing.T) {
	studies, err := filepath.Glob("testdata/comparisons/*/study.json")
	require.NoError(t, err)
	require.Len(t, studies, 9)
	app := testkit.Start(t, false)
	for _, study := range studies {
		of := filepath.Dir(study)
		lists, err := filepath.Glob(filepath.Join(of, "*.json"))
		require.NoError(t, err)
		lists = slices.DeleteFunc(lists, func(f string) bool { return f == study })
		at := brought(t, app, append(lists, study))
		base := app.Address + strings.TrimSuffix(strings.Split(at, "?")[0], "brief")
		var all strings.Builder
		for _, page := range studyPages {
			a := get(t, app.Client, base+page)
			require.Equal(t, http.StatusOK, a.status, "%s of %s", page, of)
			fmt.Fprintf(&all, "=== %s\n%s\n", page, said(a.body[strings.Index(a.body, "<main"):]))
		}
		kept(t, filepath.Base(of)+".txt", all.String())
	}
}

// demoPages are the pages of the demo that are kept to the letter, by the file that keeps them.
func demoPages(app *testkit.App) map[string]string {
	all := map[string]string{
		"desk": "/", "shelf": "/shelf", "news": "/shelf/news", "features": "/features", "bin": "/bin", "files": "/files", "workspace": "/workspace",
		"account": "/account", "sign-in": "/sign-in", "forgot": "/forgot",
		"platform": "/shelf/platforms/brindlepost", "compare": "/shelf/platforms/brindlepost/compare", "draft": "/shelf/platforms/brindlepost/draft",
		"draft-prices": "/shelf/platforms/brindlepost/draft/prices",
	}
	for _, page := range append(studyPages, "options/brindlepost", "options/quirebird", "questions", "links", "receipts/brindlepost?month=2028-01",
		"receipts/osier-mail?month=2028-12", "receipts/quirebird?plan=leaflet&term=monthly", "costs/doing?option=fernwire") {
		all["study-"+strings.NewReplacer("/", "-", "?", "-", "=", "-", "&", "-").Replace(page)] = strings.TrimPrefix(app.Page(page), app.Address)
	}
	return all
}

// TestPagesAreAsKept holds the pages of the demo to what is kept of them, tag by tag.
func TestPagesAreAsKept(t *testing.T) {
	app := testkit.Start(t, true)
	post(t, app.Client, app.Address+"/shelf/platforms/brindlepost", "op", "open")
	for name, at := range demoPages(app) {
		a := get(t, app.Client, app.Address+at)
		if assert.Equal(t, http.StatusOK, a.status, at) {
			kept(t, "demo/"+name+".html", marked(a.body, name == "desk" || name == "study-brief"))
		}
	}
}
