package store_test

import (
	"strings"
	"testing"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/store"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var fields = []string{"driver", "growth", "pay", "weight", "best", "worst", "rating", "option"}

func TestEditsAreTakenBackAndMadeAgainInOrder(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	for n := range int64(60) {
		require.NoError(t, s.SetDriver(ctx, e, "seats", usage.Of(3+n), usage.Of(4+n)))
	}
	for range 60 {
		done, err := s.Undo(ctx, e)
		require.NoError(t, err)
		require.NotNil(t, done)
	}
	assert.Equal(t, usage.Of(3), load(t, s, e).Drivers[5].Path.Now, "more than 50 deep")
	done, err := s.Undo(ctx, e)
	require.NoError(t, err)
	assert.Nil(t, done, "nothing is left to undo")
	for range 2 {
		_, err = s.Redo(ctx, e)
		require.NoError(t, err)
	}
	assert.Equal(t, usage.Of(5), load(t, s, e).Drivers[5].Path.Now)
	recent, err := s.Recent(ctx, e)
	require.NoError(t, err)
	assert.Equal(t, "5", recent.Undo.Became)
	assert.Equal(t, "6", recent.Redo.Became)
	assert.Equal(t, "5", recent.Last.Became)

	require.NoError(t, s.SetPay(ctx, e, projection.Monthly, projection.Yearly))
	done, err = s.Redo(ctx, e)
	require.NoError(t, err)
	assert.Nil(t, done, "after a new change there is nothing to redo")
	history, err := s.History(ctx, e.Workspace, e.Study, store.Asked{Edits: fields, Most: 500})
	require.NoError(t, err)
	assert.Len(t, history, 61)
	assert.Equal(t, "pay", history[0].Edit)
}

func TestUndoDoesNotRunOverWhatWasWrittenSince(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	require.NoError(t, s.SetDriver(ctx, e, "seats", usage.Of(3), usage.Of(4)))
	require.NoError(t, s.SetDriver(ctx, e, "contacts", usage.Of(6400), usage.Of(7000)))
	history, err := s.History(ctx, e.Workspace, e.Study, store.Asked{Edits: fields, Most: 500})
	require.NoError(t, err)
	require.NoError(t, s.PutBack(ctx, e, history[1].ID, "4"), "an older change is put back as a new one")
	assert.Equal(t, usage.Of(3), load(t, s, e).Drivers[5].Path.Now)
	for range 2 {
		_, err = s.Undo(ctx, e)
		require.NoError(t, err)
	}
	assert.Equal(t, usage.Of(4), load(t, s, e).Drivers[5].Path.Now)
	assert.Equal(t, usage.Of(6400), load(t, s, e).Drivers[0].Path.Now)
	var changed *store.ChangedError
	require.ErrorAs(t, s.PutBack(ctx, e, history[1].ID, "9"), &changed, "something else stands there")
	assert.ErrorIs(t, s.PutBack(ctx, e, uuid.New(), "4"), store.ErrMissing)
	other := e
	other.Workspace = uuid.New()
	_, err = s.Undo(ctx, other)
	assert.ErrorIs(t, err, store.ErrMissing)
	none, err := s.History(ctx, other.Workspace, e.Study, store.Asked{Most: 500})
	require.NoError(t, err)
	assert.Empty(t, none)
}

func TestARatingThatComesBackHasItsReason(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	given := fit.Halves(17)
	reason := func() string {
		for _, r := range load(t, s, e).Ratings {
			if r.Option == "quirebird" && r.Criterion == "look" {
				return r.Reason
			}
		}
		return "no rating"
	}
	before := reason()
	require.Contains(t, before, "photographs")
	require.NoError(t, s.SetRating(ctx, e, "quirebird", "look", &given, nil))
	assert.Equal(t, "no rating", reason())
	for range 2 {
		_, err := s.Undo(ctx, e)
		require.NoError(t, err)
		assert.Equal(t, before, reason())
		_, err = s.Redo(ctx, e)
		require.NoError(t, err)
		assert.Equal(t, "no rating", reason())
	}
}

func TestARefusedEditLeavesNoTraceInTheHistory(t *testing.T) {
	s, e := withDemo(t)
	require.Error(t, s.SetDriver(t.Context(), e, "contacts", usage.Of(6400), usage.Of(900_000_000_000)))
	require.Error(t, s.SetDriver(t.Context(), e, "contacts", usage.Of(1), usage.Of(2)))
	require.NoError(t, s.SetDriver(t.Context(), e, "contacts", usage.Of(6400), usage.Of(6400)), "the same again is no change")
	history, err := s.History(t.Context(), e.Workspace, e.Study, store.Asked{Edits: fields, Most: 500})
	require.NoError(t, err)
	assert.Empty(t, history)
}

// TestTheHistoryStandsInTheDatabasesOrder has changes made by processes whose
// clocks disagree: their ids do not stand in the order in which they were made.
func TestTheHistoryStandsInTheDatabasesOrder(t *testing.T) {
	s, e, url := demoAt(t)
	for n, id := range []string{"0fffffff-0000-7000-8000-000000000000", "0aaaaaaa-0000-7000-8000-000000000000", "0ccccccc-0000-7000-8000-000000000000"} {
		require.NoError(t, s.SetDriver(t.Context(), e, "seats", usage.Of(int64(3+n)), usage.Of(int64(4+n))))
		sql(t, url, "update changes set id = $1 where became = $2 and edit = 'driver'", uuid.MustParse(id), usage.Of(int64(4+n)).String())
	}
	all := changes(t, s, e)
	require.Len(t, all, 3)
	for n, became := range []string{"6", "5", "4"} {
		assert.Equal(t, became, all[n].Became, "the newest first")
	}
	older, err := s.History(t.Context(), e.Workspace, e.Study, store.Asked{Edits: []string{"driver"}, Before: all[0].ID, Most: 5})
	require.NoError(t, err)
	assert.Len(t, older, 2)
	for _, want := range []string{"6", "5", "4"} {
		done, err := s.Undo(t.Context(), e)
		require.NoError(t, err)
		assert.Equal(t, want, done.Became)
	}
	for _, want := range []string{"4", "5", "6"} {
		done, err := s.Redo(t.Context(), e)
		require.NoError(t, err)
		assert.Equal(t, want, done.Became)
	}
	out, err := s.ExportWorkspace(t.Context(), e.Workspace)
	require.NoError(t, err)
	assert.Less(t, strings.Index(string(out), `"became": "5"`), strings.Index(string(out), `"became": "6"`), "and the oldest first in the file")
}
