package web_test

import (
	"net/http"
	"testing"

	"ninecoins/internal/testkit"
)

// BenchmarkEdit saves one number of the demo's study, works it out and shows the
// page that answers.
func BenchmarkEdit(b *testing.B) {
	app := testkit.Start(b, true)
	edit := turn(b, app)
	for b.Loop() {
		edit()
	}
}

// BenchmarkCosts shows the costs of a study as it was, and after a driver was changed;
// the edit itself is left out.
func BenchmarkCosts(b *testing.B) {
	app := testkit.Start(b, true)
	edit := turn(b, app)
	b.Run("as-it-was", func(b *testing.B) {
		for b.Loop() {
			get(b, app.Client, app.Page("costs"))
		}
	})
	b.Run("changed", func(b *testing.B) {
		for b.Loop() {
			b.StopTimer()
			edit()
			b.StartTimer()
			get(b, app.Client, app.Page("costs"))
		}
	})
}

// turn changes a driver of the demo's study to and fro.
func turn(b *testing.B, app *testkit.App) func() {
	values := [2]string{"6400", "7000"}
	n := 0
	return func() {
		form := map[string][]string{"op": {"set"}, "path": {"drivers.contacts.now"}, "was": {values[n%2]}, "value": {values[(n+1)%2]}}
		resp, err := app.Client.PostForm(app.Page("growth"), form)
		if err != nil || resp.StatusCode != http.StatusOK {
			b.Fatal(resp, err)
		}
		resp.Body.Close()
		n++
	}
}
