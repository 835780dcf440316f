package study

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
)

// Deed is something to do in a month so that an option goes the way that was computed.
type Deed struct {
	Month  int
	On     time.Time // the day; of a notice, the last one for it
	Notice bool      // it is a notice that has to be given, not a day to act
	Text   string
	Cost   money.Amount // what is paid in that month
	Tool   int
}

// Deeds lists what to do when for an option: which plan to take on which term, when
// terms renew, when offers end, and until when notice has to be given, as far as days of
// notice are told.
func (o *Outcome) Deeds(r *Result) (all []Deed) {
	if r.AtFault {
		return nil
	}
	for k := range r.Tools {
		t := &r.Tools[k]
		of := ""
		if r.Option.Stack() {
			of = t.Tool.Called() + ": "
		}
		with := t.addOns()
		for m := range t.Schedule.Months {
			if d, ok := o.deed(t, m, with); ok {
				d.Tool, d.Text = k, of+d.Text
				if n := r.Option.Move.Notice; n > 0 && m > 0 && leavesTerm(t, m) {
					by := d.On.AddDate(0, 0, -n)
					all = append(all, Deed{Month: m, On: by, Notice: true, Tool: k, Text: fmt.Sprintf("%slast day to give notice for %s", of, o.Study.Month(m))})
				}
				all = append(all, d)
			}
		}
	}
	return all
}

// leavesTerm reports whether a term of several months ends before a month.
func leavesTerm(t *ToolResult, month int) bool {
	before := &t.Schedule.Months[month-1]
	return before.Serves && before.Term().Months > 1 && (!t.Schedule.Months[month].Serves || t.Schedule.Months[month].TermStart == month)
}

func (o *Outcome) deed(t *ToolResult, m int, with [][]string) (Deed, bool) {
	now := &t.Schedule.Months[m]
	d := Deed{Month: m, On: FirstDay(o.Study.Month(m)), Cost: now.Cash + now.Falls}
	var before *projection.Month
	if m > 0 {
		before = &t.Schedule.Months[m-1]
	}
	switch {
	case !now.Serves && (before == nil || before.Serves):
		if d.Text = "nothing serves from here on"; o.Study.LacksRate(t.Tool.Edition.Currency) {
			d.Text = noPrice(t.Tool.Edition.Currency.Code() + " to " + o.Study.Currency.Code())
		}
	case !now.Serves:
		return d, false
	case before == nil || !before.Serves:
		d.Text = fmt.Sprintf("take %s%s %s", now.Plan().Name, SayWith(with[m]), onTermOf(now))
		if m == 0 && t.candidate.Customer.Here {
			d.Text = fmt.Sprintf("stay on %s%s %s", now.Plan().Name, SayWith(with[m]), onTermOf(now))
		}
	case now.Plan().Key != before.Plan().Key && now.TermStart != m:
		d.Text = fmt.Sprintf("move up to %s%s within the running term", now.Plan().Name, SayWith(with[m]))
	case now.Plan().Key != before.Plan().Key || now.Term().Key != before.Term().Key:
		d.Text = fmt.Sprintf("take %s%s %s", now.Plan().Name, SayWith(with[m]), onTermOf(now))
	case SayWith(with[m]) != SayWith(with[m-1]):
		d.Text = fmt.Sprintf("%s%s from here on", now.Plan().Name, orWithout(SayWith(with[m])))
	case now.TermStart == m && now.Term().Months > 1:
		d.Text = fmt.Sprintf("%s renews for %s", now.Plan().Name, plural(now.Term().Months, "month"))
	default:
		return d, o.offerEnds(t, m, &d)
	}
	if now.Lost > 0 {
		d.Text += fmt.Sprintf("; %s paid ahead is lost", o.Study.Currency.Format(now.Lost))
	}
	return d, true
}

func orWithout(with string) string {
	if with == "" {
		return " without an add-on"
	}
	return with
}

// addOns are the add-ons that a tool is taken with in each month, by name.
func (t *ToolResult) addOns() [][]string {
	all := make([][]string, len(t.Schedule.Months))
	if len(t.candidate.Edition.AddOns) == 0 {
		return all
	}
	changes := map[int]bool{}
	for _, step := range t.Schedule.Steps {
		changes[step.Month] = true
	}
	for m := range all {
		now := &t.Schedule.Months[m]
		switch {
		case !now.Serves:
		case m > 0 && !changes[m] && t.Schedule.Months[m-1].Serves:
			all[m] = all[m-1]
		default:
			all[m] = now.Receipt().AddOns
		}
	}
	return all
}

// offerEnds tells of an offer that ends before a month.
func (o *Outcome) offerEnds(t *ToolResult, m int, d *Deed) bool {
	for _, step := range t.Schedule.Steps {
		if step.Month != m {
			continue
		}
		for _, cause := range step.Causes {
			if cause.Kind == projection.OfferEnded {
				d.Text = fmt.Sprintf("%s on %s", cause.Text, step.To.Name)
				return true
			}
		}
	}
	return false
}

// onTermOf says on which term a plan is taken.
func onTermOf(m *projection.Month) string {
	switch n := m.Term().Months; {
	case m.Program.ForLife():
		return "for life"
	case n == 1:
		return "monthly"
	case n == 12 && m.Program.Period == 1:
		return "for a year, paid monthly"
	case n == 12:
		return "for a year, paid ahead"
	default:
		return fmt.Sprintf("for %s", plural(n, "month"))
	}
}

// SayDeeds is the way of an option in one sentence: "stay on Sprig monthly until Mar
// 2027, then Bough for a year, paid ahead".
func (o *Outcome) SayDeeds(r *Result) string {
	var parts []string
	for k := range r.Tools {
		t := &r.Tools[k]
		last := ""
		var runs []string
		with := t.addOns()
		for m := range t.Schedule.Months {
			now := "nothing that serves"
			if o.Study.LacksRate(t.Tool.Edition.Currency) {
				now = "no price, as there is no rate from " + t.Tool.Edition.Currency.Code() + " to " + o.Study.Currency.Code()
			}
			if month := &t.Schedule.Months[m]; month.Serves {
				now = month.Plan().Name + SayWith(with[m]) + " " + onTermOf(month)
			}
			if now != last {
				if m > 0 {
					runs[len(runs)-1] += " until " + o.Study.Month(m-1).String()
				}
				runs, last = append(runs, now), now
			}
		}
		text := strings.Join(runs, ", then ")
		if r.Option.Stack() {
			text = t.Tool.Called() + ": " + text
		}
		parts = append(parts, text)
	}
	return strings.Join(parts, "; ")
}

// SayRepays tells in which month what is paid once for life breaks even with each other term, by what
// is paid in the months, past the horizon as in its last month; nil where nothing is.
func (o *Outcome) SayRepays(t *ToolResult) Phrase {
	terms, err := t.Schedule.Repays(t.candidate)
	if err != nil || len(terms) == 0 {
		return nil
	}
	p := say("Paid once for life, *%s* breaks even", t.Tool.Edition.Platform.Name)
	var by, never []string
	for _, one := range terms {
		if one.Month == 0 {
			never = append(never, SayTerm(one.Term))
			continue
		}
		past := ""
		if one.Month > o.Study.Horizon {
			past = ", past the horizon"
		}
		by = append(by, fmt.Sprintf("with paying %s in *%s* (month %d%s)", SayTerm(one.Term), o.Study.Month(one.Month-1), one.Month, past))
	}
	if len(by) == 0 {
		return say("Paid once for life, *%s* does not break even with paying %s, up to %s after the horizon.",
			t.Tool.Edition.Platform.Name, listOr(never), plural(projection.MostAhead, "month"))
	}
	p = append(p, say(" "+list(by))...)
	if len(never) > 0 {
		p = append(p, say("; with paying %s not up to %s after the horizon", listOr(never), plural(projection.MostAhead, "month"))...)
	}
	return append(p, say(".")...)
}

// SayRests names the offers that the costs of an option rest on, and what it costs without them; ""
// where it takes none, or they change nothing.
func (o *Outcome) SayRests(r *Result) string {
	var names []string
	without := make([]projection.Schedule, len(r.Tools))
	for k := range r.Tools {
		t := &r.Tools[k]
		without[k] = t.Schedule
		had := false
		for m := range t.Schedule.Months {
			if now := &t.Schedule.Months[m]; now.Serves {
				for _, offer := range now.Program.Offers {
					had = true
					if name := "“" + offer.Name + "”"; !slices.Contains(names, name) {
						names = append(names, name)
					}
				}
			}
		}
		if !had {
			continue
		}
		c := t.candidate
		edition := *c.Edition
		edition.Offers, c.Edition, c.Programs = nil, &edition, nil
		var err error
		if without[k], err = projection.Project(c); err != nil {
			return ""
		}
	}
	if len(names) == 0 {
		return ""
	}
	sum, err := o.Study.together(&r.Option, without)
	if err != nil || !sum.Serves() || sum.Total == r.Schedule.Total {
		return ""
	}
	c := o.Study.Currency
	return fmt.Sprintf("The cost of %s includes %s; without, it is %s over %s, not %s.", r.Option.Name, list(names), c.FormatWhole(sum.Total),
		plural(o.Study.Horizon, "month"), c.FormatWhole(r.Schedule.Total))
}
