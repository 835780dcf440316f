package coverage_test

import (
	"fmt"
	"testing"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
)

func TestTheLowestPlanThatMeetsANeedIsNamed(t *testing.T) {
	with := func(has ...pricelist.Has) *pricelist.Edition {
		e := &pricelist.Edition{AddOns: []pricelist.AddOn{{Key: "extra", Name: "Extra"}}}
		for i, h := range has {
			p := pricelist.Plan{Key: string(rune('a' + i))}
			if h != "" {
				p.Features = map[string]pricelist.Feature{"x/y": {Has: h, Depth: i + 1, AddOn: "extra"}}
			}
			e.Plans = append(e.Plans, p)
		}
		return e
	}
	for _, row := range []struct {
		name string
		has  []pricelist.Has
		want pricelist.Has
		plan string
	}{
		{"the lower of two", []pricelist.Has{pricelist.Yes, pricelist.Yes}, pricelist.Yes, "a"},
		{"on a higher plan only", []pricelist.Has{pricelist.No, pricelist.Yes}, pricelist.Yes, "b"},
		{"partly is passed over for yes", []pricelist.Has{pricelist.Partly, pricelist.Yes}, pricelist.Yes, "b"},
		{"an add-on on the lower plan is the way in", []pricelist.Has{pricelist.AsAddOn, pricelist.Yes}, pricelist.AsAddOn, "a"},
		{"announced is a no, and unknown a question", []pricelist.Has{"", pricelist.Announced}, pricelist.Unknown, ""},
		{"so is partly", []pricelist.Has{pricelist.Partly, ""}, pricelist.Unknown, ""},
		{"unknown is a question, not a no", []pricelist.Has{pricelist.No, ""}, pricelist.Unknown, ""},
		{"no", []pricelist.Has{pricelist.No, pricelist.No}, pricelist.No, ""},
	} {
		cell := coverage.Of(with(row.has...), coverage.Need{Feature: "x/y", Level: coverage.Must}, false)
		plan := ""
		if cell.Plan != nil {
			plan = cell.Plan.Key
		}
		assert.Equal(t, row.want, cell.Has, row.name)
		assert.Equal(t, row.plan, plan, row.name)
		assert.Equal(t, row.want == pricelist.AsAddOn, cell.AddOn != nil, row.name)
	}
}

func TestAClosedPlanCountsOnlyForWhoIsThere(t *testing.T) {
	yes := map[string]pricelist.Feature{"x/y": {Has: pricelist.Yes}}
	e := &pricelist.Edition{Plans: []pricelist.Plan{{Key: "a", Features: yes}, {Key: "b", Features: yes}}}
	e.Plans[0].Offered = pricelist.Closed
	need := coverage.Need{Feature: "x/y", Level: coverage.Must}
	assert.Same(t, &e.Plans[1], coverage.Of(e, need, false).Plan)
	assert.Same(t, &e.Plans[0], coverage.Of(e, need, true).Plan)
}

func TestADepthOrANumberMayBeAskedFor(t *testing.T) {
	yes := func(depth, number int) pricelist.Feature {
		return pricelist.Feature{Has: pricelist.Yes, Depth: depth, Number: usage.Of(int64(number))}
	}
	for _, row := range []struct {
		name  string
		need  coverage.Need
		has   pricelist.Feature
		want  coverage.Answer
		worth float64
	}{
		{"any will do", coverage.Need{}, yes(1, 0), coverage.Met, 1},
		{"deep enough", coverage.Need{Depth: 2}, yes(2, 0), coverage.Met, 1},
		{"not deep enough", coverage.Need{Depth: 3}, yes(2, 0), coverage.Unmet, 0.5},
		{"how deep is not told", coverage.Need{Depth: 2}, yes(0, 0), coverage.Open, 0.5},
		{"enough of them", coverage.Need{Number: usage.Of(20)}, yes(0, 20), coverage.Met, 1},
		{"too few of them", coverage.Need{Number: usage.Of(20)}, yes(0, 5), coverage.Unmet, 0.5},
		{"how many is not told", coverage.Need{Number: usage.Of(20)}, yes(0, 0), coverage.Open, 0.5},
		{"too shallow, whatever the number", coverage.Need{Depth: 2, Number: usage.Of(20)}, yes(1, 0), coverage.Unmet, 0.5},
		{"no end to them", coverage.Need{Number: usage.Of(20)}, pricelist.Feature{Has: pricelist.Yes, Unlimited: true}, coverage.Met, 1},
		{"a bridge counts half", coverage.Need{}, pricelist.Feature{Has: pricelist.Bridge}, coverage.Met, 0.5},
		{"partly", coverage.Need{}, pricelist.Feature{Has: pricelist.Partly}, coverage.Unmet, 0.5},
		{"announced is not there", coverage.Need{}, pricelist.Feature{Has: pricelist.Announced}, coverage.Unmet, 0},
		{"unknown", coverage.Need{}, pricelist.Feature{Has: pricelist.Unknown}, coverage.Open, 0},
	} {
		assert.Equal(t, row.want, row.need.Meets(row.has), row.name)
		low, high := coverage.Worth(&row.need, row.has)
		assert.Equal(t, row.worth, low, row.name)
		assert.Equal(t, row.want == coverage.Open, low < high, row.name)
	}
}

func TestALowerPlanThatIsTooLittleIsPassedOver(t *testing.T) {
	at := func(number int64, has pricelist.Has) map[string]pricelist.Feature {
		return map[string]pricelist.Feature{"x/y": {Has: has, Number: usage.Of(number)}}
	}
	e := &pricelist.Edition{Plans: []pricelist.Plan{{Key: "a", Features: at(5, pricelist.Yes)}, {Key: "b", Features: at(0, pricelist.Yes)}, {Key: "c", Features: at(30, pricelist.Yes)}}}
	need := coverage.Need{Feature: "x/y", Number: usage.Of(20)}
	cell := coverage.Of(e, need, false)
	assert.Equal(t, "c", cell.Plan.Key)
	assert.Equal(t, coverage.Met, cell.Answer)
	need.Number = usage.Of(50)
	cell = coverage.Of(e, need, false)
	assert.Equal(t, "b", cell.Plan.Key, "of which it is not told how many it has: a question before a no")
	assert.Equal(t, coverage.Open, cell.Answer)
	e.Plans[1].Features = at(6, pricelist.Yes)
	cell = coverage.Of(e, need, false)
	assert.True(t, cell.TooLittle())
	assert.Equal(t, "a", cell.Plan.Key)
}

func TestAnAreaCutSmallCountsLikeOneThatIsNot(t *testing.T) {
	var needs []coverage.Need
	var has []pricelist.Feature
	add := func(area string, n int, level coverage.Level, f pricelist.Has) {
		for i := range n {
			needs = append(needs, coverage.Need{Feature: fmt.Sprintf("%s/f%d", area, i), Level: level})
			has = append(has, pricelist.Feature{Has: f})
		}
	}
	add("few", 6, coverage.Want, pricelist.Yes)
	add("many", 40, coverage.Want, pricelist.No)
	share, may, known := coverage.Share(needs, has)
	assert.InDelta(t, 0.5, share, 1e-12)
	assert.InDelta(t, 0.5, may, 1e-12)
	assert.Equal(t, 46, known)
	add("must", 1, coverage.Must, pricelist.Yes)
	share, _, _ = coverage.Share(needs, has)
	assert.InDelta(t, 5.0/7, share, 1e-12, "by weight 3, 2 and 2")
	add("unknown", 10, coverage.Must, pricelist.Unknown)
	share, may, known = coverage.Share(needs, has)
	assert.InDelta(t, 5.0/10, share, 1e-12, "what is not known counts as nothing of what is certain")
	assert.InDelta(t, 8.0/10, may, 1e-12, "and whole of what may be")
	assert.Equal(t, 47, known)
	none, may, known := coverage.Share(nil, nil)
	assert.Zero(t, none+may)
	assert.Zero(t, known)
}
