package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
	"ninecoins/internal/formats"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// ImportStudy takes a study file whole or not at all. The editions that it
// names must be in the workspace. A file at fault is [formats.Faults].
func (s *Store) ImportStudy(ctx context.Context, by Editing, file []byte) (uuid.UUID, error) {
	opened, err := s.open(ctx, file)
	if err != nil {
		return uuid.Nil, err
	}
	return s.importStudy(ctx, by, opened)
}

func (s *Store) importStudy(ctx context.Context, by Editing, file *formats.File) (id uuid.UUID, err error) {
	err = s.tx(ctx, func(tx pgx.Tx) error {
		ids := map[*pricelist.Edition]uuid.UUID{}
		var failed error
		st, err := file.Study(func(platform string, day time.Time) (*pricelist.Edition, bool) {
			var id uuid.UUID
			err := tx.QueryRow(ctx, `select e.id from editions e join platforms p on p.id = e.platform_id
				where e.workspace_id = $1 and p.key = $2 and e.observed_on = $3 and p.deleted_at is null`, by.Workspace, platform, day).Scan(&id)
			if err != nil {
				if missing(err) != ErrMissing {
					failed = err
				}
				return nil, false
			}
			e, err := s.edition(ctx, tx, id)
			if err != nil {
				failed = err
				return nil, false
			}
			ids[e] = id
			return e, true
		})
		if failed != nil {
			return failed
		}
		if err != nil {
			return err
		}
		if id, err = insertStudy(ctx, tx, by.Workspace, st, ids, time.Time{}); err != nil {
			return err
		}
		by.Study = id
		return by.note(ctx, tx, entry{Field: Field{Edit: "study file", Of: st.Key}, Became: "brought in", Name: st.Title})
	})
	return id, err
}

// insertStudy keeps a study; one that rests in the bin since a moment comes in
// there, beside another of its key.
func insertStudy(ctx context.Context, tx pgx.Tx, workspace uuid.UUID, st *study.Study, editions map[*pricelist.Edition]uuid.UUID, binned time.Time) (uuid.UUID, error) {
	own, err := json.Marshal(st.Own)
	if err != nil {
		return uuid.Nil, err
	}
	id := newID()
	_, err = tx.Exec(ctx, `insert into studies (id, workspace_id, key, title, company, question, currency, start, months, pay, budget, patience, own_drivers, deleted_at)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14)`, id, workspace, st.Key, st.Title, st.Company, st.Question,
		st.Currency.Code(), st.Start.ISO(), st.Horizon, string(st.Pay), st.Budget.String(), st.Patience, own, orNull(binned))
	var pgErr *pgconn.PgError
	if errors.As(err, &pgErr) && pgErr.ConstraintName == "studies_key" {
		return id, formats.Faults{{Line: 1, Field: "key", Problem: fmt.Sprintf("there is a study %q in the workspace already", st.Key)}}
	}
	if err != nil {
		return id, fmt.Errorf("keeping study %q: %w", st.Key, err)
	}
	b := &pgx.Batch{}
	for code, r := range st.Rates {
		b.Queue("insert into study_rates (study_id, currency, rate, stands) values ($1, $2, $3, $4)", id, code, r.Rate.String(), r.On)
	}
	for i, d := range st.Drivers {
		b.Queue("insert into study_drivers (study_id, position, driver, value, growth) values ($1, $2, $3, $4, $5)", id, i, d.Driver, d.Path.Now.String(), asRatio(d.Path.Growth))
	}
	for i, n := range st.Needs {
		b.Queue("insert into study_needs (id, study_id, position, feature, name, note, level) values ($1, $2, $3, $4, $5, $6, $7)", newID(), id, i, n.Feature, n.Name, n.Note, string(n.Level))
	}
	for i, o := range st.Options {
		b.Queue("insert into study_options (id, study_id, position, key, name, face, is_now, edition_id, deleted_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)", newID(), id, i, o.Key, o.Name, o.Face, o.Now, editions[o.Edition], orNull(o.BinnedAt))
	}
	for i, c := range st.Criteria {
		b.Queue("insert into study_criteria (id, study_id, position, key, name, note, source, weight, best, worst) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)",
			newID(), id, i, c.ID, c.Name, c.Note, string(c.Source), asRatio(c.Weight), c.Best.String(), c.Worst.String())
	}
	if err := insertPeople(ctx, tx, workspace, raters(st)); err != nil {
		return id, err
	}
	for _, r := range st.Ratings {
		b.Queue(`insert into study_ratings (study_id, person_id, option_id, criterion_id, value, reason)
			select $1, p.id, o.id, c.id, $5, $6 from people p, study_options o, study_criteria c
			where p.workspace_id = $7 and p.name = $2 and o.study_id = $1 and o.key = $3 and c.study_id = $1 and c.key = $4`,
			id, r.Rater, r.Option, r.Criterion, r.Value.String(), r.Reason, workspace)
	}
	if err := tx.SendBatch(ctx, b).Close(); err != nil {
		return id, fmt.Errorf("keeping study %q: %w", st.Key, err)
	}
	return id, nil
}

// raters returns the names of who rated in a study.
func raters(st *study.Study) []string {
	var names []string
	for _, r := range st.Ratings {
		names = append(names, r.Rater)
	}
	slices.Sort(names)
	return slices.Compact(names)
}

// insertPeople makes sure that there are people of some names, which stand in
// order. A name that looks like another one of the workspace is
// [formats.Faults].
func insertPeople(ctx context.Context, tx pgx.Tx, workspace uuid.UUID, names []string) error {
	likenesses := make([]string, len(names))
	for i, name := range names {
		likenesses[i] = doors.Likeness(name)
	}
	rows, err := tx.Query(ctx, "select likeness, name from people where workspace_id = $1 and likeness = any($2)", workspace, likenesses)
	if err != nil {
		return err
	}
	there := map[string]string{}
	var likeness, name string
	if _, err := pgx.ForEachRow(rows, []any{&likeness, &name}, func() error { there[likeness] = name; return nil }); err != nil {
		return err
	}
	var faults formats.Faults
	b := &pgx.Batch{}
	for i, name := range names {
		if other, ok := there[likenesses[i]]; ok && other != name && len(faults) < formats.MostFaults {
			faults = append(faults, formats.Fault{Line: 1, Field: "ratings", Problem: fmt.Sprintf("the rater %q looks like %q, who is in the workspace already; write the name the same way", name, other)})
		}
		b.Queue("insert into people (id, workspace_id, name, likeness) values ($1, $2, $3, $4) on conflict (workspace_id, name) do nothing", newID(), workspace, name, likenesses[i])
	}
	if len(faults) > 0 {
		return faults
	}
	return tx.SendBatch(ctx, b).Close()
}
