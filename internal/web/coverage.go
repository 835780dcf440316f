package web

import (
	"fmt"
	"html/template"
	"net/url"
	"slices"
	"strings"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/feature"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
)

type coverageBody struct {
	Base      string
	Heads     []optionHead
	Picker    picker
	Rows      []choiceView // filters
	Groups    []coverageGroup
	Hidden    string // what the filter leaves out, where that is all
	Say       template.HTML
	Unsaid    string // counted as unlimited
	Add       *addForm
	May       bool
	Cell      *cellEditor
	Takes     []takesCard
	Drops     []string
	Questions int // that are open
}

type optionHead struct {
	Key, Name string
	Face      int
	Now       bool
	Takes     string
	Monthly   string
	Out       bool
}

type coverageGroup struct {
	Name, About string
	Rows        []coverageRow
}

type coverageRow struct {
	Name, Note, Level, Depth, Number editable
	Area, Unit, Asks, ID             string
	Told                             bool // something is wrong in what is folded away
	Form                             template.HTML
	Feature                          string
	Place                            place
	Cells                            []coverageCell
	Same                             string // the need that means the same
}

type coverageCell struct {
	Text, Note string
	Pips       []struct{} // one for each step of depth
	No, Ask    bool
	Forces     bool
	Link       string // opens it for editing; "" where the caller may not
	Open       bool
}

func (r *request) heads() []optionHead {
	var heads []optionHead
	for i := range r.outcome.Results {
		res := &r.outcome.Results[i]
		h := optionHead{Key: res.Option.Key, Name: res.Option.Name, Face: res.Option.Face, Now: res.Option.Now, Out: !res.In()}
		if res.Today != nil {
			h.Takes, h.Monthly = res.Takes(), r.study().Currency.Format(res.Monthly(0))
		}
		heads = append(heads, h)
	}
	return heads
}

// filters of the rows of Coverage: their key, their name, and whether a need is shown.
var filters = []struct {
	key, name string
	shows     func(cells []coverage.Cell) bool
}{
	{"", "All", func([]coverage.Cell) bool { return true }},
	{"differ", "Where they differ", differ},
	{"one", "Only one has it", func(cells []coverage.Cell) bool { return len(cells) > 1 && countMet(cells) == 1 }},
	{"unknown", "Not yet known", func(cells []coverage.Cell) bool {
		return slices.ContainsFunc(cells, func(c coverage.Cell) bool { return c.Answer == coverage.Open })
	}},
	{"musts", "Musts", func(cells []coverage.Cell) bool { return len(cells) > 0 && cells[0].Need.Level == coverage.Must }},
}

func countMet(cells []coverage.Cell) (n int) {
	for _, c := range cells {
		if c.Answer == coverage.Met {
			n++
		}
	}
	return n
}

// differ reports whether options have a need in different ways: met or not, outright
// or over an add-on or a bridge, more or less deep.
func differ(cells []coverage.Cell) bool {
	return slices.ContainsFunc(cells, func(c coverage.Cell) bool {
		first := &cells[0]
		return c.Answer != first.Answer || c.Has != first.Has || c.Depth != first.Depth || c.Number != first.Number || c.Unlimited != first.Unlimited
	})
}

// cellsOf are the cells of a need, an option each.
func (r *request) cellsOf(need int) (cells []coverage.Cell) {
	for i := range r.outcome.Results {
		cells = append(cells, r.outcome.Results[i].Coverage[need])
	}
	if len(cells) == 0 { // the filter of musts goes by the need
		cells = []coverage.Cell{{Need: r.study().Needs[need], Answer: coverage.Unmet}}
	}
	return cells
}

func buildCoverage(r *request) (any, error) {
	o, needs := r.outcome, r.study().Needs
	b := coverageBody{Base: r.base(), Heads: r.heads(), Picker: r.picking(), Say: phrase(o.SayCoverage()), Unsaid: o.SayUnsaid()}
	b.May = r.caller.mayEdit("needs")
	shows := filters[0].shows
	for _, f := range filters {
		n := 0
		for i := range needs {
			if f.shows(r.cellsOf(i)) {
				n++
			}
		}
		chosen := r.c.Query("rows") == f.key
		if chosen {
			shows = f.shows
		}
		b.Rows = append(b.Rows, choiceView{Label: fmt.Sprintf("%s %d", f.name, n), Link: r.with("rows", f.key), Chosen: chosen})
	}
	about := map[coverage.Level]string{coverage.Must: "an option that misses one is out",
		coverage.Want: "should be there, but none is out without it", coverage.Bonus: "nice to have"}
	shown := 0
	for _, level := range coverage.Levels {
		g := coverageGroup{Name: map[coverage.Level]string{coverage.Must: "Must", coverage.Want: "Want", coverage.Bonus: "Bonus"}[level], About: about[level]}
		var keys []string // of the needs of this level: moving stays among them
		for _, n := range needs {
			if n.Level == level {
				keys = append(keys, n.Feature)
			}
		}
		for i := range needs {
			if needs[i].Level == level && shows(r.cellsOf(i)) {
				g.Rows = append(g.Rows, r.coverageRow(i, keys))
			}
		}
		if shown += len(g.Rows); len(g.Rows) > 0 {
			b.Groups = append(b.Groups, g)
		}
	}
	if shown == 0 && len(needs) > 0 {
		b.Hidden = "No need is like that. Choose All to see them."
	}
	r.addNeed(&b)
	b.Cell = r.cellEditor()
	for i := range o.Results {
		b.Takes = append(b.Takes, r.takes(i))
	}
	for _, v := range o.Vendors() {
		b.Questions += len(v.Questions)
	}
	return b, nil
}

// with is the page's own address with another value for a part of its query; "" takes
// that part out.
func (r *request) with(name, value string) string {
	q := url.Values{}
	for key, values := range r.c.Request.URL.Query() {
		q[key] = values
	}
	q.Del("cell")
	if q.Set(name, value); value == "" {
		q.Del(name)
	}
	if len(q) == 0 {
		return r.c.Request.URL.Path
	}
	return r.c.Request.URL.Path + "?" + q.Encode()
}

func (r *request) coverageRow(i int, keys []string) coverageRow {
	n := r.study().Needs[i]
	path := document.Path("needs").To(n.Feature)
	known, _ := r.study().Catalogue.Find(n.Feature)
	row := coverageRow{Name: r.field(path.To("name"), "Name of the need "+n.Name), Note: r.field(path.To("note"), "Note on "+n.Name),
		Level: r.field(path.To("level"), "Level of "+n.Name), Depth: r.field(path.To("depth"), "Least depth of "+n.Name+", 1 to 3"),
		Number: r.field(path.To("number"), "At least how many, for "+n.Name),
		Area:   r.study().Catalogue.Name(feature.AreaOf(known.Key)), Feature: n.Feature, Place: r.placeOf("needs", n.Name, keys, slices.Index(keys, n.Feature))}
	row.Depth.Choices = []choiceView{{Label: "any depth", Value: "", Chosen: n.Depth == 0}}
	for depth := 1; depth <= 3; depth++ {
		row.Depth.Choices = append(row.Depth.Choices, choiceView{Label: fmt.Sprintf("depth %d or more", depth), Value: fmt.Sprint(depth), Chosen: n.Depth == depth})
	}
	if known.Unit != "" {
		row.Unit = quote.Plural(known.Unit)
		row.Number.Empty = "any number"
	}
	for _, other := range r.study().Needs[:i] {
		if r.study().Catalogue.Key(other.Feature) == known.Key {
			row.Same = other.Name
		}
	}
	row.ID = inIDs.Replace(n.Feature)
	row.Asks = r.sayAsks(&n, row.Unit)
	row.Told = row.Note.Told() || row.Level.Told() || row.Depth.Told() || row.Number.Told()
	row.Form = rowForm(row.Name)
	for at := range r.outcome.Results {
		row.Cells = append(row.Cells, r.coverageCell(at, i))
	}
	return row
}

// sayAsks tells how much is asked for, and the note; "" where neither is said.
func (r *request) sayAsks(n *coverage.Need, unit string) string {
	var asks []string
	if n.Number > 0 {
		asks = append(asks, strings.TrimSpace("at least "+n.Number.Format()+" "+unit))
	}
	if n.Depth > 0 {
		asks = append(asks, fmt.Sprintf("depth %d or more", n.Depth))
	}
	if n.Note != "" {
		asks = append(asks, n.Note)
	}
	return strings.Join(asks, "; ")
}

// addNeed makes the form for a need: a feature of the catalogue, or one's own.
func (r *request) addNeed(b *coverageBody) {
	b.Add = r.adding("needs", "name", "level", "depth", "number", "note")
	if b.Add == nil {
		return
	}
	b.Add.openWhere(len(r.study().Needs) == 0)
	c := r.study().Catalogue
	var hints []string
	for _, a := range c.Areas() {
		for _, f := range c.Of(a.Key) {
			if !slices.ContainsFunc(r.study().Needs, func(n coverage.Need) bool { return c.Key(n.Feature) == f.Key }) {
				hints = append(hints, f.Name)
			}
		}
	}
	b.Add.set("name", "Need: a feature of the catalogue, or in your own words", nil, hints...)
	b.Add.set("depth", "Least depth, if any", []choiceView{{Label: "any", Value: ""}, {Label: "1", Value: "1"}, {Label: "2", Value: "2"}, {Label: "3", Value: "3"}})
	b.Add.set("number", "At least how many", nil)
}

func (r *request) coverageCell(result, need int) coverageCell {
	res := &r.outcome.Results[result]
	c := res.Coverage[need]
	cell := coverageCell{Pips: make([]struct{}, c.Depth), No: c.Answer == coverage.Unmet && !c.Has.Meets() && c.Has != pricelist.Partly && c.Has != pricelist.Announced,
		Ask: c.Answer == coverage.Open, Note: c.Note}
	cell.Forces = res.Forces(need)
	if r.caller.mayEdit("findings") {
		key := res.Option.Key + " " + c.Need.Feature
		cell.Link, cell.Open = r.with("cell", key)+"#cell", r.c.Query("cell") == key
	}
	cell.Text = r.sayCell(res, &c)
	if cell.Forces {
		for _, f := range res.Forced() {
			if f.Need == need {
				cell.Note = strings.Trim(capital(r.outcome.SayForced(res, f))+". "+cell.Note, " ")
			}
		}
	}
	if b, ok := res.Option, res.Option.Stack(); ok && c.Plan != nil {
		cell.Note = strings.Trim(b.Tools()[c.Tool].Called()+". "+cell.Note, " ")
	}
	return cell
}

// sayCell tells how an option has a need, in a few words.
func (r *request) sayCell(res *study.Result, c *coverage.Cell) string {
	e := res.Tools[c.Tool].Tool.Edition
	text := has(c.Has)
	switch {
	case c.Has == pricelist.Yes && (len(e.Plans) > 1 || res.Option.Stack()):
		text = c.Plan.Name
	case c.Has == pricelist.AsAddOn && c.AddOn != nil && len(c.AddOn.Charges) > 0:
		text = "add-on " + e.Currency.Format(c.AddOn.Charges[0].Price.Usual)
	case c.Has == pricelist.Bridge:
		text = r.sayBridge(c)
	}
	if c.Unlimited {
		text += ", unlimited"
	} else if c.Number > 0 {
		text += ", " + c.Number.Format()
	}
	switch {
	case c.TooLittle():
		text += ": too little"
	case c.Answer == coverage.Open && c.Has.Meets() && c.Need.Number > 0:
		text += ": how many is not yet known"
	case c.Answer == coverage.Open && c.Has.Meets():
		text += ": how deep is not yet known"
	}
	return text
}

// sayBridge tells what a bridge uses, and what that costs by the study's connector.
func (r *request) sayBridge(c *coverage.Cell) string {
	if cost, told := r.outcome.BridgeCosts(c.Uses); told && cost > 0 {
		return "bridge +" + r.study().Currency.Format(cost)
	}
	return "bridge"
}
