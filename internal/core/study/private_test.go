package study_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// onRequest makes an option of two plans: one up to 100 contacts for 10, and one
// whose price is on request.
func onRequest(key string) study.Option {
	o := option(key, 100, 10)
	o.Edition.Plans = append(o.Edition.Plans, pricelist.Plan{Key: "large", Name: "Large", Offered: pricelist.OnRequest})
	return o
}

func quoted(months int, paid pricelist.Paid, bill money.Amount) study.PrivateOffer {
	return study.PrivateOffer{Option: "a", Plan: "large", Months: months, Paid: paid, Bill: bill, On: time.Date(2026, 11, 20, 0, 0, 0, 0, time.UTC)}
}

// TestWhatWasQuotedIsWhatAPlanOnRequestCosts has an option served from the
// second month on by nothing but what was quoted.
func TestWhatWasQuotedIsWhatAPlanOnRequestCosts(t *testing.T) {
	s := of(onRequest("a"), option("b", 10_000, 70))
	assert.False(t, compute(t, s).Results[0].In(), "without a quote it is out")
	s.PrivateOffers = []study.PrivateOffer{quoted(1, pricelist.Monthly, money.Units(50))}
	o := compute(t, s)
	require.True(t, o.Results[0].In())
	assert.Equal(t, money.Units(10+5*50), o.Results[0].Schedule.Total)
	assert.Equal(t, "As quoted to you", o.Results[0].Schedule.Months[1].Receipt().Lines[0].Label)
	assert.False(t, s.QuotedOn("a", &o.Results[0].Option.Edition.Plans[1]).IsZero())
	assert.True(t, s.QuotedOn("a", &o.Results[0].Option.Edition.Plans[0]).IsZero())
	assert.True(t, s.QuotedOn("a", &s.Options[0].Edition.Plans[1]).IsZero(), "the list itself stays as it was read")
	assert.Equal(t, pricelist.OnRequest, s.Options[0].Edition.Plans[1].Offered)

	// Two terms beside each other, of which the cheapest mix takes the better.
	s.PrivateOffers = append(s.PrivateOffers, quoted(5, pricelist.Upfront, money.Units(200)))
	s.Pay = projection.Mix
	assert.Equal(t, money.Units(10+200), compute(t, s).Results[0].Schedule.Total)
}

func TestABillThatDoesNotDivideIsPaidToTheCent(t *testing.T) {
	random := rand.New(rand.NewPCG(9, 1))
	for range 300 {
		months := 1 + random.IntN(60)
		bill := money.Amount(random.Int64N(10_000_000)) * money.Scale / 100
		o := onRequest("a")
		o.Edition.Plans = o.Edition.Plans[1:]
		s := of(o)
		s.Horizon, s.Drivers[0].Path.Growth = 60, 0
		s.PrivateOffers = []study.PrivateOffer{quoted(months, pricelist.Upfront, bill)}
		r := compute(t, s).Results[0]
		require.True(t, r.In())
		require.Equal(t, bill, r.Schedule.Months[0].Cash, "%d months for %s", months, bill)
	}
}

// A quote stands for what recurs: what is charged once at signing stays, where no like term waives it.
func TestAQuoteLeavesWhatIsChargedOnce(t *testing.T) {
	o := onRequest("a")
	o.Edition.Plans = o.Edition.Plans[1:]
	p := &o.Edition.Plans[0]
	p.Terms = []pricelist.Term{{Key: "monthly", Months: 1}, {Key: "quarter", Months: 3, Paid: pricelist.Upfront}}
	p.Charges = append(p.Charges, pricelist.Charge{Key: "setup", Label: "Set-up", Kind: pricelist.Once, Price: pricelist.Price{Usual: money.Units(300)}, WaivedOn: []string{"quarter"}})
	s := of(o)
	s.Horizon, s.Drivers[0].Path.Growth = 3, 0
	s.PrivateOffers = []study.PrivateOffer{quoted(1, pricelist.Monthly, money.Units(100))}
	r := compute(t, s).Results[0]
	assert.Equal(t, money.Units(600), r.Schedule.Total)
	assert.Equal(t, money.Units(300), r.Schedule.Months[0].Once)
	s.PrivateOffers = append(s.PrivateOffers, quoted(3, pricelist.Upfront, money.Units(500)))
	s.Pay = projection.Mix
	assert.Equal(t, money.Units(500), compute(t, s).Results[0].Schedule.Total, "a quarter waives it")
	assert.Len(t, p.Charges[len(p.Charges)-1].WaivedOn, 1, "the list itself stays as it was read")
}

// TestAnOfferThatDoesNotCountSaysWhy tells what keeps a private offer from being
// counted, at the offer.
func TestAnOfferThatDoesNotCountSaysWhy(t *testing.T) {
	late := quoted(12, pricelist.Upfront, money.Units(9))
	late.Until = time.Date(2026, 12, 31, 0, 0, 0, 0, time.UTC) // the study begins on the day after
	s := of(onRequest("a"), option("b", 10_000, 70))
	s.PrivateOffers = []study.PrivateOffer{late}
	o := compute(t, s)
	assert.False(t, o.Results[0].In())
	var notes []string
	for _, n := range o.Facts().Notes {
		notes = append(notes, n.Text)
	}
	assert.Contains(t, notes, "a: what was quoted for Large has to be signed by 31 Dec 2026, before the first month here, so it is not counted")
	s.PrivateOffers[0].Until = time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC)
	assert.True(t, compute(t, s).Results[0].In(), "on the last day it can be signed")

	for want, plan := range map[string]string{`has no plan "gone"`: "gone"} {
		one := quoted(1, pricelist.Monthly, 1)
		one.Plan = plan
		s.PrivateOffers = []study.PrivateOffer{one}
		o = study.Compute(s)
		require.Len(t, o.Faults, 1)
		assert.Contains(t, o.Faults[0].Text, want)
		assert.Equal(t, document.Path("private_offers").To("a/"+plan+"/1"), o.Faults[0].At)
		assert.Equal(t, "prices", study.CoinOf(o.Faults[0].At))
		assert.Equal(t, money.Units(70*6), o.Results[1].Schedule.Total, "the rest goes on")
	}
}

// TestPublicOffersDoNotLowerWhatWasQuoted has an offer on every plan of a list.
func TestPublicOffersDoNotLowerWhatWasQuoted(t *testing.T) {
	o := onRequest("a")
	o.Edition.Offers = []pricelist.Offer{{Key: "half", Plans: []string{"plan", "large"}, Kind: pricelist.PercentOff, Off: money.Whole / 2},
		{Key: "only", Plans: []string{"large"}, Kind: pricelist.FreeMonths, Months: 3}}
	s := of(o)
	s.PrivateOffers = []study.PrivateOffer{quoted(1, pricelist.Monthly, money.Units(50))}
	assert.Equal(t, money.Units(5+5*50), compute(t, s).Results[0].Schedule.Total)
	assert.Len(t, o.Edition.Offers[0].Plans, 2, "the list stays as it was read")
}

// TestPrivateOffersGoWithTheirOption removes an option, in every order of what
// goes with it, and brings it back.
func TestPrivateOffersGoWithTheirOption(t *testing.T) {
	s, err := readStudy(t, study.Kept(), keptWhole)
	require.NoError(t, err)
	remove := document.Op{Do: document.Remove, Path: "options.fern"}
	settled, err := study.Settle(s, document.Change{remove})
	require.NoError(t, err)
	edited, made, err := study.Kept().Apply(s, settled)
	require.NoError(t, err)
	assert.Empty(t, edited.PrivateOffers)
	back, err := study.Settle(edited, made.Inverse())
	require.NoError(t, err)
	again, _, err := study.Kept().Apply(edited, back)
	require.NoError(t, err)
	assert.Equal(t, s.PrivateOffers, again.PrivateOffers)

	// It went before its option did, which is then taken out again.
	without, _, err := study.Kept().Apply(s, document.Change{{Do: document.Remove, Path: document.Path("private_offers").To(s.PrivateOffers[0].Key())}})
	require.NoError(t, err)
	settled, err = study.Settle(without, made)
	require.NoError(t, err)
	_, _, err = study.Kept().Apply(without, settled)
	require.NoError(t, err)

	for want, op := range map[string]document.Op{
		"is for an option that is not in the study": {Do: document.Insert, Path: document.Path("private_offers").To("nobody/x/1"), To: `{"option": "nobody", "plan": "x", "months": 1, "paid": "monthly", "bill": "1", "on": "2026-11-20"}`},
		"is of a day that is in the future":         {Do: document.Set, Path: document.Path("private_offers").To("fern/beacon/12-upfront", "on"), Was: "2026-11-20", To: "2027-11-20"},
	} {
		s.Today = time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC)
		_, err = study.Settle(s, document.Change{op})
		assert.ErrorContains(t, err, want)
	}
	_, err = study.Settle(s, document.Change{{Do: document.Set, Path: document.Path("private_offers").To("fern/beacon/12-upfront", "until"), Was: "2027-03-31", To: "2027-11-20"}})
	assert.NoError(t, err, "an offer may end in the future")
}

const keptWhole = `{"format": "nine-coins/study/1", "key": "s", "title": "S", "currency": "EUR", "start": "2027-01", "months": 6, "pay": "monthly", "patience_days": 90, "drivers": [],
	"options": [{"key": "fern", "platform": "fernwire", "observed_on": "2026-10-02", "face": 1}],
	"private_offers": [{"option": "fern", "plan": "beacon", "months": 12, "paid": "upfront", "bill": "2400", "on": "2026-11-20", "until": "2027-03-31"}]}`

func ExamplePrivateOffer_Key() {
	p := study.PrivateOffer{Option: "fern", Plan: "beacon", Months: 12, Paid: pricelist.Upfront}
	fmt.Println(p.Key())
	p.Months = 1
	fmt.Println(p.Key())
	// Output:
	// fern/beacon/12-upfront
	// fern/beacon/1
}

// TestBetterTermsStandBesideTheList quotes a plan that has a price in its list: it is sold
// both ways, and the cheaper one is taken; a pinned plan, too.
func TestBetterTermsStandBesideTheList(t *testing.T) {
	for _, pinned := range []string{"", "plan"} {
		s := of(option("a", 10_000, 50), option("b", 10_000, 70))
		s.Options[0].Plan = pinned
		before := compute(t, s).Results[0].Schedule.Total
		assert.Equal(t, money.Units(50*6), before)
		one := quoted(1, pricelist.Monthly, money.Units(40))
		one.Plan = "plan"
		s.PrivateOffers = []study.PrivateOffer{one}
		o := compute(t, s)
		r := &o.Results[0]
		assert.Equal(t, money.Units(40*6), r.Schedule.Total)
		assert.Equal(t, "Plan as quoted", r.Takes())
		assert.Equal(t, one.On, s.QuotedOn("a", r.Today.Plan))
		assert.Equal(t, money.Units(70*6), o.Results[1].Schedule.Total)
		s.PrivateOffers[0].Bill = money.Units(60)
		o = compute(t, s)
		assert.Equal(t, money.Units(50*6), o.Results[0].Schedule.Total, "what is dearer than the list is not taken")
		assert.Equal(t, "Plan", o.Results[0].Takes())
	}
}

// TestOffersOnSeveralPlansStayApart quotes any mix of plans, sold and on request, on any terms, in
// any order: each plan then costs what was quoted for it, and no other plan changes.
func TestOffersOnSeveralPlansStayApart(t *testing.T) {
	random := rand.New(rand.NewPCG(23, 1))
	for range 500 {
		o := option("a", 10_000, 1)
		base := o.Edition.Plans[0]
		o.Edition.Plans = nil
		keys := []string{"sprig", "bough", "canopy", "sprig-as-quoted"} // which a list may have itself
		for i, key := range keys {
			p := base
			p.Key, p.Name, p.Charges = key, key, slices.Clone(base.Charges)
			p.Charges[0].Bands = []pricelist.Band{{Open: true, Price: pricelist.Price{Usual: money.Units(int64(1000 + i))}}}
			if random.IntN(2) == 0 {
				p.Offered, p.Charges, p.Terms = pricelist.OnRequest, nil, nil
			}
			o.Edition.Plans = append(o.Edition.Plans, p)
		}
		s := of(o)
		s.Drivers[0].Path.Growth = 0
		best := map[string]money.Amount{}
		for _, i := range random.Perm(len(keys))[:1+random.IntN(len(keys))] {
			for months := range 1 + random.IntN(3) {
				one := quoted(1, pricelist.Monthly, money.Units(100+random.Int64N(800)))
				one.Plan, one.Months = keys[i], 1+months
				s.PrivateOffers = append(s.PrivateOffers, one)
				if months == 0 {
					best[keys[i]] = one.Bill
				}
			}
		}
		random.Shuffle(len(s.PrivateOffers), func(i, j int) {
			s.PrivateOffers[i], s.PrivateOffers[j] = s.PrivateOffers[j], s.PrivateOffers[i]
		})
		for i, key := range keys {
			s.Options[0].Plan = key
			r := &compute(t, s).Results[0]
			want, quote := best[key]
			if !quote {
				want = money.Units(int64(1000 + i))
			}
			if !quote && o.Edition.Plans[i].Offered == pricelist.OnRequest {
				require.False(t, r.In(), "%s is on request: %+v", key, s.PrivateOffers)
				continue
			}
			require.True(t, r.In())
			require.Equal(t, 6*want, r.Schedule.Total, "%s of %+v", key, s.PrivateOffers)
			require.True(t, r.Today.Plan.Is(key))
		}
	}
}

// TestFindingsHoldForAPlanAsItWasQuoted finds that the plan quoted lacks a must.
func TestFindingsHoldForAPlanAsItWasQuoted(t *testing.T) {
	s := of(option("a", 10_000, 50))
	one := quoted(1, pricelist.Monthly, money.Units(40))
	one.Plan = "plan"
	s.PrivateOffers = []study.PrivateOffer{one}
	s.Needs = []coverage.Need{{Feature: "a/yes", Name: "Yes", Level: coverage.Must}}
	require.True(t, compute(t, s).Results[0].In())
	s.Findings = []study.Finding{{Platform: "a", Plan: "plan", Feature: "a/yes", Has: pricelist.Feature{Has: pricelist.No}}}
	assert.False(t, compute(t, s).Results[0].In())
}
