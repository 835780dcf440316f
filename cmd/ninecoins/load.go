package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"ninecoins/internal/demo"
	"ninecoins/internal/formats"
	"ninecoins/internal/localpg"
	"ninecoins/internal/store"

	"github.com/caarlos0/env/v11"
	"github.com/google/uuid"
)

// withStore opens the database for a command: that of the application where it
// is running from this folder, else as serve would.
func withStore(ctx context.Context, workspace string, out io.Writer, with func(*store.Store, store.Workspace) error) error {
	var s settings
	if err := env.Parse(&s); err != nil {
		return errInput{err.Error()}
	}
	var db *store.Store
	if url, ok := localpg.Attach(filepath.Join(s.Folder, "postgres")); ok && s.DatabaseURL == "" {
		db, _ = store.Open(ctx, url) // a server that ended without a word is started anew below
	}
	if db == nil {
		url, stop, err := openDatabase(ctx, s, serveFlags{}, "", out)
		if err != nil {
			return err
		}
		defer stop()
		if db, err = store.Open(ctx, url); err != nil {
			return err
		}
	}
	defer db.Close()
	if err := db.Migrate(ctx); err != nil {
		return err
	}
	w, err := pick(ctx, db, workspace)
	if err != nil {
		return err
	}
	return with(db, w)
}

// pick returns the workspace of a name; without one the first, which is made
// where there is none.
func pick(ctx context.Context, db *store.Store, name string) (store.Workspace, error) {
	if name == "" {
		w, _, err := db.FirstWorkspace(ctx, "Workspace")
		return w, err
	}
	found, err := db.WorkspacesNamed(ctx, name)
	if err != nil {
		return store.Workspace{}, err
	}
	if len(found) != 1 {
		return store.Workspace{}, errInput{fmt.Sprintf("there are %d workspaces called %q", len(found), name)}
	}
	return found[0], nil
}

func importCommand(ctx context.Context, args []string, out, errs io.Writer) error {
	f := flags("import", "ninecoins import FILE …: brings price lists and studies into the database, price lists first; or a whole workspace into an empty one. A file is taken whole or not at all.", errs)
	workspace := f.String("workspace", "", "name of the workspace; without it the first one")
	if err := parseFlags(f, args); err != nil {
		return err
	}
	if f.NArg() == 0 {
		return errInput{"import needs files: ninecoins import PRICES.json STUDY.json"}
	}
	return withStore(ctx, *workspace, out, func(db *store.Store, w store.Workspace) error {
		for _, name := range f.Args() {
			data, err := readFile(name)
			if err == nil {
				err = importOne(ctx, db, w, data, out)
			}
			var faults formats.Faults
			if errors.As(err, &faults) {
				fmt.Fprintf(errs, "%s is refused, nothing of it was taken:\n", filepath.Base(name))
			}
			if err != nil {
				return err
			}
		}
		return nil
	})
}

func importOne(ctx context.Context, db *store.Store, w store.Workspace, data []byte, out io.Writer) error {
	brought, err := db.ImportFile(ctx, store.Editing{Workspace: w.ID}, data)
	switch {
	case errors.Is(err, store.ErrNotEmpty):
		return errInput{fmt.Sprintf("%s holds something already; a whole workspace comes only into an empty one", w.Name)}
	case err != nil:
		return err
	case brought.Study != uuid.Nil:
		fmt.Fprintf(out, "Took the study; it is at /studies/%s\n", brought.Study)
	case brought.Platform != "":
		fmt.Fprintf(out, "Took the price list of %s.\n", brought.Platform)
	default:
		fmt.Fprintf(out, "Took the workspace %s.\n", brought.Workspace)
	}
	return nil
}

func exportCommand(ctx context.Context, args []string, out, errs io.Writer) error {
	f := flags("export", "ninecoins export [-workspace NAME] FILE: writes a whole workspace as one file, which import brings into an empty one.", errs)
	workspace := f.String("workspace", "", "name of the workspace; without it the first one")
	if err := parseFlags(f, args); err != nil {
		return err
	}
	if f.NArg() != 1 {
		return errInput{"export needs a file to write: ninecoins export WORKSPACE.json"}
	}
	return withStore(ctx, *workspace, out, func(db *store.Store, w store.Workspace) error {
		file, err := os.OpenFile(f.Arg(0), os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o600)
		if err != nil {
			return err
		}
		err = errors.Join(db.ExportWorkspace(ctx, w.ID, file), file.Close())
		if err == nil {
			fmt.Fprintf(out, "Wrote %s to %s.\n", w.Name, filepath.Base(f.Arg(0)))
		}
		return err
	})
}

func demoCommand(ctx context.Context, args []string, out, errs io.Writer) error {
	f := flags("demo", "ninecoins demo: brings the example into the database.", errs)
	if err := parseFlags(f, args); err != nil {
		return err
	}
	return withStore(ctx, "", out, func(db *store.Store, w store.Workspace) error {
		_, err := demo.Bring(ctx, db, store.Editing{Workspace: w.ID})
		if err == nil {
			fmt.Fprintln(out, "The example is in: Marl & Thistle, with its price shelf and four studies.")
		}
		return err
	})
}
