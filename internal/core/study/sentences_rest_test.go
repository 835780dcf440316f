package study_test

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var fitWords = regexp.MustCompile(`^Our own (\d+) months fit (-?[\d.]+)% a month \(R² (-?[\d.]+); months lie about ([\d.]+)% off\)(?:; nothing is told of (?:(\d+) months|(\w{3} \d{4})))?` +
	`(?:(\. A season takes two years or more)|(\. A season needs more months in a row: a year around each month of the year)|(, with no season in them)|, highest in (\w{3}) and lowest in (\w{3}))\.$`)

// What is said of a fit holds for the history that it is made from, whatever months are missing.
func TestWhatIsSaidOfAFitIsSo(t *testing.T) {
	heard := map[string]int{}
	for n := range 3000 {
		r := rand.New(rand.NewPCG(24, uint64(n)))
		start := usage.Month(2024*12 + r.IntN(12))
		length, growth := 3+r.IntN(40), []float64{0, 0, 0.01, -0.02}[r.IntN(4)]
		swings, spoilt, missing := r.IntN(2) == 0, []float64{0, 0.05}[r.IntN(2)], []float64{0, 0, 0.1}[r.IntN(3)]
		var history []usage.Counted
		values := map[usage.Month]float64{}
		for k := range length {
			v := 1000 * math.Pow(1+growth, float64(k)) * (1 + spoilt*r.Float64())
			if m := start.Plus(k); swings && m.Number() == 5 {
				v *= 1.6
			} else if swings && m.Number() == 9 {
				v *= 0.5
			}
			if q, err := usage.FromFloat(v); err == nil && r.Float64() >= missing {
				history = append(history, usage.Counted{Month: start.Plus(k), Value: q})
				values[start.Plus(k)] = q.Float()
			}
		}
		f, err := usage.FitGrowth(history)
		if err != nil {
			require.Less(t, len(history), usage.LeastMonths)
			continue
		}
		s := of(option("A", 9999, 10))
		text := s.SayFit(&f)
		m := fitWords.FindStringSubmatch(text)
		require.NotNil(t, m, text)
		require.Equal(t, len(history), number(m[1]), text)
		require.InDelta(t, f.Growth.Float()*100, mustFloat(m[2]), 0.006, text)
		var gaps []usage.Month
		for at := history[0].Month; at < history[len(history)-1].Month; at++ {
			if values[at] == 0 {
				gaps = append(gaps, at)
			}
		}
		switch len(gaps) {
		case 0:
			require.Empty(t, m[5]+m[6], text)
		case 1:
			require.Equal(t, gaps[0].String(), m[6], text)
		default:
			require.Equal(t, len(gaps), number(m[5]), text)
		}
		off := 0.0 // of a month, by hand
		for _, p := range f.Points {
			off += math.Pow(math.Log(values[p.Month]/p.Fitted), 2)
		}
		off = 100 * math.Sqrt(off/max(1, float64(len(history)-2-map[bool]int{true: 11}[f.Seasonal])))
		require.InDelta(t, off, mustFloat(m[4]), 0.051, text)
		whole := func(at usage.Month) bool { // all thirteen months around it are told
			for k := -6; k <= 6; k++ {
				if values[at.Plus(k)] == 0 {
					return false
				}
			}
			return true
		}
		around := map[int]bool{}
		for at := range values {
			around[at.Number()] = around[at.Number()] || whole(at)
		}
		all := len(around) == 12
		for _, is := range around {
			all = all && is
		}
		switch {
		case m[7] != "":
			heard["short"]++
			require.Less(t, len(history), 24, text)
		case m[8] != "":
			heard["gaps"]++
			require.True(t, len(history) >= 24 && !all, text)
		case m[9] != "":
			heard["even"]++
			require.True(t, all && !swings && spoilt == 0, text)
		default:
			heard["season"]++
			require.True(t, all, text)
			if swings {
				require.Equal(t, "May Sep", m[10]+" "+m[11], text)
			}
		}
	}
	for _, way := range []string{"short", "gaps", "even", "season"} {
		assert.Greater(t, heard[way], 10, way)
	}
}

// The parts of what is sent are what the drivers that make them come to.
func TestWhatIsSaidOfSendsIsSo(t *testing.T) {
	part := regexp.MustCompile(`^(newsletters|automated|for clients) (all|under 1%|over 99%|(\d+)%)$`)
	heard := map[string]int{}
	for n := range 500 {
		r := rand.New(rand.NewPCG(24, uint64(n)))
		s := of(option("A", 9999, 10))
		per := map[string]float64{"newsletters": float64(r.IntN(4)), "automated": float64(r.IntN(3)), "for clients": float64([]int{0, 1, 40, 900, 90_000}[r.IntN(5)])}
		for name, key := range map[string]string{"newsletters": "newsletters", "automated": "automated_emails", "for clients": "client_emails"} {
			s.Drivers = append(s.Drivers, study.Setting{Driver: key, Path: usage.Path{Now: usage.Of(int64(per[name]))}})
		}
		o := compute(t, s)
		at := r.IntN(6)
		per["newsletters"] *= o.Values.Of("contacts")[at]
		per["automated"] *= o.Values.Of("contacts")[at]
		total := per["newsletters"] + per["automated"] + per["for clients"]
		text := o.SaySends(at)
		if total == 0 {
			require.Empty(t, text)
			continue
		}
		for _, one := range strings.Split(text, ", ") {
			m := part.FindStringSubmatch(one)
			require.NotNil(t, m, text)
			share := per[m[1]] / total
			switch m[2] {
			case "all":
				require.Equal(t, 1.0, share, text)
			case "under 1%":
				require.True(t, share > 0 && share < 0.01, text)
			case "over 99%":
				require.True(t, share > 0.99 && share < 1, text)
			default:
				require.InDelta(t, share*100, mustFloat(m[3]), 0.5001, text)
			}
			heard[m[2]]++
			delete(per, m[1])
		}
		for _, v := range per {
			require.Zero(t, v, "what is not told is none: %s", text)
		}
	}
	assert.Greater(t, min(heard["all"], heard["under 1%"], heard["over 99%"]), 3)
}

// What is read, guessed and left of a page adds up, and is told in whole sentences.
func TestWhatIsSaidOfAReadingIsSo(t *testing.T) {
	words := regexp.MustCompile(`^(?:From this page (\d+) (plan|plans) and (\d+) of (\d+) (figure|figures) were read(?:; (\d+) (was|were) guessed)?(?:(?: and |; )(\d+) (is|are) left over)?\. Nothing is kept until it is a draft\.` +
		`|There is no figure on this page\.|No plan was found; (\d+) (figure is|figures are) left over\.)$`)
	for n := range 4 * 4 * 4 * 4 {
		plans, read, guessed, left := n%4, n/4%4, n/16%4, n/64
		if plans == 0 && read+guessed > 0 {
			continue // figures are those of plans
		}
		text := study.SayReading(plans, read, guessed, left, false).String()
		m := words.FindStringSubmatch(text)
		require.NotNil(t, m, text)
		one := func(word string, n int, single string) {
			if word != "" {
				require.Equal(t, n == 1, word == single, text)
			}
		}
		switch {
		case read+guessed+left == 0:
			require.Contains(t, text, "no figure")
		case plans == 0:
			require.Equal(t, left, number(m[10]), text)
			one(m[11], left, "figure is")
		default:
			require.Equal(t, []int{plans, read, read + guessed + left, guessed, left}, []int{number(m[1]), number(m[3]), number(m[4]), number(m[6]), number(m[8])}, text)
			one(m[2], plans, "plan")
			one(m[5], read+guessed+left, "figure")
			one(m[7], guessed, "was")
			one(m[9], left, "is")
		}
	}
}

// Events that are said to lie outside the horizon are all that do.
func TestWhatIsSaidToLieOutsideDoes(t *testing.T) {
	for n := range 500 {
		r := rand.New(rand.NewPCG(24, uint64(n)))
		s := of(option("A", 9999, 10))
		var p usage.Path
		var want []string
		for k := range r.IntN(5) {
			e := usage.Event{Key: fmt.Sprint("e", k), Month: s.Start.Plus(r.IntN(30) - 12), Do: usage.Adds, By: usage.Of(7)}
			name := e.Month.String()
			if r.IntN(2) == 0 {
				e.Note = fmt.Sprint("fair ", k)
				name = fmt.Sprintf("%s (%s)", e.Note, name)
			}
			if p.Events = append(p.Events, e); e.Month < s.Start || e.Month > s.Month(5) {
				want = append(want, name)
			}
		}
		text := s.SayOutside(&p)
		if len(want) == 0 {
			require.Empty(t, text)
			continue
		}
		m := regexp.MustCompile(`^(.*) (lies|lie) outside the horizon, Jan 2027 to Jun 2027, and (changes|change) nothing\.$`).FindStringSubmatch(text)
		require.NotNil(t, m, text)
		require.Equal(t, want, regexp.MustCompile(`, | and `).Split(m[1], -1), text)
		require.Equal(t, len(want) == 1, m[2] == "lies" && m[3] == "changes", text)
	}
}

var (
	repayWords = regexp.MustCompile(`^Paid once for life, (\w+) (?:breaks even (with paying .*?)(?:; with paying ([^;]*) not up to 120 months after the horizon)?|does not break even with paying (.*), up to 120 months after the horizon)\.$`)
	repayBy    = regexp.MustCompile(`^with paying (.*) in (\w+ \d+) \(month (\d+)(, past the horizon)?\)$`)
)

// What is paid once for life breaks even with each other term when it is said to: by paying for the same
// plans on that term alone, in a study of 120 months whose usage stays as it ends.
func TestWhatIsPaidOnceBreaksEvenWhenItIsSaidTo(t *testing.T) {
	heard := 0
	for n := 0; heard < 60 && n < 20_000; n++ {
		s := spoken(rand.New(rand.NewPCG(24, uint64(n))))
		s.Pay = projection.Mix
		o := study.Compute(s)
		for i := range o.Results {
			r := &o.Results[i]
			if r.AtFault {
				continue
			}
			text := o.SayRepays(&r.Tools[0]).String()
			if text == "" {
				continue
			}
			heard++
			m := repayWords.FindStringSubmatch(text)
			require.NotNil(t, m, text)
			require.Equal(t, r.Option.Name, m[1])
			said := map[string]int{}
			if none := m[3] + m[4]; none != "" {
				for _, words := range strings.Split(none, " or ") {
					said[words] = 0
				}
			}
			for _, words := range strings.Split(strings.TrimPrefix(strings.ReplaceAll(m[2], " and with", ", with"), ", "), ", with ") {
				if words == "" {
					continue
				}
				words = "with " + strings.TrimPrefix(words, "with ")
				one := repayBy.FindStringSubmatch(words)
				require.NotNil(t, one, words)
				said[one[1]] = number(one[3])
				require.Equal(t, s.Month(number(one[3])-1).String(), one[2], text)
				require.Equal(t, number(one[3]) > 6, one[4] != "", text)
			}
			var paid [120]money.Amount
			for at, month := range r.Tools[0].Schedule.Months { // what falls away falls away on any term
				paid[at] = month.Cash
			}
			for _, months := range []int{1, 12} {
				then := *s
				op := r.Option
				e := *op.Edition
				e.Plans = nil
				for _, p := range op.Edition.Plans {
					p.Terms = slices.DeleteFunc(slices.Clone(p.Terms), func(one pricelist.Term) bool { return one.Months != months })
					if len(p.Terms) > 0 {
						e.Plans = append(e.Plans, p)
					}
				}
				if len(e.Plans) == 0 {
					continue
				}
				op.Edition = &e
				then.Options, then.Horizon, then.Running, then.Ratings = []study.Option{op}, 120, nil, nil
				then.Drivers = slices.Clone(s.Drivers)
				for k := range then.Drivers {
					d := &then.Drivers[k]
					path := usage.Path{Shape: usage.ByMonth, Then: usage.Constant}
					for at, v := range o.Values.Of(d.Driver) {
						q, err := usage.FromFloat(v)
						require.NoError(t, err)
						path.Told = append(path.Told, usage.Told{Month: s.Month(at), Value: q})
					}
					path.Now, d.Path = path.Told[0].Value, path
				}
				other := study.Compute(&then)
				words := study.SayTerm(e.Plans[0].Terms[0])
				at, told := said[words]
				if !other.Results[0].Schedule.Serves() {
					require.False(t, told, "study %d: nothing serves %s: %s", n, words, text)
					continue
				}
				from := 0
				var life, rent money.Amount
				for k := range paid {
					life, rent = life+paid[k], rent+other.Results[0].Schedule.Months[k].Cash
					if life > rent {
						from = 0
					} else if from == 0 {
						from = k + 1
					}
				}
				require.True(t, told, "study %d: %s is not told of: %s", n, words, text)
				require.Equal(t, from, at, "study %d: %s: %s", n, words, text)
			}
		}
	}
	require.GreaterOrEqual(t, heard, 60)
}

// A road is told leg by leg.
func TestARoadIsToldLegByLeg(t *testing.T) {
	heard := 0
	for n := range 300 {
		o := study.Compute(spoken(rand.New(rand.NewPCG(24, uint64(n)))))
		roads, err := o.Roads(context.Background(), nil)
		require.NoError(t, err)
		road, ok := roads.Cheapest()
		if !ok {
			continue
		}
		text := o.SayRoad(road, roads.Results)
		from := 0
		parts := strings.Split(text, ", then ")
		for k, part := range parts {
			m := regexp.MustCompile(places.Replace(`^{O}(?: until {M})?$`)).FindStringSubmatch(part)
			require.NotNil(t, m, text)
			require.Equal(t, k == len(parts)-1, m[2] == "", text)
			end := 5
			if m[2] != "" {
				end = month(m[2])
				heard++
			}
			for at := from; at <= end; at++ {
				leg := slices.IndexFunc(road.Legs, func(l projection.Leg) bool { return l.From <= at && at <= l.To })
				require.Equal(t, m[1], o.Results[roads.Results[road.Legs[leg].Option]].Option.Name, text)
			}
			from = end + 1
		}
		require.Equal(t, 6, from, text)
	}
	assert.Greater(t, heard, 10)
}
