package main

import (
	"context"
	"fmt"
	"io"
	"path/filepath"
	"slices"
	"strings"
	"text/tabwriter"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/formats"
)

// The JSON of a sweep: amounts are decimal text, tax left out, offers that end left out.
type sweepJSON struct {
	Driver   string       `json:"driver"`
	Parts    int64        `json:"parts"` // of one, in which values of the driver are counted
	From     int64        `json:"from"`
	To       int64        `json:"to"`
	Currency string       `json:"currency"`
	Regions  []regionJSON `json:"regions"`
	Crosses  []crossJSON  `json:"crosses"`
	Whole    bool         `json:"whole"` // every value was settled; else runs go by their first
	Lines    []sweptJSON  `json:"lines"`
}

// regionJSON is a run of values at which the same list costs least.
type regionJSON struct {
	From  int64   `json:"from"`
	To    int64   `json:"to"`
	Least *string `json:"least"` // platform; null: none serves
	// Platforms that cost the same there or, where apart is not 0, take turns with it and
	// are so far apart a month at most.
	Level []string     `json:"level"`
	Apart money.Amount `json:"apart"`
}

// crossJSON is a run of values at which two lists stand to each other as they do not before.
type crossJSON struct {
	From  int64        `json:"from"`
	To    int64        `json:"to"`
	Of    [2]string    `json:"of"`
	Less  *string      `json:"less"`  // which costs less there; null: neither, or one serves nothing
	How   string       `json:"how"`   // less, same, turns or unserved
	Apart money.Amount `json:"apart"` // a month at most, where they take turns
}

type sweptJSON struct {
	Platform string     `json:"platform"`
	Sloped   bool       `json:"sloped"` // packs begin too often to be told one by one
	Turns    []turnJSON `json:"turns"`
}

// turnJSON is a value from which on the price takes another course.
type turnJSON struct {
	At     int64         `json:"at"`
	Before *money.Amount `json:"before"` // a month, one below; null: nothing serves
	After  *money.Amount `json:"after"`
	Plan   string        `json:"plan"`
}

// sweepCommand follows price lists along a driver.
func sweepCommand(ctx context.Context, args []string, out, errs io.Writer) error {
	in := &computeInput{pay: projection.Monthly}
	f := flags("sweep", "ninecoins sweep -usage USAGE.json PRICES.json …: what each list costs a month along a driver, with every step and crossing.", errs)
	usageFile := f.String("usage", "", "usage file (required)")
	along := f.String("along", "contacts", "the driver that is followed")
	from, to := f.Int64("from", 1, "its first value"), f.Int64("to", 100_000, "its last value")
	parts := f.Int64("parts", 1, "in how many parts of one its values are counted: with 100, -to 50 is 0.5 of a share")
	f.IntVar(&in.month, "month", 1, "month of the usage in which the other drivers are held, from 1")
	pay := f.String("pay", "monthly", "terms to take: monthly, yearly, or mix for whatever costs least a month")
	into := f.String("currency", "", "compare in this currency; lists in others need -rate")
	rates := map[string]quote.Rate{}
	f.Func("rate", "rate of a currency, such as GBP=1.17: units of -currency for one", func(s string) error {
		code, text, ok := strings.Cut(s, "=")
		rate, err := money.ParseAmount(text)
		if !ok || err != nil || rate <= 0 {
			return fmt.Errorf("%q is not of the form GBP=1.17", s)
		}
		rates[code] = quote.Rate{Rate: rate, On: time.Now()}
		return nil
	})
	f.BoolVar(&in.asJSON, "json", false, "write JSON, not a table")
	f.BoolVar(&in.asCSV, "csv", false, "write CSV, a line for each turn")
	if err := parseFlags(f, args); err != nil {
		return err
	}
	in.pay = projection.Policy(*pay)
	switch {
	case *usageFile == "" || f.NArg() == 0:
		return errInput{"sweep needs a usage file and price lists: ninecoins sweep -usage USAGE.json PRICES.json …"}
	case in.pay != projection.Monthly && in.pay != projection.Yearly && in.pay != projection.Mix:
		return errInput{fmt.Sprintf("-pay %q is none of monthly, yearly and mix", *pay)}
	case in.month < 1 || in.month > study.MostMonths:
		return errInput{fmt.Sprintf("-month %d is not between 1 and %d", in.month, study.MostMonths)}
	case !slices.Contains([]int64{1, 10, 100, 1000}, *parts):
		return errInput{fmt.Sprintf("-parts %d is none of 1, 10, 100 and 1000", *parts)}
	case *from < 0 || *to <= *from || *to > study.MostAlong:
		return errInput{fmt.Sprintf("-from %d -to %d: values go from 0 up to %d", *from, *to, study.MostAlong)}
	}
	if err := in.read(ctx, *usageFile, f.Args()); err != nil {
		return err
	}
	if err := in.settable(*along); err != nil {
		return errInput{fmt.Sprintf("-along: %v", err)}
	}
	currency := in.lists[0].Currency
	if *into != "" {
		var err error
		if currency, err = money.ParseCurrency(*into); err != nil {
			return errInput{fmt.Sprintf("-currency: %v", err)}
		}
	}
	bidders, err := in.bidders(quote.Basis{Currency: currency, Rates: rates})
	if err != nil {
		return err
	}
	s, err := projection.NewSweep(currency, bidders, projection.Along(ctx, in.usage.Model, in.month-1, projection.Axis{Driver: *along, Parts: *parts}), *from, *to)
	if err != nil {
		return errInput{err.Error()}
	}
	return in.writeSweep(out, s, projection.Axis{Driver: *along, Parts: *parts}, currency, bidders)
}

// bidders are the lists with the programs that the way of paying takes.
func (in *computeInput) bidders(basis quote.Basis) (all []projection.Bidder, err error) {
	for _, e := range in.lists {
		c := projection.Candidate{Edition: e, Policy: in.pay, Basis: basis, Customer: quote.Customer{Sign: study.FirstDay(in.usage.Start)}}
		if err := c.Compile(); err != nil {
			return nil, errInput{err.Error()}
		}
		bid := projection.Bid{Edition: e}
		for _, p := range c.Programs {
			if c.Takes(p.Plan, p.Term) && p.Leads(false) {
				bid.Programs = append(bid.Programs, p)
			} else if reason := barred(p); reason != "" {
				return nil, errInput{fmt.Sprintf("%s: %s", filepath.Base(e.Platform.Key), reason)}
			}
		}
		bid.Programs = projection.Steady(bid.Programs)
		all = append(all, projection.Bidder{Tools: []projection.Bid{bid}})
	}
	return all, nil
}

// barred is why no price of a program can be told at all: a rate that is not known.
func barred(p *tariff.Program) string {
	at := slices.IndexFunc(p.Barred, func(r quote.Reason) bool { return r.Kind == quote.NoRate })
	if at < 0 {
		return ""
	}
	return p.Barred[at].String()
}

func (in *computeInput) writeSweep(out io.Writer, s *projection.Sweep, along projection.Axis, currency money.Currency, bidders []projection.Bidder) error {
	named := func(i int) *string {
		if i < 0 {
			return nil
		}
		return &in.lists[i].Platform.Key
	}
	value := func(x int64) string { return usage.Quantity(x * int64(usage.One) / along.Parts).String() }
	all := sweepJSON{Driver: along.Driver, Parts: along.Parts, From: s.Low, To: s.High, Currency: currency.Code(), Whole: s.Whole, Regions: []regionJSON{}, Crosses: []crossJSON{}, Lines: []sweptJSON{}}
	for _, r := range s.Regions {
		one := regionJSON{From: r.From, To: r.To, Least: named(r.Least), Level: []string{}, Apart: money.Amount(r.Apart * currency.Minor())}
		for _, i := range r.Beside {
			one.Level = append(one.Level, *named(i))
		}
		all.Regions = append(all.Regions, one)
	}
	var lines, held []formats.SweepLine
	hows := map[int]string{projection.Same: "same", projection.Turning: "turns", projection.Unserved: "unserved"}
	for _, p := range s.Pairs {
		for _, run := range p.Runs {
			one := crossJSON{From: run.From, To: run.To, Of: [2]string{*named(p.A), *named(p.B)}, Less: named(run.Less), How: hows[run.Less], Apart: money.Amount(run.Apart * currency.Minor())}
			if one.How == "" {
				one.How = "less"
			}
			if all.Crosses = append(all.Crosses, one); run.Less == projection.Unserved {
				continue
			}
			line := formats.SweepLine{At: value(run.From), To: value(run.To), Option: one.Of[0], Other: one.Of[1], Stands: "same as"}
			switch {
			case run.Less == p.B:
				line.Option, line.Other, line.Stands = one.Of[1], one.Of[0], "less than"
			case run.Less == p.A:
				line.Stands = "less than"
			case run.Less == projection.Turning:
				line.Stands, line.Apart = "takes turns with", &one.Apart
			}
			held = append(held, line)
		}
	}
	for i, line := range s.Lines {
		one := sweptJSON{Platform: in.lists[i].Platform.Key, Sloped: line.Sloped, Turns: []turnJSON{}}
		for _, t := range line.Turns {
			turn := turnJSON{At: t.X}
			if t.Served {
				turn.Before = &t.Before
			}
			if t.Serves {
				turn.After, turn.Plan = &t.After, bidders[i].Tools[0].Programs[t.Program].Plan.Key
			}
			one.Turns = append(one.Turns, turn)
			lines = append(lines, formats.SweepLine{At: value(t.X), Option: one.Platform, Plan: turn.Plan, PerMonth: turn.After})
		}
		all.Lines = append(all.Lines, one)
	}
	for _, r := range all.Regions {
		if r.Least != nil {
			lines = append(lines, formats.SweepLine{At: value(r.From), To: value(r.To), Option: *r.Least, Stands: "costs least"})
		}
	}
	lines = append(lines, held...)
	switch {
	case in.asJSON:
		return writeJSON(out, all)
	case in.asCSV:
		text, err := formats.WriteSweep(along.Driver, lines)
		if err == nil {
			_, err = out.Write(text)
		}
		return err
	}
	t := tabwriter.NewWriter(out, 0, 0, 2, ' ', tabwriter.AlignRight)
	fmt.Fprintf(t, "FROM\tTO\tCOSTS LEAST\t\n")
	for _, r := range all.Regions {
		name := "nothing serves"
		if r.Least != nil {
			name = *r.Least
		}
		switch {
		case r.Apart > 0:
			name = fmt.Sprintf("%s and %s take turns, at most %s apart", name, strings.Join(r.Level, ", "), r.Apart)
		case len(r.Level) > 0:
			name += ", level with " + strings.Join(r.Level, ", ")
		}
		fmt.Fprintf(t, "%s\t%s\t%s\t\n", value(r.From), value(r.To), name)
	}
	fmt.Fprintf(t, "\nFROM\tTO\tTWO HELD AGAINST EACH OTHER\t\n")
	for _, c := range all.Crosses {
		text := map[string]string{"same": "%s and %s cost the same", "turns": "%s and %s take turns", "unserved": "%s or %s serves nothing", "less": "%s costs less than %s"}[c.How]
		a, b := c.Of[0], c.Of[1]
		if c.Less != nil && *c.Less == b {
			a, b = b, a
		}
		if text = fmt.Sprintf(text, a, b); c.Apart > 0 {
			text += fmt.Sprintf(", at most %s apart", c.Apart)
		}
		fmt.Fprintf(t, "%s\t%s\t%s\t\n", value(c.From), value(c.To), text)
	}
	for _, line := range all.Lines {
		fmt.Fprintf(t, "\n%s\tFROM\tPLAN\t%s A MONTH\t\n", line.Platform, all.Currency)
		for _, turn := range line.Turns {
			price := "nothing serves"
			if turn.After != nil {
				price = turn.After.String()
			}
			fmt.Fprintf(t, "\t%s\t%s\t%s\t\n", value(turn.At), turn.Plan, price)
		}
	}
	return t.Flush()
}
