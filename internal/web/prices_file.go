package web

import (
	"errors"
	"net/http"
	"slices"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/formats"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

// pricesFile hands over the flat part of a price list as CSV: of the draft, of an edition by
// its day, or of the newest.
func (s *Server) pricesFile(c *gin.Context) {
	key, of := c.Param("platform"), c.Query("of")
	if of == "" {
		if editions, err := s.store.EditionsOf(c, callerOf(c).workspace(), key); err == nil && len(editions) > 0 {
			of = pricelist.ReadText(editions[0].ObservedOn)
		}
	}
	e, err := s.editionNamed(c, key, of)
	if errors.Is(err, store.ErrMissing) {
		err = notFound("There is no such platform or edition on the shelf.")
	}
	var data []byte
	if err == nil {
		data, err = formats.WritePrices(e)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", `attachment; filename="`+e.Platform.Key+`-prices.csv"`)
	c.Data(http.StatusOK, "text/csv; charset=utf-8", data)
}

// takePrices puts a table of prices into a draft, whole or not at all.
func (s *Server) takePrices(c *gin.Context, e *draftEditor, form draftForm) (*refusal, error) {
	before := e.draft.Draft.Edition
	after, err := formats.ReadPrices([]byte(form.Rows), before)
	var faults formats.Faults
	if errors.As(err, &faults) {
		var told []string
		for _, f := range faults {
			told = append(told, f.String())
		}
		return refuse("prices-table", form.Rows, "Nothing was taken. "+sayFaults(told)), nil
	}
	if err != nil {
		return nil, err
	}
	change := replaced(&before, &after)
	if len(change) == 0 {
		return refuse("prices-table", form.Rows, "Nothing was changed: all of that stands there already."), nil
	}
	return saved(c, s.store.Edit(c, e.at, change), "prices-table", form.Rows)
}

// replaced is the change that puts plans and meters of one list in place of those of another
// from which it was made: plans keep their order, new ones come last.
func replaced(before, after *pricelist.Edition) (change document.Change) {
	for i := range after.Meters {
		if _, there := before.Meter(after.Meters[i].Key); !there {
			change = append(change, document.Op{Do: document.Insert, Path: document.Path("meters").To(after.Meters[i].Key), To: pricelist.Written(after.Meters[i])})
		}
	}
	for i := range after.Plans {
		p := after.Plans[i]
		path := document.Path("plans").To(p.Key)
		at := slices.IndexFunc(before.Plans, func(o pricelist.Plan) bool { return o.Key == p.Key })
		if at < 0 {
			change = append(change, document.Op{Do: document.Insert, Path: path, To: pricelist.Written(p)})
			continue
		}
		if pricelist.Written(before.Plans[at]) == pricelist.Written(p) {
			continue
		}
		next := ""
		if at+1 < len(before.Plans) {
			next = before.Plans[at+1].Key
		}
		change = append(change, document.Op{Do: document.Remove, Path: path}, document.Op{Do: document.Insert, Path: path, To: pricelist.Written(p), Before: next})
	}
	return change
}
