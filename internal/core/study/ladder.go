package study

import (
	"math"
	"slices"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
)

// Rung is one plan on the ladder of a price list, from the smallest up: what it costs at
// today's usage, and what it gives beside the plan below.
type Rung struct {
	Plan     *pricelist.Plan
	Receipts []quote.Receipt // on each of its terms, in the order of the list
	Taken    bool
	Adds     []string     // keys of the features that it has and the plan below has not
	May      []string     // and of those of which that is not known of the plan below
	Loses    []string     // and the other way round
	Times    []Multiple   // what it holds more, or fewer, of
	Price    float64      // how many times the price of the plan below, a month, paid like it; 0: not told
	Units    []UnitPrice  // what one of what it holds or bills comes to
	Monthly  money.Amount // on its first term; 0 where it is not priced
	Priced   bool
}

// Multiple is by how much a plan holds more of something than the plan below.
type Multiple struct {
	Unit      string // several of them
	Was, Is   usage.Quantity
	Times     float64
	Unlimited bool
}

// UnitPrice is what a plan comes to for each of what is counted.
type UnitPrice struct {
	Unit   string
	Per    int64 // 1, or 1,000
	Amount money.Amount
	Full   bool // at what the plan holds, where today's usage is none
}

// Ladder sets the plans of a tool of an option above each other, at today's usage.
func (r *Result) Ladder(at int) []Rung {
	t := &r.Tools[at]
	e := t.Tool.Edition
	var receipts []quote.Receipt
	if !r.AtFault {
		receipts = t.Prices()
	}
	rungs := make([]Rung, 0, len(e.Plans))
	for i := range e.Plans {
		one := Rung{Plan: &e.Plans[i], Taken: t.Today != nil && t.Today.Plan.Key == e.Plans[i].Key}
		for j := range receipts {
			if receipts[j].Plan.Key == one.Plan.Key {
				one.Receipts = append(one.Receipts, receipts[j])
			}
		}
		if len(one.Receipts) > 0 && one.Receipts[0].Priced {
			one.Monthly, one.Priced = one.Receipts[0].Monthly(), true
		}
		if i > 0 {
			below := &rungs[i-1]
			one.Adds, one.May = gains(below.Plan, one.Plan)
			one.Loses, _ = gains(one.Plan, below.Plan)
			one.Times = multiples(e, below.Plan, one.Plan)
			one.Price = timesThePrice(below, &one, t.Today)
		}
		if one.Priced && one.Monthly > 0 {
			one.Units = unitPrices(e, &one, t.readings())
		}
		rungs = append(rungs, one)
	}
	return rungs
}

// timesThePrice is how many times what a plan costs the plan above it costs, paid as is paid today, or
// else by the first term that both are sold on; 0 where there is none.
func timesThePrice(below, above *Rung, today *quote.Receipt) (times float64) {
	for i := range above.Receipts {
		b := &above.Receipts[i]
		for j := range below.Receipts {
			a := &below.Receipts[j]
			if was, is := beside(a, b); a.Term.Like(b.Term) && a.Priced && b.Priced && was > 0 {
				if inForce := today != nil && a.Term.Like(today.Term); times == 0 || inForce {
					times = float64(is) / float64(was)
				}
			}
		}
	}
	return times
}

// readings are what the meters of the tool read in the first month.
func (t *ToolResult) readings() quote.Readings {
	if len(t.candidate.Rows) == 0 {
		return nil
	}
	return tariff.Readings(t.Tool.Edition, t.candidate.Rows[0])
}

// Readings are what the meters of a tool of the option read in the first month.
func (r *Result) Readings(at int) quote.Readings { return r.Tools[at].readings() }

// gains are the features that a plan has and another has not, and those of which that is not known of
// the other.
func gains(without, with *pricelist.Plan) (keys, may []string) {
	for key, f := range with.Features {
		if !f.Has.Meets() {
			continue
		}
		switch was := without.Feature(key).Has; {
		case was == pricelist.Unknown || was == "":
			may = append(may, key)
		case !was.Meets():
			keys = append(keys, key)
		}
	}
	slices.Sort(keys)
	slices.Sort(may)
	return keys, may
}

// holds is how much of a meter a plan takes without more being paid: its limit, or what is
// included.
func holds(p *pricelist.Plan, meter string) (q usage.Quantity, unlimited, told bool) {
	for i := range p.Charges {
		if c := &p.Charges[i]; c.Meter == meter && (c.Kind == pricelist.Unit || c.Kind == pricelist.Pack) && c.Included > 0 {
			if !told || c.Included < q {
				q, told = c.Included, true
			}
		}
	}
	for i := range p.Limits {
		if l := &p.Limits[i]; l.Meter == meter && l.OfMeter == "" {
			switch {
			case l.Holds() && told:
				return min(q, l.Most), false, true
			case l.Holds():
				return l.Most, false, true
			case !told:
				return 0, true, true
			}
		}
	}
	if told {
		return q, false, true
	}
	for i := range p.Charges {
		c := &p.Charges[i]
		if c.Meter != meter {
			continue
		}
		if n := len(c.Bands); n > 0 && !c.Bands[n-1].Open && c.Above == nil {
			return c.Bands[n-1].To, false, true
		}
	}
	return 0, false, false
}

// limits reports whether a plan ends at what it holds of a meter, and does not bill more.
func limits(p *pricelist.Plan, meter string) bool {
	return !slices.ContainsFunc(p.Charges, func(c pricelist.Charge) bool {
		return c.Meter == meter && (c.Kind == pricelist.Unit || c.Kind == pricelist.Pack)
	})
}

func multiples(e *pricelist.Edition, below, above *pricelist.Plan) (all []Multiple) {
	for i := range e.Meters {
		m := &e.Meters[i]
		was, free, told := holds(below, m.Key)
		is, unlimited, tells := holds(above, m.Key)
		switch {
		case !tells || free || told && !unlimited && was == is:
			continue
		case unlimited:
			all = append(all, Multiple{Unit: quote.Plural(m.Unit), Was: was, Unlimited: true})
		case told && was > 0:
			all = append(all, Multiple{Unit: quote.Plural(m.Unit), Was: was, Is: is, Times: float64(is) / float64(was)})
		}
	}
	return all
}

// unitPrices are what a plan comes to for each of what its charges and limits count: at
// today's reading, or where that is none, or more than it holds, at what it holds.
func unitPrices(e *pricelist.Edition, rung *Rung, readings quote.Readings) (all []UnitPrice) {
	for i := range e.Meters {
		m := &e.Meters[i]
		counted := slices.ContainsFunc(rung.Plan.Charges, func(c pricelist.Charge) bool { return c.Meter == m.Key && c.Kind != pricelist.Once }) ||
			slices.ContainsFunc(rung.Plan.Limits, func(l pricelist.Limit) bool { return l.Meter == m.Key && l.OfMeter == "" && l.Holds() })
		if !counted {
			continue
		}
		q, full := readings[m.Key], false
		if most, unlimited, told := holds(rung.Plan, m.Key); q <= 0 || told && !unlimited && q > most && limits(rung.Plan, m.Key) {
			q, full = most, true
		}
		if q <= 0 {
			continue
		}
		per := int64(1)
		if q >= 1_000*usage.One {
			per = 1_000
		}
		each := float64(rung.Monthly) / (float64(q) / float64(usage.One)) * float64(per)
		to := float64(rung.Receipts[0].Conversion.To.Minor())
		all = append(all, UnitPrice{Unit: m.Unit, Per: per, Amount: money.Amount(math.Round(each/to) * to), Full: full})
	}
	return all
}

// Ahead is the next step of what a tool pays today as one of its meters grows.
type Ahead struct {
	Unit  string         // of the meter
	Now   usage.Quantity // today's reading
	At    usage.Quantity // from which reading on it costs more
	Costs money.Amount   // a month more; 0 where nothing serves there
	To    string         // the plan that is taken then; "" none serves
	Paid  pricelist.Term // how that is paid, where that is not as today
	Move  bool           // to another plan
}

// Next finds, for each meter that the plan taken today bills or limits, at which reading
// the price of a month next rises, and by how much, on the same policy. The nearest come
// first.
func (r *Result) Next(at int) (all []Ahead) {
	t := &r.Tools[at]
	if r.AtFault || t.Today == nil || len(t.candidate.Rows) == 0 || !t.Schedule.Months[0].Serves {
		return nil
	}
	e, row := t.Tool.Edition, t.candidate.Rows[0]
	program := t.Schedule.Months[0].Program
	now := t.cheapest(t.Prices(), true)
	for m := range e.Meters {
		next, _, ok := program.Next(0, m, row)
		if !ok || next <= row[m] {
			continue
		}
		then := slices.Clone(row)
		then[m] = next
		c := t.candidate
		c.Rows = [][]int64{then}
		prices, err := projection.Preview(c, 0)
		if err != nil {
			continue
		}
		grain := tariff.Grain(&e.Meters[m])
		one := Ahead{Unit: e.Meters[m].Unit, Now: usage.Quantity(row[m] * grain), At: usage.Quantity(next * grain)}
		if best := t.cheapest(prices, true); best != nil && now != nil {
			was, is := beside(now, best)
			one.To, one.Move, one.Costs = best.Plan.Name, best.Plan.Key != t.Today.Plan.Key, is-was
			if one.Costs <= 0 && !one.Move {
				continue
			}
		} else if best = t.cheapest(prices, false); best != nil && now != nil {
			one.To, one.Move, one.Costs, one.Paid = best.Plan.Name, best.Plan.Key != t.Today.Plan.Key, best.Monthly()-now.Monthly(), best.Term
		}
		all = append(all, one)
	}
	far := func(a Ahead) float64 { return float64(a.At) / math.Max(1, float64(a.Now)) }
	slices.SortStableFunc(all, func(a, b Ahead) int {
		switch {
		case far(a) < far(b):
			return -1
		case far(a) > far(b):
			return 1
		}
		return 0
	})
	return all
}

// cheapest is the receipt that costs least a month as the policy takes plans, of those that serve and
// else of those that may: paid like today, or in any way; nil where none does.
func (t *ToolResult) cheapest(all []quote.Receipt, likeToday bool) (best *quote.Receipt) {
	for i := range all {
		q := &all[i]
		if !q.May() || !t.candidate.Takes(q.Plan, q.Term) || likeToday && !q.Term.Like(t.Today.Term) {
			continue
		}
		if best == nil || q.Serves() && !best.Serves() || q.Serves() == best.Serves() && q.Monthly() < best.Monthly() {
			best = q
		}
	}
	return best
}

// Entry is the price that a list begins with, against what is really paid.
type Entry struct {
	From money.Amount // the least that any plan costs a month, on any term, at no usage
	Plan string
	Term pricelist.Term
	Size bool         // it costs another amount at today's usage
	Free string       // a plan that costs nothing; "" where there is none
	Pays money.Amount // what is paid in the first month
	With []string     // add-ons that are paid in it and not in the entry
	Why  []quote.Reason
}

// usageBilled reports whether a charge asks for what is used.
func usageBilled(c pricelist.Charge) bool {
	return c.Kind != pricelist.Flat && c.Kind != pricelist.Once
}

// Entry compares what a tool's price page would name with what is paid: why the cheaper
// plan does not do. False where nothing is paid, or the entry is what is paid.
func (r *Result) Entry(at int) (Entry, bool) {
	t := &r.Tools[at]
	if r.AtFault || t.Today == nil {
		return Entry{}, false
	}
	c := t.candidate
	c.Rows, c.Musts, c.Programs = [][]int64{make([]int64, len(t.Tool.Edition.Meters))}, nil, nil
	none, err := projection.Preview(c, 0)
	if err != nil {
		return Entry{}, false
	}
	var best *quote.Receipt
	free := ""
	for i := range none {
		if q := &none[i]; free == "" && q.Priced && q.Monthly() == 0 && q.AtSigning == 0 && q.Plan.Offered == pricelist.Public && !slices.ContainsFunc(q.Plan.Charges, usageBilled) {
			free = q.Plan.Name
		}
		if q := &none[i]; q.Priced && q.Monthly() > 0 && q.Period != pricelist.Lifetime && (best == nil || q.Monthly() < best.Monthly()) {
			best = q
		}
	}
	if best == nil || best.Monthly() >= t.Today.Monthly() {
		return Entry{}, false
	}
	entry := Entry{From: best.Monthly(), Plan: best.Plan.Name, Term: best.Term, Free: free, Pays: t.Today.Monthly()}
	for _, q := range t.Prices() {
		if q.Plan.Key == best.Plan.Key && q.Term.Key == best.Term.Key {
			entry.With = slices.DeleteFunc(slices.Clone(t.Today.AddOns), func(name string) bool { return slices.Contains(best.AddOns, name) })
			entry.Why, entry.Size = t.Against(&q), q.Monthly() != best.Monthly()
		}
	}
	return entry, true
}

// Against is what stands against a plan beside the one that is taken today: a must of which it is not
// known of either is no reason.
func (t *ToolResult) Against(q *quote.Receipt) []quote.Reason {
	return slices.DeleteFunc(slices.Clone(q.Reasons), func(r quote.Reason) bool {
		return r.Kind == quote.MustNotKnown && slices.ContainsFunc(t.Today.Reasons, func(o quote.Reason) bool { return o.Kind == r.Kind && o.Feature == r.Feature })
	})
}
