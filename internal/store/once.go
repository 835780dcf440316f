package store

import (
	"context"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// ShowOnce keeps a text that an account is to be shown once at a place.
func (s *Store) ShowOnce(ctx context.Context, account uuid.UUID, place, text string) error {
	_, err := s.pool.Exec(ctx, "insert into shown_once (id, account_id, place, text) values ($1, $2, $3, $4)", newID(), account, place, text)
	return err
}

// ShownOnce takes out what an account is to be shown at a place, the oldest
// first.
func (s *Store) ShownOnce(ctx context.Context, account uuid.UUID, place string) ([]string, error) {
	rows, err := s.pool.Query(ctx, "with shown as (delete from shown_once where account_id = $1 and place = $2 returning made_at, id, text) select text from shown order by made_at, id", account, place)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}
