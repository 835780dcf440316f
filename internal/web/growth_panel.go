package web

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

// driverPanel is all of one driver: its chart, its course in three cases, its season,
// what happens to it, and its history.
type driverPanel struct {
	Key, Path, Name, About, Unit string
	Alt                          string
	Data                         json.RawMessage
	Shape, Then                  editable
	ByMonth                      bool
	Params                       []paramRow
	Season                       []seasonField
	Uneven                       string
	Told                         []toldRow
	Events                       []eventRow
	AddEvent                     *addForm
	CleanEvery, CleanShare       editable
	Outside                      string
	Fit                          *fitView
	May                          bool
	Months                       []monthRow // the three cases in figures
}

// paramRow is what a shape grows by, in the three cases.
type paramRow struct {
	Label               string
	Expected, Low, High editable
}

type seasonField struct {
	Month string
	Field editable
}

type toldRow struct {
	Month  string
	Value  editable
	Remove string
}

type eventRow struct {
	Do, By, Month, Stays, Note editable
	Place                      place
}

type monthRow struct{ Month, Low, Expected, High string }

// fitView is what a history gives.
type fitView struct {
	Says   string
	Takes  bool // it differs from what stands
	Points []fitRow
}

type fitRow struct{ Month, Value, Fitted, Off string }

var shapeLabels = map[string]string{"compound": "by a share each month", "constant": "not at all", "straight": "by as many each month",
	"s-curve":  "along an S, to a ceiling",
	"sign-ups": "by sign-ups, less those who leave", "by month": "as told month by month"}

var doingLabels = map[string]string{string(usage.Adds): "adds", string(usage.Multiplies): "multiplies by", string(usage.Sets): "sets to"}

// relabel gives the choices of a field words of their own.
func (e editable) relabel(words map[string]string) editable {
	for i := range e.Choices {
		if w, ok := words[e.Choices[i].Value]; ok {
			e.Choices[i].Label = w
		}
	}
	return e
}

func (r *request) driverPanel(d *study.Setting) (*driverPanel, error) {
	o, st := r.outcome, r.study()
	known, ok := driver(o, d.Driver)
	if !ok {
		known = usage.Driver{Key: d.Driver, Name: d.Driver}
	}
	path := document.Path("drivers").To(d.Driver)
	p := &driverPanel{Key: d.Driver, Path: string(path), Name: known.Name, About: known.About, Unit: known.Unit, ByMonth: d.Path.Shape == usage.ByMonth,
		May: r.caller.mayEdit("drivers")}
	name := usage.LowerFirst(known.Name)
	p.Shape = r.field(path.To("shape"), "How "+name+" grow").relabel(shapeLabels)
	p.Then = r.field(path.To("then"), "How "+name+" grow after the last month that is told").relabel(shapeLabels)
	p.Params = r.params(path, d, name)
	for i, key := range usage.MonthKeys {
		e := r.field(path.To("season", key), fmt.Sprintf("Season of %s in %s", name, usage.Month(i).Short()))
		p.Season = append(p.Season, seasonField{usage.Month(i).Short(), e})
	}
	p.Uneven = study.SaySeason(&d.Path)
	told := slices.Clone(d.Path.Told)
	slices.SortFunc(told, func(a, b usage.Told) int { return int(a.Month - b.Month) })
	for _, one := range told {
		at := path.To("told", one.Month.ISO(), "value")
		p.Told = append(p.Told, toldRow{one.Month.String(), r.number(at, known.Name+" in "+one.Month.String()), string(at)})
	}
	var keys []string
	for _, e := range d.Path.Events {
		keys = append(keys, e.Key)
	}
	for i, key := range keys {
		at := path.To("events", key)
		of := fmt.Sprintf("of event %d of %s", i+1, name)
		e := eventRow{r.field(at.To("do"), "What it does, "+of).relabel(doingLabels), r.number(at.To("by"), "By how much, "+of), r.field(at.To("month"), "Month "+of),
			r.field(at.To("stays"), "Whether it stays, "+of).relabel(map[string]string{"false": "that month alone", "true": "from then on"}), r.field(at.To("note"), "Note "+of),
			r.placeOf(path.To("events"), of, keys, i)}
		p.Events = append(p.Events, e)
	}
	p.AddEvent = r.adding(path.To("events"), "month", "do", "by", "stays", "note")
	p.AddEvent.titled("Add an event")
	p.AddEvent.set("month", "In", nil)
	p.AddEvent.set("do", "It", []choiceView{{Label: "adds", Value: "add"}, {Label: "multiplies by", Value: "multiply"}, {Label: "sets to", Value: "set"}})
	p.AddEvent.set("by", "So much", nil)
	p.AddEvent.set("stays", "For", []choiceView{{Label: "that month alone", Value: "false"}, {Label: "from then on", Value: "true"}})
	p.AddEvent.set("note", "What it is", nil)
	p.CleanEvery, p.CleanShare = r.field(path.To("clean_every"), "Months between cleanings of "+name), r.field(path.To("clean_share"),
		"Share of "+name+" that a cleaning takes")
	p.Outside = st.SayOutside(&d.Path)
	fit, fitErr := usage.FitGrowth(st.HistoryOf(d.Driver))
	if st.HistoryOf(d.Driver) != nil {
		p.Fit = &fitView{}
		if fitErr != nil {
			p.Fit.Says = fmt.Sprintf("Nothing is fitted to our own %s: %v.", months(len(st.HistoryOf(d.Driver))), fitErr)
		} else {
			p.Fit.Says, p.Fit.Takes = st.SayFit(&fit), len(st.TakeOver(d.Driver)) > 0
			for _, at := range fit.Points {
				p.Fit.Points = append(p.Fit.Points, fitRow{at.Month.String(), show(at.Value), show(at.Fitted), fmt.Sprintf("%+.1f%%", at.Off*100)})
			}
		}
	}
	return p, r.draw(p, d, known, &fit)
}

// params are the fields of the shape that holds, in three cases.
func (r *request) params(path document.Path, d *study.Setting, name string) (all []paramRow) {
	fields := map[usage.Shape][]string{usage.Compound: {"growth"}, usage.Constant: {"now"}, usage.Straight: {"add"}, usage.SCurve: {"growth", "ceiling"},
		usage.Turnover: {"joins", "leaves"}}
	labels := map[string]string{"growth": "Growth a month", "now": "Today", "add": "Added each month", "ceiling": "Ceiling", "joins": "Sign-ups a month",
		"leaves": "Leavers a month"}
	names := fields[d.Path.Ends()]
	if d.Path.Ends() == usage.SCurve {
		labels["growth"] = "Growth a month, at first"
	}
	if names[0] != "now" {
		names = append([]string{"now"}, names...)
	}
	for _, field := range names {
		row := paramRow{Label: labels[field], Low: r.number(path.To("low", field), labels[field]+" of "+name+", low"),
			High: r.number(path.To("high", field), labels[field]+" of "+name+", high")}
		row.Low.Empty, row.High.Empty = "as expected", "as expected"
		if field == "now" || field == "growth" && d.Path.Shape == usage.Compound {
			spot, _ := r.spot(path.To(field)) // it is edited in the table
			row.Expected = editable{Locked: "This is changed in the table.", Value: spot.Shown, Unit: spot.Input.Unit, Label: labels[field]}
		} else {
			row.Expected = r.number(path.To(field), labels[field]+" of "+name)
		}
		all = append(all, row)
	}
	return all
}

// growthData is what the chart of a driver is drawn from: positions as numbers, values as
// they are to be shown.
type growthData struct {
	Name     string       `json:"name"`
	Months   []string     `json:"months"`
	Years    []string     `json:"years"`
	Low      []float64    `json:"low"`
	Expected []float64    `json:"expected"`
	High     []float64    `json:"high"`
	Shown    []string     `json:"shown"`
	Case     string       `json:"case"`
	History  []growthPast `json:"history"`
	Steps    []growthStep `json:"steps"`
	Season   []float64    `json:"season"`
	May      bool         `json:"may"`
	Start    string       `json:"start"`
	ISO      []string     `json:"iso"`
}

// growthPast is a month of the history, so many months from the first of the study.
type growthPast struct {
	T      int     `json:"t"`
	Value  float64 `json:"value"`
	Fitted float64 `json:"fitted"`
	Says   string  `json:"says"`
}

// growthStep is a value at which bills step.
type growthStep struct {
	Value float64 `json:"value"`
	Says  string  `json:"says"`
}

// mostPast is how many months of a history are drawn.
const mostPast = 60

func (r *request) draw(p *driverPanel, d *study.Setting, known usage.Driver, fit *usage.Fit) error {
	o, st := r.outcome, r.study()
	data := growthData{Name: known.Name, Case: st.Case.Say(), May: p.May, History: []growthPast{}, Steps: []growthStep{}, Start: st.Start.ISO()}
	over := func(c usage.Case) []float64 {
		values := bounded(d.Path.Over(usage.When{Start: st.Start, Case: c}, st.Horizon))
		for t, v := range values {
			values[t] = known.Rounded(v)
		}
		return values
	}
	data.Low, data.Expected, data.High = over(usage.Low), over(usage.Expected), over(usage.High)
	if slices.Equal(data.Low, data.Expected) && slices.Equal(data.High, data.Expected) {
		data.Low, data.High = nil, nil
	}
	mine := map[usage.Case][]float64{usage.Low: over(usage.Low), usage.Expected: data.Expected, usage.High: over(usage.High)}
	for t := range st.Horizon {
		m := st.Month(t)
		data.Months, data.ISO, data.Shown = append(data.Months, m.String()), append(data.ISO, m.ISO()), append(data.Shown, show(mine[st.Case][t]))
		year := ""
		if t == 0 || m.Number() == 1 {
			year = fmt.Sprint(m.Year())
		}
		data.Years = append(data.Years, year)
		p.Months = append(p.Months, monthRow{m.String(), show(mine[usage.Low][t]), show(mine[usage.Expected][t]), show(mine[usage.High][t])})
	}
	for i := range d.Path.Season {
		data.Season = append(data.Season, d.Path.Season[i].Float())
	}
	past := st.HistoryOf(d.Driver)
	fitted := map[usage.Month]float64{}
	for _, at := range fit.Points {
		fitted[at.Month] = at.Fitted
	}
	for _, c := range past[max(0, len(past)-mostPast):] {
		data.History = append(data.History, growthPast{int(c.Month - st.Start), c.Value.Float(), fitted[c.Month], fmt.Sprintf("%s: %s counted", c.Month, c.Value.Format())})
	}
	seen := map[float64]bool{}
	room, err := o.Headroom(r.paging(), 0)
	if err != nil {
		return err
	}
	for _, h := range room {
		if until := h.Driver.Value(h.Until); h.Driver.Key == known.Key && !seen[until.Float()] && len(data.Steps) < 3 {
			seen[until.Float()] = true
			data.Steps = append(data.Steps, growthStep{until.Float(), fmt.Sprintf("%s: a step for %s", until.Format(), o.Results[h.Result].Option.Name)})
		}
	}
	p.Alt = fmt.Sprintf("%s month by month: %s in %s, %s in %s.", known.Name, data.Shown[0], data.Months[0], data.Shown[st.Horizon-1], data.Months[st.Horizon-1])
	p.Data, err = json.Marshal(data)
	return err
}

// bounded keeps values within what can be drawn.
func bounded(values []float64) []float64 {
	for i, v := range values {
		if !(v >= 0) {
			values[i] = 0
		}
		values[i] = min(values[i], usage.Most.Float())
	}
	return values
}

// historyView is the form that takes a history.
type historyView struct {
	Driver, Text, Problem string
	Notes                 []string
	May, Open             bool
	Kept                  []string // of which drivers there is one
	Example               string
}

func (r *request) historyView(chosen string) historyView {
	h := historyView{Driver: chosen, May: r.caller.mayEdit("history")}
	for _, one := range r.study().History {
		d, _ := driver(r.outcome, one.Driver)
		h.Kept = append(h.Kept, fmt.Sprintf("%s, %d months", orElse(d.Name != "", d.Name, one.Driver), len(one.Counted)))
	}
	if p := r.problemAt(historyField); p != nil {
		h.Text, h.Problem, h.Open = p.Typed, p.Message, true
	}
	h.Example = "month," + orElse(chosen != "", chosen, "contacts") + "\n2026-01,6120\n2026-02,6230"
	return h
}

const historyField = "history-rows"

// typedMonth reads a month as people type it.
func typedMonth(s string) (usage.Month, error) { return notation.Month.Typed(strings.TrimSpace(s)) }
