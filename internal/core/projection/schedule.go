// Package projection turns a price list and the usage of each month into a
// schedule: which plan on which term, what it costs, why it changes. Choosing the
// plans and booking their bills are two steps.
package projection

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
)

// Month is one month of a schedule. All amounts are in the study's currency.
type Month struct {
	Program   *tariff.Program // what is taken; nil where nothing serves
	Serves    bool
	TermStart int          // month in which the term began
	Start     int          // month in which the billing period began
	Accrued   money.Amount // the month's share of what is paid, and what is lost in it
	Running   money.Amount // accrued so far
	Cash      money.Amount // paid in this month
	Lost      money.Amount // paid ahead, and lost in this month by leaving or moving
	Once      money.Amount // charged at signing, or as an add-on begins, if that is in this month
	Falls     money.Amount // what falls away in it, counted off the others ([Schedule.Less])

	With []*Month // of each tool, where several are taken side by side ([Together])

	cost    tariff.Cost
	edition *pricelist.Edition
	row     []int64 // readings of the month
	billed  []int64 // readings that are billed: inside a term, stocks stay at their highest
	since   int     // months from signing to the bill
	into    int     // months from the bill to this one
	until   []int64 // what was billed in the month before, where the plan goes on
	over    int     // months that what is paid for life is spread over
	signed  bool
	before  *pricelist.Plan // left for this one in this month
}

// Readings are what the meters show in the month.
func (m *Month) Readings() quote.Readings { return tariff.Readings(m.edition, m.row) }

// Billed are the readings that are billed in a month that is served: inside a term stocks are at their
// highest so far.
func (m *Month) Billed() quote.Readings { return tariff.Readings(m.edition, m.billed) }

// Plan is the plan of a month that is served.
func (m *Month) Plan() *pricelist.Plan { return m.Program.Plan }

// Term is the term of a month that is served.
func (m *Month) Term() pricelist.Term { return m.Program.Term }

// Signed reports whether the plan is signed in the month.
func (m *Month) Signed() bool { return m.signed }

// Monthly returns what the month costs by its bill, free of the cents by which
// the spread of a bill differs from month to month.
func (m *Month) Monthly() money.Amount {
	if !m.Serves {
		return 0
	}
	if m.With != nil {
		return monthlyOf(m.With)
	}
	return m.Program.Amount(m.monthly(m.cost))
}

func (m *Month) monthly(c tariff.Cost) int64 {
	n := max(1, int64(m.months()))
	return (2*c.Bill+n)/(2*n) + c.Used
}

// months is how many months the bill is spread over.
func (m *Month) months() int { return max(m.Program.Period, m.over) }

// Packs returns how many packs of each kind are begun in a month that is served.
func (m *Month) Packs() (all []int64) {
	if m.With == nil {
		return m.Program.Packs(m.cost, m.since, m.into, m.billed)
	}
	for _, part := range m.With {
		all = append(all, part.Packs()...)
	}
	return all
}

// Receipt explains what a month costs that is served.
func (m *Month) Receipt() quote.Receipt {
	r := m.Program.Explain(m.since, m.into, m.billed)
	r.Over = m.over
	switch {
	case r.AtSigning == m.Once:
		return r
	case !m.signed:
		m.Program.Begins(&r, m.since, m.into, m.until, m.billed)
		r.AtSigning = m.Once
		return r
	}
	m.Program.Moved(&r, m.row, m.before)
	r.AtSigning = m.Once
	return r
}

// Schedule is a candidate's way through the months.
//
// Within a term stocks ratchet, flows are billed as used, and moving up is
// possible with credit for the unused part, which ends at the new bill. What is bought
// for life counts whole where it begins, also in place of another. Where
// nothing on the term serves any more, it is left for another, and what was paid
// ahead is lost, for months past the horizon too. Total is the sum of Accrued; with Ahead,
// that of Cash, to the minor unit.
type Schedule struct {
	Months []Month
	Total  money.Amount
	// What is paid, or still owed, for months past the horizon; and what of it is paid.
	Beyond, Ahead money.Amount

	Steps     []Step
	Fails     int            // first month that no plan can serve; -1 when all are served
	Misses    []Miss         // what each plan lacks then, the nearest first
	Questions []quote.Reason // musts not yet known on a plan that is taken
}

// Serves reports whether every month is served.
func (s *Schedule) Serves() bool { return s.Fails < 0 }

// Project works out a schedule. Errors are those of [tariff.Compile], or
// [money.ErrOverflow] where a sum does not fit.
func Project(c Candidate) (Schedule, error) {
	h, err := newChoosing(&c)
	if err != nil {
		return Schedule{}, err
	}
	way, err := h.choose()
	if err != nil {
		return Schedule{}, err
	}
	s, err := h.book(way)
	if err != nil {
		return s, err
	}
	return s, h.explain(&s)
}

// book writes the bills of a way: what each month costs, when it is paid, what is
// lost and what is still owed.
func (h *choosing) book(way []stay) (Schedule, error) {
	s := Schedule{Fails: -1, Months: make([]Month, len(way))}
	var rest int64 // of the running bill, for this month and later ones
	for t, now := range way {
		m := &s.Months[t]
		m.edition, m.row = h.Edition, h.rows[t]
		var accrued, cash, lost int64
		if now.program == nil || now.start == t && !now.anew {
			lost, rest = rest, 0 // of a term that was left before its end
		}
		if now.program == nil {
			if err := s.unserved(h, t); err != nil {
				return s, err
			}
		} else {
			i := slices.Index(h.all, now.program)
			h.serve(m, i, now, t)
			n, k := h.length(i, now.start), t-now.start
			accrued, cash = m.cost.Bill, m.cost.Bill
			if now.program.Period != 1 {
				accrued = share(m.cost.Bill, k, n)
				due := left(m.cost.Bill, k, n)
				cash = max(0, due-rest)
				lost += max(0, rest-due)
				rest = due - accrued
			}
			accrued, cash = accrued+m.cost.Used, cash+m.cost.Used
			if now.signed {
				once, _ := now.program.Signing(h.rows[t], now.before)
				m.Once = now.program.Amount(once)
				accrued, cash = accrued+once, cash+once
			} else if t > 0 && h.once[i] {
				if m.until = h.rows[t-1]; now.start < t || now.anew {
					m.until = h.level(way[t-1].start, t-1)
				}
				once := h.begun(i, now.start, t, now.age, m.until, m.billed).cost
				m.Once = now.program.Amount(once)
				accrued, cash = accrued+once, cash+once
			}
			s.question(now.program.Questions)
		}
		to := h.Basis.Currency.Minor()
		m.Lost, m.Accrued, m.Cash = money.Amount(lost*to), money.Amount((accrued+lost)*to), money.Amount(cash*to)
		var err error
		if s.Total, err = s.Total.Plus(m.Accrued); err != nil {
			return s, fmt.Errorf("%s, month %d: %w", h.Edition.Platform.Name, t+1, err)
		}
		m.Running = s.Total
	}
	s.Beyond, s.Ahead = h.beyond(way), money.Amount(rest*h.Basis.Currency.Minor())
	if h.Leaves {
		return s, s.leave()
	}
	return s, nil
}

// leave pays in the last month what the running term still asks for and is not paid yet.
func (s *Schedule) leave() error {
	m := &s.Months[len(s.Months)-1]
	m.Lost += s.Beyond
	m.Accrued += s.Beyond
	m.Cash += s.Beyond - s.Ahead
	var err error
	s.Total, err = s.Total.Plus(s.Beyond)
	m.Running, s.Beyond, s.Ahead = s.Total, 0, 0
	return err
}

func (h *choosing) serve(m *Month, program int, now stay, t int) {
	m.Program, m.Serves, m.TermStart, m.Start = now.program, true, now.start, t
	if now.program.Period != 1 {
		m.Start = now.start
	}
	if now.program.ForLife() {
		m.over = h.length(program, now.start)
	}
	m.billed = h.level(now.start, t)
	m.cost, _ = h.cost(program, now.start, t, now.age, m.billed)
	m.since, m.into = billing(now.program, now.start, t, now.age)
	if m.signed, m.before = now.signed, now.before; !m.signed && m.into == 0 {
		m.since = max(1, m.since)
	}
}

// beyond is what the last term still asks for past the horizon: the rest of what
// is paid ahead, or the months that one is bound for, at the level of the last.
func (h *choosing) beyond(way []stay) money.Amount {
	last := way[len(way)-1]
	if last.program == nil || last.program.ForLife() {
		return 0
	}
	i, end := slices.Index(h.all, last.program), len(way)
	n := h.length(i, last.start)
	c, _ := h.cost(i, last.start, end-1, last.age, h.level(last.start, end-1))
	if last.program.Period != 1 {
		return last.program.Amount(c.Bill - cumulative(c.Bill, end-last.start, n))
	}
	return last.program.Amount(h.bound(i, last.start, end-1, last.age, h.level(last.start, end-1)))
}

// question notes musts that are not yet known on a plan that is taken.
func (s *Schedule) question(reasons []quote.Reason) {
	for _, r := range reasons {
		if !slices.ContainsFunc(s.Questions, func(q quote.Reason) bool { return q.Feature == r.Feature }) {
			s.Questions = append(s.Questions, r)
		}
	}
}

// Miss is why a plan does not serve a month; of musts that are not yet known it says nothing.
type Miss struct {
	Plan    *pricelist.Plan
	Reasons []quote.Reason
}

// OnRequest reports whether its price is.
func (m *Miss) OnRequest() bool {
	return slices.ContainsFunc(m.Reasons, func(r quote.Reason) bool { return r.Kind == quote.PriceOnAsking })
}

// unserved marks a month that no plan serves, with the reasons of each plan: first those of which the
// fewest stand against, the largest of several, and last those whose price is on request.
func (s *Schedule) unserved(h *choosing, t int) error {
	if s.Fails >= 0 {
		return nil
	}
	s.Fails = t
	d := tariff.Deal{Musts: h.Musts, Customer: h.Customer, Basis: h.Basis}
	for i := range h.Edition.Plans {
		plan := &h.Edition.Plans[i]
		term := pricelist.Term{Key: "monthly", Months: 1}
		for j, t := range plan.Terms {
			if j == 0 || h.takes(plan, t) {
				term = t
			}
		}
		r, err := tariff.Quote(h.Edition, plan, term, d, max(1, t), 0, h.rows[t])
		if err != nil {
			return err
		}
		reasons := slices.DeleteFunc(r.Reasons, func(r quote.Reason) bool { return r.Kind == quote.MustNotKnown })
		if len(reasons) > 0 {
			s.Misses = append(s.Misses, Miss{plan, reasons})
		}
	}
	far := func(m Miss) int {
		if m.OnRequest() {
			return math.MaxInt
		}
		return len(m.Reasons)
	}
	slices.Reverse(s.Misses)
	slices.SortStableFunc(s.Misses, func(a, b Miss) int { return cmp.Compare(far(a), far(b)) })
	return nil
}

// LongSince is how many months ago those signed who are customers already: longer
// than any offer lasts.
const LongSince = 1_000

// Preview quotes every plan on every term, at the readings of one month, from 0, and
// as if signed then.
func Preview(c Candidate, month int) ([]quote.Receipt, error) {
	if c.Programs == nil {
		if err := c.Compile(); err != nil {
			return nil, err
		}
	}
	since := 0
	if c.Customer.Here {
		since = LongSince
	}
	rows := c.rows()
	var receipts []quote.Receipt
	for i := 0; i < len(c.Programs); {
		same := i + 1
		for same < len(c.Programs) && c.Programs[same].Plan == c.Programs[i].Plan && c.Programs[same].Term == c.Programs[i].Term {
			same++
		}
		r := tariff.Best(c.Programs[i:same], c.Customer, since, 0, rows[month])
		if r.Term.Months == pricelist.Lifetime {
			r.Over = len(rows)
		}
		receipts = append(receipts, r)
		i = same
	}
	return receipts, nil
}
