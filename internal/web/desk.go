package web

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

type deskBody struct {
	Nowhere   bool // the caller has no seat in any workspace
	Workspace string
	May       bool // the caller may edit
	Governs   bool
	Example   bool // there is one to bring in
	Role, Can string
	Undo      undoLine
	Studies   []deskStudy
	Attention []deskNote
	Title     string // that was searched for
	Total     string // how many studies are shown, where it is not plain
	Searches  bool
	Older     string // link to what was changed before; "" where nothing is
	Newest    string // link back to the first page; "" on it
	New       deskNew
	Again     []againRow // price lists to be read again
}

// againRow is a price list in use that has grown old, or soon will.
type againRow struct {
	Name, Link, Read, Due, UsedIn string
	Late                          bool
}

// deskNew is the form of a new study.
type deskNew struct {
	Title, Company, Problem string
}

type deskStudy struct {
	ID, Title, About string
	Verdict, Costs   template.HTML
	Face             int // of the pick; 0 when there is none
	Changed          string
	May              bool // the caller may copy and delete it
	Coins            []coinView
}

type deskNote struct {
	Link, Study, Text, Do string
}

// deskPage is how many studies the Desk shows at once.
const deskPage = 10

func (s *Server) desk(c *gin.Context) {
	var n *notice
	if c.Query("brought") == "workspace" {
		n = &notice{Text: "The workspace was brought in: its studies stand here, its price lists on the price shelf, and what was deleted in the bin."}
	}
	s.drawDesk(c, http.StatusOK, n)
}

func (s *Server) drawDesk(c *gin.Context, status int, n *notice) {
	s.drawDeskWith(c, status, n, deskNew{})
}

func (s *Server) drawDeskWith(c *gin.Context, status int, n *notice, fresh deskNew) {
	k := callerOf(c)
	if k.seat.Person == uuid.Nil {
		s.render(c, status, "desk", page{Title: "Desk", Active: "desk", Body: deskBody{Nowhere: true}})
		return
	}
	asked := store.Page{Title: strings.TrimSpace(c.Query("title")), Most: deskPage + 1}
	asked.Before, _ = uuid.Parse(c.Query("before"))
	rows, err := s.store.Studies(c, k.workspace(), s.today(), asked)
	if err != nil {
		s.fail(c, err)
		return
	}
	body := deskBody{Workspace: k.seat.Workspace.Name, May: k.may(doors.ToEdit), Governs: k.may(doors.ToGovern), Example: s.example.Bring != nil && k.may(doors.ToEdit), Role: a(string(k.seat.Role)),
		Can: k.seat.Role.Can(), Title: asked.Title, New: fresh}
	if body.Undo, err = s.wideUndo(c); err != nil {
		s.fail(c, err)
		return
	}
	body.page(asked, &rows)
	for _, row := range rows {
		d := newDeskStudy(row)
		d.May = body.May
		body.Studies = append(body.Studies, d)
		for _, note := range row.Facts.Notes {
			body.Attention = append(body.Attention, deskNote{Link: "/studies/" + d.ID + "/" + note.Coin, Study: d.Title, Text: note.Text, Do: note.Do})
		}
	}
	if body.Again, err = s.readAgain(c); err != nil {
		s.fail(c, err)
		return
	}
	s.render(c, status, "desk", page{Title: "Desk", Active: "desk", Limits: k.limits(), Body: body, Notice: n})
}

// page cuts the rows to a page and makes the links to others.
func (b *deskBody) page(asked store.Page, rows *[]store.StudyRow) {
	link := func(before string) string {
		q := url.Values{}
		if asked.Title != "" {
			q.Set("title", asked.Title)
		}
		if before != "" {
			q.Set("before", before)
		}
		return "/" + orElse(len(q) > 0, "?"+q.Encode(), "")
	}
	b.Searches = len(*rows) > 3 || asked.Title != "" || asked.Before != uuid.Nil
	if len(*rows) > deskPage {
		*rows = (*rows)[:deskPage]
		b.Older = link((*rows)[deskPage-1].ID.String())
	}
	if asked.Before != uuid.Nil {
		b.Newest = link("")
	}
	switch {
	case b.Older != "" || b.Newest != "":
		b.Total = fmt.Sprintf("%d are shown", len(*rows))
	case asked.Title != "":
		b.Total = counted(len(*rows), "study", "studies")
	}
}

func counted(n int, one, many string) string {
	return fmt.Sprintf("%d %s", n, orElse(n == 1, one, many))
}

func newDeskStudy(row store.StudyRow) deskStudy {
	f := row.Facts
	d := deskStudy{ID: row.ID.String(), Title: row.Title, About: f.About, Changed: row.UpdatedAt.Format("2 Jan 2006"), Verdict: phrase(f.Verdict),
		Costs: phrase(f.Costs), Face: f.Face}
	for i, fill := range f.Fills {
		d.Coins = append(d.Coins, newCoin(study.Coin{Number: i + 1, Key: study.CoinNames[i][0], Name: study.CoinNames[i][1], Fill: fill, Fact: f.CoinFacts[i]}, ""))
	}
	return d
}

// wideUndo says what undo and redo would do next on the pages outside a study:
// with studies and platforms that went into the bin or came back.
func (s *Server) wideUndo(c *gin.Context) (undoLine, error) {
	line := undoLine{History: "/history"}
	recent, err := s.store.Recent(c, s.editing(c, uuid.Nil))
	say := func(ch *store.Change, goes bool) string {
		_, name, _ := strings.Cut(ch.Says[0].Label, " ")
		return name + orElse(goes, " back into the bin", " back out of the bin")
	}
	if recent.Undo != nil {
		line.Undo = say(recent.Undo, recent.Undo.Ops[0].Do == document.Insert)
	}
	if recent.Redo != nil {
		line.Redo = say(recent.Redo, recent.Redo.Ops[0].Do == document.Remove)
	}
	return line, err
}

// deskEdit begins a study, deletes one, or undoes and redoes what was deleted.
func (s *Server) deskEdit(c *gin.Context) {
	switch c.PostForm("op") {
	case "example":
		s.bringExample(c)
	case "new", "copy":
		s.newStudy(c)
	default:
		s.wideEdit(c, store.Studies, "/", s.drawDesk)
	}
}

// wideEdit deletes what belongs to the workspace, undoes or redoes, and goes
// back to the page; a refusal is drawn on it.
func (s *Server) wideEdit(c *gin.Context, kind, back string, draw func(*gin.Context, int, *notice)) {
	e := s.editing(c, uuid.Nil)
	var err error
	switch c.PostForm("op") {
	case "delete":
		err = s.store.Move(c, e, kind, c.PostForm("of"), true)
	case "undo":
		_, err = s.store.Undo(c, e)
	case "redo":
		_, err = s.store.Redo(c, e)
	default:
		err = unreadable()
	}
	var refused *store.RefusedError
	var changed *store.ChangedError
	switch {
	case errors.As(err, &refused):
		draw(c, http.StatusUnprocessableEntity, &notice{Trouble: true, Text: "Nothing was changed: " + refused.Error() + "."})
	case errors.As(err, &changed), errors.Is(err, store.ErrMissing):
		draw(c, http.StatusConflict, &notice{Trouble: true, Text: "Nothing was changed: somebody else deleted it or brought it back meanwhile. The bin and the history tell more."})
	case err != nil:
		s.fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, back)
	}
}
