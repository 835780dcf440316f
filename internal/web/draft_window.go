package web

import (
	"fmt"
	"strconv"
)

// planWindow is how many plans of a draft are shown side by side.
const planWindow = 12

// window is which plans of the draft are shown: from one on, by ?from=.
func (e *draftEditor) window() (from, to int) {
	n := len(e.draft.Draft.Edition.Plans)
	from, err := strconv.Atoi(e.c.Query("from"))
	if from--; err != nil || from < 0 || from >= n {
		from = 0
	}
	from = from / planWindow * planWindow
	return from, min(from+planWindow, n)
}

// windows are the choices of what is shown; none where all of it is.
func (e *draftEditor) windows() (all []choiceView) {
	n := len(e.draft.Draft.Edition.Plans)
	if n <= planWindow {
		return nil
	}
	now, _ := e.window()
	for from := 0; from < n; from += planWindow {
		all = append(all, choiceView{Label: fmt.Sprintf("%d to %d", from+1, min(from+planWindow, n)), Link: linkTo(e, "from", strconv.Itoa(from+1)), Chosen: from == now})
	}
	return all
}
