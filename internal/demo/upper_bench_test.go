package demo_test

import (
	"context"
	"fmt"
	"slices"
	"testing"

	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/require"
)

// sizes are a study and what it grows to when one thing of it doubles.
func sizes() map[string]testkit.Size {
	base := testkit.Size{Options: 6, Plans: 6, Terms: 4, Bands: 30, AddOns: 10, Offers: 1, Packs: 2, Months: 60}
	double := func(change func(*testkit.Size)) testkit.Size { s := base; change(&s); return s }
	return map[string]testkit.Size{"base": base,
		"options x2": double(func(s *testkit.Size) { s.Options *= 2 }),
		"plans x2":   double(func(s *testkit.Size) { s.Plans *= 2 }),
		"months x2":  double(func(s *testkit.Size) { s.Months *= 2 }),
		"bands x2":   double(func(s *testkit.Size) { s.Bands *= 2 }),
		"no offers":  double(func(s *testkit.Size) { s.Offers = 0 }),
		"upper case": testkit.UpperCase,
		"fees":       double(func(s *testkit.Size) { s.Fees = true }),
		"anybody":    double(func(s *testkit.Size) { s.Anybody = true }),
	}
}

// BenchmarkGrowth works out what takes longest, at a size and at twice of each thing.
func BenchmarkGrowth(b *testing.B) {
	ctx := context.Background()
	for name, size := range sizes() {
		st := testkit.Upper(b, size)
		for what, do := range map[string]func(*study.Outcome) error{
			"compute": func(*study.Outcome) error { return nil },
			"edit": func(o *study.Outcome) error { // of a number that grows
				after := *o.Study
				after.Drivers = slices.Clone(after.Drivers)
				after.Drivers[0].Path.Now += usage.One
				_, err := study.ComputeAfter(ctx, &after, o)
				return err
			},
			"leaving":   func(o *study.Outcome) error { _, err := o.Roads(ctx, nil); return err },
			"negotiate": func(o *study.Outcome) error { _, err := o.Bargains(ctx, nil); return err },
			"along":     func(o *study.Outcome) error { _, err := o.Along(ctx, "contacts", 0, 0, 200_000); return err },
			"field": func(o *study.Outcome) error {
				_, err := o.Field(ctx, "contacts", "seats", 0, 200_000, 100, false)
				return err
			},
			"chance": func(o *study.Outcome) error { _, err := o.Spread(ctx, nil); return err },
			"cases":  func(o *study.Outcome) error { _, err := o.Cases(ctx); return err },
		} {
			b.Run(fmt.Sprint(what, "/", name), func(b *testing.B) {
				o := study.Compute(st)
				for b.Loop() {
					switch b.StopTimer(); what {
					case "compute":
						b.StartTimer()
						o = study.Compute(st)
					case "edit": // whose outcome is there before
					default:
						o = study.Compute(st)
					}
					b.StartTimer()
					require.NoError(b, do(o))
				}
			})
		}
	}
}
