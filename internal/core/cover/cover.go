// Package cover finds the cheapest set of things that together bring all that is
// needed, exactly: plans of which a platform sells one at a time, and what is
// bought on top of them.
package cover

import (
	"cmp"
	"math"
	"math/bits"
	"slices"
)

// Set is a set of needs by number, from 0.
type Set []uint64

// SetOf returns the set of some needs.
func SetOf(needs ...int) (s Set) {
	for _, n := range needs {
		s = s.With(n)
	}
	return s
}

// With returns the set with a need more; s itself may be changed.
func (s Set) With(need int) Set {
	for len(s) <= need/64 {
		s = append(s, 0)
	}
	s[need/64] |= 1 << (need % 64)
	return s
}

// Has reports whether a need is in the set.
func (s Set) Has(need int) bool { return need/64 < len(s) && s[need/64]&(1<<(need%64)) != 0 }

// Group is something of which one choice at most is taken: a platform with its
// plans.
type Group struct {
	Choices []Choice
	Always  bool // one is taken even where nothing needs it
}

// Choice is one of a group's, with what can be bought on top of it. Costs are
// whole numbers from 0 in any one unit.
type Choice struct {
	Cost   int64
	Brings Set
	Extras []Extra
}

// Extra is bought on top of a choice.
type Extra struct {
	Cost   int64
	Brings Set
}

// Taken is what is taken of a group.
type Taken struct {
	Choice int   // -1: nothing
	Extras []int // in their order
}

// Cheapest returns what costs least of all that brings the needs 0 to needs-1: one
// entry for each group. It is false where nothing brings them all. Of equals the
// one is taken that is found first, which is the same each time.
//
// The search branches on the need that the fewest things bring, and leaves a
// branch when what is taken and a lower bound of the rest cost no less than the
// best so far. The bound is the value of a feasible dual of the linear relaxation
// (needs pay what the cheapest thing that brings them still asks; Fisher & Kedia
// 1990), in which an extra may be bought without its choice: it never exceeds the
// cheapest rest. What a thing still asks in that dual is its reduced cost: where that
// and the bound together cost no less than the best so far, the thing is in nothing
// better, and is ruled out for the branch.
func Cheapest(groups []Group, needs int) (taken []Taken, cost int64, ok bool) {
	s := &search{groups: groups, best: math.MaxInt64, taken: make([]Taken, len(groups)), words: (needs + 63) / 64}
	s.off = make([]int64, len(groups))
	for g := range groups {
		s.taken[g].Choice = -1
		if least := cheapest(groups[g].Choices); groups[g].Always && least >= 0 {
			s.off[g] = groups[g].Choices[least].Cost // paid in any case
			s.spent += s.off[g]
		} else if groups[g].Always {
			return nil, 0, false
		}
	}
	s.list()
	s.open = make([]uint64, s.words)
	for n := range needs {
		s.open[n/64] |= 1 << (n % 64)
	}
	s.branch()
	return s.found, s.best, s.found != nil
}

func cheapest(all []Choice) int {
	best := -1
	for i := range all {
		if best < 0 || all[i].Cost < all[best].Cost {
			best = i
		}
	}
	return best
}

// thing is a choice, or an extra on one.
type thing struct {
	group, choice, extra int // extra: -1 for the choice itself
	cost                 int64
	brings               []uint64
}

type search struct {
	groups []Group
	things []thing
	givers [][]int // things by need
	off    []int64 // of each group's choices, what is paid in any case
	words  int
	open   []uint64 // needs that nothing taken brings
	barred []int    // how often a thing was ruled out on the way here
	taken  []Taken
	spent  int64
	best   int64
	found  []Taken
	left   []int64 // what things still ask in the bound
	may    []bool  // which things can be taken in this branch
}

func (s *search) list() {
	add := func(t thing, brings Set) {
		t.brings = make([]uint64, s.words)
		copy(t.brings, brings)
		s.things = append(s.things, t)
	}
	for g := range s.groups {
		for c := range s.groups[g].Choices {
			choice := &s.groups[g].Choices[c]
			add(thing{g, c, -1, choice.Cost - s.off[g], nil}, choice.Brings)
			for e := range choice.Extras {
				add(thing{g, c, e, choice.Extras[e].Cost, nil}, choice.Extras[e].Brings)
			}
		}
	}
	s.givers = make([][]int, s.words*64)
	for i := range s.things {
		for n := range s.givers {
			if s.things[i].brings[n/64]&(1<<(n%64)) != 0 {
				s.givers[n] = append(s.givers[n], i)
			}
		}
	}
	s.barred, s.left, s.may = make([]int, len(s.things)), make([]int64, len(s.things)), make([]bool, len(s.things))
}

// asks is what taking a thing would cost now, with the choice that an extra hangs
// on; false where it cannot be taken any more.
func (s *search) asks(i int) (cost int64, may bool) {
	t := &s.things[i]
	on := s.taken[t.group].Choice
	switch {
	case s.barred[i] > 0, on >= 0 && on != t.choice, on == t.choice && t.extra < 0:
		return 0, false
	case on < 0 && t.extra >= 0:
		if s.barred[i-1-t.extra] > 0 { // the choice it hangs on
			return 0, false
		}
		return t.cost + s.groups[t.group].Choices[t.choice].Cost - s.off[t.group], true
	}
	return t.cost, true
}

// branch tries all that the needs that are open can be brought by.
func (s *search) branch() {
	for i := range s.things {
		_, s.may[i] = s.asks(i)
	}
	need, ways := s.fewest()
	if need < 0 {
		if s.spent < s.best {
			s.keep()
		}
		return
	}
	if len(ways) == 0 {
		return
	}
	least := s.spent + s.bound()
	if least >= s.best {
		return
	}
	var dear []int // what cannot be part of anything better
	for i := range s.things {
		if s.may[i] && least+s.over(i) >= s.best {
			s.barred[i]++
			dear = append(dear, i)
		}
	}
	all := make([]way, 0, len(ways))
	for _, i := range ways {
		cost, _ := s.asks(i)
		if s.barred[i] == 0 {
			all = append(all, way{i, cost, least + s.over(i), s.closes(i)})
		}
	}
	slices.SortStableFunc(all, func(a, b way) int { return cmp.Compare(a.cost*int64(b.closes), b.cost*int64(a.closes)) })
	for _, w := range all {
		if _, may := s.asks(w.thing); may && w.least < s.best {
			s.take(w.thing)
		}
		s.barred[w.thing]++ // what comes after does without it
	}
	for _, w := range all {
		s.barred[w.thing]--
	}
	for _, i := range dear {
		s.barred[i]--
	}
}

// way is a thing that could be taken next: what it costs, the least that any result
// with it costs, and how many open needs it brings.
type way struct {
	thing       int
	cost, least int64
	closes      int
}

// over is by how much the bound rises, at least, where a thing is taken: its reduced
// cost, with that of the choice that it hangs on.
func (s *search) over(i int) int64 {
	t := &s.things[i]
	if t.extra >= 0 && s.taken[t.group].Choice < 0 {
		return s.left[i] + s.left[i-1-t.extra]
	}
	return s.left[i]
}

// closes is how many open needs a thing brings, with the choice that it hangs on.
func (s *search) closes(i int) (n int) {
	t := &s.things[i]
	on := t.extra >= 0 && s.taken[t.group].Choice < 0
	for w, word := range s.open {
		brings := t.brings[w]
		if on {
			brings |= s.things[i-1-t.extra].brings[w]
		}
		n += bits.OnesCount64(word & brings)
	}
	return n
}

// take goes on with a thing taken, and gives it back.
func (s *search) take(i int) {
	t := &s.things[i]
	cost, _ := s.asks(i)
	open, spent, was := slices.Clone(s.open), s.spent, s.taken[t.group]
	s.spent += cost
	now := &s.taken[t.group]
	if now.Choice < 0 {
		now.Choice = t.choice
		s.close(s.groups[t.group].Choices[t.choice].Brings)
	}
	if t.extra >= 0 {
		now.Extras = append(slices.Clone(was.Extras), t.extra)
		s.close(s.groups[t.group].Choices[t.choice].Extras[t.extra].Brings)
	}
	s.branch()
	s.open, s.spent, s.taken[t.group] = open, spent, was
}

func (s *search) close(brings Set) {
	for w := range min(len(brings), s.words) {
		s.open[w] &^= brings[w]
	}
}

// fewest returns the open need that the fewest things bring, and these; -1 where
// none is open.
func (s *search) fewest() (need int, ways []int) {
	need, least := -1, math.MaxInt
	for w, word := range s.open {
		for ; word != 0; word &= word - 1 {
			n := w*64 + bits.TrailingZeros64(word)
			count := 0
			for _, i := range s.givers[n] {
				if s.may[i] {
					count++
				}
			}
			if count < least {
				need, least = n, count
			}
		}
	}
	if need >= 0 {
		for _, i := range s.givers[need] {
			if s.may[i] {
				ways = append(ways, i)
			}
		}
	}
	return need, ways
}

// bound is the least that bringing the open needs costs besides, or less.
func (s *search) bound() (sum int64) {
	left := s.left
	for i := range left {
		left[i] = s.things[i].cost
	}
	for w, word := range s.open {
		for ; word != 0; word &= word - 1 {
			n := w*64 + bits.TrailingZeros64(word)
			pay := int64(math.MaxInt64)
			for _, i := range s.givers[n] {
				if s.may[i] {
					pay = min(pay, left[i])
				}
			}
			if pay == math.MaxInt64 {
				return math.MaxInt64 / 2 // nothing brings it
			}
			if pay == 0 {
				continue
			}
			for _, i := range s.givers[n] {
				left[i] -= pay
			}
			sum += pay
		}
	}
	return sum
}

// keep notes the best so far; groups of which one is always taken take their
// cheapest choice where none was needed.
func (s *search) keep() {
	s.best = s.spent
	s.found = make([]Taken, len(s.taken))
	for g, t := range s.taken {
		if t.Choice < 0 && s.groups[g].Always {
			t.Choice = cheapest(s.groups[g].Choices)
		}
		t.Extras = slices.Sorted(slices.Values(t.Extras))
		s.found[g] = t
	}
}
