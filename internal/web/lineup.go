package web

import (
	"fmt"
	"html/template"
	"net/url"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

type lineUpBody struct {
	Base    string
	Say     template.HTML
	Options []lineUpRow
	Aside   []asideRow
	May     bool
	Find    finding
	Common  *commonView
	Stack   *stackView
	Problem string
}

type lineUpRow struct {
	Key, Does, Is, Why string
	Face               int
	Now                bool
	Name               editable
	Tools              []toolView // of a stack
	Met                string
	Misses             bool
	Today              string
	Out                []string
	Place              place
	Form               template.HTML
	More               lineUpMore
}

// lineUpMore is what else is set up of an option.
type lineUpMore struct {
	Fields     []namedField
	Tools      []toolMore
	Into       string // where a tool is found that makes it a stack
	Aside      string // path of what sets it aside
	ID         string
	Problem    string
	Typed      string
	NewerLists []string
}

type namedField struct {
	Name  string
	Field editable
}

type toolView struct{ Name, Plan, For string }

type toolMore struct {
	Name   string
	Fields []namedField
	Form   template.HTML
	Place  place
}

type asideRow struct {
	Name, Why, On, Path string
	Face                int
	Place               place
}

// buildLineUp makes the line-up, with what is on the shelf to be added.
func (s *Server) buildLineUp(r *request) (any, error) {
	st, o := r.study(), r.outcome
	b := lineUpBody{Base: r.base(), May: r.caller.mayEdit("options"), Say: phrase(o.SayLineUp())}
	keys := make([]string, len(st.Options))
	for i, one := range st.Options {
		keys[i] = one.Key
	}
	var platforms []string
	for i := range st.Options {
		for _, t := range st.Options[i].Tools() {
			platforms = append(platforms, t.Platform)
		}
	}
	lists, err := s.store.ListsOf(r.c, r.caller.workspace(), platforms)
	if err != nil {
		return nil, err
	}
	for i := range o.Results {
		res := &o.Results[i]
		b.Options = append(b.Options, r.lineUpRow(res, keys, lists))
	}
	for _, one := range st.SetAside() {
		b.Aside = append(b.Aside, asideRow{Name: one.Name, Face: one.Face, Why: one.Aside, On: one.AsideOn.Format("2 Jan 2006"),
			Path: string(document.Path("options").To(one.Key)), Place: r.placeOf("options", one.Name, keys, slices.Index(keys, one.Key))})
	}
	if b.May {
		if b.Find, err = s.find(r); err != nil {
			return nil, err
		}
	}
	if p := r.problemAt(addID("options", "")); p != nil {
		b.Problem = p.Message
	}
	b.Common = r.common()
	b.Stack, err = r.bestStack()
	return b, err
}

func (r *request) lineUpRow(res *study.Result, keys []string, lists map[string][]time.Time) lineUpRow {
	op, s := &res.Option, r.study()
	path := document.Path("options").To(op.Key)
	at := slices.Index(keys, op.Key)
	row := lineUpRow{Key: op.Key, Face: op.Face, Now: op.Now, Out: res.Standing.Out, Place: r.placeOf("options", op.Name, keys, at),
		Name: r.field(path.To("name"), "Name of "+op.Name), Today: "–"}
	row.Name.Text = true
	row.Form = rowForm(row.Name)
	var does []string
	for _, t := range res.Tools {
		for _, one := range t.Tool.Edition.Platform.Does {
			if !slices.Contains(does, one) {
				does = append(does, one)
			}
		}
	}
	row.Does = doing(does)
	met := 0
	for i := range res.Coverage {
		if res.Meets(i) == coverage.Met {
			met++
		}
		row.Misses = row.Misses || res.Coverage[i].Need.Level == coverage.Must && res.Coverage[i].Answer == coverage.Unmet
	}
	if n := len(s.Needs); n > 0 {
		row.Met = fmt.Sprintf("%d of %d", met, n)
	}
	row.Is, row.Why = r.sayOption(res)
	if res.Today != nil {
		row.Today = s.Currency.Format(res.Monthly(0))
	}
	if op.Stack() {
		for i := range res.Tools {
			t := &res.Tools[i]
			view := toolView{Name: t.Tool.Edition.Platform.Name, For: t.Tool.For}
			if t.Today != nil {
				view.Plan = t.Today.Plan.Name
			}
			row.Tools = append(row.Tools, view)
		}
	}
	row.More = r.lineUpMore(res, path, lists)
	return row
}

// sayOption tells what an option is here, and why it takes the plan that it takes.
func (r *request) sayOption(res *study.Result) (is, why string) {
	op, s := &res.Option, r.study()
	switch {
	case op.Stack():
		is = fmt.Sprintf("a stack of %d", len(res.Tools))
	case op.Plan != "" && res.Today != nil:
		is = "pinned to " + res.Today.Plan.Name
	case res.Today != nil && op.Now:
		is = "runs on " + res.Today.Plan.Name
	case res.Today != nil:
		is = "takes " + res.Today.Plan.Name
	default:
		is = "no plan serves"
	}
	switch {
	case len(res.Forced()) > 0:
		f := res.Forced()[0]
		why = fmt.Sprintf("pushed up from %s by %s, %s a month", f.Without.Name, usage.LowerFirst(res.Coverage[f.Need].Need.Name), signed(s.Currency, f.Saves))
	case res.Today != nil && op.Plan != "":
		why = "one plan of it, as chosen"
	case res.Today != nil && len(op.Edition.Plans) == 1:
		why = "the only one it sells"
	case op.Now:
		why = r.sayRunning(op)
	}
	if lets := r.sayLets(op); lets != "" {
		why = strings.Trim(why+"; "+lets, "; ")
	}
	return is, why
}

// sayRunning tells when what runs today renews, where a tool of the brief has its name.
func (r *request) sayRunning(op *study.Option) string {
	for i := range r.study().Running {
		run := &r.study().Running[i]
		if strings.EqualFold(run.Name, op.Name) && !run.Renews.IsZero() {
			return fmt.Sprintf("renews on %s, notice by %s", run.Renews.Format("2 Jan 2006"), run.NoticeBy().Format("2 Jan 2006"))
		}
	}
	return ""
}

// sayLets tells which tools of today an option makes unneeded, and what they cost.
func (r *request) sayLets(op *study.Option) string {
	var names []string
	sum := r.study().LetsGo(op)
	for _, run := range r.study().Running {
		if slices.Contains(op.Lets, run.Key) {
			names = append(names, run.Name)
		}
	}
	if len(names) == 0 {
		return ""
	}
	return "makes " + list(names) + " unneeded, " + signed(r.study().Currency, -sum) + " a month"
}

func (r *request) lineUpMore(res *study.Result, path document.Path, lists map[string][]time.Time) lineUpMore {
	op := &res.Option
	m := lineUpMore{Into: "?find=&into=" + url.QueryEscape(op.Key) + "#add", Aside: string(path), ID: "aside-" + op.Key}
	if p := r.problemAt(m.ID); p != nil {
		m.Problem, m.Typed = p.Message, p.Typed
	}
	tools := op.Tools()
	for i := range tools {
		t, at := &tools[i], path
		if i > 0 {
			at = path.To("with", t.Key)
		}
		name := t.Edition.Platform.Name
		days := lists[t.Platform]
		since := r.field(at.To("observed_on"), "Price list of "+name)
		since.Choices = nil
		for _, day := range days {
			since.Choices = append(since.Choices, choiceView{Label: pricelist.SayRead(day), Value: pricelist.ReadText(day), Chosen: day.Equal(t.ObservedOn)})
		}
		if len(days) > 0 && days[0].After(t.ObservedOn) {
			m.NewerLists = append(m.NewerLists, fmt.Sprintf("%s's prices were read again on %s", name, pricelist.SayRead(days[0])))
		}
		plan := r.field(at.To("plan"), "Plan of "+name)
		plan.Choices = []choiceView{{Label: "whichever serves best", Value: "", Chosen: t.Plan == ""}}
		for _, p := range t.Edition.Plans {
			plan.Choices = append(plan.Choices, choiceView{Label: p.Name, Value: p.Key, Chosen: p.Key == t.Plan})
		}
		fields := []namedField{{"Price list of", since}, {"Plan", plan}, {"Term", r.termField(at.To("term"), t)}}
		if op.Stack() {
			what := r.field(at.To("for"), "What "+name+" is for")
			what.Long, what.Empty = false, "letters, glue, …"
			fields = append(fields, namedField{"For", what}, namedField{"Carries the bridges", r.field(at.To("carries"), name+" carries the bridges")})
		}
		if i == 0 {
			m.Fields = fields
			continue
		}
		more := toolMore{Name: name, Fields: fields, Form: rowForm(since)}
		more.Place = r.placeOf(path.To("with"), name, []string{t.Key}, 0)
		m.Tools = append(m.Tools, more)
	}
	face := r.field(path.To("face"), "Face of "+op.Name)
	face.Choices = faces(op.Face)
	m.Fields = append(m.Fields, namedField{"Runs today", r.field(path.To("now"), op.Name+" runs today")}, namedField{"Face", face})
	return m
}

// termField is the term that a tool is pinned to, of those that any of its plans is sold
// on.
func (r *request) termField(at document.Path, t *study.Tool) editable {
	e := r.field(at, "Term of "+t.Edition.Platform.Name)
	e.Choices = []choiceView{{Label: "as the study pays", Value: "", Chosen: t.Term == ""}}
	seen := map[string]bool{}
	for i := range t.Edition.Plans {
		for _, one := range t.Edition.Plans[i].Terms {
			if !seen[one.Key] {
				seen[one.Key] = true
				e.Choices = append(e.Choices, choiceView{Label: strings.ReplaceAll(one.Key, "-", " "), Value: one.Key, Chosen: one.Key == t.Term})
			}
		}
	}
	return e
}

func faces(chosen int) (all []choiceView) {
	for face := 1; face <= study.MostOptions; face++ {
		all = append(all, choiceView{Label: fmt.Sprint(face), Value: fmt.Sprint(face), Chosen: face == chosen})
	}
	return all
}

// commonView is what all options have, and what only one has.
type commonView struct {
	All  string
	Only []onlyView
	Pair string // where two are held against each other
}

type onlyView struct {
	Name, Has string
	Face      int
}

func (r *request) common() *commonView {
	o := r.outcome
	c := o.Common()
	v := &commonView{}
	if len(c.All) > 0 {
		v.All = r.someOf(c.All, 6)
	}
	for i, keys := range c.Only {
		if len(keys) > 0 {
			v.Only = append(v.Only, onlyView{Name: o.Results[i].Option.Name, Face: o.Results[i].Option.Face, Has: r.someOf(keys, 4)})
		}
	}
	if len(o.Results) >= 2 {
		v.Pair = r.base() + "/differences"
	}
	if v.All == "" && len(v.Only) == 0 && v.Pair == "" {
		return nil
	}
	return v
}

// someOf names the first of some features, and how many more there are.
func (r *request) someOf(keys []string, most int) string {
	var names []string
	for _, key := range keys {
		f, _ := r.study().Catalogue.Find(key)
		names = append(names, usage.LowerFirst(f.Name))
	}
	if len(names) <= most+1 {
		return list(names)
	}
	return strings.Join(names[:most], ", ") + fmt.Sprintf(" and %d more", len(names)-most)
}
