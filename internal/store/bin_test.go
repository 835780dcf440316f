package store_test

import (
	"strings"
	"testing"

	"ninecoins/internal/core/usage"
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
	require.NoError(t, s.Move(ctx, e, "option", "quirebird", store.Here, store.InBin))
	st := load(t, s, e)
	assert.Len(t, st.Options, 4)
	assert.Len(t, st.Ratings, len(before.Ratings)-5)
	binned, err := s.Bin(ctx, e.Workspace)
	require.NoError(t, err)
	require.Len(t, binned, 1)
	assert.Equal(t, "Quirebird", binned[0].Name)
	assert.Equal(t, "Spring list", binned[0].Title)
	assert.Equal(t, "Imke Vroom", binned[0].By)

	require.NoError(t, s.SetDriver(ctx, e, "seats", usage.Of(3), usage.Of(4)), "edits go on without it")
	require.NoError(t, s.Move(ctx, e, "option", "quirebird", store.InBin, store.Here))
	assert.Equal(t, before.Options, load(t, s, e).Options)
	assert.Equal(t, before.Ratings, load(t, s, e).Ratings)
	for range 3 {
		_, err = s.Undo(ctx, e)
		require.NoError(t, err)
	}
	assert.Equal(t, before.Options, load(t, s, e).Options, "deleting and bringing back are undone like any edit")
	assert.ErrorIs(t, s.Move(ctx, e, "option", "heron", store.Here, store.InBin), store.ErrMissing)
	assert.ErrorIs(t, s.Move(ctx, e, "study", e.Study.String(), store.Here, store.InBin), store.ErrMissing, "a study is not a part of itself")
	for _, edit := range []string{"people", "driver", "rating", ""} {
		assert.ErrorIs(t, s.Move(ctx, e, edit, "contacts", store.InBin, store.Here), store.ErrMissing, "%q does not go into the bin", edit)
	}
}

func TestAPlatformThatStudiesRelyOnStays(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	err := s.Move(ctx, wide(e), "platform", "quirebird", store.Here, store.InBin)
	var used *store.UsedError
	require.ErrorAs(t, err, &used)
	assert.Equal(t, []string{"Spring list"}, used.Studies)
	require.NoError(t, s.Move(ctx, e, "option", "quirebird", store.Here, store.InBin))
	assert.ErrorContains(t, s.Move(ctx, wide(e), "platform", "quirebird", store.Here, store.InBin), "Spring list (its option is in the bin)")
	require.NoError(t, remove(t, s, e))
	assert.ErrorContains(t, s.Move(ctx, wide(e), "platform", "fernwire", store.Here, store.InBin), "Spring list (in the bin)")
}

func TestAPlatformGoesIntoTheBinAndComesBackWithItsEditions(t *testing.T) {
	s, w := testkit.Store(t)
	ctx := t.Context()
	e := testkit.As(t, s, w.ID, uuid.Nil, doors.Editor)
	_, err := s.ImportPriceList(ctx, e, demo.PriceLists()[0])
	require.NoError(t, err)
	rows, err := s.Editions(ctx, w.ID)
	require.NoError(t, err)
	require.NoError(t, s.Move(ctx, e, "platform", "brindlepost", store.Here, store.InBin))
	none, err := s.Editions(ctx, w.ID)
	require.NoError(t, err)
	assert.Empty(t, none)
	_, _, err = s.Edition(ctx, w.ID, rows[0].ID)
	assert.ErrorIs(t, err, store.ErrMissing)
	_, err = s.ImportPriceList(ctx, e, demo.PriceLists()[0])
	assert.ErrorContains(t, err, "Brindlepost is in the bin; take it out first")
	recent, err := s.Recent(ctx, e)
	require.NoError(t, err)
	assert.Equal(t, "Brindlepost", recent.Undo.Name)
	_, err = s.Undo(ctx, e)
	require.NoError(t, err)
	back, err := s.Editions(ctx, w.ID)
	require.NoError(t, err)
	assert.Equal(t, rows, back)
	var refused *store.NotAllowedError
	assert.ErrorAs(t, s.Move(ctx, testkit.As(t, s, w.ID, uuid.Nil, doors.Rater), "platform", "brindlepost", store.Here, store.InBin), &refused)
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
	require.NoError(t, s.Move(t.Context(), e, "option", "quirebird", store.Here, store.InBin))
	require.NoError(t, s.Purge(t.Context(), store.InBinFor))
	require.NoError(t, s.Move(t.Context(), e, "option", "quirebird", store.InBin, store.Here), "before that nothing goes")
	require.NoError(t, s.Move(t.Context(), e, "option", "quirebird", store.Here, store.InBin))
	sql(t, url, "update study_options set deleted_at = deleted_at - interval '31 days' where deleted_at is not null")
	require.NoError(t, s.Purge(t.Context(), store.InBinFor))
	assert.ErrorIs(t, s.Move(t.Context(), e, "option", "quirebird", store.InBin, store.Here), store.ErrMissing)
	require.NoError(t, s.Move(t.Context(), wide(e), "platform", "quirebird", store.Here, store.InBin), "nobody relies on it any more")
	require.NoError(t, remove(t, s, e))
	sql(t, url, "update studies set deleted_at = deleted_at - interval '31 days'")
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
	out, err := s.ExportWorkspace(ctx, e.Workspace)
	require.NoError(t, err)
	account, _, err := s.AtDoor(ctx, demo.People[0].Email)
	require.NoError(t, err)
	w, err := s.NewWorkspace(ctx, account, "Empty")
	require.NoError(t, err)
	_, err = s.ImportFile(ctx, testkit.As(t, s, w.ID, uuid.Nil, doors.Owner), out)
	require.NoError(t, err)
	again, err := s.ExportWorkspace(ctx, w.ID)
	require.NoError(t, err)
	assert.Equal(t, string(out), string(again))
}

// TestUndoGoesOnAfterThingsAreGoneForGood deletes platforms and options, lets
// them be purged, and undoes: what is gone is passed by.
func TestUndoGoesOnAfterThingsAreGoneForGood(t *testing.T) {
	s, e, url := demoAt(t)
	for _, key := range []string{"one", "two"} {
		_, err := s.ImportPriceList(t.Context(), wide(e), []byte(strings.Replace(string(demo.PriceLists()[0]), `"key": "brindlepost"`, `"key": "`+key+`"`, 1)))
		require.NoError(t, err)
		require.NoError(t, s.Move(t.Context(), wide(e), "platform", key, store.Here, store.InBin))
	}
	require.NoError(t, s.SetDriver(t.Context(), e, "seats", usage.Of(3), usage.Of(4)))
	require.NoError(t, s.SetRating(t.Context(), e, "quirebird", "look", new(ratingOf(t, "8.5")), new(ratingOf(t, "6"))))
	require.NoError(t, s.Move(t.Context(), e, "option", "quirebird", store.Here, store.InBin))
	sql(t, url, "update platforms set deleted_at = deleted_at - interval '31 days' where key = 'two'")
	sql(t, url, "update study_options set deleted_at = deleted_at - interval '31 days' where deleted_at is not null")
	require.NoError(t, s.Purge(t.Context(), store.InBinFor))
	recent, err := s.Recent(t.Context(), wide(e))
	require.NoError(t, err)
	require.NotNil(t, recent.Undo)
	assert.Equal(t, "one", recent.Undo.Of, "the other is gone for good")
	done, err := s.Undo(t.Context(), wide(e))
	require.NoError(t, err)
	assert.Equal(t, "one", done.Of)
	done, err = s.Undo(t.Context(), e)
	require.NoError(t, err)
	assert.Equal(t, "seats", done.Of, "and so are the option and its rating")
}

// TestAWorkspaceGoesOutAndComesInEqual exports a workspace in which everything
// was done, brings the file into an empty one and exports that.
func TestAWorkspaceGoesOutAndComesInEqual(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	dov := testkit.As(t, s, e.Workspace, e.Study, doors.Editor)
	require.NoError(t, s.SetDriver(ctx, e, "contacts", usage.Of(6400), usage.Of(7000)))
	require.NoError(t, s.SetDriver(ctx, dov, "seats", usage.Of(3), usage.Of(5)))
	require.NoError(t, s.SetWeight(ctx, dov, "ease", 180_000, 185_555))
	_, err := s.Undo(ctx, dov)
	require.NoError(t, err)
	require.NoError(t, s.Move(ctx, e, "option", "quirebird", store.Here, store.InBin))
	require.NoError(t, s.SetRating(ctx, dov, "fernwire", "look", nil, new(ratingOf(t, "6.5"))))
	require.NoError(t, remove(t, s, e))
	require.NoError(t, restore(t, s, e))
	require.NoError(t, s.SetRole(ctx, wide(e), dov.By, doors.Editor, doors.Reader))
	_, err = s.ImportStudy(ctx, wide(e), renamed("autumn-list", "Autumn list"))
	require.NoError(t, err)
	studies, err := s.Studies(ctx, e.Workspace)
	require.NoError(t, err)
	for _, row := range studies {
		if row.Title == "Autumn list" {
			require.NoError(t, s.Move(ctx, wide(e), "study", row.ID.String(), store.Here, store.InBin))
		}
	}
	out, err := s.ExportWorkspace(ctx, e.Workspace)
	require.NoError(t, err)

	account, _, err := s.AtDoor(ctx, demo.People[0].Email)
	require.NoError(t, err)
	w, err := s.NewWorkspace(ctx, account, "Empty")
	require.NoError(t, err)
	in := testkit.As(t, s, w.ID, uuid.Nil, doors.Owner)
	brought, err := s.ImportFile(ctx, in, out)
	require.NoError(t, err)
	assert.Equal(t, demo.Workspace, brought.Workspace)
	again, err := s.ExportWorkspace(ctx, w.ID)
	require.NoError(t, err)
	assert.Equal(t, string(out), string(again))

	// What came in computes alike, and goes on: one's own changes can be undone there.
	studies, err = s.Studies(ctx, w.ID)
	require.NoError(t, err)
	require.Len(t, studies, 1)
	in.Study = studies[0].ID
	first, second := load(t, s, e), load(t, s, in)
	for i := range first.Needs {
		second.Needs[i].ID = first.Needs[i].ID
	}
	for i := range first.Options {
		assert.Equal(t, first.Options[i].Edition.Platform, second.Options[i].Edition.Platform)
		second.Options[i].Edition = first.Options[i].Edition
	}
	assert.Equal(t, first, second)
	done, err := s.Undo(ctx, in)
	require.NoError(t, err)
	assert.Equal(t, "option", done.Edit)

	_, err = s.ImportFile(ctx, in, out)
	assert.ErrorIs(t, err, store.ErrNotEmpty)
	var faults formats.Faults
	_, err = s.ImportFile(ctx, in, out[:len(out)/2])
	assert.ErrorAs(t, err, &faults)
	_, err = s.ExportWorkspace(ctx, uuid.New())
	assert.ErrorIs(t, err, store.ErrMissing)
}
