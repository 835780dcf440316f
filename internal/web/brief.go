package web

import (
	"fmt"
	"html/template"
	"maps"
	"slices"

	"ninecoins/internal/core/document"
)

type briefBody struct {
	Base                   string
	Question               string
	Verdict, Costs, Scores template.HTML
	Facts                  []briefFact
	Now                    string
	Rates                  []rateRow
	Add                    *addForm
	May                    bool
	Form                   template.HTML // of the facts
	Next                   []choiceView  // what to do next, for a study that has just begun
}

type briefFact struct {
	Name, About string
	Field       editable
	Says        string // beside the field
}

type rateRow struct {
	Code     string
	Rate, On editable
	Place    place
	Form     template.HTML
}

func (r *request) base() string { return "/studies/" + r.id }

func buildBrief(r *request) (any, error) {
	s, o := r.study(), r.outcome
	b := briefBody{Base: r.base(), Question: s.Question, Verdict: phrase(o.SayVerdict()), Costs: phrase(o.SayCosts()),
		Scores: phrase(o.SayScores()), Now: r.runsToday(), May: r.caller.mayEdit("rates"), Next: r.next()}
	b.Facts = []briefFact{
		{"Title", "", r.field("title", ""), ""},
		{"Who asks", "", r.field("company", ""), ""},
		{"Question", "What is to be settled, in a sentence.", r.field("question", ""), ""},
		{"First month", "The month in which the first bill would come.", r.field("start", ""), ""},
		{"Horizon", "How far costs are followed.", r.field("months", "Horizon, in months"), "months, to " + s.Month(s.Horizon-1).String()},
		{"Currency", "Prices in other currencies are converted at the rates below; prices with tax are shown without it.", r.field("currency", ""), "tax left out"},
		{"Budget", "What the pick should cost at most; empty for none.", r.number("budget", ""), fmt.Sprintf("%s over %d months", s.Currency.Code(), s.Horizon)},
		{"Patience", "Price lists read longer ago are called stale wherever they appear.", r.field("patience_days", "Patience, in days"), "days"},
	}
	b.Form = rowForm(b.Facts[0].Field)
	codes := slices.Sorted(maps.Keys(s.Rates))
	for i, code := range codes {
		path := document.Path("rates").To(code)
		row := rateRow{Code: code, Rate: r.number(path.To("rate"), "1 "+code+" in "+s.Currency.Code()),
			On: r.field(path.To("on"), "Day of the rate of "+code), Place: r.placeOf("rates", "the rate of "+code, codes, i)}
		row.Form = rowForm(row.Rate)
		row.Place.First, row.Place.Last = true, true // they stand in the order of their codes
		b.Rates = append(b.Rates, row)
	}
	b.Add = r.adding("rates", "currency", "rate", "on")
	b.Add.set("rate", "In "+s.Currency.Code()+", for 1", nil)
	b.Add.set("on", "As of", nil)
	return b, nil
}

// runsToday says what every option is held against.
func (r *request) runsToday() string {
	for i := range r.outcome.Results {
		res := &r.outcome.Results[i]
		if !res.Option.Now {
			continue
		}
		if res.Today == nil {
			return res.Option.Name
		}
		return fmt.Sprintf("%s, %s a month on %s", res.Option.Name, r.study().Currency.Format(res.Monthly(0)), res.Takes())
	}
	return "nothing yet; say so on the Line-up"
}

// next lists what a study still lacks before it comes to a verdict.
func (r *request) next() (all []choiceView) {
	s := r.study()
	if !r.caller.mayEdit("title") {
		return nil
	}
	if len(s.Options) < 2 {
		all = append(all, choiceView{Label: "Add at least two options from the price shelf", Link: r.base() + "/line-up"})
	}
	if len(s.Needs) == 0 {
		all = append(all, choiceView{Label: "Say what is needed: musts put options out", Link: r.base() + "/coverage"})
	}
	if len(s.Drivers) == 0 {
		all = append(all, choiceView{Label: "Say how many contacts, sends and seats there are, and how they grow", Link: r.base() + "/growth"})
	}
	if len(s.Criteria) == 0 {
		all = append(all, choiceView{Label: "Say what matters, weigh it, and rate the options", Link: r.base() + "/scores"})
	}
	return all
}
