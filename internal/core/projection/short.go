package projection

import (
	"slices"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/work"
)

// shortest is how many values a stretch has at least that is cut: what is shorter and not settled is
// priced value by value, which takes less where two go side by side.
const shortest = 48

// each finds who costs least at every value of short stretches, of those that are alive there. Errors
// are those of reading usage.
func (l *lookout) each(short []stretchOf) (regions []Region, err error) {
	var xs []int64
	starts := make([]int, len(short)+1)
	for i := range short {
		for x := short[i].from; x <= short[i].to; x++ {
			xs = append(xs, x)
		}
		starts[i+1] = len(xs)
	}
	values, err := l.read.At(xs)
	if err != nil {
		return nil, err
	}
	read := map[*pricelist.Edition]tariff.Columns{}
	for i := range short {
		for _, one := range short[i].alive {
			for _, t := range l.bidders[one.bidder].Tools {
				if read[t.Edition] != nil {
					continue
				}
				if read[t.Edition], err = tariff.ReadColumns(t.Edition, values); err != nil {
					return nil, err
				}
			}
		}
	}
	found := make([][]Region, len(short))
	err = work.Each(l.read.within(), len(short), func(i int) error {
		found[i] = l.valueByValue(&short[i], read, starts[i])
		return nil
	})
	return slices.Concat(found...), err
}

// valueByValue prices those that are alive on a stretch at each of its values, whose readings stand from a place on.
func (l *lookout) valueByValue(s *stretchOf, read map[*pricelist.Edition]tariff.Columns, start int) (regions []Region) {
	n := int(s.to - s.from + 1)
	least, low := make([]int, n), make([]int64, n)
	for k := range least {
		least[k], low[k] = -1, tariff.Never
	}
	sum, best, out, room, unsure := make([]int64, n), make([]int64, n), make([]int64, n), make([]int64, n), make([]bool, n)
	for _, one := range s.alive {
		b := &l.bidders[one.bidder]
		clear(sum)
		for t, programs := range one.programs {
			all := read[b.Tools[t].Edition]
			part := make(tariff.Columns, len(all))
			for m := range all {
				part[m] = all[m][start : start+n]
			}
			cheapestOf(b.Tools[t], programs, part, best, unsure, out, room, nil)
			for k := range sum {
				sum[k] = together(sum[k], best[k])
			}
		}
		for k, price := range sum {
			if price != tariff.Never && (least[k] < 0 || cheaper(price, b.Less) < low[k]) {
				least[k], low[k] = one.bidder, cheaper(price, b.Less)
			}
		}
	}
	for k, who := range least {
		x := s.from + int64(k)
		regions = append(regions, Region{From: x, To: x, Least: who})
	}
	return joined(regions)
}
