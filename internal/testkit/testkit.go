// Package testkit gives tests what they share: databases on a real PostgreSQL
// and a loaded demo.
package testkit

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/demo"
	"ninecoins/internal/doors"
	"ninecoins/internal/localpg"
	"ninecoins/internal/mail"
	"ninecoins/internal/outside"
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
// started, and whatever else it is told to. A package that uses [Database] calls
// it from TestMain.
func Main(m *testing.M, ends ...func()) {
	code := m.Run()
	for _, end := range ends {
		end()
	}
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
func Database(t testing.TB) string { return database(t, "template1") }

func database(t testing.TB, like string) string {
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
	_, err = conn.Exec(t.Context(), "create database "+name+" template "+like)
	require.NoError(t, err)
	u, err := url.Parse(cluster.running.URL())
	require.NoError(t, err)
	u.Path = name
	return u.String()
}

// model is a database that tests get copies of: migrating and loading one takes
// longer than copying it.
type model struct {
	sync.Once
	name  string
	study uuid.UUID
}

var settled, loaded model

// copied returns the address of a copy of a model, which is made at the first
// call.
func (m *model) copied(t testing.TB, fill func(*store.Store) error) string {
	t.Helper()
	m.Do(func() {
		at := Database(t)
		s, err := store.Open(t.Context(), at)
		require.NoError(t, err)
		defer s.Close() // nobody may be connected to what is copied
		require.NoError(t, fill(s))
		u, err := url.Parse(at)
		require.NoError(t, err)
		m.name = filepath.Base(u.Path)
	})
	require.NotEmpty(t, m.name, "the model of this database could not be made")
	return database(t, m.name)
}

// settle migrates a database and seats the demo's people in an empty workspace.
func settle(t testing.TB, s *store.Store) (store.Workspace, error) {
	if err := s.Migrate(t.Context()); err != nil {
		return store.Workspace{}, err
	}
	w, _, err := s.FirstWorkspace(t.Context(), demo.Workspace)
	if err != nil {
		return w, err
	}
	return w, demo.Settle(t.Context(), s, w.ID)
}

func settledDatabase(t testing.TB) string {
	t.Helper()
	return settled.copied(t, func(s *store.Store) error {
		_, err := settle(t, s)
		return err
	})
}

// loadedDatabase has the demo in it too.
func loadedDatabase(t testing.TB) (string, uuid.UUID) {
	t.Helper()
	at := loaded.copied(t, func(s *store.Store) error {
		w, err := settle(t, s)
		if err == nil {
			loaded.study, err = demo.Load(t.Context(), s, w.ID)
		}
		return err
	})
	return at, loaded.study
}

// Store opens a migrated store with an empty workspace, in which the demo's
// people have their seats.
func Store(t testing.TB) (*store.Store, store.Workspace) {
	t.Helper()
	s := openStore(t, settledDatabase(t))
	w, _, err := s.FirstWorkspace(t.Context(), demo.Workspace)
	require.NoError(t, err)
	return s, w
}

// As says who of the demo's people edits what in a workspace.
func As(t testing.TB, s *store.Store, workspace, study uuid.UUID, role doors.Role) store.Editing {
	t.Helper()
	members, err := s.Members(t.Context(), workspace)
	require.NoError(t, err)
	for _, m := range members {
		if m.Role == role {
			return store.Editing{Workspace: workspace, Study: study, By: m.Person, Name: m.Name, Role: m.Role, Today: Day}
		}
	}
	require.Fail(t, "nobody is "+string(role))
	return store.Editing{}
}

// App is a running application with a database of its own.
type App struct {
	Database  string
	Store     *store.Store
	Workspace store.Workspace
	Study     uuid.UUID // of the demo; nil when it was not loaded
	Address   string
	Server    *web.Server      // that answers there
	Letters   chan mail.Letter // that were sent
	Client    *http.Client     // of the demo's owner, signed in
	Outside   *outside.Service // services outside; nil: none are set up
}

// Start serves the application on loopback, with the demo if asked.
func Start(t testing.TB, withDemo bool) *App {
	t.Helper()
	return start(t, withDemo, &App{Letters: make(chan mail.Letter, 50)})
}

// StartOutside starts the application with the demo, and with services outside that a
// handler stands in for.
func StartOutside(t testing.TB, services http.Handler) *App {
	t.Helper()
	s := httptest.NewServer(services)
	t.Cleanup(s.Close)
	return start(t, true, &App{Letters: make(chan mail.Letter, 50), Outside: &outside.Service{Address: s.URL, Within: 2 * time.Second}})
}

func start(t testing.TB, withDemo bool, a *App) *App {
	t.Helper()
	if withDemo {
		a.Database, a.Study = loadedDatabase(t)
	} else {
		a.Database = settledDatabase(t)
	}
	a.Store = openStore(t, a.Database)
	var err error
	a.Workspace, _, err = a.Store.FirstWorkspace(t.Context(), demo.Workspace)
	require.NoError(t, err)
	a.Address, a.Server = a.Serve(t, a.Store, nil)
	a.Client = a.SignIn(t, demo.People[0].Email)
	return a
}

func openStore(t testing.TB, url string) *store.Store {
	t.Helper()
	s, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	return s
}

// post is a mail server that hands letters to a test.
type post chan mail.Letter

// Send implements [mail.Sender].
func (p post) Send(_ context.Context, l mail.Letter) error {
	p <- l
	return nil
}

// Serve starts a server process's worth of the application on a store, as it
// is or as change leaves it, and returns its address.
func (a *App) Serve(t testing.TB, s *store.Store, change func(*web.Server)) (string, *web.Server) {
	t.Helper()
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	address := "http://" + listener.Addr().String()
	server, err := web.New(t.Context(), web.Options{Store: s, Example: web.Example{Bring: func(ctx context.Context, by store.Editing) (uuid.UUID, error) { return demo.Bring(ctx, s, by) }, PriceList: demo.PriceLists()[0]},
		Mail: post(a.Letters), Address: address, Feed: a.Outside, Rates: a.Outside, Demo: demo.People[0].Email,
		Now: func() time.Time { return Day }, Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	require.NoError(t, err)
	if change != nil {
		change(server)
	}
	handler, err := server.Handler()
	require.NoError(t, err)
	h := &httptest.Server{Listener: listener, Config: &http.Server{Handler: handler}}
	h.Start()
	t.Cleanup(h.Close)
	return address, server
}

// Another starts a second server process's worth on the same database, with
// connections of its own.
func (a *App) Another(t testing.TB) string {
	t.Helper()
	address, _ := a.Serve(t, openStore(t, a.Database), nil)
	return address
}

// Password is what everybody signs in with in tests.
const Password = "fennel under glass 9"

var hashed = sync.OnceValues(func() (string, error) { return doors.HashPassword(context.Background(), Password) })

// Visitor returns a client without an account, which keeps its cookies.
func Visitor(t testing.TB) *http.Client {
	t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &http.Client{Jar: jar, Timeout: 5 * time.Minute}
}

// SignIn returns a client that is signed in as whoever has an email.
func (a *App) SignIn(t testing.TB, email string) *http.Client {
	t.Helper()
	account, kept, err := a.Store.AtDoor(t.Context(), email)
	require.NoError(t, err)
	if kept == "" {
		hash, err := hashed()
		require.NoError(t, err)
		_, err = a.Store.SetPassword(t.Context(), account.ID, hash)
		require.NoError(t, err)
	}
	c := Visitor(t)
	resp, err := c.PostForm(a.Address+"/sign-in", url.Values{"email": {email}, "password": {Password}})
	require.NoError(t, err)
	resp.Body.Close()
	require.Equal(t, "/", resp.Request.URL.Path, "signed in and sent to the Desk")
	return c
}

// As signs somebody in who has a role in the app's workspace; it makes an
// account where the demo's people have none of that role.
func (a *App) As(t testing.TB, role doors.Role) *http.Client {
	t.Helper()
	members, err := a.Store.Members(t.Context(), a.Workspace.ID)
	require.NoError(t, err)
	for _, m := range members {
		if m.Role == role {
			return a.SignIn(t, m.Email)
		}
	}
	return a.SignIn(t, a.NewAccount(t, a.Workspace.ID, "Some "+string(role), role))
}

// NewAccount makes an account with a seat in a workspace and returns its
// email.
func (a *App) NewAccount(t testing.TB, workspace uuid.UUID, name string, role doors.Role) (email string) {
	t.Helper()
	hash, err := hashed()
	require.NoError(t, err)
	account, err := a.Store.NewAccount(t.Context(), workspace, name, uuid.NewString()[:8]+"@marl.example", hash, role)
	require.NoError(t, err)
	return account.Email
}

// Cookie returns a client's session cookie.
func (a *App) Cookie(t testing.TB, c *http.Client) *http.Cookie {
	t.Helper()
	at, err := url.Parse(a.Address)
	require.NoError(t, err)
	for _, cookie := range c.Jar.Cookies(at) {
		return cookie
	}
	require.Fail(t, "no cookie")
	return nil
}

// Page returns the address of a page of the demo's study.
func (a *App) Page(path string) string {
	return a.Address + "/studies/" + a.Study.String() + "/" + path
}

// Set sets a field of a study that is thought to hold was.
func Set(ctx context.Context, s *store.Store, e store.Editing, path, was, to string) error {
	return s.Edit(ctx, e, document.Change{{Do: document.Set, Path: document.Path(path), Was: was, To: to}})
}

// Delete removes an item from a list of a study.
func Delete(ctx context.Context, s *store.Store, e store.Editing, path string) error {
	return s.Edit(ctx, e, document.Change{{Do: document.Remove, Path: document.Path(path)}})
}
