// Package notation tells how values are written in files and typed by people:
// amounts, shares, quantities, months, names. What all documents share stands in
// document.
package notation

import (
	"fmt"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/doors"
)

// Plainly reads a number as people type it.
func Plainly[V any](parse func(string) (V, error)) func(string) (V, error) {
	return func(s string) (V, error) {
		plain, err := money.Plain(s)
		if err != nil {
			var none V
			return none, err
		}
		return parse(plain)
	}
}

const decimalForm = `^-?[0-9]+(\.[0-9]{1,6})?$`

// MostPrice is the largest price that is taken.
const MostPrice = 1_000_000_000

// Amount is an amount of money from a least one up.
func Amount(want string, least money.Amount) document.Notation[money.Amount] {
	n := document.Between(document.Notation[money.Amount]{
		Parse: money.ParseAmount, Typed: Plainly(money.ParseAmount), Text: money.Amount.String, Show: money.Amount.Grouped,
		As: document.IsText, Also: document.IsNumber, Input: document.Input{Decimal: true, Longest: 40}, Schema: map[string]any{"pattern": decimalForm, "minimum": 0},
	}, least, money.Units(MostPrice))
	n.Want = want
	return n
}

// Prices, and rates of exchange.
var (
	Price = inCurrency(Amount(`an amount such as "12.00", from 0 to 1,000,000,000`, 0))
	Rate  = Amount("a rate above 0", 1)
)

func inCurrency(n document.Notation[money.Amount]) document.Notation[money.Amount] {
	n.Input.Money = true
	return n
}

// Quantity is a quantity of a driver or a meter.
var Quantity = document.Notation[usage.Quantity]{
	Parse: usage.ParseQuantity, Typed: Plainly(usage.ParseQuantity), Text: usage.Quantity.String, Show: usage.Quantity.Grouped,
	Want: "a number from 0 to " + usage.Most.Format(), As: document.IsText, Also: document.IsNumber, Input: document.Input{Decimal: true, Longest: 40},
	Schema: map[string]any{"pattern": decimalForm, "minimum": 0},
}

// Share is a percentage within bounds, typed with its sign or without.
func Share(least, most money.Share) document.Notation[money.Share] {
	n := document.Between(document.Notation[money.Share]{
		Parse: money.ParseShare, Typed: typedShare, Text: money.Share.String, Show: money.Share.Grouped,
		As: document.IsText, Also: document.IsNumber, Input: document.Input{Decimal: true, Unit: "%",
			Longest: 40}, Schema: map[string]any{"pattern": `^-?[0-9]+(\.[0-9]{1,4})?%?$`},
	}, least, most)
	n.Want = fmt.Sprintf("a share from %s to %s, such as \"15%%\"", least, most)
	return n
}

func typedShare(s string) (money.Share, error) {
	return Plainly(money.ParseShare)(strings.TrimSuffix(strings.TrimSpace(s), "%"))
}

// Month is a month of the calendar.
var Month = document.Notation[usage.Month]{
	Parse: usage.ParseMonth, Text: func(m usage.Month) string {
		if m == 0 {
			return ""
		}
		return m.ISO()
	}, Typed: typedMonth, Show: usage.Month.String, Want: `a month such as 2027-01 or Jan 2027`, As: document.IsText, Input: document.Input{Longest: 20}, Schema: map[string]any{"pattern": `^[0-9]{4}-[0-9]{2}$`},
}

// typedMonth reads 2027-01, Jan 2027 and January 2027.
func typedMonth(s string) (usage.Month, error) {
	for _, form := range []string{"Jan 2006", "January 2006"} {
		if at, err := time.Parse(form, s); err == nil {
			s = at.Format("2006-01")
		}
	}
	return usage.ParseMonth(s)
}

// Budget is an amount of which 0 is none.
var Budget = func() document.Notation[money.Amount] {
	n := Price
	typed := n.Typed
	n.Typed = func(s string) (money.Amount, error) {
		if s == "" {
			return 0, nil
		}
		return typed(s)
	}
	n.Show = func(a money.Amount) string {
		if a == 0 {
			return ""
		}
		return a.Grouped()
	}
	return n
}()

// Currency is a currency by its code.
var Currency = document.Notation[money.Currency]{
	Typed: func(s string) (money.Currency, error) { return money.ParseCurrency(strings.ToUpper(s)) },
	Parse: money.ParseCurrency, Text: money.Currency.Code, Want: `an ISO 4217 code such as "EUR"`, As: document.IsText, Input: document.Input{Longest: 3}, Schema: map[string]any{"pattern": "^[A-Z]{3}$"},
}

// KeptCurrency is a currency in what was taken before, which may be withdrawn by
// now.
var KeptCurrency = func() document.Notation[money.Currency] {
	n := Currency
	n.Parse = money.KeptCurrency
	return n
}()

// Code is a currency by its code alone.
func Code(of document.Notation[money.Currency]) document.Notation[string] {
	return document.Notation[string]{
		Parse: func(s string) (string, error) { c, err := of.Parse(s); return c.Code(), err },
		Typed: func(s string) (string, error) { c, err := of.Typed(s); return c.Code(), err },
		Text:  func(s string) string { return s }, Want: of.Want, As: document.IsText, Input: of.Input, Schema: of.Schema,
	}
}

// Formula is a formula over drivers, as it is written; nothing is none.
var Formula = document.Notation[string]{
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

// Person is how names of people are written.
var Person = document.Notation[string]{
	Parse: func(s string) (string, error) {
		name, err := doors.FoldName(s)
		if err != nil {
			return name, document.Problem(fmt.Sprintf("%q is no name: %v", document.Shorten(s, doors.MostName), err))
		}
		return name, nil
	},
	Text: func(s string) string { return s }, Want: "a name", As: document.IsText, Input: document.Input{Longest: doors.MostName},
}

// Title is a title of one line, in which every character is seen.
func Title(longest int) document.Notation[string] { return document.Line(longest, doors.Hidden) }

// Note is a note of one line.
func Note(longest int) document.Notation[string] {
	return document.Line(longest, doors.HiddenInNotes)
}

// TitleOrNote is a text of one line: up to 120 characters every one is seen, in
// longer ones what joins letters and emoji is let pass.
func TitleOrNote(longest int) document.Notation[string] {
	if longest <= 120 {
		return Title(longest)
	}
	return Note(longest)
}
