package study_test

import (
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// shop is a list whose plans have a bridge each, which uses so much.
func shop(driver string, plans map[int64]string, prices ...int64) study.Tool {
	var all []map[string]pricelist.Has
	for range prices {
		all = append(all, has{"l/orders": "bridge"})
	}
	t := costing(flat("shop", all...), prices...)
	for i, price := range prices {
		f := t.Edition.Plans[i].Features["l/orders"]
		f.Uses = pricelist.Uses{Driver: driver, Amount: plans[price]}
		t.Edition.Plans[i].Features["l/orders"] = f
	}
	return t
}

func TestABridgeUsesWhatItsPlanSays(t *testing.T) {
	s := musts(of(study.Option{Key: "a", Name: "a", Tool: shop("tasks", map[int64]string{10: "contacts", 12: "contacts / 5"}, 10, 12)}), "l/orders")
	s.Drivers[0].Path.Growth = 0
	s.Connector = study.Connector{Price: 100_000} // a tenth
	o := compute(t, s)
	assert.Equal(t, "shop-1", o.Results[0].Takes())
	assert.Equal(t, money.Units(14), o.Results[0].Monthly(0), "20 tasks on the big one, not 100 on the small one")
	require.Len(t, o.Bridges(&o.Results[0]), 1)
	assert.InDelta(t, 20, o.Bridges(&o.Results[0])[0].Tasks, 0)

	// Carried by a tool of the stack they are those of the plan that is taken, month by month.
	people, err := usage.ParseFormula("contacts")
	require.NoError(t, err)
	runner := carrier(t, 10, 1)
	tool := shop("tasks", map[int64]string{10: "contacts", 12: "contacts / 5"}, 10, 12)
	tool.Edition.Meters = []pricelist.Meter{{Key: "contacts", Unit: "contact", Kind: usage.Stock, Counts: people}}
	tool.Edition.Plans[0].Limits = []pricelist.Limit{{Meter: "contacts", Most: usage.Of(200)}}
	s = musts(of(stackOf("stack", tool, runner)), "l/orders", "g/glue")
	s.Drivers = append(s.Drivers, study.Setting{Driver: "steps_per_run", Path: usage.Path{Now: usage.Of(3)}})
	o = compute(t, s)
	assert.Equal(t, money.Units(10+10), o.Results[0].Monthly(0), "100 contacts on the small one")
	assert.Equal(t, money.Units(12+8), o.Results[0].Monthly(2), "400 on the big one, 80 tasks")

	// Runs take tasks for each of their steps.
	tool = shop("runs", map[int64]string{10: "contacts"}, 10)
	s.Options[0].Tool = tool
	o = compute(t, s)
	b := o.Bridges(&o.Results[0])
	require.Len(t, b, 1)
	assert.InDelta(t, 300, b[0].Tasks, 0)
	assert.True(t, b[0].Asked)
	assert.Equal(t, money.Units(10+30), o.Results[0].Monthly(0))
	s.Drivers = s.Drivers[:1]
	b = compute(t, s).Bridges(&o.Results[0])
	require.Len(t, b, 1)
	assert.Contains(t, b[0].Lacks, "steps per run")
}
