package tariff_test

import (
	"math/big"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
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

// The oracle prices a plan straight from the definitions, by fractions of whole
// numbers of any size, and tries every set of add-ons and packs.

func rat(n, d int64) *big.Rat { return big.NewRat(n, d) }

func mul(a, b *big.Rat) *big.Rat { return new(big.Rat).Mul(a, b) }

func add(a, b *big.Rat) *big.Rat { return new(big.Rat).Add(a, b) }

func sub(a, b *big.Rat) *big.Rat { return new(big.Rat).Sub(a, b) }

func greatest(a, b *big.Rat) *big.Rat {
	if a.Cmp(b) < 0 {
		return b
	}
	return a
}

// nearest rounds half away from zero.
func nearest(r *big.Rat) *big.Int {
	n := new(big.Int).Add(new(big.Int).Mul(r.Num(), big.NewInt(2)), r.Denom())
	return n.Div(n, new(big.Int).Mul(r.Denom(), big.NewInt(2)))
}

// upward rounds up.
func upward(r *big.Rat) *big.Rat {
	n := new(big.Int).Add(r.Num(), new(big.Int).Sub(r.Denom(), big.NewInt(1)))
	return new(big.Rat).SetInt(n.Div(n, r.Denom()))
}

type asked struct {
	e      *pricelist.Edition
	p      *pricelist.Plan
	t      pricelist.Term
	d      tariff.Deal
	offers []*pricelist.Offer
	since  int
	q      map[string]*big.Rat // in units

	lines map[*pricelist.Charge]*big.Int // amounts that hang on no set of add-ons and packs
	lefts map[int][2]*big.Rat
}

func (a *asked) minor() *big.Rat { return rat(a.e.Currency.Minor(), money.Scale) }

func (a *asked) priced(p pricelist.Price) *big.Rat {
	price, off := p.For(a.t)
	return mul(rat(int64(price), money.Scale), rat(int64(money.Whole-off), int64(money.Whole)))
}

func units(q usage.Quantity) *big.Rat { return rat(int64(q), int64(usage.One)) }

// month is one month of a charge; start is where a pack begins that a limit asks
// for. It is nil where the price is on request.
func (a *asked) month(ch *pricelist.Charge, start *big.Rat) *big.Rat {
	q, zero := a.q[ch.Meter], new(big.Rat)
	money1 := func() *big.Rat {
		rate := mul(a.priced(ch.Rate), q)
		if r, ok := a.d.Basis.Rates[a.e.Currency.Code()]; ok && a.e.Currency != a.d.Basis.Currency {
			rate = mul(rate, rat(money.Scale, int64(r.Rate)))
		}
		return rate
	}
	switch ch.Kind {
	case pricelist.Flat:
		return a.priced(ch.Price)
	case pricelist.Once:
		if ch.Meter == "" {
			return a.priced(ch.Price)
		}
		return money1()
	case pricelist.Unit:
		n := greatest(zero, sub(greatest(q, units(ch.AtLeast)), units(ch.Included)))
		return mul(mul(n, a.priced(ch.Price)), rat(1, ch.Each))
	case pricelist.Pack:
		begin := units(ch.Included)
		if start != nil {
			begin = greatest(begin, start)
		}
		return mul(upward(mul(greatest(zero, sub(q, begin)), rat(int64(usage.One), int64(ch.Size)))), a.priced(ch.Price))
	case pricelist.Share:
		_, off := ch.Rate.For(a.t)
		left := rat(int64(money.Whole-off), int64(money.Whole))
		total := greatest(mul(rat(int64(ch.Floor), money.Scale), left), money1())
		if most := mul(rat(int64(ch.Cap), money.Scale), left); ch.Cap > 0 && total.Cmp(most) > 0 {
			total = most
		}
		return total
	}
	total, from := new(big.Rat), new(big.Rat)
	for i, b := range ch.Bands {
		price := a.priced(b.Price)
		last := b.Open || q.Cmp(units(b.To)) <= 0
		to := q
		if !last {
			to = units(b.To)
		}
		switch ch.Kind {
		case pricelist.Stair:
			total = price
		case pricelist.Graduated:
			total = add(total, mul(mul(sub(to, from), price), rat(1, ch.Each)))
		case pricelist.Volume:
			total = mul(mul(to, price), rat(1, ch.Each))
		}
		if last {
			return total
		}
		from = units(b.To)
		if i == len(ch.Bands)-1 {
			if ch.Above == nil {
				return nil
			}
			return add(total, mul(mul(sub(q, from), a.priced(ch.Above.Price)), rat(1, ch.Above.Each)))
		}
	}
	panic("no band")
}

// left is the sum of what offers leave of some months from a month on.
func (a *asked) left(from, months int) (*big.Rat, *big.Rat) {
	if known, ok := a.lefts[months]; ok {
		return known[0], known[1]
	}
	total, fixed := new(big.Rat), new(big.Rat)
	for k := range months {
		share, price := int64(money.Whole), (*big.Rat)(nil)
		for _, o := range a.offers {
			if covers := o.Months == 0 || a.t.Months != pricelist.Lifetime && from+k < o.Months; !covers {
				continue
			}
			switch o.Kind {
			case pricelist.PercentOff:
				share = max(0, share-int64(o.Off))
			case pricelist.FreeMonths:
				share = 0
			case pricelist.FixedPrice:
				if p := rat(int64(o.Price), money.Scale); price == nil || p.Cmp(price) < 0 {
					price = p
				}
			}
		}
		if price != nil {
			share = 0
			fixed = add(fixed, price)
		}
		total = add(total, rat(share, int64(money.Whole)))
	}
	a.lefts[months] = [2]*big.Rat{total, fixed}
	return total, fixed
}

func (a *asked) settle(total *big.Int) *big.Int {
	exact := mul(new(big.Rat).SetInt(total), a.minor())
	if a.e.Tax.Included {
		exact = mul(exact, rat(int64(money.Whole), int64(money.Whole+a.e.Tax.Rate)))
	}
	if a.e.Currency != a.d.Basis.Currency {
		exact = mul(exact, rat(int64(a.d.Basis.Rates[a.e.Currency.Code()].Rate), money.Scale))
	}
	return nearest(mul(exact, rat(money.Scale, a.d.Basis.Currency.Minor())))
}

// with prices one set of add-ons and packs, what comes again and what is charged once: nil where it
// does not serve.
func (a *asked) with(addOns []*pricelist.AddOn, packs []*pricelist.Charge) (again, first *big.Int) {
	for _, must := range a.d.Musts {
		f, stated := a.p.Features[must]
		brings := func(o *pricelist.AddOn) bool {
			return (!stated || f.Has == pricelist.AsAddOn) && slices.Contains(o.Gives, must) && (!f.Alone || o.Key == f.AddOn)
		}
		if f.Has != pricelist.Yes && f.Has != pricelist.Bridge && !slices.ContainsFunc(addOns, brings) {
			return nil, nil
		}
	}
	starts := map[string]*big.Rat{}
	for i := range a.p.Limits {
		l := &a.p.Limits[i]
		if l.Unlimited || l.Beyond == pricelist.FairUse {
			continue
		}
		most, any := units(l.Most), false
		if l.OfMeter != "" {
			most = mul(units(l.Times), a.q[l.OfMeter])
		}
		for _, o := range addOns {
			for _, r := range o.Raises {
				if r.Meter == l.Meter {
					most, any = add(most, units(r.By)), any || r.Unlimited
				}
			}
		}
		buys := l.Beyond == pricelist.BuyPack && slices.ContainsFunc(a.p.Charges, func(ch pricelist.Charge) bool {
			return ch.Kind == pricelist.Pack && ch.Meter == l.Meter && (!ch.Optional || slices.ContainsFunc(packs, func(o *pricelist.Charge) bool { return o.Key == ch.Key }))
		})
		if buys && starts[l.Meter] == nil {
			starts[l.Meter] = most
			if any {
				starts[l.Meter] = greatest(most, a.q[l.Meter])
			}
		}
		if !any && !buys && a.q[l.Meter].Cmp(most) > 0 {
			return nil, nil
		}
	}
	bill, used, once := new(big.Int), new(big.Int), new(big.Int)
	period := a.t.Period()
	serves := true
	line := func(ch *pricelist.Charge, start *big.Rat, ofPlan bool) {
		into, months := bill, max(1, period)
		var flow bool
		if m, ok := a.e.Meter(ch.Meter); ok {
			flow = m.Kind == usage.Flow
		}
		own := statesOwn(ch, a.t.Key)
		switch {
		case ch.Kind == pricelist.Once:
			if slices.Contains(ch.WaivedOn, a.t.Key) {
				return
			}
			into, months, ofPlan = once, 1, false
		case period == pricelist.Lifetime && !own, period > 1 && flow:
			into, months = used, 1
		}
		amount, known := a.lines[ch]
		if !known || start != nil {
			factor := rat(int64(months), 1)
			if ofPlan {
				factor, _ = a.left(a.since, months)
			}
			if amount = nil; a.month(ch, start) != nil {
				amount = nearest(mul(mul(a.month(ch, start), factor), rat(money.Scale, a.e.Currency.Minor())))
			}
			if start == nil {
				a.lines[ch] = amount
			}
		}
		if amount == nil {
			serves = false
			return
		}
		into.Add(into, amount)
	}
	for i := range a.p.Charges {
		ch := &a.p.Charges[i]
		if chosen := slices.Contains(packs, ch); !ch.Optional || chosen {
			var start *big.Rat
			if chosen {
				start = starts[ch.Meter]
			}
			line(ch, start, true)
		}
	}
	for _, o := range addOns {
		for i := range o.Charges {
			if !o.Charges[i].Optional {
				line(&o.Charges[i], nil, false)
			}
		}
	}
	if _, fixed := a.left(a.since, max(1, period)); fixed.Sign() > 0 {
		bill.Add(bill, nearest(mul(fixed, rat(money.Scale, a.e.Currency.Minor()))))
	}
	if !serves {
		return nil, nil
	}
	most := big.NewInt((1<<63 - 1) / a.d.Basis.Currency.Minor())
	again, each, first := a.settle(bill), a.settle(used), a.settle(once)
	if again.Cmp(most) > 0 || each.Cmp(most) > 0 || a.since == 0 && first.Cmp(most) > 0 {
		return nil, nil // more than an amount holds: told, never cut
	}
	again.Add(again, each.Mul(each, big.NewInt(int64(max(1, period)))))
	if a.since != 0 {
		first.SetInt64(0)
	}
	return again, first
}

func statesOwn(ch *pricelist.Charge, term string) bool {
	_, price := ch.Price.ByKey[term]
	_, rate := ch.Rate.ByKey[term]
	return price || rate || slices.ContainsFunc(ch.Bands, func(b pricelist.Band) bool { _, own := b.Price.ByKey[term]; return own })
}

// least tries every set of add-ons sold on the plan, and of optional packs at most
// one for each meter: the least that comes again, and of equals the least at once.
func (a *asked) least() *big.Int {
	var best, once *big.Int
	if a.t.Months == pricelist.Lifetime { // a month's price is not the one for life
		monthly, own := false, false
		for i := range a.p.Charges {
			ch := &a.p.Charges[i]
			own = own || statesOwn(ch, a.t.Key)
			monthly = monthly || !ch.Optional && (ch.Kind == pricelist.Stair || ch.Kind == pricelist.Flat && ch.Price.Usual != 0)
		}
		if monthly && !own {
			return nil
		}
	}
	sets := [][]*pricelist.AddOn{nil}
	for i := range a.e.AddOns {
		if slices.Contains(a.e.AddOns[i].Plans, a.p.Key) {
			for _, s := range slices.Clone(sets) {
				sets = append(sets, append(slices.Clone(s), &a.e.AddOns[i]))
			}
		}
	}
	packs := [][]*pricelist.Charge{nil}
	for i := range a.p.Charges {
		if ch := &a.p.Charges[i]; ch.Kind == pricelist.Pack && ch.Optional {
			for _, s := range slices.Clone(packs) {
				if !slices.ContainsFunc(s, func(o *pricelist.Charge) bool { return o.Meter == ch.Meter }) {
					packs = append(packs, append(slices.Clone(s), ch))
				}
			}
		}
	}
	for _, s := range sets {
		for _, p := range packs {
			again, first := a.with(s, p)
			if again != nil && (best == nil || again.Cmp(best) < 0 || again.Cmp(best) == 0 && first.Cmp(once) < 0) {
				best, once = again, first
			}
		}
	}
	if best == nil {
		return nil
	}
	return best.Add(best, once)
}

// random makes lists of every kind of charge, limit, add-on, offer and term.
type random struct{ *rand.Rand }

// number is a price in millionths: round, ragged, or so that half a cent comes up.
func (r random) price() money.Amount {
	switch r.IntN(5) {
	case 0:
		return money.Amount(r.Int64N(1_000_000_000)) // ragged
	case 1:
		return money.Amount(r.Int64N(20_000)*10_000 + 5_000) // a half cent
	case 2:
		return 0
	}
	return money.Amount(r.Int64N(50_000) * 10_000)
}

func (r random) terms() []pricelist.Term {
	all := []pricelist.Term{{Key: "monthly", Months: 1, Paid: pricelist.Upfront}, {Key: "yearly", Months: 12, Paid: pricelist.Upfront, Off: r.share()},
		{Key: "bound", Months: 12, Paid: pricelist.Monthly, Off: r.share()}, {Key: "long", Months: 24 + 12*r.IntN(2), Paid: pricelist.Upfront}, {Key: "life", Months: pricelist.Lifetime, Paid: pricelist.Upfront}}
	return all
}

func (r random) share() money.Share {
	return []money.Share{0, 100_000, 150_000, 333_333, money.Share(r.Int64N(1_000_001)), money.Whole}[r.IntN(6)]
}

func (r random) prices(of func() money.Amount) pricelist.Price {
	p := pricelist.Price{Usual: of()}
	for _, key := range []string{"yearly", "bound", "life"} {
		if r.IntN(4) == 0 {
			if p.ByKey == nil {
				p.ByKey = map[string]money.Amount{}
			}
			p.ByKey[key] = of()
		}
	}
	return p
}

var meters = []pricelist.Meter{{Key: "contacts", Unit: "contact", Kind: usage.Stock}, {Key: "sends", Unit: "email", Kind: usage.Flow},
	{Key: "storage", Unit: "GB", Kind: usage.Stock, Fractions: true}, {Key: "spend", Unit: "money", Kind: usage.Flow, Fractions: true}}

func (r random) quantity() usage.Quantity {
	switch r.IntN(6) {
	case 0:
		return 0
	case 1:
		return usage.Quantity(r.Int64N(int64(2000 * usage.One))) // a fraction
	}
	return usage.Of(r.Int64N(3000))
}

func (r random) charge(key string, kind pricelist.ChargeKind) pricelist.Charge {
	ch := pricelist.Charge{Key: key, Kind: kind, Meter: meters[r.IntN(4)].Key, Each: []int64{1, 1, 100, 1000, 7}[r.IntN(5)]}
	switch kind {
	case pricelist.Flat:
		ch.Meter, ch.Price = "", r.prices(r.price)
	case pricelist.Once:
		if ch.Meter, ch.Price = "", r.prices(r.price); r.IntN(2) == 0 {
			ch.Meter, ch.Price = "spend", pricelist.Price{}
			ch.Rate = pricelist.Price{Usual: money.Amount(r.share())}
		}
		if r.IntN(3) == 0 {
			ch.WaivedOn = []string{"yearly"}
		}
	case pricelist.Unit:
		ch.Price, ch.Included, ch.AtLeast = r.prices(r.price), r.quantity(), r.quantity()
	case pricelist.Pack:
		ch.Price, ch.Included, ch.Size, ch.Optional = r.prices(r.price), r.quantity(), r.quantity()+1, r.IntN(2) == 0
	case pricelist.Share:
		ch.Meter = "spend"
		ch.Rate, ch.Floor = r.prices(func() money.Amount { return money.Amount(r.share()) }), r.price()
		if r.IntN(2) == 0 {
			ch.Cap = ch.Floor + r.price()
		}
	default:
		to := usage.Quantity(0)
		for range 1 + r.IntN(5) {
			to += r.quantity() + 1
			ch.Bands = append(ch.Bands, pricelist.Band{To: to, Price: r.prices(r.price)})
		}
		switch r.IntN(3) {
		case 0:
			ch.Bands[len(ch.Bands)-1].Open, ch.Bands[len(ch.Bands)-1].To = true, 0
		case 1:
			ch.Above = &pricelist.Above{Price: r.prices(r.price), Each: []int64{1, 3, 1000}[r.IntN(3)]}
		}
	}
	return ch
}

func (r random) edition() (*pricelist.Edition, tariff.Deal) {
	currencies := []string{"EUR", "JPY", "KWD", "GBP"}
	e := &pricelist.Edition{Platform: pricelist.Platform{Key: "madder", Name: "Madder"}, Currency: money.MustCurrency(currencies[r.IntN(4)]), Meters: meters,
		Tax: pricelist.Tax{Included: r.IntN(2) == 0, Rate: 210_000}}
	p := pricelist.Plan{Key: "low", Name: "Low", Offered: pricelist.Public, Terms: r.terms(), Features: map[string]pricelist.Feature{}}
	for i, kind := range pricelist.ChargeKinds {
		if r.IntN(2) == 0 {
			p.Charges = append(p.Charges, r.charge(string(rune('a'+i)), kind))
		}
	}
	if len(p.Charges) == 0 {
		p.Charges = append(p.Charges, r.charge("a", pricelist.Flat))
	}
	for i := range 2 {
		if r.IntN(2) == 0 {
			l := pricelist.Limit{Meter: meters[r.IntN(3)].Key, Most: r.quantity(), Beyond: []pricelist.Beyond{pricelist.MoveUp, pricelist.Stops, pricelist.FairUse}[r.IntN(3)]}
			if r.IntN(3) == 0 {
				l.Most, l.Times, l.OfMeter = 0, r.quantity()/100, "contacts"
			}
			if r.IntN(2) == 0 {
				l.Beyond = pricelist.BuyPack
				pack := r.charge(string(rune('x'+i)), pricelist.Pack)
				pack.Meter = l.Meter
				p.Charges = append(p.Charges, pack)
			}
			p.Limits = append(p.Limits, l)
		}
	}
	for i := range r.IntN(4) {
		a := pricelist.AddOn{Key: string(rune('k' + i)), Name: "More", Plans: []string{"low"}, Charges: []pricelist.Charge{r.charge("fee", pricelist.ChargeKinds[r.IntN(8)])}}
		for _, f := range []string{"a/one", "a/two"} {
			if r.IntN(2) == 0 {
				a.Gives = append(a.Gives, f)
			}
		}
		if r.IntN(2) == 0 {
			a.Raises = []pricelist.Raise{{Meter: meters[r.IntN(3)].Key, By: r.quantity(), Unlimited: r.IntN(3) == 0}}
		}
		e.AddOns = append(e.AddOns, a)
	}
	for i := range r.IntN(3) {
		e.Offers = append(e.Offers, pricelist.Offer{Key: string(rune('o' + i)), Plans: []string{"low"}, Kind: []pricelist.OfferKind{pricelist.PercentOff, pricelist.FixedPrice, pricelist.FreeMonths}[r.IntN(3)],
			Off: r.share(), Price: r.price(), Months: 1 + r.IntN(15)*r.IntN(2), Together: r.IntN(2) == 0, NewCustomers: r.IntN(2) == 0})
		if e.Offers[i].Months == 1 && e.Offers[i].Kind == pricelist.PercentOff && r.IntN(2) == 0 {
			e.Offers[i].Months = 0
		}
	}
	e.Plans = []pricelist.Plan{p}
	d := tariff.Deal{Basis: quote.Basis{Currency: money.MustCurrency(currencies[r.IntN(4)]), Rates: map[string]quote.Rate{}}}
	for _, c := range currencies {
		d.Basis.Rates[c] = quote.Rate{Rate: money.Amount(1 + r.Int64N(3_000_000)), On: time.Date(2026, 11, 24, 0, 0, 0, 0, time.UTC)}
	}
	for _, f := range []string{"a/one", "a/two"} {
		var givers []string
		for _, a := range e.AddOns {
			if slices.Contains(a.Gives, f) {
				givers = append(givers, a.Key)
			}
		}
		switch n := r.IntN(4); {
		case n == 0 || n == 1 && len(givers) == 0:
			p.Features[f] = pricelist.Feature{Has: []pricelist.Has{pricelist.Yes, pricelist.No, pricelist.Partly, pricelist.Announced}[r.IntN(4)]}
		case n == 1:
			p.Features[f] = pricelist.Feature{Has: pricelist.AsAddOn, AddOn: givers[r.IntN(len(givers))], Alone: r.IntN(2) == 0}
		case len(givers) == 0:
			p.Features[f] = pricelist.Feature{Has: pricelist.Yes}
		}
		if r.IntN(2) == 0 {
			d.Musts = append(d.Musts, f)
		}
	}
	return e, d
}

// readings are usages of every size: nothing, small, at an edge of a band, a limit
// or a pack, and as large as there are.
func (r random) readings(e *pricelist.Edition) []int64 {
	q := make([]int64, len(e.Meters))
	for m := range q {
		grain := tariff.Grain(&e.Meters[m])
		v := r.Int64N(5000 * int64(usage.One))
		switch r.IntN(8) {
		case 0:
			v = 0
		case 1:
			v = int64(usage.Most)
		case 2:
			v = r.Int64N(int64(usage.Most))
		case 3, 4:
			if edges := edgesOf(&e.Plans[0]); len(edges) > 0 {
				v = max(0, int64(edges[r.IntN(len(edges))])+(r.Int64N(3)-1)*grain)
			}
		}
		q[m] = v / grain
	}
	return q
}

func edgesOf(p *pricelist.Plan) (all []usage.Quantity) {
	for _, ch := range p.Charges {
		all = append(all, ch.Included, ch.AtLeast, ch.Included+ch.Size)
		for _, b := range ch.Bands {
			all = append(all, b.To)
		}
	}
	for _, l := range p.Limits {
		all = append(all, l.Most)
	}
	return all
}

func inUnits(e *pricelist.Edition, q []int64) map[string]*big.Rat {
	all := map[string]*big.Rat{}
	for m := range q {
		all[e.Meters[m].Key] = rat(q[m]*tariff.Grain(&e.Meters[m]), int64(usage.One))
	}
	return all
}

// agree compares a program with the oracle at some readings and returns whether
// the plan serves.
func agree(t testing.TB, p *tariff.Program, d tariff.Deal, since int, q []int64) bool {
	t.Helper()
	a := &asked{p.Edition, p.Plan, p.Term, d, p.Offers, since, inUnits(p.Edition, q), map[*pricelist.Charge]*big.Int{}, map[int][2]*big.Rat{}}
	want := a.least()
	got, ok := p.Cost(since, 0, q)
	if len(p.Barred) > 0 {
		require.Nil(t, want)
		return false
	}
	if want == nil {
		require.False(t, ok, "%s %v since %d: the oracle does not serve, %v", p.Term.Key, q, since, got)
		return false
	}
	require.True(t, ok, "%s %v since %d: %s", p.Term.Key, q, since, want)
	require.Equal(t, want.String(), big.NewInt(got.Bill+got.Used*int64(max(1, p.Period))+got.Once).String(), "%s %v since %d: %+v\n%+v\n%+v %+v musts %v", p.Term.Key, q, since, got, p.Plan, p.Edition.AddOns, p.Edition.Offers, d.Musts)
	return true
}

// lists is how many random lists are priced, at 20 usages each: a thousand, or
// what NINECOINS_LISTS says.
func lists() int {
	if n, err := strconv.Atoi(os.Getenv("NINECOINS_LISTS")); err == nil {
		return n
	}
	return 1_000
}

func TestEveryAmountIsThatOfTheDefinitions(t *testing.T) {
	r := random{rand.New(rand.NewPCG(9, 25))}
	served, prices := 0, 0
	for range lists() {
		e, d := r.edition()
		require.Empty(t, e.Check())
		p := &e.Plans[0]
		all, err := tariff.Compile(e, p, p.Terms[r.IntN(len(p.Terms))], d)
		require.NoError(t, err)
		since := []int{0, 0, 1, 3, r.IntN(40)}[r.IntN(5)]
		for range 20 {
			prices++
			if agree(t, all[r.IntN(len(all))], d, since, r.readings(e)) {
				served++
			}
		}
	}
	assert.Greater(t, served*5, prices*2, "many are priced: %d of %d", served, prices)
}

// FuzzAmounts looks for lists and usages that the compiled numbers price in
// another way than the definitions.
func FuzzAmounts(f *testing.F) {
	f.Add(uint64(1), uint64(2))
	f.Fuzz(func(t *testing.T, a, b uint64) {
		r := random{rand.New(rand.NewPCG(a, b))}
		e, d := r.edition()
		all, err := tariff.All(e, d)
		require.NoError(t, err)
		for _, p := range all {
			agree(t, p, d, r.IntN(20), r.readings(e))
		}
	})
}
