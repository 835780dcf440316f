package web

import (
	"fmt"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/store"
)

// mostAsked is how many studies are looked through for who asks for a feature.
const mostAsked = 6

// askedFor tells which studies ask for a feature, and whether a plan now meets that.
func (s *Server) askedFor(e *draftEditor, key string) (all []string, err error) {
	uses, err := s.store.PlatformUses(e.c, e.caller.workspace(), e.draft.Draft.Edition.Platform.Key, mostAsked)
	if err != nil {
		return nil, err
	}
	for _, u := range uses {
		st, err := s.store.Study(e.c, e.caller.workspace(), u.ID, s.today())
		if err != nil && (e.c.Request.Context().Err() != nil || store.Away(err)) {
			return nil, err
		}
		if err != nil { // gone, or at fault: that study's own page tells
			continue
		}
		for _, n := range st.Needs {
			if e.catalogue.Key(n.Feature) != key {
				continue
			}
			text := fmt.Sprintf("%s: %s (%s).", st.Title, sayNeed(&n), n.Level)
			cell := coverage.Of(e.draft.Whole, n, false)
			if cell.Answer == coverage.Met && cell.Plan != nil {
				text += " Met on " + cell.Plan.Name + "."
			} else if cell.Answer == coverage.Unmet {
				text += " Not met."
			}
			all = append(all, text)
		}
	}
	return all, nil
}

// sayNeed tells how much is asked for.
func sayNeed(n *coverage.Need) string {
	switch {
	case n.Number > 0:
		return "at least " + n.Number.Format()
	case n.Depth > 0:
		return fmt.Sprintf("depth %d or more", n.Depth)
	}
	return "to have it"
}
