package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// invitationLife is how long an invitation can be taken up.
const invitationLife = 7 * 24 * time.Hour

type workspaceBody struct {
	Name        string
	Governs     bool // the caller may change what is here
	Members     []memberView
	Roles       []roleView
	Invitations []invitationView
	Email       string // typed, when it was refused
	Role        string
	Problem     string
	NameProblem string
	Secrets     []inviteView // addresses of invitations, shown once
	Mailbox     bool
}

type memberView struct {
	ID, Name, Email, Role, Can, Since string
	Self                              bool
	Roles                             []roleView
}

type roleView struct {
	Role, Can string
	Chosen    bool
}

// inviteView is the address of an invitation, and what became of its letter.
type inviteView struct{ Secret, Letter string }

type invitationView struct{ ID, Email, Role, By, Until string }

func rolesWith(chosen doors.Role) []roleView {
	var all []roleView
	for _, r := range doors.Roles {
		all = append(all, roleView{string(r), r.Can(), r == chosen})
	}
	return all
}

// workspacePage lists who works here, and lets owners say who may what.
func (s *Server) workspacePage(c *gin.Context) {
	s.drawWorkspace(c, http.StatusOK, workspaceBody{Role: string(doors.Editor)}, nil)
}

func (s *Server) drawWorkspace(c *gin.Context, status int, b workspaceBody, n *notice) {
	k := callerOf(c)
	b.Name, b.Governs, b.Roles, b.Mailbox = k.seat.Workspace.Name, k.may(doors.ToGovern), rolesWith(doors.Role(b.Role)), s.demo != ""
	members, err := s.store.Members(c, k.workspace())
	var open []store.Pass
	if err == nil && b.Governs {
		open, err = s.store.Invitations(c, k.workspace())
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	for _, m := range members {
		b.Members = append(b.Members, memberView{m.Person.String(), m.Name, m.Email, string(m.Role), m.Role.Can(), m.JoinedAt.Format("2 Jan 2006"),
			m.Person == k.seat.Person, rolesWith(m.Role)})
	}
	for _, p := range open {
		b.Invitations = append(b.Invitations, invitationView{p.ID.String(), p.Email, string(p.Role), p.By, p.EndsAt.Format("2 Jan 2006, 15:04")})
	}
	if b.Governs {
		made, err := s.shownOnce(c, placeJoining)
		if err != nil {
			s.fail(c, err)
			return
		}
		for _, one := range made {
			secret, letter, _ := strings.Cut(one, " ")
			b.Secrets = append(b.Secrets, inviteView{secret, letter})
		}
	}
	s.render(c, status, "workspace", page{Title: b.Name, Active: "workspace", Body: b, Notice: n})
}

// workspaceEdit invites, gives roles, takes seats away, and names the
// workspace.
func (s *Server) workspaceEdit(c *gin.Context) {
	e := s.editing(c, uuid.Nil)
	b := workspaceBody{Role: string(doors.Editor)}
	var err error
	switch c.PostForm("edit") {
	case "invite":
		b.Email, b.Role = strings.TrimSpace(c.PostForm("email")), c.PostForm("role")
		err = s.invite(c, e, b.Email, doors.Role(b.Role))
	case "withdraw":
		id, _ := uuid.Parse(c.PostForm("of"))
		err = s.store.WithdrawInvitation(c, e, id)
	case "role", "remove":
		id, _ := uuid.Parse(c.PostForm("of"))
		to := doors.Role(c.PostForm("value"))
		if c.PostForm("edit") == "remove" {
			to = ""
		} else if !to.Valid() {
			err = unreadable()
			break
		}
		err = s.store.SetRole(c, e, id, doors.Role(c.PostForm("was")), to)
	case "name":
		var name string
		if name, b.NameProblem = judgeTitle(c.PostForm("value"), "a name for the workspace"); b.NameProblem == "" {
			err = s.store.SetWorkspaceName(c, e, name)
		}
	default:
		err = unreadable()
	}
	var wrong *refusedHere
	status := http.StatusUnprocessableEntity
	switch {
	case errors.As(err, &wrong):
		b.Problem, status = wrong.text, wrong.status
	case errors.Is(err, store.ErrMember):
		b.Problem = "Whoever has that email is a member already."
	case errors.Is(err, store.ErrLastOwner):
		s.drawWorkspace(c, http.StatusUnprocessableEntity, b, &notice{Trouble: true,
			Text: "Nothing was changed: a workspace needs an owner. Make somebody else owner first."})
		return
	case errors.Is(err, store.ErrMissing):
		s.drawWorkspace(c, http.StatusConflict, b, &notice{Trouble: true, Text: "Nothing was changed: that was changed meanwhile. What stands here now is current."})
		return
	case err != nil:
		s.fail(c, err)
		return
	}
	if b.Problem != "" || b.NameProblem != "" {
		s.drawWorkspace(c, status, b, nil)
		return
	}
	c.Redirect(http.StatusSeeOther, "/workspace")
}

// refusedHere is a refusal that is told beside its form.
type refusedHere struct {
	text   string
	status int
}

func (e *refusedHere) Error() string { return e.text }

// invite keeps an invitation, sends its letter and leaves the address to be
// shown once.
func (s *Server) invite(c *gin.Context, e store.Editing, email string, role doors.Role) error {
	if p := judgeEmail(email); p != "" {
		return &refusedHere{p, http.StatusUnprocessableEntity}
	}
	if !role.Valid() {
		return unreadable()
	}
	wait, err := s.store.Try(c, letterLimits("invitation", email, callerOf(c).account)...)
	if err != nil {
		return err
	}
	if wait > 0 {
		return &refusedHere{tooManyLetters(wait), http.StatusTooManyRequests}
	}
	token, hash := doors.NewToken()
	ends, err := s.store.Invite(c, e, email, role, hash, invitationLife)
	if err != nil {
		return err
	}
	w := callerOf(c).seat.Workspace
	letter := fmt.Sprintf("A letter with it is on its way to %s.", email)
	ctx, cancel := context.WithTimeout(c, 15*time.Second)
	defer cancel()
	if err := s.send(ctx, s.invitationLetter(e.Name, w, email, string(role), token, ends)); err != nil {
		s.log.Error("sending an invitation", "error", err)
		letter = fmt.Sprintf("The letter to %s could not be sent, so pass the address on yourself.", email)
	}
	return s.store.ShowOnce(c, callerOf(c).account.ID, placeJoining, s.address+"/join/"+token+" "+letter)
}

// workspaces makes a workspace, or goes to one that the caller has a seat in.
func (s *Server) workspaces(c *gin.Context) {
	k := callerOf(c)
	if c.PostForm("edit") == "choose" {
		id, _ := uuid.Parse(c.PostForm("of"))
		for _, seat := range k.seats {
			if seat.Workspace.ID == id {
				s.chooseWorkspace(c, id)
				c.Redirect(http.StatusSeeOther, "/")
				return
			}
		}
		s.fail(c, notFound("You have no seat in such a workspace."))
		return
	}
	name, p := judgeTitle(c.PostForm("value"), "a name for the workspace")
	if p != "" {
		s.fail(c, &failure{status: http.StatusUnprocessableEntity, What: "The workspace was not made: " + p, Do: "Go back and type another name."})
		return
	}
	wait, err := s.store.Try(c, store.Limit{Key: "workspaces of " + k.account.ID.String(), Most: workspacesADay, Within: 24 * time.Hour})
	if err != nil {
		s.fail(c, err)
		return
	}
	if wait > 0 {
		s.fail(c, &failure{status: http.StatusTooManyRequests, What: fmt.Sprintf("You have made %d workspaces within a day, which is the most.",
			workspacesADay), Do: fmt.Sprintf("Nothing was made. Wait %s, or use one that you have.", minutes(wait))})
		return
	}
	w, err := s.store.NewWorkspace(c, k.account, name)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.chooseWorkspace(c, w.ID)
	c.Redirect(http.StatusSeeOther, "/")
}
