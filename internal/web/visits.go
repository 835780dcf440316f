package web

import (
	"net/http"
	"strings"
	"time"

	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

// Whoever opens a reading link goes on reading by a secret of their own, in a
// cookie of its own for each link: of links that are opened at the same moment
// none takes another's place, with or without a session.
const (
	visitCookie = cookieName + "-read-" // and the end of the link's id
	mostVisits  = 20                    // links that one browser remembers
	longCookie  = 400 * 24 * time.Hour  // browsers keep none for longer (RFC 6265bis, section 5.5)
)

// visitCookies returns the cookies of a request that are of reading links, in
// the order in which browsers send them: the oldest first.
func visitCookies(r *http.Request) (all []*http.Cookie) {
	for _, cookie := range r.Cookies() {
		if strings.HasPrefix(cookie.Name, visitCookie) && len(all) < 2*mostVisits {
			all = append(all, cookie)
		}
	}
	return all
}

// visits returns the hashes of a request's secrets of reading links.
func visits(r *http.Request) (hashes [][]byte) {
	for _, cookie := range visitCookies(r) {
		hashes = append(hashes, doors.HashOf(cookie.Value))
	}
	return hashes
}

func (s *Server) setVisit(c *gin.Context, name, value string, ends time.Time) {
	http.SetCookie(c.Writer, &http.Cookie{Name: name, Value: value, Path: "/", Expires: ends, HttpOnly: true, SameSite: http.SameSiteLaxMode, Secure: s.secure()})
}

// beginVisit gives a browser the secret for a link that it opened, unless it
// has one.
func (s *Server) beginVisit(c *gin.Context, link store.ReadingLink) error {
	id := link.ID.String()
	name := visitCookie + id[len(id)-12:]
	there := visitCookies(c.Request)
	for _, cookie := range there {
		if cookie.Name != name {
			continue
		}
		if has, err := s.store.Reading(c, [][]byte{doors.HashOf(cookie.Value)}, link.Study); err == nil && has.ID == link.ID {
			return nil
		}
	}
	token, hash := doors.NewToken()
	if err := s.store.Visit(c, link.ID, hash); err != nil {
		return err
	}
	for _, old := range there[:max(0, len(there)-mostVisits+1)] {
		if old.Name != name {
			s.setVisit(c, old.Name, "", time.Unix(1, 0))
		}
	}
	s.setVisit(c, name, token, earlier(link.EndsAt, time.Now().Add(longCookie)))
	return nil
}

// endVisits takes a browser's secrets of reading links away.
func (s *Server) endVisits(c *gin.Context) error {
	for _, old := range visitCookies(c.Request) {
		s.setVisit(c, old.Name, "", time.Unix(1, 0))
	}
	return s.store.EndVisits(c, visits(c.Request))
}

func earlier(a, b time.Time) time.Time { return orElse(a.Before(b), a, b) }
