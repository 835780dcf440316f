package study

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/doors"
)

// How the values of a study are written and typed.

var (
	key     = document.Matching(document.KeyForm, "a key of small letters, digits, - and _")
	feature = document.Matching(pricelist.FeatureForm, `a feature such as "automation/event-triggers"`)
)

// plainly reads a number as people type it, with the sign of a percentage or
// without.
func plainly[V any](parse func(string) (V, error)) func(string) (V, error) {
	return func(s string) (V, error) {
		plain, err := money.Plain(strings.TrimSpace(strings.TrimSuffix(s, "%")))
		if err != nil {
			var none V
			return none, err
		}
		return parse(plain)
	}
}

const decimalForm = `^-?[0-9]+(\.[0-9]{1,6})?$`

// mostPrice is the largest price that is taken.
const mostPrice = 1_000_000_000

func amount(want string, least money.Amount) document.Notation[money.Amount] {
	n := document.Between(document.Notation[money.Amount]{
		Parse: money.ParseAmount, Typed: plainly(money.ParseAmount), Text: money.Amount.String, Show: money.Amount.Grouped,
		As: document.IsText, Also: document.IsNumber, Input: document.Input{Decimal: true, Longest: 40}, Schema: map[string]any{"pattern": decimalForm, "minimum": 0},
	}, least, money.Units(mostPrice))
	n.Want = want
	return n
}

var (
	price = amount(`an amount such as "12.00", from 0 to 1,000,000,000`, 0)
	rate  = amount("a rate above 0", 1)
)

var quantity = document.Notation[usage.Quantity]{
	Parse: usage.ParseQuantity, Typed: plainly(usage.ParseQuantity), Text: usage.Quantity.String, Show: usage.Quantity.Grouped,
	Want: "a number from 0 to " + usage.Most.Format(), As: document.IsText, Also: document.IsNumber, Input: document.Input{Decimal: true, Longest: 40},
	Schema: map[string]any{"pattern": decimalForm, "minimum": 0},
}

func share(least, most money.Share) document.Notation[money.Share] {
	n := document.Between(document.Notation[money.Share]{
		Parse: money.ParseShare, Typed: plainly(money.ParseShare), Text: money.Share.String, Show: money.Share.Grouped,
		As: document.IsText, Also: document.IsNumber, Input: document.Input{Decimal: true, Unit: "%", Longest: 40}, Schema: map[string]any{"pattern": `^-?[0-9]+(\.[0-9]{1,4})?%?$`},
	}, least, most)
	n.Want = fmt.Sprintf("a share from %s to %s, such as \"15%%\"", least, most)
	return n
}

var halves = document.Notation[fit.Halves]{
	Parse: fit.ParseHalves, Typed: plainly(fit.ParseHalves), Text: fit.Halves.String,
	Want: "a rating that is a number from 0 to 9 in halves, such as 6.5", As: document.IsText, Also: document.IsNumber, Input: document.Input{Decimal: true, Longest: 4},
	Schema: map[string]any{"pattern": `^[0-9](\.[05])?$`, "minimum": 0, "maximum": 9, "multipleOf": 0.5},
}

var month = document.Notation[usage.Month]{
	Parse: usage.ParseMonth, Text: func(m usage.Month) string {
		if m == 0 {
			return ""
		}
		return m.ISO()
	}, Show: usage.Month.String, Want: `a month of the form 2027-01`, As: document.IsText, Input: document.Input{Longest: 7}, Schema: map[string]any{"pattern": `^[0-9]{4}-[0-9]{2}$`},
}

var currency = document.Notation[money.Currency]{
	Parse: money.ParseCurrency, Text: money.Currency.Code, Want: `an ISO 4217 code such as "EUR"`, As: document.IsText, Input: document.Input{Longest: 3}, Schema: map[string]any{"pattern": "^[A-Z]{3}$"},
}

// code is a currency by its code alone.
var code = document.Notation[string]{
	Parse: func(s string) (string, error) { c, err := money.ParseCurrency(s); return c.Code(), err },
	Text:  func(s string) string { return s }, Want: currency.Want, As: document.IsText, Input: currency.Input, Schema: currency.Schema,
}

func writeDay(d time.Time) string {
	if d.IsZero() {
		return ""
	}
	return d.Format(time.DateOnly)
}

func parseDay(s string) (time.Time, error) {
	d, err := time.Parse(time.DateOnly, s)
	if err == nil && (d.Year() < 1990 || d.Year() > 2199) {
		err = errors.New("out of range")
	}
	return d, err
}

var day = document.Notation[time.Time]{
	Parse: parseDay, Text: writeDay, Show: func(d time.Time) string { return d.Format("2 Jan 2006") },
	Want: `a day such as "2026-10-02"`, As: document.IsText, Input: document.Input{Longest: 10}, Schema: map[string]any{"format": "date"},
}

// until is a day that is not later than another.
func until(latest time.Time) document.Notation[time.Time] {
	n := day
	n.Parse = func(s string) (time.Time, error) {
		d, err := parseDay(s)
		if err == nil && d.After(latest) {
			err = document.Problem(s + " is in the future")
		}
		return d, err
	}
	return n
}

// moment is a point in time that is not later than a day.
func moment(latest time.Time) document.Notation[time.Time] {
	return document.Notation[time.Time]{
		Parse: func(s string) (time.Time, error) {
			at, err := time.Parse(time.RFC3339Nano, s)
			switch {
			case err == nil && (at.Year() < 1990 || at.Year() > 2199):
				err = errors.New("out of range")
			case err == nil && at.After(latest.AddDate(0, 0, 1)):
				err = document.Problem(s + " is in the future")
			}
			return at.UTC(), err
		},
		Text: func(t time.Time) string {
			if t.IsZero() {
				return ""
			}
			return t.UTC().Format(time.RFC3339Nano)
		},
		Want: `a moment such as "2026-10-02T09:30:00Z"`, As: document.IsText, Schema: map[string]any{"format": "date-time"},
	}
}

var formula = document.Notation[string]{
	Parse: func(s string) (string, error) {
		if s == "" {
			return "", nil
		}
		f, err := usage.ParseFormula(s)
		if err != nil {
			return s, document.Problem(err.Error())
		}
		return f.String(), nil
	},
	Text: func(s string) string { return s }, Want: `a formula such as "contacts * 2"`, As: document.IsText, Input: document.Input{Longest: 500},
}

var person = document.Notation[string]{
	Parse: func(s string) (string, error) {
		name, err := doors.FoldName(s)
		if err != nil {
			return name, document.Problem(fmt.Sprintf("%q is no name: %v", document.Shorten(s, doors.MostName), err))
		}
		return name, nil
	},
	Text: func(s string) string { return s }, Want: "a name", As: document.IsText, Input: document.Input{Longest: doors.MostName},
}

// Titles and notes of one line.
func title(longest int) document.Notation[string] { return document.Line(longest, doors.Hidden) }

func note(longest int) document.Notation[string] {
	return document.Line(longest, doors.HiddenInNotes)
}
