package web

import (
	"fmt"
	"net/http"
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"

	"github.com/gin-gonic/gin"
)

// isBandEnd reports whether a path names where a band ends.
func isBandEnd(path document.Path) bool {
	steps := path.Steps()
	return len(steps) > 3 && steps[len(steps)-1] == "to" && steps[len(steps)-3] == "bands"
}

// setBandEnd moves the end of a band: what tells a band from others is where it ends, so
// it goes and comes anew in its place.
func (e *draftEditor) setBandEnd(path document.Path, was, typed string) (document.Change, error) {
	steps := path.Steps()
	list := document.Path("").To(steps[:len(steps)-2]...)
	spot, ok := pricelist.Drafts().Spot(e.draft.Draft, document.Path("").To(steps[:len(steps)-1]...))
	charge := e.chargeOf(list)
	if !ok || charge == nil || !spot.There {
		return nil, document.Problem("is not there any more")
	}
	key := steps[len(steps)-2]
	at := slices.IndexFunc(charge.Bands, func(b pricelist.Band) bool { return b.KeyOf() == key })
	if at < 0 {
		return nil, document.Problem("is not there any more")
	}
	band := charge.Bands[at]
	if strings.TrimSpace(typed) == "" || strings.EqualFold(typed, "more") {
		band.Open, band.To = true, 0
	} else {
		to, err := pricelist.Drafts().Typed(e.draft.Draft, path, typed)
		if err != nil {
			return nil, err
		}
		band.Open = false
		if band.To, err = parseQuantity(to); err != nil {
			return nil, err
		}
	}
	now := band.KeyOf()
	if now == key {
		return nil, nil
	}
	if slices.ContainsFunc(charge.Bands, func(b pricelist.Band) bool { return b.KeyOf() == now }) {
		return nil, document.Problem(fmt.Sprintf("there is a band up to %s already", band.To.Format()))
	}
	before := ""
	if at+1 < len(charge.Bands) {
		before = charge.Bands[at+1].KeyOf()
	}
	return document.Change{{Do: document.Remove, Path: list.To(key)}, {Do: document.Insert, Path: list.To(now), To: pricelist.Written(band), Before: before}}, nil
}

// pasteBands takes a table of bands out of a spreadsheet in place of the one that stands:
// where each ends, its price, and its prices on other terms.
func (e *draftEditor) pasteBands(path document.Path, text string) (document.Change, []string) {
	list := path.To("bands")
	c := e.chargeOf(list)
	if c == nil {
		return nil, []string{"there is no such charge any more"}
	}
	others := otherTerms(e.termsOf(document.Path("").To(path.Steps()[:2]...)))
	var bands []pricelist.Band
	var faults []string
	for i, cells := range cellsOf(text, separatorOf(text)) {
		place := fmt.Sprintf("row %d", i+1)
		if i == 0 && len(cells) > 1 && !strings.ContainsAny(cells[1], "0123456789") {
			continue // a head
		}
		band, fault := bandOf(cells, others, e.draft.Draft.Edition.Currency)
		if fault != "" {
			faults = append(faults, place+": "+fault)
			continue
		}
		if slices.ContainsFunc(bands, func(b pricelist.Band) bool { return b.KeyOf() == band.KeyOf() }) {
			faults = append(faults, place+": there is a band up to "+band.To.Format()+" already")
			continue
		}
		bands = append(bands, band)
	}
	if len(bands) == 0 && len(faults) == 0 {
		faults = []string{"a row is where the band ends, and its price: 1000 and 12.00, with a tab between them"}
	}
	if len(bands) > 300 {
		faults = append(faults, fmt.Sprintf("there are %d bands; at most 300 are taken", len(bands)))
	}
	if len(faults) > 0 {
		return nil, faults
	}
	return e.replaceBands(list, c, bands), nil
}

// replaceBands puts bands in place of those of a charge.
func (e *draftEditor) replaceBands(list document.Path, c *pricelist.Charge, bands []pricelist.Band) (all document.Change) {
	for i := range c.Bands {
		all = append(all, document.Op{Do: document.Remove, Path: list.To(c.Bands[i].KeyOf())})
	}
	for i := range bands {
		all = append(all, document.Op{Do: document.Insert, Path: list.To(bands[i].KeyOf()), To: pricelist.Written(bands[i])})
	}
	return all
}

// bandOf reads one row of a table of bands.
func bandOf(cells []string, others []pricelist.Term, in money.Currency) (b pricelist.Band, fault string) {
	if len(cells) < 2 {
		return b, "needs where the band ends, and its price"
	}
	if len(cells) > 2+len(others) {
		return b, fmt.Sprintf("has %d cells; there are %d prices", len(cells), 1+len(others))
	}
	end := strings.ToLower(strings.TrimSpace(cells[0]))
	for _, word := range []string{"up to", "to", "until"} {
		end = strings.TrimSpace(strings.TrimPrefix(end, word))
	}
	var err error
	if end == "" || end == "more" || end == "above" {
		b.Open = true
	} else if b.To, err = typedQuantity(end); err != nil {
		return b, fmt.Sprintf("%s is no number such as 2500", quoted(cells[0]))
	}
	for i, text := range cells[1:] {
		if strings.TrimSpace(text) == "" && i > 0 {
			continue
		}
		amount, why := typedAmount(text, in)
		switch {
		case why != "":
			return b, why
		case i == 0:
			b.Price.Usual = amount
		default:
			if b.Price.ByKey == nil {
				b.Price.ByKey = map[string]money.Amount{}
			}
			b.Price.ByKey[others[i-1].Key] = amount
		}
	}
	return b, ""
}

// inOrder sets the bands of a charge in order.
func (e *draftEditor) inOrder(path document.Path) document.Change {
	list := path.To("bands")
	c := e.chargeOf(list)
	if c == nil {
		return nil
	}
	bands := slices.Clone(c.Bands)
	slices.SortStableFunc(bands, func(a, b pricelist.Band) int {
		switch {
		case a.Open != b.Open:
			return map[bool]int{true: 1, false: -1}[a.Open]
		case a.To < b.To:
			return -1
		case a.To > b.To:
			return 1
		}
		return 0
	})
	return e.replaceBands(list, c, bands)
}

// moveBand saves where a band ends.
func (s *Server) moveBand(c *gin.Context, e *draftEditor, ch change) (*refusal, error) {
	path := document.Path(ch.Path)
	change, err := e.setBandEnd(path, ch.Was, ch.Value)
	switch {
	case err != nil:
		return mistyped(idOf(path), ch.Value, err, "a number such as 2500", func(reading string) (way, bool) {
			_, err := e.setBandEnd(path, ch.Was, reading)
			return way{"Save " + reading, map[string]string{"op": "set", "path": ch.Path, "was": ch.Was, "value": reading}}, err == nil
		}), nil
	case len(change) == 0:
		return nil, nil
	}
	return saved(c, s.store.Edit(c, e.at, change), idOf(path), ch.Value)
}

// changeBands takes a pasted table of bands, or sets the bands in order.
func (s *Server) changeBands(c *gin.Context, e *draftEditor, form draftForm) (*refusal, error) {
	path := document.Path(form.On)
	id := "bands-" + idOf(path)
	var change document.Change
	var faults []string
	if form.Op == "bands" {
		change, faults = e.pasteBands(path, form.Rows)
	} else {
		change = e.inOrder(path)
	}
	if len(faults) > 0 {
		return refuse(id, form.Rows, "Nothing was changed. "+sayFaults(faults)), nil
	}
	if len(change) == 0 {
		return &refusal{status: http.StatusConflict, problem: problem{Message: "Nothing was changed: that charge is not there any more."}}, nil
	}
	return saved(c, s.store.Edit(c, e.at, change), id, form.Rows)
}

// copyPlan adds a plan that is like another.
func (s *Server) copyPlan(c *gin.Context, e *draftEditor, form draftForm) (*refusal, error) {
	ed := &e.draft.Draft.Edition
	at := slices.IndexFunc(ed.Plans, func(p pricelist.Plan) bool { return p.Key == form.From })
	name := strings.TrimSpace(form.Name)
	if at < 0 || name == "" {
		return &refusal{status: http.StatusConflict, problem: problem{Message: "Nothing was copied: a copy needs a plan that is there, and a name."}}, nil
	}
	p := ed.Plans[at]
	p.Name = name
	p.Key = document.KeyFor(name, func(key string) bool { _, there := ed.Plan(key); return there })
	before := ""
	if at+1 < len(ed.Plans) {
		before = ed.Plans[at+1].Key
	}
	op := document.Op{Do: document.Insert, Path: document.Path("plans").To(p.Key), To: pricelist.Written(p), Before: before}
	return saved(c, s.store.Edit(c, e.at, document.Change{op}), "", name)
}
