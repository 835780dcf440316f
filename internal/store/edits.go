package store

import (
	"context"
	"fmt"
	"time"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
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

// Editing says which study is edited, on which day, and from which revision of
// the row; a revision of 0 takes the row as it is.
type Editing struct {
	Workspace, Study uuid.UUID
	Today            time.Time
	Revision         int64
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
		l, err := s.load(ctx, tx, e.Workspace, e.Study, e.Today)
		if err != nil {
			return err
		}
		if _, err := study.Compute(l.Study); err != nil {
			return &RefusedError{err}
		}
		return nil
	})
}

const atRevision = " and ($2 = 0 or revision = $2)"

// SetPay chooses the terms that are preferred.
func (s *Store) SetPay(ctx context.Context, e Editing, p projection.Policy) error {
	return s.edit(ctx, e, "the billing", "update studies set pay = $3, revision = revision + 1 where id = $1"+atRevision, e.Study, e.Revision, string(p))
}

// SetDriver sets where a driver stands and how it grows.
func (s *Store) SetDriver(ctx context.Context, e Editing, key string, p usage.Path) error {
	return s.edit(ctx, e, fmt.Sprintf("driver %q", key), `update study_drivers set value = $4, growth = $5, revision = revision + 1
		where study_id = $1 and driver = $3`+atRevision, e.Study, e.Revision, key, p.Now.String(), asRatio(p.Growth))
}

// SetWeight sets a criterion's share of 100.
func (s *Store) SetWeight(ctx context.Context, e Editing, criterion string, w money.Share) error {
	return s.edit(ctx, e, fmt.Sprintf("the weight of %q", criterion), `update study_criteria set weight = $4, revision = revision + 1
		where study_id = $1 and key = $3`+atRevision, e.Study, e.Revision, criterion, asRatio(w))
}

// SetScale sets the cost that scores 9 and the cost that scores 0.
func (s *Store) SetScale(ctx context.Context, e Editing, criterion string, best, worst money.Amount) error {
	return s.edit(ctx, e, fmt.Sprintf("the scale of %q", criterion), `update study_criteria set best = $4, worst = $5, revision = revision + 1
		where study_id = $1 and key = $3 and source = 'cost'`+atRevision, e.Study, e.Revision, criterion, best.String(), worst.String())
}

// SetRating sets one rater's rating of an option on a criterion; nil takes it
// back. A revision of 0 stands for a rating that was not there.
func (s *Store) SetRating(ctx context.Context, e Editing, rater, option, criterion string, value *fit.Halves) error {
	what := fmt.Sprintf("the rating of %q on %q", option, criterion)
	const row = `person_id = (select id from people where workspace_id = $1 and name = $3) and option_id = (select id from study_options where study_id = $4 and key = $5)
		and criterion_id = (select id from study_criteria where study_id = $4 and key = $6)`
	if value == nil {
		return s.edit(ctx, e, what, "delete from study_ratings where "+row+atRevision, e.Workspace, e.Revision, rater, e.Study, option, criterion)
	}
	if _, err := s.pool.Exec(ctx, "insert into people (id, workspace_id, name) values ($1, $2, $3) on conflict do nothing", newID(), e.Workspace, rater); err != nil {
		return fmt.Errorf("saving rater %q: %w", rater, err)
	}
	return s.edit(ctx, e, what, `insert into study_ratings (study_id, person_id, option_id, criterion_id, value, reason)
		select $4, p.id, o.id, c.id, $7, '' from people p, study_options o, study_criteria c
		where p.workspace_id = $1 and p.name = $3 and o.study_id = $4 and o.key = $5 and c.study_id = $4 and c.key = $6 and c.source = 'rated'
		on conflict (person_id, option_id, criterion_id) do update set value = excluded.value, revision = study_ratings.revision + 1
		where study_ratings.revision = $2`, e.Workspace, e.Revision, rater, e.Study, option, criterion, value.String())
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
