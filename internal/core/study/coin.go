package study

import (
	"fmt"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/pricelist"
)

// Coin is one of the nine steps of a study: how far it is, and a fact.
type Coin struct {
	Number    int
	Key, Name string
	Fill      float64 // 0 empty to 1 full
	Fact      string
}

// CoinNames are the nine coins in their order: key and name.
var CoinNames = [9][2]string{{"brief", "Brief"}, {"line-up", "Line-up"}, {"coverage", "Coverage"}, {"prices", "Prices"},
	{"growth", "Growth"}, {"costs", "Costs"}, {"trials", "Trials"}, {"scores", "Scores"}, {"verdict", "Verdict"}}

// coins fills the coins by these rules:
//
//	Brief     of six facts (company, question, currency, horizon, budget, what runs today) those told
//	Line-up   half for two options, half for naming what runs today
//	Coverage  known cells of all cells
//	Prices    editions that are not stale, of all
//	Growth    drivers that meters need and that are set, of all that they need
//	Costs     options that every month can be costed for, of those not out for a must
//	Trials    empty: trials are not kept yet
//	Scores    known scores of all
//	Verdict   half for a pick; a decision is not recorded yet
func (o *Outcome) coins() {
	s := o.Study
	for i, name := range CoinNames {
		o.Coins[i] = Coin{Number: i + 1, Key: name[0], Name: name[1]}
	}
	set := func(n int, done, all int, fact string) {
		c := &o.Coins[n-1]
		c.Fact = fact
		if all > 0 {
			c.Fill = float64(done) / float64(all)
		}
	}
	now, fresh, served, tried := 0, 0, 0, 0
	cells, known, scores, scored := 0, 0, 0, 0
	for i := range o.Results {
		r := &o.Results[i]
		now += count(r.Option.Now)
		fresh += count(!r.Stale)
		for _, c := range r.Coverage {
			cells++
			known += count(c.Has != pricelist.Unknown)
		}
		for _, p := range r.Standing.Parts {
			if p.Criterion.Source == fit.Rated {
				scores++
				scored += count(p.Known)
			}
		}
		if r.fails() {
			continue
		}
		tried++
		served += count(r.Schedule.Serves())
	}
	set(1, count(s.Company != "")+count(s.Question != "")+count(!s.Currency.IsZero())+count(s.Horizon > 0)+count(s.Budget > 0)+count(now > 0), 6,
		plural(s.Horizon, "month"))
	set(2, count(len(o.Results) >= 2)+count(now > 0), 2, plural(len(o.Results), "option"))
	set(3, known, cells, plural(len(s.Needs), "need"))
	fact := "none yet"
	if len(o.Results) > 0 {
		fact = "all fresh"
	}
	if stale := len(o.Results) - fresh; stale > 0 {
		fact = fmt.Sprintf("%d to re-check", stale)
	}
	set(4, fresh, len(o.Results), fact)
	set(5, len(s.Drivers), len(s.Drivers)+len(o.Unset), plural(len(s.Drivers), "driver"))
	steps := 0
	for _, r := range o.Results {
		steps += len(r.Schedule.Steps)
	}
	set(6, served, tried, plural(steps, "step"))
	set(7, 0, 1, "none yet")
	fact = "none yet"
	if scores > 0 {
		fact = "all rated"
		if left := scores - scored; left > 0 {
			fact = fmt.Sprintf("%d to rate", left)
		}
	}
	set(8, scored, scores, fact)
	if o.Pick.First >= 0 {
		set(9, 1, 2, "to be agreed")
	} else {
		set(9, 0, 1, "not yet")
	}
}

func count(yes bool) int {
	if yes {
		return 1
	}
	return 0
}
