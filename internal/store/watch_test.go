package store_test

import (
	"fmt"
	"testing"
	"time"

	"ninecoins/internal/demo"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// hear waits for a notice, ten seconds at most.
func hear(t *testing.T, c <-chan store.Notice) store.Notice {
	t.Helper()
	select {
	case n := <-c:
		return n
	case <-time.After(10 * time.Second):
		require.Fail(t, "no notice came")
		return store.Notice{}
	}
}

func TestChangesAreHeardByAnotherProcessOnTheSameDatabase(t *testing.T) {
	url := testkit.Database(t)
	first, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	t.Cleanup(first.Close)
	require.NoError(t, first.Migrate(t.Context()))
	w, _, err := first.FirstWorkspace(t.Context(), "Madder")
	require.NoError(t, err)
	require.NoError(t, demo.Settle(t.Context(), first, w.ID))
	e := demoIn(t, first, w.ID)
	second, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	t.Cleanup(second.Close)
	watcher := second.Watch(t.Context())
	heard, stop := watcher.Follow(e.Study)
	others, stopOthers := watcher.Follow(uuid.New())
	defer stopOthers()

	// The watcher may still be connecting: the first change is made until it is heard.
	e.Tab = "one"
	seats := int64(3)
	require.Eventually(t, func() bool {
		require.NoError(t, testkit.Set(t.Context(), first, e, "drivers.seats.now", fmt.Sprint(seats), fmt.Sprint(seats+1)))
		seats++
		select {
		case n := <-heard:
			return n == store.Notice{Study: e.Study, Tab: "one"}
		case <-time.After(200 * time.Millisecond):
			return false
		}
	}, 20*time.Second, time.Millisecond)
	for quiet := false; !quiet; { // of changes that were made before it was heard
		select {
		case <-heard:
		case <-time.After(time.Second):
			quiet = true
		}
	}
	select { // whoever follows when the watcher connects is told to look, once
	case n := <-others:
		assert.Empty(t, n.Tab)
	default:
	}

	require.Error(t, testkit.Set(t.Context(), first, e, "drivers.seats.now", "0.000001", "0.000002"), "a refused edit is not told")
	require.NoError(t, remove(t, first, e))
	assert.Equal(t, store.Notice{Study: e.Study, Tab: "one"}, hear(t, heard))
	require.NoError(t, restore(t, first, e))
	hear(t, heard)

	assert.Empty(t, others, "another study's followers hear nothing of it")

	// The connection is cut: it comes back, and whoever follows is told to look.
	conn, err := pgx.Connect(t.Context(), url)
	require.NoError(t, err)
	defer conn.Close(t.Context())
	_, err = conn.Exec(t.Context(), "select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and query like 'listen%'")
	require.NoError(t, err)
	told := hear(t, heard)
	for told.Tab == "one" { // of an edit that was made before
		told = hear(t, heard)
	}
	assert.Equal(t, store.Notice{Study: e.Study}, told)
	e.Tab = "two"
	require.NoError(t, testkit.Set(t.Context(), first, e, "drivers.seats.now", fmt.Sprint(seats), "2"))
	assert.Equal(t, "two", hear(t, heard).Tab)
	for range 5 {
		require.NoError(t, testkit.Set(t.Context(), first, e, "drivers.contacts.now", "6400", "6500"))
		require.NoError(t, testkit.Set(t.Context(), first, e, "drivers.contacts.now", "6500", "6400"))
	}
	hear(t, heard) // who is slow hears at least the last
	stop()
}
