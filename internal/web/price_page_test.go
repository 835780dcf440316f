package web_test

import (
	"bytes"
	"mime/multipart"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// send sends a form with parts, as a form with a file does.
func send(t *testing.T, c *http.Client, address string, pairs ...string) answer {
	t.Helper()
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	for i := 0; i < len(pairs); i += 2 {
		require.NoError(t, form.WriteField(pairs[i], pairs[i+1]))
	}
	require.NoError(t, form.Close())
	resp, err := c.Post(address, form.FormDataContentType(), &body)
	return read(t, resp, err)
}

const pasted = `<h2>Bed</h2><p>€12 a month</p><p>Up to 1,000 contacts</p><h2>Border</h2><p>€30 a month, or €300 a year</p><p>10,000 contacts, 3 seats, then €5 a seat</p>
<script>document.cookie = "stolen"</script><p onclick="evil()">Prices exclude VAT. 4.7 stars &lt;b&gt;</p>`

var packedPage = regexp.MustCompile(`(?s)name="packed" hidden>(.*?)</textarea>`)

// TestAPricePageBecomesADraft reads a page, looks at what was read beside its words, makes a
// draft of it, and publishes that.
func TestAPricePageBecomesADraft(t *testing.T) {
	app := testkit.Start(t, true)
	at := app.Address + "/shelf/read"
	assert.Contains(t, words(get(t, app.Client, at)), "Paste a price page or a table of prices")
	a := send(t, app.Client, at, "op", "read", "html", pasted, "page", "what the field shows")
	require.Equal(t, http.StatusOK, a.status)
	assert.Contains(t, words(a), "From this page 2 plans and 7 of 8 figures were read; 1 is left over. Nothing is kept until it is a draft.")
	assert.Contains(t, a.body, `data-claims="c1">€12<span`, "a figure is marked where it stands")
	assert.NotContains(t, a.body, "stolen")
	assert.NotContains(t, a.body, "evil()")
	assert.Contains(t, a.body, "&lt;b&gt;", "what looks like HTML in its words stays words")
	assert.Contains(t, words(a), "4.7 “Prices exclude VAT. 4.7 stars &lt;b&gt;”", "what is left over is listed")

	packed := packedPage.FindStringSubmatch(a.body)
	require.NotNil(t, packed)
	page := strings.NewReplacer("&#34;", `"`, "&lt;", "<", "&gt;", ">", "&amp;", "&", "&#39;", "'", "&#43;", "+").Replace(packed[1])
	a = send(t, app.Client, at, "op", "draft", "packed", page)
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "Whose prices are they?")
	a = send(t, app.Client, at, "op", "draft", "packed", page, "platform", "Garden Letters", "source", "a printed page")
	require.Equal(t, "/shelf/platforms/garden-letters/draft/prices", a.at, words(a))
	assert.Contains(t, a.body, `value="12"`)
	assert.Contains(t, words(a), "a printed page")
	a = send(t, app.Client, at, "op", "draft", "packed", page, "platform", "garden letters")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "There is a draft of garden letters already")
	a = publish(t, app.Client, app.Address+"/shelf/platforms/garden-letters/draft/prices")
	assert.Contains(t, a.at, "published=yes", words(a))

	// Read again for a platform that has a list: what the page does not tell is taken over.
	a = send(t, app.Client, at, "op", "draft", "packed", page, "platform", "Brindlepost")
	require.Equal(t, "/shelf/platforms/brindlepost/draft/prices", a.at, words(a))
	assert.Contains(t, words(get(t, app.Client, app.Address+"/shelf/platforms/brindlepost/compare?to=draft")), "Bough What 2 Oct 2026 the draft Turn plan there – gone")
}

func TestBandsThatWereReadAreCalledAsElsewhere(t *testing.T) {
	app := testkit.Start(t, true)
	const table = "Contacts\tStem\tCrown\n1,000\t€15\t€35\n40,000\t€149\t€229\n"
	a := words(send(t, app.Client, app.Address+"/shelf/read", "op", "read", "page", table))
	assert.Contains(t, a, "contacts up to 40,000: 149")
	assert.NotContains(t, a, "up to 40000")
}

func TestPagesThatCannotBeReadSaySo(t *testing.T) {
	app := testkit.Start(t, true)
	at := app.Address + "/shelf/read"
	for want, pairs := range map[string][]string{
		"there are no words in it":              {"op", "read", "page", " \n "},
		"it is no text":                         {"op", "read", "page", "€12\x00"},
		"it is no page that was read before":    {"op", "draft", "packed", "nonsense", "platform", "X"},
		"is in a language that is not read":     {"op", "read", "page", "Klein\n19 € pro Monat für alle und mit bis zu 5 Nutzer\n"},
		"more than 400 KB of words":             {"op", "read", "page", strings.Repeat("a month €12 ", 60_000)},
		"No plan was found; 2 figures are left": {"op", "read", "page", "In 1998 we sold 20 bulbs to the people of the valley."},
	} {
		a := send(t, app.Client, at, pairs...)
		assert.Contains(t, words(a), want)
		assert.NotContains(t, a.body, "Something went wrong")
	}
	a := send(t, app.Client, at, "op", "read", "page", strings.Repeat("x", 6<<20))
	assert.Equal(t, http.StatusRequestEntityTooLarge, a.status)
	assert.Contains(t, words(a), "A price page may hold 5 MB")
	a = send(t, app.Client, at, "op", "draft", "platform", strings.Repeat("y", 5_000))
	assert.Equal(t, http.StatusBadRequest, a.status)
}
