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
	"ninecoins/internal/doors"
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
	return s, demoIn(t, s, w.ID)
}

// demoAt is withDemo, with the database's address for looking behind the store's
// back.
func demoAt(t *testing.T) (*store.Store, store.Editing, string) {
	t.Helper()
	s, url := bare(t)
	w, _, err := s.FirstWorkspace(t.Context(), "Madder")
	require.NoError(t, err)
	require.NoError(t, demo.Settle(t.Context(), s, w.ID))
	return s, demoIn(t, s, w.ID), url
}

// demoIn loads the demo, to be edited by its owner.
func demoIn(t *testing.T, s *store.Store, workspace uuid.UUID) store.Editing {
	t.Helper()
	id, err := demo.Load(t.Context(), s, workspace)
	require.NoError(t, err)
	return testkit.As(t, s, workspace, id, doors.Owner)
}

// wide says that the same person edits what belongs to the workspace.
func wide(e store.Editing) store.Editing {
	e.Study = uuid.Nil
	return e
}

// remove and restore move the study of an editing into the bin and out.
func remove(t *testing.T, s *store.Store, e store.Editing) error {
	return s.Move(t.Context(), wide(e), "study", e.Study.String(), store.Here, store.InBin)
}

func restore(t *testing.T, s *store.Store, e store.Editing) error {
	return s.Move(t.Context(), wide(e), "study", e.Study.String(), store.InBin, store.Here)
}

func load(t *testing.T, s *store.Store, e store.Editing) *study.Study {
	t.Helper()
	st, err := s.Study(t.Context(), e.Workspace, e.Study, e.Today)
	require.NoError(t, err)
	return st
}

// rating returns what a rater gave, and whether there is a rating.
func rating(st *study.Study, rater, option, criterion string) (string, bool) {
	for _, r := range st.Ratings {
		if r.Rater == rater && r.Option == option && r.Criterion == criterion {
			return r.Value.String(), true
		}
	}
	return "", false
}

func TestAStudyComesBackAsItWasImported(t *testing.T) {
	s, e := withDemo(t)
	st := load(t, s, e)
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
	w, made, err := s.FirstWorkspace(t.Context(), "Madder")
	require.NoError(t, err)
	assert.True(t, made)
	file := demo.PriceLists()[0]
	for range 2 {
		_, err = s.ImportPriceList(t.Context(), store.Editing{Workspace: w.ID}, file)
		require.NoError(t, err, "the same file again changes nothing")
	}
	_, err = s.ImportPriceList(t.Context(), store.Editing{Workspace: w.ID}, []byte(strings.Replace(string(file), `"149.00"`, `"99.00"`, 1)))
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
	_, err := s.ImportPriceList(t.Context(), store.Editing{Workspace: w.ID}, []byte(`{"format": "nine-coins/price-list/1"}`))
	assert.Error(t, err)
	_, err = s.ImportStudy(t.Context(), store.Editing{Workspace: w.ID}, demo.Study())
	assert.ErrorContains(t, err, "import its price list first")
	rows, err := s.Editions(t.Context(), w.ID)
	require.NoError(t, err)
	assert.Empty(t, rows)
	studies, err := s.Studies(t.Context(), w.ID)
	require.NoError(t, err)
	assert.Empty(t, studies)
}

func TestEditsAreSaved(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	require.NoError(t, s.SetDriver(ctx, e, "contacts", usage.Of(6400), usage.Of(7000)))
	require.NoError(t, s.SetGrowth(ctx, e, "contacts", 20_000, 15_000))
	require.NoError(t, s.SetPay(ctx, e, projection.Monthly, projection.Yearly))
	require.NoError(t, s.SetWeight(ctx, e, "ease", 180_000, 305_000))
	require.NoError(t, s.SetBest(ctx, e, "cost", money.Units(4000), money.Units(3000)))
	require.NoError(t, s.SetWorst(ctx, e, "cost", money.Units(10000), money.Units(9000)))
	st := load(t, s, e)
	assert.Equal(t, usage.Path{Now: usage.Of(7000), Growth: 15_000}, st.Drivers[0].Path)
	assert.Equal(t, projection.Yearly, st.Pay)
	assert.Equal(t, "30.5%", st.Criteria[2].Weight.String())
	assert.Equal(t, "3000", st.Criteria[0].Best.String())
	assert.Equal(t, "9000", st.Criteria[0].Worst.String())
}

func TestRatingsAreGivenChangedAndTakenBack(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	low, high := fit.Halves(5), fit.Halves(13)
	e = testkit.As(t, s, e.Workspace, e.Study, doors.Rater)
	require.NoError(t, s.SetRating(ctx, e, "tallowpost", "trade", nil, &low), "a rater's first rating")
	got, _ := rating(load(t, s, e), e.Name, "tallowpost", "trade")
	assert.Equal(t, "2.5", got)
	var changed *store.ChangedError
	require.ErrorAs(t, s.SetRating(ctx, e, "tallowpost", "trade", nil, &high), &changed, "somebody rated it meanwhile")
	require.NoError(t, s.SetRating(ctx, e, "tallowpost", "trade", &low, &high))
	require.ErrorAs(t, s.SetRating(ctx, e, "tallowpost", "trade", &low, nil), &changed)
	require.NoError(t, s.SetRating(ctx, e, "tallowpost", "trade", &high, nil))
	_, there := rating(load(t, s, e), e.Name, "tallowpost", "trade")
	assert.False(t, there)
	require.NoError(t, s.SetRating(ctx, e, "tallowpost", "trade", nil, nil), "nothing before and after")
	require.ErrorAs(t, s.SetRating(ctx, e, "tallowpost", "cost", nil, &low), &changed, "cost is measured, not rated")
}

func TestALaterSaveOnWhatWasChangedSinceIsRefused(t *testing.T) {
	s, e := withDemo(t)
	var changed *store.ChangedError
	require.NoError(t, s.SetDriver(t.Context(), e, "seats", usage.Of(3), usage.Of(4)))
	require.ErrorAs(t, s.SetDriver(t.Context(), e, "seats", usage.Of(3), usage.Of(5)), &changed)
	assert.Equal(t, usage.Of(4), load(t, s, e).Drivers[5].Path.Now)
	require.NoError(t, s.SetGrowth(t.Context(), e, "seats", 0, 10_000), "another field of the same row is not in the way")
	require.ErrorAs(t, s.SetDriver(t.Context(), e, "pigeons", 0, 1), &changed)
	require.NoError(t, s.SetPay(t.Context(), e, projection.Yearly, projection.Monthly), "what was to be stands there already")
}

func TestOfManySavesAtOnceOneWins(t *testing.T) {
	s, e := withDemo(t)
	var wins sync.Map
	var all sync.WaitGroup
	for n := range 8 {
		all.Go(func() {
			if s.SetDriver(context.Background(), e, "seats", usage.Of(3), usage.Of(int64(n+10))) == nil {
				wins.Store(n, true)
			}
		})
	}
	all.Wait()
	count := 0
	wins.Range(func(any, any) bool { count++; return true })
	assert.Equal(t, 1, count)
}

func TestAnEditThatCannotBeComputedIsTakenBack(t *testing.T) {
	s, e := withDemo(t)
	before := load(t, s, e)
	var refused *store.RefusedError
	err := s.SetDriver(t.Context(), e, "contacts", usage.Of(6400), usage.Of(900_000_000_000))
	require.ErrorAs(t, err, &refused)
	assert.ErrorIs(t, err, usage.ErrRange)
	assert.Equal(t, before.Drivers, load(t, s, e).Drivers)
	err = s.SetBest(t.Context(), e, "cost", money.Units(4000), money.Units(10001))
	require.ErrorAs(t, err, &refused)
	assert.ErrorIs(t, err, store.ErrScale)
	assert.Equal(t, before.Criteria, load(t, s, e).Criteria)
	for _, c := range before.Criteria {
		err = s.SetWeight(t.Context(), e, c.ID, c.Weight, 0)
	}
	assert.ErrorIs(t, err, fit.ErrWeights, "the last weight cannot be taken away")
}

func TestDeletedStudiesAreMissingUntilTheyAreBroughtBack(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	require.NoError(t, remove(t, s, e))
	_, err := s.Study(ctx, e.Workspace, e.Study, e.Today)
	assert.ErrorIs(t, err, store.ErrMissing)
	assert.ErrorIs(t, s.SetPay(ctx, e, projection.Monthly, projection.Yearly), store.ErrMissing)
	require.NoError(t, remove(t, s, e), "it is where it was to be put")
	require.NoError(t, restore(t, s, e))
	load(t, s, e)
}

func TestNothingIsSeenFromAnotherWorkspace(t *testing.T) {
	s, e := withDemo(t)
	other := e
	other.Workspace = uuid.New()
	_, err := s.Study(t.Context(), other.Workspace, e.Study, e.Today)
	assert.ErrorIs(t, err, store.ErrMissing)
	assert.ErrorIs(t, s.SetPay(t.Context(), other, projection.Monthly, projection.Yearly), store.ErrMissing)
	assert.ErrorIs(t, remove(t, s, other), store.ErrMissing)
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

func ratingOf(t *testing.T, text string) fit.Halves {
	t.Helper()
	h, err := fit.ParseHalves(text)
	require.NoError(t, err)
	return h
}

// renamed is the demo's study under another key and title.
func renamed(key, title string) []byte {
	return []byte(strings.NewReplacer(`"key": "spring-list"`, `"key": "`+key+`"`, `"title": "Spring list"`, `"title": "`+title+`"`).Replace(string(demo.Study())))
}
