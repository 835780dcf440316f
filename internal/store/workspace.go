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

// OnlyWorkspace returns the workspace that was made first, making one of the
// given name where there is none.
func (s *Store) OnlyWorkspace(ctx context.Context, name string) (w Workspace, made bool, err error) {
	err = s.tx(ctx, func(tx pgx.Tx) error {
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
