package web

import (
	"errors"
	"net/http"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// newStudy begins a study from nothing, or from a copy of another, and opens it.
func (s *Server) newStudy(c *gin.Context) {
	at := s.editing(c, uuid.Nil)
	var st study.Study
	if c.PostForm("op") == "copy" {
		from, _ := uuid.Parse(c.PostForm("of"))
		other, err := s.store.Study(c, at.Workspace, from, at.Today)
		if errors.Is(err, store.ErrMissing) {
			err = notFound("The study to be copied is not here any more.")
		}
		if err != nil {
			s.fail(c, err)
			return
		}
		st = study.Copied(other)
	} else {
		st = study.Begun(at.Today, money.Currency{})
		fresh := deskNew{Title: c.PostForm("title"), Company: c.PostForm("company")}
		for path, text := range map[document.Path]string{"title": fresh.Title, "company": fresh.Company} {
			to, err := table.Typed(st, path, text)
			if err == nil {
				st, _, err = table.Apply(st, document.Change{{Do: document.Set, Path: path, To: to}})
			}
			if err != nil {
				spot, _ := table.Spot(st, path)
				fresh.Problem = spot.Label + ": " + problemOf(err) + ". Nothing was begun."
				s.drawDeskWith(c, http.StatusUnprocessableEntity, nil, fresh)
				return
			}
		}
	}
	id, err := s.store.NewStudy(c, at, st)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/studies/"+id.String()+"/brief")
}

// problemOf is what is wrong with a text, without where it stands.
func problemOf(err error) string {
	var invalid *document.InvalidError
	if errors.As(err, &invalid) {
		return invalid.Problem
	}
	return err.Error()
}
