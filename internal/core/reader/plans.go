package reader

import (
	"regexp"
	"slices"
	"strings"

	"ninecoins/internal/core/document"
)

// found is a plan that the page names, with the lines that tell of it.
type found struct {
	key, name string
	line      int // that names it; -1: a table does
	rest      int // where the line goes on behind the name; 0: it does not
	anchors   []int
}

// mostPlans is how many plans are told apart.
const mostPlans = 60

const (
	everywhere = -1 // what is said of no plan by itself
	extras     = -2 // below a heading of add-ons
)

// nameLike reports whether a line may name a plan: a few words without a figure.
func (r *reading) nameLike(at int) bool {
	l := r.lines[at]
	if l.cell != nil || len(l.Text) > 40 || len(strings.Fields(l.Text)) > 5 || slices.ContainsFunc(r.figures[at], func(f *Figure) bool { return !f.word }) {
		return false
	}
	low := strings.ToLower(l.Text)
	if last := low[len(low)-1]; last == '.' || last == ':' || last == '?' || last == '!' || last == ',' {
		return false
	}
	return !r.isSaid(low)
}

// isSaid reports whether words say something of a plan, rather than name one.
func (r *reading) isSaid(low string) bool {
	if notPlan.MatchString(low) || asks.MatchString(low) || addOnHead.MatchString(low) {
		return true
	}
	return anyThing.MatchString(low) || saysOf.MatchString(low)
}

var (
	saysOf = regexp.MustCompile(`\b(?:unlimited|included|includes|free trial|per month|monthly|yearly|annually|vat|tax|month|year|set-?up|extra|additional|pay (?:by|once|per|monthly|yearly)|first|next|up to|refund|money back|early bird|moving|onboarding|support)\b|` +
		`\b(?:prices?|plans?|pricing|costs?)$`)
	begun = regexp.MustCompile(`^(.{1,40}?)(?:\s+[-–—]\s+|\s*:\s+|\s*\()`)
)

// anchors are the lines that tell a price, or that one has to ask.
func (r *reading) isAnchor(at int) bool {
	if r.lines[at].cell != nil {
		return false
	}
	if slices.ContainsFunc(r.figures[at], func(f *Figure) bool { return f.sort == amount }) {
		return true
	}
	low := strings.ToLower(r.lines[at].Text)
	return len(low) <= 60 && asks.MatchString(low) || low == "free" || r.shares(at)
}

func (r *reading) shares(at int) bool {
	return slices.ContainsFunc(r.figures[at], func(f *Figure) bool {
		return f.sort == percent && shareOf.MatchString(strings.ToLower(r.lines[at].Text[f.To:]))
	})
}

var shareOf = regexp.MustCompile(`^ of (?:your |the )?(?:monthly )?(?:ad|media|advertising|sales|revenue|turnover)`)

// findPlans finds the plans that stand in boxes and below headings.
func (r *reading) findPlans() {
	type name struct{ line, rest int }
	byHeading, byLine := map[int]name{}, map[int]name{}
	var anchors []int
	over := r.headings()
	for at := range r.lines {
		if !r.isAnchor(at) {
			continue
		}
		anchors = append(anchors, at)
		if h := over[at]; h >= 0 {
			byHeading[at] = name{h, 0}
		}
		if s, rest := r.lineOver(at); s >= 0 {
			byLine[at] = name{s, rest}
		}
	}
	heads, lines := map[int]bool{}, map[int]bool{}
	for _, n := range byHeading {
		heads[n.line] = true
	}
	for _, n := range byLine {
		lines[n.line] = true
	}
	names := byHeading
	if len(heads) == 0 || len(heads) == 1 && len(lines) > 1 {
		names = byLine
	}
	for _, at := range anchors {
		n, ok := names[at]
		if !ok {
			continue
		}
		text := r.lines[n.line].Text
		if n.rest > 0 {
			text = begun.FindStringSubmatch(text)[1]
		}
		i := slices.IndexFunc(r.found, func(f found) bool { return f.line == n.line })
		if i < 0 && len(r.found) == mostPlans {
			continue
		}
		if i < 0 {
			i = len(r.found)
			r.found = append(r.found, found{name: text, line: n.line, rest: n.rest, key: r.fresh(text)})
		}
		r.found[i].anchors = append(r.found[i].anchors, at)
	}
}

func (r *reading) fresh(name string) string {
	return document.KeyFor(name, func(key string) bool {
		return slices.ContainsFunc(r.found, func(f found) bool { return f.key == key })
	})
}

// headings are, for each line, the nearest heading above it that may name a plan; -1: none.
func (r *reading) headings() []int {
	over := make([]int, len(r.lines))
	now := -1
	for at, l := range r.lines {
		over[at] = now
		if l.Heading > 0 && l.cell == nil {
			over[at] = -1
			if now = -1; r.nameLike(at) {
				now = at
			}
		}
	}
	return over
}

// lineOver is the line of a few words above a line, in the same box, that may name a
// plan; rest is where the line itself goes on behind the name.
func (r *reading) lineOver(at int) (line, rest int) {
	if m := begun.FindStringSubmatchIndex(r.lines[at].Text); m != nil && r.first(at) {
		low := strings.ToLower(r.lines[at].Text[:m[3]])
		if !r.isSaid(low) && !slices.ContainsFunc(r.figures[at], func(f *Figure) bool { return f.From < m[1] && !f.word }) && len(strings.Fields(low)) <= 4 {
			return at, m[1]
		}
	}
	for s := at - 1; s >= 0 && s >= at-8; s-- {
		box := r.common(s, at)
		if box == 0 || !r.nameLike(s) {
			continue
		}
		if r.lines[s].box == r.lines[at].box && !r.first(s) {
			continue
		}
		return s, 0
	}
	return -1, 0
}

// first reports whether a line is the first of its box.
func (r *reading) first(at int) bool { return at == 0 || r.lines[at-1].box != r.lines[at].box }

// common is the smallest box around two lines.
func (r *reading) common(a, b int) int {
	box := r.lines[a].box
	for box > 0 && !r.inside(r.lines[b].box, box) {
		box = r.boxes[box]
	}
	return max(box, 0)
}

// assign tells of each line which plan it speaks of.
func (r *reading) assign() {
	r.planOf = make([]int, len(r.lines))
	for i := range r.planOf {
		r.planOf[i] = everywhere
	}
	for i := range r.found {
		f := &r.found[i]
		if f.line < 0 {
			continue
		}
		if box := r.around(i); box > 0 {
			for at := range r.lines {
				if r.inside(r.lines[at].box, box) {
					r.planOf[at] = i
				}
			}
			continue
		}
		within := r.common(f.line, f.anchors[0])
		for at := f.line; at < len(r.lines); at++ {
			if at > f.line && (r.names(at) || !r.inside(r.lines[at].box, within) || r.lines[at].Heading > 0 && r.lines[at].Heading <= max(1, r.lines[f.line].Heading)) {
				break
			}
			r.planOf[at] = i
		}
	}
	for at, under := range r.belowExtras() {
		if under {
			r.planOf[at] = extras
		}
	}
}

// around is the widest box with what names a plan and no other plan; 0 where only the
// page itself holds both.
func (r *reading) around(i int) int {
	f := &r.found[i]
	box := r.common(f.line, f.anchors[0])
	for box > 0 {
		outer := r.boxes[box]
		if outer <= 0 || slices.ContainsFunc(r.found, func(o found) bool {
			return o.line >= 0 && o.line != f.line && r.inside(r.lines[o.line].box, outer)
		}) {
			break
		}
		box = outer
	}
	if slices.ContainsFunc(r.found, func(o found) bool { return o.line >= 0 && o.line != f.line && r.inside(r.lines[o.line].box, box) }) {
		return 0
	}
	return box
}

// names reports whether a line names a plan.
func (r *reading) names(at int) bool {
	return slices.ContainsFunc(r.found, func(f found) bool { return f.line == at })
}

// belowExtras tells of each line whether it stands below a heading of add-ons.
func (r *reading) belowExtras() []bool {
	under := make([]bool, len(r.lines))
	byHead, byBox := false, false // the last heading is one of add-ons; the first line of the box is
	for at, l := range r.lines {
		low := strings.ToLower(l.Text)
		switch {
		case l.cell != nil:
		case l.Heading > 0:
			byHead, byBox = addOnHead.MatchString(low), false
		case r.names(at):
			byHead, byBox = false, false
		case r.first(at): // what follows it in the box stands below it
			under[at], byBox = byHead, addOnHead.MatchString(low)
			continue
		}
		under[at] = byHead || byBox && l.cell == nil
	}
	return under
}
