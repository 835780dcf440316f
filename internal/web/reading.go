package web

import (
	"fmt"
	"net/http"
	"strings"
	"time"

	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// read opens a reading link: the browser gets a secret for it, and the study is
// shown. A look at its head alone opens nothing.
func (s *Server) read(c *gin.Context) {
	find := s.store.OpenReadingLink
	if c.Request.Method == http.MethodHead {
		find = s.store.ReadingLink
	}
	link, err := find(c, doors.HashOf(c.Param("token")))
	if err == nil && c.Request.Method == http.MethodGet {
		err = s.beginVisit(c, link)
	}
	if err == store.ErrMissing {
		s.fail(c, &failure{status: http.StatusGone, What: "This link shows nothing.",
			Do: "It has ended, was withdrawn, or a part of the address was lost. Ask whoever gave it to you for a new one."})
		return
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/studies/"+link.Study.String()+"/brief")
}

type linksBody struct {
	Base    string
	Secrets []string // the addresses of the links that were just made, shown once
	Links   []linkView
	Until   string // proposed end
	Soonest string
	Latest  string
	Label   string
	Names   bool
	Problem string
	Wrong   string // which field it is about
}

type linkView struct {
	ID, Label, By, Made, Until, Opened, State string
	Names, Open                               bool
}

// longestReading is how far ahead a reading link may end.
const longestReading = 366 * 24 * time.Hour

func (s *Server) linksPage() coinPage {
	return coinPage{"", "links", func(r *request) (any, error) { return s.buildLinks(r, linksBody{}) }}
}

func (s *Server) buildLinks(r *request, b linksBody) (linksBody, error) {
	all, err := s.store.ReadingLinks(r.c, callerOf(r.c).workspace(), uuid.MustParse(r.id))
	if err != nil {
		return b, err
	}
	b.Base, b.Soonest, b.Latest = r.base(), s.today().Format(time.DateOnly), s.today().Add(longestReading).Format(time.DateOnly)
	if b.Until == "" {
		b.Until = s.today().AddDate(0, 0, 30).Format(time.DateOnly)
	}
	if b.Secrets, err = s.shownOnce(r.c, placeRead+r.id); err != nil {
		return b, err
	}
	for _, l := range all {
		v := linkView{ID: l.ID.String(), Label: l.Label, By: l.By, Made: l.MadeAt.Format("2 Jan 2006"), Until: lastDay(&l), Names: l.Names, Open: true,
			State: "open", Opened: "not yet"}
		if l.Opened > 0 {
			v.Opened = orElse(l.Opened == 1, "once, ", fmt.Sprintf("%d times, last ", l.Opened)) + l.OpenedAt.Format("2 Jan 2006, 15:04")
		}
		switch {
		case l.Withdrawn != nil:
			v.State, v.Open = "withdrawn "+l.Withdrawn.Format("2 Jan 2006"), false
		case l.Ended:
			v.State, v.Open = "ended", false
		}
		b.Links = append(b.Links, v)
	}
	return b, nil
}

// lastDay is the last day on which a reading link is open.
func lastDay(l *store.ReadingLink) string { return l.EndsAt.Add(-time.Second).Format("2 Jan 2006") }

// linksEdit makes a reading link or withdraws one.
func (s *Server) linksEdit(c *gin.Context) {
	id, _ := thing(c)
	e := s.editing(c, id)
	b := linksBody{Label: strings.TrimSpace(c.PostForm("label")), Names: c.PostForm("names") != "", Until: c.PostForm("until")}
	var err error
	switch c.PostForm("edit") {
	case "withdraw":
		var link uuid.UUID
		link, _ = uuid.Parse(c.PostForm("of"))
		if err = s.store.WithdrawReadingLink(c, e, link); err == store.ErrMissing {
			err = notFound("There is no open link of that kind; perhaps it was withdrawn meanwhile.")
		}
	case "make":
		day, bad := time.Parse(time.DateOnly, b.Until)
		b.Label, b.Problem = judgeTitle(b.Label, "for whom the link is")
		b.Wrong = "label"
		if b.Problem == "" && (bad != nil || day.Before(s.today()) || day.After(s.today().Add(longestReading))) {
			b.Wrong, b.Problem = "until", fmt.Sprintf("%s is no day from today to %s. Type it like %s.", quoted(b.Until),
				s.today().Add(longestReading).Format(time.DateOnly), s.today().AddDate(0, 0, 30).Format(time.DateOnly))
		}
		if b.Problem != "" {
			s.refuseLink(c, b)
			return
		}
		token, hash := doors.NewToken()
		if err = s.store.MakeReadingLink(c, e, b.Label, b.Names, hash, day.AddDate(0, 0, 1)); err == nil {
			err = s.store.ShowOnce(c, callerOf(c).account.ID, placeRead+id.String(), s.address+"/read/"+token)
		}
	default:
		err = unreadable()
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, c.Request.URL.RequestURI())
}

func (s *Server) refuseLink(c *gin.Context, b linksBody) {
	r, err := s.open(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.draw(r, coinPage{"", "links", func(r *request) (any, error) { return s.buildLinks(r, b) }}, http.StatusUnprocessableEntity)
}
