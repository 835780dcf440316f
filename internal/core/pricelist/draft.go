package pricelist

import (
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/feature"
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
	parts := document.Parts[Draft]{document.Field("base", "began from", document.Day, func(d *Draft) *time.Time { return &d.Base })}
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
	d.Edition.ObservedOn = on
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

// WritePlan writes a plan as a draft's history holds it.
func WritePlan(p Plan) string { return planItem.WriteItem(p) }
