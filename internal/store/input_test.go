package store_test

import (
	"context"
	"fmt"
	"runtime"
	"strings"
	"sync"
	"testing"
	"time"

	"ninecoins/internal/demo"
	"ninecoins/internal/doors"
	"ninecoins/internal/formats"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestOwnersWhoRenameAtOnceWaitForEachOther has three owners rename themselves
// over and over who share four workspaces, which each came into in another
// order, while others edit there.
func TestOwnersWhoRenameAtOnceWaitForEachOther(t *testing.T) {
	s, e := withDemo(t)
	ctx := t.Context()
	var owners []store.Account
	for n := range 3 {
		a, err := s.NewAccount(ctx, e.Workspace, fmt.Sprintf("Owner %d", n), fmt.Sprintf("o%d@marl.example", n), "", doors.Owner)
		require.NoError(t, err)
		owners = append(owners, a)
	}
	var shared []store.Workspace
	for n := range 4 {
		w, err := s.NewWorkspace(ctx, owners[n%3], fmt.Sprintf("Shared %d", n))
		require.NoError(t, err)
		shared = append(shared, w)
		for _, list := range demo.PriceLists() {
			_, err := s.ImportPriceList(ctx, store.Editing{Workspace: w.ID}, list)
			require.NoError(t, err)
		}
		for k := range 3 {
			_, err := s.ImportStudy(ctx, store.Editing{Workspace: w.ID}, []byte(strings.ReplaceAll(string(demo.Study()), "spring-list", fmt.Sprintf("list-%d", k))))
			require.NoError(t, err)
		}
	}
	for n, a := range owners {
		for k := range shared {
			w := shared[(k+n+1)%len(shared)]
			by := seated(t, s, w, owners)
			if by.Name == a.Name {
				continue
			}
			_, hash := doors.NewToken()
			_, err := s.Invite(ctx, by, a.Email, doors.Owner, hash, time.Hour)
			if err == store.ErrMember {
				continue
			}
			require.NoError(t, err)
			_, _, err = s.Join(ctx, hash, a.ID, "", "")
			require.NoError(t, err)
		}
	}
	var all sync.WaitGroup
	for n, a := range owners {
		all.Go(func() {
			for round := range 12 {
				assert.NoError(t, s.SetName(ctx, a.ID, fmt.Sprintf("Owner %d-%d", n+2, round)))
			}
		})
	}
	all.Go(func() {
		for n := range int64(12) {
			assert.NoError(t, testkit.Set(ctx, s, e, "drivers.seats.now", fmt.Sprint(3+n), fmt.Sprint(4+n)))
		}
	})
	all.Go(func() {
		for n := range 8 {
			_, err := s.ImportStudy(ctx, wide(e), []byte(strings.ReplaceAll(string(demo.Study()), "spring-list", fmt.Sprintf("more-%d", n))))
			assert.NoError(t, err)
		}
	})
	all.Wait()
	for _, w := range shared {
		members, err := s.Members(ctx, w.ID)
		require.NoError(t, err)
		require.Len(t, members, 3)
		for n, m := range members {
			assert.Equal(t, fmt.Sprintf("Owner %d-11", n+2), m.Name)
		}
	}
}

// seated says how the first of some accounts edits that has a seat in a
// workspace.
func seated(t *testing.T, s *store.Store, w store.Workspace, accounts []store.Account) store.Editing {
	t.Helper()
	for _, a := range accounts {
		_, seats, err := s.Visitor(t.Context(), a.ID, a.Epoch, uuid.Nil)
		require.NoError(t, err)
		for _, seat := range seats {
			if seat.Workspace.ID == w.ID {
				return store.Editing{Workspace: w.ID, By: seat.Person, Name: seat.Name, Role: seat.Role}
			}
		}
	}
	require.Fail(t, "nobody has a seat there")
	return store.Editing{}
}

// TestATransactionThatStandsInAnothersWayIsRunAgain makes a deadlock happen
// behind the store's back: the store's part of it is tried again.
func TestATransactionThatStandsInAnothersWayIsRunAgain(t *testing.T) {
	url := testkit.Database(t)
	s, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	require.NoError(t, s.Migrate(t.Context()))
	w, _, err := s.FirstWorkspace(t.Context(), "Madder")
	require.NoError(t, err)
	a, err := s.NewAccount(t.Context(), w.ID, "Rue Sable", "rue@marl.example", "", doors.Owner)
	require.NoError(t, err)
	sql(t, url, `create table given_up (n int); insert into given_up values (0);
		create sequence tried;
		create function give_up() returns trigger language plpgsql as $$ begin
			if nextval('tried') < 4 then raise exception 'deadlock detected' using errcode = case when currval('tried') % 2 = 0 then '40P01' else '40001' end; end if;
			return new; end $$;
		create trigger give_up before update on accounts for each row execute function give_up()`)
	require.NoError(t, s.SetName(t.Context(), a.ID, "Rue Sedge"))
	sql(t, url, "alter sequence tried restart")
	ended, cancel := context.WithCancel(t.Context())
	cancel()
	assert.Error(t, s.SetName(ended, a.ID, "Rue"), "but not for somebody who has left")
	sql(t, url, "create or replace function give_up() returns trigger language plpgsql as $$ begin raise exception 'deadlock detected' using errcode = '40P01'; end $$")
	assert.Error(t, s.SetName(t.Context(), a.ID, "Rue"), "nor for ever")
}

// TestTheBinGoesByTheDatabasesClock has a process whose own clock is anywhere:
// how long something has rested is the database's to say.
func TestTheBinGoesByTheDatabasesClock(t *testing.T) {
	s, e, url := demoAt(t)
	require.NoError(t, testkit.Delete(t.Context(), s, e, "options.quirebird"))
	require.NoError(t, remove(t, s, e))
	for _, row := range []struct {
		back string
		left int
	}{{"0 seconds", 30}, {"23 hours", 30}, {"25 hours", 29}, {"29 days 23 hours", 1}} {
		sql(t, url, "update documents set deleted_at = now() - $1::text::interval", row.back)
		binned, err := s.Bin(t.Context(), e.Workspace)
		require.NoError(t, err)
		require.Len(t, binned, 1)
		assert.InDelta(t, row.left, binned[0].DaysLeft, 1, row.back) // at the stroke of an hour
		require.NoError(t, s.Purge(t.Context(), store.InBinFor))
		binned, err = s.Bin(t.Context(), e.Workspace)
		require.NoError(t, err)
		assert.Len(t, binned, 1, "it rests there for %s", row.back)
	}
	sql(t, url, "update documents set deleted_at = now() - interval '30 days 1 second'")
	require.NoError(t, s.Purge(t.Context(), store.InBinFor))
	binned, err := s.Bin(t.Context(), e.Workspace)
	require.NoError(t, err)
	assert.Empty(t, binned)

	clock := &store.Clock{}
	require.NoError(t, clock.Set(t.Context(), s))
	var there time.Time
	conn, err := pgx.Connect(t.Context(), url)
	require.NoError(t, err)
	defer conn.Close(t.Context())
	require.NoError(t, conn.QueryRow(t.Context(), "select clock_timestamp()").Scan(&there))
	assert.WithinDuration(t, there, clock.Now(), 10*time.Second)
}

func TestABroughtInListNamesItsPlatformOnlyAsTheNewest(t *testing.T) {
	s, w := testkit.Store(t)
	by := store.Editing{Workspace: w.ID}
	list := func(name, day string) []byte {
		return []byte(strings.NewReplacer(`"name": "Brindlepost"`, `"name": "`+name+`"`, `"2026-10-02"`, `"`+day+`"`).Replace(string(demo.PriceLists()[0])))
	}
	named := func() string {
		rows, err := s.Editions(t.Context(), w.ID)
		require.NoError(t, err)
		return rows[0].Name
	}
	old, newer := list("Brindlepost", "2026-10-02"), list("Brindle Post", "2026-11-02")
	for _, file := range [][]byte{old, newer} {
		_, err := s.ImportPriceList(t.Context(), by, file)
		require.NoError(t, err)
	}
	assert.Equal(t, "Brindle Post", named())
	_, err := s.ImportPriceList(t.Context(), by, old)
	require.NoError(t, err)
	assert.Equal(t, "Brindle Post", named(), "the same file again changes nothing")
	_, err = s.ImportPriceList(t.Context(), by, list("Brindle Old", "2026-09-02"))
	require.NoError(t, err)
	assert.Equal(t, "Brindle Post", named(), "nor does one that was read earlier")
	_, err = s.ImportPriceList(t.Context(), by, list("Brindle Other", "2026-10-02"))
	assert.ErrorContains(t, err, "never changes")
	assert.Equal(t, "Brindle Post", named())
	_, err = s.ImportPriceList(t.Context(), by, append([]byte("\ufeff"), old...))
	assert.NoError(t, err, "a byte order mark is no other file")
	tomorrow := time.Now().UTC().AddDate(0, 0, 2).Format(time.DateOnly)
	_, err = s.ImportPriceList(t.Context(), by, list("Brindlepost", tomorrow))
	assert.ErrorContains(t, err, tomorrow+" is in the future")
}

// TestAFileIsReadAsWhatItSaysItIs puts the format last, and names of other
// formats into texts.
func TestAFileIsReadAsWhatItSaysItIs(t *testing.T) {
	s, w := testkit.Store(t)
	by := store.Editing{Workspace: w.ID}
	for _, list := range demo.PriceLists() {
		text := strings.Replace(string(list), `"source": "`, `"source": "not nine-coins/study/1 nor nine-coins/workspace/1: `, 1)
		brought, err := s.ImportFile(t.Context(), by, []byte(text))
		require.NoError(t, err)
		assert.NotEmpty(t, brought.Platform)
	}
	st := strings.TrimSpace(strings.Replace(string(demo.Study()), `"format": "nine-coins/study/1",`, "", 1))
	st = strings.Replace(st, `"question": "`, `"question": "nine-coins/workspace/1? `, 1)
	st = strings.TrimSuffix(st, "}") + `, "format": "nine-coins/study/1"}`
	brought, err := s.ImportFile(t.Context(), by, []byte("\ufeff"+st))
	require.NoError(t, err)
	assert.NotEqual(t, uuid.Nil, brought.Study)
	for file, want := range map[string]string{
		`{"format": "nine-coins/usage/1"}`:        `format: expected one of nine-coins/price-list/1, nine-coins/study/1, nine-coins/workspace/2, found "nine-coins/usage/1"`,
		`{"source": "nine-coins/price-list/1"}`:   "format: is missing",
		`{"format": {"a": "nine-coins/study/1"}}`: "format: expected one of",
		`["nine-coins/study/1"]`:                  "expected an object, found a list",
		"\xff\xfe{\x00}\x00":                      "saved as UTF-16; save it as UTF-8",
	} {
		_, err := s.ImportFile(t.Context(), by, []byte(file))
		var faults formats.Faults
		require.ErrorAs(t, err, &faults)
		assert.ErrorContains(t, err, want)
	}
	editor := testkit.As(t, s, w.ID, uuid.Nil, doors.Editor)
	_, err = s.ImportFile(t.Context(), editor, []byte(`{"x": 1, "format": "nine-coins/workspace/1"}`))
	var refused *store.NotAllowedError
	assert.ErrorAs(t, err, &refused, "wherever it says so")
}

// heavy is a price list of about 1.5 MB.
func heavy(n int) []byte {
	var bands []string
	for i := range 300 {
		bands = append(bands, fmt.Sprintf(`{"to": %d, "price": "%d.%06d", "yearly": "%d.5"}`, 1000*(i+1), i+1, 100_000+i, i))
	}
	stair := strings.Join(bands, ", ")
	var plans []string
	for i := range 30 {
		var charges []string
		for j := range 2 {
			charges = append(charges, fmt.Sprintf(`{"key": "c%d", "kind": "stair", "meter": "contacts", "bands": [%s]}`, j, stair))
		}
		plans = append(plans, fmt.Sprintf(`{"key": "p%d", "name": "P", "offered": "public", "terms": [{"key": "monthly", "months": 1}, {"key": "yearly", "months": 12}], "charges": [%s]}`, i, strings.Join(charges, ", ")))
	}
	return []byte(fmt.Sprintf(`{"format": "nine-coins/price-list/1", "platform": {"key": "heavy-%d", "name": "Heavy", "does": ["email"]}, "observed_on": "2026-10-02", "source": "x", "currency": "EUR", "tax": {"included": false},
		"meters": [{"key": "contacts", "unit": "contact", "kind": "stock", "counts": "contacts"}], "plans": [%s]}`, n, strings.Join(plans, ", ")))
}

// TestPriceListsThatWereReadDoNotFillTheMemory reads more than are kept, and
// looks at what the process holds.
func TestPriceListsThatWereReadDoNotFillTheMemory(t *testing.T) {
	s, w := testkit.Store(t)
	by := store.Editing{Workspace: w.ID}
	held := func() uint64 {
		var m runtime.MemStats
		runtime.GC()
		runtime.GC()
		runtime.ReadMemStats(&m)
		return m.HeapAlloc
	}
	one := heavy(0)
	require.Greater(t, len(one), 1_000_000)
	e, err := formats.ReadPriceList(t.Context(), one, testkit.Day)
	require.NoError(t, err)
	kept := []any{e}
	before := held()
	for range 4 {
		again, err := formats.ReadPriceList(t.Context(), one, testkit.Day)
		require.NoError(t, err)
		kept = append(kept, again)
	}
	real := (held() - before) / 4
	assert.InDelta(t, 1, float64(e.Weight())/float64(real), 0.6, "a list weighs what it takes: %d and %d", e.Weight(), real)
	runtime.KeepAlive(kept)

	before = held()
	lists := 1 + int(125<<20/e.Weight()) // 64 MB are kept
	for n := range lists {
		_, err := s.ImportPriceList(t.Context(), by, heavy(n))
		require.NoError(t, err)
	}
	rows, err := s.Editions(t.Context(), w.ID)
	require.NoError(t, err)
	for _, row := range rows {
		_, e, err := s.Edition(t.Context(), w.ID, row.ID)
		require.NoError(t, err)
		assert.Len(t, e.Plans, 30)
	}
	assert.Less(t, held(), before+110<<20, "%d lists of %d bytes", lists, len(one))
}

// TestPeopleOfBeforeGetTheirLikeness opens a database of the version before, in
// which two people look alike: both stay, and nobody else joins as either.
func TestPeopleOfBeforeGetTheirLikeness(t *testing.T) {
	url := testkit.Database(t)
	s, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	config, err := pgx.ParseConfig(url)
	require.NoError(t, err)
	db := stdlib.OpenDB(*config)
	defer db.Close()
	require.NoError(t, goose.SetDialect("postgres"))
	require.NoError(t, goose.UpToContext(t.Context(), db, "migrations", 3))
	id := uuid.NewString()
	sql(t, url, "insert into workspaces (id, name) values ('"+id+"', 'Madder')")
	for _, name := range []string{"Rue Sable", "Ruе Sable", "Ruе Sаble", "Dov Amsel"} {
		sql(t, url, "insert into people (id, workspace_id, name) values ($1, $2, $3)", uuid.New(), uuid.MustParse(id), name)
	}
	require.NoError(t, s.Migrate(t.Context()))
	w, _, err := s.FirstWorkspace(t.Context(), "")
	require.NoError(t, err)
	a, err := s.NewAccount(t.Context(), w.ID, "Rue Sable", "rue@marl.example", "", doors.Owner)
	require.NoError(t, err)
	_, err = s.NewAccount(t.Context(), w.ID, "Dov Amsel", "dov@marl.example", "", doors.Reader)
	require.NoError(t, err)
	members, err := s.Members(t.Context(), w.ID)
	require.NoError(t, err)
	require.Len(t, members, 2)
	assert.Equal(t, "Rue Sable", members[1].Name, "who has rated under that name goes on under it")
	_, err = s.NewAccount(t.Context(), w.ID, "Dоv Amsel", "dov2@marl.example", "", doors.Reader)
	assert.ErrorIs(t, err, store.ErrNameTaken)
	assert.NoError(t, s.SetName(t.Context(), a.ID, "rue sable"), "one's own name may be written otherwise")
	sql(t, url, "do $$ begin if (select count(*) from people) <> 4 then raise exception 'somebody is gone'; end if; end $$")
}
