package study_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
)

// wide is a study of so many options by needs, each with up to 6 plans and with 12 add-ons that
// overlap in what they bring, over so many months.
func wide(options, plans, needs, months int) *study.Study {
	r := rand.New(rand.NewPCG(24, 150))
	s := musts(of())
	s.Horizon = months
	for n := range needs {
		level := []coverage.Level{coverage.Must, coverage.Want, coverage.Want, coverage.Bonus, coverage.Want}[n%5]
		key := fmt.Sprintf("area%d/f%d", n%12, n)
		s.Needs = append(s.Needs, coverage.Need{ID: key, Feature: key, Name: key, Level: level})
	}
	for o := range options {
		t := costing(flat(fmt.Sprintf("t%d", o), make([]map[string]pricelist.Has, 6)...), 20, 40, 60, 90, 140, 200)
		e := t.Edition
		var keys []string
		for p := range e.Plans {
			keys = append(keys, e.Plans[p].Key)
			for _, n := range s.Needs {
				has := pricelist.No
				if r.IntN(10) < 4+p {
					has = pricelist.Yes
				}
				e.Plans[p].Features[n.Feature] = pricelist.Feature{Has: has, Direct: true}
			}
		}
		for a := range 12 {
			add := pricelist.AddOn{Key: fmt.Sprintf("a%d", a), Name: fmt.Sprintf("A%d", a), Plans: keys,
				Charges: []pricelist.Charge{{Key: "fee", Kind: pricelist.Flat, Each: 1, Price: pricelist.Price{Usual: money.Units(int64(3 + r.IntN(20)))}}}}
			for _, n := range s.Needs {
				if r.IntN(4) == 0 {
					add.Gives = append(add.Gives, n.Feature)
				}
			}
			e.AddOns = append(e.AddOns, add)
		}
		one := alone(t)
		one.Face = o + 1
		s.Options = append(s.Options, one)
	}
	return s
}

// Coverage and what each option takes today: 24 options, 150 needs of which 30 are
// musts, 6 plans, 12 add-ons.
func BenchmarkTakes(b *testing.B) {
	s := wide(24, 6, 150, 1)
	for b.Loop() {
		if o := study.Compute(s); !o.Results[0].In() {
			b.Fatal(o.Results[0].Standing.Out)
		}
	}
}

// The cheapest stack out of 12 platforms with 4 plans for 30 needs, from their price lists on.
func BenchmarkBestStack(b *testing.B) {
	s := wide(12, 4, 30, 1)
	for i := range s.Needs {
		s.Needs[i].Level = coverage.Must
	}
	o := study.Compute(s)
	for b.Loop() {
		if best, err := o.BestStack(); err != nil || len(best.Tools) == 0 {
			b.Fatal(err, best.Missing)
		}
	}
}
