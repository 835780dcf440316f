package study

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"time"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
)

// Compute works a study out. What cannot be worked out is told among the
// faults of the outcome, and the rest goes on without it: an option that a fault
// reaches has no costs and is out.
func Compute(s *Study) *Outcome {
	o, _ := ComputeWithin(context.Background(), s)
	return o
}

// ComputeWithin is [Compute] until a context ends, whose error is the only one.
func ComputeWithin(ctx context.Context, s *Study) (*Outcome, error) { return computeLike(ctx, s, nil) }

// computeLike computes a study that differs from another in what is used alone: prices
// that were compiled for it stand. nil is none.
//
// A panic on the way is kept in [Outcome.Panic]: an option at which the program fails is at
// fault, and of what follows from all options it tells as much as was worked out.
func computeLike(ctx context.Context, s *Study, like *Outcome) (*Outcome, error) {
	o := &Outcome{Study: s, Cheapest: -1, Pick: Pick{First: -1, Next: -1}, late: &late{}, like: like, within: ctx}
	defer func() { o.like, o.within = nil, nil }()
	o.guarded(o.check)
	if s.Horizon < 1 || s.Horizon > MostMonths {
		o.fault("months", "%d months are not between 1 and %d", s.Horizon, MostMonths)
		bounded := *s
		bounded.Horizon = min(max(s.Horizon, 1), MostMonths)
		s, o.Study = &bounded, &bounded
	}
	if o.guarded(o.usage); o.Panic != nil { // with no number for any driver
		o.withoutUsage()
	}
	if err := o.work(ctx, s.running()); err != nil {
		return nil, err
	}
	o.guarded(o.judge, o.lead, o.pick, o.coins)
	return o, nil
}

// usage works the drivers out. Those at fault, and those that they feed, are not
// numbers from then on.
func (o *Outcome) usage() {
	own, paths := o.Study.Known(), map[string]usage.Path{}
	for _, d := range o.Study.Drivers {
		paths[d.Driver] = d.Path
	}
	var broken []string
	atFault := func(err error) (fault *usage.DriverError, is bool) {
		if is = errors.As(err, &fault); is {
			o.driverFault(fault)
			broken = append(broken, fault.Driver)
		}
		return fault, is
	}
	for {
		var err error
		o.Model, err = usage.When{Start: o.Study.Start, Case: o.Study.Case}.Model(own, paths)
		fault, is := atFault(err)
		if !is {
			break
		}
		_, set := paths[fault.Driver]
		delete(paths, fault.Driver)
		if !set {
			own = slices.DeleteFunc(own, func(d usage.Driver) bool { return d.Key == fault.Driver })
			own = append(own, usage.Driver{Key: fault.Driver, Name: fault.Driver, Kind: usage.Stock})
			if _, standard := usage.InCatalogue(fault.Driver); standard {
				own = own[:len(own)-1]
			}
		}
	}
	for {
		var err error
		o.Values, err = o.Model.Columns(o.Study.Horizon)
		fault, is := atFault(err)
		if !is {
			break
		}
		o.Model = o.Model.Without(fault.Driver)
	}
	o.Broken = o.Model.Fed(broken...)
	o.Values = o.Values.Without(o.Broken...)
	for _, key := range o.Model.Assumed() {
		for _, option := range o.Study.running() {
			if option.bills(key) && !slices.Contains(o.Unset, key) && !slices.Contains(o.Broken, key) {
				o.Unset = append(o.Unset, key)
			}
		}
	}
}

// counts reports whether a meter of the option's lists looks at a driver.
func (op *Option) counts(driver string) bool {
	return slices.ContainsFunc(op.Tools(), func(t Tool) bool {
		return slices.ContainsFunc(t.Edition.Meters, func(m pricelist.Meter) bool { return slices.Contains(m.Counts.Names(), driver) })
	})
}

// bills reports whether a price or a limit of the option's lists goes by a driver.
func (op *Option) bills(driver string) bool {
	return slices.ContainsFunc(op.Tools(), func(t Tool) bool {
		return slices.ContainsFunc(t.Edition.Meters, func(m pricelist.Meter) bool {
			return slices.Contains(m.Counts.Names(), driver) && t.Edition.Uses(m.Key)
		})
	})
}

// result works an option out: what its tools offer as the study sees them, which of
// them brings what is needed, and what that costs.
func (o *Outcome) result(option Option) (Result, error) {
	s := o.Study
	r := Result{Option: option}
	for i, t := range option.Tools() {
		tool := ToolResult{Tool: t, DaysOld: t.Edition.DaysOld(s.Today)}
		tool.Tool.Edition = o.seen(&option, i, t)
		r.DaysOld = max(r.DaysOld, tool.DaysOld)
		r.Tools = append(r.Tools, tool)
	}
	r.Option.Tool.Edition = r.Tools[0].Tool.Edition
	r.Stale = r.DaysOld > s.Patience
	r.cover(s)
	for _, key := range o.Broken {
		if option.counts(key) {
			return r, fmt.Errorf("its prices count %s, which is at fault", o.driverName(key))
		}
	}
	if err := o.assign(&r); err != nil {
		return r, err
	}
	r.brought()
	schedules := make([]projection.Schedule, len(r.Tools))
	for i := range r.Tools {
		t := &r.Tools[i]
		var err error
		if t.Schedule, err = projection.Project(t.candidate); err != nil {
			return r, err
		}
		schedules[i], t.candidate.Within = t.Schedule, nil
		if t.Schedule.Months[0].Serves {
			today := t.Schedule.Months[0].Receipt()
			t.Today = &today
		}
	}
	var err error
	if r.Schedule, err = s.together(&r.Option, schedules); err != nil {
		return r, err
	}
	if r.Schedule.Months[0].Serves {
		r.Today = r.Tools[0].Today
	}
	r.had(s)
	r.forced = &lately{without: o.without(option)}
	return r, nil
}

// together is what the tools of an option cost, what falls away by it counted off.
func (s *Study) together(o *Option, tools []projection.Schedule) (projection.Schedule, error) {
	sum, err := projection.Together(tools)
	if err != nil {
		return sum, err
	}
	return sum.Less(s.FallsAway(o))
}

// candidate is what is projected of a tool that has to bring some musts, with programs
// that were compiled for it; nil: they are compiled.
func (o *Outcome) candidate(option *Option, e *pricelist.Edition, musts []string, values usage.Columns, programs []*tariff.Program) (projection.Candidate, error) {
	s := o.Study
	c := projection.Candidate{Edition: e, Musts: musts, Policy: s.Pay, Customer: quote.Customer{Here: option.Now, Sign: FirstDay(s.Start)},
		Basis: quote.Basis{Currency: s.Currency, Rates: s.Rates}, Within: o.within}
	var err error
	c.Rows, err = tariff.Read(e, values)
	if at := (*usage.RowError)(nil); errors.As(err, &at) {
		err = fmt.Errorf("in %s: %w", s.Month(at.Row), at.Err)
	}
	if err != nil {
		return c, err
	}
	if c.Programs = programs; programs == nil {
		err = c.Compile()
	}
	if err != nil || c.Policy != projection.Fixed {
		return c, err
	}
	return c, stay(&c)
}

// stay pins a candidate to the plan and the term that cost least by the month in the
// first month that anything serves.
func stay(c *projection.Candidate) error {
	first := *c
	first.Policy = projection.Monthly
	s, err := projection.Project(first)
	if err != nil {
		return err
	}
	for i := range s.Months {
		if m := &s.Months[i]; m.Serves {
			c.Plan, c.Term = m.Plan().Key, m.Term().Key
			return nil
		}
	}
	return nil
}

// unworkable leaves the option without costs in any month.
func (r *Result) unworkable(months int) {
	r.AtFault = true
	r.Schedule = projection.Schedule{Fails: 0, Months: make([]projection.Month, months)}
	r.Today, r.forced, r.Has = nil, nil, nil
	for i := range r.Tools {
		r.Tools[i].Today, r.Tools[i].Schedule = nil, r.Schedule
	}
}

func (o *Outcome) judge() {
	subjects := make([]fit.Subject, len(o.Results))
	for i := range o.Results {
		r := &o.Results[i]
		subjects[i] = fit.Subject{Option: r.Option.Key, Measured: map[string]money.Amount{}, MayBe: map[string]money.Amount{}, Gates: o.gates(r), Costs: r.Schedule.Total}
		for _, c := range o.Study.Criteria {
			if c.Source == fit.Cost && r.Schedule.Serves() {
				subjects[i].Measured[c.ID] = r.Schedule.Total
			}
			if c.Source == fit.Coverage && r.Today != nil && len(o.Study.Needs) > 0 {
				share := func(x float64) money.Amount { return money.Amount(math.Round(x * money.Scale)) }
				subjects[i].Measured[c.ID], subjects[i].MayBe[c.ID] = share(r.Share), share(r.MayBe)
			}
		}
	}
	standings, err := fit.Judge(subjects, o.Study.Criteria, o.Study.Ratings)
	if err != nil {
		o.fault("criteria", "%v; give one of them a weight", err)
	}
	for i := range o.Results {
		o.Results[i].Standing = standings[i]
	}
	o.Order = fit.Order(standings)
}

// gates returns why an option is out: a must that no plan has, or months that
// no plan serves.
func (o *Outcome) gates(r *Result) []string {
	var gates []string
	if codes := o.noRates(r); len(codes) > 0 {
		gates = append(gates, fmt.Sprintf("its prices are in %s, and there is no rate from %s to %s", codes[0], codes[0], o.Study.Currency.Code()))
	}
	for _, cell := range r.Coverage {
		if fails(&cell) {
			gates = append(gates, misses(&cell))
		}
	}
	if r.AtFault {
		return append(gates, "it cannot be computed")
	}
	if len(gates) == 0 && !r.Schedule.Serves() {
		gates = append(gates, o.Study.sayMisses(&r.Schedule))
	}
	return gates
}

// misses says what an option lacks for a must.
func misses(c *coverage.Cell) string {
	name := usage.LowerFirst(c.Need.Name)
	switch {
	case c.TooLittle() && c.Need.Number > 0:
		return "too few " + name
	case c.TooLittle():
		return "too little " + name
	}
	return "no " + name
}

// fails reports whether the option misses a must.
func (r *Result) fails() bool {
	for i := range r.Coverage {
		if fails(&r.Coverage[i]) {
			return true
		}
	}
	return false
}

// fails reports whether a cell is a must that no plan meets. What is not yet
// known is a question, not a no.
func fails(c *coverage.Cell) bool {
	return c.Need.Level == coverage.Must && c.Answer == coverage.Unmet
}

// lead finds who costs least in each month and overall, among the options that are in; of
// equals it is the cheapest overall, so that who leads beside it costs less, or who led
// before.
func (o *Outcome) lead() {
	for i := range o.Results {
		r := &o.Results[i]
		if r.In() && (o.Cheapest < 0 || r.Schedule.Total < o.Results[o.Cheapest].Schedule.Total) {
			o.Cheapest = i
		}
	}
	for t := range o.Study.Horizon {
		if o.Cheapest < 0 {
			return
		}
		best := o.Cheapest
		if n := len(o.Leads); n > 0 && o.monthly(o.Leads[n-1].Result, t) < o.monthly(best, t) {
			best = o.Leads[n-1].Result
		}
		for i := range o.Results {
			if o.Results[i].In() && o.monthly(i, t) < o.monthly(best, t) {
				best = i
			}
		}
		if n := len(o.Leads); n > 0 && o.Leads[n-1].Result == best {
			o.Leads[n-1].To = t
		} else {
			o.Leads = append(o.Leads, Lead{From: t, To: t, Result: best})
		}
	}
}

// monthly is what month t costs by its receipt, free of the cents by which the
// spread of a yearly bill differs from month to month, less what falls away.
func (o *Outcome) monthly(i, t int) money.Amount {
	return o.Results[i].Monthly(t) - o.Results[i].Schedule.Months[t].Falls
}

// Monthly returns what an option costs in month t by its receipt.
func (r *Result) Monthly(t int) money.Amount { return r.Schedule.Months[t].Monthly() }

// FirstDay returns the first day of a month.
func FirstDay(m usage.Month) time.Time {
	return time.Date(m.Year(), time.Month(m.Number()), 1, 0, 0, 0, 0, time.UTC)
}
