package projection

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// tried goes through every way there is, and adds up what is paid.
type tried struct {
	*choosing
	gaps int
	paid int64
	seen int
}

// running is a term under way.
type running struct {
	program, start, signed int // signed: month of signing; far back for who was here
	bill                   int64
	unused                 int64 // of what was bought for life before, when this was
}

func (r *running) since(t int, p *tariff.Program) (since, into int) {
	if p.Period == 1 {
		return t - r.signed, 0
	}
	return max(0, r.start-r.signed), t - r.start
}

// on walks on from a month; plan is what one was on before it and signed when that
// was signed.
func (x *tried) on(t int, now *running, plan, signed, gaps int, paid int64) {
	if gaps > x.gaps || gaps == x.gaps && paid-x.unused(now, t) >= x.paid {
		return // it comes to no less than what was found
	}
	if t == len(x.rows) {
		x.seen++
		paid += x.owes(now) - x.rest(now)
		if gaps < x.gaps || gaps == x.gaps && paid < x.paid {
			x.gaps, x.paid = gaps, paid
		}
		return
	}
	if now != nil && t >= now.start+x.length(now.program, now.start) {
		now = nil
	}
	if now != nil {
		moved := false
		for i, p := range x.all {
			old := x.all[now.program]
			if i != now.program && (p.Rank <= old.Rank || !p.Term.Like(old.Term) || !x.may(i, t, false)) {
				continue
			}
			next := *now
			next.program = i
			once := int64(0)
			if p.ForLife() && (i != now.program || x.dearer(now, t)) { // bought anew
				next.start, next.unused = t, now.bill-cumulative(now.bill, t-now.start, len(x.rows)-now.start)
			}
			if i != now.program {
				next.signed = t
				once, _ = p.Signing(x.rows[t], old.Plan)
			} else {
				once = x.begun(&next, t, x.highest(now.start, t-1))
			}
			if due, ok := x.due(&next, t); ok {
				moved = true
				x.on(t+1, &next, i, next.signed, gaps, paid+due+once)
			}
		}
		if moved {
			return
		}
	}
	served := false
	for i, p := range x.all {
		next := running{program: i, start: t, signed: t}
		same := plan >= 0 && x.of[plan] == x.of[i]
		once := int64(0)
		switch {
		case same:
			next.signed = signed
		case plan >= 0 && x.all[plan].Rank == p.Rank: // another term of the same plan is no new signing
			if p.NewOnly || !p.MayBeSigned(x.Customer.Sign.AddDate(0, t, 0), true) || x.takesUp(i, plan) {
				continue
			}
			next.signed = signed
		case plan == -1 && t == 0 && x.Customer.Here:
			next.signed = -1000
		case !x.may(i, t, plan == -1 && !x.Customer.Here):
			continue
		default:
			var left *pricelist.Plan
			if plan >= 0 {
				left = x.all[plan].Plan
			}
			once, _ = p.Signing(x.rows[t], left)
		}
		if same || next.signed != t && t > 0 {
			once += x.begun(&next, t, x.rows[t-1])
		}
		if due, ok := x.due(&next, t); ok {
			served = true
			x.on(t+1, &next, i, next.signed, gaps, paid+due+once)
		}
	}
	if !served {
		if plan >= 0 {
			plan = -2
		}
		x.on(t+1, nil, plan, 0, gaps+1, paid)
	}
}

// begun is what the add-ons charge that a month takes and the one before did not.
func (x *tried) begun(r *running, t int, before []int64) (fee int64) {
	p := x.all[r.program]
	since, into := r.since(t, p)
	was, is := p.Explain(max(1, since+into), 0, before), p.Explain(max(1, since+into), 0, x.highest(r.start, t))
	for _, a := range p.Edition.AddOns {
		if slices.Contains(is.AddOns, a.Name) && !slices.Contains(was.AddOns, a.Name) {
			fee += (int64(a.Charges[1].Price.Usual/10_000)*int64(money.Whole-p.Term.Off) + int64(money.Whole)/2) / int64(money.Whole)
		}
	}
	return fee
}

// unused is what is left of a bill in a month: no way comes to less than what was paid without it.
func (x *tried) unused(r *running, t int) int64 {
	if r == nil || x.all[r.program].Period == 1 {
		return 0
	}
	return r.bill - cumulative(r.bill, t-r.start, x.length(r.program, r.start))
}

// takesUp reports whether a program has an offer that stands alone which was not chosen when the
// plan was signed that one is on.
func (x *tried) takesUp(program, on int) bool {
	to := x.contracts[x.of[program]].chosen
	return to != nil && to != x.contracts[x.of[on]].chosen
}

func (x *tried) may(program, t int, first bool) bool {
	p := x.all[program]
	return p.Plan.Offered != pricelist.Closed && (!p.NewOnly || first) && (p.Until.IsZero() || !x.Customer.Sign.AddDate(0, t, 0).After(p.Until))
}

// highest is what is billed in month t of a term that began in month start.
func (x *tried) highest(start, t int) []int64 {
	row := slices.Clone(x.rows[t])
	for m, is := range x.stock {
		for u := start; is && u < t; u++ {
			row[m] = max(row[m], x.rows[u][m])
		}
	}
	return row
}

// owes is what a term that is paid by the month still asks for, where the option is left
// at the end.
func (x *tried) owes(r *running) (owed int64) {
	if r == nil || !x.Leaves || x.all[r.program].Period != 1 {
		return 0
	}
	for t := len(x.rows); t < r.start+x.length(r.program, r.start); t++ {
		c, _ := x.all[r.program].Cost(max(1, t-r.signed), 0, x.highest(r.start, len(x.rows)-1))
		owed += c.Bill
	}
	return owed
}

// rest is what is left in a term that is paid and runs on past the horizon.
func (x *tried) rest(r *running) int64 {
	if r == nil || x.Leaves || x.all[r.program].Period == 1 {
		return 0
	}
	return r.bill - cumulative(r.bill, len(x.rows)-r.start, x.length(r.program, r.start))
}

// due is what is paid in a month.
func (x *tried) due(r *running, t int) (int64, bool) {
	p := x.all[r.program]
	row := x.highest(r.start, t)
	since, into := r.since(t, p)
	c, ok := p.Cost(since, into, row)
	if !ok {
		return 0, false
	}
	if p.Period == 1 {
		return c.Bill, true
	}
	n := x.length(r.program, r.start)
	due := c.Bill
	if k := t - r.start; k > 0 { // what of the bill before is unused is credited
		due = max(0, c.Bill-cumulative(c.Bill, k, n)-(r.bill-cumulative(r.bill, k, n)))
	}
	r.bill = c.Bill
	due, r.unused = max(0, due-r.unused), 0
	return due + c.Used, true
}

// dearer reports whether a term asks for more in a month than in the one before.
func (x *tried) dearer(r *running, t int) bool {
	since, into := r.since(t, x.all[r.program])
	c, ok := x.all[r.program].Cost(since, into, x.highest(r.start, t))
	return ok && c.Bill > r.bill
}

// small makes lists of few plans on all kinds of terms, with offers, set-up charges
// and gaps.
func small(r *rand.Rand, months int) Candidate {
	eur := money.MustCurrency("EUR")
	e := &pricelist.Edition{Platform: pricelist.Platform{Key: "madder", Name: "Madder"}, Currency: eur,
		Meters: []pricelist.Meter{{Key: "contacts", Unit: "contact", Kind: usage.Stock}, {Key: "sends", Unit: "email", Kind: usage.Flow}}}
	price := func(most int64) pricelist.Price { return pricelist.Price{Usual: money.Amount(r.Int64N(most) * 10_000)} }
	for i := range 1 + r.IntN(3) {
		p := pricelist.Plan{Key: fmt.Sprint("p", i), Name: "P", Offered: pricelist.Public}
		for _, t := range []pricelist.Term{{Key: "monthly", Months: 1, Paid: pricelist.Upfront}, {Key: "quarter", Months: 3, Paid: pricelist.Upfront, Off: 100_000},
			{Key: "bound", Months: 3, Paid: pricelist.Monthly, Off: 50_000}, {Key: "life", Months: pricelist.Lifetime, Paid: pricelist.Upfront}} {
			if r.IntN(2) == 0 {
				p.Terms = append(p.Terms, t)
			}
		}
		if len(p.Terms) == 0 {
			p.Terms = []pricelist.Term{{Key: "monthly", Months: 1, Paid: pricelist.Upfront}}
		}
		base := pricelist.Charge{Key: "base", Kind: pricelist.Stair, Meter: "contacts"}
		for _, to := range []int64{100, 200 + 100*int64(i)} {
			b := pricelist.Band{To: usage.Of(to), Price: price(5000)}
			b.Price.ByKey = map[string]money.Amount{"life": money.Amount(r.Int64N(20_000) * 10_000)}
			base.Bands = append(base.Bands, b)
		}
		p.Charges = append(p.Charges, base)
		if r.IntN(2) == 0 {
			p.Charges = append(p.Charges, pricelist.Charge{Key: "sends", Kind: pricelist.Unit, Meter: "sends", Each: 100, Price: price(300)})
		}
		if r.IntN(2) == 0 {
			p.Charges = append(p.Charges, pricelist.Charge{Key: "setup", Kind: pricelist.Once, Price: price(4000)})
		}
		if r.IntN(4) == 0 {
			p.Offered = pricelist.Closed
		}
		if r.IntN(3) == 0 { // two ways past a limit, each with a fee of its own
			meter, most := "sends", int64(500)
			if r.IntN(2) == 0 {
				meter, most = "contacts", 90
			}
			p.Limits = []pricelist.Limit{{Meter: meter, Most: usage.Of(most)}}
			for k := range 2 {
				e.AddOns = append(e.AddOns, pricelist.AddOn{Key: fmt.Sprint("a", i, k), Name: fmt.Sprint("a", i, k), Plans: []string{p.Key},
					Raises:  []pricelist.Raise{{Meter: meter, By: usage.Of(most * int64(1+k))}},
					Charges: []pricelist.Charge{{Key: "flat", Kind: pricelist.Flat, Price: price(500)}, {Key: "fee", Kind: pricelist.Once, Price: price(900)}}})
			}
		}
		e.Plans = append(e.Plans, p)
		if r.IntN(3) == 0 {
			e.Offers = append(e.Offers, pricelist.Offer{Key: fmt.Sprint("o", i), Plans: []string{p.Key}, Kind: []pricelist.OfferKind{pricelist.PercentOff, pricelist.FreeMonths, pricelist.FixedPrice}[r.IntN(3)],
				Off: 500_000, Price: money.Amount(r.Int64N(3000) * 10_000), Months: 1 + r.IntN(3), NewCustomers: r.IntN(2) == 0})
			if r.IntN(3) == 0 {
				e.Offers[len(e.Offers)-1].Until = time.Date(2027, 2, 15, 0, 0, 0, 0, time.UTC)
			}
		}
	}
	c := Candidate{Edition: e, Policy: []Policy{Mix, Mix, Monthly, Yearly}[r.IntN(4)], Basis: quote.Basis{Currency: eur},
		Customer: quote.Customer{Here: r.IntN(3) == 0, Sign: time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC)}}
	level := int64(80)
	for range months {
		level = max(0, level+r.Int64N(160)-50)
		c.Readings = append(c.Readings, quote.Readings{"contacts": usage.Of(level), "sends": usage.Of(r.Int64N(2000))})
	}
	return c
}

// TestNoOtherWayCostsLess holds for every policy: what is chosen costs what the
// cheapest of all ways does, its bills add up to that however they are looked at,
// and no payment is negative.
func TestNoOtherWayCostsLess(t *testing.T) {
	r := rand.New(rand.NewPCG(27, 9))
	ways, gaps, life, long, begun := 0, 0, 0, 0, 0
	for n := range 4_000 {
		months := 1 + r.IntN(8)
		c := small(r, months)
		c.Leaves = r.IntN(2) == 0
		h, err := newChoosing(&c)
		require.NoError(t, err)
		x := &tried{choosing: h, gaps: math.MaxInt, paid: math.MaxInt64}
		x.on(0, nil, -1, 0, 0, 0)
		ways += x.seen
		s, err := Project(c)
		require.NoError(t, err)
		unserved := 0
		var accrued, cash money.Amount
		for i := range s.Months {
			m := &s.Months[i]
			accrued, cash = accrued+m.Accrued, cash+m.Cash
			require.Equal(t, accrued, m.Running)
			require.GreaterOrEqual(t, m.Cash, money.Amount(0), "case %d month %d", n, i)
			require.GreaterOrEqual(t, m.Lost, money.Amount(0))
			if !m.Serves {
				unserved++
				continue
			}
			if m.Program.ForLife() {
				life++
			}
			if m.Once > 0 && !m.Signed() {
				begun++
			}
			r := m.Receipt()
			require.True(t, r.Serves(), "case %d month %d: %v", n, i, r.Reasons)
			require.Equal(t, m.Once, r.AtSigning)
			sum := money.Amount(0)
			for _, l := range r.Lines {
				sum += l.Amount
			}
			require.Equal(t, r.Bill+r.Used+r.Once, sum, "lines sum to the whole")
		}
		require.Equal(t, s.Total, accrued)
		require.Equal(t, s.Total+s.Ahead, cash, "case %d: %s", n, c.Policy)
		require.Equal(t, x.gaps, unserved, "case %d", n)
		require.Equal(t, x.paid, int64(s.Total)/10_000, "case %d: %s over %d months", n, c.Policy, len(c.Readings))
		require.GreaterOrEqual(t, s.Beyond, money.Amount(0))
		gaps += unserved
		if months == 8 {
			long++
		}
	}
	assert.Greater(t, ways, 5_000)
	assert.Greater(t, gaps, 100)
	assert.Greater(t, life, 500, "months paid for once for life")
	assert.Greater(t, begun, 200, "months in which an add-on begins for a fee")
	assert.Greater(t, long, 400, "over eight months")
}
