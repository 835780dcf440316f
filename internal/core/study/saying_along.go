package study

import (
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/usage"
)

// countsOf is what a driver counts, as it stands in a sentence: "contacts".
func countsOf(d usage.Driver) string { return usage.LowerFirst(d.Name) }

// RegionWords says where each option costs least: runs of one option together, in the
// order in which they first come.
type RegionWords struct {
	Result int // -1: nothing serves
	Text   string
}

// SayRegions says for each option where along a driver it costs least: "up to 14,200
// contacts, and again above 60,000".
func (o *Outcome) SayRegions(regions []projection.Region, d Axis, low, high int64) (all []RegionWords) {
	var order []int
	runs := map[int][]string{}
	for i := 0; i < len(regions); i++ {
		r := regions[i]
		if _, seen := runs[r.Least]; !seen {
			order = append(order, r.Least)
		}
		first := i
		for ; i+1 < len(regions) && regions[i+1].Least == r.Least; i++ {
			r.To = regions[i+1].To
		}
		var beside []string
		for j := first; j <= i; j++ {
			where := "there"
			if first < i {
				where = o.sayRun(regions[j], d, low, high, false)
			}
			if regions[j].Level() {
				beside = append(beside, o.sayBeside(&regions[j], where))
			}
		}
		text := o.sayRun(r, d, low, high, len(runs[r.Least]) == 0)
		if len(beside) > 0 {
			text += " (" + sayAgain(beside) + ")"
		}
		runs[r.Least] = append(runs[r.Least], text)
	}
	for _, least := range order {
		all = append(all, RegionWords{least, sayAgain(runs[least])})
	}
	return all
}

// sayBeside says who costs the same in a region, or takes turns with the cheapest.
func (o *Outcome) sayBeside(r *projection.Region, where string) string {
	names := make([]string, len(r.Beside))
	for i, result := range r.Beside {
		names[i] = o.name(result)
	}
	if r.Apart > 0 {
		return strings.TrimSpace("taking turns with "+list(names)+" "+where) + ", at most " + o.minor(r.Apart) + " apart"
	}
	return strings.TrimSpace("level with " + list(names) + " " + where)
}

// sayLevel ends what is said of the cheapest in a region by who costs the same there.
func (o *Outcome) sayLevel(r *projection.Region) string {
	if !r.Level() {
		return ""
	}
	return ", " + o.sayBeside(r, "")
}

// minor writes an amount in minor units of the study's currency.
func (o *Outcome) minor(n int64) string {
	return o.Study.Currency.Format(money.Amount(n * o.Study.Currency.Minor()))
}

// Trade is a value of a driver at which two options trade places, or begin to take turns or
// to be level.
type Trade struct {
	X    int64
	A, B int // results; A costs less from there on, where one does
	Text string
}

// Trades lists where any two options trade places along a driver, in the order of its
// values. What begins or ends to serve is none.
func (o *Outcome) Trades(a *Along) (all []Trade) {
	for i := range a.Pairs {
		p := &a.Pairs[i]
		for k, run := range p.Runs {
			if run.Less == projection.Unserved || k > 0 && p.Runs[k-1].Less == projection.Unserved && run.Less >= 0 || k == 0 && run.Less >= 0 {
				continue
			}
			one := Trade{X: run.From, A: p.A, B: p.B}
			on := " " + o.sayRun(projection.Region{From: run.From, To: run.To}, a.Driver, a.Low, a.High, false)
			switch run.Less {
			case projection.Same:
				one.Text = "costs the same as " + o.name(p.B) + on
			case projection.Turning:
				one.Text = fmt.Sprintf("and %s take turns%s, at most %s apart", o.name(p.B), on, o.minor(run.Apart))
			default:
				one.A, one.B = run.Less, p.A+p.B-run.Less
				one.Text = "costs less than " + o.name(one.B) + " from here on"
				if k+1 < len(p.Runs) {
					one.Text = "costs less than " + o.name(one.B) + ", up to " + a.Driver.Show(run.To)
				}
			}
			all = append(all, one)
		}
	}
	slices.SortStableFunc(all, func(a, b Trade) int { return int(max(-1, min(1, a.X-b.X))) })
	return all
}

// mostRuns is how many runs of values are told one by one.
const mostRuns = 6

func sayAgain(runs []string) string {
	if n := len(runs); n > mostRuns {
		runs = append(slices.Clone(runs[:mostRuns-1]), fmt.Sprintf("in %d more places", n-mostRuns+1))
	}
	for i := 1; i < len(runs); i++ {
		runs[i] = "again " + runs[i]
	}
	return list(runs)
}

func (o *Outcome) sayRun(r projection.Region, d Axis, low, high int64, first bool) string {
	number, last := d.Show, d.Show
	if first {
		last = d.Count
	}
	switch {
	case r.From == low && r.To == high:
		return d.any() + " up to " + number(high)
	case r.From == r.To:
		return "at " + last(r.From)
	case r.From == low:
		return "up to " + last(r.To)
	case r.To == high:
		return "above " + last(r.From-1)
	}
	return fmt.Sprintf("from %s to %s", number(r.From), last(r.To))
}

// SayAlong tells who costs least along a driver, where it stands now, and at the end.
func (o *Outcome) SayAlong(a *Along) Phrase { return o.priced(o.sayAlong(a)) }

func (o *Outcome) sayAlong(a *Along) Phrase {
	if len(a.Regions) == 0 {
		return say("There is nothing to follow: the line-up is empty.")
	}
	in := func(x int64) *projection.Region {
		for i := range a.Regions {
			if r := &a.Regions[i]; r.From <= x && x <= r.To {
				return r
			}
		}
		return &projection.Region{Least: -1}
	}
	at := func(x int64) int { return in(x).Least }
	number := a.Driver.Show
	what := countsOf(a.Driver.Driver)
	least := at(a.Now)
	month := o.Study.Month(a.Month).String()
	p := say("At the *%s* %s of %s ", number(a.Now), a.Driver.of(a.Now), month)
	if a.Driver.Parts > 1 {
		p = say("With %s at *%s*, as in %s, ", what, number(a.Now), month)
	}
	switch {
	case a.Now >= a.Low && a.Now <= a.High && least >= 0:
		p = append(p, say("*%s* costs least", o.name(least))...)
		p = append(p, say("%s", o.sayLevel(in(a.Now)))...)
	case a.Now >= a.Low && a.Now <= a.High:
		p = append(p, say("nothing%s serves", o.withPrice())...)
	case a.Driver.Parts > 1:
		p = append(p, say("we stand outside what is followed here")...)
	default:
		p = say("The *%s* %s of %s lie outside what is followed here", number(a.Now), a.Driver.of(a.Now), month)
	}
	for _, r := range a.Regions {
		if r.From > a.Now && a.Now >= a.Low && r.Least >= 0 && r.Least != least && !slices.Contains(r.Beside, least) {
			p = append(p, say("; above *%s* it is *%s*%s", number(r.From-1), o.name(r.Least), o.sayLevel(&r))...)
			break
		}
	}
	p = append(p, Part{Text: "."})
	if a.Ends != a.Now && a.Ends >= a.Low && a.Ends <= a.High {
		end := say("At the *%s* of %s, all else as in %s, ", number(a.Ends), o.Study.Month(o.Study.Horizon-1).String(), month)
		switch best := in(a.Ends); best.Least {
		case -1:
			end = append(end, say("nothing%s serves.", o.withPrice())...)
		case least:
			end = append(end, say("*%s* still does%s.", o.name(least), o.sayLevel(best))...)
		default:
			end = append(end, say("*%s* costs least%s.", o.name(best.Least), o.sayLevel(best))...)
		}
		p = p.and(end)
	}
	return p
}

// does ends a sentence about who is best somewhere.
func (o *Outcome) does(result int) Phrase {
	if result < 0 {
		return say("nothing%s serves", o.withPrice())
	}
	return say("*%s* does", o.name(result))
}

// SayField tells who is best where two drivers stand, and where growth leads.
func (o *Outcome) SayField(f *Field, byFit bool) Phrase { return o.priced(o.sayField(f, byFit)) }

func (o *Outcome) sayField(f *Field, byFit bool) Phrase {
	if len(f.Results) == 0 {
		return say("There is nothing to lay out: no option misses no must.")
	}
	does := "costs least"
	if byFit {
		does = "fits best"
	}
	inside := f.Inside()
	if inside == 0 {
		return say("Where we stand lies outside what is laid out here.")
	}
	last := inside - 1
	now, then := f.On[0], f.On[last]
	p := say("Where we stand nothing%s serves", o.withPrice())
	if now >= 0 {
		p = say("Where we stand *%s* %s%s", o.name(f.Results[now]), does, o.sayLevelAt(f, 0))
	}
	passes := f.Passes()
	switch {
	case len(passes) == 0:
		p = append(p, say(", and growth stays in its part of the field")...)
	case then == now:
		p = append(p, say("; growth leaves its part of the field and comes back to it")...)
	default:
		result := -1
		if then >= 0 {
			result = f.Results[then]
		}
		p = append(p, say("; by *%s* growth leads to where ", o.Study.Month(last).String())...)
		p = append(p, o.does(result)...)
		p = append(p, say("%s", o.sayLevelAt(f, last))...)
	}
	if p = append(p, Part{Text: "."}); inside < len(f.Path) {
		p = p.and(say("In *%s* it leaves what is laid out here.", o.Study.Month(inside).String()))
	}
	return p
}

// sayLevelAt ends what is said of who is best in a month of a field by who costs the same.
func (o *Outcome) sayLevelAt(f *Field, month int) string {
	if len(f.Level) <= month || len(f.Level[month]) == 0 {
		return ""
	}
	names := make([]string, len(f.Level[month]))
	for i, k := range f.Level[month] {
		names[i] = o.name(f.Results[k])
	}
	return ", level with " + list(names)
}

// Pass is a month in which growth passes from the part of one option to that of another.
type Pass struct {
	Month    int
	From, To int // indices of options of the field; -1: nothing
}

// Passes lists them.
func (f *Field) Passes() (all []Pass) {
	for t, now := range f.On {
		if last := f.On[max(0, t-1)]; now != last {
			all = append(all, Pass{t, last, now})
		}
	}
	return all
}

// SaySpread tells how far totals lie apart, and who is likely to cost least.
func (o *Outcome) SaySpread(s *Spread) Phrase {
	best := -1
	for k := range s.Results {
		if best < 0 || s.Options[k].Least > s.Options[best].Least {
			best = k
		}
	}
	if best < 0 {
		return say("There is nothing to simulate: the line-up is empty.")
	}
	b := &s.Options[best]
	c := o.Study.Currency
	low, high := c.FormatWhole(b.Total[0]), c.FormatWhole(b.Total[2])
	p := say("Over *%s* paths of growth *%s* costs least in *%s* of them; it comes to *%s*", money.Thousands(uint64(s.Paths)), o.name(s.Results[best]),
		percentOf(b.Least), low)
	if high != low {
		p = append(p, say(" to *%s*", high)...)
	}
	p = append(p, Part{Text: " in eight of ten."})
	if s.Paths < simulatedPaths {
		p = append(p, Part{Text: " Only so many paths were drawn, because each takes long to work out here."})
	}
	if len(b.Over) == 0 {
		return p
	}
	budget, when := c.FormatWhole(o.Study.Budget), ""
	switch o.Study.Brief.BudgetFor {
	case ForMonth, ForYear:
		budget += " " + string(o.Study.Brief.BudgetFor)
		if len(b.Over) > 1 {
			when = " in its worst year"
		}
	}
	worst := slices.Max(b.Over)
	if worst == 0 {
		return p.and(say("It breaks the budget of *%s* in none.", budget))
	}
	return p.and(say("It breaks the budget of *%s* in *%s* of them%s.", budget, percentOf(worst), when))
}

// percentOf writes a share of paths: whole percents, and what is hardly ever or nearly
// always so in words.
func percentOf(share float64) string {
	switch {
	case share <= 0:
		return "none"
	case share >= 1:
		return "all"
	case share < 0.01:
		return "under 1%"
	case share > 0.99:
		return "over 99%"
	}
	return fmt.Sprintf("%.0f%%", share*100)
}

// SayShare writes a share of paths as [Outcome.SaySpread] does.
func SayShare(share float64) string { return percentOf(share) }
