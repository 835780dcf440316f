package web_test

import (
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"ninecoins/internal/core/study"
	"ninecoins/internal/demo"
	"ninecoins/internal/doors"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAPlatformIsMadeByHandAndPublished goes from nothing to an option in a study, by
// forms alone.
func TestAPlatformIsMadeByHandAndPublished(t *testing.T) {
	app := testkit.Start(t, true)
	c := app.Client
	a := post(t, c, app.Address+"/shelf", "op", "new", "name", "Larkspur Post", "does", "email, growth of lists", "about", "Letters for small shops.", "links", "docs prices", "currency", "eur")
	require.Equal(t, "/shelf/platforms/larkspur-post/draft", a.at, words(a))
	assert.Contains(t, words(a), "No plans yet")
	at := app.Address + a.at
	for _, wrong := range [][]string{{"name", "", "A plan needs a name"}, {"name", "Bed", "price", "12,50", "could mean 12.5"}, {"name", "Bed", "price", "-3", "is no amount"},
		{"name", "Bed", "includes", "gone", "no such plan any more"}} {
		a = post(t, c, at, append([]string{"op", "plan"}, wrong[:len(wrong)-1]...)...)
		assert.Equal(t, http.StatusUnprocessableEntity, a.status)
		assert.Contains(t, words(a), wrong[len(wrong)-1])
	}
	a = publish(t, c, at)
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "It cannot be published yet")
	post(t, c, at, "op", "plan", "name", "Bed", "price", "12.50")
	a = post(t, c, at, "op", "plan", "name", "Border", "price", "30", "includes", "bed")
	assert.Contains(t, words(a), "all of Bed, and")
	post(t, c, at, "op", "plan", "name", "Park", "includes", "border")
	feature := func(plan, key string) string { return "plans." + plan + ".features." + key }
	a = post(t, c, at, "op", "set", "path", feature("bed", "automation/event-triggers"), "was", "", "value", "perhaps")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "is not how a plan has it")
	a = post(t, c, at, "op", "set", "path", feature("bed", "automation/event-triggers"), "was", "", "value", "No")
	require.Equal(t, http.StatusOK, a.status, words(a))
	post(t, c, at, "op", "set", "path", feature("border", "automation/event-triggers"), "was", "", "value", "yes 2")
	a = post(t, c, at, "op", "set", "path", feature("bed", "automation/workflows"), "was", "", "value", "20")
	assert.Contains(t, a.body, `value="20"`)
	assert.Contains(t, a.body, `placeholder="20"`, "the plan above takes it over")
	post(t, c, at, "op", "set", "path", feature("bed", "automation/workflows")+".note", "was", "", "value", "paused ones do not count")
	panel := get(t, c, at+"?feature=automation/workflows")
	assert.Contains(t, panel.body, "paused ones do not count")
	a = post(t, c, at, "op", "set", "path", feature("bed", "automation/workflows"), "was", "yes = 20", "value", "")
	assert.NotContains(t, a.body, `value="20"`)
	a = post(t, c, at, "op", "undo")
	assert.Contains(t, a.body, `value="20"`)
	assert.Contains(t, get(t, c, at+"?feature=automation/workflows").body, "paused ones do not count", "one undo brings it back with its note")

	a = post(t, c, at, "op", "table", "rows", "Feature\tBed\tBorder\nEvent triggers\tno\tyes 3\nDragons\tyes\tyes\nBranches and waits\tmaybe\tyes")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "Nothing was written. The catalogue has no “Dragons”")
	assert.Contains(t, words(a), "row 4, Bed: “maybe” is no way of having a feature")
	assert.Contains(t, a.body, "Dragons", "what was typed stays")
	a = post(t, c, at, "op", "table", "rows", "Feature,Bed,Border\nautomation/branches,no,yes 2\n\"Fields of one's own\",10,unlimited\n")
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.Contains(t, a.body, `value="unlimited"`)
	a = post(t, c, at, "op", "block", "path", feature("bed", "letters/builder"), "features", "letters/builder,letters/plain", "plans", "bed,border", "rows", "yes\tyes 2\nno\tyes")
	require.Equal(t, http.StatusOK, a.status, words(a))
	a = post(t, c, at, "op", "block", "path", feature("border", "letters/plain"), "features", "letters/builder,letters/plain", "plans", "bed,border", "rows", "yes\tyes 2")
	assert.Contains(t, words(a), "Row 1, column 2 lies beyond the grid")
	a = post(t, c, at, "op", "column", "from", "bed", "to", "park")
	require.Equal(t, http.StatusOK, a.status, words(a))
	csv := get(t, c, app.Address+"/shelf/platforms/larkspur-post/features.csv")
	assert.Contains(t, csv.body, "Feature,Bed,Border,Park\n")
	assert.Contains(t, csv.body, "automation/event-triggers,no,yes 2,no\n")
	again := post(t, c, at, "op", "table", "rows", csv.body)
	assert.Contains(t, words(again), "all of that stands there already", "what goes out comes in again")

	a = publish(t, c, at)
	assert.Contains(t, words(a), "The draft was published")
	assert.Contains(t, words(a), "Letters for small shops.")
	assert.Contains(t, words(get(t, c, app.Page("line-up")+"?find=lark")), "Larkspur Post email, growth of lists, 3 plans")
	list := regexp.MustCompile(`value="(larkspur-post [0-9-]+)"`).FindStringSubmatch(get(t, c, app.Page("line-up")+"?find=lark").body)
	require.Len(t, list, 2)
	a = post(t, c, app.Page("line-up"), "op", "insert", "path", "options", "item.list", list[1])
	assert.Contains(t, words(a), "6 options are in the running")
	a = post(t, c, app.Address+"/shelf/platforms/larkspur-post", "op", "stand-in", "name", "Something like it")
	assert.Equal(t, "/shelf/platforms/something-like-it/draft", a.at)
	a = post(t, c, app.Address+"/shelf/platforms/larkspur-post", "op", "stand-in", "name", "Something LIKE it")
	assert.Contains(t, words(a), "on the shelf, or in the bin, already")
	a = post(t, c, app.Address+"/shelf", "op", "new", "name", "Larkspur post", "currency", "EUR")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	a = post(t, c, app.Address+"/shelf", "op", "new", "name", "Other", "currency", "XYZ", "about", "kept & safe")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, a.body, "kept &amp; safe")
}

func TestTheCatalogueIsEdited(t *testing.T) {
	app := testkit.Start(t, true)
	c, at := app.Client, app.Address+"/features"
	a := post(t, c, at, "op", "new", "name", "Seed lots", "area", "Seed trade", "question", "By lot?")
	assert.Contains(t, words(a), "Seed trade")
	assert.Contains(t, words(a), "186 features in areas")
	a = post(t, c, at, "op", "new", "name", "event TRIGGERS")
	assert.Contains(t, words(a), "There is “Event triggers” already, in Automation")
	a = post(t, c, at, "op", "set", "path", "features.automation/branches.name", "was", "", "value", "Forks and pauses")
	assert.Contains(t, a.body, "Forks and pauses")
	a = post(t, c, at, "op", "undo")
	assert.NotContains(t, a.body, `value="Forks and pauses"`)
	a = post(t, c, at, "op", "merge", "from", "Dragons", "into", "Queue")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "“Dragons” is no feature of the catalogue")
	a = post(t, c, at, "op", "merge", "from", "Queue", "into", "social/queue")
	assert.Contains(t, words(a), "cannot be merged into itself")
	a = post(t, c, at, "op", "merge", "from", "Event triggers", "into", "automation/rules")
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.Contains(t, words(a), "Event triggers means Rules")
	post(t, c, app.Page("coverage"), "op", "insert", "path", "needs", "item.name", "Rules", "item.level", "want")
	assert.Contains(t, words(get(t, c, app.Page("coverage"))), "Means the same as “Event triggers”, which is counted too", "both are told")
	a = post(t, c, at, "op", "apart", "path", "merged.automation/event-triggers")
	assert.NotContains(t, words(a), "means Rules")
	post(t, c, app.Page("coverage"), "op", "insert", "path", "needs", "item.name", "Seed lots", "item.level", "want")
	a = post(t, c, at, "op", "remove", "path", "features.seed-trade/seed-lots")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "it is named in study Spring list")
	for _, find := range []string{"?find=basket", "?area=social", "?find=nothing+is+called+so"} {
		assert.Equal(t, http.StatusOK, get(t, c, at+find).status)
	}
}

func TestTheLineUpTakesStacksAndPlans(t *testing.T) {
	app := testkit.Start(t, true)
	c, at := app.Client, app.Page("line-up")
	a := post(t, c, at, "op", "all-plans", "value", "fernwire 2026-11-12")
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.Contains(t, words(a), "8 options are in the running")
	assert.Contains(t, words(a), "pinned to Lantern")
	a = post(t, c, at, "op", "undo")
	assert.Contains(t, words(a), "5 options are in the running", "they came together and go together")
	resp, err := c.PostForm(at, url.Values{"op": {"stack"}, "tool": {"quirebird 2026-07-04 folio", "osier-mail 2026-10-05 one-price"}})
	a = read(t, resp, err)
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.Contains(t, words(a), "one of them a stack of 2 tools")
	stack := "options.quirebird-folio-osier-mail-one-price"
	a = post(t, c, at, "op", "insert", "path", stack+".with", "item.list", "brindlepost 2026-10-02", "item.plan", "sprig", "item.for", "letters")
	require.Equal(t, http.StatusOK, a.status, words(a))
	a = post(t, c, at, "op", "insert", "path", stack+".with", "item.list", "brindlepost 2026-10-02", "item.plan", "sprig")
	assert.Contains(t, words(get(t, c, at)), "is in this stack already", "the same plan twice is told")
	post(t, c, at, "op", "undo")
	for _, page := range []string{"costs", "costs?as=table", "prices", "coverage", "scores", "verdict", "options/quirebird-folio-osier-mail-one-price", "receipts/quirebird-folio-osier-mail-one-price?month=2027-03"} {
		a = get(t, c, app.Page(page))
		assert.Equal(t, http.StatusOK, a.status, page)
	}
	assert.Contains(t, words(a), "All tools of the stack, in this month")
	a = post(t, c, at, "op", "aside", "path", stack, "value", "")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "Say why, so that others know")
	a = post(t, c, at, "op", "aside", "path", stack, "value", "too many doors to knock at")
	assert.Contains(t, words(a), "5 options are in the running")
	assert.Contains(t, words(a), "too many doors to knock at")
	assert.NotContains(t, get(t, c, app.Page("costs")).body, "quirebird-folio")
	a = post(t, c, at, "op", "aside", "path", stack, "back", "yes")
	assert.Contains(t, words(a), "6 options are in the running")
	assert.Contains(t, words(get(t, c, at+"?stack=cheapest")), "meets every must")
	for _, bad := range []string{"gone 2026-10-02", "nonsense", "fernwire 1999-01-01", ""} {
		a = post(t, c, at, "op", "all-plans", "value", bad)
		assert.Equal(t, http.StatusUnprocessableEntity, a.status, bad)
		assert.Contains(t, words(a), "Nothing was added")
	}
	for n := range 18 {
		a = post(t, c, at, "op", "insert", "path", "options", "item.list", "osier-mail 2026-10-05", "item.name", fmt.Sprintf("Osier %d", n))
		require.Equal(t, http.StatusOK, a.status, words(a))
	}
	a = post(t, c, at, "op", "all-plans", "value", "fernwire 2026-11-12")
	assert.Contains(t, words(a), fmt.Sprintf("at most %d are taken, and this would be more", study.MostOptions))
	assert.Contains(t, words(get(t, c, app.Page("coverage")+"?rows=differ")), "Where they differ")
	assert.Contains(t, words(get(t, c, app.Page("differences"))), "They differ in")
}

func TestCellsAreFoundOutAndAnswered(t *testing.T) {
	app := testkit.Start(t, true)
	c := app.Client
	open := get(t, c, app.Page("coverage")+"?cell=tallowpost+letters/subject-tests")
	assert.Contains(t, words(open), "Its price list says")
	asked := get(t, c, app.Page("questions"))
	assert.Contains(t, words(asked), "2 things are needed and unknown")
	path := regexp.MustCompile(`name="path" value="(findings\.tallowpost/[^"]+)"`).FindStringSubmatch(asked.body)
	require.Len(t, path, 2)
	csv := get(t, c, app.Page("questions.csv"))
	assert.Contains(t, csv.body, "Tallowpost,Tier B,Test two subject lines,want,", "of the plan that is taken")
	a := post(t, c, app.Page("questions"), "op", "answer", "path", path[1], "was", "", "value", "dunno")
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	a = post(t, c, app.Page("questions"), "op", "answer", "path", path[1], "was", "", "value", "yes 2")
	assert.Contains(t, words(a), "1 thing is needed and unknown")
	open = get(t, c, app.Page("coverage")+"?cell=tallowpost+letters/subject-tests")
	assert.Contains(t, open.body, `value="asked" selected`)
	assert.Contains(t, open.body, `value="yes 2"`)
	a = post(t, c, app.Page("coverage"), "op", "undo")
	assert.Contains(t, words(get(t, c, app.Page("questions"))), "2 things are needed", "an answer is one step of undo")
	rater := app.As(t, doors.Rater)
	assert.NotContains(t, get(t, rater, app.Page("coverage")).body, "cell-link", "raters read")
	assert.Equal(t, http.StatusForbidden, post(t, rater, app.Page("coverage"), "op", "set", "path", path[1]+".has", "was", "", "value", "yes").status)
}

func TestAStudyBeginsWithAChoice(t *testing.T) {
	app := testkit.Start(t, true)
	at := begun(t, app, app.Client, "Which of these?")
	a := get(t, app.Client, at+"/brief")
	assert.Equal(t, 10, strings.Count(a.body, `name="op" value="start"`))
	a = post(t, app.Client, at+"/brief", "op", "start", "path", "needs", "value", "crm")
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.Contains(t, words(get(t, app.Client, at+"/coverage")), "Accounts with people")
	a = post(t, app.Client, at+"/brief", "op", "start", "path", "needs", "value", "crm")
	assert.Equal(t, http.StatusConflict, a.status)
	assert.Contains(t, words(a), "is in the study already")
	assert.Equal(t, http.StatusNotFound, post(t, app.Client, at+"/brief", "op", "start", "path", "needs", "value", "dragons").status)
	post(t, app.Client, at+"/brief", "op", "insert", "path", "running", "item.name", "Old sheets", "item.cost", "12", "item.renews", "14 Mar 2027", "item.notice", "30")
	a = post(t, app.Client, at+"/brief", "op", "insert", "path", "reasons", "item.text", "Nobody knows who called whom", "item.need", "crm/timeline")
	assert.Contains(t, words(a), "leave by 12 Feb 2027")
	assert.Contains(t, words(a), "there is no pick yet")
	a = post(t, app.Client, at+"/brief", "op", "set", "path", "connector.through", "was", "", "value", "nobody")
	assert.Contains(t, words(a), "which nobody runs")
}

func TestCategoriesAreWrittenAsPeopleWriteThemAndKeptInOneWay(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	a := post(t, app.Client, app.Address+"/shelf", "op", "new", "name", "Sedge Desk", "does", "CRM, Email", "about", "Small.", "currency", "EUR")
	require.Equal(t, http.StatusOK, a.status, a.body)
	p, err := app.Store.Platform(t.Context(), app.Workspace.ID, "sedge-desk")
	require.NoError(t, err)
	assert.Equal(t, []string{"crm", "email"}, p.Does)
	page := app.Address + "/shelf/platforms/sedge-desk/draft"
	post(t, app.Client, app.Address+"/shelf/platforms/sedge-desk", "op", "open")
	a = get(t, app.Client, page)
	assert.Contains(t, words(a), "CRM, email")
	a = post(t, app.Client, page, "op", "set", "path", "platform.does", "was", "crm, email", "value", "Search, cRM, Orchards")
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.Contains(t, words(a), "search, CRM, Orchards")
	assert.Contains(t, words(get(t, app.Client, app.Address+"/shelf?does=crm")), "CRM 1")
}

var seenAt = regexp.MustCompile(`name="at" value="(\d+)"`)

// publish publishes a draft as its page shows it.
func publish(t *testing.T, c *http.Client, draft string) answer {
	t.Helper()
	seen := seenAt.FindStringSubmatch(get(t, c, draft).body)
	require.NotEmpty(t, seen, "the page says at which revision it is")
	return post(t, c, draft, "op", "publish", "at", seen[1])
}

// TestWhatAListSaysNothingOfIsAsked brings in the demo's study of search tools, whose lists leave limits
// untold: the page counts them, and leads who may to where an answer goes.
func TestWhatAListSaysNothingOfIsAsked(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	e := testkit.As(t, app.Store, app.Workspace.ID, uuid.Nil, doors.Owner)
	for _, list := range demo.Newest() {
		_, _ = app.Store.ImportPriceList(t.Context(), e, list) // some stand there already
	}
	asked := 0
	for _, file := range demo.Studies() {
		id, err := app.Store.ImportStudy(t.Context(), e, file)
		if err != nil { // which stands there already
			continue
		}
		app.Study = id
		a := get(t, app.Client, app.Page("questions"))
		require.Equal(t, http.StatusOK, a.status)
		n := strings.Count(a.body, "Is there a limit or a price for") / 2 // once more in the text to send
		if n == 0 {
			continue
		}
		asked++
		assert.Regexp(t, fmt.Sprintf(`\b%d things? (is|are) counted as unlimited`, n), words(a))
		assert.Equal(t, n, strings.Count(a.body, "Put it into its price list"))
		assert.NotContains(t, get(t, app.As(t, doors.Rater), app.Page("questions")).body, "Put it into its price list")
	}
	assert.Positive(t, asked)
}
