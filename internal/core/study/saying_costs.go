package study

import (
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/usage"
)

// SayCosts tells who is cheapest over the horizon, where the lead changes and
// why.
func (o *Outcome) SayCosts() Phrase { return o.priced(o.sayCosts()) }

func (o *Outcome) sayCosts() Phrase {
	s := o.Study
	if len(o.Results) == 0 {
		return say("There is nothing to cost yet: the line-up is empty.")
	}
	if o.Cheapest < 0 {
		return say("*No option%s serves %s.* Each is out for the reason that the counter gives.", o.withPrice(), allOf(s.Horizon, "month"))
	}
	best := &o.Results[o.Cheapest]
	over, total := allOf(s.Horizon, "month"), s.Currency.FormatWhole(best.Schedule.Total)
	in, level := 0, []string{}
	for i := range o.Results {
		if r := &o.Results[i]; r.In() {
			if in++; r.Schedule.Total == best.Schedule.Total {
				level = append(level, r.Option.Name)
			}
		}
	}
	switch {
	case len(o.Results) == 1:
		return say("*%s* is the only option, at *%s* over %s.", best.Option.Name, total, over)
	case in == 1:
		return say("*%s* is the only option left in, at *%s* over %s.", best.Option.Name, total, over)
	case len(level) > 1 && best.Schedule.Total == 0:
		return say("*%s* cost nothing over %s.", list(level), over)
	case len(level) > 1:
		return say("*%s* cost least over %s, and the same: *%s*.", list(level), over, total)
	}
	p := say("*%s* is the cheapest way through %s, at *%s*.", best.Option.Name, over, total)
	if len(o.Leads) == 1 {
		if s.Horizon == 1 || !o.leastInEveryMonth() {
			return p
		}
		return p.and(say("It costs least in every month."))
	}
	first := o.Leads[0]
	if first.Result != o.Cheapest {
		p = p.and(o.runOf("Until", first.To, first))
		p = append(p, o.whyLost(first, o.Leads[1], "it")...)
		if len(o.Leads) > 2 {
			p = p.and(say("The cheapest changes *%s* in all.", plural(len(o.Leads)-1, "time")))
		}
		return p
	}
	next := o.Leads[1]
	p = p.and(o.runOf("From", next.From, next))
	if len(o.Leads) == 2 {
		return append(p, o.whyLost(first, next, best.Option.Name)...)
	}
	if next.To > next.From {
		p = append(p, say(", until *%s*", s.Month(next.To).String())...)
	}
	p = append(p, o.whyLost(next, o.Leads[2], "it")...)
	return p.and(say("The cheapest changes *%s* in all.", plural(len(o.Leads)-1, "time")))
}

// runOf begins a sentence on a run of months in which another costs less than the cheapest of all:
// until, or from, one of its months, or in the only one that it has.
func (o *Outcome) runOf(when string, month int, l Lead) Phrase {
	if l.From == l.To {
		return say("In *%s* %s costs less", o.Study.Month(month).String(), o.name(l.Result))
	}
	return say(when+" *%s* %s costs less each month", o.Study.Month(month).String(), o.name(l.Result))
}

// leastInEveryMonth reports whether no other option that is in costs less in any month than the
// cheapest does, with what is charged once and lost in it. Of what is paid for life nothing is said
// month by month.
func (o *Outcome) leastInEveryMonth() bool {
	months := o.Results[o.Cheapest].Schedule.Months
	for t := range months {
		for _, part := range months[t].Parts() {
			if part.Serves && part.Program.ForLife() {
				return false
			}
		}
		for i := range o.Results {
			if r := &o.Results[i]; r.In() && r.Schedule.Months[t].Accrued < months[t].Accrued {
				return false
			}
		}
	}
	return true
}

// SayBeyond tells what is paid, or still owed, for months past the horizon, as a sentence without
// its end; counted says that what is paid stands in the sum beside it, as it does where cash is shown.
func (o *Outcome) SayBeyond(r *Result, counted bool) string {
	sum, last := &r.Schedule, o.Study.Month(o.Study.Horizon-1)
	paid, owed := sum.Ahead, sum.Beyond-sum.Ahead
	var all []string
	if paid > 0 {
		all = append(all, o.Study.Currency.Format(paid)+" is paid")
	}
	if owed > 0 {
		all = append(all, o.Study.Currency.Format(owed)+" is still owed")
	}
	switch {
	case counted && owed == 0:
		return fmt.Sprintf("%s for months after %s", all[0], last)
	case counted && paid > 0:
		return fmt.Sprintf("%s, and a further %s, for months after %s", all[0], all[1], last)
	}
	return fmt.Sprintf("a further %s for months after %s, and not counted here", strings.Join(all, " and "), last)
}

func (o *Outcome) name(result int) string { return o.Results[result].Option.Name }

// whyLost ends a sentence with the step that took the lead from one option
// and gave it to another; who lost it is called by a name, or "it" where that is clear.
func (o *Outcome) whyLost(from, to Lead, who string) Phrase {
	if step := stepIn(&o.Results[from.Result], to.From); step != nil && step.Delta > 0 {
		if step.PlanChanged() {
			as := "as "
			if step.Causes[0].Kind == projection.Cheaper && !strings.HasPrefix(step.Why(), step.To.Name) {
				as = "" // an amount, which stands for itself
			}
			return say("; then %s moves to %s, %s*%s*.", who, step.To.Name, as, step.Why())
		}
		return say("; then *%s* and %s steps up.", step.Why(), who)
	}
	if step := stepIn(&o.Results[to.Result], to.From); step != nil && step.Delta < 0 {
		return say("; then %s steps down: *%s*.", o.name(to.Result), step.Why())
	}
	return say("; then %s does.", o.name(to.Result))
}

func stepIn(r *Result, month int) *projection.Step {
	for i := range r.Schedule.Steps {
		if r.Schedule.Steps[i].Month == month {
			return &r.Schedule.Steps[i]
		}
	}
	return nil
}

// Event is something that changes in a month: a step of one option's bill, or
// the lead passing to it.
type Event struct {
	Month  int
	Result int
	Step   *projection.Step // nil when the lead passes
	Delta  money.Amount     // change per month: of the bill, or from who led to who leads
	Gap    bool             // nothing serves any more
	NoRate string           // with Gap: the currency for which there is no rate; else ""
	Tool   string           // of a stack, the one whose bill steps; else ""
}

// toolName is what a tool of a stack is called; "" for an option that is none.
func (r *Result) toolName(at int) string {
	if len(r.Tools) < 2 {
		return ""
	}
	return r.Tools[at].Tool.Called()
}

// Events lists steps and changes of lead by month; within a month in the order
// of the line-up, the lead last.
func (o *Outcome) Events() []Event {
	var events []Event
	for t := range o.Study.Horizon {
		for i := range o.Results {
			r := &o.Results[i]
			for k := range r.Schedule.Steps {
				if step := &r.Schedule.Steps[k]; step.Month == t {
					events = append(events, Event{Month: t, Result: i, Step: step, Delta: step.Delta, Tool: r.toolName(step.Tool)})
				}
			}
		}
		for i := range o.Results {
			if m := o.Results[i].Schedule.Months; !o.Results[i].AtFault && !m[t].Serves && (t == 0 || m[t-1].Serves) {
				events = append(events, Event{Month: t, Result: i, Gap: true, NoRate: o.NoRate(&o.Results[i])})
			}
		}
		for k, lead := range o.Leads {
			if lead.From == t && t > 0 {
				before := o.Leads[k-1].Result
				events = append(events, Event{Month: t, Result: lead.Result, Delta: o.monthly(lead.Result, t) - o.monthly(before, t)})
			}
		}
	}
	return events
}

// Say tells the event after the option's name: "steps to Bough: contacts pass
// 8,000".
func (e Event) Say() string {
	of := ""
	if e.Tool != "" {
		of = e.Tool + " "
	}
	switch {
	case e.NoRate != "":
		return noPrice(e.NoRate)
	case e.Gap:
		return "has nothing that serves from here on"
	case e.Step == nil:
		return "now costs least each month"
	case e.Step.PlanChanged():
		return fmt.Sprintf("%smoves to %s: %s", of, e.Step.To.Name, e.Step.Why())
	}
	return fmt.Sprintf("%son %s: %s", of, e.Step.To.Name, e.Step.Why())
}

// SayLeads tells who costs least when, as a sentence of runs of months; "" where
// nobody does.
func (o *Outcome) SayLeads() string {
	if len(o.Leads) == 0 {
		return ""
	}
	var runs []string
	for _, l := range o.Leads {
		runs = append(runs, fmt.Sprintf("%s: %s%s", span(o.Study.Month(l.From), o.Study.Month(l.To)), o.name(l.Result), o.levelIn(l)))
	}
	return "Month by month, the least costs: " + strings.Join(runs, "; ") + "."
}

// levelIn ends what is said of who has the lead in a run of months by who costs the same in
// all of it, or in some of its months.
func (o *Outcome) levelIn(l Lead) string {
	var whole, part []string
	for i := range o.Results {
		if i == l.Result || !o.Results[i].In() {
			continue
		}
		n := 0
		for t := l.From; t <= l.To; t++ {
			if o.monthly(i, t) == o.monthly(l.Result, t) {
				n++
			}
		}
		switch {
		case n > l.To-l.From:
			whole = append(whole, o.name(i))
		case n > 0:
			part = append(part, o.name(i))
		}
	}
	text := ""
	if len(whole) > 0 {
		text = ", level with " + list(whole)
	}
	if len(part) > 0 {
		text += ", in some of them level with " + list(part)
	}
	return text
}

// servesOnly ends a sentence about what doing nothing costs where that cannot go on.
func (o *Outcome) servesOnly(b *Baseline) string {
	switch b.Until {
	case o.Study.Horizon:
		return ""
	case 0:
		return ", and does not serve the first month"
	}
	return ", but serves only until " + o.Study.Month(b.Until-1).String()
}

// SayBeside tells what doing nothing costs, and who costs least where growth is slow or
// fast, as far as either is told.
func (o *Outcome) SayBeside() Phrase {
	var p Phrase
	c := o.Study.Currency
	if b := o.Baseline(); b != nil && b.Total > 0 {
		switch {
		case b.Result < 0:
			p = say("What runs today costs *%s*, as the brief tells.", c.FormatWhole(b.Total))
		case b.Result != o.Cheapest:
			p = append(say("Doing nothing, on *%s*, costs *%s*", o.name(b.Result), c.FormatWhole(b.Total)), Part{Text: o.servesOnly(b) + "."})
		}
	}
	var cases Phrase
	for _, one := range usage.Cases() {
		if one == o.Study.Case || !o.Study.HasCases() {
			continue
		}
		begins := "If growth is "
		if len(cases) > 0 {
			begins = "; if growth is "
		}
		begins += map[usage.Case]string{usage.Low: "slow", usage.Expected: "as expected", usage.High: "fast"}[one]
		if other := o.InCase(one); other.Cheapest >= 0 {
			best := &other.Results[other.Cheapest]
			cases = append(cases, say(begins+", *%s* costs least, *%s*", best.Option.Name, c.FormatWhole(best.Schedule.Total))...)
		} else {
			cases = append(cases, say(begins+", no option serves every month")...)
		}
	}
	if len(cases) > 0 {
		p = p.and(append(cases, Part{Text: "."}))
	}
	return p
}

// HasCases reports whether low or high growth is told of any driver.
func (s *Study) HasCases() bool {
	return slices.ContainsFunc(s.Drivers, func(d Setting) bool { return d.Path.Low.Told() || d.Path.High.Told() })
}
