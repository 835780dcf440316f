package study_test

import (
	"context"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// changedSomehow is a study with one thing changed.
func changedSomehow(s *study.Study, r *rand.Rand) *study.Study {
	one := *s
	one.Options, one.Drivers, one.Needs, one.Criteria = slices.Clone(s.Options), slices.Clone(s.Drivers), slices.Clone(s.Needs), slices.Clone(s.Criteria)
	op := &one.Options[r.IntN(len(one.Options))]
	switch r.IntN(14) {
	case 0:
		one.Drivers[0].Path.Now = usage.Of(50 + r.Int64N(500))
	case 1:
		one.Criteria[r.IntN(len(one.Criteria))].Weight = money.Share(r.IntN(9) * 100_000)
	case 2:
		one.Pay = []projection.Policy{projection.Monthly, projection.Mix, projection.Yearly, projection.Fixed}[r.IntN(4)]
	case 3:
		one.Horizon = 3 + r.IntN(20)
	case 4:
		one.Start++
	case 5:
		one.Needs = []coverage.Need{{ID: "a/two", Feature: "a/two", Name: "Tests", Level: coverage.Must, Depth: r.IntN(3)}}
	case 6:
		for i := range one.Needs {
			one.Needs[i].Level = []coverage.Level{coverage.Must, coverage.Want}[r.IntN(2)]
		}
	case 7:
		one.Rates = map[string]quote.Rate{"GBP": {Rate: money.Amount(1_000_000 + r.Int64N(500_000)), On: one.Today}}
	case 8:
		op.Now = !op.Now
	case 9:
		op.Plan = []string{"", "plan", "big"}[r.IntN(3)]
	case 10:
		one.PrivateOffers = []study.PrivateOffer{{Option: op.Key, Plan: "big", Months: 1, Bill: money.Units(1 + r.Int64N(30)), On: one.Today, Until: one.Today.AddDate(1, 0, 0)}}
	case 11:
		e := *op.Edition
		e.Plans = slices.Clone(e.Plans)
		e.Plans[0].Charges = []pricelist.Charge{{Key: "flat", Kind: pricelist.Flat, Price: pricelist.Price{Usual: money.Units(r.Int64N(40))}}}
		op.Edition = &e
	case 12:
		one.Options = one.Options[:1+r.IntN(len(one.Options))]
	case 13:
		one.Today = one.Today.Add(24 * time.Hour * time.Duration(r.IntN(500)))
	}
	return &one
}

// TestAnEditedStudyIsWorkedOutAsAnew changes random studies again and again: what is taken over from before
// the change says the same, and costs the same, as what is worked out anew.
func TestAnEditedStudyIsWorkedOutAsAnew(t *testing.T) {
	over := 0
	for n := range 150 {
		r := rand.New(rand.NewPCG(23, uint64(n)))
		s := spoken(r)
		for i := range s.Options { // what hangs on the day of signing, and on how deep a need is
			e := s.Options[i].Edition
			e.Offers = append(e.Offers, pricelist.Offer{Key: "early", Name: "Early", Kind: pricelist.PercentOff, Off: 300_000, Months: 2, Plans: []string{"big"}, Until: time.Date(2027, 2, 1, 0, 0, 0, 0, time.UTC)})
			e.Plans[1].Features["a/two"] = pricelist.Feature{Has: pricelist.Yes, Depth: 1 + r.IntN(2)}
		}
		before := study.Compute(s)
		for range 6 {
			s = changedSomehow(s, r)
			after, err := study.ComputeAfter(context.Background(), s, before)
			require.NoError(t, err)
			anew := study.Compute(s)
			require.Len(t, after.Results, len(anew.Results))
			for i := range anew.Results {
				a, b := &after.Results[i], &anew.Results[i]
				require.Equal(t, b.Schedule.Total, a.Schedule.Total, "study %d: %s", n, b.Option.Name)
				require.Equal(t, b.AtFault, a.AtFault, "study %d: %s", n, b.Option.Name)
				for m := range b.Schedule.Months {
					require.Equal(t, b.Schedule.Months[m].Accrued, a.Schedule.Months[m].Accrued, "study %d: %s", n, b.Option.Name)
					if b.Schedule.Months[m].Serves && !b.AtFault {
						require.Equal(t, b.Schedule.Months[m].Receipt().Lines, a.Schedule.Months[m].Receipt().Lines, "study %d: %s", n, b.Option.Name)
					}
				}
			}
			if len(anew.Faults) == 0 {
				require.Equal(t, said(t, anew), said(t, after), "study %d", n)
			}
			if p := after.Results[0].Schedule.Months[0].Program; p != nil && p == before.Results[0].Schedule.Months[0].Program {
				over++
			}
			before = after
		}
	}
	assert.Greater(t, over, 200, "often enough something is taken over")
	assert.Less(t, over, 700, "and often not")
}
