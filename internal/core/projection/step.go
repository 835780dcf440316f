package projection

import (
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
)

// Step is a month in which the bill changes by more than usage alone explains.
type Step struct {
	Month    int
	From, To *pricelist.Plan // the same unless the plan changed
	Causes   []Cause
	Delta    money.Amount // change of the receipts' cost per month
	Tool     int          // of a stack, the one whose bill it is
}

// CauseKind tells what made a bill change.
type CauseKind string

// The kinds of cause.
const (
	Outgrown   CauseKind = "outgrown"    // the plan before cannot serve any more
	Cheaper    CauseKind = "cheaper"     // another plan now costs less
	BandPassed CauseKind = "band passed" // a stair's next band
	BandBack   CauseKind = "band back"   // a lower band again
	PackBegun  CauseKind = "pack begun"
	PackSpared CauseKind = "pack spared"
	AddOnBegun CauseKind = "add-on begun" // a limit asks for it
	AddOnEnded CauseKind = "add-on ended"
	OfferEnded CauseKind = "offer ended"
	Renewed    CauseKind = "renewed" // a new term, priced at the level of the day
	Left       CauseKind = "left"    // a term was left before its end, and what was paid is lost
)

// Cause is one reason for a step.
type Cause struct {
	Kind CauseKind
	Text string // the end of a sentence: "contacts pass 8,000"
}

// PlanChanged reports whether the step is to another plan.
func (s Step) PlanChanged() bool { return s.From.Key != s.To.Key }

// explain finds the steps of a schedule: months in which the bill changes by more
// than usage alone explains.
func (h *choosing) explain(s *Schedule) error {
	var last *quote.Receipt // of the month before, where it was needed
	for t := 1; t < len(s.Months); t++ {
		before, after := &s.Months[t-1], &s.Months[t]
		receipt := last
		last = nil
		if !before.Serves || !after.Serves {
			continue
		}
		step := Step{Month: t, From: before.Plan(), To: after.Plan(), Delta: after.Monthly() - before.Monthly()}
		switch {
		case step.PlanChanged():
			step.Causes = []Cause{h.whyMoved(before, after, t)}
		case step.Delta == 0:
			continue
		case alike(before, after):
			step.Causes = renewed(after, t)
		default:
			if receipt == nil {
				r := before.Receipt()
				receipt = &r
			}
			r := after.Receipt()
			last = &r
			step.Causes = append(within(receipt, last), addOns(receipt, last, h.Edition)...)
			if len(step.Causes) == 0 {
				step.Causes = renewed(after, t)
			}
		}
		if after.Lost > 0 {
			step.Causes = append(step.Causes, Cause{Left, h.Basis.Currency.Format(after.Lost) + " paid ahead is lost"})
		}
		if len(step.Causes) > 0 && (step.Delta != 0 || step.PlanChanged()) {
			s.Steps = append(s.Steps, step)
		}
	}
	return nil
}

// alike reports whether the receipts of two months differ in quantities and amounts
// alone.
func alike(before, after *Month) bool {
	if before.Program != after.Program || before.Once != after.Once {
		return false
	}
	var room [2][32]int64
	a := before.Program.Marks(before.cost, before.since, before.into, before.billed, room[0][:0])
	b := after.Program.Marks(after.cost, after.since, after.into, after.billed, room[1][:0])
	return slices.Equal(a, b)
}

// renewed is the cause of a step where a term begins anew.
func renewed(m *Month, t int) []Cause {
	if m.TermStart != t || m.Program.Term.Months <= 1 {
		return nil
	}
	return []Cause{{Renewed, fmt.Sprintf("the %d-month term renews", m.Program.Term.Months)}}
}

// whyMoved tells a plan that was outgrown from one that now costs less, by asking
// what staying would have cost: inside the running term, or by its renewal.
func (h *choosing) whyMoved(before, after *Month, t int) Cause {
	p, row, since, into := before.Program, h.rows[t], max(1, before.since+before.into+1), 0
	if after.TermStart < t || before.TermStart+h.length(slices.Index(h.all, p), before.TermStart) > t {
		row = h.level(before.TermStart, t)
		if p.Period != 1 {
			since, into = before.since, before.into+1
		}
	}
	c, ok := p.Cost(since, into, row)
	if !ok {
		for _, r := range p.Explain(since, into, row).Reasons {
			if r.Kind == quote.PastLimit || r.Kind == quote.PastBands {
				return Cause{Outgrown, r.Passes()}
			}
		}
	}
	if saves := p.Amount(before.monthly(c)) - after.Monthly(); saves > 0 {
		return Cause{Cheaper, fmt.Sprintf("%s a month less than staying on %s", h.Basis.Currency.Format(saves), p.Plan.Name)}
	}
	return Cause{Cheaper, fmt.Sprintf("%s costs less over what is to come", after.Plan().Name)}
}

// within lists what changed between two receipts of the same plan.
func within(before, after *quote.Receipt) []Cause {
	var causes []Cause
	offer := ""
	for i := range before.Lines {
		if i >= len(after.Lines) || before.Lines[i].Key != after.Lines[i].Key {
			continue
		}
		a, b := &before.Lines[i], &after.Lines[i]
		switch {
		case b.Kind.Banded() && b.Band > a.Band:
			causes = append(causes, Cause{BandPassed, fmt.Sprintf("%s pass %s", quote.Plural(b.Unit), b.BandFrom.Format())})
		case b.Kind.Banded() && b.Band < a.Band:
			causes = append(causes, Cause{BandBack, fmt.Sprintf("%s are back at %s or fewer", quote.Plural(b.Unit), b.BandTo.Format())})
		case b.Packs > a.Packs:
			past := b.Start
			if b.Packs > 1 {
				past += b.Size * usage.Quantity(b.Packs-1)
			}
			causes = append(causes, Cause{PackBegun, fmt.Sprintf("%s pass %s, pack %d begins", quote.Plural(b.Unit), past.Format(), b.Packs)})
		case b.Packs < a.Packs:
			causes = append(causes, Cause{PackSpared, fmt.Sprintf("%s need %d fewer packs", quote.Plural(b.Unit), a.Packs-b.Packs)})
		}
		for _, o := range a.Offers {
			if covered(b, o.Key) < o.Months {
				offer = o.Name
			}
		}
	}
	if offer == "" && len(before.Lines) > 0 && len(after.Lines) < len(before.Lines) {
		for _, l := range before.Lines {
			if l.Kind == "" && len(l.Offers) > 0 {
				offer = l.Offers[0].Name // the fixed price has gone
			}
		}
	}
	if offer != "" {
		causes = append(causes, Cause{OfferEnded, fmt.Sprintf("the offer “%s” ends", offer)})
	}
	return causes
}

// addOns lists the add-ons that begin and end between two receipts of the same plan, with the limit
// past which one is bought.
func addOns(before, after *quote.Receipt, e *pricelist.Edition) (causes []Cause) {
	for _, name := range after.AddOns {
		if slices.Contains(before.AddOns, name) {
			continue
		}
		why := ""
		if at := slices.IndexFunc(e.AddOns, func(a pricelist.AddOn) bool { return a.Name == name }); at >= 0 {
			for _, l := range after.Plan.Limits {
				m, ok := e.Meter(l.Meter)
				if ok && l.Holds() && l.OfMeter == "" && slices.ContainsFunc(e.AddOns[at].Raises, func(r pricelist.Raise) bool { return r.Meter == l.Meter }) {
					why = fmt.Sprintf("%s pass %s: ", quote.Plural(m.Unit), l.Most.Format())
				}
			}
		}
		fee := money.Amount(0)
		for _, l := range after.Lines {
			if l.Once && l.AddOn == name {
				fee += l.Amount
			}
		}
		text := fmt.Sprintf("%sthe add-on “%s” begins", why, name)
		if fee > 0 {
			text += fmt.Sprintf(", for %s once", after.Conversion.From.Format(fee))
		}
		causes = append(causes, Cause{AddOnBegun, text})
	}
	for _, name := range before.AddOns {
		if !slices.Contains(after.AddOns, name) {
			causes = append(causes, Cause{AddOnEnded, fmt.Sprintf("the add-on “%s” is not needed any more", name)})
		}
	}
	return causes
}

// covered returns how many months an offer covers of a line.
func covered(l *quote.Line, offer string) int {
	for _, o := range l.Offers {
		if o.Key == offer {
			return o.Months
		}
	}
	return 0
}

func (s Step) Why() string {
	texts := make([]string, len(s.Causes))
	for i, c := range s.Causes {
		texts[i] = c.Text
	}
	return strings.Join(texts, ", ")
}
