package store

import (
	"context"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// Workspace owns studies and price lists.
type Workspace struct {
	ID   uuid.UUID
	Name string
}

// FirstWorkspace returns the workspace that was made first, making one of the
// given name where there is none.
func (s *Store) FirstWorkspace(ctx context.Context, name string) (w Workspace, made bool, err error) {
	err = s.tx(ctx, func(tx pgx.Tx) error {
		made = false
		if _, err := tx.Exec(ctx, "lock table workspaces in exclusive mode"); err != nil {
			return err
		}
		err := tx.QueryRow(ctx, "select id, name from workspaces order by created_at, id limit 1").Scan(&w.ID, &w.Name)
		if missing(err) != ErrMissing {
			return err
		}
		w, made = Workspace{newID(), name}, true
		_, err = tx.Exec(ctx, "insert into workspaces (id, name) values ($1, $2)", w.ID, w.Name)
		return err
	})
	return w, made, err
}

// WorkspacesNamed returns the workspaces of a name.
func (s *Store) WorkspacesNamed(ctx context.Context, name string) ([]Workspace, error) {
	rows, err := s.pool.Query(ctx, "select id, name from workspaces where name = $1", name)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Workspace])
}
