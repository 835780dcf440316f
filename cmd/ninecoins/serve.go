package main

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"path/filepath"
	"runtime/debug"
	"strings"
	"syscall"
	"time"

	"ninecoins/internal/demo"
	"ninecoins/internal/doors"
	"ninecoins/internal/localpg"
	"ninecoins/internal/mail"
	"ninecoins/internal/standin"
	"ninecoins/internal/store"
	"ninecoins/internal/web"

	"github.com/caarlos0/env/v11"

	"github.com/google/uuid"
)

// settings come from the environment.
type settings struct {
	DatabaseURL string `env:"DATABASE_URL"`
	Host        string `env:"HOST" envDefault:"127.0.0.1"`
	Port        string `env:"PORT" envDefault:"9009"`
	Folder      string `env:"NINECOINS_FOLDER" envDefault:".local"`
	// Under which people reach it, where that is not the address it listens on: https://coins.example
	Address     string   `env:"NINECOINS_URL"`
	Certificate string   `env:"TLS_CERT"`
	Key         string   `env:"TLS_KEY"`
	Proxies     []string `env:"TRUSTED_PROXIES"`
	SMTP        string   `env:"SMTP_URL"`
	From        string   `env:"MAIL_FROM"`
	Feed        string   `env:"FEED_URL"`  // publishes price lists in the open format
	Rates       string   `env:"RATES_URL"` // publishes daily reference rates
}

// public is the address that letters and cookies go by.
func (s settings) public(listener net.Addr) string {
	switch {
	case s.Address != "":
		return s.Address
	case s.Certificate != "":
		return "https://" + listener.String()
	}
	return "http://" + listener.String()
}

// check refuses settings that do not go together.
func (s settings) check() error {
	if (s.Certificate == "") != (s.Key == "") {
		return errInput{"TLS_CERT and TLS_KEY go together: name both files, or neither"}
	}
	if s.Address != "" {
		u, err := url.Parse(s.Address)
		if err != nil || u.Host == "" || (u.Scheme != "http" && u.Scheme != "https") || strings.Trim(u.Path, "/") != "" {
			return errInput{fmt.Sprintf("NINECOINS_URL %q is not of the form https://coins.example", s.Address)}
		}
	}
	if s.Certificate != "" && strings.HasPrefix(s.Address, "http://") {
		return errInput{fmt.Sprintf("NINECOINS_URL %q is without TLS, and TLS_CERT asks for it: write https://", s.Address)}
	}
	if (s.SMTP == "") != (s.From == "") {
		return errInput{"SMTP_URL and MAIL_FROM go together: a mail server, and the address that letters come from"}
	}
	return nil
}

type serveFlags struct {
	demo, fresh, check, verbose bool
}

func serve(ctx context.Context, args []string, out, errs io.Writer) error {
	var o serveFlags
	f := flags("serve", "ninecoins serve: serves the application on 127.0.0.1.\nWithout DATABASE_URL it starts a PostgreSQL server of its own, kept in .local.", errs)
	f.BoolVar(&o.demo, "demo", false, "bring in the example where the database is empty")
	f.BoolVar(&o.fresh, "fresh", false, "begin with a new database; what is in the private one is lost")
	f.BoolVar(&o.check, "check", false, "start, ask the health page, the sign-in door and the Desk, stop")
	f.BoolVar(&o.verbose, "verbose", false, "log every request")
	if err := parseFlags(f, args); err != nil {
		return err
	}
	var s settings
	if err := env.Parse(&s); err != nil {
		return errInput{err.Error()}
	}
	level := slog.LevelInfo
	if o.verbose {
		level = slog.LevelDebug
	}
	log := slog.New(slog.NewTextHandler(errs, &slog.HandlerOptions{Level: level}))

	if err := s.check(); err != nil {
		return err
	}
	listener, err := listen(ctx, s.Host, s.Port)
	if err != nil {
		return err
	}
	defer listener.Close()
	address := s.public(listener.Addr())
	database, stop, err := openDatabase(ctx, s, o, address, out)
	if err != nil {
		return err
	}
	defer stop()
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	db, err := openStore(ctx, database)
	if err != nil {
		return err
	}
	defer db.Close()
	server, err := prepare(ctx, db, s, o.demo, address, out, log)
	if err != nil {
		return err
	}
	debug.SetGCPercent(garbage)
	debug.SetMemoryLimit(roomy)
	ended := make(chan error, 1)
	go func() { ended <- server.Serve(ctx, listener, s.Certificate, s.Key) }()
	if o.check {
		scheme := "http://"
		if s.Certificate != "" {
			scheme = "https://"
		}
		err := check(ctx, scheme+listener.Addr().String(), o.demo && web.Local(address), out)
		cancel()
		return errors.Join(err, <-ended)
	}
	fmt.Fprintf(out, "\nNine Coins is at %s\nStop it with Ctrl+C; what you changed is kept.\n", address)
	err = <-ended
	fmt.Fprintln(out, "Stopped.")
	return err
}

// listen takes the port before anything else is started, so that a busy one
// costs nothing.
func listen(ctx context.Context, host, port string) (net.Listener, error) {
	l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", net.JoinHostPort(host, port))
	switch {
	case err == nil:
		return l, nil
	case errors.Is(err, syscall.EADDRINUSE):
		return nil, &localpg.Problem{What: "Port " + port + " on " + host + " is taken by another program (perhaps Nine Coins is running already)",
			Do: "Choose another, for example: PORT=9010 ./start"}
	case errors.Is(err, os.ErrPermission):
		return nil, &localpg.Problem{What: "Port " + port + " may not be used by your user", Do: "Choose one above 1023, for example: PORT=9010 ./start"}
	}
	return nil, errInput{fmt.Sprintf("HOST %q with PORT %q cannot be used: %v", host, port, err)}
}

// openDatabase returns the address of the database to use: the one that
// DATABASE_URL names, or that of a private server, which stop ends.
func openDatabase(ctx context.Context, s settings, o serveFlags, address string, out io.Writer) (url string, stop func(), err error) {
	if s.DatabaseURL != "" {
		if o.fresh {
			return "", nil, errInput{"--fresh empties only the private database; DATABASE_URL is set, so empty that one yourself or unset it"}
		}
		return s.DatabaseURL, func() {}, nil
	}
	lock, err := localpg.Take(s.Folder)
	if err != nil {
		return "", nil, err
	}
	lock.Note(address)
	dir, moved, err := localpg.Place(filepath.Join(s.Folder, "postgres"))
	if err == nil && moved {
		fmt.Fprintf(out, "The database is kept in %s, because the user that runs PostgreSQL cannot enter this folder.\n", dir)
	}
	if err == nil && o.fresh {
		err = localpg.Clear(dir)
	}
	if err != nil {
		lock.Free()
		return "", nil, err
	}
	fmt.Fprintln(out, "Starting PostgreSQL …")
	cluster, err := localpg.Start(ctx, localpg.Options{Dir: dir})
	if err != nil {
		lock.Free()
		return "", nil, err
	}
	go cluster.Keep(ctx, func(text string) { fmt.Fprintln(out, text) })
	return cluster.URL(), func() { cluster.Stop(); lock.Free() }, nil
}

func openStore(ctx context.Context, database string) (*store.Store, error) {
	db, err := store.Open(ctx, database)
	if err != nil {
		return nil, &localpg.Problem{What: "The database cannot be used", Do: "Check DATABASE_URL and that the server runs.", Err: err}
	}
	if err := db.Migrate(ctx); err != nil {
		db.Close()
		return nil, err
	}
	return db, nil
}

// garbage is how much of it may gather, in percent of what is in use, before
// it is collected: pages make much that lives briefly beside little that stays.
const garbage = 300

// roomy is how much memory may be in use, in bytes, before garbage is collected
// whatever that says: a large file is read beside all else.
const roomy = 1 << 30

// setUpLife is how long the link for the first owner opens.
const setUpLife = 24 * time.Hour

// prepare brings in the demo, or makes the link for the first owner, and makes
// the server.
func prepare(ctx context.Context, db *store.Store, s settings, withDemo bool, address string, out io.Writer, log *slog.Logger) (*web.Server, error) {
	clock := &store.Clock{}
	if err := clock.Set(ctx, db); err != nil {
		return nil, err
	}
	go keepTime(ctx, clock, db)
	o := web.Options{Store: db, Address: address, Proxies: s.Proxies, Now: clock.Now, Log: log, Example: web.Example{
		Bring: func(ctx context.Context, by store.Editing) (uuid.UUID, error) { return demo.Bring(ctx, db, by) }, PriceList: demo.PriceLists()[0]}}
	token, hash := doors.NewToken()
	err := db.MakeSetUp(ctx, hash, setUpLife)
	switch {
	case err != nil && !errors.Is(err, store.ErrSetUp):
		return nil, err
	case withDemo && err == nil:
		if err := bringDemo(ctx, db); err != nil {
			return nil, err
		}
	case err == nil:
		fmt.Fprintf(out, "\nNobody owns this Nine Coins yet. Open this link to become its owner; it opens once, within a day:\n%s/set-up/%s\n", address, token)
	}
	if o.Feed, o.Rates, err = services(ctx, s, withDemo, clock, log); err != nil {
		return nil, err
	}
	atHome := withDemo && web.Local(address)
	if atHome {
		o.Demo = demo.People[0].Email
	} else if withDemo {
		fmt.Fprintf(out, "\nNine Coins is told a public address, so nobody may look around as the demo's owner without a password.\nTo come in, ask for a new one at %s/forgot for %s: the letter goes %s.\n", address, demo.People[0].Email, orElse(s.SMTP == "", "to this console", "out by mail"))
	}
	switch {
	case s.SMTP != "":
		if o.Mail, err = mail.NewSMTP(s.SMTP, s.From); err != nil {
			return nil, errInput{err.Error()}
		}
	case atHome:
		o.Mail = standin.Mailbox{Store: db}
	default:
		o.Mail = &standin.Console{Out: out}
	}
	return web.New(ctx, o)
}

func orElse(holds bool, then, otherwise string) string {
	if holds {
		return then
	}
	return otherwise
}

// keepTime asks the database for the time every minute, until the context ends:
// days are counted by its clock, whatever that of this machine says.
func keepTime(ctx context.Context, clock *store.Clock, db *store.Store) {
	for tick := time.NewTicker(time.Minute); ; {
		select {
		case <-tick.C:
			_ = clock.Set(ctx, db) // while the database is away, it goes by what it said last
		case <-ctx.Done():
			tick.Stop()
			return
		}
	}
}

// bringDemo brings the demo into a database that nobody owns yet, and seats
// its people.
func bringDemo(ctx context.Context, db *store.Store) error {
	w, made, err := db.FirstWorkspace(ctx, demo.Workspace)
	if err == nil && made {
		_, err = demo.Bring(ctx, db, store.Editing{Workspace: w.ID})
	}
	if err == nil {
		err = demo.Settle(ctx, db, w.ID)
	}
	return err
}

// check asks the application how it is, as a browser would.
func check(ctx context.Context, address string, withDemo bool, out io.Writer) error {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return err
	}
	// The certificate may be for the name that people use, which this is not.
	anyName := &http.Transport{TLSClientConfig: &tls.Config{InsecureSkipVerify: true}}
	client := &http.Client{Timeout: 10 * time.Second, Jar: jar, Transport: anyName}
	steps := []struct{ method, path, want string }{{http.MethodGet, "/healthz", `"ok"`}, {http.MethodGet, "/", "<h1>Sign in</h1>"}}
	said := "PostgreSQL, the health page and the sign-in door answer."
	if withDemo {
		steps = append(steps, struct{ method, path, want string }{http.MethodPost, "/demo", "<h1>Desk</h1>"})
		said = "PostgreSQL, the health page, the sign-in door and the Desk answer."
	}
	for _, step := range steps {
		req, err := http.NewRequestWithContext(ctx, step.method, address+step.path, nil)
		if err != nil {
			return err
		}
		resp, err := client.Do(req)
		if err != nil {
			return fmt.Errorf("check: %s does not answer: %w", step.path, err)
		}
		body, err := io.ReadAll(resp.Body)
		resp.Body.Close()
		if err != nil || resp.StatusCode != http.StatusOK || !strings.Contains(string(body), step.want) {
			return fmt.Errorf("check: %s answered %s without %s", step.path, resp.Status, step.want)
		}
	}
	fmt.Fprintln(out, "Check passed: "+said)
	return nil
}
