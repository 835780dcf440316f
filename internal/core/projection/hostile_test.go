package projection_test

import (
	"fmt"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
)

// TestListsWithoutBoundsAreRefusedNotWorkedOn tries as many plans, terms, offers,
// add-ons and bands as a file may hold.
func TestListsWithoutBoundsAreRefusedNotWorkedOn(t *testing.T) {
	large := func(plans, terms, offers, bands, addOns int) projection.Candidate {
		e := &pricelist.Edition{Platform: pricelist.Platform{Name: "Sprawl"}, Currency: eur, Meters: []pricelist.Meter{{Key: "contacts", Unit: "contact", Kind: usage.Stock}}}
		for i := range plans {
			p := pricelist.Plan{Key: fmt.Sprint("p", i), Offered: pricelist.Public, Features: map[string]pricelist.Feature{}}
			ch := pricelist.Charge{Key: "s", Kind: pricelist.Stair, Meter: "contacts"}
			for b := range bands {
				ch.Bands = append(ch.Bands, pricelist.Band{To: usage.Of(int64(1000 * (b + 1))), Price: pricelist.Price{Usual: money.Units(int64(b + i))}})
			}
			p.Charges = []pricelist.Charge{ch}
			for n := range terms {
				p.Terms = append(p.Terms, pricelist.Term{Key: fmt.Sprint("t", n), Months: 1 + 4*n, Paid: pricelist.Upfront})
			}
			for f := (addOns + 2) / 3; f < 40; f++ {
				p.Features[fmt.Sprint("a/f", f)] = pricelist.Feature{Has: pricelist.No}
			}
			e.Plans = append(e.Plans, p)
		}
		var all, musts []string
		for i := range e.Plans {
			all = append(all, e.Plans[i].Key)
		}
		for i := range offers {
			e.Offers = append(e.Offers, pricelist.Offer{Key: fmt.Sprint("o", i), Plans: all, Kind: pricelist.PercentOff, Off: 1000, Months: 1 + i, Together: i%2 == 0})
		}
		kind := pricelist.Flat
		if addOns == 60 {
			kind = pricelist.Once // which has no price a month to be compared by
		}
		for i := range addOns {
			e.AddOns = append(e.AddOns, pricelist.AddOn{Key: fmt.Sprint("x", i), Plans: all, Gives: []string{fmt.Sprint("a/f", i/3)},
				Charges: []pricelist.Charge{{Key: "f", Kind: kind, Price: pricelist.Price{Usual: 1}}}})
			musts = append(musts, fmt.Sprint("a/f", i/3))
		}
		return projection.Candidate{Edition: e, Readings: readings(make([]int64, 120)...), Policy: projection.Mix, Basis: quote.Basis{Currency: eur}, Musts: musts}
	}
	for _, row := range []struct {
		c    projection.Candidate
		want error
	}{
		{large(60, 12, 0, 3, 0), projection.ErrTooMany},
		{large(60, 12, 60, 3, 0), tariff.ErrTooLarge},
		{large(60, 12, 0, 300, 0), projection.ErrTooMany},
		{large(2, 2, 0, 3, 60), tariff.ErrTooManyWays},
		{large(2, 2, 0, 3, 59), nil},
		{large(8, 3, 2, 300, 2), nil},
	} {
		_, err := projection.Project(row.c)
		assert.ErrorIs(t, err, row.want)
	}
}
