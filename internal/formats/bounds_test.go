package formats_test

import (
	"context"
	"errors"
	"fmt"
	"runtime"
	"runtime/debug"
	"strings"
	"syscall"
	"testing"
	"time"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/demo"
	"ninecoins/internal/formats"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// cost is what doing something took: processor time of this thread, the least
// of several times, and memory that was asked for.
func cost(t *testing.T, do func()) (busy time.Duration, bytes uint64) {
	t.Helper()
	runtime.LockOSThread()
	defer runtime.UnlockOSThread()
	defer debug.SetGCPercent(debug.SetGCPercent(-1))
	clock := func() time.Duration {
		var u syscall.Rusage
		require.NoError(t, syscall.Getrusage(1, &u)) // RUSAGE_THREAD
		return time.Duration(u.Utime.Nano() + u.Stime.Nano())
	}
	busy = time.Hour
	for range 5 {
		var before, after runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&before)
		start := clock()
		do()
		busy = min(busy, clock()-start)
		runtime.ReadMemStats(&after)
		bytes = after.TotalAlloc - before.TotalAlloc
	}
	return busy, bytes
}

// hostile makes files that are to be refused, or to take long, from a size.
var hostile = map[string]func(n int) string{
	"fields that are not known": func(n int) string { return "{" + many(n, `"f%d": 1`) + "}" },
	"a field that stands often": func(n int) string { return "{" + many(n, `"f": %d`) + "}" },
	"objects full of fields":    func(n int) string { return "[" + many(n/1000, "{"+many(1000, `"f%d": 1`)+`, "g%d": 1}`) + "]" },
	"meters at fault":           func(n int) string { return wholeList("meters", many(n/8, `{"key": "K%d", "no": 1}`)) },
	"plans with odd features":   func(n int) string { return wholeList("plans", `{"features": {`+many(n/3, `"no feature %d": 1`)+`}}`) },
	"prices by terms that are not": func(n int) string {
		return wholeList("plans", `{"key": "p", "charges": [{"key": "c", "kind": "flat", "price": "1", `+many(n/3, `"t%d": "1"`)+`}]}`)
	},
	"prices in fields that are none": func(n int) string {
		return wholeList("plans", `{"key": "p", "charges": [{"key": "c", "kind": "flat", "price": "1", `+many(n/3, `"No %d": "1"`)+`}]}`)
	},
	"one long name around":          func(n int) string { return `{"` + strings.Repeat("x", n) + `": [` + many(n/2, `[%d]`) + `]}` },
	"one long name around odd ones": func(n int) string { return wholeList("platform", `{"`+strings.Repeat("y", n)+`": 1}`) },
	"categories that are none":      func(n int) string { return `{"platform": {"does": [` + many(n, `"c%d"`) + `]}}` },
	"the same text":                 func(n int) string { return `{"platform": {"does": [` + many(n, `"email"`) + `]}}` },
	"numbers":                       func(n int) string { return "[" + many(2*n, "0") + "]" },
	"depth":                         func(n int) string { return strings.Repeat("[", n) },
	"a long text":                   func(n int) string { return `{"source": "` + strings.Repeat("é", 5*n) + `"}` },
	"escapes":                       func(n int) string { return `{"source": "` + strings.Repeat(`\u00e9`, n) + `"}` },
	"damaged text":                  func(n int) string { return `[` + many(n, `"\ud800%d"`) + `]` },
	"lines":                         func(n int) string { return strings.Repeat("\n", 10*n) + "{" },
	"spaces":                        func(n int) string { return "{" + strings.Repeat(" ", 10*n) },
}

// many writes a piece often, with its number where it has a place for it.
func many(n int, piece string) string {
	all := make([]string, n)
	for i := range all {
		all[i] = piece
		if strings.Contains(piece, "%d") {
			all[i] = strings.ReplaceAll(piece, "%d", fmt.Sprint(i))
		}
	}
	return strings.Join(all, ", ")
}

func wholeList(field, items string) string {
	opens, shuts := "[", "]"
	if field == "platform" {
		opens, shuts = "", ""
	}
	return fmt.Sprintf(`{"format": "nine-coins/price-list/1", %q: %s%s%s}`, field, opens, items, shuts)
}

// TestTwiceAsMuchTakesTwiceAsLong reads hostile files of two sizes. What is
// told of them stays small however many faults they have.
func TestTwiceAsMuchTakesTwiceAsLong(t *testing.T) {
	for what, make := range hostile {
		one, two := []byte(make(20_000)), []byte(make(40_000))
		require.Less(t, len(two), formats.MostBytes, what)
		var err error
		// A neighbour on the machine may disturb one measuring, and what is quick altogether; a law that does not hold fails
		// all of them.
		const quick = 10 * time.Millisecond
		var ratio, memory float64
		for range 6 {
			busy1, bytes1 := cost(t, func() { _, err = formats.ReadPriceList(t.Context(), one, day) })
			busy2, bytes2 := cost(t, func() { _, err = formats.ReadPriceList(t.Context(), two, day) })
			ratio, memory = float64(busy2)/float64(max(busy1, quick)), float64(bytes2)/float64(max(bytes1, 1<<20))
			if ratio <= 2.5 {
				break
			}
		}
		assert.LessOrEqual(t, ratio, 2.5, "time for %s", what)
		assert.LessOrEqual(t, memory, 2.5, "memory for %s", what)
		faults := faultsOf(t, err)
		assert.LessOrEqual(t, len(faults), formats.MostFaults+1, what)
		assert.Less(t, len(err.Error()), 60_000, what)
		for _, f := range faults {
			assert.Positive(t, f.Line)
			assert.Less(t, len(f.Field), 800)
			assert.Less(t, len(f.Problem), 1_600)
		}
	}
}

// TestReadingEndsWithItsRequest ends the context in the middle.
func TestReadingEndsWithItsRequest(t *testing.T) {
	ended, cancel := context.WithCancel(t.Context())
	cancel()
	large := []byte(`{"format": "nine-coins/workspace/1", "people": [` + many(400_000, `"n%d"`) + `]}`)
	for _, file := range [][]byte{large, demo.PriceLists()[0]} {
		_, err := formats.Open(ended, file, day)
		if err == nil { // a small one is read between two looks at the context
			_, err = formats.ReadPriceList(ended, file, day)
		}
		assert.ErrorIs(t, err, context.Canceled)
	}
	_, err := formats.ReadWorkspace(ended, large, day)
	assert.ErrorIs(t, err, context.Canceled)
	_, err = formats.ReadUsage(ended, []byte(`{"format": "nine-coins/usage/1", "start": "2027-01", "drivers": []}`), day)
	assert.ErrorIs(t, err, context.Canceled)
	_, err = formats.ReadStudy(ended, demo.Study(), day, func(string, time.Time) (*pricelist.Edition, bool) { return nil, false })
	assert.ErrorIs(t, err, context.Canceled)
}

func TestMoreThanIsReadIsToldAsSuch(t *testing.T) {
	for want, file := range map[string]string{
		"the file holds more than 250000 values": "[" + many(250_001, "0") + "]",
		"an object has more than 2000 fields":    "{" + many(2_001, `"f%d": 1`) + "}",
		"has 1001 entries; at most 1000":         wholeList("plans", `{"features": {`+many(1_001, `"a/f%d": {"has": "yes"}`)+`}}`),
		"from here on there is one fault more":   "{" + many(101, `"f%d": 1`) + `, "format": "nine-coins/price-list/1"}`,
		"from here on there are 900 faults more": `{"format": "nine-coins/price-list/1", "observed_on": "2026-01-01", "source": "x", "currency": "EUR", "tax": {}, "platform": {"key": "k", "name": "N", "does": []}, "meters": [], "plans": [], ` + many(1_000, `"f%d": 1`) + "}",
	} {
		_, err := formats.ReadPriceList(t.Context(), []byte(file), day)
		faults := faultsOf(t, err)
		if strings.HasPrefix(want, "from here") {
			assert.Len(t, faults, formats.MostFaults+1)
			assert.Regexp(t, "from here on there (is one fault|are [0-9]+ faults) more$", err.Error())
			continue
		}
		assert.ErrorContains(t, err, want)
	}
	_, err := formats.Open(t.Context(), []byte("{"+strings.Repeat(" ", 6<<20)+`"format": "nine-coins/study/1"}`), day)
	assert.ErrorContains(t, err, "the file has 6.0 MB; at most 5 MB are read")
	_, err = formats.Open(t.Context(), make([]byte, 65<<20), day)
	assert.ErrorContains(t, err, "at most 64 MB are read")
	var faults formats.Faults
	assert.True(t, errors.As(err, &faults))
	// Features that come down from plan to plan are bounded too.
	var plans []string
	for i := range 3 {
		plans = append(plans, fmt.Sprintf(`{"key": "p%d", "name": "P", "offered": "on request", "includes": "p%d", "features": {%s}}`, i, i-1, strings.ReplaceAll(many(500, `"a/fX%d": {"has": "yes"}`), "X", fmt.Sprint(i, "-"))))
	}
	plans[0] = strings.Replace(plans[0], `"includes": "p-1", `, "", 1)
	list := strings.Replace(smallList, smallList[strings.Index(smallList, `"plans": [`):], `"plans": [`+strings.Join(plans, ",")+`]}`, 1)
	_, err = formats.ReadPriceList(t.Context(), []byte(list), day)
	assert.ErrorContains(t, err, `plans[2].includes: plan "p2" comes to more than 1000 features with those of plan "p1"`)
}
