package store_test

import (
	"context"
	"errors"
	"strings"
	"sync"
	"testing"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/demo"
	"ninecoins/internal/formats"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { testkit.Main(m) }

func withDemo(t *testing.T) (*store.Store, store.Editing) {
	t.Helper()
	s, w := testkit.Store(t)
	id, err := demo.Load(t.Context(), s, w.ID)
	require.NoError(t, err)
	return s, store.Editing{Workspace: w.ID, Study: id, Today: testkit.Day}
}

func load(t *testing.T, s *store.Store, e store.Editing) *store.Loaded {
	t.Helper()
	l, err := s.Study(t.Context(), e.Workspace, e.Study, e.Today)
	require.NoError(t, err)
	return l
}

func TestAStudyComesBackAsItWasImported(t *testing.T) {
	s, e := withDemo(t)
	st := load(t, s, e).Study
	assert.Equal(t, "Spring list", st.Title)
	assert.Equal(t, "8000", st.Budget.String())
	assert.Equal(t, "1.17", st.Rates["GBP"].Rate.String())
	assert.Equal(t, "2%", st.Drivers[0].Path.Growth.String())
	assert.Equal(t, usage.Of(6400), st.Drivers[0].Path.Now)
	assert.Len(t, st.Needs, 8)
	assert.Len(t, st.Options, 5)
	assert.True(t, st.Options[4].Now)
	assert.Len(t, st.Ratings, 24)
	o, err := study.Compute(st)
	require.NoError(t, err)
	assert.Equal(t, "7036", o.Results[0].Schedule.Total.String(), "the same as from the files")
	assert.InDelta(t, 6.898, o.Results[0].Standing.Fit, 0.001)
	rows, err := s.Studies(t.Context(), e.Workspace)
	require.NoError(t, err)
	require.Len(t, rows, 1)
}

func TestPublishedEditionsNeverChange(t *testing.T) {
	url := testkit.Database(t)
	s, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	require.NoError(t, s.Migrate(t.Context()))
	require.NoError(t, s.Migrate(t.Context()), "migrating again changes nothing")
	w, made, err := s.OnlyWorkspace(t.Context(), "Madder")
	require.NoError(t, err)
	assert.True(t, made)
	file := demo.PriceLists()[0]
	for range 2 {
		_, err = s.ImportPriceList(t.Context(), w.ID, file)
		require.NoError(t, err, "the same file again changes nothing")
	}
	_, err = s.ImportPriceList(t.Context(), w.ID, []byte(strings.Replace(string(file), `"149.00"`, `"99.00"`, 1)))
	var faults formats.Faults
	require.True(t, errors.As(err, &faults))
	assert.Contains(t, err.Error(), "a published edition never changes")
	rows, err := s.Editions(t.Context(), w.ID)
	require.NoError(t, err)
	require.Len(t, rows, 1)

	conn, err := pgx.Connect(t.Context(), url)
	require.NoError(t, err)
	defer conn.Close(t.Context())
	_, err = conn.Exec(t.Context(), "update editions set document = 'x'")
	assert.ErrorContains(t, err, "never changes", "not even by hand")
}

func TestAFileAtFaultLeavesNothingBehind(t *testing.T) {
	s, w := testkit.Store(t)
	_, err := s.ImportPriceList(t.Context(), w.ID, []byte(`{"format": "nine-coins/price-list/1"}`))
	assert.Error(t, err)
	_, err = s.ImportStudy(t.Context(), w.ID, demo.Study())
	assert.ErrorContains(t, err, "import its price list first")
	rows, err := s.Editions(t.Context(), w.ID)
	require.NoError(t, err)
	assert.Empty(t, rows)
	studies, err := s.Studies(t.Context(), w.ID)
	require.NoError(t, err)
	assert.Empty(t, studies)
}

func TestEditsAreSavedWithANewRevision(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	require.NoError(t, s.SetDriver(ctx, e, "contacts", usage.Path{Now: usage.Of(7000), Growth: 15_000}))
	require.NoError(t, s.SetPay(ctx, e, projection.Yearly))
	require.NoError(t, s.SetWeight(ctx, e, "ease", 305_000))
	require.NoError(t, s.SetScale(ctx, e, "cost", money.Units(3000), money.Units(9000)))
	half := fit.Halves(13)
	require.NoError(t, s.SetRating(ctx, e, "Dov Amsel", "tallowpost", "trade", &half), "a new rater's first rating")
	l := load(t, s, e)
	assert.Equal(t, usage.Path{Now: usage.Of(7000), Growth: 15_000}, l.Study.Drivers[0].Path)
	assert.Equal(t, projection.Yearly, l.Study.Pay)
	assert.Equal(t, "30.5%", l.Study.Criteria[2].Weight.String())
	assert.Equal(t, "3000", l.Study.Criteria[0].Best.String())
	assert.Equal(t, int64(2), l.Revisions["driver/contacts"])
	assert.Equal(t, int64(1), l.Revisions["driver/seats"], "other rows keep theirs")
	assert.Equal(t, int64(1), l.Revisions["rating/Dov Amsel/tallowpost/trade"])
	e.Revision = 1
	require.NoError(t, s.SetRating(ctx, e, "Dov Amsel", "tallowpost", "trade", nil))
	assert.NotContains(t, load(t, s, e).Revisions, "rating/Dov Amsel/tallowpost/trade")
}

func TestALaterSaveOnAnOlderRevisionIsRefused(t *testing.T) {
	s, e := withDemo(t)
	e.Revision = 1
	require.NoError(t, s.SetDriver(t.Context(), e, "seats", usage.Path{Now: usage.Of(4)}))
	err := s.SetDriver(t.Context(), e, "seats", usage.Path{Now: usage.Of(5)})
	var changed *store.ChangedError
	require.True(t, errors.As(err, &changed), "%v", err)
	assert.Equal(t, usage.Of(4), load(t, s, e).Study.Drivers[5].Path.Now)
	err = s.SetDriver(t.Context(), e, "pigeons", usage.Path{})
	assert.True(t, errors.As(err, &changed))
}

func TestOfManySavesAtOnceOneWins(t *testing.T) {
	s, e := withDemo(t)
	e.Revision = 1
	var wins sync.Map
	var all sync.WaitGroup
	for n := range 8 {
		all.Go(func() {
			if s.SetDriver(context.Background(), e, "seats", usage.Path{Now: usage.Of(int64(n + 10))}) == nil {
				wins.Store(n, true)
			}
		})
	}
	all.Wait()
	count := 0
	wins.Range(func(any, any) bool { count++; return true })
	assert.Equal(t, 1, count)
	assert.Equal(t, int64(2), load(t, s, e).Revisions["driver/seats"])
}

func TestAnEditThatCannotBeComputedIsTakenBack(t *testing.T) {
	s, e := withDemo(t)
	before := load(t, s, e)
	err := s.SetDriver(t.Context(), e, "contacts", usage.Path{Now: usage.Of(1_000_000_000), Growth: money.Whole})
	var refused *store.RefusedError
	require.True(t, errors.As(err, &refused), "%v", err)
	assert.ErrorIs(t, err, usage.ErrRange)
	assert.Equal(t, before.Study.Drivers, load(t, s, e).Study.Drivers)
	for _, c := range before.Study.Criteria {
		err = s.SetWeight(t.Context(), e, c.ID, 0)
	}
	assert.ErrorIs(t, err, fit.ErrWeights, "the last weight cannot be taken away")
}

func TestDeletedStudiesAreMissingUntilTheyAreBroughtBack(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	require.NoError(t, s.DeleteStudy(ctx, e.Workspace, e.Study))
	_, err := s.Study(ctx, e.Workspace, e.Study, e.Today)
	assert.ErrorIs(t, err, store.ErrMissing)
	assert.ErrorIs(t, s.SetPay(ctx, e, projection.Yearly), store.ErrMissing)
	assert.ErrorIs(t, s.DeleteStudy(ctx, e.Workspace, e.Study), store.ErrMissing)
	require.NoError(t, s.RestoreStudy(ctx, e.Workspace, e.Study))
	load(t, s, e)
	assert.ErrorIs(t, s.RestoreStudy(ctx, e.Workspace, e.Study), store.ErrMissing)
}

func TestNothingIsSeenFromAnotherWorkspace(t *testing.T) {
	s, e := withDemo(t)
	other := e
	other.Workspace = uuid.New()
	_, err := s.Study(t.Context(), other.Workspace, e.Study, e.Today)
	assert.ErrorIs(t, err, store.ErrMissing)
	assert.ErrorIs(t, s.SetPay(t.Context(), other, projection.Yearly), store.ErrMissing)
	assert.ErrorIs(t, s.DeleteStudy(t.Context(), other.Workspace, e.Study), store.ErrMissing)
	rows, err := s.Editions(t.Context(), e.Workspace)
	require.NoError(t, err)
	_, _, err = s.Edition(t.Context(), other.Workspace, rows[0].ID)
	assert.ErrorIs(t, err, store.ErrMissing)
	_, list, err := s.Edition(t.Context(), e.Workspace, rows[0].ID)
	require.NoError(t, err)
	assert.Equal(t, rows[0].Name, list.Platform.Name)
}

func TestAServerThatIsNotThereIsSaid(t *testing.T) {
	_, err := store.Open(t.Context(), "postgres://nobody@127.0.0.1:1/none?sslmode=disable")
	assert.ErrorContains(t, err, "connecting to the database")
	_, err = store.Open(t.Context(), "postgres://127.0.0.1:notaport/")
	assert.ErrorContains(t, err, "address cannot be read")
}
