package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/doors"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// ChangedError reports an edit that was made on what somebody changed since.
// Nothing was saved.
type ChangedError struct {
	Field Field
	Now   string // what stands there, in the words that the database holds
	By    string // who wrote it; "" where that is not known
	At    time.Time
}

func (e *ChangedError) Error() string { return e.Field.String() + " was changed meanwhile" }

// RefusedError reports an edit with which the study could not be computed.
// Nothing was saved.
type RefusedError struct{ Err error }

func (e *RefusedError) Error() string { return e.Err.Error() }
func (e *RefusedError) Unwrap() error { return e.Err }

// NotAllowedError reports an edit that needs more than the editor's role, or
// is of another rater's rating. Nothing was saved.
type NotAllowedError struct {
	Need  doors.Need
	Rater string // whose rating it is; "" where the role is what is missing
}

func (e *NotAllowedError) Error() string {
	if e.Rater != "" {
		return "a rating is changed by who gave it, " + e.Rater
	}
	return "this needs the role of " + string(doors.Least(e.Need))
}

// Editing says who edits which study, and on which day. Each edit also says
// what stood in the field when it was begun: if that has changed since, the
// edit is refused with a [*ChangedError]. So edits of different fields never
// get in each other's way. Every edit gives its row a new revision.
type Editing struct {
	Workspace, Study uuid.UUID  // no study: what belongs to the workspace itself
	By               uuid.UUID  // the person in the workspace
	Name             string     // of that person
	Role             doors.Role // which must still be theirs when the edit is made
	Today            time.Time
	Tab              string // which open page the edit comes from, for its [Notice]
}

// scope is what the edit locks and what its fields are looked up in.
func (e Editing) scope() uuid.UUID {
	if e.Study == uuid.Nil {
		return e.Workspace
	}
	return e.Study
}

func (e Editing) wide() bool { return e.Study == uuid.Nil }

// allow refuses what the editor may not set.
func (e Editing) allow(f Field) error {
	need := NeedOf(f.Edit)
	if !e.Role.May(need) {
		return &NotAllowedError{Need: need}
	}
	if f.Edit == "rating" && f.Rater != e.Name {
		return &NotAllowedError{Need: need, Rater: f.Rater}
	}
	return nil
}

// change sets a field from was to to, in the words that the database holds,
// notes it in the history and makes sure that the study still computes; else
// nothing is changed. A field that holds to already is left as it is: a save
// that is sent again after its answer was lost is no conflict.
func (s *Store) change(ctx context.Context, e Editing, f Field, was, to string) error {
	if was == to {
		return nil
	}
	if err := e.allow(f); err != nil {
		return err
	}
	err := s.editing(ctx, e, func(tx pgx.Tx) error {
		kept, err := e.set(ctx, tx, f, was, to, "")
		if err != nil {
			return err
		}
		_, err = tx.Exec(ctx, "update changes c set lapsed = true where c.undone_at is not null and not c.lapsed and "+e.own(), e.scope(), e.By, undoable(e.wide()))
		if err != nil {
			return err
		}
		var name string
		if ask := kinds[f.Edit].name; ask != "" {
			if err := tx.QueryRow(ctx, ask, e.scope(), f.Of).Scan(&name); err != nil {
				return err
			}
		}
		if err := e.note(ctx, tx, entry{Field: f, Was: was, Became: to, Kept: kept, Name: name}); err != nil {
			return err
		}
		return e.tellStudy(ctx, tx, f)
	})
	var changed *ChangedError
	if errors.As(err, &changed) && changed.Now == to {
		return nil
	}
	return err
}

// editing locks the study, or the workspace, runs with, and takes all of it
// back if the study then cannot be computed.
func (s *Store) editing(ctx context.Context, e Editing, with func(pgx.Tx) error) error {
	err := s.tx(ctx, func(tx pgx.Tx) error {
		if err := e.lock(ctx, tx); err != nil {
			return err
		}
		if err := with(tx); err != nil {
			return err
		}
		if e.wide() {
			return nil
		}
		if _, err := tx.Exec(ctx, "update studies set updated_at = now(), revision = revision + 1 where id = $1", e.Study); err != nil {
			return err
		}
		st, err := s.load(ctx, tx, e.Workspace, e.Study, e.Today)
		if err != nil {
			return err
		}
		if _, err := study.Compute(st); err != nil {
			return &RefusedError{err}
		}
		return notify(ctx, tx, Notice{Study: e.Study, Tab: e.Tab})
	})
	var pgErr *pgconn.PgError
	var changed *ChangedError
	switch {
	case errors.As(err, &pgErr) && pgErr.ConstraintName == "best_is_not_above_worst":
		return &RefusedError{ErrScale}
	case errors.As(err, &pgErr) && pgErr.ConstraintName == "studies_key":
		return &RefusedError{ErrTwin}
	case errors.As(err, &changed):
		return s.tellWho(ctx, e, changed)
	}
	return err
}

// lock waits for others' edits of the same study or workspace to end, and
// makes sure that the editor still has the role.
func (e Editing) lock(ctx context.Context, tx pgx.Tx) error {
	sql := "select exists (select from members m where m.workspace_id = $1 and m.person_id = $3 and m.role = $4) from studies where workspace_id = $1 and id = $2 and deleted_at is null for no key update"
	if e.wide() {
		sql = "select exists (select from members m where m.workspace_id = $1 and m.person_id = $3 and m.role = $4) from workspaces where id = $1 and id = $2 for no key update"
	}
	var seated bool
	if err := tx.QueryRow(ctx, sql, e.Workspace, e.scope(), e.By, string(e.Role)).Scan(&seated); err != nil {
		return missing(err)
	}
	if !seated {
		return &NotAllowedError{Need: doors.ToGovern}
	}
	return nil
}

// tellWho adds to a [*ChangedError] what stands in the field, and who wrote
// it.
func (s *Store) tellWho(ctx context.Context, e Editing, changed *ChangedError) error {
	f := changed.Field
	if stands := kinds[f.Edit].stands; stands != "" {
		err := s.pool.QueryRow(ctx, stands, e.scope(), f.Of).Scan(&changed.Now)
		if err != nil && missing(err) != ErrMissing {
			return err
		}
	} else {
		st, err := s.Study(ctx, e.Workspace, e.Study, e.Today)
		if err != nil {
			return err
		}
		changed.Now = f.In(st)
	}
	err := s.pool.QueryRow(ctx, `select coalesce(p.name, ''), c.touched_at from changes c left join people p on p.id = c.person_id
		where c.workspace_id = $1 and ($2 or c.study_id = $3) and c.edit = $4 and c.of = $5 and c.option = $6 and c.rater = $7 order by c.touched_at desc limit 1`,
		e.Workspace, e.wide(), e.Study, f.Edit, f.Of, f.Option, f.Rater).Scan(&changed.By, &changed.At)
	if err != nil && missing(err) != ErrMissing {
		return err
	}
	return changed
}

// set runs the statement of a field, which must hit one row. A rating that
// comes back has the reason given; of one that is removed the reason is
// returned.
func (e Editing) set(ctx context.Context, tx pgx.Tx, f Field, was, to, reason string) (kept string, err error) {
	if f.Edit == "platform" && to == InBin {
		if err := e.unused(ctx, tx, f.Of); err != nil {
			return "", err
		}
	}
	var tag pgconn.CommandTag
	rating := []any{e.Study, was, to, f.Of, f.Option, f.Rater, e.Workspace}
	switch {
	case f.Edit != "rating":
		tag, err = tx.Exec(ctx, kinds[f.Edit].set, e.scope(), was, to, f.Of)
	case to == "":
		err = tx.QueryRow(ctx, removeRating, rating...).Scan(&kept)
		if missing(err) == ErrMissing {
			return "", &ChangedError{Field: f}
		}
		return kept, err
	case was != "":
		tag, err = tx.Exec(ctx, changeRating, rating...)
	default:
		tag, err = tx.Exec(ctx, insertRating, append(rating, reason)...)
	}
	if err != nil {
		return "", fmt.Errorf("saving %s: %w", f, err)
	}
	if tag.RowsAffected() == 0 {
		return "", &ChangedError{Field: f}
	}
	return "", nil
}

// SetPay chooses the terms that are preferred.
func (s *Store) SetPay(ctx context.Context, e Editing, was, to projection.Policy) error {
	return s.change(ctx, e, Field{Edit: "pay"}, string(was), string(to))
}

// SetDriver sets where a driver stands today.
func (s *Store) SetDriver(ctx context.Context, e Editing, key string, was, to usage.Quantity) error {
	return s.change(ctx, e, Field{Edit: "driver", Of: key}, was.String(), to.String())
}

// SetGrowth sets how a driver grows a month.
func (s *Store) SetGrowth(ctx context.Context, e Editing, key string, was, to money.Share) error {
	return s.change(ctx, e, Field{Edit: "growth", Of: key}, asRatio(was), asRatio(to))
}

// SetWeight sets a criterion's share of 100.
func (s *Store) SetWeight(ctx context.Context, e Editing, criterion string, was, to money.Share) error {
	return s.change(ctx, e, Field{Edit: "weight", Of: criterion}, asRatio(was), asRatio(to))
}

// ErrScale reports a cost criterion whose best cost would lie above its worst.
var ErrScale = errors.New("the cost that scores 0 must not be below the cost that scores 9")

// SetBest sets the cost that scores 9.
func (s *Store) SetBest(ctx context.Context, e Editing, criterion string, was, to money.Amount) error {
	return s.change(ctx, e, Field{Edit: "best", Of: criterion}, was.String(), to.String())
}

// SetWorst sets the cost that scores 0.
func (s *Store) SetWorst(ctx context.Context, e Editing, criterion string, was, to money.Amount) error {
	return s.change(ctx, e, Field{Edit: "worst", Of: criterion}, was.String(), to.String())
}

// SetRating sets the editor's own rating of an option on a criterion. A nil
// was stands for a rating that was not there, a nil to takes the rating back.
func (s *Store) SetRating(ctx context.Context, e Editing, option, criterion string, was, to *fit.Halves) error {
	return s.change(ctx, e, Field{Edit: "rating", Of: criterion, Option: option, Rater: e.Name}, ratingText(was), ratingText(to))
}
