package web

import (
	"fmt"
	"strings"

	"ninecoins/internal/doors"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"net/http"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

type shelfBody struct {
	Editions []shelfRow
	May      bool
	Undo     undoLine
}

type shelfRow struct {
	ID, Name, Does, Read, Age, Source, Currency string
	UsedIn                                      string
	Key                                         string // of the platform, on its first row, for deleting it
}

func (s *Server) shelfRow(e store.EditionRow) shelfRow {
	days := int(s.today().Sub(e.ObservedOn).Hours() / 24)
	r := shelfRow{ID: e.ID.String(), Name: e.Name, Does: strings.Join(e.Does, ", "), Read: e.ObservedOn.Format("2 Jan 2006"), Age: daysAgo(days),
		Source: e.Source, Currency: e.Currency, UsedIn: "no study"}
	if e.UsedIn == 1 {
		r.UsedIn = "1 study"
	} else if e.UsedIn > 1 {
		r.UsedIn = fmt.Sprintf("%d studies", e.UsedIn)
	}
	return r
}

// daysAgo says how long ago a day was; one that has not come here yet has come
// elsewhere on earth.
func daysAgo(days int) string {
	switch {
	case days <= 0:
		return "today"
	case days == 1:
		return "yesterday"
	}
	return fmt.Sprintf("%d days ago", days)
}

// shelf shows the price lists; after one was brought in (?brought=) it says where
// that went.
func (s *Server) shelf(c *gin.Context) { s.drawShelf(c, http.StatusOK, nil) }

func (s *Server) drawShelf(c *gin.Context, status int, n *notice) {
	rows, err := s.store.Editions(c, callerOf(c).workspace())
	body := shelfBody{May: callerOf(c).may(doors.ToEdit)}
	if err == nil {
		body.Undo, err = s.wideUndo(c)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	for i, e := range rows {
		row := s.shelfRow(e)
		if i == 0 || rows[i-1].Platform != e.Platform {
			row.Key = e.Platform
		}
		if n == nil && e.Name == c.Query("brought") {
			n = &notice{Text: e.Name + " was brought in and stands here, on the price shelf. To compare it, add it on the Line-up of a study."}
		}
		body.Editions = append(body.Editions, row)
	}
	s.render(c, status, "shelf", page{Title: "Price shelf", Active: "shelf", Limits: callerOf(c).limits(), Body: body, Notice: n})
}

// shelfEdit deletes a platform with its editions, or undoes and redoes that.
func (s *Server) shelfEdit(c *gin.Context) { s.wideEdit(c, store.Platforms, "/shelf", s.drawShelf) }

// workspaceHistory lists what became of the workspace itself: files, studies,
// platforms, people.
func (s *Server) workspaceHistory(c *gin.Context) {
	asked := store.Asked{Most: longestHistory}
	asked.Before, _ = uuid.Parse(c.Query("before"))
	changes, err := s.store.History(c, callerOf(c).workspace(), uuid.Nil, asked)
	if err != nil {
		s.fail(c, err)
		return
	}
	b := historyBody{Empty: len(changes) == 0, Days: byDay(changes, told)}
	if len(changes) == longestHistory {
		b.Older = "/history?before=" + changes[len(changes)-1].ID.String()
	}
	s.render(c, http.StatusOK, "wide_history", page{Title: "History", Active: "workspace", Body: b})
}

type editionBody struct {
	Row    shelfRow
	Tax    string
	Trial  string
	Meters []editionMeter
	Plans  []editionPlan
	AddOns []editionPlan
}

type editionMeter struct{ Unit, Kind, Counts, Words string }

type editionPlan struct {
	Name, Note string
	Charges    []editionCharge
	Limits     []string
}

type editionCharge struct{ Label, Rule string }

// edition shows one edition as it was read.
func (s *Server) edition(c *gin.Context) {
	id, _ := thing(c)
	row, e, err := s.store.Edition(c, callerOf(c).workspace(), id)
	if err == store.ErrMissing {
		s.fail(c, notFound("There is no such edition."))
		return
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	body := editionBody{Row: s.shelfRow(row), Tax: "prices are without tax", Trial: sayTrial(e.Trial)}
	if e.Tax.Included {
		body.Tax = "prices hold " + e.Tax.Rate.String() + " tax"
	}
	for _, m := range e.Meters {
		body.Meters = append(body.Meters, editionMeter{m.Unit, string(m.Kind), m.Counts.String(), m.Counts.Words(usage.Called)})
	}
	for _, p := range e.Plans {
		terms := make([]string, len(p.Terms))
		for i, t := range p.Terms {
			terms[i] = study.SayTerm(t)
			if t.Off > 0 {
				terms[i] += " (" + t.Off.String() + " off)"
			}
		}
		one := editionPlan{Name: p.Name, Note: string(p.Offered) + ", paid " + strings.Join(terms, " or ")}
		one.Charges = sayCharges(e, p.Charges)
		for _, l := range p.Limits {
			one.Limits = append(one.Limits, sayLimit(e, l))
		}
		body.Plans = append(body.Plans, one)
	}
	for _, a := range e.AddOns {
		body.AddOns = append(body.AddOns, editionPlan{Name: a.Name, Note: "add-on", Charges: sayCharges(e, a.Charges)})
	}
	s.render(c, http.StatusOK, "edition", page{Title: row.Name + ", read " + body.Row.Read, Active: "shelf", Body: body})
}

func sayTrial(t pricelist.Trial) string {
	if t.Days == 0 {
		return "no trial"
	}
	card := "no card needed"
	if t.CardNeeded {
		card = "a card is needed"
	}
	text := fmt.Sprintf("%d days, %s", t.Days, card)
	if t.RefundDays > 0 {
		text += fmt.Sprintf(", money back for %d days", t.RefundDays)
	}
	return text
}
