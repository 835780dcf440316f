package study

import (
	"context"
	"errors"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/core/work"
)

// work works the options out, beside each other. Its error is that of the context.
func (o *Outcome) work(ctx context.Context, options []Option) error {
	each := make([]Outcome, len(options)) // with the result and the faults of one option
	err := work.Each(ctx, len(options), func(i int) error {
		option, own := options[i], *o
		option.Name, own.Faults = o.Study.told(&option), nil
		var r Result
		err := work.Guarded(func() (err error) { r, err = own.result(option); return err })
		if p := (*work.Panic)(nil); errors.As(err, &p) {
			r, own.Panic = bare(o.Study, option), p
		}
		if err != nil && ctx.Err() != nil {
			return ctx.Err()
		}
		if err != nil {
			r.unworkable(o.Study.Horizon)
			own.fault(document.Path("options").To(option.Key), "%s cannot be computed: %v", option.Name, err)
		}
		each[i] = Outcome{Results: []Result{r}, Faults: own.Faults, Panic: own.Panic}
		return nil
	})
	for i := range each {
		o.Results, o.Faults = append(o.Results, each[i].Results...), append(o.Faults, each[i].Faults...)
		if o.Panic == nil {
			o.Panic = each[i].Panic
		}
	}
	return err
}

// guarded does some things, each for itself. Of the first that panics that is kept.
func (o *Outcome) guarded(all ...func()) {
	for _, do := range all {
		err := work.Guarded(func() error { do(); return nil })
		if p := (*work.Panic)(nil); errors.As(err, &p) && o.Panic == nil {
			o.Panic = p
			o.fault("title", "this study could not be worked out in full: %v", p)
		}
	}
}

// withoutUsage has no driver of the study be a number.
func (o *Outcome) withoutUsage() {
	o.Model, _ = usage.NewModel(nil, nil)
	o.Values, _ = o.Model.Columns(o.Study.Horizon)
	for _, d := range o.Model.Drivers() {
		o.Broken = append(o.Broken, d.Key)
	}
	for _, d := range o.Study.Own {
		o.Broken = append(o.Broken, d.Key)
	}
	o.Values = o.Values.Without(o.Broken...)
}

// bare is an option of which nothing was worked out.
func bare(s *Study, option Option) Result {
	r := Result{Option: option, Coverage: make([]coverage.Cell, len(s.Needs))}
	for _, t := range option.Tools() {
		r.Tools = append(r.Tools, ToolResult{Tool: t})
	}
	for n := range s.Needs {
		r.Coverage[n] = coverage.Cell{Need: s.Needs[n], Answer: coverage.Open, Has: pricelist.Unknown}
	}
	return r
}
