package usage

import (
	"math"
	"math/rand/v2"
)

// tenth is how many standard deviations the tenth percentile of a normal distribution
// lies below its mean.
const tenth = 1.2815515655446004

// Spread draws random paths of every driver about the expected case: the low case is
// what one path in ten stays below, the high case what one in ten goes beyond. Each
// driver draws for itself one normal number for the whole of a path, z, and is in month
// t expected·(high/expected)^(z/1.2816) for z above 0, and likewise with low below. Noise
// is what months scatter about that: the standard deviation of the logarithm, such as a
// fit to a history leaves.
type Spread struct {
	model          *Model
	months         int
	low, mid, high Columns
	noise          map[string]float64
	random         []string // drivers that are drawn
}

// Spread makes one, of the first months of a model in its expected case. Errors are
// those of [Model.Columns] in any of the cases.
func (m *Model) Spread(months int, noise map[string]float64) (*Spread, error) {
	s := &Spread{months: months, noise: noise}
	for _, c := range Cases() {
		w := m.when
		w.Case = c
		of := *m
		of.when = w
		columns, err := of.Columns(months)
		if err != nil {
			return nil, err
		}
		switch c {
		case Low:
			s.low = columns
		case High:
			s.high = columns
		default:
			s.mid, s.model = columns, &of
		}
	}
	for _, d := range m.drivers {
		p, set := m.paths[d.Key]
		if set && (p.Low.Told() || p.High.Told() || noise[d.Key] > 0) {
			s.random = append(s.random, d.Key)
		}
	}
	return s, nil
}

// Random lists the drivers that differ from path to path, by key.
func (s *Spread) Random() []string { return s.random }

// Paths draws n paths: as many rows as there are months of each, one path after the
// other. Values stay between 0 and [Most]. Errors are those of formulas.
func (s *Spread) Paths(r *rand.Rand, n int) (Columns, error) {
	set := map[string][]float64{}
	for key := range s.model.paths {
		set[key] = make([]float64, 0, n*s.months)
	}
	drawn := map[string]bool{}
	for _, key := range s.random {
		drawn[key] = true
		low, mid, high, noise := s.low.Of(key), s.mid.Of(key), s.high.Of(key), s.noise[key]
		for range n {
			z := r.NormFloat64() / tenth
			toward, share := high, z
			if z < 0 {
				toward, share = low, -z
			}
			for t, v := range mid {
				x := lean(v, toward[t], share)
				if noise > 0 {
					x *= math.Exp(noise*r.NormFloat64() - noise*noise/2)
				}
				set[key] = append(set[key], min(max(x, 0), Most.Float()))
			}
		}
	}
	for key := range set {
		for range n {
			if !drawn[key] {
				set[key] = append(set[key], s.mid.Of(key)...)
			}
		}
	}
	return s.model.Usages(0, n*s.months, set)
}

// lean goes a share of the way from one value to another, and beyond: by their ratio,
// or where one is 0 by their difference.
func lean(from, to, share float64) float64 {
	switch {
	case from == to:
		return from
	case from <= 0 || to <= 0:
		return from + (to-from)*share
	}
	return from * math.Pow(to/from, share)
}
