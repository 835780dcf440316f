package study

import (
	"testing"

	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
)

// TestPhrasesTakeNoneOneAndSeveral goes through the builders of sentences.
func TestPhrasesTakeNoneOneAndSeveral(t *testing.T) {
	for want, got := range map[string]string{
		"No option": outOf(0, 1, "option"), "The only option": outOf(1, 1, "option"), "None of 5 options": outOf(0, 5, "option"),
		"1 of 5 options": outOf(1, 5, "option"), "All 5 options": outOf(5, 5, "option"),
		"the month": allOf(1, "month"), "all 36 months": allOf(36, "month"),
		"1 rating is": are(1, "rating"), "5 ratings are": are(5, "rating"), "2 are": are(2, ""),
		"": list(nil), "a": list([]string{"a"}), "a, b and c": list([]string{"a", "b", "c"}),
		"Jan 2027": span(24324, 24324), "Jan 2027 to Mar 2027": span(24324, 24326),
		"élan of it": usage.LowerFirst("Élan of it"), "CRM seats": usage.LowerFirst("CRM seats"), "contacts": usage.LowerFirst("Contacts"), "a ": usage.LowerFirst("A "),
	} {
		assert.Equal(t, want, got)
	}
	assert.Empty(t, usage.LowerFirst(""))
}
