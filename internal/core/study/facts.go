package study

import (
	"fmt"
	"time"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/core/work"
)

// FactsVersion goes up when facts are worked out otherwise than before: those
// of an earlier version are worked out again.
const FactsVersion = 9

// Facts are what is asked of many studies at once, worked out with each edit
// and kept beside the study.
type Facts struct {
	Version       int         `json:"version"`
	Day           time.Time   `json:"day"` // that freshness was counted to
	About         string      `json:"about"`
	Verdict       Phrase      `json:"verdict"`
	Costs         Phrase      `json:"costs"`
	Face          int         `json:"face"` // of the pick; 0 when there is none
	Fills         []float64   `json:"fills"`
	CoinFacts     []string    `json:"coin_facts"`
	Notes         []Attention `json:"notes"`
	Faults        int         `json:"faults"`
	OldestReading time.Time   `json:"oldest_reading"` // zero without options
	Patience      int         `json:"patience"`       // days after which a price list is to be read again
}

// Attention is something that wants looking at, on a coin.
type Attention struct {
	Coin string `json:"coin"`
	Text string `json:"text"`
	Do   string `json:"do"`
}

// Facts returns the study's facts. Where the program fails on them, they say so.
func (o *Outcome) Facts() (f Facts) {
	if err := work.Guarded(func() error { f = o.facts(); return nil }); err != nil {
		f = Facts{Version: FactsVersion, Day: o.Study.Today, Patience: o.Study.Patience, Faults: 1, About: "could not be worked out",
			Notes: []Attention{{CoinOf("title"), "This study could not be worked out: " + err.Error(), "See it"}}}
	}
	return f
}

func (o *Outcome) facts() Facts {
	s := o.Study
	f := Facts{Version: FactsVersion, Day: s.Today, Verdict: o.SayVerdict(), Costs: o.SayCosts(), Faults: len(o.Faults), Patience: s.Patience,
		About: fmt.Sprintf("%s, %s to %s, in %s, paid %s", plural(len(o.Results), "option"), s.Start, s.Month(s.Horizon-1), s.Currency.Code(), s.Pay.Say())}
	for _, c := range o.Coins {
		f.Fills, f.CoinFacts = append(f.Fills, c.Fill), append(f.CoinFacts, c.Fact)
	}
	if o.Pick.First >= 0 {
		f.Face = o.Results[o.Pick.First].Option.Face
	}
	for _, fault := range o.Faults {
		f.Notes = append(f.Notes, Attention{CoinOf(fault.At), fault.Text, "Mend it"})
	}
	f.Notes = append(f.Notes, s.renewals()...)
	for i := range o.Results {
		r := &o.Results[i]
		if read := r.Option.ObservedOn; f.OldestReading.IsZero() || read.Before(f.OldestReading) {
			f.OldestReading = read
		}
		f.Notes = append(f.Notes, o.notes(r)...)
	}
	return f
}

// soon is how many days ahead a renewal is told.
const soon = 60

// renewals tells what that runs today can soon no longer be left.
func (s *Study) renewals() (all []Attention) {
	for i := range s.Running {
		r := &s.Running[i]
		if r.Renews.IsZero() || r.Renews.Before(s.Today) {
			continue
		}
		switch by := r.NoticeBy(); {
		case by.Before(s.Today):
			all = append(all, Attention{"brief", fmt.Sprintf("%s renews on %s, and the day for notice, %s, is past", r.Name, r.Renews.Format("2 Jan 2006"),
				by.Format("2 Jan 2006")), "See what runs today"})
		case by.Before(s.Today.AddDate(0, 0, soon)):
			all = append(all, Attention{"brief", fmt.Sprintf("%s renews on %s: notice is due by %s", r.Name, r.Renews.Format("2 Jan 2006"),
				by.Format("2 Jan 2006")), "See what runs today"})
		}
	}
	return all
}

// SaySettled says, where nothing wants looking at, what is settled: of what is there.
func (o *Outcome) SaySettled() string {
	var settled []string
	if len(o.Results) > 0 {
		settled = append(settled, "prices are fresh")
	}
	open, unsaid := o.toAsk()
	if len(o.Results) > 0 && len(o.Study.Needs) > 0 && open == 0 {
		settled = append(settled, "needs are known")
	}
	if len(o.Results) > 0 && len(o.Study.Criteria) > 0 {
		settled = append(settled, "ratings are complete")
	}
	if len(settled) == 0 {
		return "There is nothing to rely on yet: the line-up is empty."
	}
	said := "Nothing to settle: " + list(settled) + "."
	if open+unsaid > 0 {
		said += fmt.Sprintf(" Still open: %s for vendors.", plural(open+unsaid, "question"))
	}
	return said
}

// toAsk counts what vendors are to be asked: of needs, and of what their lists say nothing of.
func (o *Outcome) toAsk() (needs, unsaid int) {
	for _, v := range o.Vendors() {
		needs, unsaid = needs+len(v.Questions), unsaid+len(v.Unsaid)
	}
	return needs, unsaid
}

// SayQuestions says how much is to be asked, and what it means for the options.
func (o *Outcome) SayQuestions() Phrase {
	open, unsaid := o.toAsk()
	var p Phrase
	switch {
	case open > 0:
		p = say("*%s* needed and unknown. Unknown does not mean no: nothing is out for it, and nothing is promised either.", are(open, "thing"))
	case len(o.Results) == 0:
		return say("There is nobody to ask yet: the line-up is empty.")
	case len(o.Study.Needs) > 0:
		p = say("Of every need it is known how each option has it.")
	default:
		p = say("There are no needs yet.")
	}
	if unsaid > 0 {
		of := "it"
		if unsaid > 1 {
			of = "them"
		}
		return p.and(say("*%s* counted as unlimited, as a price list says nothing of %s.", are(unsaid, "thing"), of))
	}
	return p
}

// notes tells what wants looking at in an option.
func (o *Outcome) notes(r *Result) (all []Attention) {
	s := o.Study
	if r.Stale {
		all = append(all, Attention{"prices", fmt.Sprintf("%s: prices were read %s ago", r.Option.Name, plural(r.DaysOld, "day")), "See its prices"})
	}
	if codes := o.noRates(r); len(codes) > 0 {
		all = append(all, Attention{"brief", fmt.Sprintf("%s: its prices are in %s, and there is no rate from %s to %s yet",
			r.Option.Name, codes[0], codes[0], s.Currency.Code()), "Add the rate"})
	}
	for _, b := range o.Bridges(r) {
		if b.Lacks != "" {
			all = append(all, Attention{"coverage", fmt.Sprintf("%s: how many tasks its bridge to %s uses is not known (%s), so they are counted as nothing", r.Option.Name,
				usage.LowerFirst(s.Needs[b.Need].Name), b.Lacks), "See the needs"})
			break
		}
		if !b.Told {
			all = append(all, Attention{"brief", fmt.Sprintf("%s: it is not said what tasks cost that bridges use, so they are counted as nothing", r.Option.Name), "Say it"})
			break
		}
	}
	for i := range s.PrivateOffers {
		if p := &s.PrivateOffers[i]; p.Option == r.Option.Key && p.RanOut(FirstDay(s.Start)) {
			had := "had to be signed by %s"
			if !p.RanOut(s.Today) {
				had = "has to be signed by %s, before the first month here, so it is not counted"
			}
			all = append(all, Attention{"prices", fmt.Sprintf("%s: what was quoted for %s "+had, r.Option.Name, r.planName(p.Plan), p.Until.Format("2 Jan 2006")), "Ask again"})
		}
	}
	if open := o.SayOpen(r); len(open) > 0 {
		all = append(all, Attention{"coverage", r.Option.Name + ": " + open[0], "See the needs"})
	}
	if r.In() && s.Budget > 0 && o.Pick.First >= 0 && r == &o.Results[o.Pick.First] && r.Schedule.Total > s.InAll() {
		all = append(all, Attention{"costs", fmt.Sprintf("%s, the pick, costs %s more than the budget", r.Option.Name,
			s.Currency.FormatWhole(r.Schedule.Total-s.InAll())), "See its costs"})
	}
	if most, at := r.largestCash(); r.In() && s.Brief.Upfront > 0 && o.Pick.First >= 0 && r == &o.Results[o.Pick.First] && most > s.Brief.Upfront {
		all = append(all, Attention{"costs", fmt.Sprintf("%s, the pick, asks for %s at once in %s, more than may be paid ahead", r.Option.Name,
			s.Currency.FormatWhole(most), s.Month(at)), "See its costs"})
	}
	switch missing := r.missingRatings(); {
	case missing == 1 && r.In():
		all = append(all, Attention{"scores", r.Option.Name + ": 1 rating is missing", "Rate it"})
	case missing > 1 && r.In():
		all = append(all, Attention{"scores", fmt.Sprintf("%s: %d ratings are missing", r.Option.Name, missing), "Rate it"})
	}
	return all
}

// largestCash is the most that falls due in one month, and in which.
func (r *Result) largestCash() (most money.Amount, month int) {
	for t := range r.Schedule.Months {
		if cash := r.Schedule.Months[t].Cash + r.Schedule.Months[t].Falls; cash > most {
			most, month = cash, t
		}
	}
	return most, month
}

func (r *Result) planName(key string) string {
	if p, ok := r.Option.Edition.Plan(key); ok {
		return p.Name
	}
	return key
}

// missingRatings counts the criteria that people rate, that weigh anything and that
// nobody rated.
func (r *Result) missingRatings() (n int) {
	for _, p := range r.Standing.Parts {
		if !p.Known && p.Criterion.Source == fit.Rated && p.Weight > 0 {
			n++
		}
	}
	return n
}
