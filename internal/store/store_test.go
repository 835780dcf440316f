package store_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"

	"ninecoins/internal/core/document"
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
	return s.Move(t.Context(), wide(e), store.Studies, e.Study.String(), true)
}

func restore(t *testing.T, s *store.Store, e store.Editing) error {
	return s.Move(t.Context(), wide(e), store.Studies, e.Study.String(), false)
}

// rated is the path of what somebody gives an option on a criterion.
func rated(e store.Editing, option, criterion string) string {
	return "ratings." + e.By.String() + "/" + option + "/" + criterion + ".value"
}

// bringBack takes what was removed at a path out of the bin.
func bringBack(t *testing.T, s *store.Store, e store.Editing, path string) error {
	t.Helper()
	history, err := s.History(t.Context(), e.Workspace, e.Study, store.Asked{Most: 100})
	require.NoError(t, err)
	for _, c := range history {
		if c.Removed == path {
			return s.BringBack(t.Context(), e, c.ID)
		}
	}
	return store.ErrMissing
}

// textAt is the canonical text of what stands at a path of a study.
func textAt(t *testing.T, st *study.Study, path document.Path) string {
	t.Helper()
	spot, there := study.Kept().Spot(*st, path)
	require.True(t, there, path)
	return spot.Text
}

// exported is a workspace as a file.
func exported(t *testing.T, s *store.Store, workspace uuid.UUID) []byte {
	t.Helper()
	var out bytes.Buffer
	require.NoError(t, s.ExportWorkspace(t.Context(), workspace, &out))
	return out.Bytes()
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
		if st.NameOf(r.Rater) == rater && r.Option == option && r.Criterion == criterion {
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
	o := study.Compute(st)
	assert.Equal(t, "7036", o.Results[0].Schedule.Total.String(), "the same as from the files")
	assert.Equal(t, "6.9", o.Results[0].Standing.Fit.String())
	rows, err := s.Studies(t.Context(), e.Workspace, testkit.Day, store.Page{Most: 50})
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
	assert.ErrorContains(t, err, "bring its price list in first")
	rows, err := s.Editions(t.Context(), w.ID)
	require.NoError(t, err)
	assert.Empty(t, rows)
	studies, err := s.Studies(t.Context(), w.ID, testkit.Day, store.Page{Most: 50})
	require.NoError(t, err)
	assert.Empty(t, studies)
}

func TestEditsAreSaved(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	require.NoError(t, testkit.Set(ctx, s, e, "drivers.contacts.now", "6400", "7000"))
	require.NoError(t, testkit.Set(ctx, s, e, "drivers.contacts.growth", "2%", "1.5%"))
	require.NoError(t, testkit.Set(ctx, s, e, "pay", "monthly", "yearly"))
	require.NoError(t, testkit.Set(ctx, s, e, "criteria.ease.weight", "18%", "30.5%"))
	require.NoError(t, testkit.Set(ctx, s, e, "criteria.cost.best", "4000", "3000"))
	require.NoError(t, testkit.Set(ctx, s, e, "criteria.cost.worst", "10000", "9000"))
	st := load(t, s, e)
	path := st.Drivers[0].Path
	assert.Equal(t, usage.Of(7000), path.Now)
	assert.Equal(t, money.Share(15_000), path.Growth)
	assert.Equal(t, money.Share(11_000), path.Low.Growth.Value)
	assert.Equal(t, projection.Yearly, st.Pay)
	assert.Equal(t, "30.5%", st.Criteria[2].Weight.String())
	assert.Equal(t, "3000", st.Criteria[0].Best.String())
	assert.Equal(t, "9000", st.Criteria[0].Worst.String())
}

func TestRatingsAreGivenChangedAndTakenBack(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	e = testkit.As(t, s, e.Workspace, e.Study, doors.Rater)
	require.NoError(t, testkit.Set(ctx, s, e, rated(e, "tallowpost", "trade"), "", "2.5"), "a rater's first rating")
	got, _ := rating(load(t, s, e), e.Name, "tallowpost", "trade")
	assert.Equal(t, "2.5", got)
	var changed *store.ChangedError
	require.ErrorAs(t, testkit.Set(ctx, s, e, rated(e, "tallowpost", "trade"), "", "6.5"), &changed, "somebody rated it meanwhile")
	require.NoError(t, testkit.Set(ctx, s, e, rated(e, "tallowpost", "trade"), "2.5", "6.5"))
	require.ErrorAs(t, testkit.Set(ctx, s, e, rated(e, "tallowpost", "trade"), "2.5", ""), &changed)
	require.NoError(t, testkit.Set(ctx, s, e, rated(e, "tallowpost", "trade"), "6.5", ""))
	_, there := rating(load(t, s, e), e.Name, "tallowpost", "trade")
	assert.False(t, there)
	require.NoError(t, testkit.Set(ctx, s, e, rated(e, "tallowpost", "trade"), "", ""), "nothing before and after")
	var refused *store.RefusedError
	require.ErrorAs(t, testkit.Set(ctx, s, e, rated(e, "tallowpost", "cost"), "", "2.5"), &refused, "cost is measured, not rated")
}

func TestALaterSaveOnWhatWasChangedSinceIsRefused(t *testing.T) {
	s, e := withDemo(t)
	var changed *store.ChangedError
	require.NoError(t, testkit.Set(t.Context(), s, e, "drivers.seats.now", "3", "4"))
	require.ErrorAs(t, testkit.Set(t.Context(), s, e, "drivers.seats.now", "3", "5"), &changed)
	assert.Equal(t, usage.Of(4), load(t, s, e).Drivers[5].Path.Now)
	require.NoError(t, testkit.Set(t.Context(), s, e, "drivers.seats.growth", "0%", "1%"), "another field of the same row is not in the way")
	require.ErrorAs(t, testkit.Set(t.Context(), s, e, "drivers.pigeons.now", "0", "0.000001"), &changed)
	require.NoError(t, testkit.Set(t.Context(), s, e, "pay", "yearly", "monthly"), "what was to be stands there already")
}

func TestOfManySavesAtOnceOneWins(t *testing.T) {
	s, e := withDemo(t)
	var wins sync.Map
	var all sync.WaitGroup
	for n := range 8 {
		all.Go(func() {
			if testkit.Set(context.Background(), s, e, "drivers.seats.now", "3", fmt.Sprint(n+10)) == nil {
				wins.Store(n, true)
			}
		})
	}
	all.Wait()
	count := 0
	wins.Range(func(any, any) bool { count++; return true })
	assert.Equal(t, 1, count)
}

func TestAnEditThatCannotBeComputedIsKeptAndTold(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	require.NoError(t, testkit.Set(ctx, s, e, "drivers.contacts.growth", "2%", "90%"))
	o, err := s.Outcome(ctx, e.Workspace, e.Study, e.Today)
	require.NoError(t, err)
	require.NotEmpty(t, o.Faults)
	assert.EqualValues(t, "drivers.contacts.growth", o.Faults[1].At)
	require.NoError(t, testkit.Set(ctx, s, e, "criteria.cost.best", "4000", "10001"))
	for _, c := range load(t, s, e).Criteria {
		require.NoError(t, testkit.Set(ctx, s, e, "criteria."+c.ID+".weight", c.Weight.String(), "0%"))
	}
	o, err = s.Outcome(ctx, e.Workspace, e.Study, e.Today)
	require.NoError(t, err)
	assert.Len(t, o.Faults, 9, "the scale, two drivers, five options and the weights")
	rows, err := s.Studies(ctx, e.Workspace, e.Today, store.Page{Most: 10})
	require.NoError(t, err)
	assert.Equal(t, 9, rows[0].Facts.Faults)
	for done := new(store.Change); done != nil; {
		done, err = s.Undo(ctx, e)
		require.NoError(t, err)
	}
	o, err = s.Outcome(ctx, e.Workspace, e.Study, e.Today)
	require.NoError(t, err)
	assert.Empty(t, o.Faults)

	// What cannot be stored is refused.
	before := load(t, s, e)
	var refused *store.RefusedError
	for path, to := range map[string]string{"drivers.contacts.now": "9000000000000", "months": "0", "criteria.ease.key": "x", "options.fernwire.observed_on": "2026-01-01", "nothing": "1"} {
		spot, _ := study.Kept().Spot(*before, document.Path(path))
		assert.ErrorAs(t, testkit.Set(ctx, s, e, path, spot.Text, to), &refused, path)
	}
	assert.Equal(t, before, load(t, s, e))
	assert.ErrorAs(t, testkit.Set(ctx, s, e, "rates.GBP.on", "2026-11-20", "2027-11-20"), &refused, "files do not take a day to come, so it would not come in again")
	insert := document.Op{Do: document.Insert, Path: "rates.CHF", To: `{"currency": "CHF", "rate": "1.05", "on": "2027-11-20"}`}
	assert.ErrorAs(t, s.Edit(ctx, e, document.Change{insert}), &refused)
	require.NoError(t, testkit.Set(ctx, s, e, "rates.GBP.on", "2026-11-20", "2026-11-21"))
}

func TestDeletedStudiesAreMissingUntilTheyAreBroughtBack(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	require.NoError(t, remove(t, s, e))
	_, err := s.Study(ctx, e.Workspace, e.Study, e.Today)
	assert.ErrorIs(t, err, store.ErrMissing)
	assert.ErrorIs(t, testkit.Set(ctx, s, e, "pay", "monthly", "yearly"), store.ErrMissing)
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
	assert.ErrorIs(t, testkit.Set(t.Context(), s, other, "pay", "monthly", "yearly"), store.ErrMissing)
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

// renamed is the demo's study under another key and title.
func renamed(key, title string) []byte {
	return []byte(strings.NewReplacer(`"key": "spring-list"`, `"key": "`+key+`"`, `"title": "Spring list"`, `"title": "`+title+`"`).Replace(string(demo.Study())))
}
