package web_test

import (
	"bytes"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/textproto"
	"net/url"
	"os"
	"runtime"
	"strings"
	"testing"

	"ninecoins/internal/doors"
	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// unreadBody fails the test when somebody reads it.
type unreadBody struct{ t *testing.T }

func (b unreadBody) Read([]byte) (int, error) {
	assert.Fail(b.t, "the body was read")
	return 0, io.EOF
}

// bomb is a YAML document in which the aliases of a field stand for 9 to the
// power of levels values; nine levels have 315 bytes and took 16 GB.
func bomb(levels int) string {
	var b strings.Builder
	b.WriteString("a: &a [x,x,x,x,x,x,x,x,x]\n")
	last := 'a'
	for range levels - 1 {
		fmt.Fprintf(&b, "%c: &%c [%s]\n", last+1, last+1, strings.TrimSuffix(strings.Repeat(fmt.Sprintf("*%c,", last), 9), ","))
		last++
	}
	fmt.Fprintf(&b, "value: *%c\n", last)
	return b.String()
}

// path fills in the parameters of a route.
func path(app *testkit.App, route string) string {
	return strings.NewReplacer(":study", app.Study.String(), ":option", "brindlepost", ":edition", "nonsense", ":platform", "nonsense", ":token", "nonsense", ":hash/*path", "old/app.css").Replace(route)
}

func TestNothingButFormsIsRead(t *testing.T) {
	app := testkit.Start(t, true)
	handler, err := app.Server.Handler()
	require.NoError(t, err)
	cookie := app.Cookie(t, app.Client)
	before := contents(t, app)
	send := func(method, path, kind string, encoding string, body io.Reader, length int64) answer {
		req := httptest.NewRequest(method, path, body)
		req.ContentLength = length
		req.Header.Set("Content-Type", kind)
		if encoding != "" {
			req.Header.Set("Content-Encoding", encoding)
		}
		req.AddCookie(cookie)
		w := httptest.NewRecorder()
		handler.ServeHTTP(w, req)
		return answer{w.Code, w.Header(), w.Body.String(), path}
	}
	kinds := []string{"application/yaml", "application/x-yaml", "application/toml", "application/xml", "text/xml", "application/json", "application/x-msgpack", "application/x-protobuf", "text/plain", "application/octet-stream", "nonsense", "", "multipart/mixed; boundary=x", "application/x-www-form-urlencoded-not"}
	routes := []string{"POST /nowhere", "PUT /studies/:study/growth", "DELETE /healthz", "GET /studies/:study/growth", "HEAD /"}
	for route := range table {
		if strings.HasPrefix(route, "POST ") {
			routes = append(routes, route)
		}
	}
	for _, route := range routes {
		method, at, _ := strings.Cut(route, " ")
		for _, kind := range kinds {
			a := send(method, path(app, at), kind, "", unreadBody{t}, 315)
			assert.Equal(t, http.StatusUnsupportedMediaType, a.status, "%s with %q", route, kind)
		}
		a := send(method, path(app, at), "application/x-www-form-urlencoded", "gzip", unreadBody{t}, -1)
		assert.Equal(t, http.StatusUnsupportedMediaType, a.status, "%s, compressed", route)
		if method == http.MethodPost {
			assert.Contains(t, a.body, "This was sent in a way that is not read here")
		}
	}
	// The attack itself: it takes no more than any refused request.
	taken := func(body string) uint64 {
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		a := send(http.MethodPost, "/studies/"+app.Study.String()+"/growth", "application/yaml", "", strings.NewReader(body), int64(len(body)))
		runtime.ReadMemStats(&after)
		assert.Equal(t, http.StatusUnsupportedMediaType, a.status)
		return after.TotalAlloc - before.TotalAlloc
	}
	small, large := taken(bomb(2)), taken(bomb(7))
	assert.LessOrEqual(t, float64(large), 2.5*float64(max(small, 1<<20)), "bytes for %d and for %d", len(bomb(2)), len(bomb(7)))
	assert.Equal(t, before, contents(t, app))
	assert.Equal(t, http.StatusSeeOther, send(http.MethodPost, "/sign-out", "", "", nil, 0).status, "a form without anything in it is one")
}

// TestHeadAnswersLikeGetAndOtherMethodsAreToldWhatIsTaken asks for every route,
// signed in and not, and for places below those that need no session.
func TestHeadAnswersLikeGetAndOtherMethodsAreToldWhatIsTaken(t *testing.T) {
	app := testkit.Start(t, true)
	app.Client.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	visitor := testkit.Visitor(t)
	visitor.CheckRedirect = app.Client.CheckRedirect
	do := func(c *http.Client, method, at string) answer {
		req, err := http.NewRequestWithContext(t.Context(), method, app.Address+at, nil)
		require.NoError(t, err)
		resp, err := c.Do(req)
		require.NoError(t, err)
		if method == http.MethodGet && resp.Header.Get("Content-Type") == "text/event-stream" {
			resp.Body.Close()
			return answer{status: resp.StatusCode, header: resp.Header}
		}
		return read(t, resp, nil)
	}
	methods := map[string]string{}
	for route := range table {
		method, at, _ := strings.Cut(route, " ")
		methods[at] += " " + method
	}
	methods["/nowhere"] = ""
	for _, c := range []*http.Client{visitor, app.Client} {
		for route, known := range methods {
			at := path(app, route)
			if strings.Contains(known, "GET") || known == "" {
				want, got := do(c, http.MethodGet, at), do(c, http.MethodHead, at)
				assert.Equal(t, want.status, got.status, "HEAD %s", at)
				for _, name := range []string{"Content-Type", "Location", "Cache-Control"} {
					assert.Equal(t, want.header.Get(name), got.header.Get(name), "%s of HEAD %s", name, at)
				}
				assert.Empty(t, got.body)
				assert.Less(t, got.status, 500)
			}
			if known == "" {
				continue
			}
			for _, method := range []string{http.MethodPut, http.MethodPatch, http.MethodDelete, http.MethodOptions, http.MethodTrace, "BREW"} {
				a := do(c, method, at)
				assert.Equal(t, http.StatusMethodNotAllowed, a.status, "%s %s", method, at)
				for one := range strings.FieldsSeq(known) {
					assert.Contains(t, a.header.Get("Allow"), one, "%s %s", method, at)
				}
				assert.Contains(t, words(a), "Nothing was changed")
			}
		}
		for _, at := range []string{"/assets", "/assets/", "/assets/x", "/assets/x/", "/assets/x/y/../../..", "/healthz/", "/healthz/x", "/favicon.ico/"} {
			assert.Less(t, do(c, http.MethodGet, at).status, 500, at)
			assert.Less(t, do(c, http.MethodPost, at).status, 500, at)
		}
	}
	assert.Equal(t, http.StatusMethodNotAllowed, do(visitor, http.MethodPost, "/healthz").status)
	assert.Equal(t, "GET, HEAD", do(visitor, http.MethodPost, "/healthz").header.Get("Allow"))
}

// multiform makes a form with several parts, told as name and bytes.
func multiform(t *testing.T, parts ...[2]string) (kind string, body *bytes.Buffer) {
	t.Helper()
	body = &bytes.Buffer{}
	form := multipart.NewWriter(body)
	for _, p := range parts {
		w, err := form.CreatePart(textproto.MIMEHeader{"Content-Disposition": {`form-data; name="` + p[0] + `"`}})
		require.NoError(t, err)
		_, err = w.Write([]byte(p[1]))
		require.NoError(t, err)
	}
	require.NoError(t, form.Close())
	return form.FormDataContentType(), body
}

func TestWhatIsNoTextIsRefusedInBothKindsOfForm(t *testing.T) {
	app := testkit.Start(t, true)
	before := contents(t, app)
	places := map[string]string{
		app.Page("growth"): "value", app.Page("links"): "label", app.Address + "/workspace": "value", app.Address + "/sign-in": "email", app.Address + "/forgot": "email",
		app.Address + "/account": "name", app.Address + "/workspaces": "value", app.Address + "/join/nonsense": "name", app.Address + "/set-up/nonsense": "name", app.Address + "/": "of", app.Address + "/bin": "of",
	}
	for _, c := range []*http.Client{app.Client, testkit.Visitor(t)} {
		for at, field := range places {
			for _, bad := range []string{"a\x00b", "\xff\xfe", "Spr\xefng", "\xc0\x80", "\xed\xa0\x80"} {
				a := post(t, c, at, "edit", "name", field, bad)
				assert.Equal(t, http.StatusBadRequest, a.status, "%q in %s", bad, at)
				assert.Contains(t, words(a), "This form holds what is no text")
				kind, body := multiform(t, [2]string{"edit", "name"}, [2]string{field, bad})
				resp, err := c.Post(at, kind, body)
				a = read(t, resp, err)
				assert.Equal(t, http.StatusBadRequest, a.status, "%q in %s, in parts", bad, at)
				assert.Contains(t, words(a), "This form holds what is no text")
				a = post(t, c, at, bad, "x")
				assert.Equal(t, http.StatusBadRequest, a.status, "%q as a field's name in %s", bad, at)
				a = get(t, c, at+"?next="+url.QueryEscape(bad))
				assert.Equal(t, http.StatusBadRequest, a.status, "%q in the address of %s", bad, at)
			}
		}
	}
	assert.Equal(t, before, contents(t, app))

	// A form in parts does what the other kind does.
	kind, body := multiform(t, [2]string{"op", "set"}, [2]string{"path", "drivers.seats.now"}, [2]string{"was", "3"}, [2]string{"value", "5"})
	resp, err := app.Client.Post(app.Page("growth"), kind, body)
	a := read(t, resp, err)
	assert.Equal(t, http.StatusOK, a.status)
	assert.Contains(t, words(a), "Undo: Seats back to 3")
	// More fields than any form has, and more bytes, are too much.
	many := url.Values{}
	for n := range 501 {
		many.Set(fmt.Sprint("f", n), "x")
	}
	resp, err = app.Client.PostForm(app.Page("growth"), many)
	assert.Equal(t, http.StatusRequestEntityTooLarge, read(t, resp, err).status)
	kind, body = multiform(t, [2]string{"op", "set"}, [2]string{"path", "drivers.seats.now"}, [2]string{"value", strings.Repeat("9", 70<<10)})
	resp, err = app.Client.Post(app.Page("growth"), kind, body)
	a = read(t, resp, err)
	assert.Equal(t, http.StatusRequestEntityTooLarge, a.status)
	assert.Contains(t, words(a), "That was too much to send")
}

// TestFilesThatComeInLeaveNothingOnTheDisk brings in files past the size that
// used to be put into a temporary file: whole, broken off, and from somebody
// who may not.
func TestFilesThatComeInLeaveNothingOnTheDisk(t *testing.T) {
	app := testkit.Start(t, false)
	temporary := t.TempDir()
	t.Setenv("TMPDIR", temporary)
	left := func() int {
		entries, err := os.ReadDir(temporary)
		require.NoError(t, err)
		return len(entries)
	}
	base := left()
	large := bytes.Repeat([]byte(" "), 40<<20)
	a := upload(t, app.Client, app.Address+"/files", large)
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "the file ends too early")
	assert.Equal(t, base, left(), "an owner's file")

	a = upload(t, app.Client, app.Address+"/files", bytes.Repeat([]byte(" "), 65<<20))
	assert.Equal(t, http.StatusRequestEntityTooLarge, a.status)
	assert.Contains(t, words(a), "a whole workspace, which an owner brings in, 64 MB")
	a = upload(t, app.As(t, doors.Editor), app.Address+"/files", large[:6<<20])
	assert.Equal(t, http.StatusRequestEntityTooLarge, a.status)
	assert.Contains(t, words(a), "A price list or a study may hold 5 MB")
	assert.Equal(t, http.StatusForbidden, upload(t, app.As(t, doors.Reader), app.Address+"/files", large[:1<<20]).status)

	// Broken off in the middle.
	reader, writer := io.Pipe()
	go func() {
		fmt.Fprintf(writer, "--x\r\nContent-Disposition: form-data; name=\"file\"; filename=\"f\"\r\n\r\n%s", large)
		writer.CloseWithError(io.ErrUnexpectedEOF)
	}()
	_, err := app.Client.Post(app.Address+"/files", "multipart/form-data; boundary=x", reader)
	assert.Error(t, err)
	// Many parts without a file, and a file that stands behind them.
	var parts [][2]string
	for n := range 20 {
		parts = append(parts, [2]string{fmt.Sprint("p", n), "x"})
	}
	kind, body := multiform(t, append(parts, [2]string{"file", "{}"})...)
	resp, err := app.Client.Post(app.Address+"/files", kind, body)
	assert.Equal(t, http.StatusBadRequest, read(t, resp, err).status)
	assert.Equal(t, base, left())
}

// TestAPageOfFaultsStaysSmall sends files with very many faults.
func TestAPageOfFaultsStaysSmall(t *testing.T) {
	app := testkit.Start(t, false)
	for _, n := range []int{5_000, 20_000} {
		file := `{"format": "nine-coins/price-list/1", "x": "y", "platform": {` + strings.Repeat(`"odd": 1, `, n) + `"key": "k"}, "does": [` + strings.TrimSuffix(strings.Repeat(`"<b>", `, n), ", ") + `]}`
		a := upload(t, app.Client, app.Address+"/files", []byte(file))
		assert.Equal(t, http.StatusUnprocessableEntity, a.status)
		assert.Less(t, len(a.body), 100<<10, "the page of a file of %d bytes", len(file))
		assert.Contains(t, words(a), "faults more")
	}
}
