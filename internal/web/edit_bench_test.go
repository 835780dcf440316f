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
	values := [2]string{"6400", "7000"}
	n := 0
	for b.Loop() {
		form := map[string][]string{"op": {"set"}, "path": {"drivers.contacts.now"}, "was": {values[n%2]}, "value": {values[(n+1)%2]}}
		resp, err := app.Client.PostForm(app.Page("growth"), form)
		if err != nil || resp.StatusCode != http.StatusOK {
			b.Fatal(resp, err)
		}
		resp.Body.Close()
		n++
	}
}
