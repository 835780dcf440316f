package usage_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestCourses(t *testing.T) {
	january := month(t, "2027-01")
	spring := usage.Season{2: 350_000, 3: 300_000, 7: -200_000}
	told := []usage.Told{{Month: january.Plus(4), Value: usage.Of(5)}, {Month: january.Plus(2), Value: usage.Of(4)}}
	on := func(m int, do usage.Doing, by int64, stays bool) usage.Event {
		return usage.Event{Month: january.Plus(m), Do: do, By: usage.Of(by), Stays: stays}
	}
	for name, row := range map[string]struct {
		path usage.Path
		want []float64
	}{
		"nothing is told":               {usage.Path{}, []float64{0, 0, 0}},
		"constant, whatever the growth": {usage.Path{Now: usage.Of(7), Shape: usage.Constant, Growth: money.Whole}, []float64{7, 7, 7}},
		"a straight line":               {usage.Path{Now: usage.Of(100), Shape: usage.Straight, Add: -usage.Of(30)}, []float64{100, 70, 40, 10}},
		"compound":                      {usage.Path{Now: usage.Of(100), Growth: money.Whole / 10}, []float64{100, 110, 121}},
		"an S-curve from half its ceiling": {usage.Path{Now: usage.Of(50), Shape: usage.SCurve, Ceiling: usage.Of(100), Growth: money.Whole}, []float64{50,
			200. / 3, 80, 800. / 9}},
		"an S-curve from none": {usage.Path{Shape: usage.SCurve, Ceiling: usage.Of(100), Growth: money.Whole}, []float64{0, 0}},
		"sign-ups and leavers": {usage.Path{Now: usage.Of(100), Shape: usage.Turnover, Joins: usage.Of(40), Leaves: money.Whole / 10},
			[]float64{100, 130, 157, 181.3}},
		"sign-ups that nobody leaves": {usage.Path{Now: usage.Of(100), Shape: usage.Turnover, Joins: usage.Of(40)}, []float64{100, 140, 180}},
		"all leave":                   {usage.Path{Now: usage.Of(100), Shape: usage.Turnover, Joins: usage.Of(40), Leaves: money.Whole}, []float64{100, 40, 40}},
		"told by month, in any order": {usage.Path{Now: usage.Of(3), Shape: usage.ByMonth, Told: told}, []float64{3, 3, 4, 4, 5, 5}},
		"told by month, then growing": {usage.Path{Now: usage.Of(3), Shape: usage.ByMonth, Told: told, Growth: money.Whole}, []float64{3, 3, 4, 4, 5, 10, 20}},
		"told before the first month": {usage.Path{Now: usage.Of(3), Shape: usage.ByMonth, Told: []usage.Told{{Month: january - 3,
			Value: usage.Of(8)}}}, []float64{8, 8}},
		"by month, and nothing is told":    {usage.Path{Now: usage.Of(3), Shape: usage.ByMonth, Then: usage.Straight, Add: usage.Of(1)}, []float64{3, 4, 5}},
		"a season about what stands today": {usage.Path{Now: usage.Of(100), Season: spring}, []float64{100, 100, 135, 130, 100, 100, 100, 80}},
		"a season from its height":         {usage.Path{Now: usage.Of(135), Season: usage.Season{0: 350_000}}, []float64{135, 100, 100}},
		"a season of none in its first":    {usage.Path{Now: usage.Of(100), Season: usage.Season{0: -money.Scale}}, []float64{0, 100, 100}},
		"an event of one month":            {usage.Path{Now: usage.Of(100), Events: []usage.Event{on(1, usage.Adds, 50, false)}}, []float64{100, 150, 100}},
		"an event that stays": {usage.Path{Now: usage.Of(100), Growth: money.Whole, Events: []usage.Event{on(1, usage.Adds, 50, true)}},
			[]float64{100, 250, 500}},
		"set from then on": {usage.Path{Now: usage.Of(4), Shape: usage.Constant, Events: []usage.Event{on(2, usage.Sets, 6, true)}}, []float64{4, 4, 6, 6}},
		"set in its season is what is set": {usage.Path{Now: usage.Of(100), Season: spring, Events: []usage.Event{on(2, usage.Sets, 270, true)}},
			[]float64{100, 100, 270, 260, 200}},
		"doubled for a month, then halved": {usage.Path{Now: usage.Of(100), Events: []usage.Event{on(1, usage.Multiplies, 2, false), on(2, usage.Sets, 50,
			true)}}, []float64{100, 200, 50, 50}},
		"two events in one month, in order": {usage.Path{Now: usage.Of(100), Events: []usage.Event{on(1, usage.Sets, 10, false), on(1, usage.Multiplies, 3,
			false)}}, []float64{100, 30, 100}},
		"an event before the first month": {usage.Path{Now: usage.Of(100), Events: []usage.Event{on(-1, usage.Adds, 50, true)}}, []float64{100, 100}},
		"a list that is cleaned": {usage.Path{Now: usage.Of(1000), Shape: usage.Straight, Add: usage.Of(100), Clean: usage.Cleaning{Every: 2, Share: money.Whole / 2}},
			[]float64{1000, 1100, 600, 700, 400}},
		"cleaned after the last month that is told": {usage.Path{Now: usage.Of(100), Shape: usage.ByMonth, Then: usage.Constant, Clean: usage.Cleaning{Every: 1, Share: money.Whole / 2},
			Told: []usage.Told{{Month: january + 3, Value: usage.Of(80)}}}, []float64{100, 100, 100, 80, 40}},
		"low is what differs": {usage.Path{Now: usage.Of(100), Growth: money.Whole}, []float64{100, 200, 400}},
	} {
		got := row.path.Over(usage.When{Start: january}, len(row.want))
		require.Len(t, got, len(row.want))
		for i := range row.want {
			assert.InDelta(t, row.want[i], got[i], 1e-6, "%s, month %d", name, i+1)
		}
	}
}

func TestCasesDifferInWhatIsToldOfThem(t *testing.T) {
	p := usage.Path{Now: usage.Of(100), Growth: money.Whole / 10}
	p.Low.Growth = usage.Given[money.Share]{Told: true} // none
	p.High.Now = usage.Given[usage.Quantity]{Value: usage.Of(200), Told: true}
	at := func(c usage.Case) float64 { return p.Over(usage.When{Case: c}, 2)[1] }
	assert.InDelta(t, 100, at(usage.Low), 1e-9)
	assert.InDelta(t, 110, at(usage.Expected), 1e-9)
	assert.InDelta(t, 220, at(usage.High), 1e-9)
	assert.True(t, p.Low.Told())
	assert.False(t, (&usage.Path{}).High.Told())
	m, err := usage.When{Case: usage.High}.Model(nil, map[string]usage.Path{"contacts": p})
	require.NoError(t, err)
	values, err := m.At(1)
	require.NoError(t, err)
	assert.InDelta(t, 220, values["contacts"], 1e-9)

	p.Shape, p.Ceiling = usage.SCurve, usage.Of(150)
	require.NoError(t, p.Check())
	_, err = m.When().Model(nil, map[string]usage.Path{"contacts": p})
	var fault *usage.PathError
	require.ErrorAs(t, err, &fault, "the ceiling lies below the start of the high case")
	assert.Equal(t, "ceiling", fault.Field)
	assert.ErrorContains(t, err, "the ceiling, 150, is below today's 200")
}

func TestAPathThatFallsBelowNoneIsRefusedWithItsMonth(t *testing.T) {
	m, err := usage.NewModel(nil, map[string]usage.Path{"seats": {Now: usage.Of(5), Shape: usage.Straight, Add: -usage.Of(2)}})
	require.NoError(t, err)
	_, err = m.Columns(12)
	assert.EqualError(t, err, `driver "seats" in month 4 falls to -1, which is below none`)
	_, err = m.Columns(3)
	assert.NoError(t, err)
}

func randomPath(r *rand.Rand, start usage.Month) usage.Path {
	shapes := []usage.Shape{usage.Compound, usage.Constant, usage.Straight, usage.SCurve, usage.Turnover, usage.ByMonth}
	p := usage.Path{Now: usage.Of(1 + r.Int64N(5000)), Shape: shapes[r.IntN(6)], Then: shapes[r.IntN(5)], Growth: money.Share(r.IntN(60_000)),
		Add: usage.Of(r.Int64N(300)), Ceiling: usage.Of(5000 + r.Int64N(9000)), Joins: usage.Of(r.Int64N(200)), Leaves: money.Share(r.IntN(90_000))}
	if r.IntN(2) == 0 {
		for i := range p.Season {
			p.Season[i] = usage.Factor(r.IntN(1_500_000) - 500_000)
		}
	}
	for range r.IntN(4) {
		p.Told = append(p.Told, usage.Told{Month: start.Plus(r.IntN(30) - 3), Value: usage.Of(r.Int64N(4000))})
	}
	for range r.IntN(4) {
		p.Events = append(p.Events, usage.Event{Month: start.Plus(r.IntN(30) - 2), By: usage.Of(r.Int64N(3)), Stays: r.IntN(2) == 0,
			Do: []usage.Doing{usage.Adds, usage.Multiplies, usage.Sets}[r.IntN(3)]})
	}
	if r.IntN(3) == 0 {
		p.Clean = usage.Cleaning{Every: 1 + r.IntN(7), Share: money.Share(r.IntN(400_000))}
	}
	return p
}

// walked is a slow reading of the rules: one month after the other, each from the
// level of the month before.
func walked(p usage.Path, start usage.Month, months int) []float64 {
	told := map[usage.Month]float64{}
	var before, last usage.Month
	for _, one := range p.Told {
		switch {
		case one.Month > start:
			told[one.Month] = one.Value.Float()
		case one.Month >= before: // of several before the first month the latest
			before, told[start] = one.Month, one.Value.Float()
		}
		last = max(last, start, one.Month)
	}
	var level float64
	var values []float64
	for t := range months {
		now := start.Plus(t)
		follows := p.Shape != usage.ByMonth || now >= last
		swings := p.Shape != usage.ByMonth || now >= last
		shape := p.Shape
		if shape == usage.ByMonth {
			shape = p.Then
			if now <= last && len(p.Told) > 0 {
				shape = usage.Constant
			}
		}
		f := 1.0
		if swings {
			f = p.Season.At(now)
		}
		put := func(v float64) {
			if level = v; f > 0 {
				level = v / f
			}
		}
		switch {
		case t == 0:
			put(p.Now.Float())
		case !follows || shape == usage.Constant:
		case shape == usage.Straight:
			level += p.Add.Float()
		case shape == usage.SCurve:
			if level > 0 {
				level = p.Ceiling.Float() / (1 + (p.Ceiling.Float()/level-1)/(1+p.Growth.Float()))
			}
		case shape == usage.Turnover:
			level = level*(1-p.Leaves.Float()) + p.Joins.Float()
		default:
			level *= 1 + p.Growth.Float()
		}
		if p.Clean.Every > 0 && t > 0 && t%p.Clean.Every == 0 && (p.Shape != usage.ByMonth || now > last) {
			level *= 1 - p.Clean.Share.Float()
		}
		if v, ok := told[now]; ok && p.Shape == usage.ByMonth {
			put(v)
		}
		does := func(e usage.Event, v float64) float64 {
			return map[usage.Doing]float64{usage.Adds: v + e.By.Float(), usage.Multiplies: v * e.By.Float(), usage.Sets: e.By.Float()}[e.Do]
		}
		for _, e := range p.Events {
			if e.Month == now && e.Stays {
				put(does(e, level*f))
			}
		}
		v := level * f
		for _, e := range p.Events {
			if e.Month == now && !e.Stays {
				v = does(e, v)
			}
		}
		values = append(values, v)
	}
	return values
}

func TestCoursesAreWhatWalkingThemMonthByMonthGives(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for n := range 4000 {
		start := usage.Month(2027*12 + r.IntN(12))
		p := randomPath(r, start)
		got, want := p.Over(usage.When{Start: start}, 30), walked(p, start, 30)
		for i := range want {
			require.InDelta(t, want[i], got[i], 1e-6*math.Max(1, math.Abs(want[i])), "path %d, month %d of %+v", n, i+1, p)
		}
	}
}

func TestASeasonIsEvenedInItsProportions(t *testing.T) {
	s := usage.Season{0: 1_000_000, 3: -500_000}
	assert.False(t, s.Even())
	even := s.Evened()
	assert.InDelta(t, 1, even.Mean(), 1e-12)
	assert.InDelta(t, s[0].Float()/s[1].Float(), even[0].Float()/even[1].Float(), 0.001)
	p, q := usage.Path{Now: usage.Of(1000), Season: s}, usage.Path{Now: usage.Of(1000), Season: even}
	january := month(t, "2027-01")
	for i, v := range p.Over(usage.When{Start: january}, 12) {
		assert.InDelta(t, v, q.Over(usage.When{Start: january}, 12)[i], 1, "evening moves no value by more than rounding does")
	}
	var none usage.Season
	for i := range none {
		none[i] = -money.Scale
	}
	assert.Equal(t, usage.Season{}, none.Evened())
	f, err := usage.ParseFactor("1.35")
	require.NoError(t, err)
	assert.Equal(t, "1.35", f.String())
}
