package study_test

import (
	"testing"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What one list limits and another says nothing of is told of the plan that is taken, as
// long as the study uses it; where the list says that it has no limit, there is nothing to ask.
func TestWhatAListSaysNothingOfCountsAsUnlimitedAndIsSaid(t *testing.T) {
	a, b := option("A", 9999, 10), option("B", 9999, 12)
	seats, err := usage.ParseFormula("seats")
	require.NoError(t, err)
	b.Edition.Meters = append(b.Edition.Meters, pricelist.Meter{Key: "seats", Unit: "seat", Kind: usage.Stock, Counts: seats})
	plan := &b.Edition.Plans[0]
	plan.Limits = []pricelist.Limit{{Meter: "seats", Most: usage.Of(9), Beyond: pricelist.MoveUp}}
	s := of(a, b)
	assert.Empty(t, compute(t, s).SayUnsaid(), "no seats, nothing to ask")
	s.Drivers = append(s.Drivers, study.Setting{Driver: "seats", Path: usage.Path{Now: usage.Of(3)}})
	o := compute(t, s)
	assert.Equal(t, "Counted as unlimited, as the price list says nothing of it: seats on Plan (A).", o.SayUnsaid())
	vendors := o.Vendors()
	assert.Equal(t, []string{"Is there a limit or a price for seats on Plan? Your price list says nothing of it."}, vendors[0].Unsaid)
	assert.Empty(t, vendors[1].Unsaid)
	assert.Contains(t, o.AskVendor(&vendors[0]), "1. Is there a limit or a price for seats on Plan?")
	a.Edition.Meters = append(a.Edition.Meters, b.Edition.Meters[1])
	assert.NotEmpty(t, compute(t, s).SayUnsaid(), "a meter that the plan taken says nothing of")
	a.Edition.Plans[0].Limits = []pricelist.Limit{{Meter: "seats", Unlimited: true}}
	assert.Empty(t, compute(t, s).SayUnsaid(), "said to have no limit")
	// A stack says what one of its tools says.
	a.Edition.Plans[0].Limits, a.Edition.Meters = nil, a.Edition.Meters[:1]
	beside := b.Tool
	beside.Key, beside.Platform = "beside", "B2"
	s.Options[0].With = []study.Tool{beside}
	assert.Empty(t, compute(t, s).SayUnsaid())
}
