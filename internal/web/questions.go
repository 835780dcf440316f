package web

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"html/template"
	"net/http"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

// What is not yet known of the needs, as questions to each vendor; an answer is
// noted with its day and that it was asked.

type questionsBody struct {
	Base    string
	Say     template.HTML
	Open    bool // something is
	Needs   bool // of the needs
	Write   bool // whether price lists may be written
	Vendors []vendorView
	CSV     string
	May     bool
}

type vendorView struct {
	Key, Name, Text string
	Faces           []int
	Questions       []questionView
	Sheet           string // where its price list is written
	Unsaid          []string
	ToAsk           int
}

type questionView struct {
	Text, Need, Level string
	Path, ID          string
	Ways              []cellWay
	Problem           string
	Typed             string
	Form              template.HTML
}

func (s *Server) questionsPage() coinPage {
	return coinPage{"questions", "questions", buildQuestions}
}

func buildQuestions(r *request) (any, error) {
	o := r.outcome
	b := questionsBody{Base: r.base(), Say: phrase(o.SayQuestions()), CSV: r.base() + "/questions.csv", May: r.caller.mayEdit("findings"), Write: r.caller.may(doors.ToEdit)}
	for _, v := range o.Vendors() {
		if len(v.Questions)+len(v.Unsaid) == 0 {
			continue
		}
		view := vendorView{Key: v.Platform, Name: v.Name, Faces: v.Faces, Text: o.AskVendor(&v), Unsaid: v.Unsaid, Sheet: "/shelf/platforms/" + v.Platform, ToAsk: len(v.Questions) + len(v.Unsaid)}
		for _, q := range v.Questions {
			n := r.study().Needs[q.Need]
			path := document.Path("findings").To(q.Finding)
			one := questionView{Text: q.Text, Need: n.Name, Level: string(n.Level), Path: string(path), ID: idOf(path)}
			if p := r.problemAt(one.ID); p != nil {
				one.Problem, one.Typed = p.Message, p.Typed
			}
			for _, way := range []pricelist.Has{pricelist.Yes, pricelist.Partly, pricelist.Bridge, pricelist.Announced, pricelist.No} {
				one.Ways = append(one.Ways, cellWay{Label: has(way), Value: string(way)})
			}
			view.Questions = append(view.Questions, one)
		}
		b.Open, b.Needs = true, b.Needs || len(view.Questions) > 0
		b.Vendors = append(b.Vendors, view)
	}
	return b, nil
}

// answer notes what a vendor answered: on which day, and that it was asked.
func (s *Server) answer(c *gin.Context, at store.Editing, ch change) (*refusal, error) {
	sh, st, err := s.studySheet(c, at)
	if err != nil {
		return nil, err
	}
	path := document.Path(ch.Path)
	if steps := path.Steps(); len(steps) != 2 || steps[0] != "findings" {
		return nil, unreadable()
	}
	spot, _ := sh.spot(path.To("has"))
	to, err := sh.typed(path.To("has"), oneLine(ch.Value))
	if err == nil && to == "" {
		err = document.Problem("is empty; choose an answer, or type one")
	}
	if err != nil {
		return mistyped(idOf(path), ch.Value, err, spot.Want, nil), nil
	}
	change := document.Change{{Do: document.Set, Path: path.To("has"), Was: ch.Was, To: to}}
	for field, value := range map[string]string{"from": string(pricelist.Asked), "on": st.Today.Format(time.DateOnly)} {
		was, _ := sh.spot(path.To(field))
		if was.Text != value {
			change = append(change, document.Op{Do: document.Set, Path: path.To(field), Was: was.Text, To: value})
		}
	}
	return saved(c, s.store.Edit(c, at, change), idOf(path), ch.Value)
}

// questionsFile hands the questions out as CSV: a row each.
func (s *Server) questionsFile(c *gin.Context) {
	r, err := s.open(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	_ = w.Write([]string{"vendor", "plan", "need", "level", "question", "answer"})
	for _, v := range r.outcome.Vendors() {
		for _, q := range v.Questions {
			n := r.study().Needs[q.Need]
			_ = w.Write([]string{plainCell(v.Name), plainCell(q.Plan.Name), plainCell(n.Name), string(n.Level), plainCell(q.Text), ""})
		}
		for _, text := range v.Unsaid {
			_ = w.Write([]string{plainCell(v.Name), "", "", "", plainCell(text), ""})
		}
	}
	w.Flush()
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="questions-%s.csv"`, r.study().Key))
	c.Data(http.StatusOK, "text/csv; charset=utf-8", out.Bytes())
}

// plainCell keeps a spreadsheet from taking a text for a formula.
func plainCell(text string) string {
	if text != "" && (text[0] == '=' || text[0] == '+' || text[0] == '-' || text[0] == '@' || text[0] == '\t' || text[0] == '\r') {
		return "'" + text
	}
	return text
}
