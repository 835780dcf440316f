package web_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"ninecoins/internal/demo"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// twins could each be taken for Imke Vroom.
var twins = map[string]string{
	"zero width space":      "Imke\u200b Vroom",
	"zero width joiner":     "Imke\u200d Vroom",
	"zero width non-joiner": "Imke\u200c Vroom",
	"direction mark":        "Imke Vroom\u200f",
	"direction override":    "Imke \u202eVroom\u202c",
	"soft hyphen":           "Im\u00adke Vroom",
	"word joiner":           "Imke\u2060 Vroom",
	"byte order mark":       "\ufeffImke Vroom",
	"no-break space":        "Imke\u00a0Vroom",
	"two spaces":            "Imke  Vroom",
	"em space":              "Imke\u2003Vroom",
	"ideographic space":     "Imke\u3000Vroom ",
	"Cyrillic letters":      "Im\u043ae Vr\u043e\u043em",
	"Greek letter":          "Imke Vr\u03bfom",
	"full width":            "\uff29mke Vroom",
	"mathematical":          "\U0001d408mke Vroom",
	"small letters":         "imke vroom",
	"a digit for a letter":  "Imke Vr0om",
}

// TestNobodyIsLetInUnderALookalikeName tries lookalikes of the owner's name at
// every place where a person is named, and names of workspaces and labels with
// characters that are not seen.
func TestNobodyIsLetInUnderALookalikeName(t *testing.T) {
	app := testkit.Start(t, true)
	owner := testkit.As(t, app.Store, app.Workspace.ID, uuid.Nil, doors.Owner)
	dov := app.SignIn(t, demo.People[1].Email)
	token, hash := doors.NewToken()
	_, err := app.Store.Invite(t.Context(), owner, "rue@marl.example", doors.Rater, hash, store.InBinFor)
	require.NoError(t, err)
	n := 0
	for what, name := range twins {
		n++
		a := post(t, testkit.Visitor(t), app.Address+"/join/"+token, "name", name, "password", testkit.Password)
		assert.Equal(t, http.StatusUnprocessableEntity, a.status, "joining: %s", what)
		assert.Contains(t, a.body, `class="problem"`, what)
		a = post(t, dov, app.Address+"/account", "edit", "name", "name", name)
		assert.Equal(t, http.StatusUnprocessableEntity, a.status, "renaming: %s", what)
		file := strings.ReplaceAll(strings.Replace(string(demo.Study()), `"key": "spring-list"`, fmt.Sprintf(`"key": "list-%d"`, n), 1), "Imke Vroom", name)
		a = upload(t, app.Client, app.Address+"/files", []byte(file))
		if name != strings.TrimSpace(name) || doors.FoldSpaces(name) == "Imke Vroom" || strings.HasPrefix(what, "full") || strings.HasPrefix(what, "math") {
			continue // these are the same name, and are written so
		}
		assert.Equal(t, http.StatusUnprocessableEntity, a.status, "a rater in a file: %s", what)
		assert.Contains(t, words(a), "rater", what)
	}
	members, err := app.Store.Members(t.Context(), app.Workspace.ID)
	require.NoError(t, err)
	assert.Len(t, members, 3)
	for what, name := range twins {
		if doors.FoldSpaces(name) == name && !strings.ContainsFunc(name, func(r rune) bool { return doors.Hidden(r) || r == '\u200c' || r == '\u200d' }) {
			continue
		}
		title := strings.Replace(name, "Imke", "Madder", 1)
		a := post(t, app.Client, app.Address+"/workspace", "edit", "name", "value", title)
		b := post(t, app.Client, app.Page("links"), "edit", "make", "label", title, "until", "2026-12-01")
		if folded := doors.FoldSpaces(title); folded != title {
			assert.Contains(t, words(a), folded, "%s is folded", what)
			assert.Contains(t, words(b), folded, what)
			continue
		}
		assert.Contains(t, words(a), "holds a character that is not seen", "the workspace: %s", what)
		assert.Contains(t, words(b), "holds a character that is not seen", "a label: %s", what)
	}
	for _, email := range []string{"im\u200bke@marl.example", "imke@marl\u00ad.example", "imke\u202e@marl.example", "imke\u00a0v@marl.example"} {
		assert.Contains(t, words(post(t, app.Client, app.Address+"/workspace", "edit", "invite", "email", email, "role", "rater")), "is no email address")
	}

	// A good name of any script is let in, as it is folded.
	a := post(t, testkit.Visitor(t), app.Address+"/join/"+token, "name", " Маша\u00a0 Ивановна ", "password", testkit.Password)
	assert.Equal(t, "/", a.at)
	assert.Contains(t, words(a), "Маша Ивановна")
}
