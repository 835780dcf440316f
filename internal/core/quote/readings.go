// Package quote holds what pricing one plan at one reading comes to: a receipt, or
// the reasons why the plan cannot serve.
package quote

import "ninecoins/internal/core/usage"

// Readings are what a platform's meters show, by meter key, as they are
// billed: rounded up to whole units unless the meter counts fractions.
type Readings map[string]usage.Quantity
