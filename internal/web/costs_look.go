package web

import (
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

// costsHead is what stands above every view of costs: what is looked along, how is
// paid, and which case of growth holds.
type costsHead struct {
	Waits *waitView // what is still worked out; nil: nothing
	Look  []choiceView
	Pay   choiceForm
	Cases choiceForm
}

// costViewKeys are the views of costs beside that along months, by their addresses.
var costViewKeys = [][2]string{{"", "Months"}, {"along", "A driver"}, {"field", "Two drivers"}, {"chance", "Chance"}, {"leaving", "Leaving"},
	{"doing", "To do"}, {"bargain", "Bargain"}}

// costPage is a view of costs with an address of its own.
type costPage struct {
	path string
	coinPage
}

func (s *Server) costPages() []costPage {
	return []costPage{
		{"costs/along", coinPage{"costs", "costs_along", buildAlong}}, {"costs/field", coinPage{"costs", "costs_field", buildField}},
		{"costs/chance", coinPage{"costs", "costs_chance", buildChance}}, {"costs/leaving", coinPage{"costs", "costs_leaving", buildLeaving}},
		{"costs/doing", coinPage{"costs", "costs_doing", buildDoing}}, {"costs/bargain", coinPage{"costs", "costs_bargain", buildBargain}},
	}
}

func (r *request) costsHead(active string) costsHead {
	h := costsHead{Cases: r.cases(), Pay: r.choice("pay", choiceView{Label: "Monthly", Value: string(projection.Monthly)}, choiceView{Label: "Yearly",
		Value: string(projection.Yearly)},
		choiceView{Label: "As today", Value: string(projection.Fixed)}, choiceView{Label: "Cheapest mix", Value: string(projection.Mix)})}
	for _, v := range costViewKeys {
		h.Look = append(h.Look, choiceView{Label: v[1], Link: strings.TrimSuffix(r.base()+"/costs/"+v[0], "/"), Chosen: v[0] == active})
	}
	return h
}

// query is the address of the page with some of its parameters changed: names and values
// in turn; "" leaves one out.
func (r *request) query(path string, change ...string) string {
	q := r.c.Request.URL.Query()
	for i := 0; i+1 < len(change); i += 2 {
		if change[i+1] == "" {
			q.Del(change[i])
		} else {
			q.Set(change[i], change[i+1])
		}
	}
	q.Del("saved")
	if len(q) == 0 {
		return r.base() + path
	}
	return r.base() + path + "?" + q.Encode()
}

// axes are the drivers that prices follow, as links that change one parameter.
func (r *request) axes(path, parameter, chosen string, without string) (all []choiceView) {
	for _, d := range r.outcome.Axes() {
		if d.Key != without {
			all = append(all, choiceView{Label: d.Name, Value: d.Key, Link: r.query(path, parameter, d.Key, "to", ""), Chosen: d.Key == chosen})
		}
	}
	return all
}

// pickDriver is the driver that a parameter names, or the first that prices follow; ""
// where there is none.
func (r *request) pickDriver(parameter, without string) string {
	axes := r.outcome.Axes()
	asked := r.c.Query(parameter)
	if asked != without && slices.ContainsFunc(axes, func(d usage.Driver) bool { return d.Key == asked }) {
		return asked
	}
	for _, d := range axes {
		if d.Key != without {
			return d.Key
		}
	}
	return ""
}

// pickMonth is the month that the parameter "at" names, from 0: the first, or the last
// of the horizon.
func (r *request) pickMonth() int {
	if m, err := typedMonth(r.c.Query("at")); err == nil {
		return max(0, min(r.study().Horizon-1, int(m-r.study().Start)))
	}
	return 0
}

// moments are the months in which the other drivers are held, as links.
func (r *request) moments(path string, month int) (all []choiceView) {
	st := r.study()
	for _, m := range []int{0, st.Horizon / 2, st.Horizon - 1} {
		at := ""
		if m > 0 {
			at = st.Month(m).ISO()
		}
		if len(all) > 0 && all[len(all)-1].Label == st.Month(m).String() {
			continue
		}
		all = append(all, choiceView{Label: st.Month(m).String(), Value: at, Link: r.query(path, "at", at), Chosen: m == month})
	}
	return all
}

// typedEnd is where an axis ends: the parameter, or else a round value above what its
// driver comes to.
func (r *request) typedEnd(parameter string, along study.Axis) (end int64, problem string) {
	usual := r.outcome.Reaches(along)
	asked := r.c.Query(parameter)
	if asked == "" {
		return usual, ""
	}
	plain, err := money.Plain(asked)
	if err == nil {
		var q usage.Quantity
		if q, err = usage.ParseQuantity(plain); err == nil && q <= usage.Of(study.MostAlong/along.Parts) {
			if end = int64(q) * along.Parts / int64(usage.One); end >= 2 {
				return end, ""
			}
		}
	}
	return usual, fmt.Sprintf("%s is not a number from %s to %s; it goes to %s.", quoted(asked), along.Show(2), along.Show(study.MostAlong), along.Show(usual))
}

// faceOf and nameOf are those of a result; of none, nothing.
func (r *request) faceOf(result int) int {
	if result < 0 {
		return 0
	}
	return r.outcome.Results[result].Option.Face
}

func (r *request) nameOf(result int) string {
	if result < 0 {
		return "nothing that serves"
	}
	return r.outcome.Results[result].Option.Name
}

// hiddenQuery are the parameters of the page but some, for a form that asks for one of
// them.
func (r *request) hiddenQuery(without ...string) (all []againField) {
	q := r.c.Request.URL.Query()
	for name, values := range q {
		if !slices.Contains(without, name) && len(values) > 0 && (name == "axis" || name == "who" || name == "per") {
			all = append(all, againField{name, values[0]})
		}
	}
	slices.SortFunc(all, func(a, b againField) int { return strings.Compare(a.Name, b.Name) })
	return all
}
