// Package testkit gives tests what they share: databases on a real PostgreSQL
// and a loaded demo.
package testkit

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"ninecoins/internal/demo"
	"ninecoins/internal/localpg"
	"ninecoins/internal/store"
	"ninecoins/internal/web"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
)

// Day is the day that tests take for today.
var Day = time.Date(2026, 11, 24, 10, 30, 0, 0, time.UTC)

var cluster struct {
	sync.Mutex
	running *localpg.Cluster
	made    int
}

// Main runs a package's tests and ends the PostgreSQL server that they
// started. A package that uses [Database] calls it from TestMain.
func Main(m *testing.M) {
	code := m.Run()
	if cluster.running != nil {
		cluster.running.Stop()
		_ = os.RemoveAll(place())
	}
	os.Exit(code)
}

// place is a folder that an unprivileged user can enter.
func place() string {
	return filepath.Join(os.TempDir(), fmt.Sprintf("ninecoins-test-%d", os.Getpid()))
}

// Database returns the address of a new, empty database. It fails the test
// where PostgreSQL cannot be started; it never skips.
func Database(t testing.TB) string {
	t.Helper()
	cluster.Lock()
	defer cluster.Unlock()
	if cluster.running == nil {
		c, err := localpg.Start(context.Background(), localpg.Options{Dir: place(), Throwaway: true})
		require.NoError(t, err, "these tests need PostgreSQL: apt-get install postgresql")
		cluster.running = c
	}
	cluster.made++
	name := fmt.Sprintf("test%d", cluster.made)
	conn, err := pgx.Connect(t.Context(), cluster.running.URL())
	require.NoError(t, err)
	defer conn.Close(t.Context())
	_, err = conn.Exec(t.Context(), "create database "+name)
	require.NoError(t, err)
	u, err := url.Parse(cluster.running.URL())
	require.NoError(t, err)
	u.Path = name
	return u.String()
}

// Store opens a migrated store with an empty workspace.
func Store(t testing.TB) (*store.Store, store.Workspace) {
	t.Helper()
	s, err := store.Open(t.Context(), Database(t))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	require.NoError(t, s.Migrate(t.Context()))
	w, _, err := s.OnlyWorkspace(t.Context(), demo.Workspace)
	require.NoError(t, err)
	return s, w
}

// App is a running application with a database of its own.
type App struct {
	Store     *store.Store
	Workspace store.Workspace
	Study     uuid.UUID // of the demo; nil when it was not loaded
	Address   string
}

// Start serves the application on loopback, with the demo if asked.
func Start(t testing.TB, withDemo bool) *App {
	t.Helper()
	a := &App{}
	a.Store, a.Workspace = Store(t)
	if withDemo {
		var err error
		a.Study, err = demo.Load(t.Context(), a.Store, a.Workspace.ID)
		require.NoError(t, err)
	}
	server, err := web.New(t.Context(), web.Options{Store: a.Store, Workspace: a.Workspace, Now: func() time.Time { return Day }, Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	require.NoError(t, err)
	h := httptest.NewServer(server.Handler())
	t.Cleanup(h.Close)
	a.Address = h.URL
	return a
}

// Page returns the address of a page of the demo's study.
func (a *App) Page(path string) string {
	return a.Address + "/studies/" + a.Study.String() + "/" + path
}
