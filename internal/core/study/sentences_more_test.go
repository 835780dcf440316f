package study_test

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// saidOfEach are the sentences about options, months and drivers, beside those of [said].
func saidOfEach(t testing.TB, o *study.Outcome) map[string]string {
	all := map[string]string{"growth": o.SayGrowth().String()}
	for k, e := range o.Events() {
		all[fmt.Sprint("event ", k)] = fmt.Sprintf("%s: %s %s", o.Study.Month(e.Month), o.Results[e.Result].Option.Name, e.Say())
	}
	for i := range o.Results {
		r := &o.Results[i]
		for k, f := range r.Forced() {
			all[fmt.Sprint("forced ", i, k)] = r.Option.Name + ": " + o.SayForced(r, f)
		}
		if r.Schedule.Beyond > 0 {
			all[fmt.Sprint("beyond ", i)], all[fmt.Sprint("beyond cash ", i)] = r.Option.Name+": "+o.SayBeyond(r, false), r.Option.Name+": "+o.SayBeyond(r, true)
		}
		if !r.AtFault {
			all[fmt.Sprint("deeds ", i)] = r.Option.Name + ": " + o.SayDeeds(r)
		}
	}
	if axes := o.Axes(); len(axes) > 1 && axes[0].Key == "contacts" {
		f, err := o.Field(context.Background(), "contacts", "seats", 0, 2000, 10, false)
		require.NoError(t, err)
		all["field"] = o.SayField(f, false).String()
	}
	return all
}

// formsOfEach are the words of sentences about options, months and drivers.
var formsOfEach = map[string][]claim{
	"growth": {
		form(`As expected, contacts go from {N} to {N} by Jun 2027\.`, func(l *listener, m []string) bool {
			v := l.o.Values.Of("contacts")
			return number(m[1]) == int(v[0]) && number(m[2]) == int(v[5])
		}),
		form(`Slow growth ends at {N}, fast growth ends at {N}\.`, func(l *listener, m []string) bool {
			end := func(word string) float64 { return l.inCase(word).o.Values.Of("contacts")[5] }
			return math.Abs(end("slow")-float64(number(m[1]))) < 1 && math.Abs(end("fast")-float64(number(m[2]))) < 1
		}),
	},
	"event": {
		form(`{M}: {O} (?:moves to|on) {P}: (.*)$`, func(l *listener, m []string) bool {
			t, i := month(m[1]), l.at(m[2])
			now, before := &l.o.Results[i].Schedule.Months[t], &l.o.Results[i].Schedule.Months[t-1]
			return now.Plan().Name == m[3] && strings.Contains(m[0], " moves to ") == (now.Plan().Key != before.Plan().Key) && l.causes(m[4], i, t)
		}),
		form(`{M}: {O} now costs least each month`, func(l *listener, m []string) bool {
			who, t := l.leads(), month(m[1])
			return who[t] == l.at(m[2]) && who[t-1] != who[t]
		}),
		form(`{M}: {O} has nothing that serves from here on`, func(l *listener, m []string) bool {
			months, t := l.o.Results[l.at(m[2])].Schedule.Months, month(m[1])
			return !months[t].Serves && (t == 0 || months[t-1].Serves)
		}),
		form(`{M}: {O} has no price here: there is no rate from GBP to EUR`, func(l *listener, m []string) bool {
			return l.unpriced(l.at(m[2]))
		}),
	},
	"forced": {
		form(`{O}: (forms|tests) (?:costs you {A} a month here: without it {P} would do|decides the plan here; {P} would do without it, and cost no less)`, func(l *listener, m []string) bool {
			i := l.at(m[1])
			s := *l.o.Study
			s.Needs = slices.DeleteFunc(slices.Clone(s.Needs), func(n coverage.Need) bool { return strings.EqualFold(n.Name, m[2]) })
			then, now := study.Compute(&s).Results[i].Schedule.Months[0], l.o.Results[i].Schedule.Months[0]
			if m[3] == "" {
				return then.Plan().Name == m[5] && now.Monthly() <= then.Monthly()
			}
			return then.Plan().Name == m[4] && comes(m[3], now.Monthly()-then.Monthly())
		}),
	},
	"beyond": {
		form(`{O}: (a further )?{A} is paid for months after Jun 2027(, and not counted here)?`, func(l *listener, m []string) bool {
			sum := &l.o.Results[l.at(m[1])].Schedule
			paid := -sum.Total
			for t := range sum.Months {
				paid += sum.Months[t].Cash
			}
			return comes(m[3], paid) && (m[2] == "") == (m[4] == "")
		}),
	},
	"deeds": {form(`{O}: (.*)$`, func(l *listener, m []string) bool {
		if i := l.at(m[1]); l.unpriced(i) || strings.HasPrefix(m[2], "no price") {
			return l.unpriced(i) && m[2] == "no price, as there is no rate from GBP to EUR"
		}
		return goes(l.o.Results[l.at(m[1])].Schedule.Months, m[2])
	})},
	"field": {
		form(`Where we stand (?:{O} costs least(?:, level with {OS})?|nothing serves)`+
			`(?:(, and growth stays in its part of the field)|(; growth leaves its part of the field and comes back to it)`+
			`|; by {M} growth leads to where (?:{O} does(?:, level with {OS})?|nothing serves))\.( In Jun 2027 it leaves what is laid out here\.)?`,
			func(l *listener, m []string) bool {
				is := func(name string, at int) bool {
					all := l.cheapestAt(at)
					return name == "" && len(all) == 0 || name != "" && slices.Contains(all, l.at(name))
				}
				switch { // 100, 200, 400, 800 and 1,600 contacts lie inside
				case !is(m[1], 100) || m[8] == "" || m[1] != "" && !l.same(l.cheapestAt(100), m[1], m[2]):
					return false
				case m[3] != "":
					return is(m[1], 200) && is(m[1], 400) && is(m[1], 800) && is(m[1], 1600)
				case m[4] != "":
					return is(m[1], 1600)
				}
				return m[5] == "May 2027" && is(m[6], 1600) && m[6] != m[1] && (m[6] == "" || l.same(l.cheapestAt(1600), m[6], m[7]))
			}),
		form(`There is nothing to lay out: no option misses no must\.`, func(l *listener, _ []string) bool { return !slices.ContainsFunc(l.o.Results, mayCostLeast) }),
	},
}

// goes reports whether a schedule goes the way that a text tells: "Ash small monthly until Mar 2027, then …".
func goes(months []projection.Month, way string) bool {
	t := 0
	for _, run := range strings.Split(way, ", then ") {
		part := regexp.MustCompile(places.Replace("^(?:{P} (monthly|for a year, paid ahead|for life)|nothing that serves)(?: until {M})?$")).FindStringSubmatch(run)
		if part == nil {
			return false
		}
		end := 5
		if part[3] != "" {
			end = month(part[3])
		}
		length := map[string]int{"monthly": 1, "for a year, paid ahead": 12, "for life": pricelist.Lifetime}[part[2]]
		for ; t <= end; t++ {
			if on := &months[t]; on.Serves != (part[1] != "") || on.Serves && (on.Plan().Name != part[1] || on.Term().Months != length) {
				return false
			}
		}
	}
	return t == 6
}

// mayCostLeast reports whether an option misses no must and can be worked out.
func mayCostLeast(r study.Result) bool {
	return !r.AtFault && !slices.ContainsFunc(r.Coverage, func(c coverage.Cell) bool { return c.Need.Level == coverage.Must && c.Answer == coverage.Unmet })
}

// causes holds why a bill of an option steps in month t.
func (l *listener) causes(text string, i, t int) bool {
	months := l.o.Results[i].Schedule.Months
	now, before := &months[t], &months[t-1]
	for text != "" {
		read := false
		for _, c := range []claim{
			form(`contacts pass {N}`, func(_ *listener, m []string) bool {
				band := func(b pricelist.Band) bool { return b.To == usage.Of(int64(number(m[1]))) }
				return 100<<(t-1) <= number(m[1]) && number(m[1]) < 100<<t && slices.ContainsFunc(before.Plan().Charges[0].Bands, band)
			}),
			form(`the offer “Half” ends`, func(*listener, []string) bool { return t == 3 }),
			form(`{A} a month less than staying on {P}`, func(_ *listener, m []string) bool {
				ch := &before.Plan().Charges[0]
				stay := ch.Price.Usual
				for k := len(ch.Bands) - 1; k >= 0 && usage.Of(100<<t) <= ch.Bands[k].To; k-- {
					stay = ch.Bands[k].Price.Usual
				}
				at := before.Program.Offers == nil && before.Term().Months == 1
				return before.Plan().Name == m[2] && (!at || comes(m[1], stay-now.Monthly()))
			}),
			form(`{P} costs less over what is to come`, func(_ *listener, m []string) bool { return now.Plan().Name == m[1] }),
			form(`{A} paid ahead is lost`, func(_ *listener, m []string) bool { return comes(m[1], now.Lost) }),
		} {
			if m := c.words.FindStringSubmatch(text); m != nil && !read {
				if read = c.holds(l, m); !read {
					return false
				}
				text = strings.TrimPrefix(strings.TrimLeft(text[len(m[0]):], " "), ", ")
			}
		}
		if !read {
			return false
		}
	}
	return true
}

// TestWhatIsSaidOfEachIsSo is [TestWhatIsSaidIsSo] for options, months and drivers.
func TestWhatIsSaidOfEachIsSo(t *testing.T) {
	r := rand.New(rand.NewPCG(24, 21))
	digits := regexp.MustCompile(`\d+`)
	heard, faults, found := map[string]int{}, 0, 0
	for n := range 500 {
		o := study.Compute(spoken(rand.New(rand.NewPCG(24, uint64(n)))))
		for key, text := range saidOfEach(t, o) {
			topic, _, _ := strings.Cut(key, " ")
			l := &listener{o: o}
			require.Empty(t, l.hear(topic, text), "study %d, %s: %s", n, key, text)
			heard[topic]++
			if at := digits.FindAllStringIndex(text, -1); len(at) > 0 {
				one := at[r.IntN(len(at))]
				v, _ := strconv.Atoi(text[one[0]:one[1]])
				faults++
				if l.hear(topic, text[:one[0]]+strconv.Itoa(v+1+r.IntN(3))+text[one[1]:]) != "" {
					found++
				}
			}
		}
	}
	for _, topic := range []string{"growth", "event", "forced", "beyond", "deeds", "field"} {
		assert.Greater(t, heard[topic], 10, topic)
	}
	assert.Greater(t, found*100, faults*90, "%d of %d changed numbers are found", found, faults)
}

// run is a run of values for which a text says who costs least.
type run struct {
	from, to int
	beside   string
}

var runs = regexp.MustCompile(`^(?:, |,? and )?(?:again )?(?:(up to) ([\d,]+)(?: contacts?)?|above ([\d,]+)(?: contacts?)?|from ([\d,]+) to ([\d,]+)(?: contacts?)?|at ([\d,]+)(?: contacts?)?|(at any number of contacts up to 4,000)|(in \d+ more places))(?: \(([^)]*)\))?`)

// runsIn reads where a text says that an option costs least, from 1 to 4,000 contacts; whole tells
// that it names them all.
func runsIn(text string) (all []run, whole bool) {
	whole = true
	for text != "" {
		m := runs.FindStringSubmatch(text)
		if m == nil {
			return nil, false
		}
		one := run{1, 4000, m[9]}
		switch {
		case m[1] != "":
			one.to = number(m[2])
		case m[3] != "":
			one.from = number(m[3]) + 1
		case m[4] != "":
			one.from, one.to = number(m[4]), number(m[5])
		case m[6] != "":
			one.from, one.to = number(m[6]), number(m[6])
		case m[8] != "":
			whole = false
			one.to = 0
		}
		if one.to > 0 {
			all = append(all, one)
		}
		text = text[len(m[0]):]
	}
	return all, whole
}

// Where each option is said to cost least along a driver it does, alone but for those named beside it,
// and every value is said once.
func TestWhoIsSaidToCostLeastAlongADriverDoes(t *testing.T) {
	r := rand.New(rand.NewPCG(24, 22))
	held, ties := 0, 0
	for n := range 400 {
		o := study.Compute(spoken(rand.New(rand.NewPCG(24, uint64(n)))))
		axes := o.Axes()
		if len(axes) == 0 || axes[0].Key != "contacts" {
			continue
		}
		along, err := o.Along(context.Background(), "contacts", 0, 1, 4000)
		require.NoError(t, err)
		l := &listener{o: o}
		values, complete := make([]int, 4001), true
		for _, w := range o.SayRegions(along.Regions, along.Driver, 1, 4000) {
			all, whole := runsIn(w.Text)
			require.NotEmpty(t, all, "study %d: %s", n, w.Text)
			complete = complete && whole
			for _, one := range all {
				for x := one.from; x <= one.to; x++ {
					values[x]++
				}
				for _, x := range []int{one.from, one.to, one.from + r.IntN(one.to-one.from+1)} {
					at := l.cheapestAt(x)
					switch {
					case w.Result < 0:
						require.Empty(t, at, "study %d at %d: %s", n, x, w.Text)
					case one.beside == "":
						require.Equal(t, []int{w.Result}, at, "study %d at %d: %s", n, x, w.Text)
					case strings.Contains(one.beside, "taking turns"):
						ties++
					default:
						require.Contains(t, at, w.Result, "study %d at %d: %s", n, x, w.Text)
						ties++
					}
					held++
				}
			}
		}
		for x := 1; x <= 4000 && complete; x++ {
			require.Equal(t, 1, values[x], "study %d at %d", n, x)
		}
	}
	assert.Greater(t, held, 1000)
	assert.Greater(t, ties, 50)
}

// What is said to come next on a plan does: at that reading the plan that is named costs so much more,
// and before it nothing does.
func TestTheNextStepOfAPriceComesWhereItIsSaid(t *testing.T) {
	held, moved := 0, 0
	for n := range 400 {
		s := spoken(rand.New(rand.NewPCG(24, uint64(n))))
		s.Pay = projection.Monthly
		for i := range s.Options {
			s.Options[i].Edition.Offers = nil
		}
		o := study.Compute(s)
		axis, _ := o.Axis("contacts")
		for i := range o.Results {
			for _, a := range o.Results[i].Next(0) {
				if a.Unit != "contact" {
					continue
				}
				at := int64(a.At.Ceil().Whole())
				prices, plans, err := o.PricesAt(context.Background(), i, axis, 0, []int64{100, at - 1, at})
				require.NoError(t, err)
				where := fmt.Sprintf("study %d, option %d, at %d", n, i, at)
				require.Equal(t, prices[0], prices[1], where)
				require.Equal(t, plans[0], plans[1], where)
				if a.To == "" {
					require.Nil(t, prices[2], where)
					continue
				}
				require.Equal(t, a.To, plans[2], where)
				require.Equal(t, a.Costs, *prices[2]-*prices[0], where)
				held++
				if a.Move {
					moved++
				}
			}
			if e, ok := o.Results[i].Entry(0); ok {
				plan := o.Results[i].Tools[0].Tool.Edition.Plans[slices.IndexFunc(o.Results[i].Tools[0].Tool.Edition.Plans, func(p pricelist.Plan) bool { return p.Name == e.Plan })]
				least := plan.Charges[0].Price.Usual
				if len(plan.Charges[0].Bands) > 0 {
					least = plan.Charges[0].Bands[0].Price.Usual
				}
				require.LessOrEqual(t, e.From, least)
				require.Equal(t, o.Results[i].Monthly(0), e.Pays)
				require.Less(t, e.From, e.Pays)
			}
		}
	}
	assert.Greater(t, held, 200)
	assert.Greater(t, moved, 20)
}

// What is said of chance is what the simulation came to: who costs least most often, how often, and within
// which amounts in eight paths of ten.
func TestWhatIsSaidOfChanceIsSo(t *testing.T) {
	words := regexp.MustCompile(places.Replace(`^Over {N} paths of growth {O} costs least in (none|all|under 1%|over 99%|\d+%) of them; it comes to {A}(?: to {A})? in eight of ten\.$`))
	heard, sure := 0, 0
	for n := 0; heard < 20; n++ {
		s := spoken(rand.New(rand.NewPCG(24, uint64(n))))
		if !s.Drivers[0].Path.High.Told() {
			continue
		}
		o := study.Compute(s)
		spread, err := o.Spread(context.Background(), nil)
		require.NoError(t, err)
		text := o.SaySpread(spread).String()
		m := words.FindStringSubmatch(text)
		if len(spread.Results) == 0 {
			continue
		}
		require.NotNil(t, m, "study %d: %s", n, text)
		heard++
		best := slices.IndexFunc(spread.Results, func(i int) bool { return o.Results[i].Option.Name == m[2] })
		one := &spread.Options[best]
		for k := range spread.Options {
			require.LessOrEqual(t, spread.Options[k].Least, one.Least, "study %d: %s", n, text)
		}
		require.Equal(t, spread.Paths, number(m[1]))
		require.True(t, comes(m[4], one.Total[0]) && (m[5] == "" || comes(m[5], one.Total[2])) && (m[5] != "" || one.Total[2]-one.Total[0] < 1_000_000), "study %d: %s of %v", n, text, one.Total)
		switch m[3] {
		case "all":
			require.GreaterOrEqual(t, one.Least, 1.0)
			sure++
		case "none", "under 1%", "over 99%":
		default:
			require.InDelta(t, one.Least*100, float64(number(strings.TrimSuffix(m[3], "%"))), 0.5001, text)
		}
	}
	assert.Positive(t, sure)
}
