package web_test

import (
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// begun begins a study by the Desk's form and returns its address.
func begun(t *testing.T, app *testkit.App, c *http.Client, title string) string {
	t.Helper()
	a := post(t, c, app.Address+"/", "op", "new", "title", title, "company", "Madder & Weld")
	require.Equal(t, http.StatusOK, a.status, words(a))
	require.Regexp(t, `^/studies/[0-9a-f-]{36}/brief$`, a.at)
	return app.Address + strings.TrimSuffix(a.at, "/brief")
}

// TestANewStudyGoesFromNothingToAVerdict begins a study and fills it by forms
// alone, as a browser without scripts does.
func TestANewStudyGoesFromNothingToAVerdict(t *testing.T) {
	app := testkit.Start(t, true)
	c := app.Client
	at := begun(t, app, c, "Where to next?")
	a := get(t, c, at+"/brief")
	for _, next := range []string{"Add at least two options", "Say what is needed", "how many contacts", "Say what matters"} {
		assert.Contains(t, words(a), next)
	}
	for _, page := range []string{"line-up", "coverage", "prices", "growth", "costs", "trials", "scores", "verdict", "history"} {
		assert.Equal(t, http.StatusOK, get(t, c, at+"/"+page).status, page)
	}
	list := regexp.MustCompile(`name="item.list" value="((brindlepost|fernwire) [0-9-]+)"`)
	for _, m := range list.FindAllStringSubmatch(get(t, c, at+"/line-up").body, -1) {
		a = post(t, c, at+"/line-up", "op", "insert", "path", "options", "item.list", m[1], "item.name", "")
		require.Equal(t, http.StatusOK, a.status, words(a))
	}
	assert.Contains(t, words(a), "2 options are in the running")
	a = post(t, c, at+"/line-up", "op", "insert", "path", "options", "item.list", list.FindStringSubmatch(a.body)[1])
	assert.Contains(t, a.body, `>Brindlepost 2</textarea>`, "told apart from the first")
	a = post(t, c, at+"/line-up", "op", "undo")
	assert.Contains(t, words(a), "2 options are in the running")
	a = post(t, c, at+"/line-up", "op", "set", "path", "options.fernwire.now", "was", "false", "value", "true")
	assert.Contains(t, words(a), "Fernwire (now)")
	a = get(t, c, at+"/verdict")
	assert.Contains(t, words(a), "Fernwire: its prices are in GBP, and there is no rate from GBP to EUR yet")
	assert.Contains(t, words(get(t, c, at+"/brief")), "There is no rate from GBP to EUR yet, which the line-up needs.")
	assert.Contains(t, words(get(t, c, at+"/verdict")), "It is too early to pick: there is no rate from GBP to EUR, and without it Fernwire has no price.")
	assert.NotContains(t, words(a), "0.0", "nothing was rated")
	a = post(t, c, at+"/coverage", "op", "insert", "path", "needs", "item.name", "Event triggers", "item.feature", "automation/event-triggers", "item.level", "must")
	assert.Contains(t, words(a), "Both options can meet the must")
	post(t, c, at+"/growth", "op", "insert", "path", "drivers", "item.driver", "contacts", "item.now", "6,400", "item.growth", "2")
	post(t, c, at+"/growth", "op", "insert", "path", "drivers", "item.driver", "seats", "item.now", "3")
	a = post(t, c, at+"/growth", "op", "insert", "path", "own_drivers", "item.name", "Trade buyers", "item.unit", "buyer", "item.kind", "stock", "item.formula", "contacts / 8")
	assert.Contains(t, a.body, `value="Trade buyers"`+"", "or as text")
	post(t, c, at+"/growth", "op", "insert", "path", "own_drivers", "item.name", "Vans", "item.unit", "van", "item.kind", "stock")
	a = get(t, c, at+"/growth")
	assert.Contains(t, a.body, `id="drivers-vans-now"`, "one without a formula is set by hand")
	require.Contains(t, a.body, `name="path" value="own_drivers.vans">`, "and goes as a whole")
	a = post(t, c, at+"/growth", "op", "remove", "path", "own_drivers.vans")
	assert.NotContains(t, a.body, "drivers-vans")
	a = post(t, c, at+"/growth", "op", "undo")
	assert.Contains(t, a.body, `id="drivers-vans-now"`)
	a = post(t, c, at+"/scores", "op", "paste", "path", "criteria", "columns", "name,weight", "rows", "Ease\t60\r\nLooks\t40\r\n\r\n")
	require.Equal(t, http.StatusOK, a.status, words(a))
	me := testkit.As(t, app.Store, app.Workspace.ID, app.Study, doors.Owner).By.String()
	for _, rating := range []string{"brindlepost/ease 8", "brindlepost/looks 6.5", "fernwire/ease 5", "fernwire/looks 7"} {
		where, value, _ := strings.Cut(rating, " ")
		a = post(t, c, at+"/scores", "op", "set", "path", "ratings."+me+"/"+where+".value", "was", "", "value", value)
		require.Equal(t, http.StatusOK, a.status, words(a))
	}
	a = post(t, c, at+"/brief", "op", "insert", "path", "rates", "item.currency", "GBP", "item.rate", "1.17", "item.on", "23 Nov 2026")
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.NotContains(t, words(a), "There is no rate")
	assert.Contains(t, words(get(t, c, at+"/verdict")), "Pick Brindlepost on Bough")
	assert.Contains(t, words(get(t, c, app.Address+"/")), "Where to next?")

	// A copy has all of it but the ratings.
	id := strings.TrimPrefix(at, app.Address+"/studies/")
	a = post(t, c, app.Address+"/", "op", "copy", "of", id)
	require.Regexp(t, `/brief$`, a.at)
	assert.Contains(t, words(a), "Copy of Where to next?")
	assert.Contains(t, words(get(t, c, app.Address+strings.Replace(a.at, "/brief", "/scores", 1))), "No option leads yet : 4 ratings are missing , and each of the 2 options could come first.")
	assert.Equal(t, http.StatusNotFound, post(t, c, app.Address+"/", "op", "copy", "of", uuid.NewString()).status)
	for _, bad := range []string{"", strings.Repeat("x", 121), "a\x07b"} {
		a = post(t, c, app.Address+"/", "op", "new", "title", bad)
		assert.True(t, a.status == http.StatusUnprocessableEntity || a.status == http.StatusBadRequest, "%q: %d", bad, a.status)
	}
}

// TestListsAreEditedByForms adds, moves, renames and removes criteria, and takes
// all of it back.
func TestListsAreEditedByForms(t *testing.T) {
	app := testkit.Start(t, true)
	order := func() string {
		st, err := app.Store.Study(t.Context(), app.Workspace.ID, app.Study, testkit.Day)
		require.NoError(t, err)
		var keys []string
		for _, c := range st.Criteria {
			keys = append(keys, c.ID)
		}
		return strings.Join(keys, " ")
	}
	edit := func(form ...string) answer { return post(t, app.Client, app.Page("scores"), form...) }
	before := contents(t, app)
	a := edit("op", "insert", "path", "criteria", "item.name", "Smell", "item.weight", "5", "before", "ease")
	assert.Contains(t, words(a), "Undo: Criterion Smell out again")
	assert.Equal(t, "cost automation smell ease trade look help", order())
	edit("op", "move", "path", "criteria.smell", "before", "cost")
	assert.Equal(t, "smell cost automation ease trade look help", order())
	a = edit("op", "move", "path", "criteria.smell", "before", "")
	assert.Contains(t, words(a), "Undo: Criterion Smell back before Cost over the horizon")
	edit("op", "set", "path", "criteria.smell.name", "was", "Smell", "value", "Scent")
	a = edit("op", "remove", "path", "criteria.ease")
	assert.Contains(t, words(a), "Undo: Criterion Ease of daily work back where it was")
	assert.Equal(t, "cost automation trade look help smell", order())
	assert.NotContains(t, words(get(t, app.Client, app.Page("history"))), "rating")
	bin := get(t, app.Client, app.Address+"/bin")
	assert.Contains(t, words(bin), "criterion of Spring list Ease of daily work")
	form := binned(t, app)
	a = post(t, app.Client, app.Address+"/bin", form...)
	assert.Contains(t, words(a), "The bin is empty")
	assert.Equal(t, "cost automation ease trade look help smell", order())
	assert.Equal(t, http.StatusConflict, post(t, app.Client, app.Address+"/bin", form...).status, "once is enough")
	st, err := app.Store.Study(t.Context(), app.Workspace.ID, app.Study, testkit.Day)
	require.NoError(t, err)
	assert.Len(t, st.Ratings, 24, "with its ratings")
	for range 6 {
		edit("op", "undo")
	}
	strip := regexp.MustCompile(`(?s)"history": \[.*?\n      \]|"updated_at": "[^"]*"`)
	assert.Equal(t, strip.ReplaceAllString(before, ""), strip.ReplaceAllString(contents(t, app), ""))

	// What cannot be added is told at its field; what was typed stays.
	for want, form := range map[string][]string{
		"“heavy” is not a share":                           {"item.name", "Smell", "item.weight", "heavy"},
		"is empty; type":                                   {"item.name", " ", "item.weight", "5"},
		"Nothing was added. Row 2, Weight: “x” is not":     {"op", "paste", "columns", "name,weight", "rows", "A\t5\nB\tx"},
		"Row 1 has 3 cells; there are 2 columns":           {"op", "paste", "columns", "name,weight", "rows", "A\t5\t6"},
		"There is no row":                                  {"op", "paste", "columns", "name,weight", "rows", "\n \n"},
		"at most 200 go in at once":                        {"op", "paste", "columns", "name,weight", "rows", strings.Repeat("A\t1\n", 201)},
		"at most 60 are taken, and this would be more":     {"op", "paste", "columns", "name,weight", "rows", strings.Repeat("A\t1\n", 55)},
		"“6,5” could mean 6.5: decimals begin with a p":    {"item.name", "Smell", "item.weight", "6,5"},
		"Row 1, Weight: “6,5” could mean 6.5":              {"op", "paste", "columns", "name,weight", "rows", "A\t6,5"},
		"Nothing was added: there is no such list in this": {"path", "nothing", "item.name", "x"},
	} {
		given := strings.Join(form, " ")
		if !strings.Contains(given, "op paste") {
			form = append(form, "op", "insert")
		}
		if !strings.Contains(given, "path nothing") {
			form = append(form, "path", "criteria")
		}
		a := edit(form...)
		assert.GreaterOrEqual(t, a.status, 400, want)
		assert.Contains(t, words(a), want)
		assert.Equal(t, "cost automation ease trade look help", order(), want)
	}
	a = edit("op", "insert", "path", "criteria", "item.name", "Smell <b>", "item.weight", "heavy")
	assert.Contains(t, a.body, `value="Smell &lt;b&gt;"`)
	assert.Regexp(t, `<details[^>]* open>`, a.body)
}

// TestAPrivateOfferIsEnteredWherePricesAre enters what was quoted for a plan on
// request, wrongly first, and takes it back.
func TestAPrivateOfferIsEnteredWherePricesAre(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	at := app.Page("prices")
	a := get(t, app.Client, at)
	assert.Contains(t, words(a), "Fernwire, Beacon: the price is on request")
	assert.NotContains(t, a.body, `name="columns" value="of`, "what is chosen cannot be pasted")
	assert.NotContains(t, get(t, app.Client, app.Page("line-up")).body, `name="columns"`)
	offer := []string{"op", "insert", "path", "private_offers", "item.of", "fernwire beacon", "item.months", "12", "item.paid", "upfront", "item.on", "20 Nov 2026", "item.note", "by telephone"}
	a = post(t, app.Client, at, append(offer, "item.bill", "2.400")...)
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, a.body, `id="add-private_offers-bill-problem"`)
	assert.Contains(t, words(a), "“2.400” could mean 2.4 or 2,400")
	assert.Contains(t, a.body, `value="by telephone"`, "what was typed is kept")
	assert.Regexp(t, `value="fernwire beacon" selected`, a.body)
	a = post(t, app.Client, at, append(offer, "item.bill", "2,400")...)
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.Contains(t, words(a), "€234.00 as quoted to you on 20 Nov 2026", "GBP 2,400 over 12 months at 1.17")
	a = post(t, app.Client, at, append(offer, "item.bill", "2,300")...)
	assert.Equal(t, http.StatusConflict, a.status)
	assert.NotContains(t, words(a), "Private offer Private offer")
	assert.Contains(t, words(a), "Private offer for Fernwire, Beacon, yearly is there already; change it where it stands. Nothing was added.")
	a = post(t, app.Client, app.Page("coverage"), "op", "insert", "path", "needs", "item.name", "Triggers", "item.feature", "automation/event-triggers", "item.level", "want")
	assert.Contains(t, words(a), "is there already; change it where it stands")
	assert.Contains(t, words(get(t, app.Client, app.Page("receipts/fernwire?plan=beacon&term=12-upfront"))), "As quoted to you one bill, for 12 months £2,400.00")
	assert.Contains(t, words(get(t, app.As(t, doors.Reader), at)), "as quoted to you on 20 Nov 2026")
	assert.NotContains(t, get(t, app.As(t, doors.Reader), at).body, `value="private_offers"`, "a reader enters none")
	a = post(t, app.Client, at, "op", "set", "path", "private_offers.fernwire/beacon/12-upfront.until", "was", "", "value", "31 Dec 2026")
	assert.Contains(t, words(a), "Not counted: Jan 2027 begins after the last day to sign.")
	a = post(t, app.Client, app.Page("line-up"), "op", "remove", "path", "options.fernwire")
	require.Equal(t, http.StatusOK, a.status, words(a))
	a = get(t, app.Client, at)
	assert.NotContains(t, words(a), "Fernwire, Beacon: the price is on request", "no plan is on request")
	assert.Contains(t, words(a), "Did somebody quote you better terms than the list?")
	post(t, app.Client, app.Page("line-up"), "op", "undo")
	assert.Contains(t, get(t, app.Client, at).body, `value="by telephone"`, "it came back with its option")
}

// TestFaultsAreShownAndTheRestGoesOn has the study at fault in three places.
func TestFaultsAreShownAndTheRestGoesOn(t *testing.T) {
	app := testkit.Start(t, true)
	post(t, app.Client, app.Page("growth"), "op", "set", "path", "drivers.contacts.growth", "was", "2%", "value", "95")
	post(t, app.Client, app.Page("growth"), "op", "insert", "path", "own_drivers", "item.name", "Loop", "item.unit", "x", "item.kind", "stock", "item.formula", "loop + 1")
	post(t, app.Client, app.Page("scores"), "op", "set", "path", "criteria.cost.best", "was", "4000", "value", "20000")
	for _, coin := range study.CoinNames {
		a := get(t, app.Client, app.Page(coin[0]))
		assert.Equal(t, http.StatusOK, a.status, coin[0])
		assert.Regexp(t, `Growth \d to mend`, words(a), coin[0])
		assert.NotContains(t, a.body, "NaN", coin[0])
	}
	a := get(t, app.Client, app.Page("growth"))
	assert.Regexp(t, `id="drivers-contacts-growth-fault">Contacts in `, a.body)
	assert.Regexp(t, `id="own_drivers-loop-formula-fault">Loop: formula`, a.body)
	a = get(t, app.Client, app.Page("scores"))
	assert.Contains(t, a.body, `id="criteria-cost-worst-fault">the worst cost, 10000, is below the best, 20000`)
	assert.Contains(t, words(get(t, app.Client, app.Page("line-up"))), "Out: it cannot be computed")
	assert.Contains(t, words(get(t, app.Client, app.Address+"/")), "Mend it")
	assert.Equal(t, http.StatusOK, get(t, app.Client, app.Page("options/brindlepost")).status)
	for range 3 {
		a = post(t, app.Client, app.Page("growth"), "op", "undo")
	}
	assert.NotContains(t, words(a), "to mend")
	assert.Contains(t, words(a), "€7,036")
}

// TestTheDeskShowsManyStudiesInPages begins thirteen and looks for some of them.
func TestTheDeskShowsManyStudiesInPages(t *testing.T) {
	app := testkit.Start(t, true)
	e := testkit.As(t, app.Store, app.Workspace.ID, uuid.Nil, doors.Owner)
	for n := range 12 {
		st := study.Begun(testkit.Day, money.Currency{})
		st.Title = fmt.Sprintf("Study %02d of 100%% & more", n)
		_, err := app.Store.NewStudy(t.Context(), e, st)
		require.NoError(t, err)
	}
	a := get(t, app.Client, app.Address+"/")
	assert.Contains(t, words(a), "10 are shown")
	assert.Equal(t, 10, strings.Count(a.body, "study-card"))
	assert.Contains(t, words(a), "Study 11 of 100%")
	older := regexp.MustCompile(`href="(/\?before=[^"]+)"`).FindStringSubmatch(a.body)
	require.Len(t, older, 2)
	a = get(t, app.Client, app.Address+older[1])
	assert.Equal(t, 3, strings.Count(a.body, "study-card"))
	assert.Contains(t, words(a), "Spring list")
	assert.Contains(t, words(a), "The newest")
	for title, found := range map[string]int{"SPRING": 1, "100%": 10, "study 0": 10, "_": 0, "": 10, "no such": 0} {
		a = get(t, app.Client, app.Address+"/?title="+strings.ReplaceAll(strings.ReplaceAll(title, "%", "%25"), " ", "+"))
		assert.Equal(t, found, strings.Count(a.body, "study-card"), title)
	}
	assert.Contains(t, words(get(t, app.Client, app.Address+"/?title=none&before=nonsense")), "No study is called that")
}
