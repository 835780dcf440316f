package web

import (
	"fmt"
	"net/http"
	"regexp"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// tabForm is what a tab calls itself, so that it does not follow itself.
var tabForm = regexp.MustCompile(`^[a-z0-9-]{1,40}$`)

func tabOf(c *gin.Context) string {
	if tab := c.GetHeader("X-Tab"); tabForm.MatchString(tab) {
		return tab
	}
	return ""
}

// heartbeat keeps a quiet stream open and finds out when nobody listens.
const heartbeat = 20 * time.Second

// events streams a study's changes to an open page (server-sent events, HTML
// Living Standard). Each tells which tab made it; the page looks for itself.
func (s *Server) events(c *gin.Context) {
	id, err := uuid.Parse(c.Param("study"))
	if err == nil {
		_, err = s.store.Study(c, s.workspace.ID, id, s.today())
	}
	if err != nil {
		c.Status(http.StatusNoContent) // tells the browser not to try again
		return
	}
	notices, stop := s.watcher.Follow(id)
	defer stop()
	out := http.NewResponseController(c.Writer)
	_ = out.SetWriteDeadline(time.Time{})
	c.Header("Content-Type", "text/event-stream")
	fmt.Fprint(c.Writer, ": following\n\n")
	tick := time.NewTicker(heartbeat)
	defer tick.Stop()
	for out.Flush() == nil {
		select {
		case <-c.Request.Context().Done():
			return
		case <-s.closing:
			return
		case n := <-notices:
			fmt.Fprintf(c.Writer, "event: changed\ndata: %s\n\n", n.Tab)
		case <-tick.C:
			fmt.Fprint(c.Writer, ": still here\n\n")
		}
	}
}
