package web

import (
	"slices"
	"strings"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/store"
)

// finding is what is found on the shelf to be added to the line-up.
type finding struct {
	Text  string
	Into  string // the option that a tool is added to; "": a new option
	Name  string // of that
	Found []foundPlatform
	Asked bool
	More  bool // there are more than are shown
	Empty bool // the shelf is
}

type foundPlatform struct {
	Name, Does, Read, List string
	In                     bool // it is in the line-up already
	Plans                  []choiceView
}

// mostFound is how many platforms are shown at once.
const mostFound = 6

// find looks the shelf through for what was typed (?find=).
func (s *Server) find(r *request) (finding, error) {
	text := strings.TrimSpace(r.c.Query("find"))
	f := finding{Text: text, Asked: r.c.Request.URL.Query().Has("find"), Into: r.c.Query("into")}
	if at := slices.IndexFunc(r.study().Options, func(o study.Option) bool { return o.Key == f.Into }); at >= 0 {
		f.Name = r.study().Options[at].Name
	} else {
		f.Into = ""
	}
	rows, err := s.store.Shelf(r.c, r.caller.workspace(), store.ShelfPage{Text: text, Priced: true, Most: mostFound + 1})
	if err != nil {
		return f, err
	}
	f.Empty, f.More = len(rows) == 0 && text == "", len(rows) > mostFound
	for _, p := range rows[:min(len(rows), mostFound)] {
		one := foundPlatform{Name: p.Name, Does: doing(p.Does), Read: pricelist.SayRead(p.ObservedOn), List: p.Key + " " + pricelist.ReadText(p.ObservedOn)}
		one.In = slices.ContainsFunc(r.study().Options, func(o study.Option) bool { return o.Platform == p.Key && !o.Stack() })
		if text != "" || f.Into != "" {
			_, e, err := s.store.Edition(r.c, r.caller.workspace(), p.Newest)
			if err != nil {
				return f, err
			}
			for _, plan := range e.Plans {
				if plan.Offered != pricelist.Closed {
					one.Plans = append(one.Plans, choiceView{Label: plan.Name, Value: plan.Key})
				}
			}
		}
		f.Found = append(f.Found, one)
	}
	// What is not in the line-up yet comes first.
	slices.SortStableFunc(f.Found, func(a, b foundPlatform) int { return rankOf(a.In) - rankOf(b.In) })
	return f, nil
}

func rankOf(yes bool) int {
	if yes {
		return 1
	}
	return 0
}
