// Package quote holds what pricing one plan at one reading comes to: a receipt, or
// the reasons why the plan cannot serve.
package quote

import (
	"fmt"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// Readings are what a platform's meters show, by meter key, as they are
// billed: rounded up to whole units unless the meter counts fractions.
type Readings map[string]usage.Quantity

// Read works out every meter of an edition from the drivers' values. A fault
// names the meter and wraps a [*usage.FormulaError] or [usage.ErrRange].
func Read(e *pricelist.Edition, values usage.Values) (Readings, error) {
	readings := make(Readings, len(e.Meters))
	for _, m := range e.Meters {
		v, err := m.Counts.Value(values)
		if err != nil {
			return nil, fmt.Errorf("%s: meter %q: %w", e.Platform.Name, m.Key, err)
		}
		q, err := usage.FromFloat(v)
		if err != nil {
			return nil, fmt.Errorf("%s: meter %q: %w", e.Platform.Name, m.Key, err)
		}
		if !m.Fractions {
			q = q.Ceil()
		}
		readings[m.Key] = q
	}
	return readings, nil
}

// Ratchet returns the readings that are billed inside a term: of each stock
// the higher of the level so far and the level now, of each flow what is used
// now.
func (r Readings) Ratchet(e *pricelist.Edition, sofar Readings) Readings {
	out := make(Readings, len(r))
	for _, m := range e.Meters {
		out[m.Key] = r[m.Key]
		if m.Kind == usage.Stock {
			out[m.Key] = max(r[m.Key], sofar[m.Key])
		}
	}
	return out
}
