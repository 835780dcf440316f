package study_test

import (
	"context"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Over studies in which options make tools of today unneeded, one time counted off and
// one time not: every total, month, cash, road, value along a driver and cut differs by
// what falls away and nothing else, and the sentence says which it is.
func TestWhatFallsAwayIsCountedOffEverywhere(t *testing.T) {
	r := rand.New(rand.NewPCG(24, 16))
	turned := 0
	for n := range 80 {
		s := of(option("A", 9999, 40+r.Int64N(20)), option("B", 400, 30, 9999, 40+r.Int64N(30)), option("C", 9999, 60))
		s.Options[2].Now = r.IntN(2) == 0
		s.Options[0].Move.Money = money.Units(r.Int64N(20))
		s.Brief.HourCost = money.Units(30)
		for k, key := range []string{"one", "two"} {
			run := study.Running{Key: key, Name: strings.ToUpper(key), Cost: money.Units(r.Int64N(20))}
			if r.IntN(2) == 0 {
				run.Renews = time.Date(2027, time.Month(1+r.IntN(5)), 1+r.IntN(28), 0, 0, 0, 0, time.UTC)
			}
			s.Running = append(s.Running, run)
			if r.IntN(2) == 0 {
				s.Options[k].Lets = append(s.Options[k].Lets, key)
			}
		}
		s.Options[1].Lets = append(s.Options[1].Lets, "one")
		own := *s
		own.Brief.Unneeded = study.LeftOut
		counted, alone := compute(t, s), compute(t, &own)
		a, err := counted.Along(context.Background(), "contacts", 3, 1, 3000)
		require.NoError(t, err)
		for i := range counted.Results {
			c, o := &counted.Results[i], &alone.Results[i]
			falls := s.FallsAway(&c.Option)
			sum := money.Amount(0)
			for m := range c.Schedule.Months {
				off := money.Amount(0)
				if falls != nil {
					off = falls[m]
				}
				sum += off
				assert.Equal(t, o.Schedule.Months[m].Accrued-off, c.Schedule.Months[m].Accrued)
				assert.Equal(t, o.Schedule.Months[m].Cash-off, c.Schedule.Months[m].Cash)
				assert.Equal(t, o.Schedule.Months[m].Running-sumOf(falls, m+1), c.Schedule.Months[m].Running, "month %d", m)
				assert.Equal(t, o.Monthly(m), c.Monthly(m), "the bill itself is as it was")
			}
			require.Equal(t, o.Schedule.Total-sum, c.Schedule.Total, "study %d", n)
			said := s.SayFalls(&c.Option)
			assert.Equal(t, sum > 0, said != "", said)
			assert.Equal(t, said == "", own.SayFalls(&c.Option) == "")
			prices, _, err := counted.PricesAt(context.Background(), i, a.Driver, 3, []int64{800})
			require.NoError(t, err)
			off := money.Amount(0)
			if falls != nil {
				off = falls[3]
			}
			assert.Equal(t, c.Monthly(3)-off, *prices[0])
		}
		roads, err := counted.Roads(context.Background(), nil)
		require.NoError(t, err)
		for i := range counted.Results {
			road, ok := roads.Alone(roads.Of(i))
			require.True(t, ok)
			assert.Equal(t, counted.Results[i].Schedule.Total, road.Legs[0].Costs)
		}
		best, ok := roads.Cheapest()
		require.True(t, ok)
		total := money.Amount(0)
		for _, l := range best.Legs {
			total += l.Costs + l.In + l.Beside
		}
		assert.Equal(t, best.Total, total, "legs add up")
		for i := range counted.Results {
			if road, _ := roads.Alone(roads.Of(i)); road.Total < best.Total {
				t.Errorf("study %d: staying on %d costs less than the cheapest road", n, i)
			}
		}
		if counted.Cheapest != alone.Cheapest {
			turned++
		}
		bargains, err := counted.Bargains(context.Background(), nil)
		require.NoError(t, err)
		for _, b := range bargains {
			assert.Equal(t, counted.Results[b.Result].Schedule.Total == counted.Results[counted.Cheapest].Schedule.Total, b.IsLeast)
		}
	}
	require.Greater(t, turned, 4, "it changes who is the cheapest")
}

func sumOf(falls []money.Amount, n int) (sum money.Amount) {
	for _, v := range falls[:min(n, len(falls))] {
		sum += v
	}
	return sum
}

// A tool that renews late in the horizon falls away from then on.
func TestWhatFallsAwayDoesSoWhenItWouldRenew(t *testing.T) {
	s := of(option("A", 9999, 10))
	s.Running = []study.Running{{Key: "cards", Name: "Cards", Cost: money.Units(4), Renews: time.Date(2027, 3, 14, 0, 0, 0, 0, time.UTC)}}
	s.Options[0].Lets = []string{"cards"}
	o := compute(t, s)
	assert.Equal(t, money.Units(60-16), o.Results[0].Schedule.Total)
	assert.Equal(t, "The cost of A is counted less what it makes unneeded: Cards, €4.00 a month from Mar 2027.", s.SayFalls(&s.Options[0]))
	s.Running[0].Renews = time.Date(2027, 3, 30, 0, 0, 0, 0, time.UTC)
	assert.Equal(t, money.Units(60-12), compute(t, s).Results[0].Schedule.Total, "nearer to April")
	s.Running[0].Renews = time.Date(2029, 3, 30, 0, 0, 0, 0, time.UTC)
	assert.Empty(t, s.SayFalls(&s.Options[0]))
	assert.Equal(t, money.Units(60), compute(t, s).Results[0].Schedule.Total)
}
