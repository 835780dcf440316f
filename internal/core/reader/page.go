// Package reader turns a price page, as it was pasted or brought, into a draft of a
// price list. Every figure of the draft says which words of the page it was read from
// and how sure that is; every number of the page is used or told as left over.
//
// It reads by rules: the page becomes lines in boxes and tables, lines become figures
// between words, and what stands around a figure tells what it is. What no rule knows is
// left over, never guessed at silently.
package reader

import (
	"strings"
)

// Kind tells what a node of a page is.
type Kind int

// The kinds of node.
const (
	Text    Kind = iota // a run of words
	Block               // a box of its own: a paragraph, a card
	Heading             // a block that names what follows
	Break               // a new line
	Table               // holds rows
	Row                 // holds cells
	Cell
)

// Node is a piece of a page: words, or a box of pieces.
type Node struct {
	Kind   Kind
	Level  int    // of a heading: 1 to 6
	Text   string // of words
	Struck bool   // words that are crossed out
	Nodes  []Node
}

// Line is one line of a page's words.
type Line struct {
	Text    string
	Heading int // its level; 0: none
	box     int
	cell    *cell // of the table that it stands in; nil: none
	row     int   // of that table
	column  int
	struck  [][2]int // what is crossed out, as bytes of Text
}

// cell is a cell of a table by its lines.
type cell struct{ lines []int }

// grid is a table of a page.
type grid struct {
	rows  [][]*cell
	box   int
	after int // the line before which it stands
}

// layout is a page as lines in boxes and tables.
type layout struct {
	lines []Line
	boxes []int // the box around each box; that around the page is -1
	grids []*grid
}

// mostLines and mostLong bound what is read of a page.
const (
	mostLines = 20_000
	mostLong  = 2_000 // characters of a line
)

// laid lays out a page.
func laid(page Node) *layout {
	l := &layout{boxes: []int{-1}}
	f := &flow{layout: l}
	f.nodes(page.Nodes, 0, 0, false)
	f.end(0, 0)
	return l
}

// flow gathers the words of a line.
type flow struct {
	*layout
	text   strings.Builder
	struck [][2]int
	in     *cell
	at     [2]int
}

// end ends the line that is being gathered.
func (f *flow) end(box, heading int) {
	whole := f.text.String()
	f.text.Reset()
	struck := f.struck
	f.struck = nil
	text := strings.TrimRight(whole, " ")
	if text == "" || len(f.lines) >= mostLines {
		return
	}
	if len(text) > mostLong {
		text = strings.ToValidUTF8(text[:mostLong], "")
	}
	line := Line{Text: text, Heading: heading, box: box, cell: f.in, row: f.at[0], column: f.at[1]}
	for _, s := range struck {
		if s[1] <= len(text) {
			line.struck = append(line.struck, s)
		}
	}
	if f.in != nil {
		f.in.lines = append(f.in.lines, len(f.lines))
	}
	f.lines = append(f.lines, line)
}

// words adds words to the line, with one space between them.
func (f *flow) words(text string, struck bool) {
	from := f.text.Len()
	for _, r := range text {
		if r == '\n' || r == '\t' || r == '\r' || r == ' ' || r < ' ' {
			if s := f.text.String(); s == "" || strings.HasSuffix(s, " ") {
				continue
			}
			r = ' '
		}
		if f.text.Len() < mostLong {
			f.text.WriteRune(r)
		}
	}
	if struck && f.text.Len() > from {
		f.struck = append(f.struck, [2]int{from, f.text.Len()})
	}
}

func (f *flow) nodes(nodes []Node, box, heading int, struck bool) {
	for i := range nodes {
		n := &nodes[i]
		switch n.Kind {
		case Text:
			f.words(n.Text, struck || n.Struck)
		case Break:
			f.end(box, heading)
		case Table:
			f.end(box, heading)
			f.table(n, box)
		default:
			f.end(box, heading)
			inner := len(f.boxes)
			f.boxes = append(f.boxes, box)
			level := heading
			if n.Kind == Heading {
				level = n.Level
			}
			f.nodes(n.Nodes, inner, level, struck || n.Struck)
			f.end(inner, level)
		}
	}
}

// table lays out a table. Cells of tables inside it are words of its own cells.
func (f *flow) table(n *Node, box int) {
	inner := len(f.boxes)
	f.boxes = append(f.boxes, box)
	g := &grid{box: inner, after: len(f.lines)}
	outer, place := f.in, f.at
	for r := range n.Nodes {
		var row []*cell
		for c := range n.Nodes[r].Nodes {
			if outer == nil {
				f.in, f.at = &cell{}, [2]int{r, c}
				row = append(row, f.in)
			}
			within := len(f.boxes)
			f.boxes = append(f.boxes, inner)
			f.nodes(n.Nodes[r].Nodes[c].Nodes, within, 0, false)
			f.end(within, 0)
		}
		g.rows = append(g.rows, row)
	}
	f.in, f.at = outer, place
	if outer == nil && len(g.rows) > 0 {
		f.grids = append(f.grids, g)
	}
}

// inside reports whether a box is another one or lies in it.
func (l *layout) inside(box, outer int) bool {
	for ; box >= 0; box = l.boxes[box] {
		if box == outer {
			return true
		}
	}
	return false
}
