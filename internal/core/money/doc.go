// Package money holds exact amounts of money.
//
// An [Amount] counts millionths of a currency's unit in 64 bits, so it reaches
// ±9.2 million million units. What a formula yields before it is rounded is a
// [Fraction]: an exact ratio with a 128-bit numerator, so that a price per N
// that does not divide into whole millionths is never cut. A fraction becomes
// an amount once, by [Fraction.Round], to the minor unit of its [Currency],
// half away from zero. Whatever does not fit is refused with [ErrOverflow];
// nothing wraps and nothing passes through binary floating point.
package money
