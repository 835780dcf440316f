package web

import (
	"fmt"
	"html/template"
	"net/http"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/formats"

	"github.com/gin-gonic/gin"
)

type doingBody struct {
	costsHead
	Say      template.HTML
	Options  []doingOption
	Headroom []headroomRow
	At       []choiceView
	Month    string
	Calendar string
	Says     string
}

type doingOption struct {
	Face             int
	Name, Way, Total string
	Deeds            []deedView
	Calendar         string
}

type deedView struct{ When, Text, Cost, Link string }

type headroomRow struct {
	Face                         int
	Name, Plan, Left, Why, Comes string
	To, Delta                    string
	Soon                         bool
}

func buildDoing(r *request) (any, error) {
	o, st := r.outcome, r.study()
	month := r.pickMonth()
	b := doingBody{costsHead: r.costsHead("doing"), At: r.moments("/costs/doing", month), Month: st.Month(month).String()}
	for _, at := range o.Order {
		res := &o.Results[at]
		if res.AtFault {
			continue
		}
		d := doingOption{Face: res.Option.Face, Name: res.Option.Name, Way: o.SayDeeds(res),
			Calendar: r.base() + "/costs/doing/" + res.Option.Key + "/todo.ics"}
		if o.NoRate(res) == "" {
			d.Total = st.Currency.Format(res.Schedule.Total) + " in all"
		}
		for _, deed := range o.Deeds(res) {
			v := deedView{When: st.Month(deed.Month).String(), Text: deed.Text, Link: r.receiptLink(res, deed.Month)}
			if deed.Notice {
				v.When, v.Link = deed.On.Format("2 Jan 2006"), ""
			} else if deed.Cost > 0 {
				v.Cost = st.Currency.Format(deed.Cost) + " due that month"
			}
			d.Deeds = append(d.Deeds, v)
		}
		b.Options = append(b.Options, d)
	}
	b.Say = phrase(o.SayDoing())
	room, err := o.Headroom(r.paging(), month)
	if err != nil {
		return nil, err
	}
	for _, h := range room {
		b.Headroom = append(b.Headroom, r.headroomRow(&h))
	}
	return b, nil
}

func (r *request) headroomRow(h *study.Headroom) headroomRow {
	st := r.study()
	res := &r.outcome.Results[h.Result]
	row := headroomRow{Face: res.Option.Face, Name: res.Option.Name, Plan: h.Plan, Left: fmt.Sprintf("%s, up to %s", h.Driver.Count(h.Left), h.Driver.Show(h.Until)), Why: h.Why,
		Comes: "not within the horizon", To: "nothing serves from there on", Soon: h.Month >= 0 && h.Month < 6}
	if h.Month >= 0 {
		row.Comes = st.Month(h.Month).String()
	}
	if h.Serves {
		row.To, row.Delta = h.To, signed(st.Currency, h.Delta)+"/mo"
		if h.To == h.Plan {
			row.To = "stays on " + h.To
		}
	}
	return row
}

// doingCalendar writes what is to be done for an option as iCalendar.
func (s *Server) doingCalendar(c *gin.Context) {
	r, err := s.open(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	res, ok := r.outcome.Result(c.Param("option"))
	if !ok {
		s.fail(c, notFound("There is no such option in this study."))
		return
	}
	st := r.study()
	var dates []formats.Date
	for i, d := range r.outcome.Deeds(res) {
		about := fmt.Sprintf("%s, %s.", st.Title, res.Option.Name)
		if d.Cost > 0 {
			about += " " + st.Currency.Format(money.Amount(d.Cost)) + " due that month."
		}
		dates = append(dates, formats.Date{ID: fmt.Sprintf("%s-%s-%d", r.id, res.Option.Key, i), Title: res.Option.Name + ": " + d.Text, About: about, On: d.On})
	}
	c.Header("Content-Disposition", `attachment; filename="to-do-`+res.Option.Key+`.ics"`)
	c.Data(http.StatusOK, "text/calendar; charset=utf-8", formats.Calendar(st.Title+": "+res.Option.Name, dates, s.today().Add(12*time.Hour)))
}
