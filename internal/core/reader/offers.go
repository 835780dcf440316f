package reader

import (
	"regexp"
	"strings"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
)

// offer is a lowering of the price for a while, as the page tells it.
type offer struct {
	plan               int
	name               string
	kind               pricelist.OfferKind
	value              money.Amount
	months             int
	until              time.Time
	figure, length, by *Figure
	guess              string
}

// offerName is what the words before an offer call it: "Launch price: half off".
func (r *reading) offerName(m match) string {
	text := r.lines[m.s.line].Text
	at := strings.LastIndexAny(m.before(), ":")
	if at < 0 {
		return ""
	}
	name := strings.TrimSpace(m.before()[:at])
	if i := strings.Index(strings.ToLower(text), name); i >= 0 && name != "" && len(name) <= 40 {
		return text[i : i+len(name)]
	}
	return ""
}

func offerFor(r *reading, m match) bool {
	return r.offers(m, offer{kind: pricelist.PercentOff, value: m.figure("p").value, figure: m.figure("p"), length: m.figure("n"), months: int(m.figure("n").value / money.Scale)})
}

func offerForGood(r *reading, m match) bool {
	o := offer{kind: pricelist.PercentOff, value: m.figure("p").value, figure: m.figure("p")}
	if d := m.figure("d"); d != nil {
		o.by, o.until = d, d.day
		if strings.Contains(m.s.sentence, "before") {
			o.until = d.day.AddDate(0, 0, -1)
		}
	}
	return r.offers(m, o)
}

func offerPrice(r *reading, m match) bool {
	f, n := m.figure("m"), m.figure("n")
	months := int64(n.value / money.Scale)
	if months < 1 || months > 120 || m.s.plan == everywhere && len(r.found) > 1 && !strings.Contains(m.s.sentence, "all plans") {
		return false
	}
	o := offer{kind: pricelist.FixedPrice, value: f.value, figure: f, length: n, months: int(months)}
	if per := m.text("per") + m.after(); !byMonth.MatchString(per) && !regexp.MustCompile(`^\s*$`).MatchString(m.text("per")) || strings.Contains(per, "in all") {
		o.value, o.guess = money.Amount((int64(f.value)+months/2)/months), "taken for the sum of all these months"
	}
	return r.offers(m, o)
}

// freeMonths are months free at the beginning, or what a year costs less.
func freeMonths(r *reading, m match) bool {
	if yearlyHere := byYear.MatchString(m.s.sentence); yearlyHere {
		m.claimed()
		return r.add(m.s.plan, fact{what: off, term: yearly, value: m.figure("n").value / 12, price: m.figure("n")})
	}
	return r.offers(m, offer{kind: pricelist.FreeMonths, length: m.figure("n"), months: int(m.figure("n").value / money.Scale)})
}

func termOff(r *reading, m match) bool {
	guess := ""
	if strings.Contains(m.s.sentence, "up to") {
		guess = "the page says “up to”"
	}
	return r.add(m.s.plan, fact{what: off, term: yearly, value: m.figure("p").value, price: m.figure("p"), guess: guess})
}

// savings are figures that follow from others: they are compared, not kept.
func savings(r *reading, m match) bool {
	if p := m.figure("p"); p != nil && (byYear.MatchString(m.s.sentence) || r.yearlySomewhere()) {
		return r.add(m.s.plan, fact{what: off, term: yearly, value: p.value, price: p, guess: "taken for what a year at once costs less"})
	}
	return false
}

func (r *reading) yearlySomewhere() bool {
	for i := range r.lines {
		if byYear.MatchString(strings.ToLower(r.lines[i].Text)) {
			return true
		}
	}
	return false
}

// offers notes an offer. Where the page does not say for which plans it is, that is a guess.
func (r *reading) offers(m match, o offer) bool {
	if m.s.plan == extras || o.months > 120 {
		return false
	}
	o.plan, o.name = m.s.plan, r.offerName(m)
	if o.by == nil {
		for i, f := range m.s.figures {
			if f.sort == date && !m.s.used[i] {
				o.by, o.until = f, f.day
				if strings.Contains(m.s.sentence, "before D") {
					o.until = f.day.AddDate(0, 0, -1)
				}
				m.s.used[i] = true
			}
		}
	}
	if o.plan == everywhere {
		o.guess = orElse(o.guess, "which plans and terms, the page does not say")
	}
	r.offered = append(r.offered, o)
	return true
}
