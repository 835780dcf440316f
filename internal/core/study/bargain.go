package study

import (
	"context"
	"errors"
	"math"
	"sync/atomic"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/work"
)

// Bargain is what to ask a vendor for.
type Bargain struct {
	Result int
	// The share off all prices of its lists from which on it would cost least of all that
	// are in, over the horizon; no share where it does already, or no share would do.
	Least     money.Share
	LeastDoes bool
	IsLeast   bool
	// And from which on it pays to leave today's for it in the first month, the move
	// counted; not told where today's does not serve all months.
	Leave     money.Share
	LeaveDoes bool
	Pays      bool         // it does at its list's prices
	FreeMonth money.Amount // what one month free of charge is worth: a month at its first price
}

// cutSteps are the parts of a percent in which cuts are told: tenths.
const cutSteps = 1000

// Bargains tells of each option that serves every month what cut would do. It is worked
// out once: each cut that is told is the least tenth of a percent at which the whole
// horizon, computed anew at the lower prices, costs no more.
func (o *Outcome) Bargains(ctx context.Context, told work.Tell) ([]Bargain, error) {
	var stay money.Amount
	var roads *Roads
	base := o.Baseline()
	if base != nil && base.Result >= 0 && base.Until == o.Study.Horizon {
		var err error
		if roads, err = o.Roads(ctx, told); err != nil {
			return nil, err
		}
		stay = base.Total
	}
	return o.late.dear.Get(ctx, told, func(ctx context.Context, tell work.Tell) ([]Bargain, error) {
		var in []int
		for i := range o.Results {
			if r := &o.Results[i]; r.In() && !r.AtFault {
				in = append(in, i)
			}
		}
		all := make([]Bargain, len(in))
		var done atomic.Int64
		return all, work.Each(ctx, len(in), func(k int) (err error) {
			i := in[k]
			r, b := &o.Results[i], &all[k]
			*b = Bargain{Result: i, IsLeast: true, FreeMonth: r.Monthly(0)}
			target := r.Schedule.Total
			for _, other := range in {
				if total := o.Results[other].Schedule.Total; total < target {
					target, b.IsLeast = total, false
				}
			}
			if !b.IsLeast {
				if b.Least, b.LeastDoes, err = r.cutTo(ctx, o.falls(r), target); err != nil {
					return err
				}
			}
			if roads != nil && i != base.Result {
				moved, _ := roads.Pair(roads.Of(base.Result), roads.Of(i), 0)
				left := stay - (moved.Total - r.Schedule.Total)
				if b.Pays = r.Schedule.Total <= left; !b.Pays {
					if b.Leave, b.LeaveDoes, err = r.cutTo(ctx, o.falls(r), left); err != nil {
						return err
					}
				}
			}
			tell(int(done.Add(1)), len(in))
			return nil
		})
	})
}

// mostGuesses is how often the cut is guessed from the totals at both ends, before what is left is
// halved.
const mostGuesses = 8

// falls is what falls away by an option over the horizon.
func (o *Outcome) falls(r *Result) (sum money.Amount) {
	for t := range r.Schedule.Months {
		sum += r.Schedule.Months[t].Falls
	}
	return sum
}

// cutTo finds the least cut, in tenths of a percent, at which the option, less what falls away by it,
// costs no more than a target over the horizon; false where even for nothing it would.
func (r *Result) cutTo(ctx context.Context, falls, target money.Amount) (money.Share, bool, error) {
	target += falls
	if target < 0 || r.Schedule.Total+falls <= 0 {
		return 0, false, nil
	}
	low, high := 0, cutSteps // it costs more at low, and no more at high
	more, less := (r.Schedule.Total + falls).Float(), 0.0
	for tries := 0; high-low > 1; tries++ {
		mid := (low + high) / 2
		if tries < mostGuesses { // totals nearly follow the cut
			mid = min(high-1, max(low+1, low+int(math.Ceil(float64(high-low)*(more-target.Float())/(more-less)))))
		}
		total, err := r.at(ctx, money.Share(mid)*(money.Whole/cutSteps))
		if err != nil {
			return 0, false, err
		}
		if total <= target {
			high, less = mid, total.Float()
		} else {
			low, more = mid, total.Float()
		}
	}
	return money.Share(high) * (money.Whole / cutSteps), true, nil
}

// at is what the option costs over the horizon at prices of its lists that are lower by
// a share.
func (r *Result) at(ctx context.Context, cut money.Share) (sum money.Amount, err error) {
	for i := range r.Tools {
		c := r.Tools[i].candidate
		c.Edition, c.Programs, c.Within = pricelist.Cut(c.Edition, cut), nil, ctx
		if err := c.Compile(); err != nil {
			return 0, err
		}
		s, err := projection.Project(c)
		if err != nil {
			return 0, err
		}
		if sum += s.Total; sum < 0 {
			return 0, errors.New("study: costs do not fit")
		}
	}
	return sum, nil
}

// Resale is what an option leaves over of what clients pay.
type Resale struct {
	Result int
	Margin []money.Amount // month by month: what clients pay less what the option costs; they pay for months that are served
	Total  money.Amount
	// The least clients at which it does not cost more than they pay, and those from which on it never
	// does, looked at in the first month; 0: none up to where it was looked.
	First, Even int64
	Clients     []int64
}

// mostClients is how many clients are looked at for the number that breaks even.
const mostClients = 500

// Resale tells what is left of what clients pay; nil where nothing is sold on, or no
// driver counts clients.
func (o *Outcome) Resale(ctx context.Context) (all []Resale, err error) {
	price := o.Study.Brief.Resale
	if price == 0 {
		return nil, nil
	}
	clients := o.Values.Of("clients")
	_, set := o.Model.Path("clients")
	for i := range o.Results {
		r := &o.Results[i]
		if r.AtFault {
			continue
		}
		s := Resale{Result: i}
		for t := range o.Study.Horizon {
			n := ceil(clients[t])
			m := &r.Schedule.Months[t]
			margin := -m.Accrued
			if m.Serves {
				margin += price * money.Amount(n)
			}
			s.Clients, s.Margin, s.Total = append(s.Clients, n), append(s.Margin, margin), s.Total+margin
		}
		if set {
			if s.First, s.Even, err = o.breaksEven(ctx, r, price); err != nil {
				return nil, err
			}
		}
		all = append(all, s)
	}
	return all, nil
}

// breaksEven is the least number of clients at which what they pay covers what the option costs in
// the first month, and that from which on it always does; 0 where there is none up to [mostClients].
func (o *Outcome) breaksEven(ctx context.Context, r *Result, price money.Amount) (first, from int64, err error) {
	xs := projection.Ticks(1, mostClients, mostClients)
	values, err := projection.Along(ctx, o.Model, 0, projection.Whole("clients")).At(xs)
	if err != nil {
		return 0, 0, err
	}
	prices, _, err := projection.Prices(o.bids(r, 0), values)
	if err != nil {
		return 0, 0, err
	}
	minor := money.Amount(o.Study.Currency.Minor())
	for i, x := range xs {
		cost := prices[i]
		if cost > int64(price/minor)*x {
			from = 0
		} else if from == 0 {
			from = x
		}
		if first == 0 {
			first = from
		}
	}
	return first, from, nil
}
