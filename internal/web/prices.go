package web

import (
	"fmt"
	"html/template"
	"strings"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
)

type pricesBody struct {
	Base    string
	Say     template.HTML
	Month   string
	Usage   string
	Options []priceOption
	Unset   string
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
		b.Options = append(b.Options, r.priceOption(res, heads[i]))
	}
	var parts []string
	for _, d := range s.Drivers {
		if drv, ok := driver(o, d.Driver); ok && d.Path.Now > 0 {
			parts = append(parts, d.Path.Now.Format()+" "+strings.ToLower(drv.Name))
		}
	}
	b.Usage = strings.Join(parts, ", ")
	b.Unset = r.unset()
	return b, nil
}

func (r *request) priceOption(res *study.Result, head optionHead) priceOption {
	e := res.Option.Edition
	p := priceOption{optionHead: head, Edition: "read " + e.ObservedOn.Format("2 Jan 2006")}
	if res.Stale {
		p.Stale = fmt.Sprintf("%d days old: read it again", res.DaysOld)
	}
	var notes []string
	if e.Tax.Included {
		notes = append(notes, e.Tax.Rate.String()+" tax taken out")
	}
	if rate, ok := r.study().Rates[e.Currency.Code()]; ok && e.Currency != r.study().Currency {
		notes = append(notes, fmt.Sprintf("from %s at %s", e.Currency.Code(), rate.Rate))
	}
	p.Converted = strings.Join(notes, ", ")
	for i := range e.Plans {
		plan := &e.Plans[i]
		rung := priceRung{Name: plan.Name, Taken: res.Today != nil && res.Today.Plan == plan}
		for j := range res.Prices {
			q := &res.Prices[j]
			if q.Plan != plan {
				continue
			}
			price := rungPrice{Term: study.SayTerm(q.Term), Amount: monthlyOf(q)}
			if q.Priced {
				price.Link = fmt.Sprintf("%s/receipts/%s?plan=%s&term=%s", r.base(), res.Option.Key, plan.Key, q.Term.Key)
			}
			rung.Prices = append(rung.Prices, price)
			if len(rung.Prices) == 1 {
				for _, reason := range q.Reasons {
					rung.Why = append(rung.Why, reason.String())
				}
			}
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
