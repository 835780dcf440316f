package study

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// Brief is who asks, what they can spend and who decides.
type Brief struct {
	Business  string // what kind it is
	People    int
	Clients   int // that an agency works for
	BudgetFor BudgetFor
	Upfront   money.Amount // what may be paid ahead at most; 0 when nothing is said
	Deciders  string
	DecideBy  time.Time
	Unneeded  Counts       // whether what an option makes unneeded is counted off
	HourCost  money.Amount // of an hour of our own time; 0 when nothing is said
	Resale    money.Amount // what each client pays a month; 0: nothing is sold on
}

// BudgetFor says what a budget is for.
type BudgetFor string

// What a budget can be for; nothing said is in all.
const (
	ForAll   BudgetFor = "in all"
	ForMonth BudgetFor = "a month"
	ForYear  BudgetFor = "a year"
)

// InAll is what the budget comes to over the horizon, rounded down to the minor
// unit; 0 when none is set.
func (s *Study) InAll() money.Amount {
	if s.Brief.BudgetFor != ForMonth && s.Brief.BudgetFor != ForYear {
		return s.Budget
	}
	return s.budgetFor(s.Horizon)
}

// budgetFor is what a budget for a month or a year comes to in so many months.
func (s *Study) budgetFor(n int) money.Amount {
	months := money.Amount(n)
	switch s.Brief.BudgetFor {
	case ForMonth:
		return s.Budget * months
	case ForYear:
		to := money.Amount(s.Currency.Minor())
		return s.Budget * months / 12 / to * to
	}
	return s.Budget
}

// Running is a tool that runs today.
type Running struct {
	Key, Name string
	Cost      money.Amount // a month, in the study's currency
	Renews    time.Time    // the next day on which its term ends
	Notice    int          // days before that day until which it can be left
	GivesUp   string       // what would be given up without it
}

// NoticeBy is the last day on which it can be left before it renews.
func (r *Running) NoticeBy() time.Time { return r.Renews.AddDate(0, 0, -r.Notice) }

// Counts is whether tools that an option makes unneeded are counted off its costs; nothing
// said is that they are.
type Counts string

// What can be said of it.
const (
	Counted Counts = "counted off"
	LeftOut Counts = "not counted"
)

// FallsAway is what an option costs less in each month, for the tools of today that it makes
// unneeded: from the month on that begins nearest to when each would renew; nil where nothing
// falls away, or the study does not count it. What runs today makes nothing unneeded.
func (s *Study) FallsAway(o *Option) (all []money.Amount) {
	if s.Brief.Unneeded == LeftOut || o.Now {
		return nil
	}
	for _, run := range s.unneeded(o) {
		if all == nil {
			all = make([]money.Amount, s.Horizon)
		}
		for t := s.endsIn(run); t < s.Horizon; t++ {
			all[t] += run.Cost
		}
	}
	return all
}

// unneeded are the tools of today that an option makes unneeded, and that cost something.
func (s *Study) unneeded(o *Option) (all []*Running) {
	for i := range s.Running {
		if run := &s.Running[i]; slices.Contains(o.Lets, run.Key) && run.Cost > 0 {
			all = append(all, run)
		}
	}
	return all
}

// endsIn is the month, from 0, from which on a tool need not be paid any more.
func (s *Study) endsIn(run *Running) int {
	if run.Renews.IsZero() {
		return 0
	}
	on := run.Renews.AddDate(0, 0, 15)
	return max(0, int(usage.Month(on.Year()*12+int(on.Month())-1)-s.Start))
}

// SayFalls tells which tools of today fall away by an option and whether that is counted; ""
// where none does.
func (s *Study) SayFalls(o *Option) string {
	var names []string
	for _, run := range s.unneeded(o) {
		name := fmt.Sprintf("%s, %s a month", run.Name, s.Currency.Format(run.Cost))
		if from := s.endsIn(run); from >= s.Horizon {
			continue
		} else if from > 0 {
			name += " from " + s.Month(from).String()
		}
		names = append(names, name)
	}
	switch called := orElse(o.Name, o.Key); {
	case len(names) == 0 || o.Now:
		return ""
	case s.Brief.Unneeded == LeftOut:
		return fmt.Sprintf("%s makes unneeded: %s. This study does not count it off.", called, strings.Join(names, "; "))
	default:
		return fmt.Sprintf("The cost of %s is counted less what it makes unneeded: %s.", called, strings.Join(names, "; "))
	}
}

// Reason is why we look, in one's own words; it may be tied to a need or a
// criterion.
type Reason struct {
	Key, Text string
	Need      string // feature of the need
	Criterion string // key of the criterion
}

// Connector is what bridges go through, and what a task there costs.
type Connector struct {
	Through string       // a running tool; "": a price is all that is known
	Price   money.Amount // for so many tasks, in the study's currency
	Each    int
	Free    bool // tasks are within what the tool costs anyway
}

// Told reports whether it is known what a bridge costs.
func (c *Connector) Told() bool { return c.Price > 0 || c.Free }

// Finding is what a plan has of a feature as this study knows it, whatever its price
// list says.
type Finding struct {
	Platform, Plan, Feature string
	Has                     pricelist.Feature
	Note                    string
	From                    pricelist.Known
	On                      time.Time
}

// Key tells findings apart: by platform, plan and feature.
func (f *Finding) Key() string { return strings.Join([]string{f.Platform, f.Plan, f.Feature}, "/") }

// findingOf is the finding that a key names, without what was found.
func findingOf(key string) (Finding, bool) {
	steps := strings.SplitN(key, "/", 3)
	if len(steps) < 3 {
		return Finding{}, false
	}
	_, err := pricelist.FeatureKey.Parse(steps[2])
	return Finding{Platform: steps[0], Plan: steps[1], Feature: steps[2]}, err == nil
}

const mostRunning = 40

func briefParts() document.Parts[Study] {
	type s = *Study
	edits := document.Needs(toEdit)
	return document.Parts[Study]{
		document.Field("business", "What we are", notation.Note(200), func(s s) *string { return &s.Brief.Business }, edits),
		document.Field("people", "People", wholeOrNone(1_000_000), func(s s) *int { return &s.Brief.People }, edits),
		document.Field("clients", "Clients served", wholeOrNone(1_000_000), func(s s) *int { return &s.Brief.Clients }, edits),
		document.Field("budget_for", "Budget is", orNone(document.Among(ForAll, ForYear, ForMonth)), func(s s) *BudgetFor { return &s.Brief.BudgetFor }, edits),
		document.Field("upfront", "Paid ahead at most", notation.Budget, func(s s) *money.Amount { return &s.Brief.Upfront }, edits),
		document.Field("deciders", "Who decides", notation.Note(200), func(s s) *string { return &s.Brief.Deciders }, edits),
		document.Field("decide_by", "Decided by", document.Day, func(s s) *time.Time { return &s.Brief.DecideBy }, edits),
		document.Field("hour_cost", "An hour of our time", notation.Budget, func(s s) *money.Amount { return &s.Brief.HourCost }, edits),
		document.Field("unneeded", "What falls away", orNone(document.Among(Counted, LeftOut)), func(s s) *Counts { return &s.Brief.Unneeded }, edits),
		document.Field("resale", "A client pays a month", notation.Budget, func(s s) *money.Amount { return &s.Brief.Resale }, edits),
		document.List("running", document.Of(func(s s) *[]Running { return &s.Running }, document.Items[Study, Running]{
			Key: func(r *Running) string { return r.Key }, Name: func(_ s, r *Running) string { return r.Name }, One: "tool that runs today", Most: mostRunning,
			Rekey: func(r *Running, key string) { r.Key = key }}), runningParts(), edits),
		document.List("reasons", document.Of(func(s s) *[]Reason { return &s.Reasons }, document.Items[Study, Reason]{
			Key: func(r *Reason) string { return r.Key }, Name: func(_ s, r *Reason) string { return document.Shorten(r.Text, 40) }, One: "reason", Most: 40,
			Rekey: func(r *Reason, key string) { r.Key = key }}), reasonParts(), edits),
		document.Inside("connector", func(s s) *Connector { return &s.Connector }, connectorParts()),
		document.List("findings", document.Of(func(s s) *[]Finding { return &s.Findings }, document.Items[Study, Finding]{
			Key: func(f *Finding) string { return f.Key() }, Name: nameOfFinding, One: "finding", Most: 2_000, Make: findingOf,
			Absent: "as the price list says"}), findingParts(), edits),
		document.Kept(briefIsSound),
	}
}

func runningParts() document.Parts[Running] {
	type r = *Running
	edits := document.Needs(toEdit)
	return document.Parts[Running]{
		document.Field("key", "key", document.Key, func(r r) *string { return &r.Key }, document.Must),
		document.Field("name", "name", notation.Title(60), func(r r) *string { return &r.Name }, document.Must, edits),
		document.Field("cost", "costs a month", notation.Budget, func(r r) *money.Amount { return &r.Cost }, edits),
		document.Field("renews", "renews on", document.Day, func(r r) *time.Time { return &r.Renews }, edits),
		document.Field("notice", "days of notice", wholeOrNone(400), func(r r) *int { return &r.Notice }, edits),
		document.Field("gives_up", "what we would give up", notation.Note(200), func(r r) *string { return &r.GivesUp }, edits),
	}
}

func reasonParts() document.Parts[Reason] {
	type r = *Reason
	edits := document.Needs(toEdit)
	return document.Parts[Reason]{
		document.Field("key", "key", document.Key, func(r r) *string { return &r.Key }, document.Must),
		document.Field("text", "reason", notation.Note(200), func(r r) *string { return &r.Text }, document.Must, edits),
		document.Field("need", "need", featureOrNone, func(r r) *string { return &r.Need }, edits),
		document.Field("criterion", "criterion", keyOrNone, func(r r) *string { return &r.Criterion }, edits),
	}
}

func connectorParts() document.Parts[Connector] {
	type c = *Connector
	edits := document.Needs(toEdit)
	return document.Parts[Connector]{
		document.Field("through", "Bridges go through", keyOrNone, func(c c) *string { return &c.Through }, edits),
		document.Field("price", "Price of tasks", taskPrice, func(c c) *money.Amount { return &c.Price }, edits),
		document.Field("each", "for so many tasks", wholeOrNone(1_000_000), func(c c) *int { return &c.Each }, edits),
		document.Field("free", "within what it costs anyway", document.YesNo(), func(c c) *bool { return &c.Free }, edits),
	}
}

// taskPrice is what tasks cost, up to 1,000.
var taskPrice = func() document.Notation[money.Amount] {
	n := document.Between(notation.Budget, 0, money.Units(1000))
	n.Want = `an amount such as "0.01", up to 1,000`
	return n
}()

func findingParts() document.Parts[Finding] {
	type f = *Finding
	edits := document.Needs(toEdit)
	return document.Parts[Finding]{
		document.Field("platform", "platform", document.Key, func(f f) *string { return &f.Platform }, document.Must),
		document.Field("plan", "plan", document.Key, func(f f) *string { return &f.Plan }, document.Must),
		document.Field("feature", "feature", pricelist.FeatureKey, func(f f) *string { return &f.Feature }, document.Must),
		document.Field("has", "", pricelist.Cell, func(f f) *pricelist.Feature { return &f.Has }, document.Must, edits),
		document.Field("note", "note", notation.Note(300), func(f f) *string { return &f.Note }, edits),
		document.Field("from", "known from", knownOrNone, func(f f) *pricelist.Known { return &f.From }, edits),
		document.Field("on", "known since", document.Day, func(f f) *time.Time { return &f.On }, edits),
	}
}

// nameOfFinding says of which plan a finding is, and about what.
func nameOfFinding(s *Study, f *Finding) string {
	platform, plan := f.Platform, f.Plan
	for i := range s.Options {
		for _, t := range s.Options[i].Tools() {
			if t.Platform != f.Platform || t.Edition == nil {
				continue
			}
			platform = t.Edition.Platform.Name
			if p, ok := t.Edition.Plan(f.Plan); ok {
				plan = p.Name
			}
		}
	}
	called, _ := s.Catalogue.Find(f.Feature)
	return called.Name + " on " + platform + ", " + plan
}

// briefIsSound tells what the brief names and is not there.
func briefIsSound(s *Study, tell tells) {
	runs := map[string]bool{}
	for _, r := range s.Running {
		runs[r.Key] = true
	}
	if through := s.Connector.Through; through != "" && !runs[through] {
		tell("connector.through", "bridges go through %q, which nobody runs: name a tool that runs today, or a price for its tasks", through)
	}
	for _, o := range s.Options {
		for _, key := range o.Lets {
			if !runs[key] {
				tell(document.Path("options").To(o.Key, "lets"), "%s would make %q unneeded, which does not run today", orElse(o.Name, o.Key), key)
			}
		}
	}
}
