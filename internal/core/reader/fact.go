package reader

import (
	"regexp"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// what a fact is about.
type what int

const (
	price     what = iota // of the plan, a month
	unit                  // for each of a thing
	band                  // up to a number of a thing
	rate                  // for each of a thing, up to a number
	rateAbove             // for each of a thing, past the last number
	extra                 // for each of a thing past what is included
	count                 // of a thing: included, or at most
	times                 // of a thing: a multiple of another
	unlimited
	least // of a thing that is billed
	share // of a money driver
	floor
	ceiling
	once  // at signing
	off   // what a term takes off
	asked // the price is on request
	below // all of an earlier plan
)

// fact is what the page says of a plan, with the figures that say it.
type fact struct {
	what               what
	thing, of          thing
	term               term
	value              money.Amount   // a price a month, a share
	n                  usage.Quantity // of the thing
	each               usage.Quantity // the price is for so many
	price, count, size *Figure
	name               string     // what is said: for once and below
	waived             string     // once: the key of the term on which it is free
	guess              string     // why it may be meant otherwise; "" where it was read
	from               bool       // a price "from": that of the smallest band
	said               *statement // that says it; nil: a table does
}

// term is a length for which prices are told.
type term struct {
	key    string
	months int
	paid   pricelist.Paid
}

var (
	monthly   = term{"monthly", 1, pricelist.Upfront}
	quarterly = term{"quarterly", 3, pricelist.Upfront}
	contract  = term{"contract", 12, pricelist.Monthly}
	yearly    = term{"yearly", 12, pricelist.Upfront}
	twoYears  = term{"two-years", 24, pricelist.Upfront}
	lifetime  = term{"lifetime", pricelist.Lifetime, pricelist.Upfront}
	allTerms  = []term{monthly, quarterly, contract, yearly, twoYears, lifetime}
)

var (
	byMonth    = regexp.MustCompile(`(?:\bper|\ba|\beach|\bevery|/) ?month\b|\bmonthly|\bmonths? (?:price|rate)|/ ?mo\b|\bp\.?m\b|\bmo\.|^ ?month|month to month`)
	byYear     = regexp.MustCompile(`\byear|\bannual|\bannum|/ ?yr\b|\bp\.a`)
	byQuarter  = regexp.MustCompile(`\bquarter|every (?:N|three|3) months`)
	byTwoYears = regexp.MustCompile(`\b(?:every|for|over) N years|\bN[- ]years?\b|\btwo[- ]year|\bbiennial`)
	forLife    = regexp.MustCompile(`\blifetime|\bpay once|\bonce and for all`)
	byContract = regexp.MustCompile(`paid monthly|monthly payments?|billed monthly`)
	onContract = regexp.MustCompile(`contract|commit|minimum term|N-month|annual`)
	toMonth    = regexp.MustCompile(`month[- ]to[- ]month|month by month|billed monthly|paid monthly|without a contract`)
)

// termOf tells for which term words state a price, and for how long one of its prices
// is: "month", "year", "quarter", "once"; "" where that is not said. usual is what it
// is where nothing is said at all.
func termOf(words, usual string) (t term, per string) {
	month, year := byMonth.MatchString(words), byYear.MatchString(words)
	switch {
	case forLife.MatchString(words):
		return lifetime, "once"
	case byTwoYears.MatchString(words):
		return twoYears, orElse(map[bool]string{true: "month"}[month], "")
	case byContract.MatchString(words) && onContract.MatchString(words):
		return contract, "month"
	case byQuarter.MatchString(words):
		return quarterly, map[bool]string{true: "month", false: "quarter"}[month && !strings.Contains(words, "months")]
	case toMonth.MatchString(words):
		return monthly, "month"
	case year && month:
		return yearly, "month"
	case year:
		return yearly, "year"
	}
	return monthly, usual
}

// perMonth is a price as one of a month. why tells what was supposed.
func perMonth(value money.Amount, t term, per string) (month money.Amount, why string) {
	over := map[string]int64{"year": 12, "quarter": 3}[per]
	if t == twoYears && per == "" {
		over, why = 24, "taken for the price of two years"
	}
	if over == 0 {
		return value, why
	}
	return money.Amount((int64(value) + over/2) / over), why
}

func quantityOf(f *Figure) usage.Quantity {
	if f == nil {
		return 0
	}
	return usage.Quantity(f.value)
}

// add notes a fact of a plan. Its figures are used by it.
func (r *reading) add(plan int, f fact) bool {
	if plan == extras {
		return false
	}
	if plan == everywhere {
		f.said = r.now
		if f.what != once && f.what != off && f.what != extra && len(r.found) != 1 {
			return false
		}
		r.pageFacts = append(r.pageFacts, f)
		return true
	}
	f.said = r.now
	for len(r.facts) <= plan {
		r.facts = append(r.facts, nil)
	}
	r.facts[plan] = append(r.facts[plan], f)
	return true
}
