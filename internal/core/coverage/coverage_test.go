package coverage_test

import (
	"testing"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/pricelist"

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
		{"announced beats unknown", []pricelist.Has{"", pricelist.Announced}, pricelist.Announced, "b"},
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
