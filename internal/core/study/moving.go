package study

import (
	"context"
	"slices"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/core/work"
)

// Move is what it takes to move to an option.
type Move struct {
	Hours   usage.Quantity // of our own work
	Money   money.Amount   // paid to others, once
	Twice   int            // months in which what is left runs on, and is paid too
	Rebuilt string         // what has to be built anew
	Notice  int            // days before a term of it ends until which it can be left
}

func moveParts() document.Parts[Move] {
	edits := document.Needs(toEdit)
	return document.Parts[Move]{
		document.Field("hours", "hours to move", quantityOrNone, func(m *Move) *usage.Quantity { return &m.Hours }, edits),
		document.Field("money", "paid for the move", notation.Budget, func(m *Move) *money.Amount { return &m.Money }, edits),
		document.Field("twice", "months of paying twice", wholeOrNone(24), func(m *Move) *int { return &m.Twice }, edits),
		document.Field("rebuilt", "what is rebuilt", notation.Note(300), func(m *Move) *string { return &m.Rebuilt }, edits),
		document.Field("notice", "days of notice", wholeOrNone(400), func(m *Move) *int { return &m.Notice }, edits),
	}
}

// onTerm is a price list with the plans that are sold on a term, on that term; nil where
// none is.
func onTerm(e *pricelist.Edition, term string) *pricelist.Edition {
	one := *e
	one.Plans = nil
	for _, p := range e.Plans {
		if t, ok := p.Term(term); ok {
			p.Terms = []pricelist.Term{t}
			one.Plans = append(one.Plans, p)
		}
	}
	if one.Plans == nil {
		return nil
	}
	return &one
}

// MoveCost is what moving to an option costs once, to the minor unit: hours at what an
// hour costs, and what is paid to others. What runs today needs no move.
func (s *Study) MoveCost(o *Option) money.Amount {
	if o.Now {
		return 0
	}
	to := money.Amount(s.Currency.Minor())
	hours := money.Amount(float64(o.Move.Hours) * s.Brief.HourCost.Float())
	return (hours + o.Move.Money + to/2) / to * to
}

// Roads are the ways through the horizon that may move between options.
type Roads struct {
	*projection.Roads
	Results []int // which result each option of the roads is
}

// Of is which option of the roads a result is; -1 for none.
func (r *Roads) Of(result int) int { return slices.Index(r.Results, result) }

// Roads works them out, over the options that can be computed and miss no must; what
// runs today is among them even if it does. They are worked out once.
func (o *Outcome) Roads(ctx context.Context, told work.Tell) (*Roads, error) {
	return o.late.roads.Get(ctx, told, func(ctx context.Context, tell work.Tell) (*Roads, error) {
		r := &Roads{}
		var movers []projection.Mover
		for i := range o.Results {
			res := &o.Results[i]
			if res.AtFault || res.fails() && !res.Option.Now {
				continue
			}
			m := projection.Mover{In: o.Study.MoveCost(&res.Option), Twice: res.Option.Move.Twice, Now: res.Option.Now,
				Less: o.Study.FallsAway(&res.Option)}
			for k := range res.Tools {
				m.Tools = append(m.Tools, res.Tools[k].candidate)
			}
			movers, r.Results = append(movers, m), append(r.Results, i)
		}
		var err error
		r.Roads, err = projection.NewRoads(ctx, movers, o.Study.Horizon, tell)
		return r, err
	})
}

// Leaving is what it means to leave what runs today for an option in the first month.
type Leaving struct {
	Result int
	Hours  usage.Quantity
	Work   money.Amount // hours and money of the move
	Beside money.Amount // what runs today, while it is paid too
	Twice  int
	// The month, from 1, from the end of which on all that was spent, the move among it,
	// stays below what staying would have cost; 0: never within the horizon.
	PaidBack int
	// Whether what runs today and the option both serve all months: only then does one
	// save what the other costs.
	Compares bool
	Saves    money.Amount // over the horizon, the move taken off; below 0 where it costs more; 0 where they don't compare
	Total    money.Amount // of the option over the horizon, with all that the move costs
	Best     int          // the month, from 0, in which to move; the horizon: better not at all
	BestIs   money.Amount // what that road costs
	Quarter  money.Amount // what waiting three months longer than that costs; 0 past the horizon
	Looked   bool         // waiting so long was looked at
	Waits    bool         // and leaves no more months unserved
	Served   bool         // every month is
}

// Baseline is what is spent in each month if nothing is done.
type Baseline struct {
	Result int            // of the option that runs today; -1 where it is not in the line-up
	Month  []money.Amount // 0 in those that it does not serve
	Total  money.Amount
	Until  int // months from the first that it serves; the horizon where it serves all
}

// Baseline is what today's platform costs if nothing is done: of the option that runs
// today; else what the brief says of what runs; nil where nothing does.
func (o *Outcome) Baseline() *Baseline {
	b := &Baseline{Result: slices.IndexFunc(o.Results, func(r Result) bool { return r.Option.Now && !r.AtFault })}
	running := money.Amount(0)
	for _, r := range o.Study.Running {
		running += r.Cost
	}
	if b.Result < 0 && running == 0 {
		return nil
	}
	for t := range o.Study.Horizon {
		cost := running
		if b.Result >= 0 {
			cost = o.Results[b.Result].Schedule.Months[t].Accrued
		}
		if b.Until == t && (b.Result < 0 || o.Results[b.Result].Schedule.Months[t].Serves) {
			b.Until++
		}
		b.Month = append(b.Month, cost)
		b.Total += cost
	}
	return b
}

// Leaving tells of each option but the one that runs today what leaving for it means,
// in the order of the line-up; none where nothing that runs today is in the line-up.
func (o *Outcome) Leaving(ctx context.Context) (all []Leaving, err error) {
	base := o.Baseline()
	if base == nil || base.Result < 0 {
		return nil, nil
	}
	roads, err := o.Roads(ctx, nil)
	if err != nil {
		return nil, err
	}
	now := roads.Of(base.Result)
	for i := range o.Results {
		at := roads.Of(i)
		if at < 0 || i == base.Result {
			continue
		}
		res := &o.Results[i]
		l := Leaving{Result: i, Hours: res.Option.Move.Hours, Work: o.Study.MoveCost(&res.Option), Twice: res.Option.Move.Twice, Served: res.Schedule.Serves()}
		moved, _ := roads.Pair(now, at, 0)
		l.Beside, l.Total = moved.Total-res.Schedule.Total-l.Work, moved.Total
		if l.Compares = l.Served && base.Until == o.Study.Horizon; l.Compares {
			l.Saves = base.Total - moved.Total
			l.PaidBack = paidBack(base.Month, res, l.Work+l.Beside)
		}
		var best projection.Road
		l.Best, best, _ = roads.BestMonth(now, at)
		if l.BestIs = best.Total; l.Best+3 <= o.Study.Horizon {
			later, looked := roads.Pair(now, at, l.Best+3)
			l.Looked = looked
			if l.Waits = looked && later.Unserved() <= best.Unserved(); l.Waits {
				l.Quarter = later.Total - best.Total
			}
		}
		all = append(all, l)
	}
	return all, nil
}

// paidBack is the month from the end of which on an option with its move has cost no more
// than staying, from 1; 0: never.
func paidBack(stay []money.Amount, r *Result, move money.Amount) (month int) {
	spent, staying := move, money.Amount(0)
	for t, cost := range stay {
		spent, staying = spent+r.Schedule.Months[t].Accrued, staying+cost
		switch {
		case spent > staying:
			month = 0
		case month == 0:
			month = t + 1
		}
	}
	return month
}
