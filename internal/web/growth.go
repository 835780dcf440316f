package web

import (
	"fmt"
	"html/template"
	"math"
	"net/url"
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

type growthBody struct {
	Base    string
	Say     template.HTML
	Cases   choiceForm
	End     string
	Rows    []driverRow
	Derived []derivedRow
	Unset   string
	LeftOut string // what is likely to be missing
	Add     *addForm
	AddOwn  *addForm
	Rest    []choiceView // drivers that could be set besides
	Panel   *driverPanel
	Billed  []string
	Meters  []meterRow
	History historyView
	May     bool
}

// choiceForm is a choice that is saved where it is made.
type choiceForm struct {
	Path, Was, Locked string
	All               []choiceView
}

type driverRow struct {
	Name, About, Unit string
	Link              string
	Chosen            bool
	Now, Growth       editable
	Grows             string
	Low, High         string
	End, Line         string
	Place             place
	Own               *ownDriver
	Form              template.HTML
}

// ownDriver is how a driver of the study's own is described.
type ownDriver struct {
	Name, Unit, About, Formula, Whole editable
	Place                             place
}

// formulaWords says a formula with the names of the study's drivers; "" where it
// cannot be read.
func (r *request) formulaWords(text string) string {
	f, err := usage.KeptFormula(text)
	if err != nil {
		return ""
	}
	return f.Words(func(key string) string {
		if d, ok := driver(r.outcome, key); ok {
			return usage.LowerFirst(d.Name)
		}
		return usage.Called(key)
	})
}

// form is the form of its fields; none for a standard driver.
func (d *ownDriver) form() template.HTML {
	if d == nil {
		return ""
	}
	return rowForm(d.Name)
}

type derivedRow struct {
	Name, About, Unit, Formula, Words string
	Now, End, Line, Parts             string
	Own                               *ownDriver
	Form                              template.HTML
}

// meterRow is how a meter of an option reads the usage of the first month.
type meterRow struct {
	Face                    int
	Option, Reads, Formula  string
	Filled, Unit, Platforms string
}

func driver(o *study.Outcome, key string) (usage.Driver, bool) { return o.Driver(key) }

// choice makes a choice that is saved where it is made, of a field of the study.
func (r *request) choice(path document.Path, all ...choiceView) choiceForm {
	spot, _ := r.spot(path)
	f := choiceForm{Path: string(path), Was: spot.Text, All: all}
	for i := range f.All {
		f.All[i].Chosen = f.All[i].Value == spot.Text
	}
	if !r.caller.mayEdit(path) {
		f.Locked = "This is changed by editors."
	}
	return f
}

// cases is the choice of the case of growth.
func (r *request) cases() choiceForm {
	return r.choice("case", choiceView{Label: "Low", Value: "low"}, choiceView{Label: "Expected", Value: "expected"}, choiceView{Label: "High", Value: "high"})
}

func (s *Server) buildGrowth(r *request) (any, error) {
	st, o := r.study(), r.outcome
	b := growthBody{Base: r.base(), Say: phrase(o.SayGrowth()), Cases: r.cases(), End: st.Month(st.Horizon - 1).String(), Unset: r.unset(), LeftOut: o.SayLeftOut(), Billed: o.SayBilled(0)}
	b.May = r.caller.mayEdit("drivers")
	set := map[string]bool{}
	keys := make([]string, len(st.Drivers))
	for i, setting := range st.Drivers {
		keys[i] = setting.Driver
	}
	chosen := r.c.Query("driver")
	if !slices.Contains(keys, chosen) && len(keys) > 0 {
		chosen = keys[0]
	}
	for i := range st.Drivers {
		setting := &st.Drivers[i]
		set[setting.Driver] = true
		b.Rows = append(b.Rows, r.driverRow(setting, keys, i, chosen))
	}
	for _, d := range o.Model.Drivers() {
		if own := r.ownDriver(d.Key); d.Derived() && (own != nil || usesSet(d.Formula, set)) {
			row := derivedRow{Name: d.Name, About: d.About, Unit: d.Unit, Formula: d.Formula, Words: r.formulaWords(d.Formula), Now: show(o.Values.Of(d.Key)[0]),
				End: atEnd(o, d.Key), Line: spark(o, d.Key), Own: own, Form: own.form()}
			if d.Key == "emails_sent" {
				row.Parts = o.SaySends(0)
			}
			b.Derived = append(b.Derived, row)
		}
	}
	for _, d := range st.Own { // one at fault is told all the same
		if _, known := driver(o, d.Key); !set[d.Key] && (!known || !d.Derived() || slices.Contains(o.Broken, d.Key)) && !slices.ContainsFunc(b.Derived,
			func(row derivedRow) bool { return row.Own != nil && row.Own.Place.Name == d.Name }) {
			b.Derived = append(b.Derived, derivedRow{Name: d.Name, About: d.About, Formula: d.Formula, Now: "–", End: "–", Own: r.ownDriver(d.Key),
				Form: r.ownDriver(d.Key).form()})
		}
	}
	r.addDrivers(&b)
	for _, m := range o.Billed(0) {
		res := &o.Results[m.Result]
		b.Meters = append(b.Meters, meterRow{Face: res.Option.Face, Option: res.Option.Name, Unit: m.Unit, Reads: show(m.Reads.Float()), Formula: m.Formula, Filled: m.Filled})
	}
	if at := slices.Index(keys, chosen); at >= 0 {
		var err error
		if b.Panel, err = r.driverPanel(&st.Drivers[at]); err != nil {
			return nil, err
		}
	}
	b.History = r.historyView(chosen)
	return b, nil
}

func (r *request) driverRow(setting *study.Setting, keys []string, i int, chosen string) driverRow {
	o := r.outcome
	d, _ := driver(o, setting.Driver)
	path := document.Path("drivers").To(setting.Driver)
	row := driverRow{Name: d.Name, About: d.About, Unit: d.Unit, End: atEnd(o, d.Key), Line: spark(o, d.Key), Chosen: setting.Driver == chosen,
		Link: r.base() + "/growth?driver=" + url.QueryEscape(setting.Driver), Grows: r.study().SayCourse(&setting.Path)}
	row.Now = r.number(path.To("now"), d.Name+" in "+r.study().Start.String())
	if setting.Path.Shape == usage.Compound {
		row.Growth = r.field(path.To("growth"), "Growth of "+strings.ToLower(d.Name)+" a month, in percent")
		row.Grows = strings.TrimPrefix(strings.TrimPrefix(row.Grows, setting.Path.Growth.String()+" a month"), "steady")
		if r.study().Case != usage.Expected {
			row.Grows = ""
		}
		for c, into := range map[usage.Case]*string{usage.Low: &row.Low, usage.High: &row.High} {
			if v := setting.Path.Variant(c); v.Growth.Told {
				*into = v.Growth.Value.String()
			}
		}
	}
	row.Place, row.Own = r.placeOf("drivers", d.Name, keys, i), r.ownDriver(d.Key)
	if row.Own != nil { // which goes as a whole
		row.Place.Remove = row.Own.Place.Path
	}
	row.Form = rowForm(row.Now)
	return row
}

// addDrivers makes the forms that add drivers.
func (r *request) addDrivers(b *growthBody) {
	b.Add = r.adding("drivers", "driver", "now", "growth")
	for _, d := range r.study().Settable() {
		b.Rest = append(b.Rest, choiceView{Label: d.Name, Value: d.Key})
	}
	b.Add.openWhere(len(r.study().Drivers) == 0)
	b.Add.titled("Add one of the standard drivers")
	b.Add.set("driver", "Driver", b.Rest)
	b.Add.set("now", "Today", nil)
	b.Add.set("growth", "Growth a month", nil)
	b.AddOwn = r.adding("own_drivers", "name", "unit", "kind", "whole", "formula", "about")
	b.AddOwn.titled("Add a driver of your own")
	b.AddOwn.set("kind", "Kind", []choiceView{{Label: "a level, such as contacts", Value: string(usage.Stock)},
		{Label: "an amount each month, such as sends", Value: string(usage.Flow)}})
	b.AddOwn.set("formula", "Formula, if it follows from others", nil, driverKeys(r.outcome)...)
	b.AddOwn.set("unit", "Unit, of one", nil)
	b.AddOwn.set("about", "About it", nil)
}

// driverKeys lists what formulas can name.
func driverKeys(o *study.Outcome) (keys []string) {
	for _, d := range o.Model.Drivers() {
		keys = append(keys, d.Key)
	}
	return keys
}

// ownDriver describes a driver of the study's own; nil for a standard one.
func (r *request) ownDriver(key string) *ownDriver {
	var keys []string
	at := -1
	for i, d := range r.study().Own {
		keys = append(keys, d.Key)
		if d.Key == key {
			at = i
		}
	}
	if at < 0 {
		return nil
	}
	d := r.study().Own[at]
	path := document.Path("own_drivers").To(key)
	return &ownDriver{Name: r.field(path.To("name"), "Name of "+d.Name), Unit: r.field(path.To("unit"), "Unit of "+d.Name),
		About: r.field(path.To("about"), "About "+d.Name), Whole: r.field(path.To("whole"), d.Name+" in whole ones"),
		Formula: r.field(path.To("formula"), "Formula of "+d.Name), Place: r.placeOf("own_drivers", d.Name, keys, at)}
}

// usesSet reports whether a formula looks at a driver that the study sets.
func usesSet(formula string, set map[string]bool) bool {
	f, err := usage.ParseFormula(formula)
	if err != nil {
		return false
	}
	for _, name := range f.Names() {
		if set[name] {
			return true
		}
	}
	return false
}

func atEnd(o *study.Outcome, key string) string { return show(o.Values.Of(key)[o.Values.Rows()-1]) }

// show writes a driver's value: from 100 up rounded up to whole, as meters
// bill it, else to two decimals.
func show(v float64) string {
	q, err := usage.FromFloat(v)
	if err != nil {
		return "–"
	}
	if q >= usage.Of(100) {
		return money.Thousands(uint64(q.Ceil().Whole()))
	}
	return q.Format()
}

// spark returns the points of a small line, 120 wide and 26 high, from 0 up to
// the largest value.
func spark(o *study.Outcome, key string) string {
	most := 0.0
	values := o.Values.Of(key)
	for _, v := range values {
		most = max(most, v)
	}
	if most == 0 || math.IsNaN(most) {
		return ""
	}
	n := len(values)
	var b strings.Builder
	for t, v := range values {
		x := 118.0
		if n > 1 {
			x = 1 + 117*float64(t)/float64(n-1)
		}
		fmt.Fprintf(&b, "%.1f,%.1f ", x, 25-23*v/most)
	}
	return b.String()
}
