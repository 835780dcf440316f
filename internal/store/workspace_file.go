package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/feature"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
	"ninecoins/internal/formats"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// ErrNotEmpty reports a whole workspace that is to come into one that holds
// something.
var ErrNotEmpty = errors.New("the workspace is not empty")

// Brought is what a file brought in.
type Brought struct {
	Platform  string    // name, of a price list
	Study     uuid.UUID // of a study
	Workspace string    // name, of a whole workspace
}

// open opens a file on the database's day.
func (s *Store) open(ctx context.Context, data []byte) (*formats.File, error) {
	var today time.Time
	if err := s.pool.QueryRow(ctx, "select (now() at time zone 'utc')::date").Scan(&today); err != nil {
		return nil, err
	}
	return formats.Open(ctx, data, today)
}

// ImportFile takes a file in one of the open formats, whole or not at all. A
// file at fault is [formats.Faults]; a whole workspace that somebody brings who
// does not govern is a [*NotAllowedError].
func (s *Store) ImportFile(ctx context.Context, e Editing, data []byte) (Brought, error) {
	file, err := s.open(ctx, data)
	if err != nil {
		return Brought{}, err
	}
	switch file.Format() {
	case formats.WorkspaceFormat, formats.WorkspaceFormatV1:
		if e.By != uuid.Nil && !e.Role.May(doors.ToGovern) {
			return Brought{}, &NotAllowedError{Need: doors.ToGovern}
		}
		w, err := file.Workspace()
		if err != nil {
			return Brought{}, err
		}
		return Brought{Workspace: w.Name}, s.ImportWorkspace(ctx, e, w)
	case formats.StudyFormat:
		id, err := s.importStudy(ctx, e, file)
		return Brought{Study: id}, err
	case formats.PriceListFormat:
		list, err := s.importPriceList(ctx, e, file)
		if err != nil {
			return Brought{}, err
		}
		return Brought{Platform: list.Platform.Name}, nil
	}
	return Brought{}, file.Misplaced(formats.PriceListFormat, formats.StudyFormat, formats.WorkspaceFormat)
}

// ExportWorkspace writes everything that a workspace holds as one file, as it
// stands at one moment, piece by piece: it need not fit into memory. A workspace
// that is not there is [ErrMissing], and nothing is written.
func (s *Store) ExportWorkspace(ctx context.Context, workspace uuid.UUID, out io.Writer) error {
	err := pgx.BeginTxFunc(ctx, s.pool, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly}, func(tx pgx.Tx) error {
		var name string
		if err := tx.QueryRow(ctx, "select name from workspaces where id = $1", workspace).Scan(&name); err != nil {
			return missing(err)
		}
		people, names, err := peopleOf(ctx, tx, workspace)
		if err != nil {
			return err
		}
		x := &exporting{tx, workspace, people, formats.NewWorkspaceWriter(out)}
		var features string
		err = tx.QueryRow(ctx, `select p.body from documents d join document_parts p on p.document_id = d.id
			where d.workspace_id = $1 and d.kind = 'catalogue' and d.deleted_at is null`, workspace).Scan(&features)
		if err != nil && missing(err) != ErrMissing {
			return err
		}
		x.to.Begin(name, names, features)
		if err := x.platforms(ctx); err != nil {
			return err
		}
		if err := x.studies(ctx, s); err != nil {
			return err
		}
		history, err := x.history(ctx, "c.workspace_id = $1 and c.document_id is null", workspace)
		if err != nil {
			return err
		}
		return x.to.End(history)
	})
	if err != nil {
		return fmt.Errorf("exporting the workspace: %w", err)
	}
	return nil
}

// peopleOf returns the names of a workspace's people by their keys, and in order.
func peopleOf(ctx context.Context, tx pgx.Tx, workspace uuid.UUID) (byKey map[string]string, names []string, err error) {
	byKey = map[string]string{}
	rows, err := tx.Query(ctx, "select id::text, name from people where workspace_id = $1 order by name collate \"C\"", workspace)
	if err != nil {
		return nil, nil, err
	}
	var id, name string
	_, err = pgx.ForEachRow(rows, []any{&id, &name}, func() error {
		byKey[id], names = name, append(names, name)
		return nil
	})
	return byKey, names, err
}

// exporting is a workspace while it is written.
type exporting struct {
	tx        pgx.Tx
	workspace uuid.UUID
	people    map[string]string
	to        *formats.WorkspaceWriter
}

func (x *exporting) platforms(ctx context.Context) error {
	rows, err := x.tx.Query(ctx, `select p.key, p.deleted_at, coalesce(array_agg(e.document order by e.published_at, e.id) filter (where e.id is not null), '{}'),
		coalesce((select b.body from documents d join document_parts b on b.document_id = d.id where d.workspace_id = $1 and d.kind = 'draft' and d.key = p.key and d.deleted_at is null), ''),
		coalesce((select jsonb_agg(jsonb_build_object('At', d.deleted_at, 'Draft', b.body) order by d.deleted_at, d.id) from documents d
			join document_parts b on b.document_id = d.id where d.workspace_id = $1 and d.kind = 'draft' and d.key = p.key and d.deleted_at is not null), '[]')
		from platforms p left join editions e on e.platform_id = p.id where p.workspace_id = $1 group by p.id order by p.key collate "C"`, x.workspace)
	if err != nil {
		return err
	}
	var one formats.PlatformEntry
	var binned *time.Time
	_, err = pgx.ForEachRow(rows, []any{&one.Key, &binned, &one.Editions, &one.Draft, &one.Aside}, func() error {
		one.BinnedAt = since(binned)
		for i := range one.Aside {
			one.Aside[i].At = one.Aside[i].At.UTC()
		}
		x.to.Platform(one)
		return nil
	})
	return err
}

// since is the moment in universal time; zero for none.
func since(at *time.Time) time.Time {
	if at == nil {
		return time.Time{}
	}
	return at.UTC()
}

func (x *exporting) studies(ctx context.Context, s *Store) error {
	type row struct {
		ID        uuid.UUID
		BinnedAt  *time.Time
		UpdatedAt time.Time
	}
	rows, err := x.tx.Query(ctx, "select id, deleted_at, updated_at from documents where workspace_id = $1 and kind = 'study' order by key collate \"C\", updated_at, id", x.workspace)
	if err != nil {
		return err
	}
	all, err := pgx.CollectRows(rows, pgx.RowToStructByPos[row])
	if err != nil {
		return err
	}
	for _, one := range all {
		entry := formats.StudyEntry{BinnedAt: since(one.BinnedAt), UpdatedAt: one.UpdatedAt.UTC()}
		if entry.Study, err = s.studies.parts(ctx, x.tx, one.ID); err != nil {
			return err
		}
		entry.Study.People = x.people
		if entry.History, err = x.history(ctx, "c.document_id = $1", one.ID); err != nil {
			return err
		}
		x.to.Study(entry)
	}
	return nil
}

func (x *exporting) history(ctx context.Context, where string, id uuid.UUID) ([]formats.ChangeEntry, error) {
	rows, err := x.tx.Query(ctx, `select c.made_at, coalesce(p.name, ''), c.ops, c.paths, c.says, c.undone_at, c.lapsed, c.passed, c.wide
		from changes c left join people p on p.id = c.person_id where `+where+" order by c.seq", id)
	if err != nil {
		return nil, err
	}
	name := func(key string) string {
		if name, ok := x.people[key]; ok {
			return name
		}
		return key
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (formats.ChangeEntry, error) {
		var one formats.ChangeEntry
		var paths []string
		var undone *time.Time
		err := r.Scan(&one.At, &one.By, &one.Ops, &paths, &one.Says, &undone, &one.Lapsed, &one.Passed, &one.Wide)
		one.At, one.UndoneAt, one.Ops = one.At.UTC(), since(undone), study.Renamed(one.Ops, name)
		switch {
		case len(one.Ops) == 0 && len(paths) > 0:
			one.About = paths[0]
		case one.Wide && len(one.Ops) > 0 && one.Ops[0].Path.Steps()[0] == Studies:
			one.Ops[0].Path = Studies // its id, which is another one elsewhere
		}
		return one, err
	})
}

// ImportWorkspace brings everything that a workspace file holds into an empty
// workspace, in one transaction; else it is [ErrNotEmpty].
func (s *Store) ImportWorkspace(ctx context.Context, e Editing, w *formats.Workspace) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		var empty bool
		err := tx.QueryRow(ctx, `select not exists (select from documents where workspace_id = $1) and not exists (select from platforms where workspace_id = $1)
			from workspaces where id = $1 for no key update`, e.Workspace).Scan(&empty)
		if err != nil {
			return missing(err)
		}
		if !empty {
			return ErrNotEmpty
		}
		in := bringing{s: s, tx: tx, workspace: e.Workspace, people: map[string]string{}}
		steps := []func(context.Context, *formats.Workspace) error{in.everybody, in.platforms, in.studies, func(ctx context.Context, w *formats.Workspace) error {
			return in.history(ctx, uuid.Nil, w.History)
		}}
		for _, step := range steps {
			if err := step(ctx, w); err != nil {
				return err
			}
		}
		_, err = tx.Exec(ctx, "update workspaces set name = $2 where id = $1", e.Workspace, w.Name)
		return err
	})
}

// bringing is a workspace while it is brought in.
type bringing struct {
	s         *Store
	tx        pgx.Tx
	workspace uuid.UUID
	people    map[string]string // keys by names
}

func (b *bringing) everybody(ctx context.Context, w *formats.Workspace) error {
	names := slices.Clone(w.People)
	for i := range w.Studies {
		names = append(names, raters(&w.Studies[i].Study)...)
	}
	slices.Sort(names)
	keys, err := insertPeople(ctx, b.tx, b.workspace, slices.Compact(names))
	b.people = keys
	return err
}

func (b *bringing) platforms(ctx context.Context, w *formats.Workspace) error {
	if w.Features != "" {
		own, err := feature.Table().Join(ctx, map[string]string{document.Main: w.Features})
		if err == nil {
			err = b.s.catalogues.insert(ctx, b.tx, b.workspace, newID(), theCatalogue, own, time.Time{})
		}
		if err != nil {
			return err
		}
	}
	for _, p := range w.Platforms {
		id := newID()
		if _, err := b.tx.Exec(ctx, "insert into platforms (id, workspace_id, key, name, does, deleted_at) values ($1, $2, $3, $3, '{}', $4)", id,
			b.workspace, p.Key, orNull(p.BinnedAt)); err != nil {
			return err
		}
		for i, list := range p.Lists {
			edition := newID()
			_, err := b.tx.Exec(ctx, "insert into editions (id, workspace_id, platform_id, observed_on, source, currency, document, published_at) values ($1, $2, $3, $4, $5, $6, $7, clock_timestamp())",
				edition, b.workspace, id, list.ObservedOn, list.Source, list.Currency.Code(), p.Editions[i])
			if err != nil {
				return err
			}
			if _, err := b.tx.Exec(ctx, "update platforms set name = $2, does = $3, about = $4 where id = $1", id, list.Platform.Name, orEmpty(list.Platform.Does), list.Platform.About); err != nil {
				return err
			}
		}
		if p.Draft != "" {
			if err := b.draft(ctx, id, &p, p.Draft, time.Time{}); err != nil {
				return err
			}
		}
		for _, aside := range p.Aside {
			if err := b.draft(ctx, id, &p, aside.Draft, aside.At); err != nil {
				return err
			}
		}
	}
	return nil
}

// draft brings in what was being written of a platform, which has its name from there
// while there is no price list.
func (b *bringing) draft(ctx context.Context, id uuid.UUID, p *formats.PlatformEntry, text string, aside time.Time) error {
	d, err := pricelist.Drafts().Join(ctx, map[string]string{document.Main: text})
	if err == nil {
		err = b.s.drafts.insert(ctx, b.tx, b.workspace, newID(), p.Key, d, aside)
	}
	if err == nil && len(p.Lists) == 0 && aside.IsZero() {
		of := &d.Edition.Platform
		_, err = b.tx.Exec(ctx, "update platforms set name = $2, does = $3, about = $4 where id = $1", id, of.Name, orEmpty(of.Does), of.About)
	}
	return err
}

func orNull(at time.Time) *time.Time {
	if at.IsZero() {
		return nil
	}
	return &at
}

func (b *bringing) studies(ctx context.Context, w *formats.Workspace) error {
	for i := range w.Studies {
		one := &w.Studies[i]
		id := newID()
		if err := b.s.studies.insert(ctx, b.tx, b.workspace, id, one.Study.Key, *one.Study.ByKey(b.people), one.BinnedAt); err != nil {
			return fmt.Errorf("keeping study %q: %w", one.Study.Key, err)
		}
		if _, err := b.tx.Exec(ctx, "update documents set updated_at = $2 where id = $1", id, one.UpdatedAt); err != nil {
			return err
		}
		if err := b.history(ctx, id, one.History); err != nil {
			return err
		}
	}
	return nil
}

func (b *bringing) history(ctx context.Context, id uuid.UUID, all []formats.ChangeEntry) error {
	batch := &pgx.Batch{}
	key := func(name string) string {
		if key, ok := b.people[name]; ok {
			return key
		}
		return name
	}
	for _, c := range all {
		ops, paths, need, removed := study.Renamed(c.Ops, key), []string{c.About}, "", ""
		if len(ops) > 0 {
			if ops[0].Path == Studies {
				ops[0].Path = document.Path(Studies).To(id.String())
			}
			paths, need = pathsOf(ops), string(doors.Editor)
			if len(c.Says) == 0 { // a line that says nothing is told by what it edits
				c.Says = []document.Said{{Label: paths[len(paths)-1]}}
			}
			if !c.Wide {
				need, removed = string(doors.Least(b.s.studies.needOf(ops))), removedBy(ops)
			}
		}
		undone := orNull(c.UndoneAt)
		touched := c.At
		if undone != nil {
			touched = *undone
		}
		batch.Queue(`insert into changes (id, workspace_id, document_id, person_id, made_at, touched_at, ops, paths, says, need, wide, removed, undone_at, lapsed, passed)
			values ($1, $2, nullif($3, '00000000-0000-0000-0000-000000000000'::uuid), (select id from people where workspace_id = $2 and name = $4), $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15)`,
			newID(), b.workspace, id, c.By, c.At, touched, asJSON(ops), paths, asJSON(c.Says), need, c.Wide, removed, undone, c.Lapsed, c.Passed)
	}
	return b.tx.SendBatch(ctx, batch).Close()
}

// asJSON writes a list as JSON; one that is nil as an empty one.
func asJSON[T any](list []T) string {
	if list == nil {
		return "[]"
	}
	data, err := json.Marshal(list)
	if err != nil {
		panic(err) // texts are always written
	}
	return string(data)
}
