package study

import "slices"

// noRates are the currencies of some options' lists from which there is no rate.
func (o *Outcome) noRates(some ...*Result) (codes []string) {
	for _, r := range some {
		for i := range r.Tools {
			if from := r.Tools[i].Tool.Edition.Currency; o.Study.LacksRate(from) && !slices.Contains(codes, from.Code()) {
				codes = append(codes, from.Code())
			}
		}
	}
	return codes
}

// NoRate is the rate that an option's price needs and the study lacks: "USD to EUR"; "" for none.
func (o *Outcome) NoRate(r *Result) string {
	codes := o.noRates(r)
	if len(codes) == 0 {
		return ""
	}
	return list(codes) + " to " + o.Study.Currency.Code()
}

// SayNoPrice ends a sentence about an option whose price needs a rate that the study lacks; "" for none.
func (o *Outcome) SayNoPrice(r *Result) string {
	if rate := o.NoRate(r); rate != "" {
		return noPrice(rate)
	}
	return ""
}

func noPrice(rate string) string { return "has no price here: there is no rate from " + rate }

// withPrice ends "no option" and the like where some have no price for the lack of a rate: of these it
// is not known.
func (o *Outcome) withPrice() string {
	for i := range o.Results {
		if o.NoRate(&o.Results[i]) != "" {
			return " with a price"
		}
	}
	return ""
}

// priced adds to what is said of prices which options have none for the lack of a rate.
func (o *Outcome) priced(p Phrase) Phrase {
	for i := range o.Results {
		if none := o.SayNoPrice(&o.Results[i]); none != "" {
			p = p.and(say("*%s* %s.", o.name(i), none))
		}
	}
	return p
}

// SayRatesMissing tells from which currencies of the line-up there is no rate; "" where there are all.
func (o *Outcome) SayRatesMissing() string {
	all := make([]*Result, len(o.Results))
	for i := range o.Results {
		all[i] = &o.Results[i]
	}
	codes := o.noRates(all...)
	if len(codes) == 0 {
		return ""
	}
	return "There is no rate from " + list(codes) + " to " + o.Study.Currency.Code() + " yet, which the line-up needs."
}

// sayNoRate tells which options have no price for the lack of a rate.
func (o *Outcome) sayNoRate() Phrase {
	var names []string
	var some []*Result
	for _, i := range o.Pick.NoRate {
		names, some = append(names, o.name(i)), append(some, &o.Results[i])
	}
	have := "has"
	if len(names) > 1 {
		have = "have"
	}
	return say("there is *no rate* from %s to %s, and without it *%s* %s no price", list(o.noRates(some...)), o.Study.Currency.Code(), list(names), have)
}
