package study_test

import (
	"context"
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/require"
)

// spoken is a study of up to four options with all that sentences differ by: ties, plans
// above one another, musts that are not known or missed, offers, terms, a price for life,
// plans on request, a currency without a rate, drivers at nothing, what runs today and
// what falls away, budgets, weights and ratings that are missing.
func spoken(r *rand.Rand) *study.Study {
	names := []string{"Ash", "Birch", "Cedar", "Dogwood"}
	one := func(n int) bool { return r.IntN(n) == 0 }
	seats, _ := usage.ParseFormula("seats")
	var options []study.Option
	for i := range 1 + r.IntN(4) {
		price := func() int64 { return int64([]int{0, 5, 10, 10, 12, 15, 19}[r.IntN(7)]) }
		op := option(names[i], 400+r.Int64N(1200), price(), 5000, 20+r.Int64N(15))
		e := op.Edition
		e.Plans[0].Name = names[i] + " small"
		e.Plans[0].Features = map[string]pricelist.Feature{}
		big := e.Plans[0]
		big.Key, big.Name = "big", names[i]+" big"
		big.Charges = []pricelist.Charge{{Key: "flat", Kind: pricelist.Flat, Price: pricelist.Price{Usual: money.Units(15 + r.Int64N(20))}}}
		big.Terms = []pricelist.Term{{Key: "monthly", Months: 1}}
		if one(3) {
			big.Terms = append(big.Terms, pricelist.Term{Key: "yearly", Months: 12, Paid: pricelist.Upfront, Off: 200_000})
		}
		if one(8) {
			big.Terms = append(big.Terms, pricelist.Term{Key: "life", Months: pricelist.Lifetime})
			big.Charges[0].Price.ByKey = map[string]money.Amount{"life": money.Units(90)}
		}
		if one(6) {
			big.Offered = pricelist.OnRequest
		}
		big.Features = map[string]pricelist.Feature{}
		e.Plans = append(e.Plans, big)
		for k := range e.Plans {
			for _, f := range []string{"a/one", "a/two"} {
				e.Plans[k].Features[f] = pricelist.Feature{Has: []pricelist.Has{pricelist.Yes, pricelist.Yes, pricelist.Yes, pricelist.Unknown, pricelist.No}[r.IntN(5)]}
			}
		}
		if one(3) {
			e.Meters = append(e.Meters, pricelist.Meter{Key: "seats", Unit: "seat", Kind: usage.Stock, Counts: seats})
			e.Plans[0].Limits = []pricelist.Limit{{Meter: "seats", Most: usage.Of(2 + r.Int64N(4)), Beyond: pricelist.MoveUp}}
		}
		if one(3) {
			e.Offers = []pricelist.Offer{{Key: "half", Name: "Half", Kind: pricelist.PercentOff, Off: 500_000, Months: 3, Plans: []string{"plan"}}}
		}
		if one(14) {
			e.Currency = money.MustCurrency("GBP")
		}
		options = append(options, op)
	}
	s := of(options...)
	s.Criteria[0].Worst = money.Units(int64(20 + r.IntN(200)))
	if one(3) {
		s.Needs = append(s.Needs, coverage.Need{ID: "a/one", Feature: "a/one", Name: "Forms", Level: coverage.Must})
	}
	if one(3) {
		s.Needs = append(s.Needs, coverage.Need{ID: "a/two", Feature: "a/two", Name: "Tests", Level: []coverage.Level{coverage.Must, coverage.Want}[r.IntN(2)]})
		s.Criteria = append(s.Criteria, fit.Criterion{ID: "cover", Name: "Cover", Source: fit.Coverage, Weight: 300_000})
	}
	if one(2) {
		s.Drivers = append(s.Drivers, study.Setting{Driver: "seats", Path: usage.Path{Now: usage.Of(r.Int64N(5))}})
	}
	if one(3) {
		s.Drivers[0].Path.High = usage.Variant{Now: usage.Given[usage.Quantity]{Value: usage.Of(130), Told: true}}
		s.Drivers[0].Path.Low = usage.Variant{Growth: usage.Given[money.Share]{Value: 100_000, Told: true}}
	}
	s.Pay = []projection.Policy{projection.Monthly, projection.Mix, projection.Yearly}[r.IntN(3)]
	for i := range s.Options {
		if !one(5) {
			rate(s, s.Options[i].Key, fit.Halves(r.IntN(19)))
		}
	}
	if one(2) {
		s.Options[r.IntN(len(s.Options))].Now = true
	}
	if one(3) {
		run := study.Running{Key: "old", Name: "Old tool", Cost: money.Units(1 + r.Int64N(9))}
		if one(2) {
			run.Renews = time.Date(2027, time.Month(1+r.IntN(8)), 9, 0, 0, 0, 0, time.UTC)
		}
		s.Running = []study.Running{run}
		s.Options[r.IntN(len(s.Options))].Lets = []string{"old"}
		if one(3) {
			s.Brief.Unneeded = study.LeftOut
		}
	}
	return s
}

// said are all sentences of a study, by what says them.
func said(t testing.TB, o *study.Outcome) map[string]string {
	all := map[string]string{"verdict": o.SayVerdict().String(), "next": o.SayNext().String(), "costs": o.SayCosts().String(), "beside": o.SayBeside().String(),
		"leads": o.SayLeads(), "scores": o.SayScores().String(), "coverage": o.SayCoverage().String(), "prices": o.SayPrices().String(), "line-up": o.SayLineUp().String(),
		"doing": o.SayDoing().String(), "nothing": o.SayAtNothing(), "unsaid": o.SayUnsaid(), "settled": o.SaySettled(), "questions": o.SayQuestions().String()}
	for i := range o.Results {
		r := &o.Results[i]
		all[fmt.Sprint("falls ", i)], all[fmt.Sprint("ways in ", i)] = o.Study.SayFalls(&r.Option), o.SayWaysIn(r)
		if !r.AtFault {
			all[fmt.Sprint("rests ", i)] = o.SayRests(r)
		}
	}
	leaving, err := o.Leaving(context.Background())
	require.NoError(t, err)
	all["leaving"] = o.SayLeaving(leaving).String()
	bargains, err := o.Bargains(context.Background(), nil)
	require.NoError(t, err)
	all["bargain"] = o.SayBargains(bargains).String()
	if axes := o.Axes(); len(axes) > 0 {
		along, err := o.Along(context.Background(), axes[0].Key, 0, 1, 4000)
		require.NoError(t, err)
		all["along"] = o.SayAlong(along).String()
		for k, w := range o.SayRegions(along.Regions, along.Driver, 1, 4000) {
			all[fmt.Sprint("region ", k, " ", w.Result)] = w.Text
		}
	}
	return all
}

// listener reads sentences and holds each number and claim against the outcome.
type listener struct {
	o       *study.Outcome
	subject int // whom the sentence before was about
}

// claim is a form of words, and whether what it says is so: m are what stood in its places.
type claim struct {
	words *regexp.Regexp
	holds func(l *listener, m []string) bool
}

// The places of a form: an option, a plan, an amount, a month, a number, a list of options.
var places = strings.NewReplacer("{O}", "(Ash|Birch|Cedar|Dogwood)", "{P}", "((?:Ash|Birch|Cedar|Dogwood) (?:small|big))", "{A}", `(−?€[\d,]+(?:\.\d\d)?)`,
	"{Q}", "((?:Ash|Birch|Cedar|Dogwood) (?:small|big(?: as quoted)?))", "{D}", `(\d{1,2} \w{3} \d{4})`, "{M}", "((?:Jan|Feb|Mar|Apr|May|Jun) 2027)", "{N}", `(\d[\d,]*|only|all)`, "{F}", `(\d\.\d(?:–\d\.\d)?)`, "{OS}", "((?:Ash|Birch|Cedar|Dogwood)(?:, (?:Ash|Birch|Cedar|Dogwood))*(?: and (?:Ash|Birch|Cedar|Dogwood))?)")

func form(words string, holds func(l *listener, m []string) bool) claim {
	return claim{regexp.MustCompile("^" + places.Replace(words) + " ?"), holds}
}

func (l *listener) at(name string) int {
	return slices.IndexFunc(l.o.Results, func(r study.Result) bool { return r.Option.Name == name })
}

func (l *listener) of(names string) (all []int) {
	for _, name := range regexp.MustCompile(`, | and `).Split(names, -1) {
		all = append(all, l.at(name))
	}
	return all
}

// comes reports whether an amount is what was written: to the cent where cents are.
func comes(text string, a money.Amount) bool {
	v, err := strconv.ParseFloat(strings.NewReplacer("€", "", ",", "", "−", "-").Replace(text), 64)
	off := 0.5
	if strings.Contains(text, ".") {
		off = 0.0001
	}
	return err == nil && math.Abs(v-a.Float()) <= off
}

func number(text string) int {
	if text == "only" {
		return 1
	}
	n, _ := strconv.Atoi(strings.ReplaceAll(text, ",", ""))
	return n
}

func month(text string) int {
	return slices.Index([]string{"Jan 2027", "Feb 2027", "Mar 2027", "Apr 2027", "May 2027", "Jun 2027"}, text)
}

func (l *listener) in() (all []int) {
	for i := range l.o.Results {
		if l.o.Results[i].In() {
			all = append(all, i)
		}
	}
	return all
}

// today are the options that serve the first month and miss no must.
func (l *listener) today() (all []int) {
	for i := range l.o.Results {
		if mayCostLeast(l.o.Results[i]) && l.o.Results[i].Schedule.Months[0].Serves {
			all = append(all, i)
		}
	}
	return all
}

func (l *listener) total(i int) money.Amount { return l.o.Results[i].Schedule.Total }

// net is what a month costs by its bill, what falls away counted off.
func (l *listener) net(i, t int) money.Amount {
	m := &l.o.Results[i].Schedule.Months[t]
	return m.Monthly() - m.Falls
}

func (l *listener) least(over func(i int) money.Amount, result int) bool {
	return !slices.ContainsFunc(l.in(), func(i int) bool { return over(i) < over(result) })
}

// asks counts what vendors are asked.
func (l *listener) asks() (needs, unsaid int) {
	for _, v := range l.o.Vendors() {
		needs, unsaid = needs+len(v.Questions), unsaid+len(v.Unsaid)
	}
	return needs, unsaid
}

// leads are the runs of months of who costs least: on a tie who is the cheapest overall, who
// did before, or who comes first.
func (l *listener) leads() (who [6]int) {
	cheapest := slices.IndexFunc(l.o.Results, func(r study.Result) bool { return r.In() && l.least(l.total, l.at(r.Option.Name)) })
	for t := range 6 {
		least := func(i int) bool { return l.least(func(i int) money.Amount { return l.net(i, t) }, i) }
		switch {
		case least(cheapest):
			who[t] = cheapest
		case t > 0 && least(who[t-1]):
			who[t] = who[t-1]
		default:
			who[t] = l.in()[slices.IndexFunc(l.in(), least)]
		}
	}
	return who
}

// less reports whether one costs less than the cheapest overall in each month of a run.
func (l *listener) less(result, from, to int) bool {
	for t := from; t < to; t++ {
		for _, i := range l.in() {
			if l.least(l.total, i) && l.net(result, t) >= l.net(i, t) {
				return false
			}
		}
	}
	return true
}

// why holds what ends "… costs less each month; then": of who loses the lead in month t to whom.
func (l *listener) why(text string, from, to, t int) bool {
	contacts := func(m int) int { return 100 << m }
	for _, c := range []claim{
		form(`(?:it|{O}) moves to {P}, (?:as )?`, func(_ *listener, m []string) bool {
			return l.o.Results[from].Schedule.Months[t].Plan().Name == m[2] && (m[1] == "" || l.at(m[1]) == from)
		}),
		form(`{O} steps down: `, func(_ *listener, m []string) bool { return l.at(m[1]) == to && l.net(to, t) < l.net(to, t-1) }),
		form(`contacts pass {N}`, func(_ *listener, m []string) bool { return contacts(t-1) <= number(m[1]) && number(m[1]) < contacts(t) }),
		form(`(?:, )?(?:and )?the offer “Half” ends`, func(*listener, []string) bool { return t == 3 }),
		form(`{A} a month less than staying on {P}`, func(_ *listener, m []string) bool { return !comes(m[1], 0) }),
		form(`{P} costs less over what is to come`, func(*listener, []string) bool { return true }),
		form(`and (?:it|{O}) steps up`, func(_ *listener, m []string) bool {
			return l.net(from, t) > l.net(from, t-1) && (m[1] == "" || l.at(m[1]) == from)
		}),
		form(`{O} does`, func(_ *listener, m []string) bool { return l.at(m[1]) == to }),
	} {
		if m := c.words.FindStringSubmatch(text); m != nil {
			rest := text[len(m[0]):]
			return c.holds(l, m) && (rest == "" || l.why(rest, from, to, t))
		}
	}
	return false
}

func always(*listener, []string) bool { return true }

// unknown counts what is open of the options that are in.
func (l *listener) missing() (ratings, needs int) {
	for _, i := range l.in() {
		r := &l.o.Results[i]
		for _, p := range r.Standing.Parts {
			if p.Known || p.Weight == 0 {
				continue
			}
			switch p.Criterion.Source {
			case fit.Rated:
				ratings++
			case fit.Coverage:
				for n := range l.o.Study.Needs {
					if l.o.Study.Needs[n].Meets(r.Has[n]) == coverage.Open {
						needs++
					}
				}
			}
		}
	}
	return ratings, needs
}

// ahead are the criteria on which one scores higher than each of others.
func (l *listener) higher(result int, others []int, names string) bool {
	for _, name := range regexp.MustCompile(`, | and `).Split(names, -1) {
		at := slices.IndexFunc(l.o.Study.Criteria, func(c fit.Criterion) bool { return strings.EqualFold(c.Name, name) })
		for _, i := range others {
			a, b := l.o.Results[result].Standing.Parts[at], l.o.Results[i].Standing.Parts[at]
			if i != result && (!a.Known || !b.Known || a.Score.Tenths() <= b.Score.Tenths()) {
				return false
			}
		}
	}
	return true
}

func (l *listener) musts(answer func(worst coverage.Answer) bool) (n int) {
	for i := range l.o.Results {
		best := coverage.Unmet
		for _, p := range l.o.Results[i].Tools[0].Tool.Edition.Plans {
			here := coverage.Met
			for _, need := range l.o.Study.Needs {
				if need.Level == coverage.Must {
					here = min(here, need.Meets(p.Feature(need.Feature)))
				}
			}
			best = max(best, here)
		}
		for c := range l.o.Results[i].Coverage { // nothing is met that no plan has
			if cell := &l.o.Results[i].Coverage[c]; cell.Need.Level == coverage.Must && cell.Answer == coverage.Unmet {
				best = coverage.Unmet
			}
		}
		if answer(best) {
			n++
		}
	}
	return n
}

func (l *listener) levels(level coverage.Level) (n int) {
	for _, need := range l.o.Study.Needs {
		if need.Level == level {
			n++
		}
	}
	return n
}

// inCase is the study with slow or fast growth.
func (l *listener) inCase(word string) *listener {
	s := *l.o.Study
	s.Case = map[string]usage.Case{"slow": usage.Low, "fast": usage.High}[word]
	return &listener{o: study.Compute(&s)}
}

const over = "all 6 months"

// forms are the words of all sentences, by what says them.
var forms = map[string][]claim{
	"costs": {
		form(`{O} is the cheapest way through `+over+`, at {A}\.`, func(l *listener, m []string) bool {
			l.subject = l.at(m[1])
			alone := true
			for _, i := range l.in() {
				alone = alone && (i == l.subject || l.total(i) > l.total(l.subject))
			}
			return alone && len(l.in()) > 1 && comes(m[2], l.total(l.subject))
		}),
		form(`It costs least in every month\.`, func(l *listener, _ []string) bool {
			for t := range 6 {
				if !l.least(func(i int) money.Amount { return l.o.Results[i].Schedule.Months[t].Accrued }, l.subject) {
					return false
				}
			}
			return true
		}),
		form(`Until {M} {O} costs less each month; then (.*?)\.(?: |$)`, func(l *listener, m []string) bool {
			who, t := l.leads(), month(m[1])+1
			return t > 1 && who[t-1] == l.at(m[2]) && who[0] == who[t-1] && who[t] != who[0] && l.less(who[0], 0, t) && l.why(m[3], who[0], who[t], t)
		}),
		form(`In {M} {O} costs less; then (.*?)\.(?: |$)`, func(l *listener, m []string) bool {
			who, t := l.leads(), month(m[1])
			switch {
			case who[t] != l.at(m[2]) || !l.less(who[t], t, t+1):
				return false
			case t == 0: // which leads first
				return who[0] != l.subject && who[1] != who[0] && l.why(m[3], who[0], who[1], 1)
			case who[0] != l.subject || who[t-1] != who[0] || t < 5 && who[t+1] == who[t]:
				return false
			case t < 5:
				return l.why(m[3], who[t], who[t+1], t+1)
			}
			return !strings.Contains(m[3], "it ") && l.why(m[3], who[0], who[5], 5)
		}),
		form(`From {M} {O} costs less each month(?:, until {M})?; then (.*?)\.(?: |$)`, func(l *listener, m []string) bool {
			who, t := l.leads(), month(m[1])
			if m[3] == "" && strings.Contains(m[4], "it ") { // which would be who has the lead then
				return false
			}
			if who[0] != l.subject || who[t-1] != who[0] || who[t] != l.at(m[2]) {
				return false
			}
			if m[3] == "" {
				return t < 5 && who[5] == who[t] && l.less(who[t], t, 6) && l.why(m[4], who[0], who[t], t)
			}
			end := month(m[3]) + 1
			return end > t+1 && who[end-1] == who[t] && who[end] != who[t] && l.less(who[t], t, end) && l.why(m[4], who[t], who[end], end)
		}),
		form(`The cheapest changes {N} times? in all\.`, func(l *listener, m []string) bool {
			n, who := 0, l.leads()
			for t := 1; t < 6; t++ {
				if who[t] != who[t-1] {
					n++
				}
			}
			return n == number(m[1])
		}),
		form(`{O} is the only option( left in)?, at {A} over `+over+`\.`, func(l *listener, m []string) bool {
			return slices.Equal(l.in(), []int{l.at(m[1])}) && (m[2] == "") == (len(l.o.Results) == 1) && comes(m[3], l.total(l.at(m[1])))
		}),
		form(`{OS} cost (?:least over `+over+`, and the same: {A}|nothing over `+over+`)\.`, func(l *listener, m []string) bool {
			for _, i := range l.of(m[1]) {
				if !l.least(l.total, i) || m[2] == "" && l.total(i) != 0 || m[2] != "" && !comes(m[2], l.total(i)) {
					return false
				}
			}
			n := 0
			for _, i := range l.in() {
				if l.least(l.total, i) {
					n++
				}
			}
			return n == len(l.of(m[1]))
		}),
		form(`No option serves `+over+`\. Each is out for the reason that the counter gives\.`, func(l *listener, _ []string) bool { return len(l.in()) == 0 }),
	},
	"leads": {form(`Month by month, the least costs: (.*)\.`, func(l *listener, m []string) bool {
		who, t := l.leads(), 0
		for _, run := range strings.Split(m[1], "; ") {
			r := regexp.MustCompile(places.Replace("^{M}(?: to {M})?: {O}(?:, level with {OS})?(?:, in some of them level with {OS})?$")).FindStringSubmatch(run)
			if r == nil || month(r[1]) != t {
				return false
			}
			end := t
			if r[2] != "" {
				end = month(r[2])
			}
			level, first := map[int]int{}, t
			for ; t <= end; t++ {
				if who[t] != l.at(r[3]) {
					return false
				}
				for _, i := range l.in() {
					if i != who[t] && l.net(i, t) == l.net(who[t], t) {
						level[i]++
					}
				}
			}
			var whole, part []int
			for i, n := range level {
				if n == end-first+1 {
					whole = append(whole, i)
				} else {
					part = append(part, i)
				}
			}
			if !l.named(whole, r[4]) || !l.named(part, r[5]) {
				return false
			}
		}
		return t == 6
	})},
	"beside": {
		form(`Doing nothing, on {O}, costs {A}(?:, but serves only until {M}|(, and does not serve the first month))?\.`, func(l *listener, m []string) bool {
			r := &l.o.Results[l.at(m[1])]
			until := 0
			for until < 6 && r.Schedule.Months[until].Serves {
				until++
			}
			return r.Option.Now && comes(m[2], r.Schedule.Total) && (m[3] == "") == (until == 0 || until == 6) && (m[3] == "" || month(m[3]) == until-1) && (m[4] != "") == (until == 0)
		}),
		form(`What runs today costs {A}, as the brief tells\.`, func(l *listener, m []string) bool { return comes(m[1], 6*l.o.Study.Running[0].Cost) }),
		form(`[Ii]f growth is (slow|fast), (?:{O} costs least, {A}|no option serves every month)[.;]`, func(l *listener, m []string) bool {
			other := l.inCase(m[1])
			if m[2] == "" {
				return len(other.in()) == 0
			}
			i := other.at(m[2])
			return other.o.Results[i].In() && other.least(other.total, i) && comes(m[3], other.total(i))
		}),
	},
	"verdict": {
		form(`Pick {O} on {P}, paid (monthly|yearly|once for life)(?:, moving (.*?))?\. It (.*?)(?:is the only option( left in)?: {A}|costs least: {A}|costs least, as do(?:es)? {OS}: {A}|costs {A} more than the cheapest, {O},) over 6 months\.`, func(l *listener, m []string) bool {
			at := l.at(m[1])
			r := &l.o.Results[at]
			first := &r.Schedule.Months[0]
			if !r.In() || first.Plan().Name != m[2] || study.SayTerm(first.Term()) != m[3] {
				return false
			}
			moves := ""
			for t, was := 1, first.Plan().Name; t < 6; t++ {
				if now := r.Schedule.Months[t].Plan().Name; now != was {
					moves, was = moves+"to "+now+" in "+l.o.Study.Month(t).String()+"|", now
				}
			}
			if strings.NewReplacer(", to ", "|to ", " and to ", "|to ").Replace(m[4]) != strings.TrimSuffix(moves, "|") {
				return false
			}
			for _, i := range l.in() {
				if other := &l.o.Results[i]; other.Standing.Complete() && r.Standing.Complete() && other.Standing.Fit.Tenths() > r.Standing.Fit.Tenths() {
					return false
				}
			}
			if l.subject = at; !l.merits(m[5], at) {
				return false
			}
			if len(l.rateless()) > 0 || (m[7] != "") != (len(l.in()) == 1) {
				return false
			}
			switch {
			case m[7] != "":
				return (m[6] != "") == (len(l.o.Results) > 1) && comes(m[7], l.total(at))
			case m[8] != "":
				for _, i := range l.in() {
					if i != at && l.total(i) <= l.total(at) {
						return false
					}
				}
				return comes(m[8], l.total(at))
			case m[9] != "":
				for _, i := range l.of(m[9]) {
					if l.total(i) != l.total(at) {
						return false
					}
				}
				return comes(m[10], l.total(at)) && l.least(l.total, at)
			}
			i := l.at(m[12])
			return l.least(l.total, i) && comes(m[11], l.total(at)-l.total(i))
		}),
		form(`It is too early to pick: there is no rate from GBP to EUR, and without it {OS} (?:has|have) no price\.`, func(l *listener, m []string) bool { return slices.Equal(l.of(m[1]), l.rateless()) }),
		form(`It is too early to pick: (.*) could come first\.`, func(l *listener, m []string) bool { return l.could(m[1]) }),
		form(`There is no pick yet\. (.*)`, func(l *listener, m []string) bool { return l.none(m[1]) }),
	},
	"next": {form(`Next is {O}, (?:{F} behind|(level)) on fit(?:; it scores higher on (.*?))?(?: (?:and|but) costs (?:{A} (less|more)|(the same)))?\.`, func(l *listener, m []string) bool {
		i, first := l.at(m[1]), l.o.Pick.First
		a, b := &l.o.Results[first].Standing, &l.o.Results[i].Standing
		behind := fmt.Sprintf("%.1f", float64(a.Fit.Tenths()-b.Fit.Tenths())/10)
		if m[2] != "" && m[2] != behind || m[3] != "" && behind != "0.0" {
			return false
		}
		if m[4] != "" && !l.higher(i, []int{first}, m[4]) {
			return false
		}
		d := l.total(i) - l.total(first)
		switch {
		case m[6] == "less":
			return d < 0 && comes(m[5], -d)
		case m[6] == "more":
			return d > 0 && comes(m[5], d)
		}
		return d == 0
	})},
	"scores": {
		form(`{O} leads on fit with {F} of 9(?: to {F} for {O})?\.`, func(l *listener, m []string) bool {
			at := l.at(m[1])
			l.subject = at
			return l.o.Results[at].Standing.String() == m[2] && (m[3] == "" || l.o.Results[l.at(m[4])].Standing.String() == m[3]) && (m[3] != "") == (l.o.Pick.Next >= 0)
		}),
		form(`{OS} are level on fit with {F} of 9, and {O} costs least of them\.`, func(l *listener, m []string) bool {
			l.subject = l.at(m[3])
			for _, i := range l.of(m[1]) {
				if l.o.Results[i].Standing.String() != m[2] || l.total(i) < l.total(l.subject) {
					return false
				}
			}
			return true
		}),
		form(`(Cost|Ease|Cover) carries the most of it, {F} points\.`, func(l *listener, m []string) bool {
			most, name := -1.0, ""
			for _, p := range l.o.Results[l.subject].Standing.Parts {
				if p.Known && p.Points() > most {
					most, name = p.Points(), p.Criterion.Name
				}
			}
			return name == m[1] && fit.Score(most).String() == m[2]
		}),
		form(`Of its ratings {N} (?:is|are) missing, which cannot turn the order\.`, func(l *listener, m []string) bool {
			n := 0
			for _, p := range l.o.Results[l.subject].Standing.Parts {
				if p.Criterion.Source == fit.Rated && !p.Known && p.Weight > 0 {
					n++
				}
			}
			return n == number(m[1])
		}),
		form(`No option leads yet: there is no rate from GBP to EUR, and without it {OS} (?:has|have) no price\.`, func(l *listener, m []string) bool { return slices.Equal(l.of(m[1]), l.rateless()) }),
		form(`No option leads yet: (.*) could come first\.`, func(l *listener, m []string) bool { return l.could(m[1]) }),
		form(`No option leads yet\. (.*)`, func(l *listener, m []string) bool { return l.none(m[1]) }),
	},
	"coverage": {
		form(`No needs are told yet; every plan will do\.`, func(l *listener, _ []string) bool { return len(l.o.Study.Needs) == 0 }),
		form(`None of the needs is a must; every plan will do\.`, func(l *listener, _ []string) bool { return l.levels(coverage.Must) == 0 && len(l.o.Study.Needs) > 0 }),
		form(`(All {N} options|Both options|The only option|{N} of {N} options|No option|None of {N} options) can meet (all {N} musts|both musts|the must)\.`, func(l *listener, m []string) bool {
			meets := l.musts(func(a coverage.Answer) bool { return a == coverage.Met })
			all := len(l.o.Results)
			said := map[string]int{"All": all, "Bot": 2, "The": 1, "No ": 0, "Non": 0}[m[1][:3]]
			if m[3] != "" {
				if said = number(m[3]); number(m[4]) != all {
					return false
				}
			}
			musts := 1
			switch m[6][:3] {
			case "all":
				musts = number(m[7])
			case "bot":
				musts = 2
			}
			return said == meets && (m[2] == "" || number(m[2]) == all) && musts == l.levels(coverage.Must)
		}),
		form(`Of {N} it is not yet known\.`, func(l *listener, m []string) bool {
			return number(m[1]) == l.musts(func(a coverage.Answer) bool { return a == coverage.Open })
		}),
		form(`Of (?:the only option|all {N} options|both options) it is not yet known whether (all {N} musts|both musts|the must) can be met\.`, func(l *listener, m []string) bool {
			return l.musts(func(a coverage.Answer) bool { return a == coverage.Open }) == len(l.o.Results) && (m[1] == "" || number(m[1]) == len(l.o.Results))
		}),
		form(`(Forms|Tests) is what pushes {O} to {P}(?:; without it {P} would do and save {A} a month)?\.`, func(l *listener, m []string) bool {
			r := &l.o.Results[l.at(m[2])]
			if r.Today.Plan.Name != m[3] {
				return false
			}
			s := *l.o.Study
			s.Needs, s.Horizon = slices.DeleteFunc(slices.Clone(s.Needs), func(n coverage.Need) bool { return n.Name == m[1] }), 1 // as it is in the first month
			without := study.Compute(&s).Results[l.at(m[2])].Today
			return m[4] == "" || without.Plan.Name == m[4] && comes(m[5], r.Today.Monthly()-without.Monthly())
		}),
		form(`Each must is met somewhere, but no one plan meets them all\.`, func(l *listener, _ []string) bool {
			return l.musts(func(a coverage.Answer) bool { return a == coverage.Unmet }) == len(l.o.Results)
		}),
		form(`(?:Each misses more than one, so giving up a single must lets none back in|It misses more than one)\.`, always),
		form(`Giving up (forms|tests) as a must lets (?:(all {N}|both|the only) options?|{N} of {N} options) back in(?:; so does (?:forms|tests))?\.`, func(l *listener, m []string) bool {
			back, all := 0, len(l.o.Results)
			for i := range l.o.Results {
				misses := []string{}
				for _, c := range l.o.Results[i].Coverage {
					if c.Need.Level == coverage.Must && c.Answer == coverage.Unmet {
						misses = append(misses, strings.ToLower(c.Need.Name))
					}
				}
				if slices.Equal(misses, []string{m[1]}) {
					back++
				}
			}
			if m[2] != "" {
				return back == all
			}
			return back == number(m[4]) && all == number(m[5])
		}),
	},
	"prices": {
		form(`In Jan 2027 the plans(?: with everything you must have| that have, or may have, everything you must have)? cost from {A} a month \({O} on {P}\) to {A} \({O} on {P}\)\.`, func(l *listener, m []string) bool {
			low, high := l.at(m[2]), l.at(m[5])
			pays := func(i int) money.Amount { return l.o.Results[i].Today.Monthly() }
			for _, i := range l.today() {
				if pays(i) < pays(low) || pays(i) > pays(high) {
					return false
				}
			}
			return comes(m[1], pays(low)) && comes(m[4], pays(high)) && l.o.Results[low].Today.Plan.Name == m[3] && l.o.Results[high].Today.Plan.Name == m[6]
		}),
		form(`In Jan 2027 the plans.*? of {N} options all cost (?:{A} a month|nothing)\.`, func(l *listener, m []string) bool {
			for _, i := range l.today() {
				if m[2] == "" && l.o.Results[i].Today.Monthly() != 0 || m[2] != "" && !comes(m[2], l.o.Results[i].Today.Monthly()) {
					return false
				}
			}
			return number(m[1]) == len(l.today())
		}),
		form(`In Jan 2027 {P} of {O} costs {A} a month, and is the only plan(?: that serves| with everything you must have| that may have everything you must have)\.`, func(l *listener, m []string) bool {
			i := l.at(m[2])
			return slices.Equal(l.today(), []int{i}) && l.o.Results[i].Today.Plan.Name == m[1] && comes(m[3], l.o.Results[i].Today.Monthly())
		}),
		form(`{O} costs {A} for {N} months?, then {A}\.`, func(l *listener, m []string) bool {
			today := l.o.Results[l.at(m[1])].Today
			return comes(m[2], today.Monthly()) && number(m[3]) == 3 && comes(m[4], 2*today.Monthly())
		}),
		form(`No plan of any option can serve today's usage\.`, func(l *listener, _ []string) bool { return len(l.today()) == 0 }),
	},
	"line-up": {
		form(`{N} options? (?:is|are) in the running\.`, func(l *listener, m []string) bool { return number(m[1]) == len(l.o.Results) }),
		form(`{O} runs today, for {A} a month\.`, func(l *listener, m []string) bool {
			r := &l.o.Results[l.at(m[1])]
			return r.Option.Now && comes(m[2], r.Today.Monthly())
		}),
		form(`(?:All of them meet (?:all {N} needs|both needs|(the need)): what decides is elsewhere|All of them meet {N} of {N} needs; what decides is (?:in the other {N}|the other one)|(No need is met by all of them))\.`, func(l *listener, m []string) bool {
			shared, all := 0, len(l.o.Study.Needs)
			for n := range l.o.Study.Needs {
				if !slices.ContainsFunc(l.o.Results, func(r study.Result) bool { // on the plan taken
					if r.Today == nil {
						return r.Coverage[n].Answer != coverage.Met
					}
					need := &l.o.Study.Needs[n]
					return need.Meets(r.Today.Plan.Feature(need.Feature)) != coverage.Met
				}) {
					shared++
				}
			}
			switch {
			case strings.Contains(m[0], "elsewhere"):
				return shared == all && (m[1] == "" || number(m[1]) == all) && strings.Contains(m[0], "both") == (all == 2)
			case m[6] != "":
				return shared == 0
			}
			return number(m[3]) == shared && number(m[4]) == all && (number(m[5]) == all-shared || m[5] == "" && all-shared == 1)
		}),
	},
	"doing": {
		form(`{O}: (.*)\. That costs {A} over `+over+`\.`, func(l *listener, m []string) bool {
			r := &l.o.Results[l.at(m[1])]
			return goes(r.Schedule.Months, m[2]) && comes(m[3], r.Schedule.Total)
		}),
		form(`There is nothing to do yet: no option serves every month\.`, func(l *listener, _ []string) bool { return len(l.in()) == 0 }),
	},
	"leaving": {
		form(`What staying on {O} costs cannot be told\.`, func(l *listener, m []string) bool {
			i := l.at(m[1])
			return l.unpriced(i) && l.o.Results[i].Option.Now
		}),
		form(`Staying on {O} costs {A} over `+over+`\. ?`, func(l *listener, m []string) bool {
			return comes(m[2], l.total(l.at(m[1]))) && l.o.Results[l.at(m[1])].Option.Now
		}),
		form(`Leaving it now for {O} saves {A}, the move taken off, and has paid for itself by the end of {M}\.`, func(l *listener, m []string) bool {
			now := slices.IndexFunc(l.o.Results, func(r study.Result) bool { return r.Option.Now })
			to := l.at(m[1])
			paid, t := -1, 0
			var a, b money.Amount
			for ; t < 6; t++ { // no move costs anything in these studies
				a, b = a+l.o.Results[to].Schedule.Months[t].Accrued, b+l.o.Results[now].Schedule.Months[t].Accrued
				if a > b {
					paid = -1
				} else if paid < 0 {
					paid = t
				}
			}
			return comes(m[2], b-a) && paid == month(m[3])
		}),
		form(`No option pays for the move within the horizon\.`, always),
		form(`(?:Staying on )?{O}(?: costs {A}, but serves only until {M}|, which runs today, does not serve even the first month)\.`, func(l *listener, m []string) bool {
			r := &l.o.Results[l.at(m[1])]
			return r.Option.Now && (m[2] == "" && !r.Schedule.Months[0].Serves || m[2] != "" && comes(m[2], r.Schedule.Total) && r.Schedule.Months[month(m[3])].Serves && !r.Schedule.Months[month(m[3])+1].Serves)
		}),
		form(`Of those that serve all months, leaving it now for {O} costs least: {A}, the move counted\.`, func(l *listener, m []string) bool {
			for _, i := range l.in() {
				if !l.o.Results[i].Option.Now && l.total(i) < l.total(l.at(m[1])) {
					return false
				}
			}
			return comes(m[2], l.total(l.at(m[1])))
		}),
		form(`No option in the line-up serves all months\.`, func(l *listener, _ []string) bool { return len(l.in()) == 0 }),
		form(`What runs today costs {A} over `+over+`, as the brief tells\. Bring it into the line-up, marked as what runs today, and leaving it can be weighed\.`, func(l *listener, m []string) bool {
			return comes(m[1], 6*l.o.Study.Running[0].Cost)
		}),
		form(`Neither brief nor line-up says what runs today, so there is nothing to leave\.`, func(l *listener, _ []string) bool {
			return len(l.o.Study.Running) == 0 && !slices.ContainsFunc(l.o.Results, func(r study.Result) bool { return r.Option.Now && !r.AtFault })
		}),
	},
	"bargain": {
		form(`{O} costs least at its list's prices\.`, func(l *listener, m []string) bool { return l.least(l.total, l.at(m[1])) }),
		form(`{O} would from (\d+(?:\.\d)?)% off its list on\.`, func(l *listener, m []string) bool {
			tenths, i := math.Round(10*mustFloat(m[2])), l.at(m[1])
			at := func(tenths float64) money.Amount {
				s := *l.o.Study
				s.Options = slices.Clone(s.Options)
				s.Options[i].Edition = pricelist.Cut(s.Options[i].Edition, money.Share(tenths*1000))
				return study.Compute(&s).Results[i].Schedule.Total
			}
			least := l.total(l.in()[0])
			for _, k := range l.in() {
				least = min(least, l.total(k))
			}
			return at(tenths) <= least && at(tenths-1) > least
		}),
		form(`There is nothing to bargain for: no option serves every month\.`, func(l *listener, _ []string) bool { return len(l.in()) == 0 }),
	},
	"nothing": {form(`Counted as 0 in all months: (seats), which price lists here count\.`, func(l *listener, _ []string) bool {
		return !slices.ContainsFunc(l.o.Values.Of("seats"), func(v float64) bool { return v != 0 })
	})},
	"unsaid": {form(`Counted as unlimited, as the price list says nothing of (?:it|them): (.*)\.`, func(l *listener, m []string) bool {
		for _, one := range strings.Split(m[1], "; ") {
			driver, on, _ := strings.Cut(one, " on ")
			for _, where := range regexp.MustCompile(`, | and `).Split(on, -1) {
				part := regexp.MustCompile(places.Replace(`^{P} \({O}\)$`)).FindStringSubmatch(where)
				if part == nil {
					return false
				}
				r := &l.o.Results[l.at(part[2])]
				if p := r.Today.Plan; p.Name != part[1] || r.Tools[0].Tool.Edition.Counts(p, driver) {
					return false
				}
			}
		}
		return true
	})},
	"settled": {
		form(`Nothing to settle: prices are fresh(, needs are known)?(?:,| and) (?:and )?ratings are complete\.`, func(l *listener, m []string) bool {
			n := 0
			for _, v := range l.o.Vendors() {
				n += len(v.Questions)
			}
			return m[1] == "" || n == 0 && len(l.o.Study.Needs) > 0
		}),
		form(`Still open: {N} questions? for vendors\.`, func(l *listener, m []string) bool {
			needs, unsaid := l.asks()
			return needs+unsaid == number(m[1])
		}),
	},
	"questions": {
		form(`{N} things? (?:is|are) needed and unknown\. Unknown does not mean no: nothing is out for it, and nothing is promised either\.`, func(l *listener, m []string) bool {
			needs, _ := l.asks()
			return needs == number(m[1])
		}),
		form(`(?:(Of every need it is known how each option has it)|There are no needs yet)\.`, func(l *listener, m []string) bool {
			needs, _ := l.asks()
			return needs == 0 && (m[1] != "") == (len(l.o.Study.Needs) > 0)
		}),
		form(`{N} things? (?:is|are) counted as unlimited, as a price list says nothing of (it|them)\.`, func(l *listener, m []string) bool {
			if (number(m[1]) == 1) != (m[2] == "it") {
				return false
			}
			_, unsaid := l.asks()
			return unsaid == number(m[1])
		}),
	},
	"falls": {
		form(`(?:The cost of {O} is counted less what it makes unneeded|{O} makes unneeded): Old tool, {A} a month(?: from {M})?\.( This study does not count it off\.)?`, func(l *listener, m []string) bool {
			i := l.at(m[1] + m[2])
			r := &l.o.Results[i]
			from := 0
			if m[4] != "" {
				from = month(m[4])
			}
			for t := range r.Schedule.Months {
				want := money.Amount(0)
				if m[5] == "" && t >= from {
					want = l.o.Study.Running[0].Cost
				}
				if !r.AtFault && r.Schedule.Months[t].Falls != want {
					return false
				}
			}
			return comes(m[3], l.o.Study.Running[0].Cost) && (m[5] != "") == (m[2] != "")
		}),
	},
	"ways": {
		form(`Next nearest is {P}: (?:no (?:forms|tests)|seats pass {N}|prices are in GBP and the study has no rate from GBP to EUR|.*)\.`, always),
		form(`The price of {P} is on request: ask them, and enter what they quote\.`, func(l *listener, m []string) bool {
			for i := range l.o.Results {
				for _, p := range l.o.Results[i].Tools[0].Tool.Edition.Plans {
					if p.Name == m[1] {
						return p.Offered == pricelist.OnRequest
					}
				}
			}
			return false
		}),
	},
	"rests": {form(`The cost of {O} includes “Half”; without, it is {A} over 6 months, not {A}\.`, func(l *listener, m []string) bool {
		i := l.at(m[1])
		s := *l.o.Study
		s.Options = slices.Clone(s.Options)
		e := *s.Options[i].Edition
		e.Offers = nil
		s.Options[i].Edition = &e
		return comes(m[3], l.total(i)) && comes(m[2], study.Compute(&s).Results[i].Schedule.Total)
	})},
	"along": {
		form(`At the {N} contacts? of Jan 2027 (?:{O} costs least(?:, level with {OS}|, taking turns with {O}, at most {A} apart)?|nothing serves)`+
			`(?:; above {N} it is {O}(?:, level with {OS}|, taking turns with {OS}, at most {A} apart)?)?\.`, func(l *listener, m []string) bool {
			now := number(m[1])
			if m[2] == "" {
				return len(l.cheapestAt(now)) == 0
			}
			at := l.cheapestAt(now)
			ok := now == 100 && slices.Contains(at, l.at(m[2]))
			if m[3] != "" {
				want := append(l.of(m[3]), l.at(m[2]))
				slices.Sort(want)
				ok = ok && slices.Equal(at, want)
			}
			if m[6] != "" {
				x := number(m[6])
				above := l.cheapestAt(x + 1)
				ok = ok && slices.Contains(above, l.at(m[7])) && !slices.Contains(above, l.at(m[2])) && slices.Contains(l.cheapestAt(x), l.at(m[2])) &&
					(m[9] != "" || l.same(above, m[7], m[8]))
			}
			return ok
		}),
		form(`At the {N} of Jun 2027, all else as in Jan 2027, `+
			`(?:{O} (costs least|still does)(?:, level with {OS}|, taking turns with {OS}, at most {A} apart)?|(nothing serves))\.`,
			func(l *listener, m []string) bool {
				at := l.cheapestAt(number(m[1]))
				if number(m[1]) != 3200 || m[7] != "" {
					return number(m[1]) == 3200 && len(at) == 0
				}
				return slices.Contains(at, l.at(m[2])) && (m[5] != "" || l.same(at, m[2], m[4])) && (m[3] == "costs least" || slices.Contains(l.cheapestAt(100), l.at(m[2])))
			}),
	},
}

func mustFloat(s string) float64 { v, _ := strconv.ParseFloat(s, 64); return v }

// named reports whether results are those that are named.
func (l *listener) named(results []int, names string) bool {
	if names == "" {
		return len(results) == 0
	}
	slices.Sort(results)
	want := l.of(names)
	slices.Sort(want)
	return slices.Equal(results, want)
}

// same reports whether results are one option and those that are named beside it.
func (l *listener) same(results []int, one, others string) bool {
	at := l.at(one)
	return slices.Contains(results, at) && l.named(slices.DeleteFunc(slices.Clone(results), func(i int) bool { return i == at }), others)
}

// cheapestAt are the options that cost least at a number of contacts, of those that miss no
// must.
func (l *listener) cheapestAt(x int) (all []int) {
	axis, _ := l.o.Axis("contacts")
	var least money.Amount
	for i := range l.o.Results {
		if !mayCostLeast(l.o.Results[i]) {
			continue
		}
		prices, _, err := l.o.PricesAt(context.Background(), i, axis, 0, []int64{int64(x)})
		if err != nil || prices[0] == nil {
			continue
		}
		switch p := *prices[0]; {
		case len(all) == 0 || p < least:
			all, least = []int{i}, p
		case p == least:
			all = append(all, i)
		}
	}
	return all
}

// rateless are the options that nothing stands against but a rate that is missing, where others are in.
func (l *listener) rateless() (all []int) {
	for i := range l.o.Results {
		if r := &l.o.Results[i]; len(l.in()) > 0 && r.Option.Edition.Currency.Code() == "GBP" && len(r.Standing.Out) == 1 {
			all = append(all, i)
		}
	}
	return all
}

// merits are those of a pick: "meets every must, leads on cost, and ".
func (l *listener) merits(text string, at int) bool {
	r := &l.o.Results[at]
	for _, c := range []claim{
		form(`meets every must,(?: and)?`, func(*listener, []string) bool {
			return l.levels(coverage.Must) > 0 && !slices.ContainsFunc(r.Schedule.Months, func(m projection.Month) bool {
				return slices.ContainsFunc(l.o.Study.Needs, func(n coverage.Need) bool {
					return n.Level == coverage.Must && n.Meets(m.Plan().Feature(n.Feature)) != coverage.Met
				})
			})
		}),
		form(`leads on ((?:(?:cost|ease|cover)(?:, | and )?)+?),(?: and)?`, func(_ *listener, m []string) bool { return len(l.in()) > 1 && l.higher(at, l.in(), m[1]) }),
		form(`is level on fit with {OS} and no dearer,(?: and)?`, func(_ *listener, m []string) bool {
			return !slices.ContainsFunc(l.of(m[1]), func(i int) bool {
				return l.o.Results[i].Standing.String() != r.Standing.String() || l.total(i) < l.total(at)
			})
		}),
	} {
		if m := c.words.FindStringSubmatch(text); m != nil {
			return c.holds(l, m) && l.merits(text[len(m[0]):], at)
		}
	}
	return text == ""
}

// could holds what is open, and who could come first.
func (l *listener) could(text string) bool {
	m := regexp.MustCompile(places.Replace(`^(?:{N} ratings? (?:is|are) missing)?(?: and )?(?:{N} needs? (?:is|are) not yet known)?, and (?:each of the {N} options|only {O} is in|(.*))$`)).FindStringSubmatch(text)
	if m == nil {
		return false
	}
	ratings, needs := l.missing()
	if number(m[1]) != ratings || number(m[2]) != needs || m[3] != "" && number(m[3]) != len(l.in()) {
		return false
	}
	for _, one := range regexp.MustCompile(places.Replace(`{O} \({F}\)`)).FindAllStringSubmatch(m[5], -1) {
		if l.o.Results[l.at(one[1])].Standing.String() != one[2] {
			return false
		}
	}
	return true
}

// none holds why there is no pick.
func (l *listener) none(text string) bool {
	switch {
	case strings.HasPrefix(text, "Every option is out: "):
		return len(l.in()) == 0
	case text == "Nothing has been rated under Scores.":
		return !slices.ContainsFunc(l.in(), func(i int) bool { return l.o.Results[i].Standing.Known > 0 })
	}
	return false
}

// holds reports whether a claim is so; one about what is not there is not.
func (l *listener) holds(c *claim, m []string) (so bool) {
	defer func() {
		if recover() != nil {
			so = false
		}
	}()
	return c.holds(l, m)
}

// hear reads a text; what is left of it is what was not understood, or is not so.
func (l *listener) hear(topic, text string) (wrong string) {
	for i := range l.o.Results {
		if name := l.o.Results[i].Option.Name; l.unpriced(i) {
			none, had := " "+name+" has no price here: there is no rate from GBP to EUR.", text
			if text = strings.Replace(strings.ReplaceAll(text, " with a price", ""), none, "", 1); slices.Contains(ofPrices, topic) && !strings.Contains(had, none) {
				return "does not tell that " + name + " has no price: " + text
			}
		}
	}
	for text != "" {
		read := false
		for _, c := range append(forms[topic], formsOfEach[topic]...) {
			if m := c.words.FindStringSubmatch(text); m != nil && len(m[0]) > 0 {
				if read = l.holds(&c, m); !read {
					return "not so: " + text
				}
				text = strings.TrimLeft(text[len(m[0]):], " ")
				break
			}
		}
		if !read {
			return "not understood: " + text
		}
	}
	return ""
}

// ofPrices are the sentences that tell which options have no price for the lack of a rate.
var ofPrices = []string{"costs", "prices", "doing", "leaving", "bargain", "along", "field"}

// unpriced reports whether an option's price needs a rate that is not there.
func (l *listener) unpriced(i int) bool {
	return l.o.Results[i].Option.Edition.Currency.Code() == "GBP"
}

// Every number and claim of what is said of a study is so: the sentences are read by forms of
// this test's own, and recomputed. Sentences with a fault put in are found.
func TestWhatIsSaidIsSo(t *testing.T) {
	r := rand.New(rand.NewPCG(24, 20))
	heard, faults, found := map[string]int{}, map[string]int{}, map[string]int{}
	digits := regexp.MustCompile(`\d+`)
	for n := range 500 {
		o := study.Compute(spoken(rand.New(rand.NewPCG(24, uint64(n)))))
		for key, text := range said(t, o) {
			topic, _, _ := strings.Cut(key, " ")
			if text == "" || topic == "region" {
				continue
			}
			l := &listener{o: o}
			require.Empty(t, l.hear(topic, text), "study %d, %s: %s", n, key, text)
			heard[topic]++
			// A number that is another, and an option that is another.
			at := digits.FindAllStringIndex(text, -1)
			if len(at) > 0 {
				one := at[r.IntN(len(at))]
				v, _ := strconv.Atoi(text[one[0]:one[1]])
				other := text[:one[0]] + strconv.Itoa(v+1+r.IntN(3)) + text[one[1]:]
				faults["number"]++
				if (&listener{o: o}).hear(topic, other) != "" {
					found["number"]++
				}
			}
			if len(o.Results) > 1 {
				a, b := o.Results[0].Option.Name, o.Results[1].Option.Name
				other := strings.NewReplacer(a, b, b, a).Replace(text)
				if other != text {
					faults["name"]++
					if (&listener{o: o}).hear(topic, other) != "" {
						found["name"]++
					}
				}
			}
		}
	}
	for _, topic := range slices.Collect(maps.Keys(forms)) {
		require.Greater(t, heard[topic], 10, topic)
	}
	require.Greater(t, found["number"]*100, faults["number"]*97, "%v of %v", found, faults)
	require.Greater(t, found["name"]*100, faults["name"]*85, "%v of %v", found, faults)
}
