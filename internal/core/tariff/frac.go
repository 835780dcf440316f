package tariff

import (
	"math"
	"math/big"
	"math/bits"
)

// frac is an exact fraction in its lowest terms: of 64 bits each way while that is
// enough, which it is for all that price lists hold in practice, and else of any
// size. The zero value is 0.
type frac struct {
	n    int64
	less uint64 // the denominator less one
	wide *big.Rat
}

// whole is a whole number.
func whole(n int64) frac { return frac{n: n} }

// ratio is n/d, d being above 0.
func ratio(n, d int64) frac {
	if d == 1 {
		return frac{n: n}
	}
	g := gcd(magnitude(n), uint64(d))
	return frac{n: n / int64(g), less: uint64(d)/g - 1}
}

func (f frac) d() uint64 { return f.less + 1 }

// rat is the fraction as one of any size.
func (f frac) rat() *big.Rat {
	if f.wide != nil {
		return f.wide
	}
	return new(big.Rat).SetFrac(big.NewInt(f.n), new(big.Int).SetUint64(f.d()))
}

// narrowed is a fraction of any size, in 64 bits where it fits.
func narrowed(r *big.Rat) frac {
	if n, d := r.Num(), r.Denom(); n.IsInt64() && d.IsInt64() && n.Int64() != math.MinInt64 {
		return frac{n: n.Int64(), less: d.Uint64() - 1}
	}
	return frac{wide: r}
}

func (f frac) times(o frac) frac {
	if f.wide == nil && o.wide == nil {
		if f.less|o.less == 0 {
			if n, ok := product(f.n, o.n); ok {
				return frac{n: n}
			}
		}
		g, h := gcd(magnitude(f.n), o.d()), gcd(magnitude(o.n), f.d())
		n, ok := product(f.n/int64(g), o.n/int64(h))
		if d, fits := product(int64(f.d()/h), int64(o.d()/g)); ok && fits {
			return frac{n: n, less: uint64(d) - 1}
		}
	}
	return narrowed(new(big.Rat).Mul(f.rat(), o.rat()))
}

func (f frac) plus(o frac) frac {
	if f.wide == nil && o.wide == nil {
		if f.less|o.less == 0 {
			if n := f.n + o.n; (n > f.n) == (o.n > 0) && n != math.MinInt64 {
				return frac{n: n}
			}
		}
		g := gcd(f.d(), o.d())
		a, ok := product(f.n, int64(o.d()/g))
		b, fits := product(o.n, int64(f.d()/g))
		d, small := product(int64(f.d()/g), int64(o.d()))
		if n := a + b; ok && fits && small && (n > a) == (b > 0) && n != math.MinInt64 {
			return ratio(n, d)
		}
	}
	return narrowed(new(big.Rat).Add(f.rat(), o.rat()))
}

func (f frac) minus(o frac) frac { return f.plus(o.negative()) }

func (f frac) negative() frac {
	if f.wide != nil {
		return frac{wide: new(big.Rat).Neg(f.wide)}
	}
	return frac{n: -f.n, less: f.less}
}

// over is f/o, o being above 0.
func (f frac) over(o frac) frac {
	if o.wide == nil {
		return f.times(frac{n: int64(o.d()), less: uint64(o.n) - 1})
	}
	return narrowed(new(big.Rat).Quo(f.rat(), o.wide))
}

func (f frac) sign() int {
	switch {
	case f.wide != nil:
		return f.wide.Sign()
	case f.n < 0:
		return -1
	case f.n > 0:
		return 1
	}
	return 0
}

// is reports whether the fraction is a whole number of 64 bits.
func (f frac) is(n int64) bool { return f.wide == nil && f.less == 0 && f.n == n }

// floor is the largest whole number that is not above f, held at the largest
// reading. No f is below 0.
func (f frac) floor() int64 {
	if f.wide == nil {
		return f.n / int64(f.d())
	}
	if n := new(big.Int).Quo(f.wide.Num(), f.wide.Denom()); n.IsInt64() {
		return n.Int64()
	}
	return math.MaxInt64
}

// rounded returns f rounded to a whole number, half away from zero, or false where
// it does not fit. No f is below 0.
func (f frac) rounded() (int64, bool) {
	if f.wide != nil {
		n := rounded(f.wide)
		return n.Int64(), n.IsInt64()
	}
	n, rest := uint64(f.n)/f.d(), uint64(f.n)%f.d()
	if rest >= f.d()-rest {
		n++
	}
	return int64(n), n <= math.MaxInt64
}

// scaled is f·d, where d is a multiple of the denominator: a whole number, or
// false where it does not fit.
func (f frac) scaled(d uint64) (uint64, bool) {
	if f.wide != nil || f.n < 0 {
		return 0, false
	}
	hi, lo := bits.Mul64(uint64(f.n), d/f.d())
	return lo, hi == 0
}

// multipleOf is the least number that is a multiple of both, or false where it does
// not fit.
func multipleOf(a, b uint64) (uint64, bool) {
	if a == b || b == 1 {
		return a, true
	}
	hi, lo := bits.Mul64(a/gcd(a, b), b)
	return lo, hi == 0
}

// times64 is a product, or false where it does not fit.
func times64(a, b uint64) (uint64, bool) {
	hi, lo := bits.Mul64(a, b)
	return lo, hi == 0
}

func product(a, b int64) (int64, bool) {
	hi, lo := bits.Mul64(magnitude(a), magnitude(b))
	if hi != 0 || lo > math.MaxInt64 {
		return 0, false
	}
	if (a < 0) != (b < 0) {
		return -int64(lo), true
	}
	return int64(lo), true
}

func magnitude(n int64) uint64 {
	if n < 0 {
		return -uint64(n)
	}
	return uint64(n)
}

// gcd of 0 and b is b. It takes halves (Stein 1967): quicker than remainders.
func gcd(a, b uint64) uint64 {
	if a == 0 || b == 0 {
		return a | b
	}
	twos := bits.TrailingZeros64(a | b)
	a >>= bits.TrailingZeros64(a)
	for b != 0 {
		b >>= bits.TrailingZeros64(b)
		a, b = min(a, b), max(a, b)-min(a, b)
	}
	return a << twos
}
