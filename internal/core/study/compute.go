package study

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
)

// Compute works a study out. An error means that its parts cannot be joined:
// drivers unknown or past their range, a formula at fault, weights that are
// all 0. What an option cannot do is no error but part of its result.
func Compute(s *Study) (*Outcome, error) {
	o := &Outcome{Study: s, Cheapest: -1}
	if s.Horizon < 1 || s.Horizon > MostMonths {
		return nil, fmt.Errorf("horizon of %d months is not between 1 and %d", s.Horizon, MostMonths)
	}
	if len(s.Options) > MostOptions {
		return nil, fmt.Errorf("%d options are more than the %d that a line-up holds", len(s.Options), MostOptions)
	}
	if err := o.usage(); err != nil {
		return nil, err
	}
	for _, option := range s.Options {
		r, err := o.result(option)
		if err != nil {
			return nil, fmt.Errorf("option %q: %w", option.Name, err)
		}
		o.Results = append(o.Results, r)
	}
	if err := o.judge(); err != nil {
		return nil, err
	}
	o.lead()
	o.pick()
	o.coins()
	return o, nil
}

func (o *Outcome) usage() error {
	paths := map[string]usage.Path{}
	for _, d := range o.Study.Drivers {
		if _, twice := paths[d.Driver]; twice {
			return fmt.Errorf("driver %q is set twice", d.Driver)
		}
		paths[d.Driver] = d.Path
	}
	var err error
	if o.Model, err = usage.NewModel(o.Study.Own, paths); err != nil {
		return err
	}
	o.Values = make([]usage.Values, o.Study.Horizon)
	for t := range o.Values {
		if o.Values[t], err = o.Model.At(t); err != nil {
			return err
		}
	}
	for _, key := range o.Model.Assumed() {
		for _, option := range o.Study.Options {
			if option.counts(key) && !slices.Contains(o.Unset, key) {
				o.Unset = append(o.Unset, key)
			}
		}
	}
	return nil
}

// counts reports whether a meter of the option's list looks at a driver.
func (op *Option) counts(driver string) bool {
	return slices.ContainsFunc(op.Edition.Meters, func(m pricelist.Meter) bool { return slices.Contains(m.Counts.Names(), driver) })
}

func (o *Outcome) result(option Option) (Result, error) {
	s := o.Study
	r := Result{Option: option, DaysOld: option.Edition.DaysOld(s.Today)}
	r.Stale = r.DaysOld > s.Patience
	readings := make([]quote.Readings, s.Horizon)
	for t := range readings {
		var err error
		if readings[t], err = quote.Read(option.Edition, o.Values[t]); err != nil {
			return r, fmt.Errorf("in %s: %w", s.Month(t), err)
		}
	}
	var musts []string
	for _, n := range s.Needs {
		cell := coverage.Of(option.Edition, n)
		r.Coverage = append(r.Coverage, cell)
		// A must that no plan has puts the option out; it is costed without it.
		if n.Level == coverage.Must && !fails(cell) {
			musts = append(musts, n.Feature)
		}
	}
	c := projection.Candidate{Edition: option.Edition, Readings: readings, Musts: musts, Policy: s.Pay,
		Customer: quote.Customer{Here: option.Now, Sign: FirstDay(s.Start)},
		Basis:    quote.Basis{Currency: s.Currency, Rates: s.Rates}}
	var err error
	if r.Schedule, err = projection.Project(c); err != nil {
		return r, err
	}
	if r.Prices, err = projection.Preview(c, readings[0]); err != nil {
		return r, err
	}
	if r.Schedule.Months[0].Serves {
		r.Today = &r.Schedule.Months[0].Receipt
	}
	return r, r.force(c)
}

// force finds the musts without which a lower plan would have been taken in
// the first month.
func (r *Result) force(c projection.Candidate) error {
	if r.Today == nil {
		return nil
	}
	all := c.Musts
	c.Readings = c.Readings[:1]
	for i, cell := range r.Coverage {
		if cell.Need.Level != coverage.Must || cell.Plan == nil {
			continue
		}
		c.Musts = slices.DeleteFunc(slices.Clone(all), func(f string) bool { return f == cell.Need.Feature })
		without, err := projection.Project(c)
		if err != nil {
			return err
		}
		if without.Months[0].Serves && without.Months[0].Receipt.Plan != r.Today.Plan {
			r.Forced = append(r.Forced, i)
		}
	}
	return nil
}

func (o *Outcome) judge() error {
	subjects := make([]fit.Subject, len(o.Results))
	for i := range o.Results {
		r := &o.Results[i]
		subjects[i] = fit.Subject{Option: r.Option.Key, Measured: map[string]money.Amount{}, Gates: o.gates(r)}
		for _, c := range o.Study.Criteria {
			if c.Source == fit.Cost && r.Schedule.Serves() {
				subjects[i].Measured[c.ID] = r.Schedule.Total
			}
		}
	}
	standings, err := fit.Judge(subjects, o.Study.Criteria, o.Study.Ratings)
	if err != nil {
		return err
	}
	for i := range o.Results {
		o.Results[i].Standing = standings[i]
	}
	o.Order = fit.Order(standings)
	return nil
}

// gates returns why an option is out: a must that no plan has, or months that
// no plan serves.
func (o *Outcome) gates(r *Result) []string {
	var gates []string
	for _, cell := range r.Coverage {
		if fails(cell) {
			gates = append(gates, "no "+lowerFirst(cell.Need.Name))
		}
	}
	if len(gates) == 0 && !r.Schedule.Serves() {
		reasons := make([]string, len(r.Schedule.Reasons))
		for i, reason := range r.Schedule.Reasons {
			reasons[i] = reason.String()
		}
		when := "from " + o.Study.Month(r.Schedule.Fails).String() + ": "
		if r.Schedule.Fails == 0 {
			when = ""
		}
		gates = append(gates, when+strings.Join(reasons, ", "))
	}
	return gates
}

// fails reports whether a cell is a must that no plan meets. What is not yet
// known is a question, not a no.
func fails(c coverage.Cell) bool {
	return c.Need.Level == coverage.Must && c.Has != pricelist.Unknown && !c.Has.Meets()
}

// lead finds who costs least in each month and overall, among the options
// that are in; equals stay with who led before.
func (o *Outcome) lead() {
	for i := range o.Results {
		r := &o.Results[i]
		if r.In() && (o.Cheapest < 0 || r.Schedule.Total < o.Results[o.Cheapest].Schedule.Total) {
			o.Cheapest = i
		}
	}
	for t := range o.Study.Horizon {
		best := -1
		if n := len(o.Leads); n > 0 {
			best = o.Leads[n-1].Result
		}
		for i := range o.Results {
			if o.Results[i].In() && (best < 0 || o.monthly(i, t) < o.monthly(best, t)) {
				best = i
			}
		}
		if best < 0 {
			return
		}
		if n := len(o.Leads); n > 0 && o.Leads[n-1].Result == best {
			o.Leads[n-1].To = t
		} else {
			o.Leads = append(o.Leads, Lead{From: t, To: t, Result: best})
		}
	}
}

// monthly is what month t costs by its receipt, free of the cents by which the
// spread of a yearly bill differs from month to month.
func (o *Outcome) monthly(i, t int) money.Amount {
	return o.Results[i].Monthly(t)
}

// Monthly returns what an option costs in month t by its receipt.
func (r *Result) Monthly(t int) money.Amount { return r.Schedule.Months[t].Receipt.Monthly() }

// FirstDay returns the first day of a month.
func FirstDay(m usage.Month) time.Time {
	return time.Date(m.Year(), time.Month(m.Number()), 1, 0, 0, 0, 0, time.UTC)
}

func lowerFirst(s string) string {
	if len(s) > 1 && s[0] >= 'A' && s[0] <= 'Z' && (s[1] < 'A' || s[1] > 'Z') {
		return string(s[0]+'a'-'A') + s[1:]
	}
	return s
}
