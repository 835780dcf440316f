package web_test

import (
	"fmt"
	"html"
	"math/rand/v2"
	"net/http"
	"regexp"
	"slices"
	"testing"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/doors"
	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var (
	historyRow = regexp.MustCompile(`(?s)<tr(?: class="(undone)")?><td>[^<]*</td><td>([^<]*)</td><td>([^<]*)</td>\s*<th scope="row">([^<]*).*?</th>\s*<td class="number">([^<]*)</td><td class="number">([^<]*)</td><td class="number">(.*?)</td></tr>`)
	undoButton = regexp.MustCompile(`<button class="link" title="[^"]*">Undo: ([^<]*)</button>`)
	redoButton = regexp.MustCompile(`Redo<span class="visually-hidden">: ([^<]*)</span>`)
	lastSays   = regexp.MustCompile(`data-last-says="([^"]*)"`)
)

// found is what a pattern's groups hold at its first place in a page; nil where there is none.
func found(pattern *regexp.Regexp, a answer) []string {
	groups := pattern.FindStringSubmatch(a.body)
	for i := range groups {
		groups[i] = html.UnescapeString(groups[i])
	}
	return groups
}

// place is before which item of its list another stands; "last" where none follows.
func placeOf(s *study.Study, list, key string) string {
	all := keys(s, list)
	if at := slices.Index(all, key); at+1 < len(all) {
		spot, _ := study.Kept().Spot(*s, document.Path(list).To(all[at+1]))
		return "before " + spot.Shown
	}
	return "last"
}

// TestWhatTheHistoryTellsIsSo makes random edits and holds each line of the history, what undo and redo say that
// they would do and what others are told of them against the study before and after.
func TestWhatTheHistoryTellsIsSo(t *testing.T) {
	heard := map[string]int{}
	t.Run("seeds", func(t *testing.T) {
		for seed := range uint64(4) {
			t.Run(fmt.Sprint(seed), func(t *testing.T) { tellsWhatIsSo(t, seed, heard) })
		}
	})
	t.Log(heard)
	for _, kind := range []string{"set", "insert", "remove", "move", "undone set", "undone insert", "undone remove", "undone move"} {
		assert.NotZero(t, heard[kind], kind)
	}
}

// inside is a random change within a driver, a need or a rating.
func (h *hand) inside(s *study.Study) document.Change {
	driver := document.Path("drivers").To(h.pick(keys(s, "drivers")...))
	all := []string{"none"}
	for _, d := range s.Drivers {
		for _, e := range d.Path.Events {
			if driver == document.Path("drivers").To(d.Driver) {
				all = append(all, e.Key)
			}
		}
	}
	event := driver.To("events", h.pick(all...))
	set := func(path document.Path, to string) document.Change {
		spot, ok := study.Kept().Spot(*s, path)
		if !ok {
			return nil
		}
		return document.Change{{Do: document.Set, Path: path, Was: spot.Text, To: to}}
	}
	switch h.random.IntN(8) {
	case 0, 1:
		key := fmt.Sprintf("fair-%d", h.random.IntN(5))
		return document.Change{{Do: document.Insert, Path: driver.To("events", key), To: fmt.Sprintf(`{"key": %q, "month": "2027-0%d", "do": "add", "by": "%d", "note": %q}`,
			key, 1+h.random.IntN(9), h.random.IntN(5), h.pick("", "The spring fair"))}}
	case 2:
		return document.Change{{Do: document.Remove, Path: event}}
	case 3:
		return set(event.To("note"), h.pick("", "A fair", "Another"))
	case 4:
		return set(event.To("month"), h.pick("2027-03", "2028-01"))
	case 5:
		return set(driver.To("told", h.pick("2027-01", "2027-02"), "value"), h.pick("", "4000", "5"))
	case 6:
		return set(driver.To(h.pick("now", "ceiling")), h.pick("3", "40", "9000"))
	}
	return set(driver.To("season", h.pick("may", "dec")), h.pick("1", "1.5"))
}

// TestAnOptionThatComesBackIsTold deletes one that was rated, and puts it back by its line of the history.
func TestAnOptionThatComesBackIsTold(t *testing.T) {
	app := testkit.Start(t, true)
	other := app.As(t, doors.Editor)
	post(t, app.Client, app.Page("line-up"), "op", "remove", "path", "options.fernwire")
	says := func() string { return found(lastSays, get(t, other, app.Page("verdict")))[1] }
	assert.Equal(t, "Imke Vroom deleted the option Fernwire; it rests in the bin.", says())
	id := found(regexp.MustCompile(`name="change" value="([0-9a-f-]{36})"`), get(t, app.Client, app.Page("history")))
	require.NotNil(t, id)
	page := post(t, app.Client, app.Page("history"), "op", "put-back", "change", id[1])
	require.Equal(t, http.StatusOK, page.status)
	assert.Equal(t, "Imke Vroom brought the option Fernwire back.", says())
	assert.Regexp(t, `^Option Fernwire and \d+ more$`, found(historyRow, page)[4])
	post(t, app.Client, app.Page("growth?driver=contacts"), "op", "paste", "path", "drivers.contacts.events", "columns", "month,do,by,stays,note", "rows", "2027-10\tadd\t50\tno\tA\n2027-11\tadd\t60\tno\tB")
	assert.Equal(t, "Imke Vroom added Contacts, event B and 1 more.", says())
	page = post(t, app.Client, app.Page("history"), "op", "undo")
	assert.Regexp(t, `^Option Fernwire out again and \d+ more$`, found(undoButton, page)[1])
}

func tellsWhatIsSo(t *testing.T, seed uint64, heard map[string]int) {
	app := testkit.Start(t, true)
	other := app.As(t, doors.Editor)
	h := &hand{store: app.Store, at: testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner), random: rand.New(rand.NewPCG(seed, 7))}
	now := func() *study.Study {
		s, err := app.Store.Study(t.Context(), app.Workspace.ID, app.Study, testkit.Day)
		require.NoError(t, err)
		return s
	}
	text := func(s *study.Study) string { return string(study.Kept().Write(*s)) }
	said := func(s *study.Study, path document.Path) string {
		if spot, ok := study.Kept().Spot(*s, path); ok && spot.Said != "" {
			return spot.Said
		}
		return "nothing"
	}
	for range 90 {
		before := now()
		change := h.change(before)
		if h.random.IntN(3) == 0 {
			change = h.inside(before)
		}
		if change == nil {
			continue
		}
		err := app.Store.Edit(t.Context(), h.at, change)
		after := now()
		if err != nil || text(before) == text(after) {
			assert.Equal(t, text(before), text(after))
			continue
		}
		op := change[len(change)-1]
		steps := op.Path.Steps()
		what := fmt.Sprintf("%v %s %.60s %.60s", op.Do, op.Path, op.Was, op.To)
		page := get(t, app.Client, app.Page("history"))
		row := found(historyRow, page)
		require.NotNil(t, row, what)
		undo, news := found(undoButton, page), found(lastSays, get(t, other, app.Page("verdict")))[1]
		require.NotNil(t, undo, what)
		assert.Equal(t, "Imke Vroom", row[2], what)
		assert.NotEmpty(t, row[3], what)
		assert.Contains(t, get(t, app.Client, app.Page("history?coin="+row[3])).body, html.EscapeString(row[4]), what)
		spot, there := study.Kept().Spot(*before, op.Path)
		if op.Do == document.Insert || !there {
			spot, _ = study.Kept().Spot(*after, op.Path)
		}
		label, was, became := spot.Label, "", ""
		var back, tells, again, undone string // what undo says, others are told, redo says, and others are told of undo
		the := label
		if len(steps) == 2 {
			the = "the " + usage.LowerFirst(label)
		}
		switch op.Do {
		case document.Set:
			was, became = said(before, op.Path), said(after, op.Path)
			back, again = label+" back to "+was, label+" to "+became
			tells, undone = fmt.Sprintf("changed %s from %s to %s", label, was, became), fmt.Sprintf("took back %s: %s again", label, was)
		case document.Insert:
			was, became, back, again = "–", "added", label+" out again", label+" added"
			tells, undone = "added "+the, "took "+the+" out again"
		case document.Remove:
			was, became, back, again = "there", "removed", label+" back where it was", label+" removed"
			tells, undone = "took "+the+" out", "brought "+the+" back"
			if len(steps) == 2 {
				tells = "deleted " + the + "; it rests in the bin"
				assert.Contains(t, get(t, app.Client, app.Address+"/bin").body, html.EscapeString(spot.Shown), what)
			}
			if steps[0] == "options" {
				was, became, back, again = "in the line-up", "in the bin", label+" back in the line-up", label+" in the bin"
			}
		case document.Move:
			was, became = placeOf(before, steps[0], steps[1]), placeOf(after, steps[0], steps[1])
			back, again = label+" back "+was, label+" "+became
			tells, undone = "moved "+the+" "+became, "moved "+the+" back "+was
		}
		assert.NotRegexp(t, `[_{]|fair-|[a-z]\.[a-z]`, label+was+became, "%s: by names that stand on the page", what)
		kind := string(op.Do)
		heard[kind]++
		assert.Equal(t, []string{label, was, became}, row[4:7], what)
		assert.Equal(t, back, undo[1], what)
		assert.Equal(t, "Imke Vroom "+tells+".", news, what)
		assert.Contains(t, row[7], "Put back", what)
		if h.random.IntN(2) > 0 {
			continue
		}
		page = post(t, app.Client, app.Page("history"), "op", "undo")
		require.Equal(t, http.StatusOK, page.status, what)
		heard["undone "+kind]++
		assert.Equal(t, text(before), text(now()), "%s: taken back, it is as it was", what)
		row = found(historyRow, page)
		assert.Equal(t, "undone", row[1], what)
		assert.Contains(t, row[7], "stands there now", what)
		redo := found(redoButton, page)
		require.NotNil(t, redo, what)
		assert.Equal(t, again, redo[1], what)
		assert.Equal(t, "Imke Vroom "+undone+".", found(lastSays, get(t, other, app.Page("verdict")))[1], what)
		if h.random.IntN(2) > 0 {
			post(t, app.Client, app.Page("history"), "op", "redo")
			assert.Equal(t, text(after), text(now()), "%s: made again", what)
		}
	}
}
