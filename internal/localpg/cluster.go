// Package localpg runs a private PostgreSQL cluster from Debian's binaries on
// loopback, for people who start the application without a server of their own
// and for the tests. PostgreSQL refuses to run as root; started as root, it
// runs as the unprivileged user that Debian's package makes.
package localpg

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

// Database is the name of the cluster's one user and of its database.
const Database = "ninecoins"

// Cluster is a running server. Stop ends it.
type Cluster struct {
	dir, password string
	bin           string
	who           localUser
	throwaway     bool
	port          int

	mu       sync.Mutex // for what follows
	server   *exec.Cmd
	done     chan struct{} // closed when the server has ended
	stopping bool
}

// Problem is a failure told to the person at the console: what happened and
// what to do.
type Problem struct {
	What, Do string
	Err      error
}

func (p *Problem) Error() string {
	s := p.What
	if p.Err != nil {
		s += ": " + p.Err.Error()
	}
	return s + "\n" + p.Do
}

func (p *Problem) Unwrap() error { return p.Err }

// Options say how a cluster is kept.
type Options struct {
	Dir       string // made when missing; holds data, log and password
	Throwaway bool   // for tests: nothing is flushed to the disk
}

// Start starts the cluster in a folder, making it first where there is none.
// A server that a killed run left behind there is ended first: the caller
// holds the folder's [Lock], so nobody else is using it. Failures are
// [*Problem]s.
func Start(ctx context.Context, o Options) (*Cluster, error) {
	if err := os.MkdirAll(o.Dir, 0o755); err != nil {
		return nil, diskProblem("The folder "+o.Dir+" cannot be made", err)
	}
	who, err := account()
	if err != nil {
		return nil, err
	}
	c := &Cluster{dir: o.Dir, who: who, throwaway: o.Throwaway}
	if err := who.own(c.dir); err != nil {
		return nil, diskProblem("The folder "+c.dir+" cannot be handed to "+who.name, err)
	}
	if c.bin, err = binaries(c.data()); err != nil {
		return nil, err
	}
	if err := c.secret(who); err != nil {
		return nil, diskProblem("The database's password cannot be kept in "+c.dir, err)
	}
	if _, err := os.Stat(filepath.Join(c.data(), "PG_VERSION")); err != nil {
		if err := c.create(ctx, who, c.bin); err != nil {
			return nil, err
		}
	}
	if err := c.endLeftover(); err != nil {
		return nil, err
	}
	for try := 0; ; try++ {
		if c.port, err = freePort(); err != nil {
			return nil, &Problem{What: "No free port on 127.0.0.1", Do: "Close programs that hold many connections and start again.", Err: err}
		}
		if err = c.launch(ctx); err == nil {
			return c, c.createDatabase(ctx)
		}
		if try == 4 || !c.portTaken() {
			return nil, err
		}
	}
}

// portTaken reports whether the server ended because another program took the
// port between its being found free and its being listened on.
func (c *Cluster) portTaken() bool {
	log, err := os.ReadFile(c.log())
	return err == nil && strings.Contains(string(log), "could not create any TCP/IP sockets")
}

func (c *Cluster) data() string { return filepath.Join(c.dir, "data") }
func (c *Cluster) log() string  { return filepath.Join(c.dir, "server.log") }

// URL returns the address of the application's database.
func (c *Cluster) URL() string { return c.url(Database) }

func (c *Cluster) url(database string) string {
	u := url.URL{Scheme: "postgres", User: url.UserPassword(Database, c.password), Host: net.JoinHostPort("127.0.0.1", strconv.Itoa(c.port)), Path: database,
		RawQuery: "sslmode=disable"}
	return u.String()
}

// Attach returns the address of the database of a cluster that another run of
// the application has started in a folder; ok is false where none has. The
// server may have ended since, without taking its note away.
func Attach(dir string) (url string, ok bool) {
	c := &Cluster{dir: dir}
	note, err := os.ReadFile(filepath.Join(c.data(), "postmaster.pid"))
	lines := strings.Split(string(note), "\n")
	if err != nil || len(lines) < 4 {
		return "", false
	}
	password, err := os.ReadFile(filepath.Join(dir, "password"))
	if err != nil {
		return "", false
	}
	c.password = string(password)
	c.port, err = strconv.Atoi(strings.TrimSpace(lines[3]))
	return c.URL(), err == nil
}

func (c *Cluster) secret(who localUser) error {
	path := filepath.Join(c.dir, "password")
	if data, err := os.ReadFile(path); err == nil && len(data) > 0 {
		c.password = string(data)
		return nil
	}
	raw := make([]byte, 16)
	_, _ = rand.Read(raw) // never fails, by its documentation
	c.password = hex.EncodeToString(raw)
	if err := os.WriteFile(path, []byte(c.password), 0o600); err != nil {
		return err
	}
	return who.own(path)
}

func (c *Cluster) create(ctx context.Context, who localUser, bin string) error {
	// A half-made folder of a run that was killed is no cluster.
	if err := os.RemoveAll(c.data()); err != nil {
		return diskProblem("The folder "+c.data()+" cannot be cleared", err)
	}
	cmd := who.command(ctx, filepath.Join(bin, "initdb"), "-D", c.data(), "-U", Database, "--auth=scram-sha-256",
		"--pwfile="+filepath.Join(c.dir, "password"), "-E", "UTF8", "--locale=C.UTF-8", "--no-instructions")
	cmd.Dir = c.dir
	if out, err := cmd.CombinedOutput(); err != nil {
		_ = os.RemoveAll(c.data())
		return diskProblem("The database cluster cannot be made in "+c.data(), fmt.Errorf("%w: %s", err, lastLines(string(out))))
	}
	return nil
}

// launch starts the server on the cluster's port and waits until it answers.
func (c *Cluster) launch(ctx context.Context) error {
	log, err := os.Create(c.log())
	if err != nil {
		return diskProblem("The server's log cannot be written", err)
	}
	defer log.Close()
	args := []string{"-D", c.data(), "-p", strconv.Itoa(c.port), "-c", "listen_addresses=127.0.0.1", "-c", "unix_socket_directories=",
		"-c", "max_connections=60", "-c", "log_min_messages=warning"}
	if c.throwaway {
		args = append(args, "-c", "fsync=off", "-c", "synchronous_commit=off", "-c", "full_page_writes=off")
	}
	server := c.who.command(context.WithoutCancel(ctx), filepath.Join(c.bin, "postgres"), args...)
	server.Dir, server.Stdout, server.Stderr = c.dir, log, log
	// A group of its own: Ctrl+C reaches the application, which ends the server.
	server.SysProcAttr.Setpgid = true
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.stopping {
		return errStopping
	}
	if err := server.Start(); err != nil {
		return &Problem{What: "PostgreSQL cannot be started", Do: "Check that " + c.bin + "/postgres runs.", Err: err}
	}
	done := make(chan struct{})
	c.server, c.done = server, done
	go func() { _ = server.Wait(); close(done) }()
	return c.await(ctx)
}

var errStopping = errors.New("the cluster is being stopped")

// Keep starts the server again, on the same port, whenever it ends without
// having been stopped: killed for want of memory, perhaps. It returns when the
// context ends or the cluster is stopped; say is told of each end and start.
func (c *Cluster) Keep(ctx context.Context, say func(string)) {
	down := false
	for wait := time.Duration(0); ; wait = time.Second { // a server that was killed leaves its helpers running for a moment
		c.mu.Lock()
		done := c.done
		c.mu.Unlock()
		select {
		case <-done:
		case <-ctx.Done():
			return
		}
		select {
		case <-time.After(wait):
		case <-ctx.Done():
			return
		}
		c.mu.Lock()
		stopping := c.stopping
		c.mu.Unlock()
		if stopping {
			return
		}
		if !down {
			say("PostgreSQL has ended unexpectedly and is started again.")
		}
		down = c.launch(ctx) != nil
		if !down {
			say("PostgreSQL is back.")
		}
	}
}

// oneTry is how long one try to connect may take: another program may have
// taken the port, and say nothing.
const oneTry = 2 * time.Second

// await waits until the server answers, half a minute at most. It does not wait
// for a server that has ended.
func (c *Cluster) await(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, 30*time.Second)
	defer cancel()
	connecting, stop := context.WithCancel(ctx)
	defer stop()
	go func() {
		select {
		case <-c.done:
			stop()
		case <-connecting.Done():
		}
	}()
	for {
		if conn, err := c.connect(connecting); err == nil {
			return conn.Close(ctx)
		}
		select {
		case <-c.done:
			return diskProblem("PostgreSQL ended as soon as it was started", errors.New(c.said()))
		case <-ctx.Done():
			c.end()
			return &Problem{What: "PostgreSQL does not answer", Do: "Its log is " + c.log() + "; start again, or use --fresh for a new database.",
				Err: errors.New(c.said())}
		case <-time.After(50 * time.Millisecond):
		}
	}
}

// connect tries once to connect to the server.
func (c *Cluster) connect(ctx context.Context) (*pgx.Conn, error) {
	ctx, cancel := context.WithTimeout(ctx, oneTry)
	defer cancel()
	return pgx.Connect(ctx, c.url("postgres"))
}

func (c *Cluster) createDatabase(ctx context.Context) error {
	conn, err := c.connect(ctx)
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	var there bool
	if err := conn.QueryRow(ctx, "select exists (select from pg_database where datname = $1)", Database).Scan(&there); err != nil || there {
		return err
	}
	_, err = conn.Exec(ctx, "create database "+Database)
	return err
}

// Stop ends the server: open sessions are cut, what was committed is kept. A
// server that does not end within ten seconds is killed.
func (c *Cluster) Stop() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.stopping = true
	c.end()
}

func (c *Cluster) end() {
	if c.server == nil || c.server.Process == nil {
		return
	}
	_ = c.server.Process.Signal(syscall.SIGINT)
	select {
	case <-c.done:
	case <-time.After(10 * time.Second):
		_ = c.server.Process.Signal(syscall.SIGQUIT)
		<-c.done
	}
}

// Done is closed when the server that runs now has ended.
func (c *Cluster) Done() <-chan struct{} {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.done
}

// endLeftover ends a server that a killed run left running on this data.
func (c *Cluster) endLeftover() error {
	data, err := os.ReadFile(filepath.Join(c.data(), "postmaster.pid"))
	if err != nil {
		return nil
	}
	pid, err := strconv.Atoi(strings.TrimSpace(strings.SplitN(string(data), "\n", 2)[0]))
	if err != nil {
		return nil
	}
	at, err := os.Readlink(fmt.Sprintf("/proc/%d/cwd", pid))
	if real, _ := filepath.EvalSymlinks(c.data()); err != nil || (at != real && at != c.data()) {
		return nil // ended already; the number may be another program's by now
	}
	process, err := os.FindProcess(pid)
	if err != nil || process.Signal(syscall.SIGINT) != nil {
		return nil
	}
	for range 200 {
		if process.Signal(syscall.Signal(0)) != nil {
			return nil
		}
		time.Sleep(50 * time.Millisecond)
	}
	return &Problem{What: fmt.Sprintf("A PostgreSQL server of an earlier run, process %d, does not end", pid), Do: fmt.Sprintf("End it with: kill -QUIT %d", pid)}
}

func (c *Cluster) said() string {
	data, _ := os.ReadFile(c.log())
	return lastLines(string(data))
}

func lastLines(s string) string {
	lines := strings.Split(strings.TrimSpace(s), "\n")
	return strings.Join(lines[max(0, len(lines)-4):], "\n")
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// diskProblem tells a full disk and a missing right from other failures.
func diskProblem(what string, err error) error {
	p := &Problem{What: what, Err: err, Do: "Mend the cause and start again."}
	switch {
	case errors.Is(err, syscall.ENOSPC) || strings.Contains(err.Error(), "No space left"):
		p.What, p.Do = what+": the disk is full", "Free about 100 MB on that disk and start again; nothing was lost."
	case errors.Is(err, os.ErrPermission) || strings.Contains(err.Error(), "ermission denied"):
		p.Do = "Give your user the right to write there, or start from a folder of your own."
	}
	return p
}
