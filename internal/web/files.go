package web

import (
	"errors"
	"fmt"
	"io"
	"net/http"
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
	data, err := uploaded(c)
	var brought store.Brought
	if err == nil {
		e := s.editing(c, uuid.Nil)
		if store.IsWorkspaceFile(data) && !callerOf(c).may(doors.ToGovern) {
			err = notAllowed(callerOf(c), doors.ToGovern)
		} else {
			brought, err = s.store.ImportFile(c, e, data)
		}
	}
	var faults formats.Faults
	switch {
	case errors.As(err, &faults):
		f := &failure{status: http.StatusUnprocessableEntity, What: "The file is refused; nothing of it was taken.", Do: fmt.Sprintf("%s to mend, by line and field:", orElse(len(faults) == 1, "1 fault", fmt.Sprintf("%d faults", len(faults))))}
		for _, fault := range faults {
			f.Faults = append(f.Faults, fault.String())
		}
		s.fail(c, f)
	case errors.Is(err, store.ErrNotEmpty):
		s.fail(c, &failure{status: http.StatusUnprocessableEntity, What: "A whole workspace comes only into an empty one.", Do: "Nothing was taken. Make a new workspace on the Desk, and bring the file in there."})
	case err != nil:
		s.fail(c, err)
	case brought.Study != uuid.Nil:
		c.Redirect(http.StatusSeeOther, "/studies/"+brought.Study.String()+"/brief")
	case brought.Platform != "":
		c.Redirect(http.StatusSeeOther, "/shelf")
	default:
		c.Redirect(http.StatusSeeOther, "/")
	}
}

// uploaded reads the file that a form carries.
func uploaded(c *gin.Context) ([]byte, error) {
	large := &failure{status: http.StatusRequestEntityTooLarge, What: "That file is too large.", Do: fmt.Sprintf("A file may hold %d MB. Nothing was taken.", mostFile>>20)}
	file, err := c.FormFile("file")
	var tooLarge *http.MaxBytesError
	switch {
	case errors.As(err, &tooLarge):
		return nil, large
	case err != nil:
		return nil, &failure{status: http.StatusBadRequest, What: "No file came along.", Do: "Choose a file and send the form again. Nothing was taken."}
	}
	opened, err := file.Open()
	if err != nil {
		return nil, err
	}
	defer opened.Close()
	return io.ReadAll(opened)
}

// export hands the whole workspace over as one file.
func (s *Server) export(c *gin.Context) {
	k := callerOf(c)
	data, err := s.store.ExportWorkspace(c, k.workspace())
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="workspace-%s.json"`, s.today().Format(time.DateOnly)))
	c.Data(http.StatusOK, "application/json; charset=utf-8", data)
}
