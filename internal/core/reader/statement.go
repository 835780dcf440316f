package reader

import (
	"regexp"
	"strings"
)

// statement is a stretch of the page that says something: of one plan, of an add-on, or
// of all. A sentence is its words in small letters, with a capital for each figure: "M /
// month, billed yearly (or M month to month)".
type statement struct {
	plan     int
	sentence string
	figures  []*Figure // by the capitals, in order
	used     []bool
	from     int // of the sentence: what stands before is the head of its row
	line     int
}

// sentenceOf writes a stretch of a line as a sentence.
func (r *reading) sentenceOf(at, from, to int) (string, []*Figure) {
	text := r.lines[at].Text
	var b strings.Builder
	var used []*Figure
	pos := from
	for _, f := range r.figures[at] {
		if f.From < from || f.To > to || f.From < pos {
			continue
		}
		b.WriteString(plainWords(text[pos:f.From]))
		b.WriteByte(byte(f.sort))
		used = append(used, f)
		pos = f.To
	}
	b.WriteString(plainWords(text[pos:to]))
	return b.String(), used
}

var plainly = strings.NewReplacer("–", "-", "—", "-", "−", "-", "\u00a0", " ", "\u2009", " ", "\u202f", " ", "’", "'")

func plainWords(text string) string { return plainly.Replace(strings.ToLower(text)) }

var apart = regexp.MustCompile(`\s*[·•|;]\s*|[.!?]\s+|\.$`)

// stretches are the parts of a line that each say something by themselves.
func stretches(text string, from int) (all [][2]int) {
	for _, cut := range apart.FindAllStringIndex(text, -1) {
		if cut[0] < from {
			continue
		}
		if before := strings.ToLower(text[from:cut[0]]); strings.HasSuffix(before, "excl") || strings.HasSuffix(before, "incl") || strings.HasSuffix(before, "min") ||
			strings.HasSuffix(before, "max") || strings.HasSuffix(before, "p.a") {
			continue
		}
		if cut[0] > from {
			all = append(all, [2]int{from, cut[0]})
		}
		from = cut[1]
	}
	if from < len(text) {
		all = append(all, [2]int{from, len(text)})
	}
	return all
}

// say makes the statements of a line, for a plan, with the head of its row before it.
func (r *reading) say(plan, at, from int, head string, headFigures []*Figure) {
	for _, part := range stretches(r.lines[at].Text, from) {
		words, figures := r.sentenceOf(at, part[0], part[1])
		s := &statement{plan: plan, line: at, figures: append(append([]*Figure{}, headFigures...), figures...)}
		if head != "" {
			s.sentence = head + ": "
		}
		s.from = len(s.sentence)
		s.sentence += words
		s.used = make([]bool, len(s.figures))
		r.statements = append(r.statements, s)
	}
}

// match is what a rule found in a statement.
type match struct {
	s    *statement
	form *regexp.Regexp
	at   []int
}

// text is what a named part of the rule matched.
func (m match) text(name string) string {
	i := m.form.SubexpIndex(name)
	if i < 0 || m.at[2*i] < 0 {
		return ""
	}
	return m.s.sentence[m.at[2*i]:m.at[2*i+1]]
}

// figure is the figure that a named part of the rule matched; nil where it did not.
func (m match) figure(name string) *Figure {
	i := m.form.SubexpIndex(name)
	if i < 0 || m.at[2*i] < 0 {
		return nil
	}
	return m.s.figures[m.s.count(m.at[2*i])]
}

// count is how many figures stand before a place of the sentence.
func (s *statement) count(at int) (n int) {
	for i := range at {
		if c := s.sentence[i]; c >= 'A' && c <= 'Z' {
			n++
		}
	}
	return n
}

// before and after are the words of the sentence around what the rule matched.
func (m match) before() string { return m.s.sentence[:m.at[0]] }
func (m match) after() string  { return m.s.sentence[m.at[1]:] }

// each calls do for each place of a statement that a form matches and of which no
// figure is used yet. do reports whether it took it; its figures are used then.
func (s *statement) each(form *regexp.Regexp, do func(match) bool) {
	for _, at := range form.FindAllStringSubmatchIndex(s.sentence, -1) {
		from, to := s.count(at[0]), s.count(at[1])
		free := true
		for i := from; i < to; i++ {
			free = free && !s.used[i]
		}
		if !free || !do(match{s, form, at}) {
			continue
		}
		for i := from; i < to; i++ {
			s.used[i] = true
		}
	}
}
