package study_test

import (
	"fmt"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// course is a random path of any shape, from the year before the study to that after it.
func course(r *rand.Rand, start usage.Month) usage.Path {
	one := func(n int) bool { return r.IntN(n) == 0 }
	shapes := []usage.Shape{usage.Compound, usage.Constant, usage.Straight, usage.SCurve, usage.Turnover, usage.ByMonth}
	p := usage.Path{Now: usage.Of(100 + r.Int64N(900)), Shape: shapes[r.IntN(6)], Growth: money.Share(r.Int64N(4) * 20_000), Add: usage.Of(r.Int64N(21) - 5), Ceiling: usage.Of(400 + r.Int64N(2000)),
		Joins: usage.Of(r.Int64N(60)), Leaves: money.Share(r.Int64N(3) * 50_000), Then: shapes[r.IntN(5)]}
	if p.Shape == usage.ByMonth {
		at := start.Plus(-3)
		for range r.IntN(6) {
			at = at.Plus(1 + r.IntN(4))
			p.Told = append(p.Told, usage.Told{Month: at, Value: usage.Of(50 + r.Int64N(950))})
		}
		r.Shuffle(len(p.Told), func(i, k int) { p.Told[i], p.Told[k] = p.Told[k], p.Told[i] })
	}
	if one(4) {
		p.Season[4] = usage.Factor(500_000)
		if one(2) {
			for m := range p.Season {
				p.Season[m] = usage.Factor(1_000_000)
			}
		}
	}
	for k := range r.IntN(3) {
		p.Events = append(p.Events, usage.Event{Key: fmt.Sprint("e", k), Month: start.Plus(r.IntN(12) - 3), Do: usage.Adds, By: usage.Of(7 + r.Int64N(90)), Stays: one(2)})
	}
	if one(4) {
		p.Clean = usage.Cleaning{Every: 2 + r.IntN(3), Share: money.Share(r.Int64N(2) * 100_000)}
	}
	return p
}

var (
	withParts = regexp.MustCompile(`^(.*?)(?:, with (.*))?$`)
	byMonth   = regexp.MustCompile(`^([\d,]+)((?:, then [\d,]+ from \w+ \d+)*)(?:, then and so on for (\d+) months? more)?(?:; after that (.*))?$`)
	shapeWord = regexp.MustCompile(`^(?:(steady)|([\d.]+)% a month|([\d,.]+) (more|fewer) each month|towards ([\d,]+), by ([\d.]+)% a month while far below|([\d,]+) join each month, ([\d.]+)% leave(?:, which settles at ([\d,]+))?)$`)
)

// goesBy reports whether a value follows another one as the words of a shape tell.
func goesBy(t *testing.T, words string, was, is float64) bool {
	m := shapeWord.FindStringSubmatch(words)
	require.NotNil(t, m, words)
	near := func(want float64) bool { return is > want-0.02 && is < want+0.02 }
	num := func(s string) float64 { return mustFloat(strings.ReplaceAll(s, ",", "")) }
	switch {
	case m[1] != "":
		return near(was)
	case m[2] != "":
		return near(was * (1 + num(m[2])/100))
	case m[3] != "":
		by := num(m[3])
		if m[4] == "fewer" {
			by = -by
		}
		return near(was + by)
	case m[5] != "": // never past its ceiling, and by no more than it says
		top, most := num(m[5]), num(m[6])/100
		if was > top {
			return is >= top-0.02 && is <= was+0.02
		}
		return is <= top+0.02 && is >= was-0.02 && is <= was*(1+most)+0.02
	}
	joins, leaves := num(m[7]), num(m[8])/100
	if m[9] != "" && leaves > 0 {
		settles := num(m[9])
		if settles < joins/leaves-0.01 || settles > joins/leaves+1.01 {
			return false
		}
	}
	return near(was*(1-leaves) + joins)
}

// TestWhatIsSaidOfACourseIsSo reads how a driver is said to grow, and holds the values of its months to it.
func TestWhatIsSaidOfACourseIsSo(t *testing.T) {
	heard := map[string]int{}
	for n := range 6000 {
		r := rand.New(rand.NewPCG(7, uint64(n)))
		start := usage.Month(2027 * 12)
		s := study.Study{Start: start, Horizon: 8}
		p := course(r, start)
		text := s.SayCourse(&p)
		m := withParts.FindStringSubmatch(text)
		values := p.Over(usage.When{Start: start}, s.Horizon)

		if words := study.SaySeason(&p); strings.Contains(words, "moves no value") {
			heard["moves no value"]++
			evened := p
			evened.Season = p.Season.Evened()
			for at, v := range evened.Over(usage.When{Start: start}, s.Horizon) {
				require.InEpsilon(t, values[at]+1000, v+1000, 1e-3, "case %d: %s %s", n, text, words)
			}
		}

		// What it goes with moves it, and what is not named does not.
		without := p
		if strings.Contains(m[2], "season") {
			heard["season"]++
		}
		if !strings.Contains(m[2], "season") {
			without.Season = usage.Season{}
		}
		if !strings.Contains(m[2], "event") {
			without.Events = nil
		}
		if !strings.Contains(m[2], "cleaned away") {
			without.Clean = usage.Cleaning{}
		}
		require.InDeltaSlice(t, values, without.Over(usage.When{Start: start}, s.Horizon), 1e-6, "case %d: %s", n, text)
		inside := 0
		for _, e := range p.Events {
			if e.Month >= start && e.Month < start.Plus(s.Horizon) {
				inside++
			}
		}
		if inside > 0 {
			heard["events"]++
			require.Contains(t, m[2], map[bool]string{true: "1 event", false: "2 events"}[inside == 1], "case %d: %s", n, text)
		}
		if m[2] != "" {
			continue
		}
		if p.Shape != usage.ByMonth {
			heard[string(p.Shape)]++
			for at := 1; at < len(values); at++ {
				require.True(t, goesBy(t, text, values[at-1], values[at]), "case %d: %s: %v", n, text, values)
			}
			continue
		}
		told := byMonth.FindStringSubmatch(text)
		require.NotNil(t, told, "case %d: %s", n, text)
		require.Equal(t, values[0], float64(number(told[1])), "case %d: %s: %v", n, text, values)
		stands, next, last := values[0], 1, 0
		for _, one := range regexp.MustCompile(`([\d,]+) from (\w+ \d+)`).FindAllStringSubmatch(told[2], -1) {
			at := -1
			for k := range values {
				if start.Plus(k).String() == one[2] {
					at = k
				}
			}
			require.GreaterOrEqual(t, at, next, "case %d: %s: a month of the study, after the one before", n, text)
			for ; next < at; next++ {
				require.Equal(t, stands, values[next], "case %d: %s: %v", n, text, values)
			}
			stands, last = float64(number(one[1])), at
			require.Equal(t, stands, values[at], "case %d: %s: %v", n, text, values)
			next = at + 1
		}
		if told[3] != "" {
			heard["and so on"]++
			continue
		}
		after := told[4]
		if after == "" {
			after = "steady"
		}
		heard["told"]++
		for at := last + 1; at < len(values); at++ {
			require.True(t, goesBy(t, after, values[at-1], values[at]), "case %d: %s: %v", n, text, values)
		}
	}
	t.Log(heard)
	assert.GreaterOrEqual(t, len(heard), 9)
}
