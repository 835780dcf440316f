// Package study computes a whole study. [Compute] is the one door to the
// results: the pages, the command line and the tests all call it.
package study

import (
	"time"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
)

// The bounds of a study.
const (
	MostMonths  = 120
	MostOptions = 12
)

// Study is everything that a comparison takes as given.
type Study struct {
	Key, Title, Company, Question string
	Currency                      money.Currency
	Start                         usage.Month
	Horizon                       int // months, 1 to 120
	Pay                           projection.Policy
	Budget                        money.Amount // over the horizon; 0 when none is set
	Patience                      int          // days after which an edition is stale
	Rates                         map[string]quote.Rate
	Drivers                       []Setting
	Own                           []usage.Driver // drivers beside the standard ones
	Needs                         []coverage.Need
	Options                       []Option
	PrivateOffers                 []PrivateOffer
	Criteria                      []fit.Criterion
	Ratings                       []fit.Rating
	Today                         time.Time // the day that freshness is counted to
	// Names of raters, where ratings hold their keys; else a rater is named by
	// themselves.
	People map[string]string
}

// NameOf returns the name of who gave a rating.
func (s *Study) NameOf(rater string) string {
	if name, ok := s.People[rater]; ok {
		return name
	}
	return rater
}

// Setting is the path that a driver is set to.
type Setting struct {
	Driver string
	Path   usage.Path
}

// Option is something that is in the running.
type Option struct {
	Key, Name string
	Face      int  // 1 to 12
	Now       bool // what runs today
	// Which price list it goes by, and that list itself.
	Platform   string
	ObservedOn time.Time
	Edition    *pricelist.Edition
	BinnedAt   time.Time // since when it rests in the bin; zero: it does not
}

// Outcome is everything that follows from a study. Results stand in the order
// of the line-up; Order lists their indices by fit.
type Outcome struct {
	Study   *Study
	Model   *usage.Model
	Values  usage.Columns // of every driver, a row a month
	Results []Result
	Order   []int
	Leads   []Lead // who costs least, month by month
	// Cheapest is the index of the option that is in and costs least over the
	// horizon; -1 when there is none.
	Cheapest int
	Pick     Pick
	Coins    [9]Coin
	Unset    []string // drivers that a meter needs and nothing sets
	Broken   []string // drivers that are at fault, or fed by such
	Faults   []Fault
}

// Fault is something that keeps a part of the study from being computed, at the
// path of what is to be mended.
type Fault struct {
	At   document.Path
	Text string
}

// Result is everything that follows for one option.
type Result struct {
	Option   Option
	Schedule projection.Schedule
	Today    *quote.Receipt // what is taken in the first month; nil when nothing serves
	Coverage []coverage.Cell
	Forced   []int // indices into Coverage: musts that force the plan taken in the first month
	Standing fit.Standing
	DaysOld  int
	Stale    bool
	AtFault  bool // it cannot be computed; the faults of the outcome say why

	candidate projection.Candidate // what was projected
}

// Prices quotes every plan on every term in the first month; none where the option
// cannot be computed. It is worked out each time that it is asked for.
func (r *Result) Prices() []quote.Receipt {
	if r.AtFault {
		return nil
	}
	prices, err := projection.Preview(r.candidate, 0)
	if err != nil {
		panic(err) // it was compiled before
	}
	return prices
}

// In reports whether the option is in the running: no gate puts it out.
func (r *Result) In() bool { return len(r.Standing.Out) == 0 }

// Lead is a run of months in which one option costs least.
type Lead struct {
	From, To int // months, both included
	Result   int
}

// Month returns the calendar month t of the study.
func (s *Study) Month(t int) usage.Month { return s.Start.Plus(t) }

// Ranked returns the results by fit.
func (o *Outcome) Ranked() []*Result {
	ranked := make([]*Result, len(o.Order))
	for i, at := range o.Order {
		ranked[i] = &o.Results[at]
	}
	return ranked
}

// Result finds an option's result by its key.
func (o *Outcome) Result(key string) (*Result, bool) {
	for i := range o.Results {
		if o.Results[i].Option.Key == key {
			return &o.Results[i], true
		}
	}
	return nil, false
}
