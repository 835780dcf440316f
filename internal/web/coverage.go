package web

import (
	"html/template"
	"slices"
	"strings"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
)

type coverageBody struct {
	Heads  []optionHead
	Picker picker
	Groups []coverageGroup
	Say    template.HTML
	Add    *addForm
	May    bool
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
	Name, Note, Level editable
	Form              template.HTML
	Feature           string
	Place             place
	Cells             []coverageCell
}

type coverageCell struct {
	Text, Note string
	Pips       []struct{} // one for each step of depth
	No, Ask    bool
	Forces     bool
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

func buildCoverage(r *request) (any, error) {
	o := r.outcome
	b := coverageBody{Heads: r.heads(), Picker: r.picking(), Say: phrase(o.SayCoverage())}
	b.May = r.caller.mayEdit("needs")
	about := map[coverage.Level]string{coverage.Must: "an option that misses one is out",
		coverage.Want: "should be there, but none is out without it", coverage.Bonus: "nice to have"}
	for _, level := range coverage.Levels {
		g := coverageGroup{Name: map[coverage.Level]string{coverage.Must: "Must", coverage.Want: "Want", coverage.Bonus: "Bonus"}[level], About: about[level]}
		var keys []string // of the needs of this level: moving stays among them
		for _, n := range r.study().Needs {
			if n.Level == level {
				keys = append(keys, n.Feature)
			}
		}
		for i, n := range r.study().Needs {
			if n.Level != level {
				continue
			}
			path := document.Path("needs").To(n.Feature)
			row := coverageRow{Name: r.field(path.To("name"), "Name of the need "+n.Name), Note: r.field(path.To("note"), "Note on "+n.Name),
				Level:   r.field(path.To("level"), "Level of "+n.Name),
				Feature: n.Feature, Place: r.placeOf("needs", n.Name, keys, slices.Index(keys, n.Feature))}
			row.Form = rowForm(row.Name)
			for at := range o.Results {
				row.Cells = append(row.Cells, newCell(r, at, i))
			}
			g.Rows = append(g.Rows, row)
		}
		if len(g.Rows) > 0 {
			b.Groups = append(b.Groups, g)
		}
	}
	b.Add = r.adding("needs", "name", "feature", "level", "note")
	b.Add.openWhere(len(r.study().Needs) == 0)
	b.Add.set("feature", "Feature, as price lists name it", nil, r.features()...)
	b.Add.set("name", "Need", nil)
	return b, nil
}

// features lists the features that the price lists of the line-up tell of and
// that are no needs yet.
func (r *request) features() []string {
	seen := map[string]bool{}
	for _, n := range r.study().Needs {
		seen[n.Feature] = true
	}
	var all []string
	for _, o := range r.study().Options {
		for _, p := range o.Edition.Plans {
			for feature := range p.Features {
				if !seen[feature] {
					seen[feature] = true
					all = append(all, feature)
				}
			}
		}
	}
	slices.SortFunc(all, strings.Compare)
	return all
}

func newCell(r *request, result, need int) coverageCell {
	res := &r.outcome.Results[result]
	c := res.Coverage[need]
	cell := coverageCell{Pips: make([]struct{}, c.Depth), No: c.Has == pricelist.No, Ask: c.Has == pricelist.Unknown, Note: c.Note}
	cell.Forces = res.Forces(need)
	switch {
	case c.Has == pricelist.Yes && len(res.Option.Edition.Plans) > 1:
		cell.Text = c.Plan.Name
	case c.Has == pricelist.AsAddOn && c.AddOn != nil && len(c.AddOn.Charges) > 0:
		cell.Text = "add-on " + res.Option.Edition.Currency.Format(c.AddOn.Charges[0].Price.Usual)
	default:
		cell.Text = has(c.Has)
	}
	if cell.Forces && cell.Note == "" {
		cell.Note = "needs " + c.Plan.Name
	}
	return cell
}
