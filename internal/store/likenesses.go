package store

import (
	"context"
	"database/sql"

	"ninecoins/internal/doors"

	"github.com/google/uuid"
	"github.com/pressly/goose/v3"
)

// likenesses fills in what the names of people look like, which SQL cannot
// tell. Of people who are there already all stay: of those who look alike one
// keeps the likeness, with an account and in plain letters before others, and
// the others get one that nobody else has.
var likenesses = goose.NewGoMigration(5, &goose.GoFunc{RunTx: func(ctx context.Context, tx *sql.Tx) error {
	people, err := everybody(ctx, tx)
	if err != nil {
		return err
	}
	taken := map[[2]string]bool{}
	for _, p := range people {
		like := doors.Likeness(p.name)
		if at := [2]string{p.workspace.String(), like}; taken[at] {
			like += " " + p.id.String()
		} else {
			taken[at] = true
		}
		if _, err := tx.ExecContext(ctx, "update people set likeness = $2 where id = $1", p.id, like); err != nil {
			return err
		}
	}
	_, err = tx.ExecContext(ctx, "alter table people alter column likeness set not null, add constraint people_likeness unique (workspace_id, likeness)")
	return err
}}, nil)

type personRow struct {
	id, workspace uuid.UUID
	name          string
}

func everybody(ctx context.Context, tx *sql.Tx) ([]personRow, error) {
	rows, err := tx.QueryContext(ctx, "select id, workspace_id, name from people order by account_id is null, octet_length(name) > char_length(name), id")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var all []personRow
	for rows.Next() {
		var p personRow
		if err := rows.Scan(&p.id, &p.workspace, &p.name); err != nil {
			return nil, err
		}
		all = append(all, p)
	}
	return all, rows.Err()
}
