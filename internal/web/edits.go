package web

import (
	"errors"
	"fmt"
	"html/template"
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"

	"github.com/gin-gonic/gin"
	"github.com/gin-gonic/gin/binding"
	"github.com/google/uuid"
)

// change is a form as it was sent: what is done to what stands at a path of the
// study. All coins send the same, and one handler takes them.
type change struct {
	Op     string `form:"op" binding:"required,oneof=set fields insert paste remove move undo redo put-back pass-over answer aside all-plans stack start bend even take-over history"`
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
	sh := sheet{at: at, need: table.NeedOf}
	if ch.Op == "fields" || ch.Op == "set" {
		var err error
		if sh, _, err = s.studySheet(c, at); err != nil {
			return nil, err
		}
	}
	if ch.Op == "fields" {
		return s.setFields(c, sh)
	}
	ch.Value = strings.TrimSpace(ch.Value)
	path := document.Path(ch.Path)
	if err := sh.mayChange(c, path); err != nil {
		return nil, err
	}
	switch ch.Op {
	case "undo", "redo", "put-back", "pass-over":
		return s.takeBack(c, at, ch)
	case "set":
		return s.set(c, sh, ch)
	case "insert":
		return s.add(c, at, ch)
	case "paste":
		return s.paste(c, at, ch)
	case "start":
		return s.start(c, at, ch)
	case "answer":
		return s.answer(c, at, ch)
	case "all-plans", "stack":
		return s.addSeveral(c, at, ch)
	case "aside":
		return s.setAside(c, at, ch)
	case "bend", "even", "take-over", "history":
		return s.grow(c, at, ch)
	}
	op := document.Op{Do: document.Do(ch.Op), Path: path, Before: ch.Before}
	return saved(c, s.store.Edit(c, at, document.Change{op}), idOf(path), "")
}

// How the fields of a row are named when they come together: by their paths, each
// with what stood there.
const valueOf, wasOf = "value.", "was."

// mostOfRow is how many fields of a row are changed at once: more than a row has.
const mostOfRow = 40

// oneLine is what was typed into a field that shows several lines.
func oneLine(typed string) string {
	return strings.Join(strings.FieldsFunc(typed, func(r rune) bool { return r == '\r' || r == '\n' }), " ")
}

// mistyped says what is wrong with what was typed into a field. A number that
// could be read otherwise than it was typed for is asked about, offering the
// readings that the field would take; where save is nil, they are shown.
func mistyped(field, typed string, err error, want string, save func(reading string) (way, bool)) *refusal {
	var own document.Problem
	var asked *money.UnclearError
	switch {
	case errors.As(err, &asked) && save == nil:
		return refuse(field, typed, couldMean(typed, asked)+"; nothing was changed.")
	case errors.As(err, &asked):
		if wrong := unclear(field, typed, asked, save); wrong != nil {
			return wrong
		}
	case errors.As(err, &own):
		return refuse(field, typed, fmt.Sprintf("%s: %s; nothing was changed.", quoted(typed), own))
	}
	return refuse(field, typed, fmt.Sprintf("%s is not %s; nothing was changed.", quoted(typed), want))
}

// couldMean says what a typed number may have been meant for.
func couldMean(typed string, asked *money.UnclearError) string {
	text := quoted(typed) + " could mean " + strings.Join(asked.Readings, " or ")
	if !strings.HasSuffix(strings.TrimSpace(typed), "%") {
		text += ": decimals begin with a point"
	}
	return text
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
	if e.Empty != "" && !e.Long && len(e.Choices) == 0 {
		b = fmt.Appendf(b, ` placeholder="%s"`, template.HTMLEscapeString(e.Empty))
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
	case steps[0] == "plans" && len(steps) > 3 && steps[2] == "features": // a row of the grid
		steps[0], steps[1] = "features", steps[3]
	case steps[0] == "platform", steps[0] == "connector":
		steps[1] = "all"
	case steps[0] == "tax", steps[0] == "trial":
		return "fields-list"
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
