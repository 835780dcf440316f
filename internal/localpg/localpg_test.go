package localpg_test

import (
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"

	"ninecoins/internal/localpg"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// folder is a new folder that an unprivileged user can enter.
func folder(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "ninecoins-cluster-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	return dir
}

func start(t *testing.T, dir string) *localpg.Cluster {
	t.Helper()
	c, err := localpg.Start(t.Context(), localpg.Options{Dir: dir, Throwaway: true})
	require.NoError(t, err)
	t.Cleanup(c.Stop)
	return c
}

func run(t *testing.T, c *localpg.Cluster, sql string) error {
	t.Helper()
	conn, err := pgx.Connect(t.Context(), c.URL())
	require.NoError(t, err)
	defer conn.Close(t.Context())
	_, err = conn.Exec(t.Context(), sql)
	return err
}

func TestWhatWasKeptIsThereAgain(t *testing.T) {
	t.Parallel()
	dir := folder(t)
	c := start(t, dir)
	require.NoError(t, run(t, c, "create table kept (n int)"))
	c.Stop()
	c = start(t, dir)
	assert.NoError(t, run(t, c, "insert into kept values (1)"))
	c.Stop()
	require.NoError(t, localpg.Clear(dir))
	c = start(t, dir)
	assert.ErrorContains(t, run(t, c, "insert into kept values (1)"), "does not exist")
}

func TestAServerLeftBehindByAKilledRunIsEnded(t *testing.T) {
	t.Parallel()
	dir := folder(t)
	left := start(t, dir)
	require.NoError(t, run(t, left, "create table kept (n int)"))
	again := start(t, dir)
	<-left.Done()
	assert.NoError(t, run(t, again, "insert into kept values (1)"))
}

func TestTheDatabaseNeedsItsPasswordAndListensOnLoopbackOnly(t *testing.T) {
	t.Parallel()
	c := start(t, folder(t))
	at := strings.Index(c.URL(), "@")
	_, err := pgx.Connect(t.Context(), "postgres://ninecoins:wrong"+c.URL()[at:])
	assert.ErrorContains(t, err, "password authentication failed")
	assert.Contains(t, c.URL(), "@127.0.0.1:")
}

func TestAHalfMadeClusterIsMadeAnew(t *testing.T) {
	t.Parallel()
	dir := folder(t)
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "data", "base"), 0o755))
	c := start(t, dir)
	assert.NoError(t, run(t, c, "select 1"))
}

func TestProblemsSayWhatToDo(t *testing.T) {
	dir := folder(t)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "file"), nil, 0o644))
	_, err := localpg.Start(t.Context(), localpg.Options{Dir: filepath.Join(dir, "file", "below")})
	var p *localpg.Problem
	require.True(t, errors.As(err, &p), "%v", err)
	assert.Contains(t, p.What, "cannot be made")
	assert.NotEmpty(t, p.Do)

	require.NoError(t, os.MkdirAll(filepath.Join(dir, "data"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "data", "PG_VERSION"), []byte("7\n"), 0o644))
	_, err = localpg.Start(t.Context(), localpg.Options{Dir: dir})
	assert.ErrorContains(t, err, "was made by PostgreSQL 7, which is not installed")
	assert.ErrorContains(t, err, "apt-get install postgresql-7")
}

func TestAFullDiskIsSaidPlainly(t *testing.T) {
	if os.Geteuid() != 0 {
		t.Skip("only root can make a small disk")
	}
	dir := folder(t)
	require.NoError(t, exec.Command("mount", "-t", "tmpfs", "-o", "size=4m,mode=755", "tmpfs", dir).Run())
	t.Cleanup(func() { _ = syscall.Unmount(dir, syscall.MNT_DETACH) })
	_, err := localpg.Start(t.Context(), localpg.Options{Dir: dir})
	assert.ErrorContains(t, err, "the disk is full")
	assert.ErrorContains(t, err, "Free about 100 MB")
}

func TestAFolderIsLockedByOneRun(t *testing.T) {
	dir := folder(t)
	l, err := localpg.Take(dir)
	require.NoError(t, err)
	l.Note("at http://127.0.0.1:9009")
	_, err = localpg.Take(dir)
	assert.ErrorContains(t, err, "running from this folder already")
	assert.ErrorContains(t, err, "http://127.0.0.1:9009")
	l.Free()
	again, err := localpg.Take(dir)
	require.NoError(t, err)
	again.Free()
}

func TestAFolderThatTheServersUserCannotEnterIsKeptElsewhere(t *testing.T) {
	if os.Geteuid() != 0 {
		t.Skip("an ordinary user runs the server itself")
	}
	dir := folder(t)
	at, moved, err := localpg.Place(filepath.Join(dir, "postgres"))
	require.NoError(t, err)
	assert.False(t, moved)
	assert.Equal(t, filepath.Join(dir, "postgres"), at)
	closed := filepath.Join(dir, "closed")
	require.NoError(t, os.MkdirAll(filepath.Join(closed, "inner"), 0o700))
	require.NoError(t, os.Chmod(closed, 0o700))
	at, moved, err = localpg.Place(filepath.Join(closed, "inner", "postgres"))
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(at) })
	assert.True(t, moved)
	link, err := os.Readlink(filepath.Join(closed, "inner", "postgres"))
	require.NoError(t, err)
	assert.Equal(t, at, link)
	assert.True(t, strings.HasPrefix(at, "/var/lib/ninecoins/"))
}

func TestAServerThatIsKilledIsStartedAgain(t *testing.T) {
	t.Parallel()
	dir := folder(t)
	c, err := localpg.Start(t.Context(), localpg.Options{Dir: dir}) // not throwaway: what was committed is flushed
	require.NoError(t, err)
	t.Cleanup(c.Stop)
	said := make(chan string, 10)
	kept := make(chan struct{})
	go func() { c.Keep(t.Context(), func(text string) { said <- text }); close(kept) }()
	require.NoError(t, run(t, c, "create table kept (n int)"))
	before := c.URL()
	note, err := os.ReadFile(filepath.Join(dir, "data", "postmaster.pid"))
	require.NoError(t, err)
	pid, err := strconv.Atoi(strings.SplitN(string(note), "\n", 2)[0])
	require.NoError(t, err)
	require.NoError(t, syscall.Kill(pid, syscall.SIGKILL))
	assert.Contains(t, <-said, "ended unexpectedly")
	assert.Contains(t, <-said, "is back")
	assert.Equal(t, before, c.URL(), "under the same address")
	assert.NoError(t, run(t, c, "insert into kept values (1)"))
	c.Stop()
	<-kept
	assert.Empty(t, said, "a server that was stopped stays so")
}
