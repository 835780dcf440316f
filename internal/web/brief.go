package web

import (
	"fmt"
	"html/template"
	"maps"
	"net/http"
	"slices"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/study"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

type briefBody struct {
	Base                   string
	Reference              string // the day whose reference rates are offered; "": there are none
	Question               string
	Verdict, Costs, Scores template.HTML
	Facts                  []factGroup
	Now                    string
	Rates                  []rateRow
	NoRate                 string // which are missing
	Add                    *addForm
	Running                []runningRow
	AddRunning             *addForm
	Unneeded               editable // whether what an option makes unneeded is counted off
	Reasons                []reasonRow
	AddReason              *addForm
	Connector              []briefFact
	ConnectorForm          template.HTML
	May                    bool
	Form                   template.HTML // of the facts
	Next                   []choiceView  // what to do next, for a study that has just begun
	Starts                 []startView
	Begins                 bool // nothing is in the study yet
}

// factGroup is some facts of the brief that belong together.
type factGroup struct {
	Name  string
	Facts []briefFact
}

type briefFact struct {
	Name, About string
	Field       editable
	Says        string // beside the field
	And         *editable
}

type rateRow struct {
	Code     string
	Rate, On editable
	Moved    string // by how much it has moved since, where that is much
	Place    place
	Form     template.HTML
}

type runningRow struct {
	Name, Cost, Renews, Notice, GivesUp editable
	Until                               string // day until which it can be left
	Late                                bool
	Place                               place
	Form                                template.HTML
}

type reasonRow struct {
	Text, Need, Criterion editable
	Became                string
	Place                 place
	Form                  template.HTML
}

// startView is a brief to begin with.
type startView struct{ Key, Name, About, Brings string }

func (r *request) base() string { return "/studies/" + r.id }

func (sv *Server) buildBrief(r *request) (any, error) {
	s, o := r.study(), r.outcome
	b := briefBody{Base: r.base(), Question: s.Question, Verdict: phrase(o.SayVerdict()), Costs: phrase(o.SayCosts()),
		Scores: phrase(o.SayScores()), Now: r.runsToday(), May: r.caller.mayEdit("rates"), Next: r.next(), Begins: s.Begins()}
	b.Facts = r.briefFacts()
	b.Form = rowForm(b.Facts[0].Facts[0].Field)
	b.NoRate = r.outcome.SayRatesMissing()
	codes := slices.Sorted(maps.Keys(s.Rates))
	newest := sv.rates.latest(s.Today)
	if sv.rates.from != nil && b.May {
		b.Reference = s.Today.Format("2 Jan 2006")
	}
	for i, code := range codes {
		path := document.Path("rates").To(code)
		row := rateRow{Code: code, Rate: r.number(path.To("rate"), "1 "+code+" in "+s.Currency.Code()),
			On: r.field(path.To("on"), "Day of the rate of "+code), Place: r.placeOf("rates", "the rate of "+code, codes, i)}
		row.Form, row.Moved = rowForm(row.Rate), moved(newest, code, s.Rates[code], s.Currency)
		row.Place.First, row.Place.Last = true, true // they stand in the order of their codes
		b.Rates = append(b.Rates, row)
	}
	b.Add = r.adding("rates", "currency", "rate", "on")
	b.Add.set("rate", "In "+s.Currency.Code()+", for 1", nil)
	b.Add.set("on", "As of", nil)
	r.running(&b)
	r.reasons(&b)
	r.connector(&b)
	if b.May {
		for _, start := range study.Starts() {
			b.Starts = append(b.Starts, startView{start.Key, start.Name, start.About, start.Brings()})
		}
	}
	return b, nil
}

// briefFacts are the facts of the brief, in groups.
func (r *request) briefFacts() []factGroup {
	s := r.study()
	money := s.Currency.Code()
	budget := briefFact{Name: "Budget", About: "What the pick should cost at most; empty for none.", Field: r.number("budget", ""), Says: money}
	per := r.field("budget_for", "What the budget is for")
	if per.Was == "" { // nothing said is in all
		per.Choices[0].Value, per.Choices[0].Chosen = "", true
	}
	budget.And = &per
	if all := s.InAll(); all > 0 && s.Brief.BudgetFor != "" && s.Brief.BudgetFor != study.ForAll {
		budget.About = fmt.Sprintf("What the pick should cost at most: %s over %d months.", s.Currency.FormatWhole(all), s.Horizon)
	}
	return []factGroup{
		{"What for", []briefFact{
			{Name: "Title", Field: r.field("title", "")},
			{Name: "Question", About: "What is to be settled, in a sentence.", Field: r.field("question", "")},
		}},
		{"Who we are", []briefFact{
			{Name: "Who asks", Field: r.field("company", "")},
			{Name: "What we are", About: "The kind of business, in your own words.", Field: r.field("business", "")},
			{Name: "People", Field: r.field("people", "People who work here")},
			{Name: "Clients served", About: "For an agency; empty for none.", Field: r.field("clients", "Clients that we work for")},
		}},
		{"How far, and in what", []briefFact{
			{Name: "First month", About: "The month in which the first bill would come.", Field: r.field("start", "")},
			{Name: "Horizon", About: "How far costs are followed.", Field: r.field("months", "Horizon, in months"), Says: fmt.Sprintf("months, to %s; %d at most", s.Month(s.Horizon-1), study.MostMonths)},
			{Name: "Currency", About: "Prices in other currencies are converted at the rates below; prices with tax are shown without it.", Field: r.field("currency", ""), Says: "tax left out"},
			{Name: "Patience", About: "Price lists read longer ago are called stale wherever they appear.", Field: r.field("patience_days", "Patience, in days"), Says: "days"},
		}},
		{"What it may cost", []briefFact{
			budget,
			{Name: "Paid ahead at most", About: "The most that may fall due at once; empty for no bound.", Field: r.number("upfront", ""), Says: money},
			{Name: "An hour of our time", About: "What a colleague's hour costs, for work that a choice makes or saves.", Field: r.number("hour_cost", ""), Says: money},
		}},
		{"Who decides", []briefFact{
			{Name: "Who decides", Field: r.field("deciders", "")},
			{Name: "By when", Field: r.field("decide_by", "Decided by")},
		}},
	}
}

// running lists what runs today, with what it costs and when it can be left.
func (r *request) running(b *briefBody) {
	s := r.study()
	keys := make([]string, len(s.Running))
	for i := range s.Running {
		keys[i] = s.Running[i].Key
	}
	for i := range s.Running {
		run := &s.Running[i]
		path := document.Path("running").To(run.Key)
		row := runningRow{Name: r.field(path.To("name"), "Name of "+run.Name), Cost: r.number(path.To("cost"), "What "+run.Name+" costs a month"),
			Renews: r.field(path.To("renews"), "Day on which "+run.Name+" renews"), Notice: r.field(path.To("notice"), "Days of notice of "+run.Name),
			GivesUp: r.field(path.To("gives_up"), "What we would give up without "+run.Name), Place: r.placeOf("running", run.Name, keys, i)}
		row.Name.Long, row.GivesUp.Empty = false, "what only it has"
		row.Renews.Empty, row.Notice.Empty = "day", "days"
		row.Form = rowForm(row.Name)
		if !run.Renews.IsZero() {
			by := run.NoticeBy()
			row.Late = by.Before(s.Today)
			row.Until = orElse(row.Late, "the day for notice is past: ", "leave by ") + by.Format("2 Jan 2006")
		}
		b.Running = append(b.Running, row)
	}
	b.Unneeded = r.field("unneeded", "What an option makes unneeded is")
	if b.Unneeded.Was == "" { // nothing said is that it is counted
		b.Unneeded.Choices[0].Value, b.Unneeded.Choices[0].Chosen = "", true
	}
	b.AddRunning = r.adding("running", "name", "cost", "renews", "notice", "gives_up")
	b.AddRunning.titled("Add a tool that runs today")
	b.AddRunning.set("cost", s.Currency.Code()+" a month", nil)
}

// reasons lists why we look, and what became of each.
func (r *request) reasons(b *briefBody) {
	s := r.study()
	keys := make([]string, len(s.Reasons))
	for i := range s.Reasons {
		keys[i] = s.Reasons[i].Key
	}
	needs, criteria := []choiceView{{Label: "no need", Value: ""}}, []choiceView{{Label: "no criterion", Value: ""}}
	for _, n := range s.Needs {
		needs = append(needs, choiceView{Label: n.Name, Value: n.Feature})
	}
	for _, c := range s.Criteria {
		criteria = append(criteria, choiceView{Label: c.Name, Value: c.ID})
	}
	for i := range s.Reasons {
		one := &s.Reasons[i]
		path := document.Path("reasons").To(one.Key)
		row := reasonRow{Text: r.field(path.To("text"), "Reason"), Need: r.field(path.To("need"), "Need that it is tied to"),
			Criterion: r.field(path.To("criterion"), "Criterion that it is tied to"), Became: r.outcome.SayReason(one), Place: r.placeOf("reasons", "this reason", keys, i)}
		row.Need.Choices, row.Criterion.Choices = chosen(needs, one.Need), chosen(criteria, one.Criterion)
		row.Form = rowForm(row.Text)
		b.Reasons = append(b.Reasons, row)
	}
	b.AddReason = r.adding("reasons", "text", "need", "criterion")
	b.AddReason.set("text", "Why we look, in your own words", nil)
	b.AddReason.set("need", "Tied to the need", needs)
	b.AddReason.set("criterion", "or to the criterion", criteria)
	b.AddReason.oneByOne()
}

// chosen are some choices, of which one is taken; one that is not among them is
// added, so that it is not lost.
func chosen(all []choiceView, value string) []choiceView {
	mine := slices.Clone(all)
	found := false
	for i := range mine {
		mine[i].Chosen = mine[i].Value == value
		found = found || mine[i].Chosen
	}
	if !found {
		mine = append(mine, choiceView{Label: value + " (gone)", Value: value, Chosen: true})
	}
	return mine
}

// connector asks what bridges go through, and what their tasks cost.
func (r *request) connector(b *briefBody) {
	s := r.study()
	through := r.field("connector.through", "Tool that bridges go through")
	all := []choiceView{{Label: "any, at a price", Value: ""}}
	for _, run := range s.Running {
		all = append(all, choiceView{Label: run.Name, Value: run.Key})
	}
	through.Choices = chosen(all, s.Connector.Through)
	price, each := r.number("connector.price", "Price of tasks"), r.field("connector.each", "For how many tasks the price is")
	b.Connector = []briefFact{
		{Name: "Through", About: "A stack whose own tool carries its bridges uses that instead.", Field: through},
		{Name: "Tasks cost", Field: price, Says: s.Currency.Code() + ", for", And: &each},
		{Name: "Or nothing more", About: "The tasks are within what it costs anyway.", Field: r.field("connector.free", "Tasks are within what the tool costs anyway")},
	}
	b.ConnectorForm = rowForm(through)
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
	return "No option is what runs today; mark the one that is"
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
	if !slices.ContainsFunc(s.Criteria, func(c fit.Criterion) bool { return c.Weight > 0 }) {
		all = append(all, choiceView{Label: "Say what matters, weigh it, and rate the options", Link: r.base() + "/scores"})
	}
	return all
}

// start brings a starting point into a study.
func (s *Server) start(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	_, st, err := s.studySheet(c, at)
	if err != nil {
		return nil, err
	}
	start, ok := study.StartOf(ch.Value)
	if !ok {
		return nil, notFound("There is no such starting point.")
	}
	change := start.Into(st)
	if len(change) == 0 {
		return &refusal{status: http.StatusConflict, problem: problem{Message: "Nothing was changed: all that “" + start.Name + "” brings is in the study already."}}, nil
	}
	return saved(c, s.store.Edit(c, at, change), "", "")
}
