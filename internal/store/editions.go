package store

import (
	"context"
	"fmt"
	"time"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/formats"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// EditionRow is an edition as the price shelf lists it.
type EditionRow struct {
	ID         uuid.UUID
	Platform   string // its key
	Name       string
	Does       []string
	ObservedOn time.Time
	Source     string
	Currency   string
	UsedIn     int // studies
}

// ImportPriceList publishes a price list file as a new edition of its
// platform, which is made where it is new and takes its name from its newest
// edition. The same file again changes nothing; another one for the same day
// is refused. A file at fault is [formats.Faults].
func (s *Store) ImportPriceList(ctx context.Context, by Editing, file []byte) (*pricelist.Edition, error) {
	opened, err := s.open(ctx, file)
	if err != nil {
		return nil, err
	}
	return s.importPriceList(ctx, by, opened)
}

func (s *Store) importPriceList(ctx context.Context, by Editing, file *formats.File) (*pricelist.Edition, error) {
	e, err := file.PriceList()
	if err != nil {
		return nil, err
	}
	return e, s.tx(ctx, func(tx pgx.Tx) error {
		_, err := s.putEdition(ctx, tx, by, file, e, "")
		return err
	})
}

// putEdition keeps a price list of a file as an edition, and returns it. how begins what the history
// says of it.
func (s *Store) putEdition(ctx context.Context, tx pgx.Tx, by Editing, file *formats.File, e *pricelist.Edition, how string) (id uuid.UUID, err error) {
	var platform uuid.UUID
	var binned bool
	err = tx.QueryRow(ctx, `insert into platforms (id, workspace_id, key, name, does, about) values ($1, $2, $3, $4, $5, $6)
		on conflict (workspace_id, key) do update set key = excluded.key returning id, deleted_at is not null`,
		newID(), by.Workspace, e.Platform.Key, e.Platform.Name, orEmpty(e.Platform.Does), e.Platform.About).Scan(&platform, &binned)
	if err != nil {
		return id, fmt.Errorf("keeping platform %q: %w", e.Platform.Key, err)
	}
	if binned {
		return id, formats.Faults{{Line: 1, Field: "platform.key", Problem: fmt.Sprintf("the platform %s is in the bin; take it out first", e.Platform.Name)}}
	}
	var there string
	err = tx.QueryRow(ctx, "select id, document from editions where platform_id = $1 and observed_on = $2", platform, e.ObservedOn).Scan(&id, &there)
	switch {
	case err == nil && there == string(file.Data):
		return id, nil
	case err == nil:
		return id, formats.Faults{{Line: 1, Field: "observed_on", Problem: fmt.Sprintf("there is an edition of %s read on %s already, and a published edition never changes; a correction of the same day has its time, such as %sT14:30", e.Platform.Name, pricelist.ReadText(e.ObservedOn), e.ObservedOn.Format(time.DateOnly))}}
	case missing(err) != ErrMissing:
		return id, err
	}
	id = newID()
	_, err = tx.Exec(ctx, `insert into editions (id, workspace_id, platform_id, observed_on, source, currency, document) values ($1, $2, $3, $4, $5, $6, $7)`,
		id, by.Workspace, platform, e.ObservedOn, e.Source, e.Currency.Code(), string(file.Data))
	if err != nil {
		return id, err
	}
	_, err = tx.Exec(ctx, "update platforms set name = $2, does = $3, about = $5 where id = $1 and $4 = (select max(observed_on) from editions where platform_id = $1)", platform, e.Platform.Name, orEmpty(e.Platform.Does), e.ObservedOn, e.Platform.About)
	if err != nil {
		return id, err
	}
	return id, by.note(ctx, tx, "price list", e.Platform.Name, orNothing(""), how+"read "+pricelist.SayRead(e.ObservedOn))
}

const editionColumns = `e.id, p.key, p.name, p.does, e.observed_on, e.source, e.currency,
	(select count(*) from (select from document_editions l join documents d on d.id = l.document_id where l.edition_id = e.id and l.left_at is null and d.deleted_at is null order by l.document_id limit 100) used)`

// Editions lists all editions of a workspace, by platform, newest first.
func (s *Store) Editions(ctx context.Context, workspace uuid.UUID) ([]EditionRow, error) {
	rows, err := s.pool.Query(ctx, "select "+editionColumns+" from editions e join platforms p on p.id = e.platform_id where e.workspace_id = $1 and p.deleted_at is null order by p.name, e.observed_on desc", workspace)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[EditionRow])
}

// Edition returns one edition of a workspace, or [ErrMissing].
func (s *Store) Edition(ctx context.Context, workspace, id uuid.UUID) (EditionRow, *pricelist.Edition, error) {
	rows, err := s.pool.Query(ctx, "select "+editionColumns+" from editions e join platforms p on p.id = e.platform_id where e.workspace_id = $1 and e.id = $2 and p.deleted_at is null", workspace, id)
	if err != nil {
		return EditionRow{}, nil, err
	}
	row, err := pgx.CollectExactlyOneRow(rows, pgx.RowToStructByPos[EditionRow])
	if err != nil {
		return row, nil, missing(err)
	}
	e, err := s.edition(ctx, s.pool, id)
	return row, e, err
}

// editionsIn finds the editions of a workspace whose platforms are not in the
// bin. What kept it from looking stands in failed.
func (s *Store) editionsIn(ctx context.Context, tx pgx.Tx, workspace uuid.UUID, failed *error) formats.FindEdition {
	return func(platform string, day time.Time) (e *pricelist.Edition, found bool) {
		var id uuid.UUID
		err := tx.QueryRow(ctx, `select e.id from editions e join platforms p on p.id = e.platform_id
			where e.workspace_id = $1 and p.key = $2 and e.observed_on = $3 and p.deleted_at is null`, workspace, platform, day).Scan(&id)
		if err == nil {
			e, err = s.edition(ctx, tx, id)
		}
		if err != nil && missing(err) != ErrMissing {
			*failed = err
		}
		return e, err == nil
	}
}

// querier is a pool or a transaction.
type querier interface {
	Query(ctx context.Context, sql string, args ...any) (pgx.Rows, error)
	QueryRow(ctx context.Context, sql string, args ...any) pgx.Row
	SendBatch(ctx context.Context, b *pgx.Batch) pgx.BatchResults
}

// edition reads an edition's document, or returns what was read before.
func (s *Store) edition(ctx context.Context, q querier, id uuid.UUID) (*pricelist.Edition, error) {
	if e, ok := s.editions.Get(id); ok {
		return e, nil
	}
	var document string
	if err := q.QueryRow(ctx, "select document from editions where id = $1", id).Scan(&document); err != nil {
		return nil, missing(err)
	}
	e, err := formats.KeptPriceList(ctx, []byte(document))
	if err != nil {
		return nil, fmt.Errorf("edition %s was kept but cannot be read: %w", id, err)
	}
	s.editions.Put(id, e, e.Weight())
	return e, nil
}
