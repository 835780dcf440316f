package study

import (
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/notation"
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
	document.Field("start", "first month", notation.Month, func(u *Usage) *usage.Month { return &u.Start }, document.Must),
}, driversOf(func(u *Usage) *[]Setting { return &u.Drivers }, func(u *Usage) *[]usage.Driver { return &u.Own })...)}

// driversOf describes the drivers that a P sets and has of its own.
func driversOf[P any](set func(*P) *[]Setting, own func(*P) *[]usage.Driver) document.Parts[P] {
	edits := document.Needs(toEdit)
	return document.Parts[P]{
		document.List("drivers", document.Of(set, document.Items[P, Setting]{
			Key: func(d *Setting) string { return d.Driver }, One: "driver", Most: 80, Must: true,
			Name: func(p *P, d *Setting) string { return nameOfDriver(d.Driver, *own(p)) }}), settingParts(), edits),
		document.List("own_drivers", document.Of(own, document.Items[P, usage.Driver]{
			Key: func(d *usage.Driver) string { return d.Key }, Name: func(_ *P, d *usage.Driver) string { return d.Name }, One: "driver", Most: 40,
			New: func(*P) usage.Driver { return usage.Driver{Kind: usage.Stock} }, Rekey: func(d *usage.Driver,
				key string) {
				d.Key = FreshDriver(key)
			}}), driverParts(), edits),
		document.Kept(func(p *P, tell tells) {
			for _, d := range *own(p) {
				if _, standard := usage.InCatalogue(d.Key); standard && !usage.Yields(d.Key) {
					tell(document.Path("own_drivers").To(d.Key, "key"), "driver %q is told twice: it is a standard one", d.Key)
				}
			}
		}),
	}
}

// nameOfDriver names a driver, of the standard ones or of some others.
func nameOfDriver(key string, own []usage.Driver) string {
	for _, d := range slices.Concat(usage.Catalogue(), own) {
		if d.Key == key {
			return d.Name
		}
	}
	return key
}

// FreshDriver makes a key that formulas can name, and that no standard driver
// has.
func FreshDriver(key string) string {
	key = strings.ReplaceAll(key, "-", "_")
	if key[0] >= '0' && key[0] <= '9' {
		key = "n" + key
	}
	for _, standard := usage.InCatalogue(key); standard; _, standard = usage.InCatalogue(key) {
		key += "_of_ours"
	}
	return key
}

// Model joins the drivers to what computes with them, in one of the cases.
func (u *Usage) Model(in usage.Case) (*usage.Model, error) {
	paths := map[string]usage.Path{}
	for _, s := range u.Drivers {
		paths[s.Driver] = s.Path
	}
	return usage.When{Start: u.Start, Case: in}.Model(u.Own, paths)
}
