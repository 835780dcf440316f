package store_test

import (
	"os"
	"testing"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// before opens a database that the version before documents has left, in which
// numbers, weights and ratings were changed, undone and passed over, options and
// a study went into the bin, by several people.
func before(t *testing.T) (*store.Store, uuid.UUID) { return left(t, "version-6.sql") }

// left opens a database that a version of before has left, and brings it up to date.
func left(t *testing.T, by string) (*store.Store, uuid.UUID) {
	t.Helper()
	url := testkit.Database(t)
	data, err := os.ReadFile("testdata/" + by)
	require.NoError(t, err)
	conn, err := pgx.Connect(t.Context(), url)
	require.NoError(t, err)
	_, err = conn.PgConn().Exec(t.Context(), string(data)).ReadAll()
	require.NoError(t, err)
	require.NoError(t, conn.Close(t.Context()))
	s, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	require.NoError(t, s.Migrate(t.Context()))
	w, _, err := s.FirstWorkspace(t.Context(), "")
	require.NoError(t, err)
	return s, w.ID
}

// study finds a workspace's study by its title.
func studyCalled(t *testing.T, s *store.Store, workspace uuid.UUID, title string) uuid.UUID {
	t.Helper()
	rows, err := s.Studies(t.Context(), workspace, testkit.Day, store.Page{Title: title, Most: 5})
	require.NoError(t, err)
	require.Len(t, rows, 1)
	return rows[0].ID
}

func TestADatabaseOfBeforeLosesNothing(t *testing.T) {
	s, workspace := before(t)
	in := func(title string) store.Editing {
		return testkit.As(t, s, workspace, studyCalled(t, s, workspace, title), doors.Owner)
	}
	e := in("Spring list")
	st := load(t, s, e)
	for path, want := range map[document.Path]string{
		"drivers.contacts.now": "7000", "drivers.contacts.growth": "1.55%", "drivers.seats.now": "5.5", "criteria.ease.weight": "18.5555%", "criteria.cost.best": "4000", "criteria.cost.worst": "9000",
		"pay": "monthly", "budget": "8000", "rates.GBP.rate": "1.17", "rates.GBP.on": "2026-11-20",
	} {
		assert.Equal(t, want, textAt(t, st, path), path)
	}
	value, _ := rating(st, "Hedy Larch", "fernwire", "look")
	assert.Equal(t, "7", value)
	assert.Len(t, st.Options, 4)
	own := load(t, s, in("Own & <drivers>"))
	assert.Equal(t, "of bulbs & \"more\"", own.Own[0].About)
	assert.Equal(t, "trays * 2", own.Own[1].Formula)
	assert.Equal(t, "3.125", own.Drivers[0].Path.Now.String())
	links, err := s.ReadingLinks(t.Context(), workspace, e.Study)
	require.NoError(t, err)
	assert.Equal(t, "The board & <co>", links[0].Label)
	binned, err := s.Bin(t.Context(), workspace)
	require.NoError(t, err)
	require.Len(t, binned, 2)
	history, err := s.History(t.Context(), workspace, e.Study, store.Asked{Most: 50})
	require.NoError(t, err)
	assert.Len(t, history, 15)
	for _, c := range history {
		assert.NotEmpty(t, c.Says, c)
		assert.NotEmpty(t, c.Says[0].Label, c)
	}
	assert.Equal(t, document.Said{Label: "Contacts, growth a month", Was: "2%", To: "1.55%"}, history[11].Says[0])
	assert.Equal(t, document.Said{Label: "Cost over the horizon, scores 9 at", Was: "€4,000.00", To: "€3,000.00"}, history[9].Says[0])
	undone(t, s, workspace)
}

// undone takes back all that was done to the demo's study, by each who did
// something: it is then as it was when it came in.
func undone(t *testing.T, s *store.Store, workspace uuid.UUID) {
	t.Helper()
	fresh, other := testkit.Store(t)
	want := load(t, fresh, demoIn(t, fresh, other.ID)).Named()
	id := studyCalled(t, s, workspace, "Spring list")
	for _, role := range []doors.Role{doors.Owner, doors.Editor, doors.Rater} {
		for range 20 {
			_, err := s.Undo(t.Context(), testkit.As(t, s, workspace, id, role))
			require.NoError(t, err)
		}
	}
	got := load(t, s, testkit.As(t, s, workspace, id, doors.Owner)).Named()
	want.Brief, want.Running, want.Reasons = study.Brief{}, nil, nil // which the demo has got since
	want.History = nil
	for i := range want.Drivers {
		want.Drivers[i].Path.Low, want.Drivers[i].Path.High = usage.Variant{}, usage.Variant{}
	}
	for i := range want.Options {
		want.Options[i].Edition, got.Options[i].Edition, want.Options[i].Move = nil, nil, study.Move{}
	}
	assert.Equal(t, want, got)
}

// TestAWorkspaceFileOfBeforeComesInLikeItsDatabase brings in the file that the
// version before wrote of that database: what comes in is the same, letter by
// letter.
func TestAWorkspaceFileOfBeforeComesInLikeItsDatabase(t *testing.T) {
	s, workspace := before(t)
	file, err := os.ReadFile("testdata/workspace-1.json")
	require.NoError(t, err)
	other, w := testkit.Store(t)
	_, err = other.ImportFile(t.Context(), testkit.As(t, other, w.ID, uuid.Nil, doors.Owner), file)
	require.NoError(t, err)
	want := string(exported(t, s, workspace))
	assert.Equal(t, want, string(exported(t, other, w.ID)))
	assert.Contains(t, want, `"format": "nine-coins/workspace/2"`)
	undone(t, other, w.ID)
}

// TestDraftsAndPrivateOffersOfBeforeAreThere opens a database with a history, what was undone in it, a draft
// and one that was put aside, two private offers on one list, and an option in the bin.
func TestDraftsAndPrivateOffersOfBeforeAreThere(t *testing.T) {
	s, workspace := left(t, "version-11.sql")
	ctx := t.Context()
	e := testkit.As(t, s, workspace, studyCalled(t, s, workspace, "Spring list"), doors.Owner)
	o, err := s.Outcome(ctx, workspace, e.Study, testkit.Day)
	require.NoError(t, err)
	assert.Nil(t, o.Panic)
	st := o.Study
	assert.Equal(t, 24, st.Horizon)
	assert.Equal(t, "8000", textAt(t, st, "budget"), "what was undone stays so")
	assert.Equal(t, "7000", textAt(t, st, "drivers.contacts.now"))
	require.Len(t, st.PrivateOffers, 2)
	assert.Equal(t, "by telephone", st.PrivateOffers[1].Note)
	r, _ := o.Result("brindlepost")
	assert.Equal(t, "Bough as quoted", r.Takes(), "the second offer is for the plan that it is for")
	editor := testkit.As(t, s, workspace, e.Study, doors.Editor)
	_, err = s.Redo(ctx, editor)
	require.NoError(t, err)
	assert.Len(t, load(t, s, e).Options, 4)
	for range 2 {
		_, err = s.Undo(ctx, editor)
		require.NoError(t, err)
	}
	d, _, err := s.Draft(ctx, workspace, "brindlepost")
	require.NoError(t, err)
	assert.Equal(t, "yes", d.Draft.Edition.Plans[0].Features["letters/polls"].Cell())
	_, err = publish(t, s, wide(e), "brindlepost")
	require.NoError(t, err)
	require.NoError(t, s.TakeUpDraft(ctx, wide(e), "fernwire"))
	file := exported(t, s, workspace)
	other, w := testkit.Store(t)
	_, err = other.ImportFile(ctx, testkit.As(t, other, w.ID, uuid.Nil, doors.Owner), file)
	require.NoError(t, err)
	assert.Equal(t, string(file), string(exported(t, other, w.ID)))
}
