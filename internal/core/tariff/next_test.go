package tariff_test

import (
	"math/big"
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// exactAt is the price before rounding at a reading, by the definitions, with each
// line's amounts left as they are: nil where the plan does not serve.
func (a *asked) exactAt(meter string, x int64) *big.Rat {
	a.q[meter] = rat(x, 1)
	total := new(big.Rat)
	for i := range a.p.Charges {
		ch := &a.p.Charges[i]
		if ch.Optional || ch.Kind == pricelist.Once {
			continue
		}
		month := a.month(ch, nil)
		if month == nil {
			return nil
		}
		total = add(total, month)
	}
	for _, l := range a.p.Limits {
		if l.Holds() && l.Beyond != pricelist.BuyPack && a.q[l.Meter].Cmp(a.most(l)) > 0 {
			return nil
		}
	}
	return total
}

func (a *asked) most(l pricelist.Limit) *big.Rat {
	if l.OfMeter != "" {
		return mul(units(l.Times), a.q[l.OfMeter])
	}
	return units(l.Most)
}

// TestNextIsWhereThePriceChangesItsCourse walks every whole reading in a range by
// the definitions, and holds the readings at which the price jumps, bends or ends
// against those that Next gives.
func TestNextIsWhereThePriceChangesItsCourse(t *testing.T) {
	r := random{rand.New(rand.NewPCG(4, 25))}
	found := 0
	for n := range 200 {
		e, d := r.edition()
		e.AddOns, e.Offers, d.Musts = nil, nil, nil
		p := &e.Plans[0]
		for i := range p.Charges {
			p.Charges[i].Optional = false
		}
		all, err := tariff.Compile(e, p, p.Terms[0], d)
		require.NoError(t, err)
		q := r.readings(e)
		for m := range q {
			q[m] %= 4_000
		}
		meter := r.IntN(2) // contacts or sends, which are whole
		from := r.Int64N(3_000)
		const span = 300
		a := &asked{e, p, p.Terms[0], d, nil, 1, inUnits(e, q), map[*pricelist.Charge]*big.Int{}, map[int][2]*big.Rat{}}
		var value []*big.Rat
		for x := from - 1; x <= from+span+1; x++ {
			value = append(value, a.exactAt(e.Meters[meter].Key, max(0, x)))
		}
		bends := map[int64]bool{}
		for q[meter] = from; ; {
			at, cause, ok := all[0].Next(1, meter, q)
			if !ok || at > from+span {
				break
			}
			require.Greater(t, at, q[meter], "case %d", n)
			require.NotEmpty(t, cause.Kind)
			bends[at], q[meter] = true, at
		}
		slope := func(i int) *big.Rat { return sub(value[i+1], value[i]) }
		for x := from + 1; x < from+span; x++ {
			i := int(x - from + 1) // of x in value
			if value[i] == nil || value[i-1] == nil || value[i-2] == nil || value[i+1] == nil {
				if (value[i] == nil) != (value[i-1] == nil) {
					require.True(t, bends[x], "case %d: served changes at %d", n, x)
				}
				continue
			}
			// x begins a new course where the step into it is not the one before.
			if x > from+1 && slope(i-1).Cmp(slope(i-2)) != 0 {
				require.True(t, bends[x] || bends[x-1], "case %d: %s bends at %d: %v", n, e.Meters[meter].Key, x, bends)
				found++
			}
		}
	}
	assert.Greater(t, found, 30)
}

func TestNextSaysWhy(t *testing.T) {
	e := listOf(stairs(), pricelist.Charge{Key: "p", Kind: pricelist.Pack, Meter: "sends", Price: price("10.00"), Included: usage.Of(100), Size: usage.Of(50)},
		pricelist.Charge{Key: "u", Kind: pricelist.Unit, Meter: "contacts", Price: price("1.00"), Included: usage.Of(1500)})
	e.Plans[0].Limits = []pricelist.Limit{{Meter: "contacts", Most: usage.Of(4000)}, {Meter: "sends", Times: usage.Of(2), OfMeter: "contacts"}}
	all, err := tariff.Compile(e, &e.Plans[0], e.Plans[0].Terms[0], ask(e, 0, 0, 0).deal)
	require.NoError(t, err)
	for _, row := range []struct {
		meter, contacts, sends, at int64
		kind                       tariff.CauseKind
	}{
		{0, 500, 0, 1001, tariff.NextBand}, {0, 1001, 0, 1501, tariff.Included}, {0, 1501, 0, 4001, tariff.PastLimit}, {0, 4001, 0, 5001, tariff.PastBands},
		{1, 500, 100, 101, tariff.NextPack}, {1, 500, 101, 151, tariff.NextPack}, {1, 75, 149, 151, tariff.NextPack}, {1, 70, 130, 141, tariff.PastLimit},
	} {
		at, cause, ok := all[0].Next(1, int(row.meter), []int64{row.contacts, row.sends, 0})
		require.True(t, ok)
		assert.Equal(t, row.at, at, row)
		assert.Equal(t, row.kind, cause.Kind, row)
	}
	_, _, ok := all[0].Next(1, 2, []int64{1, 1, 1})
	assert.False(t, ok, "nothing is charged for storage")
}
