package quote

import (
	"fmt"
	"slices"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// Receipt is what a plan costs under one term at one reading.
//
// Lines that are settled for the whole billing period make up Bill; lines on a
// flow meter inside a period of several months are billed month by month as
// used, and make up Used for one month. A receipt with Reasons cannot serve;
// its amounts still stand where Priced.
type Receipt struct {
	Plan   *pricelist.Plan
	Term   pricelist.Term
	Period int // months that Bill covers, or [pricelist.Lifetime]
	Over   int // months that what is paid for life is spread over
	// Where offers that end lower the price: for how many months from this one on, and
	// what a month costs after that, in the study's currency. 0 where none does, or one
	// is for good.
	Until   int
	Then    money.Amount
	Lines   []Line
	Reasons []Reason
	Priced  bool

	Bill, Used, Once          money.Amount // in the list's currency, tax as in the list
	Settled, AsYou, AtSigning money.Amount // the same in the study's currency, tax taken out
	Begins                    bool         // what is charged once is for add-ons that begin, and the plan was signed before
	Conversion                Conversion
	AddOns                    []string // names of add-ons that musts and limits ask for
	Notes                     []string // what else is to be known: fair use
}

// Line is one line of a receipt. Prices are those of one month; Amount is
// rounded once, to the minor unit. A line without a kind is the fixed price of
// offers.
type Line struct {
	Key, Label, AddOn string
	Kind              pricelist.ChargeKind
	Meter, Unit       string
	Quantity          usage.Quantity // the reading
	Included          usage.Quantity
	Billed            usage.Quantity // unit: after minimum and included; stair with a rate above: what lies above
	Price             money.Amount   // flat: of all; unit: per Each; stair: of the band; pack: of one
	Each, AboveEach   int64
	Band              int            // stair: index of the band
	BandFrom          usage.Quantity // stair: where the band before ends
	BandTo            usage.Quantity // stair: where the band ends; 0 for open
	AbovePrice        money.Amount   // stair past its last band: per Each more
	Packs             int64
	Size              usage.Quantity
	Start             usage.Quantity // pack: above which packs are counted
	Parts             []Part         // graduated: what falls into each band
	Rate              money.Share    // share, once on a meter: of the money
	Floor, Cap        money.Amount   // share
	Off               money.Share    // the term's share off
	Offers            []LineOffer    // offers taken into account
	Months            int            // months that Amount covers
	AsUsed            bool
	Once              bool // charged at signing
	Amount            money.Amount
}

// LineOffer is an offer on a line.
type LineOffer struct {
	Key, Name string // Name is for sentences
	Kind      pricelist.OfferKind
	Off       money.Share
	Months    int // of those that the line covers
}

// Part is what falls into one band of a graduated charge.
type Part struct {
	Units usage.Quantity
	Price money.Amount
	Each  int64
}

// Conversion says how a total in the list's currency became one in the
// study's: divided by 1+Tax where the list holds tax, times Rate where the
// currencies differ.
type Conversion struct {
	From, To money.Currency
	Tax      money.Share
	Rate     money.Amount // units of To for one unit of From; 0 when they are the same
	On       time.Time    // day of the rate
}

// Lowered reports whether an offer lowers a line.
func (r *Receipt) Lowered() bool {
	return slices.ContainsFunc(r.Lines, func(l Line) bool { return len(l.Offers) > 0 || l.Kind == "" })
}

// Converted reports whether the settled totals differ from the list's.
func (r *Receipt) Converted() bool { return r.Conversion.Tax != 0 || r.Conversion.Rate != 0 }

// PerMonth returns the receipt's cost of one month, Settled/Period + AsYou, as
// an exact fraction, for comparing plans. What is paid for life has no cost of a
// month; it is all of it, over the months that it is spread over.
func (r *Receipt) PerMonth() (money.Fraction, error) {
	bill, err := money.Exactly(r.Settled).Times(1, int64(max(1, r.Period, r.Over)))
	if err != nil {
		return bill, err
	}
	return bill.Plus(money.Exactly(r.AsYou))
}

// Monthly returns PerMonth rounded to the minor unit of the study's currency.
func (r *Receipt) Monthly() money.Amount {
	f, err := r.PerMonth()
	if err != nil {
		return 0
	}
	a, _ := f.Round(r.Conversion.To)
	return a
}

// Serves reports whether the plan can be taken.
func (r *Receipt) Serves() bool { return r.Priced && len(r.Reasons) == 0 }

// May reports whether the plan can be taken as far as is known: nothing but features not yet
// known stands against it, or nothing at all.
func (r *Receipt) May() bool {
	for _, reason := range r.Reasons {
		if reason.Kind != MustNotKnown {
			return false
		}
	}
	return r.Priced
}

// ReasonKind tells why a plan cannot serve.
type ReasonKind string

// The reasons.
const (
	PastLimit     ReasonKind = "past limit"
	PastBands     ReasonKind = "past bands"
	PriceOnAsking ReasonKind = "on request"
	ClosedToNew   ReasonKind = "closed"
	MustMissing   ReasonKind = "must missing"
	MustNotKnown  ReasonKind = "must not known"
	NoRate        ReasonKind = "no rate"
	NoLifePrice   ReasonKind = "no price for life"
	TooLarge      ReasonKind = "too large"
)

// Reason is one reason why a plan cannot serve.
type Reason struct {
	Kind    ReasonKind
	Meter   string
	Unit    string
	Reading usage.Quantity
	Most    usage.Quantity
	Times   usage.Quantity // a limit that is a multiple of OfUnit
	OfUnit  string
	Stops   bool           // work stops there
	Short   usage.Quantity // how much is beyond
	Feature string
	Has     pricelist.Has
	Text    string
}

// String writes the reason as the end of a sentence: "contacts pass 8,000".
func (r Reason) String() string {
	switch r.Kind {
	case PastLimit:
		if r.Stops {
			return fmt.Sprintf("work stops at %s %s, %s short", r.Most.Format(), Plural(r.Unit), r.Short.Format())
		}
		if r.OfUnit != "" {
			return fmt.Sprintf("%s pass %s per %s", Plural(r.Unit), r.Times.Format(), r.OfUnit)
		}
		return fmt.Sprintf("%s pass %s", Plural(r.Unit), r.Most.Format())
	case PastBands:
		return fmt.Sprintf("%s pass %s, above which the price is on request", Plural(r.Unit), r.Most.Format())
	case PriceOnAsking:
		return "the price is on request"
	case ClosedToNew:
		return "closed to new customers"
	case MustMissing:
		if r.Has == pricelist.Partly || r.Has == pricelist.Announced {
			return fmt.Sprintf("%s only %s", pricelist.FeatureName(r.Feature),
				map[pricelist.Has]string{pricelist.Partly: "in part", pricelist.Announced: "announced"}[r.Has])
		}
		return "no " + pricelist.FeatureName(r.Feature)
	case NoLifePrice:
		return "what it costs once for life is not stated"
	case TooLarge:
		return "it costs more than an amount can hold"
	case MustNotKnown:
		return pricelist.FeatureName(r.Feature) + " not yet known"
	}
	return r.Text
}

// Passes writes what is passed, without what that means: "contacts pass
// 8,000".
func (r Reason) Passes() string {
	if r.Kind == PastBands {
		r.Kind = PastLimit
	}
	r.Stops = false
	return r.String()
}

// Plural writes the plural of a unit: "contacts", "emails".
func Plural(unit string) string {
	switch unit {
	case "":
		return "units"
	case "money":
		return unit
	}
	switch unit[len(unit)-1] {
	case 's', 'x':
		return unit + "es"
	case 'B': // GB
		return unit
	}
	return unit + "s"
}
