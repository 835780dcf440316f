package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"slices"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/study"

	"github.com/pressly/goose/v3"
)

// documentsRead reads every study that the migration before has made a document
// of, so that the rows it came from are given up only once all can be read, and
// puts the changes of fields into words.
var documentsRead = goose.NewGoMigration(8, &goose.GoFunc{RunTx: func(ctx context.Context, tx *sql.Tx) error {
	ids, err := texts(ctx, tx, "select id::text from documents where kind = 'study' order by id")
	if err != nil {
		return err
	}
	for _, id := range ids {
		pieces := map[string]string{}
		for _, part := range []string{document.Main, "ratings"} {
			body, err := texts(ctx, tx, "select body from document_parts where document_id::text = $1 and part = $2", id, part)
			if err != nil || len(body) != 1 {
				return fmt.Errorf("study %s has no part %q: %w", id, part, err)
			}
			pieces[part] = body[0]
		}
		st, err := study.Kept().Join(ctx, pieces)
		if err != nil {
			return fmt.Errorf("study %s cannot be read as a document: %w", id, err)
		}
		// As it is written from now on.
		for part, body := range study.Kept().Pieces(st) {
			if _, err := tx.ExecContext(ctx, "update document_parts set body = $3 where document_id::text = $1 and part = $2", id, part, body); err != nil {
				return err
			}
		}
		if err := sayChanges(ctx, tx, id, st); err != nil {
			return err
		}
	}
	return nil
}}, nil)

// sayChanges puts the changes of a study's fields into words, and writes what
// they insert and remove as it is written from now on.
func sayChanges(ctx context.Context, tx *sql.Tx, id string, st study.Study) error {
	rows, err := texts(ctx, tx, "select jsonb_build_array(id, ops, says)::text from changes where document_id::text = $1 and ops <> '[]' and not wide order by seq", id)
	if err != nil {
		return err
	}
	type change struct {
		id   string
		ops  document.Change
		says []document.Said
	}
	all := make([]change, len(rows))
	for i, row := range rows {
		c := &all[i]
		if err := json.Unmarshal([]byte(row), &[]any{&c.id, &c.ops, &c.says}); err != nil {
			return err
		}
		var gone []study.Option
		c.ops, gone = study.Canonical(c.ops)
		for _, o := range gone { // is named by what it was called
			if !slices.ContainsFunc(st.Options, func(other study.Option) bool { return other.Key == o.Key }) {
				st.Options = append(st.Options, o)
			}
		}
	}
	for _, c := range all {
		if c.says[0].Label == "" {
			c.says = study.Kept().Say(st, c.ops)
		}
		if _, err := tx.ExecContext(ctx, "update changes set ops = $2::jsonb, says = $3::jsonb where id::text = $1", c.id, asJSON(c.ops),
			asJSON(c.says)); err != nil {
			return err
		}
	}
	return nil
}

func texts(ctx context.Context, tx *sql.Tx, query string, args ...any) ([]string, error) {
	rows, err := tx.QueryContext(ctx, query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var all []string
	for rows.Next() {
		var one string
		if err := rows.Scan(&one); err != nil {
			return nil, err
		}
		all = append(all, one)
	}
	return all, rows.Err()
}
