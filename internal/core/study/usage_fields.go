package study

import (
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/usage"
)

// UsageFormat is what a file of usage alone says that it is.
const UsageFormat = "nine-coins/usage/1"

// Usage is where the drivers stand and how they grow, without a study.
type Usage struct {
	Start   usage.Month
	Drivers []Setting
	Own     []usage.Driver
}

// UsageFields is the table of its fields.
var UsageFields = &document.Table[Usage]{Format: UsageFormat, Title: "Usage, for Nine Coins", Parts: append(document.Parts[Usage]{
	document.Field("start", "first month", month, func(u *Usage) *usage.Month { return &u.Start }, document.Must),
}, driversOf(func(u *Usage) *[]Setting { return &u.Drivers }, func(u *Usage) *[]usage.Driver { return &u.Own })...)}

// driversOf describes the drivers that a P sets and has of its own.
func driversOf[P any](set func(*P) *[]Setting, own func(*P) *[]usage.Driver) document.Parts[P] {
	edits := document.Needs(toEdit)
	return document.Parts[P]{
		document.List("drivers", document.Of(set, document.Items[P, Setting]{
			Key: func(d *Setting) string { return d.Driver }, Name: driverName, One: "driver", Most: 80, Must: true}), settingParts(), edits),
		document.List("own_drivers", document.Of(own, document.Items[P, usage.Driver]{
			Key: func(d *usage.Driver) string { return d.Key }, Name: func(d *usage.Driver) string { return d.Name }, One: "driver", Most: 40}), driverParts(), edits),
		document.Check(func(p *P, tell tells) {
			for _, d := range *own(p) {
				if _, standard := usage.InCatalogue(d.Key); standard {
					tell(document.Path("own_drivers").To(d.Key, "key"), "driver %q is told twice: it is a standard one", d.Key)
				}
			}
		}),
	}
}

// Model joins the drivers to what computes with them.
func (u *Usage) Model() (*usage.Model, error) {
	paths := map[string]usage.Path{}
	for _, s := range u.Drivers {
		paths[s.Driver] = s.Path
	}
	return usage.NewModel(u.Own, paths)
}
