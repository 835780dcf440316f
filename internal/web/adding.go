package web

import (
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strings"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

// mostRows is how many rows are pasted at once.
const mostRows = 200

// add inserts an item into a list: its fields are the form's, under their names
// after "item.".
func (s *Server) add(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	st, err := s.store.Study(c, at.Workspace, at.Study, at.Today)
	if err != nil {
		return nil, err
	}
	path, form := document.Path(ch.Path), typedItem(c)
	typed := spread(form)
	if path == "options" && typed["platform"] != "" && typed["name"] == "" {
		if typed["name"], err = s.nameFor(c, at, typed); err != nil {
			return nil, err
		}
		typed["name"] = freeName(st, typed["name"])
	}
	insert, err := inserted(*st, path, typed)
	if err != nil {
		return s.notAdded(st, path, form, err), nil
	}
	insert[0].Before = ch.Before
	err = s.store.Edit(c, at, insert)
	var there *store.ChangedError
	if errors.As(err, &there) && there.Path == insert[0].Path {
		return &refusal{status: http.StatusConflict, problem: problem{Field: addID(path, ""), Item: form,
			Message: there.Label + " is there already; change it where it stands. Nothing was added."}}, nil
	}
	if err == nil && path == "needs" {
		err = s.shareFeatures(c, at)
	}
	wrong, err := saved(c, err, addID(path, ""), "")
	if wrong != nil {
		wrong.problem.Item = form
	}
	return wrong, err
}

// typedItem is what was typed into the fields of a new item.
func typedItem(c *gin.Context) map[string]string {
	typed := map[string]string{}
	for name, values := range c.Request.PostForm {
		if field, ok := strings.CutPrefix(name, "item."); ok && len(values) > 0 {
			typed[field] = strings.TrimSpace(values[0])
		}
	}
	return typed
}

// spread puts what is chosen at once into the fields that it stands for.
func spread(form map[string]string) map[string]string {
	typed := maps.Clone(form)
	// A price list of the shelf is a platform and the day it was read on.
	if platform, day, ok := strings.Cut(typed["list"], " "); ok {
		typed["platform"], typed["observed_on"] = platform, day
	}
	delete(typed, "list")
	// A plan of the line-up is an option and one of its plans.
	if option, plan, ok := strings.Cut(typed["of"], " "); ok {
		typed["option"], typed["plan"] = option, plan
	}
	delete(typed, "of")
	return typed
}

// freeName is a name that no option of a study has: with a number behind it
// where the platform is in the line-up already.
func freeName(st *study.Study, name string) string {
	free := name
	for n := 2; slices.ContainsFunc(st.Options, func(o study.Option) bool { return o.Name == free }); n++ {
		free = fmt.Sprintf("%s %d", name, n)
	}
	return free
}

// inserted turns what was typed into the change that adds it.
func inserted(st study.Study, path document.Path, typed map[string]string) (document.Change, error) {
	if path == "needs" && typed["feature"] == "" && typed["name"] != "" {
		typed = maps.Clone(typed)
		typed["feature"], typed["name"] = featureOf(&st, typed["name"])
	}
	op, err := table.Add(st, path, typed)
	if err != nil {
		return nil, err
	}
	if path == "drivers" {
		return append(st.Bring(typed["driver"]), study.Added(op)...), nil
	}
	return study.Added(op), nil
}

// featureOf is the feature that the name of a need means, and what it is called: one of
// the catalogue, else one of the study's own.
func featureOf(st *study.Study, name string) (key, called string) {
	if f, ok := st.Catalogue.Named(name); ok {
		return f.Key, f.Name
	}
	key = document.KeyFor(name, func(key string) bool {
		return slices.ContainsFunc(st.Needs, func(n coverage.Need) bool { return n.Feature == "own/"+key })
	})
	return "own/" + key, name
}

// notAdded says at its field what is wrong with a new item, which keeps all that
// was typed.
func (s *Server) notAdded(st *study.Study, path document.Path, typed map[string]string, err error) *refusal {
	var at *document.TypedError
	if !errors.As(err, &at) {
		return &refusal{status: http.StatusConflict, problem: problem{Message: "Nothing was added: there is no such list in this study."}}
	}
	columns, _ := table.Columns(*st, path)
	name := at.Name
	if whole, ok := chosenBy[name]; ok && typed[name] == "" {
		name = whole
	}
	field, text := addID(path, name), typed[name]
	wrong := refuse(field, text, at.Err.Error())
	if text != "" {
		wrong = mistyped(field, text, at.Err, columnOf(columns, name).Want, nil)
	}
	wrong.problem.Item = typed
	return wrong
}

// chosenBy says which field of a form fills in those of an item.
var chosenBy = map[string]string{"platform": "list", "observed_on": "list", "option": "of", "plan": "of"}

func columnOf(c document.Columns, name string) document.Column {
	at := slices.IndexFunc(c.Fields, func(one document.Column) bool { return one.Name == name })
	if at < 0 {
		return document.Column{Name: name, Label: name}
	}
	return c.Fields[at]
}

// addID is the id of a field of the form that adds to a list.
func addID(path document.Path, field string) string {
	return strings.Trim("add-"+idOf(path)+"-"+field, "-")
}

// paste inserts several rows at the end of a list, as they come out of a
// spreadsheet: a row a line, with tabs between its cells, which stand in the
// order of the form's columns. All go in or none.
func (s *Server) paste(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	st, err := s.store.Study(c, at.Workspace, at.Study, at.Today)
	if err != nil {
		return nil, err
	}
	path := document.Path(ch.Path)
	all, wrong := rows(*st, path, ch.Rows, strings.Split(c.PostForm("columns"), ","))
	if wrong != "" {
		return refuse(addID(path, "rows"), ch.Rows, "Nothing was added. "+wrong), nil
	}
	err = s.store.Edit(c, at, all)
	if err == nil && path == "needs" {
		err = s.shareFeatures(c, at)
	}
	return saved(c, err, addID(path, "rows"), ch.Rows)
}

// rows reads pasted rows, or says what is wrong in which row and column.
func rows(st study.Study, path document.Path, text string, names []string) (all document.Change, wrong string) {
	lines := slices.DeleteFunc(strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n"), func(line string) bool { return strings.TrimSpace(line) == "" })
	switch {
	case len(lines) == 0:
		return nil, "There is no row in what was pasted."
	case len(lines) > mostRows:
		return nil, fmt.Sprintf("There are %d rows; at most %d go in at once.", len(lines), mostRows)
	}
	for n, line := range lines {
		typed := map[string]string{}
		cells := strings.Split(line, "\t")
		if len(cells) > len(names) {
			return nil, fmt.Sprintf("Row %d has %d cells; there are %d columns here.", n+1, len(cells), len(names))
		}
		for i, cell := range cells {
			typed[names[i]] = strings.TrimSpace(cell)
		}
		insert, err := inserted(st, path, typed)
		var at *document.TypedError
		if errors.As(err, &at) {
			columns, _ := table.Columns(st, path)
			column := columnOf(columns, at.Name)
			why := quoted(typed[at.Name]) + " is not " + column.Want
			if asked := (*money.UnclearError)(nil); errors.As(at.Err, &asked) {
				why = couldMean(typed[at.Name], asked)
			}
			return nil, fmt.Sprintf("Row %d, %s: %s.", n+1, capital(orElse(column.Label != "", column.Label, at.Name)), why)
		}
		if err == nil {
			st, _, err = table.Apply(st, insert)
		}
		if err != nil {
			return nil, fmt.Sprintf("Row %d: %v.", n+1, err)
		}
		all = append(all, insert...)
	}
	return all, ""
}

// addForm is the form that adds an item to a list.
type addForm struct {
	ID, Path, One string
	Title         string // what opens it; "" as usual
	Fields        []addField
	Columns       string // names of the fields that rows are pasted into
	Rows          string
	RowsProblem   string
	Problem       string // of the item as a whole
	Open          bool
}

type addField struct {
	ID, Name, Label, Value, Problem, Unit string
	Longest                               int
	Decimal, Wide, Must                   bool
	Choices                               []choiceView
	Hints                                 []string // what may be typed
}

// adding makes the form that adds to a list. Which of the fields it asks for, and
// in which order, is for the page to say; nil where the caller may not.
func (r *request) adding(path document.Path, names ...string) *addForm {
	columns, ok := table.Columns(*r.study(), path)
	if !ok || !r.caller.mayEdit(path) {
		return nil
	}
	f := &addForm{ID: addID(path, ""), Path: string(path), One: columns.One, Columns: strings.Join(names, ",")}
	for _, name := range names {
		c := columnOf(columns, name)
		one := addField{ID: addID(path, name), Name: name, Label: capital(orElse(c.Label != "", c.Label, name)), Longest: c.Input.Longest,
			Decimal: c.Input.Decimal, Unit: c.Input.Unit, Must: c.Must,
			Value: r.typed(name)}
		for _, choice := range c.Input.Choices {
			one.Choices = append(one.Choices, choiceView{Label: choice, Value: choice, Chosen: choice == one.Value})
		}
		if p := r.problemAt(one.ID); p != nil {
			one.Problem, f.Open = p.Message, true
		}
		f.Fields = append(f.Fields, one)
	}
	if p := r.problemAt(f.ID); p != nil {
		f.Problem, f.Open = p.Message, true
	}
	if p := r.problemAt(addID(path, "rows")); p != nil {
		f.RowsProblem, f.Rows, f.Open = p.Message, p.Typed, true
	}
	return f
}

// set gives a field of the form its label, what may be chosen in it, and hints.
func (f *addForm) set(name, label string, choices []choiceView, hints ...string) {
	if f == nil {
		return
	}
	for i := range f.Fields {
		if one := &f.Fields[i]; one.Name == name {
			one.Label = orElse(label != "", label, one.Label)
			one.Hints = hints
			if choices != nil {
				for j := range choices {
					choices[j].Chosen = choices[j].Value == one.Value
				}
				one.Choices = choices
			}
		}
	}
}

// Heads names the columns of pasted rows, with what may stand in them.
func (f *addForm) Heads() string {
	var heads []string
	for _, one := range f.Fields {
		head := one.Label
		if len(one.Choices) > 0 && len(one.Choices) < 5 {
			var values []string
			for _, c := range one.Choices {
				values = append(values, c.Value)
			}
			head += " (" + strings.Join(values, " or ") + ")"
		}
		heads = append(heads, head)
	}
	return list(heads)
}

// openWhere opens the form where there is nothing in the list yet.
func (f *addForm) openWhere(empty bool) {
	if f != nil && empty {
		f.Open = true
	}
}

// begin fills a field in as it usually is, where nothing was typed yet.
func (f *addForm) begin(name, usual string) {
	if f == nil {
		return
	}
	for i := range f.Fields {
		if one := &f.Fields[i]; one.Name == name && one.Value == "" && f.Problem == "" && one.Problem == "" {
			one.Value = usual
		}
	}
}

// oneByOne takes no pasted rows: what is chosen in a field has no name that could
// be typed.
func (f *addForm) oneByOne() {
	if f != nil {
		f.Columns = ""
	}
}

// titled says what opens the form.
func (f *addForm) titled(title string) {
	if f != nil {
		f.Title = title
	}
}

// place is where an item stands in its list, with what moves and removes it.
type place struct {
	Path, Name string
	Remove     string // path of what is removed: the item, or what it belongs to
	Up, Down   string // keys before which it goes; "" for last
	First      bool
	Last       bool
	May        bool
}

// placeOf makes the place of the item at an index of a list whose items have
// some keys.
func (r *request) placeOf(list document.Path, name string, keys []string, at int) place {
	p := place{Path: string(list.To(keys[at])), Name: name, First: at == 0, Last: at == len(keys)-1, May: r.caller.mayEdit(list)}
	p.Remove = p.Path
	if at > 0 {
		p.Up = keys[at-1]
	}
	if at+2 < len(keys) {
		p.Down = keys[at+2]
	}
	return p
}

// moveForm moves an item by one place.
type moveForm struct {
	Way, Path, Name, Before, Sign string
	Shut                          bool
}

func move(p place, way string) moveForm {
	if way == "up" {
		return moveForm{way, p.Path, p.Name, p.Up, "↑", p.First}
	}
	return moveForm{way, p.Path, p.Name, p.Down, "↓", p.Last}
}
