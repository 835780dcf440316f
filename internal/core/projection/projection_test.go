package projection_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var eur = money.MustCurrency("EUR")

func amount(s string) money.Amount {
	a, err := money.ParseAmount(s)
	if err != nil {
		panic(err)
	}
	return a
}

func stair(pairs ...any) pricelist.Charge {
	ch := pricelist.Charge{Key: "base", Kind: pricelist.Stair, Meter: "contacts"}
	for i := 0; i < len(pairs); i += 2 {
		ch.Bands = append(ch.Bands, pricelist.Band{To: usage.Of(int64(pairs[i].(int))), Price: pricelist.Price{Usual: amount(pairs[i+1].(string))}})
	}
	return ch
}

var bothTerms = []pricelist.Term{{Key: "monthly", Months: 1}, {Key: "yearly", Months: 12, Paid: pricelist.Upfront}}

// ladder is a list of two plans: Low up to 200 contacts, High up to 1,000.
func ladder() *pricelist.Edition {
	return &pricelist.Edition{Platform: pricelist.Platform{Name: "Madder"}, Currency: eur,
		Meters: []pricelist.Meter{{Key: "contacts", Unit: "contact", Kind: usage.Stock}, {Key: "sends", Unit: "email", Kind: usage.Flow}},
		Plans: []pricelist.Plan{
			{Key: "low", Name: "Low", Offered: pricelist.Public, Terms: bothTerms, Charges: []pricelist.Charge{stair(100, "10", 200, "20")}},
			{Key: "high", Name: "High", Offered: pricelist.Public, Terms: bothTerms, Charges: []pricelist.Charge{stair(500, "50", 1000, "60")}}}}
}

func readings(contacts ...int64) []quote.Readings {
	var all []quote.Readings
	for _, c := range contacts {
		all = append(all, quote.Readings{"contacts": usage.Of(c), "sends": usage.Of(c * 4)})
	}
	return all
}

func project(t *testing.T, e *pricelist.Edition, p projection.Policy, contacts ...int64) projection.Schedule {
	t.Helper()
	s, err := projection.Project(projection.Candidate{Edition: e, Readings: readings(contacts...), Policy: p, Basis: quote.Basis{Currency: eur}})
	require.NoError(t, err)
	return s
}

// tell writes a schedule as a line: plan and accrued amount of each month.
func tell(s projection.Schedule) string {
	out := ""
	for _, m := range s.Months {
		if !m.Serves {
			out += "- "
			continue
		}
		out += fmt.Sprintf("%s:%s ", m.Plan().Key, m.Accrued)
	}
	return out
}

func year(levels map[int]int64) []int64 {
	out := make([]int64, 12)
	level := int64(0)
	for t := range out {
		if l, ok := levels[t]; ok {
			level = l
		}
		out[t] = level
	}
	return out
}

func TestMonthlyTakesTheCheapestPlanThatServes(t *testing.T) {
	s := project(t, ladder(), projection.Monthly, 90, 100, 101, 201, 501, 150)
	assert.Equal(t, "low:10 low:10 low:20 high:50 high:60 low:20 ", tell(s))
	var why []string
	for _, step := range s.Steps {
		why = append(why, fmt.Sprintf("%d %s %s: %s", step.Month, step.To.Key, step.Delta, step.Why()))
	}
	assert.Equal(t, []string{"2 low 10: contacts pass 100", "3 high 30: contacts pass 200", "4 high 10: contacts pass 500",
		"5 low -40: €30.00 a month less than staying on High"}, why)
}

func TestWithinAYearStocksRatchetAndDearerLevelsArePaidForTheRest(t *testing.T) {
	// 10 a month; from month 4 contacts pass 100 and stay billed at 20 though they fall back.
	s := project(t, ladder(), projection.Yearly, year(map[int]int64{0: 90, 4: 150, 6: 50})...)
	assert.Equal(t, "low:10 low:10 low:10 low:10 low:20 low:20 low:20 low:20 low:20 low:20 low:20 low:20 ", tell(s))
	assert.Equal(t, "120", s.Months[0].Cash.String())
	assert.Equal(t, "80", s.Months[4].Cash.String(), "eight months at 20, with credit for eight at 10")
	assert.Equal(t, "200", s.Total.String())
	require.Len(t, s.Steps, 1)
	assert.Equal(t, "contacts pass 100", s.Steps[0].Why())
}

func TestWithinAYearOneMovesUpButNotDown(t *testing.T) {
	contacts := append(year(map[int]int64{0: 90, 6: 300, 8: 90}), 90)
	s := project(t, ladder(), projection.Yearly, contacts...)
	assert.Equal(t, "low:10 low:10 low:10 low:10 low:10 low:10 high:50 high:50 high:50 high:50 high:50 high:50 low:10 ", tell(s))
	assert.Equal(t, "240", s.Months[6].Cash.String())
	assert.Equal(t, "contacts pass 200", s.Steps[0].Why())
	assert.Contains(t, s.Steps[1].Why(), "less than staying on High")
	assert.Equal(t, "110", s.Beyond.String(), "eleven months of the second year lie past the horizon")
	assert.Equal(t, "120", s.Months[12].Cash.String(), "paid in full, of which one month counts")
	assert.Equal(t, "110", s.Ahead.String())
}

func TestPlansSoldOnlyByTheYearAreTakenByTheYear(t *testing.T) {
	e := ladder()
	e.Plans = e.Plans[:1]
	e.Plans[0].Terms = bothTerms[1:]
	s := project(t, e, projection.Monthly, 90, 90)
	assert.Equal(t, "20", s.Total.String())
	assert.Equal(t, "100", s.Beyond.String())
	assert.Equal(t, "yearly", s.Months[0].Term().Key)
}

func TestTermsPaidMonthlyRatchetToo(t *testing.T) {
	e := ladder()
	for i := range e.Plans {
		e.Plans[i].Terms = []pricelist.Term{{Key: "bound", Months: 12, Paid: pricelist.Monthly}}
	}
	s := project(t, e, projection.Yearly, year(map[int]int64{0: 150, 2: 50})...)
	assert.Equal(t, "240", s.Total.String())
	assert.Equal(t, "20", s.Months[5].Cash.String())
	assert.Zero(t, s.Beyond)
}

func TestMonthsThatNothingServesAreTold(t *testing.T) {
	s := project(t, ladder(), projection.Monthly, 90, 1001, 90)
	assert.Equal(t, "low:10 - low:10 ", tell(s))
	assert.False(t, s.Serves())
	assert.Equal(t, 1, s.Fails)
	assert.Equal(t, "contacts pass 1,000, above which the price is on request", s.Misses[0].Reasons[0].String())
}

func TestAQuestionIsTakenOnlyWhereNothingIsKnownToServe(t *testing.T) {
	e := ladder()
	c := projection.Candidate{Edition: e, Readings: readings(90), Policy: projection.Monthly, Basis: quote.Basis{Currency: eur}, Musts: []string{"a/b"}}
	s, err := projection.Project(c)
	require.NoError(t, err)
	assert.Equal(t, "low:10 ", tell(s))
	assert.Equal(t, "b not yet known", s.Questions[0].String())
	e.Plans[1].Features = map[string]pricelist.Feature{"a/b": {Has: pricelist.Yes}}
	s, err = projection.Project(c)
	require.NoError(t, err)
	assert.Equal(t, "high:50 ", tell(s))
	assert.Empty(t, s.Questions)
}

func TestPacksAndOffersMakeSteps(t *testing.T) {
	e := ladder()
	e.Plans = e.Plans[:1]
	e.Plans[0].Charges = []pricelist.Charge{{Key: "p", Kind: pricelist.Pack, Meter: "sends", Included: usage.Of(100), Size: usage.Of(50), Price: pricelist.Price{Usual: amount("7")}},
		{Key: "f", Kind: pricelist.Flat, Price: pricelist.Price{Usual: amount("30")}}}
	e.Offers = []pricelist.Offer{{Key: "hello", Plans: []string{"low"}, Kind: pricelist.PercentOff, Off: 500_000, Months: 2}}
	s := project(t, e, projection.Monthly, 20, 26, 26, 39, 20)
	assert.Equal(t, "low:15 low:18.5 low:37 low:44 low:30 ", tell(s))
	var why []string
	for _, step := range s.Steps {
		why = append(why, step.Why())
	}
	assert.Equal(t, []string{"emails pass 100, pack 1 begins", `the offer “50% off” ends`, "emails pass 150, pack 2 begins", "emails need 2 fewer packs"}, why)
}

// TestTheThreeViewsAgree holds for any path and any prices: accrued, running
// and cash come to the same total, to the cent.
func TestTheThreeViewsAgree(t *testing.T) {
	random := rand.New(rand.NewPCG(27, 1))
	for range 400 {
		e := ladder()
		for i := range e.Plans {
			e.Plans[i].Charges[0].Bands[0].Price.Usual = money.Amount(random.Int64N(90_000_000))
			e.Plans[i].Charges[0].Bands[1].Price.Usual = money.Amount(random.Int64N(190_000_000))
			e.Plans[i].Charges = append(e.Plans[i].Charges, pricelist.Charge{Key: "s", Kind: pricelist.Unit, Meter: "sends", Price: pricelist.Price{Usual: 3_333}})
		}
		e.Tax = pricelist.Tax{Included: random.IntN(2) == 0, Rate: 210_000}
		contacts := make([]int64, 1+random.IntN(60))
		for i := range contacts {
			contacts[i] = random.Int64N(1000)
		}
		policy := []projection.Policy{projection.Monthly, projection.Yearly}[random.IntN(2)]
		s := project(t, e, policy, contacts...)
		require.True(t, s.Serves())
		var accrued, cash money.Amount
		for _, m := range s.Months {
			accrued += m.Accrued
			cash += m.Cash
			require.Equal(t, accrued, m.Running)
			require.Zero(t, m.Accrued%10_000, "whole cents")
		}
		require.Equal(t, s.Total, accrued)
		require.Equal(t, s.Total+s.Ahead, cash, "%s over %d months", policy, len(contacts))
		require.GreaterOrEqual(t, s.Beyond, money.Amount(0))
	}
}

// TestMonthlyAgreesWithTryingEverything compares with a search by hand through
// all plans in every month.
func TestMonthlyAgreesWithTryingEverything(t *testing.T) {
	e := ladder()
	contacts := []int64{0, 99, 100, 101, 199, 200, 201, 499, 500, 501, 999, 1000}
	s := project(t, e, projection.Monthly, contacts...)
	for i, c := range contacts {
		least := money.Amount(-1)
		for _, p := range e.Plans {
			for _, b := range p.Charges[0].Bands {
				if usage.Of(c) <= b.To && (least < 0 || b.Price.Usual < least) {
					least = b.Price.Usual
				}
			}
		}
		assert.Equal(t, least, s.Months[i].Accrued, "%d contacts", c)
	}
}

func TestYenAreSpreadInWholeYen(t *testing.T) {
	yen := money.MustCurrency("JPY")
	e := ladder()
	e.Currency, e.Plans = yen, e.Plans[:1]
	e.Plans[0].Charges = []pricelist.Charge{{Key: "f", Kind: pricelist.Flat, Price: pricelist.Price{Usual: amount("100")}}}
	e.Plans[0].Terms = []pricelist.Term{{Key: "yearly", Months: 12, Paid: pricelist.Upfront, Off: 123_400}}
	s, err := projection.Project(projection.Candidate{Edition: e, Readings: readings(year(map[int]int64{0: 1})...), Policy: projection.Yearly, Basis: quote.Basis{Currency: yen}})
	require.NoError(t, err)
	assert.Equal(t, "1052", s.Total.String()) // 1200 x 0.8766 = 1051.92
	for _, m := range s.Months {
		assert.Zero(t, m.Accrued%money.Scale)
	}
}

func TestExistingCustomersGetNoFirstMonths(t *testing.T) {
	e := ladder()
	e.Offers = []pricelist.Offer{{Key: "hello", Plans: []string{"low"}, Kind: pricelist.FreeMonths, Months: 1}}
	s, err := projection.Project(projection.Candidate{Edition: e, Readings: readings(90), Policy: projection.Monthly, Basis: quote.Basis{Currency: eur}, Customer: quote.Customer{Here: true}})
	require.NoError(t, err)
	assert.Equal(t, "10", s.Total.String())
	assert.Equal(t, "0", project(t, e, projection.Monthly, 90).Total.String())
}
