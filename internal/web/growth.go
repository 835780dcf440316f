package web

import (
	"fmt"
	"html/template"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

type growthBody struct {
	Say     template.HTML
	End     string
	Rows    []driverRow
	Derived []derivedRow
	Unset   string
}

type driverRow struct {
	Name, About, Unit string
	Now, Growth       editable
	End, Line         string
}

type derivedRow struct {
	Name, About, Unit, Formula string
	Now, End, Line             string
}

func driver(o *study.Outcome, key string) (usage.Driver, bool) {
	for _, d := range o.Model.Drivers() {
		if d.Key == key {
			return d, true
		}
	}
	return usage.Driver{}, false
}

func buildGrowth(r *request) (any, error) {
	s, o := r.study(), r.outcome
	b := growthBody{Say: phrase(o.SayGrowth()), End: s.Month(s.Horizon - 1).String(), Unset: r.unset()}
	set := map[string]bool{}
	for _, setting := range s.Drivers {
		d, _ := driver(o, setting.Driver)
		set[d.Key] = true
		now, growth := setting.Path.Now.Grouped(), setting.Path.Growth.Grouped()
		row := driverRow{Name: d.Name, About: d.About, Unit: d.Unit, End: atEnd(o, d.Key), Line: spark(o, d.Key)}
		row.Now = r.field(editable{Edit: "driver", Of: d.Key, Value: now, Label: d.Name + " in " + s.Start.String(), Wide: true})
		row.Growth = r.field(editable{Edit: "growth", Of: d.Key, Value: growth, Label: "Growth of " + strings.ToLower(d.Name) + " a month, in percent", Unit: "%"})
		b.Rows = append(b.Rows, row)
	}
	for _, d := range o.Model.Drivers() {
		if d.Derived() && usesSet(d.Formula, set) {
			b.Derived = append(b.Derived, derivedRow{Name: d.Name, About: d.About, Unit: d.Unit, Formula: d.Formula, Now: show(o.Values[0][d.Key]), End: atEnd(o, d.Key), Line: spark(o, d.Key)})
		}
	}
	return b, nil
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

func atEnd(o *study.Outcome, key string) string { return show(o.Values[len(o.Values)-1][key]) }

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
	for _, v := range o.Values {
		most = max(most, v[key])
	}
	if most == 0 {
		return ""
	}
	n := len(o.Values)
	var b strings.Builder
	for t, v := range o.Values {
		x := 118.0
		if n > 1 {
			x = 1 + 117*float64(t)/float64(n-1)
		}
		fmt.Fprintf(&b, "%.1f,%.1f ", x, 25-23*v[key]/most)
	}
	return b.String()
}
