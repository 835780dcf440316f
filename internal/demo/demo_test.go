package demo_test

import (
	"fmt"
	"testing"
	"time"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/demo"
	"ninecoins/internal/formats"

	"github.com/stretchr/testify/require"
)

func load(t testing.TB) *study.Study {
	t.Helper()
	editions := map[string]*pricelist.Edition{}
	for _, data := range demo.PriceLists() {
		e, err := formats.ReadPriceList(data)
		require.NoError(t, err)
		editions[e.Platform.Key+e.ObservedOn.Format(time.DateOnly)] = e
	}
	s, err := formats.ReadStudy(demo.Study(), func(key string, day time.Time) (*pricelist.Edition, bool) {
		e, ok := editions[key+day.Format(time.DateOnly)]
		return e, ok
	})
	require.NoError(t, err)
	s.Today = time.Date(2026, 11, 24, 0, 0, 0, 0, time.UTC)
	return s
}

func TestPrint(t *testing.T) {
	s := load(t)
	o, err := study.Compute(s)
	require.NoError(t, err)
	for _, r := range o.Ranked() {
		fmt.Println(r.Option.Name, r.Standing.Place, r.Standing.Fit, r.Schedule.Total, r.Standing.Out, r.Schedule.Beyond, r.Stale)
	}
	fmt.Println(o.SayCosts())
	fmt.Println(o.SayVerdict())
	fmt.Println(o.SayNext())
	fmt.Println(o.SayScores())
	fmt.Println(o.SayLeads())
	for _, e := range o.Events() {
		fmt.Println(s.Month(e.Month), o.Results[e.Result].Option.Name, e.Say(), e.Step != nil)
	}
	for _, c := range o.Coins {
		fmt.Println(c)
	}
}

func BenchmarkCompute(b *testing.B) {
	s := load(b)
	for b.Loop() {
		if _, err := study.Compute(s); err != nil {
			b.Fatal(err)
		}
	}
}
