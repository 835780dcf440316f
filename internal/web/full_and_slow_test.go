package web_test

import (
	"context"
	"net/http"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// saves are what writes most: each as the post that makes it.
func saves(t *testing.T, app *testkit.App) map[string]func(address string) answer {
	publish := drafted(t, app)
	return map[string]func(string) answer{
		"an edit": func(at string) answer {
			return post(t, app.Client, at+"/studies/"+app.Study.String()+"/growth", "op", "set", "path", "drivers.contacts.now", "was", "6400", "value", "7000")
		},
		"a publishing": func(at string) answer {
			return post(t, app.Client, at+"/shelf/platforms/brindlepost/draft", publish...)
		},
		"a list read again": func(at string) answer { return post(t, app.Client, at+"/shelf/platforms/quirebird", "op", "unchanged") },
		"an import": func(at string) answer {
			return upload(t, app.Client, at+"/files", []byte(strings.Replace(springList(t), `"key": "spring-list"`, `"key": "another"`, 1)))
		},
	}
}

// TestWhatTheDiskCannotHoldIsNotHalfDone fills the disk at each table that a save writes to: it is told,
// nothing of it is there, and once there is room the same save is made.
func TestWhatTheDiskCannotHoldIsNotHalfDone(t *testing.T) {
	for _, table := range []string{"changes", "document_parts", "editions", "document_editions", "documents"} {
		t.Run(table, func(t *testing.T) {
			t.Parallel()
			app := testkit.Start(t, true)
			all := saves(t, app)
			db, err := pgx.Connect(t.Context(), app.Database)
			require.NoError(t, err)
			defer db.Close(t.Context())
			before := contents(t, app)
			_, err = db.Exec(t.Context(), `create function full_disk() returns trigger language plpgsql as $$ begin raise exception 'could not extend file: No space left on device' using errcode = 'disk_full'; end $$;
				create trigger full_disk before insert or update on `+table+` for each row execute function full_disk()`)
			require.NoError(t, err)
			failed := map[string]bool{}
			for name, save := range all {
				if a := save(app.Address); a.status == http.StatusInsufficientStorage {
					failed[name] = true
					assert.Contains(t, words(a), "The disk of the database is full", name)
					assert.Contains(t, words(a), "Nothing was saved", name)
				}
			}
			assert.NotEmpty(t, failed)
			if len(failed) == len(all) {
				assert.Equal(t, before, contents(t, app), "nothing is half done")
			}
			_, err = db.Exec(t.Context(), "drop trigger full_disk on "+table)
			require.NoError(t, err)
			for name := range failed {
				assert.Equal(t, http.StatusOK, all[name](app.Address).status, "%s is made once there is room", name)
			}
		})
	}
}

// slowly has every statement take a while.
type slowly struct{ each time.Duration }

func (s slowly) TraceQueryStart(ctx context.Context, _ *pgx.Conn, _ pgx.TraceQueryStartData) context.Context {
	select {
	case <-time.After(s.each):
	case <-ctx.Done():
	}
	return ctx
}

func (slowly) TraceQueryEnd(context.Context, *pgx.Conn, pgx.TraceQueryEndData) {}

// TestASlowDatabaseLosesNothing has each statement take long: a save is made, or it is told that it
// was not, and then nothing of it is there.
func TestASlowDatabaseLosesNothing(t *testing.T) {
	for _, name := range []string{"an edit", "a publishing", "a list read again", "an import"} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			app := testkit.Start(t, true)
			save := saves(t, app)[name]
			before := contents(t, app)
			slow, err := store.OpenTraced(t.Context(), app.Database, slowly{250 * time.Millisecond})
			require.NoError(t, err)
			defer slow.Close()
			address, _ := app.Serve(t, slow, nil)
			a := save(address)
			after := contents(t, app)
			if a.status == http.StatusOK {
				assert.NotEqual(t, before, after, "%s was answered as made", name)
				return
			}
			assert.Equal(t, http.StatusServiceUnavailable, a.status, words(a))
			assert.Equal(t, before, after, "what was not made is not there")
			assert.Equal(t, http.StatusOK, save(app.Address).status, "and can be made again")
		})
	}
}
