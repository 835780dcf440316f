package web_test

import (
	"testing"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/study"
	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
)

// What holds or does not is said as yes and no, not as files write it.
func TestYesAndNoAreSaidAsSuch(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	alter(t, app, func(*study.Study) document.Change { return document.Change{set("connector.free", "false", "true")} })
	page := words(get(t, app.Client, app.Page("brief")))
	assert.Contains(t, page, "back to no")
	assert.NotContains(t, page, "back to false")
	assert.Contains(t, page, "120 at most", "how far a horizon may go is said before it is typed")
	assert.NotContains(t, words(get(t, app.Client, app.Page("history"))), "true")
}

// A page on which nothing is counted is tried without a word of usage.
func TestAPageThatCountsNothingIsTried(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, true)
	a := send(t, app.Client, app.Address+"/shelf/read", "op", "read", "platform", "Plainly", "page", "Plainly\n€12 a month\n")
	assert.Contains(t, words(a), "Plainly costs €12.00 a month.")
	assert.NotContains(t, words(a), "For ,")
}
