package web_test

import (
	"bufio"
	"context"
	"encoding/json"
	"net/http"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// line is what a stream of long work says.
type line struct {
	Done, Of int
	Ready    bool
	Fault    string
}

// listens follows long work until its context ends, or it does.
func listens(ctx context.Context, t *testing.T, app *testkit.App, what string) <-chan line {
	t.Helper()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, app.Page("costs/"+what+"/work"), nil)
	require.NoError(t, err)
	resp, err := app.Client.Do(req)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, resp.StatusCode)
	assert.Equal(t, "no", resp.Header.Get("X-Accel-Buffering"))
	said := make(chan line, 1000)
	go func() {
		defer resp.Body.Close()
		defer close(said)
		for in := bufio.NewScanner(resp.Body); in.Scan(); {
			var l line
			if json.Unmarshal(in.Bytes(), &l) == nil {
				said <- l
			}
		}
	}()
	return said
}

// until waits for a line of which something holds.
func until(t *testing.T, said <-chan line, holds func(line) bool) line {
	t.Helper()
	for l := range said {
		if holds(l) {
			return l
		}
	}
	require.Fail(t, "it ended before")
	return line{}
}

// TestLongWorkIsSharedAndEndsWithItsReaders has two look at simulated growth of the largest study there is:
// the second joins what goes on, which ends neither with the first nor holds an edit up, but with the edit.
func TestLongWorkIsSharedAndEndsWithItsReaders(t *testing.T) {
	size := testkit.UpperCase
	app := testkit.StartLarge(t, size)
	first, leave := context.WithCancel(t.Context())
	one := listens(first, t, app, "chance")
	at := until(t, one, func(l line) bool { return l.Done > 0 })
	other, leaveToo := context.WithCancel(t.Context())
	defer leaveToo()
	two := listens(other, t, app, "chance")
	joined := until(t, two, func(l line) bool { return l.Done > 0 })
	assert.GreaterOrEqual(t, joined.Done, at.Done, "it goes on from where it is")
	leave()
	until(t, two, func(l line) bool { return l.Done > joined.Done || l.Ready })

	a := post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.seats.now", "was", "3", "value", "4")
	require.Equal(t, http.StatusOK, a.status, "an edit does not wait for it")
	assert.True(t, until(t, two, func(l line) bool { return l.Ready || l.Fault != "" }).Ready, "the page looks anew")
	require.Eventually(t, app.Server.Idle, 20*time.Second, 10*time.Millisecond, "what nobody waits for ends")

	for _, what := range []string{"leaving", "bargain", "chance"} {
		ctx, leave := context.WithCancel(t.Context())
		until(t, listens(ctx, t, app, what), func(line) bool { return true })
		leave()
		require.Eventually(t, app.Server.Idle, 20*time.Second, 10*time.Millisecond, what)
	}
	leaveToo()
}

// TestPagesSayWhatTheyWaitFor opens what takes longer than a page may: it says so, the work tells how far it
// is, and then the page has it.
func TestPagesSayWhatTheyWaitFor(t *testing.T) {
	size := testkit.UpperCase
	size.Anybody, size.Options, size.Months = true, 3, 72 // searches are longer there
	app := testkit.StartLarge(t, size)
	require.Equal(t, http.StatusOK, post(t, app.Client, app.Page("line-up"), "op", "set", "path", "options.hva.now", "was", "false", "value", "true").status)
	page := get(t, app.Client, app.Page("costs/leaving"))
	require.Equal(t, http.StatusOK, page.status)
	require.Contains(t, page.body, "data-work-begins")
	assert.Contains(t, words(page), "Weigh them")
	said := listens(t.Context(), t, app, "leaving")
	until(t, said, func(l line) bool { return l.Ready })
	page = get(t, app.Client, app.Page("costs/leaving"))
	assert.NotContains(t, page.body, "data-work-begins")
	assert.Contains(t, words(page), "Staying on")
	assert.Regexp(t, `Moves are looked at every \d+ months only.*, and of the months looked at`, words(page))
	_, after, ok := strings.Cut(page.body, "data-curve-data>")
	require.True(t, ok)
	var drawn struct {
		Series []struct{ Parts [][4]float64 }
	}
	require.NoError(t, json.NewDecoder(strings.NewReader(after)).Decode(&drawn))
	require.Len(t, drawn.Series, 2)
	parts := drawn.Series[0].Parts
	require.NotEmpty(t, parts, "the line goes from each month that was looked at to the next")
	for k, p := range parts {
		assert.Greater(t, p[2]-p[0], 1.0)
		assert.True(t, k == 0 || parts[k-1][2] == p[0])
	}
	assert.True(t, app.Server.Idle())
}
