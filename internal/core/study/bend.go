package study

import (
	"fmt"
	"math"
	"slices"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"
)

// Bend is the change that leads the course of a driver through a value in a month, as far
// as its shape can: in the first month where it stands today; where it is told by month, or
// is constant, what is told; else what its shape grows by, in the case that the study is
// computed in, found by halving. It fails where no growth that is taken leads there.
func (s *Study) Bend(driver string, month usage.Month, to usage.Quantity) (document.Change, error) {
	at := slices.IndexFunc(s.Drivers, func(d Setting) bool { return d.Driver == driver })
	t := int(month - s.Start)
	if at < 0 || t < 0 || t >= s.Horizon {
		return nil, fmt.Errorf("%s is no month of the horizon of a driver that is set", month)
	}
	path := document.Path("drivers").To(driver)
	p := s.Drivers[at].Path
	if p.Shape == usage.ByMonth && t > 0 {
		step, was := path.To("told", month.ISO(), "value"), ""
		if k := slices.IndexFunc(p.Told, func(one usage.Told) bool { return one.Month == month }); k >= 0 {
			was = p.Told[k].Value.String()
		}
		return set(step, was, to.String()), nil
	}
	field := steers(&p, s.Case)[len(steers(&p, s.Case))-1]
	if t == 0 || p.Shape == usage.Constant {
		field = "now"
	}
	if field == "ceiling" {
		field = "growth"
	}
	return s.lead(path, p, field, t, to)
}

func set(at document.Path, was, to string) document.Change {
	if was == to {
		return nil
	}
	return document.Change{{Do: document.Set, Path: at, Was: was, To: to}}
}

// lead finds the value of a field that leads a course through a value in month t.
func (s *Study) lead(path document.Path, p usage.Path, field string, t int, to usage.Quantity) (document.Change, error) {
	low, high, step := 0.0, usage.Most.Float(), 1e6
	switch field {
	case "growth":
		low, high, step = usage.LeastGrowth.Float(), usage.MostGrowth.Float(), 1e6
		if p.Ends() == usage.SCurve {
			low = 0
		}
	case "add":
		low = -high
	}
	with := func(x float64) usage.Path {
		one := p.Under(s.Case)
		millionths := int64(math.Round(x*step)) * int64(1e6/step)
		switch field {
		case "growth":
			one.Growth = money.Share(millionths)
		case "add":
			one.Add = usage.Quantity(millionths)
		case "joins":
			one.Joins = usage.Quantity(millionths)
		default:
			one.Now = usage.Quantity(millionths)
		}
		return one
	}
	value := func(x float64) float64 {
		one := with(x)
		return one.Over(usage.When{Start: s.Start}, t+1)[t]
	}
	want := to.Float()
	if value(low) > want || value(high) < want {
		return nil, fmt.Errorf("no growth that is taken leads to %s in %s", to.Grouped(), s.Month(t))
	}
	for range 120 {
		if mid := low + (high-low)/2; value(mid) < want {
			low = mid
		} else {
			high = mid
		}
	}
	x := high
	// Values are told rounded up: what comes to the same from below is not told as one more.
	if below, above := value(low), value(high); above > want && math.Ceil(below) == math.Ceil(want) || math.Abs(below-want) < math.Abs(above-want) {
		x = low
	}
	found := with(x)
	if v := p.Variant(s.Case); v != nil {
		path = path.To(string(s.Case))
		is := *v
		switch field {
		case "growth":
			return set(path.To(field), given(growthShare).Text(is.Growth), found.Growth.String()), nil
		case "add":
			return set(path.To(field), given(amountOf).Text(is.Add), found.Add.String()), nil
		case "joins":
			return set(path.To(field), quantityText(is.Joins), found.Joins.String()), nil
		}
		return set(path.To(field), quantityText(is.Now), found.Now.String()), nil
	}
	switch field {
	case "growth":
		return set(path.To(field), p.Growth.String(), found.Growth.String()), nil
	case "add":
		return set(path.To(field), p.Add.String(), found.Add.String()), nil
	case "joins":
		return set(path.To(field), p.Joins.String(), found.Joins.String()), nil
	}
	return set(path.To(field), p.Now.String(), found.Now.String()), nil
}

func quantityText(g usage.Given[usage.Quantity]) string {
	if !g.Told {
		return ""
	}
	return g.Value.String()
}
