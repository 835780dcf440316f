package store

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// InBinFor is how long what was deleted rests in the bin.
const InBinFor = 30 * 24 * time.Hour

// ErrTwin reports a study that comes back where another one has taken its key.
var ErrTwin = errors.New("there is another study under the same key by now; delete that one first")

// UsedError reports a platform that studies rely on.
type UsedError struct{ Studies []string }

func (e *UsedError) Error() string {
	return "its price lists are relied on by " + strings.Join(e.Studies, ", ") + "; it can go once no study relies on it, in the bin or out of it"
}

// unused refuses, with a [*RefusedError] of a [*UsedError], a platform that
// any study relies on, also one in the bin.
func (e Editing) unused(ctx context.Context, tx pgx.Tx, platform string) error {
	rows, err := tx.Query(ctx, `select distinct s.title || case when s.deleted_at is not null then ' (in the bin)' when o.deleted_at is not null then ' (its option is in the bin)' else '' end
		from study_options o join studies s on s.id = o.study_id join editions e on e.id = o.edition_id join platforms p on p.id = e.platform_id
		where p.workspace_id = $1 and p.key = $2 order by 1`, e.Workspace, platform)
	if err != nil {
		return err
	}
	titles, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err == nil && len(titles) > 0 {
		err = &RefusedError{&UsedError{titles}}
	}
	return err
}

// Binned is something that rests in the bin.
type Binned struct {
	Edit      string // study, option or platform
	Of        string // as in its [Field]
	Name      string
	Study     uuid.UUID // of an option
	Title     string    // of an option's study
	DeletedAt time.Time
	By        string // "" where that is not known
	DaysLeft  int    // that it rests there, the one that has begun among them
}

// Bin lists what rests in a workspace's bin, the newest first.
func (s *Store) Bin(ctx context.Context, workspace uuid.UUID) ([]Binned, error) {
	rows, err := s.pool.Query(ctx, `with binned as (
			select 'study' edit, id::text "of", title name, id study, '' title, deleted_at from studies where workspace_id = $1 and deleted_at is not null
			union all select 'option', o.key, o.name, s.id, s.title, o.deleted_at from study_options o join studies s on s.id = o.study_id
				where s.workspace_id = $1 and s.deleted_at is null and o.deleted_at is not null
			union all select 'platform', key, name, '00000000-0000-0000-0000-000000000000', '', deleted_at from platforms where workspace_id = $1 and deleted_at is not null)
		select b.edit, b."of", b.name, b.study, b.title, b.deleted_at, coalesce((select p.name from changes c join people p on p.id = c.person_id
			where c.workspace_id = $1 and c.edit = b.edit and c.of = b."of" and (b.edit <> 'option' or c.study_id = b.study) order by c.seq desc limit 1), ''),
			floor(extract(epoch from b.deleted_at + $2 - now()) / 86400)::int + 1
		from binned b order by b.deleted_at desc, b.name`, workspace, InBinFor)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Binned])
}

// Move puts a study, an option or a platform into the bin, or takes it out.
// What is not where it was thought to be is [ErrMissing]; a platform that
// studies rely on is refused.
func (s *Store) Move(ctx context.Context, e Editing, edit, of, from, to string) error {
	if k := kinds[edit]; k.stands == "" || k.wide != e.wide() {
		return ErrMissing
	}
	var changed *ChangedError
	if err := s.change(ctx, e, Field{Edit: edit, Of: of}, from, to); !errors.As(err, &changed) {
		return err
	}
	return ErrMissing
}

// gone marks changes of what was removed for good: undo and redo pass them by.
const gone = "update changes c set passed = true, lapsed = true where not (c.passed and c.lapsed) and "

// Purge removes for good what has been in the bin for longer than a time,
// links and letters that are past for as long, and what has expired. It goes by
// the database's clock, as all that is noted does. Several processes may call
// it at once.
func (s *Store) Purge(ctx context.Context, after time.Duration) error {
	for _, sql := range []string{
		"delete from studies where deleted_at < now() - $1::interval",
		"delete from study_options where deleted_at < now() - $1::interval",
		"delete from platforms p where deleted_at < now() - $1::interval and not exists (select from editions e join study_options o on o.edition_id = e.id where e.platform_id = p.id)",
		gone + "c.edit = 'platform' and not exists (select from platforms p where p.workspace_id = c.workspace_id and p.key = c.of)",
		gone + "c.edit = 'option' and not exists (select from study_options o where o.study_id = c.study_id and o.key = c.of)",
		gone + "c.edit = 'rating' and not exists (select from study_options o where o.study_id = c.study_id and o.key = c.option)",
		"delete from passes where ends_at < now() - $1::interval",
		"delete from letters where sent_at < now() - $1::interval",
		"delete from tries where at < now() - $1::interval",
	} {
		args := []any{after}
		if strings.HasPrefix(sql, gone) {
			args = nil
		}
		if err := s.again(ctx, func() error { _, err := s.pool.Exec(ctx, sql, args...); return err }); err != nil {
			return fmt.Errorf("emptying the bin: %w", err)
		}
	}
	for _, sql := range []string{
		"delete from sessions where expiry < now()",
		"delete from reading_visits v using reading_links l where l.id = v.link_id and (l.ends_at < now() or l.withdrawn_at is not null)",
		"delete from shown_once where made_at < now() - interval '1 day'",
	} {
		if _, err := s.pool.Exec(ctx, sql); err != nil {
			return fmt.Errorf("clearing what has expired: %w", err)
		}
	}
	return nil
}
