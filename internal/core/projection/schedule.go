// Package projection follows an option through the months of a study: the
// plan and term in force in each, the receipt, what the month costs, and why
// the bill changes.
package projection

import (
	"fmt"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
)

// Policy says which terms are preferred. A plan that is not sold on such a
// term is taken on those it is sold on.
type Policy string

// The policies.
const (
	Monthly Policy = "monthly" // terms of one month
	Yearly  Policy = "yearly"  // terms of twelve months
)

func (p Policy) months() int {
	if p == Yearly {
		return 12
	}
	return 1
}

// Candidate is an edition followed under a policy by one customer.
type Candidate struct {
	Edition  *pricelist.Edition
	Readings []quote.Readings // one for each month
	Musts    []string
	Customer quote.Customer
	Basis    quote.Basis
	Policy   Policy
}

// Month is one month of a schedule.
type Month struct {
	Receipt   quote.Receipt  // of the billing period that the month belongs to
	Readings  quote.Readings // of the month
	Billed    quote.Readings // what is billed: inside a term, stocks stay at their highest
	TermStart int            // month in which the term began
	Start     int            // month in which the billing period began
	Serves    bool
	Accrued   money.Amount // the month's share of what is paid
	Running   money.Amount // accrued so far
	Cash      money.Amount // paid in this month for months inside the horizon
}

// Schedule is what an option costs month by month.
//
// The three views agree to the cent: the accrued amounts, the last running
// total and the cash add up to the same Total. Cash paid for months past the
// horizon is told apart, in Beyond.
type Schedule struct {
	Months    []Month
	Total     money.Amount
	Beyond    money.Amount
	Steps     []Step
	Fails     int // first month that no plan can serve; -1 when all are served
	Reasons   []quote.Reason
	Questions []quote.Reason // musts not yet known on a plan that is taken
}

// Serves reports whether every month is served.
func (s *Schedule) Serves() bool { return s.Fails < 0 }

// choice is a plan on a term, priced.
type choice struct {
	rank    int
	receipt quote.Receipt
	monthly money.Fraction
}

// standing is the term that is running.
type standing struct {
	rank, start, end int // months start..end-1
	period           int // month in which the billing period began
	readings         quote.Readings
	bill             money.Amount
	inside           int // months of the billing period inside the horizon
	active           bool
}

// Project follows a candidate through its months. When a term runs out, the
// cheapest plan that serves is taken, on the month's reading; ties go to the
// smaller plan. Inside a term of several months stocks ratchet, a higher plan
// may be moved to with credit for the unused part, and a lower one waits for
// the end.
func Project(c Candidate) (Schedule, error) {
	s := Schedule{Fails: -1, Months: make([]Month, len(c.Readings))}
	var now standing
	for t := range c.Readings {
		if now.active && t >= now.end {
			now.active = false
		}
		readings := c.Readings[t]
		if now.active {
			readings = readings.Ratchet(c.Edition, now.readings)
		}
		best, err := c.choose(t, readings, &now)
		if err != nil {
			return s, fmt.Errorf("month %d: %w", t+1, err)
		}
		m := &s.Months[t]
		m.Readings = c.Readings[t]
		if best == nil {
			if err := s.unserved(c, t, readings); err != nil {
				return s, err
			}
			now.active = false
			continue
		}
		if err := s.serve(m, t, best, &now, readings); err != nil {
			return s, fmt.Errorf("%s, month %d: %w", c.Edition.Platform.Name, t+1, err)
		}
	}
	if now.active {
		s.Beyond = now.bill - cumulative(c.Basis.Currency, now.bill, now.inside, s.Months[len(s.Months)-1].Receipt.Period)
	}
	return s, s.explain(c)
}

// choose returns the cheapest plan that serves month t, or nil.
func (c *Candidate) choose(t int, readings quote.Readings, now *standing) (*choice, error) {
	var best, asked *choice
	first := 0
	if now.active {
		first = now.rank
	}
	for rank := first; rank < len(c.Edition.Plans); rank++ {
		plan := &c.Edition.Plans[rank]
		for _, term := range c.terms(plan) {
			if now.active && term.Months != now.end-now.start {
				continue
			}
			since, into := t, 0
			if now.active && term.Paid == pricelist.Upfront {
				since, into = now.period, t-now.period
			}
			receipt, err := c.ask(plan, term, readings, since, into)
			if err != nil {
				return nil, err
			}
			if !receipt.OnlyQuestions() {
				continue
			}
			monthly, err := receipt.PerMonth()
			if err != nil {
				return nil, err
			}
			slot := &best
			if !receipt.Serves() {
				slot = &asked
			}
			if *slot != nil {
				order, err := monthly.Cmp((*slot).monthly)
				if err != nil {
					return nil, err
				}
				if order >= 0 {
					continue
				}
			}
			*slot = &choice{rank, receipt, monthly}
		}
	}
	if best == nil {
		return asked, nil
	}
	return best, nil
}

// longSince stands for the months since an existing customer signed: offers
// for the first months are over.
const longSince = 12_000

func (c *Candidate) ask(plan *pricelist.Plan, term pricelist.Term, readings quote.Readings, since, into int) (quote.Receipt, error) {
	if c.Customer.Here {
		since += longSince
	}
	return quote.Of(quote.Ask{Edition: c.Edition, Plan: plan, Term: term, Readings: readings, Musts: c.Musts,
		Customer: c.Customer, Since: since, Into: into, Basis: c.Basis})
}

// terms returns the terms of a plan that the policy prefers, or all of them
// where it has none such.
func (c *Candidate) terms(p *pricelist.Plan) []pricelist.Term {
	var preferred []pricelist.Term
	for _, t := range p.Terms {
		if t.Months == c.Policy.months() {
			preferred = append(preferred, t)
		}
	}
	if len(preferred) == 0 {
		return p.Terms
	}
	return preferred
}

// serve books month t on the chosen plan.
func (s *Schedule) serve(m *Month, t int, best *choice, now *standing, readings quote.Readings) error {
	r := best.receipt
	before, elapsed := money.Amount(0), 0
	if !now.active {
		*now = standing{active: true, start: t, end: t + max(1, r.Term.Months), period: t}
	} else if r.Period == 1 {
		now.period = t
	} else {
		elapsed = t - now.period
		before = cumulative(r.Conversion.To, now.bill, now.inside, r.Period) - cumulative(r.Conversion.To, now.bill, elapsed, r.Period)
	}
	now.rank, now.bill, now.readings = best.rank, r.Settled, readings
	now.inside = min(r.Period, len(s.Months)-now.period)
	if !r.Serves() {
		s.question(r.Reasons)
	}
	share := cumulative(r.Conversion.To, now.bill, elapsed+1, r.Period) - cumulative(r.Conversion.To, now.bill, elapsed, r.Period)
	left := cumulative(r.Conversion.To, now.bill, now.inside, r.Period) - cumulative(r.Conversion.To, now.bill, elapsed, r.Period)
	accrued, err := share.Plus(r.AsYou)
	if err != nil {
		return err
	}
	if s.Total, err = s.Total.Plus(accrued); err != nil {
		return err
	}
	*m = Month{Receipt: r, Readings: m.Readings, Billed: readings, TermStart: now.start, Start: now.period, Serves: true,
		Accrued: accrued, Running: s.Total, Cash: left - before + r.AsYou}
	return nil
}

func (s *Schedule) question(reasons []quote.Reason) {
	for _, r := range reasons {
		known := false
		for _, q := range s.Questions {
			known = known || q.Feature == r.Feature
		}
		if !known {
			s.Questions = append(s.Questions, r)
		}
	}
}

// unserved notes why no plan serves month t: the reasons of the plan that
// comes closest, the one with the fewest, ties to the higher plan.
func (s *Schedule) unserved(c Candidate, t int, readings quote.Readings) error {
	s.Months[t].Running = s.Total
	if s.Fails >= 0 {
		return nil
	}
	s.Fails = t
	for i := range c.Edition.Plans {
		plan := &c.Edition.Plans[i]
		term := pricelist.Term{Key: "monthly", Months: 1}
		if terms := c.terms(plan); len(terms) > 0 {
			term = terms[0]
		}
		r, err := c.ask(plan, term, readings, t, 0)
		if err != nil {
			return err
		}
		if s.Reasons == nil || len(r.Reasons) <= len(s.Reasons) {
			s.Reasons = r.Reasons
		}
	}
	return nil
}

// cumulative returns the part of a bill for n months that falls on the first k
// of them, round(bill·k/n) to the minor unit. It is no more than the bill, so
// it always fits.
func cumulative(c money.Currency, bill money.Amount, k, n int) money.Amount {
	if k >= n {
		return bill
	}
	exact, err := money.Exactly(bill).Times(int64(k), int64(n))
	if err != nil {
		panic(err)
	}
	rounded, err := exact.Round(c)
	if err != nil {
		panic(err)
	}
	return rounded
}

// Preview prices every plan on every term at one reading, as a candidate would
// be quoted on signing.
func Preview(c Candidate, readings quote.Readings) ([]quote.Receipt, error) {
	var receipts []quote.Receipt
	for i := range c.Edition.Plans {
		plan := &c.Edition.Plans[i]
		for _, term := range plan.Terms {
			r, err := c.ask(plan, term, readings, 0, 0)
			if err != nil {
				return nil, err
			}
			receipts = append(receipts, r)
		}
	}
	return receipts, nil
}

// Usage works out the meters of an edition for each of n months.
func Usage(e *pricelist.Edition, m *usage.Model, n int) ([]quote.Readings, error) {
	all := make([]quote.Readings, n)
	for t := range all {
		values, err := m.At(t)
		if err != nil {
			return nil, err
		}
		if all[t], err = quote.Read(e, values); err != nil {
			return nil, fmt.Errorf("month %d: %w", t+1, err)
		}
	}
	return all, nil
}
