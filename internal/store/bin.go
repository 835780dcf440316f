package store

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/doors"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
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
	rows, err := tx.Query(ctx, `select distinct d.title || case when d.deleted_at is not null then ' (in the bin)'
		when l.left_at is not null then ' (its option is in the bin)' else '' end
		from document_editions l join documents d on d.id = l.document_id join editions e on e.id = l.edition_id join platforms p on p.id = e.platform_id
		where p.workspace_id = $1 and p.key = $2 and d.kind = 'study' order by 1`, e.Workspace, platform)
	if err != nil {
		return err
	}
	titles, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err == nil && len(titles) > 0 {
		err = &RefusedError{&UsedError{titles}}
	}
	return err
}

// What belongs to the workspace and can be deleted.
const (
	Studies   = "studies"
	Platforms = "platforms"
)

// wideKind is how something of the workspace goes into the bin and comes out.
type wideKind struct {
	one  string // what one is called
	move string // $1 workspace, $2 which, $3 whether it is to go; returns its name
	is   string // whether it is in the bin; $1 and $2 likewise
}

var wideKinds = map[string]wideKind{
	Studies: {"Study", "update documents set deleted_at = case when $3 then now() end, revision = revision + 1 where workspace_id = $1 and id::text = $2 " +
		"and kind = 'study' and (deleted_at is null) = $3 returning title",
		"select deleted_at is not null from documents where workspace_id = $1 and id::text = $2 and kind = 'study'"},
	Platforms: {"Platform", "update platforms set deleted_at = case when $3 then now() end where workspace_id = $1 and key = $2 and (deleted_at is null) = $3 returning name",
		"select deleted_at is not null from platforms where workspace_id = $1 and key = $2"},
}

// Move puts a study or a platform into the bin, or takes it out: kind is
// [Studies] or [Platforms]. What is not there is [ErrMissing]; a platform that
// studies rely on is refused.
func (s *Store) Move(ctx context.Context, e Editing, kind, which string, intoBin bool) error {
	if _, ok := wideKinds[kind]; !ok || !e.wide() {
		return ErrMissing
	}
	op := document.Op{Do: document.Insert, Path: document.Path(kind).To(which)}
	if intoBin {
		op.Do = document.Remove
	}
	err := s.locked(ctx, e, func(tx pgx.Tx) error {
		name, err := s.moveWide(ctx, tx, e, op)
		if err != nil {
			return err
		}
		says := document.Said{Label: wideKinds[kind].one + " " + name, Was: whereabouts(!intoBin), To: whereabouts(intoBin)}
		made := e
		if id, bad := uuid.Parse(which); kind == Studies && bad == nil {
			made.Study = id
		}
		b := &pgx.Batch{}
		e.lapse(b)
		b.Queue(insertChange, newID(), e.Workspace, made.Study, e.By, asJSON(document.Change{op}), []string{string(op.Path)},
			asJSON([]document.Said{says}), string(doors.Editor), true, "")
		return tx.SendBatch(ctx, b).Close()
	})
	var changed *ChangedError
	if errors.As(err, &changed) && changed.Now == whereabouts(intoBin) {
		return nil
	}
	return err
}

func whereabouts(inBin bool) string {
	if inBin {
		return "in the bin"
	}
	return "here"
}

// moveWide moves what an edit of the workspace names. What is not where it was
// thought to be is a [*ChangedError].
func (s *Store) moveWide(ctx context.Context, tx pgx.Tx, e Editing, op document.Op) (name string, err error) {
	if !e.Role.May(doors.ToEdit) {
		return "", &NotAllowedError{Need: doors.ToEdit}
	}
	steps := op.Path.Steps()
	if len(steps) != 2 || wideKinds[steps[0]].move == "" {
		return "", ErrMissing
	}
	kind, intoBin := wideKinds[steps[0]], op.Do == document.Remove
	if steps[0] == Platforms && intoBin {
		if err := e.unused(ctx, tx, steps[1]); err != nil {
			return "", err
		}
	}
	err = tx.QueryRow(ctx, kind.move, e.Workspace, steps[1], intoBin).Scan(&name)
	var pgErr *pgconn.PgError
	switch {
	case errors.As(err, &pgErr) && pgErr.ConstraintName == "documents_key":
		return "", &RefusedError{ErrTwin}
	case missing(err) == ErrMissing:
		var inBin bool
		if err := tx.QueryRow(ctx, kind.is, e.Workspace, steps[1]).Scan(&inBin); err != nil {
			return "", missing(err)
		}
		return "", &ChangedError{Path: op.Path, Label: kind.one, Now: whereabouts(inBin), Shown: whereabouts(inBin)}
	case err != nil:
		return "", err
	}
	if id, bad := uuid.Parse(steps[1]); steps[0] == Studies && bad == nil {
		err = notify(ctx, tx, Notice{Study: id, Tab: e.Tab})
	}
	return name, err
}

// walkWide goes one step through what one moved in the workspace.
func (s *Store) walkWide(ctx context.Context, e Editing, order string, way func(document.Change) document.Change, mark string) (*Change, error) {
	var at *Change
	err := s.locked(ctx, e, func(tx pgx.Tx) (err error) {
		at, err = e.newest(ctx, tx, order)
		if at == nil || err != nil {
			return err
		}
		for _, op := range way(at.Ops) {
			if _, err := s.moveWide(ctx, tx, e, op); err != nil {
				return err
			}
		}
		_, err = tx.Exec(ctx, mark, at.ID, asJSON(at.Ops))
		return err
	})
	return at, err
}

// Binned is something that rests in the bin.
type Binned struct {
	Kind      string    // [Studies], [Platforms], or "parts" of a study
	Of        string    // which one; of a part, the change that removed it
	Name      string    // of a part, with what it is: "Option Quirebird"
	Study     uuid.UUID // of a part
	Title     string    // of a part's study
	DeletedAt time.Time
	By        string // "" where that is not known
	DaysLeft  int    // that it rests there, the one that has begun among them
}

// resting is the condition for changes c that put something into the bin that is
// still there.
const resting = `c.removed <> '' and c.undone_at is null and not exists
	(select from changes l where l.document_id = c.document_id and l.seq > c.seq and l.undone_at is null and c.removed = any(l.paths))`

// Bin lists what rests in a workspace's bin, the newest first.
func (s *Store) Bin(ctx context.Context, workspace uuid.UUID) ([]Binned, error) {
	rows, err := s.pool.Query(ctx, `with binned as (
			select 'studies' kind, id::text "of", title name, id study, '' title, deleted_at, 'studies.' || id path from documents where workspace_id = $1 and kind = 'study'
				and deleted_at is not null
			union all select 'platforms', key, name, '00000000-0000-0000-0000-000000000000', '', deleted_at, 'platforms.' || key from platforms where workspace_id = $1
				and deleted_at is not null
			union all select 'parts', c.id::text, c.says->-1->>'label', d.id, d.title, c.touched_at, c.removed from changes c join documents d on d.id = c.document_id
				where c.workspace_id = $1 and d.deleted_at is null and c.ops <> '[]' and `+resting+`)
		select b.kind, b."of", b.name, b.study, b.title, b.deleted_at, coalesce((select p.name from changes c join people p on p.id = c.person_id
			where c.workspace_id = $1 and b.path = any(c.paths) and (b.kind <> 'parts' or c.document_id = b.study) order by c.seq desc limit 1), ''),
			floor(extract(epoch from b.deleted_at + $2 - now()) / 86400)::int + 1
		from binned b order by b.deleted_at desc, b.name`, workspace, InBinFor)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Binned])
}

// Purge removes for good what has been in the bin for longer than a time,
// links and letters that are past for as long, and what has expired. It goes by
// the database's clock, as all that is noted does. Several processes may call
// it at once.
func (s *Store) Purge(ctx context.Context, after time.Duration) error {
	for _, sql := range []string{
		"delete from documents where deleted_at < now() - $1::interval",
		// What was removed for good is not brought back: neither it nor what was done
		// to it before. Undo and redo pass that by.
		`update changes c set ops = '[]', need = '', passed = true, lapsed = true, removed = '' from (
				select c.id, c.document_id, c.seq, c.removed from changes c where c.touched_at < now() - $1::interval and ` + resting + `) gone
			where c.document_id = gone.document_id and c.seq <= gone.seq and exists (select from unnest(c.paths) path
				where path = gone.removed or starts_with(path, gone.removed || '.')
				or gone.removed = 'options.' || split_part(path, '/', 2) and starts_with(path, 'ratings.')
				or gone.removed = 'options.' || split_part(substr(path, length('private_offers.') + 1), '/', 1) and starts_with(path, 'private_offers.')
				or gone.removed = 'criteria.' || split_part(split_part(path, '/', 3), '.', 1) and starts_with(path, 'ratings.'))`,
		"delete from document_editions where left_at < now() - $1::interval",
		"delete from platforms p where deleted_at < now() - $1::interval and not exists (select from editions e join document_editions l on l.edition_id = e.id " +
			"where e.platform_id = p.id)",
		"delete from documents d where d.kind = 'draft' and not exists (select from platforms p where p.workspace_id = d.workspace_id and p.key = d.key) " +
			"and d.updated_at < now() - $1::interval",
		"delete from passes where ends_at < now() - $1::interval",
		"delete from letters where sent_at < now() - $1::interval",
		"delete from tries where at < now() - $1::interval",
	} {
		if err := s.again(ctx, func() error { _, err := s.pool.Exec(ctx, sql, after); return err }); err != nil {
			return fmt.Errorf("emptying the bin: %w", err)
		}
	}
	for _, sql := range []string{
		// What is gone for good is passed by.
		"update changes c set passed = true, lapsed = true where c.wide and c.need <> '' and not (c.passed and c.lapsed) and c.paths[1] like 'platforms.%' " +
			"and not exists (select from platforms p where p.workspace_id = c.workspace_id and 'platforms.' || p.key = c.paths[1])",
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

// BringBack takes out of the bin what a change of a study has put there, as a new
// change. What is not there any more is [ErrMissing].
func (s *Store) BringBack(ctx context.Context, e Editing, change uuid.UUID) error {
	var there bool
	err := s.pool.QueryRow(ctx, "select exists (select from changes c where c.workspace_id = $1 and c.document_id = $2 and c.id = $3 "+
		"and "+resting+")", e.Workspace, e.Study, change).Scan(&there)
	if err == nil && !there {
		err = ErrMissing
	}
	if err != nil {
		return err
	}
	return s.PutBack(ctx, e, change, "")
}
