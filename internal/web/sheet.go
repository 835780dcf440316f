package web

import (
	"maps"
	"net/http"
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/gin-gonic/gin/binding"
)

// sheet is a document as it stands, for its fields to be edited.
type sheet struct {
	at    store.Editing
	spot  func(document.Path) (document.Spot, bool)
	typed func(document.Path, string) (string, error)
	need  func(document.Path) int
	// Saves what is set in a way of its own; false where a field is set as usual.
	own func(change) (*refusal, bool, error)
}

func sheetOf[P any](t *document.Table[P], p P, at store.Editing) sheet {
	return sheet{at: at, spot: func(path document.Path) (document.Spot, bool) { return t.Spot(p, path) },
		typed: func(path document.Path, text string) (string, error) { return t.Typed(p, path, text) }, need: t.NeedOf}
}

// studySheet is a study as it stands.
func (s *Server) studySheet(c *gin.Context, at store.Editing) (sheet, *study.Study, error) {
	st, err := s.store.Study(c, at.Workspace, at.Study, at.Today)
	if err != nil {
		return sheet{}, nil, err
	}
	return sheetOf(table, *st, at), st, nil
}

// mayChange refuses what the caller's role does not allow.
func (sh *sheet) mayChange(c *gin.Context, path document.Path) error {
	if need := doors.Need(sh.need(path)); need != doors.Untold && !callerOf(c).may(need) {
		return notAllowed(callerOf(c), need)
	}
	return nil
}

// set saves a field. What cannot be read is refused, saying what is wanted; what
// may mean something else is asked about.
func (s *Server) set(c *gin.Context, sh sheet, ch change) (*refusal, error) {
	path := document.Path(ch.Path)
	spot, there := sh.spot(path)
	if !there || len(path.Steps()) == 0 {
		return &refusal{status: http.StatusConflict, problem: problem{Message: "Nothing was saved: what you changed is not there any more. The bin and the history tell more."}}, nil
	}
	ch.Value = oneLine(ch.Value)
	to, err := sh.typed(path, ch.Value)
	if err != nil {
		return mistyped(idOf(path), ch.Value, err, spot.Want, func(reading string) (way, bool) {
			_, err := sh.typed(path, reading)
			return way{"Save " + reading, map[string]string{"op": "set", "path": ch.Path, "was": ch.Was, "value": reading}}, err == nil
		}), nil
	}
	// What was sent before and is not answered yet is told as it was typed.
	if was, err := sh.typed(path, ch.Was); err == nil && ch.Was != "" {
		ch.Was = was
	}
	return saved(c, s.store.Edit(c, sh.at, document.Change{{Do: document.Set, Path: path, Was: ch.Was, To: to}}), idOf(path), ch.Value)
}

// setFields saves the fields of a row that were changed, as they come together
// where no script sends each for itself. What is wrong is told beside its field;
// the others are saved.
func (s *Server) setFields(c *gin.Context, sh sheet) (*refusal, error) {
	var changes []change
	form := c.Request.PostForm
	for _, name := range slices.Sorted(maps.Keys(form)) {
		to, is := strings.CutPrefix(name, valueOf)
		if !is {
			continue
		}
		path := document.Path(to)
		one := change{Op: "set", Path: to, Was: form.Get(wasOf + to), Value: strings.TrimSpace(form.Get(name))}
		if err := binding.Validator.ValidateStruct(one); err != nil {
			return nil, unreadable()
		}
		if text, err := sh.typed(path, oneLine(one.Value)); err == nil {
			if was, err := sh.typed(path, one.Was); text == one.Was || err == nil && text == was {
				continue
			}
		}
		if err := sh.mayChange(c, path); err != nil {
			return nil, err
		}
		if changes = append(changes, one); len(changes) > mostOfRow {
			return nil, tooMuch()
		}
	}
	var all *refusal
	for _, one := range changes {
		wrong, taken, err := (*refusal)(nil), false, error(nil)
		if sh.own != nil {
			wrong, taken, err = sh.own(one)
		}
		if !taken && err == nil {
			wrong, err = s.set(c, sh, one)
		}
		switch {
		case err != nil:
			return nil, err
		case wrong != nil && all == nil:
			all = wrong
		case wrong != nil:
			all.more = append(all.more, wrong.problem)
		}
	}
	return all, nil
}

// fields draws the fields of a document, with what is wrong with what was just sent.
type fields struct {
	caller   *caller
	problems []*problem // with what was just sent
	spot     func(document.Path) (document.Spot, bool)
	faults   []study.Fault
	shown    map[int]bool // faults that stand beside their field
}

// problemAt returns what is wrong at a place of the page, which tells it; nil
// where nothing is.
func (f *fields) problemAt(id string) *problem {
	for _, p := range f.problems {
		if p.Field == id {
			p.told = true
			return p
		}
	}
	return nil
}

// typed is what was typed into a field of a new item that was not taken.
func (f *fields) typed(name string) string {
	for _, p := range f.problems {
		if p.Item != nil {
			return p.Item[name]
		}
	}
	return ""
}

// refused notes what is wrong with what was sent.
func (f *fields) refused(wrong *refusal) {
	f.problems = append(f.problems, &wrong.problem)
	for i := range wrong.more {
		f.problems = append(f.problems, &wrong.more[i])
	}
}

// untold gathers what is wrong and stands beside no field into a line above the page.
func (f *fields) untold(n *notice) *notice {
	for _, p := range f.problems {
		switch {
		case p.told:
		case n == nil || !n.Trouble:
			n = &notice{Trouble: true, Text: p.Message, Ways: p.Ways}
		default:
			n.Text += " " + p.Message
		}
	}
	return n
}

// field makes an editable of what stands at a path; after a refused edit it has
// the message, and holds what was typed unless somebody else's value now stands
// there.
func (f *fields) field(path document.Path, label string) editable {
	spot, _ := f.spot(path)
	e := editable{ID: idOf(path), Form: formOf(path), Path: string(path), Value: spot.Shown, Was: spot.Text, Label: orElse(label != "", label, spot.Label), Unit: spot.Input.Unit,
		Longest: spot.Input.Longest, Decimal: spot.Input.Decimal, Text: !spot.Input.Decimal}
	e.Long, e.Short = e.Text && e.Longest > 40, e.Text && e.Longest <= 20
	if spot.Input.YesNo {
		e.Choices = []choiceView{{Label: "no", Value: "false", Chosen: e.Was != "true"}, {Label: "yes", Value: "true", Chosen: e.Was == "true"}}
	}
	for _, name := range spot.Input.Choices {
		e.Choices = append(e.Choices, choiceView{Label: name, Value: name, Chosen: name == e.Was})
	}
	if p := f.problemAt(e.ID); p != nil {
		e.Problem, e.Stands = p.Message, e.Value
		if p.Meanwhile {
			e.Typed, e.Mine = p.Typed, true
		} else {
			e.Value, e.Ways = strings.TrimSuffix(p.Typed, orElse(e.Unit != "", e.Unit, "\x00")), p.Ways
		}
	}
	for i, fault := range f.faults {
		if fault.At == path {
			e.Fault = fault.Text
			f.shown[i] = true
		}
	}
	switch {
	case strings.HasSuffix(e.Path, ".note"):
		e.Empty = "a note"
	case strings.HasSuffix(e.Path, ".about"):
		e.Empty = "about it"
	}
	if need := doors.Need(spot.Need); !f.caller.may(need) {
		e.Locked = "This is changed by " + orElse(need == doors.ToRate, "raters", "editors") + "."
	}
	return e
}

// number is a field that is wide enough for long figures.
func (f *fields) number(path document.Path, label string) editable {
	e := f.field(path, label)
	e.Wide = true
	return e
}

// orNothing lets a choice be none, which is called so.
func (e editable) orNothing(none string) editable {
	e.Choices = append([]choiceView{{Label: none, Value: "", Chosen: e.Was == ""}}, e.Choices...)
	return e
}
