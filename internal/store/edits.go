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

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// ChangedError reports an edit that was made on what somebody changed since.
// Nothing was saved.
type ChangedError struct{ What string }

func (e *ChangedError) Error() string { return e.What + " was changed by someone else meanwhile" }

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
}

// edit runs an update that must hit one row, bumps the study's revision and
// makes sure that the study still computes; else nothing is changed.
func (s *Store) edit(ctx context.Context, e Editing, what, sql string, args ...any) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		var locked bool
		err := tx.QueryRow(ctx, "select true from studies where workspace_id = $1 and id = $2 and deleted_at is null for update", e.Workspace, e.Study).Scan(&locked)
		if err != nil {
			return missing(err)
		}
		tag, err := tx.Exec(ctx, sql, args...)
		if err != nil {
			return fmt.Errorf("saving %s: %w", what, err)
		}
		if tag.RowsAffected() == 0 {
			return &ChangedError{what}
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
		return nil
	})
}

// SetPay chooses the terms that are preferred.
func (s *Store) SetPay(ctx context.Context, e Editing, was, to projection.Policy) error {
	return s.edit(ctx, e, "the billing", "update studies set pay = $3, revision = revision + 1 where id = $1 and pay = $2", e.Study, string(was), string(to))
}

// SetDriver sets where a driver stands today.
func (s *Store) SetDriver(ctx context.Context, e Editing, key string, was, to usage.Quantity) error {
	return s.edit(ctx, e, fmt.Sprintf("driver %q", key), `update study_drivers set value = $4, revision = revision + 1
		where study_id = $1 and driver = $2 and value = $3`, e.Study, key, was.String(), to.String())
}

// SetGrowth sets how a driver grows a month.
func (s *Store) SetGrowth(ctx context.Context, e Editing, key string, was, to money.Share) error {
	return s.edit(ctx, e, fmt.Sprintf("the growth of %q", key), `update study_drivers set growth = $4, revision = revision + 1
		where study_id = $1 and driver = $2 and growth = $3`, e.Study, key, asRatio(was), asRatio(to))
}

// SetWeight sets a criterion's share of 100.
func (s *Store) SetWeight(ctx context.Context, e Editing, criterion string, was, to money.Share) error {
	return s.edit(ctx, e, fmt.Sprintf("the weight of %q", criterion), `update study_criteria set weight = $4, revision = revision + 1
		where study_id = $1 and key = $2 and weight = $3`, e.Study, criterion, asRatio(was), asRatio(to))
}

// ErrScale reports a cost criterion whose best cost would lie above its worst.
var ErrScale = errors.New("the cost that scores 0 must not be below the cost that scores 9")

// SetBest sets the cost that scores 9.
func (s *Store) SetBest(ctx context.Context, e Editing, criterion string, was, to money.Amount) error {
	return s.setScale(ctx, e, criterion, "best", was, to)
}

// SetWorst sets the cost that scores 0.
func (s *Store) SetWorst(ctx context.Context, e Editing, criterion string, was, to money.Amount) error {
	return s.setScale(ctx, e, criterion, "worst", was, to)
}

func (s *Store) setScale(ctx context.Context, e Editing, criterion, column string, was, to money.Amount) error {
	err := s.edit(ctx, e, fmt.Sprintf("the scale of %q", criterion), `update study_criteria set `+column+` = $4, revision = revision + 1
		where study_id = $1 and key = $2 and `+column+` = $3 and source = 'cost'`, e.Study, criterion, was.String(), to.String())
	var pgErr *pgconn.PgError
	if errors.As(err, &pgErr) && pgErr.ConstraintName == "best_is_not_above_worst" {
		return &RefusedError{ErrScale}
	}
	return err
}

// SetRating sets one rater's rating of an option on a criterion. A nil was
// stands for a rating that was not there, a nil to takes the rating back.
func (s *Store) SetRating(ctx context.Context, e Editing, rater, option, criterion string, was, to *fit.Halves) error {
	what := fmt.Sprintf("the rating of %q on %q", option, criterion)
	const row = `person_id = (select id from people where workspace_id = $1 and name = $2) and option_id = (select id from study_options where study_id = $3 and key = $4)
		and criterion_id = (select id from study_criteria where study_id = $3 and key = $5)`
	switch {
	case was == nil && to == nil:
		return nil
	case to == nil:
		return s.edit(ctx, e, what, "delete from study_ratings where "+row+" and value = $6", e.Workspace, rater, e.Study, option, criterion, was.String())
	case was != nil:
		return s.edit(ctx, e, what, "update study_ratings set value = $7, revision = revision + 1 where "+row+" and value = $6",
			e.Workspace, rater, e.Study, option, criterion, was.String(), to.String())
	}
	if _, err := s.pool.Exec(ctx, "insert into people (id, workspace_id, name) values ($1, $2, $3) on conflict do nothing", newID(), e.Workspace, rater); err != nil {
		return fmt.Errorf("saving rater %q: %w", rater, err)
	}
	return s.edit(ctx, e, what, `insert into study_ratings (study_id, person_id, option_id, criterion_id, value, reason)
		select $3, p.id, o.id, c.id, $6, '' from people p, study_options o, study_criteria c
		where p.workspace_id = $1 and p.name = $2 and o.study_id = $3 and o.key = $4 and c.study_id = $3 and c.key = $5 and c.source = 'rated'
		on conflict do nothing`, e.Workspace, rater, e.Study, option, criterion, to.String())
}

// DeleteStudy takes a study off the desk; [Store.RestoreStudy] brings it back.
func (s *Store) DeleteStudy(ctx context.Context, workspace, id uuid.UUID) error {
	return s.one(ctx, "update studies set deleted_at = now() where workspace_id = $1 and id = $2 and deleted_at is null", workspace, id)
}

// RestoreStudy brings a deleted study back. It returns [ErrMissing] where
// there is none.
func (s *Store) RestoreStudy(ctx context.Context, workspace, id uuid.UUID) error {
	return s.one(ctx, "update studies set deleted_at = null where workspace_id = $1 and id = $2 and deleted_at is not null", workspace, id)
}

func (s *Store) one(ctx context.Context, sql string, args ...any) error {
	tag, err := s.pool.Exec(ctx, sql, args...)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrMissing
	}
	return err
}

// asRatio writes a share as the database holds it: 0.15 for 15%.
func asRatio(s money.Share) string { return money.Amount(s).String() }
