package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"ninecoins/internal/demo"
	"ninecoins/internal/localpg"
	"ninecoins/internal/store"
	"ninecoins/internal/web"

	"github.com/caarlos0/env/v11"
)

// settings come from the environment.
type settings struct {
	DatabaseURL string `env:"DATABASE_URL"`
	Port        string `env:"PORT" envDefault:"9009"`
	Folder      string `env:"NINECOINS_FOLDER" envDefault:".local"`
}

type serveFlags struct {
	demo, fresh, check, verbose bool
}

func serve(ctx context.Context, args []string, out, errs io.Writer) error {
	var o serveFlags
	f := flags("serve", "ninecoins serve: serves the application on 127.0.0.1.\nWithout DATABASE_URL it starts a PostgreSQL server of its own, kept in .local.", errs)
	f.BoolVar(&o.demo, "demo", false, "bring in the example where the database is empty")
	f.BoolVar(&o.fresh, "fresh", false, "begin with a new database; what is in the private one is lost")
	f.BoolVar(&o.check, "check", false, "start, ask the health and Desk pages, stop")
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

	listener, err := listen(ctx, s.Port)
	if err != nil {
		return err
	}
	defer listener.Close()
	database, stop, err := openDatabase(ctx, s, o, "http://"+listener.Addr().String(), out)
	if err != nil {
		return err
	}
	defer stop()
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	server, closeStore, err := prepare(ctx, database, o.demo, log)
	if err != nil {
		return err
	}
	defer closeStore()
	ended := make(chan error, 1)
	go func() { ended <- server.Serve(ctx, listener) }()
	address := "http://" + listener.Addr().String()
	if o.check {
		err := check(ctx, address, out)
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
func listen(ctx context.Context, port string) (net.Listener, error) {
	l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", net.JoinHostPort("127.0.0.1", port))
	switch {
	case err == nil:
		return l, nil
	case errors.Is(err, syscall.EADDRINUSE):
		return nil, &localpg.Problem{What: "Port " + port + " on 127.0.0.1 is taken by another program (perhaps Nine Coins is running already)", Do: "Choose another, for example: PORT=9010 ./start"}
	case errors.Is(err, os.ErrPermission):
		return nil, &localpg.Problem{What: "Port " + port + " may not be used by your user", Do: "Choose one above 1023, for example: PORT=9010 ./start"}
	}
	return nil, errInput{fmt.Sprintf("PORT %q cannot be used: %v", port, err)}
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
	return cluster.URL(), func() { cluster.Stop(); lock.Free() }, nil
}

// prepare opens and migrates the database, brings in the demo and makes the
// server.
func prepare(ctx context.Context, database string, withDemo bool, log *slog.Logger) (*web.Server, func(), error) {
	db, err := store.Open(ctx, database)
	if err != nil {
		return nil, nil, &localpg.Problem{What: "The database cannot be used", Do: "Check DATABASE_URL and that the server runs.", Err: err}
	}
	if err := db.Migrate(ctx); err != nil {
		db.Close()
		return nil, nil, err
	}
	w, made, err := db.OnlyWorkspace(ctx, demo.Workspace)
	if err == nil && made && withDemo {
		_, err = demo.Load(ctx, db, w.ID)
	}
	if err != nil {
		db.Close()
		return nil, nil, err
	}
	server, err := web.New(ctx, web.Options{Store: db, Workspace: w, Now: time.Now, Log: log})
	if err != nil {
		db.Close()
		return nil, nil, err
	}
	return server, db.Close, nil
}

// check asks the application how it is, as a browser would.
func check(ctx context.Context, address string, out io.Writer) error {
	client := &http.Client{Timeout: 10 * time.Second}
	for path, want := range map[string]string{"/healthz": `"ok"`, "/": "<h1>Desk</h1>"} {
		req, err := http.NewRequestWithContext(ctx, http.MethodGet, address+path, nil)
		if err != nil {
			return err
		}
		resp, err := client.Do(req)
		if err != nil {
			return fmt.Errorf("check: %s does not answer: %w", path, err)
		}
		body, err := io.ReadAll(resp.Body)
		resp.Body.Close()
		if err != nil || resp.StatusCode != http.StatusOK || !strings.Contains(string(body), want) {
			return fmt.Errorf("check: %s answered %s without %s", path, resp.Status, want)
		}
	}
	fmt.Fprintln(out, "Check passed: PostgreSQL, the health page and the Desk answer.")
	return nil
}
