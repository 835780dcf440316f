package study

import (
	"fmt"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// SayReason tells what became of a reason: whether the pick meets the need that it is
// tied to, or how it scores on the criterion; "" where there is nothing to say.
func (o *Outcome) SayReason(reason *Reason) string {
	if reason.Need == "" && reason.Criterion == "" {
		return "tied to no need and no criterion yet, so nothing follows from it"
	}
	if o.Pick.First < 0 {
		return "there is no pick yet"
	}
	r := &o.Results[o.Pick.First]
	var said []string
	if reason.Need != "" {
		said = append(said, o.sayReasonNeed(r, reason.Need))
	}
	if reason.Criterion != "" {
		said = append(said, o.sayReasonCriterion(r, reason.Criterion))
	}
	return list(said)
}

func (o *Outcome) sayReasonNeed(r *Result, need string) string {
	for i, n := range o.Study.Needs {
		if n.Feature != need {
			continue
		}
		if r.Has == nil {
			return r.Option.Name + " has no plan that serves"
		}
		has := r.Has[i].Has
		switch {
		case n.Meets(r.Has[i]) == coverage.Met:
			return fmt.Sprintf("%s has it on %s", r.Option.Name, r.Takes())
		case n.Meets(r.Has[i]) == coverage.Open:
			return fmt.Sprintf("it is not known whether %s has it on %s", r.Option.Name, r.Takes())
		case r.Coverage[i].Answer == coverage.Met:
			return fmt.Sprintf("%s has it, but not on %s", r.Option.Name, r.Takes())
		case has == pricelist.Partly:
			return fmt.Sprintf("%s has it only partly on %s", r.Option.Name, r.Takes())
		case has == pricelist.Announced:
			return fmt.Sprintf("%s has announced it for %s", r.Option.Name, r.Takes())
		case has.Meets():
			return fmt.Sprintf("%s has less of it on %s than is needed", r.Option.Name, r.Takes())
		case r.Coverage[i].Has != pricelist.No:
			return fmt.Sprintf("%s has not got it on %s", r.Option.Name, r.Takes())
		}
		return r.Option.Name + " has not got it"
	}
	return "the need that it was tied to is not in the study any more"
}

func (o *Outcome) sayReasonCriterion(r *Result, criterion string) string {
	for at, p := range r.Standing.Parts {
		if p.Criterion.ID != criterion {
			continue
		}
		name := usage.LowerFirst(p.Criterion.Name)
		if !p.Known {
			return fmt.Sprintf("%s is not rated on %s yet", r.Option.Name, name)
		}
		for i := range o.Results {
			if now := &o.Results[i]; now.Option.Now && i != o.Pick.First && now.Standing.Parts[at].Known {
				return fmt.Sprintf("%s scores %s on %s, and %s, which runs today, %s", r.Option.Name, p.Score, name, now.Option.Name, now.Standing.Parts[at].Score)
			}
		}
		return fmt.Sprintf("%s scores %s on %s", r.Option.Name, p.Score, name)
	}
	return "the criterion that it was tied to is not in the study any more"
}
