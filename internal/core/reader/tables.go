package reader

import (
	"regexp"
	"slices"
	"strings"
)

// readTable turns the cells of a table into statements: of plans that stand in columns
// or in rows, of bands, or of add-ons.
func (r *reading) readTable(g *grid) {
	wide := 0
	for _, row := range g.rows {
		wide = max(wide, len(row))
	}
	if len(g.rows) < 2 || wide < 2 {
		r.sayCells(g)
		return
	}
	head := g.rows[0]
	corner := r.textOf(head, 0)
	heads, first := 0, 0
	for c := 1; c < len(head); c++ {
		if r.isField(r.textOf(head, c)) {
			heads++
		}
	}
	for _, row := range g.rows[1:] {
		if r.isField(r.textOf(row, 0)) {
			first++
		}
	}
	if 2*first > len(g.rows)-1 { // the rows say what stands in them: "Post" is a plan, not posts
		heads = 0
	}
	thing, counts := thingIn(corner)
	switch {
	case addOnHead.MatchString(corner):
		r.extraRows(g)
	case counts && (r.banded(g) || heads == 0 && !rowHead.MatchString(corner)) && r.banded(g):
		r.bandRows(g, thing, heads > 0)
	case rowHead.MatchString(corner) && heads > 0, heads > 0 && heads == len(head)-1:
		r.planRows(g)
	case heads == 0:
		from := 1
		if corner != "" && !rowHead.MatchString(corner) && r.valued(g) {
			from = 0
		}
		r.planColumns(g, from)
	default:
		r.sayCells(g)
	}
}

var (
	rowHead = regexp.MustCompile(`^(?:plans?|packages?|tiers?|editions?|name|)$`)
	termish = regexp.MustCompile(`month|year|annual|price|quarter|lifetime|once`)
)

// isField reports whether the head of a column says what stands in it, rather than
// naming a plan.
func (r *reading) isField(low string) bool {
	return termish.MatchString(low) || anyThing.MatchString(low)
}

// textOf is the text of the first line of a cell, in small letters.
func (r *reading) textOf(row []*cell, column int) string {
	if column >= len(row) || len(row[column].lines) == 0 {
		return ""
	}
	return plainWords(r.lines[row[column].lines[0]].Text)
}

// banded reports whether the first column holds numbers below its head.
func (r *reading) banded(g *grid) bool {
	with := 0
	for _, row := range g.rows[1:] {
		if len(row) > 0 && len(row[0].lines) > 0 && len(r.figures[row[0].lines[0]]) > 0 {
			with++
		}
	}
	return with > 0 && 2*with >= len(g.rows)-1
}

// sayCells takes each line of a table by itself, for the plan around it.
func (r *reading) sayCells(g *grid) {
	for _, row := range g.rows {
		for _, c := range row {
			for _, at := range c.lines {
				r.say(r.planOf[at], at, 0, "", nil)
			}
		}
	}
}

// named is the plan that a cell names; it is made where the page has none such.
func (r *reading) named(c *cell) (plan int, rest []int) {
	if len(c.lines) == 0 {
		return everywhere, nil
	}
	name := strings.TrimSpace(r.lines[c.lines[0]].Text)
	if len(name) > 60 || len(r.figures[c.lines[0]]) > 0 && slices.ContainsFunc(r.figures[c.lines[0]], func(f *Figure) bool { return f.sort == amount }) {
		if m := begun.FindStringSubmatch(name); m != nil && len(m[1]) > 1 {
			name = m[1]
		} else if f := r.figures[c.lines[0]]; len(f) > 0 && f[0].From > 1 {
			name = strings.TrimSpace(name[:f[0].From])
		}
	}
	name = name[:min(len(name), 60)]
	if i := slices.IndexFunc(r.found, func(f found) bool { return strings.EqualFold(f.name, name) }); i >= 0 {
		return i, c.lines[1:]
	}
	if len(r.found) == mostPlans {
		return everywhere, c.lines[1:]
	}
	r.found = append(r.found, found{name: name, line: -1, key: r.fresh(name)})
	return len(r.found) - 1, c.lines[1:]
}

// valued reports whether prices stand in the first column.
func (r *reading) valued(g *grid) bool {
	for _, row := range g.rows[1:] {
		if len(row) > 0 && len(row[0].lines) > 0 && slices.ContainsFunc(r.figures[row[0].lines[0]], func(f *Figure) bool { return f.sort == amount }) {
			return true
		}
	}
	return false
}

// planColumns reads a table with a plan in each column from one on; what stands before
// are the heads of the rows.
func (r *reading) planColumns(g *grid, from int) {
	plans := map[int]int{}
	for c := from; c < len(g.rows[0]); c++ {
		if r.textOf(g.rows[0], c) == "" {
			continue
		}
		plan, rest := r.named(g.rows[0][c])
		plans[c] = plan
		if at := g.rows[0][c].lines[0]; len(r.figures[at]) > 0 {
			r.say(plan, at, 0, "", nil)
		}
		for _, at := range rest {
			r.say(plan, at, 0, "", nil)
		}
	}
	for _, row := range g.rows[1:] {
		head, figures := "", []*Figure(nil)
		if from > 0 {
			head, figures = r.headOf(row)
		}
		for c := from; c < len(row); c++ {
			for _, at := range row[c].lines {
				if plan, ok := plans[c]; ok {
					r.say(plan, at, 0, head, figures)
				}
			}
		}
	}
}

// headOf is the head of a row as a sentence.
func (r *reading) headOf(row []*cell) (string, []*Figure) {
	if len(row) == 0 || len(row[0].lines) == 0 {
		return "", nil
	}
	at := row[0].lines[0]
	return r.sentenceOf(at, 0, len(r.lines[at].Text))
}

// planRows reads a table with a plan in each row.
func (r *reading) planRows(g *grid) {
	for _, row := range g.rows[1:] {
		if r.textOf(row, 0) == "" {
			continue
		}
		plan, rest := r.named(row[0])
		for _, at := range rest {
			r.say(plan, at, 0, "", nil)
		}
		for c := 1; c < len(row) && c < len(g.rows[0]); c++ {
			head, figures := "", []*Figure(nil)
			if lines := g.rows[0][c].lines; len(lines) > 0 {
				head, figures = r.sentenceOf(lines[0], 0, len(r.lines[lines[0]].Text))
			}
			for _, at := range row[c].lines {
				r.say(plan, at, 0, head, figures)
			}
		}
	}
}

// bandRows reads a table of bands: in the other columns stand plans, or terms of the
// plan around it.
func (r *reading) bandRows(g *grid, of thing, terms bool) {
	plans := map[int]int{}
	heads := map[int]string{}
	for c := 1; c < len(g.rows[0]); c++ {
		if terms {
			plans[c], heads[c] = r.planAround(g), r.textOf(g.rows[0], c)
			continue
		}
		if r.textOf(g.rows[0], c) != "" {
			plans[c], _ = r.named(g.rows[0][c])
		}
	}
	for _, row := range g.rows[1:] {
		if len(row) == 0 || len(row[0].lines) == 0 {
			continue
		}
		sentence, figures := r.headOf(row)
		var to *Figure
		above := strings.Contains(sentence, "more") || strings.Contains(sentence, "over ") || strings.Contains(sentence, "+") || strings.Contains(sentence, ">")
		if len(figures) > 0 && !above {
			to = figures[len(figures)-1]
		}
		for _, f := range figures[:max(0, len(figures)-1)] {
			f.claimed = f.claimed || to != nil // where the band begins follows from the one below
		}
		for c := 1; c < len(row); c++ {
			plan, ok := plans[c]
			if !ok || plan == everywhere && len(r.found) != 1 {
				continue
			}
			for _, at := range row[c].lines {
				for _, f := range r.figures[at] {
					if to == nil || f.sort == percent || f.word {
						continue
					}
					t, per := termOf(heads[c], "month")
					value, why := perMonth(f.value, t, per)
					r.add(plan, fact{what: band, thing: of, term: t, value: value, n: quantityOf(to), price: f, count: to, guess: orElse(why, f.unsure)})
				}
			}
		}
	}
}

// planAround is the plan of the section that a table stands in.
func (r *reading) planAround(g *grid) int {
	for _, row := range g.rows {
		for _, c := range row {
			for _, at := range c.lines {
				if r.planOf[at] >= 0 {
					return r.planOf[at]
				}
			}
		}
	}
	for at := g.after - 1; at >= 0; at-- {
		if r.lines[at].Heading == 0 {
			continue
		}
		if !r.nameLike(at) {
			break
		}
		if i := slices.IndexFunc(r.found, func(f found) bool { return f.line == at }); i >= 0 {
			return i
		}
		r.found = append(r.found, found{name: r.lines[at].Text, line: at, key: r.fresh(r.lines[at].Text), anchors: []int{at}})
		return len(r.found) - 1
	}
	if len(r.found) == 1 {
		return 0
	}
	return everywhere
}
