package web

import (
	"encoding/json"
	"fmt"
	"html/template"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
)

type leavingBody struct {
	costsHead
	Say    template.HTML
	Fault  string
	Stay   string
	Rows   []leavingRow
	Road   string
	Every  string // in every how many months moves are looked at; "": in each
	RoadIs string
	Legs   []legView
	Chart  *curveView
	Hour   editable
	Form   template.HTML
	Pair   []choiceView
	With   []choiceView
	PairIs string
	Months []pairRow
	May    bool
}

// leavingRow is what leaving for an option means, with what it takes.
type leavingRow struct {
	Face                                 int
	Name, Link                           string
	Hours, Money, Twice, Rebuilt, Notice editable
	Work, Beside, Saves, PaidBack        string
	Best, Quarter                        string
	Worth, Loses                         bool
	Form                                 template.HTML
	Out                                  string
}

type legView struct {
	Face               int
	Name, From, To     string
	Moves, Costs, Pays string
}

type pairRow struct{ Month, Total, Against string }

func buildLeaving(r *request) (any, error) {
	b := leavingBody{costsHead: r.costsHead("leaving"), May: r.caller.mayEdit("options")}
	o, st := r.outcome, r.study()
	base := o.Baseline()
	if there, err := r.waitFor("leaving", &b.costsHead, &b.Fault, "Weighing moves …", "Weigh them"); err != nil || !there {
		if b.Say = escaped("What it means to leave what runs today, for every option and in every month."); base == nil || base.Result < 0 {
			b.Say = phrase(o.SayLeaving(nil))
		}
		return b, err
	}
	all, err := o.Leaving(r.ctx())
	if err != nil {
		return nil, err
	}
	b.Say = phrase(o.SayLeaving(all))
	b.Hour = r.number("hour_cost", "What an hour of our time costs")
	b.Form = rowForm(b.Hour)
	cur := st.Currency
	if base != nil {
		b.Stay = cur.FormatWhole(base.Total)
	}
	for i := range all {
		b.Rows = append(b.Rows, r.leavingRow(&all[i]))
	}
	return b, b.roads(r, base)
}

func (r *request) leavingRow(l *study.Leaving) leavingRow {
	st, cur := r.study(), r.study().Currency
	res := &r.outcome.Results[l.Result]
	path := document.Path("options").To(res.Option.Key, "move")
	name := res.Option.Name
	row := leavingRow{Face: res.Option.Face, Name: name, Link: r.base() + "/options/" + res.Option.Key, Hours: r.field(path.To("hours"), "Hours to move to "+name),
		Money: r.number(path.To("money"), "Paid for the move to "+name), Twice: r.field(path.To("twice"), "Months of paying twice for "+name),
		Rebuilt: r.field(path.To("rebuilt"), "What is rebuilt for "+name), Notice: r.field(path.To("notice"), "Days of notice of "+name),
		Work: cur.FormatWhole(l.Work), Beside: cur.FormatWhole(l.Beside), Worth: l.Saves > 0 && l.PaidBack > 0, Loses: l.Compares && (l.Saves <= 0 || l.PaidBack == 0)}
	row.Hours.Empty, row.Twice.Empty, row.Money.Empty, row.Rebuilt.Empty = "0", "0", "0", "what is rebuilt"
	row.Form = rowForm(row.Hours)
	switch {
	case !l.Served:
		row.Saves = "–"
	case !l.Compares:
		row.Saves = cur.FormatWhole(l.Total) + " with the move"
	case l.Saves >= 0:
		row.Saves = "saves " + cur.FormatWhole(l.Saves)
	default:
		row.Saves = "costs " + cur.FormatWhole(-l.Saves) + " more"
	}
	row.PaidBack = "never within the horizon"
	if !l.Compares {
		row.PaidBack = "not to be told: not both serve all months"
	}
	if l.PaidBack > 0 {
		row.PaidBack = "by the end of " + st.Month(l.PaidBack-1).String()
	}
	row.Best = "better not at all"
	if l.Best < st.Horizon {
		row.Best = st.Month(l.Best).String()
		row.Quarter = "waiting a quarter longer costs nothing"
		switch {
		case l.Best+3 > st.Horizon, !l.Looked:
			row.Quarter = ""
		case !l.Waits:
			row.Quarter = "waiting a quarter longer leaves months unserved"
		case l.Quarter > 0:
			row.Quarter = "waiting a quarter longer costs " + cur.FormatWhole(l.Quarter)
		}
	}
	if !l.Served {
		row.Out = "It cannot serve all months."
	}
	if !res.In() && len(res.Standing.Out) > 0 {
		row.Out = capital(res.Standing.Out[0]) + "."
	}
	if r.outcome.NoRate(res) != "" {
		row.PaidBack, row.Best = "–", "–"
	}
	return row
}

// roads tells the cheapest road over all options, and of a pair the best month to move.
func (b *leavingBody) roads(r *request, base *study.Baseline) error {
	o, st, cur := r.outcome, r.study(), r.study().Currency
	roads, err := o.Roads(r.ctx(), nil)
	if err != nil || len(roads.Results) == 0 {
		return err
	}
	if n := roads.Every(); n > 1 {
		b.Every = fmt.Sprint(n)
	}
	road, ok := roads.Cheapest()
	if ok && road.Unserved() == 0 {
		b.Road, b.RoadIs = o.SayRoad(road, roads.Results), cur.Format(road.Total)
		for _, leg := range road.Legs {
			res := roads.Results[leg.Option]
			b.Legs = append(b.Legs, legView{Face: r.faceOf(res), Name: r.nameOf(res), From: st.Month(leg.From).String(), To: st.Month(leg.To).String(),
				Moves: cur.Format(leg.In + leg.Beside), Costs: cur.Format(leg.Costs)})
		}
	}
	from, to := r.pair(roads, base)
	if from < 0 || to < 0 {
		return nil
	}
	for k, i := range roads.Results {
		name, key := r.nameOf(i), o.Results[i].Option.Key
		b.Pair = append(b.Pair, choiceView{Label: name, Link: r.query("/costs/leaving", "from", key), Chosen: k == from})
		if k != from {
			b.With = append(b.With, choiceView{Label: name, Link: r.query("/costs/leaving", "into", key), Chosen: k == to})
		}
	}
	for _, k := range []int{from, to} {
		if none := o.SayNoPrice(&o.Results[roads.Results[k]]); none != "" {
			b.PairIs = r.nameOf(roads.Results[k]) + " " + none + "."
			return nil
		}
	}
	month, best, _ := roads.BestMonth(from, to)
	a, z := r.nameOf(roads.Results[from]), r.nameOf(roads.Results[to])
	of := "Beginning on " + a
	if roads.Every() > 1 {
		of += ", and of the months looked at"
	}
	b.PairIs = fmt.Sprintf("%s, it costs least not to move to %s at all: %s.", of, z, cur.Format(best.Total))
	if month < st.Horizon {
		b.PairIs = fmt.Sprintf("%s, %s is the best month to move to %s: %s over the horizon, the move counted.", of, st.Month(month), z, cur.Format(best.Total))
	}
	if month == 0 {
		b.PairIs = fmt.Sprintf("%s, it is best to move to %s at once, in %s: %s over the horizon, the move counted.", of, z, st.Month(0), cur.Format(best.Total))
	}
	if best.Unserved() > 0 {
		b.PairIs += " Some months have nothing that serves even so."
	}
	var points []pairPoint
	for t := range st.Horizon + 1 {
		pair, looked := roads.Pair(from, to, t)
		if !looked {
			continue
		}
		row := pairRow{Month: "not at all", Total: cur.Format(pair.Total), Against: signed(cur, pair.Total-best.Total)}
		if pair.Unserved() > best.Unserved() {
			pair.Total, row.Total, row.Against = -1, "leaves months unserved", "–"
		}
		points = append(points, pairPoint{t, pair.Total})
		if t < st.Horizon {
			row.Month = st.Month(t).String()
		}
		b.Months = append(b.Months, row)
	}
	b.Chart, err = r.pairChart(points, roads.Results[to], a, z, month)
	return err
}

// pair is which two options a road is looked at between: those of the address, else what
// runs today and what is cheapest.
func (r *request) pair(roads *study.Roads, base *study.Baseline) (from, to int) {
	of := func(key string) int {
		for k, i := range roads.Results {
			if r.outcome.Results[i].Option.Key == key {
				return k
			}
		}
		return -1
	}
	from, to = of(r.c.Query("from")), of(r.c.Query("into"))
	if from < 0 && base != nil {
		from = roads.Of(base.Result)
	}
	if from < 0 {
		from = 0
	}
	if to < 0 || to == from {
		to = roads.Of(r.outcome.Cheapest)
	}
	for k := range roads.Results {
		if (to < 0 || to == from) && k != from {
			to = k
		}
	}
	if to == from {
		return from, -1
	}
	return from, to
}

// pairPoint is what the horizon costs with a move in a month that was looked at; -1 where
// more months are left unserved than need be. A move after the last month is none.
type pairPoint struct {
	month int
	total money.Amount
}

// pairChart draws what the horizon costs by the month of the move.
func (r *request) pairChart(points []pairPoint, result int, from, to string, best int) (*curveView, error) {
	st := r.study()
	n := int64(st.Horizon - 1)
	if n < 1 {
		return nil, nil
	}
	d := curveData{Label: "Month of the move", Sign: st.Currency.Symbol(), High: n, Now: int64(best)}
	if best <= int(n) {
		d.NowIs = "least: " + st.Month(best).String()
	}
	for t := 0; t < st.Horizon; t += max(1, st.Horizon/6) {
		d.Ticks = append(d.Ticks, curveTick{int64(t), st.Month(t).String()})
	}
	s := curveSeries{Name: to, Face: r.faceOf(result), Parts: [][4]float64{}}
	for k := 1; k < len(points)-1; k++ {
		if a, b := points[k-1], points[k]; a.total >= 0 && b.total >= 0 {
			s.Parts = append(s.Parts, [4]float64{float64(a.month), whole(a.total), float64(b.month), whole(b.total)})
		}
	}
	d.Series = []curveSeries{s}
	if stay := points[len(points)-1].total; stay >= 0 {
		d.Series = append(d.Series, curveSeries{Name: "staying", Shade: 5, Parts: [][4]float64{{0, whole(stay), float64(n), whole(stay)}}})
	}
	c := &curveView{Title: fmt.Sprintf("What moving from %s to %s costs, by month", from, to)}
	c.Alt = c.Title + "."
	var err error
	c.Data, err = json.Marshal(d)
	return c, err
}
