package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"strings"

	"ninecoins/internal/demo"
	"ninecoins/internal/formats"
	"ninecoins/internal/localpg"
	"ninecoins/internal/store"

	"github.com/caarlos0/env/v11"
)

// withStore opens the database for a command: that of the application where it
// is running from this folder, else as serve would.
func withStore(ctx context.Context, out io.Writer, with func(*store.Store, store.Workspace) error) error {
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
	w, _, err := db.OnlyWorkspace(ctx, demo.Workspace)
	if err != nil {
		return err
	}
	return with(db, w)
}

func importCommand(ctx context.Context, args []string, out, errs io.Writer) error {
	f := flags("import", "ninecoins import FILE …: brings price lists and studies into the database; price lists first. A file is taken whole or not at all.", errs)
	if err := parseFlags(f, args); err != nil {
		return err
	}
	if f.NArg() == 0 {
		return errInput{"import needs files: ninecoins import PRICES.json STUDY.json"}
	}
	return withStore(ctx, out, func(db *store.Store, w store.Workspace) error {
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
	if strings.Contains(string(data[:min(len(data), 400)]), formats.StudyFormat) {
		id, err := db.ImportStudy(ctx, w.ID, data)
		if err == nil {
			fmt.Fprintf(out, "Took the study; it is at /studies/%s\n", id)
		}
		return err
	}
	e, err := db.ImportPriceList(ctx, w.ID, data)
	if err == nil {
		fmt.Fprintf(out, "Took the price list of %s.\n", e.Platform.Name)
	}
	return err
}

func demoCommand(ctx context.Context, args []string, out, errs io.Writer) error {
	f := flags("demo", "ninecoins demo: brings the example into the database.", errs)
	if err := parseFlags(f, args); err != nil {
		return err
	}
	return withStore(ctx, out, func(db *store.Store, w store.Workspace) error {
		_, err := demo.Load(ctx, db, w.ID)
		if err == nil {
			fmt.Fprintln(out, "The example is in: Marl & Thistle, Spring list.")
		}
		return err
	})
}
