package reader

import (
	"regexp"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
)

// Mark tells how sure it is what a figure means.
type Mark string

// The marks.
const (
	Read    Mark = "read"
	Guessed Mark = "guessed"
	Unknown Mark = "not understood"
)

// Span is a stretch of a line, in bytes of its text.
type Span struct{ Line, From, To int }

// Claim is a field of the draft that was read, and from which words.
type Claim struct {
	Path  document.Path // in the draft
	Value string        // what it holds, in its canonical text
	Mark  Mark
	Why   string // of a guess: what was supposed
	Spans []Span
}

// Left is a number of the page that no field of the draft holds.
type Left struct {
	Span
	Text string
	Why  string // what it follows from, where it does: "the saving of a year agrees"
}

// Reading is what was read of a page.
type Reading struct {
	Edition pricelist.Edition
	Lines   []Line
	Claims  []Claim
	Left    []Left
	Foreign bool // the page is in a language that these rules do not know
}

// Count tells how many claims have a mark.
func (r *Reading) Count(mark Mark) (n int) {
	for _, c := range r.Claims {
		if c.Mark == mark {
			n++
		}
	}
	return n
}

// reading is a page while it is read.
type reading struct {
	*layout
	figures    [][]*Figure // by line
	planOf     []int       // by line
	found      []found
	statements []*statement
	facts      [][]fact // by plan
	pageFacts  []fact   // of all plans
	offered    []offer
	addOns     []addOn
	tax        *taxSaid
	trial      *Figure
	refund     *Figure
	card       *bool
	allUnits   bool
	now        *statement // that is being read
	unnamed    bool       // the page names no plan
	claims     []Claim
}

type taxSaid struct {
	included bool
	figure   *Figure
}

// Page reads a price page, as of a day. platform is whose it is: its key and name may
// be empty.
func Page(page Node, platform pricelist.Platform, on time.Time, source string) *Reading {
	r := &reading{layout: laid(page)}
	m := mannerOf(r.lines)
	for at, l := range r.lines {
		r.figures = append(r.figures, r.withoutSign(l, figuresOf(l, at, m)))
	}
	foreign := isForeign(r.lines)
	if !foreign {
		r.findPlans()
		r.assign()
		r.readAll()
	}
	e := r.draft(platform, on, source)
	out := &Reading{Edition: e, Lines: r.lines, Claims: r.claims, Foreign: foreign}
	for _, line := range r.figures {
		for _, f := range line {
			if !f.claimed && !f.word {
				out.Left = append(out.Left, Left{Span: f.span(), Text: f.Text})
			}
		}
	}
	return out
}

func (f *Figure) span() Span { return Span{f.Line, f.From, f.To} }

var priceTail = regexp.MustCompile(`^\*?\s?(?:/ ?|per |a )(?:mo\b|month|yr\b|year|user|seat)`)

// withoutSign takes bare numbers for amounts where what follows says so: "49/mo".
func (r *reading) withoutSign(l Line, all []*Figure) []*Figure {
	for _, f := range all {
		if f.sort == number && !f.word && priceTail.MatchString(strings.ToLower(l.Text[f.To:])) {
			f.sort = amount
		}
		if f.word && strings.HasPrefix(strings.ToLower(l.Text[f.To:]), "-time") {
			f.sort = 0
		}
	}
	return slices.DeleteFunc(all, func(f *Figure) bool { return f.sort == 0 })
}

// tells finds the words by which a sentence without a figure says something.
var tells = regexp.MustCompile(`unlimited|vat|tax|card|btw|gst|rate of|price of|for all`)

// readAll makes statements of lines and tables and lets the rules read them.
func (r *reading) readAll() {
	for _, g := range r.grids {
		if len(g.rows) > 0 {
			r.readTable(g)
		}
	}
	if len(r.found) == 0 {
		r.unnamed = true
		r.found = []found{{name: "The plan", key: "the-plan", line: -1}}
	}
	for at, l := range r.lines {
		if l.cell != nil {
			continue
		}
		plan, from := r.planOf[at], 0
		if plan >= 0 && r.found[plan].line == at {
			if from = r.found[plan].rest; from == 0 {
				continue
			}
		}
		if plan == extras {
			r.readExtra(at)
			continue
		}
		r.say(plan, at, from, "", nil)
	}
	for _, s := range r.statements {
		r.now = s
		for i, rule := range rules {
			if s.may(i) && (len(s.figures) > 0 || tells.MatchString(s.sentence)) {
				s.each(rule.form, func(m match) bool { return rule.do(r, m) })
			}
		}
		r.prices(s)
		r.ask(s)
	}
}

// addOn is something bought on top of plans, as the page tells it.
type addOn struct {
	name     string
	value    money.Amount
	figure   *Figure
	on, held []int // plans that it is sold on, that hold it
	guess    string
}

var heldIn = regexp.MustCompile(`included (?:in|on|with) ([^;.]+)`)

// readExtra reads a line below a heading of add-ons: "Writing help: €29 per month, on Lintel".
func (r *reading) readExtra(at int) {
	text := r.lines[at].Text
	m := begun.FindStringSubmatchIndex(text)
	i := slices.IndexFunc(r.figures[at], func(f *Figure) bool { return f.sort == amount })
	if m == nil || i < 0 || r.figures[at][i].From < m[1] {
		r.say(everywhere, at, 0, "", nil)
		return
	}
	f := r.figures[at][i]
	r.extra(text[:m[3]], f, strings.ToLower(text[f.To:]))
}

// extraRows reads a table of add-ons.
func (r *reading) extraRows(g *grid) {
	for _, row := range g.rows[1:] {
		if len(row) < 2 || len(row[0].lines) == 0 {
			continue
		}
		var f *Figure
		said := ""
		for _, c := range row[1:] {
			for _, at := range c.lines {
				if i := slices.IndexFunc(r.figures[at], func(f *Figure) bool { return f.sort == amount }); i >= 0 && f == nil {
					f = r.figures[at][i]
					said += strings.ToLower(r.lines[at].Text[f.To:]) + ", "
					continue
				}
				said += strings.ToLower(r.lines[at].Text) + ", "
			}
		}
		if f != nil {
			r.extra(r.lines[row[0].lines[0]].Text, f, said)
		}
	}
}

// extra notes an add-on, with what the words behind its price say of plans.
func (r *reading) extra(name string, f *Figure, words string) {
	a := addOn{name: strings.TrimSpace(name), figure: f}
	t, per := termOf(words, "month")
	a.value, a.guess = perMonth(f.value, t, per)
	held := ""
	if m := heldIn.FindStringSubmatch(words); m != nil {
		held = m[1]
		words = strings.Replace(words, m[0], "", 1)
	}
	for i, p := range r.found {
		name := strings.ToLower(p.name)
		switch {
		case r.namesPlan(held, name):
			a.held = append(a.held, i)
		case r.namesPlan(words, name):
			a.on = append(a.on, i)
		}
	}
	if len(a.on) == 0 {
		for i := range r.found {
			if !slices.Contains(a.held, i) {
				a.on = append(a.on, i)
			}
		}
		a.guess = orElse(a.guess, "on which plans, the page does not say")
	}
	r.addOns = append(r.addOns, a)
}

// namesPlan reports whether words name a plan and no longer name with it.
func (r *reading) namesPlan(words, name string) bool {
	for _, p := range r.found {
		if other := strings.ToLower(p.name); other != name && strings.Contains(other, name) {
			words = strings.ReplaceAll(words, other, "")
		}
	}
	at := strings.Index(words, name)
	return at >= 0 && name != "" && (at == 0 || !isLetter(rune(words[at-1]))) && (at+len(name) == len(words) || !isLetter(rune(words[at+len(name)])))
}
