package store

import (
	"context"
	"fmt"

	"ninecoins/internal/doors"
	"ninecoins/internal/formats"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// insertPeople makes sure that there are people of some names, which stand in
// order, and returns their keys. A name that looks like another one of the
// workspace is [formats.Faults].
func insertPeople(ctx context.Context, tx pgx.Tx, workspace uuid.UUID, names []string) (map[string]string, error) {
	likenesses := make([]string, len(names))
	for i, name := range names {
		likenesses[i] = doors.Likeness(name)
	}
	rows, err := tx.Query(ctx, "select likeness, name from people where workspace_id = $1 and likeness = any($2)", workspace, likenesses)
	if err != nil {
		return nil, err
	}
	there := map[string]string{}
	var likeness, name string
	if _, err := pgx.ForEachRow(rows, []any{&likeness, &name}, func() error { there[likeness] = name; return nil }); err != nil {
		return nil, err
	}
	var faults formats.Faults
	b := &pgx.Batch{}
	for i, name := range names {
		if other, ok := there[likenesses[i]]; ok && other != name && len(faults) < formats.MostFaults {
			faults = append(faults, formats.Fault{Line: 1, Field: "ratings",
				Problem: fmt.Sprintf("the rater %q looks like %q, who is in the workspace already; write the name the same way", name, other)})
		}
		b.Queue("insert into people (id, workspace_id, name, likeness) values ($1, $2, $3, $4) on conflict (workspace_id, name) do nothing", newID(),
			workspace, name, likenesses[i])
	}
	if len(faults) > 0 {
		return nil, faults
	}
	keys := map[string]string{}
	b.Queue("select name, id::text from people where workspace_id = $1 and name = any($2)", workspace, names).Query(func(rows pgx.Rows) error {
		var name, id string
		_, err := pgx.ForEachRow(rows, []any{&name, &id}, func() error { keys[name] = id; return nil })
		return err
	})
	return keys, tx.SendBatch(ctx, b).Close()
}
