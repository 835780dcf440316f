package web_test

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
	"ninecoins/internal/mail"
	"ninecoins/internal/standin"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"
	"ninecoins/internal/web"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestMain runs the tests, or, for a test that started it so, a server that
// dies at a given statement.
func TestMain(m *testing.M) {
	if at := os.Getenv("NINECOINS_TEST_DIE_AT"); at != "" {
		dyingServer(at, os.Getenv("NINECOINS_TEST_DATABASE"))
		return
	}
	testkit.Main(m)
}

// death is a fault point: it kills the process, as kill -9 does, before the
// n-th statement of a transaction is sent; at the commit's end if that is
// asked for.
type death struct {
	at          int
	afterCommit bool
	seen        atomic.Int64
}

type committing struct{}

// TraceQueryStart implements [pgx.QueryTracer].
func (d *death) TraceQueryStart(ctx context.Context, conn *pgx.Conn, data pgx.TraceQueryStartData) context.Context {
	if begins := strings.HasPrefix(data.SQL, "begin"); begins || conn.PgConn().TxStatus() != 'I' {
		if d.seen.Add(1) == int64(d.at) && !d.afterCommit {
			die()
		}
	}
	if data.SQL == "commit" {
		return context.WithValue(ctx, committing{}, true)
	}
	return ctx
}

// TraceQueryEnd implements [pgx.QueryTracer].
func (d *death) TraceQueryEnd(ctx context.Context, _ *pgx.Conn, _ pgx.TraceQueryEndData) {
	if d.afterCommit && ctx.Value(committing{}) != nil {
		die()
	}
}

func die() {
	_ = syscall.Kill(os.Getpid(), syscall.SIGKILL)
	select {} // until the signal is there
}

func dyingServer(at, database string) {
	d := &death{afterCommit: at == "after commit"}
	d.at, _ = strconv.Atoi(at)
	s, err := store.OpenTraced(context.Background(), database, d)
	if err != nil {
		fmt.Println(err)
		return
	}
	l, _ := net.Listen("tcp", "127.0.0.1:0")
	var post mail.Sender = standin.Mailbox{Store: s}
	server, err := web.New(context.Background(), web.Options{Store: s, Mail: post, Address: "http://" + l.Addr().String(), Now: func() time.Time { return testkit.Day }, Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	if err != nil {
		fmt.Println(err)
		return
	}
	handler, err := server.Handler()
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println("http://" + l.Addr().String())
	go func() { time.Sleep(time.Minute); os.Exit(3) }() // whatever becomes of the test
	_ = http.Serve(l, handler)
}

// dieDuring starts a server that dies at a statement, posts a form to it and
// reports whether it died of it.
func dieDuring(t *testing.T, app *testkit.App, at, path string, form []string) (died bool) {
	t.Helper()
	self, err := os.Executable()
	require.NoError(t, err)
	cmd := exec.Command(self)
	cmd.Env = append(os.Environ(), "NINECOINS_TEST_DIE_AT="+at, "NINECOINS_TEST_DATABASE="+app.Database)
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	said, err := bufio.NewReader(out).ReadString('\n')
	require.NoError(t, err)
	address := strings.TrimSpace(said)
	require.True(t, strings.HasPrefix(address, "http://"), address)
	client := *app.Client
	client.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	moveCookies(t, &client, app.Address, address)
	resp, err := client.PostForm(address+path, values(form))
	if err == nil {
		resp.Body.Close()
		_ = cmd.Process.Kill()
		_ = cmd.Wait()
		require.Equal(t, http.StatusSeeOther, resp.StatusCode)
		return false
	}
	_ = cmd.Wait()
	status, ok := cmd.ProcessState.Sys().(syscall.WaitStatus)
	require.True(t, ok && status.Signaled() && status.Signal() == syscall.SIGKILL, "it died of the fault point")
	return true
}

// letTryAgain forgets the tries that are counted at doors.
func letTryAgain(t *testing.T, app *testkit.App) {
	t.Helper()
	conn, err := pgx.Connect(t.Context(), app.Database)
	require.NoError(t, err)
	defer conn.Close(t.Context())
	_, err = conn.Exec(t.Context(), "delete from tries")
	require.NoError(t, err)
}

// TestAKilledServerLeavesNoHalfSavedChange kills the server, as kill -9 does,
// before each statement of each kind of save in turn, and after its commit.
func TestAKilledServerLeavesNoHalfSavedChange(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	study := "/studies/" + app.Study.String()
	for _, row := range []struct {
		name, path string
		form       []string
	}{
		{"an edit", study + "/growth", []string{"op", "set", "path", "drivers.contacts.now", "was", "6400", "value", "7000"}},
		{"a rating taken back", study + "/scores", []string{"op", "set", "path", ratingPath(t, app, "fernwire", "ease"), "was", "5", "value", ""}},
		{"an undo", study + "/growth", []string{"op", "undo"}},
		{"a redo", study + "/growth", []string{"op", "redo"}},
		{"an option into the bin", study + "/line-up", []string{"op", "remove", "path", "options.quirebird"}},
		{"an option out of the bin", "/bin", []string{"kind", "parts"}},
		{"a study into the bin", "/", []string{"op", "delete", "of", app.Study.String()}},
		{"a study out of the bin", "/", []string{"op", "undo"}},
		{"a publishing", "/shelf/platforms/brindlepost/draft", nil},
		{"a list read again", "/shelf/platforms/quirebird", []string{"op", "unchanged"}},
		{"an invitation", "/workspace", []string{"edit", "invite", "email", "rue@marl.example", "role", "reader"}},
	} {
		statements := 0
		for at := 1; ; at++ {
			require.Less(t, at, 40, "the save comes to an end")
			switch row.path {
			case "/bin":
				row.form = binned(t, app)
			case "/shelf/platforms/brindlepost/draft":
				row.form = drafted(t, app)
			}
			before := contents(t, app)
			letTryAgain(t, app)
			if !dieDuring(t, app, strconv.Itoa(at), row.path, row.form) {
				statements = at - 1
				assert.NotEqual(t, before, contents(t, app), "%s is saved where the server lives", row.name)
				break
			}
			require.Equal(t, before, contents(t, app), "%s: killed before statement %d, nothing of it is there", row.name, at)
		}
		assert.Greater(t, statements, 3, row.name)
		t.Logf("%s: killed before each of %d statements", row.name, statements)
	}
	// After the commit the change is there whole, though no answer came.
	before := contents(t, app)
	require.True(t, dieDuring(t, app, "after commit", study+"/growth", []string{"op", "set", "path", "drivers.seats.now", "was", "3", "value", "5"}))
	assert.NotEqual(t, before, contents(t, app))
	e := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner)
	recent, err := app.Store.Recent(t.Context(), e)
	require.NoError(t, err)
	assert.Equal(t, "5", recent.Undo.Says[0].To)
	st, err := app.Store.Study(t.Context(), e.Workspace, e.Study, e.Today)
	require.NoError(t, err)
	assert.Equal(t, "5", load(t, st, "drivers.seats.now"))
	// Sent again by the page, it is no conflict and no second change.
	a := post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.seats.now", "was", "3", "value", "5")
	assert.Equal(t, http.StatusOK, a.status)
	after, err := app.Store.Recent(t.Context(), e)
	require.NoError(t, err)
	assert.Equal(t, recent.Undo.ID, after.Undo.ID)
}

func TestTheDatabaseGoesAwayAndComesBack(t *testing.T) {
	app := testkit.Start(t, true)
	cable := testkit.NewCable(t, app.Database)
	s, err := store.Open(t.Context(), cable.URL)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	address, _ := app.Serve(t, s, nil)
	moveCookies(t, app.Client, app.Address, address)
	page := address + "/studies/" + app.Study.String() + "/growth"
	require.Equal(t, http.StatusOK, get(t, app.Client, page).status)
	cable.Cut()
	for range 12 { // more often than there are connections that broke
		a := get(t, app.Client, page)
		assert.Equal(t, http.StatusServiceUnavailable, a.status)
		assert.Contains(t, words(a), "The database does not answer at present")
	}
	a := post(t, app.Client, page, "op", "set", "path", "drivers.contacts.now", "was", "6400", "value", "7000")
	assert.Equal(t, http.StatusServiceUnavailable, a.status)
	assert.Contains(t, a.body, `name="value" value="7000"`)
	assert.Equal(t, http.StatusServiceUnavailable, get(t, app.Client, address+"/healthz").status)
	assert.Equal(t, http.StatusOK, get(t, testkit.Visitor(t), address+"/sign-in").status, "who has no session needs no database yet")
	cable.Mend()
	a = post(t, app.Client, page, "op", "set", "path", "drivers.contacts.now", "was", "6400", "value", "7000")
	assert.Equal(t, http.StatusOK, a.status, "no restart is needed")
	assert.Contains(t, words(a), "contacts go from 7,000 to")
	assert.Contains(t, get(t, app.Client, address+"/healthz").body, `"ok"`)
}

// binned is the form that brings back what rests in the bin, an option.
// drafted has a draft of a price list, and returns the form that publishes it.
func drafted(t *testing.T, app *testkit.App) []string {
	t.Helper()
	_, err := app.Store.OpenDraft(t.Context(), testkit.As(t, app.Store, app.Workspace.ID, uuid.Nil, doors.Owner), "brindlepost")
	require.NoError(t, err)
	d, _, err := app.Store.Draft(t.Context(), app.Workspace.ID, "brindlepost")
	require.NoError(t, err)
	return []string{"op", "publish", "at", strconv.FormatInt(d.Revision, 10)}
}

func binned(t *testing.T, app *testkit.App) []string {
	t.Helper()
	rows, err := app.Store.Bin(t.Context(), app.Workspace.ID)
	require.NoError(t, err)
	for _, row := range rows {
		if row.Kind == "parts" {
			return []string{"kind", "parts", "study", row.Study.String(), "of", row.Of}
		}
	}
	return []string{"kind", "parts"}
}

// ratingPath is the path of what the demo's owner gives an option on a criterion.
func ratingPath(t *testing.T, app *testkit.App, option, criterion string) string {
	t.Helper()
	owner := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner)
	return "ratings." + owner.By.String() + "/" + option + "/" + criterion + ".value"
}

// load is the canonical text of what stands at a path of a study.
func load(t *testing.T, st *study.Study, path document.Path) string {
	t.Helper()
	spot, there := study.Kept().Spot(*st, path)
	require.True(t, there, path)
	return spot.Text
}
