package web_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"net/http"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// hand makes random edits of a study, of its price lists and of what belongs to the workspace, as one
// person on one process.
type hand struct {
	store  *store.Store
	at     store.Editing
	random *rand.Rand
	made   int // edits that were answered as made
}

func (h *hand) pick(all ...string) string { return all[h.random.IntN(len(all))] }

// wide is the workspace as a whole.
func (h *hand) wide() store.Editing {
	e := h.at
	e.Study = uuid.Nil
	return e
}

// keys lists the items of a list of the study.
func keys(s *study.Study, list string) (all []string) {
	switch list {
	case "options":
		for _, o := range s.Options {
			all = append(all, o.Key)
		}
	case "running":
		for _, r := range s.Running {
			all = append(all, r.Key)
		}
	case "needs":
		for _, n := range s.Needs {
			all = append(all, n.Feature)
		}
	case "criteria":
		for _, c := range s.Criteria {
			all = append(all, c.ID)
		}
	case "drivers":
		for _, d := range s.Drivers {
			all = append(all, d.Driver)
		}
	case "own_drivers":
		for _, d := range s.Own {
			all = append(all, d.Key)
		}
	case "private_offers":
		for _, p := range s.PrivateOffers {
			all = append(all, p.Key())
		}
	case "findings":
		for _, f := range s.Findings {
			all = append(all, strings.Join([]string{f.Platform, f.Plan, f.Feature}, "/"))
		}
	case "rates":
		for code := range s.Rates {
			all = append(all, code)
		}
		slices.Sort(all)
	}
	return all
}

var lists = []string{"options", "running", "needs", "criteria", "drivers", "own_drivers", "private_offers", "findings", "rates"}

// change is a random change of a study.
func (h *hand) change(s *study.Study) document.Change {
	set := func(path document.Path, to string) document.Change {
		spot, ok := study.Kept().Spot(*s, path)
		if !ok {
			return nil
		}
		return document.Change{{Do: document.Set, Path: path, Was: spot.Text, To: to}}
	}
	insert := func(path document.Path, item string, a ...any) document.Change {
		return document.Change{{Do: document.Insert, Path: path, To: fmt.Sprintf(item, a...)}}
	}
	list := lists[h.random.IntN(len(lists))]
	all := keys(s, list)
	one := func(list string) string {
		if all := keys(s, list); len(all) > 0 {
			return h.pick(all...)
		}
		return "none"
	}
	option := one("options")
	plan := "none"
	for i := range s.Options {
		if s.Options[i].Key == option && s.Options[i].Edition != nil {
			plans := s.Options[i].Edition.Plans
			plan = plans[h.random.IntN(len(plans))].Key
		}
	}
	key := fmt.Sprintf("k%d", h.random.IntN(30))
	of := document.Path("options").To(option)
	switch n := h.random.IntN(20); {
	case n < 3 && len(all) > 0:
		return document.Change{{Do: document.Remove, Path: document.Path(list).To(h.pick(all...))}}
	case n < 5 && len(all) > 1:
		return document.Change{{Do: document.Move, Path: document.Path(list).To(h.pick(all...)), Before: h.pick(all...)}}
	case n < 8:
		months := 1 + h.random.IntN(3)
		term := map[bool]string{true: "1", false: fmt.Sprintf("%d-upfront", months)}[months == 1]
		return insert(document.Path("private_offers").To(strings.Join([]string{option, plan, term}, "/")),
			`{"option": %q, "plan": %q, "months": %d, "paid": %q, "bill": "%d", "on": "2026-11-01"}`, option, plan, months,
			map[bool]string{true: "monthly", false: "upfront"}[months == 1], 10+h.random.IntN(900))
	case n == 8:
		return insert(document.Path("running").To(key), `{"key": %q, "name": "Tool %s", "cost": "20"}`, key, key)
	case n == 9:
		return set(of.To("lets"), one("running"))
	case n == 10:
		return set("connector.through", one("running"))
	case n == 11:
		return insert(document.Path("own_drivers").To(key), `{"key": %q, "name": "Driver %s", "unit": "thing", "kind": "stock"}`, key, key)
	case n == 12:
		return set(document.Path("own_drivers").To(one("own_drivers"), "formula"), h.pick("contacts + 1", "contacts + nobody", ""))
	case n == 13:
		return set(of.To("plan"), h.pick(plan, ""))
	case n == 14:
		return set(document.Path("private_offers").To(one("private_offers"), "until"), h.pick("2026-10-01", "2027-06-01", ""))
	case n == 15:
		return set(document.Path("criteria").To(one("criteria"), "worst"), h.pick("1", "9000", "20000"))
	case n == 16:
		return set("months", h.pick("1", "12", "36", "60"))
	case n == 17:
		return set(of.To(h.pick("face", "now", "aside")), h.pick("1", "2", "true", "false", "too dear"))
	case n == 18:
		return insert(document.Path("criteria").To(key), `{"key": %q, "name": "Criterion %s", "source": "rated", "weight": "10%%"}`, key, key)
	}
	return set("pay", h.pick("monthly", "yearly", "mix", "fixed"))
}

// act does one random thing.
func (h *hand) act(ctx context.Context, t *testing.T) {
	var err error
	switch n := h.random.IntN(40); {
	case n < 28:
		var s *study.Study
		if s, err = h.store.Study(ctx, h.at.Workspace, h.at.Study, h.at.Today); err == nil {
			if c := h.change(s); c != nil {
				err = h.store.Edit(ctx, h.at, c)
			}
		}
	case n < 31:
		_, err = h.store.Undo(ctx, h.at)
	case n < 33:
		_, err = h.store.Redo(ctx, h.at)
	case n == 33:
		err = h.store.Move(ctx, h.wide(), store.Studies, h.at.Study.String(), true)
		if back := h.store.Move(ctx, h.wide(), store.Studies, h.at.Study.String(), false); back != nil && err == nil {
			err = back
		}
	case n < 36:
		_, err = h.store.OpenDraft(ctx, h.wide(), "brindlepost")
	case n == 36:
		err = h.store.DropDraft(ctx, h.wide(), "brindlepost")
	case n == 37:
		err = h.store.TakeUpDraft(ctx, h.wide(), "brindlepost")
	case n == 38:
		d, id, missing := h.store.Draft(ctx, h.at.Workspace, "brindlepost")
		if err = missing; err == nil && h.random.IntN(3) > 0 {
			e := h.at
			e.Study, e.Kind = id, store.ADraft
			err = h.store.Edit(ctx, e, document.Change{{Do: document.Set, Path: "source", Was: d.Draft.Edition.Source, To: fmt.Sprintf("read by hand %d", h.random.IntN(99))}})
		} else if err == nil {
			_, err = h.store.Publish(ctx, h.wide(), "brindlepost", d.Revision)
		}
	default:
		err = h.store.ReadAgain(ctx, h.wide(), h.pick("osier-mail", "quirebird"))
	}
	var refused *store.RefusedError
	var changed *store.ChangedError
	var barred *store.NotAllowedError
	if err == nil {
		h.made++
	} else {
		assert.True(t, errors.As(err, &refused) || errors.As(err, &changed) || errors.As(err, &barred) || errors.Is(err, store.ErrMissing), "%v", err)
	}
}

// TestRandomSequencesOverTwoProcesses has four people edit at once over two processes, what others refer
// to among it. Then every page is drawn by both, what goes out comes in again letter by letter, the
// history replays, and nothing is worked on any more.
func TestRandomSequencesOverTwoProcesses(t *testing.T) {
	for seed := range uint64(4) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			t.Parallel()
			app := testkit.Start(t, true)
			other := app.Another(t)
			second, err := store.Open(t.Context(), app.Database)
			require.NoError(t, err)
			defer second.Close()
			ctx, cancel := context.WithTimeout(t.Context(), 4*time.Minute)
			defer cancel()
			var all sync.WaitGroup
			hands := make([]*hand, 4)
			for i := range hands {
				role := []doors.Role{doors.Owner, doors.Editor}[i%2]
				hands[i] = &hand{store: []*store.Store{app.Store, second}[i/2], at: testkit.As(t, app.Store, app.Workspace.ID, app.Study, role), random: rand.New(rand.NewPCG(seed, uint64(i)))}
				all.Go(func() {
					for range 60 {
						hands[i].act(ctx, t)
					}
				})
			}
			all.Wait()
			made := 0
			for _, h := range hands {
				made += h.made
			}
			t.Logf("%d of %d things were done", made, 60*len(hands))
			require.Greater(t, made, 60)

			for _, address := range []string{app.Address, other} {
				client := app.Client
				at := address + "/studies/" + app.Study.String() + "/"
				for _, page := range append(append(slices.Clone(coins), costViews...), "history", "questions", "differences") {
					a := get(t, client, at+page)
					require.Equal(t, http.StatusOK, a.status, page)
				}
				for _, page := range []string{"/", "/shelf", "/shelf/platforms/brindlepost", "/bin", "/history", "/workspace"} {
					require.Equal(t, http.StatusOK, get(t, client, address+page).status, page)
				}
			}
			one, err := app.Store.Study(ctx, app.Workspace.ID, app.Study, testkit.Day)
			require.NoError(t, err)
			two, err := second.Study(ctx, app.Workspace.ID, app.Study, testkit.Day)
			require.NoError(t, err)
			assert.Equal(t, string(study.Kept().Write(*one)), string(study.Kept().Write(*two)), "both processes show the same")
			replays(t, app)

			var out, again bytes.Buffer
			require.NoError(t, app.Store.ExportWorkspace(ctx, app.Workspace.ID, &out))
			empty := testkit.Start(t, false)
			_, err = empty.Store.ImportFile(ctx, testkit.As(t, empty.Store, empty.Workspace.ID, uuid.Nil, doors.Owner), out.Bytes())
			require.NoError(t, err)
			require.NoError(t, empty.Store.ExportWorkspace(ctx, empty.Workspace.ID, &again))
			assert.True(t, bytes.Equal(out.Bytes(), again.Bytes()), "what goes out comes in again letter by letter")
			assert.True(t, app.Server.Idle(), "nothing is worked on once all have left")
		})
	}
}

// replays takes the changes of a study that stand back, the newest first, whoever made them, until the
// study is as it was brought in, and makes them again.
func replays(t *testing.T, app *testkit.App) {
	t.Helper()
	db, err := pgx.Connect(t.Context(), app.Database)
	require.NoError(t, err)
	defer db.Close(t.Context())
	rows, err := db.Query(t.Context(), "select ops from changes where document_id = $1 and undone_at is null and ops <> '[]' and not wide order by touched_at, id", app.Study)
	require.NoError(t, err)
	changes, err := pgx.CollectRows(rows, pgx.RowTo[document.Change])
	require.NoError(t, err)
	s, err := app.Store.Study(t.Context(), app.Workspace.ID, app.Study, testkit.Day)
	require.NoError(t, err)
	want := string(study.Kept().Write(*s))
	now, back := *s, make([]document.Change, 0, len(changes))
	for _, c := range slices.Backward(changes) {
		var made document.Change
		now, made, err = study.Kept().Apply(now, c.Inverse())
		if err != nil { // it was undone beside what came after it
			t.Logf("%d of %d changes are taken back, then: %v", len(back), len(changes), err)
			break
		}
		back = append(back, made)
	}
	for _, c := range slices.Backward(back) {
		now, _, err = study.Kept().Apply(now, c.Inverse())
		require.NoError(t, err)
	}
	assert.Equal(t, want, string(study.Kept().Write(now)), "%d changes replay", len(back))
	assert.Greater(t, len(back), 10)
}
