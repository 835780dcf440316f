package outside

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"time"

	"ninecoins/internal/core/money"
)

// Rates are reference rates of exchange of one day: units of a currency for one of the base.
type Rates struct {
	On   time.Time
	Base money.Currency
	Of   map[string]money.Amount // by code, above 0
}

const mostRates = 256 << 10

// RatesOn fetches the reference rates of a day: those of the last day on which there were
// any, which may be an earlier one. The table is CSV with a head: date, and a code for each
// currency; its first cell below is the day. The error is a [*Problem], or [ErrNone].
func (s *Service) RatesOn(ctx context.Context, day time.Time) (*Rates, error) {
	data, err := s.get(ctx, "/rates/"+day.Format(time.DateOnly)+".csv", mostRates)
	if err != nil {
		return nil, err
	}
	return parseRates(data, day)
}

func parseRates(data []byte, day time.Time) (*Rates, error) {
	rows, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
	if err != nil || len(rows) < 2 || len(rows[0]) < 2 || rows[0][0] != "date" {
		return nil, &Problem{"what it sends is no table of rates", err}
	}
	on, err := time.Parse(time.DateOnly, rows[1][0])
	if err != nil || on.After(day) {
		return nil, &Problem{fmt.Sprintf("its table is of %q, and was asked for as of %s", rows[1][0], day.Format(time.DateOnly)), err}
	}
	r := &Rates{On: on, Base: money.MustCurrency("EUR"), Of: map[string]money.Amount{}}
	for i, code := range rows[0][1:] {
		if i+1 >= len(rows[1]) || rows[1][i+1] == "" || rows[1][i+1] == "N/A" {
			continue
		}
		if _, err := money.ParseCurrency(code); err != nil {
			return nil, &Problem{fmt.Sprintf("its table has a currency %q, which ISO 4217 does not list", code), err}
		}
		rate, err := money.ParseAmount(rows[1][i+1])
		if err != nil || rate <= 0 || rate > 1_000_000*money.Scale {
			return nil, &Problem{fmt.Sprintf("its rate of %s is %q", code, rows[1][i+1]), err}
		}
		r.Of[code] = rate
	}
	return r, nil
}

// Between is how many units of one currency another one's unit comes to, to the millionth;
// false where a rate of either is not in the table.
func (r *Rates) Between(from, to money.Currency) (money.Amount, bool) {
	a, b := money.Amount(money.Scale), money.Amount(money.Scale)
	ok := true
	if from != r.Base {
		a, ok = r.Of[from.Code()]
	}
	if to != r.Base && ok {
		b, ok = r.Of[to.Code()]
	}
	if !ok || a <= 0 {
		return 0, false
	}
	// to per base over from per base, rounded half up
	return money.Amount((int64(b)*money.Scale + int64(a)/2) / int64(a)), true
}
