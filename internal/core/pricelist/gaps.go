package pricelist

import (
	"fmt"
	"slices"
	"strings"
)

// unknown reports whether a plan, with those that it includes, says nothing of a feature.
func (e *Edition) unknown(plan int, key string) bool {
	p := &e.Plans[plan]
	if f, ok := p.Features[key]; ok {
		return f.Has == Unknown
	}
	for i := range plan {
		if p.Includes != "" && e.Plans[i].Key == p.Includes {
			return e.unknown(i, key)
		}
	}
	return true
}

// Gaps tells what a list leaves empty though it may be published: what then counts as free,
// as unlimited or as not known, in sentences.
func (e *Edition) Gaps() (all []string) {
	if e.Source == "" {
		all = append(all, "It is not said where the prices were read.")
	}
	features := map[string]bool{}
	for i := range e.Plans {
		for key := range e.Plans[i].Features {
			features[key] = true
		}
	}
	for i := range e.Plans {
		p := &e.Plans[i]
		if p.Offered == Closed {
			continue
		}
		if p.Offered != OnRequest && len(p.Charges) == 0 {
			all = append(all, p.Name+" has no price: it counts as free.")
		}
		for _, t := range p.Terms {
			if t.Months == Lifetime && !p.StatesForLife(t.Key) {
				all = append(all, p.Name+" is sold for life, and no charge says what it costs then: it is not priced so.")
			}
		}
		var silent []string
		for m := range e.Meters {
			if meter := &e.Meters[m]; p.Offered != OnRequest && !e.Counts(p, meter.Key) {
				silent = append(silent, strings.ReplaceAll(meter.Key, "_", " "))
			}
		}
		if len(silent) > 0 {
			all = append(all, fmt.Sprintf("%s neither bills nor limits %s: counted as unlimited.", p.Name, strings.Join(silent, ", ")))
		}
		unknown := 0
		for key := range features {
			if e.unknown(i, key) {
				unknown++
			}
		}
		switch {
		case len(features) == 0:
		case unknown == len(features):
			all = append(all, fmt.Sprintf("Nothing is said of what %s has.", p.Name))
		case unknown > 0:
			are := "are"
			if unknown == 1 {
				are = "is"
			}
			all = append(all, fmt.Sprintf("%d of %d features %s not known of %s.", unknown, len(features), are, p.Name))
		}
	}
	if len(features) == 0 && len(e.Plans) > 0 {
		all = append(all, "Nothing is said of what any plan has: every need will be a question.")
	}
	if len(e.Meters) == 0 && slices.ContainsFunc(e.Plans, func(p Plan) bool { return p.Offered != OnRequest }) {
		all = append(all, "Nothing that is used is billed or limited: prices stay as they are however much is used.")
	}
	return all
}
