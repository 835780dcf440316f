package formats

import (
	"context"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

// UsageFormat is the first word of a usage file.
const UsageFormat = "nine-coins/usage/1"

// Usage is a usage file: where the drivers stand and how they grow.
type Usage struct {
	Start   usage.Month
	Drivers []study.Setting
	Own     []usage.Driver
	Model   *usage.Model
}

// ReadUsage reads a usage file and checks it whole. A file at fault is refused
// with [Faults].
func ReadUsage(ctx context.Context, data []byte, today time.Time) (*Usage, error) {
	file, err := openUpTo(ctx, data, today, single)
	if err != nil {
		return nil, err
	}
	f := file.fields(UsageFormat)
	u := &Usage{Start: f.month("start")}
	u.Drivers, u.Own, u.Model = readDrivers(f)
	f.done()
	if err := file.r.done(); err != nil {
		return nil, err
	}
	return u, nil
}

// readDrivers reads "drivers" and "own_drivers" and joins them to a model,
// which is nil when that fails.
func readDrivers(f *fields) ([]study.Setting, []usage.Driver, *usage.Model) {
	var settings []study.Setting
	var own []usage.Driver
	paths := map[string]usage.Path{}
	before, told := f.r.faults.Count(), map[string]bool{}
	for _, d := range usage.Catalogue() {
		told[d.Key] = true
	}
	f.each("own_drivers", optional, 40, func(d *fields) {
		one := usage.Driver{Key: d.key("key", must), Name: d.text("name", must, 60), Unit: d.text("unit", must, 40), About: d.text("about", optional, 300),
			Kind: usage.Kind(d.choice("kind", must, string(usage.Stock), string(usage.Flow)))}
		d.know("formula")
		if d.node.Field("formula") != nil {
			one.Formula = d.formula("formula").String()
		}
		if told[one.Key] {
			d.refuse(d.node, "key", "driver %q is told twice", one.Key)
		}
		told[one.Key] = true
		own = append(own, one)
	})
	f.each("drivers", must, 80, func(d *fields) {
		s := study.Setting{Driver: d.key("driver", must), Path: usage.Path{Now: d.quantity("now", must), Growth: d.share("growth", optional, usage.LeastGrowth, usage.MostGrowth)}}
		if _, twice := paths[s.Driver]; twice {
			d.refuse(d.node, "driver", "driver %q is set twice", s.Driver)
		}
		paths[s.Driver] = s.Path
		settings = append(settings, s)
	})
	if f.r.faults.Count() > before || f.r.ended() {
		return settings, own, nil
	}
	model, err := usage.NewModel(own, paths)
	if err != nil {
		f.refuse(f.node.Field("drivers"), "drivers", "%v", err)
	}
	return settings, own, model
}

func (f *fields) month(name string) usage.Month {
	n := f.of(name, must, "a month such as \"2027-01\"", document.IsText)
	if n == nil {
		return 0
	}
	m, err := usage.ParseMonth(n.Text)
	if err != nil {
		f.refuse(n, name, "%v", err)
	}
	return m
}
