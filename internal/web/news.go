package web

import (
	"errors"
	"fmt"
	"net/http"
	"time"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
	"ninecoins/internal/formats"
	"ninecoins/internal/outside"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// newsBody is what the price feed has that the shelf has not.
type newsBody struct {
	There   bool // a feed is set up
	Looked  bool
	May     bool
	Rows    []newsRow
	Known   int
	Wrong   []string
	Problem string
}

type newsRow struct {
	Name, Platform, Day, On, Ours, Says, Wrong, Draft string
	Fresh                                             bool // of a platform that is not on the shelf
}

// mostFetched is how many lists of the feed are fetched at one look.
const mostFetched = 12

func (s *Server) newsPage(c *gin.Context) {
	s.drawNews(c, http.StatusOK, &newsBody{})
}

func (s *Server) drawNews(c *gin.Context, status int, b *newsBody) {
	b.There, b.May = s.feed != nil && s.feed.Address != "", callerOf(c).may(doors.ToEdit)
	s.render(c, status, "news", page{Title: "Look for news", Active: "shelf", Limits: callerOf(c).limits(), Body: b})
}

// lookForNews asks the feed what it publishes, or accepts a list of it as a draft.
func (s *Server) lookForNews(c *gin.Context) {
	if c.PostForm("op") == "accept" {
		s.acceptNews(c)
		return
	}
	b := &newsBody{Looked: true}
	if err := s.look(c, b); err != nil {
		s.fail(c, err)
		return
	}
	s.drawNews(c, http.StatusOK, b)
}

// look compares what the feed publishes with the shelf.
func (s *Server) look(c *gin.Context, b *newsBody) error {
	entries, wrong, err := s.feed.News(c)
	var problem *outside.Problem
	switch {
	case errors.Is(err, outside.ErrNone):
		return nil
	case errors.As(err, &problem):
		b.Problem = "The price feed gave nothing that can be used: " + problem.What + ". Nothing was changed; look again in a while."
		return nil
	case err != nil:
		return err
	}
	b.Wrong = wrong
	ws := callerOf(c).workspace()
	var keys []string
	for _, e := range entries {
		keys = append(keys, e.Platform)
	}
	days, err := s.store.ListsOf(c, ws, keys)
	if err != nil {
		return err
	}
	fetched := 0
	for _, e := range entries {
		on, _ := time.Parse(time.DateOnly, e.ObservedOn)
		ours := days[e.Platform]
		if len(ours) > 0 && !on.After(ours[0]) {
			b.Known++
			continue
		}
		row := newsRow{Name: short(e.Name, 60), Platform: e.Platform, Day: on.Format("2 Jan 2006"), On: e.ObservedOn, Fresh: len(ours) == 0}
		row.Name = orElse(row.Name != "", row.Name, e.Platform)
		if len(ours) > 0 {
			row.Ours = ours[0].Format("2 Jan 2006")
		}
		if fetched++; fetched <= mostFetched {
			if err := s.tellNews(c, &row, e, ours); err != nil {
				return err
			}
		}
		b.Rows = append(b.Rows, row)
	}
	return nil
}

// tellNews fetches a list of the feed and says what it changes.
func (s *Server) tellNews(c *gin.Context, row *newsRow, e outside.Entry, ours []time.Time) error {
	list, _, err := s.fetched(c, e)
	var problem *outside.Problem
	if errors.As(err, &problem) {
		row.Wrong = capital(problem.What) + "."
		return nil
	}
	if err != nil {
		return err
	}
	if len(ours) == 0 {
		row.Says = fmt.Sprintf("Not on the shelf yet: %s.", counted(len(list.Plans), "plan", "plans"))
		return nil
	}
	before, err := s.store.EditionOn(c, callerOf(c).workspace(), e.Platform, ours[0])
	if errors.Is(err, store.ErrMissing) {
		return nil
	}
	if err != nil {
		return err
	}
	row.Says = study.SayDifferences(list.Platform.Name, row.Ours, row.Day, pricelist.Compare(before, list)).String()
	return nil
}

// fetched is a list of the feed, checked as any file is: with what plans take over from
// others, and as it was stated. What is wrong with it is an [*outside.Problem].
func (s *Server) fetched(c *gin.Context, e outside.Entry) (list *pricelist.Edition, stated pricelist.Edition, err error) {
	data, err := s.feed.List(c, e)
	if err != nil {
		return nil, stated, err
	}
	list, err = formats.ReadPriceList(c, data, s.today())
	var faults formats.Faults
	switch {
	case errors.As(err, &faults):
		return nil, stated, &outside.Problem{What: fmt.Sprintf("its list of %s is refused: %s", short(e.Name, 60), faults[0].String()), Err: err}
	case err != nil:
		return nil, stated, err
	case list.Platform.Key != e.Platform || pricelist.ReadText(list.ObservedOn) != e.ObservedOn:
		return nil, stated, &outside.Problem{What: fmt.Sprintf("its list of %s is of another platform or day than its index says", short(e.Name, 60))}
	}
	stated, err = formats.StatedPriceList(c, data)
	return list, stated, err
}

// acceptNews makes a draft of a list of the feed.
func (s *Server) acceptNews(c *gin.Context) {
	b := &newsBody{}
	entries, _, err := s.feed.News(c)
	var stated pricelist.Edition
	found := false
	if err == nil {
		for _, e := range entries {
			if e.Platform == c.PostForm("platform") && e.ObservedOn == c.PostForm("day") {
				found = true
				_, stated, err = s.fetched(c, e)
			}
		}
	}
	var problem *outside.Problem
	switch {
	case errors.As(err, &problem):
		b.Problem = "The list was not taken: " + problem.What + "."
	case errors.Is(err, outside.ErrNone):
		b.Problem = "There is no price feed here."
	case err != nil:
		s.fail(c, err)
		return
	case !found:
		b.Problem = "The feed has no such list any more. Look for news again."
	}
	if b.Problem != "" {
		s.drawNews(c, http.StatusUnprocessableEntity, b)
		return
	}
	key, err := s.store.DraftRead(c, s.editing(c, uuid.Nil), stated, true)
	var refused *store.RefusedError
	switch {
	case errors.Is(err, store.ErrDraft):
		b.Problem = "There is a draft of " + stated.Platform.Name + " already. Publish it or put it aside, then accept this one."
	case errors.As(err, &refused):
		b.Problem = capital(problemOf(refused.Err)) + ". Nothing was made."
	case err != nil:
		s.fail(c, err)
		return
	default:
		c.Redirect(http.StatusSeeOther, "/shelf/platforms/"+key+"/draft/prices")
		return
	}
	s.drawNews(c, http.StatusConflict, b)
}
