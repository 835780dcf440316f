package projection

import (
	"fmt"
	"math"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/require"
)

// field makes options of some plans on two terms each, over months in which usage
// grows, with a dip in the middle.
func field(options, plans, months int) (all []Candidate) {
	eur := money.MustCurrency("EUR")
	for o := range options {
		e := &pricelist.Edition{Platform: pricelist.Platform{Key: fmt.Sprint("o", o), Name: "O"}, Currency: eur,
			Meters: []pricelist.Meter{{Key: "contacts", Unit: "contact", Kind: usage.Stock}, {Key: "sends", Unit: "email", Kind: usage.Flow}, {Key: "seats", Unit: "seat", Kind: usage.Stock}}}
		for i := range int64(plans) {
			cents := func(n int64) pricelist.Price { return pricelist.Price{Usual: money.Amount(n * 10_000)} }
			stair := pricelist.Charge{Key: "base", Kind: pricelist.Stair, Meter: "contacts"}
			for b := range int64(8) {
				stair.Bands = append(stair.Bands, pricelist.Band{To: usage.Of(1000 * (b + 1) * (b + i + 1)), Price: cents(1500*i + 900*b + 37*int64(o))})
			}
			if i == int64(plans)-1 {
				stair.Above = &pricelist.Above{Price: cents(400), Each: 1000}
			}
			e.Plans = append(e.Plans, pricelist.Plan{Key: fmt.Sprint("p", i), Name: "P", Offered: pricelist.Public, Charges: []pricelist.Charge{stair,
				{Key: "seats", Kind: pricelist.Unit, Meter: "seats", Included: usage.Of(2), Each: 1, Price: cents(900)},
				{Key: "packs", Kind: pricelist.Pack, Meter: "sends", Included: usage.Of(20_000), Size: usage.Of(5000), Price: cents(700)}},
				Terms: []pricelist.Term{{Key: "monthly", Months: 1, Paid: pricelist.Upfront}, {Key: "yearly", Months: 12, Paid: pricelist.Upfront, Off: 150_000}}})
		}
		c := Candidate{Edition: e, Policy: Mix, Basis: quote.Basis{Currency: eur}}
		for t := range months {
			x := 2000 * math.Pow(1.03, float64(t))
			if t > months/2 {
				x *= 0.9
			}
			c.Readings = append(c.Readings, quote.Readings{"contacts": usage.Of(int64(x)), "sends": usage.Of(int64(x * 4)), "seats": usage.Of(int64(2 + t/9))})
		}
		all = append(all, c)
	}
	return all
}

// BenchmarkMix compares the cheapest mix of 12 options with pricing each of their
// cells (a plan on a term in a month) once.
func BenchmarkMix(b *testing.B) {
	var all []*choosing
	for _, c := range field(12, 4, 60) {
		h, err := newChoosing(&c)
		require.NoError(b, err)
		all = append(all, h)
	}
	b.Run("cells", func(b *testing.B) {
		b.ReportAllocs()
		sum := int64(0)
		for b.Loop() {
			for _, h := range all {
				for _, p := range h.all {
					for _, row := range h.rows {
						price, _ := p.Price(1, row)
						sum += price
					}
				}
			}
		}
	})
	b.Run("mix", func(b *testing.B) {
		b.ReportAllocs()
		for b.Loop() {
			for _, h := range all {
				h.choose() // which prices every cell itself
			}
		}
	})
}

// BenchmarkProject grows options, plans and months: it should grow as they do.
func BenchmarkProject(b *testing.B) {
	for _, n := range [][3]int{{1, 4, 30}, {2, 4, 30}, {4, 4, 30}, {1, 8, 30}, {1, 16, 30}, {1, 4, 60}, {1, 4, 120}} {
		all := field(n[0], n[1], n[2])
		b.Run(fmt.Sprintf("%dx%dx%d", n[0], n[1], n[2]), func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				for _, c := range all {
					if _, err := Project(c); err != nil {
						b.Fatal(err)
					}
				}
			}
		})
	}
}

// BenchmarkPaths prices 100 paths of 12 options of 4 plans over 36 months, taking
// the cheapest plan each month: a hundredth of a simulation.
func BenchmarkPaths(b *testing.B) {
	var programs [][]*tariff.Program
	var columns []tariff.Columns
	for _, c := range field(12, 4, 36) {
		h, err := newChoosing(&c)
		require.NoError(b, err)
		var some []*tariff.Program
		for _, p := range h.all {
			if p.Term.Months == 1 {
				some = append(some, p)
			}
		}
		programs = append(programs, some)
		q := make(tariff.Columns, len(c.Edition.Meters))
		for path := range 100 {
			for _, row := range h.rows {
				for m := range q {
					q[m] = append(q[m], row[m]*int64(80+path)/100)
				}
			}
		}
		columns = append(columns, q)
	}
	n := len(columns[0][0])
	out, least := make([]int64, n), make([]int64, n)
	b.ReportAllocs()
	for b.Loop() {
		for i, some := range programs {
			for j, p := range some {
				p.PriceAll(1, columns[i], out)
				for k, price := range out {
					if j == 0 || price < least[k] {
						least[k] = price
					}
				}
			}
		}
	}
}
