package web

import (
	"context"
	"errors"
	"net/http"
	"strings"
	"time"

	"ninecoins/internal/core/work"
	"ninecoins/internal/doors"
	"ninecoins/internal/mail"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

func (s *Server) signInDoor(c *gin.Context, email, next string) *door {
	d := &door{Title: "Sign in", Say: "Studies hold negotiated prices and frank notes, so they are kept behind a door.", Action: "/sign-in",
		Fields: []doorField{emailField(email), oldPasswordField()}, Hidden: map[string]string{"next": next}, Button: "Sign in",
		Links: []doorLink{{"I forgot my password", "/forgot"}}}
	if s.demo != "" && onLoopback(c.Request) {
		if a, _, err := s.store.AtDoor(c, s.demo); err == nil {
			d.Demo = a.Name
		}
	}
	return d
}

// signInPage shows the sign-in form; who is signed in is sent on.
func (s *Server) signInPage(c *gin.Context) {
	next := inside(c.Query("next"))
	if callerOf(c).signedIn() {
		c.Redirect(http.StatusSeeOther, next)
		return
	}
	s.drawDoor(c, http.StatusOK, s.signInDoor(c, "", next))
}

func (s *Server) signIn(c *gin.Context) {
	email, next := strings.TrimSpace(c.PostForm("email")), inside(c.PostForm("next"))
	a, why, status, err := s.checked(c, email, c.PostForm("password"))
	if err != nil {
		s.fail(c, err)
		return
	}
	if why != "" {
		d := s.signInDoor(c, email, next)
		d.Problem = why
		s.drawDoor(c, status, d)
		return
	}
	s.welcome(c, a, next)
}

// welcome signs an account in and sends it on.
func (s *Server) welcome(c *gin.Context, a store.Account, next string) {
	if err := s.enter(c, a); err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, next)
}

// signInAsDemo lets whoever sits at this machine look around as the demo's
// owner.
func (s *Server) signInAsDemo(c *gin.Context) {
	if !onLoopback(c.Request) {
		s.fail(c, &failure{status: http.StatusForbidden, What: "The demo's owner is there only for whoever sits at this machine.",
			Do: "Open Nine Coins under http://127.0.0.1 on the machine that it runs on, or sign in with an account of your own."})
		return
	}
	a, _, err := s.store.AtDoor(c, s.demo)
	if errors.Is(err, store.ErrMissing) {
		err = &failure{status: http.StatusNotFound, What: "The demo's owner has another email by now.",
			Do: "Sign in with that one; a new password comes by letter to it."}
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	s.welcome(c, a, inside(c.PostForm("next")))
}

// signOut ends the session of this browser, and the reading links that it has
// opened; signOutEverywhere all sessions of the account.
func (s *Server) signOut(c *gin.Context) { s.endSession(c, nil) }

func (s *Server) signOutEverywhere(c *gin.Context) {
	s.endSession(c, s.store.EndSessions(c, callerOf(c).account.ID))
}

func (s *Server) endSession(c *gin.Context, err error) {
	if err == nil {
		err = s.endVisits(c)
	}
	if err == nil {
		err = s.sessions.Destroy(c.Request.Context())
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sign-in")
}

func forgotDoor(email string) *door {
	return &door{Title: "A new password", Say: "Type the email that you sign in with. If it has an account, a letter with a link is sent to it; the link opens once, within the hour.", Action: "/forgot",
		Fields: []doorField{emailField(email)}, Button: "Send the letter", Links: []doorLink{{"Back to signing in", "/sign-in"}}}
}

func (s *Server) forgotPage(c *gin.Context) { s.drawDoor(c, http.StatusOK, forgotDoor("")) }

// forgot sends a link for a new password. The answer, and how long it takes,
// is the same whether or not there is such an account.
func (s *Server) forgot(c *gin.Context) {
	email := strings.TrimSpace(c.PostForm("email"))
	d := forgotDoor(email)
	if d.judge("", email, ""); d.faulty() {
		s.drawDoor(c, http.StatusUnprocessableEntity, d)
		return
	}
	wait, err := s.store.Try(c, store.Limit{Key: "letter to " + strings.ToLower(email), Most: lettersOfEmail, Within: lettersWithin},
		store.Limit{Key: "letters from " + address(c), Most: lettersOfSender, Within: lettersWithin})
	if err != nil {
		s.fail(c, err)
		return
	}
	if wait > 0 {
		d.Problem = tooMany(wait)
		s.drawDoor(c, http.StatusTooManyRequests, d)
		return
	}
	s.later(c, func(ctx context.Context) error {
		a, _, err := s.store.AtDoor(ctx, email)
		if err != nil {
			if errors.Is(err, store.ErrMissing) {
				return nil
			}
			return err
		}
		token, hash := doors.NewToken()
		if err := s.store.MakeNewPassword(ctx, a.ID, hash, time.Hour); err != nil {
			return err
		}
		return s.send(ctx, s.newPasswordLetter(a, token))
	})
	s.drawDoor(c, http.StatusOK, &door{Title: "Look into your mail",
		Say:     "If that email has an account, a letter with a link is on its way to it. The link opens once, within the hour.",
		Mailbox: s.demo != "", Links: []doorLink{{"Back to signing in", "/sign-in"}}})
}

// later does something after the answer, half a minute at most. A server that is shut down waits for it.
func (s *Server) later(c *gin.Context, do func(context.Context) error) {
	ctx := context.WithoutCancel(c.Request.Context())
	s.beside.RLock()
	go func() {
		defer s.beside.RUnlock()
		ctx, cancel := context.WithTimeout(ctx, 30*time.Second)
		defer cancel()
		if err := work.Guarded(func() error { return do(ctx) }); err != nil {
			s.log.Error("afterwards", "error", err)
		}
	}()
}

// send sends a letter, which goes out though who asked for it leaves, or the server is shut down.
func (s *Server) send(ctx context.Context, l mail.Letter) error {
	s.beside.RLock()
	defer s.beside.RUnlock()
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), 30*time.Second)
	defer cancel()
	return s.mail.Send(ctx, l)
}

func newPasswordDoor(token string, p store.Pass) *door {
	return &door{Title: "Choose a new password", Say: "For " + p.Email + ". All sessions of the account end; then you are signed in here.",
		Action: "/new-password/" + token,
		Fields: []doorField{newPasswordField()}, Button: "Keep it and sign in"}
}

func (s *Server) newPasswordPage(c *gin.Context) {
	p, err := s.store.Pass(c, doors.HashOf(c.Param("token")), store.NewPassword)
	if err != nil {
		s.fail(c, deadPass(err))
		return
	}
	s.drawDoor(c, http.StatusOK, newPasswordDoor(c.Param("token"), p))
}

func (s *Server) newPassword(c *gin.Context) {
	p, err := s.store.Pass(c, doors.HashOf(c.Param("token")), store.NewPassword)
	if err != nil {
		s.fail(c, deadPass(err))
		return
	}
	d := newPasswordDoor(c.Param("token"), p)
	if d.judge("", p.Email, c.PostForm("password")); d.faulty() {
		s.drawDoor(c, http.StatusUnprocessableEntity, d)
		return
	}
	hash, err := doors.HashPassword(c, c.PostForm("password"))
	if err != nil {
		s.fail(c, err)
		return
	}
	a, err := s.store.UseNewPassword(c, doors.HashOf(c.Param("token")), hash)
	if err != nil {
		s.fail(c, deadPass(err))
		return
	}
	if err := s.store.Forgive(c, accountLimit(p.Email)); err != nil {
		s.fail(c, err)
		return
	}
	s.welcome(c, a, "/")
}
