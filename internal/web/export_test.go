package web

import (
	"net/http"
	"time"

	"ninecoins/internal/doors"

	"github.com/gin-gonic/gin"
)

// Tests share a machine, and looking for races takes ten times as long.
func init() { answerIn = 5 * time.Minute }

// Routes lists what a server answers to, as "METHOD /path".
func (s *Server) Routes() []string {
	var all []string
	for _, r := range s.table {
		all = append(all, r.method+" "+r.path)
	}
	return all
}

// Tell makes a route need something else than it tells; a new one is added.
func (s *Server) Tell(method, path string, need doors.Need) {
	for i, r := range s.table {
		if r.method == method && r.path == path {
			s.table[i].need = need
			return
		}
	}
	s.table = append(s.table, route{method, path, need, func(c *gin.Context) { c.String(http.StatusOK, "open") }})
}

// Idle reports whether no long work is under way.
func (s *Server) Idle() bool { return s.gate.Idle() && s.pages.Idle() }
