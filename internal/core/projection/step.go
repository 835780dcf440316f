package projection

import (
	"fmt"
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
	OfferEnded CauseKind = "offer ended"
	Renewed    CauseKind = "renewed" // a new term, priced at the level of the day
)

// Cause is one reason for a step.
type Cause struct {
	Kind CauseKind
	Text string // the end of a sentence: "contacts pass 8,000"
}

// PlanChanged reports whether the step is to another plan.
func (s Step) PlanChanged() bool { return s.From.Key != s.To.Key }

// explain finds the steps between each month and the next.
func (s *Schedule) explain(c Candidate) error {
	for t := 1; t < len(s.Months); t++ {
		before, after := &s.Months[t-1], &s.Months[t]
		if !before.Serves || !after.Serves {
			continue
		}
		step := Step{Month: t, From: before.Receipt.Plan, To: after.Receipt.Plan, Delta: after.Receipt.Monthly() - before.Receipt.Monthly()}
		if step.PlanChanged() {
			cause, err := c.whyMoved(before, after, t)
			if err != nil {
				return err
			}
			step.Causes = []Cause{cause}
		} else {
			step.Causes = within(&before.Receipt, &after.Receipt)
			if len(step.Causes) == 0 && after.TermStart == t && after.Receipt.Period > 1 && step.Delta != 0 {
				step.Causes = []Cause{{Renewed, fmt.Sprintf("the %d-month term renews", after.Receipt.Term.Months)}}
			}
		}
		if len(step.Causes) > 0 && (step.Delta != 0 || step.PlanChanged()) {
			s.Steps = append(s.Steps, step)
		}
	}
	return nil
}

// whyMoved asks the plan before for the month after: it cannot serve, or it
// costs more.
func (c *Candidate) whyMoved(before, after *Month, t int) (Cause, error) {
	old, err := c.ask(before.Receipt.Plan, before.Receipt.Term, after.Billed, t, 0)
	if err != nil {
		return Cause{}, err
	}
	for _, r := range old.Reasons {
		if r.Kind == quote.PastLimit || r.Kind == quote.PastBands {
			return Cause{Outgrown, r.Passes()}, nil
		}
	}
	saves := old.Monthly() - after.Receipt.Monthly()
	return Cause{Cheaper, fmt.Sprintf("%s a month less than staying on %s", c.Basis.Currency.Format(saves), before.Receipt.Plan.Name)}, nil
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
		case b.Kind == pricelist.Stair && b.Band > a.Band:
			causes = append(causes, Cause{BandPassed, fmt.Sprintf("%s pass %s", quote.Plural(b.Unit), b.BandFrom.Format())})
		case b.Kind == pricelist.Stair && b.Band < a.Band:
			causes = append(causes, Cause{BandBack, fmt.Sprintf("%s are back at %s or fewer", quote.Plural(b.Unit), b.BandTo.Format())})
		case b.Packs > a.Packs:
			past := b.Included
			if b.Packs > 1 {
				past += b.Size * usage.Quantity(b.Packs-1)
			}
			causes = append(causes, Cause{PackBegun, fmt.Sprintf("%s pass %s, pack %d begins", quote.Plural(b.Unit), past.Format(), b.Packs)})
		case b.Packs < a.Packs:
			causes = append(causes, Cause{PackSpared, fmt.Sprintf("%s need %d fewer packs", quote.Plural(b.Unit), a.Packs-b.Packs)})
		}
		if a.OfferMonths > 0 && b.OfferMonths < a.OfferMonths {
			offer = a.Offer
		}
	}
	if offer != "" {
		causes = append(causes, Cause{OfferEnded, fmt.Sprintf("offer %q ends", offer)})
	}
	return causes
}

// Why joins the causes: "contacts pass 8,000, offer "first-spring" ends".
func (s Step) Why() string {
	texts := make([]string, len(s.Causes))
	for i, c := range s.Causes {
		texts[i] = c.Text
	}
	return strings.Join(texts, ", ")
}
