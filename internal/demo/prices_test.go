package demo_test

import (
	"context"
	"math"
	"testing"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/demo"
	"ninecoins/internal/formats"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var pricesDay = time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC)

// outcomes are the demo's studies, computed.
func outcomes(t *testing.T) (all []*study.Outcome) {
	t.Helper()
	lists := map[string]*pricelist.Edition{}
	for _, file := range demo.Shelf() {
		e, err := formats.ReadPriceList(t.Context(), file, pricesDay)
		require.NoError(t, err)
		lists[e.Platform.Key+e.ObservedOn.Format(time.DateOnly)] = e
	}
	for _, file := range demo.Studies() {
		s, err := formats.ReadStudy(t.Context(), file, pricesDay, func(platform string, day time.Time) (*pricelist.Edition, bool) {
			e, ok := lists[platform+day.Format(time.DateOnly)]
			return e, ok
		})
		require.NoError(t, err)
		s.Today = pricesDay
		all = append(all, study.Compute(s))
	}
	return all
}

// The ladder's receipts, ratios and features are those of the plans; exactly what is taken
// is lit.
func TestLaddersAgreeWithTheirPlans(t *testing.T) {
	rungs := 0
	for _, o := range outcomes(t) {
		for i := range o.Results {
			r := &o.Results[i]
			for at := range r.Tools {
				taken := 0
				for j, rung := range r.Ladder(at) {
					rungs++
					if rung.Taken {
						taken++
						assert.Equal(t, r.Tools[at].Today.Plan.Key, rung.Plan.Key)
					}
					for _, key := range rung.Adds {
						assert.True(t, rung.Plan.Feature(key).Has.Meets())
						assert.NotContains(t, rung.Loses, key)
					}
					if rung.Price > 0 {
						below, paired := r.Ladder(at)[j-1], false
						for _, a := range below.Receipts {
							for _, b := range rung.Receipts {
								was, is := a.Monthly(), b.Monthly()
								if a.Until != b.Until && a.Until > 0 {
									was = a.Then
								}
								if a.Until != b.Until && b.Until > 0 {
									is = b.Then
								}
								same := a.Term.Months == b.Term.Months && a.Term.Period() == b.Term.Period()
								paired = paired || same && math.Abs(float64(is)-rung.Price*float64(was)) < 1
							}
						}
						assert.True(t, paired, "%s: %s", r.Option.Name, rung.Plan.Name)
					}
					for _, m := range rung.Times {
						assert.True(t, m.Unlimited || m.Times > 0 && m.Is != m.Was, m.Unit)
					}
					for _, u := range rung.Units {
						assert.Positive(t, int64(u.Amount), "%s of %s", u.Unit, rung.Plan.Name)
					}
				}
				if r.Tools[at].Today != nil {
					assert.Equal(t, 1, taken, r.Option.Name)
				}
			}
		}
	}
	assert.Greater(t, rungs, 40)
}

// Below the next step nothing costs more, and at it as much more as is told.
func TestTheNextStepIsWhereThePriceRises(t *testing.T) {
	looked := 0
	for _, o := range outcomes(t) {
		for i := range o.Results {
			r := &o.Results[i]
			for at := range r.Tools {
				e := r.Tools[at].Tool.Edition
				best := func(readings quote.Readings) (money.Amount, bool) {
					basis := quote.Basis{Currency: o.Study.Currency, Rates: o.Study.Rates}
					all, err := projection.Preview(projection.Candidate{Edition: e, Rows: [][]int64{tariff.Row(e, readings)}, Musts: r.Tools[at].Musts, Basis: basis,
						Customer: quote.Customer{Here: r.Option.Now, Sign: study.FirstDay(o.Study.Start)}}, 0)
					require.NoError(t, err)
					var best *quote.Receipt // one that serves before one that may
					for k := range all {
						if q := &all[k]; q.May() && q.Period == r.Tools[at].Today.Period && (best == nil || q.Serves() && !best.Serves() || q.Serves() == best.Serves() && q.Monthly() < best.Monthly()) {
							best = q
						}
					}
					if best == nil {
						return 0, false
					}
					return best.Monthly(), true
				}
				for _, a := range r.Next(at) {
					looked++
					var meter *pricelist.Meter
					for k := range e.Meters {
						if e.Meters[k].Unit == a.Unit {
							meter = &e.Meters[k]
						}
					}
					readings := r.Readings(at)
					now, _ := best(readings)
					readings[meter.Key] = a.At
					then, serves := best(readings)
					if a.To == "" {
						assert.False(t, serves)
						continue
					}
					assert.Equal(t, then-now, a.Costs, "%s at %s %s", r.Option.Name, a.At, a.Unit)
					assert.Greater(t, a.At, a.Now)
				}
			}
		}
	}
	assert.Greater(t, looked, 10)
}

func TestWaysOfPayingAreSetAgainstTheMonth(t *testing.T) {
	o := outcomes(t)[0]
	r, ok := o.Result("brindlepost")
	require.True(t, ok)
	ways := o.Terms(r, 0)
	require.Len(t, ways, 2)
	yearly := ways[1]
	assert.Equal(t, "1633.8", yearly.AtOnce.String())
	assert.Equal(t, "298.2", yearly.Saves.String(), "12 x 161.00 less 1,633.80")
	assert.InDelta(t, 298.20/1932, yearly.Share, 1e-9)
	assert.Equal(t, 11, yearly.From, "10 months at 161.00 are 1,610.00, 11 are 1,771.00")
	assert.Equal(t, "1150.8", yearly.Lost[0].More.String(), "after 3 months 483.00 would have been paid")
	quirebird, ok := o.Result("quirebird")
	require.True(t, ok)
	ways = o.Terms(quirebird, 0)
	require.Len(t, ways, 2)
	usual, month, year := ways[0].Receipt.Then, ways[0].Receipt.Monthly(), ways[1].Receipt.Monthly()
	assert.Equal(t, 3, ways[0].Receipt.Until, "half price for three months")
	assert.Equal(t, 3*month+9*usual-12*year, ways[1].Saves, "of a year whose first three months are half price by the month")
	assert.Equal(t, "80.1", ways[1].Saves.String())
	entry, ok := r.Entry(0)
	require.True(t, ok)
	assert.Equal(t, "16.15", entry.From.String())
	assert.Equal(t, "Sprig", entry.Plan)
	require.Len(t, entry.Why, 1)
	assert.Equal(t, quote.MustMissing, entry.Why[0].Kind)
	osier, _ := o.Result("osier-mail")
	assert.Nil(t, o.Terms(osier, 0), "it is sold in one way alone")
}

// One basket holds every plan of every option on every term, priced as its receipt says.
func TestTheBasketHoldsEveryPlan(t *testing.T) {
	for _, o := range outcomes(t) {
		n := 0
		for i := range o.Results {
			for at := range o.Results[i].Tools {
				n += len(o.Results[i].Tools[at].Prices())
			}
		}
		baskets := o.Baskets()
		assert.Len(t, baskets, n)
		for _, b := range baskets {
			e := o.Results[b.Result].Tools[b.Tool].Tool.Edition
			if e.Tax.Included {
				assert.Contains(t, b.Uneven, e.Tax.Rate.String()+" tax taken out")
			}
			if e.Currency != o.Study.Currency {
				assert.Contains(t, b.Uneven, "from "+e.Currency.Code())
			}
		}
	}
}

// What another list would change is what the study comes to by it.
func TestEffectsAreThoseOfTheOtherList(t *testing.T) {
	o := outcomes(t)[0]
	before, _ := o.Result("brindlepost")
	dearer := *before.Tools[0].Tool.Edition
	dearer.Plans = append([]pricelist.Plan{}, dearer.Plans...)
	p := &dearer.Plans[1]
	p.Charges = append([]pricelist.Charge{}, p.Charges...)
	p.Charges[0].Bands = append([]pricelist.Band{}, p.Charges[0].Bands...)
	p.Charges[0].Bands[1].Price.Usual += money.Units(10)
	effects, after, _ := study.Effects(context.Background(), o, &dearer)
	require.Len(t, effects, 1)
	then, _ := after.Result("brindlepost")
	assert.Equal(t, then.Schedule.Total, effects[0].Then)
	assert.Equal(t, before.Schedule.Total, effects[0].Was)
	assert.Greater(t, effects[0].Then, effects[0].Was)
	assert.Equal(t, "Brindlepost would cost Spring list €120.00 more over 36 months: €7,156.00, not €7,036.00.", study.SayEffects(o, effects).String())
	same, _, _ := study.Effects(context.Background(), o, before.Tools[0].Tool.Edition)
	assert.Equal(t, "Nothing changes for Brindlepost in Spring list.", study.SayEffects(o, same).String())
	moved := study.Moved(o.Study, "brindlepost", time.Time{}, pricesDay)
	require.Len(t, moved, 1)
	assert.Empty(t, study.Moved(o.Study, "brindlepost", pricesDay, pricesDay), "none goes by that list")
}

// A list is tried at what the study has today, or at what is asked for.
func TestAListIsTriedAtAUsage(t *testing.T) {
	o := outcomes(t)[0]
	r, _ := o.Result("brindlepost")
	e := r.Tools[0].Tool.Edition
	tried, err := study.Try(e, o, nil)
	require.NoError(t, err)
	assert.Equal(t, usage.Of(6400), tried.Values["contacts"])
	tried, err = study.Try(e, o, map[string]usage.Quantity{"contacts": usage.Of(12)})
	require.NoError(t, err)
	assert.Equal(t, usage.Of(12), tried.Values["contacts"])
	tried, err = study.Try(e, nil, nil)
	require.NoError(t, err)
	assert.Equal(t, usage.Of(5000), tried.Values["contacts"], "a typical one")
	assert.Positive(t, int64(tried.Values["newsletters"]), "what emails sent follow from")
}

func TestACountingFormulaIsFilledIn(t *testing.T) {
	f, err := usage.ParseFormula("max(contacts * (1 + list_overlap), 500) / 2")
	require.NoError(t, err)
	values := map[string]string{"contacts": "6,400", "list_overlap": "0.18"}
	assert.Equal(t, "the larger of (6,400 × (1 + 0.18) and 500) ÷ 2", f.Filled(func(key string) (string, bool) { v, ok := values[key]; return v, ok }))
}
