package study

import (
	"context"
	"fmt"
	"slices"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
)

// Headroom is how far a driver can go before the bill of an option steps, the other
// drivers held.
type Headroom struct {
	Result, Tool     int
	Driver           Axis
	Plan             string // in force in the month that is looked from, of the tool that steps
	Now, Until, Left int64  // of the driver, along the axis; Left is Until less Now
	Why              string // "emails pass 35,000"
	Month            int    // in which the driver comes to it, from 0; -1: not within the horizon
	To               string // the plan from there on; "": nothing serves
	Delta            money.Amount
	Serves           bool
}

// Headroom tells of each option, and each driver that its bill follows, how far the next
// step is on the plans that are taken on the way; none of those that have no step up to
// [farther] times where the driver [Outcome.Reaches]. Plans that may meet a must that is not known come
// last, as in a schedule, and offers that end are left out of what the step costs. It
// fails when the context ends.
func (o *Outcome) Headroom(ctx context.Context, month int) (all []Headroom, err error) {
	axes := o.Axes()
	for i := range o.Results {
		r := &o.Results[i]
		if r.AtFault || !r.Schedule.Months[month].Serves {
			continue
		}
		for _, d := range axes {
			axis, ok := o.Axis(d.Key)
			if !ok {
				continue
			}
			high := o.Reaches(axis)
			for _, high := range []int64{high, min(farther*high, MostAlong)} {
				w := o.walk(ctx, r, axis, month, high)
				h, found := w.next()
				if err := ctx.Err(); err != nil {
					return nil, err
				}
				if found && w.err == nil {
					h.Result, h.Driver = i, axis
					all = append(all, h)
				}
				if found || w.err != nil {
					break
				}
			}
		}
	}
	return all, nil
}

// farther is how many times farther than lines are drawn a step is looked for.
const farther = 10

// walking goes along a driver on the plans that an option takes there.
type walking struct {
	o     *Outcome
	r     *Result
	month int
	axis  Axis
	read  projection.Usages
	bids  []projection.Bid
	on    []*tariff.Program // of each tool
	stays []bool            // on a plan that is not the cheapest now, as its term runs
	now   int64
	high  int64
	runs  [][]projection.Region // of each tool
	known map[int64][][]int64
	err   error // the driver cannot be read there
}

func (o *Outcome) walk(ctx context.Context, r *Result, axis Axis, month int, high int64) *walking {
	w := &walking{o: o, r: r, month: month, axis: axis, read: projection.Along(ctx, o.Model, month, axis.followed()), bids: o.bids(r, month).Tools,
		now: axis.At(o.Values.Of(axis.Key)[month]), high: high, known: map[int64][][]int64{}, runs: make([][]projection.Region, len(r.Tools))}
	for k := range r.Tools {
		p := r.Tools[k].Schedule.Months[month].Program
		w.on = append(w.on, p)
		v, serves := p.Monthly(projection.LongSince, w.row(k, w.now))
		least, _ := cheapest(w.bids[k].Programs, w.row(k, w.now))
		w.stays = append(w.stays, serves && v > least)
	}
	return w
}

// row are the readings of a tool at a value of the driver.
func (w *walking) row(tool int, x int64) []int64 {
	rows, ok := w.known[x]
	if !ok {
		values, err := w.read.At([]int64{x})
		for k := range w.bids {
			var all [][]int64
			if err == nil {
				all, err = tariff.Read(w.bids[k].Edition, values)
			}
			if err != nil {
				w.err = err
				all = [][]int64{make([]int64, len(w.bids[k].Edition.Meters))}
			}
			rows = append(rows, all[0])
		}
		w.known[x] = rows
	}
	return rows[tool]
}

// next finds the first step above where the driver stands.
func (w *walking) next() (h Headroom, ok bool) {
	for x, k := w.now, 0; k < mostFlats && w.err == nil; k++ {
		tool, at, meter, cause := -1, w.high, -1, tariff.Cause{}
		for i := range w.on {
			if next, m, why, found := w.drive(i, w.on[i]).Next(x, w.high); found && (tool < 0 || next < at) {
				tool, at, meter, cause = i, next, m, why
			}
		}
		end := at
		if tool >= 0 {
			end-- // before the step
		}
		if i, moved, p := w.moves(x, end); p != nil {
			// Where the other plan is cheaper from a step of its own on, that is the step.
			if _, m, why, found := w.drive(i, p).Next(moved-1, moved); found && steps(why) {
				return w.step(p, i, m, moved, why), true
			}
			x, w.on[i] = moved, p
			continue
		}
		if tool < 0 {
			return h, false
		}
		if steps(cause) {
			return w.step(w.on[tool], tool, meter, at, cause), true
		}
		x = at
	}
	return h, false
}

// drive is a program along the driver.
func (w *walking) drive(tool int, p *tariff.Program) *tariff.Drive {
	return &tariff.Drive{Program: p, Since: projection.LongSince, Read: func(x int64) []int64 { return w.row(tool, x) }}
}

// moves finds the first value after x, up to end, from which on some tool is cheaper on
// another plan; nil where there is none.
func (w *walking) moves(x, end int64) (tool int, first int64, to *tariff.Program) {
	for i := range w.on {
		if w.stays[i] || end <= x {
			continue
		}
		for _, run := range w.cheapest(i) {
			if at := max(run.From, x+1); run.To > x && at <= end && (to == nil || at < first) && run.Least >= 0 {
				p := w.bids[i].Programs[run.Least]
				is, serves := w.on[i].Monthly(projection.LongSince, w.row(i, at))
				if v, _ := p.Monthly(projection.LongSince, w.row(i, at)); p != w.on[i] && (!serves || v < is) {
					tool, first, to = i, at, p
				}
			}
		}
	}
	return tool, first, to
}

// cheapest are the runs of values on which one program of a tool is the cheapest, those
// that may meet a must that is not known only where no other serves.
func (w *walking) cheapest(tool int) []projection.Region {
	if w.runs[tool] != nil {
		return w.runs[tool]
	}
	bid := w.bids[tool]
	var of [2][]int // places of programs: that do for sure, and that may
	for i, p := range bid.Programs {
		may := min(1, len(p.Questions))
		of[may] = append(of[may], i)
	}
	runs := func(of []int, low, high int64) (all []projection.Region) {
		var own []projection.Bidder
		for _, i := range of {
			own = append(own, projection.Bidder{Tools: []projection.Bid{{Edition: bid.Edition, Programs: bid.Programs[i : i+1]}}})
		}
		all, _, err := projection.Regions(own, w.read, low, high)
		if err != nil {
			w.err = err
		}
		for k := range all {
			if all[k].Least >= 0 {
				all[k].Least = of[all[k].Least]
			}
		}
		return all
	}
	all := runs(of[0], w.now, w.high)
	for _, run := range all {
		if run.Least < 0 && len(of[1]) > 0 {
			all = append(all, runs(of[1], run.From, run.To)...)
		}
	}
	w.runs[tool] = append([]projection.Region{}, all...)
	return w.runs[tool]
}

// mostFlats is how many breaks without a step are passed on the way to one.
const mostFlats = 60

// steps reports whether a price jumps where it takes another course for a cause.
func steps(c tariff.Cause) bool {
	switch c.Kind {
	case tariff.NextPack, tariff.PastLimit, tariff.PastBands:
		return true
	case tariff.NextBand:
		return c.Charge != nil && c.Charge.Kind != pricelist.Graduated
	}
	return false
}

// step is what a step of a program costs that comes at a value.
func (w *walking) step(by *tariff.Program, tool, meter int, at int64, cause tariff.Cause) Headroom {
	t := &w.r.Tools[tool]
	h := Headroom{Tool: tool, Plan: t.Schedule.Months[w.month].Plan().Name, Now: w.now, Until: at - 1, Left: at - 1 - w.now, Month: -1, Why: "the price steps", Serves: true}
	if meter >= 0 {
		m := &w.bids[tool].Edition.Meters[meter]
		last, past := w.row(tool, at-1)[meter], w.row(tool, at)[meter]
		if first, _, ok := by.Next(projection.LongSince, meter, w.row(tool, at-1)); ok && first <= past {
			last = first - 1 // the meter may come past it by more than one
		}
		h.Why = fmt.Sprintf("%s pass %s", quote.Plural(m.Unit), usage.Quantity(last*tariff.Grain(m)).Format())
	}
	if values := w.o.Values.Of(w.axis.Key); len(values) > w.month {
		if u := slices.IndexFunc(values[w.month:], func(v float64) bool { return w.axis.At(v) >= at }); u >= 0 {
			h.Month = w.month + u
		}
	}
	if cause.Kind == tariff.NextPack {
		h.Why += ", a pack begins"
	}
	for i := range w.on {
		then, p := cheapest(w.bids[i].Programs, w.row(i, at))
		if p == nil {
			h.Serves, h.To, h.Delta = false, "", 0
			return h
		}
		if was, serves := w.on[i].Monthly(projection.LongSince, w.row(i, at-1)); serves {
			if is, serves := w.on[i].Monthly(projection.LongSince, w.row(i, at)); serves && w.stays[i] {
				then, p = is, w.on[i]
			}
			h.Delta += p.Amount(then - was)
		}
		if i == tool {
			h.To = p.Plan.Name
		}
	}
	return h
}

// cheapest is the program that costs least a month at some readings, of those that meet
// all musts for sure where one serves; nil where none does.
func cheapest(all []*tariff.Program, row []int64) (minor int64, best *tariff.Program) {
	minor = tariff.Never
	for _, p := range all {
		v, ok := p.Monthly(projection.LongSince, row)
		if may := len(p.Questions) > 0; ok && (best == nil || may == (len(best.Questions) > 0) && v < minor || !may && len(best.Questions) > 0) {
			minor, best = v, p
		}
	}
	return minor, best
}
