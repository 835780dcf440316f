package demo_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/feature"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/demo"
	"ninecoins/internal/formats"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// load reads the demo's study afresh, as of the day it was made for.
func load(t testing.TB) *study.Study { return loadOf(t, demo.Study()) }

func loadOf(t testing.TB, written []byte) *study.Study {
	t.Helper()
	editions := map[string]*pricelist.Edition{}
	for _, data := range demo.Shelf() {
		e, err := formats.ReadPriceList(t.Context(), data, time.Date(2026, 11, 24, 0, 0, 0, 0, time.UTC))
		require.NoError(t, err)
		editions[e.Platform.Key+e.ObservedOn.Format(time.DateOnly)] = e
	}
	s, err := formats.ReadStudy(t.Context(), written, time.Date(2026, 11, 24, 0, 0, 0, 0, time.UTC), func(key string, day time.Time) (*pricelist.Edition, bool) {
		e, ok := editions[key+day.Format(time.DateOnly)]
		return e, ok
	})
	require.NoError(t, err)
	s.Today = time.Date(2026, 11, 24, 0, 0, 0, 0, time.UTC)
	return s
}

func compute(t testing.TB, s *study.Study) *study.Outcome {
	t.Helper()
	o := study.Compute(s)
	require.Empty(t, o.Faults)
	return o
}

func result(t *testing.T, o *study.Outcome, key string) *study.Result {
	t.Helper()
	r, ok := o.Result(key)
	require.True(t, ok, key)
	return r
}

// spans writes months as runs of equal amounts: "12 x 161, 20 x 201".
func spans(r *study.Result) string {
	out, n := "", 0
	for t, m := range r.Schedule.Months {
		n++
		if t == len(r.Schedule.Months)-1 || r.Schedule.Months[t+1].Accrued != m.Accrued {
			out += fmt.Sprintf("%d x %s, ", n, m.Accrued)
			n = 0
		}
	}
	return out[:len(out)-2]
}

// The schedules below were worked out by hand from the price lists. Contacts
// in month t are 6400·1.02^t: they pass 7,000 in month 5, 8,000 in month 12,
// 10,000 in month 23 and 12,000 in month 32. Emails are 4.6 per contact: they
// pass 35,000 in month 9, 45,000 in 22, 50,000 in 27 and 55,000 in 32.
func TestSchedulesAgreeWithACalculationByHand(t *testing.T) {
	o := compute(t, load(t))
	for key, want := range map[string][2]string{
		// Bough: 149, 189 or 259 by contacts, and one seat past two at 12.
		"brindlepost": {"12 x 161, 20 x 201, 4 x 271", "7036"},
		// Leaflet 89, half of it for three months; Folio 155; Octavo 289.
		"quirebird": {"3 x 44.5, 2 x 89, 27 x 155, 4 x 289", "5652.5"},
		// In pounds at 1.17: Candle 79 + 2 seats at 9 = 97; Lantern 139, and 14 a pack.
		"fernwire": {"9 x 113.49, 13 x 162.63, 5 x 179.01, 5 x 195.39, 4 x 211.77", "5854.68"},
		// Tier B 159 + 2 seats at 6 while 6,400 contacts and 900 unsubscribed stay within 7,500; C 219; D 299.
		"tallowpost": {"2 x 171, 15 x 219, 19 x 299", "9308"},
	} {
		r := result(t, o, key)
		assert.Equal(t, want[0], spans(r), key)
		assert.Equal(t, want[1], r.Schedule.Total.String(), key)
	}
	// Osier Mail is paid by the year with 21% tax: 12 x 189 / 1.21 = 1874.38 (twice), 12 x 219 / 1.21 =
	// 2171.90. In month 23, the last of the second year, contacts pass 10,000: that month is
	// 2171.90 - 2171.90 x 11/12 = 180.99 in place of 1874.38 - 1718.18 = 156.20.
	osier := result(t, o, "osier-mail")
	assert.Equal(t, "5945.45", osier.Schedule.Total.String()) // 1874.38 + 1718.18 + 180.99 + 2171.90
	assert.Equal(t, "180.99", osier.Schedule.Months[23].Accrued.String())
	assert.Equal(t, "1874.38", osier.Schedule.Months[12].Cash.String())
	assert.Equal(t, "24.79", osier.Schedule.Months[23].Cash.String()) // (2171.90 - 1990.91) - (1874.38 - 1718.18)
	assert.Equal(t, "2171.9", osier.Schedule.Months[24].Cash.String())
}

func TestYearlyReceiptsAgreeWithACalculationByHand(t *testing.T) {
	s := load(t)
	s.Pay = projection.Yearly
	o := compute(t, s)
	bill := func(key string, month int) string {
		return result(t, o, key).Schedule.Months[month].Receipt().Settled.String()
	}
	assert.Equal(t, "1633.8", bill("brindlepost", 0))  // 12 x 149 less 15% = 1519.80, and 12 x 9.50
	assert.Equal(t, "2041.8", bill("brindlepost", 12)) // 12 x 189 less 15% = 1927.80, and 114
	assert.Equal(t, "854.4", bill("quirebird", 0))     // 12 x 89 less 20%
	assert.Equal(t, "1225.69", bill("fernwire", 0))    // (12 x 79 + 12 x 18) less 10% = 1047.60 pounds x 1.17 = 1225.692
	assert.Equal(t, "1846.8", bill("tallowpost", 0))   // (12 x 159 + 12 x 12) less 10%
	assert.Equal(t, "136.15", result(t, o, "brindlepost").Schedule.Months[0].Accrued.String())
}

// TestEveryFigureAgreesWithItsReceipt walks all options, months and billings:
// the lines add up to the bill, the bill's shares to the months, the months to
// the total.
func TestEveryFigureAgreesWithItsReceipt(t *testing.T) {
	for _, pay := range []projection.Policy{projection.Monthly, projection.Yearly} {
		s := load(t)
		s.Pay = pay
		for _, r := range compute(t, s).Results {
			var accrued, cash, lines money.Amount
			for i, m := range r.Schedule.Months {
				require.True(t, m.Serves)
				lines = 0
				for _, l := range m.Receipt().Lines {
					lines += l.Amount
				}
				require.Equal(t, m.Receipt().Bill+m.Receipt().Used, lines, "%s, month %d", r.Option.Name, i)
				if m.Receipt().Period == 1 {
					require.Equal(t, m.Receipt().Settled+m.Receipt().AsYou, m.Accrued)
				}
				accrued, cash = accrued+m.Accrued, cash+m.Cash
			}
			assert.Equal(t, r.Schedule.Total, accrued, r.Option.Name)
			assert.Equal(t, r.Schedule.Total, cash, r.Option.Name)
		}
	}
}

func TestTheSentencesSayWhatWasComputed(t *testing.T) {
	o := compute(t, load(t))
	assert.Equal(t, "Quirebird is the cheapest way through all 36 months, at €5,653. From Jun 2027 Fernwire costs less each month, until Sep 2027; then it moves to Lantern, as emails pass 35,000. The cheapest changes 3 times in all.", o.SayCosts().String())
	assert.Equal(t, "Pick Brindlepost on Bough, paid monthly. It meets every must, leads on automation depth and trade-buyer lists, and costs €1,384 more than the cheapest, Quirebird, over 36 months.", o.SayVerdict().String())
	assert.Equal(t, "Next is Fernwire, 0.6 behind on fit; it scores higher on cost over the horizon and help when stuck and costs €1,181 less.", o.SayNext().String())
	assert.Equal(t, "Brindlepost leads on fit with 6.9 of 9 to 6.3 for Fernwire. Automation depth carries the most of it, 2.0 points.", o.SayScores().String())
	assert.Equal(t, "4 of 5 options can meet all 3 musts. Event triggers is what pushes Brindlepost to Bough; without it Sprig would do and save €63.00 a month.", o.SayCoverage().String())
	assert.Equal(t, "As expected, contacts go from 6,400 to 12,800 by Dec 2029. Slow growth ends at 9,386, fast growth ends at 16,825.", o.SayGrowth().String())
	assert.Equal(t, "In Jan 2027 the plans with everything you must have cost from €44.50 a month (Quirebird on Leaflet) to €161.00 (Brindlepost on Bough). Quirebird costs €44.50 for 3 months, then €89.00.", o.SayPrices().String())
	named := load(t)
	for i := range named.Options {
		if named.Options[i].Key == "brindlepost" {
			named.Options[i].Name = "Brindlepost, Bough"
		}
	}
	assert.Contains(t, compute(t, named).SayPrices().String(), "to €161.00 (Brindlepost, Bough).", "a plan that the name tells is not told twice")
	events := map[string]bool{}
	for _, e := range o.Events() {
		events[o.Study.Month(e.Month).String()+" "+o.Results[e.Result].Option.Name+" "+e.Say()] = true
	}
	for _, want := range []string{"Jun 2027 Quirebird moves to Folio: contacts pass 7,000", "Jan 2028 Brindlepost on Bough: contacts pass 8,000",
		"Oct 2027 Fernwire moves to Lantern: emails pass 35,000", "Sep 2029 Osier Mail now costs least each month", "Apr 2027 Quirebird on Leaflet: the offer “Half-price start” ends"} {
		assert.True(t, events[want], want)
	}
}

func TestWhatRunsTodayIsOutButCosted(t *testing.T) {
	r := result(t, compute(t, load(t)), "tallowpost")
	assert.Equal(t, []string{"no trade-buyer lists"}, r.Standing.Out)
	assert.True(t, r.Schedule.Serves())
	assert.Zero(t, r.Standing.Place)
}

func TestOneChangedNumberMovesEverything(t *testing.T) {
	s := load(t)
	s.Drivers[0].Path.Now = usage.Of(16_000)
	o := compute(t, s)
	r := result(t, o, "quirebird")
	assert.Equal(t, []string{"from Sep 2029: contacts pass 30,000 on Octavo, above which the price is on request"}, r.Standing.Out)
	assert.NotEqual(t, "Quirebird", o.Results[o.Cheapest].Option.Name)
	assert.NotContains(t, o.SayLeads(), "Quirebird", "what is out leads nothing")
	for i := range s.Criteria {
		s.Criteria[i].Weight = 0
	}
	o = study.Compute(s)
	assert.Equal(t, []study.Fault{{At: "criteria", Text: fit.ErrWeights.Error() + "; give one of them a weight"}}, o.Faults)
	assert.Contains(t, o.SayVerdict().String(), "There is no pick yet.")
	assert.Positive(t, o.Results[0].Schedule.Total, "costs are told all the same")
}

// TestWhatIsAtFaultIsToldAtItsPlaceAndTheRestGoesOn spoils the demo in many ways,
// also several at once, and says every sentence of what is left.
func TestWhatIsAtFaultIsToldAtItsPlaceAndTheRestGoesOn(t *testing.T) {
	spoils := map[string]func(*study.Study){
		"months: 0 months are not between 1 and 120": func(s *study.Study) { s.Horizon = 0 },
		"drivers.contacts.growth: Contacts in ": func(s *study.Study) {
			s.Drivers[0].Path = usage.Path{Now: usage.Of(1_000_000_000), Growth: money.Whole}
		},
		"own_drivers.a.formula: A: ":           func(s *study.Study) { s.Own = append(s.Own, usage.Driver{Key: "a", Name: "A", Formula: "a+1"}) },
		"own_drivers.b.formula: B: ":           func(s *study.Study) { s.Own = append(s.Own, usage.Driver{Key: "b", Name: "B", Formula: "pigeons*2"}) },
		"drivers.pigeons.now: pigeons: is unk": func(s *study.Study) { s.Drivers = append(s.Drivers, study.Setting{Driver: "pigeons"}) },
		"criteria: at least one criterion":     func(s *study.Study) { s.Criteria = slices.Clone(s.Criteria); weighNothing(s.Criteria) },
		"criteria.cost.worst: the worst cost":  func(s *study.Study) { s.Criteria = slices.Clone(s.Criteria); s.Criteria[0].Best = money.Units(20_000) },
		"options.osier-mail.face: two":         func(s *study.Study) { s.Options = slices.Clone(s.Options); s.Options[0].Face = s.Options[1].Face },
	}
	told := func(o *study.Outcome) string {
		var all []string
		for _, f := range o.Faults {
			all = append(all, string(f.At)+": "+f.Text)
		}
		for _, p := range []study.Phrase{o.SayVerdict(), o.SayNext(), o.SayCosts(), o.SayScores(), o.SayGrowth(), o.SayCoverage(), o.SayPrices()} {
			assert.NotContains(t, p.String(), "%!")
		}
		_ = o.Facts()
		return strings.Join(all, "\n")
	}
	everything := load(t)
	for want, spoil := range spoils {
		s := load(t)
		spoil(s)
		o := study.Compute(s)
		assert.Contains(t, told(o), want)
		assert.Len(t, o.Results, 5, want)
		spoil(everything)
	}
	all := told(study.Compute(everything))
	for want := range spoils {
		if !strings.HasPrefix(want, "drivers.contacts") { // in one month it grows past nothing
			assert.Contains(t, all, want)
		}
	}

	// What a driver at fault feeds has no costs; what it does not feed goes on.
	s := load(t)
	spoils["drivers.contacts.growth: Contacts in "](s)
	o := study.Compute(s)
	for _, r := range o.Results {
		assert.True(t, r.AtFault, r.Option.Key)
		assert.Contains(t, r.Standing.Out, "it cannot be computed", r.Option.Key)
		assert.NotEmpty(t, r.Coverage, r.Option.Key)
	}
	assert.Contains(t, o.Broken, "emails_sent")
	assert.NotContains(t, o.Broken, "seats")
}

func weighNothing(criteria []fit.Criterion) {
	for i := range criteria {
		criteria[i].Weight = 0
	}
}

func TestThinStudiesAreComputedToo(t *testing.T) {
	s := load(t)
	s.Options, s.Ratings = nil, nil
	o := compute(t, s)
	assert.Contains(t, o.SayVerdict().String(), "The line-up is empty")
	assert.Contains(t, o.SayCosts().String(), "the line-up is empty")
	s = load(t)
	s.Criteria, s.Ratings, s.Needs = nil, nil, nil
	o = compute(t, s)
	assert.Contains(t, o.SayVerdict().String(), "No criteria")
	assert.Contains(t, o.SayCoverage().String(), "No needs")
	s = load(t)
	s.Drivers = nil
	o = compute(t, s)
	assert.Contains(t, o.SayGrowth().String(), "No driver is set yet")
	assert.Contains(t, o.Unset, "contacts")
	s = load(t)
	s.Horizon, s.Pay = 7, projection.Yearly
	o = compute(t, s)
	assert.Positive(t, result(t, o, "brindlepost").Schedule.Beyond, "a year that outlives the horizon is told")
	s = load(t)
	s.Rates = map[string]quote.Rate{}
	assert.Contains(t, result(t, compute(t, s), "fernwire").Standing.Out[0], "no rate from GBP to EUR")
}

func TestCoinsFillByTheirRules(t *testing.T) {
	s := load(t)
	coins := compute(t, s).Coins
	assert.Equal(t, "1 to re-check", coins[3].Fact)
	assert.InDelta(t, 0.8, coins[3].Fill, 1e-9)
	assert.InDelta(t, 24.0/25, coins[7].Fill, 1e-9)
	assert.Zero(t, coins[6].Fill)
	assert.InDelta(t, 0.5, coins[8].Fill, 1e-9, "a pick that nobody has agreed to yet")
	assert.Equal(t, "to be agreed", coins[8].Fact)
	s.Today = s.Today.AddDate(1, 0, 0)
	assert.Zero(t, compute(t, s).Coins[3].Fill, "a year on, every list is stale")
}

// BenchmarkCompute works the demo out, and the same lists as 12 options over 120
// months, paid in each way.
func BenchmarkCompute(b *testing.B) {
	s := load(b)
	large := *s
	large.Horizon, large.Options = study.MostMonths, nil
	for i := range 12 {
		o := s.Options[i%len(s.Options)]
		o.Key, o.Face, o.Now = fmt.Sprint(o.Key, i), i+1, false
		large.Options = append(large.Options, o)
	}
	mix := large
	mix.Pay = projection.Mix
	for name, s := range map[string]*study.Study{"demo": s, "12x120": &large, "12x120-mix": &mix} {
		b.Run(name, func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				study.Compute(s)
			}
		})
	}
}

// The whole demo: every study computes, names features of the catalogue, and comes to a
// verdict; every category of work has platforms, with grids that are filled.
func TestTheWholeDemoIsSound(t *testing.T) {
	day := time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC)
	lists, does := map[string]*pricelist.Edition{}, map[string]int{}
	for _, data := range demo.Shelf() {
		e, err := formats.ReadPriceList(t.Context(), data, day)
		require.NoError(t, err)
		lists[e.Platform.Key+e.ObservedOn.Format(time.DateOnly)] = e
		assert.NotEmpty(t, e.Platform.About, e.Platform.Key)
		for _, one := range e.Platform.Does {
			does[one]++
		}
		assert.GreaterOrEqual(t, len(e.Plans[0].Features), 45, "%s has a grid", e.Platform.Key)
		for _, p := range e.Plans {
			for key := range p.Features {
				_, known := (*feature.Catalogue)(nil).Find(key)
				assert.True(t, known, "%s: %s is no feature of the catalogue", e.Platform.Key, key)
			}
		}
	}
	assert.GreaterOrEqual(t, len(lists), 16)
	for _, one := range pricelist.Categories {
		assert.Positive(t, does[one], one)
	}
	for _, one := range []string{"email", "newsletter", "crm", "search", "automation", "social"} {
		assert.GreaterOrEqual(t, does[one], 2, one)
	}
	stacks, pinned, aside := 0, 0, 0
	for _, data := range demo.Studies() {
		s, err := formats.ReadStudy(t.Context(), data, day, func(platform string, on time.Time) (*pricelist.Edition, bool) {
			e, ok := lists[platform+on.Format(time.DateOnly)]
			return e, ok
		})
		require.NoError(t, err)
		s.Today = day
		o := study.Compute(s)
		assert.Empty(t, o.Faults, s.Key)
		assert.GreaterOrEqual(t, o.Pick.First, 0, s.Key)
		assert.NotContains(t, o.SayVerdict().String(), "  ", s.Key)
		for i := range s.Reasons {
			assert.NotContains(t, o.SayReason(&s.Reasons[i]), "any more", s.Key)
		}
		for i := range o.Results {
			stacks += len(o.Results[i].Tools) - 1
			if o.Results[i].Option.Plan != "" {
				pinned++
			}
		}
		aside += len(s.SetAside())
	}
	assert.GreaterOrEqual(t, stacks, 4)
	assert.GreaterOrEqual(t, pinned, 3)
	assert.Positive(t, aside)
}

// The demo's lists hold at least twelve of the shapes that prices come in.
func TestTheDemoHoldsManyShapesOfPrices(t *testing.T) {
	charge := func(is func(c *pricelist.Charge) bool) func(*pricelist.Edition) bool {
		return func(e *pricelist.Edition) bool {
			return slices.ContainsFunc(e.Plans, func(p pricelist.Plan) bool {
				return slices.ContainsFunc(p.Charges, func(c pricelist.Charge) bool { return is(&c) })
			})
		}
	}
	limit := func(is func(p *pricelist.Plan, l *pricelist.Limit) bool) func(*pricelist.Edition) bool {
		return func(e *pricelist.Edition) bool {
			return slices.ContainsFunc(e.Plans, func(p pricelist.Plan) bool {
				return slices.ContainsFunc(p.Limits, func(l pricelist.Limit) bool { return is(&p, &l) })
			})
		}
	}
	counts := func(formula string) func(*pricelist.Edition) bool {
		return func(e *pricelist.Edition) bool {
			return slices.ContainsFunc(e.Meters, func(m pricelist.Meter) bool { return m.Counts.String() == formula })
		}
	}
	shapes := map[string]func(*pricelist.Edition) bool{
		"contact bands with a table per plan": charge(func(c *pricelist.Charge) bool { return c.Kind == pricelist.Stair && len(c.Bands) > 2 }),
		"per seat with a minimum":             charge(func(c *pricelist.Charge) bool { return c.Kind == pricelist.Unit && c.AtLeast >= usage.Of(2) }),
		"seats included, then a price":        charge(func(c *pricelist.Charge) bool { return c.Meter == "seats" && c.Included > 0 }),
		"cheaper from the eleventh on":        charge(func(c *pricelist.Charge) bool { return c.Kind == pricelist.Graduated }),
		"packs":                               charge(func(c *pricelist.Charge) bool { return c.Kind == pricelist.Pack }),
		"a share of money with a floor":       charge(func(c *pricelist.Charge) bool { return c.Kind == pricelist.Share && c.Floor > 0 }),
		"a move that is free on yearly terms": charge(func(c *pricelist.Charge) bool { return c.Kind == pricelist.Once && len(c.WaivedOn) > 0 }),
		"click bands, on request above": charge(func(c *pricelist.Charge) bool {
			return c.Meter == "clicks" && c.Kind == pricelist.Stair && c.Above == nil
		}),
		"per task with bands":        charge(func(c *pricelist.Charge) bool { return c.Meter == "tasks" && c.Kind == pricelist.Stair }),
		"sends capped at a multiple": limit(func(_ *pricelist.Plan, l *pricelist.Limit) bool { return l.OfMeter != "" }),
		"keywords and pages as limits only": limit(func(p *pricelist.Plan, l *pricelist.Limit) bool {
			return l.Meter == "pages" && p.Charges[0].Kind == pricelist.Flat
		}),
		"a free plan with caps": limit(func(p *pricelist.Plan, _ *pricelist.Limit) bool {
			return p.Charges[0].Kind == pricelist.Flat && p.Charges[0].Price.Usual == 0
		}),
		"counted once per list":           counts("contacts * (1 + list_overlap)"),
		"those who left are counted, too": counts("contacts + unsubscribed"),
		"lifetime beside monthly": func(e *pricelist.Edition) bool {
			return slices.ContainsFunc(e.Plans, func(p pricelist.Plan) bool { _, ok := p.Term("lifetime"); return ok })
		},
		"half price for good": func(e *pricelist.Edition) bool {
			return slices.ContainsFunc(e.Offers, func(o pricelist.Offer) bool { return o.Months == 0 && o.Kind == pricelist.PercentOff })
		},
		"an offer for some months": func(e *pricelist.Edition) bool {
			return slices.ContainsFunc(e.Offers, func(o pricelist.Offer) bool { return o.Months > 0 })
		},
		"add-ons included higher up": func(e *pricelist.Edition) bool {
			return slices.ContainsFunc(e.AddOns, func(a pricelist.AddOn) bool { return len(a.IncludedOn) > 0 })
		},
	}
	require.GreaterOrEqual(t, len(shapes), 12)
	var lists []*pricelist.Edition
	for _, file := range demo.Newest() {
		e, err := formats.ReadPriceList(t.Context(), file, time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC))
		require.NoError(t, err)
		lists = append(lists, e)
	}
	for name, is := range shapes {
		assert.True(t, slices.ContainsFunc(lists, is), name)
	}
}
