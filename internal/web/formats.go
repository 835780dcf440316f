package web

import (
	"net/http"
	"path"

	"ninecoins/docs/formats"
	"ninecoins/internal/doors"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

type formatsBody struct {
	Kinds []fileKind
	May   bool
}

type fileKind struct{ Name, Format, Holds, Goes, Schema, Example string }

// exampleList is what the price list to look at is called.
const exampleList = "price-list.example.json"

// formatsPage describes the files that come in and go out.
func (s *Server) formatsPage(c *gin.Context) {
	list := fileKind{"price list", "nine-coins/price-list/1", "the plans of one platform as they were read on one day: what is billed, by which rules, up to which limits, and what each plan can do",
		"the price shelf, for every study", "price-list.schema.json", ""}
	if s.example.PriceList != nil {
		list.Example = exampleList
	}
	s.render(c, http.StatusOK, "formats", page{Title: "Files", Active: "files", Limits: callerOf(c).limits(), Body: formatsBody{May: callerOf(c).may(doors.ToEdit), Kinds: []fileKind{list,
		{"study", "nine-coins/study/1", "what is compared, how usage grows, what is needed, what matters, and the ratings", "the Desk; the price lists it names are on the shelf before", "study.schema.json", ""},
		{"workspace", "nine-coins/workspace/2", "all studies and price lists, the history and the bin; no accounts, roles and links", "an empty workspace", "workspace.schema.json", ""},
	}}})
}

// formatFile hands out a schema, or the example of a price list.
func (s *Server) formatFile(c *gin.Context) {
	name := path.Base(c.Param("name"))
	data, err := formats.Schemas.ReadFile(name)
	if name == exampleList && s.example.PriceList != nil {
		data, err = s.example.PriceList, nil
	}
	if err != nil {
		s.fail(c, notFound("There is no such file here."))
		return
	}
	c.Header("Content-Disposition", `attachment; filename="`+name+`"`)
	c.Data(http.StatusOK, "application/json; charset=utf-8", data)
}

// bringExample brings the example study in, with its price lists.
func (s *Server) bringExample(c *gin.Context) {
	if s.example.Bring == nil {
		s.fail(c, unreadable())
		return
	}
	id, err := s.example.Bring(c, s.editing(c, uuid.Nil))
	if err != nil {
		s.failFile(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/studies/"+id.String()+"/brief?brought=study")
}
