package study

import (
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"
)

// SayGrowth tells where contacts and emails go over the horizon.
func (o *Outcome) SayGrowth() Phrase {
	s := o.Study
	contacts, emails, last := o.Values.Of("contacts"), o.Values.Of("emails_sent"), s.Horizon-1
	if contacts[0] == 0 {
		return say("No contacts are set yet. Costs follow from what stands here.")
	}
	p := say("The list goes from *%s* to *%s* contacts by %s", people(contacts[0]), people(contacts[last]), s.Month(s.Horizon-1).String())
	if emails[0] > 0 {
		p = append(p, say(", and emails sent from *%s* to *%s* a month", people(emails[0]), people(emails[last]))...)
	}
	return append(p, Part{Text: "."})
}

// people writes a level as meters bill it: rounded up to whole.
func people(v float64) string {
	q, err := usage.FromFloat(v)
	if err != nil {
		return "?"
	}
	return money.Thousands(uint64(q.Ceil().Whole()))
}

// SayPrices tells the range of what is paid in the first month.
func (o *Outcome) SayPrices() Phrase {
	low, high := -1, -1
	for i := range o.Results {
		if r := &o.Results[i]; r.In() && r.Today != nil {
			if low < 0 || r.Monthly(0) < o.Results[low].Monthly(0) {
				low = i
			}
			if high < 0 || r.Monthly(0) > o.Results[high].Monthly(0) {
				high = i
			}
		}
	}
	if low < 0 {
		return say("No plan of any option can serve today's usage.")
	}
	a, b := &o.Results[low], &o.Results[high]
	c := o.Study.Currency
	p := say("In *%s* the plans that meet every must cost from *%s* a month (%s on %s)", o.Study.Start.String(), c.Format(a.Monthly(0)),
		a.Option.Name, a.Today.Plan.Name)
	if low != high {
		p = append(p, say(" to *%s* (%s on %s)", c.Format(b.Monthly(0)), b.Option.Name, b.Today.Plan.Name)...)
	}
	p = append(p, Part{Text: "."})
	if offer := o.offers(); offer != "" {
		p = p.and(say("%s", offer))
	}
	return p
}

// offers names the options whose first month is lowered by an offer.
func (o *Outcome) offers() string {
	var names []string
	for i := range o.Results {
		r := &o.Results[i]
		if r.Today == nil {
			continue
		}
		for _, l := range r.Today.Lines {
			if len(l.Offers) > 0 {
				names = append(names, r.Option.Name)
				break
			}
		}
	}
	if len(names) == 0 {
		return ""
	}
	return "An offer that ends lowers the price of " + list(names) + "."
}
