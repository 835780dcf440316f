package formats

import (
	"context"
	"encoding/json"
	"math"
	"strings"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
)

// OutcomeFormat is what an outcome says that it is. Outcomes are only written;
// docs/formats/outcome.schema.json describes them.
const OutcomeFormat = "nine-coins/outcome/1"

// Amounts are decimal text in the study's currency, tax left out; months ISO
// 8601; scores and weights numbers, a score from 0 to 9, a weight of 1; what
// cannot be known or computed is null.
type (
	outcomeFile struct {
		Format   string          `json:"format"`
		Study    outcomeStudy    `json:"study"`
		Drivers  []outcomeDriver `json:"drivers"`
		Options  []outcomeOption `json:"options"`
		Order    []string        `json:"order"`
		Leads    []outcomeLead   `json:"leads"`
		Cheapest *string         `json:"cheapest"`
		Pick     *outcomePick    `json:"pick"`
		Says     outcomeSays     `json:"says"`
		Faults   []outcomeFault  `json:"faults"`
		Notes    []outcomeNote   `json:"notes"`
		Ask      []outcomeVendor `json:"ask"`
		Stack    *outcomeStack   `json:"cheapest_stack"`

		Cases    []outcomeCase    `json:"cases"`
		Leaving  []outcomeLeaving `json:"leaving"`
		Road     *outcomeRoad     `json:"road"` // the cheapest over all options; null where none serves every month
		Headroom []outcomeRoom    `json:"headroom"`
		Deeds    []outcomeDeed    `json:"deeds"`
		Bargains []outcomeBargain `json:"bargains"`
		Spread   *outcomeSpread   `json:"spread"` // null unless it was simulated
	}
	outcomeNote struct {
		Coin string `json:"coin"`
		Text string `json:"text"`
	}
	outcomeStudy struct {
		Key      string `json:"key"`
		Title    string `json:"title"`
		Currency string `json:"currency"`
		Start    string `json:"start"`
		Months   int    `json:"months"`
		Pay      string `json:"pay"`
		Case     string `json:"case"`
	}
	outcomeDriver struct {
		Driver string     `json:"driver"`
		Values []*float64 `json:"values"`
	}
	outcomeOption struct {
		Key        string          `json:"key"`
		Name       string          `json:"name"`
		Face       int             `json:"face"`
		Now        bool            `json:"now"`
		Platform   string          `json:"platform"`
		ObservedOn string          `json:"observed_on"`
		DaysOld    int             `json:"days_old"`
		Stale      bool            `json:"stale"`
		Out        []string        `json:"out"`
		Total      *money.Amount   `json:"total"`
		Beyond     money.Amount    `json:"beyond"`
		PaidAhead  money.Amount    `json:"paid_ahead"`
		Schedule   []outcomeMonth  `json:"schedule"`
		Steps      []outcomeStep   `json:"steps"`
		Questions  []string        `json:"questions"`
		Coverage   []outcomeCell   `json:"coverage"`
		Share      *float64        `json:"share"`        // of the needs that is covered on what is taken, of 1: as far as is certain
		MayBe      *float64        `json:"share_may_be"` // and at most, once all is known
		Takes      []outcomeTool   `json:"takes"`
		Bridges    []outcomeBridge `json:"bridges"`
		Forced     []outcomeForce  `json:"forced"`
		Fit        *float64        `json:"fit"`
		Low        float64         `json:"low"`
		High       float64         `json:"high"`
		Known      float64         `json:"known"`
		Place      *int            `json:"place"`
		Parts      []outcomePart   `json:"parts"`
	}
	outcomeMonth struct {
		Month    string        `json:"month"`
		Plan     *string       `json:"plan"`
		Term     *string       `json:"term"`
		PerMonth *money.Amount `json:"per_month"`
		Accrued  *money.Amount `json:"accrued"`
		Running  money.Amount  `json:"running"`
		Cash     money.Amount  `json:"cash"`
		Falls    money.Amount  `json:"falls_away"`
	}
	outcomeStep struct {
		Month string       `json:"month"`
		From  string       `json:"from"`
		To    string       `json:"to"`
		Tool  int          `json:"tool"`
		Delta money.Amount `json:"delta"`
		Why   []string     `json:"why"`
	}
	outcomeCell struct {
		Feature string  `json:"feature"`
		Level   string  `json:"level"`
		Has     string  `json:"has"`
		Plan    *string `json:"plan"`
		Depth   int     `json:"depth"`
		Forces  bool    `json:"forces"`
		Answer  string  `json:"answer"`
		Number  *string `json:"number"`
		Tool    int     `json:"tool"`
	}
	outcomeTool struct {
		Platform   string       `json:"platform"`
		ObservedOn string       `json:"observed_on"`
		For        string       `json:"for"`
		Plan       *string      `json:"plan"`
		Term       *string      `json:"term"`
		AddOns     []string     `json:"add_ons"`
		PerMonth   money.Amount `json:"per_month"`
		Musts      []string     `json:"musts"`
	}
	outcomeBridge struct {
		Feature string        `json:"feature"`
		Tasks   float64       `json:"tasks"`
		Through string        `json:"through"`
		Costs   *money.Amount `json:"costs"`
	}
	outcomeForce struct {
		Feature string       `json:"feature"`
		Tool    int          `json:"tool"`
		Without string       `json:"without"`
		Saves   money.Amount `json:"saves"`
	}
	outcomeVendor struct {
		Platform  string   `json:"platform"`
		Questions []string `json:"questions"`
	}
	outcomeStack struct {
		PerMonth money.Amount `json:"per_month"`
		Plans    []string     `json:"plans"` // "platform/plan"
	}
	outcomePart struct {
		Criterion string   `json:"criterion"`
		Weight    float64  `json:"weight"`
		Score     *float64 `json:"score"`
		Points    *float64 `json:"points"`
		Raters    int      `json:"raters"`
		Spread    float64  `json:"spread"`
	}
	outcomeLead struct {
		From   string `json:"from"`
		To     string `json:"to"`
		Option string `json:"option"`
	}
	outcomePick struct {
		First  string       `json:"first"`
		Next   *string      `json:"next"`
		Ahead  float64      `json:"ahead"`
		Dearer money.Amount `json:"dearer"`
	}
	outcomeSays struct {
		Verdict string `json:"verdict"`
		Costs   string `json:"costs"`
		Scores  string `json:"scores"`
		Covers  string `json:"coverage"`
	}
	outcomeFault struct {
		At   string `json:"at"`
		Text string `json:"text"`
	}
)

// WriteOutcome writes all that follows from a study.
func WriteOutcome(ctx context.Context, o *study.Outcome) ([]byte, error) {
	s := o.Study
	f := outcomeFile{Format: OutcomeFormat, Drivers: []outcomeDriver{}, Options: []outcomeOption{}, Order: []string{}, Leads: []outcomeLead{},
		Faults: []outcomeFault{}, Ask: []outcomeVendor{},
		Study: outcomeStudy{s.Key, s.Title, s.Currency.Code(), s.Start.ISO(), s.Horizon, string(s.Pay), s.Case.Say()},
		Says:  outcomeSays{o.SayVerdict().String(), o.SayCosts().String(), o.SayScores().String(), o.SayCoverage().String()}}
	for _, d := range o.Model.Drivers() {
		one := outcomeDriver{Driver: d.Key}
		for _, v := range o.Values.Of(d.Key) {
			one.Values = append(one.Values, number(v))
		}
		f.Drivers = append(f.Drivers, one)
	}
	for i := range o.Results {
		f.Options = append(f.Options, outcomeOf(o, &o.Results[i]))
	}
	for _, at := range o.Order {
		f.Order = append(f.Order, o.Results[at].Option.Key)
	}
	for _, l := range o.Leads {
		f.Leads = append(f.Leads, outcomeLead{s.Month(l.From).ISO(), s.Month(l.To).ISO(), o.Results[l.Result].Option.Key})
	}
	if o.Cheapest >= 0 {
		f.Cheapest = &o.Results[o.Cheapest].Option.Key
	}
	if o.Pick.First >= 0 {
		f.Pick = &outcomePick{First: o.Results[o.Pick.First].Option.Key, Ahead: float64(o.Pick.Ahead), Dearer: o.Pick.Dearer}
		if o.Pick.Next >= 0 {
			f.Pick.Next = &o.Results[o.Pick.Next].Option.Key
		}
	}
	for _, fault := range o.Faults {
		f.Faults = append(f.Faults, outcomeFault{string(fault.At), fault.Text})
	}
	f.Notes = []outcomeNote{}
	for _, n := range o.Facts().Notes {
		f.Notes = append(f.Notes, outcomeNote{n.Coin, n.Text})
	}
	for _, v := range o.Vendors() {
		if len(v.Questions) > 0 {
			one := outcomeVendor{Platform: v.Platform}
			for _, q := range v.Questions {
				one.Questions = append(one.Questions, q.Text)
			}
			f.Ask = append(f.Ask, one)
		}
	}
	best, err := o.BestStack()
	if err != nil {
		return nil, err
	}
	if len(best.Tools) > 0 {
		f.Stack = &outcomeStack{PerMonth: best.Month}
		for _, t := range best.Tools {
			f.Stack.Plans = append(f.Stack.Plans, t.Platform+"/"+t.Plan)
		}
	}
	if err := f.further(ctx, o); err != nil {
		return nil, err
	}
	data, err := json.MarshalIndent(f, "", "  ")
	return append(data, '\n'), err
}

// number is a value, or null for what is none.
func number(v float64) *float64 {
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return nil
	}
	return &v
}

func outcomeOf(all *study.Outcome, r *study.Result) outcomeOption {
	s, o, st := all.Study, r.Option, r.Standing
	out := outcomeOption{Key: o.Key, Name: o.Name, Face: o.Face, Now: o.Now, Platform: o.Platform, ObservedOn: pricelist.ReadText(o.ObservedOn),
		DaysOld: r.DaysOld, Stale: r.Stale,
		Out: orNone(st.Out), Beyond: r.Schedule.Beyond, PaidAhead: r.Schedule.Ahead, Low: float64(st.Low), High: float64(st.High), Known: st.Known,
		Schedule: []outcomeMonth{}, Steps: []outcomeStep{}, Questions: []string{}, Coverage: []outcomeCell{}, Parts: []outcomePart{},
		Takes: []outcomeTool{}, Bridges: []outcomeBridge{}, Forced: []outcomeForce{}}
	if r.Schedule.Serves() {
		out.Total = &r.Schedule.Total
	}
	if st.Known > 0 {
		out.Fit = number(float64(st.Fit))
	}
	if st.Place > 0 {
		out.Place = &st.Place
	}
	for t := range r.Schedule.Months {
		out.Schedule = append(out.Schedule, monthOf(s, r, t))
	}
	for _, step := range r.Schedule.Steps {
		one := outcomeStep{Month: s.Month(step.Month).ISO(), From: step.From.Key, To: step.To.Key, Tool: step.Tool, Delta: step.Delta, Why: []string{}}
		for _, cause := range step.Causes {
			one.Why = append(one.Why, string(cause.Kind))
		}
		out.Steps = append(out.Steps, one)
	}
	for _, q := range r.Schedule.Questions {
		out.Questions = append(out.Questions, q.String())
	}
	for i, c := range r.Coverage {
		cell := outcomeCell{Feature: c.Need.Feature, Level: string(c.Need.Level), Has: string(c.Has), Depth: c.Depth, Answer: answers[c.Answer], Tool: c.Tool}
		if c.Unlimited {
			cell.Number = &unlimited
		} else if c.Number > 0 {
			n := c.Number.String()
			cell.Number = &n
		}
		if c.Plan != nil {
			cell.Plan = &c.Plan.Key
		}
		cell.Forces = r.Forces(i)
		out.Coverage = append(out.Coverage, cell)
	}
	out.taken(all, r)
	for _, p := range st.Parts {
		part := outcomePart{Criterion: p.Criterion.ID, Weight: p.Weight, Raters: p.Raters, Spread: float64(p.Spread)}
		if p.Known {
			part.Score, part.Points = number(float64(p.Score)), number(p.Points())
		}
		out.Parts = append(out.Parts, part)
	}
	return out
}

var (
	answers   = map[coverage.Answer]string{coverage.Met: "met", coverage.Unmet: "not met", coverage.Open: "not known"}
	unlimited = "unlimited"
)

// taken writes what an option takes, over which bridges, and what forces that.
func (out *outcomeOption) taken(o *study.Outcome, r *study.Result) {
	if r.Today != nil && len(o.Study.Needs) > 0 {
		out.Share, out.MayBe = number(r.Share), number(r.MayBe)
	}
	for i := range r.Tools {
		t := &r.Tools[i]
		one := outcomeTool{Platform: t.Tool.Platform, ObservedOn: pricelist.ReadText(t.Tool.ObservedOn), For: t.Tool.For, AddOns: []string{}, Musts: orNone(t.Musts)}
		if t.Today != nil {
			one.Plan, one.Term, one.AddOns = &t.Today.Plan.Key, &t.Today.Term.Key, orNone(t.Today.AddOns)
			one.PerMonth = t.Schedule.Months[0].Monthly()
		}
		out.Takes = append(out.Takes, one)
	}
	for _, b := range o.Bridges(r) {
		one := outcomeBridge{Feature: o.Study.Needs[b.Need].Feature, Tasks: b.Tasks, Through: b.By}
		if b.Told && !b.Asked {
			one.Costs = &b.Costs
		}
		out.Bridges = append(out.Bridges, one)
	}
	for _, f := range r.Forced() {
		out.Forced = append(out.Forced, outcomeForce{o.Study.Needs[f.Need].Feature, f.Tool, f.Without.Key, f.Saves})
	}
}

func monthOf(s *study.Study, r *study.Result, t int) outcomeMonth {
	m := &r.Schedule.Months[t]
	one := outcomeMonth{Month: s.Month(t).ISO(), Running: m.Running, Cash: m.Cash, Falls: m.Falls}
	if m.Serves {
		monthly := r.Monthly(t)
		plans, terms := []string{}, []string{}
		for _, part := range m.Parts() {
			plans, terms = append(plans, part.Plan().Key), append(terms, part.Program.Term.Key)
		}
		plan, term := strings.Join(plans, "+"), strings.Join(terms, "+") // of a stack, of each tool
		one.Plan, one.Term, one.PerMonth, one.Accrued = &plan, &term, &monthly, &m.Accrued
	}
	return one
}

func orNone[T any](list []T) []T {
	if list == nil {
		return []T{}
	}
	return list
}
