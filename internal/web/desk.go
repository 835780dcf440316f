package web

import (
	"fmt"
	"html/template"
	"net/http"

	"ninecoins/internal/core/study"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

type deskBody struct {
	Workspace string
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

func (s *Server) desk(c *gin.Context) { s.drawDesk(c, http.StatusOK, deskNotice(c, s)) }

func (s *Server) drawDesk(c *gin.Context, status int, n *notice) {
	rows, err := s.store.Studies(c, s.workspace.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	body := deskBody{Workspace: s.workspace.Name}
	for _, row := range rows {
		st, err := s.store.Study(c, s.workspace.ID, row.ID, s.today())
		if err != nil {
			s.fail(c, err)
			return
		}
		d := deskStudy{ID: row.ID.String(), Title: row.Title, Company: row.Company, Changed: row.UpdatedAt.Format("2 Jan 2006")}
		if o, err := study.Compute(st); err != nil {
			d.Facts = "This study cannot be computed: " + err.Error()
		} else {
			d.fill(o)
			body.attend(d, o)
		}
		body.Studies = append(body.Studies, d)
	}
	s.render(c, status, "desk", page{Title: "Desk", Active: "desk", Body: body, Notice: n})
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

// deskNotice offers to bring back the study that was just deleted.
func deskNotice(c *gin.Context, s *Server) *notice {
	if id, err := uuid.Parse(c.Query("deleted")); err == nil {
		return &notice{Text: "The study was deleted.", Do: "Undo: bring it back", Fields: map[string]string{"edit": "restore", "of": id.String()}}
	}
	return nil
}

// deskEdit deletes a study or brings one back.
func (s *Server) deskEdit(c *gin.Context) {
	id, err := uuid.Parse(c.PostForm("of"))
	if err != nil {
		s.fail(c, &failure{http.StatusBadRequest, "This form could not be read.", "Nothing was changed. Reload the Desk and try again."})
		return
	}
	switch c.PostForm("edit") {
	case "delete":
		err = s.store.DeleteStudy(c, s.workspace.ID, id)
	case "restore":
		err = s.store.RestoreStudy(c, s.workspace.ID, id)
	default:
		err = &failure{http.StatusBadRequest, "This form could not be read.", "Nothing was changed. Reload the Desk and try again."}
	}
	switch {
	case err != nil:
		s.fail(c, err)
	case c.PostForm("edit") == "delete":
		c.Redirect(http.StatusSeeOther, "/?deleted="+id.String())
	default:
		c.Redirect(http.StatusSeeOther, "/")
	}
}
