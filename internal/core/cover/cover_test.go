package cover_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/cover"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// brute tries everything: each group's choices with every subset of their extras.
func brute(groups []cover.Group, needs int) (best int64, ok bool) {
	best = math.MaxInt64
	var try func(g int, has map[int]bool, cost int64)
	try = func(g int, has map[int]bool, cost int64) {
		if g == len(groups) {
			for n := range needs {
				if !has[n] {
					return
				}
			}
			best, ok = min(best, cost), true
			return
		}
		if !groups[g].Always {
			try(g+1, has, cost)
		}
		for _, c := range groups[g].Choices {
			for subset := range 1 << len(c.Extras) {
				with, more := map[int]bool{}, c.Cost
				for n := range needs {
					with[n] = has[n] || c.Brings.Has(n)
				}
				for e, x := range c.Extras {
					if subset&(1<<e) != 0 {
						more += x.Cost
						for n := range needs {
							with[n] = with[n] || x.Brings.Has(n)
						}
					}
				}
				try(g+1, with, cost+more)
			}
		}
	}
	try(0, map[int]bool{}, 0)
	return best, ok
}

func some(r *rand.Rand, needs, most int) (s cover.Set) {
	for range r.IntN(most + 1) {
		s = s.With(r.IntN(needs))
	}
	return s
}

func random(r *rand.Rand, groups, choices, extras, needs, brings int) []cover.Group {
	all := make([]cover.Group, groups)
	for g := range all {
		all[g].Always = r.IntN(4) == 0
		for range 1 + r.IntN(choices) {
			c := cover.Choice{Cost: int64(r.IntN(40)), Brings: some(r, needs, brings)}
			for range r.IntN(extras + 1) {
				c.Extras = append(c.Extras, cover.Extra{Cost: int64(r.IntN(20)), Brings: some(r, needs, 3)})
			}
			all[g].Choices = append(all[g].Choices, c)
		}
	}
	return all
}

func costs(groups []cover.Group, taken []cover.Taken, needs int) (sum int64, all bool) {
	has := map[int]bool{}
	for g, t := range taken {
		if t.Choice < 0 {
			continue
		}
		c := groups[g].Choices[t.Choice]
		sum += c.Cost
		sets := []cover.Set{c.Brings}
		for _, e := range t.Extras {
			sum, sets = sum+c.Extras[e].Cost, append(sets, c.Extras[e].Brings)
		}
		for n := range needs {
			for _, s := range sets {
				has[n] = has[n] || s.Has(n)
			}
		}
	}
	for n := range needs {
		if !has[n] {
			return sum, false
		}
	}
	return sum, true
}

func TestTheCheapestIsThatOfTryingEverything(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 4))
	found := 0
	for i := range 1500 {
		needs := 1 + r.IntN(9)
		if i%5 == 0 {
			needs = 60 + r.IntN(10) // beyond one word
		}
		groups := random(r, 1+r.IntN(3), 3, 2, needs, 4+needs/2)
		if i%5 == 0 {
			for n := range needs { // else none would ever bring so many
				if n%7 != 0 {
					groups[0].Choices[0].Brings = groups[0].Choices[0].Brings.With(n)
				}
			}
		}
		want, possible := brute(groups, needs)
		taken, cost, ok := cover.Cheapest(groups, needs)
		require.Equal(t, possible, ok, "case %d", i)
		if !ok {
			continue
		}
		found++
		require.Equal(t, want, cost, "case %d: %+v", i, groups)
		sum, all := costs(groups, taken, needs)
		require.True(t, all, "case %d leaves a need", i)
		require.Equal(t, cost, sum, "case %d", i)
		for g := range groups {
			require.True(t, !groups[g].Always || taken[g].Choice >= 0, "case %d", i)
		}
	}
	assert.Greater(t, found, 300, "not only cases without a way")
}

func TestNothingIsTakenThatNothingNeeds(t *testing.T) {
	groups := []cover.Group{
		{Choices: []cover.Choice{{Cost: 5, Brings: cover.SetOf(0)}, {Cost: 9, Brings: cover.SetOf(0, 1)}}},
		{Choices: []cover.Choice{{Cost: 3, Brings: cover.SetOf(1)}}},
	}
	taken, cost, ok := cover.Cheapest(groups, 2)
	assert.True(t, ok)
	assert.EqualValues(t, 8, cost)
	assert.Equal(t, []cover.Taken{{Choice: 0}, {Choice: 0}}, taken, "two small ones are cheaper than the large one")
	taken, cost, ok = cover.Cheapest(groups, 0)
	assert.True(t, ok)
	assert.Zero(t, cost)
	assert.Equal(t, []cover.Taken{{Choice: -1}, {Choice: -1}}, taken)
	_, _, ok = cover.Cheapest(groups, 3)
	assert.False(t, ok, "nothing brings the third")
	_, _, ok = cover.Cheapest([]cover.Group{{Always: true}}, 0)
	assert.False(t, ok, "one must be taken and there is none")
}

func ExampleCheapest() {
	groups := []cover.Group{{Choices: []cover.Choice{
		{Cost: 98, Extras: []cover.Extra{{Cost: 25, Brings: cover.SetOf(1)}, {Cost: 40, Brings: cover.SetOf(0, 1)}}},
		{Cost: 149, Brings: cover.SetOf(0, 1)},
	}}}
	taken, cost, _ := cover.Cheapest(groups, 2)
	fmt.Println(taken[0].Choice, taken[0].Extras, cost)
	// Output: 0 [1] 138
}

func BenchmarkStack(b *testing.B) {
	r := rand.New(rand.NewPCG(7, 7))
	groups := random(r, 12, 4, 4, 30, 9)
	for g := range groups {
		for len(groups[g].Choices) < 4 {
			groups[g].Choices = append(groups[g].Choices, cover.Choice{Cost: int64(20 + r.IntN(40)), Brings: some(r, 30, 12)})
		}
		groups[g].Always = false
	}
	for b.Loop() {
		if _, _, ok := cover.Cheapest(groups, 30); !ok {
			b.Fatal("nothing covers it")
		}
	}
}

func BenchmarkOptions(b *testing.B) {
	r := rand.New(rand.NewPCG(8, 8))
	var options [][]cover.Group
	for range 24 {
		one := cover.Group{Always: true}
		for p := range 6 {
			c := cover.Choice{Cost: int64(20 + 30*p)}
			for n := range 150 {
				if r.IntN(6) < 3+p/2 {
					c.Brings = c.Brings.With(n)
				}
			}
			for range 12 {
				x := cover.Extra{Cost: int64(3 + r.IntN(20))}
				for range 40 {
					x.Brings = x.Brings.With(r.IntN(150))
				}
				c.Extras = append(c.Extras, x)
			}
			one.Choices = append(one.Choices, c)
		}
		options = append(options, []cover.Group{one})
	}
	for b.Loop() {
		for _, groups := range options {
			cover.Cheapest(groups, 150)
		}
	}
}
