package study

import (
	"regexp"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// How the values of a study are written and typed that no other document has.

// featureOrNone is the key of a feature, or nothing.
var featureOrNone = orNone(pricelist.FeatureKey)

// knownOrNone says where something is known from, or nothing.
var knownOrNone = orNone(document.Among(pricelist.PricePage, pricelist.Docs, pricelist.Asked, pricelist.HandsOn))

// orNone lets a text be empty.
func orNone[V ~string](n document.Notation[V]) document.Notation[V] {
	parse := n.Parse
	n.Want += ", or nothing"
	n.Parse = func(s string) (V, error) {
		if s == "" {
			return "", nil
		}
		return parse(s)
	}
	return n
}

// wholeOrNone is a whole number from 1, or nothing for 0.
func wholeOrNone(most int) document.Notation[int] {
	n := document.Whole(0, most)
	parse := n.Parse
	n.Typed = func(s string) (int, error) {
		if s == "" {
			return 0, nil
		}
		plain, err := money.Plain(s)
		if err != nil {
			return 0, err
		}
		return parse(plain)
	}
	n.Show = func(v int) string {
		if v == 0 {
			return ""
		}
		return money.Thousands(uint64(v))
	}
	return n
}

// quantityOrNone is a quantity, or nothing for 0.
var quantityOrNone = func() document.Notation[usage.Quantity] {
	n := notation.Quantity
	typed, show := n.Typed, n.Show
	n.Typed = func(s string) (usage.Quantity, error) {
		if s == "" {
			return 0, nil
		}
		return typed(s)
	}
	n.Show = func(q usage.Quantity) string {
		if q == 0 {
			return ""
		}
		return show(q)
	}
	return n
}()

var halves = document.Notation[fit.Halves]{
	Parse: fit.ParseHalves, Typed: notation.Plainly(fit.ParseHalves), Text: fit.Halves.String,
	Want: "a rating that is a number from 0 to 9 in halves, such as 6.5", As: document.IsText, Also: document.IsNumber, Input: document.Input{Decimal: true, Longest: 4},
	Schema: map[string]any{"pattern": `^[0-9](\.[05])?$`, "minimum": 0, "maximum": 9, "multipleOf": 0.5},
}

// personKey names a person as the database does.
var personKey = document.Matching(regexp.MustCompile(`^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$`), "a person's key")
