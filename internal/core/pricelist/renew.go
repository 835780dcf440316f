package pricelist

import (
	"slices"
	"strings"
)

// Renewed is a list that was read anew, with what a price page does not tell taken over
// from an earlier list of the same platform: what plans and add-ons have, what meters
// count, what the platform is. Plans, add-ons and meters are the same where their names
// are; they keep their keys.
func Renewed(read, before Edition) Edition {
	e := read
	e.Platform = before.Platform
	if e.Tax == (Tax{}) {
		e.Tax = before.Tax
	}
	if e.Trial == (Trial{}) {
		e.Trial = before.Trial
	}
	keys := map[string]string{} // of plans, by the keys that they were read with
	e.Plans = slices.Clone(read.Plans)
	for i := range e.Plans {
		p := &e.Plans[i]
		at := slices.IndexFunc(before.Plans, func(o Plan) bool { return strings.EqualFold(o.Name, p.Name) })
		if at < 0 {
			keys[p.Key] = p.Key
			continue
		}
		old := &before.Plans[at]
		keys[p.Key], p.Key = old.Key, old.Key
		p.Features = old.Features
		if p.Includes == "" {
			p.Includes = old.Includes
		}
	}
	renamed := func(all []string) []string {
		named := make([]string, len(all))
		for i, key := range all {
			named[i] = keys[key]
		}
		return named
	}
	for i := range e.Plans {
		if key, ok := keys[e.Plans[i].Includes]; ok {
			e.Plans[i].Includes = key
		}
		if !slices.ContainsFunc(e.Plans[:i], func(p Plan) bool { return p.Key == e.Plans[i].Includes }) {
			e.Plans[i].Includes = ""
		}
	}
	e.Drivers = before.Drivers
	e.Meters = slices.Clone(read.Meters)
	for i := range e.Meters {
		if old, ok := before.Meter(e.Meters[i].Key); ok {
			e.Meters[i] = *old
		}
	}
	e.AddOns = slices.Clone(read.AddOns)
	for i := range e.AddOns {
		a := &e.AddOns[i]
		a.Plans, a.IncludedOn = renamed(a.Plans), renamed(a.IncludedOn)
		if at := slices.IndexFunc(before.AddOns, func(o AddOn) bool { return strings.EqualFold(o.Name, a.Name) }); at >= 0 {
			a.Key, a.Gives, a.Raises = before.AddOns[at].Key, before.AddOns[at].Gives, before.AddOns[at].Raises
		}
	}
	for _, a := range before.AddOns { // that features go by, though the page does not name them
		if _, there := e.AddOn(a.Key); there || !e.goesBy(a.Key) {
			continue
		}
		a.Plans = slices.DeleteFunc(slices.Clone(a.Plans), func(key string) bool { _, ok := e.Plan(key); return !ok })
		a.IncludedOn = slices.DeleteFunc(slices.Clone(a.IncludedOn), func(key string) bool { _, ok := e.Plan(key); return !ok })
		e.AddOns = append(e.AddOns, a)
		for _, r := range a.Raises {
			if m, ok := before.Meter(r.Meter); ok {
				if _, there := e.Meter(r.Meter); !there {
					e.Meters = append(e.Meters, *m)
				}
			}
		}
		for _, c := range a.Charges {
			if m, ok := before.Meter(c.Meter); ok {
				if _, there := e.Meter(c.Meter); !there {
					e.Meters = append(e.Meters, *m)
				}
			}
		}
	}
	e.Offers = slices.Clone(read.Offers)
	for i := range e.Offers {
		e.Offers[i].Plans = renamed(e.Offers[i].Plans)
	}
	return e
}

// goesBy reports whether a feature of some plan is brought by an add-on.
func (e *Edition) goesBy(addOn string) bool {
	return slices.ContainsFunc(e.Plans, func(p Plan) bool {
		for _, f := range p.Features {
			if f.Has == AsAddOn && f.AddOn == addOn {
				return true
			}
		}
		return false
	})
}
