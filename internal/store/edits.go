package store

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// ChangedError reports an edit that was made on what somebody changed since.
// Nothing was saved.
type ChangedError struct{ Field Field }

func (e *ChangedError) Error() string { return e.Field.String() + " was changed meanwhile" }

// RefusedError reports an edit with which the study could not be computed.
// Nothing was saved.
type RefusedError struct{ Err error }

func (e *RefusedError) Error() string { return e.Err.Error() }
func (e *RefusedError) Unwrap() error { return e.Err }

// Editing says which study is edited, and on which day. Each edit also says
// what stood in the field when it was begun: if that has changed since, the
// edit is refused with a [*ChangedError]. So edits of different fields never
// get in each other's way. Every edit gives its row a new revision.
type Editing struct {
	Workspace, Study uuid.UUID
	Today            time.Time
	Tab              string // which open page the edit comes from, for its [Notice]
}

// Field names something that is edited in place.
type Field struct {
	Edit   string // pay, driver, growth, weight, best, worst, rating
	Of     string // key of the driver or the criterion
	Option string // rating: key of the option
	Rater  string // rating: who rates
}

// String names the field in errors.
func (f Field) String() string {
	return strings.Join(strings.Fields(strings.Join([]string{f.Edit, f.Of, f.Option, f.Rater}, " ")), " ")
}

// updates holds, for each kind of field, the statement that sets it to $3
// where $2 stands in it, with $1 the study and $4 its Of.
var updates = map[string]string{
	"pay":    "update studies set pay = $3, revision = revision + 1 where id = $1 and pay = $2 and $4 = ''",
	"driver": "update study_drivers set value = $3::numeric, revision = revision + 1 where study_id = $1 and value = $2::numeric and driver = $4",
	"growth": "update study_drivers set growth = $3::numeric, revision = revision + 1 where study_id = $1 and growth = $2::numeric and driver = $4",
	"weight": "update study_criteria set weight = $3::numeric, revision = revision + 1 where study_id = $1 and weight = $2::numeric and key = $4",
	"best":   "update study_criteria set best = $3::numeric, revision = revision + 1 where study_id = $1 and best = $2::numeric and key = $4 and source = 'cost'",
	"worst":  "update study_criteria set worst = $3::numeric, revision = revision + 1 where study_id = $1 and worst = $2::numeric and key = $4 and source = 'cost'",
}

// A rating is set by what stands there and what is to: nothing, or a value.
// $1 is the study, $2 and $3 was and to, $4 criterion, $5 option, $6 rater,
// $7 workspace, $8 reason.
const (
	ratingRow = `study_ratings.study_id = $1 and person_id = (select id from people where workspace_id = $7 and name = $6)
		and option_id = (select id from study_options where study_id = $1 and key = $5) and criterion_id = (select id from study_criteria where study_id = $1 and key = $4)`
	changeRating = "update study_ratings set value = $3::numeric, revision = revision + 1 where value = $2::numeric and " + ratingRow
	removeRating = "delete from study_ratings where value = $2::numeric and $3 = '' and " + ratingRow + " returning reason"
	insertRating = `insert into study_ratings (study_id, person_id, option_id, criterion_id, value, reason)
		select $1, p.id, o.id, c.id, $3::numeric, $8 from people p, study_options o, study_criteria c
		where $2 = '' and p.workspace_id = $7 and p.name = $6 and o.study_id = $1 and o.key = $5 and c.study_id = $1 and c.key = $4 and c.source = 'rated'
		on conflict do nothing`
)

// change sets a field from was to to, in the words that the database holds,
// notes it in the history and makes sure that the study still computes; else
// nothing is changed.
func (s *Store) change(ctx context.Context, e Editing, f Field, was, to string) error {
	if was == to {
		return nil
	}
	return s.editing(ctx, e, func(tx pgx.Tx) error {
		kept, err := e.set(ctx, tx, f, was, to, "")
		if err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, "update changes set lapsed = true where study_id = $1 and undone_at is not null", e.Study); err != nil {
			return err
		}
		_, err = tx.Exec(ctx, "insert into changes (id, study_id, edit, of, option, rater, was, became, kept) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)",
			newID(), e.Study, f.Edit, f.Of, f.Option, f.Rater, was, to, kept)
		return err
	})
}

// editing locks a study, runs with, and takes all of it back if the study
// then cannot be computed.
func (s *Store) editing(ctx context.Context, e Editing, with func(pgx.Tx) error) error {
	err := s.tx(ctx, func(tx pgx.Tx) error {
		var locked bool
		err := tx.QueryRow(ctx, "select true from studies where workspace_id = $1 and id = $2 and deleted_at is null for update", e.Workspace, e.Study).Scan(&locked)
		if err != nil {
			return missing(err)
		}
		if err := with(tx); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, "update studies set updated_at = now() where id = $1", e.Study); err != nil {
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
	if errors.As(err, &pgErr) && pgErr.ConstraintName == "best_is_not_above_worst" {
		return &RefusedError{ErrScale}
	}
	return err
}

// set runs the statement of a field, which must hit one row. A rating that
// comes back has the reason given; of one that is removed the reason is
// returned.
func (e Editing) set(ctx context.Context, tx pgx.Tx, f Field, was, to, reason string) (kept string, err error) {
	var tag pgconn.CommandTag
	rating := []any{e.Study, was, to, f.Of, f.Option, f.Rater, e.Workspace}
	switch {
	case f.Edit != "rating":
		tag, err = tx.Exec(ctx, updates[f.Edit], e.Study, was, to, f.Of)
	case to == "":
		err = tx.QueryRow(ctx, removeRating, rating...).Scan(&kept)
		if missing(err) == ErrMissing {
			return "", &ChangedError{f}
		}
		return kept, err
	case was != "":
		tag, err = tx.Exec(ctx, changeRating, rating...)
	default:
		if _, err = tx.Exec(ctx, "insert into people (id, workspace_id, name) values ($1, $2, $3) on conflict do nothing", newID(), e.Workspace, f.Rater); err == nil {
			tag, err = tx.Exec(ctx, insertRating, append(rating, reason)...)
		}
	}
	if err != nil {
		return "", fmt.Errorf("saving %s: %w", f, err)
	}
	if tag.RowsAffected() == 0 {
		return "", &ChangedError{f}
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

// SetRating sets one rater's rating of an option on a criterion. A nil was
// stands for a rating that was not there, a nil to takes the rating back.
func (s *Store) SetRating(ctx context.Context, e Editing, rater, option, criterion string, was, to *fit.Halves) error {
	text := func(h *fit.Halves) string {
		if h == nil {
			return ""
		}
		return h.String()
	}
	return s.change(ctx, e, Field{Edit: "rating", Of: criterion, Option: option, Rater: rater}, text(was), text(to))
}

// DeleteStudy takes a study off the desk; [Store.RestoreStudy] brings it back.
func (s *Store) DeleteStudy(ctx context.Context, workspace, id uuid.UUID) error {
	return s.one(ctx, id, "update studies set deleted_at = now() where workspace_id = $1 and id = $2 and deleted_at is null", workspace, id)
}

// RestoreStudy brings a deleted study back. It returns [ErrMissing] where
// there is none.
func (s *Store) RestoreStudy(ctx context.Context, workspace, id uuid.UUID) error {
	return s.one(ctx, id, "update studies set deleted_at = null where workspace_id = $1 and id = $2 and deleted_at is not null", workspace, id)
}

func (s *Store) one(ctx context.Context, id uuid.UUID, sql string, args ...any) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, sql, args...)
		if err != nil {
			return err
		}
		if tag.RowsAffected() == 0 {
			return ErrMissing
		}
		return notify(ctx, tx, Notice{Study: id})
	})
}

// asRatio writes a share as the database holds it: 0.15 for 15%.
func asRatio(s money.Share) string { return money.Amount(s).String() }
