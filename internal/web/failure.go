package web

import (
	"errors"
	"net/http"

	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/jackc/pgx/v5/pgconn"
)

// failure is an error in the reader's words, with its status.
type failure struct {
	status   int
	What, Do string
}

func (f *failure) Error() string { return f.What }

func notFound(what string) *failure {
	return &failure{http.StatusNotFound, what, "The Desk lists what there is."}
}

// fail answers with a page that says what happened and what to do.
func (s *Server) fail(c *gin.Context, err error) {
	var f *failure
	var connecting *pgconn.ConnectError
	switch {
	case errors.As(err, &f):
	case errors.Is(err, store.ErrMissing):
		f = &failure{http.StatusNotFound, "This study is not here any more.", "It was deleted, perhaps in another tab, or the link is wrong. Nothing was changed. The Desk lists what there is."}
	case errors.As(err, &connecting):
		f = &failure{http.StatusServiceUnavailable, "The database does not answer.", "Nothing was changed. Try again in a moment; if it stays so, look at the console where Nine Coins was started."}
	default:
		f = &failure{http.StatusInternalServerError, "This page could not be made.", "Nothing was changed. The console where Nine Coins was started says more."}
	}
	if f.status >= 500 {
		s.log.Error("failed", "path", c.Request.URL.Path, "error", err)
	}
	s.render(c, f.status, "failure", page{Title: f.What, Body: f})
}
