// Command ninecoins serves the application, and quotes and projects price
// lists from the console.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"os/signal"
	"syscall"

	"ninecoins/internal/formats"
	"ninecoins/internal/localpg"
)

const usageText = `Nine Coins compares marketing platforms by what they will cost and how they fit.

  ninecoins serve    serve the application (./start does this with the demo)
  ninecoins quote    price the plans of price lists at one month's usage
  ninecoins project  follow price lists month by month
  ninecoins sweep    follow price lists along a driver, with every step and crossing
  ninecoins read     read a price page into a draft of a price list
  ninecoins outcome  compute a study, and write all that follows as JSON
  ninecoins import   bring price lists, studies or a workspace into the database
  ninecoins export   write a whole workspace as one file
  ninecoins demo     bring the example, Marl & Thistle, into the database

ninecoins COMMAND -h tells more of each.
Exit codes: 0 done, 1 something failed, 2 the input is at fault.
`

// command is what a word on the command line does.
type command func(ctx context.Context, args []string, out, errs io.Writer) error

var commands = map[string]command{"serve": serve, "quote": quoteCommand, "project": projectCommand, "sweep": sweepCommand, "outcome": outcomeCommand, "read": readCommand,
	"import": importCommand, "export": exportCommand, "demo": demoCommand}

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	os.Exit(run(ctx, os.Args[1:], os.Stdout, os.Stderr))
}

// errInput is a command line at fault.
type errInput struct{ text string }

func (e errInput) Error() string { return e.text }

// run runs one command and returns its exit code.
func run(ctx context.Context, args []string, out, errs io.Writer) int {
	if len(args) == 0 {
		fmt.Fprint(errs, usageText)
		return 2
	}
	with, ok := commands[args[0]]
	if !ok {
		if args[0] == "help" || args[0] == "-h" || args[0] == "--help" {
			fmt.Fprint(out, usageText)
			return 0
		}
		fmt.Fprintf(errs, "ninecoins: there is no command %q\n\n%s", args[0], usageText)
		return 2
	}
	err := with(ctx, args[1:], out, errs)
	var faults formats.Faults
	var input errInput
	var problem *localpg.Problem
	switch {
	case err == nil || errors.Is(err, flag.ErrHelp):
		return 0
	case errors.As(err, &faults):
		fmt.Fprintln(errs, err)
		return 2
	case errors.As(err, &input):
		fmt.Fprintln(errs, "ninecoins:", err)
		return 2
	case errors.As(err, &problem):
		fmt.Fprintln(errs, problem)
		return 1
	}
	fmt.Fprintln(errs, "ninecoins:", err)
	return 1
}

// flags makes a flag set that reports to errs and does not end the program.
func flags(name, about string, errs io.Writer) *flag.FlagSet {
	f := flag.NewFlagSet(name, flag.ContinueOnError)
	f.SetOutput(errs)
	f.Usage = func() {
		fmt.Fprintf(errs, "%s\n\n", about)
		f.PrintDefaults()
	}
	return f
}

// parseFlags reads the flags; what cannot be read is the input's fault.
func parseFlags(f *flag.FlagSet, args []string) error {
	err := f.Parse(args)
	if err != nil && !errors.Is(err, flag.ErrHelp) {
		return errInput{err.Error()}
	}
	return err
}
