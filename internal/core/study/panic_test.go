package study_test

import (
	"context"
	"testing"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/work"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAnOptionOnWhichTheProgramFailsIsAtFault has a list of a kind that no check lets in.
func TestAnOptionOnWhichTheProgramFailsIsAtFault(t *testing.T) {
	s := of(option("a", 10_000, 50), option("b", 10_000, 70))
	s.Options[0].Edition.Plans[0].Charges[0].Meter = "gone"
	o := study.Compute(s)
	require.NotNil(t, o.Panic)
	assert.Contains(t, o.Panic.Trace, "study.(*Outcome)")
	require.Len(t, o.Results, 2)
	assert.True(t, o.Results[0].AtFault)
	assert.False(t, o.Results[0].In())
	assert.Equal(t, money.Units(70*6), o.Results[1].Schedule.Total, "the rest goes on")
	require.NotEmpty(t, o.Faults)
	assert.Equal(t, document.Path("options.a"), o.Faults[0].At)
	assert.NotEmpty(t, o.Facts().Notes)
}

// TestWhatFailsBeforeTheOptionsLeavesTheStudy has an option without a list, which no reader lets in.
func TestWhatFailsBeforeTheOptionsLeavesTheStudy(t *testing.T) {
	s := of(option("a", 10_000, 50), option("b", 10_000, 70))
	s.Options[0].Tool.Edition = nil
	o := study.Compute(s)
	require.NotNil(t, o.Panic)
	require.Len(t, o.Results, 2)
	assert.Equal(t, document.Path("title"), o.Faults[0].At)
	assert.NotEmpty(t, o.Facts().About)
	for _, c := range o.Coins {
		assert.NotEmpty(t, c.Key)
	}
}

func TestComputingEndsWithItsReader(t *testing.T) {
	s := of(option("a", 10_000, 50))
	ctx, leave := context.WithCancel(context.Background())
	leave()
	_, err := study.ComputeWithin(ctx, s)
	require.ErrorIs(t, err, context.Canceled)
	o := compute(t, s)
	for name, do := range map[string]func() error{
		"along":    func() error { _, err := o.Along(ctx, "contacts", 0, 1, 1000); return err },
		"roads":    func() error { _, err := o.Roads(ctx, nil); return err },
		"bargains": func() error { _, err := o.Bargains(ctx, nil); return err },
		"cases":    func() error { _, err := o.Cases(ctx); return err },
		"effects":  func() error { _, _, err := study.Effects(ctx, o, s.Options[0].Edition); return err },
	} {
		assert.ErrorIs(t, do(), context.Canceled, name)
	}
	_, err = o.Roads(context.Background(), nil)
	assert.NoError(t, err, "who leaves takes nothing from the next")
	assert.Nil(t, (*work.Panic)(o.Panic))
}
