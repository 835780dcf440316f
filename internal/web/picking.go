package web

import (
	"net/url"
)

// picker lets a narrow screen show one option at a time of a table that has a
// column for each (?option=); a wide one shows all.
type picker struct {
	Choices []pick
	chosen  int // which column is shown; -1: all
}

type pick struct {
	Label, Link string
	Face        int // 0: all of them
	Chosen      bool
}

// Other reports whether the column of an option is not the one that is shown.
func (p picker) Other(i int) bool { return p.chosen >= 0 && p.chosen != i }

// picking makes the picker of a page of the study.
func (r *request) picking() picker {
	var p picker
	asked := r.c.Query("option")
	if asked == "all" {
		p.chosen = -1
	}
	for i := range r.outcome.Results {
		if r.outcome.Results[i].Option.Key == asked {
			p.chosen = i
		}
	}
	link := func(option string) string {
		q := url.Values{}
		for name, values := range r.c.Request.URL.Query() {
			q[name] = values
		}
		q.Set("option", option)
		return r.c.Request.URL.Path + "?" + q.Encode()
	}
	for i := range r.outcome.Results {
		o := &r.outcome.Results[i].Option
		p.Choices = append(p.Choices, pick{Label: o.Name, Link: link(o.Key), Face: o.Face, Chosen: i == p.chosen})
	}
	if len(p.Choices) > 1 {
		p.Choices = append(p.Choices, pick{Label: "all", Link: link("all"), Chosen: p.chosen < 0})
	}
	return p
}
