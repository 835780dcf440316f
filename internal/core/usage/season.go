package usage

import (
	"math"

	"ninecoins/internal/core/money"
)

// Factor is by how much a month lies above or below the level: 1 and so many
// millionths. The zero value is 1.
type Factor int64

// ParseFactor reads a factor, such as 1.35. Errors are those of [money.ParseAmount].
func ParseFactor(s string) (Factor, error) {
	a, err := money.ParseAmount(s)
	return Factor(a - money.Scale), err
}

// String writes the factor as a plain decimal.
func (f Factor) String() string { return (money.Amount(f) + money.Scale).String() }

// Float returns the factor as a number.
func (f Factor) Float() float64 { return 1 + float64(f)/money.Scale }

// MostFactor is the largest factor that is taken; the least is 0.
const MostFactor = 20

// Season holds the factors of the twelve months of a year, January first. The zero
// value swings nowhere. Only their proportions matter: a path stands at its value in
// the first month whatever the factor there.
type Season [12]Factor

// At returns the factor of a month.
func (s *Season) At(m Month) float64 { return s[m.Number()-1].Float() }

// Mean is the mean of the factors.
func (s *Season) Mean() float64 {
	sum := 0.0
	for _, f := range s {
		sum += f.Float()
	}
	return sum / 12
}

// evenTo is the step in which factors are evened: a hundredth of a percent.
const evenTo = money.Scale / 10_000

// Even reports whether the factors average 1, to a tenth of a percent.
func (s *Season) Even() bool { return math.Abs(s.Mean()-1) < 0.0005 }

// Evened returns the factors in the same proportions with a mean of 1: each divided by
// the mean and rounded to a ten-thousandth, what rounding leaves given to the largest.
// Factors that are all 0 become 1.
func (s Season) Evened() Season {
	mean := s.Mean()
	if mean == 0 {
		return Season{}
	}
	var even Season
	left, largest := int64(12*money.Scale), 0
	for i, f := range s {
		to := int64(math.Round(f.Float()/mean*money.Scale/evenTo)) * evenTo
		even[i] = Factor(to - money.Scale)
		left -= to
		if even[i] > even[largest] {
			largest = i
		}
	}
	even[largest] += Factor(left)
	return even
}

// MonthKeys are the keys of the months of a year, January first.
var MonthKeys = [12]string{"jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"}
