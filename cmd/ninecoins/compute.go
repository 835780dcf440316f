package main

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"text/tabwriter"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/formats"
)

// computeInput is what quote and project are given.
type computeInput struct {
	lists  []*pricelist.Edition
	usage  *formats.Usage
	months int
	pay    projection.Policy
	asJSON bool
	asCSV  bool
	grows  usage.Case
	plan   string
	month  int
	here   bool
	musts  []string
	rows   string // file of many usages; "" for the usage of one month
}

func readCompute(ctx context.Context, name, about string, args []string, errs io.Writer) (*computeInput, error) {
	in := &computeInput{months: 36}
	f := flags(name, about, errs)
	usageFile := f.String("usage", "", "usage file (required)")
	pay := f.String("pay", "monthly", "terms to take: monthly, yearly, or mix for the cheapest way through the months")
	grows := f.String("case", "expected", "case of growth: low, expected or high")
	f.IntVar(&in.months, "months", 36, "months to follow, 1 to 120 (project)")
	f.IntVar(&in.month, "month", 1, "month of the usage to price, from 1 (quote)")
	f.StringVar(&in.rows, "rows", "", "CSV of many usages, - for standard input: a column for each driver that differs; writes CSV (quote)")
	f.StringVar(&in.plan, "plan", "", "only this plan (quote)")
	f.BoolVar(&in.asJSON, "json", false, "write JSON, not a table")
	f.BoolVar(&in.asCSV, "csv", false, "write CSV, a line a month (project)")
	f.BoolVar(&in.here, "here", false, "a customer already: closed plans may be kept, offers for new customers do not count")
	f.Func("must", "feature that a plan must have, such as automation/event-triggers; may stand more than once", func(s string) error {
		in.musts = append(in.musts, s)
		return nil
	})
	if err := parseFlags(f, args); err != nil {
		return nil, err
	}
	in.pay = projection.Policy(*pay)
	var known bool
	if in.grows, known = caseOf(*grows); !known {
		return nil, errInput{fmt.Sprintf("-case %q is none of low, expected and high", *grows)}
	}
	switch {
	case *usageFile == "" || f.NArg() == 0:
		return nil, errInput{fmt.Sprintf("%s needs a usage file and price lists: ninecoins %s -usage USAGE.json PRICES.json …", name, name)}
	case in.pay != projection.Monthly && in.pay != projection.Yearly && in.pay != projection.Mix:
		return nil, errInput{fmt.Sprintf("-pay %q is none of monthly, yearly and mix", *pay)}
	case in.months < 1 || in.months > study.MostMonths || in.month < 1 || in.month > study.MostMonths:
		return nil, errInput{fmt.Sprintf("months go from 1 to %d", study.MostMonths)}
	}
	return in, in.read(ctx, *usageFile, f.Args())
}

// read reads all files, so that the faults of all are told at once.
func (in *computeInput) read(ctx context.Context, usageFile string, lists []string) error {
	var faults formats.Faults
	gather := func(file string, err error) error {
		var found formats.Faults
		if !errors.As(err, &found) {
			return err
		}
		for _, one := range found {
			one.Problem = filepath.Base(file) + ": " + one.Problem
			faults = append(faults, one)
		}
		return nil
	}
	data, err := readFile(usageFile)
	if err == nil {
		in.usage, err = formats.ReadUsage(ctx, data, time.Now())
	}
	if err := gather(usageFile, err); err != nil {
		return err
	}
	if in.usage != nil && len(faults) == 0 {
		if in.usage.Model, err = in.usage.Usage.Model(in.grows); err != nil {
			return errInput{filepath.Base(usageFile) + ": " + err.Error()}
		}
	}
	for _, file := range lists {
		data, err := readFile(file)
		var e *pricelist.Edition
		if err == nil {
			e, err = formats.ReadPriceList(ctx, data, time.Now())
		}
		if err := gather(file, err); err != nil {
			return err
		}
		in.lists = append(in.lists, e)
	}
	if len(faults) > 0 {
		return faults
	}
	return nil
}

// caseOf is a case of growth by its name.
func caseOf(name string) (usage.Case, bool) {
	for _, c := range usage.Cases() {
		if c.Say() == name {
			return c, true
		}
	}
	return "", false
}

// readFile reads a file of at most the size that the formats take.
func readFile(name string) ([]byte, error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, errInput{err.Error()}
	}
	defer f.Close()
	data, err := io.ReadAll(io.LimitReader(f, formats.MostWorkspaceBytes+1))
	if err != nil {
		return nil, errInput{err.Error()}
	}
	return data, nil
}

// candidate sets a price list against the usage of the first n months.
func (in *computeInput) candidate(e *pricelist.Edition, n int) (projection.Candidate, error) {
	values, err := in.usage.Model.Columns(n)
	if err != nil {
		return projection.Candidate{}, errInput{err.Error()}
	}
	rows, err := tariff.Read(e, values)
	if at := (*usage.RowError)(nil); errors.As(err, &at) {
		return projection.Candidate{}, errInput{fmt.Sprintf("month %d: %v", at.Row+1, at.Err)}
	}
	return projection.Candidate{Edition: e, Rows: rows, Policy: in.pay, Musts: in.musts,
		Customer: quote.Customer{Here: in.here, Sign: study.FirstDay(in.usage.Start)}, Basis: quote.Basis{Currency: e.Currency}}, nil
}

// The JSON of quotes and projections: amounts are decimal text in the list's
// currency, tax left out.
type quoteJSON struct {
	Platform string       `json:"platform"`
	Plan     string       `json:"plan"`
	Term     string       `json:"term"`
	Currency string       `json:"currency"`
	Period   int          `json:"period_months"` // -1 for life
	Bill     money.Amount `json:"bill"`
	Used     money.Amount `json:"used_this_month"`
	Once     money.Amount `json:"once_at_signing"`
	AddOns   []string     `json:"add_ons"`
	PerMonth money.Amount `json:"per_month"`
	Serves   bool         `json:"serves"`
	Reasons  []string     `json:"reasons"`
	Lines    []lineJSON   `json:"lines"`
}

type lineJSON struct {
	Label    string         `json:"label"`
	Kind     string         `json:"kind"`
	Quantity usage.Quantity `json:"quantity"`
	Months   int            `json:"months"`
	Amount   money.Amount   `json:"amount"`
}

func quoteCommand(ctx context.Context, args []string, out, errs io.Writer) error {
	in, err := readCompute(ctx, "quote", "ninecoins quote -usage USAGE.json PRICES.json …: prices every plan on every term at one month's usage.", args, errs)
	if err != nil {
		return err
	}
	if in.rows != "" {
		return in.quoteRows(ctx, out)
	}
	quotes := []quoteJSON{}
	for _, e := range in.lists {
		c, err := in.candidate(e, in.month)
		if err != nil {
			return err
		}
		receipts, err := projection.Preview(c, in.month-1)
		if err != nil {
			return errInput{err.Error()}
		}
		for i := range receipts {
			if in.plan == "" || receipts[i].Plan.Key == in.plan {
				quotes = append(quotes, newQuote(e, &receipts[i]))
			}
		}
	}
	if len(quotes) == 0 {
		return errInput{fmt.Sprintf("there is no plan %q in these lists", in.plan)}
	}
	if in.asJSON {
		return writeJSON(out, quotes)
	}
	t := tabwriter.NewWriter(out, 0, 0, 2, ' ', 0)
	fmt.Fprintln(t, "PLATFORM\tPLAN\tTERM\tPER MONTH\tBILL\tSTANDS")
	for _, q := range quotes {
		stands := "serves"
		if !q.Serves {
			stands = fmt.Sprint(q.Reasons)
		}
		covers := fmt.Sprint(q.Period)
		if q.Period == pricelist.Lifetime {
			covers = "life"
		}
		fmt.Fprintf(t, "%s\t%s\t%s\t%s %s\t%s for %s\t%s\n", q.Platform, q.Plan, q.Term, q.PerMonth, q.Currency, q.Bill, covers, stands)
	}
	return t.Flush()
}

func newQuote(e *pricelist.Edition, r *quote.Receipt) quoteJSON {
	q := quoteJSON{Platform: e.Platform.Key, Plan: r.Plan.Key, Term: r.Term.Key, Currency: e.Currency.Code(), Period: r.Period,
		Bill: r.Settled, Used: r.AsYou, Once: r.AtSigning, AddOns: append([]string{}, r.AddOns...), PerMonth: r.Monthly(), Serves: r.Serves(), Reasons: []string{}, Lines: []lineJSON{}}
	for _, reason := range r.Reasons {
		q.Reasons = append(q.Reasons, reason.String())
	}
	for _, l := range r.Lines {
		q.Lines = append(q.Lines, lineJSON{l.Label, string(l.Kind), l.Quantity, l.Months, l.Amount})
	}
	return q
}

type projectionJSON struct {
	Platform string       `json:"platform"`
	Currency string       `json:"currency"`
	Total    money.Amount `json:"total"`
	Owed     money.Amount `json:"owed"` // paid, or still owed, for months past the horizon
	Serves   bool         `json:"serves"`
	Reasons  []string     `json:"reasons"`
	Months   []monthJSON  `json:"months"`
	Steps    []stepJSON   `json:"steps"`
}

type monthJSON struct {
	Month    string         `json:"month"`
	Plan     string         `json:"plan"`
	Term     string         `json:"term"`
	Accrued  money.Amount   `json:"per_month"`
	Running  money.Amount   `json:"running_total"`
	Cash     money.Amount   `json:"cash_out"`
	Lost     money.Amount   `json:"lost"`
	Readings quote.Readings `json:"readings"`
}

type stepJSON struct {
	Month  string       `json:"month"`
	Plan   string       `json:"plan"`
	Change money.Amount `json:"change_per_month"`
	Why    string       `json:"why"`
}

func projectCommand(ctx context.Context, args []string, out, errs io.Writer) error {
	in, err := readCompute(ctx, "project", "ninecoins project -usage USAGE.json PRICES.json …: follows each list month by month on the cheapest plan that serves.", args, errs)
	if err != nil {
		return err
	}
	all := []projectionJSON{}
	for _, e := range in.lists {
		c, err := in.candidate(e, in.months)
		if err != nil {
			return err
		}
		s, err := projection.Project(c)
		if err != nil {
			return errInput{err.Error()}
		}
		all = append(all, newProjection(in.usage.Start, e, &s))
	}
	switch {
	case in.asJSON:
		return writeJSON(out, all)
	case in.asCSV:
		return writeMonths(out, all)
	}
	t := tabwriter.NewWriter(out, 0, 0, 2, ' ', tabwriter.AlignRight)
	for _, p := range all {
		fmt.Fprintf(t, "\n%s\t%s\tPLAN\tPER MONTH\tTOTAL\tCASH OUT\t\n", p.Platform, p.Currency)
		for _, m := range p.Months {
			fmt.Fprintf(t, "\t%s\t%s\t%s\t%s\t%s\t\n", m.Month, m.Plan, m.Accrued, m.Running, m.Cash)
		}
		for _, s := range p.Steps {
			fmt.Fprintf(t, "\t%s\t%s\t%s\t\t\t%s\n", s.Month, s.Plan, s.Change, s.Why)
		}
		for _, reason := range p.Reasons {
			fmt.Fprintf(t, "\t\t\t\t\t\tcannot serve: %s\n", reason)
		}
	}
	return t.Flush()
}

func newProjection(start usage.Month, e *pricelist.Edition, s *projection.Schedule) projectionJSON {
	p := projectionJSON{Platform: e.Platform.Key, Currency: e.Currency.Code(), Total: s.Total, Owed: s.Beyond, Serves: s.Serves(),
		Reasons: []string{}, Steps: []stepJSON{}}
	if len(s.Misses) > 0 { // of the plan that comes nearest
		for _, r := range s.Misses[0].Reasons {
			p.Reasons = append(p.Reasons, r.String())
		}
	}
	for t, m := range s.Months {
		one := monthJSON{Month: start.Plus(t).ISO(), Accrued: m.Accrued, Running: m.Running, Cash: m.Cash, Lost: m.Lost, Readings: m.Readings()}
		if m.Serves {
			one.Plan, one.Term = m.Plan().Key, m.Term().Key
		}
		p.Months = append(p.Months, one)
	}
	for _, step := range s.Steps {
		p.Steps = append(p.Steps, stepJSON{start.Plus(step.Month).ISO(), step.To.Key, step.Delta, step.Why()})
	}
	return p
}

// writeMonths writes a line for each month of each list.
func writeMonths(out io.Writer, all []projectionJSON) error {
	w := csv.NewWriter(out)
	_ = w.Write([]string{"month", "platform", "currency", "plan", "term", "per_month", "running_total", "cash_out", "lost"})
	for _, p := range all {
		for _, m := range p.Months {
			_ = w.Write([]string{m.Month, p.Platform, p.Currency, m.Plan, m.Term, m.Accrued.String(), m.Running.String(), m.Cash.String(), m.Lost.String()})
		}
	}
	w.Flush()
	return w.Error()
}

func writeJSON(out io.Writer, v any) error {
	e := json.NewEncoder(out)
	e.SetIndent("", "  ")
	return e.Encode(v)
}
