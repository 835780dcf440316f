package web

import (
	"net/http"
	"strings"

	"ninecoins/internal/formats"

	"github.com/gin-gonic/gin"
)

// costsFile hands over what options cost month by month, as CSV or as a workbook.
func (s *Server) costsFile(c *gin.Context) {
	r, err := s.open(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	name := strings.TrimSuffix(c.Param("file"), ".csv")
	kind, write := "text/csv; charset=utf-8", formats.WriteCosts
	if workbook, ok := strings.CutSuffix(c.Param("file"), ".xlsx"); ok {
		name, kind, write = workbook, "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", formats.WriteWorkbook
	}
	if name != "months" {
		s.fail(c, notFound("There is no such file."))
		return
	}
	data, err := write(c, r.outcome)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", `attachment; filename="costs-`+r.study().Key+c.Param("file")[len(name):]+`"`)
	c.Data(http.StatusOK, kind, data)
}
