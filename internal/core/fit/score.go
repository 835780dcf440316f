package fit

import (
	"fmt"
	"math"
)

// Score is a score or a fit, 0 to 9. It is shown with one decimal; what is shown is
// also what is compared and subtracted, so that the numbers on a page agree.
type Score float64

// Tenths is the score as it is shown: in tenths, half rounded up.
func (s Score) Tenths() int { return int(math.Round(float64(s)*10 + 1e-9)) }

// String writes "6.2".
func (s Score) String() string {
	t := s.Tenths()
	return fmt.Sprintf("%d.%d", t/10, t%10)
}

// Ahead is by how much a score is above another one, as both are shown; 0 where it
// is not.
func (s Score) Ahead(of Score) Score { return Score(max(0, s.Tenths()-of.Tenths())) / 10 }

// Complete reports whether every score is known that weighs anything.
func (s *Standing) Complete() bool { return s.Known > 0.999 }

// String writes the fit as far as it is known: "6.2", or "5.9–7.1" where scores
// are missing.
func (s *Standing) String() string {
	if s.Complete() {
		return s.Fit.String()
	}
	return s.Low.String() + "–" + s.High.String()
}

// certainly reports whether a standing lies ahead of another, or level with it,
// whatever the missing scores turn out to be.
func (s *Standing) certainly(ahead *Standing) bool { return s.Low.Tenths() >= ahead.High.Tenths() }

// Firm reports whether the order of two standings is certain.
func Firm(a, b *Standing) bool {
	return a.Complete() && b.Complete() || a.certainly(b) || b.certainly(a)
}

// CouldLead returns the indices of those that are in and that could come first,
// whatever the missing scores turn out to be: in the order of [Order].
func CouldLead(all []Standing) (could []int) {
	for _, i := range Order(all) {
		if len(all[i].Out) > 0 {
			continue
		}
		beaten := false
		for j := range all {
			other := &all[j]
			beaten = beaten || j != i && len(other.Out) == 0 && other.Low.Tenths() > all[i].High.Tenths()
		}
		if !beaten {
			could = append(could, i)
		}
	}
	return could
}
