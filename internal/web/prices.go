package web

import (
	"html/template"
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
)

type pricesBody struct {
	Base    string
	Say     template.HTML
	Unsaid  string // counted as unlimited
	Month   string
	Usage   string
	Views   []choiceView
	View    string
	Options []priceOption
	Basket  *basketView
	Terms   []termsView
	Curve   *curveView
	Of      []choiceView // options whose curve is drawn
	Unset   string
	Private []privateRow
	Add     *addForm     // a private offer
	Ask     []choiceView // plans for which something may be quoted
	AskSays string
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

// priceViews are the ways in which prices are looked at.
var priceViews = [][2]string{{"", "Plan by plan"}, {"basket", "Same basket"}, {"terms", "By the month or ahead"}, {"curve", "As usage grows"}}

func (sv *Server) buildPrices(r *request) (any, error) {
	s, o := r.study(), r.outcome
	b := pricesBody{Base: r.base(), Month: s.Start.String(), Say: phrase(o.SayPrices()), Unsaid: o.SayUnsaid()}
	b.View = r.c.Query("view")
	if !slices.ContainsFunc(priceViews, func(v [2]string) bool { return v[0] == b.View }) {
		b.View = ""
	}
	for _, v := range priceViews {
		b.Views = append(b.Views, choiceView{Label: v[1], Link: b.Base + "/prices" + orElse(v[0] != "", "?view="+v[0], ""), Chosen: v[0] == b.View})
	}
	newer, err := sv.newerLists(r)
	if err != nil {
		return nil, err
	}
	heads := r.heads()
	switch b.View {
	case "basket":
		b.Basket = r.basket(heads)
	case "terms":
		b.Terms = r.terms(heads)
	case "curve":
		r.priceCurve(&b, heads)
	default:
		for i := range o.Results {
			res := &o.Results[i]
			for at := range res.Tools {
				b.Options = append(b.Options, r.priceOption(res, at, heads[i], newer, sv.rates.latest(s.Today)))
			}
		}
	}
	var parts []string
	for _, d := range s.Drivers {
		if drv, ok := driver(o, d.Driver); ok && d.Path.Now > 0 {
			parts = append(parts, s.SayValue(drv, d.Path.Now))
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
	var asked []string
	var better []choiceView
	for i := range s.Options {
		o := &s.Options[i]
		options[o.Key] = o
		for _, t := range o.Tools() {
			for _, p := range t.Edition.Plans {
				if p.Offered == pricelist.Closed || t.Plan != "" && t.Plan != p.Key {
					continue
				}
				one := choiceView{Label: o.Name + ", " + p.Name, Value: o.Key + " " + p.Key}
				if p.Offered == pricelist.OnRequest {
					asked = append(asked, one.Label)
					b.Ask = append(b.Ask, one)
				} else {
					one.Label += ", better terms than its list"
					better = append(better, one)
				}
			}
		}
	}
	b.Ask = append(b.Ask, better...)
	if len(asked) > 0 {
		b.AskSays = list(asked) + ": the price is on request."
	} else if len(better) > 0 {
		b.AskSays = "Did somebody quote you better terms than the list?"
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
