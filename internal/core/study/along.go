package study

import (
	"context"
	"fmt"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
)

// Along is what options cost a month along a driver, the others held where they stand in
// a month, offers that end left out.
type Along struct {
	*projection.Sweep
	Driver  Axis
	Month   int
	Results []int // which result each line is
	In      []int // which results may be the cheapest: those that miss no must
	Now     int64 // where the driver stands in the month, rounded up
	Ends    int64 // and in the last
}

// bids are the tools of an option with the programs that the study's way of paying
// takes: open ones, and closed ones where it runs today.
func (o *Outcome) bids(r *Result, month int) projection.Bidder {
	var b projection.Bidder
	on := FirstDay(o.Study.Month(month))
	for i := range r.Tools {
		c := &r.Tools[i].candidate
		bid := projection.Bid{Edition: c.Edition}
		for _, p := range c.Programs {
			if c.Takes(p.Plan, p.Term) && p.Leads(r.Option.Now) && p.MayBeSigned(on, true) {
				bid.Programs = append(bid.Programs, p)
			}
		}
		bid.Programs = projection.Steady(bid.Programs)
		b.Tools = append(b.Tools, bid)
	}
	if falls := o.Study.FallsAway(&r.Option); falls != nil {
		b.Less = int64(falls[month]) / o.Study.Currency.Minor()
	}
	return b
}

// Driver finds a driver that the model knows, by its key.
func (o *Outcome) Driver(key string) (usage.Driver, bool) {
	for _, d := range o.Model.Drivers() {
		if d.Key == key {
			return d, true
		}
	}
	return usage.Driver{}, false
}

// MostAlong is the largest value that lines are followed to.
const MostAlong = 100_000_000

// Along follows all options along a driver of the study, from a value to another, both
// included. What was followed last is kept. Errors are those of reading usage there: a [*usage.RowError] or a
// [*usage.DriverError].
func (o *Outcome) Along(ctx context.Context, driver string, month int, low, high int64) (*Along, error) {
	d, ok := o.Axis(driver)
	if !ok || low < 0 || high <= low || high > MostAlong {
		return nil, fmt.Errorf("study: no lines along %q from %d to %d", driver, low, high)
	}
	return o.late.lines.Get(ctx, lineKey{driver, month, low, high}, func(ctx context.Context) (*Along, error) { return o.along(ctx, d, month, low, high) })
}

// lineKey tells apart along what options are followed.
type lineKey struct {
	driver    string
	month     int
	low, high int64
}

func (o *Outcome) along(ctx context.Context, d Axis, month int, low, high int64) (*Along, error) {
	a := &Along{Driver: d, Month: month}
	read := projection.Along(ctx, o.Model, month, d.followed())
	var all []projection.Bidder
	for i := range o.Results {
		if r := &o.Results[i]; !r.AtFault {
			b := o.bids(r, month)
			b.Out = r.fails() // what misses a must costs something, and leads nowhere
			if all, a.Results = append(all, b), append(a.Results, i); !b.Out {
				a.In = append(a.In, i)
			}
		}
	}
	var err error
	if a.Sweep, err = projection.NewSweep(o.Study.Currency, all, read, low, high); err != nil {
		return nil, err
	}
	projection.Named(a.Regions, a.Results)
	for k := range a.Pairs {
		p := &a.Pairs[k]
		for i := range p.Runs {
			if p.Runs[i].Less >= 0 {
				p.Runs[i].Less = a.Results[p.Runs[i].Less]
			}
		}
		p.A, p.B = a.Results[p.A], a.Results[p.B]
	}
	values := o.Values.Of(d.Key)
	a.Now, a.Ends = d.At(values[month]), d.At(values[len(values)-1])
	return a, nil
}

// Field is who is best where over two drivers.
type Field struct {
	*projection.Field
	X, Y    Axis
	Month   int
	Results []int
	// Where growth leads: the values of both drivers in each month, along the axes.
	Path [][2]float64
	On   []int // which of the options is best there, as long as it stays inside; -1: nothing serves
	// Who else costs the same there; empty by fit.
	Level [][]int
	// Which result is best along each axis where the other driver stands in the month, exactly.
	AlongX, AlongY []projection.Region
	NowX, NowY     int64
}

// Field prices all options that miss no must over two drivers, 80 by 50 values from 0, or from 1
// where a driver has no value at 0; by fit
// it tells who fits best where, with the cost as it is there for the whole horizon. Errors
// are those of [Outcome.Along].
func (o *Outcome) Field(ctx context.Context, x, y string, month int, highX, highY int64, byFit bool) (*Field, error) {
	dx, okX := o.Axis(x)
	dy, okY := o.Axis(y)
	if !okX || !okY || x == y || highX < 1 || highY < 1 || max(highX, highY) > MostAlong {
		return nil, fmt.Errorf("study: no field over %q and %q", x, y)
	}
	return o.late.fields.Get(ctx, fieldKey{x, y, month, highX, highY, byFit}, func(ctx context.Context) (*Field, error) {
		f, err := o.field(ctx, dx, dy, month, 0, highX, highY, byFit)
		if err != nil && ctx.Err() == nil { // what divides by a driver has no value where that is 0
			if from1, other := o.field(ctx, dx, dy, month, 1, highX, highY, byFit); other == nil {
				return from1, nil
			}
		}
		return f, err
	})
}

// fieldKey tells apart over what options are priced.
type fieldKey struct {
	x, y         string
	month        int
	highX, highY int64
	byFit        bool
}

func (o *Outcome) field(ctx context.Context, dx, dy Axis, month int, low, highX, highY int64, byFit bool) (*Field, error) {
	f := &Field{X: dx, Y: dy, Month: month}
	var bidders []projection.Bidder
	for i := range o.Results {
		if r := &o.Results[i]; !r.AtFault && !r.fails() {
			bidders, f.Results = append(bidders, o.bids(r, month)), append(f.Results, i)
		}
	}
	choose := projection.Cheapest
	if byFit {
		choose = o.fitsBest(f.Results)
	}
	var err error
	xs, ys := projection.Ticks(low, highX, 80), projection.Ticks(low, highY, 50)
	read := projection.AlongTwo(ctx, o.Model, month, dx.followed(), dy.followed())
	if f.Field, err = projection.NewField(ctx, bidders, read, xs, ys, choose); err != nil {
		return nil, err
	}
	vx, vy := o.Values.Of(dx.Key), o.Values.Of(dy.Key)
	onX, onY := make([]int64, len(vx)), make([]int64, len(vx))
	for t := range vx {
		f.Path = append(f.Path, [2]float64{vx[t] * float64(dx.Parts), vy[t] * float64(dy.Parts)})
		onX[t], onY[t] = max(low, dx.At(vx[t])), max(low, dy.At(vy[t]))
	}
	if inside := f.Inside(); inside > 0 {
		if f.On, err = projection.BestAt(ctx, bidders, read, onX[:inside], onY[:inside], choose); err != nil {
			return nil, err
		}
		if !byFit {
			if f.Level, err = projection.LevelAt(ctx, bidders, read, onX[:inside], onY[:inside], f.On); err != nil {
				return nil, err
			}
		}
	}
	f.NowX, f.NowY = dx.At(vx[month]), dy.At(vy[month])
	if !byFit {
		if f.AlongX, _, err = projection.Regions(bidders, projection.Along(ctx, o.Model, month, dx.followed()), low, highX); err != nil {
			return nil, err
		}
		if f.AlongY, _, err = projection.Regions(bidders, projection.Along(ctx, o.Model, month, dy.followed()), low, highY); err != nil {
			return nil, err
		}
		projection.Named(f.AlongX, f.Results)
		projection.Named(f.AlongY, f.Results)
	}
	return f, nil
}

// Inside is how many months growth stays within what is laid out, from the first on.
func (f *Field) Inside() int {
	highX, highY := float64(f.Xs[len(f.Xs)-1]), float64(f.Ys[len(f.Ys)-1])
	for t, at := range f.Path {
		if at[0] > highX || at[1] > highY {
			return t
		}
	}
	return len(f.Path)
}

// fitsBest chooses by fit, with what an option costs a month as its cost over the horizon.
func (o *Outcome) fitsBest(results []int) projection.Chooser {
	fits := make([]func(int64) float64, len(results))
	months := int64(o.Study.Horizon)
	for k, i := range results {
		fits[k] = o.fitAt(&o.Results[i], months)
	}
	return func(prices []int64) int {
		best, most := -1, -1.0
		for k, p := range prices {
			if p == tariff.Never {
				continue
			}
			if v := fits[k](p); v > most+1e-9 {
				best, most = k, v
			}
		}
		return best
	}
}

// fitAt tells what an option's fit is where it costs so much a month, in minor units:
// the mean of what is known, its cost over the horizon among it.
func (o *Outcome) fitAt(r *Result, months int64) func(monthly int64) float64 {
	points, known := 0.0, 0.0
	var costs []fit.Part
	for _, p := range r.Standing.Parts {
		switch {
		case p.Criterion.Source == fit.Cost:
			costs, known = append(costs, p), known+p.Weight
		case p.Known:
			points, known = points+p.Points(), known+p.Weight
		}
	}
	minor := money.Amount(o.Study.Currency.Minor())
	return func(monthly int64) float64 {
		sum := points
		for _, p := range costs {
			sum += p.Weight * p.Criterion.Value(money.Amount(monthly*months)*minor)
		}
		if known == 0 {
			return 0
		}
		return sum / known
	}
}

// ProgramsOf are the programs that the first tool of a result is followed on, of which
// the turns of its line name one.
func (o *Outcome) ProgramsOf(result, month int) []*tariff.Program {
	return o.bids(&o.Results[result], month).Tools[0].Programs
}

// PricesAt is what an option costs a month at values along an axis, and on which plans;
// nil where nothing serves. Errors are those of [Outcome.Along].
func (o *Outcome) PricesAt(ctx context.Context, result int, along Axis, month int, xs []int64) (prices []*money.Amount, plans []string, err error) {
	values, err := projection.Along(ctx, o.Model, month, along.followed()).At(xs)
	if err != nil {
		return nil, nil, err
	}
	b := o.bids(&o.Results[result], month)
	minor, programs, err := projection.Prices(b, values)
	if err != nil {
		return nil, nil, err
	}
	prices, plans = make([]*money.Amount, len(xs)), make([]string, len(xs))
	for i, v := range minor {
		if v == tariff.Never {
			continue
		}
		a := money.Amount(v * o.Study.Currency.Minor())
		prices[i], plans[i] = &a, b.Tools[0].Programs[programs[i]].Plan.Name
		if len(b.Tools) > 1 {
			plans[i] += " and more"
		}
	}
	return prices, plans, nil
}
