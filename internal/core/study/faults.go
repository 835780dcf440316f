package study

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/usage"
)

func (o *Outcome) fault(at document.Path, format string, a ...any) {
	o.Faults = append(o.Faults, Fault{at, fmt.Sprintf(format, a...)})
}

// check tells what the fields say of themselves.
func (o *Outcome) check() {
	kept.Check(*o.Study, o.fault)
}

// driverFault tells of a driver at the field in which it can be mended.
func (o *Outcome) driverFault(e *usage.DriverError) {
	at := document.Path("own_drivers").To(e.Driver, "formula")
	for _, d := range o.Study.Drivers {
		if d.Driver == e.Driver {
			at = document.Path("drivers").To(e.Driver, "now")
			if e.Month > 1 {
				at = document.Path("drivers").To(append([]string{e.Driver}, steers(&d.Path, o.Study.Case)...)...)
			}
			var path *usage.PathError
			if errors.As(e.Err, &path) {
				at = document.Path("drivers").To(e.Driver, path.Field)
				if v := d.Path.Variant(o.Study.Case); v != nil && v.Has(path.Field) {
					at = document.Path("drivers").To(e.Driver, string(o.Study.Case), path.Field)
				}
			}
		}
	}
	if _, standard := usage.InCatalogue(e.Driver); standard && strings.HasPrefix(string(at), "own_drivers") {
		at = "drivers" // a standard formula, of which the numbers are at fault
	}
	when := ""
	if e.Month > 0 {
		when = " in " + o.Study.Month(e.Month-1).String()
	}
	o.fault(at, "%s%s: %v", o.driverName(e.Driver), when, e.Err)
}

// steers is the field that decides the course of a path.
func steers(p *usage.Path, in usage.Case) []string {
	field := map[usage.Shape]string{usage.Compound: "growth", usage.SCurve: "ceiling", usage.Straight: "add", usage.Turnover: "joins", usage.Constant: "now"}[p.Ends()]
	if v := p.Variant(in); v != nil && v.Has(field) {
		return []string{string(in), field}
	}
	return []string{field}
}

// driverName names a driver for people.
func (o *Outcome) driverName(key string) string {
	return nameOfDriver(key, o.Study.Known())
}

// coins by the first step of the paths that are edited on them.
var coinOf = map[string]string{
	"title": "brief", "company": "brief", "question": "brief", "currency": "brief", "start": "brief", "months": "brief", "budget": "brief", "patience_days": "brief", "rates": "brief",
	"business": "brief", "people": "brief", "clients": "brief", "budget_for": "brief", "upfront": "brief", "deciders": "brief", "decide_by": "brief",
	"hour_cost": "brief", "resale": "costs", "running": "brief", "reasons": "brief", "connector": "brief", "findings": "coverage",
	"options": "line-up", "needs": "coverage", "drivers": "growth", "own_drivers": "growth", "history": "growth", "case": "growth", "pay": "costs", "criteria": "scores", "ratings": "scores", "private_offers": "prices",
}

// CoinOf returns the key of the coin on which what stands at a path is edited;
// "" for none.
func CoinOf(at document.Path) string {
	first, _, _ := strings.Cut(string(at), ".")
	return coinOf[first]
}

// FieldsOf lists the first steps of the paths that are edited on a coin.
func FieldsOf(coin string) (all []string) {
	for field, one := range coinOf {
		if one == coin {
			all = append(all, field)
		}
	}
	slices.Sort(all)
	return all
}
