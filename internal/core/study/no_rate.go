package study

import "slices"

// noRates are the currencies of an option's lists from which there is no rate.
func (o *Outcome) noRates(r *Result) (codes []string) {
	for i := range r.Tools {
		if from := r.Tools[i].Tool.Edition.Currency; o.Study.lacksRate(from) && !slices.Contains(codes, from.Code()) {
			codes = append(codes, from.Code())
		}
	}
	return codes
}

// SayRatesMissing tells from which currencies of the line-up there is no rate; "" where there are all.
func (o *Outcome) SayRatesMissing() string {
	var codes []string
	for i := range o.Results {
		for _, code := range o.noRates(&o.Results[i]) {
			if !slices.Contains(codes, code) {
				codes = append(codes, code)
			}
		}
	}
	if len(codes) == 0 {
		return ""
	}
	return "There is no rate from " + list(codes) + " to " + o.Study.Currency.Code() + " yet, which the line-up needs."
}

// sayNoRate tells which options have no price for the lack of a rate.
func (o *Outcome) sayNoRate() Phrase {
	var codes, names []string
	for _, i := range o.Pick.NoRate {
		names = append(names, o.name(i))
		for _, code := range o.noRates(&o.Results[i]) {
			if !slices.Contains(codes, code) {
				codes = append(codes, code)
			}
		}
	}
	have := "has"
	if len(names) > 1 {
		have = "have"
	}
	return say("there is *no rate* from %s to %s, and without it *%s* %s no price", list(codes), o.Study.Currency.Code(), list(names), have)
}
