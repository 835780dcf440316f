package money

import (
	"cmp"
	"math"
	"math/bits"
)

// Fraction is an exact number of millionths of a currency's unit, sign·n/d
// with n in 128 bits and d in 64. The zero value is 0. Operations return
// [ErrOverflow] when the exact result does not fit.
type Fraction struct {
	negative bool
	hi, lo   uint64
	below    uint64 // the denominator less one, so that the zero value is 0/1
}

// Exactly returns a as a fraction.
func Exactly(a Amount) Fraction {
	if a < 0 {
		return Fraction{negative: true, lo: uint64(-a)}
	}
	return Fraction{lo: uint64(a)}
}

// IsZero reports whether f is 0.
func (f Fraction) IsZero() bool { return f.hi == 0 && f.lo == 0 }

func (f Fraction) den() uint64 { return f.below + 1 }

// Times returns f·n/d. It panics if d is not positive, which is a fault of the
// program: no input reaches it unchecked.
func (f Fraction) Times(n, d int64) (Fraction, error) {
	if d <= 0 {
		panic("money: Fraction.Times by a denominator that is not positive")
	}
	num, den := magnitude(n), uint64(d)
	g := gcd(num, den)
	num, den = num/g, den/g
	// Cross-cancel, so that a product that fits is not refused on the way.
	g = gcd(num, f.den())
	num, fden := num/g, f.den()/g
	g = gcd(den, f.mod(den))
	whole, _ := f.divide(g)
	hi, lo := whole.hi, whole.lo
	den /= g

	over, lo2 := bits.Mul64(lo, num)
	top, hi2 := bits.Mul64(hi, num)
	hi2, carry := bits.Add64(hi2, over, 0)
	dtop, dlo := bits.Mul64(fden, den)
	if top != 0 || carry != 0 || dtop != 0 {
		return Fraction{}, ErrOverflow
	}
	if hi2 == 0 && lo2 == 0 {
		return Fraction{}, nil
	}
	return Fraction{negative: f.negative != (n < 0), hi: hi2, lo: lo2, below: dlo - 1}, nil
}

// Plus returns f+o.
func (f Fraction) Plus(o Fraction) (Fraction, error) {
	g := gcd(f.den(), o.den())
	a, err := f.scale(o.den() / g)
	if err != nil {
		return Fraction{}, err
	}
	b, err := o.scale(f.den() / g)
	if err != nil {
		return Fraction{}, err
	}
	top, den := bits.Mul64(f.den()/g, o.den())
	if top != 0 {
		return Fraction{}, ErrOverflow
	}
	sum := Fraction{below: den - 1}
	if a.negative == b.negative {
		var carry uint64
		sum.lo, carry = bits.Add64(a.lo, b.lo, 0)
		sum.hi, carry = bits.Add64(a.hi, b.hi, carry)
		if carry != 0 {
			return Fraction{}, ErrOverflow
		}
		sum.negative = a.negative
		return sum, nil
	}
	big, small := a, b
	if a.compareMagnitude(b) < 0 {
		big, small = b, a
	}
	var borrow uint64
	sum.lo, borrow = bits.Sub64(big.lo, small.lo, 0)
	sum.hi, _ = bits.Sub64(big.hi, small.hi, borrow)
	sum.negative = big.negative && !sum.IsZero()
	return sum, nil
}

// Cmp returns -1, 0 or 1 as f is less than, equal to or greater than o, or
// [ErrOverflow] when they cannot be brought to one denominator.
func (f Fraction) Cmp(o Fraction) (int, error) {
	o.negative = !o.negative && !o.IsZero()
	d, err := f.Plus(o)
	switch {
	case err != nil:
		return 0, err
	case d.IsZero():
		return 0, nil
	case d.negative:
		return -1, nil
	}
	return 1, nil
}

// Round returns f rounded to the minor unit of c, half away from zero.
func (f Fraction) Round(c Currency) (Amount, error) { return f.RoundTo(c.Minor()) }

// RoundTo returns f rounded to a multiple of step millionths, half away from
// zero, or [ErrOverflow]. step must be positive.
func (f Fraction) RoundTo(step int64) (Amount, error) {
	den, unit := f.den(), uint64(step)
	whole, left := f.divide(den)
	if whole.hi != 0 {
		return 0, ErrOverflow
	}
	steps, part := whole.lo/unit, whole.lo%unit
	// The remainder is part·den+left of unit·den; both fit 128 bits.
	remHi, remLo := bits.Mul64(part, den)
	remLo, carry := bits.Add64(remLo, left, 0)
	remHi += carry
	allHi, allLo := bits.Mul64(unit, den)
	restLo, borrow := bits.Sub64(allLo, remLo, 0)
	restHi, _ := bits.Sub64(allHi, remHi, borrow)
	if remHi > restHi || (remHi == restHi && remLo >= restLo) {
		steps++
	}
	top, mag := bits.Mul64(steps, unit)
	if top != 0 || mag > math.MaxInt64 {
		return 0, ErrOverflow
	}
	if f.negative {
		return -Amount(mag), nil
	}
	return Amount(mag), nil
}

func (f Fraction) scale(by uint64) (Fraction, error) {
	over, lo := bits.Mul64(f.lo, by)
	top, hi := bits.Mul64(f.hi, by)
	hi, carry := bits.Add64(hi, over, 0)
	if top != 0 || carry != 0 {
		return Fraction{}, ErrOverflow
	}
	return Fraction{negative: f.negative, hi: hi, lo: lo, below: f.below}, nil
}

func (f Fraction) compareMagnitude(o Fraction) int {
	if f.hi != o.hi {
		return cmp.Compare(f.hi, o.hi)
	}
	return cmp.Compare(f.lo, o.lo)
}

// mod returns the numerator modulo d.
func (f Fraction) mod(d uint64) uint64 {
	_, r := bits.Div64(f.hi%d, f.lo, d)
	return r
}

// divide returns the numerator's whole part and remainder by d.
func (f Fraction) divide(d uint64) (whole Fraction, rem uint64) {
	whole.hi = f.hi / d
	whole.lo, rem = bits.Div64(f.hi%d, f.lo, d)
	return whole, rem
}

func magnitude(n int64) uint64 {
	if n < 0 {
		return uint64(-n)
	}
	return uint64(n)
}

func gcd(a, b uint64) uint64 {
	for b != 0 {
		a, b = b, a%b
	}
	if a == 0 {
		return 1
	}
	return a
}
