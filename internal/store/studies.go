package store

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// StudyRow is a study as the desk lists it.
type StudyRow struct {
	ID        uuid.UUID
	Title     string
	Company   string
	UpdatedAt time.Time
}

// Studies lists a workspace's studies, newest change first.
func (s *Store) Studies(ctx context.Context, workspace uuid.UUID) ([]StudyRow, error) {
	rows, err := s.pool.Query(ctx, "select id, title, company, updated_at from studies where workspace_id = $1 and deleted_at is null order by updated_at desc, id", workspace)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[StudyRow])
}

// Revision returns a number that grows with every change of a study, or
// [ErrMissing].
func (s *Store) Revision(ctx context.Context, workspace, id uuid.UUID) (revision int64, err error) {
	err = s.pool.QueryRow(ctx, "select revision from studies where workspace_id = $1 and id = $2 and deleted_at is null", workspace, id).Scan(&revision)
	return revision, missing(err)
}

// Study loads a study of a workspace as of a day, or [ErrMissing].
func (s *Store) Study(ctx context.Context, workspace, id uuid.UUID, today time.Time) (*study.Study, error) {
	return s.load(ctx, s.pool, workspace, id, today)
}

func (s *Store) load(ctx context.Context, q querier, workspace, id uuid.UUID, today time.Time) (*study.Study, error) {
	return s.loadStudy(ctx, q, workspace, id, today, "deleted_at is null")
}

// loadWhole loads a study with what rests in its bin, also one that rests in
// the bin itself.
func (s *Store) loadWhole(ctx context.Context, q querier, workspace, id uuid.UUID) (*study.Study, error) {
	return s.loadStudy(ctx, q, workspace, id, time.Time{}, "true")
}

func (s *Store) loadStudy(ctx context.Context, q querier, workspace, id uuid.UUID, today time.Time, which string) (*study.Study, error) {
	st := &study.Study{Today: today, Rates: map[string]quote.Rate{}}
	l := &loading{ID: id, Study: st, which: which}
	var currency, start, pay, budget string
	var own []byte
	err := q.QueryRow(ctx, `select key, title, company, question, currency, start, months, pay, budget::text, patience, own_drivers
		from studies where workspace_id = $1 and id = $2 and `+which, workspace, id).
		Scan(&st.Key, &st.Title, &st.Company, &st.Question, &currency, &start, &st.Horizon, &pay, &budget, &st.Patience, &own)
	if err != nil {
		return nil, missing(err)
	}
	st.Pay = projection.Policy(pay)
	var errs reading
	st.Currency = read(&errs, money.ParseCurrency, currency)
	st.Start = read(&errs, usage.ParseMonth, start)
	st.Budget = read(&errs, money.ParseAmount, budget)
	if err := json.Unmarshal(own, &st.Own); err != nil {
		return nil, fmt.Errorf("study %s: its own drivers cannot be read: %w", id, err)
	}
	b := &pgx.Batch{}
	for _, part := range []func(*pgx.Batch, *loading, *reading){loadRates, loadDrivers, loadNeeds, loadOptions, loadCriteria, loadRatings} {
		part(b, l, &errs)
	}
	if err := q.SendBatch(ctx, b).Close(); err != nil {
		return nil, fmt.Errorf("study %s: %w", id, err)
	}
	for i, edition := range l.editions {
		o := &st.Options[i]
		if o.Edition, err = s.edition(ctx, q, edition); err != nil {
			return nil, fmt.Errorf("study %s: %w", id, err)
		}
		o.Platform, o.ObservedOn = o.Edition.Platform.Key, o.Edition.ObservedOn
	}
	if errs.err != nil {
		return nil, fmt.Errorf("study %s cannot be read: %w", id, errs.err)
	}
	return st, nil
}

// loading is a study while its parts are loaded.
type loading struct {
	ID       uuid.UUID
	Study    *study.Study
	editions []uuid.UUID // of the options, in their order
	which    string      // the condition for what is loaded
}

// reading keeps the first error of many small readings.
type reading struct{ err error }

func read[T any](r *reading, parse func(string) (T, error), text string) T {
	v, err := parse(text)
	if err != nil && r.err == nil {
		r.err = err
	}
	return v
}

// ratio reads a share that the database holds as a ratio.
func ratio(text string) (money.Share, error) {
	a, err := money.ParseAmount(text)
	return money.Share(a), err
}

// each puts a question about the study on the batch; scan reads each row of
// the answer.
func (l *loading) each(b *pgx.Batch, sql string, scan func(pgx.Rows) error) {
	b.Queue(sql, l.ID).Query(func(rows pgx.Rows) error {
		for rows.Next() {
			if err := scan(rows); err != nil {
				return err
			}
		}
		return rows.Err()
	})
}

func loadRates(b *pgx.Batch, l *loading, errs *reading) {
	l.each(b, "select currency, rate::text, stands from study_rates where study_id = $1", func(r pgx.Rows) error {
		var code, rate string
		var on time.Time
		err := r.Scan(&code, &rate, &on)
		l.Study.Rates[code] = quote.Rate{Rate: read(errs, money.ParseAmount, rate), On: on}
		return err
	})
}

func loadDrivers(b *pgx.Batch, l *loading, errs *reading) {
	l.each(b, "select driver, value::text, growth::text from study_drivers where study_id = $1 order by position", func(r pgx.Rows) error {
		var key, value, growth string
		if err := r.Scan(&key, &value, &growth); err != nil {
			return err
		}
		l.Study.Drivers = append(l.Study.Drivers, study.Setting{Driver: key, Path: usage.Path{Now: read(errs, usage.ParseQuantity, value), Growth: read(errs, ratio, growth)}})
		return nil
	})
}

func loadNeeds(b *pgx.Batch, l *loading, _ *reading) {
	l.each(b, "select id::text, feature, name, note, level from study_needs where study_id = $1 order by position", func(r pgx.Rows) error {
		var n coverage.Need
		err := r.Scan(&n.ID, &n.Feature, &n.Name, &n.Note, &n.Level)
		l.Study.Needs = append(l.Study.Needs, n)
		return err
	})
}

func loadOptions(b *pgx.Batch, l *loading, _ *reading) {
	l.each(b, "select key, name, face, is_now, edition_id, deleted_at from study_options where study_id = $1 and "+l.which+" order by position", func(r pgx.Rows) error {
		var o study.Option
		var edition uuid.UUID
		var binned *time.Time
		err := r.Scan(&o.Key, &o.Name, &o.Face, &o.Now, &edition, &binned)
		o.BinnedAt = since(binned)
		l.Study.Options, l.editions = append(l.Study.Options, o), append(l.editions, edition)
		return err
	})
}

func loadCriteria(b *pgx.Batch, l *loading, errs *reading) {
	l.each(b, "select key, name, note, source, weight::text, best::text, worst::text from study_criteria where study_id = $1 order by position", func(r pgx.Rows) error {
		var c fit.Criterion
		var weight, best, worst string
		err := r.Scan(&c.ID, &c.Name, &c.Note, &c.Source, &weight, &best, &worst)
		c.Weight, c.Best, c.Worst = read(errs, ratio, weight), read(errs, money.ParseAmount, best), read(errs, money.ParseAmount, worst)
		l.Study.Criteria = append(l.Study.Criteria, c)
		return err
	})
}

func loadRatings(b *pgx.Batch, l *loading, errs *reading) {
	l.each(b, `select p.name, o.key, c.key, r.value::text, r.reason from study_ratings r join people p on p.id = r.person_id
		join study_options o on o.id = r.option_id join study_criteria c on c.id = r.criterion_id where r.study_id = $1 and `+strings.ReplaceAll(l.which, "deleted_at", "o.deleted_at")+` order by p.name, o.position, c.position`, func(r pgx.Rows) error {
		var one fit.Rating
		var value string
		err := r.Scan(&one.Rater, &one.Option, &one.Criterion, &value, &one.Reason)
		one.Value = read(errs, fit.ParseHalves, value)
		l.Study.Ratings = append(l.Study.Ratings, one)
		return err
	})
}
