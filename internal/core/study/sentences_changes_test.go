package study_test

import (
	"context"
	"maps"
	"math/rand/v2"
	"regexp"
	"slices"
	"testing"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// another is a list with some of its prices and features changed.
func another(r *rand.Rand, e *pricelist.Edition) *pricelist.Edition {
	other := *e
	other.Plans = slices.Clone(e.Plans)
	for k := range other.Plans {
		p := &other.Plans[k]
		p.Charges = slices.Clone(p.Charges)
		for c := range p.Charges {
			if r.IntN(3) == 0 {
				p.Charges[c].Price.Usual = max(0, p.Charges[c].Price.Usual+money.Units(int64(r.IntN(11)-5)))
			}
		}
		features := map[string]pricelist.Feature{}
		for _, f := range slices.Sorted(maps.Keys(p.Features)) {
			if features[f] = p.Features[f]; r.IntN(5) == 0 {
				features[f] = pricelist.Feature{Has: []pricelist.Has{pricelist.Yes, pricelist.Partly, pricelist.Announced, pricelist.Unknown, pricelist.No}[r.IntN(5)]}
			}
		}
		p.Features = features
	}
	return &other
}

// firstIn reports whether an option is sure to come first.
func firstIn(r *study.Result) bool { return r.Standing.Place == 1 }

// change is a form in which it is said what another list changes, and when that is so.
type change struct {
	form  *regexp.Regexp
	holds func(m []string, was, then *study.Result) bool
}

var changed = []change{
	{regexp.MustCompile(`^(\w+) would be out of Study\. ?`), func(_ []string, was, then *study.Result) bool { return was.In() && !then.In() }},
	{regexp.MustCompile(`^(\w+) would be back in Study, at (\S+)\. ?`), func(m []string, was, then *study.Result) bool {
		return !was.In() && then.In() && comes(m[2], then.Schedule.Total)
	}},
	{regexp.MustCompile(`^Nothing changes for (\w+) in Study\. ?`), func(_ []string, was, then *study.Result) bool {
		for t := range was.Schedule.Months {
			if was.Schedule.Months[t].Serves && was.Monthly(t) != then.Monthly(t) {
				return false
			}
		}
		for i := range was.Coverage {
			if was.Coverage[i].Answer != then.Coverage[i].Answer {
				return false
			}
		}
		return was.In() && then.In() && was.Schedule.Total == then.Schedule.Total && was.Takes() == then.Takes() && was.Standing.Fit == then.Standing.Fit && firstIn(was) == firstIn(then)
	}},
	{regexp.MustCompile(`^(\w+) would cost Study as much as now over 6 months, but not everything stays as it is\. ?`), func(_ []string, was, then *study.Result) bool {
		same := was.Takes() == then.Takes() && was.Standing.Low == then.Standing.Low && was.Standing.High == then.Standing.High && was.Standing.Place == then.Standing.Place
		for t := range was.Schedule.Months {
			same = same && was.Schedule.Months[t].Serves == then.Schedule.Months[t].Serves && was.Monthly(t) == then.Monthly(t)
		}
		for i := range was.Coverage {
			same = same && was.Coverage[i].Answer == then.Coverage[i].Answer
		}
		return was.In() && then.In() && was.Schedule.Total == then.Schedule.Total && !same
	}},
	{regexp.MustCompile(`^(\w+) would cost Study (\S+) (more|less) over 6 months: (\S+), not (\S+)\. ?`), func(m []string, was, then *study.Result) bool {
		by := then.Schedule.Total - was.Schedule.Total
		if m[3] == "less" {
			by = -by
		}
		return was.In() && then.In() && by > 0 && comes(m[2], by) && comes(m[4], then.Schedule.Total) && comes(m[5], was.Schedule.Total)
	}},
	{regexp.MustCompile(`^(\w+) would come first\. ?`), func(_ []string, was, then *study.Result) bool {
		return !firstIn(was) && firstIn(then)
	}},
	{regexp.MustCompile(`^(\w+) would no longer come first\. ?`), func(_ []string, was, then *study.Result) bool {
		return firstIn(was) && then.Standing.Place > 1
	}},
	{regexp.MustCompile(`^(\w+) would no longer be sure to come first\. ?`), func(_ []string, was, then *study.Result) bool {
		return firstIn(was) && then.Standing.Place == 0
	}},
}

// TestWhatAnotherListIsSaidToChangeItChanges holds each sentence on what another list changes against the study
// worked out by it, and by the one before.
func TestWhatAnotherListIsSaidToChangeItChanges(t *testing.T) {
	heard, silent := make([]int, len(changed)), 0
	for n := range 3000 {
		r := rand.New(rand.NewPCG(24, uint64(n)))
		s := spoken(r)
		s.Title = "Study"
		o := compute(t, s)
		e := another(r, o.Results[r.IntN(len(o.Results))].Option.Tool.Edition)
		effects, after, err := study.Effects(context.Background(), o, e)
		require.NoError(t, err)
		require.Len(t, effects, 1)
		was, _ := o.Result(effects[0].Option)
		then, _ := after.Result(effects[0].Option)
		text := study.SayEffects(o, effects).String()
		if text == "" {
			silent++
			require.False(t, was.In() || then.In(), "case %d: nothing is said", n)
		}
		for text != "" {
			at := slices.IndexFunc(changed, func(c change) bool { return c.form.MatchString(text) })
			require.GreaterOrEqual(t, at, 0, "case %d: no form reads %q", n, text)
			m := changed[at].form.FindStringSubmatch(text)
			require.Equal(t, was.Option.Name, m[1])
			require.True(t, changed[at].holds(m, was, then), "case %d: %s", n, text)
			heard[at]++
			text = text[len(m[0]):]
		}
	}
	t.Log(heard, silent)
	for at, n := range heard {
		assert.NotZero(t, n, changed[at].form)
	}
}

// TestWhatBecameOfAReasonIsSo holds what is said of a need that a reason is tied to against how the pick has it.
func TestWhatBecameOfAReasonIsSo(t *testing.T) {
	heard := map[string]int{}
	for n := range 3000 {
		r := rand.New(rand.NewPCG(20, uint64(n)))
		s := spoken(r)
		for i := range s.Options {
			s.Options[i].Tool.Edition = another(r, s.Options[i].Tool.Edition)
		}
		s.Needs = append(s.Needs, coverage.Need{ID: "a/three", Feature: "a/three", Name: "Threes", Level: coverage.Bonus, Depth: 2})
		for i := range s.Options {
			for k := range s.Options[i].Tool.Edition.Plans {
				s.Options[i].Tool.Edition.Plans[k].Features["a/three"] = pricelist.Feature{Has: pricelist.Yes, Depth: 1 + r.IntN(3)}
			}
		}
		o := compute(t, s)
		if o.Pick.First < 0 {
			continue
		}
		pick := &o.Results[o.Pick.First]
		for i, need := range s.Needs {
			text := o.SayReason(&study.Reason{Need: need.Feature})
			if pick.Has == nil {
				continue
			}
			has, name, on := pick.Has[i], pick.Option.Name, pick.Takes()
			enough := has.Has == pricelist.Yes && (need.Depth == 0 || has.Depth >= need.Depth)
			want := map[string]bool{
				name + " has it on " + on:                              enough,
				"it is not known whether " + name + " has it on " + on: has.Has == pricelist.Unknown,
				name + " has it, but not on " + on:                     !enough && has.Has != pricelist.Unknown && pick.Coverage[i].Answer == coverage.Met,
				name + " has it only partly on " + on:                  has.Has == pricelist.Partly && pick.Coverage[i].Answer != coverage.Met,
				name + " has announced it for " + on:                   has.Has == pricelist.Announced && pick.Coverage[i].Answer != coverage.Met,
				name + " has less of it on " + on + " than is needed":  has.Has == pricelist.Yes && !enough && pick.Coverage[i].Answer != coverage.Met,
				name + " has not got it on " + on:                      has.Has == pricelist.No && pick.Coverage[i].Answer != coverage.Met && pick.Coverage[i].Has != pricelist.No,
				name + " has not got it":                               has.Has == pricelist.No && pick.Coverage[i].Has == pricelist.No,
			}
			holds, known := want[text]
			require.True(t, known && holds, "case %d: %s: %s", n, text, has.Has)
			heard[regexp.MustCompile(name+`|on .*`).ReplaceAllString(text, "")]++
		}
	}
	t.Log(heard)
	assert.GreaterOrEqual(t, len(heard), 7)
}

var differs = regexp.MustCompile(`^(?:Nothing differs between the list of May and June|Between the list of May and June (?:(\d+) prices? rises?(?:, by up to ([\d.]+)%)?)?(?:, )?(?:(\d+) prices? falls?)?(?:, )?(?:(\d+) (?:other )?things? changes?)?)\.$`)

// TestWhatDiffersBetweenListsIsCounted holds the sentence above two lists against the prices and features of both.
func TestWhatDiffersBetweenListsIsCounted(t *testing.T) {
	heard := [5]int{}
	for n := range 2000 {
		r := rand.New(rand.NewPCG(19, uint64(n)))
		before := spoken(r).Options[0].Tool.Edition
		after := another(r, before)
		var rise, fall, others int
		most := 0.0
		for k := range before.Plans {
			for c := range before.Plans[k].Charges {
				switch was, is := before.Plans[k].Charges[c].Price.Usual, after.Plans[k].Charges[c].Price.Usual; {
				case is > was:
					if rise++; was > 0 {
						most = max(most, float64(is-was)/float64(was))
					}
				case is < was:
					fall++
				}
			}
			for f, has := range before.Plans[k].Features {
				if after.Plans[k].Features[f].Has != has.Has {
					others++
				}
			}
		}
		text := study.SayDifferences("Ash", "May", "June", pricelist.Compare(before, after)).String()
		m := differs.FindStringSubmatch(text)
		require.NotNil(t, m, text)
		count := func(s string) int {
			if s == "" {
				return 0
			}
			return number(s)
		}
		require.Equal(t, [3]int{rise, fall, others}, [3]int{count(m[1]), count(m[3]), count(m[4])}, "case %d: %s", n, text)
		if most > 0 {
			require.InDelta(t, 100*most, mustFloat(m[2]), 0.051, "case %d: %s", n, text)
		}
		for at := 1; at < len(m); at++ {
			if m[at] != "" {
				heard[at]++
			}
		}
		if rise+fall+others == 0 {
			heard[0]++
		}
	}
	t.Log(heard)
	assert.NotContains(t, heard, 0)
}
