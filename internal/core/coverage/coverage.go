// Package coverage sets what is needed against what plans have.
package coverage

import (
	"ninecoins/internal/core/pricelist"
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

// Need is a feature that the study asks for.
type Need struct {
	ID      string
	Feature string // "area/feature"
	Name    string
	Note    string
	Level   Level
}

// Cell is how an option has a need: on which plan at the lowest, how deep.
type Cell struct {
	Need  Need
	Has   pricelist.Has
	Plan  *pricelist.Plan // the lowest plan that has it so; nil for no and unknown
	Depth int             // 0 to 3
	AddOn *pricelist.AddOn
	Note  string
}

// standing orders the ways of having a feature from the best down; of two
// plans the one with the better way is named, of equals the lower plan.
var standing = map[pricelist.Has]int{pricelist.Yes: 5, pricelist.Bridge: 4, pricelist.AsAddOn: 4, pricelist.Partly: 3,
	pricelist.Announced: 2, pricelist.Unknown: 1, pricelist.No: 0}

// Of finds the lowest plan that meets a need; where none does, the plan that
// comes closest. Having it outright on a higher plan does not hide an add-on
// or a bridge on a lower one: the lower plan is the cheaper way in. A closed plan
// counts only for who is there already.
func Of(e *pricelist.Edition, n Need, here bool) Cell {
	cell := Cell{Need: n, Has: pricelist.No}
	best := -1
	for i := range e.Plans {
		p := &e.Plans[i]
		f := p.Feature(n.Feature)
		if p.Offered == pricelist.Closed && !here {
			continue
		}
		if standing[f.Has] <= best {
			continue
		}
		best = standing[f.Has]
		cell.Has, cell.Depth, cell.Note, cell.Plan = f.Has, f.Depth, f.Note, p
		cell.AddOn = nil
		if a, ok := e.AddOn(f.AddOn); ok && f.Has == pricelist.AsAddOn {
			cell.AddOn = a
		}
		if f.Has.Meets() {
			break
		}
	}
	if cell.Has == pricelist.No || cell.Has == pricelist.Unknown {
		cell.Plan = nil
	}
	return cell
}
