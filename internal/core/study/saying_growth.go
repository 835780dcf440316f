package study

import (
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
)

// SayCourse says how a driver grows in the case that is computed: "2% a month, with a
// season".
func (s *Study) SayCourse(p *usage.Path) string {
	c := p.Under(s.Case)
	text := sayShape(&c, c.Ends())
	if c.Shape == usage.ByMonth {
		text = s.sayTold(&c)
	}
	var with []string
	if c.Season != (usage.Season{}) {
		with = append(with, "a season")
	}
	if n := len(c.Events) - len(c.Outside(s.Start, s.Horizon)); n > 0 {
		with = append(with, plural(n, "event"))
	}
	if c.Clean.Every > 0 && c.Clean.Share > 0 {
		with = append(with, fmt.Sprintf("%s cleaned away every %s", c.Clean.Share, plural(c.Clean.Every, "month")))
	}
	if len(with) > 0 {
		text += ", with " + list(with)
	}
	return text
}

func sayShape(c *usage.Path, shape usage.Shape) string {
	switch shape {
	case usage.Straight:
		if c.Add < 0 {
			return (-c.Add).Format() + " fewer each month"
		}
		return c.Add.Format() + " more each month"
	case usage.SCurve:
		return fmt.Sprintf("towards %s, by %s a month while far below", c.Ceiling.Format(), c.Growth)
	case usage.Turnover:
		text := fmt.Sprintf("%s join each month, %s leave", c.Joins.Format(), c.Leaves)
		if c.Leaves > 0 {
			settles, err := usage.FromFloat(c.Joins.Float() / c.Leaves.Float())
			if err == nil {
				text += ", which settles at " + settles.Ceil().Format()
			}
		}
		return text
	case usage.Constant:
		return "steady"
	}
	if c.Growth == 0 {
		return "steady"
	}
	return fmt.Sprintf("%s a month", c.Growth)
}

// mostTold is how many months that are told are said one by one.
const mostTold = 3

func (s *Study) sayTold(c *usage.Path) string {
	told := slices.Clone(c.Told)
	slices.SortStableFunc(told, func(a, b usage.Told) int { return int(a.Month - b.Month) })
	begins := c.Now // what was told last before it stands in the first month
	for len(told) > 0 && told[0].Month <= s.Start {
		begins, told = told[0].Value, told[1:]
	}
	whole := len(told)
	told = slices.DeleteFunc(told, func(one usage.Told) bool { return one.Month >= s.Start.Plus(s.Horizon) })
	parts := []string{begins.Format()}
	for i, one := range told {
		if i == mostTold {
			parts = append(parts, fmt.Sprintf("and so on for %s more", plural(len(told)-mostTold, "month")))
			break
		}
		parts = append(parts, fmt.Sprintf("%s from %s", one.Value.Format(), one.Month))
	}
	text := strings.Join(parts, ", then ")
	if end := sayShape(c, c.Then); end != "steady" && len(told) == whole { // it is reached
		text += "; after that " + end
	}
	return text
}

// SendPart is a part of what is sent.
type SendPart struct {
	Driver string // its key
	Share  float64
	Value  float64 // a month
}

// sendParts are the drivers that make the sends, each a part for itself.
var sendParts = []string{"newsletters", "automated_emails", "client_emails"}

// Sends breaks the emails that are sent in a month into newsletters, automated ones and
// those for clients: what each makes with the others at none. It is empty where none are
// sent.
func (o *Outcome) Sends(month int) (all []SendPart) {
	total := o.Values.Of("emails_sent")[month]
	if !(total > 0) {
		return nil
	}
	for _, part := range sendParts {
		none := map[string][]float64{}
		for _, other := range sendParts {
			if other != part {
				none[other] = []float64{0}
			}
		}
		values, err := o.Model.Usages(month, 1, none)
		if err != nil {
			return nil
		}
		if v := values.Of("emails_sent")[0]; v > 0 {
			all = append(all, SendPart{part, v / total, v})
		}
	}
	return all
}

// SaySends says what the emails of a month are made of: "newsletters 87%, automated 13%".
func (o *Outcome) SaySends(month int) string {
	var parts []string
	for _, p := range o.Sends(month) {
		name := map[string]string{"newsletters": "newsletters", "automated_emails": "automated", "client_emails": "for clients"}[p.Driver]
		parts = append(parts, name+" "+percentOf(p.Share))
	}
	return strings.Join(parts, ", ")
}

// SayLeftOut warns where sends are billed or limited and no automated emails are told
// of: leaving them out is the usual mistake. "" where there is nothing to warn of.
func (o *Outcome) SayLeftOut() string {
	if _, told := o.Model.Path("automated_emails"); told || !(o.Values.Of("newsletters")[0] > 0) {
		return ""
	}
	for i := range o.Results {
		r := &o.Results[i]
		for k := range r.Tools {
			for _, m := range r.Tools[k].Tool.Edition.Meters {
				if slices.Contains(m.Counts.Names(), "emails_sent") {
					return "Automated emails stand at none: welcome letters, reminders and the like count as sends too, and leaving them out is the usual mistake. " +
						"Set “Automated emails per contact”; where there are none, 0 says so."
				}
			}
		}
	}
	return ""
}

// SayAtNothing tells what price lists count and the study has at nothing in all months, set so or not
// set: totals leave it out. "" where there is none.
func (o *Outcome) SayAtNothing() string {
	var names []string
	add := func(name string) {
		if name = usage.LowerFirst(name); !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	for _, key := range o.Unset {
		add(o.driverName(key))
	}
	for i := range o.Results {
		for k := range o.Results[i].Tools {
			t := &o.Results[i].Tools[k]
			for m, meter := range t.Tool.Edition.Meters {
				used := func(row []int64) bool { return row[m] != 0 }
				if !t.Tool.Edition.Uses(meter.Key) {
					continue
				}
				if len(t.candidate.Rows) > 0 && !slices.ContainsFunc(t.candidate.Rows, used) && !slices.ContainsFunc(meter.Counts.Names(), func(key string) bool {
					return slices.Contains(o.Unset, key)
				}) {
					add(quote.Plural(meter.Unit))
				}
			}
		}
	}
	if len(names) == 0 {
		return ""
	}
	return "Counted as 0 in all months: " + list(names) + ", which price lists here count."
}

// Billed is how a meter of an option reads the usage of a month.
type Billed struct {
	Result, Tool int
	Meter, Unit  string
	People       bool // it counts contacts, in whatever words
	Reads        usage.Quantity
	Formula      string // with names of drivers
	Filled       string // with what they stand at
}

// Billed tells how all meters of the options read the usage of a month.
func (o *Outcome) Billed(month int) (all []Billed) {
	for i := range o.Results {
		r := &o.Results[i]
		if r.AtFault {
			continue
		}
		for k := range r.Tools {
			t := &r.Tools[k]
			readings := t.Schedule.Months[month].Readings()
			for _, m := range t.candidate.Edition.Meters {
				all = append(all, Billed{Result: i, Tool: k, Meter: m.Key, Unit: m.Unit, People: m.Kind == usage.Stock && slices.Contains(m.Counts.Names(),
					"contacts"), Reads: readings[m.Key],
					Formula: m.Counts.Words(o.wordOf), Filled: m.Counts.Filled(func(key string) (string, bool) { return filledIn(o.Values.Of(key)[month]) })})
			}
		}
	}
	return all
}

func (o *Outcome) wordOf(key string) string {
	if d, ok := o.Driver(key); ok {
		return usage.LowerFirst(d.Name)
	}
	return usage.Called(key)
}

// filledIn writes a value as a formula is filled in with it; false for no number.
func filledIn(v float64) (string, bool) {
	q, err := usage.FromFloat(v)
	return q.Format(), err == nil
}

// SayBilled says how what options call contacts differs today: "Osier Mail counts
// 7,552 contacts: contacts times (1 plus list overlap) = 6,400 × (1 + 0.18)". It is empty where all count
// alike.
func (o *Outcome) SayBilled(month int) []string {
	base := people(o.Values.Of("contacts")[month])
	var says []string
	differs := false
	for _, b := range o.Billed(month) {
		if !b.People {
			continue
		}
		name := o.name(b.Result)
		if tool := o.Results[b.Result].toolName(b.Tool); tool != "" {
			name += ", " + tool + ","
		}
		text := fmt.Sprintf("%s counts %s", name, o.Study.SayReading(b.Reads.Ceil(), b.Unit))
		if b.Reads.Ceil().Format() != base {
			differs = true
			text += fmt.Sprintf(": %s = %s", b.Formula, b.Filled)
		}
		says = append(says, text+".")
	}
	if !differs {
		return nil
	}
	return says
}

// SayFit says what a fit to a history found.
func (s *Study) SayFit(f *usage.Fit) string {
	text := fmt.Sprintf("Our own %s fit %s a month (R² %.2f; months lie about %.1f%% off)", plural(len(f.Points), "month"), f.Growth, f.R2, f.Spread*100)
	if n := len(f.Gaps); n > 0 {
		text += fmt.Sprintf("; nothing is told of %s", plural(n, "month"))
		if n == 1 {
			text = strings.TrimSuffix(text, "1 month") + f.Gaps[0].String()
		}
	}
	switch {
	case !f.Seasonal && len(f.Points) < usage.SeasonAfter:
		return text + ". A season takes two years or more."
	case !f.Seasonal:
		return text + ". A season needs more months in a row: a year around each month of the year."
	case f.Season == usage.Season{}:
		return text + ", with no season in them."
	}
	high, low := 0, 0
	for i := range f.Season {
		if f.Season[i] > f.Season[high] {
			high = i
		}
		if f.Season[i] < f.Season[low] {
			low = i
		}
	}
	return text + fmt.Sprintf(", highest in %s and lowest in %s.", usage.Month(high).Short(), usage.Month(low).Short())
}

// SayOutside tells which events of a driver no month of the horizon has; "" where there are none.
func (s *Study) SayOutside(p *usage.Path) string {
	var names []string
	for _, e := range p.Outside(s.Start, s.Horizon) {
		name := e.Month.String()
		if e.Note != "" {
			name = fmt.Sprintf("%s (%s)", e.Note, name)
		}
		names = append(names, name)
	}
	if len(names) == 0 {
		return ""
	}
	does := "lies outside the horizon, %s to %s, and changes nothing"
	if len(names) > 1 {
		does = "lie outside the horizon, %s to %s, and change nothing"
	}
	return list(names) + " " + fmt.Sprintf(does, s.Start, s.Month(s.Horizon-1)) + "."
}

// SayGrowth tells where contacts go, and where low and high growth end.
func (o *Outcome) SayGrowth() Phrase {
	d, set := o.grows()
	if !set {
		return say("No driver is set yet. A driver is a number that grows, such as contacts; every price follows from these.")
	}
	path, _ := o.Model.Path(d.Key)
	values := o.Values.Of(d.Key)
	if !(values[0] >= 0) {
		return say("What *%s* come to cannot be worked out: see what is at fault.", countsOf(d))
	}
	top := 0
	for t, v := range values {
		if v > values[top] {
			top = t
		}
	}
	last := len(values) - 1
	as := map[usage.Case]string{usage.Low: "slow growth has it", usage.Expected: "expected", usage.High: "fast growth has it"}[o.Study.Case]
	p := say("As %s, %s go from *%s* to *%s* by %s", as, countsOf(d), people(values[0]), people(values[last]), o.Study.Month(last).String())
	if !moves(values) {
		p = say("As %s, %s stay at *%s* to %s", as, countsOf(d), people(values[0]), o.Study.Month(last).String())
	}
	if values[top] > max(values[0], values[last]) {
		p = append(p, say(", with *%s* in %s at their highest", people(values[top]), o.Study.Month(top).String())...)
	}
	p = append(p, Part{Text: "."})
	if !path.Low.Told() && !path.High.Told() {
		return p
	}
	var ends []string
	for _, c := range usage.Cases() {
		if c != o.Study.Case {
			over := path.Over(usage.When{Start: o.Study.Start, Case: c}, o.Study.Horizon)
			ends = append(ends, fmt.Sprintf("%s growth ends at *%s*", map[usage.Case]string{usage.Low: "slow", usage.Expected: "expected",
				usage.High: "fast"}[c], people(d.Rounded(over[last]))))
		}
	}
	return p.and(say(strings.ToUpper(ends[0][:1]) + ends[0][1:] + ", " + ends[1] + "."))
}

// grows is the driver that growth is stated by: contacts, where these are set, else the first that prices
// follow and that moves, of those that are set; false where none is.
func (o *Outcome) grows() (usage.Driver, bool) {
	if _, set := o.Model.Path("contacts"); set {
		return o.Driver("contacts")
	}
	all := o.Axes()
	for _, s := range o.Study.Drivers {
		if d, ok := o.Driver(s.Driver); ok {
			all = append(all, d)
		}
	}
	for _, d := range all {
		if moves(o.Values.Of(d.Key)) {
			return d, true
		}
	}
	if len(all) == 0 {
		return usage.Driver{}, false
	}
	return all[0], true
}

// moves reports whether a driver is not the same in all months.
func moves(values []float64) bool {
	return slices.ContainsFunc(values, func(v float64) bool { return v != values[0] })
}

// SaySeason says of a driver's season whether it averages 1, and what follows where it does not.
func SaySeason(p *usage.Path) string {
	text := fmt.Sprintf("These twelve average %.3f, not 1.", p.Season.Mean())
	switch end := p.Ends(); {
	case p.Season.Even():
		return ""
	case end == usage.Compound || end == usage.Constant:
		return text + " That moves no value, as only their proportions count; evened they are easier to read."
	}
	return text + " What is added each month, sign-ups and a ceiling count by that much more or less; evened, they count as they are typed."
}
