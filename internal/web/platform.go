package web

import (
	"errors"
	"net/http"
	"strings"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// platformBody is a platform with its editions, and where they are used.
type platformBody struct {
	Row      platformRow
	Links    []string
	Trial    string
	Editions []shelfRow
	Plans    []string
	Uses     []useView
	MoreUses bool // than are shown
	May      bool
	Problem  string
	Typed    string
	Curve    *curveView // what its plans cost, edition by edition
}

// mostUses is how many studies that use a platform are shown.
const mostUses = 50

type useView struct{ Title, Link, Read string }

// platform shows a platform of the shelf.
func (s *Server) platform(c *gin.Context) { s.drawPlatform(c, http.StatusOK, nil, "", "") }

func (s *Server) drawPlatform(c *gin.Context, status int, n *notice, wrong, typed string) {
	ws, key := callerOf(c).workspace(), c.Param("platform")
	row, err := s.store.Platform(c, ws, key)
	if errors.Is(err, store.ErrMissing) {
		err = notFound("There is no such platform on the shelf.")
	}
	var editions []store.EditionRow
	var uses []store.UsedIn
	if err == nil {
		editions, err = s.store.EditionsOf(c, ws, key)
	}
	if err == nil {
		uses, err = s.store.PlatformUses(c, ws, key, mostUses+1)
	}
	var newest *pricelist.Edition
	if err == nil && row.Newest != uuid.Nil {
		_, newest, err = s.store.Edition(c, ws, row.Newest)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	b := platformBody{Row: s.platformRow(row), May: callerOf(c).may(doors.ToEdit), Problem: wrong, Typed: typed}
	for _, e := range editions {
		b.Editions = append(b.Editions, s.shelfRow(e))
	}
	b.MoreUses = len(uses) > mostUses
	for _, u := range uses[:min(len(uses), mostUses)] {
		b.Uses = append(b.Uses, useView{u.Title, "/studies/" + u.ID.String() + "/line-up", pricelist.SayRead(u.ObservedOn)})
	}
	if newest != nil {
		b.Links, b.Trial = newest.Platform.Links, sayTrial(newest.Trial)
		for _, p := range newest.Plans {
			b.Plans = append(b.Plans, p.Name)
		}
	}
	if n == nil && c.Query("published") != "" {
		n = &notice{Text: "The draft was published: it is an edition from now on. Studies go on by the edition that they had, until another is chosen on their Line-up."}
	}
	if n == nil && c.Query("again") != "" {
		n = &notice{Text: "Noted: read again today, unchanged. Its studies go by today's list from now on."}
	}
	if b.Curve, err = s.priceHistory(c, key, editions, uses); err != nil {
		s.fail(c, err)
		return
	}
	s.render(c, status, "platform", page{Title: row.Name, Active: "shelf", Limits: callerOf(c).limits(), Body: b, Notice: n})
}

// platformEdit begins a draft, takes one up again, or copies the platform under another
// name.
func (s *Server) platformEdit(c *gin.Context) {
	e, key := s.editing(c, uuid.Nil), c.Param("platform")
	to := "/shelf/platforms/" + key + "/draft"
	var err error
	switch c.PostForm("op") {
	case "open":
		_, err = s.store.OpenDraft(c, e, key)
	case "take-up":
		err = s.store.TakeUpDraft(c, e, key)
	case "unchanged":
		to = "/shelf/platforms/" + key + "?again=yes"
		err = s.store.ReadAgain(c, e, key)
		var refused *store.RefusedError
		if errors.As(err, &refused) {
			s.drawPlatform(c, http.StatusConflict, &notice{Trouble: true, Text: capital(problemOf(refused.Err)) + "."}, "", "")
			return
		}
	case "stand-in":
		name := strings.TrimSpace(c.PostForm("name"))
		var made string
		made, err = s.store.NewPlatform(c, e, pricelist.Platform{Name: name}, "", key)
		var refused *store.RefusedError
		if errors.As(err, &refused) {
			s.drawPlatform(c, http.StatusUnprocessableEntity, nil, capital(problemOf(refused.Err))+". Nothing was made.", name)
			return
		}
		to = "/shelf/platforms/" + made + "/draft"
	default:
		err = unreadable()
	}
	if errors.Is(err, store.ErrMissing) {
		err = notFound("There is no such platform or draft any more.")
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, to)
}
