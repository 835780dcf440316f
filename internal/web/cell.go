package web

import (
	"html/template"
	"strings"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
)

// cellEditor edits what an option has of a need, in this study alone: as a finding,
// which goes before what the price list says.
type cellEditor struct {
	Name, Option, Platform string
	Face                   int
	Question               string
	Plans                  []cellPlan
	Close                  string
	Draft                  string // where it is changed for all studies
}

// cellPlan is a plan with what it has of the need.
type cellPlan struct {
	Name, List          string // what the price list says
	Has, Note, From, On editable
	Form                template.HTML
	Found               bool // this study says otherwise
	Ways                []cellWay
}

// cellWay is a way of having it, one press away.
type cellWay struct {
	Label, Path, Was, Value string
	Chosen                  bool
}

// ways are the ways of having a feature that need nothing else said.
var ways = []pricelist.Has{pricelist.Yes, pricelist.Partly, pricelist.Bridge, pricelist.Announced, pricelist.No, pricelist.Unknown}

// cellEditor makes the editor of the cell that the address names (?cell=option
// area/feature); nil for none.
func (r *request) cellEditor() *cellEditor {
	key, need, ok := strings.Cut(r.c.Query("cell"), " ")
	res, there := r.outcome.Result(key)
	if !ok || !there || !r.caller.mayEdit("findings") {
		return nil
	}
	for i := range res.Coverage {
		if c := &res.Coverage[i]; c.Need.Feature == need {
			return r.editorOf(res, c)
		}
	}
	return nil
}

func (r *request) editorOf(res *study.Result, c *coverage.Cell) *cellEditor {
	t := &res.Tools[c.Tool].Tool
	stated := res.Option.Tools()[c.Tool].Edition // as it was read
	known, _ := r.study().Catalogue.Find(c.Need.Feature)
	b := &cellEditor{Name: c.Need.Name, Option: res.Option.Name, Platform: t.Edition.Platform.Name, Face: res.Option.Face, Question: known.Question,
		Close: r.with("cell", ""), Draft: "/shelf/platforms/" + t.Platform + "/draft#" + cellID(c.Need.Feature)}
	for i := range t.Edition.Plans {
		plan := &t.Edition.Plans[i]
		f := study.Finding{Platform: t.Platform, Plan: plan.Key, Feature: c.Need.Feature}
		path := document.Path("findings").To(f.Key())
		p := cellPlan{Name: plan.Name, List: "not told"}
		if was, ok := stated.Plan(plan.Key); ok {
			if has, told := was.Features[c.Need.Feature]; told {
				p.List = sayHas(has)
			}
		}
		said := c.Need.Name + " on " + plan.Name
		p.Has, p.Note = r.field(path.To("has"), "How "+plan.Name+" has "+c.Need.Name), r.field(path.To("note"), "Note on "+said)
		p.From, p.On = r.field(path.To("from"), "Where it is known from: "+said).orNothing("–"), r.field(path.To("on"), "Since when it is known: "+said)
		p.Found = p.Has.Was != ""
		p.Has.Empty, p.Has.Long, p.Has.Text = "as the price list says", false, true
		p.Note.Empty, p.On.Empty = "a note", "day"
		p.Form = rowForm(p.Has)
		for _, way := range ways {
			p.Ways = append(p.Ways, cellWay{Label: has(way), Path: string(path.To("has")), Was: p.Has.Was, Value: string(way), Chosen: p.Has.Was == string(way)})
		}
		b.Plans = append(b.Plans, p)
	}
	return b
}

// sayHas tells what a plan has of a feature.
func sayHas(f pricelist.Feature) string {
	text := f.Cell()
	if f.Has == pricelist.Unknown {
		text = has(f.Has)
	}
	if f.Depth > 0 {
		text = strings.Replace(text, " "+string(rune('0'+f.Depth)), ", depth "+string(rune('0'+f.Depth)), 1)
	}
	if f.From != "" {
		text += " (" + string(f.From)
		if !f.On.IsZero() {
			text += ", " + f.On.Format("2 Jan 2006")
		}
		text += ")"
	}
	return strings.Replace(text, " = ", ", ", 1)
}

// cellID is the id of a feature's row in a grid.
func cellID(feature string) string { return "f-" + inIDs.Replace(feature) }
