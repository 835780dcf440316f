package document

import (
	"fmt"
	"strings"
	"unicode/utf8"
)

// Fault is one thing wrong with a file.
type Fault struct {
	Line    int    `json:"line"`
	Field   string `json:"field"`
	Problem string `json:"problem"`
}

func (f Fault) String() string {
	if f.Field == "" {
		return fmt.Sprintf("line %d: %s", f.Line, f.Problem)
	}
	return fmt.Sprintf("line %d, %s: %s", f.Line, f.Field, f.Problem)
}

// Faults is the error of a file that was refused. It is never empty. Of very
// many the first are told, and the last one says how many more there are.
type Faults []Fault

func (f Faults) Error() string {
	lines := make([]string, len(f))
	for i, fault := range f {
		lines[i] = fault.String()
	}
	return strings.Join(lines, "\n")
}

// What is told of a file at fault: so many faults, each with a field and a
// problem of so many characters.
const (
	MostFaults     = 100
	LongestField   = 160
	LongestProblem = 300
)

// Gathering collects the faults of a file. The zero value is ready for use.
type Gathering struct {
	told   Faults
	beyond int // that are not told
	line   int // of the first of those
}

// Add notes a fault; it is put into words only where it will be told.
func (g *Gathering) Add(line int, field, format string, a ...any) {
	if g.Full() {
		if g.beyond == 0 {
			g.line = line
		}
		g.beyond++
		return
	}
	g.told = append(g.told, Fault{line, Shorten(field, LongestField), Shorten(fmt.Sprintf(format, a...), LongestProblem)})
}

// Full reports whether no more faults are told: those that follow are counted.
func (g *Gathering) Full() bool { return len(g.told) == MostFaults }

// Count returns how many faults there are, told or not.
func (g *Gathering) Count() int { return len(g.told) + g.beyond }

// Err returns the faults; nil where there are none.
func (g *Gathering) Err() error {
	switch {
	case len(g.told) == 0:
		return nil
	case g.beyond == 0:
		return g.told
	case g.beyond == 1:
		return append(g.told, Fault{g.line, "", "from here on there is one fault more"})
	}
	return append(g.told, Fault{g.line, "", fmt.Sprintf("from here on there are %d faults more", g.beyond)})
}

// Shorten cuts a text past so many characters.
func Shorten(s string, most int) string {
	if len(s) <= most || utf8.RuneCountInString(s) <= most {
		return s
	}
	return string([]rune(s[:min(len(s), 4*most)])[:most]) + "…"
}
