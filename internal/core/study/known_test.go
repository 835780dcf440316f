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

// A list that counts courses brings that driver: a study can set it, it is billed, and it stays when
// the option goes; two lists that bring the same count the same.
func TestAListBringsADriverOfItsOwn(t *testing.T) {
	courses := usage.Driver{Key: "courses", Name: "Courses", Unit: "course", Kind: usage.Stock, Whole: true}
	counts, err := usage.ParseFormula("courses")
	require.NoError(t, err)
	of1 := func(key string, each int64) study.Option {
		op := option(key, 9999, 10)
		e := op.Edition
		e.Drivers = []usage.Driver{courses}
		e.Meters = append(e.Meters, pricelist.Meter{Key: "courses", Unit: "course", Kind: usage.Stock, Counts: counts})
		e.Plans[0].Charges = append(e.Plans[0].Charges, pricelist.Charge{Key: "each", Kind: pricelist.Unit, Meter: "courses", Each: 1, Price: pricelist.Price{Usual: money.Units(each)}})
		require.Empty(t, e.Check())
		return op
	}
	s := of(of1("A", 3), of1("B", 4))
	o := compute(t, s)
	assert.Equal(t, money.Units(10), o.Results[0].Monthly(0), "not set yet")
	assert.Equal(t, "Counted as 0 in all months: courses, which price lists here count.", o.SayAtNothing())
	assert.Equal(t, []usage.Driver{courses}, s.Known())
	bring := s.Bring("courses")
	require.Len(t, bring, 1)
	after, _, err := study.Kept().Apply(*s, append(bring, study.SetDriver("courses")))
	require.NoError(t, err)
	assert.Equal(t, []usage.Driver{courses}, after.Own)
	assert.Nil(t, after.Bring("courses"), "it is the study's own now")
	after.Drivers[1].Path.Now = usage.Of(2)
	o = compute(t, &after)
	assert.Equal(t, money.Units(16), o.Results[0].Monthly(0))
	assert.Equal(t, money.Units(18), o.Results[1].Monthly(0))
	after.Options = after.Options[:0]
	compute(t, &after)
	assert.Nil(t, s.Bring("contacts"), "a standard one is everybody's")

	bad := of1("C", 1).Edition
	bad.Drivers = []usage.Driver{{Key: "contacts"}, {Key: "9courses"}}
	var said []string
	for _, f := range bad.Check() {
		said = append(said, f.String())
	}
	assert.Equal(t, []string{`drivers[0].key: "contacts" is a standard driver: count that, or give this another key`,
		`drivers[1].key: "9courses" cannot stand in a formula: use small letters, digits and _, a letter first`,
		`meters[1].counts: there is no driver "courses", neither a standard one nor one of this list`}, said)
}
