package web

import (
	"context"
	"errors"
	"fmt"
	"html/template"
	"net/url"
	"slices"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/core/work"
	"ninecoins/internal/store"
)

// trialView is a draft tried at a usage: what each plan comes to, one of them as a
// receipt, its curve, and what changes for the studies that use the platform.
type trialView struct {
	Fields  []addField
	Plans   []trialPlan
	Paper   *receiptPaper
	Was     string // against the edition that the draft began from
	Curve   *curveView
	Effects []template.HTML
	Takes   string // key of the cheapest plan that serves
	Problem string
	From    string // whose usage it is
	Shown   string // name of the plan of the receipt
	Keep    []againField

	say study.Phrase
}

type trialPlan struct {
	Name, Amount, Why, Link string
	Taken, Shown            bool
}

// mostEffects is for how many studies a draft's effect is worked out.
const mostEffects = 5

// trial tries a draft.
func (s *Server) trial(e *draftEditor) (*trialView, error) {
	whole := e.draft.Whole
	v := &trialView{}
	ws := callerOf(e.c).workspace()
	uses, err := s.store.PlatformUses(e.c, ws, whole.Platform.Key, mostEffects)
	if err != nil {
		return nil, err
	}
	var outcomes []*study.Outcome
	for _, u := range uses {
		o, err := s.store.Outcome(e.c, ws, u.ID, e.at.Today)
		if errors.Is(err, store.ErrMissing) {
			continue
		}
		if err != nil && (e.c.Request.Context().Err() != nil || store.Away(err)) {
			return nil, err
		}
		if err != nil { // that study's fault, which its page tells
			continue
		}
		outcomes = append(outcomes, o)
	}
	given := map[string]usage.Quantity{}
	q := e.c.Request.URL.Query()
	for name := range q {
		driver, is := strings.CutPrefix(name, "at.")
		if !is || len(q.Get(name)) > 40 {
			continue
		}
		n, err := typedQuantity(q.Get(name))
		if err != nil {
			v.Problem = quoted(q.Get(name)) + " is no number such as 6,400."
			continue
		}
		given[driver] = n
	}
	var from *study.Outcome
	if len(outcomes) > 0 {
		from = outcomes[0]
		v.From = from.Study.Title + " today"
	}
	tried, err := study.Try(whole, from, given)
	if err != nil {
		v.Problem = capital(err.Error()) + "."
		return v, nil
	}
	for _, d := range tried.Drivers {
		v.Fields = append(v.Fields, addField{ID: "at-" + d.Key, Name: "at." + d.Key, Label: d.Name, Value: tried.Values[d.Key].Grouped(), Decimal: true, Longest: 40})
	}
	if len(e.draft.Faults) == 0 {
		v.price(e, whole, tried)
		v.curve(e, whole, tried)
		v.effects(e.c, whole, outcomes)
	} else if v.Problem == "" {
		v.Problem = "What it comes to is told once nothing is at fault."
	}
	return v, nil
}

// rowAt reads the meters of a list at a usage.
func rowAt(e *pricelist.Edition, t *study.Tried, set map[string][]float64, rows int) ([][]int64, error) {
	columns, err := t.Model.Usages(0, rows, set)
	if err != nil {
		return nil, err
	}
	return tariff.Read(e, columns)
}

// priced are the receipts of all plans of a list at a usage.
func priced(e *pricelist.Edition, t *study.Tried) ([]quote.Receipt, error) {
	rows, err := rowAt(e, t, nil, 1)
	if err != nil {
		return nil, err
	}
	return projection.Preview(projection.Candidate{Edition: e, Rows: rows, Policy: projection.Monthly, Basis: quote.Basis{Currency: e.Currency}}, 0)
}

func (v *trialView) price(e *draftEditor, whole *pricelist.Edition, t *study.Tried) {
	all, err := priced(whole, t)
	if err != nil {
		v.Problem = capital(err.Error()) + "."
		return
	}
	asked := e.c.Query("plan")
	best, shown := -1, -1
	first := map[string]int{} // of each plan, the receipt of its shortest term
	for i := range all {
		key := all[i].Plan.Key
		if _, there := first[key]; !there {
			first[key] = i
		}
	}
	for _, i := range first {
		if all[i].Serves() && (best < 0 || all[i].Monthly() < all[best].Monthly()) {
			best = i
		}
		if all[i].Plan.Key == asked {
			shown = i
		}
	}
	if shown < 0 {
		shown = best
	}
	from, to := e.window()
	for i := range all {
		at := slices.IndexFunc(whole.Plans, func(p pricelist.Plan) bool { return p.Key == all[i].Plan.Key })
		if first[all[i].Plan.Key] != i || (at < from || at >= to) && i != best && i != shown {
			continue
		}
		one := trialPlan{Name: all[i].Plan.Name, Taken: i == best, Shown: i == shown, Link: linkTo(e, "plan", all[i].Plan.Key)}
		switch {
		case all[i].Priced:
			one.Amount = whole.Currency.Format(all[i].Monthly())
		default:
			one.Amount = "on request"
		}
		if !all[i].Serves() && len(all[i].Reasons) > 0 {
			one.Why = all[i].Reasons[0].String()
		}
		v.Plans = append(v.Plans, one)
	}
	if best >= 0 {
		v.Takes = all[best].Plan.Key
	}
	if shown < 0 {
		return
	}
	v.Shown = all[shown].Plan.Name
	v.Paper = &receiptPaper{}
	v.Paper.list(&all[shown])
	if e.base != nil {
		if before, err := priced(e.base, t); err == nil {
			for i := range before {
				if before[i].Plan.Key == all[shown].Plan.Key && before[i].Term.Key == all[shown].Term.Key && before[i].Priced {
					v.Was = sayWas(whole.Currency, before[i].Monthly(), all[shown].Monthly(), e.draft.Draft.Base.Format("2 Jan 2006"))
				}
			}
		}
	}
}

func sayWas(c money.Currency, was, now money.Amount, day string) string {
	if was == now {
		return "As in the edition of " + day + "."
	}
	return fmt.Sprintf("Was %s in the edition of %s: %s.", c.Format(was), day, signed(c, now-was))
}

// list fills a receipt with lines and a total in the list's own currency.
func (b *receiptPaper) list(q *quote.Receipt) {
	from := q.Conversion.From
	for i := range q.Lines {
		l := &q.Lines[i]
		b.Lines = append(b.Lines, receiptLine{Label: label(l), How: explain(l, from), Amount: from.Format(l.Amount)})
	}
	for _, reason := range q.Reasons {
		b.Why = append(b.Why, reason.String())
	}
	if q.Period > 1 {
		b.total(fmt.Sprintf("Total for %d months", q.Period), from.Format(q.Bill), false)
	}
	b.total(q.Plan.Name+", a month", from.Format(q.Monthly()), true)
}

// curve follows the plans along the driver that is asked for, or the first.
func (v *trialView) curve(e *draftEditor, whole *pricelist.Edition, t *study.Tried) {
	if len(t.Drivers) == 0 {
		return
	}
	at := slices.IndexFunc(t.Drivers, func(d usage.Driver) bool { return d.Key == e.c.Query("along") })
	if at < 0 {
		at = mainDriver(whole, t)
	}
	d := t.Drivers[at]
	high := reach(whole, d.Key, t.Values[d.Key])
	some := *whole
	from, to := e.window()
	some.Plans = whole.Plans[from:to]
	c, err := curveAlong(&some, tariff.Deal{Basis: quote.Basis{Currency: whole.Currency}}, t, d, high)
	if err != nil {
		return
	}
	for _, o := range t.Drivers {
		if len(t.Drivers) > 1 {
			c.Along = append(c.Along, choiceView{Label: o.Name, Link: linkTo(e, "along", o.Key), Chosen: o.Key == d.Key})
		}
	}
	v.Curve = c
}

// mainDriver is the driver that most charges hang on.
func mainDriver(e *pricelist.Edition, t *study.Tried) (best int) {
	most := -1
	for i, d := range t.Drivers {
		n := 0
		for j := range e.Plans {
			for k := range e.Plans[j].Charges {
				if m, ok := e.Meter(e.Plans[j].Charges[k].Meter); ok && slices.Contains(m.Counts.Names(), d.Key) {
					n += 3
					if k == 0 {
						n += 3
					}
				}
			}
			for k := range e.Plans[j].Limits {
				if m, ok := e.Meter(e.Plans[j].Limits[k].Meter); ok && slices.Contains(m.Counts.Names(), d.Key) {
					n++
				}
			}
		}
		if n > most {
			most, best = n, i
		}
	}
	return best
}

// reach is how far a curve goes: past today's value, and past the bands and limits that
// are not too far off.
func reach(e *pricelist.Edition, driver string, now usage.Quantity) int64 {
	high := max(2*now.Ceil().Whole(), 10)
	far := max(40*now.Ceil().Whole(), 1_000)
	look := func(meter string, q usage.Quantity) {
		if m, ok := e.Meter(meter); ok && slices.Contains(m.Counts.Names(), driver) && q.Whole() <= far {
			high = max(high, q.Whole()+q.Whole()/8+1)
		}
	}
	for i := range e.Plans {
		for _, c := range e.Plans[i].Charges {
			for _, b := range c.Bands {
				look(c.Meter, b.To)
			}
		}
		for _, l := range e.Plans[i].Limits {
			look(l.Meter, l.Most)
		}
	}
	return high
}

// linkTo is this page with one thing of its query changed.
func linkTo(e *draftEditor, name, value string) string {
	q := url.Values{}
	for key, all := range e.c.Request.URL.Query() {
		q[key] = all
	}
	q.Set(name, value)
	return e.c.Request.URL.Path + "?" + q.Encode()
}

// effects tells what the draft would change for the studies that use the platform.
func (v *trialView) effects(ctx context.Context, whole *pricelist.Edition, outcomes []*study.Outcome) {
	for i, o := range outcomes {
		var p study.Phrase
		if err := work.Guarded(func() error {
			all, _, err := study.Effects(ctx, o, whole)
			if err == nil {
				p = study.SayEffects(o, all)
			}
			return err
		}); err != nil {
			v.Effects = append(v.Effects, template.HTML(template.HTMLEscapeString("What it changes for "+o.Study.Title+" is unknown: that study cannot be worked out.")))
			continue
		}
		if len(p) > 0 {
			v.Effects = append(v.Effects, phrase(p))
			if i == 0 {
				v.say = p
			}
		}
	}
}
