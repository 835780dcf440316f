package store

import (
	"context"
	"time"

	"ninecoins/internal/doors"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// ReadingLink shows one study to whoever has its address.
type ReadingLink struct {
	ID        uuid.UUID
	Study     uuid.UUID
	Workspace uuid.UUID
	Label     string // for whom
	Names     bool   // whether names of people are shown
	By        string
	MadeAt    time.Time
	EndsAt    time.Time
	Withdrawn *time.Time
	Opened    int64
	OpenedAt  *time.Time
	Ended     bool // its day is over
}

const linkColumns = "l.id, l.study_id, s.workspace_id, l.label, l.names, coalesce(p.name, ''), l.made_at, l.ends_at, l.withdrawn_at, l.opened, l.opened_at, l.ends_at <= now() from reading_links l join documents s on s.id = l.study_id left join people p on p.id = l.made_by "

// Open links: not withdrawn, not past their end, of a study that is there.
const linkOpen = "l.withdrawn_at is null and l.ends_at > now() and s.deleted_at is null "

func links(rows pgx.Rows, err error) ([]ReadingLink, error) {
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[ReadingLink])
}

// MakeReadingLink keeps a reading link to the study that is edited.
func (s *Store) MakeReadingLink(ctx context.Context, e Editing, label string, names bool, hash []byte, ends time.Time) error {
	return s.locked(ctx, e, func(tx pgx.Tx) error {
		if !e.Role.May(doors.ToEdit) {
			return &NotAllowedError{Need: doors.ToEdit}
		}
		id := newID()
		_, err := tx.Exec(ctx, "insert into reading_links (id, study_id, hash, label, names, made_by, ends_at) values ($1, $2, $3, $4, $5, $6, $7)",
			id, e.Study, hash, label, names, e.By, ends)
		if err != nil {
			return err
		}
		return e.note(ctx, tx, "reading link", label, "–", "open until "+ends.Add(-time.Second).Format("2 Jan 2006"))
	})
}

// WithdrawReadingLink shuts a reading link of the study that is edited. One
// that is not there, or shut already, is [ErrMissing].
func (s *Store) WithdrawReadingLink(ctx context.Context, e Editing, id uuid.UUID) error {
	return s.locked(ctx, e, func(tx pgx.Tx) error {
		if !e.Role.May(doors.ToEdit) {
			return &NotAllowedError{Need: doors.ToEdit}
		}
		var label string
		err := tx.QueryRow(ctx, "update reading_links set withdrawn_at = now() where study_id = $1 and id = $2 and withdrawn_at is null returning label", e.Study, id).Scan(&label)
		if err != nil {
			return missing(err)
		}
		return e.note(ctx, tx, "reading link", label, "open", "withdrawn")
	})
}

// ReadingLinks lists a study's reading links, the newest first.
func (s *Store) ReadingLinks(ctx context.Context, workspace, study uuid.UUID) ([]ReadingLink, error) {
	return links(s.pool.Query(ctx, "select "+linkColumns+"where s.workspace_id = $1 and s.id = $2 and s.deleted_at is null order by l.made_at desc, l.id desc", workspace, study))
}

// OpenReadingLink returns the link of a secret and counts the opening. One
// that is unknown, withdrawn or past its end is [ErrMissing].
func (s *Store) OpenReadingLink(ctx context.Context, hash []byte) (ReadingLink, error) {
	if _, err := s.pool.Exec(ctx, "update reading_links l set opened = opened + 1, opened_at = now() from documents s where s.id = l.study_id and l.hash = $1 and "+linkOpen, hash); err != nil {
		return ReadingLink{}, err
	}
	return s.ReadingLink(ctx, hash)
}

// ReadingLink returns the link of a secret without opening it; [ErrMissing] as
// [Store.OpenReadingLink].
func (s *Store) ReadingLink(ctx context.Context, hash []byte) (ReadingLink, error) {
	return one(links(s.pool.Query(ctx, "select "+linkColumns+"where l.hash = $1 and "+linkOpen, hash)))
}

// Visit keeps the secret by which somebody who opened a link goes on reading.
func (s *Store) Visit(ctx context.Context, link uuid.UUID, hash []byte) error {
	_, err := s.pool.Exec(ctx, "insert into reading_visits (hash, link_id) values ($1, $2)", hash, link)
	return err
}

// EndVisits forgets secrets of visits.
func (s *Store) EndVisits(ctx context.Context, hashes [][]byte) error {
	_, err := s.pool.Exec(ctx, "delete from reading_visits where hash = any($1)", hashes)
	return err
}

// Reading returns the open link, of those that were visited by one of several
// secrets, that shows a study; [ErrMissing] where none does.
func (s *Store) Reading(ctx context.Context, visits [][]byte, study uuid.UUID) (ReadingLink, error) {
	if len(visits) == 0 {
		return ReadingLink{}, ErrMissing
	}
	return one(links(s.pool.Query(ctx, "select "+linkColumns+"join reading_visits v on v.link_id = l.id where v.hash = any($1) and l.study_id = $2 and "+linkOpen+"order by l.names desc limit 1", visits, study)))
}

func one[T any](all []T, err error) (found T, _ error) {
	if err != nil {
		return found, err
	}
	if len(all) == 0 {
		return found, ErrMissing
	}
	return all[0], nil
}
