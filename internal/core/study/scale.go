package study

import (
	"fmt"
	"math"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
)

// Scale is what is to be said of the scale of a cost criterion, and one that tells the options apart.
type Scale struct {
	Says        string
	Best, Worst money.Amount // that would; equal where nothing is offered
}

// ScaleOf looks at the scale of a criterion; false where it tells the options that are in apart, or has
// nothing to tell: of one option, or of several that cost the same.
func (o *Outcome) ScaleOf(criterion int) (Scale, bool) {
	c := &o.Study.Criteria[criterion]
	if c.Source != fit.Cost || c.Best > c.Worst { // which is at fault
		return Scale{}, false
	}
	low, high, n := money.Amount(math.MaxInt64), money.Amount(0), 0
	for i := range o.Results {
		if r := &o.Results[i]; r.In() && r.Schedule.Serves() {
			low, high, n = min(low, r.Schedule.Total), max(high, r.Schedule.Total), n+1
		}
	}
	none := c.Best == 0 && c.Worst == 0
	if n == 0 || !none && (low == high || c.Value(low) != c.Value(high)) {
		return Scale{}, false
	}
	step := money.Amount(o.Study.Currency.Minor())
	for step*100 <= high {
		step *= 10
	}
	s := Scale{Best: low / step * step, Worst: (high/step + 1) * step}
	cur := o.Study.Currency
	apart := fmt.Sprintf("9 at %s and 0 at %s would tell these apart.", cur.FormatWhole(s.Best), cur.FormatWhole(s.Worst))
	if none {
		s.Says = "Say what cost scores 9, and what 0. " + apart
	} else {
		s.Says = fmt.Sprintf("All score %.0f here, at %s to %s. %s", c.Value(low), cur.FormatWhole(low), cur.FormatWhole(high), apart)
	}
	return s, true
}
