package web

import (
	"errors"
	"fmt"
	"html/template"
	"maps"
	"net/http"
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/gin-gonic/gin/binding"
	"github.com/google/uuid"
)

// change is a form as it was sent: what is done to what stands at a path of the
// study. All coins send the same, and one handler takes them.
type change struct {
	Op     string `form:"op" binding:"required,oneof=set fields insert paste remove move undo redo put-back pass-over"`
	Path   string `form:"path" binding:"max=400"`
	Was    string `form:"was" binding:"max=4000"`
	Value  string `form:"value" binding:"max=4000"`
	Before string `form:"before" binding:"max=200"`
	Change string `form:"change" binding:"max=40"` // put-back, pass-over: which one
	Rows   string `form:"rows" binding:"max=40000"`
}

// table is the one description of what is edited.
var table = study.Kept()

// edit saves the change that a form carries.
func (s *Server) edit(c *gin.Context, id uuid.UUID) (*refusal, error) {
	var ch change
	if err := c.ShouldBindWith(&ch, binding.FormPost); err != nil {
		return nil, unreadable()
	}
	at := s.editing(c, id)
	if ch.Op == "fields" {
		return s.setFields(c, at)
	}
	ch.Value = strings.TrimSpace(ch.Value)
	path := document.Path(ch.Path)
	if err := mayChange(c, path); err != nil {
		return nil, err
	}
	switch ch.Op {
	case "undo", "redo", "put-back", "pass-over":
		return s.takeBack(c, at, ch)
	case "set":
		return s.set(c, at, ch)
	case "insert":
		return s.add(c, at, ch)
	case "paste":
		return s.paste(c, at, ch)
	}
	op := document.Op{Do: document.Do(ch.Op), Path: path, Before: ch.Before}
	return saved(c, s.store.Edit(c, at, document.Change{op}), idOf(path), "")
}

// mayChange refuses what the caller's role does not allow.
func mayChange(c *gin.Context, path document.Path) error {
	if need := doors.Need(table.NeedOf(path)); need != doors.Untold && !callerOf(c).may(need) {
		return notAllowed(callerOf(c), need)
	}
	return nil
}

// How the fields of a row are named when they come together: by their paths, each
// with what stood there.
const valueOf, wasOf = "value.", "was."

// mostOfRow is how many fields of a row are changed at once: more than a row has.
const mostOfRow = 40

// setFields saves the fields of a row that were changed, as they come together
// where no script sends each for itself. What is wrong is told beside its field;
// the others are saved.
func (s *Server) setFields(c *gin.Context, at store.Editing) (*refusal, error) {
	st, err := s.store.Study(c, at.Workspace, at.Study, at.Today)
	if err != nil {
		return nil, err
	}
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
		if text, err := table.Typed(*st, path, oneLine(one.Value)); err == nil && text == one.Was {
			continue
		}
		if err := mayChange(c, path); err != nil {
			return nil, err
		}
		if changes = append(changes, one); len(changes) > mostOfRow {
			return nil, tooMuch()
		}
	}
	var all *refusal
	for _, one := range changes {
		wrong, err := s.set(c, at, one)
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

// oneLine is what was typed into a field that shows several lines.
func oneLine(typed string) string {
	return strings.Join(strings.FieldsFunc(typed, func(r rune) bool { return r == '\r' || r == '\n' }), " ")
}

// set saves a field. What cannot be read is refused, saying what is wanted; what
// may mean something else is asked about.
func (s *Server) set(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	path := document.Path(ch.Path)
	st, err := s.store.Study(c, at.Workspace, at.Study, at.Today)
	if err != nil {
		return nil, err
	}
	spot, there := table.Spot(*st, path)
	if !there || len(path.Steps()) == 0 {
		return &refusal{status: http.StatusConflict, problem: problem{Message: "Nothing was saved: what you changed is not there any more. The bin and the history tell more."}}, nil
	}
	ch.Value = oneLine(ch.Value)
	to, err := table.Typed(*st, path, ch.Value)
	if err != nil {
		return mistyped(idOf(path), ch.Value, err, spot.Want, func(reading string) (way, bool) {
			_, err := table.Typed(*st, path, reading)
			return way{"Save " + reading, map[string]string{"op": "set", "path": ch.Path, "was": ch.Was, "value": reading}}, err == nil
		}), nil
	}
	// What was sent before and is not answered yet is told as it was typed.
	if was, err := table.Typed(*st, path, ch.Was); err == nil && ch.Was != "" {
		ch.Was = was
	}
	return saved(c, s.store.Edit(c, at, document.Change{{Do: document.Set, Path: path, Was: ch.Was, To: to}}), idOf(path), ch.Value)
}

// mistyped says what is wrong with what was typed into a field. A number that
// could be read otherwise than it was typed for is asked about, offering the
// readings that the field would take.
func mistyped(field, typed string, err error, want string, save func(reading string) (way, bool)) *refusal {
	var own document.Problem
	var asked *money.UnclearError
	switch {
	case errors.As(err, &asked):
		if wrong := unclear(field, typed, asked, save); wrong != nil {
			return wrong
		}
	case errors.As(err, &own):
		return refuse(field, typed, fmt.Sprintf("%s: %s; nothing was changed.", quoted(typed), own))
	}
	return refuse(field, typed, fmt.Sprintf("%s is not %s; nothing was changed.", quoted(typed), want))
}

// unclear asks what was meant; nil where the field would take none of it.
func unclear(field, typed string, asked *money.UnclearError, save func(reading string) (way, bool)) *refusal {
	var ways []way
	var meant []string
	for _, reading := range asked.Readings {
		if one, ok := save(reading); ok {
			meant, ways = append(meant, reading), append(ways, one)
		}
	}
	if len(ways) == 0 {
		return nil
	}
	why := "Decimals begin with a point here."
	switch {
	case len(ways) > 1:
		why = quoted(typed) + " can be read as either."
	case len(asked.Readings) > 1:
		why = quoted(typed) + " can be read two ways, and only this one fits here."
	}
	wrong := refuse(field, typed, fmt.Sprintf("Did you mean %s? %s Nothing was changed.", strings.Join(meant, " or "), why))
	wrong.problem.Ways = ways
	return wrong
}

// quoted writes what was typed, shortened, in quotation marks.
func quoted(s string) string {
	if r := []rune(s); len(r) > 30 {
		s = string(r[:30]) + "…"
	}
	return "“" + s + "”"
}

// editable is an input that is changed where it stands.
type editable struct {
	ID, Path string
	Value    string // as it is typed
	Was      string // what stands there, for the form to send along
	Label    string // for those who do not see the place
	Unit     string
	Longest  int
	Decimal  bool
	Choices  []choiceView // one of these; none: it is typed
	Form     string       // id of the form that sends it, with the others of its row
	Stands   string       // what Value would be without a problem
	Problem  string
	Typed    string // what was not saved because somebody else wrote meanwhile
	Mine     bool   // offer to save it all the same
	Ways     []way  // what may have been meant by it
	Wide     bool
	Text     bool   // words, not figures
	Long     bool   // words that may need several lines
	Short    bool   // a word or a day
	Empty    string // what an empty field invites to
	Locked   string // why the caller may not change it; "" where they may
	Fault    string // what keeps the study from being computed with it
}

// Told reports whether there is something to say about it.
func (e editable) Told() bool { return e.Problem != "" || e.Fault != "" }

// Class is the classes that it is drawn by.
func (e editable) Class() string {
	class := "edit"
	if e.Wide {
		class += " wide"
	}
	if e.Text {
		class += " words"
	}
	if e.Short {
		class += " short"
	}
	if e.Problem != "" {
		class += " wrong"
	}
	return class
}

// Hidden is what a form of its own sends along with the value.
func (e editable) Hidden() template.HTML {
	return template.HTML(`<input type="hidden" name="op" value="set"><input type="hidden" name="path" value="` + template.HTMLEscapeString(e.Path) +
		`"><input type="hidden" name="was" value="` + template.HTMLEscapeString(e.Was) + `">`)
}

// WasField is what stands in the field, which the form of its row sends along.
// Like [editable.Attributes] it is written here, and not in the template, because a
// page holds hundreds of them: escaping each by its context costs more than the
// rest of the page.
func (e editable) WasField() template.HTML {
	return template.HTML(`<input type="hidden" name="` + wasOf + template.HTMLEscapeString(e.Path) + `" value="` + template.HTMLEscapeString(e.Was) +
		`" form="` + template.HTMLEscapeString(e.Form) + `">`)
}

// Attributes are what inputs of every shape share.
func (e editable) Attributes() template.HTMLAttr {
	id := template.HTMLEscapeString(e.ID)
	b := make([]byte, 0, 250)
	b = fmt.Appendf(b, `name="%s%s" aria-label="%s" id="%s" form="%s" autocomplete="off"`, valueOf, template.HTMLEscapeString(e.Path),
		template.HTMLEscapeString(e.Label), id, template.HTMLEscapeString(e.Form))
	if len(e.Choices) == 0 {
		b = fmt.Appendf(b, ` maxlength="%d"`, orElse(e.Longest > 0, e.Longest, 600))
	}
	if e.Decimal {
		b = append(b, ` inputmode="decimal"`...)
	}
	switch {
	case e.Problem != "":
		b = fmt.Appendf(b, ` autofocus aria-invalid="true" aria-describedby="%s-problem" data-stands="%s"`, id, template.HTMLEscapeString(e.Stands))
	case e.Fault != "":
		b = fmt.Appendf(b, ` aria-describedby="%s-fault"`, id)
	}
	return template.HTMLAttr(b)
}

// idOf is the id of the input at a path. Whose a rating is does not count: of
// one rater's only are edited on a page.
func idOf(path document.Path) string {
	steps := path.Steps()
	if len(steps) > 1 && steps[0] == "ratings" {
		if _, rest, ok := strings.Cut(steps[1], "/"); ok {
			steps[1] = rest
		}
	}
	return inIDs.Replace(strings.Join(steps, "-"))
}

// formOf is the id of the form that sends what stands at a path: each row of a
// list has one, and the facts of a study have one together.
func formOf(path document.Path) string {
	steps := path.Steps()
	switch {
	case len(steps) < 2:
		return "fields"
	case steps[0] == "own_drivers":
		steps[0] = "drivers"
	case steps[0] == "ratings":
		steps[0], steps[1] = "criteria", steps[1][strings.LastIndexByte(steps[1], '/')+1:]
	}
	return "fields-" + inIDs.Replace(steps[0]+"-"+steps[1])
}

// rowForm is the form that sends fields of a row; none where the caller may change none of them.
func rowForm(fields ...editable) template.HTML {
	open := slices.IndexFunc(fields, func(e editable) bool { return e.Locked == "" })
	if open < 0 {
		return ""
	}
	return template.HTML(`<form method="post" id="` + template.HTMLEscapeString(fields[open].Form) +
		`" class="row-form" data-live><input type="hidden" name="op" value="fields"><button class="save">Save</button></form>`)
}

var inIDs = strings.NewReplacer("/", "-", " ", "-")

// field makes an editable of what stands at a path; after a refused edit it has
// the message, and holds what was typed unless somebody else's value now stands
// there.
func (r *request) field(path document.Path, label string) editable {
	spot, _ := table.Spot(*r.study(), path)
	e := editable{ID: idOf(path), Form: formOf(path), Path: string(path), Value: spot.Shown, Was: spot.Text, Label: orElse(label != "", label, spot.Label), Unit: spot.Input.Unit,
		Longest: spot.Input.Longest, Decimal: spot.Input.Decimal, Text: !spot.Input.Decimal}
	e.Long, e.Short = e.Text && e.Longest > 40, e.Text && e.Longest <= 20
	if spot.Input.YesNo {
		e.Choices = []choiceView{{Label: "no", Value: "false", Chosen: e.Was != "true"}, {Label: "yes", Value: "true", Chosen: e.Was == "true"}}
	}
	for _, name := range spot.Input.Choices {
		e.Choices = append(e.Choices, choiceView{Label: name, Value: name, Chosen: name == e.Was})
	}
	if p := r.problemAt(e.ID); p != nil {
		e.Problem, e.Stands = p.Message, e.Value
		if p.Meanwhile {
			e.Typed, e.Mine = p.Typed, true
		} else {
			e.Value, e.Ways = strings.TrimSuffix(p.Typed, orElse(e.Unit != "", e.Unit, "\x00")), p.Ways
		}
	}
	for i, fault := range r.outcome.Faults {
		if fault.At == path {
			e.Fault = fault.Text
			r.shown[i] = true
		}
	}
	switch {
	case strings.HasSuffix(e.Path, ".note"):
		e.Empty = "a note"
	case strings.HasSuffix(e.Path, ".about"):
		e.Empty = "about it"
	}
	if need := doors.Need(spot.Need); !r.caller.may(need) {
		e.Locked = "This is changed by " + orElse(need == doors.ToRate, "raters", "editors") + "."
	}
	return e
}

// number is a field that is wide enough for long figures.
func (r *request) number(path document.Path, label string) editable {
	e := r.field(path, label)
	e.Wide = true
	return e
}
