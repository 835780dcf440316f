package web

import (
	"fmt"
	"net/http"
	"time"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/formats"

	"github.com/gin-gonic/gin"
)

// soonOld is how many days ahead a list that grows old is told.
const soonOld = 14

// mostAgain is how many price lists to be read again the Desk shows.
const mostAgain = 8

// readAgain lists the price lists in use that are past the patience of a study, or soon
// will be.
func (s *Server) readAgain(c *gin.Context) (all []againRow, err error) {
	rows, err := s.store.ToReadAgain(c, callerOf(c).workspace(), s.today().AddDate(0, 0, soonOld), mostAgain)
	for _, r := range rows {
		one := againRow{Name: r.Name, Link: "/shelf/platforms/" + r.Platform, Read: pricelist.SayRead(r.ObservedOn), UsedIn: inStudies(r.Studies)}
		if one.Late = r.Due.Before(s.today()); one.Late {
			one.Due = "due since " + r.Due.Format("2 Jan 2006")
		} else {
			one.Due = "due by " + r.Due.Format("2 Jan 2006")
		}
		all = append(all, one)
	}
	return all, err
}

// mostDates is how many dates a calendar holds.
const mostDates = 1_000

// readAgainCalendar hands over when price lists are to be read again (RFC 5545).
func (s *Server) readAgainCalendar(c *gin.Context) {
	rows, err := s.store.ToReadAgain(c, callerOf(c).workspace(), time.Date(2199, 12, 31, 0, 0, 0, 0, time.UTC), mostDates)
	if err != nil {
		s.fail(c, err)
		return
	}
	var dates []formats.Date
	for _, r := range rows {
		dates = append(dates, formats.Date{ID: "read-again-" + r.Platform + "-" + pricelist.ReadText(r.ObservedOn), On: r.Due, Title: "Read the prices of " + r.Name + " again",
			About: fmt.Sprintf("Its list was read on %s and is used in %s.", pricelist.SayRead(r.ObservedOn), inStudies(r.Studies))})
	}
	c.Header("Content-Disposition", `attachment; filename="prices-to-read-again.ics"`)
	c.Data(http.StatusOK, "text/calendar; charset=utf-8", formats.Calendar("Prices to read again", dates, s.today()))
}
