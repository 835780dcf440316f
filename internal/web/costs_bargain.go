package web

import (
	"fmt"
	"html/template"
	"strings"

	"ninecoins/internal/core/money"
)

type bargainBody struct {
	costsHead
	Say      template.HTML
	Fault    string
	Rows     []bargainRow
	Resale   []resaleRow
	Price    editable
	Form     template.HTML
	Clients  string
	Stacks   []partsView
	Cheapest *cheapestView
	Now      bool // something runs today that could be left
}

type bargainRow struct {
	Face                                int
	Name, Total, Least, Leave, OneMonth string
}

type resaleRow struct {
	Face               int
	Name, Total, Even  string
	First, Last, Worst string
	Loses              bool
}

// partsView is what the parts of a stack cost, and what it makes unneeded.
type partsView struct {
	Face        int
	Name, Total string
	Parts       []toolCost
	Lets        string
}

type toolCost struct{ Name, For, Plan, Month, Total string }

type cheapestView struct{ Says, Plans string }

func buildBargain(r *request) (any, error) {
	o, st := r.outcome, r.study()
	cur := st.Currency
	b := bargainBody{costsHead: r.costsHead("bargain")}
	if there, err := r.waitFor("bargain", &b.costsHead, &b.Fault, "Looking for cuts …", "Look for them"); err != nil || !there {
		b.Say = escaped("Which cut to ask each vendor for.")
		return b, err
	}
	all, err := o.Bargains(r.ctx(), nil)
	if err != nil {
		return nil, err
	}
	b.Say = phrase(o.SayBargains(all))
	base := o.Baseline()
	b.Now = base != nil && base.Result >= 0
	for i := range all {
		one := &all[i]
		res := &o.Results[one.Result]
		row := bargainRow{Face: res.Option.Face, Name: res.Option.Name, Total: cur.FormatWhole(res.Schedule.Total), OneMonth: cur.Format(one.FreeMonth)}
		switch {
		case one.IsLeast:
			row.Least = "costs least already"
		case one.LeastDoes:
			row.Least = one.Least.String() + " off its list"
		default:
			row.Least = "no cut would do"
		}
		switch {
		case !b.Now || one.Result == base.Result:
			row.Leave = "–"
		case base.Until < st.Horizon:
			row.Leave = "today’s does not serve all months"
		case one.Pays:
			row.Leave = "pays at its list's prices"
		case one.LeaveDoes:
			row.Leave = one.Leave.String() + " off its list"
		default:
			row.Leave = "no cut would do: the move alone costs more"
		}
		b.Rows = append(b.Rows, row)
	}
	b.Price = r.number("resale", "What a client pays a month")
	b.Price.Empty = "nothing is sold on"
	b.Form = rowForm(b.Price)
	if err := b.resale(r); err != nil {
		return nil, err
	}
	return b, b.stacks(r)
}

func (b *bargainBody) resale(r *request) error {
	o, cur := r.outcome, r.study().Currency
	all, err := o.Resale(r.ctx())
	if err != nil {
		b.Fault = "Resale cannot be worked out: " + err.Error() + "."
		return nil
	}
	if _, set := o.Model.Path("clients"); !set && len(all) > 0 {
		b.Clients = "No driver counts clients yet: set “Brands” on Growth."
	}
	for i := range all {
		one := &all[i]
		res := &o.Results[one.Result]
		last := len(one.Margin) - 1
		worst := 0
		for t, m := range one.Margin {
			if m < one.Margin[worst] {
				worst = t
			}
		}
		row := resaleRow{Face: res.Option.Face, Name: res.Option.Name, Total: signed(cur, one.Total), First: signed(cur, one.Margin[0]), Last: signed(cur, one.Margin[last]),
			Worst: fmt.Sprintf("%s in %s", signed(cur, one.Margin[worst]), r.study().Month(worst)), Loses: one.Total < 0, Even: "never, up to 500"}
		switch first, even := money.Thousands(uint64(one.First)), money.Thousands(uint64(one.Even)); {
		case one.First > 0 && one.First == one.Even:
			row.Even = first
		case one.Even > 0:
			row.Even = fmt.Sprintf("%s; always from %s on", first, even)
		case one.First > 0:
			row.Even = first + ", but not always above"
		}
		b.Resale = append(b.Resale, row)
	}
	return nil
}

func (b *bargainBody) stacks(r *request) error {
	o, st, cur := r.outcome, r.study(), r.study().Currency
	for i := range o.Results {
		res := &o.Results[i]
		if !res.Option.Stack() || res.AtFault {
			continue
		}
		v := partsView{Face: res.Option.Face, Name: res.Option.Name, Total: cur.FormatWhole(res.Schedule.Total)}
		for k := range res.Tools {
			t := &res.Tools[k]
			part := toolCost{Name: t.Tool.Edition.Platform.Name, For: t.Tool.For, Plan: "nothing serves", Month: "–", Total: cur.FormatWhole(t.Schedule.Total)}
			if st.LacksRate(t.Tool.Edition.Currency) {
				part.Plan = "no rate"
			}
			if m := &t.Schedule.Months[0]; m.Serves {
				part.Plan, part.Month = m.Plan().Name, cur.Format(m.Monthly())
			}
			v.Parts = append(v.Parts, part)
		}
		var names []string
		for _, run := range st.Running {
			for _, key := range res.Option.Lets {
				if key == run.Key {
					names = append(names, fmt.Sprintf("%s (%s a month)", run.Name, cur.Format(run.Cost)))
				}
			}
		}
		v.Lets = list(names)
		b.Stacks = append(b.Stacks, v)
	}
	best, err := o.BestStack()
	if err != nil || len(best.Tools) == 0 {
		return nil // what keeps it from being found is told on the line-up
	}
	var plans []string
	for i, t := range best.Tools {
		plan, _ := t.Edition.Plan(t.Plan)
		plans = append(plans, t.Edition.Platform.Name+", "+plan.Name+best.With[i])
	}
	b.Cheapest = &cheapestView{fmt.Sprintf("The cheapest way to meet all musts with the platforms in the line-up costs %s a month:",
		cur.Format(best.Month)), strings.Join(plans, " + ")}
	return nil
}
