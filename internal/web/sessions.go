package web

import (
	"net/http"
	"time"

	"ninecoins/internal/store"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// What a session holds.
const (
	sessionAccount   = "account"
	sessionEpoch     = "epoch"
	sessionWorkspace = "workspace" // which the Desk shows
)

const (
	cookieName  = "nine-coins"
	sessionLife = 14 * 24 * time.Hour
)

// newSessions makes the sessions: kept in the database under a hash of the
// token, so that every server process knows them and a copy of the database
// opens none.
func newSessions(db *store.Store, secure bool, failed func(http.ResponseWriter, *http.Request, error)) *scs.SessionManager {
	m := scs.New()
	m.Store = db.Sessions()
	m.HashTokenInStore = true
	m.Lifetime = sessionLife
	m.Cookie.Name = cookieName
	m.Cookie.HttpOnly = true
	m.Cookie.SameSite = http.SameSiteLaxMode
	m.Cookie.Secure = secure
	m.ErrorFunc = failed
	return m
}

// session returns the account that is signed in.
func (s *Server) session(c *gin.Context) (account uuid.UUID, epoch int64, ok bool) {
	ctx := c.Request.Context()
	account, err := uuid.Parse(s.sessions.GetString(ctx, sessionAccount))
	return account, s.sessions.GetInt64(ctx, sessionEpoch), err == nil
}

// enter signs an account in, under a new token: one that somebody else may
// have planted is worth nothing.
func (s *Server) enter(c *gin.Context, a store.Account) error {
	ctx := c.Request.Context()
	if err := s.sessions.RenewToken(ctx); err != nil {
		return err
	}
	s.sessions.Put(ctx, sessionAccount, a.ID.String())
	s.sessions.Put(ctx, sessionEpoch, a.Epoch)
	return nil
}

// forget takes the account out of a session that was ended elsewhere.
func (s *Server) forget(c *gin.Context) {
	ctx := c.Request.Context()
	for _, key := range []string{sessionAccount, sessionEpoch, sessionWorkspace} {
		s.sessions.Remove(ctx, key)
	}
}

// navigates reports whether a person goes to a page, rather than a page that
// is open looking in the background (Fetch Metadata, W3C). Browsers that do not
// tell are taken to navigate.
func navigates(c *gin.Context) bool {
	mode := c.GetHeader("Sec-Fetch-Mode")
	return c.Request.Method == http.MethodGet && (mode == "" || mode == "navigate")
}

// Places where an address is shown once to who made it.
const (
	placeJoining = "joining"  // invitations
	placeRead    = "reading " // and the study's id: reading links
)

// shownOnce takes out what is shown once at a place, for whoever goes to the
// page; a look in the background does not take it away from them.
func (s *Server) shownOnce(c *gin.Context, place string) ([]string, error) {
	if !navigates(c) {
		return nil, nil
	}
	return s.store.ShownOnce(c, callerOf(c).account.ID, place)
}

func (s *Server) chosenWorkspace(c *gin.Context) uuid.UUID {
	id, _ := uuid.Parse(s.sessions.GetString(c.Request.Context(), sessionWorkspace))
	return id
}

func (s *Server) chooseWorkspace(c *gin.Context, id uuid.UUID) {
	s.sessions.Put(c.Request.Context(), sessionWorkspace, id.String())
}

// withSessions puts sessions under all but the files that pages load and the
// health page, which need none.
func (s *Server) withSessions(next http.Handler) http.Handler {
	with := s.sessions.LoadAndSave(next)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if sessionless(r.URL.Path) {
			next.ServeHTTP(w, r)
			return
		}
		with.ServeHTTP(w, r)
	})
}
