package projection

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// plainCandidate makes an option without offers and without what is charged once,
// of up to five plans on all kinds of terms, over months in which stocks rise and
// fall and plans stop serving.
func plainCandidate(r *rand.Rand) Candidate {
	eur := money.MustCurrency("EUR")
	e := &pricelist.Edition{Platform: pricelist.Platform{Key: "madder", Name: "Madder"}, Currency: eur,
		Meters: []pricelist.Meter{{Key: "contacts", Unit: "contact", Kind: usage.Stock}, {Key: "sends", Unit: "email", Kind: usage.Flow}, {Key: "seats", Unit: "seat", Kind: usage.Stock}}}
	small := int64(1)
	if r.IntN(3) == 0 {
		small = 200 // so that rounding weighs
	}
	price := func(most int64) pricelist.Price {
		return pricelist.Price{Usual: money.Amount(r.Int64N(most) * 10_000 / small)}
	}
	for i := range 1 + r.IntN(5) {
		p := pricelist.Plan{Key: fmt.Sprint("p", i), Name: "P", Offered: pricelist.Public, Features: map[string]pricelist.Feature{"a/b": {Has: []pricelist.Has{pricelist.Yes, pricelist.Unknown}[r.IntN(2)]}}}
		for _, t := range []pricelist.Term{{Key: "monthly", Months: 1, Paid: pricelist.Upfront}, {Key: "quarter", Months: 3, Paid: pricelist.Upfront, Off: 100_000}, {Key: "bound", Months: 12, Paid: pricelist.Monthly, Off: 50_000},
			{Key: "year", Months: 12, Paid: pricelist.Upfront, Off: 200_000}, {Key: "year-2", Months: 12, Paid: pricelist.Upfront, Off: 190_000}, {Key: "two", Months: 24, Paid: pricelist.Upfront, Off: 300_000}} {
			if r.IntN(3) == 0 {
				p.Terms = append(p.Terms, t)
			}
		}
		if len(p.Terms) == 0 {
			p.Terms = []pricelist.Term{{Key: "monthly", Months: 1, Paid: pricelist.Upfront}}
		}
		base := pricelist.Charge{Key: "base", Kind: pricelist.Stair, Meter: "contacts"}
		for b := range 1 + r.Int64N(4) {
			base.Bands = append(base.Bands, pricelist.Band{To: usage.Of(60 * (b + 1) * (int64(i) + 1)), Price: price(5000)})
		}
		p.Charges = append(p.Charges, base, pricelist.Charge{Key: "seats", Kind: pricelist.Unit, Meter: "seats", Each: 1, Price: price(500)})
		if r.IntN(2) == 0 {
			p.Charges = append(p.Charges, pricelist.Charge{Key: "sends", Kind: pricelist.Unit, Meter: "sends", Each: 100, Price: price(300)})
		}
		if r.IntN(3) == 0 {
			p.Limits = append(p.Limits, pricelist.Limit{Meter: "sends", Most: usage.Of(1500), Beyond: pricelist.MoveUp})
		}
		if r.IntN(4) == 0 {
			p.Offered = pricelist.Closed
		}
		e.Plans = append(e.Plans, p)
	}
	c := Candidate{Edition: e, Policy: []Policy{Mix, Mix, Monthly, Yearly}[r.IntN(4)], Basis: quote.Basis{Currency: eur}, Customer: quote.Customer{Here: r.IntN(3) == 0}}
	if r.IntN(2) == 0 {
		c.Musts = []string{"a/b"}
	}
	level, seats := int64(80), int64(1)
	for range 1 + r.IntN(40) {
		level, seats = max(0, level+r.Int64N(60)-22), max(0, seats+r.Int64N(3)-1)
		c.Readings = append(c.Readings, quote.Readings{"contacts": usage.Of(level), "sends": usage.Of(r.Int64N(1700)), "seats": usage.Of(seats)})
	}
	return c
}

// TestTheFlatSearchGoesTheWayOfTheGeneralOne holds one search against the other:
// not only what the way costs is the same, but every month of it.
func TestTheFlatSearchGoesTheWayOfTheGeneralOne(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 25))
	flats, moves, gaps, inside := 0, 0, 0, 0
	for n := range 4000 {
		c := plainCandidate(r)
		c.Leaves = n%2 == 1
		h, err := newChoosing(&c)
		require.NoError(t, err)
		if f := h.flatten(); f != nil {
			f.space.leave()
			flats++
		}
		got, err := h.choose()
		require.NoError(t, err)
		h, err = newChoosing(&c)
		require.NoError(t, err)
		h.general = true
		want, err := h.choose()
		require.NoError(t, err)
		require.Equal(t, len(want), len(got))
		for u := range want {
			require.Equal(t, want[u], got[u], "case %d, month %d", n, u)
			switch now := want[u]; {
			case now.program == nil:
				gaps++
			case now.signed && u > now.start:
				inside++
			case now.signed:
				moves++
			}
		}
	}
	assert.Equal(t, 4000, flats, "all are simple")
	assert.Greater(t, moves, 4000)
	assert.Greater(t, inside, 200, "moves up inside a term")
	assert.Greater(t, gaps, 200)
}

// TestTheFlatSearchLeavesWhatItCannotHold has amounts, horizons and offers that do
// not fit: the general search takes them.
func TestTheFlatSearchLeavesWhatItCannotHold(t *testing.T) {
	for name, change := range map[string]func(*Candidate){
		"amounts": func(c *Candidate) {
			c.Edition.Plans[0].Charges[1].Price.Usual, c.Edition.Plans[0].Charges[1].Included = money.Units(900_000_000), 0
		},
		"months": func(c *Candidate) { c.Readings = append(c.Readings, make([]quote.Readings, 121)...) },
		"offers": func(c *Candidate) {
			c.Edition.Offers = []pricelist.Offer{{Key: "o", Plans: []string{"p0"}, Kind: pricelist.PercentOff, Off: 500_000}}
		},
		"once": func(c *Candidate) {
			c.Edition.Plans[0].Charges = append(c.Edition.Plans[0].Charges, pricelist.Charge{Key: "setup", Kind: pricelist.Once,
				Meter: c.Edition.Meters[0].Key, Rate: pricelist.Price{Usual: 10_000}})
		},
		"lifetime": func(c *Candidate) {
			c.Edition.Plans[0].Terms = append(c.Edition.Plans[0].Terms, pricelist.Term{Key: "life", Months: pricelist.Lifetime, Paid: pricelist.Upfront})
			c.Edition.Plans[0].Charges[0].Price.ByKey = map[string]money.Amount{"life": money.Units(900)}
		},
	} {
		c := field(1, 2, 30)[0]
		if name == "amounts" {
			c.Edition.Plans[0].Terms[0].Months = 60
		}
		change(&c)
		h, err := newChoosing(&c)
		require.NoError(t, err)
		assert.True(t, h.flatten() == nil, name)
		_, err = Project(c)
		assert.NoError(t, err, name)
	}
}
