// Package study computes a whole study. [Compute] is the one door to the
// results: the pages, the command line and the tests all call it.
package study

import (
	"context"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/feature"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/core/work"
)

// The bounds of a study.
const (
	MostMonths  = 120
	MostOptions = 24
	MostTools   = 8 // of one option
)

// Study is everything that a comparison takes as given.
type Study struct {
	Key, Title, Company, Question string
	Brief                         Brief
	Currency                      money.Currency
	Start                         usage.Month
	Horizon                       int // months, 1 to 120
	Pay                           projection.Policy
	Case                          usage.Case   // of growth, that everything is computed in
	Budget                        money.Amount // for what [Brief.BudgetFor] says; 0 when none is set
	Patience                      int          // days after which an edition is stale
	Rates                         map[string]quote.Rate
	Drivers                       []Setting
	Own                           []usage.Driver // drivers beside the standard ones
	History                       []Record       // of drivers, as far as it was counted
	Needs                         []coverage.Need
	Options                       []Option
	Running                       []Running // what runs today
	Reasons                       []Reason  // why we look
	Connector                     Connector // what bridges go through
	Findings                      []Finding // what plans have, whatever their price lists say
	PrivateOffers                 []PrivateOffer
	Criteria                      []fit.Criterion
	Ratings                       []fit.Rating
	Today                         time.Time // the day that freshness is counted to
	// Names of raters, where ratings hold their keys; else a rater is named by
	// themselves.
	People map[string]string
	// What features are called and which mean the same; nil: as they ship.
	Catalogue *feature.Catalogue
}

// NameOf returns the name of who gave a rating.
func (s *Study) NameOf(rater string) string {
	if name, ok := s.People[rater]; ok {
		return name
	}
	return rater
}

// Outcome is everything that follows from a study. Results stand in the order
// of the line-up; Order lists their indices by fit.
type Outcome struct {
	Study   *Study
	Model   *usage.Model
	Values  usage.Columns // of every driver, a row a month
	Results []Result      // of the options that are not set aside
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

	Panic *work.Panic // where the program failed on the study; nil: nowhere

	within context.Context // while it is computed
	late   *late
	like   *Outcome // while it is computed: what was compiled for another case of growth
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
	Tools    []ToolResult // of what it is made of: one for a platform alone
	Schedule projection.Schedule
	Today    *quote.Receipt // what the first tool takes in the first month; nil when any has nothing that serves
	Coverage []coverage.Cell
	Has      []pricelist.Feature // what is had of each need on the plans taken in the first month
	Share    float64             // of the needs that is covered so, of 1: as far as is certain
	MayBe    float64             // and at most, once all is known
	Known    int                 // needs of which that is known
	Standing fit.Standing
	DaysOld  int // of the oldest price list
	Stale    bool
	AtFault  bool // it cannot be computed; the faults of the outcome say why

	forced *lately
}

// ToolResult is everything that follows for a tool of an option.
type ToolResult struct {
	Tool     Tool // with the price list as the study sees it
	Schedule projection.Schedule
	Today    *quote.Receipt // what is taken in the first month; nil when nothing serves
	Musts    []string       // features that this tool has to bring
	DaysOld  int

	candidate projection.Candidate // what was projected
}

// Force is a must without which an option would take a lower plan today.
type Force struct {
	Need    int // index into the coverage
	Tool    int
	Without *pricelist.Plan // that would be taken
	Saves   money.Amount    // a month
}

// Prices quotes every plan on every term in the first month; none where the option
// cannot be computed. It is worked out each time that it is asked for.
func (r *Result) Prices() []quote.Receipt {
	if r.AtFault || len(r.Tools) == 0 {
		return nil
	}
	return r.Tools[0].Prices()
}

// Prices quotes every plan of the tool on every term in the first month.
func (t *ToolResult) Prices() []quote.Receipt {
	prices, err := projection.Preview(t.candidate, 0)
	if err != nil {
		panic(err) // it was compiled before
	}
	return prices
}

// Takes is what the option takes today: the names of its plans; "" where nothing
// serves.
func (r *Result) Takes() string {
	if r.Today == nil {
		return ""
	}
	names := make([]string, len(r.Tools))
	for i := range r.Tools {
		names[i] = r.Tools[i].Today.Plan.Name
	}
	return strings.Join(names, " + ")
}

// Paid is how that is paid: "monthly", or "partly monthly, partly yearly" of a stack.
func (r *Result) Paid() string {
	return PaidIn(&r.Schedule.Months[0])
}

// PaidIn is how what is taken in a month that is served is paid.
func PaidIn(m *projection.Month) string {
	var ways []string
	for _, part := range m.Parts() {
		if way := SayTerm(part.Term()); !slices.Contains(ways, way) {
			ways = append(ways, way)
		}
	}
	if len(ways) == 1 {
		return ways[0]
	}
	return "partly " + strings.Join(ways, ", partly ")
}

// Rungs is how many plans the option's price lists have.
func (r *Result) Rungs() (n int) {
	for i := range r.Tools {
		n += len(r.Tools[i].Tool.Edition.Plans)
	}
	return n
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

// Candidate is what was projected of the tool.
func (t *ToolResult) Candidate() projection.Candidate { return t.candidate }
