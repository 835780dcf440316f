package tariff

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
)

// Deal is what a plan is asked for.
type Deal struct {
	Musts    []string // features that must be had
	Customer quote.Customer
	Basis    quote.Basis
	Within   context.Context // ends the compiling; nil: nothing does

	of    *pricelist.Edition // whose add-ons are looked up
	gives map[string][]*pricelist.AddOn
}

// Program is a plan on a term with one choice of offers, as numbers.
type Program struct {
	Edition *pricelist.Edition
	Plan    *pricelist.Plan
	Rank    int // of the plan in its list
	Term    pricelist.Term
	Period  int // months that a bill covers, or [pricelist.Lifetime]
	Offers  []*pricelist.Offer
	// Why it cannot be taken at any usage, and what is not yet known of it.
	Barred, Questions []quote.Reason
	NewOnly           bool      // an offer is for who signs first of all
	Until             time.Time // last day to sign; zero is no end

	deal   *Deal
	conv   quote.Conversion
	drawn  *drawing // while it is compiled
	phases []*phase
	// Which phase holds so many months after signing; the last holds from then on.
	since []int
	// From so many months on a month costs what this says, and nothing else.
	quick *way
	from  int
	fees  bool // an add-on charges something when it begins
}

// phase is what holds while the offers cover the same months of a bill.
type phase struct {
	covered []int // months of each offer
	ways    []way
}

// way is one set of add-ons and packs that musts and limits ask for.
type way struct {
	addOns []*pricelist.AddOn
	packs  []*pricelist.Charge // optional ones that are taken
	limits []limit
	bill   sheet // of the period
	used   sheet // of a month, as used, where the period is not one month
	once   sheet // at signing
}

// mostWays is how many sets of add-ons and packs are compared.
const mostWays = 64

// mostBands is how many bands of charges are compiled for one list, counted for
// every term, way and set of offers.
const mostBands = 300_000

// ErrTooLarge reports a list that would take too long to compile: of very many
// bands, on many terms, under many offers.
var ErrTooLarge = errors.New("its bands, terms, offers and add-ons come to more than 300,000 combinations")

// ErrTooManyWays reports a plan whose musts and limits can be met by more sets of
// add-ons and packs than are compared.
var ErrTooManyWays = errors.New("more than 64 sets of add-ons and packs meet the musts and limits")

// All compiles every plan of an edition on every term.
func All(e *pricelist.Edition, asked Deal) ([]*Program, error) {
	d := &asked
	var all []*Program
	left := mostBands
	for i := range e.Plans {
		for _, t := range e.Plans[i].Terms {
			if d.Within != nil && d.Within.Err() != nil {
				return nil, d.Within.Err()
			}
			some, err := compileAll(e, &e.Plans[i], t, d, &left)
			if err != nil {
				return nil, err
			}
			all = append(all, some...)
		}
	}
	d.Within = nil // programs outlive who had them compiled
	return all, nil
}

// Compile compiles a plan on a term: a program for each set of offers that can be
// had together, of which a customer chooses one at signing. It fails where
// more ways than [mostWays] lead to what is asked ([ErrTooManyWays]), or where
// the list is too large ([ErrTooLarge]).
func Compile(e *pricelist.Edition, p *pricelist.Plan, t pricelist.Term, d Deal) ([]*Program, error) {
	left := mostBands
	return compileAll(e, p, t, &d, &left)
}

func compileAll(e *pricelist.Edition, p *pricelist.Plan, t pricelist.Term, d *Deal, left *int) ([]*Program, error) {
	var all []*Program
	drawn := &drawing{lines: map[*pricelist.Charge]lineOf{}}
	for _, offers := range offersOf(e, p, t, d.Customer) {
		one, err := compile(e, p, t, d, offers, drawn, left)
		if err != nil {
			return nil, fmt.Errorf("%s, plan %q on %q: %w", e.Platform.Name, p.Key, t.Key, err)
		}
		one.drawn = nil
		all = append(all, one)
	}
	return all, nil
}

// offersOf returns the sets of offers that a plan on a term can be signed with:
// one that stands alone with all that go together, or those alone. There are sets
// without those that are for first signers or until a day, and without fixed
// prices, which may be worse than none.
func offersOf(e *pricelist.Edition, p *pricelist.Plan, t pricelist.Term, c quote.Customer) (sets [][]*pricelist.Offer) {
	if !slices.ContainsFunc(e.Offers, func(o pricelist.Offer) bool { return slices.Contains(o.Plans, p.Key) }) {
		return [][]*pricelist.Offer{nil}
	}
	const newOnly, dated, fixed = 1, 2, 4
	add := func(set []*pricelist.Offer) {
		if !slices.ContainsFunc(sets, func(o []*pricelist.Offer) bool { return slices.Equal(o, set) }) {
			sets = append(sets, set)
		}
	}
	for without := range 8 {
		var together, alone []*pricelist.Offer
		for i := range e.Offers {
			o := &e.Offers[i]
			switch {
			case !slices.Contains(o.Plans, p.Key), len(o.Terms) > 0 && !slices.Contains(o.Terms, t.Key), o.NewCustomers && c.Here,
				o.NewCustomers && without&newOnly != 0, !o.Until.IsZero() && without&dated != 0, o.Kind == pricelist.FixedPrice && without&fixed != 0:
			case o.Together:
				together = append(together, o)
			default:
				alone = append(alone, o)
			}
		}
		for _, o := range alone {
			add(append(slices.Clone(together), o))
		}
		if len(alone) == 0 {
			add(together)
		}
	}
	return sets
}

// drawing is what all sets of offers of a plan on a term have in common.
type drawing struct {
	lines map[*pricelist.Charge]lineOf
	sets  []wayTo
	plain []way // where no offer covers anything; nil until they are made
	fees  bool  // an add-on charges something when it begins
}

func compile(e *pricelist.Edition, p *pricelist.Plan, t pricelist.Term, d *Deal, offers []*pricelist.Offer,
	drawn *drawing, left *int) (*Program, error) {
	c := &Program{Edition: e, Plan: p, Term: t, Period: t.Period(), Offers: offers, deal: d, drawn: drawn,
		Rank: slices.IndexFunc(e.Plans, func(o pricelist.Plan) bool { return o.Key == p.Key })}
	last := 0 // months after signing from which on no offer changes any more
	for _, o := range offers {
		c.NewOnly = c.NewOnly || o.NewCustomers
		if !o.Until.IsZero() && (c.Until.IsZero() || o.Until.Before(c.Until)) {
			c.Until = o.Until
		}
		last = max(last, o.Months)
	}
	c.access()
	c.convert()
	if drawn.sets == nil {
		var err error
		if drawn.sets, err = c.ways(); err != nil {
			return nil, err
		}
	}
	for since := 0; since <= last; since++ {
		covered := make([]int, len(offers))
		for i, o := range offers {
			covered[i] = c.covers(o, since)
		}
		at := slices.IndexFunc(c.phases, func(p *phase) bool { return slices.Equal(p.covered, covered) })
		if at < 0 {
			made := &phase{covered: covered}
			over := !slices.ContainsFunc(covered, func(months int) bool { return months > 0 })
			if over {
				made.ways = drawn.plain
			}
			if made.ways == nil {
				for _, w := range drawn.sets {
					if *left -= w.weight(p); *left < 0 {
						return nil, ErrTooLarge
					}
					made.ways = append(made.ways, c.way(w, covered))
				}
			}
			if over {
				drawn.plain = made.ways
			}
			at, c.phases = len(c.phases), append(c.phases, made)
		}
		c.since = append(c.since, at)
	}
	c.fees = drawn.fees
	if now := c.at(last); c.Period == 1 && len(now.ways) == 1 {
		c.quick, c.from = &now.ways[0], max(1, last)
	}
	return c, nil
}

// covers returns how many months an offer covers of a bill that begins so many
// months after signing. A lifetime is covered by what holds for good, or not.
func (c *Program) covers(o *pricelist.Offer, since int) int {
	switch {
	case c.Period == pricelist.Lifetime && o.Months > 0:
		return 0
	case c.Period == pricelist.Lifetime:
		return 1
	case o.Months == 0:
		return c.Period
	}
	return min(c.Period, max(0, o.Months-since))
}

// access notes why the plan cannot be taken at any usage. That it is closed is for
// who chooses to say: who is on it stays.
func (c *Program) access() {
	if c.Plan.Offered == pricelist.OnRequest {
		c.Barred = append(c.Barred, quote.Reason{Kind: quote.PriceOnAsking})
	}
	if c.Period == pricelist.Lifetime && !c.Plan.StatesForLife(c.Term.Key) {
		c.Barred = append(c.Barred, quote.Reason{Kind: quote.NoLifePrice})
	}
	if c.Plan.Offered == pricelist.Closed && !c.deal.Customer.Here {
		c.Barred = append(c.Barred, quote.Reason{Kind: quote.ClosedToNew})
	}
	for _, key := range c.deal.Musts {
		switch f := c.Plan.Feature(key); {
		case len(c.givers(key)) > 0 || f.Has == pricelist.Yes || f.Has == pricelist.Bridge:
		case f.Has == pricelist.Unknown:
			c.Questions = append(c.Questions, quote.Reason{Kind: quote.MustNotKnown, Feature: key, Has: f.Has})
		default:
			c.Barred = append(c.Barred, quote.Reason{Kind: quote.MustMissing, Feature: key, Has: f.Has})
		}
	}
}

// Without returns the programs as they are where a feature is no must; false where
// add-ons bring it, so that they are to be compiled anew.
func Without(must string, all []*Program) ([]*Program, bool) {
	without := make([]*Program, len(all))
	for i, p := range all {
		if len(p.givers(must)) > 0 {
			return nil, false
		}
		is := func(r quote.Reason) bool { return r.Feature == must }
		one := *p
		one.Barred = slices.DeleteFunc(slices.Clone(p.Barred), is)
		one.Questions = slices.DeleteFunc(slices.Clone(p.Questions), is)
		without[i] = &one
	}
	return without, true
}

// convert says how a total of the list becomes one of the study.
func (c *Program) convert() {
	c.conv = quote.Conversion{From: c.Edition.Currency, To: c.deal.Basis.Currency}
	if c.Edition.Tax.Included {
		c.conv.Tax = c.Edition.Tax.Rate
	}
	if c.conv.From == c.conv.To {
		return
	}
	rate, ok := c.deal.Basis.Rates[c.conv.From.Code()]
	if !ok {
		from := c.conv.From.Code()
		c.Barred = slices.Insert(c.Barred, 0, quote.Reason{Kind: quote.NoRate,
			Text: fmt.Sprintf("prices are in %s and the study has no rate from %s to %s", from, from, c.conv.To.Code())})
		return
	}
	c.conv.Rate, c.conv.On = rate.Rate, rate.On
}

// settle is how many minor units of the study one of the list comes to, without
// tax.
func (c *Program) settle() frac {
	by := ratio(c.conv.From.Minor(), c.conv.To.Minor())
	if c.conv.Tax != 0 {
		by = by.times(ratio(int64(money.Whole), int64(money.Whole+c.conv.Tax)))
	}
	if c.conv.Rate != 0 {
		by = by.times(ratio(int64(c.conv.Rate), money.Scale))
	}
	return by
}

// meter is the index of a meter; -1 for none.
func (c *Program) meter(key string) int {
	return slices.IndexFunc(c.Edition.Meters, func(m pricelist.Meter) bool { return m.Key == key })
}

// grain is how many millionths of a unit one of a meter's readings is.
func (c *Program) grain(meter int) int64 { return Grain(&c.Edition.Meters[meter]) }

// Grain is how many millionths of a unit one of a meter's readings is: a whole
// unit, or a millionth where fractions are billed.
func Grain(m *pricelist.Meter) int64 {
	if m.Fractions {
		return 1
	}
	return int64(usage.One)
}

// largest are the largest readings of an edition's meters that can be.
func largest(e *pricelist.Edition) []int64 {
	all := make([]int64, len(e.Meters))
	for i := range e.Meters {
		all[i] = int64(usage.Most) / Grain(&e.Meters[i])
	}
	return all
}

// way compiles a set of add-ons and packs while offers cover so many months.
func (c *Program) way(to wayTo, covered []int) way {
	w := way{addOns: to.addOns, packs: to.packs}
	w.bill.settle, w.bill.most = c.settle(), math.MaxInt64/c.conv.To.Minor()
	w.used.settle, w.used.most = w.bill.settle, w.bill.most
	w.once.settle, w.once.most = w.bill.settle, w.bill.most
	c.limits(&w)
	if n := len(c.Plan.Charges); n > 1 {
		w.bill.lines, w.bill.refs = make([]exactLine, 0, n), make([]ref, 0, n)
	}
	for i := range c.Plan.Charges {
		ch := &c.Plan.Charges[i]
		if !ch.Optional || slices.Contains(to.packs, ch) {
			c.charge(&w, ch, nil, covered)
		}
	}
	for _, a := range to.addOns {
		for i := range a.Charges {
			if !a.Charges[i].Optional {
				c.charge(&w, &a.Charges[i], a, covered)
			}
		}
	}
	c.fixedPrices(&w, covered)
	for _, s := range []*sheet{&w.bill, &w.used, &w.once} {
		s.make(largest(c.Edition))
	}
	return w
}
