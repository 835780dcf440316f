package store_test

import (
	"testing"

	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestRunningProcessesSeeARestoredBackup puts the database back to what it was under two processes, and
// changes it to the revision that it had, otherwise: both show what stands in it.
func TestRunningProcessesSeeARestoredBackup(t *testing.T) {
	s, e, url := demoAt(t)
	ctx := t.Context()
	other, err := store.Open(ctx, url)
	require.NoError(t, err)
	defer other.Close()
	db, err := pgx.Connect(ctx, url)
	require.NoError(t, err)
	defer db.Close(ctx)
	_, err = db.Exec(ctx, "create temporary table backup as select d.*, p.part, p.body from documents d join document_parts p on p.document_id = d.id where d.id = $1", e.Study)
	require.NoError(t, err)

	require.NoError(t, testkit.Set(ctx, s, e, "months", "36", "24"))
	for _, one := range []*store.Store{s, other} {
		assert.Equal(t, 24, load(t, one, e).Horizon)
	}
	_, err = db.Exec(ctx, `with back as (update documents d set revision = b.revision, stamp = b.stamp, facts = b.facts from backup b where d.id = b.id returning d.id)
		update document_parts p set body = b.body from backup b where p.document_id = b.id and p.part = b.part`)
	require.NoError(t, err)
	_, err = db.Exec(ctx, "delete from changes where document_id = $1 and paths = '{months}'", e.Study)
	require.NoError(t, err)
	assert.Equal(t, 36, load(t, s, e).Horizon)
	require.NoError(t, testkit.Set(ctx, other, e, "months", "36", "12"))
	for _, one := range []*store.Store{s, other} {
		assert.Equal(t, 12, load(t, one, e).Horizon)
	}
}
