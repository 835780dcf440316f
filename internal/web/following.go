package web

import (
	"context"
	"fmt"
	"net/http"
	"regexp"
	"time"

	"ninecoins/internal/doors"
	"ninecoins/internal/store"

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
// Whoever may not see the study any more is told nothing more.
func (s *Server) events(c *gin.Context) {
	id, _ := thing(c)
	notices, stop := s.watcher.Follow(id)
	defer stop()
	out := http.NewResponseController(c.Writer)
	_ = out.SetWriteDeadline(time.Time{})
	c.Header("Content-Type", "text/event-stream")
	c.Header("X-Accel-Buffering", "no")
	if c.Request.Method == http.MethodHead {
		return
	}
	fmt.Fprint(c.Writer, ": following\n\nevent: following\ndata: \n\n") // a page that hears nothing looks by itself
	if s.missed(c, id) {
		fmt.Fprint(c.Writer, "event: changed\ndata: \n\n")
	}
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
		if !s.stillMay(c) {
			return
		}
	}
}

// missed reports whether the study has changed since the page was made that asks
// (?at=): what came before its stream was open was told to nobody.
func (s *Server) missed(c *gin.Context, study uuid.UUID) bool {
	at, asked := c.GetQuery("at")
	if !asked {
		return false
	}
	recent, err := s.store.Recent(c, s.editing(c, study))
	return err == nil && lastID(recent) != at
}

// stillMay asks anew whether an open stream's caller may see its study: the
// session may have been ended, the seat or the link taken away. While the
// database does not answer the stream stays.
func (s *Server) stillMay(c *gin.Context) bool {
	token := ""
	if cookie, err := c.Request.Cookie(cookieName); err == nil {
		token = cookie.Value
	}
	ctx, err := s.sessions.Load(context.Background(), token) // the request's own holds the session as it was
	if err != nil {
		return true
	}
	fresh := c.Copy()
	fresh.Request = c.Request.WithContext(ctx)
	k, err := s.identify(fresh)
	return err != nil && store.Away(err) || err == nil && k.may(doors.ToView)
}
