package projection

import (
	"math"
	"slices"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
)

// Bidder is what a price is asked of: the tools of an option, each at the price a
// month of the cheapest of its programs, offers that end left out.
type Bidder struct {
	Tools []Bid
}

// Bid is a tool of a bidder, with the programs of which it takes the cheapest.
type Bid struct {
	Edition  *pricelist.Edition
	Programs []*tariff.Program
}

// Usages gives the values of all drivers at values of one that is followed.
type Usages func(xs []int64) (usage.Columns, error)

// Region is a run of values of a driver in which the same bidder costs least; of
// several that cost the same the one that stands first.
type Region struct {
	From, To int64
	Least    int // index of the bidder; -1 where none serves
	// Whether another, Beside, costs the same but for cents to and fro.
	Level  bool
	Beside int
}

// mostLooks is how many stretches of a driver are looked at. What is not settled then
// goes by its first value.
const mostLooks = 60_000

// alive are the bidders, and their programs, that may still cost least on a stretch.
type alive struct {
	bidder   int
	programs [][]int32 // by tool
}

type stretchOf struct {
	from, to int64
	alive    []alive
}

// Regions finds who costs least at every whole value of a driver from low to high.
// Stretches of values are halved until one bidder costs no more at any of their values
// than the others cost at any (bounds of [tariff.Program.Bounds]), or one value is
// left: nothing is sampled. It is exact where each meter rises or falls with the driver
// all the way, up to [mostLooks] stretches; whole tells whether these sufficed.
// Errors are those of reading usage at a value.
func Regions(bidders []Bidder, read Usages, low, high int64) (regions []Region, whole bool, err error) {
	first := stretchOf{from: low, to: high}
	for i, b := range bidders {
		one := alive{bidder: i}
		for _, t := range b.Tools {
			all := make([]int32, len(t.Programs))
			for p := range all {
				all[p] = int32(p)
			}
			one.programs = append(one.programs, all)
		}
		first.alive = append(first.alive, one)
	}
	whole = true
	looks, open := 0, []stretchOf{first}
	for len(open) > 0 {
		xs := make([]int64, 0, 2*len(open))
		for _, s := range open {
			xs = append(xs, s.from, s.to)
		}
		rows, err := readAll(bidders, read, xs)
		if err != nil {
			return nil, false, err
		}
		var next []stretchOf
		for i := range open {
			s := &open[i]
			looks++
			least, left, settled := s.settle(bidders, rows, 2*i)
			if !settled && looks+len(next) > mostLooks {
				whole, settled = false, true
			}
			if settled {
				regions = append(regions, Region{From: s.from, To: s.to, Least: least})
				continue
			}
			middle := s.from + (s.to-s.from)/2
			if s.to > 4*max(1, s.from) { // prices turn by orders of magnitude
				middle = max(s.from, int64(math.Sqrt(float64(max(1, s.from))*float64(s.to))))
			}
			next = append(next, stretchOf{s.from, middle, left}, stretchOf{middle + 1, s.to, left})
		}
		open = next
	}
	slices.SortFunc(regions, func(a, b Region) int { return int(max(-1, min(1, a.From-b.From))) })
	return level(joined(regions)), whole, nil
}

// joined puts runs of the same bidder together.
func joined(all []Region) (runs []Region) {
	for _, r := range all {
		if n := len(runs); n > 0 && runs[n-1].Least == r.Least {
			runs[n-1].To = r.To
			continue
		}
		runs = append(runs, r)
	}
	return runs
}

// flickers is how often two bidders take turns within a range of values for it to be
// said that they are level there.
const flickers = 4

// level joins runs in which two bidders take turns, each shorter than a hundredth of
// where it stands.
func level(all []Region) (runs []Region) {
	short := func(r Region) bool { return r.To-r.From < max(2, r.From/100) }
	for i := 0; i < len(all); {
		j := i
		for j+1 < len(all) && all[j].Least >= 0 && all[j+1].Least >= 0 && short(all[j+1]) && (j == i || all[j+1].Least == all[j-1].Least) {
			j++
		}
		if j-i < flickers {
			runs = append(runs, all[i])
			i++
			continue
		}
		if !short(all[i]) { // it leads up to where the turns begin
			runs = append(runs, all[i])
			i++
		}
		runs = append(runs, Region{From: all[i].From, To: all[j].To, Least: all[i].Least, Level: true, Beside: all[i+1].Least})
		i = j + 1
	}
	return runs
}

// rowsOf are the readings of each tool of each bidder, a row for each value.
type rowsOf [][][][]int64

// readAll reads the meters of all tools at some values; an edition is read once.
func readAll(bidders []Bidder, read Usages, xs []int64) (rowsOf, error) {
	values, err := read(xs)
	if err != nil {
		return nil, err
	}
	known := map[*pricelist.Edition][][]int64{}
	rows := make(rowsOf, len(bidders))
	for i, b := range bidders {
		for _, t := range b.Tools {
			all, ok := known[t.Edition]
			if !ok {
				if all, err = tariff.Read(t.Edition, values); err != nil {
					return nil, err
				}
				known[t.Edition] = all
			}
			rows[i] = append(rows[i], all)
		}
	}
	return rows, nil
}

// settle tells who costs least on the whole stretch, of which the readings at both ends
// stand in rows at and at+1, or who may.
func (s *stretchOf) settle(bidders []Bidder, rows rowsOf, at int) (least int, left []alive, settled bool) {
	type bounds struct{ low, high int64 }
	all := make([]bounds, len(s.alive))
	left = make([]alive, len(s.alive))
	top := int64(tariff.Never)
	for i := range s.alive {
		one := &s.alive[i]
		left[i] = alive{bidder: one.bidder, programs: make([][]int32, len(one.programs))}
		for t, programs := range one.programs {
			bid := &bidders[one.bidder].Tools[t]
			lo, hi := between(rows[one.bidder][t][at], rows[one.bidder][t][at+1])
			low, high := int64(tariff.Never), int64(tariff.Never)
			lows := make([]int64, len(programs))
			for k, p := range programs {
				a, b := bid.Programs[p].Bounds(LongSince, lo, hi)
				lows[k], low, high = a, min(low, a), min(high, b)
			}
			for k, p := range programs {
				if lows[k] <= high && lows[k] != tariff.Never {
					left[i].programs[t] = append(left[i].programs[t], p)
				}
			}
			all[i].low, all[i].high = together(all[i].low, low), together(all[i].high, high)
		}
		top = min(top, all[i].high)
	}
	kept := 0
	for i := range all {
		if all[i].low <= top && all[i].low != tariff.Never {
			all[kept], left[kept] = all[i], left[i]
			kept++
		}
	}
	all, left = all[:kept], left[:kept]
	if kept == 0 {
		return -1, nil, true
	}
	// The first of those with the lowest upper bound is the only one that can be sure.
	best := 0
	for i := range all {
		if all[i].high < all[best].high {
			best = i
		}
	}
	settled = all[best].high != tariff.Never
	for i := range all {
		if i < best {
			settled = settled && all[best].high < all[i].low
		} else if i > best {
			settled = settled && all[best].high <= all[i].low
		}
	}
	if !settled && s.from == s.to { // several cost the same: the first of them
		settled = true
		for i := range all {
			if all[i].low == top {
				best = i
				break
			}
		}
	}
	return left[best].bidder, left, settled
}

// together adds prices, of which each may be [tariff.Never].
func together(a, b int64) int64 {
	if a == tariff.Never || b == tariff.Never {
		return tariff.Never
	}
	return a + b
}

// between puts the lower and the higher reading of each meter apart.
func between(a, b []int64) (lo, hi []int64) {
	same := true
	for m := range a {
		same = same && a[m] <= b[m]
	}
	if same {
		return a, b
	}
	lo, hi = slices.Clone(a), slices.Clone(b)
	for m := range lo {
		lo[m], hi[m] = min(a[m], b[m]), max(a[m], b[m])
	}
	return lo, hi
}

// Prices returns what a bidder costs a month at each value, in minor units of the
// study; [tariff.Never] where a tool has nothing that serves. programs is which program
// of the first tool that is.
func Prices(b Bidder, values usage.Columns) (prices []int64, programs []int, err error) {
	n := values.Rows()
	prices, programs = make([]int64, n), make([]int, n)
	out, room, best := make([]int64, n), make([]int64, n), make([]int64, n)
	for at, t := range b.Tools {
		rows, err := tariff.Read(t.Edition, values)
		if err != nil {
			return nil, nil, err
		}
		q := columns(rows, len(t.Edition.Meters))
		for i := range best {
			best[i] = tariff.Never
		}
		for k, p := range t.Programs {
			p.MonthlyAll(LongSince, q, out, room)
			for i, v := range out {
				if v < best[i] {
					if best[i] = v; at == 0 {
						programs[i] = k
					}
				}
			}
		}
		for i := range prices {
			prices[i] = together(prices[i], best[i])
		}
	}
	return prices, programs, nil
}

// columns turns rows of readings into columns.
func columns(rows [][]int64, meters int) tariff.Columns {
	q, room := make(tariff.Columns, meters), make([]int64, meters*len(rows))
	for m := range q {
		q[m], room = room[:len(rows):len(rows)], room[len(rows):]
		for i := range rows {
			q[m][i] = rows[i][m]
		}
	}
	return q
}

// amountOf turns minor units of a study's currency into an amount.
func amountOf(c money.Currency, minor int64) money.Amount { return money.Amount(minor * c.Minor()) }
