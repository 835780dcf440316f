package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"ninecoins/internal/core/pricelist"
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
	case formats.WorkspaceFormat:
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
// stands at one moment.
func (s *Store) ExportWorkspace(ctx context.Context, workspace uuid.UUID) ([]byte, error) {
	w := &formats.Workspace{}
	err := pgx.BeginTxFunc(ctx, s.pool, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly}, func(tx pgx.Tx) error {
		if err := tx.QueryRow(ctx, "select name from workspaces where id = $1", workspace).Scan(&w.Name); err != nil {
			return missing(err)
		}
		if err := each(ctx, tx, "select name from people where workspace_id = $1 order by name", func(r pgx.CollectableRow) (err error) {
			w.People = append(w.People, "")
			return r.Scan(&w.People[len(w.People)-1])
		}, workspace); err != nil {
			return err
		}
		if err := exportPlatforms(ctx, tx, workspace, w); err != nil {
			return err
		}
		if err := s.exportStudies(ctx, tx, workspace, w); err != nil {
			return err
		}
		var err error
		w.History, err = exportHistory(ctx, tx, "c.workspace_id = $1 and c.study_id is null", workspace)
		return err
	})
	if err != nil {
		return nil, fmt.Errorf("exporting the workspace: %w", err)
	}
	return formats.WriteWorkspace(w)
}

// each runs scan on every row of an answer.
func each(ctx context.Context, q querier, sql string, scan func(pgx.CollectableRow) error, args ...any) error {
	rows, err := q.Query(ctx, sql, args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		if err := scan(rows); err != nil {
			return err
		}
	}
	return rows.Err()
}

func exportPlatforms(ctx context.Context, tx pgx.Tx, workspace uuid.UUID, w *formats.Workspace) error {
	return each(ctx, tx, `select p.key, p.deleted_at, coalesce(array_agg(e.document order by e.published_at, e.id) filter (where e.id is not null), '{}')
		from platforms p left join editions e on e.platform_id = p.id where p.workspace_id = $1 group by p.id order by p.key`, func(r pgx.CollectableRow) error {
		var one formats.PlatformEntry
		var binned *time.Time
		err := r.Scan(&one.Key, &binned, &one.Editions)
		one.BinnedAt = since(binned)
		w.Platforms = append(w.Platforms, one)
		return err
	}, workspace)
}

// since is the moment in universal time; zero for none.
func since(at *time.Time) time.Time {
	if at == nil {
		return time.Time{}
	}
	return at.UTC()
}

func (s *Store) exportStudies(ctx context.Context, tx pgx.Tx, workspace uuid.UUID, w *formats.Workspace) error {
	var ids []uuid.UUID
	err := each(ctx, tx, "select id, deleted_at, updated_at from studies where workspace_id = $1 order by key, id", func(r pgx.CollectableRow) error {
		var id uuid.UUID
		var one formats.StudyEntry
		var binned *time.Time
		err := r.Scan(&id, &binned, &one.UpdatedAt)
		one.BinnedAt, one.UpdatedAt = since(binned), one.UpdatedAt.UTC()
		ids, w.Studies = append(ids, id), append(w.Studies, one)
		return err
	}, workspace)
	if err != nil {
		return err
	}
	for i, id := range ids {
		one := &w.Studies[i]
		if one.Study, err = s.loadWhole(ctx, tx, workspace, id); err != nil {
			return err
		}
		if one.History, err = exportHistory(ctx, tx, "c.study_id = $1", id); err != nil {
			return err
		}
		for j := range one.History {
			if one.History[j].Edit == "study" {
				one.History[j].Of = "" // its id, which is another one elsewhere
			}
		}
	}
	return nil
}

func exportHistory(ctx context.Context, tx pgx.Tx, where string, id uuid.UUID) ([]formats.ChangeEntry, error) {
	var all []formats.ChangeEntry
	err := each(ctx, tx, `select c.made_at, coalesce(p.name, ''), c.edit, case when c.edit = 'role' then '' else c.of end, c.option, c.rater, c.was, c.became, c.kept, c.name, c.undone_at, c.lapsed, c.passed
		from changes c left join people p on p.id = c.person_id where `+where+" order by c.seq", func(r pgx.CollectableRow) error {
		var one formats.ChangeEntry
		err := r.Scan(&one.At, &one.By, &one.Edit, &one.Of, &one.Option, &one.Rater, &one.Was, &one.Became, &one.Kept, &one.Name, &one.UndoneAt, &one.Lapsed, &one.Passed)
		one.At = one.At.UTC()
		if one.UndoneAt != nil {
			at := one.UndoneAt.UTC()
			one.UndoneAt = &at
		}
		all = append(all, one)
		return err
	}, id)
	return all, err
}

// ImportWorkspace brings everything that a workspace file holds into an empty
// workspace, in one transaction; else it is [ErrNotEmpty].
func (s *Store) ImportWorkspace(ctx context.Context, e Editing, w *formats.Workspace) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		var empty bool
		err := tx.QueryRow(ctx, `select not exists (select from studies where workspace_id = $1) and not exists (select from platforms where workspace_id = $1)
			from workspaces where id = $1 for no key update`, e.Workspace).Scan(&empty)
		if err != nil {
			return missing(err)
		}
		if !empty {
			return ErrNotEmpty
		}
		in := bringing{tx: tx, workspace: e.Workspace, editions: map[*pricelist.Edition]uuid.UUID{}}
		steps := []func(context.Context, *formats.Workspace) error{in.people, in.platforms, in.studies, func(ctx context.Context, w *formats.Workspace) error {
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
	tx        pgx.Tx
	workspace uuid.UUID
	editions  map[*pricelist.Edition]uuid.UUID
}

func (b *bringing) people(ctx context.Context, w *formats.Workspace) error {
	return insertPeople(ctx, b.tx, b.workspace, slices.Sorted(slices.Values(w.People)))
}

func (b *bringing) platforms(ctx context.Context, w *formats.Workspace) error {
	for _, p := range w.Platforms {
		id := newID()
		if _, err := b.tx.Exec(ctx, "insert into platforms (id, workspace_id, key, name, does, deleted_at) values ($1, $2, $3, $3, '{}', $4)", id, b.workspace, p.Key, orNull(p.BinnedAt)); err != nil {
			return err
		}
		for i, list := range p.Lists {
			edition := newID()
			_, err := b.tx.Exec(ctx, "insert into editions (id, workspace_id, platform_id, observed_on, source, currency, document, published_at) values ($1, $2, $3, $4, $5, $6, $7, clock_timestamp())",
				edition, b.workspace, id, list.ObservedOn, list.Source, list.Currency.Code(), p.Editions[i])
			if err != nil {
				return err
			}
			b.editions[list] = edition
			if _, err := b.tx.Exec(ctx, "update platforms set name = $2, does = $3 where id = $1", id, list.Platform.Name, list.Platform.Does); err != nil {
				return err
			}
		}
	}
	return nil
}

func orNull(at time.Time) *time.Time {
	if at.IsZero() {
		return nil
	}
	return &at
}

func (b *bringing) studies(ctx context.Context, w *formats.Workspace) error {
	for _, s := range w.Studies {
		id, err := insertStudy(ctx, b.tx, b.workspace, s.Study, b.editions, s.BinnedAt)
		if err != nil {
			return err
		}
		if _, err := b.tx.Exec(ctx, "update studies set updated_at = $2 where id = $1", id, s.UpdatedAt); err != nil {
			return err
		}
		if err := b.history(ctx, id, s.History); err != nil {
			return err
		}
	}
	return nil
}

func (b *bringing) history(ctx context.Context, study uuid.UUID, all []formats.ChangeEntry) error {
	batch := &pgx.Batch{}
	for _, c := range all {
		of := c.Of
		if c.Edit == "study" {
			of = study.String()
		}
		batch.Queue(`insert into changes (id, workspace_id, study_id, person_id, made_at, edit, of, option, rater, was, became, kept, name, undone_at, lapsed, passed)
			values ($1, $2, nullif($3, '00000000-0000-0000-0000-000000000000'::uuid), (select id from people where workspace_id = $2 and name = $4), $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16)`,
			newID(), b.workspace, study, c.By, c.At, c.Edit, of, c.Option, c.Rater, c.Was, c.Became, c.Kept, c.Name, c.UndoneAt, c.Lapsed, c.Passed)
	}
	return b.tx.SendBatch(ctx, batch).Close()
}
