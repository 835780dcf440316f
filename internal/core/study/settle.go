package study

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/usage"
)

func newOption(s *Study) Option { return Option{Face: s.freeFace()} }

// freeFace is the first face that no option has.
func (s *Study) freeFace() int {
	for face := 1; face <= MostOptions; face++ {
		if !slices.ContainsFunc(s.Options, func(o Option) bool { return o.Face == face }) {
			return face
		}
	}
	return MostOptions
}

// Settle adds to a change what has to go along with it, and takes out of it
// what has lost its place: ratings go with their option or criterion, a driver's
// path with the driver, and what comes back to where somebody else sits makes
// room. What cannot be at all is a [*document.InvalidError].
func Settle(s Study, c document.Change) (document.Change, error) {
	gone, there := leaving(c), arriving(s, c)
	var settled document.Change
	for _, op := range c {
		steps := op.Path.Steps()
		list := ""
		if len(steps) > 0 {
			list = steps[0]
		}
		switch {
		case (list == "rates" || list == "private_offers") && s.isToCome(op):
			return nil, &document.InvalidError{Path: op.Path, Problem: "is of a day that is in the future"}
		case list == "ratings" && op.Do == document.Remove:
			if !slices.ContainsFunc(s.Ratings, func(r fit.Rating) bool { return RatingKey(&r) == steps[1] }) && loses(gone, steps[1]) {
				continue // it went before its option did
			}
		case list == "ratings":
			r, _ := ratingOf(steps[1])
			misses := !there["options/"+r.Option] || !there["criteria/"+r.Criterion]
			if misses && op.Do == document.Insert && len(c) > 1 {
				continue // what it rated, or rated on, has gone meanwhile
			}
			if misses {
				return nil, &document.InvalidError{Path: op.Path, Problem: "rates an option or a criterion that is not in the study"}
			}
			if at := slices.IndexFunc(s.Criteria, func(c fit.Criterion) bool { return c.ID == r.Criterion }); at >= 0 && s.Criteria[at].Source != fit.Rated && s.Criteria[at].Source != "" && op.To != "" {
				return nil, &document.InvalidError{Path: op.Path, Problem: "is of a criterion that is measured, not rated"}
			}
		case list == "private_offers" && len(steps) == 2 && op.Do != document.Move:
			option, _, _ := strings.Cut(steps[1], "/")
			switch {
			case op.Do == document.Insert && there["options/"+option]:
			case op.Do == document.Insert && len(c) > 1:
				continue // what it was for has gone meanwhile
			case op.Do == document.Insert:
				return nil, &document.InvalidError{Path: op.Path, Problem: "is for an option that is not in the study"}
			case gone["options/"+option] && !s.hasPrivateOffer(steps[1]):
				continue // it went before its option did
			}
		case len(steps) == 2 && op.Do == document.Remove:
			settled = append(settled, s.goesAlong(list, steps[1], gone)...)
		case list == "options" && len(steps) == 2 && op.Do == document.Insert:
			op.To = s.seated(op.To)
		case list == "options" && len(steps) == 3 && op.Do == document.Set:
			settled = append(settled, s.makeRoom(steps[1], steps[2], op, c)...)
		}
		settled = append(settled, op)
	}
	return settled, nil
}

// isToCome reports whether an edit gives a rate or a quote a day that has not come
// anywhere on earth.
func (s *Study) isToCome(op document.Op) bool {
	on, steps := op.To, op.Path.Steps()
	if len(steps) == 3 && steps[2] != "on" {
		return false
	}
	if e, err := exchangeTable.ReadItem(op.To); op.Do == document.Insert && err == nil {
		on = document.Day.Text(e.On)
	}
	if p, err := privateTable.ReadItem(op.To); op.Do == document.Insert && err == nil {
		on = document.Day.Text(p.On)
	}
	day, err := document.Day.Parse(on)
	return err == nil && !s.Today.IsZero() && day.After(s.Today.AddDate(0, 0, 1))
}

var (
	anyDay        = time.Date(2199, 12, 31, 0, 0, 0, 0, time.UTC)
	exchangeTable = document.Item(exchangeParts(anyDay, notation.KeptCurrency))
	privateTable  = document.Item(privateParts(anyDay))
)

// leaving returns what a change removes, as "list/key".
func leaving(c document.Change) map[string]bool {
	gone := map[string]bool{}
	for _, op := range c {
		if steps := op.Path.Steps(); op.Do == document.Remove && len(steps) == 2 {
			gone[steps[0]+"/"+steps[1]] = true
		}
	}
	return gone
}

func (s *Study) hasPrivateOffer(key string) bool {
	return slices.ContainsFunc(s.PrivateOffers, func(p PrivateOffer) bool { return p.Key() == key })
}

func loses(gone map[string]bool, rating string) bool {
	r, _ := ratingOf(rating)
	return gone["options/"+r.Option] || gone["criteria/"+r.Criterion]
}

// arriving returns the options and criteria that there are once a change is made.
func arriving(s Study, c document.Change) map[string]bool {
	there := map[string]bool{}
	for _, o := range s.Options {
		there["options/"+o.Key] = true
	}
	for _, one := range s.Criteria {
		there["criteria/"+one.ID] = true
	}
	for _, op := range c {
		if steps := op.Path.Steps(); len(steps) == 2 && op.Do != document.Move && op.Do != document.Set {
			there[steps[0]+"/"+steps[1]] = op.Do == document.Insert
		}
	}
	return there
}

// goesAlong is what is removed with an item, beside what is removed anyway.
func (s *Study) goesAlong(list, key string, gone map[string]bool) (c document.Change) {
	for _, r := range s.Ratings {
		if at := RatingKey(&r); (list == "options" && r.Option == key || list == "criteria" && r.Criterion == key) && !gone["ratings/"+at] {
			gone["ratings/"+at] = true
			c = append(c, document.Op{Do: document.Remove, Path: document.Path("ratings").To(at)})
		}
	}
	for i := range s.PrivateOffers {
		p := &s.PrivateOffers[i]
		if list == "options" && p.Option == key && !gone["private_offers/"+p.Key()] {
			gone["private_offers/"+p.Key()] = true
			c = append(c, document.Op{Do: document.Remove, Path: document.Path("private_offers").To(p.Key())})
		}
	}
	sets := slices.ContainsFunc(s.Drivers, func(d Setting) bool { return d.Driver == key })
	if list == "own_drivers" && sets && !gone["drivers/"+key] {
		gone["drivers/"+key] = true
		c = append(c, document.Op{Do: document.Remove, Path: document.Path("drivers").To(key)})
	}
	return c
}

// makeRoom takes from another option what only one can have: the face goes over
// to it in turn, and what runs today runs there no more.
func (s *Study) makeRoom(key, field string, op document.Op, c document.Change) (room document.Change) {
	if len(c) > 1 {
		return nil // a change that was settled before
	}
	runs, _ := document.YesNo().Parse(op.To) // however it is written: 1, t, true
	face, _ := strconv.Atoi(op.To)
	for _, o := range s.Options {
		other := document.Path("options").To(o.Key)
		switch {
		case o.Key == key:
		case field == "now" && runs && o.Now:
			room = append(room, document.Op{Do: document.Set, Path: other.To("now"), Was: "true", To: "false"})
		case field == "face" && face == o.Face:
			room = append(room, document.Op{Do: document.Set, Path: other.To("face"), Was: op.To, To: op.Was})
		}
	}
	return room
}

// seated gives an option that comes in, or comes back, a face that no other one
// has, and the mark of what runs today only where no other one has it.
func (s *Study) seated(text string) string {
	o, err := optionTable.ReadItem(text)
	if err != nil {
		return text // which says so when it is inserted
	}
	for _, other := range s.Options {
		if other.Face == o.Face {
			o.Face = s.freeFace()
		}
		o.Now = o.Now && !other.Now
	}
	return optionTable.WriteItem(o)
}

var optionTable = document.Item(optionParts(Sources{}))

// Added completes the insertion of an item that was typed in: a driver of the
// study's own that no formula gives a value is set, at first to 0.
func Added(op document.Op) document.Change {
	steps := op.Path.Steps()
	if len(steps) != 2 || steps[0] != "own_drivers" {
		return document.Change{op}
	}
	d, err := driverTable.ReadItem(op.To)
	if err != nil || d.Derived() {
		return document.Change{op}
	}
	return document.Change{op, SetDriver(d.Key)}
}

// SetDriver has the study set a driver, at first to 0.
func SetDriver(key string) document.Op {
	text := settingTable.WriteItem(Setting{Driver: key})
	return document.Op{Do: document.Insert, Path: document.Path("drivers").To(key), To: text}
}

var (
	driverTable  = document.Item(driverParts())
	settingTable = document.Item(settingParts())
)

// Known are the drivers beside the standard ones that the study can set: its own, and what the
// price lists of its options count that has the key of none of these.
func (s *Study) Known() []usage.Driver {
	all := slices.Clone(s.Own)
	for _, option := range s.running() {
		for _, t := range option.Tools() {
			if t.Edition == nil {
				continue
			}
			for _, d := range t.Edition.Drivers {
				if _, standard := usage.InCatalogue(d.Key); !standard && !slices.ContainsFunc(all, func(o usage.Driver) bool { return o.Key == d.Key }) {
					all = append(all, d)
				}
			}
		}
	}
	return all
}

// Bring is the change that makes a driver that a price list brings one of the study's own, so that
// it stays when the option goes; nil for one that it has, or a standard one.
func (s *Study) Bring(key string) document.Change {
	known := s.Known()
	at := slices.IndexFunc(known, func(d usage.Driver) bool { return d.Key == key })
	if at < len(s.Own) {
		return nil
	}
	return document.Change{{Do: document.Insert, Path: document.Path("own_drivers").To(key), To: driverTable.WriteItem(known[at])}}
}

// Settable returns the drivers that the study could set besides.
func (s *Study) Settable() (all []usage.Driver) {
	for _, d := range slices.Concat(usage.Catalogue(), s.Known()) {
		if !d.Derived() && !slices.ContainsFunc(s.Drivers, func(one Setting) bool { return one.Driver == d.Key }) {
			all = append(all, d)
		}
	}
	return all
}

// Renamed returns a change with the keys of people in it put otherwise: by
// their names in a file, and back.
func Renamed(c document.Change, name func(string) string) document.Change {
	renamed := slices.Clone(c)
	for i := range renamed {
		op := &renamed[i]
		steps := op.Path.Steps()
		if len(steps) < 2 || steps[0] != "ratings" {
			continue
		}
		r, ok := ratingOf(steps[1])
		if !ok {
			continue
		}
		r.Rater = name(r.Rater)
		steps[1] = RatingKey(&r)
		op.Path = document.Path("").To(steps...)
		for _, text := range []*string{&op.Was, &op.To} {
			if one, err := anyRating.ReadItem(*text); err == nil && len(steps) == 2 {
				one.Rater = r.Rater
				*text = anyRating.WriteItem(one)
			}
		}
		if len(steps) == 2 && op.Before != "" {
			if r, ok := ratingOf(op.Before); ok {
				r.Rater = name(r.Rater)
				op.Before = RatingKey(&r)
			}
		}
	}
	return renamed
}

// Canonical returns a change whose items are written as they are today, and the
// options among them.
func Canonical(c document.Change) (document.Change, []Option) {
	same := Renamed(c, func(rater string) string { return rater })
	var options []Option
	for i := range same {
		op := &same[i]
		if steps := op.Path.Steps(); len(steps) != 2 || steps[0] != "options" {
			continue
		}
		for _, text := range []*string{&op.Was, &op.To} {
			if o, err := optionTable.ReadItem(*text); err == nil {
				*text = optionTable.WriteItem(o)
				options = append(options, o)
			}
		}
	}
	return same, options
}

// anyRating reads ratings whether they hold names or keys of people.
var anyRating = document.Item(document.Parts[fit.Rating]{
	document.Field("rater", "rater", document.Notation[string]{Parse: func(s string) (string, error) { return s, nil },
		Text: func(s string) string { return s }, Want: "a rater", As: document.IsText},
		func(r *fit.Rating) *string { return &r.Rater }, document.Must),
	ratingParts(false)[1], ratingParts(false)[2], ratingParts(false)[3], ratingParts(false)[4],
})

// OwnerOf returns whose rating a path leads to, by the key of a person; "" where
// it leads to none.
func OwnerOf(at document.Path) string {
	steps := at.Steps()
	if len(steps) < 2 || steps[0] != "ratings" {
		return ""
	}
	r, _ := ratingOf(steps[1])
	return r.Rater
}

// WriteRating and WriteOption write an item as a history holds it.
func WriteRating(r fit.Rating) string { return anyRating.WriteItem(r) }

// WriteOption writes an option as a history holds it.
func WriteOption(o Option) string { return optionTable.WriteItem(o) }
