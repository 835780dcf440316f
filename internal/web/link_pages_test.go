package web_test

import (
	"html"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var hrefs = regexp.MustCompile(`<a\s[^>]*?href="([^"#]*)"`)

// TestALinksReaderIsOfferedOnlyWhatTheyMaySee follows every link of every page that a reading link
// shows: none leads to signing in, nor to what is not theirs.
func TestALinksReaderIsOfferedOnlyWhatTheyMaySee(t *testing.T) {
	app := testkit.Start(t, true)
	for _, names := range []bool{false, true} {
		c := testkit.Visitor(t)
		first := get(t, c, app.Address+"/read/"+readingLink(t, app, names))
		require.Equal(t, http.StatusOK, first.status)
		seen, queue := map[string]string{}, []string{first.at}
		for len(queue) > 0 && len(seen) < 400 {
			at := queue[0]
			queue = queue[1:]
			a := get(t, c, app.Address+at)
			if !assert.True(t, a.status == http.StatusOK && !strings.HasPrefix(a.at, "/sign-in"), "%s, offered on %s, leads to %d at %s", at, seen[at], a.status, a.at) {
				continue
			}
			assert.NotContains(t, a.body, `href="/sign-in`, at)
			if !strings.Contains(a.header.Get("Content-Type"), "html") {
				continue
			}
			for _, m := range hrefs.FindAllStringSubmatch(a.body, -1) {
				to, err := url.Parse(html.UnescapeString(m[1]))
				require.NoError(t, err)
				if to.Host != "" || to.Scheme != "" {
					continue
				}
				from, _ := url.Parse(a.at)
				link := from.ResolveReference(to).RequestURI()
				if _, known := seen[link]; !known {
					seen[link] = at
					queue = append(queue, link)
				}
			}
		}
		assert.Greater(t, len(seen), 60)
		missing := get(t, c, app.Page("options/nobody"))
		assert.Equal(t, http.StatusNotFound, missing.status)
		assert.NotContains(t, missing.body, `href="/"`)
	}
}
