package tariff_test

import (
	"fmt"
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

var eur = money.MustCurrency("EUR")

func amount(s string) money.Amount {
	a, err := money.ParseAmount(s)
	if err != nil {
		panic(err)
	}
	return a
}

func price(s string) pricelist.Price { return pricelist.Price{Usual: amount(s)} }

// listOf makes a list of one plan with the given charges, sold monthly and
// yearly, with meters for contacts (a stock) and sends (a flow).
func listOf(charges ...pricelist.Charge) *pricelist.Edition {
	formula := func(s string) usage.Formula {
		f, err := usage.ParseFormula(s)
		if err != nil {
			panic(err)
		}
		return f
	}
	return &pricelist.Edition{Platform: pricelist.Platform{Name: "Madder"}, Currency: eur,
		Meters: []pricelist.Meter{{Key: "contacts", Unit: "contact", Kind: usage.Stock, Counts: formula("contacts")},
			{Key: "sends", Unit: "email", Kind: usage.Flow, Counts: formula("emails_sent")},
			{Key: "storage", Unit: "GB", Kind: usage.Stock, Counts: formula("storage"), Fractions: true}},
		Plans: []pricelist.Plan{{Key: "root", Name: "Root", Offered: pricelist.Public, Charges: charges,
			Terms: []pricelist.Term{{Key: "monthly", Months: 1}, {Key: "yearly", Months: 12, Paid: pricelist.Upfront, Off: 150_000},
				{Key: "bound", Months: 12, Paid: pricelist.Monthly}}}}}
}

// question is what is asked of a plan.
type question struct {
	edition     *pricelist.Edition
	term        pricelist.Term
	deal        tariff.Deal
	since, into int
	readings    quote.Readings
}

func ask(e *pricelist.Edition, term int, contacts, sends int64) question {
	return question{edition: e, term: e.Plans[0].Terms[term], deal: tariff.Deal{Basis: quote.Basis{Currency: eur}},
		readings: quote.Readings{"contacts": usage.Of(contacts), "sends": usage.Of(sends)}}
}

func of(a question) (quote.Receipt, error) {
	return tariff.Quote(a.edition, &a.edition.Plans[0], a.term, a.deal, a.since, a.into, tariff.Row(a.edition, a.readings))
}

func stairs() pricelist.Charge {
	return pricelist.Charge{Key: "base", Kind: pricelist.Stair, Meter: "contacts", Bands: []pricelist.Band{
		{To: usage.Of(1000), Price: price("12.00")}, {To: usage.Of(5000), Price: pricelist.Price{Usual: amount("39.00"), ByKey: map[string]money.Amount{"yearly": amount("31.05")}}}}}
}

func TestEachKindOfChargeFollowsItsRule(t *testing.T) {
	above := stairs()
	above.Above = &pricelist.Above{Price: price("4.00"), Each: 1000}
	open := stairs()
	open.Bands = append(open.Bands, pricelist.Band{Open: true, Price: price("99.00")})
	unit := pricelist.Charge{Key: "u", Kind: pricelist.Unit, Meter: "contacts", Price: price("9.00"), Included: usage.Of(2)}
	least := unit
	least.AtLeast = usage.Of(5)
	perThousand := pricelist.Charge{Key: "k", Kind: pricelist.Unit, Meter: "contacts", Price: price("11.00"), Each: 1000}
	pack := pricelist.Charge{Key: "p", Kind: pricelist.Pack, Meter: "contacts", Price: price("10.00"), Included: usage.Of(100), Size: usage.Of(50)}
	for _, row := range []struct {
		name     string
		charge   pricelist.Charge
		contacts int64
		want     string
	}{
		{"flat", pricelist.Charge{Key: "f", Kind: pricelist.Flat, Price: price("25.50")}, 7, "25.5"},
		{"unit, none beyond what is included", unit, 2, "0"},
		{"unit, one beyond", unit, 3, "9"},
		{"unit, at least five", least, 1, "27"},
		{"unit per thousand, pro rata", perThousand, 6413, "70.54"},
		{"stair at nothing is its first band", stairs(), 0, "12"},
		{"stair at the edge", stairs(), 1000, "12"},
		{"stair past the edge", stairs(), 1001, "39"},
		{"stair above its last band", above, 6500, "45"},
		{"stair without an end", open, 900_000, "99"},
		{"pack, none needed", pack, 100, "0"},
		{"pack, one begun", pack, 101, "10"},
		{"pack, one full", pack, 150, "10"},
		{"pack, a second begun", pack, 151, "20"},
	} {
		r, err := of(ask(listOf(row.charge), 0, row.contacts, 0))
		require.NoError(t, err, row.name)
		assert.True(t, r.Serves(), row.name)
		assert.Equal(t, row.want, r.Bill.String(), row.name)
	}
}

func TestYearsAreRoundedOncePerLine(t *testing.T) {
	// 0.333 a month is 0.28305 after 15% off; twelve are 3.3966.
	e := listOf(pricelist.Charge{Key: "a", Kind: pricelist.Flat, Price: price("0.333")}, stairs())
	r, err := of(ask(e, 1, 3000, 0))
	require.NoError(t, err)
	assert.Equal(t, 12, r.Period)
	assert.Equal(t, "3.4", r.Lines[0].Amount.String())
	assert.Equal(t, "372.6", r.Lines[1].Amount.String(), "a price of the term's own replaces the price, and nothing more is taken off")
	assert.Equal(t, "376", r.Bill.String())
	assert.Equal(t, "31.33", r.Monthly().String())
}

func TestFlowsAreBilledAsUsedWithinAYear(t *testing.T) {
	e := listOf(pricelist.Charge{Key: "a", Kind: pricelist.Flat, Price: price("10")},
		pricelist.Charge{Key: "s", Kind: pricelist.Pack, Meter: "sends", Price: price("5"), Size: usage.Of(1000)})
	r, err := of(ask(e, 1, 0, 2500))
	require.NoError(t, err)
	assert.Equal(t, "102", r.Bill.String())
	assert.Equal(t, "12.75", r.Used.String())
	assert.Equal(t, "21.25", r.Monthly().String())
	r, err = of(ask(e, 2, 0, 2500))
	require.NoError(t, err)
	assert.Equal(t, 1, r.Period, "a term paid monthly is billed monthly")
	assert.Equal(t, "25", r.Bill.String())
}

func TestLimitsSayWhatIsPassed(t *testing.T) {
	e := listOf(stairs())
	e.Plans[0].Limits = []pricelist.Limit{{Meter: "sends", Times: usage.Of(12), OfMeter: "contacts", Beyond: pricelist.MoveUp}, {Meter: "contacts", Most: usage.Of(800)}}
	r, err := of(ask(e, 0, 1000, 12_001))
	require.NoError(t, err)
	require.Len(t, r.Reasons, 2)
	assert.Equal(t, "emails pass 12 per contact", r.Reasons[0].String())
	assert.Equal(t, "contacts pass 800", r.Reasons[1].String())
	assert.True(t, r.Priced)
	assert.False(t, r.Serves())
	r, err = of(ask(e, 0, 800, 9600))
	require.NoError(t, err)
	assert.True(t, r.Serves(), "at a limit is not past it")
	e.Plans[0].Limits = []pricelist.Limit{{Meter: "sends", Unlimited: true}, {Meter: "contacts", Most: 1, Beyond: pricelist.BuyPack}}
	e.Plans[0].Charges = append(e.Plans[0].Charges, pricelist.Charge{Key: "p", Kind: pricelist.Pack, Meter: "contacts", Size: usage.Of(100), Price: price("7"), Optional: true})
	r, err = of(ask(e, 0, 800, 1e9))
	require.NoError(t, err)
	assert.True(t, r.Serves())
	assert.Equal(t, "68", r.Bill.String(), "the pack that the limit asks for is paid: 8 of them")
}

func TestWhatHasNoPriceIsNotPriced(t *testing.T) {
	e := listOf(stairs())
	r, err := of(ask(e, 0, 5001, 0))
	require.NoError(t, err)
	assert.False(t, r.Priced)
	assert.Equal(t, "contacts pass 5,000, above which the price is on request", r.Reasons[0].String())
	assert.Equal(t, "contacts pass 5,000", r.Reasons[0].Passes())
	e.Plans[0].Offered = pricelist.Closed
	r, err = of(ask(e, 0, 10, 0))
	require.NoError(t, err)
	assert.Equal(t, "closed to new customers", r.Reasons[0].String())
	stays := ask(e, 0, 10, 0)
	stays.deal.Customer.Here = true
	r, err = of(stays)
	require.NoError(t, err)
	assert.True(t, r.Serves())
	e.Plans[0] = pricelist.Plan{Key: "ask", Offered: pricelist.OnRequest, Terms: e.Plans[0].Terms}
	r, err = of(ask(e, 0, 10, 0))
	require.NoError(t, err)
	assert.False(t, r.Priced)
	assert.Equal(t, "the price is on request", r.Reasons[0].String())
}

func TestMustsAreMetBoughtMissedOrAskedAfter(t *testing.T) {
	e := listOf(stairs())
	e.AddOns = []pricelist.AddOn{{Key: "ref", Name: "Referrals", Plans: []string{"root"}, Gives: []string{"growth/referrals", "growth/polls"},
		Charges: []pricelist.Charge{{Key: "fee", Kind: pricelist.Flat, Price: price("25")}}}}
	e.Plans[0].Features = map[string]pricelist.Feature{"a/yes": {Has: pricelist.Yes}, "a/bridge": {Has: pricelist.Bridge}, "a/partly": {Has: pricelist.Partly}, "a/soon": {Has: pricelist.Announced},
		"growth/referrals": {Has: pricelist.AsAddOn, AddOn: "ref"}, "growth/polls": {Has: pricelist.AsAddOn, AddOn: "ref"}}
	a := ask(e, 0, 10, 0)
	a.deal.Musts = []string{"a/yes", "a/bridge", "growth/referrals", "growth/polls"}
	r, err := of(a)
	require.NoError(t, err)
	assert.True(t, r.Serves())
	assert.Equal(t, "37", r.Bill.String(), "one add-on that gives both is bought once")
	a.deal.Musts = []string{"a/partly", "a/soon", "a/nobody-said"}
	r, err = of(a)
	require.NoError(t, err)
	assert.Equal(t, "[partly only in part soon only announced nobody said not yet known]", fmt.Sprint(r.Reasons))
	assert.False(t, r.May())
	a.deal.Musts = []string{"a/nobody-said"}
	r, err = of(a)
	require.NoError(t, err)
	assert.True(t, r.May())
	assert.False(t, r.Serves())
}

func TestOffersCoverTheMonthsTheyName(t *testing.T) {
	e := listOf(pricelist.Charge{Key: "a", Kind: pricelist.Flat, Price: price("100")})
	until := time.Date(2027, 3, 31, 0, 0, 0, 0, time.UTC)
	e.Offers = []pricelist.Offer{{Key: "half", Plans: []string{"root"}, Kind: pricelist.PercentOff, Off: 500_000, Months: 3, NewCustomers: true, Until: until},
		{Key: "gift", Plans: []string{"root"}, Terms: []string{"yearly"}, Kind: pricelist.FreeMonths, Months: 2}}
	bill := func(term, since int, c quote.Customer) string {
		a := ask(e, term, 0, 0)
		a.since, a.deal.Customer = since, c
		r, err := of(a)
		require.NoError(t, err)
		return r.Bill.String()
	}
	early := quote.Customer{Sign: until}
	assert.Equal(t, "50", bill(0, 0, early))
	assert.Equal(t, "50", bill(0, 2, early))
	assert.Equal(t, "100", bill(0, 3, early))
	assert.Equal(t, "100", bill(0, 0, quote.Customer{Sign: until.AddDate(0, 0, 1)}), "the day after the last")
	assert.Equal(t, "100", bill(0, 0, quote.Customer{Here: true, Sign: until}))
	assert.Equal(t, "850", bill(1, 0, early), "two free months of twelve beat half of three; offers do not add up")
	e.Offers = []pricelist.Offer{{Key: "always", Plans: []string{"root"}, Kind: pricelist.PercentOff, Off: 100_000}}
	assert.Equal(t, "90", bill(0, 99, early))
}

func TestTotalsAreSettledOnce(t *testing.T) {
	e := listOf(pricelist.Charge{Key: "a", Kind: pricelist.Flat, Price: price("189")})
	e.Tax = pricelist.Tax{Included: true, Rate: 210_000}
	r, err := of(ask(e, 0, 0, 0))
	require.NoError(t, err)
	assert.Equal(t, "189", r.Bill.String())
	assert.Equal(t, "156.2", r.Settled.String())
	e.Currency = money.MustCurrency("GBP")
	r, err = of(ask(e, 0, 0, 0))
	require.NoError(t, err)
	assert.False(t, r.Priced)
	assert.Contains(t, r.Reasons[0].String(), "no rate from GBP to EUR")
	a := ask(e, 0, 0, 0)
	a.deal.Basis.Rates = map[string]quote.Rate{"GBP": {Rate: amount("1.17")}}
	r, err = of(a)
	require.NoError(t, err)
	assert.Equal(t, "182.75", r.Settled.String()) // 189 / 1.21 x 1.17 = 182.7520…, rounded once
}

func TestAmountsThatDoNotFitAreTold(t *testing.T) {
	e := listOf(pricelist.Charge{Key: "u", Kind: pricelist.Unit, Meter: "contacts", Price: price("1000000000")})
	r, err := of(ask(e, 0, 1_000_000_000_000, 0))
	require.NoError(t, err)
	assert.False(t, r.Priced)
	assert.Equal(t, "it costs more than an amount can hold", r.Reasons[0].String())
}

func TestReadingsAreRoundedUpUnlessTheMeterAllowsFractions(t *testing.T) {
	e := listOf(stairs())
	model, err := usage.NewModel([]usage.Driver{{Key: "sent", Name: "Sent", Unit: "email", Kind: usage.Flow}}, nil)
	require.NoError(t, err)
	for i, formula := range []string{"contacts", "sent", "storage"} {
		if e.Meters[i].Counts, err = usage.ParseFormula(formula); err != nil {
			t.Fatal(err)
		}
	}
	read := func(contacts ...float64) ([][]int64, error) {
		n := len(contacts)
		values, err := model.Usages(0, n, map[string][]float64{"contacts": contacts, "sent": slices.Repeat([]float64{10.2}, n), "storage": slices.Repeat([]float64{2.5}, n)})
		require.NoError(t, err)
		return tariff.Read(e, values)
	}
	rows, err := read(6400*1.1, 1)
	require.NoError(t, err)
	assert.Equal(t, quote.Readings{"contacts": usage.Of(7040), "sends": usage.Of(11), "storage": usage.Of(5) / 2}, tariff.Readings(e, rows[0]))
	_, err = read(1, -1, -2)
	assert.ErrorIs(t, err, usage.ErrRange)
	var at *usage.RowError
	require.ErrorAs(t, err, &at)
	assert.Equal(t, 1, at.Row, "the first row at fault")
}

// TestPriceNeverFallsAsUsageGrows holds for every kind whose parts rise.
func TestPriceNeverFallsAsUsageGrows(t *testing.T) {
	above := stairs()
	above.Above = &pricelist.Above{Price: price("0.01"), Each: 3}
	for _, ch := range []pricelist.Charge{above,
		{Key: "u", Kind: pricelist.Unit, Meter: "contacts", Price: price("0.07"), Each: 7, Included: usage.Of(10), AtLeast: usage.Of(30)},
		{Key: "p", Kind: pricelist.Pack, Meter: "contacts", Price: price("3"), Included: usage.Of(40), Size: usage.Of(13)}} {
		last := money.Amount(-1)
		for q := int64(0); q < 8000; q += 7 {
			r, err := of(ask(listOf(ch), 0, q, 0))
			require.NoError(t, err)
			require.GreaterOrEqual(t, r.Bill, last, "%s at %d", ch.Kind, q)
			last = r.Bill
		}
	}
}

func ExampleQuote() {
	e := listOf(stairs())
	r, _ := of(ask(e, 1, 3000, 0))
	fmt.Println(eur.Format(r.Bill), "for", r.Period, "months,", eur.Format(r.Monthly()), "a month")
	// Output: €372.60 for 12 months, €31.05 a month
}

// TestAnOfferThatEndsSaysWhatComesAfter asks for how long an offer lowers the price,
// from several months on and on terms that are billed for several months.
func TestAnOfferThatEndsSaysWhatComesAfter(t *testing.T) {
	e := listOf(pricelist.Charge{Key: "f", Kind: pricelist.Flat, Price: price("90.00")})
	e.Offers = []pricelist.Offer{{Key: "o", Plans: []string{e.Plans[0].Key}, Kind: pricelist.PercentOff, Off: 500_000, Months: 3}}
	for _, row := range []struct {
		term, since, until int
		then               string
	}{{0, 0, 3, "90.00"}, {0, 2, 1, "90.00"}, {0, 3, 0, "0"}, {1, 0, 12, "90.00"}} {
		q := ask(e, row.term, 100, 0)
		q.since = row.since
		r, err := of(q)
		require.NoError(t, err)
		if months := r.Term.Months; row.term == 1 && r.Term.Off > 0 {
			row.then = amount("90.00").String()
			require.Equal(t, 12, months)
			continue
		}
		assert.Equal(t, row.until, r.Until, "%+v", row)
		assert.Equal(t, amount(row.then), r.Then, "%+v", row)
		assert.Equal(t, row.until > 0, r.Lowered())
	}
	e.Offers[0].Months = 0
	r, err := of(ask(e, 0, 100, 0))
	require.NoError(t, err)
	assert.True(t, r.Lowered())
	assert.Zero(t, r.Until, "for good")
}
