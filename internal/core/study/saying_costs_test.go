package study_test

import (
	"fmt"
	"math/rand/v2"
	"regexp"
	"slices"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var (
	cheapestSaid = regexp.MustCompile(`^(\S+) is the cheapest way through all 6 months, at (\S+)\.`)
	levelSaid    = regexp.MustCompile(`^(.+) cost (?:nothing|least) over all 6 months`)
	onlySaid     = regexp.MustCompile(`^(\S+) is the only option( left in)?, at (\S+) over`)
)

// TestWhatIsSaidOfCostsHolds recomputes the claims of the sentence from the months, over options with fees at
// signing, years and lifetimes, of which some are level and some out.
func TestWhatIsSaidOfCostsHolds(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 4))
	every, level, only, turns := 0, 0, 0, 0
	for n := range 1_500 {
		var options []study.Option
		for i := range 1 + r.IntN(4) {
			o := option(fmt.Sprint("O", i), []int64{150, 9999}[min(1, r.IntN(5))], int64(r.IntN(4)*5), 9998+int64(r.IntN(2)), int64(r.IntN(6)*5))
			if r.IntN(3) == 0 {
				o.Edition.Plans[0].Charges[0].Bands = o.Edition.Plans[0].Charges[0].Bands[:1]
			}
			p := &o.Edition.Plans[0]
			if r.IntN(3) == 0 {
				p.Charges = append(p.Charges, pricelist.Charge{Key: "once", Label: "Set-up", Kind: pricelist.Once, Price: pricelist.Price{Usual: money.Units(int64(r.IntN(3) * 5))}})
			}
			switch r.IntN(4) {
			case 0:
				p.Terms = []pricelist.Term{{Key: "yearly", Months: 12, Paid: pricelist.Upfront, Off: 200_000}}
			case 1:
				p.Terms = append(p.Terms, pricelist.Term{Key: "life", Months: pricelist.Lifetime, Paid: pricelist.Upfront})
				p.Charges[0].Bands[0].Price.ByKey = map[string]money.Amount{"life": money.Units(int64(r.IntN(40)))}
			}
			options = append(options, o)
		}
		s := of(options...)
		s.Pay = []projection.Policy{projection.Monthly, projection.Yearly, projection.Mix}[r.IntN(3)]
		o := compute(t, s)
		said := o.SayCosts().String()
		var in []*study.Result
		least := money.Amount(1 << 60)
		for i := range o.Results {
			if res := &o.Results[i]; res.In() {
				in, least = append(in, res), min(least, res.Schedule.Total)
			}
		}
		var names []string
		for _, res := range in {
			if res.Schedule.Total == least {
				names = append(names, res.Option.Name)
			}
		}
		switch m := cheapestSaid.FindStringSubmatch(said); {
		case len(in) == 0:
			require.Contains(t, said, "No option serves")
		case len(in) == 1:
			only++
			m := onlySaid.FindStringSubmatch(said)
			require.NotNil(t, m, said)
			require.Equal(t, []string{in[0].Option.Name, eur.FormatWhole(least)}, []string{m[1], m[3]})
			require.Equal(t, len(o.Results) > 1, m[2] != "")
		case len(names) > 1:
			level++
			m := levelSaid.FindStringSubmatch(said)
			require.NotNil(t, m, said)
			for _, name := range names {
				require.Contains(t, m[1], name)
			}
		default:
			require.NotNil(t, m, said)
			require.Equal(t, []string{names[0], eur.FormatWhole(least)}, m[1:], said)
		}
		if regexp.MustCompile(`It costs least in every month`).MatchString(said) {
			every++
			for _, res := range in {
				for month := range s.Horizon {
					require.GreaterOrEqual(t, res.Schedule.Months[month].Accrued, o.Results[o.Cheapest].Schedule.Months[month].Accrued, "case %d: %s", n, said)
				}
			}
		} else if len(in) > 1 && len(names) == 1 {
			turns++
		}
	}
	assert.Greater(t, min(every, level, only, turns), 50, "%d %d %d %d", every, level, only, turns)
}

// Where a rate is missing that is what the events tell.
func TestAMissingRateIsTheReasonOfTheEvent(t *testing.T) {
	a, b := option("A", 9999, 10), option("B", 9999, 12)
	b.Edition.Currency = money.MustCurrency("GBP")
	for _, e := range compute(t, of(a, b)).Events() {
		assert.Equal(t, "has no price here: there is no rate from GBP to EUR", e.Say())
		assert.Equal(t, 1, e.Result)
	}
	assert.Equal(t, []string{"a seat", "an account", "an hour", "a unit"}, []string{study.AnyOne("seat"), study.AnyOne("account"), study.AnyOne("hour"), study.AnyOne("unit")})
}

// A list with a free plan begins there; one whose plan costs nothing only while nothing is used does not.
func TestAFreePlanIsWhereAListBegins(t *testing.T) {
	a := option("A", 9999, 10)
	big := a.Edition.Plans[0]
	big.Key, big.Name = "big", "Big"
	big.Charges = []pricelist.Charge{{Key: "base", Kind: pricelist.Stair, Meter: "contacts", Bands: []pricelist.Band{{To: usage.Of(50), Price: pricelist.Price{Usual: money.Units(5)}}, {To: usage.Of(9999), Price: pricelist.Price{Usual: money.Units(30)}}}}}
	a.Edition.Plans = []pricelist.Plan{{Key: "free", Name: "Free", Offered: pricelist.Public, Terms: big.Terms, Charges: []pricelist.Charge{{Key: "base", Kind: pricelist.Flat}},
		Limits: []pricelist.Limit{{Meter: "contacts", Most: usage.Of(20), Beyond: pricelist.MoveUp}}}, big}
	entry, ok := compute(t, of(a)).Results[0].Entry(0)
	require.True(t, ok)
	assert.Equal(t, "Free", entry.Free)
	assert.Equal(t, money.Units(5), entry.From)
	a.Edition.Plans[0].Charges = []pricelist.Charge{{Key: "unit", Kind: pricelist.Unit, Meter: "contacts", Each: 1, Price: pricelist.Price{Usual: money.Units(1)}}}
	entry, _ = compute(t, of(a)).Results[0].Entry(0)
	assert.Empty(t, entry.Free)
}

// What stands against a lower plan, or the price that a list begins with, is what stands against it beside
// the plan that is taken: not a must of which nobody knows on either, and not the way of paying.
func TestWhatIsNotKnownOfEitherIsNoReason(t *testing.T) {
	a := option("A", 150, 10, 9999, 40)
	low := &a.Edition.Plans[0]
	low.Terms = append(low.Terms, pricelist.Term{Key: "yearly", Months: 12, Paid: pricelist.Upfront, Off: 200_000})
	s := musts(of(a), "x/y")
	r := &compute(t, s).Results[0]
	entry, ok := r.Entry(0)
	require.True(t, ok)
	assert.Equal(t, "yearly", entry.Term.Key)
	assert.Empty(t, entry.Why, "nothing but the way of paying")
	assert.False(t, entry.Size)
	small := *low
	small.Key, small.Name = "small", "Small"
	small.Charges = []pricelist.Charge{{Key: "base", Kind: pricelist.Flat, Price: pricelist.Price{Usual: money.Units(3)}}}
	small.Limits = []pricelist.Limit{{Meter: "contacts", Most: usage.Of(50), Beyond: pricelist.MoveUp}}
	a.Edition.Plans = []pricelist.Plan{small, *low}
	r = &compute(t, musts(of(a), "x/y")).Results[0]
	entry, _ = r.Entry(0)
	require.Len(t, entry.Why, 1)
	assert.Equal(t, quote.PastLimit, entry.Why[0].Kind)
	a.Edition.Plans[1].Features = map[string]pricelist.Feature{"x/y": {Has: pricelist.Yes}}
	a.Edition.Plans[0].Features = map[string]pricelist.Feature{}
	r = &compute(t, musts(of(a), "x/y")).Results[0]
	prices := r.Prices()
	assert.Len(t, r.Tools[0].Against(&prices[0]), 2, "one that is known to meet it comes first")
}

// Growth is stated by a driver that moves, where contacts are not set; one that stands is said to.
func TestGrowthIsToldByWhatMoves(t *testing.T) {
	s := of()
	s.Drivers = []study.Setting{{Driver: "clients", Path: usage.Path{Now: usage.Of(1)}}, {Driver: "posts", Path: usage.Path{Now: usage.Of(60), Growth: 100_000}}}
	assert.Contains(t, compute(t, s).SayGrowth().String(), "As expected, posts go from 60 to ")
	s.Drivers = []study.Setting{{Driver: "clients", Path: usage.Path{Now: usage.Of(8), Growth: 50_000}}}
	s.Horizon = 9
	assert.Equal(t, "As expected, brands go from 8 to 12 by Sep 2027.", compute(t, s).SayGrowth().String(), "the highest is where it ends")
	s.Horizon = 6
	s.Drivers = []study.Setting{{Driver: "clients", Path: usage.Path{Now: usage.Of(1)}}}
	assert.Equal(t, "As expected, brands stay at 1 to Jun 2027.", compute(t, s).SayGrowth().String())
	s.Drivers = nil
	assert.Contains(t, compute(t, s).SayGrowth().String(), "No driver is set yet")
}

// What one of something costs on a plan that holds less than today's usage is that at what it holds.
func TestAUnitCostsWhatItDoesAtWhatThePlanHolds(t *testing.T) {
	a := option("A", 50, 10, 9999, 40)
	a.Edition.Plans[0].Charges = []pricelist.Charge{{Key: "base", Kind: pricelist.Flat, Price: pricelist.Price{Usual: money.Units(10)}}}
	a.Edition.Plans[0].Limits = []pricelist.Limit{{Meter: "contacts", Most: usage.Of(50), Beyond: pricelist.MoveUp}}
	big := a.Edition.Plans[0]
	big.Key, big.Name = "big", "Big"
	big.Limits = []pricelist.Limit{{Meter: "contacts", Most: usage.Of(5000), Beyond: pricelist.MoveUp}}
	a.Edition.Plans = append(a.Edition.Plans, big)
	ladder := compute(t, of(a)).Results[0].Ladder(0)
	assert.Equal(t, []study.UnitPrice{{Unit: "contact", Per: 1, Amount: 200_000, Full: true}}, ladder[0].Units, "10.00 for 50")
	assert.Equal(t, []study.UnitPrice{{Unit: "contact", Per: 1, Amount: 100_000}}, ladder[1].Units, "10.00 for 100")
}

func TestAValueIsToldWithWhatItCounts(t *testing.T) {
	s := of(option("A", 9999, 10))
	said := map[string]string{}
	for _, d := range usage.Catalogue() {
		said[d.Key] = s.SayValue(d, usage.Of(20))
	}
	assert.Equal(t, "20 contacts", said["contacts"])
	assert.Equal(t, "20 GB of storage", said["storage"])
	assert.Equal(t, "20 AI credits", said["ai_credits"])
	assert.Equal(t, "ad spend of €20.00", said["ad_spend"])
	assert.Equal(t, "cost of an hour of €20.00", said["hourly_cost"])
	overlap := usage.Catalogue()[slices.IndexFunc(usage.Catalogue(), func(d usage.Driver) bool { return d.Key == "list_overlap" })]
	assert.Equal(t, "list overlap of 18%", s.SayValue(overlap, usage.One*18/100))
	assert.Equal(t, "1 seat", s.SayValue(usage.Driver{Name: "Seats", Unit: "seat"}, usage.One))
}
