package web

import (
	"errors"
	"html/template"
	"net/http"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/feature"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/gin-gonic/gin/binding"
)

// featuresBody is the catalogue of features, by area.
type featuresBody struct {
	Areas   []areaView
	Choices []choiceView // areas
	Of      string
	Text    string
	Count   int
	May     bool
	Undo    undoLine
	New     map[string]string
	Field   string
	Problem string
	All     []choiceView // features that one can be merged into
	Merged  []mergedView
	Kinds   []choiceView
}

type areaView struct {
	Name, About string
	Rows        []featureView
}

type featureView struct {
	Key, Question, About string
	Name                 editable
	AboutIs, Asks, Unit  *editable // of one's own, which are edited
	Own                  bool
	Form                 template.HTML
	UnitIs               string
}

type mergedView struct{ From, Into, Path string }

// featuresForm is a form of the page of the catalogue.
type featuresForm struct {
	Op       string `form:"op" binding:"required,oneof=set fields undo redo put-back pass-over new merge apart remove"`
	Path     string `form:"path" binding:"max=400"`
	Was      string `form:"was" binding:"max=4000"`
	Value    string `form:"value" binding:"max=4000"`
	Change   string `form:"change" binding:"max=40"`
	From     string `form:"from" binding:"max=200"`
	Into     string `form:"into" binding:"max=200"`
	Name     string `form:"name" binding:"max=80"`
	Area     string `form:"area" binding:"max=80"`
	About    string `form:"about" binding:"max=200"`
	Question string `form:"question" binding:"max=200"`
	Unit     string `form:"unit" binding:"max=30"`
}

// featureEditor is one request for the catalogue.
type featureEditor struct {
	fields
	c         *gin.Context
	own       feature.Own
	catalogue *feature.Catalogue
	at        store.Editing
}

func (s *Server) openFeatures(c *gin.Context) (*featureEditor, error) {
	catalogue, own, id, err := s.store.Catalogue(c, callerOf(c).workspace())
	e := &featureEditor{c: c, own: own, catalogue: catalogue, at: s.editing(c, id), fields: fields{caller: callerOf(c), shown: map[int]bool{},
		spot: func(path document.Path) (document.Spot, bool) { return feature.Table().Spot(own, path) }}}
	e.at.Kind = store.ACatalogue
	return e, err
}

// featuresPage shows the catalogue: an area of it, or what was looked for.
func (s *Server) featuresPage(c *gin.Context) {
	e, err := s.openFeatures(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.drawFeatures(e, http.StatusOK, nil)
}

func (s *Server) drawFeatures(e *featureEditor, status int, typed *featuresForm) {
	b := featuresBody{May: e.caller.may(doors.ToEdit), Of: e.c.Query("area"), Text: strings.TrimSpace(e.c.Query("find")), New: map[string]string{}}
	if typed != nil {
		b.New = map[string]string{"name": typed.Name, "area": typed.Area, "about": typed.About, "question": typed.Question, "unit": typed.Unit, "from": typed.From, "into": typed.Into}
	}
	for _, p := range e.problems {
		if strings.HasPrefix(p.Field, "feature-") {
			b.Field, b.Problem, p.told = strings.TrimPrefix(p.Field, "feature-"), p.Message, true
		}
	}
	b.Choices = []choiceView{{Label: "All areas", Link: "/features", Chosen: b.Of == ""}}
	for _, a := range e.catalogue.Areas() {
		b.Choices = append(b.Choices, choiceView{Label: a.Name, Link: "/features?area=" + a.Key, Chosen: a.Key == b.Of})
		b.Kinds = append(b.Kinds, choiceView{Label: a.Name, Value: a.Key, Chosen: a.Key == b.New["area"]})
		view := areaView{Name: a.Name, About: a.About}
		for _, f := range e.catalogue.Of(a.Key) {
			b.Count++
			b.All = append(b.All, choiceView{Label: a.Name + ": " + f.Name, Value: f.Key})
			low := strings.ToLower(f.Name + " " + f.About + " " + f.Question)
			if b.Of != "" && a.Key != b.Of || b.Text != "" && !strings.Contains(low, strings.ToLower(b.Text)) {
				continue
			}
			view.Rows = append(view.Rows, e.view(f))
		}
		if len(view.Rows) > 0 {
			b.Areas = append(b.Areas, view)
		}
	}
	for _, m := range e.own.Merged {
		from, into := nameOf(m.From), m.Into
		if f, ok := e.catalogue.Find(m.Into); ok {
			into = f.Name
		}
		if was, ok := (*feature.Catalogue)(nil).Find(m.From); ok {
			from = was.Name
		}
		b.Merged = append(b.Merged, mergedView{from, into, string(document.Path("merged").To(m.From))})
	}
	var err error
	if e.own.Features != nil || e.own.Merged != nil || e.own.Areas != nil || e.at.Study.String() != "00000000-0000-0000-0000-000000000000" {
		b.Undo, err = s.documentUndo(e.c, e.at)
	}
	if err != nil {
		s.fail(e.c, err)
		return
	}
	s.render(e.c, status, "features", page{Title: "Features", Active: "shelf", Limits: e.caller.limits(), Body: b, Notice: e.untold(nil)})
}

func nameOf(key string) string {
	_, name, _ := strings.Cut(key, "/")
	return strings.ReplaceAll(name, "-", " ")
}

func (e *featureEditor) view(f feature.Feature) featureView {
	path := feature.Path(f.Key)
	v := featureView{Key: f.Key, Question: f.Question, About: f.About, Own: f.Own, UnitIs: f.Unit, Name: e.field(path.To("name"), "Name of "+f.Name)}
	if v.Name.Problem == "" {
		v.Name.Value = f.Name
	}
	v.Name.Long = false
	v.Form = rowForm(v.Name)
	if f.Own {
		about, asks, unit := e.field(path.To("about"), "What "+f.Name+" means"), e.field(path.To("question"), "Question about "+f.Name), e.field(path.To("unit"), "Unit of "+f.Name)
		about.Empty, asks.Empty, unit.Empty = "what it means", "a question that tells it from half of it", "of a number"
		v.AboutIs, v.Asks, v.Unit = &about, &asks, &unit
	}
	return v
}

// featuresEdit renames, adds, merges, parts and removes features.
func (s *Server) featuresEdit(c *gin.Context) {
	var form featuresForm
	e, err := s.openFeatures(c)
	if bad := c.ShouldBindWith(&form, binding.FormPost); err == nil && bad != nil {
		err = unreadable()
	}
	if err == nil && e.at.Study.String() == "00000000-0000-0000-0000-000000000000" {
		at := e.at
		at.Kind = store.AStudy
		e.at.Study, err = s.store.OpenCatalogue(c, at)
	}
	var wrong *refusal
	if err == nil {
		wrong, err = s.changeFeatures(c, e, &form)
	}
	if s.taken(c, wrong, err) {
		return
	}
	again, err := s.openFeatures(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	again.refused(wrong)
	s.drawFeatures(again, wrong.status, &form)
}

func (s *Server) changeFeatures(c *gin.Context, e *featureEditor, form *featuresForm) (*refusal, error) {
	sh := sheetOf(feature.Table(), e.own, e.at)
	ch := change{Op: form.Op, Path: form.Path, Was: form.Was, Value: strings.TrimSpace(form.Value), Change: form.Change}
	no := func(field, typed, why string) (*refusal, error) { return refuse("feature-"+field, typed, why), nil }
	switch form.Op {
	case "fields":
		return s.setFields(c, e.shipped(sh))
	case "set":
		return s.set(c, e.shipped(sh), ch)
	case "undo", "redo", "put-back", "pass-over":
		return s.takeBack(c, e.at, ch)
	case "new":
		return s.addFeature(c, e, form)
	case "merge":
		from, ok := e.catalogue.Named(form.From)
		into, too := e.catalogue.Named(form.Into)
		switch {
		case !ok:
			return no("from", form.From, quoted(form.From)+" is no feature of the catalogue; choose one. Nothing was merged.")
		case !too:
			return no("into", form.Into, quoted(form.Into)+" is no feature of the catalogue; choose one. Nothing was merged.")
		case from.Key == into.Key:
			return no("into", form.Into, "A feature cannot be merged into itself. Nothing was merged.")
		}
		item := feature.WriteMerge(feature.Merge{From: from.Key, Into: into.Key})
		op := document.Op{Do: document.Insert, Path: document.Path("merged").To(from.Key), To: item}
		return saved(c, s.store.Edit(c, e.at, document.Change{op}), "feature-from", form.From)
	case "apart":
		return saved(c, s.store.Edit(c, e.at, document.Change{{Do: document.Remove, Path: document.Path(form.Path)}}), "", "")
	case "remove":
		_, key, _ := strings.Cut(form.Path, ".")
		err := s.store.RemoveFeature(c, e.at, key)
		var refused *store.RefusedError
		if uses, in := store.IsFeatureInUse(err); in && errors.As(err, &refused) {
			return no("gone", "", "It stays: "+sayUses(uses)+". Merge it into another instead.")
		}
		return saved(c, err, "", "")
	}
	return nil, unreadable()
}

// shipped lets a feature that ships be renamed: the name that it has stands for what
// was there.
func (e *featureEditor) shipped(sh sheet) sheet {
	typed := sh.typed
	sh.typed = func(path document.Path, text string) (string, error) {
		to, err := typed(path, text)
		steps := path.Steps()
		if err == nil && len(steps) == 3 && steps[2] == "name" {
			if f, ok := (*feature.Catalogue)(nil).Find(steps[1]); ok && f.Name == to {
				return "", nil // as it ships
			}
		}
		return to, err
	}
	return sh
}

// sayUses tells where a feature is named.
func sayUses(uses []store.Use) string {
	var places []string
	for _, u := range uses[:min(len(uses), 4)] {
		places = append(places, u.Kind+" "+u.Title)
	}
	text := "it is named in " + list(places)
	if n := len(uses) - 4; n > 0 {
		text += " and more"
	}
	return text
}

// addFeature adds a feature of the workspace's own, in an area that there is or a new one.
func (s *Server) addFeature(c *gin.Context, e *featureEditor, form *featuresForm) (*refusal, error) {
	name := strings.TrimSpace(form.Name)
	if f, there := e.catalogue.Named(name); there && name != "" {
		return refuse("feature-name", name, "There is “"+f.Name+"” already, in "+e.catalogue.Name(f.Area())+". Nothing was added."), nil
	}
	if name == "" {
		return refuse("feature-name", "", "A feature needs a name. Nothing was added."), nil
	}
	var all document.Change
	own, area := e.own, strings.TrimSpace(form.Area)
	known := false
	for _, a := range e.catalogue.Areas() {
		if a.Key == area || strings.EqualFold(a.Name, area) {
			area, known = a.Key, true
		}
	}
	if !known {
		if area == "" {
			area = "Our own"
		}
		op, err := feature.Table().Add(own, "areas", map[string]string{"name": area})
		if err != nil {
			return refuse("feature-area", form.Area, capital(err.Error())+". Nothing was added."), nil
		}
		all, area = append(all, op), op.Path.Steps()[1]
	}
	key := document.KeyFor(name, func(key string) bool { _, there := e.catalogue.Find(area + "/" + key); return there })
	op, err := feature.Table().Add(own, "features", map[string]string{"key": area + "/" + key, "name": name, "about": form.About, "question": form.Question, "unit": form.Unit})
	var typed *document.TypedError
	if errors.As(err, &typed) {
		return refuse("feature-"+typed.Name, "", capital(typed.Err.Error())+". Nothing was added."), nil
	}
	if err != nil {
		return nil, err
	}
	return saved(c, s.store.Edit(c, e.at, append(all, op)), "feature-name", name)
}
