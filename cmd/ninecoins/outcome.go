package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"time"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/formats"
)

// outcomeCommand writes all that follows from a study, so that anybody can check
// it from outside.
func outcomeCommand(ctx context.Context, args []string, out, errs io.Writer) error {
	f := flags("outcome", "ninecoins outcome STUDY.json [PRICES.json …]: writes all that follows from a study as JSON (docs/formats/outcome.schema.json).", errs)
	asCSV := f.Bool("csv", false, "write what options cost month by month as CSV instead")
	simulate := f.Bool("spread", false, "simulate growth too, which takes a moment")
	day := f.String("today", "", "day that freshness counts to, such as 2026-11-24; without it today")
	if err := parseFlags(f, args); err != nil {
		return err
	}
	if f.NArg() == 0 {
		return errInput{"outcome needs a study and the price lists that it names: ninecoins outcome STUDY.json PRICES.json …"}
	}
	now := time.Now().UTC().Truncate(24 * time.Hour)
	if *day != "" {
		var err error
		if now, err = time.Parse(time.DateOnly, *day); err != nil {
			return errInput{fmt.Sprintf("-today %q is not a day such as 2026-11-24", *day)}
		}
	}
	lists := map[string]*pricelist.Edition{}
	for _, file := range f.Args()[1:] {
		e, err := readList(ctx, file, now)
		if err != nil {
			return err
		}
		lists[e.Platform.Key+pricelist.ReadText(e.ObservedOn)] = e
	}
	data, err := readFile(f.Arg(0))
	if err != nil {
		return err
	}
	st, err := formats.ReadStudy(ctx, data, now, func(platform string, on time.Time) (*pricelist.Edition, bool) {
		e, ok := lists[platform+on.Format(time.DateOnly)]
		return e, ok
	})
	if err != nil {
		return err
	}
	st.Today = now
	o, err := study.ComputeWithin(ctx, st)
	if err != nil {
		return err
	}
	if o.Panic != nil {
		return fmt.Errorf("working out %s: Nine Coins failed on it (%s); please pass the file on to whoever looks after the program", filepath.Base(f.Arg(0)), o.Panic.Cause())
	}
	if *simulate {
		if _, err := o.Spread(ctx, nil); err != nil && !errors.Is(err, study.ErrNoSpread) {
			return err
		}
	}
	write := formats.WriteOutcome
	if *asCSV {
		write = formats.WriteCosts
	}
	text, err := write(ctx, o)
	if err == nil {
		_, err = out.Write(text)
	}
	return err
}

// readList reads a price list; its faults name the file.
func readList(ctx context.Context, file string, today time.Time) (*pricelist.Edition, error) {
	data, err := readFile(file)
	if err != nil {
		return nil, err
	}
	e, err := formats.ReadPriceList(ctx, data, today)
	var faults formats.Faults
	if errors.As(err, &faults) {
		for i := range faults {
			faults[i].Problem = filepath.Base(file) + ": " + faults[i].Problem
		}
	}
	return e, err
}
