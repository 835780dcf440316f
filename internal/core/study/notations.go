package study

import (
	"regexp"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/pricelist"
)

// How the values of a study are written and typed that no other document has.

var feature = document.Matching(pricelist.FeatureForm, `a feature such as "automation/event-triggers"`)

var halves = document.Notation[fit.Halves]{
	Parse: fit.ParseHalves, Typed: notation.Plainly(fit.ParseHalves), Text: fit.Halves.String,
	Want: "a rating that is a number from 0 to 9 in halves, such as 6.5", As: document.IsText, Also: document.IsNumber, Input: document.Input{Decimal: true, Longest: 4},
	Schema: map[string]any{"pattern": `^[0-9](\.[05])?$`, "minimum": 0, "maximum": 9, "multipleOf": 0.5},
}

// personKey names a person as the database does.
var personKey = document.Matching(regexp.MustCompile(`^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$`), "a person's key")
