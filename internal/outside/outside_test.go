package outside_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/demo"
	"ninecoins/internal/formats"
	"ninecoins/internal/outside"
	"ninecoins/internal/standin"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var today = time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC)

func service(t *testing.T, h http.HandlerFunc) *outside.Service {
	t.Helper()
	s := httptest.NewServer(h)
	t.Cleanup(s.Close)
	return &outside.Service{Address: s.URL, Within: 300 * time.Millisecond}
}

func stood(t *testing.T, day time.Time) *outside.Service {
	t.Helper()
	s := httptest.NewServer(&standin.Services{Lists: demo.Newest(), Today: func() time.Time { return day }})
	t.Cleanup(s.Close)
	return &outside.Service{Address: s.URL}
}

// Everything that the stand-in publishes can be fetched and is a price list; some of it is
// newer than the demo's shelf, in every week.
func TestTheStandInPublishesWhatTheFormatsTake(t *testing.T) {
	for week := range 4 {
		day := today.AddDate(0, 0, 7*week)
		s := stood(t, day)
		entries, wrong, err := s.News(t.Context())
		require.NoError(t, err)
		assert.Empty(t, wrong)
		assert.Len(t, entries, len(demo.Newest()))
		newer := 0
		for _, e := range entries {
			data, err := s.List(t.Context(), e)
			require.NoError(t, err, e.Platform)
			list, err := formats.ReadPriceList(t.Context(), data, day)
			require.NoError(t, err, e.Platform)
			assert.Equal(t, e.ObservedOn, list.ObservedOn.Format(time.DateOnly))
			if strings.HasPrefix(list.Source, "price feed") {
				newer++
			}
		}
		assert.Greater(t, newer, 3, "in the week of %s", day.Format(time.DateOnly))
	}
}

func TestWhatAFeedGetsWrongIsTold(t *testing.T) {
	index := func(entries ...outside.Entry) http.HandlerFunc {
		return func(w http.ResponseWriter, r *http.Request) {
			if r.URL.Path == "/index.json" {
				_ = json.NewEncoder(w).Encode(outside.Index{Format: outside.IndexFormat, Lists: entries})
				return
			}
			_, _ = w.Write([]byte("{}"))
		}
	}
	for name, one := range map[string]struct {
		answer http.HandlerFunc
		want   string
	}{
		"slow":       {func(_ http.ResponseWriter, r *http.Request) { <-r.Context().Done() }, "did not answer within 0 seconds"},
		"rubbish":    {func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, "<html>hello") }, "no index of price lists"},
		"not there":  {func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(http.StatusTeapot) }, "answered with 418"},
		"elsewhere":  {func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, "/other", http.StatusFound) }, "answered with 302"},
		"other form": {func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, `{"format": "price-feed/9"}`) }, `of the format "price-feed/9"`},
		"too long": {func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Length", "2097152")
			fmt.Fprint(w, strings.Repeat(" ", 2<<20))
		}, "index.json holds 2097152 bytes"},
		"endless": {func(w http.ResponseWriter, _ *http.Request) {
			for range 40 {
				fmt.Fprint(w, strings.Repeat(" ", 64<<10))
				w.(http.Flusher).Flush()
			}
		}, "longer than it said"},
		"cut off": {func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Length", "1000")
			fmt.Fprint(w, `{"format"`)
			w.(http.Flusher).Flush()
			conn, _, err := w.(http.Hijacker).Hijack()
			if err == nil {
				conn.Close()
			}
		}, "broke off"},
	} {
		t.Run(name, func(t *testing.T) {
			_, _, err := service(t, one.answer).News(t.Context())
			var problem *outside.Problem
			require.ErrorAs(t, err, &problem)
			assert.Contains(t, problem.What, one.want)
		})
	}
	good := outside.Entry{Platform: "moss", Name: "Moss", ObservedOn: "2026-11-02", Path: "/lists/moss.json", Bytes: 2, SHA256: outside.Sum([]byte("{}"))}
	for want, spoil := range map[string]func(*outside.Entry){
		"names no platform":     func(e *outside.Entry) { e.Platform = "../moss" },
		"has no day":            func(e *outside.Entry) { e.ObservedOn = "yesterday" },
		"has no path":           func(e *outside.Entry) { e.Path = "/lists/../../secret" },
		"says that it holds -1": func(e *outside.Entry) { e.Bytes = -1 },
		"stands there twice":    func(*outside.Entry) {},
	} {
		bad := good
		spoil(&bad)
		entries, wrong, err := service(t, index(good, bad)).News(t.Context())
		require.NoError(t, err)
		assert.Len(t, entries, 1)
		require.Len(t, wrong, 1)
		assert.Contains(t, wrong[0], want)
	}
	// A list that is longer, shorter or another than the index says.
	for want, spoil := range map[string]func(*outside.Entry){
		"past 1 bytes":                        func(e *outside.Entry) { e.Bytes = 1 },
		"has 2 bytes, and the index says 9":   func(e *outside.Entry) { e.Bytes = 9 },
		"not the one that the index tells of": func(e *outside.Entry) { e.SHA256 = "00" },
	} {
		bad := good
		spoil(&bad)
		_, err := service(t, func(w http.ResponseWriter, _ *http.Request) {
			w.(http.Flusher).Flush() // no length is told
			fmt.Fprint(w, "{}")
		}).List(t.Context(), bad)
		assert.ErrorContains(t, err, want)
	}
	var none *outside.Service
	_, _, err := none.News(t.Context())
	assert.ErrorIs(t, err, outside.ErrNone)
}

func TestReferenceRates(t *testing.T) {
	s := stood(t, today)
	rates, err := s.RatesOn(t.Context(), time.Date(2026, 11, 22, 0, 0, 0, 0, time.UTC)) // a Sunday
	require.NoError(t, err)
	assert.Equal(t, "2026-11-20", rates.On.Format(time.DateOnly), "those of the Friday before")
	eur, gbp, usd := money.MustCurrency("EUR"), money.MustCurrency("GBP"), money.MustCurrency("USD")
	toEUR, ok := rates.Between(gbp, eur)
	require.True(t, ok)
	back, _ := rates.Between(eur, gbp)
	assert.InDelta(t, 1, float64(toEUR)/1e6*float64(back)/1e6, 1e-5)
	cross, _ := rates.Between(gbp, usd)
	viaEUR, _ := rates.Between(eur, usd)
	assert.InDelta(t, float64(toEUR)*float64(viaEUR)/1e6, float64(cross), 5)
	_, ok = rates.Between(money.MustCurrency("XAF"), eur)
	assert.False(t, ok)
	_, err = s.RatesOn(t.Context(), today.AddDate(0, 0, 1))
	assert.ErrorContains(t, err, "answered with 404", "no rates of tomorrow")

	for want, table := range map[string]string{"no table of rates": "hello", `currency "WISH"`: "date,WISH\n2026-11-20,1\n", `rate of USD is "-1"`: "date,USD\n2026-11-20,-1\n",
		`is of "2027-01-01"`: "date,USD\n2027-01-01,1.1\n", "no table": "date\n2026-11-20\n"} {
		_, err := service(t, func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, table) }).RatesOn(t.Context(), today)
		assert.ErrorContains(t, err, want)
	}
}
