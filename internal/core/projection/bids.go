package projection

import (
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

// Usages are those at values of a driver that is followed, the others held.
type Usages struct {
	At func(xs []int64) (usage.Columns, error)
	// Whether what a formula counts goes straight with the driver; nil: it is not known.
	Straight func(f usage.Formula) bool
}

// Along are the usages of month t, from 0, along a driver that a study sets.
func Along(m *usage.Model, t int, driver string) Usages {
	return Usages{
		At: func(xs []int64) (usage.Columns, error) {
			at := make([]float64, len(xs))
			for i, x := range xs {
				at[i] = float64(x)
			}
			return m.Usages(t, len(xs), map[string][]float64{driver: at})
		},
		Straight: func(f usage.Formula) bool { return m.Straight(f, driver) },
	}
}

// goesStraight reports whether all that an edition counts goes straight with the
// driver.
func (u *Usages) goesStraight(e *pricelist.Edition) bool {
	return u.Straight != nil && !slices.ContainsFunc(e.Meters, func(m pricelist.Meter) bool { return !u.Straight(m.Counts) })
}

// rowsOf are the readings of each tool of each bidder, a row for each value.
type rowsOf [][][][]int64

// readAll reads the meters of all tools at some values; an edition is read once.
func readAll(bidders []Bidder, read Usages, xs []int64) (rowsOf, error) {
	values, err := read.At(xs)
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

// endsOf are the readings of a tool at both ends of the stretches on which it is asked
// for, two rows a stretch; at is the place of the first of them by stretch.
type endsOf struct {
	rows [][]int64
	at   []int32
}

// of are the readings at the ends of a stretch.
func (e *endsOf) of(stretch int) (from, to []int64) {
	k := e.at[stretch]
	return e.rows[k], e.rows[k+1]
}

// readAlive reads the meters at both ends of each stretch, of the bidders that are alive
// on it, by bidder and tool.
func readAlive(bidders []Bidder, read Usages, open []stretchOf) ([][]*endsOf, error) {
	xs := make([]int64, 0, 2*len(open))
	for i := range open {
		xs = append(xs, open[i].from, open[i].to)
	}
	values, err := read.At(xs)
	if err != nil {
		return nil, err
	}
	type asking struct {
		ends endsOf
		rows []int
	}
	asked := map[*pricelist.Edition]*asking{}
	ends := make([][]*endsOf, len(bidders))
	all := make([]*asking, 0, len(bidders))
	var editions []*pricelist.Edition
	for i, b := range bidders {
		for _, t := range b.Tools {
			one := asked[t.Edition]
			if one == nil {
				one = &asking{}
				asked[t.Edition], all, editions = one, append(all, one), append(editions, t.Edition)
			}
			ends[i] = append(ends[i], &one.ends)
		}
	}
	for i := range open {
		for _, b := range open[i].alive {
			for _, t := range bidders[b.bidder].Tools {
				one := asked[t.Edition]
				if one.rows == nil {
					one.rows, one.ends.at = make([]int, 0, len(xs)), make([]int32, len(open))
				}
				if n := len(one.rows); n == 0 || one.rows[n-1] != 2*i+1 {
					one.ends.at[i] = int32(n)
					one.rows = append(one.rows, 2*i, 2*i+1)
				}
			}
		}
	}
	faults := make([]error, len(all))
	readOne := func(i int) {
		if one := all[i]; one.rows != nil {
			one.ends.rows, faults[i] = tariff.Read(editions[i], values.Pick(one.rows))
		}
	}
	if len(xs) < 64 { // too few to be worth handing out
		for i := range all {
			readOne(i)
		}
	} else {
		each(len(all), readOne)
	}
	for _, fault := range faults {
		if fault != nil {
			return nil, fault
		}
	}
	return ends, nil
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
		q, err := tariff.ReadColumns(t.Edition, values)
		if err != nil {
			return nil, nil, err
		}
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

// amountOf turns minor units of a study's currency into an amount.
func amountOf(c money.Currency, minor int64) money.Amount { return money.Amount(minor * c.Minor()) }

// together adds prices, of which each may be [tariff.Never].
func together(a, b int64) int64 {
	if a == tariff.Never || b == tariff.Never {
		return tariff.Never
	}
	return a + b
}
