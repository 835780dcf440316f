package study

import (
	"slices"

	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/usage"
)

// Axes lists the drivers that prices follow, of those that the study sets, contacts
// first.
func (o *Outcome) Axes() (all []usage.Driver) {
	for _, s := range o.Study.Drivers {
		if slices.Contains(o.Broken, s.Driver) {
			continue
		}
		fed := o.Model.Fed(s.Driver)
		used := false
		for i := range o.Results {
			r := &o.Results[i]
			for k := range r.Tools {
				for _, m := range r.Tools[k].Tool.Edition.Meters {
					used = used || r.Tools[k].Tool.Edition.Uses(m.Key) && slices.ContainsFunc(m.Counts.Names(), func(n string) bool { return slices.Contains(fed, n) })
				}
			}
		}
		if d, ok := o.Driver(s.Driver); ok && used && !d.Derived() {
			all = append(all, d)
		}
	}
	slices.SortStableFunc(all, func(a, b usage.Driver) int { return notFirst(a) - notFirst(b) })
	return all
}

func notFirst(d usage.Driver) int {
	if d.Key == "contacts" {
		return 0
	}
	return 1
}

// Axis is a driver that is followed. Values along it are counted in parts of one: 1 for
// what comes in whole ones, 100 for shares and averages.
type Axis struct {
	usage.Driver
	Parts int64
}

// Axis finds a driver that the study sets and the model knows, by its key.
func (o *Outcome) Axis(key string) (Axis, bool) {
	d, ok := o.Driver(key)
	if !ok || d.Derived() {
		return Axis{}, false
	}
	a := Axis{d, 1}
	if path, set := o.Model.Path(key); d.Unit == "share" || !d.Whole && set && path.Under(o.Study.Case).Now%usage.One != 0 {
		a.Parts = 100
	}
	return a, true
}

// Value is a value along the axis.
func (a Axis) Value(x int64) usage.Quantity {
	return usage.Quantity(x) * (usage.One / usage.Quantity(a.Parts))
}

// Show writes a value along the axis.
func (a Axis) Show(x int64) string { return a.Value(x).Grouped() }

// Count writes so much of what the axis counts: "1 seat", "1,200 contacts".
func (a Axis) Count(x int64) string { return a.Show(x) + " " + a.of(x) }

// of is what so many are: "seat", "contacts".
func (a Axis) of(x int64) string {
	if x == a.Parts {
		return a.Unit
	}
	return countsOf(a.Driver)
}

// At is where a value of the driver stands along the axis, rounded up as meters round.
func (a Axis) At(v float64) int64 { return ceil(v * float64(a.Parts)) }

func (a Axis) followed() projection.Axis { return projection.Axis{Driver: a.Key, Parts: a.Parts} }

// any says that something holds wherever the driver stands.
func (a Axis) any() string {
	if a.Parts > 1 {
		return "at any " + countsOf(a.Driver)
	}
	return "at any number of " + countsOf(a.Driver)
}

// Reaches is a round value along an axis that lies above all that its driver comes to:
// where lines along it end unless another end is asked for.
func (o *Outcome) Reaches(a Axis) int64 {
	most := 1.0
	for _, v := range o.Values.Of(a.Key) {
		most = max(most, v*float64(a.Parts))
	}
	for step := int64(1); ; step *= 10 {
		for _, n := range []int64{1, 2, 3, 5} {
			if float64(n*step) >= 2*most && n*step >= 10 {
				return n * step
			}
		}
	}
}

// ceil is a value in whole units, as meters bill it.
func ceil(v float64) int64 {
	q, err := usage.FromFloat(v)
	if err != nil {
		return 0
	}
	return q.Ceil().Whole()
}
