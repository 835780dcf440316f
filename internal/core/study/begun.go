package study

import (
	"slices"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/usage"
)

// Begun is a study before anything is settled: three years from the month after
// a day, paid monthly, in a currency (euros for none).
func Begun(today time.Time, in money.Currency) Study {
	if in.IsZero() {
		in, _ = money.ParseCurrency("EUR") // which there is
	}
	start := usage.Month(today.Year()*12 + int(today.Month()) - 1).Plus(1)
	return Study{Currency: in, Start: start, Horizon: 36, Pay: projection.Monthly, Patience: 90}
}

// Copied is a study like another one, under another title. Its ratings are not
// copied: what was found out for one case is found out anew for the next.
func Copied(from *Study) Study {
	st := *from
	title := []rune("Copy of " + from.Title)
	st.Title = string(title[:min(len(title), 120)])
	st.Ratings, st.People = nil, nil
	st.Options = slices.Clone(from.Options)
	return st
}
