package web

import (
	"fmt"
	"net/http"
	"strings"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

type editionBody struct {
	Row    shelfRow
	Files  string
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
	body := editionBody{Files: "/shelf/platforms/" + e.Platform.Key + "/prices.csv?of=" + pricelist.ReadText(e.ObservedOn), Row: s.shelfRow(row), Tax: "prices are without tax", Trial: sayTrial(e.Trial)}
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
