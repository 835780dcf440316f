package web_test

import (
	"net/http"
	"os"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
	"ninecoins/internal/testkit"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAStudyThatFailsClosesNothingElse has the program fail on one study of the demo, in its options
// and before them.
func TestAStudyThatFailsClosesNothingElse(t *testing.T) {
	for name, breaks := range map[string]func(*study.Study){
		"an option": func(s *study.Study) {
			e := *s.Options[0].Edition
			e.Plans = []pricelist.Plan{e.Plans[0]}
			e.Plans[0].Charges = []pricelist.Charge{{Key: "x", Kind: pricelist.Flat, Meter: "gone"}, {Key: "y", Kind: pricelist.Unit, Meter: "gone"}}
			s.Options[0].Tool.Edition = &e
		},
		"all of it": func(*study.Study) { panic("what it holds") },
	} {
		t.Run(name, func(t *testing.T) {
			whole := name == "all of it" // nothing of it can be shown
			app := testkit.Start(t, true)
			db, err := pgx.Connect(t.Context(), app.Database) // what was worked out before is forgotten
			require.NoError(t, err)
			defer db.Close(t.Context())
			_, err = db.Exec(t.Context(), "update documents set facts = null, revision = revision + 1")
			require.NoError(t, err)
			app.Store.Before(func(s *study.Study) {
				if s.Title == "Spring list" {
					breaks(s)
				}
			})
			editor := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Editor)
			err = testkit.Set(t.Context(), app.Store, editor, "months", "36", "24")
			require.Equal(t, whole, err != nil, "it can be changed where anything of it can be worked out")
			desk := get(t, app.Client, app.Address+"/")
			assert.Equal(t, http.StatusOK, desk.status)
			assert.NotContains(t, words(desk), "Nothing: what they rest on is fresh")
			assert.Regexp(t, "Nine Coins failed on it|This study cannot be worked out", words(desk))
			for _, page := range []string{"/shelf", "/shelf/platforms/brindlepost", "/shelf/platforms/brindlepost/compare", "/bin", "/history", "/workspace"} {
				assert.Equal(t, http.StatusOK, get(t, app.Client, app.Address+page).status, page)
			}
			for _, coin := range append(coins, "history", "questions") {
				a := get(t, app.Client, app.Page(coin))
				if whole {
					assert.Equal(t, http.StatusInternalServerError, a.status, coin)
					assert.NotContains(t, a.body, "what it holds")
				} else if assert.Equal(t, http.StatusOK, a.status, coin) {
					assert.True(t, strings.Contains(words(a), "Nine Coins failed on this study"), coin)
				}
			}
			export := get(t, app.Client, app.Address+"/workspace/export")
			assert.Equal(t, http.StatusOK, export.status)
			assert.Contains(t, export.body, "Spring list")

			if !whole {
				_, err = app.Store.Undo(t.Context(), editor)
				require.NoError(t, err)
			}

			// A file of such a study is kept out, with its name.
			a := upload(t, app.Client, app.Address+"/files", []byte(strings.Replace(springList(t), `"key": "spring-list"`, `"key": "another"`, 1)))
			assert.Equal(t, http.StatusUnprocessableEntity, a.status)
			assert.Contains(t, words(a), "Nine Coins fails on the study &#34;Spring list&#34;, so it was kept out")

			a = post(t, app.Client, app.Address+"/", "op", "delete", "of", app.Study.String())
			assert.Equal(t, http.StatusOK, a.status)
			_, err = app.Store.Outcome(t.Context(), app.Workspace.ID, app.Study, time.Time{})
			assert.Error(t, err, "it can be deleted")
		})
	}
}

func springList(t *testing.T) string {
	data, err := os.ReadFile("../demo/files/spring-list.json")
	require.NoError(t, err)
	return string(data)
}
