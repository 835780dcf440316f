package projection

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// movers are up to three options over the same few months, one of which may run today.
func movers(r *rand.Rand) ([]Mover, int) {
	months := 1 + r.IntN(5)
	var all []Mover
	for i := range 1 + r.IntN(3) {
		c := small(r, 1+r.IntN(5))
		c.Customer.Here = i == 0 && r.IntN(2) == 0
		c.Readings = nil
		level := int64(80)
		for range months {
			level = max(0, level+r.Int64N(160)-50)
			c.Readings = append(c.Readings, quote.Readings{"contacts": usage.Of(level), "sends": usage.Of(r.Int64N(2000))})
		}
		m := Mover{Tools: []Candidate{c}, In: money.Amount(r.Int64N(500) * 10_000), Twice: r.IntN(2), Now: c.Customer.Here, Out: r.IntN(12) == 0}
		if r.IntN(5) == 0 {
			m.Tools = append(m.Tools, c)
		}
		all = append(all, m)
	}
	return all, months
}

// over is what an option costs from a month to before another, by projecting just these.
func over(t *testing.T, m *Mover, from, to, months int) (sum value) {
	for _, c := range m.Tools {
		c.Rows, c.Leaves = c.rows()[from:to], to < months
		c.Readings = nil
		c.Customer.Sign = c.Customer.Sign.AddDate(0, from, 0)
		if from > 0 && c.Customer.Here { // it was left: who comes back signs anew, and is no new customer
			return value{gravest: -1}
		}
		s, err := Project(c)
		require.NoError(t, err)
		v := value{cost: int64(s.Total) / 10_000}
		for i := range s.Months {
			if !s.Months[i].Serves {
				v.gravest += gap
			}
		}
		sum = sum.plus(v)
	}
	return sum
}

func TestNoOtherRoadCostsLess(t *testing.T) {
	r := rand.New(rand.NewPCG(12, 4))
	moved, roads, twice := 0, 0, 0
	for n := range 900 {
		all, months := movers(r)
		rs, err := NewRoads(context.Background(), all, months, nil)
		require.NoError(t, err)
		for i := range all { // runs are what projecting them says
			for s := range months {
				for e := s + 1; e <= months && !all[i].Out; e++ {
					if want := over(t, &all[i], s, e, months); want.gravest >= 0 {
						got := rs.run(i, s, e)
						require.Equal(t, want.cost, got.cost, "case %d, option %d from %d to %d", n, i, s, e)
						require.Equal(t, want.gravest/gap, got.gravest/gap)
					}
				}
			}
		}
		best := value{gravest: math.MaxInt64}
		legs := make([]int, months)
		var walk func(t int)
		walk = func(at int) {
			if at == months {
				roads++
				if v := walkedRoad(rs, all, legs); v.can() && v.less(best) {
					best = v
				}
				return
			}
			for i := range all {
				if legs[at] = i; !all[i].Out {
					walk(at + 1)
				}
			}
		}
		walk(0)
		road, ok := rs.Cheapest()
		require.Equal(t, best.can(), ok, "case %d", n)
		if !ok {
			continue
		}
		require.Equal(t, best.cost, int64(road.Total)/10_000, "case %d", n)
		require.Equal(t, best.gravest, road.Gaps)
		moved += road.Moves()
		sum, next := money.Amount(0), 0
		for k, leg := range road.Legs {
			require.Equal(t, next, leg.From)
			next = leg.To + 1
			sum += leg.In + leg.Costs + leg.Beside
			if k > 0 {
				twice += all[leg.Option].Twice
			}
		}
		require.Equal(t, months, next)
		require.Equal(t, road.Total, sum, "case %d: legs add up", n)
		for i := range all {
			for j := range all {
				month, pair, ok := rs.BestMonth(i, j)
				require.Equal(t, !all[i].Out && !all[j].Out, ok)
				for m := range months + 1 {
					if other, _ := rs.Pair(i, j, m); ok && other.Gaps == pair.Gaps {
						require.LessOrEqual(t, pair.Total, other.Total, "moving in month %d rather than %d", m, month)
					}
				}
				if ok && pair.Gaps == road.Gaps {
					require.GreaterOrEqual(t, pair.Total, road.Total)
				}
			}
		}
	}
	assert.Greater(t, roads, 5_000)
	assert.Greater(t, moved, 50)
	assert.Greater(t, twice, 20)
}

// walkedRoad adds up the road that is on an option in each month.
func walkedRoad(rs *Roads, all []Mover, legs []int) value {
	v := rs.begins(legs[0])
	from := 0
	for t := 1; t <= len(legs); t++ {
		if t < len(legs) && legs[t] == legs[from] {
			continue
		}
		if t == len(legs) {
			v = v.plus(rs.run(legs[from], from, t))
			break
		}
		on := rs.run(legs[from], from, rs.until(legs[t], t))
		on.gravest = rs.run(legs[from], from, t).gravest
		v = v.plus(rs.enters(legs[t])).plus(on)
		v.moves++
		from = t
	}
	return v
}

// What is left because it serves no longer is paid on for a while, beside one that
// serves: nothing is unserved in these months.
func TestMonthsPaidBesideLeaveNothingUnserved(t *testing.T) {
	eur := money.MustCurrency("EUR")
	of := func(most int64, now bool, twice int) Mover {
		e := onePlan(10_000)
		e.Plans[0].Limits = []pricelist.Limit{{Meter: "contacts", Most: usage.Of(most), Beyond: pricelist.MoveUp}}
		c := Candidate{Edition: e, Policy: Monthly, Customer: quote.Customer{Here: now}, Basis: quote.Basis{Currency: eur}}
		for m := range int64(12) {
			c.Readings = append(c.Readings, quote.Readings{"contacts": usage.Of(10 * (m + 1))})
		}
		return Mover{Tools: []Candidate{c}, Twice: twice, Now: now}
	}
	for _, months := range []int64{0, 5, 11} { // that what runs today serves
		rs, err := NewRoads(context.Background(), []Mover{of(10*months+5, true, 0), of(999, false, 2)}, 12, nil)
		require.NoError(t, err)
		road, ok := rs.Cheapest()
		require.True(t, ok)
		require.Zero(t, road.Unserved())
		_, best, _ := rs.BestMonth(0, 1)
		require.Zero(t, best.Unserved())
		for month := range int64(13) {
			pair, ok := rs.Pair(0, 1, int(month))
			require.True(t, ok)
			require.Equal(t, max(0, month-months), pair.Unserved(), "leaving in month %d what serves %d", month, months)
		}
	}
}

func TestARoadIsWorthItsMove(t *testing.T) {
	eur := money.MustCurrency("EUR")
	of := func(cents int64, now bool, in int64, twice int) Mover {
		e := onePlan(cents)
		c := Candidate{Edition: e, Policy: Monthly, Customer: quote.Customer{Here: now}, Basis: quote.Basis{Currency: eur}}
		for range 12 {
			c.Readings = append(c.Readings, quote.Readings{"contacts": usage.Of(1)})
		}
		return Mover{Tools: []Candidate{c}, In: money.Amount(in * 10_000), Twice: twice, Now: now}
	}
	rs, err := NewRoads(context.Background(), []Mover{of(10_000, true, 0, 0), of(6_000, false, 30_000, 1)}, 12, nil)
	require.NoError(t, err)
	road, ok := rs.Cheapest()
	require.True(t, ok)
	// Staying costs 1,200; moving at once 300, one month of 100 beside it, and 720.
	require.Equal(t, money.Units(1120), road.Total)
	month, best, _ := rs.BestMonth(0, 1)
	require.Equal(t, 0, month)
	require.Equal(t, money.Units(1120), best.Total)
	later, _ := rs.Pair(0, 1, 3)
	require.Equal(t, money.Units(300+100+300+540), later.Total, "three months at 100, one of them beside the next, the move, nine at 60")
	stays, _ := rs.Alone(0)
	require.Equal(t, money.Units(1200), stays.Total)
	never, _ := rs.Pair(0, 1, 12)
	require.Equal(t, stays, never)

	rs, err = NewRoads(context.Background(), []Mover{of(10_000, true, 0, 0), of(6_000, false, 60_000, 0)}, 12, nil)
	require.NoError(t, err)
	month, _, _ = rs.BestMonth(0, 1)
	require.Equal(t, 12, month, "the move costs 600, and saves 480")
}

// onePlan is a list of one plan at so many cents a month.
func onePlan(cents int64) *pricelist.Edition {
	return &pricelist.Edition{Platform: pricelist.Platform{Key: "madder", Name: "Madder"}, Currency: money.MustCurrency("EUR"),
		Meters: []pricelist.Meter{{Key: "contacts", Unit: "contact", Kind: usage.Stock}},
		Plans: []pricelist.Plan{{Key: "p", Name: "P", Offered: pricelist.Public, Terms: []pricelist.Term{{Key: "monthly", Months: 1, Paid: pricelist.Upfront}},
			Charges: []pricelist.Charge{{Key: "base", Kind: pricelist.Flat, Price: pricelist.Price{Usual: money.Amount(cents * 10_000)}}}}}}
}
