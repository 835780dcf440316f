package formats_test

import (
	"strings"
	"testing"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/demo"
	"ninecoins/internal/formats"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// flat is what the flat part of a plan tells.
type flat struct {
	Name    string
	Offered pricelist.Offered
	Terms   []pricelist.Term
	Charges []pricelist.Charge
	Limits  []pricelist.Limit
}

func flats(e *pricelist.Edition) (all []flat) {
	for _, p := range e.Plans {
		all = append(all, flat{p.Name, p.Offered, p.Terms, p.Charges, p.Limits})
	}
	return all
}

// What is written as CSV is read again as it was, into the same list and into an empty one.
func TestPricesGoOutAndInAgainAsCSV(t *testing.T) {
	for _, file := range append(demo.Shelf(), []byte(every)) {
		e, err := formats.StatedPriceList(t.Context(), file)
		require.NoError(t, err)
		written, err := formats.WritePrices(&e)
		require.NoError(t, err)
		again, err := formats.ReadPrices(written, e)
		require.NoError(t, err, e.Platform.Name)
		assert.Equal(t, flats(&e), flats(&again), e.Platform.Name)
		assert.Equal(t, e.Plans[0].Features, again.Plans[0].Features, "what plans have stays")

		empty := pricelist.Edition{Currency: e.Currency, Meters: e.Meters}
		fresh, err := formats.ReadPrices(written, empty)
		require.NoError(t, err, e.Platform.Name)
		assert.Equal(t, flats(&e), flats(&fresh), e.Platform.Name)
		twice, err := formats.WritePrices(&fresh)
		require.NoError(t, err)
		assert.Equal(t, string(written), string(twice), e.Platform.Name)
	}
}

func TestATableOfPricesIsRefusedWhole(t *testing.T) {
	e, err := formats.StatedPriceList(t.Context(), demo.PriceLists()[0])
	require.NoError(t, err)
	head := strings.Join(formats.PriceColumns, ",") + "\n"
	for name, one := range map[string]struct{ table, want string }{
		"nothing":              {"", "begins with a head"},
		"no plan":              {head, "no plan is told"},
		"another column":       {"plan,cost\nSprig,3\n", "there is no such column"},
		"a kind that is none":  {"plan,what,key,price\nSprig,tiered,base,9\n", "expected plan, term, limit"},
		"an amount with comma": {"plan,what,key,price\nSprig,flat,base,\"9,50\"\n", `expected an amount such as 12.00, found "9,50"`},
		"a meter that is none": {"plan,what,key,meter,price\nSprig,unit,base,wishes,9\n", "neither a meter of this list nor a driver"},
		"a band of nothing":    {"plan,what,key,up_to,price\nSprig,band,base,100,9\n", "stands nowhere above"},
		"bands go backwards": {"plan,what,key,meter,months,up_to,price\nSprig,term,monthly,,1,,\nSprig,stair,base,contacts,,,\nSprig,band,base,,,500,9\nSprig,band,base,,,100,19\n",
			"band 2 ends at 100, not above band 1"},
		"a pack of nothing":       {"plan,what,key,meter,price\nSprig,pack,base,contacts,9\n", "needs how many it holds"},
		"more cells than columns": {"plan,what\nSprig,plan,x,y\n", "has 4 cells; the head has 2"},
		"a term that is none":     {"plan,what,key,months\nSprig,term,monthly,0\n", "from 1 to 60"},
	} {
		t.Run(name, func(t *testing.T) {
			same, err := formats.ReadPrices([]byte(one.table), e)
			var faults formats.Faults
			require.ErrorAs(t, err, &faults)
			assert.Contains(t, faults.Error(), one.want)
			assert.Equal(t, e, same, "nothing of it was taken")
		})
	}
}
