package main

import (
	"context"
	"fmt"
	"io"
	"path/filepath"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/reader"
	"ninecoins/internal/formats"
)

// readJSON is what was read of a page, with the words that each figure was read from.
type readJSON struct {
	Draft  jsonText    `json:"draft"`
	Claims []claimJSON `json:"claims"`
	Left   []leftJSON  `json:"left_over"`
	Lines  []string    `json:"lines"`
}

type claimJSON struct {
	Path  string     `json:"path"`
	Value string     `json:"value"`
	Mark  string     `json:"mark"`
	Why   string     `json:"why,omitempty"`
	From  []spanJSON `json:"from"`
}

type spanJSON struct {
	Line int    `json:"line"` // from 1
	From int    `json:"from"` // bytes of the line
	To   int    `json:"to"`
	Text string `json:"text"`
}

type leftJSON struct {
	spanJSON
	In string `json:"in"`
}

// jsonText is JSON that is written as it is.
type jsonText string

func (j jsonText) MarshalJSON() ([]byte, error) { return []byte(j), nil }

func readCommand(_ context.Context, args []string, out, errs io.Writer) error {
	f := flags("read", "ninecoins read PAGE: reads a price page (HTML, text, or a table of tabs or commas) into a draft of a price list, as JSON.\n"+
		"What each figure was read from, how sure that is and what is left over is told beside it.", errs)
	asJSON := f.Bool("json", false, "write all of it as JSON, the draft with marks and what is left over")
	name := f.String("platform", "", "the name of the platform; without it, the file's")
	day := f.String("on", "", "the day on which the page was read, such as 2026-11-26; without it, today")
	if err := parseFlags(f, args); err != nil {
		return err
	}
	if f.NArg() != 1 {
		return errInput{"read needs one page: ninecoins read PAGE.html"}
	}
	on := time.Now().UTC().Truncate(24 * time.Hour)
	if *day != "" {
		d, err := time.Parse(time.DateOnly, *day)
		if err != nil {
			return errInput{fmt.Sprintf("-on %q is no day such as 2026-11-26", *day)}
		}
		on = d
	}
	data, err := readFile(f.Arg(0))
	if err != nil {
		return err
	}
	page, err := formats.ParsePage(data)
	if err != nil {
		return errInput{fmt.Sprintf("%s: %v", filepath.Base(f.Arg(0)), err)}
	}
	if *name == "" {
		*name = strings.TrimSuffix(filepath.Base(f.Arg(0)), filepath.Ext(f.Arg(0)))
	}
	platform := pricelist.Platform{Key: document.KeyFor(*name, func(string) bool { return false }), Name: *name, Does: []string{}}
	r := reader.Page(page, platform, on, "price page, "+filepath.Base(f.Arg(0)))
	draft, err := formats.WritePriceList(&r.Edition)
	if err != nil {
		return err
	}
	if *asJSON {
		return writeJSON(out, readingJSON(r, draft))
	}
	tell(errs, r)
	_, err = out.Write(draft)
	return err
}

func readingJSON(r *reader.Reading, draft []byte) readJSON {
	all := readJSON{Draft: jsonText(draft), Claims: []claimJSON{}, Left: []leftJSON{}, Lines: []string{}}
	span := func(s reader.Span) spanJSON {
		return spanJSON{s.Line + 1, s.From, s.To, r.Lines[s.Line].Text[s.From:s.To]}
	}
	for _, c := range r.Claims {
		one := claimJSON{Path: string(c.Path), Value: c.Value, Mark: string(c.Mark), Why: c.Why}
		for _, s := range c.Spans {
			one.From = append(one.From, span(s))
		}
		all.Claims = append(all.Claims, one)
	}
	for _, l := range r.Left {
		all.Left = append(all.Left, leftJSON{span(l.Span), r.Lines[l.Line].Text})
	}
	for _, l := range r.Lines {
		all.Lines = append(all.Lines, l.Text)
	}
	return all
}

// tell writes marks and leftovers for people.
func tell(errs io.Writer, r *reader.Reading) {
	if r.Foreign {
		fmt.Fprintln(errs, "The page is in a language that is not read here; all of its figures are left over.")
	}
	for _, c := range r.Claims {
		from := make([]string, len(c.Spans))
		for i, s := range c.Spans {
			from[i] = fmt.Sprintf("%q", r.Lines[s.Line].Text[s.From:s.To])
		}
		why := ""
		if c.Why != "" {
			why = ": " + c.Why
		}
		fmt.Fprintf(errs, "%-8s %s = %s, from %s%s\n", c.Mark, c.Path, c.Value, strings.Join(from, " and "), why)
	}
	for _, l := range r.Left {
		fmt.Fprintf(errs, "left     %q, line %d: %s\n", l.Text, l.Line+1, r.Lines[l.Line].Text)
	}
}
