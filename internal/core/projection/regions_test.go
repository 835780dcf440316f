package projection

import (
	"context"
	"fmt"
	"math/rand/v2"
	"testing"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/require"
)

// bent are meters that rise, fall and are rounded as contacts grow; straight ones go
// straight, some of them by few whole readings.
var (
	bent     = [4]string{"contacts * 1.13", "emails_sent", "max(0, 900 - contacts)", "ceil(contacts / 10)"}
	straight = [4]string{"contacts * 1.13", "emails_sent", "2600 - contacts", "contacts * 0.01"}
	steps    = [4]string{"contacts", "emails_sent", "2600 - contacts", "ceil(contacts / 100) * 100"}
)

// mixed is a list of plans with charges of every kind over four meters.
func mixed(r *rand.Rand, currency string, meters [4]string) *pricelist.Edition {
	formula := func(s string) usage.Formula {
		f, err := usage.ParseFormula(s)
		if err != nil {
			panic(err)
		}
		return f
	}
	e := &pricelist.Edition{Platform: pricelist.Platform{Key: "madder", Name: "Madder"}, Currency: money.MustCurrency(currency), Meters: []pricelist.Meter{
		{Key: "contacts", Unit: "contact", Kind: usage.Stock, Counts: formula(meters[0])},
		{Key: "sends", Unit: "email", Kind: usage.Flow, Counts: formula(meters[1])},
		{Key: "rest", Unit: "place", Kind: usage.Stock, Counts: formula(meters[2])},
		{Key: "tenths", Unit: "ten", Kind: usage.Stock, Counts: formula(meters[3])}}}
	price := func() pricelist.Price {
		return pricelist.Price{Usual: money.Amount([]int64{r.Int64N(90) * 500_000, r.Int64N(400) * 10_000, r.Int64N(3000) * 1_000}[r.IntN(3)])}
	}
	for i := range 1 + r.IntN(3) {
		p := pricelist.Plan{Key: fmt.Sprint("p", i), Name: fmt.Sprint("P", i), Offered: pricelist.Public,
			Terms: []pricelist.Term{{Key: "monthly", Months: 1, Paid: pricelist.Upfront}, {Key: "yearly", Months: 12, Paid: pricelist.Upfront, Off: money.Share(r.IntN(300_000))}}}
		for k := range 1 + r.IntN(3) {
			ch := pricelist.Charge{Key: fmt.Sprint("c", k), Kind: pricelist.ChargeKinds[r.IntN(len(pricelist.ChargeKinds))], Meter: e.Meters[r.IntN(4)].Key,
				Price: price(), Each: 1 + r.Int64N(50)}
			switch ch.Kind {
			case pricelist.Flat, pricelist.Once, pricelist.Share:
				ch = pricelist.Charge{Key: ch.Key, Kind: pricelist.Flat, Price: price()}
			case pricelist.Pack:
				ch.Included, ch.Size = usage.Of(r.Int64N(500)), usage.Of(20+r.Int64N(900))
			case pricelist.Unit:
				ch.Included = usage.Of(r.Int64N(300))
			default:
				ch.Price = pricelist.Price{}
				for to := int64(0); len(ch.Bands) < 4; {
					to += 50 + r.Int64N(900)
					ch.Bands = append(ch.Bands, pricelist.Band{To: usage.Of(to), Price: price()})
				}
				if r.IntN(2) == 0 {
					ch.Bands[3].Open, ch.Bands[3].To = true, 0
				}
			}
			p.Charges = append(p.Charges, ch)
		}
		switch r.IntN(4) {
		case 0:
			p.Limits = append(p.Limits, pricelist.Limit{Meter: e.Meters[r.IntN(2)].Key, Most: usage.Of(200 + r.Int64N(2500)), Beyond: pricelist.MoveUp})
		case 1:
			p.Limits = append(p.Limits, pricelist.Limit{Meter: "sends", Times: usage.Of(3 + r.Int64N(3)), OfMeter: "contacts", Beyond: pricelist.MoveUp})
		}
		e.Plans = append(e.Plans, p)
	}
	return e
}

// bidders are some of mixed lists in two currencies, one of them made of two tools,
// and usage along contacts.
func bidders(t testing.TB, r *rand.Rand, meters ...[4]string) ([]Bidder, Usages) {
	model, err := usage.NewModel(nil, map[string]usage.Path{"newsletters": {Now: usage.Of(3)}, "automated_emails": {Now: usage.Quantity(600_000)}})
	require.NoError(t, err)
	basis := quote.Basis{Currency: money.MustCurrency("EUR"), Rates: map[string]quote.Rate{"GBP": {Rate: 1_163_700}}}
	bid := func() Bid {
		e := mixed(r, []string{"EUR", "GBP"}[r.IntN(2)], meters[r.IntN(len(meters))])
		all, err := tariff.All(e, tariff.Deal{Basis: basis})
		require.NoError(t, err)
		return Bid{e, all}
	}
	all := []Bidder{{Tools: []Bid{bid()}}, {Tools: []Bid{bid()}}, {Tools: []Bid{bid(), bid()}}}
	if r.IntN(3) == 0 {
		all = append(all, all[r.IntN(3)]) // one stands twice
	}
	return all, Along(context.Background(), model, 0, Whole("contacts"))
}

// priced is what everybody costs at every value.
func priced(t testing.TB, all []Bidder, read Usages, low, high int64) [][]int64 {
	var xs []int64
	for x := low; x <= high; x++ {
		xs = append(xs, x)
	}
	values, err := read.At(xs)
	require.NoError(t, err)
	out := make([][]int64, len(all))
	for i, b := range all {
		out[i], _, err = Prices(b, values)
		require.NoError(t, err)
	}
	return out
}

func TestRegionsAreThoseOfPricingEveryValue(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 8))
	const low, high = 1, 2600
	none, changes := 0, 0
	for n := range 240 {
		all, read := bidders(t, r, [][][4]string{{bent}, {straight}, {straight, steps}, {bent, straight, steps}}[n%4]...)
		regions, whole, err := Regions(all, read, low, high)
		require.NoError(t, err)
		require.True(t, whole)
		prices := priced(t, all, read, low, high)
		next := int64(low)
		for _, g := range regions {
			require.Equal(t, next, g.From, "list %d: without gaps", n)
			next = g.To + 1
			changes++
			for x := g.From; x <= g.To; x++ {
				least := -1
				for i := range all {
					if p := prices[i][x-low]; p != tariff.Never && (least < 0 || p < prices[least][x-low]) {
						least = i
					}
				}
				if g.Level() {
					require.Contains(t, append([]int{g.Least}, g.Beside...), least, "list %d at %d", n, x)
					continue
				}
				require.Equal(t, least, g.Least, "list %d at %d of %+v", n, x, g)
				if least < 0 {
					none++
				}
			}
		}
		require.Equal(t, int64(high+1), next)
	}
	require.Greater(t, none, 100, "values that nothing serves are among them")
	require.Greater(t, changes, 500)
}

// bidderOf is a bidder whose one plan costs so much a month, in cents, and so much a
// reading of one meter.
func bidderOf(t testing.TB, flat, each int64, meter string) Bidder {
	f, err := usage.ParseFormula(meter)
	require.NoError(t, err)
	eur := money.MustCurrency("EUR")
	e := &pricelist.Edition{Platform: pricelist.Platform{Key: "madder", Name: "Madder"}, Currency: eur, Meters: []pricelist.Meter{
		{Key: "contacts", Unit: "contact", Kind: usage.Stock, Counts: f}},
		Plans: []pricelist.Plan{{Key: "p", Name: "P", Offered: pricelist.Public, Terms: []pricelist.Term{{Key: "monthly", Months: 1, Paid: pricelist.Upfront}},
			Charges: []pricelist.Charge{
				{Key: "flat", Kind: pricelist.Flat, Price: pricelist.Price{Usual: money.Amount(flat * 10_000)}},
				{Key: "unit", Kind: pricelist.Unit, Meter: "contacts", Each: 1, Price: pricelist.Price{Usual: money.Amount(each * 10_000)}}}}}}
	all, err := tariff.All(e, tariff.Deal{Basis: quote.Basis{Currency: eur}})
	require.NoError(t, err)
	return Bidder{Tools: []Bid{{e, all}}}
}

// Counted by whole hundreds a price is level in between, dearer than one that counts
// each, though it is the cheaper one at every full hundred.
func TestWhatIsCountedByHundredsIsNoStraightLine(t *testing.T) {
	model, err := usage.NewModel(nil, nil)
	require.NoError(t, err)
	all := []Bidder{bidderOf(t, 0, 10, "contacts"), bidderOf(t, 0, 9, "ceil(contacts / 100) * 100")}
	regions, whole, err := Regions(all, Along(context.Background(), model, 0, Whole("contacts")), 100, 300)
	require.NoError(t, err)
	require.True(t, whole)
	require.Equal(t, []Region{{From: 100, To: 100, Least: 1}, {From: 101, To: 180, Least: 0}, {From: 181, To: 200, Least: 1},
		{From: 201, To: 270, Least: 0}, {From: 271, To: 300, Least: 1}}, regions)
}

// Two lines that cross, and a step, are found in a few looks, however far the driver
// goes; where a meter counts by thousands, bends lie elsewhere than a line says, and it
// still takes no walk from value to value.
func TestCrossingsAreFoundInFewLooks(t *testing.T) {
	model, err := usage.NewModel(nil, nil)
	require.NoError(t, err)
	read, looks := Along(context.Background(), model, 0, Whole("contacts")), 0
	at := read.At
	read.At = func(xs []int64) (usage.Columns, error) { looks += len(xs); return at(xs) }
	for meter, most := range map[string]int{"contacts": 60, "contacts * 0.001": 400, "contacts * 7.3": 60} {
		step := bidderOf(t, 90_000, 3, meter)
		looks = 0
		all := []Bidder{bidderOf(t, 20_000, 9, "contacts"), step, bidderOf(t, 150_000, 1, meter)}
		_, whole, err := Regions(all, read, 1, 1_000_000)
		require.NoError(t, err)
		require.True(t, whole)
		require.Less(t, looks, most, meter)
	}
}

func TestTurnsAreWhereLinesTakeAnotherCourse(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 1))
	const low, high = 1, 890 // up to where a formula has a bend of its own
	eur := money.MustCurrency("EUR")
	for n := range 60 {
		all, read := bidders(t, r, bent)
		s, err := NewSweep(eur, all, read, low, high)
		require.NoError(t, err)
		prices := priced(t, all, read, low, high)
		for i, line := range s.Lines {
			if line.Sloped || len(all[i].Tools) > 1 {
				continue
			}
			require.Equal(t, int64(low), line.Turns[0].X)
			for k, turn := range line.Turns {
				price := prices[i][turn.X-low]
				require.Equal(t, price != tariff.Never, turn.Serves)
				if turn.Serves {
					require.Equal(t, amountOf(eur, price), turn.After, "list %d, option %d at %d", n, i, turn.X)
				}
				end := int64(high)
				if k+1 < len(line.Turns) {
					end = line.Turns[k+1].X - 1
				}
				// Straight in between: off by the cents that are rounded, and by what one more of a unit costs.
				first, last := price, prices[i][end-low]
				require.Equal(t, first == tariff.Never, last == tariff.Never, "list %d, option %d from %d to %d", n, i, turn.X, end)
				for x := turn.X; x <= end && first != tariff.Never && end > turn.X; x++ {
					want := float64(first) + float64(last-first)*float64(x-turn.X)/float64(end-turn.X)
					require.InDelta(t, want, float64(prices[i][x-low]), 9_000, "list %d, option %d at %d", n, i, x)
				}
			}
		}
	}
}

func TestTurnsOfTheSameTwoAreCalledLevel(t *testing.T) {
	var all []Region
	for x := range int64(8) {
		all = append(all, Region{From: 1000 + x, To: 1000 + x, Least: int(x % 2)})
	}
	all = append([]Region{{From: 1, To: 999, Least: 1}}, append(all, Region{From: 1008, To: 5000, Least: 0})...)
	require.Equal(t, []Region{{From: 1, To: 999, Least: 1}, {From: 1000, To: 1007, Least: 0, Beside: []int{1}}, {From: 1008, To: 5000, Least: 0}}, level(all))
	require.Equal(t, []Region{{From: 1, To: 4, Least: 0}, {From: 5, To: 9, Least: 1}}, level([]Region{{From: 1, To: 4, Least: 0}, {From: 5, To: 9, Least: 1}}))
}

// How two stand to each other is held against pricing every value: runs without gaps, each
// with what its values cost, ties to the cent; and what is said of who is level with the
// cheapest is so at every value.
func TestTwoStandAsPricingEveryValueHasIt(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 24))
	const low, high = 1, 890
	eur := money.MustCurrency("EUR")
	kinds, far := map[int]int{}, 0
	for n := range 120 {
		all, read := bidders(t, r, straight)
		s, err := NewSweep(eur, all, read, low, high)
		require.NoError(t, err)
		prices := priced(t, all, read, low, high)
		off := 0
		for _, p := range s.Pairs {
			next := int64(low)
			for _, run := range p.Runs {
				require.Equal(t, next, run.From, "without gaps")
				next = run.To + 1
				for x := run.From; x <= run.To; x++ {
					is := standingOf(p.A, p.B, x, prices[p.A][x-low], prices[p.B][x-low])
					switch {
					case run.Less == Turning:
						kinds[Turning]++
						require.LessOrEqual(t, is.by, run.Apart+2, "list %d at %d", n, x)
					case is.less != run.Less: // but for cents
						if off++; is.by > 3 {
							far++
						}
					default:
						kinds[min(is.less, 0)]++
					}
				}
			}
			require.Equal(t, int64(high+1), next)
		}
		require.Less(t, off, 60, "list %d", n)
		for _, g := range s.Regions {
			for x := g.From; x <= g.To && g.Level() && g.Apart == 0; x++ {
				for _, i := range g.Beside {
					require.InDelta(t, prices[g.Least][x-low], prices[i][x-low], 2, "list %d at %d", n, x)
				}
			}
		}
	}
	require.Less(t, far, 120, "what meters round")
	for _, k := range []int{Same, Unserved, 0} {
		require.Greater(t, kinds[k], 100, "%d", k)
	}
	// A price for each seat started, beside one for whole fives.
	model, err := usage.NewModel(nil, nil)
	require.NoError(t, err)
	s, err := NewSweep(eur, []Bidder{bidderOf(t, 0, 100, "contacts"), bidderOf(t, 0, 95, "ceil(contacts / 2) * 2"), bidderOf(t, 2, 100, "contacts")},
		Along(context.Background(), model, 0, Whole("contacts")), 1, 40)
	require.NoError(t, err)
	require.Equal(t, []Run{{From: 1, To: 19, Less: Turning, Apart: 90}, {From: 20, To: 40, Less: 1}}, s.Pairs[0].Runs)
	require.Equal(t, []Run{{From: 1, To: 40, Less: 0}}, s.Pairs[1].Runs)
	require.Len(t, s.Lines[0].Turns, 40, "each seat is a step")
}
