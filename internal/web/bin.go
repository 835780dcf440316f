package web

import (
	"errors"
	"fmt"
	"net/http"
	"strings"

	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

type binBody struct {
	Rows []binRow
	May  bool
}

type binRow struct{ Kind, Of, Study, What, Name, When, By, Left string }

// bin lists what was deleted and can be brought back.
func (s *Server) bin(c *gin.Context) { s.drawBin(c, http.StatusOK, nil) }

func (s *Server) drawBin(c *gin.Context, status int, n *notice) {
	k := callerOf(c)
	binned, err := s.store.Bin(c, k.workspace())
	if err != nil {
		s.fail(c, err)
		return
	}
	body := binBody{May: k.may(doors.ToEdit)}
	for _, b := range binned {
		row := binRow{Kind: b.Kind, Of: b.Of, Name: b.Name, When: b.DeletedAt.Format("2 Jan 2006, 15:04"), By: b.By}
		switch b.Kind {
		case store.Studies:
			row.What = "study"
		case store.Platforms:
			row.What = "platform"
		default:
			one, name, _ := strings.Cut(b.Name, " ")
			row.Study, row.What, row.Name = b.Study.String(), strings.ToLower(one)+" of "+b.Title, name
		}
		row.Left = fmt.Sprintf("%d %s", b.DaysLeft, orElse(b.DaysLeft == 1, "day", "days"))
		body.Rows = append(body.Rows, row)
	}
	s.render(c, status, "bin", page{Title: "Bin", Active: "bin", Limits: k.limits(), Body: body, Notice: n})
}

// binEdit brings something back.
func (s *Server) binEdit(c *gin.Context) {
	study, _ := uuid.Parse(c.PostForm("study"))
	e := s.editing(c, study)
	var err error
	if study == uuid.Nil {
		err = s.store.Move(c, e, c.PostForm("kind"), c.PostForm("of"), false)
	} else {
		change, _ := uuid.Parse(c.PostForm("of"))
		err = s.store.BringBack(c, e, change)
	}
	var changed *store.ChangedError
	var refused *store.RefusedError
	switch {
	case errors.As(err, &refused):
		s.drawBin(c, http.StatusUnprocessableEntity, &notice{Trouble: true, Text: "It stays in the bin: " + refused.Error() + "."})
	case errors.Is(err, store.ErrMissing), errors.As(err, &changed):
		s.drawBin(c, http.StatusConflict, &notice{Trouble: true, Text: "That is not in the bin any more: somebody brought it back, or its 30 days are over."})
	case err != nil:
		s.fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/bin")
	}
}

// mailbox shows what the stand-in for a mail server was given.
func (s *Server) mailbox(c *gin.Context) {
	if !onLoopback(c.Request) {
		s.fail(c, &failure{status: http.StatusForbidden, What: "The stand-in mailbox is shown only on this machine.",
			Do: "Open Nine Coins under http://127.0.0.1 on the machine that it runs on."})
		return
	}
	letters, err := s.store.Letters(c, 50)
	if err != nil {
		s.fail(c, err)
		return
	}
	var body struct{ Letters []letterView }
	for _, l := range letters {
		body.Letters = append(body.Letters, newLetterView(l, s.address))
	}
	s.render(c, http.StatusOK, "mailbox", page{Title: "Mailbox", Active: "mailbox", Body: body})
}

type letterView struct {
	To, Subject, Sent string
	Lines             []letterLine
}

// letterLine is a line of a letter; one that is an address of this application
// can be followed.
type letterLine struct{ Text, Link string }
