package quote

import (
	"time"

	"ninecoins/internal/core/money"
)

// Customer is who asks: someone new who signs on a day, or someone who is on
// the platform today.
type Customer struct {
	Here bool // a customer already: may stay on closed plans, gets no offer for new customers
	Sign time.Time
}

// Basis is what totals are settled in.
type Basis struct {
	Currency money.Currency
	Rates    map[string]Rate // by ISO 4217 code
}

// Rate is an exchange rate on a day: units of the study's currency for one
// unit of another.
type Rate struct {
	Rate money.Amount
	On   time.Time
}
