package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// LetterRow is a letter that the stand-in for a mail server was given.
type LetterRow struct {
	ID                uuid.UUID
	SentAt            time.Time
	To, Subject, Text string
}

// KeepLetter keeps a letter for the stand-in mailbox.
func (s *Store) KeepLetter(ctx context.Context, to, subject, text string) error {
	_, err := s.pool.Exec(ctx, `insert into letters (id, "to", subject, text) values ($1, $2, $3, $4)`, newID(), to, subject, text)
	return err
}

// Letters lists the newest letters of the stand-in mailbox, at most n.
func (s *Store) Letters(ctx context.Context, n int) ([]LetterRow, error) {
	rows, err := s.pool.Query(ctx, `select id, sent_at, "to", subject, text from letters order by sent_at desc, id desc limit $1`, n)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[LetterRow])
}
