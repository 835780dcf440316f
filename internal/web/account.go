package web

import (
	"context"
	"errors"
	"net/http"
	"strings"
	"time"

	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

type accountBody struct {
	Name, Email string
	HasPassword bool
	Asked       string // an email that waits to be confirmed
	Mailbox     bool
	Keys        bool // keys of one letter are on
	Forms       []*door
	Seats       []seatView
}

type seatView struct {
	ID, Name, Role, Can string
	Chosen              bool
}

// accountForms are the forms of one's own account, by what they edit.
func accountForms(a store.Account, name, email string) map[string]*door {
	current := doorField{Name: "current", Label: "Password today", Type: "password", Auto: "current-password"}
	forms := map[string]*door{
		"name": {Title: "Name", Fields: []doorField{nameField(name)}, Button: "Change the name"},
		"email": {Title: "Email", Say: "What you sign in with. A letter goes to the new one; the email changes when the link in it is opened.",
			Fields: []doorField{{Name: "email", Label: "Email", Type: "email", Value: email, Auto: "email"}, current}, Button: "Send the letter"},
		"password": {Title: "Password", Say: "All your sessions end, in every browser; this one goes on.",
			Fields: []doorField{current, newPasswordField()}, Button: "Change the password"},
	}
	for edit, d := range forms {
		d.Action, d.Hidden = "/account", map[string]string{"edit": edit}
		if !a.HasPassword {
			d.Fields = without(d.Fields, "current")
		}
	}
	return forms
}

func without(fields []doorField, name string) []doorField {
	var kept []doorField
	for _, f := range fields {
		if f.Name != name {
			kept = append(kept, f)
		}
	}
	return kept
}

func (s *Server) accountPage(c *gin.Context) {
	k := callerOf(c)
	s.drawAccount(c, http.StatusOK, accountForms(k.account, k.account.Name, k.account.Email))
}

func (s *Server) drawAccount(c *gin.Context, status int, forms map[string]*door) {
	k := callerOf(c)
	body := accountBody{Name: k.account.Name, Email: k.account.Email, HasPassword: k.account.HasPassword, Keys: !k.account.WithoutKeys,
		Forms: []*door{forms["name"], forms["email"], forms["password"]}}
	var err error
	if body.Asked, err = s.store.AskedEmail(c, k.account.ID); err != nil {
		s.fail(c, err)
		return
	}
	body.Mailbox = s.demo != ""
	for _, seat := range k.seats {
		body.Seats = append(body.Seats, seatView{seat.Workspace.ID.String(), seat.Workspace.Name, string(seat.Role), seat.Role.Can(), seat == k.seat})
	}
	s.render(c, status, "account", page{Title: "Your account", Active: "account", Body: body})
}

// accountEdit changes one's own name, email or password.
func (s *Server) accountEdit(c *gin.Context) {
	k := callerOf(c)
	edit, password := c.PostForm("edit"), c.PostForm("password")
	if edit == "withdraw email" {
		if err := s.store.WithdrawNewEmail(c, k.account.ID); err != nil {
			s.fail(c, err)
			return
		}
		c.Redirect(http.StatusSeeOther, "/account")
		return
	}
	if edit == "keys" {
		if err := s.store.SetKeys(c, k.account.ID, c.PostForm("value") == "on"); err != nil {
			s.fail(c, err)
			return
		}
		c.Redirect(http.StatusSeeOther, "/account#keys")
		return
	}
	folded, _ := judgeName(c.PostForm("name"), "")
	name := orElse(edit == "name", folded, k.account.Name)
	email := orElse(edit == "email", strings.TrimSpace(c.PostForm("email")), k.account.Email)
	forms := accountForms(k.account, name, email)
	d := forms[edit]
	if d == nil {
		s.fail(c, unreadable())
		return
	}
	status := http.StatusUnprocessableEntity
	d.judge(name, email, password)
	if k.account.HasPassword && edit != "name" && !d.faulty() {
		_, why, code, err := s.checked(c, k.account.Email, c.PostForm("current"))
		if err != nil {
			s.fail(c, err)
			return
		}
		if why != "" {
			status = code
			d.wrong("current", orElse(code == http.StatusTooManyRequests, why, "That is not your password of today."))
		}
	}
	if d.faulty() {
		s.drawAccount(c, status, forms)
		return
	}
	err := s.setAccount(c, k.account, edit, name, email, password)
	var wrong *refusedHere
	switch {
	case errors.As(err, &wrong):
		status = wrong.status
		d.wrong("email", wrong.text)
	case errors.Is(err, store.ErrNameTaken):
		d.wrong("name", "Somebody else goes by that name, or one that looks like it, in a workspace of yours. Add an initial, so that people can tell you apart.")
	case errors.Is(err, store.ErrEmailTaken):
		d.wrong("email", "That email has an account already.")
	case err != nil:
		s.fail(c, err)
		return
	}
	if d.faulty() {
		s.drawAccount(c, status, forms)
		return
	}
	c.Redirect(http.StatusSeeOther, "/account")
}

func orElse[T any](holds bool, then, otherwise T) T {
	if holds {
		return then
	}
	return otherwise
}

func (s *Server) setAccount(c *gin.Context, a store.Account, edit, name, email, password string) error {
	switch edit {
	case "name":
		return s.store.SetName(c, a.ID, name)
	case "email":
		return s.askNewEmail(c, a, email)
	}
	hash, err := doors.HashPassword(c, password)
	if err != nil {
		return err
	}
	if a.Epoch, err = s.store.SetPassword(c, a.ID, hash); err != nil {
		return err
	}
	return s.enter(c, a)
}

// newEmailLife is how long a new email can be confirmed.
const newEmailLife = 24 * time.Hour

// askNewEmail sends a letter to the email that an account is to have: it
// changes when the link in it is opened. The email of today is told, so that
// its owner can shut the link.
func (s *Server) askNewEmail(c *gin.Context, a store.Account, email string) error {
	if strings.EqualFold(email, a.Email) {
		return &refusedHere{"That is your email already.", http.StatusUnprocessableEntity}
	}
	wait, err := s.store.Try(c, letterLimits("new email", email, a)...)
	if err != nil {
		return err
	}
	if wait > 0 {
		return &refusedHere{tooManyLetters(wait), http.StatusTooManyRequests}
	}
	token, hash := doors.NewToken()
	if err := s.store.AskNewEmail(c, a.ID, email, hash, newEmailLife); err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(c, 15*time.Second)
	defer cancel()
	if err := s.send(ctx, s.newEmailLetter(email, token)); err != nil {
		s.log.Error("sending a letter to confirm an email", "error", err)
		return &refusedHere{"The letter to " + email + " could not be sent. Nothing was changed; try again in a moment.", http.StatusBadGateway}
	}
	s.later(c, func(ctx context.Context) error { return s.send(ctx, s.emailAskedLetter(a, email)) })
	return nil
}

func newEmailDoor(token string, p store.Pass) *door {
	return &door{Title: "Confirm the email", Say: "Once it is confirmed, you sign in with " + p.Email + " and no longer with the email before.",
		Action: "/new-email/" + token, Button: "Confirm it"}
}

func (s *Server) newEmailPage(c *gin.Context) {
	p, err := s.store.Pass(c, doors.HashOf(c.Param("token")), store.NewEmail)
	if err != nil {
		s.fail(c, deadPass(err))
		return
	}
	s.drawDoor(c, http.StatusOK, newEmailDoor(c.Param("token"), p))
}

// newEmail gives an account the email that its letter went to, and tells the
// one that it had.
func (s *Server) newEmail(c *gin.Context) {
	hash := doors.HashOf(c.Param("token"))
	a, old, err := s.store.UseNewEmail(c, hash)
	switch {
	case errors.Is(err, store.ErrEmailTaken):
		s.fail(c, &failure{status: http.StatusConflict, What: "That email has an account by now.", Do: "Nothing was changed. Sign in with the email that you had."})
		return
	case err != nil:
		s.fail(c, deadPass(err))
		return
	}
	s.later(c, func(ctx context.Context) error { return s.send(ctx, s.emailChangedLetter(a, old)) })
	s.drawDoor(c, http.StatusOK, &door{Title: "The email is changed",
		Say: "From now on you sign in with " + a.Email + ". A letter tells " + old + " of it.", Links: []doorLink{{"To the Desk", "/"}}})
}
