package usage

import (
	"fmt"
	"math"

	"ninecoins/internal/core/money"
)

// Path is a driver's value in each month of a study: compound growth from
// where it stands today, x·(1+g)^t. With g = 0 it is constant. The zero value
// is 0 for good.
type Path struct {
	Now    Quantity
	Growth money.Share // a month; may be negative
}

// The growth a month that is taken: from losing half to doubling.
const (
	LeastGrowth = -money.Whole / 2
	MostGrowth  = money.Whole
)

// Check returns an error wrapping [ErrRange] for growth or a start that is not
// taken.
func (p Path) Check() error {
	if p.Now < 0 || p.Now > Most {
		return fmt.Errorf("start %s: %w", p.Now, ErrRange)
	}
	if p.Growth < LeastGrowth || p.Growth > MostGrowth {
		return fmt.Errorf("growth %s a month is not between %s and %s: %w", p.Growth, LeastGrowth, MostGrowth, ErrRange)
	}
	return nil
}

// At returns the value in month t, from 0: Now·(1+Growth)^t.
func (p Path) At(t int) float64 {
	if p.Growth == 0 || t == 0 {
		return p.Now.Float()
	}
	return p.Now.Float() * math.Pow(1+p.Growth.Float(), float64(t))
}
