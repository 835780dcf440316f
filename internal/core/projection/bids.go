package projection

import (
	"context"
	"slices"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/core/work"
)

// Bidder is what a price is asked of: the tools of an option, each at the price a
// month of the cheapest of its programs, offers that end left out.
type Bidder struct {
	Tools []Bid
	Less  int64 // a month, in minor units: what falls away by it
	Out   bool  // it is priced, and leads nowhere
}

// Bid is a tool of a bidder, with the programs of which it takes the cheapest: those that
// may meet a must that is not known only where no other serves.
type Bid struct {
	Edition  *pricelist.Edition
	Programs []*tariff.Program
}

// Usages are those at values of a driver that is followed, the others held.
type Usages struct {
	Within context.Context // ends the work that asks; nil: nothing does
	At     func(xs []int64) (usage.Columns, error)
	// Whether what a formula counts goes straight with the driver; nil: it is not known.
	Straight func(f usage.Formula) bool
}

// Axis is a driver that is followed, with in how many parts of one: its values are
// counted in these.
type Axis struct {
	Driver string
	Parts  int64
}

// Whole follows a driver in whole units.
func Whole(driver string) Axis { return Axis{driver, 1} }

// values are values of the driver.
func (a Axis) values(xs []int64) []float64 {
	at := make([]float64, len(xs))
	for i, x := range xs {
		at[i] = float64(x) / float64(a.Parts)
	}
	return at
}

func (u *Usages) within() context.Context {
	if u.Within == nil {
		return context.Background()
	}
	return u.Within
}

// Along are the usages of month t, from 0, along a driver that a study sets. They are there
// until the context ends.
func Along(ctx context.Context, m *usage.Model, t int, axis Axis) Usages {
	return Usages{
		Within: ctx,
		At: func(xs []int64) (usage.Columns, error) {
			if err := ctx.Err(); err != nil {
				return usage.Columns{}, err
			}
			return m.Usages(t, len(xs), map[string][]float64{axis.Driver: axis.values(xs)})
		},
		Straight: func(f usage.Formula) bool { return m.Straight(f, axis.Driver) },
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

// looked are the readings of an edition at the values that are looked at, as far as
// somebody who has it is alive there: where the row of each value stands, -1 for none.
type looked struct {
	edition *pricelist.Edition
	rows    [][]int64
	at      []int32
	asked   []int // of the values that are read next
}

// lookout reads meters at the ends of stretches, each value of an edition once.
type lookout struct {
	bidders  []Bidder
	read     Usages
	xs       []int64 // the values that are read next
	known    int     // how many were read before
	editions []*looked
	of       [][]*looked // by bidder and tool
}

func newLookout(bidders []Bidder, read Usages) *lookout {
	l := &lookout{bidders: bidders, read: read, of: make([][]*looked, len(bidders))}
	known := map[*pricelist.Edition]*looked{}
	for i, b := range bidders {
		for _, t := range b.Tools {
			one := known[t.Edition]
			if one == nil {
				one = &looked{edition: t.Edition}
				known[t.Edition], l.editions = one, append(l.editions, one)
			}
			l.of[i] = append(l.of[i], one)
		}
	}
	return l
}

// value notes a value to be read, and tells its place.
func (l *lookout) value(x int64) int32 {
	l.xs = append(l.xs, x)
	return int32(l.known + len(l.xs) - 1)
}

// ends are the readings of a tool of a bidder at both ends of a stretch.
func (l *lookout) ends(s *stretchOf, bidder, tool int) (from, to []int64) {
	one := l.of[bidder][tool]
	return one.rows[one.at[s.first]], one.rows[one.at[s.last]]
}

// look reads the meters at both ends of each stretch, of the bidders that are alive on
// it.
func (l *lookout) look(open []stretchOf) error {
	values, err := l.read.At(l.xs)
	if err != nil {
		return err
	}
	for _, one := range l.editions {
		one.at, one.asked = append(one.at, slices.Repeat([]int32{-1}, len(l.xs))...), one.asked[:0]
	}
	for i := range open {
		ends := [2]int32{open[i].first, open[i].last}
		for _, b := range open[i].alive {
			for _, one := range l.of[b.bidder] {
				for _, x := range ends {
					if one.at[x] < 0 {
						one.at[x] = int32(len(one.rows) + len(one.asked))
						one.asked = append(one.asked, int(x)-l.known)
					}
				}
			}
		}
	}
	readOne := func(i int) error {
		one := l.editions[i]
		if len(one.asked) == 0 {
			return nil
		}
		rows, err := tariff.Read(one.edition, values.Pick(one.asked))
		one.rows = append(one.rows, rows...)
		return err
	}
	if len(l.xs) < 64 { // too few to be worth handing out
		for i := range l.editions {
			if err := readOne(i); err != nil {
				return err
			}
		}
	} else if err := work.Each(l.read.within(), len(l.editions), readOne); err != nil {
		return err
	}
	l.known, l.xs = l.known+len(l.xs), l.xs[:0]
	return nil
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
	return anyOf(b, 0).prices(b, values, make([]int64, values.Rows()))
}

// cheapestOf writes what the cheapest of some programs of a tool costs at each value into best, and
// which that is into taken where that is wanted; the rest is room.
func cheapestOf(t Bid, some []int32, q tariff.Columns, best []int64, unsure []bool, out, room []int64, taken []int) {
	for i := range best {
		best[i], unsure[i] = tariff.Never, false
	}
	for _, k := range some {
		p := t.Programs[k]
		p.MonthlyAll(LongSince, q, out, room)
		may := len(p.Questions) > 0
		for i, v := range out {
			if v != tariff.Never && (best[i] == tariff.Never || may == unsure[i] && v < best[i] || unsure[i] && !may) {
				if best[i], unsure[i] = v, may; taken != nil {
					taken[i] = int(k)
				}
			}
		}
	}
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

// Steady leaves out the programs whose offers lapse, where another of the same plan and term costs
// the same once they have.
func Steady(programs []*tariff.Program) (steady []*tariff.Program) {
	for _, p := range programs {
		var lasting []*pricelist.Offer
		for _, o := range p.Offers {
			if o.Months == 0 {
				lasting = append(lasting, o)
			}
		}
		if len(lasting) < len(p.Offers) && slices.ContainsFunc(programs, func(q *tariff.Program) bool {
			return q.Plan == p.Plan && q.Term.Key == p.Term.Key && slices.Equal(q.Offers, lasting)
		}) {
			continue
		}
		steady = append(steady, p)
	}
	return steady
}
