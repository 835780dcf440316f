package web

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/feature"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/outside"
)

// priceOption is the ladder of one tool of an option.
type priceOption struct {
	optionHead
	Edition   string // what was read and when
	Stale     string // why it should be read again
	Newer     string // a later list that the study does not go by
	NewerLink string
	Converted string
	Entry     string // what the list begins with, against what is paid
	Next      []string
	Counts    []string // how what is billed is counted, with today's numbers
	Rungs     []priceRung
}

// priceRung is one plan, from the smallest up.
type priceRung struct {
	Name     string
	Taken    bool
	Prices   []rungPrice
	Why      []string // why it cannot serve
	Limits   []string
	Adds     string // what it has beside the plan below
	AddsAll  []string
	Times    []string // what it multiplies
	PerUnit  []string
	PriceIs  string // how many times the price of the plan below
	OfferIs  string
	Quoted   string
	HasBelow bool
}

type rungPrice struct{ Term, Amount, Once, Link string }

// newerLists are the days of the newest lists of the platforms of the line-up.
func (s *Server) newerLists(r *request) (map[string]time.Time, error) {
	var keys []string
	for i := range r.study().Options {
		for _, t := range r.study().Options[i].Tools() {
			keys = append(keys, t.Platform)
		}
	}
	days, err := s.store.ListsOf(r.c, r.caller.workspace(), keys)
	newest := map[string]time.Time{}
	for key, all := range days {
		if len(all) > 0 {
			newest[key] = all[0]
		}
	}
	return newest, err
}

// priceOption sets the plans of a tool of an option above each other.
func (r *request) priceOption(res *study.Result, at int, head optionHead, newest map[string]time.Time, rates *outside.Rates) priceOption {
	tool := &res.Tools[at]
	e := tool.Tool.Edition
	p := priceOption{optionHead: head, Edition: "read " + pricelist.SayRead(e.ObservedOn) + ", " + daysAgo(tool.DaysOld)}
	if res.Option.Stack() {
		p.Name += ": " + e.Platform.Name
	}
	if tool.DaysOld > r.study().Patience {
		p.Stale = "older than this study allows: read it again"
	}
	if day := newest[tool.Tool.Platform]; day.After(e.ObservedOn) {
		p.Newer = "There is a list of " + day.Format("2 Jan 2006")
		if r.caller.link == nil {
			p.NewerLink = fmt.Sprintf("/shelf/platforms/%s/compare?from=%s&to=%s", tool.Tool.Platform, pricelist.ReadText(e.ObservedOn), pricelist.ReadText(day))
		}
	}
	var notes []string
	if e.Tax.Included {
		notes = append(notes, e.Tax.Rate.String()+" tax taken out")
	}
	if rate, ok := r.study().Rates[e.Currency.Code()]; ok && e.Currency != r.study().Currency {
		text := fmt.Sprintf("from %s at %s of %s", e.Currency.Code(), rate.Rate, rate.On.Format("2 Jan 2006"))
		if far := moved(rates, e.Currency.Code(), rate, r.study().Currency); far != "" {
			text += "; it was " + far
		}
		notes = append(notes, text)
	}
	p.Converted = strings.Join(notes, ", ")
	cur := r.study().Currency
	if entry, ok := res.Entry(at); ok {
		begins := "Its list begins at"
		switch {
		case tool.Tool.Plan != "": // of which nothing else is compared
			begins = "It begins at"
		case entry.Free != "":
			begins = fmt.Sprintf("Beyond %s, which costs nothing, its list begins at", entry.Free)
		}
		on, pays := entry.Plan, cur.Format(entry.Pays)
		if len(entry.Why) == 0 && entry.Size {
			pays += " at our size"
		}
		pays += study.SayWith(entry.With)
		if !entry.Term.Like(tool.Today.Term) {
			on, pays = on+", paid "+study.SayTerm(entry.Term), pays+", paid "+study.SayTerm(tool.Today.Term)
		}
		p.Entry = fmt.Sprintf("%s %s (%s); we pay %s", begins, cur.Format(entry.From), on, pays)
		if len(entry.Why) > 0 {
			p.Entry += ": on " + entry.Plan + " " + r.study().SayWhy(entry.Why[0])
		}
		p.Entry += "."
	}
	p.Next = sayNext(cur, res.Next(at))
	p.Counts = r.countings(res, at)
	for i, rung := range res.Ladder(at) {
		p.Rungs = append(p.Rungs, r.rung(res, at, &rung, i > 0))
	}
	return p
}

// sayNext says how far off the next steps are, the nearest two.
func sayNext(cur money.Currency, all []study.Ahead) (says []string) {
	for _, a := range all[:min(len(all), 2)] {
		far := a.At - a.Now
		text := fmt.Sprintf("Next step at %s %s, %s more: ", a.At.Format(), quote.Plural(a.Unit), far.Format())
		switch {
		case a.To == "":
			text += "no plan with a price serves there"
		case a.Paid.Months != 0:
			text += fmt.Sprintf("%s, paid %s, %s a month", a.To, study.SayTerm(a.Paid), signed(cur, a.Costs))
		case a.Move:
			text += fmt.Sprintf("%s, %s a month", a.To, signed(cur, a.Costs))
		default:
			text += signed(cur, a.Costs) + " a month"
		}
		says = append(says, text+".")
	}
	return says
}

// countings say how each meter reads today's usage, with the formula filled in, where it is
// not one driver as it is.
func (r *request) countings(res *study.Result, at int) (says []string) {
	e := res.Tools[at].Tool.Edition
	readings := res.Readings(at)
	for i := range e.Meters {
		if text := counting(r.outcome, &e.Meters[i], readings[e.Meters[i].Key], 0); text != "" && readings != nil {
			says = append(says, text)
		}
	}
	return says
}

// counting is how a meter comes to its reading: "6,400 × (1 + 0.18) = 7,552 contacts"; ""
// where it counts one driver as it is. The values are those of a month of the study, from 0.
func counting(o *study.Outcome, m *pricelist.Meter, reading usage.Quantity, month int) string {
	names := m.Counts.Names()
	if len(names) == 0 || len(names) == 1 && m.Counts.String() == names[0] {
		return ""
	}
	filled := m.Counts.Filled(func(key string) (string, bool) {
		v := o.Values.Of(key)
		if _, known := driver(o, key); !known || month >= len(v) {
			return "", false
		}
		return usage.Quantity(math.Round(v[month] * float64(usage.One))).Format(), true
	})
	if plain, err := usage.ParseQuantity(strings.ReplaceAll(filled, ",", "")); err == nil && plain == reading {
		return ""
	}
	return filled + " = " + o.Study.SayReading(reading, m.Unit)
}

// mostAdded is how many of the features that a plan adds are named at once.
const mostAdded = 3

func (r *request) rung(res *study.Result, at int, rung *study.Rung, below bool) priceRung {
	s := r.study()
	e := res.Tools[at].Tool.Edition
	out := priceRung{Name: rung.Plan.Name, Taken: rung.Taken, HasBelow: below}
	for j := range rung.Receipts {
		q := &rung.Receipts[j]
		price := rungPrice{Term: study.SayTerm(q.Term), Amount: monthlyOf(q)}
		if q.Lowered() && q.May() {
			out.OfferIs = study.SayTerm(q.Term) + ": " + study.SayOffer(q)
			if q.Until > 0 {
				out.OfferIs += ", from " + s.Month(q.Until).String()
			}
		}
		if q.AtSigning > 0 {
			price.Once = s.Currency.Format(q.AtSigning) + " once, at signing"
		}
		if q.Priced {
			price.Link = fmt.Sprintf("%s/receipts/%s?plan=%s&term=%s", r.base(), res.Option.Key, rung.Plan.Key, q.Term.Key)
			if at > 0 {
				price.Link += fmt.Sprintf("&tool=%d", at)
			}
		}
		out.Prices = append(out.Prices, price)
		if len(out.Prices) == 1 {
			for _, reason := range q.Reasons {
				out.Why = append(out.Why, s.SayWhy(reason))
			}
		}
	}
	if len(rung.Receipts) == 0 {
		out.Prices = []rungPrice{{Term: "a month", Amount: "on request"}}
	}
	if day := s.QuotedOn(res.Option.Key, rung.Plan); !day.IsZero() {
		out.Quoted = "as quoted to you on " + day.Format("2 Jan 2006")
	}
	for _, l := range rung.Plan.Limits {
		if l.Beyond != pricelist.BuyPack {
			out.Limits = append(out.Limits, sayLimit(e, l))
		}
	}
	if rung.Price > 0 && below {
		out.PriceIs = fmt.Sprintf("%s× the price", times(rung.Price))
	}
	for _, m := range rung.Times {
		switch {
		case m.Unlimited:
			out.Times = append(out.Times, "unlimited "+m.Unit)
		case m.Times > 0:
			out.Times = append(out.Times, fmt.Sprintf("×%s %s", times(m.Times), m.Unit))
		}
	}
	for _, key := range append(slices.Clone(rung.Adds), rung.May...) {
		out.AddsAll = append(out.AddsAll, featureName(s.Catalogue, key))
	}
	var gains []string
	if len(rung.Adds) > 0 {
		gains = append(gains, "adds "+r.firstNamed(rung.Adds))
	}
	if len(rung.May) > 0 {
		gains = append(gains, "has "+r.firstNamed(rung.May)+", not told of the plan below")
	}
	out.Adds = strings.Join(gains, "; ")
	cur := s.Currency
	for _, u := range rung.Units {
		text := fmt.Sprintf("%s %s", cur.Format(u.Amount), study.AnyOne(u.Unit))
		if u.Per > 1 {
			text = fmt.Sprintf("%s per %s %s", cur.Format(u.Amount), money.Thousands(uint64(u.Per)), quote.Plural(u.Unit))
		}
		if u.Full {
			text += ", if used in full"
		}
		out.PerUnit = append(out.PerUnit, text)
	}
	return out
}

// firstNamed names the first features that a plan adds, those that the study needs before
// others, and counts the rest.
func (r *request) firstNamed(keys []string) string {
	var named []string
	needed := map[string]bool{}
	for _, n := range r.study().Needs {
		needed[n.Feature] = true
	}
	for _, first := range []bool{true, false} {
		for _, key := range keys {
			if needed[key] == first && len(named) < mostAdded {
				named = append(named, featureName(r.study().Catalogue, key))
			}
		}
	}
	if more := len(keys) - len(named); more > 0 {
		return fmt.Sprintf("%s and %d more", strings.Join(named, ", "), more)
	}
	return list(named)
}

func featureName(c *feature.Catalogue, key string) string {
	if f, ok := c.Find(key); ok {
		return usage.LowerFirst(f.Name)
	}
	return pricelist.FeatureName(key)
}

// times writes a ratio: "3", "1.8".
func times(x float64) string {
	if x >= 10 || math.Abs(x-math.Round(x)) < 0.05 {
		return money.Thousands(uint64(math.Round(x)))
	}
	return fmt.Sprintf("%.1f", x)
}
