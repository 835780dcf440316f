package projection

import (
	"context"
	"fmt"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/require"
)

// swept are the options of a field, with usage along contacts.
func swept(t testing.TB, options, plans int) ([]Bidder, Usages) {
	model, err := usage.NewModel(nil, map[string]usage.Path{"newsletters": {Now: usage.Of(4)}, "seats": {Now: usage.Of(3)}})
	require.NoError(t, err)
	var all []Bidder
	for _, c := range field(options, plans, 1) {
		for i, formula := range []string{"contacts", "emails_sent", "seats"} {
			c.Edition.Meters[i].Counts, err = usage.ParseFormula(formula)
			require.NoError(t, err)
		}
		for i := range c.Edition.Plans { // nobody sells the same packs, or the same seats
			for k := range c.Edition.Plans[i].Charges {
				ch := &c.Edition.Plans[i].Charges[k]
				ch.Price.Usual += ch.Price.Usual / 40 * money.Amount(len(all)) / 10_000 * 10_000
				ch.Size += usage.Of(500 * int64(len(all)))
			}
		}
		require.NoError(t, c.Compile())
		var monthly []*tariff.Program
		for _, p := range c.Programs {
			if p.Period == 1 {
				monthly = append(monthly, p)
			}
		}
		all = append(all, Bidder{Tools: []Bid{{c.Edition, monthly}}})
	}
	return all, Along(context.Background(), model, 0, Whole("contacts"))
}

// BenchmarkSweep follows options of four plans from 1 to a million contacts.
func BenchmarkSweep(b *testing.B) {
	for _, options := range []int{3, 6, 12, 24} {
		all, read := swept(b, options, 4)
		b.Run(fmt.Sprint(options), func(b *testing.B) {
			for b.Loop() {
				_, err := NewSweep(money.MustCurrency("EUR"), all, read, 1, 1_000_000)
				require.NoError(b, err)
			}
		})
		b.Run(fmt.Sprint(options, "/regions"), func(b *testing.B) {
			for b.Loop() {
				_, _, err := Regions(all, read, 1, 1_000_000)
				require.NoError(b, err)
			}
		})
	}
}
