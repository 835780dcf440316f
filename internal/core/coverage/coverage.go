// Package coverage sets what is needed against what plans have.
package coverage

import (
	"time"

	"ninecoins/internal/core/feature"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// Level says how badly something is needed.
type Level string

// The levels. An option that misses a must is out.
const (
	Must  Level = "must"
	Want  Level = "want"
	Bonus Level = "bonus"
)

// Levels lists them from the strictest down.
var Levels = []Level{Must, Want, Bonus}

// Weight is how much a need of a level counts in a share.
func (l Level) Weight() int {
	switch l {
	case Must:
		return 3
	case Want:
		return 2
	}
	return 1
}

// Need is a feature that the study asks for.
type Need struct {
	ID      string
	Feature string // "area/feature"
	Name    string
	Note    string
	Level   Level
	Depth   int            // the least, 1 to 3; 0: any will do
	Number  usage.Quantity // the least number; 0: none is asked for
}

// Answer says whether something meets a need.
type Answer int

// The answers. What is partly there, announced or not there does not meet it; what
// is not told is a question.
const (
	Unmet Answer = iota
	Open
	Met
)

// Meets says whether having a feature so meets the need. A depth or a number that
// is asked for and not stated leaves it open.
func (n *Need) Meets(f pricelist.Feature) Answer {
	switch {
	case f.Has == pricelist.Unknown || f.Has == "":
		return Open
	case !f.Has.Meets(), n.Depth > 0 && f.Depth > 0 && f.Depth < n.Depth, n.Number > 0 && !f.Unlimited && f.Number > 0 && f.Number < n.Number:
		return Unmet
	case n.Depth > 0 && f.Depth == 0, n.Number > 0 && !f.Unlimited && f.Number == 0:
		return Open
	}
	return Met
}

// Cell is how an option has a need: on which plan at the lowest, how deep.
type Cell struct {
	Need      Need
	Answer    Answer
	Has       pricelist.Has
	Plan      *pricelist.Plan // the lowest plan that has it so; nil for no and unknown
	Depth     int             // 0 to 3
	Number    usage.Quantity
	Unlimited bool
	AddOn     *pricelist.AddOn
	Uses      pricelist.Uses // of a bridge
	Note      string
	From      pricelist.Known
	On        time.Time
	Tool      int // of a stack, the one that has it
}

// TooLittle reports whether it is there, and not as deep or as many as is asked for.
func (c *Cell) TooLittle() bool { return c.Answer == Unmet && c.Has.Meets() }

// standing orders the ways of having a feature from the best down.
var standing = map[pricelist.Has]int{pricelist.Yes: 5, pricelist.Bridge: 4, pricelist.AsAddOn: 4, pricelist.Partly: 3,
	pricelist.Announced: 2, pricelist.Unknown: 1, pricelist.No: 0}

// rank orders cells from the best down: what meets the need, then what is there and not known
// to be enough, then what is not known at all: questions come before what is known to be too
// little, in part or not there.
func rank(answer Answer, has pricelist.Has) int {
	switch {
	case answer == Met:
		return 40
	case has.Meets() && answer == Open:
		return 30
	case answer == Open: // which no plan that is told of puts out
		return 20
	case has.Meets():
		return 10
	}
	return standing[has]
}

// Of finds the lowest plan that meets a need; where none does, the plan that
// comes closest. Having it outright on a higher plan does not hide an add-on
// or a bridge on a lower one: the lower plan is the cheaper way in. A closed plan
// counts only for who is there already.
func Of(e *pricelist.Edition, n Need, here bool) Cell {
	cell := Cell{Need: n, Has: pricelist.No}
	best := -1
	for i := range e.Plans {
		p := &e.Plans[i]
		if p.Offered == pricelist.Closed && !here {
			continue
		}
		f := p.Feature(n.Feature)
		answer := n.Meets(f)
		at := rank(answer, f.Has)
		if at <= best {
			continue
		}
		best = at
		cell = Cell{Need: n, Answer: answer, Has: f.Has, Plan: p, Depth: f.Depth, Number: f.Number, Unlimited: f.Unlimited, Uses: f.Uses, Note: f.Note,
			From: f.From, On: f.On}
		if a, ok := e.AddOn(f.AddOn); ok && f.Has == pricelist.AsAddOn {
			cell.AddOn = a
		}
		if answer == Met {
			break
		}
	}
	if cell.Has == pricelist.No || cell.Has == pricelist.Unknown {
		cell.Plan = nil
	}
	return cell
}

// BetterWay reports whether a way of having a feature is better than another.
func BetterWay(has, than pricelist.Has) bool { return standing[has] > standing[than] }

// Better reports whether a cell is a better way of having its need than another of
// the same need.
func (c *Cell) Better(than *Cell) bool { return rank(c.Answer, c.Has) > rank(than.Answer, than.Has) }

// Share is how much of some needs is covered, of 1: what is certain, and what may be once all is
// known; and how many of them are known.
//
// A need that is met counts whole; one that is there in part, as an add-on, through
// a bridge, or too little, half. What is not known counts as little and as much as it may
// turn out to. Within an area needs count by the weight of their level, and an area by the
// largest of these: so an area cut into forty features counts as one cut into six.
func Share(needs []Need, has []pricelist.Feature) (low, high float64, known int) {
	type area struct{ low, high, of, weight float64 }
	areas := map[string]*area{}
	var order []string
	for i, n := range needs {
		least, most := Worth(&n, has[i])
		known += map[bool]int{true: 1}[least == most]
		key := feature.AreaOf(n.Feature)
		if areas[key] == nil {
			areas[key], order = &area{}, append(order, key)
		}
		a, w := areas[key], float64(n.Level.Weight())
		a.low, a.high, a.of, a.weight = a.low+w*least, a.high+w*most, a.of+w, max(a.weight, w)
	}
	var of float64
	for _, key := range order {
		a := areas[key]
		low, high, of = low+a.weight*a.low/a.of, high+a.weight*a.high/a.of, of+a.weight
	}
	if of == 0 {
		return 0, 0, known
	}
	return low / of, high / of, known
}

// Worth is what having a feature so counts for a need, 0 to 1: from the least to the most that it
// may, which are the same where it is known.
func Worth(n *Need, f pricelist.Feature) (low, high float64) {
	whole := func() float64 {
		if f.Has == pricelist.AsAddOn || f.Has == pricelist.Bridge {
			return 0.5
		}
		return 1
	}
	switch {
	case n.Meets(f) == Met:
		return whole(), whole()
	case n.Meets(f) == Open && f.Has.Meets(): // there, and perhaps too little
		return 0.5, whole()
	case n.Meets(f) == Open:
		return 0, 1
	case f.Has.Meets() || f.Has == pricelist.Partly:
		return 0.5, 0.5
	}
	return 0, 0
}
