package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"math"
	"slices"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

type alongBody struct {
	costsHead
	Say      template.HTML
	Axes     []choiceView
	At       []choiceView
	Scale    []choiceView
	Per      []choiceView
	To       string
	Problem  string
	Fault    string
	Hidden   []againField
	Data     json.RawMessage
	Alt      string
	Where    []whereView
	Turns    []turnView
	Trades   []turnView
	Cut      bool
	Heads    []optionHead
	Rows     []alongRow
	Sloped   []string
	Driver   string
	Each     string // at which values prices are told
	Grain    string // to what they are found
	NotWhole bool
}

// whereView says where an option is best.
type whereView struct {
	Face       int
	Name, Text string
}

// where tells of a result what it does somewhere; of none, that nothing serves there.
func (r *request) where(result int, does, text string) whereView {
	if result < 0 {
		return whereView{Name: "Nothing", Text: "serves " + text + "."}
	}
	return whereView{r.faceOf(result), r.nameOf(result), does + text + "."}
}

// turnView is a value at which the price of an option takes another course.
type turnView struct {
	Face              int
	Name, At, X, Text string
}

type alongRow struct {
	At    string
	Cells []costCell
}

// alongData is what the lines are drawn from.
type alongData struct {
	Label   string        `json:"label"`
	Sign    string        `json:"sign"`
	Low     int64         `json:"low"`
	High    int64         `json:"high"`
	Parts   int64         `json:"parts"` // of one, in which values are counted
	Log     bool          `json:"log"`
	Now     int64         `json:"now"`
	NowIs   string        `json:"nowIs"`
	Then    int64         `json:"then"`
	ThenIs  string        `json:"thenIs"`
	Options []alongOption `json:"options"`
	Regions []alongRegion `json:"regions"`
	Stops   []int64       `json:"stops"` // values that are looked at
	Shown   []string      `json:"shown"` // and as they are written
	View    string        `json:"view"`
}

type alongOption struct {
	Key    string       `json:"key"`
	Name   string       `json:"name"`
	Face   int          `json:"face"`
	Out    bool         `json:"out"`
	Points [][2]float64 `json:"points"` // x, y; y below 0 where nothing serves
	At     []string     `json:"at"`     // at each stop
	Plans  []string     `json:"plans"`
}

type alongRegion struct {
	From int64 `json:"from"`
	To   int64 `json:"to"`
	Face int   `json:"face"` // 0: nothing serves
}

// mostTurns is how many turns are listed.
const mostTurns = 60

func buildAlong(r *request) (any, error) {
	b := alongBody{costsHead: r.costsHead("along")}
	o := r.outcome
	key := r.pickDriver("driver", "")
	if key == "" {
		b.Fault = "No driver that is set moves any price: set one on Growth, such as contacts, or bring an option in."
		return b, nil
	}
	month := r.pickMonth()
	b.Axes, b.At = r.axes("/costs/along", "driver", key, ""), r.moments("/costs/along", month)
	d, _ := o.Axis(key)
	end, problem := r.typedEnd("to", d)
	b.To, b.Problem, b.Hidden = d.Show(end), problem, r.hiddenQuery("to")
	log := r.c.Query("axis") == "log"
	b.Scale = []choiceView{{Label: "Even axis", Link: r.query("/costs/along", "axis", ""), Chosen: !log}, {Label: "By powers of ten",
		Link: r.query("/costs/along", "axis", "log"), Chosen: log}}
	per := r.c.Query("per") == "unit" && d.Parts == 1
	if d.Parts == 1 { // nothing is bought by the share
		b.Per = []choiceView{{Label: "A month", Link: r.query("/costs/along", "per", ""), Chosen: !per}, {Label: "Per " + d.Unit,
			Link: r.query("/costs/along", "per", "unit"), Chosen: per}}
	}
	b.Each, b.Grain = "each number of "+usage.LowerFirst(d.Name), "unit"
	if d.Parts > 1 {
		b.Each, b.Grain = "each value of "+usage.LowerFirst(d.Name), "hundredth"
	}
	low := int64(1)
	if !log && !per && o.Values.Of(key)[month] == 0 { // where it stands at none
		low = 0
	}
	a, err := o.Along(r.paging(), key, month, low, end)
	if err != nil {
		b.Fault = sayAlongFault(err)
		return b, nil
	}
	b.Driver, b.Say, b.NotWhole = usage.LowerFirst(a.Driver.Name), phrase(o.SayAlong(a)), !a.Whole
	for _, w := range o.SayRegions(a.Regions, a.Driver, a.Low, a.High) {
		b.Where = append(b.Where, r.where(w.Result, "costs least ", w.Text))
	}
	b.turns(r, a)
	trades := o.Trades(a)
	b.Cut = b.Cut || len(trades) > mostTurns
	for _, t := range trades[:min(len(trades), mostTurns)] {
		b.Trades = append(b.Trades, turnView{r.faceOf(t.A), r.nameOf(t.A), d.Show(t.X), fmt.Sprint(t.X), t.Text})
	}
	return b, b.draw(r, a, log, per)
}

// sayAlongFault says why lines cannot be followed.
func sayAlongFault(err error) string {
	var at *usage.DriverError
	if errors.As(err, &at) {
		return fmt.Sprintf("The lines cannot be followed that far: %v. End them earlier, or mend the driver on Growth.", at.Err)
	}
	return "The lines cannot be followed that far: " + err.Error() + ". End them earlier."
}

// turns lists where options step, in the order of the driver.
func (b *alongBody) turns(r *request, a *study.Along) {
	type at struct {
		x int64
		v turnView
	}
	var all []at
	cur := r.study().Currency
	for k, line := range a.Lines {
		res := &r.outcome.Results[a.Results[k]]
		if line.Sloped {
			b.Sloped = append(b.Sloped, res.Option.Name)
		}
		last := ""
		var run *stepRun // of equal steps, which are told once
		for i, t := range line.Turns {
			plan := planAt(r, a, k, t.Program)
			if run.goesOn(&t, plan) {
				all[len(all)-1].v.Text = run.say(a.Driver, cur)
				continue
			}
			run = nil
			switch {
			case i == 0:
			case t.Served && !t.Serves:
				all = append(all, at{t.X, turnView{Text: "has nothing that serves from here on"}})
			case !t.Served && t.Serves:
				all = append(all, at{t.X, turnView{Text: fmt.Sprintf("serves from here on, on %s at %s", plan, cur.Format(t.After))}})
			case plan != last && last != "":
				all = append(all, at{t.X, turnView{Text: fmt.Sprintf("moves from %s to %s: %s to %s", last, plan, cur.Format(t.Before), cur.Format(t.After))}})
			case t.After-t.Before >= money.Units(1) || t.Before-t.After >= money.Units(1):
				run = &stepRun{plan: plan, from: t.X, to: t.X, before: t.Before, after: t.After, by: t.After - t.Before, n: 1}
				all = append(all, at{t.X, turnView{Text: run.say(a.Driver, cur)}})
			}
			if n := len(all); n > 0 && all[n-1].v.Name == "" {
				all[n-1].v.Name, all[n-1].v.Face = res.Option.Name, res.Option.Face
			}
			if last = plan; !t.Serves {
				last = ""
			}
		}
	}
	slices.SortStableFunc(all, func(a, b at) int { return int(max(-1, min(1, a.x-b.x))) })
	b.Cut = len(all) > mostTurns
	for _, one := range all[:min(len(all), mostTurns)] {
		one.v.At, one.v.X = a.Driver.Show(one.x), fmt.Sprint(one.x)
		b.Turns = append(b.Turns, one.v)
	}
}

// stepRun is a run of steps of one plan that are equally wide and high.
type stepRun struct {
	plan          string
	from, to      int64 // the values at which the first and the last begin
	wide          int64 // from one to the next
	before, after money.Amount
	by            money.Amount
	n             int
}

// goesOn takes a turn as the next step of the run, if it is one.
func (s *stepRun) goesOn(t *projection.Turn, plan string) bool {
	if s == nil || !t.Served || !t.Serves || plan != s.plan || t.Before != s.after || t.After-t.Before != s.by || s.n > 1 && t.X-s.to != s.wide {
		return false
	}
	s.wide, s.to, s.after, s.n = t.X-s.to, t.X, t.After, s.n+1
	return true
}

func (s *stepRun) say(along study.Axis, cur money.Currency) string {
	if s.n == 1 {
		return fmt.Sprintf("steps on %s: %s to %s", s.plan, cur.Format(s.before), cur.Format(s.after))
	}
	by := "up by " + cur.Format(s.by)
	if s.by < 0 {
		by = "down by " + cur.Format(-s.by)
	}
	each := "at each value"
	if s.wide > 1 {
		each = "every " + along.Show(s.wide)
	}
	return fmt.Sprintf("steps on %s %s up to %s, %s each: %s to %s", s.plan, each, along.Show(s.to), by, cur.Format(s.before), cur.Format(s.after))
}

func planAt(r *request, a *study.Along, line, program int) string {
	programs := r.outcome.ProgramsOf(a.Results[line], a.Month)
	if program >= len(programs) {
		return ""
	}
	return programs[program].Plan.Name
}

// How many values are priced for the lines between their turns, and may be looked at.
const (
	between   = 120
	mostStops = 140
)

// draw prices all options at turns and between them.
func (b *alongBody) draw(r *request, a *study.Along, log, per bool) error {
	st, cur := r.study(), r.study().Currency
	d := alongData{Label: a.Driver.Name, Sign: cur.Symbol(), Low: a.Low, High: a.High, Parts: a.Driver.Parts, Log: log, Now: a.Now, NowIs: st.Month(a.Month).String(), Then: a.Ends,
		ThenIs: st.Month(st.Horizon - 1).String(), View: "a month", Options: []alongOption{}, Regions: []alongRegion{}}
	b.Alt = a.Driver.Name + " from " + a.Driver.Show(a.Low) + " to " + b.To + ", a line for each option."
	if per {
		d.View = "per " + a.Driver.Unit
	}
	stops := []int64{a.Low, a.High, min(max(a.Now, a.Low), a.High), min(max(a.Ends, a.Low), a.High)}
	for _, g := range a.Regions {
		if d.Regions = append(d.Regions, alongRegion{g.From, g.To, r.faceOf(g.Least)}); len(stops) < mostStops {
			stops = append(stops, g.From, g.To)
		}
	}
	for _, t := range append(slices.Clone(b.Turns), b.Trades...) {
		var x int64
		if fmt.Sscan(t.X, &x); len(stops) < mostStops {
			stops = append(stops, max(a.Low, x-1), x)
		}
	}
	slices.Sort(stops)
	d.Stops = slices.Compact(stops)
	grid := projection.Ticks(a.Low, a.High, between)
	if log {
		grid = powers(a.Low, a.High, between)
	}
	for _, x := range d.Stops {
		if d.Shown = append(d.Shown, a.Driver.Show(x)+" "+b.Driver); a.Driver.Parts > 1 {
			d.Shown[len(d.Shown)-1] = a.Driver.Name + " at " + a.Driver.Show(x)
		}
	}
	b.Heads = r.heads()
	for k, i := range a.Results {
		res := &r.outcome.Results[i]
		xs := append(slices.Clone(grid), d.Stops...)
		for _, t := range a.Lines[k].Turns {
			xs = append(xs, max(a.Low, t.X-1), t.X)
		}
		slices.Sort(xs)
		xs = slices.Compact(xs)
		prices, plans, err := r.outcome.PricesAt(r.ctx(), i, a.Driver, a.Month, xs)
		if err != nil {
			return err
		}
		line := alongOption{Key: res.Option.Key, Name: res.Option.Name, Face: res.Option.Face, Out: !slices.Contains(a.In, i), Points: [][2]float64{}}
		for n, x := range xs {
			y := -1.0
			if prices[n] != nil {
				if y = whole(*prices[n]); per {
					y /= float64(x)
				}
			}
			line.Points = append(line.Points, [2]float64{float64(x), y})
			if _, is := slices.BinarySearch(d.Stops, x); is {
				at, plan := "no price", "nothing serves"
				if rate := r.outcome.NoRate(res); rate != "" {
					plan = "no rate from " + rate
				}
				if prices[n] != nil {
					if at, plan = cur.FormatShort(*prices[n]), plans[n]; per {
						at = perUnit(cur, *prices[n], x)
					}
				}
				line.At, line.Plans = append(line.At, at), append(line.Plans, plan)
			}
		}
		line.Points = thinned(line.Points)
		d.Options = append(d.Options, line)
	}
	for n, x := range d.Stops {
		row := alongRow{At: a.Driver.Show(x)}
		for _, res := range r.outcome.Results {
			cell := costCell{Text: "–"}
			for _, line := range d.Options {
				if line.Key == res.Option.Key {
					cell = costCell{Text: line.At[n], Plan: line.Plans[n]}
				}
			}
			row.Cells = append(row.Cells, cell)
		}
		b.Rows = append(b.Rows, row)
	}
	var err error
	b.Data, err = json.Marshal(d)
	return err
}

// perUnit writes a price of one of many units, to four decimals.
func perUnit(c money.Currency, a money.Amount, n int64) string {
	return fmt.Sprintf("%s%.4f", c.Symbol(), whole(a)/float64(n))
}

// powers are about n whole values from low to high, each by the same factor above the
// one before.
func powers(low, high int64, n int) (all []int64) {
	last := int64(0)
	for i := range n {
		if x := int64(float64(low) * math.Pow(float64(high)/float64(low), float64(i)/float64(n-1))); x > last && x <= high {
			all, last = append(all, x), x
		}
	}
	return all
}

// thinned leaves out points in the middle of a level run.
func thinned(all [][2]float64) (kept [][2]float64) {
	for i, p := range all {
		if i > 0 && i < len(all)-1 && all[i-1][1] == p[1] && all[i+1][1] == p[1] {
			continue
		}
		kept = append(kept, p)
	}
	return kept
}
