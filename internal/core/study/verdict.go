package study

import (
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// Pick is what a study comes to: indices of results, -1 when there is none.
type Pick struct {
	First, Next int
	Ahead       fit.Score // by which the first is ahead of the next, as both are shown
	Dearer      money.Amount
	// Those that could come first while ratings are missing, where that is more than
	// one: then there is no pick.
	Could []int
	// Those that are out for the lack of a rate alone, while others are in: then there is none either.
	NoRate []int
}

func (o *Outcome) pick() {
	o.Pick = Pick{First: -1, Next: -1}
	standings := make([]fit.Standing, len(o.Results))
	for i := range o.Results {
		standings[i] = o.Results[i].Standing
	}
	in := slices.DeleteFunc(slices.Clone(o.Order), func(i int) bool { return !o.Results[i].In() })
	for i := range o.Results {
		if r := &o.Results[i]; len(in) > 0 && len(r.Standing.Out) == 1 && len(o.noRates(r)) > 0 {
			o.Pick.NoRate = append(o.Pick.NoRate, i)
		}
	}
	if len(o.Pick.NoRate) > 0 {
		return
	}
	if len(in) == 0 || standings[in[0]].Known == 0 && o.missing() == 0 && o.openNeeds() == 0 {
		return
	}
	if standings[in[0]].Place != 1 {
		o.Pick.Could = fit.CouldLead(standings)
		return
	}
	o.Pick.First = in[0]
	first := &o.Results[in[0]]
	if o.Cheapest >= 0 {
		o.Pick.Dearer = first.Schedule.Total - o.Results[o.Cheapest].Schedule.Total
	}
	if len(in) > 1 && standings[in[1]].Known > 0 {
		o.Pick.Next = in[1]
		o.Pick.Ahead = first.Standing.Fit.Ahead(standings[in[1]].Fit)
	}
}

// missing counts the ratings that are missing of options that are in, on criteria
// that weigh anything.
func (o *Outcome) missing() (n int) {
	for i := range o.Results {
		if r := &o.Results[i]; r.In() {
			n += r.missingRatings()
		}
	}
	return n
}

// openNeeds counts the needs of options that are in of which it is not known how they are met, where
// coverage weighs anything.
func (o *Outcome) openNeeds() (n int) {
	for i := range o.Results {
		r := &o.Results[i]
		open := func(p fit.Part) bool { return p.Criterion.Source == fit.Coverage && p.Weight > 0 && !p.Known }
		if r.In() && slices.ContainsFunc(r.Standing.Parts, open) {
			n += len(o.Study.Needs) - r.Known
		}
	}
	return n
}

// tied lists the names of those that are level with the pick.
func (o *Outcome) tied() (names []string) {
	first := &o.Results[o.Pick.First]
	for _, i := range o.Order {
		r := &o.Results[i]
		if i != o.Pick.First && r.In() && r.Standing.Complete() && first.Standing.Tied && r.Standing.Fit.Tenths() == first.Standing.Fit.Tenths() {
			names = append(names, r.Option.Name)
		}
	}
	return names
}

// costTheSame lists the names of the other options that are in and cost the same over the horizon.
func (o *Outcome) costTheSame(result int) (names []string) {
	for i := range o.Results {
		if r := &o.Results[i]; i != result && r.In() && r.Schedule.Total == o.Results[result].Schedule.Total {
			names = append(names, r.Option.Name)
		}
	}
	return names
}

// countIn is how many options are in.
func (o *Outcome) countIn() (n int) {
	for i := range o.Results {
		n += count(o.Results[i].In())
	}
	return n
}

// unrated reports whether nothing is known of the fit of any option that is in.
func (o *Outcome) unrated() bool {
	return !slices.ContainsFunc(o.Results, func(r Result) bool { return r.In() && r.Standing.Known > 0 })
}

// sayCould tells how many ratings are missing, and who could come first.
func (o *Outcome) sayCould() Phrase {
	var open []string
	var criteria []any // names of some, in open
	if n := o.missing(); n > 0 {
		open = append(open, "*"+are(n, "rating")+" missing*")
	}
	if n := o.openNeeds(); n > 0 {
		open = append(open, "*"+are(n, "need")+" not yet known*")
	}
	for i := range o.Study.Criteria {
		switch c := &o.Study.Criteria[i]; {
		case c.Source == fit.Cost && c.Best > c.Worst:
			open, criteria = append(open, "the scale of *%s* is to be mended"), append(criteria, usage.LowerFirst(c.Name))
		case c.Source == fit.Coverage && len(o.Study.Needs) == 0:
			open, criteria = append(open, "*%s* has no needs to go by"), append(criteria, usage.LowerFirst(c.Name))
		}
	}
	missing := say(list(open), criteria...)
	var names []string
	in := o.countIn()
	for _, i := range o.Pick.Could {
		names = append(names, fmt.Sprintf("%s (%s)", o.name(i), o.Results[i].Standing.String()))
	}
	switch {
	case in == 1:
		return append(missing, say(", and only %s is in", o.name(o.Pick.Could[0]))...)
	case len(names) == in && (len(names) > 3 || o.unrated()):
		return append(missing, say(", and each of the %d options could come first", in)...)
	}
	return append(missing, say(", and %s could come first", list(names))...)
}

// SayVerdict tells whom to pick, on what, and at what price.
func (o *Outcome) SayVerdict() Phrase {
	s := o.Study
	switch {
	case len(o.Pick.NoRate) > 0:
		return append(append(say("It is *too early* to pick: "), o.sayNoRate()...), Part{Text: "."})
	case len(o.Pick.Could) > 0:
		return append(append(say("It is *too early* to pick: "), o.sayCould()...), Part{Text: "."})
	}
	if o.Pick.First < 0 {
		return say("*There is no pick yet.* %s", o.whyNoPick())
	}
	r := &o.Results[o.Pick.First]
	p := say("Pick *%s* on %s", r.Option.Name, r.sayPlan())
	if r.Option.Plan != "" && r.Today != nil && strings.HasSuffix(r.Option.Name, r.Today.Plan.Name) { // which its name says
		p = say("Pick *%s*%s, paid %s", r.Option.Name, r.sayWith(), r.Paid())
	}
	if moves := r.sayMoves(s); len(moves) > 0 {
		p = append(p, say(", moving %s", list(moves))...)
	}
	p = append(p, Part{Text: ". It "})
	var merits []string
	isMust := func(n coverage.Need) bool { return n.Level == coverage.Must }
	if slices.ContainsFunc(s.Needs, isMust) && len(r.Schedule.Questions) == 0 {
		merits = append(merits, "meets every must")
	}
	if ahead := o.ahead(o.Pick.First); len(ahead) > 0 {
		merits = append(merits, "leads on "+list(ahead))
	}
	if tied := o.tied(); len(tied) > 0 {
		merits = append(merits, "is level on fit with "+list(tied)+" and no dearer")
	}
	for _, merit := range merits {
		p = append(p, Part{Text: merit + ", "})
	}
	if len(merits) > 0 {
		p[len(p)-1].Text += "and "
	}
	if o.countIn() == 1 {
		left := ""
		if len(o.Results) > 1 {
			left = " left in"
		}
		return append(p, say("is the only option%s: *%s* over %s.", left, s.Currency.FormatWhole(r.Schedule.Total), plural(s.Horizon, "month"))...)
	}
	if o.Pick.Dearer == 0 {
		level := ""
		switch names := o.costTheSame(o.Pick.First); {
		case len(names) == 1:
			level = ", as does " + names[0]
		case len(names) > 1:
			level = ", as do " + list(names)
		}
		return append(p, say("costs least%s: *%s* over %s.", level, s.Currency.FormatWhole(r.Schedule.Total), plural(s.Horizon, "month"))...)
	}
	return append(p, say("costs *%s* more than the cheapest, %s, over %s.", s.Currency.FormatWhole(o.Pick.Dearer), o.name(o.Cheapest),
		plural(s.Horizon, "month"))...)
}

func (o *Outcome) whyNoPick() string {
	switch {
	case len(o.Results) == 0:
		return "The line-up is empty."
	case len(o.Study.Criteria) == 0:
		return "No criteria have been set under Scores."
	case o.Cheapest < 0:
		return "Every option is out: " + o.name(0) + " because of " + o.Results[0].Standing.Out[0] + ", and the others as the counter says."
	}
	return "Nothing has been rated under Scores."
}

// SayNext tells the runner-up, by how much it is behind and what it is better
// at.
func (o *Outcome) SayNext() Phrase {
	if o.Pick.Next < 0 {
		return nil
	}
	p := say("Next is *%s*, ", o.name(o.Pick.Next))
	if o.Pick.Ahead == 0 {
		p = append(p, say("*level* on fit")...)
	} else {
		p = append(p, say("*%s* behind on fit", o.Pick.Ahead.String())...)
	}
	better := o.better(o.Pick.Next, o.Pick.First)
	a, b := &o.Results[o.Pick.First], &o.Results[o.Pick.Next]
	if len(better) > 0 {
		p = append(p, say("; it scores higher on %s", list(better))...)
	}
	if d := a.Schedule.Total - b.Schedule.Total; d > 0 {
		p = append(p, say(" and costs *%s* less", o.Study.Currency.FormatWhole(d))...)
	} else if d < 0 {
		p = append(p, say(" but costs *%s* more", o.Study.Currency.FormatWhole(-d))...)
	} else if o.Pick.Ahead == 0 {
		p = append(p, say(" and costs the same")...)
	}
	return append(p, Part{Text: "."})
}

// SayScores tells who leads on fit and which criteria carry it.
func (o *Outcome) SayScores() Phrase {
	switch {
	case len(o.Pick.NoRate) > 0:
		return append(append(say("*No option leads yet*: "), o.sayNoRate()...), Part{Text: "."})
	case len(o.Pick.Could) > 0:
		return append(append(say("*No option leads yet*: "), o.sayCould()...), Part{Text: "."})
	}
	if o.Pick.First < 0 {
		return say("*No option leads yet.* %s", o.whyNoPick())
	}
	r := &o.Results[o.Pick.First]
	p := say("*%s* leads on fit with *%s* of 9", r.Option.Name, r.Standing.String())
	switch tied := o.tied(); {
	case len(tied) > 0:
		p = say("*%s* are level on fit with *%s* of 9, and %s costs least of them", list(append([]string{r.Option.Name}, tied...)), r.Standing.String(), r.Option.Name)
	case o.Pick.Next >= 0:
		p = append(p, say(" to %s for %s", o.Results[o.Pick.Next].Standing.String(), o.name(o.Pick.Next))...)
	}
	p = append(p, Part{Text: "."})
	best, points := "", 0.0
	for _, part := range r.Standing.Parts {
		if part.Known && part.Points() > points {
			best, points = part.Criterion.Name, part.Points()
		}
	}
	if best != "" {
		p = p.and(say("*%s* carries the most of it, %s points.", best, fit.Score(points).String()))
	}
	if missing := r.missingRatings(); missing > 0 {
		p = p.and(say("Of its ratings *%s* missing, which cannot turn the order.", are(missing, "")))
	}
	return p
}

// ahead lists the criteria on which an option scores higher than every other
// that is in, heaviest first, three at most.
func (o *Outcome) ahead(result int) []string {
	return o.criteria(result, func(at int) bool {
		rivals := false
		for i := range o.Results {
			if i == result || !o.Results[i].In() {
				continue
			}
			if rivals = true; !o.higher(result, i, at) {
				return false
			}
		}
		return rivals
	})
}

func (o *Outcome) better(a, b int) []string {
	return o.criteria(a, func(at int) bool { return o.higher(a, b, at) })
}

func (o *Outcome) higher(a, b, at int) bool {
	x, y := o.Results[a].Standing.Parts[at], o.Results[b].Standing.Parts[at]
	return x.Known && y.Known && x.Score.Tenths() > y.Score.Tenths()
}

func (o *Outcome) criteria(result int, keep func(at int) bool) []string {
	var at []int
	parts := o.Results[result].Standing.Parts
	for i := range parts {
		if keep(i) {
			at = append(at, i)
		}
	}
	slices.SortStableFunc(at, func(a, b int) int { return int(parts[b].Criterion.Weight - parts[a].Criterion.Weight) })
	var names []string
	for _, i := range at[:min(3, len(at))] {
		names = append(names, usage.LowerFirst(parts[i].Criterion.Name))
	}
	return names
}

// SayTerm writes how a term is paid: "monthly", "yearly", "24 months up
// front".
func SayTerm(t pricelist.Term) string {
	switch {
	case t.Months == pricelist.Lifetime:
		return "once for life"
	case t.Months == 1:
		return "monthly"
	case t.Months == 12 && t.Paid == pricelist.Upfront:
		return "yearly"
	case t.Paid == pricelist.Upfront:
		return fmt.Sprintf("%d months up front", t.Months)
	}
	return fmt.Sprintf("%d months, paid monthly", t.Months)
}

func (r *Result) sayPlan() string {
	if r.Today == nil {
		return "no plan"
	}
	return r.Takes() + r.sayWith() + ", paid " + r.Paid()
}

// mostMoves is how many moves to another plan a sentence tells one by one.
const mostMoves = 3

// sayMoves tells of the moves to other plans: "to Folio in Jun 2027".
func (r *Result) sayMoves(s *Study) (all []string) {
	for _, step := range r.Schedule.Steps {
		if step.PlanChanged() {
			to := step.To.Name
			if of := r.toolName(step.Tool); of != "" {
				to += " (" + of + ")"
			}
			all = append(all, "to "+to+" in "+s.Month(step.Month).String())
		}
	}
	if more := len(all) - mostMoves; more > 1 {
		all = append(all[:mostMoves], plural(more, "more time"))
	}
	return all
}

// Mostly is what the option is on in most months, how that is paid, and in how many; the first of
// several. It is "" where nothing serves.
func (r *Result) Mostly() (plan, paid string, months int) {
	n := map[string]int{}
	for t := range r.Schedule.Months {
		m := &r.Schedule.Months[t]
		if !m.Serves {
			continue
		}
		var names []string
		for _, part := range m.Parts() {
			names = append(names, part.Plan().Name)
		}
		on := strings.Join(names, " + ")
		if n[on]++; n[on] > months {
			plan, paid, months = on, PaidIn(m), n[on]
		}
	}
	return plan, paid, months
}
