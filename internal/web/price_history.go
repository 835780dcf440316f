package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/store"

	"github.com/gin-gonic/gin"
)

// mostOfHistory is how many editions the history of prices goes back.
const mostOfHistory = 24

// priceHistory follows what the plans of a platform cost a month from edition to edition,
// at the usage of the study that uses it, else at a typical one. nil: there is one edition.
func (s *Server) priceHistory(c *gin.Context, key string, rows []store.EditionRow, uses []store.UsedIn) (*curveView, error) {
	if len(rows) < 2 {
		return nil, nil
	}
	rows = slices.Clone(rows[:min(len(rows), mostOfHistory)])
	slices.Reverse(rows)
	ws := callerOf(c).workspace()
	var from *study.Outcome
	if len(uses) > 0 {
		var err error
		if from, err = s.store.Outcome(c, ws, uses[0].ID, s.today()); err != nil && (c.Request.Context().Err() != nil || store.Away(err)) {
			return nil, err
		}
	}
	history := newHistory(from)
	for _, row := range rows {
		_, e, err := s.store.Edition(c, ws, row.ID)
		if errors.Is(err, store.ErrMissing) {
			continue
		}
		if err != nil {
			return nil, err
		}
		history.add(e)
	}
	return history.view(s.today())
}

// history gathers what plans cost, edition by edition.
type history struct {
	from     *study.Outcome
	editions []*pricelist.Edition
	names    []string // of plans, in the order of the newest list
	costs    map[string]map[time.Time]money.Amount
}

func newHistory(from *study.Outcome) *history {
	return &history{from: from, costs: map[string]map[time.Time]money.Amount{}}
}

func (h *history) add(e *pricelist.Edition) {
	h.editions = append(h.editions, e)
	tried, err := study.Try(e, h.from, nil)
	if err != nil {
		return
	}
	all, err := priced(e, tried)
	if err != nil {
		return
	}
	seen := map[string]bool{}
	for i := range all {
		name := all[i].Plan.Name
		if seen[name] || !all[i].Serves() {
			continue
		}
		seen[name] = true
		if h.costs[name] == nil {
			h.costs[name] = map[time.Time]money.Amount{}
			h.names = append(h.names, name)
		}
		h.costs[name][e.ObservedOn] = all[i].Monthly()
	}
}

func (h *history) view(today time.Time) (*curveView, error) {
	if len(h.editions) < 2 || len(h.names) == 0 {
		return nil, nil
	}
	day := func(t time.Time) int64 { return t.Unix() / 86_400 }
	newest := h.editions[len(h.editions)-1]
	cur := newest.Currency
	c := &curveView{Title: "What its plans cost over the years", Heads: h.names}
	low, high := day(h.editions[0].ObservedOn), max(day(today), day(newest.ObservedOn)+1)
	data := curveData{Label: "", Sign: cur.Symbol(), Low: low, High: high}
	last := int64(-1 << 62)
	for _, e := range h.editions {
		if x := day(e.ObservedOn); x-last > (high-low)/7 {
			data.Ticks = append(data.Ticks, curveTick{x, e.ObservedOn.Format("Jan 2006")})
			last = x
		}
	}
	for i, name := range h.names {
		s := curveSeries{Name: name, Shade: i, Of: len(h.names), Parts: [][4]float64{}}
		for j, e := range h.editions {
			a, there := h.costs[name][e.ObservedOn]
			if !there || e.Currency != cur { // which the axis does not tell
				continue
			}
			end := high
			if j+1 < len(h.editions) {
				end = day(h.editions[j+1].ObservedOn) - 1
			}
			s.Parts = append(s.Parts, [4]float64{float64(day(e.ObservedOn)), whole(a), float64(end), whole(a)})
		}
		data.Series = append(data.Series, s)
		if text := h.rise(name); text != "" {
			c.Says = append(c.Says, text)
		}
	}
	for _, e := range h.editions {
		row := curveRow{At: pricelist.SayRead(e.ObservedOn)}
		for _, name := range h.names {
			a, there := h.costs[name][e.ObservedOn]
			row.Cells = append(row.Cells, orElse(there, e.Currency.Format(a), "–"))
		}
		c.Rows = append(c.Rows, row)
	}
	at := "a typical usage"
	if h.from != nil {
		at = "today's usage of " + h.from.Study.Title
	}
	c.Says = append(c.Says, "A month, at "+at+".")
	c.Alt = c.Title + ": " + strings.Join(c.Says, " ")
	var err error
	c.Data, err = json.Marshal(data)
	return c, err
}

// rise says how the price of a plan went from its first list to its last; "" where there is one, or they are
// in two currencies.
func (h *history) rise(name string) string {
	var on []*pricelist.Edition
	for _, e := range h.editions {
		if _, there := h.costs[name][e.ObservedOn]; there {
			on = append(on, e)
		}
	}
	if len(on) < 2 || on[0].Currency != on[len(on)-1].Currency {
		return ""
	}
	first, last := on[0], on[len(on)-1]
	cost := func(e *pricelist.Edition) money.Amount { return h.costs[name][e.ObservedOn] }
	a, b, cur := cost(first), cost(last), first.Currency
	since, until := first.ObservedOn.Format("Jan 2006"), last.ObservedOn.Format("Jan 2006")
	gone, newest := "", h.editions[len(h.editions)-1]
	if last != newest {
		gone = "; since then it does not hold this usage"
		if !slices.ContainsFunc(newest.Plans, func(p pricelist.Plan) bool { return p.Name == name }) {
			gone = "; since then it is not on the list"
		}
	}
	level := !slices.ContainsFunc(on, func(e *pricelist.Edition) bool { return e.Currency != cur || cost(e) != a })
	switch {
	case level && gone == "":
		return fmt.Sprintf("%s has stayed at %s since %s.", name, cur.Format(a), since)
	case level:
		return fmt.Sprintf("%s stayed at %s from %s to %s%s.", name, cur.Format(a), since, until, gone)
	case a == b:
		return fmt.Sprintf("%s was at %s in %s again, as in %s%s.", name, cur.Format(a), until, since, gone)
	}
	word := "rose"
	if b < a {
		word = "fell"
	}
	if gone != "" {
		gone = " in " + until + gone
	}
	return fmt.Sprintf("%s %s from %s in %s to %s%s.", name, word, cur.Format(a), since, cur.Format(b), gone)
}
