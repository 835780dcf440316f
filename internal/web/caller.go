package web

import (
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// caller is who a request comes from, and what they are where it goes to.
type caller struct {
	account store.Account // of nobody: the zero value
	seats   []store.Seat
	seat    store.Seat         // in the workspace that the request is about; none: the zero value
	link    *store.ReadingLink // by which a study is read without a seat
}

func (k *caller) signedIn() bool { return k.account.ID != uuid.Nil }

// may reports whether the caller meets a need where the request goes to.
func (k *caller) may(n doors.Need) bool {
	switch {
	case n == doors.SignedIn:
		return k.signedIn()
	case k.link != nil:
		return n == doors.Anyone || n == doors.ToView
	}
	return k.seat.Role.May(n)
}

// workspace is the one that the request is about.
func (k *caller) workspace() uuid.UUID {
	if k.link != nil {
		return k.link.Workspace
	}
	return k.seat.Workspace.ID
}

// names reports whether the caller is shown names of people.
func (k *caller) names() bool { return k.link == nil || k.link.Names }

const callerKey = "caller"

// callerOf returns who a request comes from; [Server.admit] has settled it.
func callerOf(c *gin.Context) *caller {
	if k, ok := c.Value(callerKey).(*caller); ok {
		return k
	}
	return &caller{}
}

// editing says who edits what, for the store.
func (s *Server) editing(c *gin.Context, study uuid.UUID) store.Editing {
	k := callerOf(c)
	return store.Editing{Workspace: k.workspace(), Study: study, By: k.seat.Person, Name: k.seat.Name, Role: k.seat.Role, Today: s.today(), Tab: tabOf(c)}
}

// thing is the id of the study or edition that a route names; nil for none, or
// for one that is no id.
func thing(c *gin.Context) (id uuid.UUID, named bool) {
	for _, param := range []string{"study", "edition"} {
		if text := c.Param(param); text != "" {
			id, _ = uuid.Parse(text)
			return id, true
		}
	}
	return uuid.Nil, false
}

// identify finds out who a request comes from. Whether a study or edition is
// within their reach is part of the question to the database.
func (s *Server) identify(c *gin.Context) (*caller, error) {
	k := &caller{}
	if sessionless(c.Request.URL.Path) {
		return k, nil
	}
	id, named := thing(c)
	if account, epoch, ok := s.session(c); ok {
		var err error
		k.account, k.seats, err = s.store.Visitor(c, account, epoch, id)
		if errors.Is(err, store.ErrMissing) { // the session was ended elsewhere
			s.forget(c)
		} else if err != nil {
			return nil, err
		}
	}
	desk := s.deskSeat(c, k.seats)
	if !named {
		k.seat = desk
	}
	for _, seat := range k.seats {
		if named && seat.Holds {
			k.seat = seat
		}
	}
	// Whoever goes to a study of another workspace finds that one's Desk behind it.
	if named && k.seat.Person != desk.Person && k.seat.Person != uuid.Nil && navigates(c) {
		s.chooseWorkspace(c, k.seat.Workspace.ID)
	}
	if named && c.Param("study") != "" && k.seat.Person == uuid.Nil {
		link, err := s.store.Reading(c, visits(c.Request), id)
		if err == nil {
			k.link = &link
		} else if !errors.Is(err, store.ErrMissing) {
			return nil, err
		}
	}
	return k, nil
}

// deskSeat is the seat in the workspace whose Desk is shown: the one chosen
// last, else the oldest.
func (s *Server) deskSeat(c *gin.Context, seats []store.Seat) store.Seat {
	chosen := s.chosenWorkspace(c)
	for _, seat := range seats {
		if seat.Workspace.ID == chosen {
			return seat
		}
	}
	if len(seats) > 0 {
		return seats[0]
	}
	return store.Seat{}
}

// admit lets a request through that meets the need, and tells the others in
// words why not.
func (s *Server) admit(need doors.Need) gin.HandlerFunc {
	return func(c *gin.Context) {
		if f := unfit(c); f != nil {
			s.fail(c, f)
			c.Abort()
			return
		}
		k, err := s.identify(c)
		if err == nil {
			c.Set(callerKey, k)
			err = turnedAway(c, k, need)
		}
		var f *failure
		switch {
		case err == nil:
			return
		case errors.As(err, &f) && f.status == http.StatusUnauthorized && c.Request.Method != http.MethodPost && !strings.HasSuffix(c.FullPath(), "/events"):
			c.Redirect(http.StatusSeeOther, "/sign-in?next="+url.QueryEscape(c.Request.URL.RequestURI()))
		default:
			s.fail(c, err)
		}
		c.Abort()
	}
}

// turnedAway says why a caller does not meet a need; nil where they do.
func turnedAway(c *gin.Context, k *caller, need doors.Need) error {
	_, named := thing(c)
	outside := k.seat.Person == uuid.Nil && k.link == nil
	switch {
	case k.may(need):
		return nil
	case !k.signedIn() && k.link == nil:
		return &failure{status: http.StatusUnauthorized, What: "You are not signed in, or your session was ended.",
			Do: "Nothing was changed. Sign in, in another tab if something is typed here, and try again."}
	case outside && named && c.Param("study") != "":
		return store.ErrMissing
	case outside && named:
		return notFound("There is no such edition.")
	case outside:
		return &failure{status: http.StatusForbidden, What: "You are in no workspace at present.",
			Do: "Make one on your Desk, or ask for an invitation to somebody else's."}
	}
	return notAllowed(k, need)
}

// notAllowed says what a role lacks.
func notAllowed(k *caller, need doors.Need) *failure {
	if k.link != nil {
		return &failure{status: http.StatusForbidden, What: "A reading link shows a study and changes nothing.",
			Do: "Nothing was changed. Ask whoever gave you the link for an invitation if you are to work on it."}
	}
	what := fmt.Sprintf("This needs %s; you are %s in %s.", a(string(doors.Least(need))), a(string(k.seat.Role)), k.seat.Workspace.Name)
	return &failure{status: http.StatusForbidden, What: what, Do: fmt.Sprintf("Nothing was changed. %s %s. An owner of %s can give you another role.", capital(a(string(k.seat.Role))), k.seat.Role.Can(), k.seat.Workspace.Name)}
}

// a puts the article before a role.
func a(role string) string {
	if strings.ContainsRune("aeiou", rune((role + " ")[0])) {
		return "an " + role
	}
	return "a " + role
}

func capital(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// limits says on the pages of a study what the caller may not do there; "" for
// who may change everything.
func (k *caller) limits() string {
	switch {
	case k.link != nil:
		return fmt.Sprintf("You read this study by a link, until %s. It shows everything and changes nothing.", lastDay(k.link))
	case k.may(doors.ToEdit):
		return ""
	}
	return fmt.Sprintf("You are %s here: you %s. An owner can give you another role.", a(string(k.seat.Role)), k.seat.Role.Can())
}

// address is where a request comes from on the network. Forwarded headers
// count only where a proxy is trusted.
func address(c *gin.Context) string { return c.ClientIP() }

// Local reports whether an address is one of this machine alone, or says no more
// than that every address is listened on. Under any other one whoever comes need
// not sit at it.
func Local(address string) bool {
	u, err := url.Parse(address)
	if err != nil {
		return false
	}
	at, _ := netip.ParseAddr(u.Hostname())
	return isLoopback(u.Host) || at.IsValid() && at.IsUnspecified()
}

// isLoopback reports whether a host, perhaps with a port, is this machine.
func isLoopback(host string) bool {
	if name, _, err := net.SplitHostPort(host); err == nil {
		host = name
	}
	at, err := netip.ParseAddr(strings.Trim(host, "[]"))
	return host == "localhost" || err == nil && at.IsLoopback()
}

// onLoopback reports whether a request was made on this machine itself, under
// a name of this machine, and not through a proxy.
func onLoopback(r *http.Request) bool {
	for _, header := range []string{"Forwarded", "X-Forwarded-For", "X-Forwarded-Host", "X-Real-Ip", "Via"} {
		if r.Header.Get(header) != "" {
			return false
		}
	}
	from, err := netip.ParseAddrPort(r.RemoteAddr)
	if err != nil || !from.Addr().Unmap().IsLoopback() {
		return false
	}
	return isLoopback(r.Host)
}

// mayEdit reports whether the caller may edit what stands at a path.
func (k *caller) mayEdit(path document.Path) bool { return k.may(doors.Need(table.NeedOf(path))) }
