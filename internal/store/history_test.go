package store_test

import (
	"fmt"
	"ninecoins/internal/testkit"
	"strings"
	"testing"

	"ninecoins/internal/core/usage"
	"ninecoins/internal/store"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var fields = []string{"drivers", "pay", "criteria", "ratings", "options"}

func TestEditsAreTakenBackAndMadeAgainInOrder(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	for n := range int64(60) {
		require.NoError(t, testkit.Set(ctx, s, e, "drivers.seats.now", fmt.Sprint(3+n), fmt.Sprint(4+n)))
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
	assert.Equal(t, "5", recent.Undo.Says[0].To)
	assert.Equal(t, "6", recent.Redo.Says[0].To)
	assert.Equal(t, "5", recent.Last.Says[0].To)

	require.NoError(t, testkit.Set(ctx, s, e, "pay", "monthly", "yearly"))
	done, err = s.Redo(ctx, e)
	require.NoError(t, err)
	assert.Nil(t, done, "after a new change there is nothing to redo")
	history, err := s.History(ctx, e.Workspace, e.Study, store.Asked{Fields: fields, Most: 500})
	require.NoError(t, err)
	assert.Len(t, history, 61)
	assert.Equal(t, []string{"pay"}, history[0].Paths)
}

func TestUndoDoesNotRunOverWhatWasWrittenSince(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	require.NoError(t, testkit.Set(ctx, s, e, "drivers.seats.now", "3", "4"))
	require.NoError(t, testkit.Set(ctx, s, e, "drivers.contacts.now", "6400", "7000"))
	history, err := s.History(ctx, e.Workspace, e.Study, store.Asked{Fields: fields, Most: 500})
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
	require.NoError(t, testkit.Set(ctx, s, e, rated(e, "quirebird", "look"), "8.5", ""))
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
	require.Error(t, testkit.Set(t.Context(), s, e, "drivers.contacts.now", "6400", "9000000000000"))
	require.Error(t, testkit.Set(t.Context(), s, e, "drivers.contacts.now", "1", "2"))
	require.NoError(t, testkit.Set(t.Context(), s, e, "drivers.contacts.now", "6400", "6400"), "the same again is no change")
	history, err := s.History(t.Context(), e.Workspace, e.Study, store.Asked{Fields: fields, Most: 500})
	require.NoError(t, err)
	assert.Empty(t, history)
}

// TestTheHistoryStandsInTheDatabasesOrder has changes made by processes whose
// clocks disagree: their ids do not stand in the order in which they were made.
func TestTheHistoryStandsInTheDatabasesOrder(t *testing.T) {
	s, e, url := demoAt(t)
	for n, id := range []string{"0fffffff-0000-7000-8000-000000000000", "0aaaaaaa-0000-7000-8000-000000000000", "0ccccccc-0000-7000-8000-000000000000"} {
		require.NoError(t, testkit.Set(t.Context(), s, e, "drivers.seats.now", fmt.Sprint(3+n), fmt.Sprint(4+n)))
		sql(t, url, "update changes set id = $1 where ops->0->>'to' = $2", uuid.MustParse(id), usage.Of(int64(4+n)).String())
	}
	all := changes(t, s, e)
	require.Len(t, all, 3)
	for n, became := range []string{"6", "5", "4"} {
		assert.Equal(t, became, all[n].Says[0].To, "the newest first")
	}
	older, err := s.History(t.Context(), e.Workspace, e.Study, store.Asked{Fields: []string{"drivers"}, Before: all[0].ID, Most: 5})
	require.NoError(t, err)
	assert.Len(t, older, 2)
	for _, want := range []string{"6", "5", "4"} {
		done, err := s.Undo(t.Context(), e)
		require.NoError(t, err)
		assert.Equal(t, want, done.Says[0].To)
	}
	for _, want := range []string{"4", "5", "6"} {
		done, err := s.Redo(t.Context(), e)
		require.NoError(t, err)
		assert.Equal(t, want, done.Says[0].To)
	}
	out := exported(t, s, e.Workspace)
	assert.Less(t, strings.Index(string(out), `"to": "5"`), strings.Index(string(out), `"to": "6"`), "and the oldest first in the file")
}
