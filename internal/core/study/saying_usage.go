package study

import (
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
)

// people writes a level as meters bill it: rounded up to whole.
func people(v float64) string {
	q, err := usage.FromFloat(v)
	if err != nil {
		return "?"
	}
	return money.Thousands(uint64(q.Ceil().Whole()))
}

// SayValue writes a driver's value with what it counts: "6,400 contacts", "20 GB of storage", "ad spend of
// €300", "list overlap of 18%".
func (s *Study) SayValue(d usage.Driver, q usage.Quantity) string {
	name := usage.LowerFirst(d.Name)
	unit, _, _ := strings.Cut(d.Unit, " ")
	switch {
	case unit == "share":
		return name + " of " + money.Share(q).String()
	case unit == "money":
		return name + " of " + s.Currency.Format(money.Amount(q))
	case unit == strings.ToUpper(unit) && unit != "":
		return q.Format() + " " + unit + " of " + name
	case q == usage.One && name == quote.Plural(d.Unit):
		return "1 " + d.Unit
	}
	return q.Format() + " " + name
}

// SayReading writes what a meter reads: "7,552 contacts", "€57.00".
func (s *Study) SayReading(q usage.Quantity, unit string) string {
	if unit == "money" {
		return s.Currency.Format(money.Amount(q))
	}
	return q.Format() + " " + quote.Plural(unit)
}

// SayPrices tells the range of what is paid in the first month.
func (o *Outcome) SayPrices() Phrase { return o.priced(o.sayPrices()) }

func (o *Outcome) sayPrices() Phrase {
	low, high, priced := -1, -1, 0
	for i := range o.Results {
		if r := &o.Results[i]; r.servesToday() {
			priced++
			if low < 0 || r.Monthly(0) < o.Results[low].Monthly(0) {
				low = i
			}
			if high < 0 || r.Monthly(0) > o.Results[high].Monthly(0) {
				high = i
			}
		}
	}
	if low < 0 {
		return say("No plan%s of any option can serve today's usage.", o.withPrice())
	}
	a, b := &o.Results[low], &o.Results[high]
	c := o.Study.Currency
	must, only := "", o.withPrice()+" that serves"
	if slices.ContainsFunc(o.Study.Needs, func(n coverage.Need) bool { return n.Level == coverage.Must }) {
		must = " with everything you must have"
		if only = o.withPrice() + must; slices.ContainsFunc(o.Results, func(r Result) bool { return r.servesToday() && len(r.Schedule.Questions) > 0 }) {
			must, only = " that have, or may have, everything you must have", o.withPrice()+" that may have everything you must have"
		}
	}
	p := say("In *%s* *%s* of %s costs *%s* a month, and is the only plan%s", o.Study.Start.String(), a.Takes(), a.Option.Name, c.Format(a.Monthly(0)), only)
	switch {
	case priced > 1 && low == high:
		p = say("In *%s* the plans%s of *%d options* all cost *%s* a month", o.Study.Start.String(), must, priced, c.Format(a.Monthly(0)))
		if a.Monthly(0) == 0 {
			p = say("In *%s* the plans%s of *%d options* all cost nothing", o.Study.Start.String(), must, priced)
		}
	case priced > 1:
		p = say("In *%s* the plans%s cost from *%s* a month (%s) to *%s* (%s)", o.Study.Start.String(), must, c.Format(a.Monthly(0)),
			onPlan(a), c.Format(b.Monthly(0)), onPlan(b))
	}
	p = append(p, Part{Text: "."})
	for i := range o.Results {
		if r := &o.Results[i]; r.servesToday() && r.Today.Lowered() {
			p = p.and(say("%s costs %s.", r.Option.Name, SayOffer(r.Today)))
		}
	}
	return p
}

// servesToday reports whether an option has a plan for today's usage and misses no must, whatever it
// serves later.
func (r *Result) servesToday() bool { return !r.AtFault && r.Today != nil && !r.fails() }

// onPlan names an option and the plan that it takes, once where its name tells the plan.
func onPlan(r *Result) string {
	if strings.HasSuffix(r.Option.Name, ", "+r.Takes()) {
		return r.Option.Name
	}
	return r.Option.Name + " on " + r.Takes()
}

// SayOffer says what a plan costs while an offer lowers it, and after: "€44.50 for 3
// months, then €89.00". Amounts are of a month.
func SayOffer(r *quote.Receipt) string {
	c := r.Conversion.To
	if r.Until == 0 {
		return c.Format(r.Monthly()) + ", lowered by an offer that stays"
	}
	return fmt.Sprintf("%s for %s, then %s", c.Format(r.Monthly()), plural(r.Until, "month"), c.Format(r.Then))
}
