package web

import (
	"errors"
	"fmt"
	"net/http"
	"strings"

	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

func setUpDoor(token, workspace, name, email string) *door {
	return &door{Title: "Set up Nine Coins", Say: "You are the first here. Name the workspace that studies and price lists are kept in, and make your account: you own it, and invite the others.", Action: "/set-up/" + token,
		Fields: []doorField{{Name: "workspace", Label: "Workspace", Type: "text", Value: workspace, Auto: "organization",
			Hint: "usually your company"}, nameField(name), emailField(email), newPasswordField()}, Button: "Begin"}
}

func (s *Server) setUpPage(c *gin.Context) {
	if _, err := s.store.Pass(c, doors.HashOf(c.Param("token")), store.SetUp); err != nil {
		s.fail(c, deadPass(err))
		return
	}
	s.drawDoor(c, http.StatusOK, setUpDoor(c.Param("token"), "", "", ""))
}

// setUp makes the first owner.
func (s *Server) setUp(c *gin.Context) {
	hash := doors.HashOf(c.Param("token"))
	if _, err := s.store.Pass(c, hash, store.SetUp); err != nil {
		s.fail(c, deadPass(err))
		return
	}
	workspace, problem := judgeTitle(c.PostForm("workspace"), "a name for the workspace")
	name, _ := judgeName(c.PostForm("name"), "")
	email, password := strings.TrimSpace(c.PostForm("email")), c.PostForm("password")
	d := setUpDoor(c.Param("token"), workspace, name, email)
	if problem != "" {
		d.wrong("workspace", problem)
	}
	if d.judge(name, email, password); d.faulty() {
		s.drawDoor(c, http.StatusUnprocessableEntity, d)
		return
	}
	kept, err := doors.HashPassword(c, password)
	if err != nil {
		s.fail(c, err)
		return
	}
	a, err := s.store.UseSetUp(c, hash, workspace, name, email, kept)
	if errors.Is(err, store.ErrSetUp) {
		err = &failure{status: http.StatusGone, What: "Nine Coins was set up already.", Do: "Sign in, or ask its owner for an invitation."}
	}
	if err != nil {
		s.fail(c, deadPass(err))
		return
	}
	s.welcome(c, a, "/")
}

// joinDoor asks of who takes up an invitation what is still to be known: a
// name and password, the password of an account that there is, or nothing.
func (s *Server) joinDoor(c *gin.Context, p store.Pass, name string) (*door, store.Account, error) {
	k := callerOf(c)
	d := &door{Title: "Join " + p.Workspace.Name, Action: "/join/" + c.Param("token"), Button: "Join",
		Say: fmt.Sprintf("%s invites %s to be %s, who %s.", orSomebody(p.By), p.Email, a(string(p.Role)), p.Role.Can())}
	if k.signedIn() {
		d.Say += fmt.Sprintf(" You are signed in as %s and join under that name; to join as somebody else, sign out first.", k.account.Name)
		d.Button = "Join as " + k.account.Name
		return d, k.account, nil
	}
	there, _, err := s.store.AtDoor(c, p.Email)
	switch {
	case err == nil:
		d.Say += " That email has an account already: type its password to join."
		d.Fields = []doorField{oldPasswordField()}
		d.Links = []doorLink{{"I forgot my password", "/forgot"}}
	case errors.Is(err, store.ErrMissing):
		d.Fields = []doorField{nameField(name), newPasswordField()}
		err = nil
	}
	return d, there, err
}

func orSomebody(name string) string {
	if name == "" {
		return "Somebody"
	}
	return name
}

func (s *Server) joinPage(c *gin.Context) {
	p, err := s.store.Pass(c, doors.HashOf(c.Param("token")), store.Invitation)
	var d *door
	if err == nil {
		d, _, err = s.joinDoor(c, p, "")
	}
	if err != nil {
		s.fail(c, deadPass(err))
		return
	}
	s.drawDoor(c, http.StatusOK, d)
}

// join takes an invitation up.
func (s *Server) join(c *gin.Context) {
	hash := doors.HashOf(c.Param("token"))
	p, err := s.store.Pass(c, hash, store.Invitation)
	if err != nil {
		s.fail(c, deadPass(err))
		return
	}
	name, _ := judgeName(c.PostForm("name"), "")
	password := c.PostForm("password")
	d, there, err := s.joinDoor(c, p, name)
	if err != nil {
		s.fail(c, err)
		return
	}
	kept := ""
	switch {
	case callerOf(c).signedIn():
	case there.ID != uuid.Nil:
		_, why, status, err := s.checked(c, p.Email, password)
		if err != nil {
			s.fail(c, err)
			return
		}
		if why != "" {
			d.wrong("password", why)
			s.drawDoor(c, status, d)
			return
		}
	default:
		if d.judge(name, p.Email, password); d.faulty() {
			s.drawDoor(c, http.StatusUnprocessableEntity, d)
			return
		}
		if kept, err = doors.HashPassword(c, password); err != nil {
			s.fail(c, err)
			return
		}
	}
	account, w, err := s.store.Join(c, hash, there.ID, name, kept)
	switch {
	case err == nil:
		if !callerOf(c).signedIn() {
			err = s.enter(c, account)
		}
		s.chooseWorkspace(c, w.ID)
	case errors.Is(err, store.ErrNameTaken):
		d.wrong("name", fmt.Sprintf("Somebody else goes by that name, or one that looks like it, in %s. Add an initial, so that people can tell you apart.", p.Workspace.Name))
	case errors.Is(err, store.ErrMember):
		d.Problem = "You are a member already. Nothing was changed, and the link still opens for somebody else."
	}
	switch {
	case d.faulty():
		s.drawDoor(c, http.StatusUnprocessableEntity, d)
	case err != nil:
		s.fail(c, deadPass(err))
	default:
		c.Redirect(http.StatusSeeOther, "/")
	}
}
