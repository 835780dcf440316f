package web

import (
	"fmt"
	"html/template"
	"strconv"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

type chanceBody struct {
	costsHead
	Say    template.HTML
	Fault  string
	Random string
	Years  []string
	Rows   []chanceRow
	Paths  string
	Ticks  []chanceTick
	Height int
	Bottom int
	Growth string
	Draws  []choiceView
	Again  string // to the next draw
}

// drawn is which draw of the paths is asked for, from 1.
func (r *request) drawn() int {
	n, err := strconv.Atoi(r.c.Query("draw"))
	if err != nil || n < 1 || n > study.Draws {
		return 1
	}
	return n
}

// chanceRow is what an option costs over the paths.
type chanceRow struct {
	Face                    int
	Name, Link              string
	Low, Mid, High          string
	Wide                    chanceBar
	Y                       int
	Short                   string
	Fan                     chanceFan
	Least                   string
	Over                    []string
	Outgrown, Unserved, Out string
}

// chanceBar is where the 10th, 50th and 90th percentile lie on the drawing.
type chanceBar struct{ Low, Mid, Width string }

// chanceTick is an amount on the axis of the drawing.
type chanceTick struct{ X, Text string }

// How bars lie on the drawing: from a left edge over so much room, a row for each option.
const barLeft, barRoom, barRow = 190.0, 690.0, 28

// chanceFan is the running total over the months: a band and its middle, 120 wide and 34
// high.
type chanceFan struct{ Band, Line string }

func buildChance(r *request) (any, error) {
	b := chanceBody{costsHead: r.costsHead("chance"), Growth: r.base() + "/growth"}
	o := r.outcome
	for n := range study.Draws {
		link := r.query("/costs/chance", "draw", strconv.Itoa(n+1))
		if n == 0 {
			link = r.query("/costs/chance", "draw", "")
		}
		if b.Draws = append(b.Draws, choiceView{Label: strconv.Itoa(n + 1), Link: link, Chosen: n+1 == r.drawn()}); n == r.drawn()%study.Draws {
			b.Again = link
		}
	}
	if there, err := r.waitFor("chance", &b.costsHead, &b.Fault, "Growth is being simulated.", "Simulate"); !there {
		return b, err
	}
	spread, _ := o.Drawn(r.drawn())
	b.show(r, spread)
	return b, nil
}

func (b *chanceBody) show(r *request, s *study.Spread) {
	o, cur := r.outcome, r.study().Currency
	b.Say, b.Paths = phrase(o.SaySpread(s)), "0"
	if s.Simulation == nil {
		return
	}
	b.Paths = money.Thousands(uint64(s.Paths))
	var names []string
	for _, key := range s.Random {
		d, _ := o.Driver(key)
		names = append(names, usage.LowerFirst(d.Name))
	}
	b.Random = list(names)
	for y, one := range s.Budgets {
		head := fmt.Sprintf("Over %s, year %d", cur.FormatWhole(one.Most), y+1)
		switch from := 12 * y; {
		case one.To-from < 12 && len(s.Budgets) > 1:
			head += fmt.Sprintf(" (%s)", counted(one.To-from, "month", "months"))
		case len(s.Budgets) == 1:
			head = fmt.Sprintf("Over %s in %s", cur.FormatWhole(one.Most), counted(one.To, "month", "months"))
		}
		b.Years = append(b.Years, head)
	}
	most := money.Amount(1)
	for _, one := range s.Options {
		most = max(most, one.Total[2])
	}
	at := func(a money.Amount) float64 { return barLeft + barRoom*float64(a)/float64(most) }
	for a, step := money.Amount(0), roundStep(most); a <= most; a += step {
		b.Ticks = append(b.Ticks, chanceTick{fmt.Sprintf("%.1f", at(a)), cur.FormatWhole(a)})
	}
	b.Bottom = barRow*len(s.Results) + 8
	b.Height = b.Bottom + 24
	for k, i := range s.Results {
		res, one := &o.Results[i], &s.Options[k]
		row := chanceRow{Face: res.Option.Face, Name: res.Option.Name, Link: r.base() + "/options/" + res.Option.Key, Low: cur.FormatWhole(one.Total[0]),
			Mid: cur.FormatWhole(one.Total[1]), High: cur.FormatWhole(one.Total[2]), Least: study.SayShare(one.Least), Outgrown: study.SayShare(one.Outgrown),
			Unserved: study.SayShare(one.Unserved),
			Wide:     chanceBar{fmt.Sprintf("%.1f", at(one.Total[0])), fmt.Sprintf("%.1f", at(one.Total[1])), fmt.Sprintf("%.1f", max(1, at(one.Total[2])-at(one.Total[0])))}}
		row.Y, row.Short = barRow*k+2, short(res.Option.Name, 20)
		if !res.In() && len(res.Standing.Out) > 0 {
			row.Out = res.Standing.Out[0]
		}
		for y := range b.Years {
			row.Over = append(row.Over, study.SayShare(one.Over[y]))
		}
		row.Fan = fanOf(one.Running, most)
		b.Rows = append(b.Rows, row)
	}
}

// roundStep is a round amount of which up to six make an axis.
func roundStep(most money.Amount) money.Amount {
	for step := money.Units(1); ; step *= 10 {
		for _, n := range []money.Amount{1, 2, 5} {
			if most/(n*step) < 6 {
				return n * step
			}
		}
	}
}

func fanOf(running [][3]money.Amount, most money.Amount) chanceFan {
	var low, high, mid []string
	for t := range running {
		x := 1 + 118*float64(t)/float64(max(1, len(running)-1))
		point := func(a money.Amount) string { return fmt.Sprintf("%.1f,%.1f", x, 33-32*float64(a)/float64(most)) }
		low, mid, high = append([]string{point(running[t][0])}, low...), append(mid, point(running[t][1])), append(high, point(running[t][2]))
	}
	return chanceFan{strings.Join(high, " ") + " " + strings.Join(low, " "), strings.Join(mid, " ")}
}
