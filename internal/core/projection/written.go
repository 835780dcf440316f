package projection

import (
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/tariff"
)

// Working is how a month was worked out, for a workbook.
type Working struct {
	Program  *tariff.Program
	Since    int // months from signing to the bill
	Into     int // months from the bill to this one
	From     int // month from which on stocks are billed at their highest
	Months   int // that the bill is spread over
	Once     money.Amount
	Lost     money.Amount
	TermFrom int
}

// Working tells how a month was worked out that is served.
func (m *Month) Working() Working {
	return Working{Program: m.Program, Since: m.since, Into: m.into, From: m.TermStart, Months: m.months(), Once: m.Once, Lost: m.Lost, TermFrom: m.TermStart}
}

// Plainly returns the programs of which each month costs the cheapest, whatever was
// signed before; nil where costs hang on what was signed when.
func Plainly(c Candidate) ([]*tariff.Program, error) { return quickOf(&c) }
