package web

import (
	"errors"
	"fmt"
	"net/http"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/feature"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/gin-gonic/gin/binding"
	"github.com/google/uuid"
)

// draftEditor is one request for a draft of a price list.
type draftEditor struct {
	fields
	c         *gin.Context
	draft     *store.Drafted
	at        store.Editing
	catalogue *feature.Catalogue
	base      *pricelist.Edition // that it began from; nil: none
	prices    bool               // it is asked for by its prices, not by what plans have
	faultsAt  map[document.Path][]string
}

// draftForm is a form of the page of a draft.
type draftForm struct {
	Op       string `form:"op" binding:"required,oneof=set fields remove move undo redo put-back pass-over publish drop plan column block table charge limit term addon offer meter bands in-order copy csv"`
	Path     string `form:"path" binding:"max=400"`
	Was      string `form:"was" binding:"max=4000"`
	Value    string `form:"value" binding:"max=4000"`
	Before   string `form:"before" binding:"max=200"`
	Change   string `form:"change" binding:"max=40"`
	Rows     string `form:"rows" binding:"max=60000"`
	Name     string `form:"name" binding:"max=60"`
	Price    string `form:"price" binding:"max=40"`
	Includes string `form:"includes" binding:"max=60"`
	From     string `form:"from" binding:"max=60"`
	To       string `form:"to" binding:"max=60"`
	Features string `form:"features" binding:"max=20000"`
	Plans    string `form:"plans" binding:"max=4000"`
	On       string `form:"on" binding:"max=200"`
	At       int64  `form:"at"` // the revision that is published
}

// openDraft loads the draft that a request names.
func (s *Server) openDraft(c *gin.Context) (*draftEditor, error) {
	ws, key := callerOf(c).workspace(), c.Param("platform")
	d, id, err := s.store.Draft(c, ws, key)
	if err != nil {
		return nil, err
	}
	e := &draftEditor{c: c, draft: d, at: s.editing(c, id), prices: strings.HasSuffix(c.FullPath(), "/prices"), fields: fields{caller: callerOf(c), shown: map[int]bool{},
		spot: func(path document.Path) (document.Spot, bool) { return pricelist.Drafts().Spot(d.Draft, path) }}}
	e.at.Kind = store.ADraft
	if e.catalogue, _, _, err = s.store.Catalogue(c, ws); err != nil {
		return nil, err
	}
	if base := d.Draft.Base; !base.IsZero() {
		e.base, err = s.store.EditionOn(c, ws, key, base)
		if errors.Is(err, store.ErrMissing) {
			err = nil
		}
	}
	return e, err
}

// draftPage shows a draft; where there is none, the platform, on which one is begun.
func (s *Server) draftPage(c *gin.Context) {
	e, err := s.openDraft(c)
	if errors.Is(err, store.ErrMissing) {
		c.Redirect(http.StatusSeeOther, "/shelf/platforms/"+c.Param("platform"))
		return
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	s.drawDraft(e, http.StatusOK)
}

func (s *Server) drawDraft(e *draftEditor, status int) {
	if e.prices {
		b, err := s.pricesBody(e)
		if err == nil {
			b.Undo, err = s.documentUndo(e.c, e.at)
		}
		if err != nil {
			s.fail(e.c, err)
			return
		}
		s.render(e.c, status, "draft_prices", page{Title: b.Name + ": a new edition", Active: "shelf", Limits: e.caller.limits(), Body: b, Notice: e.untold(nil)})
		return
	}
	b, err := s.draftBody(e)
	if err == nil {
		b.Undo, err = s.documentUndo(e.c, e.at)
	}
	if err != nil {
		s.fail(e.c, err)
		return
	}
	s.render(e.c, status, "draft", page{Title: e.draft.Draft.Edition.Platform.Name + ": what it has", Active: "shelf", Limits: e.caller.limits(), Body: b, Notice: e.untold(nil)})
}

// documentUndo is what undo would take back of a document outside studies.
func (s *Server) documentUndo(c *gin.Context, at store.Editing) (undoLine, error) {
	line := undoLine{}
	recent, err := s.store.Recent(c, at)
	if err != nil {
		return line, err
	}
	if recent.Undo != nil {
		line.Undo, line.Did = sayBack(recent.Undo), sayNow(recent.Undo)
	}
	if recent.Redo != nil {
		line.Redo, line.Undid = sayAgain(recent.Redo), "Undone: "+sayBack(recent.Redo)+"."
	}
	line.LastID = lastID(recent)
	return line, nil
}

// draftEdit saves what a form changes of a draft, publishes it, or puts it aside.
func (s *Server) draftEdit(c *gin.Context) {
	e, err := s.openDraft(c)
	if errors.Is(err, store.ErrMissing) {
		err = s.draftGone(c)
	}
	var wrong *refusal
	var form draftForm
	if err == nil {
		form, err = draftFormOf(c)
	}
	to := c.Request.URL.RequestURI()
	if err == nil {
		switch form.Op {
		case "publish":
			to = "/shelf/platforms/" + c.Param("platform") + "?published=yes"
			wrong, err = s.publish(c, e, form.At)
		case "drop":
			to = "/shelf/platforms/" + c.Param("platform")
			err = s.store.DropDraft(c, e.at, c.Param("platform"))
		default:
			wrong, err = s.changeDraft(c, e, form)
		}
	}
	if errors.Is(err, store.ErrMissing) { // while this was under way
		err = s.draftGone(c)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	if wrong == nil {
		c.Redirect(http.StatusSeeOther, to)
		return
	}
	again, err := s.openDraft(c)
	if errors.Is(err, store.ErrMissing) {
		err = s.draftGone(c)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	again.refused(wrong)
	s.drawDraft(again, wrong.status)
}

func draftFormOf(c *gin.Context) (f draftForm, err error) {
	if err := c.ShouldBindWith(&f, binding.FormPost); err != nil {
		return f, unreadable()
	}
	return f, nil
}

// change is the edit of a field, or a step through the history, that the form carries.
func (f *draftForm) change() change {
	return change{Op: f.Op, Path: f.Path, Was: f.Was, Value: strings.TrimSpace(f.Value), Before: f.Before, Change: f.Change}
}

// changeDraft makes an edit of a draft.
func (s *Server) changeDraft(c *gin.Context, e *draftEditor, form draftForm) (*refusal, error) {
	sh := sheetOf(pricelist.Drafts(), e.draft.Draft, e.at)
	typed := sh.typed
	sh.typed = func(path document.Path, text string) (string, error) {
		text, err := e.draft.Draft.Edition.ByKey(path, text)
		if err != nil {
			return "", err
		}
		return typed(path, text)
	}
	path := document.Path(form.Path)
	switch form.Op {
	case "fields":
		sh.own = func(ch change) (*refusal, bool, error) {
			if !isBandEnd(document.Path(ch.Path)) {
				return nil, false, nil
			}
			wrong, err := s.moveBand(c, e, ch)
			return wrong, true, err
		}
		return s.setFields(c, sh)
	case "set":
		return s.setCell(c, e, sh, form.change())
	case "undo", "redo", "put-back", "pass-over":
		return s.takeBack(c, e.at, form.change())
	case "plan":
		return s.addPlan(c, e, form)
	case "column":
		return s.copyColumn(c, e, form)
	case "block", "table":
		return s.pasteCells(c, e, form)
	case "charge", "limit", "term", "addon", "offer", "meter":
		return s.insertTyped(c, e, form)
	case "bands", "in-order":
		return s.changeBands(c, e, form)
	case "copy":
		return s.copyPlan(c, e, form)
	case "csv":
		return s.takePrices(c, e, form)
	case "remove", "move":
		op := document.Op{Do: document.Do(form.Op), Path: path, Before: form.Before}
		return saved(c, s.store.Edit(c, e.at, document.Change{op}), idOf(path), "")
	}
	return nil, unreadable()
}

// setCell saves a field of a draft. A cell that is emptied loses its note, too, which
// one undo brings back with it.
func (s *Server) setCell(c *gin.Context, e *draftEditor, sh sheet, ch change) (*refusal, error) {
	path := document.Path(ch.Path)
	if isBandEnd(path) {
		return s.moveBand(c, e, ch)
	}
	if steps := path.Steps(); len(steps) == 4 && steps[2] == "features" && ch.Value == "" && ch.Was != "" {
		if p, ok := e.draft.Draft.Edition.Plan(steps[1]); ok && p.Features[steps[3]].Cell() == ch.Was {
			return saved(c, s.store.Edit(c, e.at, pricelist.ClearCell(steps[1], steps[3], p.Features[steps[3]])), idOf(path), "")
		}
	}
	return s.set(c, sh, ch)
}

// addPlan adds a plan with a flat price a month, or on request.
func (s *Server) addPlan(c *gin.Context, e *draftEditor, form draftForm) (*refusal, error) {
	name := strings.TrimSpace(form.Name)
	id := "plan"
	if typed := typedItem(c); e.prices { // the form of the other page
		id, name, form.Name, form.Price, form.Includes = "add-plan-plans", typed["name"], typed["name"], typed["price"], typed["includes"]
	}
	item := map[string]string{"name": form.Name, "price": form.Price, "includes": form.Includes, "form": id}
	no := func(field, typed, why string) *refusal {
		wrong := refuse(id+"-"+field, typed, why)
		wrong.problem.Item = item
		return wrong
	}
	if name == "" {
		return no("name", "", "A plan needs a name. Nothing was added."), nil
	}
	ed := &e.draft.Draft.Edition
	key := document.KeyFor(name, func(key string) bool { _, there := ed.Plan(key); return there })
	p := pricelist.Plan{Key: key, Name: name, Offered: pricelist.OnRequest, Includes: form.Includes}
	if form.Includes != "" {
		if _, ok := ed.Plan(form.Includes); !ok {
			return no("includes", form.Includes, "There is no such plan any more. Nothing was added."), nil
		}
	}
	if price := strings.TrimSpace(form.Price); price != "" {
		amount, why := typedAmount(price, ed.Currency)
		if why != "" {
			return no("price", price, why+"; nothing was added."), nil
		}
		p.Offered, p.Terms = pricelist.Public, []pricelist.Term{{Key: "monthly", Months: 1}}
		p.Charges = []pricelist.Charge{{Key: "base", Label: "A month", Kind: pricelist.Flat, Price: pricelist.Price{Usual: amount}}}
	}
	op := document.Op{Do: document.Insert, Path: document.Path("plans").To(key), To: pricelist.Written(p)}
	wrong, err := saved(c, s.store.Edit(c, e.at, document.Change{op}), id+"-name", name)
	if wrong != nil {
		wrong.problem.Item = item
	}
	return wrong, err
}

// draftGone says what became of a draft that is not there any more, and keeps what was sent.
func (s *Server) draftGone(c *gin.Context) error {
	key := c.Param("platform")
	gone, err := s.store.GoneDraft(c, callerOf(c).workspace(), key)
	if err != nil {
		return err
	}
	f := &failure{status: http.StatusNotFound, What: "There is no draft of this price list any more: it was put aside, or published before.",
		Do: "Nothing was changed. Its platform's page takes it up again, or begins another."}
	if gone.Published {
		f.What = fmt.Sprintf("The draft was published meanwhile%s, on %s: it is an edition now.", orElse(gone.By != "", " by "+gone.By, ""),
			gone.At.Format("2 Jan 2006 at 15:04"))
		f.Do = "Nothing was changed by you, and an edition never changes. Begin another draft on the platform's page; it starts from what was published."
	}
	f.Typed, f.To, f.ToIs = c.PostForm("value")+c.PostForm("rows"), "/shelf/platforms/"+key, "To the platform"
	return f
}

// publish makes the draft an edition, as it was seen at a revision.
func (s *Server) publish(c *gin.Context, e *draftEditor, seen int64) (*refusal, error) {
	at := e.at
	at.Kind, at.Study = store.AStudy, uuid.Nil
	_, err := s.store.Publish(c, at, c.Param("platform"), seen)
	var refused *store.RefusedError
	var unfit *store.UnfitError
	var since *store.SinceError
	switch {
	case errors.As(err, &since):
		return &refusal{status: http.StatusConflict, problem: problem{Message: saySince(since)}}, nil
	case errors.As(err, &unfit):
		return &refusal{status: http.StatusUnprocessableEntity, problem: problem{Message: "It cannot be published yet. " + sayFaults(unfit.Faults)}}, nil
	case errors.As(err, &refused):
		return &refusal{status: http.StatusUnprocessableEntity, problem: problem{Message: "It cannot be published: " + refused.Error() + "."}}, nil
	}
	return nil, err
}

// saySince tells what was changed of a draft that somebody would have published.
func saySince(since *store.SinceError) string {
	var all []string
	for i := range since.Changes {
		ch := &since.Changes[i]
		all = append(all, orElse(ch.By != "", ch.By, "somebody")+": "+orElse(ch.UndoneAt != nil, "undid ", "")+sayNow(ch))
	}
	text := "Nothing was published: the draft was changed since you looked. "
	if len(all) > 0 {
		text += strings.Join(all[:min(len(all), 5)], " ") + " "
	}
	return text + "Here it is as it stands now; publish it once it looks right."
}

// sayFaults tells the first of some faults, and how many more there are.
func sayFaults(all []string) string {
	const most = 5
	text := strings.Join(all[:min(len(all), most)], "; ")
	if n := len(all) - most; n > 0 {
		text += fmt.Sprintf("; and %d more", n)
	}
	return capital(text) + "."
}

// mayEditDraft reports whether the caller may change drafts.
func (e *draftEditor) mayEdit() bool { return e.caller.may(doors.ToEdit) }
