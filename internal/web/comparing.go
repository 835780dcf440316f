package web

import (
	"context"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"time"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/work"
	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// compareBody is two editions of a platform's list against each other, and what the later
// one would change for the studies that go by the platform.
type compareBody struct {
	Base, Name     string
	From, To       []choiceView
	Before, After  string // what they are called
	Say            template.HTML
	Groups         []compareGroup
	Effects        []effectView
	Draft, SameDay bool
	May            bool
	Few            string // why there is nothing to compare
}

type compareGroup struct {
	Name string
	Rows []compareRow
}

type compareRow struct {
	What, Was, Is, Turn, Share string
}

// effectView is what the later list would change for one study.
type effectView struct {
	ID, Title, Link string
	Goes            string // the day of the list that it goes by
	Says            template.HTML
	Rows            []effectRow
	Moves           bool // its options go by an older list, and can go by this one
	To              string
}

type effectRow struct {
	Name, On, To, Was, Then, Change string
	Face                            int
}

// mostCompared is for how many studies the effect of a list is worked out.
const mostCompared = 20

// compare shows what differs between two editions: by ?from= and ?to=, days or "draft".
func (s *Server) compare(c *gin.Context) {
	b, err := s.compared(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	var n *notice
	if title := c.Query("moved"); title != "" {
		n = &notice{Text: short(title, 120) + " goes by this list now. Undo stands on each of its pages."}
	}
	s.render(c, http.StatusOK, "compare", page{Title: b.Name + ": what changed", Active: "shelf", Limits: callerOf(c).limits(), Body: b, Notice: n})
}

// editionNamed finds an edition by its day, or the draft.
func (s *Server) editionNamed(c *gin.Context, key, day string) (*pricelist.Edition, error) {
	if day == "draft" {
		d, _, err := s.store.Draft(c, callerOf(c).workspace(), key)
		if err != nil {
			return nil, err
		}
		return d.Whole, nil
	}
	on, err := pricelist.ParseRead(day)
	if err != nil {
		return nil, store.ErrMissing
	}
	return s.store.EditionOn(c, callerOf(c).workspace(), key, on)
}

func (s *Server) compared(c *gin.Context) (*compareBody, error) {
	ws, key := callerOf(c).workspace(), c.Param("platform")
	row, err := s.store.Platform(c, ws, key)
	if errors.Is(err, store.ErrMissing) {
		return nil, notFound("There is no such platform on the shelf.")
	}
	if err != nil {
		return nil, err
	}
	b := &compareBody{Base: "/shelf/platforms/" + key, Name: row.Name, May: callerOf(c).may(doors.ToEdit)}
	editions, err := s.store.EditionsOf(c, ws, key)
	if err != nil {
		return nil, err
	}
	var days []string
	if row.Draft {
		days = append(days, "draft")
	}
	for _, e := range editions {
		days = append(days, pricelist.ReadText(e.ObservedOn))
	}
	if len(days) < 2 {
		b.Few = "There is one list of it only. Begin a draft, or read its page again, and compare then."
		return b, nil
	}
	to := c.Query("to")
	if !slices.Contains(days, to) {
		to = days[0]
	}
	from := c.Query("from")
	if !slices.Contains(days, from) || from == to {
		from = days[min(slices.Index(days, to)+1, len(days)-1)]
	}
	if from == to {
		from = days[0]
	}
	b.Draft = to == "draft"
	for _, day := range days {
		b.From = append(b.From, choiceView{Label: sayDay(day), Value: day, Chosen: day == from})
		b.To = append(b.To, choiceView{Label: sayDay(day), Value: day, Chosen: day == to})
	}
	before, err := s.editionNamed(c, key, from)
	var after *pricelist.Edition
	if err == nil {
		after, err = s.editionNamed(c, key, to)
	}
	if errors.Is(err, store.ErrMissing) {
		return nil, notFound("There is no such edition any more.")
	}
	if err != nil {
		return nil, err
	}
	b.Before, b.After = sayDay(from), sayDay(to)
	differences := pricelist.Compare(before, after)
	b.Say = phrase(study.SayDifferences(row.Name, b.Before, b.After, differences))
	b.group(differences, after)
	if len(after.Check()) > 0 { // a draft at fault
		return b, nil
	}
	return b, s.effectsOf(c, b, to, before, after)
}

func sayDay(day string) string {
	if day == "draft" {
		return "the draft"
	}
	on, err := pricelist.ParseRead(day)
	if err != nil {
		return day
	}
	return pricelist.SayRead(on)
}

// group sets the differences by plan, in the order of the list.
func (b *compareBody) group(all []pricelist.Difference, e *pricelist.Edition) {
	at := map[string]int{}
	for _, d := range all {
		name := orElse(d.Plan != "", d.Plan, "The list")
		i, there := at[name]
		if !there {
			i = len(b.Groups)
			at[name] = i
			b.Groups = append(b.Groups, compareGroup{Name: name})
		}
		r := compareRow{What: d.What, Was: orElse(d.Was != "", d.Was, "–"), Is: orElse(d.Is != "", d.Is, "–"), Turn: string(d.Turn)}
		if d.Share != 0 {
			r.Share = fmt.Sprintf("%+.1f%%", 100*d.Share)
		}
		b.Groups[i].Rows = append(b.Groups[i].Rows, r)
	}
}

// effectsOf works out what the one list and the other come to for the studies that use
// their platform.
func (s *Server) effectsOf(c *gin.Context, b *compareBody, to string, before, after *pricelist.Edition) error {
	ws := callerOf(c).workspace()
	uses, err := s.store.PlatformUses(c, ws, after.Platform.Key, mostCompared)
	if err != nil {
		return err
	}
	var seen []uuid.UUID
	for _, u := range uses {
		if slices.Contains(seen, u.ID) {
			continue
		}
		seen = append(seen, u.ID)
		v := effectView{ID: u.ID.String(), Title: u.Title, Link: "/studies/" + u.ID.String() + "/line-up", Goes: pricelist.SayRead(u.ObservedOn), To: to}
		err := work.Guarded(func() error {
			o, err := s.store.Outcome(c, ws, u.ID, s.today())
			if err == nil {
				err = v.of(c, o, b, before, after)
			}
			return err
		})
		switch {
		case errors.Is(err, store.ErrMissing):
			continue
		case err != nil && (c.Request.Context().Err() != nil || store.Away(err)):
			return err
		case err != nil:
			s.log.Error("what another list changes", "study", u.ID, "error", err)
			v.Says, v.Rows = "This study cannot be worked out, so what changes for it is unknown. Its page says what is wrong.", nil
		default:
			v.Moves = !b.Draft && u.ObservedOn.Before(after.ObservedOn)
		}
		b.Effects = append(b.Effects, v)
	}
	return nil
}

// of works out what another list changes for a study.
func (v *effectView) of(ctx context.Context, o *study.Outcome, b *compareBody, before, after *pricelist.Edition) (err error) {
	if v.Goes != b.Before && len(before.Check()) == 0 {
		if o, err = study.ComputeWithin(ctx, o.Study.With(before)); err != nil {
			return err
		}
	}
	effects, then, err := study.Effects(ctx, o, after)
	if err == nil && o.Panic != nil {
		err = o.Panic
	}
	if err == nil && then.Panic != nil {
		err = then.Panic
	}
	if err != nil {
		return err
	}
	v.Says = phrase(study.SayEffects(o, effects))
	cur := o.Study.Currency
	for _, e := range effects {
		v.Rows = append(v.Rows, effectRow{Name: e.Name, Face: e.Face, On: orElse(e.On != "", e.On, "no plan"), To: orElse(e.To != "", e.To, "no plan"),
			Was: orElse(e.Served, cur.Format(e.Was), "out"), Then: orElse(e.Serves, cur.Format(e.Then), "out"),
			Change: orElse(e.Served && e.Serves, signed(cur, e.Then-e.Was), "")})
	}
	return nil
}

// moveStudy lets a study's options go by another list of a platform.
func (s *Server) moveStudy(c *gin.Context) {
	key, to := c.Param("platform"), c.PostForm("to")
	id, err := uuid.Parse(c.PostForm("study"))
	if err != nil {
		s.fail(c, unreadable())
		return
	}
	on, _ := pricelist.ParseRead(to)
	if _, err = s.editionNamed(c, key, to); errors.Is(err, store.ErrMissing) || to == "draft" {
		s.fail(c, notFound("There is no such edition any more."))
		return
	}
	at := s.editing(c, id)
	st, err := s.store.Study(c, at.Workspace, id, at.Today)
	if errors.Is(err, store.ErrMissing) {
		err = notFound("There is no such study any more.")
	}
	if err == nil {
		if moved := study.Moved(st, key, time.Time{}, on); len(moved) > 0 {
			err = s.store.Edit(c, at, moved)
		}
	}
	var changed *store.ChangedError
	if errors.As(err, &changed) {
		err = &failure{status: http.StatusConflict, What: "The study was changed meanwhile.", Do: "Nothing was changed by you. Go back, look at it again and move it then."}
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/shelf/platforms/"+key+"/compare?to="+to+"&moved="+template.URLQueryEscaper(st.Title))
}
