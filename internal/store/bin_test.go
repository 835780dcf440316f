package store_test

import (
	"io"
	"strings"
	"testing"

	"ninecoins/internal/demo"
	"ninecoins/internal/doors"
	"ninecoins/internal/formats"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// demoFiles are the demo's price lists and its study.
func demoFiles() [][]byte { return append(demo.PriceLists(), demo.Study()) }

func TestAnOptionRestsInTheBinWithItsRatings(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	before := load(t, s, e)
	require.NoError(t, testkit.Delete(ctx, s, e, "options.quirebird"))
	st := load(t, s, e)
	assert.Len(t, st.Options, 4)
	assert.Len(t, st.Ratings, len(before.Ratings)-5)
	binned, err := s.Bin(ctx, e.Workspace)
	require.NoError(t, err)
	require.Len(t, binned, 1)
	assert.Equal(t, "Option Quirebird", binned[0].Name)
	assert.Equal(t, "Spring list", binned[0].Title)
	assert.Equal(t, "Imke Vroom", binned[0].By)

	require.NoError(t, testkit.Set(ctx, s, e, "drivers.seats.now", "3", "4"), "edits go on without it")
	require.NoError(t, bringBack(t, s, e, "options.quirebird"))
	assert.Equal(t, before.Options, load(t, s, e).Options)
	assert.Equal(t, before.Ratings, load(t, s, e).Ratings)
	for range 3 {
		_, err = s.Undo(ctx, e)
		require.NoError(t, err)
	}
	assert.Equal(t, before.Options, load(t, s, e).Options, "deleting and bringing back are undone like any edit")
	var changed *store.ChangedError
	assert.ErrorAs(t, testkit.Delete(ctx, s, e, "options.heron"), &changed)
	assert.ErrorIs(t, s.Move(ctx, e, store.Studies, e.Study.String(), true), store.ErrMissing, "a study is not a part of itself")
	for _, kind := range []string{"people", "driver", "rating", ""} {
		assert.ErrorIs(t, s.Move(ctx, wide(e), kind, "contacts", false), store.ErrMissing, "%q does not go into the bin", kind)
	}
}

func TestAPlatformThatStudiesRelyOnStays(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	err := s.Move(ctx, wide(e), store.Platforms, "quirebird", true)
	var used *store.UsedError
	require.ErrorAs(t, err, &used)
	assert.Equal(t, []string{"Spring list"}, used.Studies)
	require.NoError(t, testkit.Delete(ctx, s, e, "options.quirebird"))
	assert.ErrorContains(t, s.Move(ctx, wide(e), store.Platforms, "quirebird", true), "Spring list (its option is in the bin)")
	require.NoError(t, remove(t, s, e))
	assert.ErrorContains(t, s.Move(ctx, wide(e), store.Platforms, "fernwire", true), "Spring list (in the bin)")
}

func TestAPlatformGoesIntoTheBinAndComesBackWithItsEditions(t *testing.T) {
	s, w := testkit.Store(t)
	ctx := t.Context()
	e := testkit.As(t, s, w.ID, uuid.Nil, doors.Editor)
	_, err := s.ImportPriceList(ctx, e, demo.PriceLists()[0])
	require.NoError(t, err)
	rows, err := s.Editions(ctx, w.ID)
	require.NoError(t, err)
	require.NoError(t, s.Move(ctx, e, store.Platforms, "brindlepost", true))
	none, err := s.Editions(ctx, w.ID)
	require.NoError(t, err)
	assert.Empty(t, none)
	_, _, err = s.Edition(ctx, w.ID, rows[0].ID)
	assert.ErrorIs(t, err, store.ErrMissing)
	_, err = s.ImportPriceList(ctx, e, demo.PriceLists()[0])
	assert.ErrorContains(t, err, "Brindlepost is in the bin; take it out first")
	recent, err := s.Recent(ctx, e)
	require.NoError(t, err)
	assert.Equal(t, "Platform Brindlepost", recent.Undo.Says[0].Label)
	_, err = s.Undo(ctx, e)
	require.NoError(t, err)
	back, err := s.Editions(ctx, w.ID)
	require.NoError(t, err)
	assert.Equal(t, rows, back)
	var refused *store.NotAllowedError
	assert.ErrorAs(t, s.Move(ctx, testkit.As(t, s, w.ID, uuid.Nil, doors.Rater), store.Platforms, "brindlepost", true), &refused)
}

func TestAStudyDoesNotComeBackOverItsTwin(t *testing.T) {
	s, e := withDemo(t)
	require.NoError(t, remove(t, s, e))
	_, err := s.ImportStudy(t.Context(), wide(e), demo.Study())
	require.NoError(t, err, "the key is free while the first rests in the bin")
	assert.ErrorIs(t, restore(t, s, e), store.ErrTwin)
}

func TestTheBinIsEmptiedAfterThirtyDays(t *testing.T) {
	s, e, url := demoAt(t)
	require.NoError(t, testkit.Delete(t.Context(), s, e, "options.quirebird"))
	require.NoError(t, s.Purge(t.Context(), store.InBinFor))
	require.NoError(t, bringBack(t, s, e, "options.quirebird"), "before that nothing goes")
	require.NoError(t, testkit.Delete(t.Context(), s, e, "options.quirebird"))
	sql(t, url, "update changes set touched_at = touched_at - interval '31 days'")
	sql(t, url, "update document_editions set left_at = left_at - interval '31 days'")
	require.NoError(t, s.Purge(t.Context(), store.InBinFor))
	assert.ErrorIs(t, bringBack(t, s, e, "options.quirebird"), store.ErrMissing)
	require.NoError(t, s.Move(t.Context(), wide(e), store.Platforms, "quirebird", true), "nobody relies on it any more")
	require.NoError(t, remove(t, s, e))
	sql(t, url, "update documents set deleted_at = deleted_at - interval '31 days'")
	sql(t, url, "update platforms set deleted_at = deleted_at - interval '31 days' where deleted_at is not null")
	require.NoError(t, s.Purge(t.Context(), store.InBinFor))
	binned, err := s.Bin(t.Context(), e.Workspace)
	require.NoError(t, err)
	assert.Empty(t, binned)
	rows, err := s.Editions(t.Context(), e.Workspace)
	require.NoError(t, err)
	assert.Len(t, rows, 4, "what is not in the bin stays")
}

// TestAWorkspaceWithTwinsComesInAgain exports a workspace in which a study and
// one in the bin have the same key, whichever was made first.
func TestAWorkspaceWithTwinsComesInAgain(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	require.NoError(t, remove(t, s, e))
	_, err := s.ImportStudy(ctx, wide(e), demo.Study())
	require.NoError(t, err)
	first, second := e, e
	first.Study, err = s.ImportStudy(ctx, wide(e), renamed("autumn-list", "Autumn list"))
	require.NoError(t, err)
	require.NoError(t, remove(t, s, first))
	second.Study, err = s.ImportStudy(ctx, wide(e), renamed("autumn-list", "Autumn list again"))
	require.NoError(t, err)
	require.NoError(t, remove(t, s, second))
	require.NoError(t, restore(t, s, first))
	out := exported(t, s, e.Workspace)
	account, _, err := s.AtDoor(ctx, demo.People[0].Email)
	require.NoError(t, err)
	w, err := s.NewWorkspace(ctx, account, "Empty")
	require.NoError(t, err)
	_, err = s.ImportFile(ctx, testkit.As(t, s, w.ID, uuid.Nil, doors.Owner), out)
	require.NoError(t, err)
	again := exported(t, s, w.ID)
	assert.Equal(t, string(out), string(again))
}

// TestUndoGoesOnAfterThingsAreGoneForGood deletes platforms and options, lets
// them be purged, and undoes: what is gone is passed by.
func TestUndoGoesOnAfterThingsAreGoneForGood(t *testing.T) {
	s, e, url := demoAt(t)
	for _, key := range []string{"one", "two"} {
		_, err := s.ImportPriceList(t.Context(), wide(e), []byte(strings.Replace(string(demo.PriceLists()[0]), `"key": "brindlepost"`, `"key": "`+key+`"`, 1)))
		require.NoError(t, err)
		require.NoError(t, s.Move(t.Context(), wide(e), store.Platforms, key, true))
	}
	require.NoError(t, testkit.Set(t.Context(), s, e, "drivers.seats.now", "3", "4"))
	require.NoError(t, testkit.Set(t.Context(), s, e, rated(e, "quirebird", "look"), "8.5", "6"))
	require.NoError(t, testkit.Delete(t.Context(), s, e, "options.quirebird"))
	sql(t, url, "update platforms set deleted_at = deleted_at - interval '31 days' where key = 'two'")
	sql(t, url, "update changes set touched_at = touched_at - interval '31 days'")
	sql(t, url, "update document_editions set left_at = left_at - interval '31 days'")
	require.NoError(t, s.Purge(t.Context(), store.InBinFor))
	recent, err := s.Recent(t.Context(), wide(e))
	require.NoError(t, err)
	require.NotNil(t, recent.Undo)
	assert.Equal(t, []string{"platforms.one"}, recent.Undo.Paths, "the other is gone for good")
	done, err := s.Undo(t.Context(), wide(e))
	require.NoError(t, err)
	assert.Equal(t, []string{"platforms.one"}, done.Paths)
	done, err = s.Undo(t.Context(), e)
	require.NoError(t, err)
	assert.Equal(t, []string{"drivers.seats.now"}, done.Paths, "and so are the option and its rating")
}

// TestAWorkspaceGoesOutAndComesInEqual exports a workspace in which everything
// was done, brings the file into an empty one and exports that.
func TestAWorkspaceGoesOutAndComesInEqual(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	dov := testkit.As(t, s, e.Workspace, e.Study, doors.Editor)
	require.NoError(t, testkit.Set(ctx, s, e, "drivers.contacts.now", "6400", "7000"))
	require.NoError(t, testkit.Set(ctx, s, dov, "drivers.seats.now", "3", "5"))
	require.NoError(t, testkit.Set(ctx, s, dov, "criteria.ease.weight", "18%", "18.5555%"))
	_, err := s.Undo(ctx, dov)
	require.NoError(t, err)
	require.NoError(t, testkit.Delete(ctx, s, e, "options.quirebird"))
	require.NoError(t, testkit.Set(ctx, s, dov, rated(dov, "fernwire", "look"), "", "6.5"))
	require.NoError(t, remove(t, s, e))
	require.NoError(t, restore(t, s, e))
	require.NoError(t, s.SetRole(ctx, wide(e), dov.By, doors.Editor, doors.Reader))
	_, err = s.ImportStudy(ctx, wide(e), renamed("autumn-list", "Autumn list"))
	require.NoError(t, err)
	studies, err := s.Studies(ctx, e.Workspace, testkit.Day, store.Page{Most: 50})
	require.NoError(t, err)
	for _, row := range studies {
		if row.Title == "Autumn list" {
			require.NoError(t, s.Move(ctx, wide(e), store.Studies, row.ID.String(), true))
		}
	}
	out := exported(t, s, e.Workspace)

	account, _, err := s.AtDoor(ctx, demo.People[0].Email)
	require.NoError(t, err)
	w, err := s.NewWorkspace(ctx, account, "Empty")
	require.NoError(t, err)
	in := testkit.As(t, s, w.ID, uuid.Nil, doors.Owner)
	brought, err := s.ImportFile(ctx, in, out)
	require.NoError(t, err)
	assert.Equal(t, demo.Workspace, brought.Workspace)
	again := exported(t, s, w.ID)
	assert.Equal(t, string(out), string(again))

	// What came in computes alike, and goes on: one's own changes can be undone there.
	studies, err = s.Studies(ctx, w.ID, testkit.Day, store.Page{Most: 50})
	require.NoError(t, err)
	require.Len(t, studies, 1)
	in.Study = studies[0].ID
	first, second := load(t, s, e), load(t, s, in)
	for i := range first.Options {
		assert.Equal(t, first.Options[i].Edition.Platform, second.Options[i].Edition.Platform)
		second.Options[i].Edition = first.Options[i].Edition
	}
	assert.Equal(t, first.Named(), second.Named())
	done, err := s.Undo(ctx, in)
	require.NoError(t, err)
	assert.Equal(t, "options.quirebird", done.Removed)
	assert.Equal(t, "Option Quirebird", done.Says[0].Label)

	_, err = s.ImportFile(ctx, in, out)
	assert.ErrorIs(t, err, store.ErrNotEmpty)
	var faults formats.Faults
	_, err = s.ImportFile(ctx, in, out[:len(out)/2])
	assert.ErrorAs(t, err, &faults)
	assert.ErrorIs(t, s.ExportWorkspace(ctx, uuid.New(), io.Discard), store.ErrMissing)
}
