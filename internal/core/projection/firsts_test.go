package projection

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// offersForFirsts puts random offers for who signs first on a candidate's plans.
func offersForFirsts(r *rand.Rand, c *Candidate) {
	kinds := []pricelist.OfferKind{pricelist.PercentOff, pricelist.FixedPrice, pricelist.FreeMonths}
	for n := range 1 + r.IntN(3) {
		o := pricelist.Offer{Key: fmt.Sprint("o", n), Kind: kinds[r.IntN(3)], Months: 1 + r.IntN(14), NewCustomers: true, Together: r.IntN(3) == 0,
			Off: money.Share(r.IntN(1_000_000)), Price: money.Units(r.Int64N(60))}
		for _, p := range c.Edition.Plans {
			if r.IntN(2) == 0 {
				o.Plans = append(o.Plans, p.Key)
				for _, t := range p.Terms {
					if r.IntN(4) == 0 {
						o.Terms = append(o.Terms, t.Key)
					}
				}
			}
		}
		if r.IntN(4) == 0 {
			o.Until = c.Customer.Sign.AddDate(0, r.IntN(5), 0)
		}
		if len(o.Plans) > 0 {
			c.Edition.Offers = append(c.Edition.Offers, o)
		}
	}
}

// feesAtSigning charges something at signing some plans, of which some are the same charge.
func feesAtSigning(r *rand.Rand, c *Candidate) {
	for i := range c.Edition.Plans {
		p := &c.Edition.Plans[i]
		for k := range r.IntN(3) {
			fee := pricelist.Charge{Key: fmt.Sprint("fee", r.IntN(3)*10+k), Kind: pricelist.Once, Price: pricelist.Price{Usual: money.Units(r.Int64N(300))}}
			if r.IntN(4) == 0 {
				fee.WaivedOn = []string{p.Terms[r.IntN(len(p.Terms))].Key}
			}
			p.Charges = append(p.Charges, fee)
		}
	}
}

// TestOffersForFirstSignersGoTheGeneralWay holds the flat search with its chains against the general
// one: every month of the way, what it is booked at, and what it costs from each month on.
func TestOffersForFirstSignersGoTheGeneralWay(t *testing.T) {
	r := rand.New(rand.NewPCG(23, 5))
	flats, offered, lapsing, gaps := 0, 0, 0, 0
	for n := range 1500 {
		c := plainCandidate(r)
		c.Leaves = n%3 == 1
		c.Customer.Sign = time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC)
		c.Customer.Here = c.Customer.Here && n%4 == 0
		if n%5 > 0 {
			offersForFirsts(r, &c)
		}
		if n%2 == 0 {
			feesAtSigning(r, &c)
		}
		find := func(general bool) (*choosing, []stay) {
			h, err := newChoosing(&c)
			require.NoError(t, err)
			if f := h.flatten(); f != nil && !general {
				f.space.leave()
				flats++
			}
			h.general = general
			way, err := h.choose()
			require.NoError(t, err)
			return h, way
		}
		h, got := find(false)
		g, want := find(true)
		for u := range want {
			w, v := want[u], got[u]
			if w.program != nil && len(w.program.Offers) > 0 {
				offered++
				if w.age > h.contracts[0].lasts {
					lapsing++
				}
			} else if w.program == nil {
				gaps++
			}
			w.age, v.age = 0, 0 // it is compared by what is booked
			require.Equal(t, w, v, "case %d, month %d", n, u)
		}
		a, err := h.book(got)
		require.NoError(t, err)
		b, err := g.book(want)
		require.NoError(t, err)
		require.Equal(t, b.Total, a.Total)
		require.Equal(t, b.Beyond, a.Beyond)
		for u := range a.Months {
			require.Equal(t, b.Months[u].Accrued, a.Months[u].Accrued, "case %d, month %d", n, u)
			require.Equal(t, b.Months[u].Cash, a.Months[u].Cash, "case %d, month %d", n, u)
			if b.Months[u].Serves {
				require.Equal(t, b.Months[u].Receipt(), a.Months[u].Receipt(), "case %d, month %d", n, u)
			}
		}
	}
	t.Logf("%d flat; months: %d under offers, %d after them, %d unserved", flats, offered, lapsing, gaps)
	assert.Equal(t, 1500, flats)
	assert.Greater(t, offered, 5000)
	assert.Greater(t, lapsing, 1000)
	assert.Greater(t, gaps, 500)
}

// TestRunsGoTheWaysOfSearches holds what every run of months costs, found in one pass from each first
// month, against a search for each end, over plain lists, closed plans and offers for first signers.
func TestRunsGoTheWaysOfSearches(t *testing.T) {
	r := rand.New(rand.NewPCG(23, 6))
	runs := 0
	for n := range 400 {
		c := plainCandidate(r)
		c.Customer.Sign = time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC)
		if n%2 == 0 {
			offersForFirsts(r, &c)
		}
		if n%3 == 0 {
			feesAtSigning(r, &c)
		}
		c.Rows = c.rows()
		months := len(c.Rows)
		left, err := flatRuns(t.Context(), c)
		require.NoError(t, err)
		require.NotNil(t, left)
		for end := 1; end <= months; end++ {
			one := c
			one.Rows, one.Leaves = c.Rows[:end], end < months
			h, err := newChoosing(&one)
			require.NoError(t, err)
			starts, err := h.starts()
			require.NoError(t, err)
			for s, want := range starts {
				runs++
				require.Equal(t, want, left[s*(months+1)+end].value(), "case %d: from %d before %d of %d", n, s, end, months)
			}
		}
	}
	assert.Greater(t, runs, 50_000)
}
