package study_test

import (
	"context"
	"fmt"
	"testing"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// moving is a study of what runs today, at 10 a month, and two others; an hour costs 20.
func moving() *study.Study {
	s := of(option("Now", 9999, 10), option("Low", 9999, 4), option("Step", 400, 1, 9999, 30))
	s.Options[0].Now = true
	s.Options[1].Move = study.Move{Hours: usage.Of(1), Money: money.Units(1), Twice: 1}
	s.Brief.HourCost = money.Units(20)
	return s
}

// What is outgrown already is left for what serves, with months paid beside or not.
func TestWhatIsOutgrownIsLeftForWhatServes(t *testing.T) {
	s := moving()
	s.Options[0] = option("Now", 50, 10)
	s.Options[0].Now = true
	o := compute(t, s)
	all, err := o.Leaving(context.Background())
	require.NoError(t, err)
	assert.True(t, all[0].Served, "the months beside leave nothing unserved")
	assert.Equal(t, "Now, which runs today, does not serve even the first month. Of those that serve all months, leaving it now for Low costs least: €45, the move counted.",
		o.SayLeaving(all).String())
	roads, err := o.Roads(context.Background(), nil)
	require.NoError(t, err)
	road, ok := roads.Cheapest()
	require.True(t, ok)
	assert.Zero(t, road.Unserved())
}

func TestLeavingIsWeighedWithItsMove(t *testing.T) {
	o := compute(t, moving())
	all, err := o.Leaving(context.Background())
	require.NoError(t, err)
	require.Len(t, all, 2)
	low := all[0]
	assert.Equal(t, money.Units(21), low.Work, "an hour at 20, and 1 paid")
	assert.Equal(t, money.Units(10), low.Beside, "a month of what runs today")
	assert.Equal(t, money.Units(60-24-21-10), low.Saves)
	assert.Equal(t, 6, low.PaidBack, "31 of the move are saved at 6 a month")
	assert.Equal(t, 0, low.Best)
	assert.Equal(t, money.Units(55), low.BestIs)
	assert.Equal(t, money.Units(18), low.Quarter, "three months at 6")
	step := all[1]
	assert.Equal(t, money.Units(60-93), step.Saves)
	assert.Zero(t, step.PaidBack)
	assert.Equal(t, 6, step.Best, "better not at all: what follows costs 30")
	assert.Equal(t, "Staying on Now costs €60 over all 6 months. Leaving it now for Low saves €5, the move taken off, and has paid for itself by the end of Jun 2027.",
		o.SayLeaving(all).String())

	roads, err := o.Roads(context.Background(), nil)
	require.NoError(t, err)
	road, ok := roads.Cheapest()
	require.True(t, ok)
	// Step costs 1 for three months and needs no move; then Low, moved to in its third month so that paying twice costs 1.
	assert.Equal(t, "Step until Mar 2027, then Now", o.SayRoad(road, roads.Results))
	assert.Equal(t, money.Units(3+30), road.Total)
}

func TestLeavingWhatIsNotThere(t *testing.T) {
	s := of(option("A", 9999, 10))
	o := compute(t, s)
	all, err := o.Leaving(context.Background())
	require.NoError(t, err)
	assert.Empty(t, all)
	assert.Contains(t, o.SayLeaving(all).String(), "there is nothing to leave")
	s.Running = []study.Running{{Key: "old", Name: "Old", Cost: money.Units(7)}}
	o = compute(t, s)
	assert.Contains(t, o.SayLeaving(nil).String(), "What runs today costs €42 over all 6 months, as the brief tells.")
	s.Options[0].Now = true
	assert.Contains(t, compute(t, s).SayLeaving(nil).String(), "No option pays for the move within the horizon.")
}

func TestWhatCannotGoOnIsNoMeasure(t *testing.T) {
	s := of(option("A", 9999, 10), option("Old", 400, 5), option("B", 400, 1))
	s.Options[1].Now = true
	o := compute(t, s)
	base := o.Baseline()
	require.Less(t, base.Until, s.Horizon)
	require.Positive(t, base.Until)
	all, err := o.Leaving(context.Background())
	require.NoError(t, err)
	require.Len(t, all, 2)
	for _, l := range all {
		assert.False(t, l.Compares, "staying serves but some months: nothing is saved against it")
		assert.Zero(t, l.Saves)
		assert.Zero(t, l.PaidBack)
	}
	assert.Equal(t, money.Units(60), all[0].Total)
	until := s.Month(base.Until - 1).String()
	assert.Contains(t, o.SayBeside().String(), "Doing nothing, on Old, costs €")
	assert.Contains(t, o.SayBeside().String(), ", but serves only until "+until+".")
	assert.Contains(t, o.SayLeaving(all).String(), ", but serves only until "+until+". Of those that serve all months, leaving it now for A costs least: €60, the move counted.")
	bargains, err := o.Bargains(context.Background(), nil)
	require.NoError(t, err)
	require.NotEmpty(t, bargains)
	for _, b := range bargains {
		assert.False(t, b.Pays)
		assert.False(t, b.LeaveDoes)
	}
}

func TestHeadroomTellsWhatIsLeftAndWhatComes(t *testing.T) {
	o := compute(t, of(option("A", 150, 10, 900, 25), option("B", 9999, 10)))
	room := func(month int) []study.Headroom {
		all, err := o.Headroom(context.Background(), month)
		require.NoError(t, err)
		return all
	}
	all := room(0)
	require.Len(t, all, 2)
	h := all[0]
	assert.Equal(t, int64(50), h.Left)
	assert.Equal(t, "contacts pass 150", h.Why)
	assert.Equal(t, 1, h.Month)
	assert.Equal(t, money.Units(15), h.Delta)
	assert.True(t, h.Serves)
	assert.Equal(t, -1, all[1].Month)
	assert.False(t, all[1].Serves, "past the last band the price is on request")
	last := room(3)[0] // 800
	assert.Equal(t, int64(100), last.Left)
	assert.Equal(t, 4, last.Month)
	assert.False(t, last.Serves)
}

func TestDeedsFollowTheSchedule(t *testing.T) {
	s := of(option("A", 9999, 10))
	s.Options[0].Edition.Plans[0].Terms[0].Months = 3
	s.Options[0].Move.Notice = 30
	o := compute(t, s)
	r := &o.Results[0]
	var said []string
	for _, d := range o.Deeds(r) {
		said = append(said, d.On.Format("2006-01-02 ")+d.Text)
	}
	assert.Equal(t, []string{"2027-01-01 take Plan for 3 months", "2027-03-02 last day to give notice for Apr 2027", "2027-04-01 Plan renews for 3 months"}, said)
	assert.Equal(t, "Plan for 3 months", o.SayDeeds(r))
}

func TestBargainsAreTheLeastTenthOfAPercentThatDoes(t *testing.T) {
	o := compute(t, moving())
	all, err := o.Bargains(context.Background(), nil)
	require.NoError(t, err)
	require.Len(t, all, 3)
	assert.Equal(t, money.Share(600_000), all[0].Least, "10 a month cut to 4")
	assert.True(t, all[1].IsLeast)
	assert.True(t, all[1].Pays)
	assert.Equal(t, money.Units(4), all[1].FreeMonth)
	step := all[2]
	assert.False(t, step.Pays)
	require.True(t, step.LeaveDoes)
	cut := func(by money.Share) money.Amount { // 3 months at 1 and 3 at 30, each rounded to cents
		left := int64(money.Whole - by)
		return money.Amount(3*((100*left+500_000)/1_000_000)+3*((3000*left+500_000)/1_000_000)) * 10_000
	}
	assert.LessOrEqual(t, cut(step.Leave), money.Units(60))
	assert.Greater(t, cut(step.Leave-1000), money.Units(60))
	assert.Equal(t, "Low costs least at its list's prices. Now would from 60% off its list on.", o.SayBargains(all).String())
}

func TestResaleIsWhatClientsPayLessWhatItCosts(t *testing.T) {
	s := of(option("A", 9999, 10))
	all, err := compute(t, s).Resale(context.Background())
	require.NoError(t, err)
	assert.Nil(t, all)
	s.Brief.Resale = money.Units(4)
	s.Drivers = append(s.Drivers, study.Setting{Driver: "clients", Path: usage.Path{Now: usage.Of(2), Shape: usage.Straight, Add: usage.Of(1)}})
	all, err = compute(t, s).Resale(context.Background())
	require.NoError(t, err)
	assert.Equal(t, []int64{2, 3, 4, 5, 6, 7}, all[0].Clients)
	assert.Equal(t, money.Units(-2), all[0].Margin[0])
	assert.Equal(t, money.Units(4*27-60), all[0].Total)
	assert.Equal(t, []int64{3, 3}, []int64{all[0].First, all[0].Even})

	// A bill that jumps is covered, then not, then for good; nobody pays for what is not served.
	s = of(option("A", 9999, 10))
	counts, err := usage.ParseFormula("clients")
	require.NoError(t, err)
	e := s.Options[0].Edition
	e.Meters = append(e.Meters, pricelist.Meter{Key: "clients", Unit: "brand", Kind: usage.Stock, Counts: counts})
	e.Plans[0].Charges = []pricelist.Charge{{Key: "c", Kind: pricelist.Stair, Meter: "clients", Bands: []pricelist.Band{{To: usage.Of(4), Price: pricelist.Price{Usual: money.Units(12)}},
		{To: usage.Of(600), Price: pricelist.Price{Usual: money.Units(24)}}}}}
	e.Plans[0].Limits = []pricelist.Limit{{Meter: "contacts", Most: usage.Of(1600)}}
	s.Brief.Resale = money.Units(4)
	s.Drivers = append(s.Drivers, study.Setting{Driver: "clients", Path: usage.Path{Now: usage.Of(3), Growth: 30_000}})
	all, err = compute(t, s).Resale(context.Background())
	require.NoError(t, err)
	assert.Equal(t, []int64{3, 6}, []int64{all[0].First, all[0].Even})
	assert.Equal(t, []int64{3, 3, 3, 3, 3, 3}, all[0].Clients, "whole clients pay")
	assert.Zero(t, all[0].Margin[5], "3,200 contacts are served by nothing")
	assert.Zero(t, all[0].Total)
}

func TestTheSpreadNeedsChance(t *testing.T) {
	s := of(option("A", 9999, 10), option("B", 150, 5, 9999, 20))
	o := compute(t, s)
	_, err := o.Spread(context.Background(), nil)
	require.ErrorIs(t, err, study.ErrNoSpread)
	_, known := o.Drawn(1)
	assert.False(t, known)
	s.Drivers[0].Path.Low.Growth = usage.Given[money.Share]{Told: true}
	s.Budget = money.Units(30)
	o = compute(t, s)
	ctx, leave := context.WithCancel(context.Background())
	leave()
	_, err = o.Spread(ctx, nil)
	require.ErrorIs(t, err, context.Canceled)
	spread, err := o.Spread(context.Background(), nil)
	require.NoError(t, err, "who leaves takes nothing from the next")
	assert.Equal(t, []string{"contacts"}, spread.Random)
	assert.Equal(t, [3]money.Amount{money.Units(60), money.Units(60), money.Units(60)}, spread.Options[0].Total)
	assert.Contains(t, o.SaySpread(spread).String(), "paths of growth A costs least in")
	assert.Contains(t, o.SaySpread(spread).String(), "it comes to €60 in eight of ten.", "one figure where both ends are the same")
	assert.Equal(t, []float64{1}, spread.Options[0].Over, "60 of 30 in all")
	assert.Contains(t, o.SaySpread(spread).String(), "It breaks the budget of €30 in all of them.")
	again, known := o.Drawn(1)
	assert.True(t, known)
	assert.Same(t, spread, again)
	other, err := o.Draw(context.Background(), 2, nil)
	require.NoError(t, err)
	assert.NotEqual(t, spread.Options[1], other.Options[1], "other paths")
	same, err := compute(t, s).Draw(context.Background(), 2, nil)
	require.NoError(t, err)
	assert.Equal(t, other.Options, same.Options, "which are the same each time")
}

func TestABudgetIsHeldAgainstItsMonths(t *testing.T) {
	s := of(option("A", 9999, 110))
	s.Budget = money.Units(600)
	assert.Equal(t, []projection.Budget{{To: s.Horizon, Most: money.Units(600)}}, s.Budgets())
	s.Horizon = 18
	s.Brief.BudgetFor = study.ForYear
	assert.Equal(t, []projection.Budget{{To: 12, Most: money.Units(600)}, {To: 18, Most: money.Units(300)}}, s.Budgets(), "half a year has half of it")
	assert.Equal(t, money.Units(900), s.InAll())
	s.Brief.BudgetFor = study.ForMonth
	assert.Equal(t, []projection.Budget{{To: 12, Most: money.Units(7200)}, {To: 18, Most: money.Units(3600)}}, s.Budgets())
	s.Budget = 0
	assert.Empty(t, s.Budgets())
}

func TestWhereNothingServesIsSaid(t *testing.T) {
	s := of(option("A", 400, 10))
	s.Drivers = append(s.Drivers, study.Setting{Driver: "seats", Path: usage.Path{Now: usage.Of(3)}})
	o := compute(t, s)
	a, err := o.Along(context.Background(), "contacts", 0, 1, 20_000)
	require.NoError(t, err)
	assert.Equal(t, []study.RegionWords{{Result: 0, Text: "up to 400 contacts"}, {Result: -1, Text: "above 400 contacts"}}, o.SayRegions(a.Regions, a.Driver, 1, 20_000))
	assert.Contains(t, o.SayAlong(a).String(), "A costs least. At the 3,200 of Jun 2027, all else as in Jan 2027, nothing serves.")
	f, err := o.Field(context.Background(), "contacts", "seats", 0, 20_000, 10, false)
	require.NoError(t, err)
	assert.Contains(t, o.SayField(f, false).String(), "Where we stand A costs least; by ")
	assert.Contains(t, o.SayField(f, false).String(), " growth leads to where nothing serves.")
}

func axis(t *testing.T, o *study.Outcome, driver string) study.Axis {
	a, ok := o.Axis(driver)
	require.True(t, ok)
	return a
}

// Shares and averages are followed in hundredths, at which prices are as the study has
// them.
func TestSharesAreFollowedInHundredths(t *testing.T) {
	s := of(option("A", 100, 10, 9999, 30), option("B", 115, 12, 9999, 14))
	counts, err := usage.ParseFormula("contacts * (1 + list_overlap)")
	require.NoError(t, err)
	for i := range s.Options {
		s.Options[i].Edition.Meters[0].Counts = counts
	}
	s.Drivers[0].Path = usage.Path{Now: usage.Of(100)}
	s.Drivers = append(s.Drivers, study.Setting{Driver: "list_overlap", Path: usage.Path{Now: usage.Quantity(180_000)}},
		study.Setting{Driver: "seats", Path: usage.Path{Now: usage.Of(3)}})
	o := compute(t, s)
	share := axis(t, o, "list_overlap")
	assert.Equal(t, int64(100), share.Parts)
	assert.Equal(t, int64(1), axis(t, o, "contacts").Parts)
	assert.Equal(t, int64(50), o.Reaches(share))
	assert.Equal(t, "0.5", share.Show(50))
	a, err := o.Along(context.Background(), "list_overlap", 0, 1, 50)
	require.NoError(t, err)
	assert.Equal(t, int64(18), a.Now)
	assert.Equal(t, "With list overlap at 0.18, as in Jan 2027, B costs least.", o.SayAlong(a).String())
	assert.Equal(t, []study.RegionWords{{Result: 1, Text: "at any list overlap up to 0.5"}}, o.SayRegions(a.Regions, a.Driver, a.Low, a.High))
	require.Len(t, a.Lines[1].Turns, 2)
	assert.Equal(t, int64(16), a.Lines[1].Turns[1].X, "0.15 is 115 contacts")
	prices, _, err := o.PricesAt(context.Background(), 1, share, 0, []int64{15, 16})
	require.NoError(t, err)
	assert.Equal(t, []money.Amount{money.Units(12), money.Units(14)}, []money.Amount{*prices[0], *prices[1]})
	f, err := o.Field(context.Background(), "list_overlap", "contacts", 0, 50, 200, false)
	require.NoError(t, err)
	assert.InDelta(t, 18, f.Path[0][0], 1e-9)
	assert.Equal(t, int64(18), f.NowX)
	assert.Contains(t, o.SayField(f, false).String(), "Where we stand B costs least")
	a, err = o.Along(context.Background(), "list_overlap", 0, 1, 5)
	require.NoError(t, err)
	assert.Equal(t, "With list overlap at 0.18, as in Jan 2027, we stand outside what is followed here.", o.SayAlong(a).String())
}

// An axis may be ended before where we stand, and a driver may stand at none.
func TestWhereWeStandMayLieOutside(t *testing.T) {
	s := of(option("A", 9999, 10))
	s.Drivers = append(s.Drivers, study.Setting{Driver: "seats", Path: usage.Path{Now: usage.Of(3)}})
	o := compute(t, s)
	a, err := o.Along(context.Background(), "contacts", 0, 1, 50)
	require.NoError(t, err)
	assert.Equal(t, "The 100 contacts of Jan 2027 lie outside what is followed here.", o.SayAlong(a).String())
	f, err := o.Field(context.Background(), "contacts", "seats", 0, 50, 10, false)
	require.NoError(t, err)
	assert.Equal(t, "Where we stand lies outside what is laid out here.", o.SayField(f, false).String())
	assert.Empty(t, f.Passes())
	s.Drivers[0].Path = usage.Path{Shape: usage.Straight, Add: usage.Of(10)}
	o = compute(t, s)
	a, err = o.Along(context.Background(), "contacts", 0, 1, 500)
	require.NoError(t, err)
	assert.Contains(t, o.SayAlong(a).String(), "The 0 contacts of Jan 2027 lie outside what is followed here. At the ")
}

// Who is out is left out of a field, and who is level is called by the right name.
func TestAxesOfAFieldNameResults(t *testing.T) {
	var odd, even []int64
	for x := int64(1); x < 60; x += 2 {
		odd, even = append(odd, x, x), append(even, x+1, x+1)
	}
	s := of(option("A", 9999, 1), option("B", append(odd, 9999, 5000)...), option("C", append(even, 9999, 5000)...))
	s.Needs = append(s.Needs, coverage.Need{ID: "a/no", Feature: "a/no", Name: "forms", Level: coverage.Must})
	for i := range s.Options[1:] {
		s.Options[i+1].Edition.Plans[0].Features["a/no"] = pricelist.Feature{Has: pricelist.Yes}
	}
	s.Drivers = append(s.Drivers, study.Setting{Driver: "seats", Path: usage.Path{Now: usage.Of(3)}})
	s.Drivers[0].Path = usage.Path{Now: usage.Of(20)}
	o := compute(t, s)
	f, err := o.Field(context.Background(), "contacts", "seats", 0, 50, 10, false)
	require.NoError(t, err)
	require.Equal(t, []int{1, 2}, f.Results)
	said := o.SayRegions(f.AlongX, f.X, 0, 50)
	require.Equal(t, 1, said[0].Result)
	assert.Contains(t, said[0].Text, "(taking turns with C there, at most €1.00 apart)")
}

func TestLinesAndFieldsFollowTheStudy(t *testing.T) {
	s := of(option("A", 9999, 10), option("B", 400, 5, 9999, 20))
	s.Drivers = append(s.Drivers, study.Setting{Driver: "seats", Path: usage.Path{Now: usage.Of(3)}})
	o := compute(t, s)
	assert.Len(t, o.Axes(), 1, "no price follows seats")
	a, err := o.Along(context.Background(), "contacts", 0, 1, 2000)
	require.NoError(t, err)
	said := o.SayRegions(a.Regions, a.Driver, 1, 2000)
	assert.Equal(t, []study.RegionWords{{Result: 1, Text: "up to 400 contacts"}, {Result: 0, Text: "above 400 contacts"}}, said)
	assert.Equal(t, "At the 100 contacts of Jan 2027 B costs least; above 400 it is A.", o.SayAlong(a).String())
	f, err := o.Field(context.Background(), "contacts", "seats", 0, 2000, 10, false)
	require.NoError(t, err)
	assert.Equal(t, []study.Pass{{Month: 3, From: 1, To: 0}}, f.Passes())
	assert.Contains(t, o.SayField(f, false).String(), "Where we stand B costs least; by May 2027 growth leads to where A does. In Jun 2027 it leaves what is laid out here.")
	rate(s, "A", 2)
	rate(s, "B", 18)
	o = compute(t, s)
	f, err = o.Field(context.Background(), "contacts", "seats", 0, 2000, 10, true)
	require.NoError(t, err)
	assert.Equal(t, 1, f.On[4], "who fits best is not who costs least")
	for _, wrong := range [][2]int64{{0, 0}, {1, study.MostAlong + 1}, {5, 5}} {
		_, err = o.Along(context.Background(), "contacts", 0, wrong[0], wrong[1])
		assert.Error(t, err, fmt.Sprint(wrong))
	}
	_, err = o.Along(context.Background(), "emails_sent", 0, 1, 10)
	assert.Error(t, err, "it follows from others")
	assert.Equal(t, int64(10_000), o.Reaches(axis(t, o, "contacts")))
}

func TestACourseIsLedThroughAValue(t *testing.T) {
	s := of(option("A", 9999, 10))
	s.Horizon = 24
	for _, p := range []usage.Path{
		{Now: usage.Of(100), Growth: 20_000},
		{Now: usage.Of(100), Growth: 20_000, Season: usage.Season{3: 400_000}},
		{Now: usage.Of(100), Shape: usage.Straight, Add: usage.Of(5)},
		{Now: usage.Of(100), Shape: usage.SCurve, Growth: 50_000, Ceiling: usage.Of(1000)},
		{Now: usage.Of(100), Shape: usage.Turnover, Joins: usage.Of(10), Leaves: 20_000},
		{Now: usage.Of(100), Shape: usage.Constant},
		{Now: usage.Of(100), Shape: usage.ByMonth},
		{Now: usage.Of(100), Growth: 10_000, Events: []usage.Event{{Key: "e", Month: s.Start + 2, Do: usage.Adds, By: usage.Of(20), Stays: true}}},
	} {
		for _, c := range []usage.Case{usage.Expected, usage.High} {
			for _, at := range []int{0, 5, 23} {
				s.Drivers[0].Path, s.Case = p, c
				change, err := s.Bend("contacts", s.Month(at), usage.Of(180))
				require.NoError(t, err, "%+v", p)
				then, _, err := study.Kept().Apply(*s, change)
				require.NoError(t, err)
				path := then.Drivers[0].Path
				got := path.Over(usage.When{Start: s.Start, Case: c}, 24)[at]
				assert.LessOrEqual(t, got, 180+1e-9, "it is not told as 181: %s in month %d: %v", p.Shape, at, change)
				assert.InDelta(t, 180, got, 0.4, "%s in month %d, %s: %v", p.Shape, at, c.Say(), change)
			}
		}
	}
	s.Drivers[0].Path, s.Case = usage.Path{Now: usage.Of(100)}, usage.Expected
	_, err := s.Bend("contacts", s.Month(1), usage.Of(1_000_000))
	assert.EqualError(t, err, "no growth that is taken leads to 1,000,000 in Feb 2027")
	_, err = s.Bend("contacts", s.Start-1, usage.Of(1))
	assert.Error(t, err)
	_, err = s.Bend("pigeons", s.Start, usage.Of(1))
	assert.Error(t, err)
}

func TestAHistoryIsKeptAndTakenOverOnRequest(t *testing.T) {
	s := of(option("A", 999_999, 10))
	var counted []usage.Counted
	grows := usage.Path{Now: usage.Of(1000), Growth: 30_000, Season: usage.Season{3: 500_000, 8: -500_000}}
	for i, v := range grows.Over(usage.When{Start: s.Start - 36}, 36) {
		q, err := usage.FromFloat(v)
		require.NoError(t, err)
		counted = append(counted, usage.Counted{Month: s.Start - 36 + usage.Month(i), Value: q})
	}
	apply := func(c document.Change) {
		then, _, err := study.Kept().Apply(*s, c)
		require.NoError(t, err)
		s = &then
	}
	apply(s.KeepHistory([]study.Record{{Driver: "contacts", Counted: counted[:4]}}))
	apply(s.KeepHistory([]study.Record{{Driver: "contacts", Counted: counted}}))
	assert.Equal(t, counted, s.HistoryOf("contacts"), "the later one takes the place of the one before")
	assert.Equal(t, money.Whole, s.Drivers[0].Path.Growth, "nothing is taken over by itself")
	apply(s.TakeOver("contacts"))
	p := s.Drivers[0].Path
	assert.InDelta(t, 0.03, p.Growth.Float(), 0.001)
	assert.InDelta(t, 1.5, p.Season[3].Float()/p.Season[0].Float(), 0.04)
	assert.Equal(t, usage.Of(100), p.Now)
	assert.Empty(t, s.TakeOver("contacts"), "it stands already")
	assert.Nil(t, s.TakeOver("seats"))
	p.Season[0] += 600_000
	s.Drivers[0].Path = p
	apply(s.EvenSeason("contacts"))
	assert.True(t, s.Drivers[0].Path.Season.Even())
	assert.Empty(t, study.SaySeason(&s.Drivers[0].Path))
	assert.NotEmpty(t, study.SaySeason(&p))
}

func TestCasesAreComputedBesideEachOther(t *testing.T) {
	s := of(option("A", 400, 1, 9999, 10))
	s.Drivers[0].Path.Low.Growth = usage.Given[money.Share]{Told: true}
	o := compute(t, s)
	assert.Equal(t, money.Units(3+30), o.Results[0].Schedule.Total)
	assert.Equal(t, money.Units(6), o.InCase(usage.Low).Results[0].Schedule.Total)
	assert.Same(t, o, o.InCase(usage.Expected))
	assert.Equal(t, o.Results[0].Schedule.Total, o.InCase(usage.High).Results[0].Schedule.Total)
	s.Case = usage.Low
	o = compute(t, s)
	assert.Equal(t, money.Units(6), o.Results[0].Schedule.Total)
	assert.Equal(t, money.Units(33), o.InCase(usage.Expected).Results[0].Schedule.Total)
}

func TestSendsAreBrokenIntoPartsAndWhatIsLeftOutIsSaid(t *testing.T) {
	s := of(option("A", 9999, 10))
	counts, err := usage.ParseFormula("emails_sent")
	require.NoError(t, err)
	s.Options[0].Edition.Meters[0].Counts = counts
	s.Drivers[0].Path = usage.Path{Now: usage.Of(100)}
	s.Drivers = append(s.Drivers, study.Setting{Driver: "newsletters", Path: usage.Path{Now: usage.Of(3)}})
	o := compute(t, s)
	assert.Contains(t, o.SayLeftOut(), "Automated emails stand at none")
	s.Drivers = append(s.Drivers, study.Setting{Driver: "automated_emails", Path: usage.Path{Now: usage.Of(1)}}, study.Setting{Driver: "client_emails",
		Path: usage.Path{Now: usage.Of(100)}})
	o = compute(t, s)
	assert.Empty(t, o.SayLeftOut())
	assert.Equal(t, "newsletters 60%, automated 20%, for clients 20%", o.SaySends(0))
}

func TestAsTodayStaysOnTheFirstPlanAndTerm(t *testing.T) {
	s := of(option("A", 100, 5))
	e := s.Options[0].Edition
	dear := e.Plans[0]
	dear.Key, dear.Name = "dear", "Dear"
	dear.Charges = option("x", 9999, 9).Edition.Plans[0].Charges
	e.Plans = append(e.Plans, dear)
	assert.Equal(t, "Plan", compute(t, s).Results[0].Schedule.Months[0].Plan().Name)
	assert.True(t, compute(t, s).Results[0].Schedule.Serves(), "it moves up")
	s.Pay = "fixed"
	r := compute(t, s).Results[0]
	assert.Equal(t, 1, r.Schedule.Fails, "it stays, and is outgrown")
	s.Options[0].Term = "yearly"
	o := study.Compute(s)
	require.NotEmpty(t, o.Faults)
	assert.Contains(t, o.Faults[0].Text, `is pinned to a term "yearly", on which no plan`)
}

func TestWhatIsCountedAsNothingIsSaid(t *testing.T) {
	s := of(option("A", 9999, 10), option("B", 9999, 10))
	assert.Empty(t, compute(t, s).SayAtNothing())
	seats, err := usage.ParseFormula("seats")
	require.NoError(t, err)
	e := s.Options[1].Edition
	e.Meters = append(e.Meters, pricelist.Meter{Key: "seats", Unit: "seat", Kind: usage.Stock, Counts: seats})
	assert.Empty(t, compute(t, s).SayAtNothing(), "no price goes by them")
	assert.NotContains(t, compute(t, s).Unset, "seats")
	e.Plans[0].Limits = append(e.Plans[0].Limits, pricelist.Limit{Meter: "seats", Most: usage.Of(5)})
	assert.Equal(t, "Counted as 0 in all months: seats, which price lists here count.", compute(t, s).SayAtNothing(), "nothing sets them")
	s.Drivers = append(s.Drivers, study.Setting{Driver: "seats"})
	assert.Equal(t, "Counted as 0 in all months: seats, which price lists here count.", compute(t, s).SayAtNothing(), "set to 0")
	s.Drivers[1].Path.Now = usage.Of(2)
	assert.Empty(t, compute(t, s).SayAtNothing())
}

// What a plan holds is what it takes without more being paid: what is included, where more of it is billed up to
// a limit.
func TestARungHoldsWhatIsPaidForAlready(t *testing.T) {
	o := option("A", 9999, 10)
	e := o.Edition
	next := e.Plans[0]
	next.Key, next.Name, next.Limits = "next", "Next", nil
	e.Plans = append(e.Plans, next)
	for i, included := range []int64{2, 10} {
		e.Plans[i].Charges = []pricelist.Charge{{Key: "contacts", Kind: pricelist.Unit, Meter: e.Meters[0].Key, Each: 1,
			Price: pricelist.Price{Usual: money.Units(5)}, Included: usage.Of(included)}}
	}
	e.Plans[0].Limits = []pricelist.Limit{{Meter: e.Meters[0].Key, Most: usage.Of(50)}}
	rungs := compute(t, of(o)).Results[0].Ladder(0)
	require.Len(t, rungs[1].Times, 1)
	assert.InDelta(t, 5, rungs[1].Times[0].Times, 1e-9, "not a fifth, by the limit below")
}

// A driver that divides by another has no value where that is 0: the field begins at 1.
func TestAFieldBeginsWhereItsDriversHaveAValue(t *testing.T) {
	a, b := option("A", 9999, 10), option("B", 9999, 12)
	f, err := usage.ParseFormula("contacts / seats")
	require.NoError(t, err)
	a.Edition.Meters[0].Counts = f
	s := of(a, b)
	s.Drivers = append(s.Drivers, study.Setting{Driver: "seats", Path: usage.Path{Now: usage.Of(3)}})
	o := compute(t, s)
	field, err := o.Field(context.Background(), "contacts", "seats", 0, 2000, 10, false)
	require.NoError(t, err)
	assert.Equal(t, int64(1), field.Ys[0])
	assert.Equal(t, 0, field.Rows[0][0].Least)
	_, err = o.Along(context.Background(), "seats", 0, 0, 10)
	assert.Error(t, err)
}
