package reader

import (
	"regexp"
	"strings"

	"ninecoins/internal/core/money"
)

func form(text string) *regexp.Regexp {
	return regexp.MustCompile(strings.NewReplacer("<U>", `(?P<u>`+counted+`)`, "<any>", counted, "<vat>", `(?:vat|(?:sales |consumption )?tax(?:es)?|btw|gst)`).Replace(text))
}

// rule reads what one form of words says.
type rule struct {
	form *regexp.Regexp
	do   func(*reading, match) bool
}

// needs are the figures without which a rule finds nothing: it is not tried then.
var needs = func() (all []string) {
	for _, r := range rules {
		letters := ""
		for _, one := range []struct{ part, letter string }{{"(?P<m>M)", "M"}, {"(?P<n>N)", "N"}, {"(?P<p>P)", "P"}, {"(?P<o>O)", "O"}, {"(?P<e>N)", "N"}} {
			text := r.form.String()
			if at := strings.Index(text, one.part); at >= 0 && !strings.HasPrefix(text[at+len(one.part):], "?") {
				letters += one.letter
			}
		}
		all = append(all, letters)
	}
	return all
}()

// may reports whether a rule can find anything in a statement.
func (s *statement) may(rule int) bool {
	for i := range len(needs[rule]) {
		if strings.IndexByte(s.sentence, needs[rule][i]) < 0 {
			return false
		}
	}
	return true
}

// rules are tried in order on each statement; a figure is read by the first that takes it.
var rules = []rule{
	{form(`(?:plus|\+|excl\w*\.?|without|net of|not includ\w+|exclud\w+|do not include|don't include|before)\s*(?P<p>P)?\s*<vat>`), taxes(false)},
	{form(`<vat>,? (?:is |are )?(?:not included|excluded|extra|comes? on top|not incl\w*)`), taxes(false)},
	{form(`(?:incl\w*\.?|with|including|includes?)\s*(?P<p>P)?\s*<vat>`), taxes(true)},
	{form(`<vat> (?:is |are )?included(?: \(?(?P<p>P)?\)?)?`), taxes(true)},
	{form(`\b(?:inclusive of|including|incl\.?|with) <vat> (?:at|of) (?P<p>P)`), taxes(true)},
	{form(`\b(?:exclusive of|excluding|excl\.?|without|plus) <vat> (?:at|of) (?P<p>P)`), taxes(false)},

	{form(`(?P<n>N)[- ]?days?\b[^NMP]{0,30}?\b(?:money|refund|guarantee)`), refunds},
	{form(`(?:money back|refund\w*|return it)[^NMP]{0,25}(?P<n>N) days?`), refunds},
	{form(`(?P<n>N)[- ]?days?\b[^NMP.]{0,20}?\b(?:free|trial)`), trials},
	{form(`(?:free|trial|try it|test it)[^NMP.]{0,20}?(?P<n>N) days?`), trials},
	{form(`\bno (?:credit )?card\b|without a (?:credit )?card`), func(r *reading, m match) bool { r.card = said(false); return true }},
	{form(`\b(?:credit )?card (?:is )?(?:needed|required)`), func(r *reading, m match) bool {
		if before := strings.TrimSpace(m.before()); !strings.HasSuffix(before, "no") && !strings.HasSuffix(before, "without a") {
			r.card = said(true)
		}
		return true
	}},

	{form(`(?P<p>P) (?:off|discount|cheaper|less)[^MNP]*?(?:for|in|during|on) (?:the |your )?(?:first )?(?P<n>N) months?`), offerFor},
	{form(`(?:first|for) (?P<n>N) months?[^MNP]{0,12}(?P<p>P) (?:off|less)`), offerFor},
	{form(`(?P<p>P) (?:off|discount|less|price)[^MNP]*?\b(?:for good|for ever|forever|for life|as long as)\b[^D]*(?P<d>D)?`), offerForGood},
	{form(`(?P<m>M)(?P<per>[^MNP]*?)\b(?:for|in) (?:the |your )?first (?P<n>N) months?`), offerPrice},
	{form(`first (?P<n>N) months? (?:for|at|only) (?P<m>M)(?P<per>[^MNP]*)`), offerPrice},
	{form(`(?P<n>N) months? free\b(?P<tail>[^MNP]*)`), freeMonths},
	{form(`(?P<p>P) (?:off|discount|cheaper|less)?[^MNP]*?\b(?:yearly|annual|a year|per year|by the year)`), termOff},
	{form(`\b(?:yearly|annual|a year|by the year)[^MNP]*?(?:save|less|off|-)? ?(?P<p>P)`), termOff},
	{form(`\bsave (?:up to )?(?P<p>P)`), savings},
	{form(`\b(?:save|worth|saves) (?:up to )?(?P<m>M)`), savings},

	{form(`(?P<p>P) of (?:your |the )?(?:monthly )?<U>`), shareOfMoney},
	{form(`(?:at least|minimum(?: of)?|min\.?|not less than) (?P<m>M)`), bound(floor)},
	{form(`(?:at most|capped at|cap of|maximum(?: of)?|max\.?|not more than) (?P<m>M)`), bound(ceiling)},

	{form(`\b(?P<what>set-?up|onboarding|installation|migration|moving|implementation|activation)\b[^MNP]*?(?P<m>M)(?P<tail>[^MNP]*)`), atSigning},
	{form(`(?P<m>M) (?:one-?time |once for |one-?off )?(?P<what>set-?up|onboarding|installation|migration|activation)\b(?P<tail>[^MNP]*)`), atSigning},

	{form(`\b(?:first|next|up to) (?P<n>N) <U>[:,]? ?(?:at |cost )?(?P<m>M) (?:per|for|/) ?(?P<e>N)`), rates},
	{form(`(?P<m>M) (?:per|for each|a|each) <U>(?: (?:per|a) month|/mo\w*)?,? (?:up to|for up to) (?P<n>N)\b`), rates},
	{form(`(?P<m>M) (?:per|for each|a|each) <U>(?: (?:per|a) month|/mo\w*)? (?:above|beyond|past|after) (?:that|this)`), ratesAbove},
	{form(`(?P<m>M) (?:per|for each|a|each) <U>(?: (?:per|a) month|/mo\w*)?,? (?:then |and )?(?P<m2>M) (?:each )?from the (?P<o>O)\b`), ratesFrom},
	{form(`\b(?:rate|price) of your (?:size|band|tier) (?:holds|counts|applies)|\bfor all of them\b`), func(r *reading, m match) bool { r.allUnits = true; return true }},

	{form(`\b(?:up to |to )?(?P<n>N) <U>(?: (?:a|per|each) month| / month)? ?[:=-]? ?(?:at |for |cost )?(?P<m>M)(?P<tail>[^MNP]*)`), bandLine},
	{form(`\b(?:more than|over|above|from) (?P<n>N) <U>[:,]? ?(?:contact us|on request|talk to us|ask us)`), func(r *reading, m match) bool { return m.s.plan >= 0 && m.claimed() }},

	{form(`\b(?P<n>N) (?:[a-z-]+ )?<U>(?: included)?,? (?:then |and )?(?P<m>M) for (?:every|each) (?P<e>N) (?:more|further|extra|additional)`), included},
	{form(`\b(?P<n>N) (?:[a-z-]+ )?<U>(?: included| (?:a|per|each) month| / month|/mo\w*)*,? (?:then|and then|after that|beyond:?) (?P<m>M) (?:per|for (?:each|every)|for|/) ?(?P<e>N)`), included},
	{form(`\b(?P<n>N) (?:[a-z-]+ )?<U>(?: included| (?:a|per|each) month| / month|/mo\w*)*,? (?:then|and then|after that|beyond:?)? ?(?P<m>M) (?:per|for|a|each|/)? ?(?:each|additional |extra |further |another )?(?:<any>)?`), included},
	{form(`<U>: (?P<n>N)(?: included)?,? (?:then|and then|after that) (?P<m>M)(?: each| per <any>| a <any>)?`), included},
	{form(`\b(?:additional|extra|further|more) <U>:? ?(?:costs? |are |at |for )?(?P<m>M)(?: (?:per|for|a|each)|/)? ?(?P<e>N)?`), extras1},
	{form(`(?P<m>M) (?:per|for each|a|each|for every) (?:additional |extra |further |more )(?P<e>N )?<U>`), extras1},
	{form(`\bextra <U>.*?(?P<m>M) (?:per|for) (?P<e>N)`), extras1},

	{form(`\b(?:after that|above that|beyond(?: that)?|then|thereafter|more)[:,]? ?(?P<m>M) (?:per|for|/) ?(?P<e>N)`), ratesAbove},

	{form(`(?P<n>X|N times) ?(?:your |the |of )?(?:number of )?(?P<of><any>|list)`), multiples},
	{form(`\b(?P<n>N) <U> (?:per|for each|for every|a) (?P<of><any>)\b`), multiples},
	{form(`(?:minimum|min\.?|at least)(?: of)? (?P<n>N) <U>`), minimum},
	{form(`(?P<n>N) <U> (?:minimum|at least)`), minimum},
	{form(`\b(?P<up>more than |over |above |from |\+ ?)?(?P<n>N)(?P<plus>\+)? (?:[a-z'-]+ ){0,2}?<U>\b`), counts},
	{form(`<U>(?: (?:a|per|each) month|/mo\w*| included)?: (?:up to |max\.? )?(?P<n>N)(?: gb)?$`), counts},
	{form(`\bunlimited (?:number of )?(?:[a-z-]+ ){0,1}?<U>\b`), noLimit},
	{form(`<U>(?: (?:a|per|each) month|/mo\w*)?: unlimited`), noLimit},
}

func said(b bool) *bool { return &b }

// claimed marks the figures of a match as used, without a field of the draft.
func (m match) claimed() bool {
	for i := m.s.count(m.at[0]); i < m.s.count(m.at[1]); i++ {
		m.s.figures[i].claimed = true
	}
	return true
}

func taxes(included bool) func(*reading, match) bool {
	return func(r *reading, m match) bool {
		p := m.figure("p")
		if r.tax == nil || r.tax.figure == nil && p != nil {
			r.tax = &taxSaid{included, p}
		}
		return true
	}
}

func trials(r *reading, m match) bool {
	if r.trial != nil || strings.Contains(m.before(), "money") {
		return false
	}
	r.trial = m.figure("n")
	return true
}

func refunds(r *reading, m match) bool {
	if r.refund != nil {
		return false
	}
	r.refund = m.figure("n")
	return true
}

// thing is the thing that the match names.
func (m match) thing() (thing, bool) { return thingOf(m.text("u")) }

func shareOfMoney(r *reading, m match) bool {
	t, ok := m.thing()
	if !ok || t.meter != "ad_spend" {
		return false
	}
	return r.add(m.s.plan, fact{what: share, thing: t, value: m.figure("p").value, price: m.figure("p")})
}

func bound(w what) func(*reading, match) bool {
	return func(r *reading, m match) bool {
		return r.add(m.s.plan, fact{what: w, value: m.figure("m").value, price: m.figure("m")})
	}
}

func atSigning(r *reading, m match) bool {
	waived := ""
	if tail := m.text("tail") + m.after(); regexp.MustCompile(`(?:free|waived|none|included)[^MNP]*(?:yearly|annual)`).MatchString(tail) {
		waived = yearly.key
	}
	guess := ""
	if !strings.Contains(m.text("tail"), "once") && !strings.Contains(m.s.sentence, "one-time") && !strings.Contains(m.s.sentence, "fee") {
		guess = "taken for an amount that is due once"
	}
	return r.add(m.s.plan, fact{what: once, value: m.figure("m").value, price: m.figure("m"), name: m.text("what"), waived: waived, guess: guess})
}

func rates(r *reading, m match) bool {
	t, ok := m.thing()
	if !ok {
		return false
	}
	return r.add(m.s.plan, fact{what: rate, thing: t, value: m.figure("m").value, n: quantityOf(m.figure("n")), price: m.figure("m"), count: m.figure("n"),
		size: m.figure("e"), each: quantityOf(m.figure("e")), guess: t.also, from: strings.HasPrefix(m.s.sentence[m.at[0]:], "next")})
}

func ratesAbove(r *reading, m match) bool {
	t, _ := m.thing()
	return r.add(m.s.plan, fact{what: rateAbove, thing: t, value: m.figure("m").value, price: m.figure("m"), size: m.figure("e"), each: quantityOf(m.figure("e"))})
}

func ratesFrom(r *reading, m match) bool {
	t, ok := m.thing()
	o := m.figure("o")
	if !ok || o.value <= money.Scale {
		return false
	}
	n := quantityOf(o) - quantityOf(&Figure{value: money.Scale})
	why := "taken for the price of those from there on, not of all"
	return r.add(m.s.plan, fact{what: rate, thing: t, value: m.figure("m").value, n: n, price: m.figure("m"), count: o, guess: t.also}) &&
		r.add(m.s.plan, fact{what: rateAbove, thing: t, value: m.figure("m2").value, price: m.figure("m2"), guess: why})
}

func bandLine(r *reading, m match) bool {
	t, ok := m.thing()
	if !ok || m.s.plan < 0 || len(m.s.figures) > 2 && m.s.from == 0 && strings.Contains(m.after(), "N") || overRate.MatchString(m.text("tail")) {
		return false
	}
	term, per := termOf(m.text("tail"), "month")
	value, why := perMonth(m.figure("m").value, term, per)
	return r.add(m.s.plan, fact{what: band, thing: t, term: term, value: value, n: quantityOf(m.figure("n")), price: m.figure("m"), count: m.figure("n"), guess: orElse(why, t.also)})
}

var overRate = regexp.MustCompile(`^ ?(?:each|per N|per (?:extra|additional)|a <any>)`)

func included(r *reading, m match) bool {
	t, ok := m.thing()
	if !ok || !extraWords.MatchString(m.s.sentence[m.at[0]:m.at[1]]+m.after()) {
		return false
	}
	return r.add(m.s.plan, fact{what: count, thing: t, n: quantityOf(m.figure("n")), count: m.figure("n"), guess: t.also}) &&
		r.add(m.s.plan, fact{what: extra, thing: t, value: m.figure("m").value, price: m.figure("m"), size: m.figure("e"), each: quantityOf(m.figure("e")), guess: t.also})
}

var extraWords = regexp.MustCompile(`then|after that|beyond|extra|additional|further|another|more$`)

func extras1(r *reading, m match) bool {
	t, ok := m.thing()
	if !ok {
		return false
	}
	return r.add(m.s.plan, fact{what: extra, thing: t, value: m.figure("m").value, price: m.figure("m"), size: m.figure("e"), each: quantityOf(m.figure("e")), guess: t.also})
}

func multiples(r *reading, m match) bool {
	of, ok := thingOf(m.text("of"))
	if m.text("of") == "list" {
		of, ok = thingOf("contacts")
	}
	if !ok {
		return false
	}
	t, named := thingIn(m.before())
	guess := ""
	if own, ok := thingOf(m.text("u")); ok { // 500 contacts per seat
		t, named = own, true
	}
	if !named || t.meter == of.meter {
		t, _ = thingOf("emails")
		guess = "taken for a multiple of what may be sent"
	}
	return r.add(m.s.plan, fact{what: times, thing: t, of: of, n: quantityOf(m.figure("n")), count: m.figure("n"), guess: guess})
}

func minimum(r *reading, m match) bool {
	t, ok := m.thing()
	return ok && r.add(m.s.plan, fact{what: least, thing: t, n: quantityOf(m.figure("n")), count: m.figure("n")})
}

func counts(r *reading, m match) bool {
	t, ok := m.thing()
	f := m.figure("n")
	if !ok || m.text("up") != "" || f.word && f.value != money.Scale || strings.HasSuffix(strings.TrimSpace(m.before()), "per") {
		return false
	}
	return r.add(m.s.plan, fact{what: count, thing: t, n: quantityOf(f), count: f, guess: orElse(t.also, f.unsure)})
}

func noLimit(r *reading, m match) bool {
	t, ok := m.thing()
	return ok && m.s.plan != extras && r.add(m.s.plan, fact{what: unlimited, thing: t, guess: t.also})
}
