package web

import (
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/reader"
	"ninecoins/internal/core/study"
)

// claimRank orders what was read of a plan: what it costs by term, what is included, what more
// costs, what it holds.
func claimRank(path document.Path) int {
	steps := path.Steps()
	if len(steps) < 4 || steps[0] != "plans" {
		return 100
	}
	switch {
	case steps[2] == "limits":
		return 50
	case steps[2] == "terms":
		return 15
	case steps[3] != "base":
		return 20 + map[string]int{"included": 0, "price": 1, "size": 2}[steps[len(steps)-1]]
	case steps[len(steps)-1] != "price":
		return 11
	}
	return 10
}

// around is what stands around a stretch of a line.
func around(text string, from, to int) string {
	const most = 28
	before, after := []rune(text[:from]), []rune(text[to:])
	if len(before) > most {
		before = append([]rune("…"), before[len(before)-most:]...)
	}
	if len(after) > most {
		after = append(slices.Clone(after[:most]), '…')
	}
	return string(before) + text[from:to] + string(after)
}

// stretch is a part of a line that something was read from.
type stretch struct {
	from, to int
	mark, id string
}

// cut cuts a line into its stretches and what lies between them. A figure that says
// several things is one stretch.
func cut(text string, all []stretch) (pieces []readPiece) {
	slices.SortFunc(all, func(a, b stretch) int { return a.from - b.from })
	pos := 0
	for i := 0; i < len(all); {
		one := readPiece{Mark: all[i].mark, First: all[i].id}
		from, to := all[i].from, all[i].to
		var ids []string
		for ; i < len(all) && all[i].from < to; i++ {
			ids = append(ids, all[i].id)
			to = max(to, all[i].to)
			if all[i].mark == string(reader.Guessed) {
				one.Mark = all[i].mark
			}
		}
		if from < pos {
			continue
		}
		if from > pos {
			pieces = append(pieces, readPiece{Text: text[pos:from]})
		}
		one.Text, one.Claims = text[from:to], strings.Join(ids, " ")
		pieces = append(pieces, one)
		pos = to
	}
	if pos < len(text) {
		pieces = append(pieces, readPiece{Text: text[pos:]})
	}
	return pieces
}

// sayClaim says what a field of a draft is: "a month", "tasks included".
func sayClaim(e *pricelist.Edition, path document.Path) string {
	steps := path.Steps()
	last := steps[len(steps)-1]
	termed := func(plan, key string) string {
		if p, ok := e.Plan(plan); ok {
			if key == "price" && len(p.Terms) > 0 {
				key = p.Terms[0].Key
			}
			if t, ok := p.Term(key); ok {
				return map[bool]string{true: "a month", false: study.SayTerm(t)}[t.Months == 1]
			}
		}
		return "a month"
	}
	units := func(meter string) string {
		for i := range e.Meters {
			if e.Meters[i].Key == meter {
				return sayLimitUnits(e, meter)
			}
		}
		return strings.ReplaceAll(meter, "_", " ")
	}
	switch {
	case steps[0] == "plans" && len(steps) > 3 && steps[2] == "limits":
		meter, of, multiple := strings.Cut(steps[3], "/")
		if multiple {
			return units(meter) + ", times " + units(of)
		}
		return units(meter) + " at most"
	case steps[0] == "plans" && len(steps) > 3 && steps[2] == "terms":
		return "less, " + termed(steps[1], steps[3])
	case steps[0] == "plans" && len(steps) > 4 && steps[2] == "charges":
		return sayChargeClaim(e, steps, last, termed, units)
	case steps[0] == "add_ons":
		if a, ok := e.AddOn(steps[1]); ok {
			return "add-on " + a.Name + ", a month"
		}
	case steps[0] == "offers":
		for i := range e.Offers {
			if e.Offers[i].Key == steps[1] {
				name := orElse(e.Offers[i].Name != "", "“"+e.Offers[i].Name+"”", e.Offers[i].Called())
				return "offer " + name + ", " + map[string]string{"value": "taken off", "price": "a month", "months": "months", "until": "until"}[last]
			}
		}
	}
	spot, _ := pricelist.Drafts().Spot(pricelist.Draft{Edition: *e}, path)
	return orElse(spot.Label != "", spot.Label, string(path))
}

func sayChargeClaim(e *pricelist.Edition, steps []string, last string, termed func(string, string) string, units func(string) string) string {
	p, _ := e.Plan(steps[1])
	var c pricelist.Charge
	for i := range p.Charges {
		if p.Charges[i].Key == steps[3] {
			c = p.Charges[i]
		}
	}
	of := units(c.Meter)
	switch {
	case len(steps) > 6 && last == "to":
		return of + " up to"
	case len(steps) > 6:
		text := of
		if b, ok := c.Band(steps[5]); ok {
			text = b.Called(of)
		}
		if t := termed(steps[1], last); t != "a month" {
			text += ", " + t
		}
		return text
	case last == "included":
		return of + " included"
	case last == "at_least":
		return of + " at least"
	case last == "size":
		return "for each started, of " + of
	case last == "each":
		return "for so many " + of
	case last == "rate":
		return "share of " + of
	case last == "floor":
		return "at least"
	case last == "cap":
		return "at most"
	case c.Kind == pricelist.Once:
		return strings.ToLower(c.Label) + ", once"
	case steps[4] == "above":
		return of + " beyond, each"
	case c.Kind == pricelist.Unit && c.Key != "base", c.Kind == pricelist.Pack:
		return "beyond, " + of
	case c.Kind == pricelist.Unit:
		return "each of " + of + ", " + termed(steps[1], last)
	}
	return termed(steps[1], last)
}
