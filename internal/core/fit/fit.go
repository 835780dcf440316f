// Package fit says how well each option suits: criteria with weights, ratings
// by people, measured values, gates, and the weighted mean of them, 0 to 9.
package fit

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"

	"ninecoins/internal/core/money"
)

// Top is the best score: nine coins.
const Top = 9

// Source says where a criterion's scores come from.
type Source string

// The sources.
const (
	Rated Source = "rated" // by people, 0 to 9 in halves
	Cost  Source = "cost"  // measured: the cost over the horizon
	// Measured: the weighted share of the needs that is covered on the plan taken; all
	// of it scores 9.
	Coverage Source = "coverage"
)

// Criterion is something that options are judged by.
type Criterion struct {
	ID, Name, Note string
	Source         Source
	Weight         money.Share // as stated; weights are brought to a sum of 1
	Best, Worst    money.Amount
}

// ErrWeights reports criteria of which none weighs anything.
var ErrWeights = errors.New("at least one criterion must weigh more than 0")

// Value returns the score of a measured amount: 9 at Best, 0 at Worst, linear
// between, held at the ends. With Best equal to Worst it is a threshold: 9 up
// to it, 0 past it.
func (c Criterion) Value(a money.Amount) float64 {
	if c.Best == c.Worst {
		if a <= c.Best {
			return Top
		}
		return 0
	}
	v := Top * (c.Worst.Float() - a.Float()) / (c.Worst.Float() - c.Best.Float())
	return math.Max(0, math.Min(Top, v))
}

// Halves is a rating in half points: 0 to 18 stands for 0 to 9.
type Halves int

// ParseHalves reads "7" or "6.5".
func ParseHalves(s string) (Halves, error) {
	a, err := money.ParseAmount(s)
	if err != nil || a < 0 || a > money.Units(Top) || a%(money.Scale/2) != 0 {
		return 0, fmt.Errorf("rating %q is not a number from 0 to 9 in halves, such as 6.5", s)
	}
	return Halves(a / (money.Scale / 2)), nil
}

// Score returns the rating as a score.
func (h Halves) Score() float64 { return float64(h) / 2 }

// String writes "6.5" or "7".
func (h Halves) String() string { return money.Amount(h * money.Scale / 2).String() }

// Rating is what one rater gives one option on one criterion.
type Rating struct {
	Rater, Option, Criterion string
	Value                    Halves
	Reason                   string
}

// Subject is an option as it comes to be judged.
type Subject struct {
	Option   string
	Measured map[string]money.Amount // by criterion ID: a cost, or a share of 1; absent when not known
	MayBe    map[string]money.Amount // by criterion ID: what a share may come to that is not wholly known
	Gates    []string                // reasons that put it out
	Costs    money.Amount            // of equals the cheaper comes first
}

// Part is one criterion's share of an option's fit.
type Part struct {
	Criterion Criterion
	Weight    float64 // of 1
	Score     Score
	Low, High Score // between which it lies; the same where it is known
	Known     bool
	Raters    int
	Spread    Score // between the highest and the lowest rater
}

// Points returns what the part adds to the fit, were all parts known.
func (p Part) Points() float64 { return p.Weight * float64(p.Score) }

// Disagreement is the spread between raters from which they should talk.
const Disagreement = 3

// Standing is how an option does.
type Standing struct {
	Option    string
	Fit       Score   // weighted mean of what is known, held within what it may come to
	Low, High Score   // were every score that is not known as low, or as high, as it may be
	Known     float64 // weight of what is known, of 1
	Parts     []Part
	Out       []string // reasons; empty for an option that is in
	// From 1; 0 when out, when nothing is known, or when missing scores could turn the
	// order about it.
	Place int
	Tied  bool // another that is in is level with it, as both are shown
	costs money.Amount
}

// Judge returns a standing for each subject, in the order given. The fit is
// sum(w·s)/sum(w) over the criteria with a known score; a missing score is no
// zero but makes a range. Without criteria nothing is known. Where no criterion
// weighs anything, nothing is known either, and [ErrWeights] stands beside the
// standings.
func Judge(subjects []Subject, criteria []Criterion, ratings []Rating) ([]Standing, error) {
	var sum money.Share
	for _, c := range criteria {
		sum += c.Weight
	}
	var err error
	if len(criteria) > 0 && sum <= 0 {
		err = ErrWeights
	}
	all := make([]Standing, len(subjects))
	for i, s := range subjects {
		st := Standing{Option: s.Option, Out: s.Gates, costs: s.Costs}
		points, rest := 0.0, 1.0
		for _, c := range criteria {
			p := Part{Criterion: c, High: Top}
			if sum > 0 {
				p.Weight = c.Weight.Float() / sum.Float()
			}
			p.rate(s, ratings)
			if p.Known {
				p.Low, p.High = p.Score, p.Score
				points += p.Points()
				st.Known += p.Weight
			}
			st.Low, st.High, rest = st.Low+Score(p.Weight)*p.Low, st.High+Score(p.Weight)*p.High, rest-p.Weight
			st.Parts = append(st.Parts, p)
		}
		if st.Known > 0 {
			st.Fit = Score(points / st.Known)
		}
		st.High += Score(Top * math.Max(0, rest))
		if st.Complete() {
			st.Low, st.High = Score(points), Score(points)
		}
		st.Fit = max(st.Low, min(st.High, st.Fit))
		all[i] = st
	}
	place(all)
	return all, err
}

func (p *Part) rate(s Subject, ratings []Rating) {
	if p.Criterion.Source == Coverage {
		if share, ok := s.Measured[p.Criterion.ID]; ok {
			p.Low, p.Score, p.High = Score(Top*share.Float()), Score(Top*share.Float()), Score(Top*max(share, s.MayBe[p.Criterion.ID]).Float())
			p.Known = p.Low == p.High
		}
		return
	}
	if p.Criterion.Source == Cost {
		if a, ok := s.Measured[p.Criterion.ID]; ok && p.Criterion.Best <= p.Criterion.Worst {
			p.Known, p.Score = true, Score(p.Criterion.Value(a))
		}
		return
	}
	low, high, total := float64(Top), 0.0, 0.0
	for _, r := range ratings {
		if r.Option == s.Option && r.Criterion == p.Criterion.ID {
			v := r.Value.Score()
			low, high, total = math.Min(low, v), math.Max(high, v), total+v
			p.Raters++
		}
	}
	if p.Raters > 0 {
		p.Known, p.Score, p.Spread = true, Score(total/float64(p.Raters)), Score(high-low)
	}
}

// place numbers the options that are in, and of which the order against every other
// one is certain.
func place(all []Standing) {
	for at, i := range Order(all) {
		st := &all[i]
		if len(st.Out) > 0 || st.Known == 0 {
			continue
		}
		firm := true
		for j := range all {
			if other := &all[j]; j != i && len(other.Out) == 0 {
				firm = firm && Firm(st, other)
				st.Tied = st.Tied || st.Complete() && other.Complete() && st.Fit.Tenths() == other.Fit.Tenths()
			}
		}
		if firm {
			st.Place = at + 1
		}
	}
}

// Order returns the indices of standings: those in by what is certain of their fit,
// from the highest down, of equals the cheaper first; then those of which nothing
// is known, then those out. What is shown with one decimal is compared so.
func Order(all []Standing) []int {
	order := make([]int, len(all))
	for i := range order {
		order[i] = i
	}
	rank := func(s *Standing) int {
		switch {
		case len(s.Out) > 0:
			return 2
		case s.Known == 0:
			return 1
		}
		return 0
	}
	slices.SortStableFunc(order, func(a, b int) int {
		x, y := &all[a], &all[b]
		return cmp.Or(rank(x)-rank(y), y.Low.Tenths()-x.Low.Tenths(), y.Fit.Tenths()-x.Fit.Tenths(), cmp.Compare(x.costs, y.costs))
	})
	return order
}
