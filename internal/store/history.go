package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// Change is an edit as the history keeps it. Was and Became are in the words
// that the database holds: plain decimals, shares as ratios, "" for no rating.
type Change struct {
	ID     uuid.UUID
	MadeAt time.Time
	Field
	Was, Became string
	UndoneAt    *time.Time // nil while it stands
	Lapsed      bool       // undone, and no longer to be redone
	Kept        string     // reason of a rating that was removed
}

const changeColumns = "id, made_at, edit, of, option, rater, was, became, undone_at, lapsed, kept"

// What can be undone next is the newest change that stands; what can be redone
// next is the one that was undone last, unless something was changed since.
const (
	nextUndo = "select " + changeColumns + " from changes where study_id = $1 and undone_at is null order by id desc limit 1"
	nextRedo = "select " + changeColumns + " from changes where study_id = $1 and undone_at is not null and not lapsed order by id limit 1"
)

func changes(rows pgx.Rows, err error) ([]Change, error) {
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (Change, error) {
		var c Change
		err := r.Scan(&c.ID, &c.MadeAt, &c.Edit, &c.Of, &c.Option, &c.Rater, &c.Was, &c.Became, &c.UndoneAt, &c.Lapsed, &c.Kept)
		return c, err
	})
}

// NextUndo returns the change that undo would take back, and the one that redo
// would make again; nil where there is none.
func (s *Store) NextUndo(ctx context.Context, study uuid.UUID) (undo, redo *Change, err error) {
	first := func(sql string) *Change {
		if err != nil {
			return nil
		}
		var found []Change
		rows, queryErr := s.pool.Query(ctx, sql, study)
		if found, err = changes(rows, queryErr); err != nil || len(found) == 0 {
			return nil
		}
		return &found[0]
	}
	return first(nextUndo), first(nextRedo), err
}

// History lists a study's changes, the newest first, at most n.
func (s *Store) History(ctx context.Context, workspace, study uuid.UUID, n int) ([]Change, error) {
	rows, err := s.pool.Query(ctx, `select `+changeColumns+` from changes where study_id = (select id from studies where workspace_id = $1 and id = $2 and deleted_at is null)
		order by id desc limit $3`, workspace, study, n)
	return changes(rows, err)
}

// Undo takes the newest change that stands back and returns it; nil where
// there is none. If something else stands in the field by now, it is refused
// with a [*ChangedError].
func (s *Store) Undo(ctx context.Context, e Editing) (*Change, error) {
	return s.step(ctx, e, nextUndo, "update changes set undone_at = now(), lapsed = false, kept = $2 where id = $1", func(c Change) (from, to string) { return c.Became, c.Was })
}

// Redo makes the change again that was undone last, under the same rule.
func (s *Store) Redo(ctx context.Context, e Editing) (*Change, error) {
	return s.step(ctx, e, nextRedo, "update changes set undone_at = null, kept = $2 where id = $1", func(c Change) (from, to string) { return c.Was, c.Became })
}

func (s *Store) step(ctx context.Context, e Editing, find, mark string, way func(Change) (from, to string)) (*Change, error) {
	var done *Change
	err := s.editing(ctx, e, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, find, e.Study)
		found, err := changes(rows, err)
		if err != nil || len(found) == 0 {
			return err
		}
		from, to := way(found[0])
		kept, err := e.set(ctx, tx, found[0].Field, from, to, found[0].Kept)
		if err != nil {
			return err
		}
		done = &found[0]
		_, err = tx.Exec(ctx, mark, done.ID, kept)
		return err
	})
	if err != nil {
		return nil, err
	}
	return done, nil
}

// PutBack sets a field to what stood there before a change, as a new change.
// now is what stands there at present. A change that is not the study's is
// [ErrMissing].
func (s *Store) PutBack(ctx context.Context, e Editing, id uuid.UUID, now string) error {
	rows, err := s.pool.Query(ctx, "select "+changeColumns+" from changes where study_id = $1 and id = $2", e.Study, id)
	found, err := changes(rows, err)
	if err != nil {
		return err
	}
	if len(found) == 0 {
		return ErrMissing
	}
	return s.change(ctx, e, found[0].Field, now, found[0].Was)
}
