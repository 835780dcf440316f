package web

import (
	"errors"
	"net/http"
	"strings"

	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

type accountBody struct {
	Name, Email string
	HasPassword bool
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
		"name":     {Title: "Name", Fields: []doorField{nameField(name)}, Button: "Change the name"},
		"email":    {Title: "Email", Say: "What you sign in with.", Fields: []doorField{{Name: "email", Label: "Email", Type: "email", Value: email, Auto: "email"}, current}, Button: "Change the email"},
		"password": {Title: "Password", Say: "All your sessions end, in every browser; this one goes on.", Fields: []doorField{current, newPasswordField()}, Button: "Change the password"},
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
	body := accountBody{Name: k.account.Name, Email: k.account.Email, HasPassword: k.account.HasPassword, Forms: []*door{forms["name"], forms["email"], forms["password"]}}
	for _, seat := range k.seats {
		body.Seats = append(body.Seats, seatView{seat.Workspace.ID.String(), seat.Workspace.Name, string(seat.Role), seat.Role.Can(), seat == k.seat})
	}
	s.render(c, status, "account", page{Title: "Your account", Active: "account", Body: body})
}

// accountEdit changes one's own name, email or password.
func (s *Server) accountEdit(c *gin.Context) {
	k := callerOf(c)
	edit, password := c.PostForm("edit"), c.PostForm("password")
	name := orElse(edit == "name", strings.TrimSpace(c.PostForm("name")), k.account.Name)
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
	switch {
	case errors.Is(err, store.ErrNameTaken):
		d.wrong("name", "Somebody else goes by that name in a workspace of yours. Add an initial, so that people can tell you apart.")
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
		return s.store.SetEmail(c, a.ID, email)
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
