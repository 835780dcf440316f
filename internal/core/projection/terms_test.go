package projection_test

import (
	"fmt"
	"testing"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var (
	monthly = pricelist.Term{Key: "monthly", Months: 1, Paid: pricelist.Upfront}
	yearly  = pricelist.Term{Key: "yearly", Months: 12, Paid: pricelist.Upfront}
	bound   = pricelist.Term{Key: "bound", Months: 12, Paid: pricelist.Monthly}
	twoYear = pricelist.Term{Key: "two-years", Months: 24, Paid: pricelist.Upfront, Off: 10_000}
	forLife = pricelist.Term{Key: "life", Months: pricelist.Lifetime, Paid: pricelist.Upfront}
)

// sold is the ladder with terms of its own for each plan.
func sold(low, high []pricelist.Term) *pricelist.Edition {
	e := ladder()
	e.Plans[0].Terms, e.Plans[1].Terms = low, high
	return e
}

func flat(price string) []pricelist.Charge {
	return []pricelist.Charge{{Key: "f", Kind: pricelist.Flat, Price: pricelist.Price{Usual: amount(price)}}}
}

// books looks at a schedule from all sides.
func books(t *testing.T, s projection.Schedule) (accrued, cash string) {
	t.Helper()
	var a, c money.Amount
	for _, m := range s.Months {
		a, c = a+m.Accrued, c+m.Cash
		assert.GreaterOrEqual(t, m.Cash, money.Amount(0))
		assert.Equal(t, a, m.Running)
	}
	assert.Equal(t, s.Total, a)
	assert.Equal(t, s.Total+s.Ahead, c)
	return a.String(), c.String()
}

func TestATermIsLeftForAPlanThatIsNotSoldOnIt(t *testing.T) {
	e := sold([]pricelist.Term{yearly}, []pricelist.Term{monthly})
	s := project(t, e, projection.Monthly, year(map[int]int64{0: 150, 6: 300})...)
	assert.True(t, s.Serves())
	assert.Equal(t, "low:20 low:20 low:20 low:20 low:20 low:20 high:170 high:50 high:50 high:50 high:50 high:50 ", tell(s))
	assert.Equal(t, "120", s.Months[6].Lost.String(), "six months at 20 were paid ahead")
	assert.Equal(t, "contacts pass 200, €120.00 paid ahead is lost", s.Steps[0].Why())
	books(t, s)
}

func TestARunningTermKeepsItsKind(t *testing.T) {
	e := sold([]pricelist.Term{bound, yearly}, []pricelist.Term{bound, yearly})
	e.Plans[0].Charges[0].Bands[0].Price.ByKey = map[string]money.Amount{"bound": amount("9")}
	e.Plans[0].Charges[0].Bands[1].Price.ByKey = map[string]money.Amount{"yearly": amount("9")}
	s := project(t, e, projection.Yearly, year(map[int]int64{0: 90, 6: 150})...)
	kinds := map[string]bool{}
	for i := range s.Months {
		kinds[s.Months[i].Term().Key] = true
	}
	assert.Len(t, kinds, 1, "one term, paid one way")
	books(t, s)
}

func TestAllViewsAgreeWhereAMonthIsNotServed(t *testing.T) {
	s := project(t, sold([]pricelist.Term{yearly}, []pricelist.Term{yearly}), projection.Yearly, 90, 90, 90, 1001, 90, 90)
	assert.Equal(t, 3, s.Fails)
	accrued, cash := books(t, s)
	assert.Equal(t, []string{"140", "240", "100"}, []string{accrued, cash, s.Ahead.String()}, "two years at 120, of the second two months")
	assert.Equal(t, "120", s.Months[0].Cash.String())
	assert.Equal(t, "90", s.Months[3].Lost.String(), "what was paid ahead is lost when the plan cannot serve any more")
}

func TestWhatIsLeftIsLostPastTheHorizonToo(t *testing.T) {
	e := sold([]pricelist.Term{yearly}, []pricelist.Term{yearly})
	e.Plans = e.Plans[:1]
	e.Plans[0].Charges = flat("100")
	e.Plans[0].Limits = []pricelist.Limit{{Meter: "contacts", Most: usage.Of(10)}}
	s := project(t, e, projection.Yearly, 5, 50, 50)
	books(t, s)
	assert.Equal(t, []string{"1200", "100", "1100", "1200"}, []string{s.Months[0].Cash.String(), s.Months[0].Accrued.String(), s.Months[1].Lost.String(), s.Total.String()})
	assert.Zero(t, s.Ahead)

	e = sold([]pricelist.Term{monthly, yearly}, []pricelist.Term{monthly}) // 3 months at 13, or 12 at 10 that are left after 2
	e.Plans[0].Charges, e.Plans[1].Charges = flat("13"), flat("18")
	e.Plans[0].Charges[0].Price.ByKey = map[string]money.Amount{"yearly": amount("10")}
	e.Plans[0].Limits = []pricelist.Limit{{Meter: "contacts", Most: usage.Of(10)}}
	s = project(t, e, projection.Mix, 5, 5, 50)
	assert.Equal(t, "low:13 low:13 high:18 ", tell(s), "a year of which ten months are lost is no saving")
}

func TestCreditEndsAtTheNewBill(t *testing.T) {
	e := sold([]pricelist.Term{yearly}, []pricelist.Term{yearly})
	e.Plans[1].Charges = []pricelist.Charge{{Key: "f", Kind: pricelist.Flat, Price: pricelist.Price{Usual: amount("5")}}}
	e.Plans[0].Charges = append(e.Plans[0].Charges, pricelist.Charge{Key: "d", Kind: pricelist.Flat, Price: pricelist.Price{Usual: amount("40")}})
	e.Plans[1].Limits = []pricelist.Limit{{Meter: "sends", Most: usage.Of(359), Beyond: pricelist.MoveUp}} // cheap, but not for the first months
	c := projection.Candidate{Edition: e, Policy: projection.Yearly, Basis: quote.Basis{Currency: eur}, Readings: readings(year(map[int]int64{0: 90, 4: 300})...)}
	for i := 4; i < 12; i++ {
		c.Readings[i]["sends"] = 0
	}
	s, err := projection.Project(c)
	require.NoError(t, err)
	books(t, s)
	assert.Equal(t, "high", s.Months[11].Plan().Key)
	assert.Zero(t, s.Months[4].Cash, "the credit covers all of the new bill")
	assert.Equal(t, "360", s.Months[4].Lost.String(), "400 of credit for a bill of 40 that is left")
}

func TestWhatIsStillOwedIsToldForEveryWayOfPaying(t *testing.T) {
	for term, want := range map[string]string{"bound": "60", "yearly": "60", "monthly": "0"} {
		e := sold([]pricelist.Term{monthly, yearly, bound}, []pricelist.Term{monthly})
		e.Plans[0].Charges = flat("10")
		c := projection.Candidate{Edition: e, Policy: projection.Fixed, Plan: "low", Term: term, Basis: quote.Basis{Currency: eur}, Readings: readings(1, 1, 1, 1, 1, 1)}
		s, err := projection.Project(c)
		require.NoError(t, err)
		assert.Equal(t, want, s.Beyond.String(), term)
		books(t, s)
	}
}

func TestStayingIsAskedAboutAsItWouldBe(t *testing.T) {
	// An offer of two months on a year has gone into its bill: inside the year, staying costs what it did.
	e := sold([]pricelist.Term{yearly}, []pricelist.Term{monthly})
	e.Plans[0].Charges, e.Plans[1].Charges = flat("12"), flat("5")
	e.Offers = []pricelist.Offer{{Key: "gift", Plans: []string{"low"}, Kind: pricelist.FreeMonths, Months: 6}}
	e.Plans[1].Limits = []pricelist.Limit{{Meter: "contacts", Most: usage.Of(10)}}
	s := project(t, e, projection.Yearly, append(year(map[int]int64{0: 90}), 5)...)
	assert.Equal(t, "low", s.Months[11].Plan().Key)
	assert.Equal(t, "6", s.Months[11].Accrued.String())
	assert.Equal(t, "€7.00 a month less than staying on Low", s.Steps[0].Why(), "the year that would follow has no free months")
}

func TestTheLongestTermNotAboveTheWishIsTaken(t *testing.T) {
	for _, row := range []struct {
		sold   []pricelist.Term
		policy projection.Policy
		want   string
	}{
		{[]pricelist.Term{monthly, twoYear}, projection.Yearly, "monthly"},
		{[]pricelist.Term{monthly, {Key: "half", Months: 6, Paid: pricelist.Upfront}, twoYear}, projection.Yearly, "half"},
		{[]pricelist.Term{twoYear, {Key: "three", Months: 36, Paid: pricelist.Upfront}}, projection.Yearly, "two-years"},
		{[]pricelist.Term{twoYear, yearly}, projection.Monthly, "yearly"},
		{[]pricelist.Term{forLife, twoYear}, projection.Monthly, "two-years"},
		{[]pricelist.Term{forLife}, projection.Monthly, "life"},
	} {
		e := sold(row.sold, []pricelist.Term{monthly})
		e.Plans = e.Plans[:1]
		for i := range e.Plans[0].Charges[0].Bands {
			e.Plans[0].Charges[0].Bands[i].Price.ByKey = map[string]money.Amount{"life": money.Units(300)}
		}
		e.Plans[0].Charges[0].Price.ByKey = map[string]money.Amount{"life": money.Units(300)}
		s := project(t, e, row.policy, 90, 90, 90)
		assert.Equal(t, row.want, s.Months[0].Term().Key)
		books(t, s)
	}
}

func TestOffersCountFromTheSigningOfThePlan(t *testing.T) {
	e := sold([]pricelist.Term{monthly}, []pricelist.Term{monthly})
	e.Offers = []pricelist.Offer{{Key: "climb", Name: "Climb", Plans: []string{"high"}, Kind: pricelist.PercentOff, Off: 500_000, Months: 2}}
	s := project(t, e, projection.Monthly, 90, 90, 90, 90, 300, 300, 300, 300)
	assert.Equal(t, "low:10 low:10 low:10 low:10 high:25 high:25 high:50 high:50 ", tell(s))
	assert.Equal(t, `the offer “Climb” ends`, s.Steps[1].Why())
	e.Offers[0].NewCustomers = true
	s = project(t, e, projection.Monthly, 90, 90, 90, 90, 300, 300, 300, 300)
	assert.Equal(t, "high:50", tell(s)[len("low:10 low:10 low:10 low:10 "):][:7], "who is on Low is no new customer")
	e.Offers[0].NewCustomers, e.Offers[0].Until = false, time.Date(2027, 3, 31, 0, 0, 0, 0, time.UTC)
	c := projection.Candidate{Edition: e, Policy: projection.Monthly, Basis: quote.Basis{Currency: eur}, Readings: readings(90, 90, 90, 90, 300),
		Customer: quote.Customer{Sign: time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC)}}
	s, err := projection.Project(c)
	require.NoError(t, err)
	assert.Equal(t, "low:10 low:10 low:10 low:10 high:50 ", tell(s), "signed in May, after its last day")
}

func TestNobodyMovesToAClosedPlan(t *testing.T) {
	e := sold([]pricelist.Term{monthly}, []pricelist.Term{monthly})
	e.Plans[0].Offered = pricelist.Closed
	c := projection.Candidate{Edition: e, Policy: projection.Monthly, Basis: quote.Basis{Currency: eur}, Readings: readings(300, 90, 90), Customer: quote.Customer{Here: true}}
	s, err := projection.Project(c)
	require.NoError(t, err)
	assert.Equal(t, "high:50 high:50 high:50 ", tell(s))
	c.Readings = readings(90, 300, 90)
	s, err = projection.Project(c)
	require.NoError(t, err)
	assert.Equal(t, "low:10 high:50 high:50 ", tell(s), "who is on it stays, and does not come back")
}

func TestWhatIsPaidForLifeIsSpreadOverTheHorizon(t *testing.T) {
	e := sold([]pricelist.Term{monthly, forLife}, []pricelist.Term{monthly})
	e.Plans = e.Plans[:1]
	e.Plans[0].Charges = []pricelist.Charge{{Key: "f", Kind: pricelist.Flat, Price: pricelist.Price{Usual: amount("10"), ByKey: map[string]money.Amount{"life": amount("60")}}},
		{Key: "s", Kind: pricelist.Unit, Meter: "sends", Each: 4, Price: pricelist.Price{Usual: amount("1")}}}
	s := project(t, e, projection.Mix, year(map[int]int64{0: 2})...)
	assert.Equal(t, "life", s.Months[0].Term().Key)
	assert.Equal(t, "7", s.Months[3].Accrued.String(), "5 of 60, and what is sent, which has no price for life")
	assert.Equal(t, "62", s.Months[0].Cash.String())
	assert.Equal(t, "2", s.Months[1].Cash.String())
	assert.Zero(t, s.Beyond)
	assert.Equal(t, "7", s.Months[3].Monthly().String())
	books(t, s)
	short := project(t, e, projection.Mix, 2, 2, 2)
	assert.Equal(t, "monthly", short.Months[0].Term().Key)
}

func TestChargesAtSigningAreBilledOnce(t *testing.T) {
	setup := pricelist.Charge{Key: "setup", Kind: pricelist.Once, Price: pricelist.Price{Usual: amount("30")}, WaivedOn: []string{"yearly"}}
	e := sold([]pricelist.Term{monthly}, []pricelist.Term{monthly, yearly})
	e.Plans[0].Charges = append(e.Plans[0].Charges, setup)
	s := project(t, e, projection.Monthly, 90, 90, 300)
	assert.Equal(t, "low:40 low:10 high:50 ", tell(s))
	assert.Equal(t, "30", s.Months[0].Once.String())
	e.Plans[1].Charges = append(e.Plans[1].Charges, setup, pricelist.Charge{Key: "lessons", Kind: pricelist.Once, Price: pricelist.Price{Usual: amount("7")}})
	s = project(t, e, projection.Monthly, 90, 90, 300)
	assert.Equal(t, "low:40 low:10 high:57 ", tell(s), "the set-up was charged before, the lessons are new")
	r := s.Months[2].Receipt()
	assert.Equal(t, "7", r.AtSigning.String())
	assert.Equal(t, "[base lessons]", fmt.Sprint(keys(r.Lines)))
	dear := setup
	dear.Label, dear.Price = "Set-up", pricelist.Price{Usual: amount("45")}
	e.Plans[1].Charges = []pricelist.Charge{e.Plans[1].Charges[0], dear}
	s = project(t, e, projection.Monthly, 90, 90, 300)
	assert.Equal(t, "low:40 low:10 high:65 ", tell(s), "of the dearer set-up the difference is due")
	r = s.Months[2].Receipt()
	assert.Equal(t, "15", r.AtSigning.String())
	assert.Equal(t, "15", r.Lines[1].Amount.String())
	assert.Equal(t, []string{"Set-up: €30.00 of €45.00 was charged on Low before."}, r.Notes)
	dear.Price.Usual = amount("25")
	e.Plans[1].Charges[1] = dear
	assert.Equal(t, "low:40 low:10 high:50 ", tell(project(t, e, projection.Monthly, 90, 90, 300)), "nothing is given back")
	here, err := projection.Project(projection.Candidate{Edition: e, Readings: readings(90, 90), Policy: projection.Monthly, Basis: quote.Basis{Currency: eur}, Customer: quote.Customer{Here: true}})
	require.NoError(t, err)
	assert.Equal(t, "low:10 low:10 ", tell(here), "who is here signed long ago")
}

func keys(lines []quote.Line) (all []string) {
	for _, l := range lines {
		all = append(all, l.Key)
	}
	return all
}

func TestPacksThatALimitAsksForArePaid(t *testing.T) {
	e := sold([]pricelist.Term{monthly}, []pricelist.Term{monthly})
	e.Plans = e.Plans[:1]
	e.Plans[0].Charges = append(flat("10"), pricelist.Charge{Key: "more", Kind: pricelist.Pack, Meter: "sends", Size: usage.Of(1000), Price: pricelist.Price{Usual: amount("3")}, Optional: true})
	e.Plans[0].Limits = []pricelist.Limit{{Meter: "sends", Most: usage.Of(100), Beyond: pricelist.BuyPack}}
	s := project(t, e, projection.Monthly, 25, 26, 25_000)
	assert.Equal(t, "low:10 low:13 low:310 ", tell(s), "none, one, and a hundred of them")
	assert.Equal(t, "emails pass 100, pack 1 begins", s.Steps[0].Why())
}

func TestWhereWorkStopsTheAmountShortIsTold(t *testing.T) {
	e := sold([]pricelist.Term{monthly}, []pricelist.Term{monthly})
	e.Plans = e.Plans[:1]
	e.Plans[0].Charges = flat("10")
	e.Plans[0].Limits = []pricelist.Limit{{Meter: "sends", Most: usage.Of(400), Beyond: pricelist.Stops}}
	s := project(t, e, projection.Monthly, 90, 130)
	assert.Equal(t, 1, s.Fails)
	assert.Equal(t, "work stops at 400 emails, 120 short", s.Misses[0].Reasons[0].String())
}

func TestTheCheapestMixKeepsAYearForTheLowAndMonthsForThePeak(t *testing.T) {
	e := sold([]pricelist.Term{monthly, {Key: "yearly", Months: 12, Paid: pricelist.Upfront, Off: 300_000}}, []pricelist.Term{monthly})
	contacts := append(year(map[int]int64{0: 90}), 300, 300, 90)
	s := project(t, e, projection.Mix, contacts...)
	assert.Equal(t, "low:7 low:7 low:7 low:7 low:7 low:7 low:7 low:7 low:7 low:7 low:7 low:7 high:50 high:50 low:7 ", tell(s))
	assert.Equal(t, "77", s.Beyond.String())
	books(t, s)
}

// An offer that stands alone is chosen once: at a renewal it may be left out, and no other taken up.
func TestAnOfferThatStandsAloneIsChosenOnce(t *testing.T) {
	off := func(key string, share money.Share, months int, terms ...string) pricelist.Offer {
		return pricelist.Offer{Key: key, Plans: []string{"low"}, Terms: terms, Kind: pricelist.PercentOff, Off: share, Months: months}
	}
	totals := func(policy projection.Policy, months int, offers ...pricelist.Offer) string {
		e := sold([]pricelist.Term{monthly, yearly}, []pricelist.Term{monthly})
		e.Plans[0].Charges, e.Plans[1].Charges = flat("100"), flat("1000")
		e.Offers = offers
		return project(t, e, policy, year(map[int]int64{0: 5})[:months]...).Total.String()
	}
	assert.Equal(t, "100", totals(projection.Monthly, 2, off("a", 900_000, 1), off("b", 500_000, 2)), "half for two months, not a tenth and then half")
	assert.Equal(t, "110", totals(projection.Monthly, 2, off("a", 900_000, 1)))
	assert.Equal(t, "600", totals(projection.Monthly, 12, off("a", 1_000_000, 2), off("b", 500_000, 12)), "nor by way of a month without")
	c := off("c", 500_000, 0, "yearly")
	assert.Equal(t, "100", totals(projection.Mix, 2, c), "two of twelve months at half price")
	assert.Equal(t, "200", totals(projection.Monthly, 2, c), "it is for years alone")
}

func TestAnAddOnThatBeginsIsAStep(t *testing.T) {
	e := sold([]pricelist.Term{monthly}, []pricelist.Term{monthly})
	e.Plans = e.Plans[:1]
	e.Plans[0].Charges = flat("10")
	e.Plans[0].Limits = []pricelist.Limit{{Meter: "contacts", Most: usage.Of(100), Beyond: pricelist.MoveUp}}
	e.AddOns = []pricelist.AddOn{{Key: "room", Name: "Room", Plans: []string{"low"}, Charges: flat("4"), Raises: []pricelist.Raise{{Meter: "contacts", By: usage.Of(400)}}}}
	s := project(t, e, projection.Monthly, 90, 150, 90)
	assert.Equal(t, "low:10 low:14 low:10 ", tell(s))
	require.Len(t, s.Steps, 2)
	assert.Equal(t, "contacts pass 100: the add-on “Room” begins", s.Steps[0].Why())
	assert.Equal(t, amount("4"), s.Steps[0].Delta)
	assert.Equal(t, "the add-on “Room” is not needed any more", s.Steps[1].Why())
}

func TestWhatIsPaidForLifePaysForItself(t *testing.T) {
	e := sold([]pricelist.Term{monthly, yearly, forLife}, []pricelist.Term{monthly})
	e.Plans = e.Plans[:1]
	e.Plans[0].Charges = []pricelist.Charge{{Key: "f", Kind: pricelist.Flat, Price: pricelist.Price{Usual: amount("10"), ByKey: map[string]money.Amount{"life": amount("60"), "yearly": amount("4")}}}}
	months := func(s projection.Schedule, c projection.Candidate) (by []int) {
		all, err := s.Repays(c)
		require.NoError(t, err)
		for _, one := range all {
			by = append(by, one.Month)
		}
		return by
	}
	c := projection.Candidate{Edition: e, Readings: readings(2, 2, 2, 2, 2, 2), Policy: projection.Fixed, Plan: "low", Term: "life", Basis: quote.Basis{Currency: eur}}
	s, err := projection.Project(c)
	require.NoError(t, err)
	assert.Equal(t, "10", s.Months[0].Accrued.String(), "60 over six months")
	assert.Equal(t, []int{6, 13}, months(s, c), "60 against 10 a month, and against 48 a year, which is past the horizon")
	e.Plans[0].Charges[0].Price.ByKey["life"] = amount("5000")
	s, err = projection.Project(c)
	require.NoError(t, err)
	assert.Equal(t, []int{0, 0}, months(s, c), "not within 126 months")
	c.Plan, c.Term = "low", "monthly"
	s, err = projection.Project(c)
	require.NoError(t, err)
	assert.Empty(t, months(s, c), "nothing is paid for life")
}

func TestMovingUpWhatIsPaidForLifeIsBoughtWhole(t *testing.T) {
	e := sold([]pricelist.Term{forLife}, []pricelist.Term{forLife})
	e.Plans = e.Plans[:1]
	life := func(to int64, price string) pricelist.Band {
		return pricelist.Band{To: usage.Of(to), Price: pricelist.Price{ByKey: map[string]money.Amount{"life": amount(price)}}}
	}
	e.Plans[0].Charges = []pricelist.Charge{{Key: "f", Kind: pricelist.Stair, Meter: "contacts", Bands: []pricelist.Band{life(200, "60"), life(500, "1200")}}}
	s := project(t, e, projection.Mix, year(map[int]int64{0: 150, 11: 300})...)
	assert.Equal(t, "60", s.Months[0].Cash.String())
	assert.Equal(t, "1195", s.Months[11].Cash.String(), "1,200 less the 5 of 60 that are unused")
	assert.Equal(t, "1255", s.Total.String())
	assert.Zero(t, s.Months[11].Lost)
	books(t, s)
	s = project(t, e, projection.Mix, year(map[int]int64{0: 150, 6: 300, 9: 90})...)
	assert.Equal(t, "1170", s.Months[6].Cash.String())
	assert.Equal(t, "200", s.Months[6].Accrued.String(), "1,200 over six months")
	assert.Equal(t, "1230", s.Total.String(), "a lower band gives nothing back")
	books(t, s)
}
