package formats

import (
	"context"
	"time"

	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

// UsageFormat is the first word of a usage file.
const UsageFormat = study.UsageFormat

// Usage is a usage file, with what computes with it.
type Usage struct {
	study.Usage
	Model *usage.Model
}

// ReadUsage reads a usage file and checks it whole. A file at fault is refused
// with [Faults].
func ReadUsage(ctx context.Context, data []byte, today time.Time) (*Usage, error) {
	file, err := openUpTo(ctx, data, today, single)
	if err != nil {
		return nil, err
	}
	u := &Usage{Usage: study.UsageFields.Read(ctx, file.root, "", &file.r.faults)}
	if file.r.faults.Count() == 0 && !file.r.ended() {
		if u.Model, err = u.Usage.Model(usage.Expected); err != nil {
			file.r.faults.Add(int(file.root.Field("drivers").Line), "drivers", "%v", err)
		}
	}
	if err := file.r.done(); err != nil {
		return nil, err
	}
	return u, nil
}
