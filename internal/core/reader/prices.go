package reader

import (
	"regexp"
	"strings"

	"ninecoins/internal/core/money"
)

var (
	perThing = form(`^ ?(?:/|per|a|an|for each|for every|each|p/) ?<U>\b`)
	fromHere = regexp.MustCompile(`\b(?:from|starting at|starts at|as low as) ?$`)
	orElseAt = regexp.MustCompile(`\(?\bor ?$`)
	perWhat  = regexp.MustCompile(`^ ?(?:/|per|a|an|each) ?([a-z]+)`)
)

// prices reads the amounts of a statement that no rule took: each is the price of the
// plan for the term that the words around it tell.
func (r *reading) prices(s *statement) {
	if s.plan < 0 && (s.plan == extras || len(r.found) != 1) {
		return
	}
	place := -1
	for i := range s.sentence {
		c := s.sentence[i]
		if c < 'A' || c > 'Z' {
			continue
		}
		place++
		f := s.figures[place]
		if s.used[place] || f.claimed || f.sort != amount && !(f.sort == number && s.priced(i)) || f.sort == number && f.word {
			continue
		}
		if r.price(s, f, i) {
			s.used[place] = true
		}
	}
}

// priced reports whether a bare number of a statement stands in a row of prices.
func (s *statement) priced(at int) bool {
	return at >= s.from && s.from > 0 && strings.Contains(s.sentence[:s.from], "price") && strings.Trim(s.sentence[s.from:], " N*") == ""
}

func (r *reading) price(s *statement, f *Figure, at int) bool {
	after := s.sentence[at+1:]
	if cut := strings.IndexByte(after, 'M'); cut >= 0 {
		after = after[:cut]
	}
	before := s.sentence[:at]
	if cut := strings.LastIndexByte(before, 'M'); cut >= 0 {
		before = before[cut+1:]
	}
	head := s.sentence[:s.from]
	words := after
	bare := strings.Trim(after, " )*.,(or") == ""
	if bare {
		words = before + " " + head
	} else if !byMonth.MatchString(words) && !byYear.MatchString(words) && !byQuarter.MatchString(words) && !forLife.MatchString(words) {
		words += " " + head + " " + before
	} else if byMonth.MatchString(words) && !byYear.MatchString(words) && byYear.MatchString(head) {
		words += " " + head
	}
	if f.struck {
		return r.add(s.plan, fact{what: price, term: monthly, value: f.value, price: f, guess: ""})
	}
	t, per := termOf(words, "month")
	guess := f.unsure
	if orElseAt.MatchString(before) && bare {
		t, per = monthly, "month"
	}
	if t == yearly && per == "year" && regexp.MustCompile(`billed|paid|charged`).MatchString(words) && !regexp.MustCompile(`per year|a year|/ ?y|yearly:|p\.a`).MatchString(words) {
		guess = "taken for the price of a year, paid at once"
	}
	value, why := perMonth(f.value, t, per)
	guess = orElse(guess, why)
	fct := fact{what: price, term: t, value: value, price: f, guess: guess}
	if m := perThing.FindStringSubmatch(after); m != nil {
		of, ok := thingOf(m[1])
		if !ok {
			return false
		}
		fct.what, fct.thing, fct.guess = unit, of, orElse(guess, of.also)
	} else if w := perWhat.FindStringSubmatch(after); w != nil && !termish.MatchString(w[1]) && w[1] != "mo" && w[1] != "yr" && w[1] != "quarter" {
		return false // for something that these rules don't know
	}
	if fromHere.MatchString(before) {
		fct.from, fct.guess = true, orElse(fct.guess, "the page says “from”")
	}
	return r.add(s.plan, fct)
}

// ask notes that the price of the plan is on request.
func (r *reading) ask(s *statement) {
	if s.plan >= 0 && asks.MatchString(s.sentence) && !strings.Contains(s.sentence[:s.from], "contacts") {
		r.add(s.plan, fact{what: asked})
	}
	if s.plan >= 0 {
		if m := includes.FindStringSubmatch(s.sentence[s.from:]); m != nil {
			r.add(s.plan, fact{what: below, name: strings.TrimSpace(m[1]), guess: "what it has is named only in part"})
		}
		if low := strings.TrimSpace(s.sentence[s.from:]); low == "free" || low == "free forever" {
			r.add(s.plan, fact{what: price, term: monthly, value: money.Amount(0)})
		}
	}
}
