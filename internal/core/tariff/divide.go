package tariff

import "math/bits"

// divisor divides by a constant through its reciprocal, and rounds half up. The
// zero value is none; [reciprocal] makes one.
type divisor struct {
	mul   uint64
	half  uint64
	shift uint8
}

// reciprocal returns a divisor by d, of 2 or more, that is exact for every
// numerator up to most, or false where 64 bits cannot be.
//
// With k = 64+shift and mul = ⌊2^k/d⌋+1, n·mul/2^k is n/d + n·e/(d·2^k), where
// e = mul·d - 2^k. It has the whole part of n/d as long as n·e < 2^k
// (Granlund & Montgomery 1994, theorem 4.2).
func reciprocal(d, most uint64) (divisor, bool) {
	half := d / 2
	if most+half < most {
		return divisor{}, false
	}
	if d&(d-1) == 0 {
		return divisor{1 << 63, half, uint8(bits.TrailingZeros64(d)) - 1}, true
	}
	shift := uint8(bits.Len64(d)) - 1
	mul, _ := bits.Div64(1<<shift, 0, d)
	mul++
	_, e := bits.Mul64(mul, d) // mul·d is 2^(64+shift) + e
	over, _ := bits.Mul64(most+half, e)
	return divisor{mul, half, shift}, over < 1<<shift
}

// round returns n/d, rounded half up.
func (d *divisor) round(n uint64) int64 { return d.down(n + d.half) }

// down returns n/d, rounded down: half up, where half has been added before.
func (d *divisor) down(n uint64) int64 {
	hi, _ := bits.Mul64(n, d.mul)
	return int64(hi >> (d.shift & 63))
}

// ceiler divides by a constant and rounds up: the number of packs.
type ceiler struct {
	mul   uint64
	less  uint64 // the divisor less one
	shift uint8
	plain bool // the divisor is one
}

// ceiling returns a ceiler by d, of 1 or more, for numerators up to most.
func ceiling(d, most uint64) (ceiler, bool) {
	if d == 1 {
		return ceiler{plain: true}, true
	}
	by, ok := reciprocal(d, most+d)
	return ceiler{by.mul, d - 1, by.shift, false}, ok && most+d > most
}

func (c *ceiler) of(n uint64) uint64 {
	if c.plain {
		return n
	}
	hi, _ := bits.Mul64(n+c.less, c.mul)
	return hi >> (c.shift & 63)
}
