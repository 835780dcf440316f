package web_test

import (
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"ninecoins/internal/doors"
	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAWholePriceListIsEnteredByHand says everything that the price model has, by forms
// alone, and publishes it.
func TestAWholePriceListIsEnteredByHand(t *testing.T) {
	app := testkit.Start(t, true)
	c := app.Client
	post(t, c, app.Address+"/shelf", "op", "new", "name", "Reed Mail", "does", "email", "currency", "EUR")
	at := app.Address + "/shelf/platforms/reed-mail/draft/prices"
	ok := func(pairs ...string) answer {
		t.Helper()
		a := post(t, c, at, pairs...)
		require.Equal(t, http.StatusOK, a.status, words(a))
		return a
	}
	no := func(want string, pairs ...string) {
		t.Helper()
		a := post(t, c, at, pairs...)
		assert.Equal(t, http.StatusUnprocessableEntity, a.status)
		assert.Contains(t, words(a), want)
	}
	no("A plan needs a name", "op", "plan", "item.name", "")
	ok("op", "plan", "item.name", "Sedge", "item.price", "")
	on := []string{"on", "plans.sedge"}
	add := func(op string, pairs ...string) []string { return append(append([]string{"op", op}, on...), pairs...) }
	ok(add("term", "item.months", "1")...)
	ok(add("term", "item.months", "12", "item.paid", "upfront", "item.off", "20")...)
	no("neither a number of months", add("term", "item.months", "99")...)
	no("Choose what is counted", add("charge", "item.kind", "stair", "item.price", "9", "item.size", "500")...)
	no("could mean", add("charge", "item.kind", "flat", "item.price", "9,50")...)
	no("“£9” is no amount in EUR", add("charge", "item.kind", "flat", "item.price", "£9")...)
	no("could mean 45 or 0.45", add("charge", "item.kind", "flat", "item.price", "45%")...)
	no("needs how many it holds", add("charge", "item.kind", "pack", "item.meter", "emails_sent", "item.price", "9")...)
	ok(add("charge", "item.kind", "stair", "item.meter", "contacts", "item.price", "9", "item.size", "500")...)
	bands := "plans.sedge.charges.contacts"
	no("Nothing was changed. Row 2: “dear” is no amount", "op", "bands", "on", bands, "rows", "500\t9\n2500\tdear")
	a := ok("op", "bands", "on", bands, "rows", "up to\tmonth\tyear\n500\t9\t7\n2,500\t19\nmore\t49")
	assert.Contains(t, a.body, `value="2,500"`)
	assert.Contains(t, words(a), "yearly, a month")
	assert.Contains(t, a.body, `placeholder="15.2"`, "19 less a fifth")
	// Where a band ends can be moved, out of order, too: it is told beside it, and put in order.
	a = ok("op", "set", "path", bands+".bands.2500.to", "was", "2500", "value", "100")
	assert.Contains(t, words(a), "not above band 1, which ends at 500")
	no("there is a band up to 500 already", "op", "set", "path", bands+".bands.100.to", "was", "100", "value", "500")
	a = ok("op", "in-order", "on", bands)
	assert.NotContains(t, words(a), "not above band")
	ok("op", "undo")
	ok("op", "undo")
	a = get(t, c, at)
	assert.Contains(t, a.body, `value="2,500"`, "each edit is taken back by itself")

	ok("op", "set", "path", bands+".bands.2500.yearly", "was", "", "value", "15")
	ok("op", "remove", "path", bands+".bands.open")
	ok("op", "set", "path", bands+".above", "was", "on request", "value", "4 per 1,000")
	ok(add("charge", "item.kind", "unit", "item.meter", "seats", "item.price", "12")...)
	ok("op", "set", "path", "plans.sedge.charges.seats.included", "was", "0", "value", "2")
	ok(add("charge", "item.kind", "pack", "item.meter", "emails_sent", "item.price", "8", "item.size", "10,000")...)
	ok(add("charge", "item.kind", "share", "item.meter", "ad_spend", "item.price", "3", "item.label", "Ads")...)
	ok(add("charge", "item.kind", "once", "item.price", "250")...)
	ok(add("limit", "item.meter", "emails_sent", "item.most", "12 x contacts")...)
	no("has such a limit already", add("limit", "item.meter", "emails_sent", "item.most", "15 x contacts")...)
	no("is no multiple such as 12 x contacts", add("limit", "item.meter", "posts", "item.most", "12 x dragons")...)
	ok("op", "set", "path", "plans.sedge.limits.emails_sent/contacts.beyond", "was", "move up", "value", "buy a pack")
	ok(add("limit", "item.meter", "workflows", "item.most", "unlimited")...)
	ok("op", "addon", "item.name", "Texting", "item.price", "25")
	ok("op", "set", "path", "add_ons.texting.gives", "was", "", "value", "conversation/texting")
	no("there is no plan “Brook”", "op", "set", "path", "add_ons.texting.plans", "was", "SEDGE", "value", "Sedge, Brook")
	ok("op", "set", "path", "add_ons.texting.plans", "was", "sedge", "value", "SEDGE ")
	no("Type how much it takes off", "op", "offer", "on", "offers", "item.kind", "percent")
	ok("op", "offer", "on", "offers", "item.name", "First spring", "item.kind", "percent", "item.value", "50", "item.months", "3")
	ok("op", "set", "path", "offers.first-spring.until", "was", "", "value", "31 Mar 2027")
	no("is no formula such as contacts * 2", "op", "meter", "on", "meters", "item.unit", "person", "item.counts", "contacts **")
	ok("op", "meter", "on", "meters", "item.unit", "person", "item.counts", "contacts * (1 + list_overlap)")
	// What no driver counts yet becomes a driver of the list's own.
	no("Say what one of them is called", "op", "meter", "on", "meters", "item.driver", "own")
	a = ok("op", "meter", "on", "meters", "item.driver", "own", "item.unit", "course", "item.kind", "stock")
	assert.Contains(t, a.body, `value="Courses"`)
	assert.Contains(t, words(a), "Drivers of this list's own")
	ok(add("limit", "item.meter", "courses", "item.most", "3")...)
	a = ok("op", "set", "path", "meters.person.counts", "was", "contacts * (1 + list_overlap)", "value", "dragons")
	assert.Contains(t, words(a), "There is no driver")
	ok("op", "undo")
	ok("op", "set", "path", "trial.days", "was", "0", "value", "14")
	ok("op", "set", "path", "tax.rate", "was", "0%", "value", "21")
	a = get(t, c, at)
	assert.Contains(t, words(a), "contacts times (1 plus list overlap)")
	assert.NotContains(t, words(a), "Before it can be published")
	require.Contains(t, publish(t, c, at).at, "published=yes")
	// A study that compares it can set the driver, which is its own from then on.
	st := begun(t, app, c, "Who teaches?")
	list := regexp.MustCompile(`value="(reed-mail [0-9-]+)"`).FindStringSubmatch(get(t, c, st+"/line-up?find=reed").body)
	require.NotNil(t, list)
	post(t, c, st+"/line-up", "op", "insert", "path", "options", "item.list", list[1])
	a = get(t, c, st+"/growth")
	assert.Contains(t, a.body, `value="courses"`)
	a = post(t, c, st+"/growth", "op", "insert", "path", "drivers", "item.driver", "courses", "item.now", "2")
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.Contains(t, words(a), "Courses")
	assert.Contains(t, words(get(t, c, st+"/prices")), "at most 3 courses")
	a = get(t, c, app.Address+"/shelf/platforms/reed-mail/prices.csv")
	for _, want := range []string{"Sedge,band,contacts,,yearly,,,,,2500,15", "Sedge,above,contacts,,,,,,,,4,,,,1000", "Sedge,pack,emails-sent,Emails sent,,,,,emails_sent,,8,,,10000", "Sedge,share,ads,Ads,,,,,ad_spend,,3%",
		"Sedge,limit,,,,,,,emails_sent,12 x contacts,,,,,,,,,,buy a pack", "Sedge,once,set-up,Set-up,,,,,,,250"} {
		assert.Contains(t, a.body, want)
	}
}

// TestAnEditorIsForEditors looks at a draft as a reader, who changes nothing.
func TestAnEditorIsForEditors(t *testing.T) {
	app := testkit.Start(t, true)
	post(t, app.Client, app.Address+"/shelf/platforms/brindlepost", "op", "open")
	at := app.Address + "/shelf/platforms/brindlepost/draft/prices"
	a := get(t, app.As(t, doors.Reader), at)
	assert.Equal(t, http.StatusOK, a.status)
	assert.NotContains(t, a.body, `name="op" value="charge"`)
	assert.Contains(t, words(a), "Bough costs least")
	a = post(t, app.As(t, doors.Reader), at, "op", "set", "path", "plans.bough.name", "was", "Bough", "value", "Twig")
	assert.Equal(t, http.StatusForbidden, a.status)
}

// TestWhatADraftComesToFollowsEachEdit tries a draft at a usage, and tells what it changes
// for the studies that use the platform.
func TestWhatADraftComesToFollowsEachEdit(t *testing.T) {
	app := testkit.Start(t, true)
	c := app.Client
	post(t, c, app.Address+"/shelf/platforms/brindlepost", "op", "open")
	at := app.Address + "/shelf/platforms/brindlepost/draft/prices"
	a := get(t, c, at+"?at.contacts=6,400&at.seats=3&plan=bough")
	assert.Contains(t, words(a), "Bough, a month €161.00")
	assert.Contains(t, words(a), "As in the edition of 2 Oct 2026.")
	a = post(t, c, at+"?at.contacts=6,400&at.seats=3&plan=bough", "op", "set", "path", "plans.bough.charges.base.bands.8000.price", "was", "149", "value", "159")
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.Contains(t, words(a), "Bough, a month €171.00")
	assert.Contains(t, words(a), "Was €161.00 in the edition of 2 Oct 2026: +€10.00.")
	assert.Contains(t, words(a), "Brindlepost would cost Spring list €120.00 more over 36 months")
	assert.Contains(t, words(get(t, c, at+"?at.contacts=many")), "“many” is no number such as 6,400.")
	assert.Contains(t, words(get(t, c, at+"?along=seats")), "What it comes to")
	// What is wrong stands at its place, and stops nothing else.
	a = post(t, c, at, "op", "set", "path", "offers.gone.months", "was", "1", "value", "2")
	assert.Equal(t, http.StatusConflict, a.status)
	a = post(t, c, at, "op", "copy", "from", "bough", "name", "Great bough")
	assert.Contains(t, a.body, `id="plan-great-bough"`)
	a = post(t, c, at, "op", "remove", "path", "meters.seats")
	assert.Contains(t, words(a), `There is no meter &#34;seats&#34;.`)
	assert.Contains(t, words(a), "What it comes to is told once nothing is at fault.")
	a = publish(t, c, at)
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
}

func TestPricesComeInAsATableWholeOrNotAtAll(t *testing.T) {
	app := testkit.Start(t, true)
	c := app.Client
	post(t, c, app.Address+"/shelf/platforms/brindlepost", "op", "open")
	base := app.Address + "/shelf/platforms/brindlepost"
	out := get(t, c, base+"/prices.csv?of=draft")
	require.Equal(t, http.StatusOK, out.status)
	assert.True(t, strings.HasPrefix(out.body, "plan,what,key"), out.body)
	a := post(t, c, base+"/draft/prices", "op", "csv", "rows", out.body)
	assert.Contains(t, words(a), "all of that stands there already")
	a = post(t, c, base+"/draft/prices", "op", "csv", "rows", strings.Replace(out.body, ",149,", ",dear,", 1))
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Contains(t, words(a), "expected an amount such as 12.00, found &#34;dear&#34;")
	a = post(t, c, base+"/draft/prices", "op", "csv", "rows", strings.Replace(out.body, ",149,", ",155,", 1)+"Thicket,term,monthly,,,1\nThicket,flat,base,A month,,,,,,,500\n")
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.Contains(t, a.body, `value="155"`)
	assert.Contains(t, a.body, `id="plan-thicket"`)
	a = post(t, c, base+"/draft/prices", "op", "undo")
	assert.NotContains(t, a.body, `id="plan-thicket"`, "one undo takes all of it back")
}

// TestAPlanThatNeverServesHasALineWithoutParts: the chart is drawn for the others.
func TestAPlanThatNeverServesHasALineWithoutParts(t *testing.T) {
	app := testkit.Start(t, true)
	a := get(t, app.Client, app.Page("prices?view=curve&of=brindlepost"))
	assert.Contains(t, a.body, `{"name":"Sprig","shade":0,"of":3,"parts":[]}`, "it lacks a must")
	assert.Contains(t, words(a), "From 0 to 20,000 contacts Bough costs least.")
	assert.NotContains(t, a.body, `"parts":null`)
}

// TestAListOfFiveHundredPlansIsEditedInWindows: no page shows them all at once.
func TestAListOfFiveHundredPlansIsEditedInWindows(t *testing.T) {
	app := testkit.Start(t, true)
	var plans []string
	for i := range 500 {
		plans = append(plans, fmt.Sprintf(`{"key": "p%d", "name": "Plan %d", "offered": "public", "terms": [{"key": "monthly", "months": 1}],
			"charges": [{"key": "base", "kind": "stair", "meter": "contacts", "bands": [{"to": 1000, "price": "%d"}, {"to": 5000, "price": "%d"}]}]}`, i, i, 10+i, 40+i))
	}
	file := `{"format": "nine-coins/price-list/1", "observed_on": "2026-11-01", "source": "x", "currency": "EUR", "platform": {"key": "many", "name": "Many", "does": []}, "tax": {},
		"meters": [{"key": "contacts", "unit": "contact", "kind": "stock", "counts": "contacts"}], "plans": [` + strings.Join(plans, ",") + `]}`
	a := upload(t, app.Client, app.Address+"/files", []byte(file))
	require.Equal(t, http.StatusOK, a.status, words(a))
	base := app.Address + "/shelf/platforms/many"
	post(t, app.Client, base, "op", "open")
	a = get(t, app.Client, base+"/draft/prices")
	assert.Less(t, len(a.body), 800<<10)
	assert.Contains(t, a.body, `id="plan-p11"`)
	assert.NotContains(t, a.body, `id="plan-p12"`)
	a = post(t, app.Client, base+"/draft/prices?from=493", "op", "set", "path", "plans.p499.name", "was", "Plan 499", "value", "The last")
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.Contains(t, a.body, `value="The last"`)
	assert.Less(t, len(get(t, app.Client, base+"/draft?from=493").body), 1500<<10)
	assert.Equal(t, http.StatusOK, get(t, app.Client, base+"/draft/prices?from=9999").status)
}

// A price list that is published a second time on a day is an edition of its own, later that day, which
// studies and comparisons find by its time.
func TestACorrectionOnTheSameDay(t *testing.T) {
	app := testkit.Start(t, true)
	c, shelf := app.Client, app.Address+"/shelf/platforms/brindlepost"
	at := shelf + "/draft/prices"
	post(t, c, shelf, "op", "open")
	require.Contains(t, publish(t, c, at).at, "published=yes")
	post(t, c, shelf, "op", "open")
	require.Equal(t, http.StatusOK, post(t, c, at, "op", "set", "path", "plans.bough.name", "was", "Bough", "value", "Bough anew").status)
	require.Contains(t, publish(t, c, at).at, "published=yes")
	assert.Regexp(t, `\d{4}, \d\d:\d\d`, words(get(t, c, shelf)))
	later := regexp.MustCompile(`value="(\d{4}-\d\d-\d\dT\d\d:\d\d)"`).FindStringSubmatch(get(t, c, app.Page("line-up")).body)
	require.NotNil(t, later, "the line-up offers it")
	a := post(t, c, app.Page("line-up"), "op", "set", "path", "options.brindlepost.observed_on", "was", "2026-10-02", "value", later[1])
	require.Equal(t, http.StatusOK, a.status, words(a))
	assert.Contains(t, words(get(t, c, app.Page("line-up"))), "Bough anew")
	a = get(t, c, shelf+"/compare?from="+later[1][:10]+"&to="+later[1])
	assert.Equal(t, http.StatusOK, a.status)
	assert.Contains(t, words(a), "Bough anew")
}
