package web

import (
	"encoding/json"
	"fmt"
	"html/template"
	"net/url"
	"slices"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

type costsBody struct {
	costsHead
	Base    string
	Say     template.HTML
	Nothing string        // what is counted as 0
	Rests   string        // offers that the cheapest rests on
	Falls   []string      // what falls away by options
	Beside  template.HTML // what doing nothing costs, and other cases of growth
	Show    []choiceView
	As      []choiceView
	Table   bool
	Data    json.RawMessage
	Alt     string
	Events  []eventView
	Still   string // where there are none
	Usage   string // the driver whose values stand beside the months; "" where prices follow none
	Months  []costRow
	Heads   []optionHead
	Totals  []costCell
	InCases []caseTotals
	Notes   []string
	Files   string
	View    string
}

// caseTotals are what options cost in all in another case of growth.
type caseTotals struct {
	Name  string
	Cells []costCell
}

type choiceView struct {
	Label, Value, Link string
	Chosen             bool
}

type eventView struct {
	Month, Delta, Name, Text, Link string
	T, Face                        int
	Worse                          bool
}

// costRow is a month of the table. Its cells are written here, not in the
// template: escaping by context is what a wide table costs.
type costRow struct {
	Month string
	Usage string
	Cells template.HTML
}

type costCell struct {
	Text, Link, Plan string
	Least, Step      bool
}

func (c costCell) write(to *strings.Builder) {
	to.WriteString(`<td class="number`)
	if c.Least {
		to.WriteString(" least")
	}
	if c.Step {
		to.WriteString(" step")
	}
	to.WriteString(`">`)
	if c.Link == "" {
		to.WriteString(template.HTMLEscapeString(c.Text))
	} else {
		for _, part := range [...]string{`<a href="`, template.HTMLEscapeString(c.Link), `" data-receipt title="`, template.HTMLEscapeString(c.Plan), `">`,
			template.HTMLEscapeString(c.Text), "</a>"} {
			to.WriteString(part)
		}
	}
	to.WriteString("</td>")
}

// view is one of the three ways to look at the same schedule.
type costView struct {
	key, label string
	amount     func(projection.Month) money.Amount
}

var costViews = []costView{
	{"month", "Per month", func(m projection.Month) money.Amount { return m.Accrued }},
	{"running", "Running total", func(m projection.Month) money.Amount { return m.Running }},
	{"cash", "Cash out", func(m projection.Month) money.Amount { return m.Cash }},
}

func buildCosts(r *request) (any, error) {
	s, o := r.study(), r.outcome
	if s.HasCases() { // which is a page's work, and waits for no other
		if _, err := o.Cases(r.c.Request.Context()); err != nil {
			return nil, err
		}
	}
	view := costViews[0]
	for _, v := range costViews {
		if r.c.Query("show") == v.key {
			view = v
		}
	}
	table := r.c.Query("as") == "table"
	b := costsBody{costsHead: r.costsHead(""), Base: r.base(), Say: phrase(o.SayCosts()), Beside: phrase(o.SayBeside()), Nothing: o.SayAtNothing(), Table: table, Heads: r.heads(), View: view.label,
		Alt: strings.TrimSpace(view.label + ", a line for each option. " + o.SayCosts().String() + " " + o.SayLeads())}
	if o.Cheapest >= 0 {
		b.Rests = o.SayRests(&o.Results[o.Cheapest])
	}
	for i := range o.Results {
		if says := s.SayFalls(&o.Results[i].Option); says != "" {
			b.Falls = append(b.Falls, says)
		}
	}
	link := func(show string, table bool) string {
		q := url.Values{}
		if show != costViews[0].key {
			q.Set("show", show)
		}
		if table {
			q.Set("as", "table")
		}
		if len(q) == 0 {
			return r.base() + "/costs"
		}
		return r.base() + "/costs?" + q.Encode()
	}
	for _, v := range costViews {
		b.Show = append(b.Show, choiceView{Label: v.label, Link: link(v.key, table), Chosen: v.key == view.key})
	}
	b.As = []choiceView{{Label: "Lines", Link: link(view.key, false), Chosen: !table}, {Label: "Table", Link: link(view.key, true), Chosen: table}}
	for _, e := range o.Events() {
		b.Events = append(b.Events, r.event(e))
	}
	b.Still = "Nothing changes: every bill stays as it is through the horizon."
	if slices.ContainsFunc(o.Results, varies) {
		b.Still = "No plan changes, no offer ends and no step comes: bills follow what is used."
	}
	driver := r.counted()
	b.Usage = driver.Name
	for t := range s.Horizon {
		b.Months = append(b.Months, r.costRow(t, view, driver.Key))
	}
	for i := range o.Results {
		res := &o.Results[i]
		total := res.Schedule.Total
		if view.key == "cash" {
			total += res.Schedule.Ahead
		}
		b.Totals = append(b.Totals, costCell{Text: s.Currency.Format(total), Link: r.base() + "/options/" + res.Option.Key, Least: i == o.Cheapest})
		if res.Schedule.Beyond > 0 {
			b.Notes = append(b.Notes, res.Option.Name+": "+o.SayBeyond(res, view.key == "cash")+".")
		}
	}
	b.InCases, b.Files = r.inCases(), r.base()+"/costs/take/months"
	b.Notes = append(b.Notes, r.once()...)
	var err error
	b.Data, err = json.Marshal(r.chart(view))
	return b, err
}

// varies reports whether some month of an option costs another amount than the first.
func varies(res study.Result) bool {
	return slices.ContainsFunc(res.Schedule.Months, func(m projection.Month) bool { return m.Accrued != res.Schedule.Months[0].Accrued })
}

// inCases are the totals in the other cases of growth, where any driver has them.
func (r *request) inCases() (all []caseTotals) {
	st, o := r.study(), r.outcome
	if !st.HasCases() {
		return nil
	}
	names := map[usage.Case]string{usage.Low: "Slow growth", usage.Expected: "Expected growth", usage.High: "Fast growth"}
	for _, c := range usage.Cases() {
		if c == st.Case {
			continue
		}
		row, other := caseTotals{Name: names[c]}, o.InCase(c)
		for i := range other.Results {
			res := &other.Results[i]
			cell := costCell{Text: st.Currency.Format(res.Schedule.Total), Least: i == other.Cheapest}
			if !res.Schedule.Serves() {
				cell.Text = "not all months"
			}
			row.Cells = append(row.Cells, cell)
		}
		all = append(all, row)
	}
	return all
}

// once tells what options charge once, and what is lost on the way.
func (r *request) once() (notes []string) {
	st := r.study()
	for i := range r.outcome.Results {
		res := &r.outcome.Results[i]
		for t := range res.Schedule.Months {
			m := &res.Schedule.Months[t]
			for _, part := range m.Parts() {
				if when := "at signing"; part.Once > 0 {
					if !part.Signed() {
						when = "as an add-on begins"
					}
					notes = append(notes, fmt.Sprintf("%s: %s is charged once %s, in %s.", res.Option.Name, st.Currency.Format(part.Once), when, st.Month(t)))
				}
			}
			if m.Lost > 0 {
				notes = append(notes, fmt.Sprintf("%s: %s paid ahead is lost in %s.", res.Option.Name, st.Currency.Format(m.Lost), st.Month(t)))
			}
		}
	}
	if n := len(notes); n > mostOnce {
		notes = append(notes[:mostOnce], fmt.Sprintf("And %d more such charges and losses; receipts tell each.", n-mostOnce))
	}
	return notes
}

// mostOnce is how many charges at signing and losses are told one by one.
const mostOnce = 8

func (r *request) event(e study.Event) eventView {
	s, res := r.study(), &r.outcome.Results[e.Result]
	v := eventView{Month: s.Month(e.Month).String(), T: e.Month, Name: res.Option.Name, Face: res.Option.Face, Text: e.Say(), Link: r.receiptLink(res, e.Month)}
	v.Worse = e.Delta > 0
	if e.Gap {
		v.Link = r.base() + "/options/" + res.Option.Key
		return v
	}
	v.Delta = signed(s.Currency, e.Delta) + "/mo"
	return v
}

func signed(c money.Currency, a money.Amount) string {
	if a > 0 {
		return "+" + c.Format(a)
	}
	return c.Format(a)
}

func (r *request) receiptLink(res *study.Result, t int) string {
	return r.receiptIn(res, r.study().Month(t).ISO())
}

func (r *request) receiptIn(res *study.Result, month string) string {
	return r.base() + "/receipts/" + res.Option.Key + "?month=" + month
}

// counted is the driver whose values are shown beside costs: the first that prices follow; none where
// they follow none.
func (r *request) counted() (d usage.Driver) {
	if axes := r.outcome.Axes(); len(axes) > 0 {
		d = axes[0]
	}
	return d
}

func (r *request) costRow(t int, view costView, driver string) costRow {
	s, o := r.study(), r.outcome
	row := costRow{Month: s.Month(t).String()}
	if driver != "" {
		row.Usage = show(o.Values.Of(driver)[t])
	}
	var cells strings.Builder
	cells.Grow(200 * len(o.Results))
	lead, month := -1, s.Month(t).ISO()
	for _, l := range o.Leads {
		if l.From <= t && t <= l.To {
			lead = l.Result
		}
	}
	for i := range o.Results {
		res := &o.Results[i]
		m := res.Schedule.Months[t]
		if !m.Serves {
			costCell{Text: "–"}.write(&cells)
			continue
		}
		cell := costCell{Text: s.Currency.Format(view.amount(m)), Link: r.receiptIn(res, month), Plan: m.Called(), Least: i == lead && view.key == "month"}
		for _, step := range res.Schedule.Steps {
			cell.Step = cell.Step || step.Month == t
		}
		cell.write(&cells)
	}
	row.Cells = template.HTML(cells.String())
	return row
}

// chartData is what the cost lines are drawn from: positions as numbers, words
// and amounts as they are to be shown.
type chartData struct {
	Months  []string      `json:"months"`
	Short   []string      `json:"short"`
	Years   []string      `json:"years"` // set where a year begins
	Usage   []string      `json:"usage"`
	View    string        `json:"view"`
	Sign    string        `json:"sign"`
	Options []chartOption `json:"options"`
	Marks   []int         `json:"marks"` // months in which something changes
}

type chartOption struct {
	Key    string     `json:"key"`
	Name   string     `json:"name"`
	Face   int        `json:"face"`
	Out    bool       `json:"out"`
	Now    bool       `json:"now"`
	Values []*float64 `json:"values"`
	Shown  []string   `json:"shown"`
	Plans  []string   `json:"plans"`
	Blocks []block    `json:"blocks"`
	None   string     `json:"none,omitempty"` // why it has no value, where that is not that nothing serves
}

// block is a run of months on one plan: a piece of the ribbon.
type block struct {
	From int    `json:"from"`
	To   int    `json:"to"`
	Name string `json:"name"`
	Rank int    `json:"rank"` // of the plan in its list, for the shade
	Of   int    `json:"of"`
}

func (r *request) chart(view costView) chartData {
	s, o := r.study(), r.outcome
	driver := r.counted()
	d := chartData{View: view.label, Sign: s.Currency.Symbol(), Options: []chartOption{}, Marks: []int{}}
	for t := range s.Horizon {
		m := s.Month(t)
		d.Months, d.Short = append(d.Months, m.String()), append(d.Short, m.Short())
		year := ""
		if t == 0 || m.Number() == 1 {
			year = fmt.Sprint(m.Year())
		}
		d.Years = append(d.Years, year)
		shown := ""
		if driver.Key != "" {
			shown = show(o.Values.Of(driver.Key)[t]) + " " + usage.LowerFirst(driver.Name)
		}
		d.Usage = append(d.Usage, shown)
	}
	for i := range o.Results {
		d.Options = append(d.Options, chartLine(o, &o.Results[i], view))
	}
	last := -1
	for _, e := range o.Events() {
		if e.Month != last {
			d.Marks = append(d.Marks, e.Month)
			last = e.Month
		}
	}
	return d
}

func chartLine(o *study.Outcome, res *study.Result, view costView) chartOption {
	s, none := o.Study, "no plan serves"
	line := chartOption{Key: res.Option.Key, Name: res.Option.Name, Face: res.Option.Face, Out: !res.In(), Now: res.Option.Now, Blocks: []block{}}
	if rate := o.NoRate(res); rate != "" {
		none = "no rate from " + rate
		line.None = none
	}
	for t, m := range res.Schedule.Months {
		if !m.Serves {
			line.Values, line.Shown, line.Plans = append(line.Values, nil), append(line.Shown, "no price"), append(line.Plans, none)
			continue
		}
		v := view.amount(m).Float()
		line.Values, line.Shown, line.Plans = append(line.Values, &v), append(line.Shown, s.Currency.FormatShort(view.amount(m))), append(line.Plans,
			m.Called())
		name := m.Called()
		for _, n := range m.Packs() {
			name += fmt.Sprintf(" + %d %s", n, map[bool]string{true: "pack", false: "packs"}[n == 1])
		}
		if n := len(line.Blocks); n > 0 && line.Blocks[n-1].Name == name && line.Blocks[n-1].To == t-1 {
			line.Blocks[n-1].To = t
			continue
		}
		line.Blocks = append(line.Blocks, block{From: t, To: t, Name: name, Rank: m.Rank(), Of: res.Rungs()})
	}
	return line
}
