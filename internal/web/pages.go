package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/work"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

// coinPage is a page of a study: how its body is built from an outcome.
type coinPage struct {
	key, view string
	build     func(r *request) (any, error)
}

func (s *Server) coinPages() []coinPage {
	return []coinPage{
		{"brief", "brief", s.buildBrief}, {"line-up", "lineup", s.buildLineUp}, {"coverage", "coverage", buildCoverage},
		{"prices", "prices", s.buildPrices}, {"growth", "growth", s.buildGrowth}, {"costs", "costs", buildCosts},
		{"trials", "trials", buildTrials}, {"scores", "scores", buildScores}, {"verdict", "verdict", buildVerdict},
	}
}

func (s *Server) optionPage() coinPage  { return coinPage{"", "option", buildOption} }
func (s *Server) receiptPage() coinPage { return coinPage{"", "receipt", buildReceipt} }
func (s *Server) historyPage() coinPage { return coinPage{"history", "history", s.buildHistory} }

// request is one request for a page of a study, with what was computed for it.
type request struct {
	fields
	c       *gin.Context
	id      string
	outcome *study.Outcome
	within  context.Context
	pages   *work.Gate
}

// problem is what is wrong with a field that was just sent: the field's id,
// the text that was typed, and a message for beside it.
// A field that was changed meanwhile shows what stands in it now, and offers
// to save what was typed all the same.
type problem struct {
	Field, Typed, Message string
	Meanwhile             bool
	Ways                  []way             // what can be done about it
	Item                  map[string]string // what was typed into the fields of a new item
	told                  bool              // it stands beside its field
}

// way is one thing to do about a problem: a form with one button.
type way struct {
	Do     string
	Fields map[string]string
}

// ctx ends when the reader leaves. Work that takes long goes through the gate of the workspace.
func (r *request) ctx() context.Context { return r.within }

// paging is ctx for what a page has itself, which waits for no long work.
func (r *request) paging() context.Context { return r.pages.Within(r.c.Request.Context(), r) }

func (r *request) study() *study.Study { return r.outcome.Study }

// open loads and computes the study that a request names. Who reads by a link
// without names gets numbers for the raters.
func (s *Server) open(c *gin.Context) (*request, error) {
	id, _ := thing(c)
	k := callerOf(c)
	o, err := s.store.Outcome(c, k.workspace(), id, s.today())
	if err != nil {
		return nil, err
	}
	if !k.names() {
		nameless := *o
		nameless.Study = withoutNames(o.Study)
		o = &nameless
	}
	return &request{c: c, pages: s.pages,
		within: s.gate.Within(c.Request.Context(), k.workspace()), id: id.String(), outcome: o, fields: fields{caller: k, faults: o.Faults, shown: map[int]bool{},
			spot: func(path document.Path) (document.Spot, bool) { return table.Spot(*o.Study, path) }}}, nil
}

// withoutNames returns the study with its raters called Rater 1, Rater 2, …, and without
// who decides.
func withoutNames(st *study.Study) *study.Study {
	nameless := *st
	nameless.People, nameless.Brief.Deciders = map[string]string{}, ""
	for _, one := range st.Ratings {
		if nameless.People[one.Rater] == "" {
			nameless.People[one.Rater] = fmt.Sprintf("Rater %d", len(nameless.People)+1)
		}
	}
	return &nameless
}

func (s *Server) show(p coinPage) gin.HandlerFunc {
	return func(c *gin.Context) {
		r, err := s.open(c)
		if err != nil {
			s.fail(c, err)
			return
		}
		s.draw(r, p, http.StatusOK)
	}
}

func (s *Server) draw(r *request, p coinPage, status int) {
	body, err := p.build(r)
	if err != nil {
		s.fail(r.c, err)
		return
	}
	title := r.study().Title
	switch p.view {
	case "history":
		title = "History · " + title
	case "links":
		title = "Reading links · " + title
	case "option":
		if res, ok := r.outcome.Result(r.c.Param("option")); ok {
			title = res.Option.Name + " · " + title
		}
	case "questions":
		title = "Questions · " + title
	case "differences":
		title = "Two face to face · " + title
	case "receipt":
		title = "Receipt · " + title
	}
	for _, c := range r.outcome.Coins {
		if c.Key == p.key {
			title = c.Name + " · " + title
		}
	}
	var n *notice
	if p.key == "brief" && r.c.Query("brought") != "" {
		n = &notice{Text: "The study was brought in: this is its brief, and it stands on the Desk. What it was compared by is on the price shelf."}
	}
	if n == nil && r.outcome.Panic != nil {
		n = &notice{Trouble: true, Text: "Nine Coins failed on this study, and what it says of it is not complete. " +
			"Everything here can be changed, the study exported (Workspace) and deleted (Desk); whoever looks after Nine Coins finds more in its log."}
	}
	n = r.untold(n)
	frame := newFrame(r.id, r.outcome, p.key)
	for i, fault := range r.outcome.Faults {
		if study.CoinOf(fault.At) == p.key && !r.shown[i] {
			frame.Faults = append(frame.Faults, fault.Text)
		}
	}
	if frame.Undo, err = s.undoLine(r); err != nil {
		s.fail(r.c, err)
		return
	}
	s.render(r.c, status, p.view, page{Title: title, Study: frame, Active: p.key, Lines: p.view == "growth" || strings.HasPrefix(p.view, "costs_"), Limits: r.caller.limits(), Body: body, Notice: n})
}

// edited takes a form, saves it and sends the reader back to the page; an edit
// that cannot be taken draws the page with what is wrong beside the field.
func (s *Server) edited(p coinPage) gin.HandlerFunc {
	return func(c *gin.Context) {
		id, _ := thing(c)
		wrong, err := s.edit(c, id)
		if s.taken(c, wrong, err) {
			return
		}
		r, err := s.open(c)
		if err != nil {
			s.fail(c, err)
			return
		}
		r.refused(wrong)
		s.draw(r, p, wrong.status)
	}
}

// taken answers an edit that was taken, by the page, or that failed; false: it was
// refused, and the page is to be drawn with that.
func (s *Server) taken(c *gin.Context, wrong *refusal, err error) bool {
	switch {
	case err != nil:
		s.fail(c, err)
	case wrong == nil:
		c.Redirect(http.StatusSeeOther, c.Request.URL.RequestURI())
	default:
		return false
	}
	return true
}

// refusal is an edit that was not taken.
type refusal struct {
	status  int
	problem problem
	more    []problem // where several fields were sent together
}

func refuse(field, typed, message string) *refusal {
	return &refusal{status: http.StatusUnprocessableEntity, problem: problem{Field: field, Typed: typed, Message: message}}
}

// saved turns what the store says of an edit into a refusal or an error.
func saved(c *gin.Context, err error, field, typed string) (*refusal, error) {
	var changed *store.ChangedError
	var refused *store.RefusedError
	switch {
	case err == nil:
		return nil, nil
	case errors.As(err, &changed):
		return &refusal{status: http.StatusConflict, problem: problem{Field: field, Typed: typed, Meanwhile: true, Message: meanwhile(callerOf(c), changed, typed)}}, nil
	case errors.As(err, &refused):
		var invalid *document.InvalidError
		if errors.As(err, &invalid) {
			verb := orElse(strings.HasPrefix(invalid.Problem, "there ") || strings.HasPrefix(invalid.Problem, "expected "), "", "it ")
			return refuse(field, typed, "Not saved: "+verb+invalid.Problem+"."), nil
		}
		return refuse(field, typed, "Not saved: "+refused.Err.Error()+"."), nil
	}
	return nil, err
}

// meanwhile tells who wrote what while something else was typed.
func meanwhile(k *caller, changed *store.ChangedError, typed string) string {
	mine := orElse(typed == "", "empty", typed)
	switch changed.By {
	case "":
		return fmt.Sprintf("Changed meanwhile. What stands there now is theirs; yours (%s) was not saved.", mine)
	case k.seat.Name:
		return fmt.Sprintf("You changed this in another tab at %s, while you typed here. What stands there now is from there; what you typed here (%s) was not saved.", clock(changed.At), mine)
	}
	return fmt.Sprintf("%s changed this at %s, while you typed. What stands there now is theirs; yours (%s) was not saved.", changed.By, clock(changed.At), mine)
}
