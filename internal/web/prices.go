package web

import (
	"fmt"
	"html/template"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
)

type pricesBody struct {
	Base    string
	Say     template.HTML
	Month   string
	Usage   string
	Options []priceOption
	Unset   string
	Private []privateRow
	Add     *addForm     // a private offer
	Ask     []choiceView // plans whose price is on request
	May     bool
}

// privateRow is what was quoted for a plan that is on request.
type privateRow struct {
	Name, Term, Currency  string
	Face                  int
	Bill, On, Until, Note editable
	RanOut                string
	Form                  template.HTML
	Place                 place
}

type priceOption struct {
	optionHead
	Edition   string // what was read and when
	Stale     string // why it should be read again
	Converted string
	Rungs     []priceRung
}

// priceRung is one plan, from the smallest up.
type priceRung struct {
	Name   string
	Taken  bool
	Prices []rungPrice
	Why    []string // why it cannot serve
	Limits []string
}

type rungPrice struct{ Term, Amount, Link string }

func buildPrices(r *request) (any, error) {
	s, o := r.study(), r.outcome
	b := pricesBody{Base: r.base(), Month: s.Start.String(), Say: phrase(o.SayPrices())}
	heads := r.heads()
	for i := range o.Results {
		res := &o.Results[i]
		for at := range res.Tools {
			b.Options = append(b.Options, r.priceOption(res, at, heads[i]))
		}
	}
	var parts []string
	for _, d := range s.Drivers {
		if drv, ok := driver(o, d.Driver); ok && d.Path.Now > 0 {
			parts = append(parts, d.Path.Now.Format()+" "+strings.ToLower(drv.Name))
		}
	}
	b.Usage = strings.Join(parts, ", ")
	b.Unset = r.unset()
	r.privately(&b)
	return b, nil
}

// privately lists the private offers of the study, and the plans for which there
// can be some.
func (r *request) privately(b *pricesBody) {
	s := r.study()
	options := map[string]*study.Option{}
	for i := range s.Options {
		o := &s.Options[i]
		options[o.Key] = o
		for _, t := range o.Tools() {
			for _, p := range t.Edition.Plans {
				if p.Offered == pricelist.OnRequest && (t.Plan == "" || t.Plan == p.Key) {
					b.Ask = append(b.Ask, choiceView{Label: o.Name + ", " + p.Name, Value: o.Key + " " + p.Key})
				}
			}
		}
	}
	keys := make([]string, len(s.PrivateOffers))
	for i := range s.PrivateOffers {
		keys[i] = s.PrivateOffers[i].Key()
	}
	for i := range s.PrivateOffers {
		p := &s.PrivateOffers[i]
		path := document.Path("private_offers").To(keys[i])
		row := privateRow{Name: p.Option + ", " + p.Plan, Term: study.SayTerm(p.Term())}
		if o := options[p.Option]; o != nil {
			row.Face, row.Currency, row.Name = o.Face, o.Edition.Currency.Code(), o.Name+", "+p.Plan
			for _, t := range o.Tools() {
				if plan, ok := t.Edition.Plan(p.Plan); ok {
					row.Currency, row.Name = t.Edition.Currency.Code(), o.Name+", "+plan.Name
				}
			}
		}
		said := row.Name + ", " + row.Term
		row.Bill, row.On = r.number(path.To("bill"), "One bill of "+said), r.field(path.To("on"), "Day on which "+said+" was quoted")
		row.Until, row.Note = r.field(path.To("until"), "Last day to sign "+said), r.field(path.To("note"), "Note on "+said)
		row.Form = rowForm(row.Bill)
		row.Place = r.placeOf("private_offers", "the private offer for "+said, keys, i)
		if p.RanOut(study.FirstDay(s.Start)) {
			row.RanOut = "Not counted: " + s.Start.String() + " begins after the last day to sign."
		}
		b.Private = append(b.Private, row)
	}
	b.May = r.caller.mayEdit("private_offers")
	b.Add = r.adding("private_offers", "of", "months", "paid", "bill", "on", "until", "note")
	b.Add.titled("Enter what you were quoted")
	b.Add.oneByOne()
	b.Add.set("of", "Plan", b.Ask)
	b.Add.set("months", "Term, in months", nil)
	b.Add.set("paid", "Paid", []choiceView{{Label: "up front, one bill", Value: string(pricelist.Upfront)}, {Label: "monthly", Value: string(pricelist.Monthly)}})
	b.Add.begin("months", "12")
	b.Add.begin("on", s.Today.Format("2 Jan 2006"))
	b.Add.set("bill", "One bill", nil)
	b.Add.set("on", "Quoted on", nil)
	b.Add.set("until", "To be signed by, if it ends", nil)
}

// priceOption sets the plans of a tool of an option below each other.
func (r *request) priceOption(res *study.Result, at int, head optionHead) priceOption {
	tool := &res.Tools[at]
	e := tool.Tool.Edition
	p := priceOption{optionHead: head, Edition: "read " + e.ObservedOn.Format("2 Jan 2006")}
	if res.Option.Stack() {
		p.Name += ": " + e.Platform.Name
	}
	if tool.DaysOld > r.study().Patience {
		p.Stale = fmt.Sprintf("%d days old: read it again", tool.DaysOld)
	}
	var notes []string
	if e.Tax.Included {
		notes = append(notes, e.Tax.Rate.String()+" tax taken out")
	}
	if rate, ok := r.study().Rates[e.Currency.Code()]; ok && e.Currency != r.study().Currency {
		notes = append(notes, fmt.Sprintf("from %s at %s", e.Currency.Code(), rate.Rate))
	}
	p.Converted = strings.Join(notes, ", ")
	var prices []quote.Receipt
	if !res.AtFault {
		prices = tool.Prices()
	}
	for i := range e.Plans {
		plan := &e.Plans[i]
		rung := priceRung{Name: plan.Name, Taken: tool.Today != nil && tool.Today.Plan.Key == plan.Key}
		for j := range prices {
			q := &prices[j]
			if q.Plan.Key != plan.Key {
				continue
			}
			price := rungPrice{Term: study.SayTerm(q.Term), Amount: monthlyOf(q)}
			if q.Lowered() && q.Serves() {
				rung.Limits = append(rung.Limits, study.SayTerm(q.Term)+": "+study.SayOffer(q))
			}
			if q.Priced {
				price.Link = fmt.Sprintf("%s/receipts/%s?plan=%s&term=%s", r.base(), res.Option.Key, plan.Key, q.Term.Key)
				if at > 0 {
					price.Link += fmt.Sprintf("&tool=%d", at)
				}
			}
			rung.Prices = append(rung.Prices, price)
			if len(rung.Prices) == 1 {
				for _, reason := range q.Reasons {
					rung.Why = append(rung.Why, r.study().SayWhy(reason))
				}
			}
		}
		if day := r.study().QuotedOn(res.Option.Key, plan); !day.IsZero() {
			rung.Limits = append(rung.Limits, "as quoted to you on "+day.Format("2 Jan 2006"))
		}
		for _, l := range plan.Limits {
			if l.Beyond != pricelist.BuyPack {
				rung.Limits = append(rung.Limits, sayLimit(e, l))
			}
		}
		p.Rungs = append(p.Rungs, rung)
	}
	return p
}

// unset tells which drivers meters look at though nothing sets them.
func (r *request) unset() string {
	if len(r.outcome.Unset) == 0 {
		return ""
	}
	var names []string
	for _, key := range r.outcome.Unset {
		if d, ok := driver(r.outcome, key); ok {
			names = append(names, strings.ToLower(d.Name))
		}
	}
	return "Taken as 0, because this study does not set it: " + list(names) + "."
}
