package study

import (
	"context"
	"slices"
	"time"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
)

// With is the study with another price list in place of the ones that it has of the same
// platform. The list holds what plans take over from others ([pricelist.Edition.Inherit]).
func (s *Study) With(e *pricelist.Edition) *Study {
	other := *s
	other.Options = slices.Clone(s.Options)
	for i := range other.Options {
		o := &other.Options[i]
		if o.Platform == e.Platform.Key {
			o.Tool.Edition, o.Tool.ObservedOn = e, e.ObservedOn
		}
		o.With = slices.Clone(o.With)
		for j := range o.With {
			if o.With[j].Platform == e.Platform.Key {
				o.With[j].Edition, o.With[j].ObservedOn = e, e.ObservedOn
			}
		}
	}
	return &other
}

// Effect is what another price list would change for an option of a study.
type Effect struct {
	Option         string // its key
	Name           string
	Face           int
	Was, Then      money.Amount // over the horizon
	Today, Next    money.Amount // in the first month
	Served, Serves bool         // in all months of the horizon, before and then
	On, To         string       // the plan that it takes today; "" none
	Place          int          // before, from 1; 0 where none is sure
	Comes          int          // and then
	Same           bool         // nothing of it changes: no month, no plan, no need, no score, no place
}

// Effects compares a study with what it would be by another price list, for the options
// that go by a list of its platform. The second outcome is the study by that list.
// The error is that of the context.
func Effects(ctx context.Context, before *Outcome, e *pricelist.Edition) ([]Effect, *Outcome, error) {
	after, err := ComputeWithin(ctx, before.Study.With(e))
	if err != nil {
		return nil, nil, err
	}
	var all []Effect
	for i := range before.Results {
		was := &before.Results[i]
		if !slices.ContainsFunc(was.Option.Tools(), func(t Tool) bool { return t.Platform == e.Platform.Key }) {
			continue
		}
		then, ok := after.Result(was.Option.Key)
		if !ok {
			continue
		}
		all = append(all, Effect{Option: was.Option.Key, Name: was.Option.Name, Face: was.Option.Face, Was: was.Schedule.Total, Then: then.Schedule.Total,
			Today: first(was), Next: first(then), Served: was.In(), Serves: then.In(), On: was.Takes(), To: then.Takes(),
			Place: was.Standing.Place, Comes: then.Standing.Place, Same: was.same(then)})
	}
	return all, after, nil
}

// first is what the first month costs; 0 where nothing serves.
func first(r *Result) money.Amount {
	if r.Today == nil {
		return 0
	}
	return r.Monthly(0)
}

// same reports whether another list leaves all of an option as it is.
func (r *Result) same(then *Result) bool {
	for t := range r.Schedule.Months {
		was, is := &r.Schedule.Months[t], &then.Schedule.Months[t]
		if was.Serves != is.Serves || was.Serves && r.Monthly(t) != then.Monthly(t) {
			return false
		}
	}
	answers := func(r *Result) (all []coverage.Answer) {
		for _, cell := range r.Coverage {
			all = append(all, cell.Answer)
		}
		return all
	}
	a, b := &r.Standing, &then.Standing
	return r.Takes() == then.Takes() && r.In() == then.In() && slices.Equal(answers(r), answers(then)) && a.Low == b.Low && a.High == b.High && a.Place == b.Place
}

// SayEffects tells in a sentence or two what another list would change for one study:
// "Brindlepost would cost Spring list €366.00 more over 36 months: €7,402.00, not €7,036.00."
func SayEffects(o *Outcome, all []Effect) Phrase {
	var p Phrase
	c := o.Study.Currency
	for _, e := range all {
		switch {
		case e.Served && !e.Serves:
			p = p.and(say("*%s* would be out of *%s*.", e.Name, o.Study.Title))
		case !e.Served && e.Serves:
			p = p.and(say("*%s* would be back in *%s*, at *%s*.", e.Name, o.Study.Title, c.Format(e.Then)))
		case !e.Serves:
		case e.Same:
			p = p.and(say("Nothing changes for *%s* in *%s*.", e.Name, o.Study.Title))
		case e.Was == e.Then:
			p = p.and(say("*%s* would cost *%s* as much as now over %d months, but not everything stays as it is.", e.Name, o.Study.Title, o.Study.Horizon))
		default:
			more := "more"
			if e.Then < e.Was {
				more = "less"
			}
			p = p.and(say("*%s* would cost *%s* *%s* *%s* over %d months: *%s*, not %s.", e.Name, o.Study.Title, c.Format(apartBy(e.Then, e.Was)), more, o.Study.Horizon,
				c.Format(e.Then), c.Format(e.Was)))
		}
		switch {
		case e.Serves && e.Place == 1 && e.Comes > 1:
			p = p.and(say("*%s* would no longer come first.", e.Name))
		case e.Serves && e.Place == 1 && e.Comes == 0:
			p = p.and(say("*%s* would no longer be sure to come first.", e.Name))
		case e.Serves && e.Place != 1 && e.Comes == 1:
			p = p.and(say("*%s* would come first.", e.Name))
		}
	}
	return p
}

func apartBy(a, b money.Amount) money.Amount {
	if a > b {
		return a - b
	}
	return b - a
}

// Moved is the change by which the options of a study go by another list of a platform:
// those that go by the list of a day, or all where it is zero.
func Moved(s *Study, platform string, from, to time.Time) (all document.Change) {
	set := func(at document.Path, t *Tool) {
		if t.Platform == platform && !t.ObservedOn.Equal(to) && (from.IsZero() || t.ObservedOn.Equal(from)) {
			all = append(all, document.Op{Do: document.Set, Path: at.To("observed_on"), Was: pricelist.ReadText(t.ObservedOn), To: pricelist.ReadText(to)})
		}
	}
	for i := range s.Options {
		o := &s.Options[i]
		if !o.BinnedAt.IsZero() {
			continue
		}
		at := document.Path("options").To(o.Key)
		set(at, &o.Tool)
		for j := range o.With {
			set(at.To("with", o.With[j].Key), &o.With[j])
		}
	}
	return all
}
