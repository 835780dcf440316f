package projection

import (
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestMonthsThatAreAlikeHaveNoCause holds the quick look at two months against
// their receipts: what it passes over, the receipts do not tell apart.
func TestMonthsThatAreAlikeHaveNoCause(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 31))
	same, told := 0, 0
	for n := range 1500 {
		c := small(r, 1+r.IntN(5))
		if n%2 == 0 {
			c = plainCandidate(r)
		}
		for i := range c.Edition.Plans {
			p := &c.Edition.Plans[i]
			p.Charges = append(p.Charges, pricelist.Charge{Key: "packs", Kind: pricelist.Pack, Meter: "sends", Included: usage.Of(900), Size: usage.Of(300), Price: pricelist.Price{Usual: 70_000}})
		}
		s, err := Project(c)
		require.NoError(t, err)
		for u := 1; u < len(s.Months); u++ {
			before, after := &s.Months[u-1], &s.Months[u]
			if !before.Serves || !after.Serves || before.Plan() != after.Plan() {
				continue
			}
			a, b := before.Receipt(), after.Receipt()
			causes := within(&a, &b)
			if alike(before, after) {
				require.Empty(t, causes, "case %d, month %d", n, u)
				same++
			} else if len(causes) > 0 {
				told++
			}
		}
	}
	assert.Greater(t, same, 2000)
	assert.Greater(t, told, 2000)
}
