package study

import (
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
)

// SayWhy tells why a plan cannot serve, with needs by the names that the study gives
// them: "no trade-buyer lists", "too little site audit".
func (s *Study) SayWhy(r quote.Reason) string {
	if r.Kind != quote.MustMissing && r.Kind != quote.MustNotKnown {
		return r.String()
	}
	for i := range s.Needs {
		n := &s.Needs[i]
		if n.Feature != r.Feature {
			continue
		}
		name := usage.LowerFirst(n.Name)
		switch {
		case r.Kind == quote.MustNotKnown:
			return name + " not yet known"
		case r.Has == pricelist.Partly && (n.Depth > 0 || n.Number > 0):
			return "too little " + name
		case r.Has == pricelist.Partly:
			return name + " only in part"
		case r.Has == pricelist.Announced:
			return name + " only announced"
		}
		return "no " + name
	}
	return r.String()
}

// LacksRate reports whether there is no rate from a currency to that of the study.
func (s *Study) LacksRate(from money.Currency) bool {
	_, told := s.Rates[from.Code()]
	return !told && from != s.Currency
}

// sayMisses says why nothing serves from some month on, in one clause: what stands against the plan
// that comes nearest.
func (s *Study) sayMisses(sum *projection.Schedule) string {
	when := ""
	if sum.Fails > 0 {
		when = "from " + s.Month(sum.Fails).String() + ": "
	}
	if len(sum.Misses) == 0 {
		return when + "no plan serves"
	}
	return when + s.sayMiss(&sum.Misses[0])
}

// sayMiss says what stands against a plan: "seats pass 3 on Team".
func (s *Study) sayMiss(m *projection.Miss) string {
	if m.OnRequest() {
		return "the price of " + m.Plan.Name + " is on request"
	}
	first := m.Reasons[0]
	said := s.SayWhy(first) + " on " + m.Plan.Name
	switch {
	case first.Kind == quote.PastBands:
		said = first.Passes() + " on " + m.Plan.Name + ", above which the price is on request"
	case first.Kind == quote.ClosedToNew:
		said = m.Plan.Name + " is closed to new customers"
	}
	if more := len(m.Reasons) - 1; more > 0 {
		said += fmt.Sprintf(", and %d more", more)
	}
	return said
}

// SayWaysIn tells of an option that nothing serves what the plan after the nearest would need; "" where
// there is none.
func (o *Outcome) SayWaysIn(r *Result) string {
	all := r.Schedule.Misses
	if r.Schedule.Serves() || len(all) < 2 {
		return ""
	}
	rest := all[1:]
	at := slices.IndexFunc(rest, func(m projection.Miss) bool { return !m.OnRequest() })
	asked := slices.IndexFunc(rest, func(m projection.Miss) bool { return m.OnRequest() })
	var says []string
	if at >= 0 {
		says = append(says, fmt.Sprintf("Next nearest is %s: %s.", rest[at].Plan.Name, o.Study.SayWhy(rest[at].Reasons[0])))
	}
	if asked >= 0 {
		says = append(says, fmt.Sprintf("The price of %s is on request: ask them, and enter what they quote.", rest[asked].Plan.Name))
	}
	return strings.Join(says, " ")
}

// SayOpen tells which musts are not yet known on the plans that an option takes: "forms not yet known on
// Sprig and Bough".
func (o *Outcome) SayOpen(r *Result) (all []string) {
	for _, q := range r.Schedule.Questions {
		var plans []string
		for k := range r.Tools {
			for m := range r.Tools[k].Schedule.Months {
				now := &r.Tools[k].Schedule.Months[m]
				if now.Serves && slices.Contains(now.Program.Questions, q) && !slices.Contains(plans, now.Plan().Name) {
					plans = append(plans, now.Plan().Name)
				}
			}
		}
		all = append(all, o.Study.SayWhy(q)+" on "+list(plans))
	}
	return all
}
