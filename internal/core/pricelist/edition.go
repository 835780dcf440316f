// Package pricelist holds what a platform's price list says: plans with their
// terms, charges, limits and features, add-ons and offers, as read on one day.
// It checks that a list makes sense; package quote prices it.
package pricelist

import (
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"
)

// Platform is a product that has price lists.
type Platform struct {
	Key, Name string
	Does      []string // the categories of work it covers: of [Categories], or others
	About     string   // what it does, in two lines
	Links     []string // where more is to be read, as text: nothing follows them
}

// Categories are the usual kinds of work that a platform can do.
var Categories = []string{"email", "newsletter", "crm", "search", "automation", "social", "conversation", "content helper", "ad protection",
	"courses and shop", "all in one"}

// Category returns the usual category that a text means in whatever case it is
// written; another text as it is.
func Category(text string) string {
	for _, one := range Categories {
		if strings.EqualFold(one, text) {
			return one
		}
	}
	return text
}

// ShowCategory is how a category is written where people read it.
func ShowCategory(category string) string {
	if category == "crm" {
		return "CRM"
	}
	return category
}

// Edition is a price list as it was read on one day. Once published it never
// changes. Slices keep the order of the list.
type Edition struct {
	Platform   Platform
	ObservedOn time.Time // a day, midnight UTC; a correction of the same day has its time, to the minute
	Source     string
	Currency   money.Currency
	Tax        Tax
	Drivers    []usage.Driver // of its own, beside the standard ones: what it counts that others don't
	Meters     []Meter
	Plans      []Plan // from the smallest up
	AddOns     []AddOn
	Offers     []Offer
	Trial      Trial
}

// ReadText writes when a list was read as files do: a day, with a time where that was not the
// first reading of the day. SayRead writes it for people, ParseRead reads it in a file.
func ReadText(on time.Time) string { return document.DayOrTime.Text(on) }

// SayRead is [ReadText] for people.
func SayRead(on time.Time) string { return document.DayOrTime.Show(on) }

// ParseRead reads what [ReadText] writes.
func ParseRead(text string) (time.Time, error) { return document.DayOrTime.Parse(text) }

// Tax says whether the prices hold tax, and at which rate.
type Tax struct {
	Included bool
	Rate     money.Share
}

// Meter is something that this platform bills or limits, counted by a formula
// over the study's drivers.
type Meter struct {
	Key, Unit string
	Kind      usage.Kind
	Counts    usage.Formula
	Fractions bool // billed to the millionth; otherwise rounded up to whole units
}

// Offered says who can buy a plan.
type Offered string

// The ways in which a plan is offered.
const (
	Public    Offered = "public"
	OnRequest Offered = "on request"
	Closed    Offered = "closed"
)

// Plan is one plan of a list.
type Plan struct {
	Key, Name string
	Offered   Offered
	Includes  string // key of an earlier plan whose features this one has too
	Terms     []Term
	Charges   []Charge
	Limits    []Limit
	Features  map[string]Feature // by "area/feature", those of included plans among them
	// In no list: the key of the plan that this is, as one customer was quoted it.
	QuotedOf string
}

// Is reports whether this is a plan of the list, or that plan as it was quoted.
func (p *Plan) Is(key string) bool { return p.Key == key || p.QuotedOf == key && key != "" }

// Paid says when a term of several months is paid.
type Paid string

// The ways in which a term is paid.
const (
	Upfront Paid = "upfront"
	Monthly Paid = "monthly"
)

// Lifetime is the length of a term that is paid once and never ends.
const Lifetime = -1

// Term is a length for which a plan can be taken.
type Term struct {
	Key    string
	Months int // 1 to 60, or [Lifetime]
	Paid   Paid
	Off    money.Share // taken from prices that are not stated for this term
}

// Like reports whether another term is as long and paid alike.
func (t Term) Like(o Term) bool {
	return t.Months == o.Months && (t.Months == 1 || (t.Paid == Upfront) == (o.Paid == Upfront))
}

// Period returns how many months one bill of the term covers: all of them where
// it is paid up front, else 1. For a lifetime it is [Lifetime].
func (t Term) Period() int {
	if t.Months == Lifetime || t.Paid == Upfront {
		return t.Months
	}
	return 1
}

// Ask says what a list answers when it names no price.
const Ask = "on request"

// ChargeKind is a way of charging.
type ChargeKind string

// The kinds of charge.
const (
	Flat      ChargeKind = "flat"
	Unit      ChargeKind = "unit"
	Stair     ChargeKind = "stair"
	Graduated ChargeKind = "graduated"
	Volume    ChargeKind = "volume"
	Pack      ChargeKind = "pack"
	Share     ChargeKind = "share"
	Once      ChargeKind = "once"
)

// ChargeKinds lists every kind of charge by name.
var ChargeKinds = []ChargeKind{Flat, Unit, Stair, Graduated, Volume, Pack, Share, Once}

// Price is an amount with the amounts that single terms state instead.
type Price struct {
	Usual money.Amount
	ByKey map[string]money.Amount // by term key
}

// Banded reports whether a charge of this kind has bands.
func (k ChargeKind) Banded() bool { return k == Stair || k == Graduated || k == Volume }

// Charge is one part of a plan's price.
type Charge struct {
	Key, Label string
	Kind       ChargeKind
	Meter      string // empty for what hangs on no reading
	Price      Price  // flat, unit, pack, once
	// Share, and once on a meter: the share of the meter's money, in millionths,
	// with those of single terms.
	Rate     Price
	Floor    money.Amount   // share: the least a month
	Cap      money.Amount   // share: the most a month; 0 is none
	Each     int64          // unit, graduated, volume: prices are for this many, pro rata; 1 unless stated
	Included usage.Quantity // unit, pack
	AtLeast  usage.Quantity // unit: the least number that is billed
	Size     usage.Quantity // pack: what one holds
	Bands    []Band         // stair, graduated, volume
	Above    *Above         // what holds past the last band
	WaivedOn []string       // once: terms, by key, on which it is not charged
	Optional bool           // billed only to who asks for it
}

// Band is a step of a stair, or a stretch with a rate of its own: its price holds
// up to To.
type Band struct {
	To    usage.Quantity
	Open  bool // the last band may have no upper end
	Price Price
}

// Above is what holds past the last band: what is charged at its end, and Price
// for each Each more, pro rata. A nil Above is "on request".
type Above struct {
	Price Price
	Each  int64
}

// Beyond says what happens past a limit.
type Beyond string

// What can happen past a limit.
const (
	MoveUp  Beyond = "move up"
	BuyPack Beyond = "buy a pack"
	Stops   Beyond = "work stops"
	FairUse Beyond = "fair use" // nothing, within reason: the limit is not enforced
)

// Limit is the most that a plan takes of a meter: a number, or a multiple of
// another meter.
type Limit struct {
	Meter     string
	Most      usage.Quantity
	Times     usage.Quantity // with OfMeter: the limit is Times x OfMeter
	OfMeter   string
	Unlimited bool
	Beyond    Beyond
	Note      string // fair use, in the list's words
}

// Holds reports whether the limit bounds anything.
func (l Limit) Holds() bool { return !l.Unlimited && l.Beyond != FairUse }

// Counts reports whether a plan bills a meter or says how far it goes, be it without a limit;
// an add-on for the plan does, too.
func (e *Edition) Counts(p *Plan, meter string) bool {
	bills := func(all []Charge) bool {
		return slices.ContainsFunc(all, func(c Charge) bool { return c.Meter == meter })
	}
	limits := func(l Limit) bool { return l.Meter == meter }
	return bills(p.Charges) || slices.ContainsFunc(p.Limits, limits) || slices.ContainsFunc(e.AddOns, func(a AddOn) bool {
		return slices.Contains(a.Plans, p.Key) && bills(a.Charges)
	})
}

// Uses reports whether any price or limit of the list goes by a meter.
func (e *Edition) Uses(meter string) bool {
	return slices.ContainsFunc(e.Plans, func(p Plan) bool {
		return e.Counts(&p, meter) || slices.ContainsFunc(p.Limits, func(l Limit) bool { return l.OfMeter == meter })
	})
}

// AddOn is something bought on top of a plan.
type AddOn struct {
	Key, Name  string
	Plans      []string // keys of the plans that it can be bought on
	IncludedOn []string // keys of the plans that hold it already
	Charges    []Charge
	Gives      []string // features
	Raises     []Raise
}

// Raise is by how much an add-on raises the limits on a meter.
type Raise struct {
	Meter     string
	By        usage.Quantity
	Unlimited bool // as far as needed: the add-on is sold per unit
}

// OfferKind is a way of lowering the price for a while.
type OfferKind string

// The kinds of offer.
const (
	PercentOff OfferKind = "percent"
	FixedPrice OfferKind = "fixed price"
	FreeMonths OfferKind = "free months"
)

// Offer lowers the recurring charges of a plan for the first months, or for
// good. Months count from the signing of the plan.
type Offer struct {
	Key, Name    string // Name is for sentences; empty: none of its own
	Plans, Terms []string
	Kind         OfferKind
	Off          money.Share  // percent
	Price        money.Amount // fixed price: a month, for all recurring charges of the plan
	Months       int          // 0 is for good
	NewCustomers bool
	Together     bool      // goes together with others
	Until        time.Time // last day to sign; zero is no end
}

// Called is what the offer is called in a sentence: by its name, else by what it
// does. Its key is for files.
func (o *Offer) Called() string {
	switch {
	case o.Name != "":
		return o.Name
	case o.Kind == FreeMonths:
		return "free months"
	case o.Kind == FixedPrice:
		return "a price of its own"
	}
	return money.Share(o.Off).String() + " off"
}

// Trial says how a platform can be tried.
type Trial struct {
	Days, RefundDays int
	CardNeeded       bool
}

// For returns the price under a term: the one stated for it, else the usual
// price and the share of it to take off.
func (p Price) For(t Term) (price money.Amount, off money.Share) {
	if own, ok := p.ByKey[t.Key]; ok {
		return own, 0
	}
	return p.Usual, t.Off
}

// Plan finds a plan by key.
func (e *Edition) Plan(key string) (*Plan, bool) {
	for i := range e.Plans {
		if e.Plans[i].Key == key {
			return &e.Plans[i], true
		}
	}
	return nil, false
}

// Term finds a term by key.
func (p *Plan) Term(key string) (Term, bool) {
	for _, t := range p.Terms {
		if t.Key == key {
			return t, true
		}
	}
	return Term{}, false
}

// StatesFor reports whether a charge names a price of its own for a term.
func (c *Charge) StatesFor(term string) bool {
	has := func(p Price) bool { _, ok := p.ByKey[term]; return ok }
	return has(c.Price) || has(c.Rate) || slices.ContainsFunc(c.Bands, func(b Band) bool { return has(b.Price) })
}

// StatesForLife reports whether a plan says what it costs once on a term for life: with a price of its
// own, or by asking for nothing but what is used.
func (p *Plan) StatesForLife(term string) bool {
	asks := func(c Charge) bool { return !c.Optional && (c.Kind == Stair || c.Kind == Flat && c.Price.Usual != 0) }
	return !slices.ContainsFunc(p.Charges, asks) || slices.ContainsFunc(p.Charges, func(c Charge) bool { return c.StatesFor(term) })
}

// Meter finds a meter by key.
func (e *Edition) Meter(key string) (*Meter, bool) {
	for i := range e.Meters {
		if e.Meters[i].Key == key {
			return &e.Meters[i], true
		}
	}
	return nil, false
}

// AddOn finds an add-on by key.
func (e *Edition) AddOn(key string) (*AddOn, bool) {
	for i := range e.AddOns {
		if e.AddOns[i].Key == key {
			return &e.AddOns[i], true
		}
	}
	return nil, false
}

// DaysOld returns how many days before the given day the list was read.
func (e *Edition) DaysOld(on time.Time) int { return int(on.Sub(e.ObservedOn).Hours() / 24) }
