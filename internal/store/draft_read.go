package store

import (
	"context"
	"errors"
	"slices"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
	"ninecoins/internal/formats"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// ErrDraft reports a platform whose price list has a draft already.
var ErrDraft = errors.New("there is a draft of it already")

// DraftRead makes a draft of a price list that was read, and returns the key of its
// platform: the one of that name on the shelf, or a new one. What a price page does not
// tell is taken over from the newest edition ([pricelist.Renewed]), unless the list is whole. A platform with a draft
// is [ErrDraft], with its key; what the fields of a platform do not take is a
// [*RefusedError].
func (s *Store) DraftRead(ctx context.Context, e Editing, read pricelist.Edition, entire bool) (key string, err error) {
	e.Study = uuid.Nil
	err = s.locked(ctx, e, func(tx pgx.Tx) error {
		if !e.Role.May(doors.ToEdit) {
			return &NotAllowedError{Need: doors.ToEdit}
		}
		rows, err := tx.Query(ctx, "select key, name, deleted_at is not null from platforms where workspace_id = $1", e.Workspace)
		if err != nil {
			return err
		}
		var taken []string
		var one, name string
		var binned, gone bool
		if _, err := pgx.ForEachRow(rows, []any{&one, &name, &binned}, func() error {
			taken = append(taken, one)
			if doors.Likeness(name) == doors.Likeness(read.Platform.Name) {
				key, gone = one, binned
			}
			return nil
		}); err != nil {
			return err
		}
		if gone {
			return &RefusedError{&TakenError{read.Platform.Name}}
		}
		d := pricelist.Draft{Edition: read}
		if key != "" {
			if there, err := s.hasDraft(ctx, tx, e.Workspace, key); err != nil || there {
				return errors.Join(err, ErrDraft)
			}
			stated, err := newestStated(ctx, tx, e.Workspace, key)
			if err != nil && !errors.Is(err, ErrMissing) {
				return err
			}
			switch {
			case err == nil && entire:
				d.Edition.Platform.Key, d.Base = key, stated.ObservedOn
			case err == nil:
				d = pricelist.Drafted(pricelist.Renewed(read, stated), read.ObservedOn)
				d.Base = stated.ObservedOn
			default:
				d.Edition.Platform.Key = key
			}
			return s.drafts.insert(ctx, tx, e.Workspace, newID(), key, d, time.Time{})
		}
		p := read.Platform
		key = document.KeyFor(p.Name, func(key string) bool { return slices.Contains(taken, key) })
		p.Key = key
		d.Edition.Platform = pricelist.Platform{Key: key, Does: []string{}}
		if d, err = described(d, &p); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, "insert into platforms (id, workspace_id, key, name, does, about) values ($1, $2, $3, $4, $5, $6)", newID(), e.Workspace, key,
			p.Name, orEmpty(p.Does), p.About); err != nil {
			return err
		}
		if err := s.drafts.insert(ctx, tx, e.Workspace, newID(), key, d, time.Time{}); err != nil {
			return err
		}
		return e.note(ctx, tx, "platform", p.Name, "–", "put on the shelf as its price page was read")
	})
	return key, err
}

func (s *Store) hasDraft(ctx context.Context, tx pgx.Tx, workspace uuid.UUID, platform string) (there bool, err error) {
	err = tx.QueryRow(ctx, "select exists (select from documents where workspace_id = $1 and kind = 'draft' and key = $2 and deleted_at is null)", workspace, platform).Scan(&there)
	return there, err
}

// ReadAgain notes that the newest price list of a platform was read again today and is
// unchanged: it becomes an edition of today, and the studies that went by it go by that, all in
// one transaction. One of today is there already, or a draft that would be passed over, is a
// [*RefusedError].
func (s *Store) ReadAgain(ctx context.Context, e Editing, platform string) error {
	e.Study = uuid.Nil
	moved := map[uuid.UUID]edited[study.Study, *study.Outcome]{}
	err := s.locked(ctx, e, func(tx pgx.Tx) error {
		clear(moved)
		if !e.Role.May(doors.ToEdit) {
			return &NotAllowedError{Need: doors.ToEdit}
		}
		stated, err := newestStated(ctx, tx, e.Workspace, platform)
		if err != nil {
			return err
		}
		before := stated.ObservedOn
		if !before.Before(e.Today.Truncate(24 * time.Hour)) {
			return &RefusedError{document.Problem("its newest list was read today already; nothing was noted")}
		}
		again := stated.Unchanged(e.Today)
		file, err := formats.WritePriceList(&again)
		if err != nil {
			return err
		}
		if _, err := s.publishFile(ctx, tx, e, file, ""); err != nil {
			return err
		}
		rows, err := tx.Query(ctx, `select distinct d.id from document_editions l join documents d on d.id = l.document_id join editions x on x.id = l.edition_id
			join platforms p on p.id = x.platform_id where p.workspace_id = $1 and p.key = $2 and x.observed_on = $3 and l.left_at is null and d.deleted_at is null
			and d.kind = 'study' order by d.id`, e.Workspace, platform, before)
		if err != nil {
			return err
		}
		studies, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
		if err != nil {
			return err
		}
		for _, id := range studies {
			one := e
			one.Study = id
			moved[id], err = s.studies.editIn(ctx, tx, one, func(st study.Study) (step, error) {
				return step{asked: study.Moved(&st, platform, before, e.Today.Truncate(24*time.Hour))}, nil
			})
			if errors.Is(err, ErrMissing) { // deleted meanwhile
				continue
			}
			if err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	for id, one := range moved {
		if one.made != nil {
			s.studies.put(id, one.after)
		}
	}
	return nil
}
