package demo_test

import (
	"fmt"
	"testing"

	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/demo"

	"github.com/stretchr/testify/require"
)

// Another case of growth, worked out beside the study from what was compiled for it, is
// what the study comes to in that case by itself.
func TestCasesBesideAreTheStudyInThatCase(t *testing.T) {
	policies := []projection.Policy{projection.Monthly, projection.Yearly, projection.Fixed, projection.Mix}
	for n, at := range []int{0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3} {
		for _, written := range demo.Studies() {
			s, pay, c := loadOf(t, written), policies[at], usage.Cases()[n/4]
			s.Pay, s.Case = pay, c
			o := study.Compute(s)
			for _, one := range usage.Cases() {
				alone := *s
				alone.Case = one
				want, got := study.Compute(&alone), o.InCase(one)
				what := fmt.Sprint(pay, " in ", c, ", beside it ", one)
				require.Equal(t, want.Cheapest, got.Cheapest, what)
				require.Equal(t, want.Faults, got.Faults, what)
				require.Equal(t, want.Leads, got.Leads, what)
				for i := range want.Results {
					require.Equal(t, spans(&want.Results[i]), spans(&got.Results[i]), what)
					require.Equal(t, want.Results[i].Schedule.Total, got.Results[i].Schedule.Total, what)
					for m := range want.Results[i].Schedule.Months {
						if !want.Results[i].Schedule.Months[m].Serves {
							continue
						}
						require.Equal(t, want.Results[i].Schedule.Months[m].Called(), got.Results[i].Schedule.Months[m].Called(), what)
					}
				}
			}
		}
	}
}
