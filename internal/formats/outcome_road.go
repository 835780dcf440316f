package formats

import (
	"context"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

// What follows beyond the schedules: other cases of growth, leaving what runs today, what
// is left before the next step, what to do when, and what to ask for.
type (
	outcomeCase struct {
		Case   string                   `json:"case"`
		Totals map[string]*money.Amount `json:"totals"` // by option; null where not every month is served
	}
	outcomeLeaving struct {
		Option   string        `json:"option"`
		Move     money.Amount  `json:"move"`      // hours and money of the move
		Beside   money.Amount  `json:"beside"`    // what runs today, while it is paid too
		Saves    *money.Amount `json:"saves"`     // over the horizon, the move taken off; null: not both serve all months
		PaidBack *string       `json:"paid_back"` // month; null: never within the horizon
		Best     *string       `json:"best_month"`
		BestIs   money.Amount  `json:"best_total"`
		Quarter  *money.Amount `json:"waiting_a_quarter"` // null: past the horizon, or it leaves more months unserved
	}
	outcomeRoad struct {
		Total money.Amount `json:"total"`
		Legs  []outcomeLeg `json:"legs"`
	}
	outcomeLeg struct {
		Option string       `json:"option"`
		From   string       `json:"from"`
		To     string       `json:"to"`
		Move   money.Amount `json:"move"`
		Costs  money.Amount `json:"costs"`
		Beside money.Amount `json:"beside"` // what runs today, while it is paid too
	}
	outcomeRoom struct {
		Option string         `json:"option"`
		Tool   int            `json:"tool"`
		Plan   string         `json:"plan"`
		Driver string         `json:"driver"`
		Until  usage.Quantity `json:"until"`
		Left   usage.Quantity `json:"left"`
		Month  *string        `json:"month"` // null: not within the horizon
		To     *string        `json:"to"`    // null: nothing serves
		Delta  money.Amount   `json:"delta"` // a month
		Why    string         `json:"why"`
	}
	outcomeDeed struct {
		Option string       `json:"option"`
		Month  string       `json:"month"`
		On     string       `json:"on"`
		Notice bool         `json:"notice"`
		Text   string       `json:"text"`
		Cost   money.Amount `json:"cost"` // due in that month
	}
	outcomeBargain struct {
		Option    string       `json:"option"`
		Least     *float64     `json:"least_from"` // share off its list, of 1; 0: it does already; null: no cut would do
		Leave     *float64     `json:"leave_from"` // likewise, that leaving what runs today pays; null where nothing does
		FreeMonth money.Amount `json:"free_month"`
	}
	outcomeSpread struct {
		Paths   int                   `json:"paths"`
		Options []outcomeSpreadOption `json:"options"`
	}
	outcomeSpreadOption struct {
		Option   string          `json:"option"`
		Total    [3]money.Amount `json:"total"` // at the 10th, 50th and 90th percentile
		Least    float64         `json:"least"`
		Over     []float64       `json:"over"` // by year
		Outgrown float64         `json:"outgrown"`
		Unserved float64         `json:"unserved"`
	}
)

// further adds what is worked out only where it is looked at.
func (f *outcomeFile) further(ctx context.Context, o *study.Outcome) error {
	st := o.Study
	month := func(t int) *string { m := st.Month(t).ISO(); return &m }
	key := func(result int) string { return o.Results[result].Option.Key }
	f.Cases, f.Leaving, f.Headroom, f.Deeds, f.Bargains = []outcomeCase{}, []outcomeLeaving{}, []outcomeRoom{}, []outcomeDeed{}, []outcomeBargain{}
	if _, err := o.Cases(ctx); err != nil {
		return err
	}
	for _, c := range usage.Cases() {
		other, one := o.InCase(c), outcomeCase{Case: c.Say(), Totals: map[string]*money.Amount{}}
		for i := range other.Results {
			r := &other.Results[i]
			if one.Totals[r.Option.Key] = nil; r.Schedule.Serves() {
				one.Totals[r.Option.Key] = &r.Schedule.Total
			}
		}
		f.Cases = append(f.Cases, one)
	}
	leaving, err := o.Leaving(ctx)
	if err != nil {
		return err
	}
	for _, l := range leaving {
		one := outcomeLeaving{Option: key(l.Result), Move: l.Work, Beside: l.Beside, BestIs: l.BestIs}
		if l.Compares {
			one.Saves = &l.Saves
		}
		if l.Waits {
			one.Quarter = &l.Quarter
		}
		if l.PaidBack > 0 {
			one.PaidBack = month(l.PaidBack - 1)
		}
		if l.Best < st.Horizon {
			one.Best = month(l.Best)
		}
		f.Leaving = append(f.Leaving, one)
	}
	roads, err := o.Roads(ctx, nil)
	if err != nil {
		return err
	}
	if road, ok := roads.Cheapest(); ok && road.Unserved() == 0 {
		f.Road = &outcomeRoad{Total: road.Total}
		for _, leg := range road.Legs {
			f.Road.Legs = append(f.Road.Legs, outcomeLeg{key(roads.Results[leg.Option]), *month(leg.From), *month(leg.To), leg.In, leg.Costs, leg.Beside})
		}
	}
	headroom, err := o.Headroom(ctx, 0)
	if err != nil {
		return err
	}
	for _, h := range headroom {
		one := outcomeRoom{Option: key(h.Result), Tool: h.Tool, Plan: h.Plan, Driver: h.Driver.Key, Until: h.Driver.Value(h.Until), Left: h.Driver.Value(h.Left), Delta: h.Delta, Why: h.Why}
		if h.Month >= 0 {
			one.Month = month(h.Month)
		}
		if h.Serves {
			one.To = &h.To
		}
		f.Headroom = append(f.Headroom, one)
	}
	for i := range o.Results {
		for _, d := range o.Deeds(&o.Results[i]) {
			f.Deeds = append(f.Deeds, outcomeDeed{key(i), *month(d.Month), d.On.Format("2006-01-02"), d.Notice, d.Text, d.Cost})
		}
	}
	return f.bargains(ctx, o, key)
}

func (f *outcomeFile) bargains(ctx context.Context, o *study.Outcome, key func(int) string) error {
	all, err := o.Bargains(ctx, nil)
	if err != nil {
		return err
	}
	share := func(does bool, s money.Share, already bool) *float64 {
		none := 0.0
		switch {
		case already:
			return &none
		case does:
			v := s.Float()
			return &v
		}
		return nil
	}
	for _, b := range all {
		f.Bargains = append(f.Bargains, outcomeBargain{key(b.Result), share(b.LeastDoes, b.Least, b.IsLeast), share(b.LeaveDoes, b.Leave, b.Pays), b.FreeMonth})
	}
	if s, known := o.Drawn(1); known && s.Simulation != nil {
		f.Spread = &outcomeSpread{Paths: s.Paths, Options: []outcomeSpreadOption{}}
		for k, i := range s.Results {
			one := s.Options[k]
			f.Spread.Options = append(f.Spread.Options, outcomeSpreadOption{key(i), one.Total, one.Least, one.Over, one.Outgrown, one.Unserved})
		}
	}
	return nil
}
