package web

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"

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
	Role, Can string
	Undo      undoLine
	Studies   []deskStudy
	Attention []deskNote
}

type deskStudy struct {
	ID, Title, Company string
	Facts              string
	Verdict, Costs     template.HTML
	Face               int // of the pick; 0 when there is none
	Changed            string
	Coins              []coinView
}

type deskNote struct {
	Link, Study, Text, Do string
}

func (s *Server) desk(c *gin.Context) { s.drawDesk(c, http.StatusOK, nil) }

func (s *Server) drawDesk(c *gin.Context, status int, n *notice) {
	k := callerOf(c)
	if k.seat.Person == uuid.Nil {
		s.render(c, status, "desk", page{Title: "Desk", Active: "desk", Body: deskBody{Nowhere: true}})
		return
	}
	rows, err := s.store.Studies(c, k.workspace())
	if err != nil {
		s.fail(c, err)
		return
	}
	body := deskBody{Workspace: k.seat.Workspace.Name, May: k.may(doors.ToEdit), Governs: k.may(doors.ToGovern), Role: a(string(k.seat.Role)), Can: k.seat.Role.Can()}
	if body.Undo, err = s.wideUndo(c); err != nil {
		s.fail(c, err)
		return
	}
	for _, row := range rows {
		o, err := s.outcome(c, k.workspace(), row.ID)
		var refused *store.RefusedError
		if err != nil && !errors.As(err, &refused) {
			s.fail(c, err)
			return
		}
		d := deskStudy{ID: row.ID.String(), Title: row.Title, Company: row.Company, Changed: row.UpdatedAt.Format("2 Jan 2006")}
		if err != nil {
			d.Facts = "This study cannot be computed: " + err.Error()
		} else {
			d.fill(o)
			body.attend(d, o)
		}
		body.Studies = append(body.Studies, d)
	}
	s.render(c, status, "desk", page{Title: "Desk", Active: "desk", Limits: k.limits(), Body: body, Notice: n})
}

func (d *deskStudy) fill(o *study.Outcome) {
	st := o.Study
	d.Facts = fmt.Sprintf("%d options, %s to %s, in %s, paid %s", len(o.Results), st.Start, st.Month(st.Horizon-1), st.Currency.Code(), st.Pay)
	d.Verdict, d.Costs = phrase(o.SayVerdict()), phrase(o.SayCosts())
	d.Coins = newFrame(d.ID, o, "").Coins
	if o.Pick.First >= 0 {
		d.Face = o.Results[o.Pick.First].Option.Face
	}
}

// attend notes what wants looking at in a study.
func (b *deskBody) attend(d deskStudy, o *study.Outcome) {
	at := "/studies/" + d.ID
	for i := range o.Results {
		r := &o.Results[i]
		if r.Stale {
			b.Attention = append(b.Attention, deskNote{at + "/prices", d.Title, fmt.Sprintf("%s: prices were read %d days ago", r.Option.Name, r.DaysOld), "See its prices"})
		}
		if len(r.Schedule.Questions) > 0 {
			b.Attention = append(b.Attention, deskNote{at + "/coverage", d.Title, r.Option.Name + ": " + r.Schedule.Questions[0].String(), "See the needs"})
		}
		if r.In() && o.Study.Budget > 0 && r.Standing.Place == 1 && r.Schedule.Total > o.Study.Budget {
			b.Attention = append(b.Attention, deskNote{at + "/costs", d.Title, fmt.Sprintf("%s, the pick, costs %s more than the budget", r.Option.Name, o.Study.Currency.FormatWhole(r.Schedule.Total-o.Study.Budget)), "See its costs"})
		}
		if missing := missingRatings(r); missing > 0 && r.In() {
			text := fmt.Sprintf("%s: %d ratings are missing", r.Option.Name, missing)
			if missing == 1 {
				text = r.Option.Name + ": 1 rating is missing"
			}
			b.Attention = append(b.Attention, deskNote{at + "/scores", d.Title, text, "Rate it"})
		}
	}
}

func missingRatings(r *study.Result) (n int) {
	for _, p := range r.Standing.Parts {
		if !p.Known && rated(p.Criterion) {
			n++
		}
	}
	return n
}

// wideUndo says what undo and redo would do next on the pages outside a study:
// with studies and platforms that went into the bin or came back.
func (s *Server) wideUndo(c *gin.Context) (undoLine, error) {
	line := undoLine{History: "/history"}
	recent, err := s.store.Recent(c, s.editing(c, uuid.Nil))
	say := func(ch *store.Change, to string) string {
		return ch.Name + orElse(to == store.InBin, " back into the bin", " back out of the bin")
	}
	if recent.Undo != nil {
		line.Undo = say(recent.Undo, recent.Undo.Was)
	}
	if recent.Redo != nil {
		line.Redo = say(recent.Redo, recent.Redo.Became)
	}
	return line, err
}

// deskEdit deletes a study, or undoes and redoes what was deleted.
func (s *Server) deskEdit(c *gin.Context) {
	s.wideEdit(c, "study", "/", s.drawDesk)
}

// wideEdit deletes what belongs to the workspace, undoes or redoes, and goes
// back to the page; a refusal is drawn on it.
func (s *Server) wideEdit(c *gin.Context, edit, back string, draw func(*gin.Context, int, *notice)) {
	e := s.editing(c, uuid.Nil)
	var err error
	switch c.PostForm("edit") {
	case "delete":
		err = s.store.Move(c, e, edit, c.PostForm("of"), store.Here, store.InBin)
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
