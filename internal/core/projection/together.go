package projection

import (
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/quote"
)

// Together adds up the schedules of several tools that are taken side by side, of
// equally many months: a month is served when each is. Its plan, term and receipt
// are those of the first; [Month.Parts] has them all. It fails with
// [money.ErrOverflow] where a sum does not fit.
func Together(all []Schedule) (Schedule, error) {
	if len(all) == 1 {
		return all[0], nil
	}
	sum := Schedule{Fails: -1, Months: make([]Month, len(all[0].Months))}
	for t := range sum.Months {
		m := &sum.Months[t]
		*m = all[0].Months[t]
		m.With, m.Serves = nil, true
		m.Accrued, m.Cash, m.Lost, m.Once = 0, 0, 0, 0
		for i := range all {
			part := &all[i].Months[t]
			m.With = append(m.With, part)
			m.Serves = m.Serves && part.Serves
			m.Accrued, m.Cash, m.Lost, m.Once = m.Accrued+part.Accrued, m.Cash+part.Cash, m.Lost+part.Lost, m.Once+part.Once
		}
		var err error
		if sum.Total, err = sum.Total.Plus(m.Accrued); err != nil {
			return sum, fmt.Errorf("month %d: %w", t+1, err)
		}
		m.Running = sum.Total
	}
	for i := range all {
		s := &all[i]
		sum.Beyond, sum.Ahead = sum.Beyond+s.Beyond, sum.Ahead+s.Ahead
		for _, step := range s.Steps {
			step.Tool = i
			sum.Steps = append(sum.Steps, step)
		}
		if s.Fails >= 0 && (sum.Fails < 0 || s.Fails < sum.Fails) {
			sum.Fails, sum.Misses = s.Fails, s.Misses
		}
		for _, q := range s.Questions {
			if !slices.ContainsFunc(sum.Questions, func(o quote.Reason) bool { return o.Feature == q.Feature }) {
				sum.Questions = append(sum.Questions, q)
			}
		}
	}
	slices.SortStableFunc(sum.Steps, func(a, b Step) int { return a.Month - b.Month })
	return sum, nil
}

// Less is a schedule with what falls away by it counted off each month: not accrued and not
// paid, so that the ledger adds up as before. Fewer amounts than months
// leave the rest as they are. It fails with [money.ErrOverflow] where a sum does not fit.
func (s Schedule) Less(falls []money.Amount) (Schedule, error) {
	if len(falls) == 0 {
		return s, nil
	}
	s.Months, s.Total = slices.Clone(s.Months), 0
	for t := range s.Months {
		m := &s.Months[t]
		if t < len(falls) {
			m.Falls = falls[t]
			m.Accrued, m.Cash = m.Accrued-m.Falls, m.Cash-m.Falls
		}
		var err error
		if s.Total, err = s.Total.Plus(m.Accrued); err != nil {
			return s, fmt.Errorf("month %d: %w", t+1, err)
		}
		m.Running = s.Total
	}
	return s, nil
}

// Parts returns the month of each tool that is taken side by side; of one alone,
// itself.
func (m *Month) Parts() []*Month {
	if m.With == nil {
		return []*Month{m}
	}
	return m.With
}

// Called is what the plans of a month are called that is served: "Leaflet + Runner".
func (m *Month) Called() string {
	if m.With == nil {
		return m.Plan().Name
	}
	names := make([]string, len(m.With))
	for i, part := range m.With {
		names[i] = part.Plan().Name
	}
	return strings.Join(names, " + ")
}

// Rank is how far up its list the plan stands, added up over all tools.
func (m *Month) Rank() (rank int) {
	for _, part := range m.Parts() {
		rank += part.Program.Rank
	}
	return rank
}

// monthlyOf adds up what the parts of a month cost by their bills.
func monthlyOf(parts []*Month) (sum money.Amount) {
	for _, part := range parts {
		sum += part.Monthly()
	}
	return sum
}
