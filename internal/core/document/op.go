package document

import (
	"fmt"
	"slices"
)

// Do is a way of editing.
type Do string

// The ways of editing.
const (
	Set    Do = "set"    // a field
	Insert Do = "insert" // an item into a list
	Remove Do = "remove" // one out of it
	Move   Do = "move"   // one to another place in it
)

// Op is one edit. Items stand as JSON, values in the canonical text of their
// notation.
type Op struct {
	Do   Do   `json:"do"`
	Path Path `json:"path"`
	// What stood there: of a set and a remove; of a move, the key that the item
	// stood before.
	Was string `json:"was,omitempty"`
	// What stands there then: of a set and an insert.
	To string `json:"to,omitempty"`
	// The key of the item that an inserted or moved one stands before, and that a
	// removed one stood before; "" for last.
	Before string `json:"before,omitempty"`
}

// Change is one step of undo: several edits that go together.
type Change []Op

// Inverse takes the change back, once it is made.
func (c Change) Inverse() Change {
	back := make(Change, 0, len(c))
	for _, op := range slices.Backward(c) {
		switch op.Do {
		case Set:
			op.Was, op.To = op.To, op.Was
		case Insert:
			op.Do, op.Was, op.To = Remove, op.To, ""
		case Remove:
			op.Do, op.Was, op.To = Insert, "", op.Was
		case Move:
			op.Was, op.Before = op.Before, op.Was
		}
		back = append(back, op)
	}
	return back
}

// ChangedError reports an edit of what is not as it was thought to be.
type ChangedError struct {
	Path Path
	Now  string // what stands there; "" where nothing does
}

func (e *ChangedError) Error() string { return fmt.Sprintf("%s was changed meanwhile", e.Path) }

// InvalidError reports an edit that cannot be made.
type InvalidError struct {
	Path    Path
	Problem string
}

func (e *InvalidError) Error() string { return fmt.Sprintf("%s %s", e.Path, e.Problem) }

// Spot is what a page needs to show a field and to edit it.
type Spot struct {
	Path  Path
	Label string // "Ease of daily work, weight"
	Text  string // canonical
	Shown string // on the screen, as it is typed
	Said  string // in a sentence, with its unit
	Want  string
	Input Input
	Need  int    // as [Needs] told
	There bool   // something stands there
	Owner string // whose it is; "" nobody's
}

// Said tells an edit in words.
type Said struct {
	Label string `json:"label"` // "Ease of daily work, weight"
	Was   string `json:"was"`
	To    string `json:"to"`
}
