package store_test

import (
	"context"
	"strings"
	"sync/atomic"
	"testing"

	"ninecoins/internal/demo"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// reads counts how often a study is read from its parts.
type reads struct{ n atomic.Int32 }

func (r *reads) TraceQueryStart(ctx context.Context, _ *pgx.Conn, data pgx.TraceQueryStartData) context.Context {
	if strings.Contains(data.SQL, "from document_parts") {
		r.n.Add(1)
	}
	return ctx
}

func (r *reads) TraceQueryEnd(context.Context, *pgx.Conn, pgx.TraceQueryEndData) {}

// TestWhatAnEditWorkedOutIsNotWorkedOutAgain edits, undoes and looks by turns: a
// study is read once and never again, unless another process changed it.
func TestWhatAnEditWorkedOutIsNotWorkedOutAgain(t *testing.T) {
	first, e, url := demoAt(t)
	counted := &reads{}
	s, err := store.OpenTraced(t.Context(), url, counted)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	look := func() string {
		o, err := s.Outcome(t.Context(), e.Workspace, e.Study, e.Today)
		require.NoError(t, err)
		return textAt(t, o.Study, "drivers.seats.now")
	}
	assert.Equal(t, "3", look())
	assert.EqualValues(t, 1, counted.n.Load())
	for range 5 {
		require.NoError(t, testkit.Set(t.Context(), s, e, "drivers.seats.now", "3", "4"))
		assert.Equal(t, "4", look())
		_, err = s.Undo(t.Context(), e)
		require.NoError(t, err)
		assert.Equal(t, "3", look())
	}
	require.NoError(t, testkit.Set(t.Context(), s, e, rated(e, "fernwire", "look"), "5", ""))
	require.NoError(t, testkit.Delete(t.Context(), s, e, "options.quirebird"))
	look()
	assert.EqualValues(t, 1, counted.n.Load(), "it is in memory, as it was worked out")
	before := counted.n.Load()
	require.NoError(t, testkit.Set(t.Context(), first, e, "drivers.seats.now", "3", "5"))
	assert.Equal(t, "5", look(), "another process's edit is seen")
	assert.Equal(t, before+1, counted.n.Load())
	require.NoError(t, testkit.Set(t.Context(), s, e, "drivers.seats.now", "5", "6"))
	assert.Error(t, testkit.Set(t.Context(), first, e, "drivers.seats.now", "5", "7"), "nor does that process go by what it had in memory")
	_, err = s.Outcome(t.Context(), e.Workspace, uuid.New(), e.Today)
	assert.ErrorIs(t, err, store.ErrMissing)
}

// TestADocumentOfALaterVersionIsLeftAlone has a study that a newer program has
// kept: it is not read, not edited and not written over.
func TestADocumentOfALaterVersionIsLeftAlone(t *testing.T) {
	s, e, url := demoAt(t)
	sql(t, url, `update document_parts set body = replace(body, '"nine-coins/study/1"', '"nine-coins/study/7"')`)
	sql(t, url, "update documents set revision = revision + 1")
	_, err := s.Outcome(t.Context(), e.Workspace, e.Study, e.Today)
	assert.ErrorContains(t, err, "newer version of Nine Coins")
	assert.ErrorContains(t, testkit.Set(t.Context(), s, e, "drivers.seats.now", "3", "4"), "newer version")
	sql(t, url, `do $$ begin if exists (select from document_parts where body not like '%study/7%') then raise exception 'written over'; end if; end $$`)
}

// TestAWorkspaceFileWithAnOddHistoryDoesNoHarm brings in histories that no program
// wrote: undoing them changes nothing, or is refused.
func TestAWorkspaceFileWithAnOddHistoryDoesNoHarm(t *testing.T) {
	s, _ := testkit.Store(t)
	account, _, err := s.AtDoor(t.Context(), demo.People[0].Email)
	require.NoError(t, err)
	for _, ops := range []string{
		`{"do": "remove", "path": "members.x"}`, `{"do": "remove", "path": "studies.nonsense"}`, `{"do": "set", "path": "studies"}`, `{"do": "insert", "path": "platforms.none"}`,
		`{"do": "set", "path": "key", "was": "a", "to": "b"}`, `{"do": "insert", "path": "ratings.x", "to": "{"}`, `{"do": "move", "path": "criteria.none", "before": "~9"}`, `{"do": "remove", "path": "ratings.Imke Vroom/a/b"}`,
		`{"do": "remove", "path": "options.none", "was": "{\"key\": 5}"}`, `{"do": "insert", "path": "options.x", "to": "{\"key\": \"x\", \"platform\": \"none\", \"observed_on\": \"2026-10-02\", \"face\": 1}"}`,
	} {
		for _, wide := range []string{"true", "false"} {
			line := `{"at": "2026-11-01T00:00:00Z", "by": "Imke Vroom", "wide": ` + wide + `, "ops": [` + ops + `]}`
			file := `{"format": "nine-coins/workspace/2", "name": "Madder", "people": ["Imke Vroom"], "platforms": [], "studies": [{"updated_at": "2026-11-01T00:00:00Z", "history": [` + line + `],
				"study": {"format": "nine-coins/study/1", "key": "bare", "title": "Bare", "currency": "EUR", "start": "2027-01", "months": 1, "pay": "monthly", "patience_days": 90, "drivers": [], "options": []}}], "history": [` + line + `]}`
			w, err := s.NewWorkspace(t.Context(), account, "Empty")
			require.NoError(t, err)
			_, err = s.ImportFile(t.Context(), testkit.As(t, s, w.ID, uuid.Nil, doors.Owner), []byte(file))
			require.NoError(t, err, ops)
			before := string(exported(t, s, w.ID))
			id := studyCalled(t, s, w.ID, "Bare")
			for _, study := range []uuid.UUID{uuid.Nil, id} {
				e := testkit.As(t, s, w.ID, study, doors.Owner)
				_, err := s.Recent(t.Context(), e)
				require.NoError(t, err, ops)
				_, _ = s.Undo(t.Context(), e)
				_, _ = s.Redo(t.Context(), e)
			}
			assert.Equal(t, before, string(exported(t, s, w.ID)), ops)
			_, err = s.Bin(t.Context(), w.ID)
			assert.NoError(t, err, ops)
		}
	}
}
