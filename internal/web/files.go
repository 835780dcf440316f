package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"time"

	"ninecoins/internal/doors"
	"ninecoins/internal/formats"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// bringIn takes a file in one of the open formats: a price list, a study, or,
// by an owner into an empty workspace, a whole workspace.
func (s *Server) bringIn(c *gin.Context) {
	most := formats.MostBytes
	if callerOf(c).may(doors.ToGovern) {
		most = formats.MostWorkspaceBytes
	}
	file, err := s.uploaded(c, most)
	defer file.leave()
	var brought store.Brought
	if err == nil {
		brought, err = s.takeFile(c, file.data)
	}
	switch {
	case err != nil:
		s.failFile(c, err)
	case brought.Study != uuid.Nil:
		c.Redirect(http.StatusSeeOther, "/studies/"+brought.Study.String()+"/brief?brought=study")
	case brought.Platform != "":
		c.Redirect(http.StatusSeeOther, "/shelf?brought="+url.QueryEscape(brought.Platform))
	default:
		c.Redirect(http.StatusSeeOther, "/?brought=workspace")
	}
}

// failFile says what is wrong with a file.
func (s *Server) failFile(c *gin.Context, err error) {
	var faults formats.Faults
	switch {
	case errors.As(err, &faults):
		f := &failure{status: http.StatusUnprocessableEntity, What: "The file is refused; nothing of it was taken.",
			Do: orElse(len(faults) == 1, "One fault to mend, by line and field:", "To mend, by line and field:")}
		for _, fault := range faults {
			f.Faults = append(f.Faults, fault.String())
		}
		s.fail(c, f)
	case errors.Is(err, context.DeadlineExceeded) && c.Request.Context().Err() != nil:
		s.fail(c, &failure{status: http.StatusServiceUnavailable, What: fmt.Sprintf("The file could not be taken in within %d minutes.",
			int(fileIn.Minutes())), Do: "Nothing of it was taken. Try again when less is going on, or bring in less at once."})
	case errors.Is(err, store.ErrNotEmpty):
		s.fail(c, &failure{status: http.StatusUnprocessableEntity, What: "A whole workspace comes only into an empty one.",
			Do: "Nothing was taken. Make a new workspace on the Desk, and bring the file in there."})
	default:
		s.fail(c, err)
	}
}

// takeFile reads a file while there is a place for it: how many are read at once
// is bounded, and so is the memory for them.
func (s *Server) takeFile(c *gin.Context, data []byte) (store.Brought, error) {
	leave, err := take(c, orElse(isLarge(len(data)), s.places.large, s.places.small))
	if err != nil {
		return store.Brought{}, err
	}
	defer leave()
	return s.store.ImportFile(c, s.editing(c, uuid.Nil), data)
}

// export hands the whole workspace over as one file.
func (s *Server) export(c *gin.Context) {
	k := callerOf(c)
	out := &download{c: c, name: fmt.Sprintf("workspace-%s.json", s.today().Format(time.DateOnly))}
	switch err := s.store.ExportWorkspace(c, k.workspace(), out); {
	case err != nil && !out.begun:
		s.fail(c, err)
	case err != nil:
		// What has been sent cannot be taken back: the connection ends, so that nobody
		// takes half a file for a whole one.
		s.log.Error("exporting", "error", err)
		panic(http.ErrAbortHandler)
	}
}

// download sends a file piece by piece. Each piece has time of its own, so that
// a long file may take long, and one that nobody takes does not.
type download struct {
	c     *gin.Context
	name  string
	begun bool
}

func (d *download) Write(p []byte) (int, error) {
	if !d.begun {
		d.begun = true
		d.c.Header("Content-Disposition", `attachment; filename="`+d.name+`"`)
		d.c.Header("Content-Type", "application/json; charset=utf-8")
		d.c.Status(http.StatusOK)
	}
	_ = http.NewResponseController(d.c.Writer).SetWriteDeadline(time.Now().Add(answerIn))
	return d.c.Writer.Write(p)
}
