package tariff

import (
	"math"
	"math/big"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestFractionsAreThoseOfAnySize holds every operation against fractions of any
// size, over numbers of every magnitude.
func TestFractionsAreThoseOfAnySize(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 64))
	number := func() int64 {
		return r.Int64N(math.MaxInt64) >> r.IntN(63)
	}
	any := func() frac {
		switch r.IntN(6) {
		case 0:
			return frac{}
		case 1:
			return whole(number())
		case 2:
			return narrowed(new(big.Rat).SetFrac(new(big.Int).Mul(big.NewInt(number()), big.NewInt(math.MaxInt64)), big.NewInt(1+number()/2)))
		}
		return ratio(number(), 1+number()/2)
	}
	wide, narrow := 0, 0
	same := func(got frac, want *big.Rat, what string, f, o frac) {
		t.Helper()
		require.Zero(t, got.rat().Cmp(want), "%v %s %v is %v, not %v", f.rat(), what, o.rat(), got.rat(), want)
		require.Equal(t, want.Sign(), got.sign())
		if got.wide != nil {
			wide++
			fits := want.Num().IsInt64() && want.Denom().IsInt64()
			require.False(t, fits, "%v is wide though it fits", want)
		} else {
			narrow++
		}
	}
	for range 40_000 {
		f, o := any(), any()
		same(f.times(o), new(big.Rat).Mul(f.rat(), o.rat()), "times", f, o)
		same(f.plus(o), new(big.Rat).Add(f.rat(), o.rat()), "plus", f, o)
		same(f.minus(o), new(big.Rat).Sub(f.rat(), o.rat()), "minus", f, o)
		same(f.minus(o).plus(o), f.rat(), "and back", f, o)
		if o.sign() > 0 {
			same(f.over(o), new(big.Rat).Quo(f.rat(), o.rat()), "over", f, o)
		}
		if whole := new(big.Int).Quo(f.rat().Num(), f.rat().Denom()); whole.IsInt64() {
			require.Equal(t, whole.Int64(), f.floor())
		} else {
			require.Equal(t, int64(math.MaxInt64), f.floor())
		}
		n, ok := f.rounded()
		want := rounded(f.rat())
		require.Equal(t, want.IsInt64(), ok, f.rat())
		if ok {
			require.Equal(t, want.Int64(), n)
		}
		if d, fits := multipleOf(f.d(), o.d()); fits && f.wide == nil && d < math.MaxInt64 {
			n, ok := f.scaled(d)
			want := new(big.Int).Mul(f.rat().Num(), new(big.Int).Quo(new(big.Int).SetUint64(d), f.rat().Denom()))
			require.Equal(t, want.IsUint64(), ok)
			if ok {
				require.Equal(t, want.Uint64(), n)
			}
		}
	}
	assert.Greater(t, wide, 10_000)
	assert.Greater(t, narrow, 10_000)
	for _, c := range []struct{ n, d, want int64 }{{1, 2, 1}, {3, 2, 2}, {1, 3, 0}, {2, 3, 1}, {math.MaxInt64, 2, 1 << 62}, {0, 7, 0}} {
		n, ok := ratio(c.n, c.d).rounded()
		assert.True(t, ok)
		assert.Equal(t, c.want, n, "%d/%d, half away from zero", c.n, c.d)
	}
	assert.True(t, ratio(5, 5).is(1))
	assert.False(t, ratio(5, 4).is(1))
}

func BenchmarkGCD(b *testing.B) {
	for i := range b.N {
		gcd(uint64(i)*4321+987_654, 12_000_000)
	}
}
