package projection

import (
	"slices"
	"sort"

	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
)

// course is which programs of each tool of a bidder can be the cheapest where along a driver: runs of
// values in their order, the first from the lowest value on.
type course [][]stretchTaken

type stretchTaken struct {
	from     int64
	programs []int32
}

// courseOf follows each program of each tool by itself, those that may meet all musts apart.
// Errors are those of reading usage.
func courseOf(b Bidder, read Usages, low, high int64) (c course, err error) {
	for _, t := range b.Tools {
		var groups [2][]int32
		for p := range t.Programs {
			may := min(1, len(t.Programs[p].Questions))
			groups[may] = append(groups[may], int32(p))
		}
		runs := []stretchTaken{{from: low}}
		for _, group := range groups {
			if len(group) == 0 {
				continue
			}
			single := make([]Bidder, len(group))
			for k, p := range group {
				single[k] = Bidder{Tools: []Bid{{t.Edition, t.Programs[p : p+1]}}}
			}
			regions, whole, err := Regions(single, read, low, high)
			if err != nil {
				return nil, err
			}
			if !whole {
				regions = []Region{{From: low, To: high, Least: 0, Beside: places(len(group))}}
			}
			runs = taking(runs, regions, group)
		}
		c = append(c, runs)
	}
	return c, nil
}

func places(n int) []int {
	all := make([]int, n)
	for i := range all {
		all[i] = i
	}
	return all
}

// anyOf is a course of which nothing is known: each program can be the cheapest anywhere.
func anyOf(b Bidder, low int64) (c course) {
	for _, t := range b.Tools {
		all := make([]int32, len(t.Programs))
		for p := range all {
			all[p] = int32(p)
		}
		c = append(c, []stretchTaken{{low, all}})
	}
	return c
}

// begins are the stretches of values on which no bidder takes to other programs.
func (l *lookout) begins(courses []course, low, high int64) (open []stretchOf) {
	froms := []int64{low}
	straight := make([]bool, len(courses))
	for i, c := range courses {
		straight[i] = !slices.ContainsFunc(l.bidders[i].Tools, func(t Bid) bool { return !l.read.goesStraight(t.Edition) })
		for _, runs := range c {
			for _, r := range runs {
				froms = append(froms, r.from)
			}
		}
	}
	slices.Sort(froms)
	froms = slices.Compact(froms)
	for k, from := range froms {
		to := high
		if k+1 < len(froms) {
			to = froms[k+1] - 1
		}
		s := stretchOf{from: from, to: to, first: l.value(from), last: l.value(to)}
		for i, c := range courses {
			one := alive{bidder: i, straight: straight[i]}
			for t := range c {
				one.programs = append(one.programs, c[t][c.at(t, from)].programs)
			}
			s.alive = append(s.alive, one)
		}
		open = append(open, s)
	}
	return open
}

// taking adds to runs which of a group of programs is the cheapest in each, or are in turns.
func taking(runs []stretchTaken, regions []Region, group []int32) (all []stretchTaken) {
	for {
		region := &regions[0]
		one := stretchTaken{from: max(runs[0].from, region.From), programs: slices.Clone(runs[0].programs)}
		if region.Least >= 0 {
			one.programs = append(one.programs, group[region.Least])
		}
		for _, k := range region.Beside {
			if k != region.Least {
				one.programs = append(one.programs, group[k])
			}
		}
		all = append(all, one)
		run, last := len(runs) > 1 && runs[1].from <= region.To+1, len(regions) == 1
		switch {
		case run && runs[1].from > region.To: // both end
			runs, regions = runs[1:], regions[1:]
		case run:
			runs = runs[1:]
		case !last:
			regions = regions[1:]
		default:
			return all
		}
	}
}

// at is the place of the run in which a value lies.
func (c course) at(tool int, x int64) int {
	runs := c[tool]
	return sort.Search(len(runs), func(k int) bool { return runs[k].from > x }) - 1
}

// prices is [Prices] at values that do not fall, of the programs that can be the cheapest alone.
func (c course) prices(b Bidder, values usage.Columns, xs []int64) (prices []int64, programs []int, err error) {
	n := len(xs)
	prices, programs = make([]int64, n), make([]int, n)
	out, room, best, unsure := make([]int64, n), make([]int64, n), make([]int64, n), make([]bool, n)
	for at, t := range b.Tools {
		q, err := tariff.ReadColumns(t.Edition, values)
		if err != nil {
			return nil, nil, err
		}
		part := make(tariff.Columns, len(q))
		for from := 0; from < n; {
			run, to := c.at(at, xs[from]), n
			if run+1 < len(c[at]) {
				to = from
				for to < n && xs[to] < c[at][run+1].from {
					to++
				}
			}
			for m := range q {
				part[m] = q[m][from:to]
			}
			var taken []int
			if at == 0 {
				taken = programs[from:to]
			}
			cheapestOf(t, c[at][run].programs, part, best[from:to], unsure[from:to], out[from:to], room[from:to], taken)
			from = to
		}
		for i := range prices {
			prices[i] = together(prices[i], best[i])
		}
	}
	for i, v := range prices {
		prices[i] = cheaper(v, b.Less)
	}
	return prices, programs, nil
}
