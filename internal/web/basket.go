package web

import (
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
)

// basketView sets all plans of all options on the same usage into one table.
type basketView struct {
	Ranges []string // "€47 to €77" per option
	Sorts  []choiceView
	Rows   []basketRow
	Only   []choiceView
}

type basketRow struct {
	Name, Plan, Term, Month, AtOnce, Why, Link string
	Face                                       int
	Serves, Taken                              bool
	Uneven                                     []string

	monthly money.Amount
	rank    int
}

var basketSorts = [][2]string{{"", "Price"}, {"option", "Option"}, {"plan", "Plan"}, {"term", "Term"}}

func (r *request) basket(heads []optionHead) *basketView {
	cur := r.study().Currency
	v := &basketView{}
	sort, all := r.c.Query("sort"), r.c.Query("rows") == "all"
	link := func(sort string, all bool) string {
		text := r.base() + "/prices?view=basket"
		if sort != "" {
			text += "&sort=" + sort
		}
		if all {
			text += "&rows=all"
		}
		return text
	}
	for _, one := range basketSorts {
		v.Sorts = append(v.Sorts, choiceView{Label: one[1], Link: link(one[0], all), Chosen: one[0] == sort || one[0] == "" && !slices.ContainsFunc(basketSorts, func(o [2]string) bool { return o[0] == sort })})
	}
	v.Only = []choiceView{{Label: "What serves", Link: link(sort, false), Chosen: !all}, {Label: "All", Link: link(sort, true), Chosen: all}}
	low, high := map[int]money.Amount{}, map[int]money.Amount{}
	for i, b := range r.outcome.Baskets() {
		q, head := &b.Receipt, heads[b.Result]
		row := basketRow{Name: head.Name, Face: head.Face, Plan: q.Plan.Name, Term: study.SayTerm(q.Term), Serves: q.May(), Taken: b.Taken, Uneven: b.Uneven, rank: i, monthly: q.Monthly()}
		if r.outcome.Results[b.Result].Option.Stack() {
			row.Plan = r.outcome.Results[b.Result].Tools[b.Tool].Tool.Edition.Platform.Name + ", " + row.Plan
		}
		row.Month = monthlyOf(q)
		if q.Priced {
			row.Link = fmt.Sprintf("%s/receipts/%s?plan=%s&term=%s&tool=%d", r.base(), head.Key, q.Plan.Key, q.Term.Key, b.Tool)
			if q.Period != 1 {
				row.AtOnce = cur.Format(q.Settled)
			}
		}
		if row.Serves {
			if was, seen := low[b.Result]; !seen || row.monthly < was {
				low[b.Result] = row.monthly
			}
			high[b.Result] = max(high[b.Result], row.monthly)
		} else {
			var why []string
			for _, reason := range q.Reasons {
				if reason.Kind != quote.MustMissing && reason.Kind != quote.MustNotKnown {
					why = append(why, r.study().SayWhy(reason))
				}
			}
			row.Why = strings.Join(why, ", ")
			if !all {
				continue
			}
		}
		v.Rows = append(v.Rows, row)
	}
	for i, head := range heads {
		if l, ok := low[i]; ok {
			text := head.Name + " " + cur.Format(l)
			if h := high[i]; h > l {
				text += " to " + cur.Format(h)
			}
			v.Ranges = append(v.Ranges, text)
		}
	}
	slices.SortStableFunc(v.Rows, func(a, b basketRow) int {
		switch sort {
		case "option":
			return a.rank - b.rank
		case "plan":
			return strings.Compare(strings.ToLower(a.Plan), strings.ToLower(b.Plan))
		case "term":
			if c := strings.Compare(a.Term, b.Term); c != 0 {
				return c
			}
		}
		switch {
		case a.Serves != b.Serves:
			return map[bool]int{true: -1, false: 1}[a.Serves]
		case a.monthly < b.monthly:
			return -1
		case a.monthly > b.monthly:
			return 1
		}
		return a.rank - b.rank
	})
	return v
}

// termsView is one plan by the ways of paying for it.
type termsView struct {
	optionHead
	Plan string
	Rows []termRow
	One  string // why there is nothing to choose
}

type termRow struct {
	Term, Month, AtOnce, Saves, From, Link string
	Lost                                   []string
	Paid                                   bool // so it is paid today
}

func (r *request) terms(heads []optionHead) (all []termsView) {
	cur := r.study().Currency
	for i := range r.outcome.Results {
		res := &r.outcome.Results[i]
		for at := range res.Tools {
			t := &res.Tools[at]
			v := termsView{optionHead: heads[i]}
			if res.Option.Stack() {
				v.Name += ": " + t.Tool.Edition.Platform.Name
			}
			if t.Today == nil {
				if v.One = "No plan serves today's usage."; r.outcome.NoRate(res) != "" {
					v.One = capital(r.outcome.SayNoPrice(res)) + "."
				}
				all = append(all, v)
				continue
			}
			v.Plan = t.Today.Plan.Name
			ways := r.outcome.Terms(res, at)
			if len(ways) == 0 {
				v.One = "It is sold " + study.SayTerm(t.Today.Term) + " alone, at " + monthlyOf(t.Today) + " a month."
			}
			for _, w := range ways {
				q := &w.Receipt
				row := termRow{Term: study.SayTerm(q.Term), Month: monthlyOf(q), Paid: q.Term.Key == t.Today.Term.Key,
					Link: fmt.Sprintf("%s/receipts/%s?plan=%s&term=%s&tool=%d", r.base(), res.Option.Key, q.Plan.Key, q.Term.Key, at)}
				if q.Period != 1 {
					row.AtOnce = cur.Format(w.AtOnce)
				}
				if w.Saves != 0 {
					row.Saves = fmt.Sprintf("%s, %.0f%%", cur.Format(w.Saves), 100*w.Share)
					if w.Saves < 0 {
						row.Saves = fmt.Sprintf("%s more", cur.Format(-w.Saves))
					}
				}
				switch {
				case w.From > r.study().Horizon:
					row.From = fmt.Sprintf("month %d, past the horizon", w.From)
				case w.From > 0:
					row.From = fmt.Sprintf("month %d (%s)", w.From, r.study().Month(w.From-1))
				case q.Period != 1 && len(ways) > 1:
					row.From = "never"
				}
				for _, l := range w.Lost {
					if l.More > 0 {
						row.Lost = append(row.Lost, fmt.Sprintf("after %d months: %s lost", l.After, cur.Format(l.More)))
					} else {
						row.Lost = append(row.Lost, fmt.Sprintf("after %d months: still %s ahead", l.After, cur.Format(-l.More)))
					}
				}
				v.Rows = append(v.Rows, row)
			}
			all = append(all, v)
		}
	}
	return all
}

// priceCurve follows the plans of one option along a driver.
func (r *request) priceCurve(b *pricesBody, heads []optionHead) {
	o := r.outcome
	asked := r.c.Query("of")
	var res *study.Result
	for i := range o.Results {
		one := &o.Results[i]
		if one.AtFault {
			continue
		}
		b.Of = append(b.Of, choiceView{Label: heads[i].Name, Link: b.Base + "/prices?view=curve&of=" + one.Option.Key, Chosen: one.Option.Key == asked})
		if one.Option.Key == asked || res == nil {
			res = one
		}
	}
	if res == nil {
		return
	}
	for i := range b.Of {
		b.Of[i].Chosen = strings.HasSuffix(b.Of[i].Link, "&of="+res.Option.Key)
	}
	t := &res.Tools[0]
	tried, err := study.Try(t.Tool.Edition, o, nil)
	if err != nil || len(tried.Drivers) == 0 {
		return
	}
	at := slices.IndexFunc(tried.Drivers, func(d usage.Driver) bool { return d.Key == r.c.Query("along") })
	if at < 0 {
		at = mainDriver(t.Tool.Edition, tried)
	}
	d := tried.Drivers[at]
	deal := tariff.Deal{Musts: t.Musts, Basis: quote.Basis{Currency: r.study().Currency, Rates: r.study().Rates}}
	c, err := curveAlong(t.Tool.Edition, deal, tried, d, reach(t.Tool.Edition, d.Key, tried.Values[d.Key]))
	if err != nil {
		return
	}
	for _, one := range tried.Drivers {
		if len(tried.Drivers) > 1 {
			c.Along = append(c.Along, choiceView{Label: one.Name, Link: b.Base + "/prices?view=curve&of=" + res.Option.Key + "&along=" + one.Key, Chosen: one.Key == d.Key})
		}
	}
	b.Curve = c
}
