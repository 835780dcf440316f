package pricelist

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/feature"
	"ninecoins/internal/core/usage"
)

// Draft is a price list that is being written: it becomes an edition once it is
// published. What plans take over from others is not filled in.
type Draft struct {
	Edition Edition
	Base    time.Time // the day of the edition that it began from; zero: none
}

// DraftFormat is what the document of a draft says that it is.
const DraftFormat = "nine-coins/draft/1"

// Drafts is the table of drafts: that of price lists, with fields that are edited.
func Drafts() *document.Table[Draft] { return drafts }

var drafts = func() *document.Table[Draft] {
	parts := document.Parts[Draft]{document.Field("base", "began from", document.DayOrTime, func(d *Draft) *time.Time { return &d.Base })}
	for _, part := range fieldsBy(Rules{Latest: time.Date(2199, 12, 31, 0, 0, 0, 0, time.UTC), Draft: true}).Parts {
		parts = append(parts, document.Within(func(d *Draft) *Edition { return &d.Edition }, part))
	}
	return &document.Table[Draft]{Format: DraftFormat, Title: "A draft of a price list of Nine Coins", Loose: true, Parts: parts, Finish: nameCell}
}()

// nameCell names a cell of the grid by its feature and plan: "Event triggers on Bough".
func nameCell(d *Draft, spot *document.Spot) {
	steps := spot.Path.Steps()
	if len(steps) < 4 || steps[0] != "plans" || steps[2] != "features" {
		return
	}
	plan := steps[1]
	if p, ok := d.Edition.Plan(plan); ok {
		plan = p.Name
	}
	f, _ := (*feature.Catalogue)(nil).Find(steps[3])
	field := spot.Label
	spot.Label = f.Name + " on " + plan
	if len(steps) > 4 {
		if at := strings.LastIndex(field, ", "); at >= 0 {
			field = field[at+2:]
		}
		spot.Label += ", " + field
	}
}

// Drafted begins a draft from an edition as its file was read, before
// [Edition.Inherit]; on says on which day it is looked at anew.
func Drafted(from Edition, on time.Time) Draft {
	d := Draft{Edition: from, Base: from.ObservedOn}
	d.Edition.ObservedOn = on.Truncate(24 * time.Hour)
	return d
}

// Whole is the draft as an edition, with what plans take over from others, and what
// keeps it from being published.
func (d *Draft) Whole() (*Edition, []Fault) {
	e := d.Edition
	e.Plans = make([]Plan, len(d.Edition.Plans))
	for i, p := range d.Edition.Plans {
		p.Features = make(map[string]Feature, len(p.Features))
		for key, f := range d.Edition.Plans[i].Features {
			f.Direct = true
			p.Features[key] = f
		}
		e.Plans[i] = p
	}
	return &e, append(e.Inherit(), e.Check()...)
}

// ClearCell takes away what a plan of a draft has of a feature, with what is known
// about that, so that it can be put back.
func ClearCell(plan, key string, f Feature) document.Change {
	at := document.Path("plans").To(plan, "features", key)
	var c document.Change
	add := func(field, was string) {
		if was != "" {
			c = append(c, document.Op{Do: document.Set, Path: at.To(field), Was: was})
		}
	}
	add("note", f.Note)
	add("from", string(f.From))
	if !f.On.IsZero() {
		add("on", f.On.Format(time.DateOnly))
	}
	return append(c, document.Op{Do: document.Set, Path: at, Was: f.Cell()})
}

var planItem = document.Item(tableOf(Rules{Draft: true}).plan())

// Items of a draft as its history holds them.
var (
	drafting   = tableOf(Rules{Draft: true})
	chargeItem = document.Item(drafting.charge())
	termItem   = document.Item(drafting.term())
	limitItem  = document.Item(drafting.limit())
	bandItem   = document.Item(drafting.band())
	addOnItem  = document.Item(drafting.addOn())
	offerItem  = document.Item(drafting.offer())
	meterItem  = document.Item(drafting.meter())
	driverItem = document.Item(drafting.driver())
	raiseItem  = document.Item(drafting.raise())
)

// Written writes an item of a draft's list as its history holds it: a plan, a charge, a
// term, a limit, a band, an add-on, an offer, a meter, a raise or a driver.
func Written[T Plan | Charge | Term | Limit | Band | AddOn | Offer | Meter | Raise | usage.Driver](item T) string {
	switch one := any(item).(type) {
	case Plan:
		return planItem.WriteItem(one)
	case Charge:
		return chargeItem.WriteItem(one)
	case Term:
		return termItem.WriteItem(one)
	case Limit:
		return limitItem.WriteItem(one)
	case Band:
		return bandItem.WriteItem(one)
	case AddOn:
		return addOnItem.WriteItem(one)
	case Offer:
		return offerItem.WriteItem(one)
	case Meter:
		return meterItem.WriteItem(one)
	case usage.Driver:
		return driverItem.WriteItem(one)
	case Raise:
		return raiseItem.WriteItem(one)
	}
	return ""
}

// KeyOf is the key of a limit in the list of limits of a draft.
func (l *Limit) KeyOf() string { return drafting.limitKey(l) }

// KeyOf is the key of a band in its table in a draft.
func (b *Band) KeyOf() string { return bandKey(b) }

// Called says a band of what its charge counts: "contacts up to 1,000".
func (b *Band) Called(units string) string {
	if b.Open {
		return units + ", above all"
	}
	return units + " up to " + b.To.Format()
}

// Band finds a band of a charge by its key.
func (c *Charge) Band(key string) (*Band, bool) {
	for i := range c.Bands {
		if c.Bands[i].KeyOf() == key {
			return &c.Bands[i], true
		}
	}
	return nil, false
}

// At is where a fault of a list stands in a draft: its positions as keys. It is the
// nearest thing that has a place where the fault names one that has not.
func (e *Edition) At(fault string) document.Path {
	path := document.Path("")
	var charges []Charge
	var bands []Band
	for step := range strings.SplitSeq(fault, ".") {
		name, place, _ := strings.Cut(strings.TrimSuffix(step, "]"), "[")
		at := -1
		if place != "" {
			at, _ = strconv.Atoi(place)
		}
		key := ""
		switch {
		case at < 0:
		case name == "plans" && path == "" && at < len(e.Plans):
			key, charges = e.Plans[at].Key, e.Plans[at].Charges
		case name == "add_ons" && at < len(e.AddOns):
			key, charges = e.AddOns[at].Key, e.AddOns[at].Charges
		case name == "offers" && at < len(e.Offers):
			key = e.Offers[at].Key
		case name == "meters" && at < len(e.Meters):
			key = e.Meters[at].Key
		case name == "charges" && at < len(charges):
			key, bands = charges[at].Key, charges[at].Bands
		case name == "bands" && at < len(bands):
			key = bandKey(&bands[at])
		case name == "terms" || name == "limits":
			if steps := path.Steps(); len(steps) == 2 {
				p, _ := e.Plan(steps[1])
				if p == nil {
					break
				}
				if name == "terms" && at < len(p.Terms) {
					key = p.Terms[at].Key
				} else if name == "limits" && at < len(p.Limits) {
					key = p.Limits[at].KeyOf()
				}
			}
		}
		path = path.To(name)
		if key != "" {
			path = path.To(key)
		}
	}
	return path
}

// plansAt tells whether a path of a price list leads to a list of plans.
func plansAt(path document.Path) bool {
	steps := path.Steps()
	return len(steps) == 3 && (steps[0] == "add_ons" || steps[0] == "offers") && (steps[2] == "plans" || steps[2] == "included_on")
}

// ByKey is text typed into a list of plans with their keys where their names were
// typed ("Bough, Canopy" is "bough, canopy"); any other text as it is. What names no plan
// stays, with a [document.Problem] that tells it.
func (e *Edition) ByKey(path document.Path, text string) (string, error) {
	if !plansAt(path) {
		return text, nil
	}
	var wrong error
	pieces := strings.Split(text, ",")
	for i, piece := range pieces {
		pieces[i] = strings.TrimSpace(piece)
		if _, is := e.Plan(pieces[i]); is || pieces[i] == "" {
			continue
		}
		if at := slices.IndexFunc(e.Plans, func(p Plan) bool { return strings.EqualFold(p.Name, pieces[i]) }); at >= 0 {
			pieces[i] = e.Plans[at].Key
		} else {
			wrong = document.Problem(fmt.Sprintf("there is no plan “%s”", pieces[i]))
		}
	}
	return strings.Join(pieces, ", "), wrong
}
