package formats

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	pages "ninecoins/internal/core/reader"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// LargestPage is how many bytes of a price page are taken, and MostWords how many bytes
// of words.
const (
	LargestPage = 5 << 20
	MostWords   = 400 << 10
)

// ErrNoPage reports what is no page: not text, or empty.
var ErrNoPage = errors.New("there are no words in it")

// ParsePage turns a pasted or brought price page into a tree: HTML, a table whose cells
// are apart by tabs or commas, or plain text. Of HTML only the words are kept: no script,
// style, address or picture.
func ParsePage(data []byte) (page pages.Node, err error) {
	if page, err = parsePage(data); err == nil && words(page) > MostWords {
		err = fmt.Errorf("it holds more than %d KB of words; bring the part with the prices", MostWords>>10)
	}
	return page, err
}

// words counts the bytes of a page's words.
func words(n pages.Node) int {
	all := len(n.Text)
	for _, one := range n.Nodes {
		all += words(one)
	}
	return all
}

func parsePage(data []byte) (pages.Node, error) {
	if len(data) > LargestPage {
		return pages.Node{}, fmt.Errorf("it is longer than %d MB; bring the part with the prices", LargestPage>>20)
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	if bytes.IndexByte(data, 0) >= 0 {
		return pages.Node{}, errors.New("it is no text: save the page as HTML or as text and bring that")
	}
	text := strings.ToValidUTF8(string(data), "\ufffd")
	if strings.TrimSpace(text) == "" {
		return pages.Node{}, ErrNoPage
	}
	if looksLikeHTML(text) {
		return htmlPage(text)
	}
	if rows := tableRows(text); rows != nil {
		return pages.Node{Kind: pages.Block, Nodes: []pages.Node{tableNode(rows)}}, nil
	}
	return textPage(text), nil
}

func looksLikeHTML(text string) bool {
	low := strings.ToLower(text[:min(len(text), 4096)])
	for _, tag := range []string{"<!doctype", "<html", "<body", "<div", "<table", "<p>", "<p ", "<h1", "<h2", "<h3", "<ul", "<span", "<section", "<meta"} {
		if strings.Contains(low, tag) {
			return true
		}
	}
	return false
}

// textPage makes a box of each paragraph, with a line for each of its lines.
func textPage(text string) pages.Node {
	page := pages.Node{Kind: pages.Block}
	paragraph := pages.Node{Kind: pages.Block}
	end := func() {
		if len(paragraph.Nodes) > 0 {
			page.Nodes = append(page.Nodes, paragraph)
		}
		paragraph = pages.Node{Kind: pages.Block}
	}
	for line := range strings.SplitSeq(strings.ReplaceAll(text, "\r\n", "\n"), "\n") {
		if strings.TrimSpace(line) == "" {
			end()
			continue
		}
		paragraph.Nodes = append(paragraph.Nodes, pages.Node{Text: line}, pages.Node{Kind: pages.Break})
	}
	end()
	return page
}

// tableRows are the cells of a table; nil where the text is none: at least two lines, of
// which most have as many tabs, or commas outside quotes, as the first.
func tableRows(text string) [][]string {
	for _, comma := range []rune{'\t', ',', ';'} {
		first, _, _ := strings.Cut(strings.TrimLeft(text, "\r\n"), "\n")
		if strings.Count(first, string(comma)) == 0 || comma != '\t' && strings.Count(first, string(comma)) < 2 {
			continue
		}
		r := csv.NewReader(strings.NewReader(text))
		r.Comma, r.LazyQuotes, r.FieldsPerRecord = comma, true, -1
		var rows [][]string
		for {
			row, err := r.Read()
			if err != nil {
				if err != io.EOF {
					rows = nil
				}
				break
			}
			rows = append(rows, row)
		}
		alike := 0
		for _, row := range rows {
			if len(row) == len(rows[0]) {
				alike++
			}
		}
		if len(rows) > 1 && 3*alike >= 2*len(rows) {
			return rows
		}
	}
	return nil
}

func tableNode(rows [][]string) pages.Node {
	table := pages.Node{Kind: pages.Table}
	for _, row := range rows {
		one := pages.Node{Kind: pages.Row}
		for _, cell := range row {
			one.Nodes = append(one.Nodes, pages.Node{Kind: pages.Cell, Nodes: []pages.Node{{Text: cell}}})
		}
		table.Nodes = append(table.Nodes, one)
	}
	return table
}

func htmlPage(text string) (pages.Node, error) {
	doc, err := html.Parse(strings.NewReader(text))
	if err != nil {
		return pages.Node{}, errors.New("its HTML is nested too deep; paste its text instead")
	}
	page := pages.Node{Kind: pages.Block}
	gather(doc, &page, 0)
	return page, nil
}

// unseen are elements of which nothing is shown as words.
var unseen = []atom.Atom{atom.Script, atom.Style, atom.Head, atom.Noscript, atom.Template, atom.Svg, atom.Math, atom.Iframe, atom.Object, atom.Select, atom.Textarea, atom.Button,
	atom.Canvas, atom.Audio, atom.Video}

var boxes = []atom.Atom{atom.Div, atom.P, atom.Section, atom.Article, atom.Main, atom.Header, atom.Footer, atom.Nav, atom.Aside, atom.Ul, atom.Ol, atom.Li, atom.Dl, atom.Dt,
	atom.Dd, atom.Blockquote, atom.Figure, atom.Figcaption, atom.Form, atom.Fieldset, atom.Details, atom.Summary, atom.Pre, atom.Address, atom.Caption}

// deepest is how deep boxes are told apart.
const deepest = 400

// gather adds what an element holds to a node.
func gather(e *html.Node, into *pages.Node, depth int) {
	for c := e.FirstChild; c != nil; c = c.NextSibling {
		switch c.Type {
		case html.TextNode:
			if c.Data != "" {
				into.Nodes = append(into.Nodes, pages.Node{Text: c.Data})
			}
			continue
		case html.ElementNode:
		default:
			continue
		}
		if slices.Contains(unseen, c.DataAtom) || hidden(c) || depth > deepest {
			continue
		}
		one := pages.Node{Kind: pages.Block}
		switch {
		case c.DataAtom == atom.Br, c.DataAtom == atom.Hr:
			into.Nodes = append(into.Nodes, pages.Node{Kind: pages.Break})
			continue
		case c.DataAtom == atom.Sup:
			into.Nodes = append(into.Nodes, pages.Node{Text: raised(wordsOf(c))})
			continue
		case c.DataAtom >= atom.H1 && len(c.Data) == 2 && c.Data[0] == 'h' && c.Data[1] >= '1' && c.Data[1] <= '6':
			one.Kind, one.Level = pages.Heading, int(c.Data[1]-'0')
		case len(c.Data) == 2 && c.Data[0] == 'h' && c.Data[1] >= '1' && c.Data[1] <= '6':
			one.Kind, one.Level = pages.Heading, int(c.Data[1]-'0')
		case c.DataAtom == atom.Table:
			one.Kind = pages.Table
			rows(c, &one, depth)
			into.Nodes = append(into.Nodes, one)
			continue
		case c.DataAtom == atom.S, c.DataAtom == atom.Del, c.DataAtom == atom.Strike:
			from := len(into.Nodes)
			gather(c, into, depth+1)
			for i := from; i < len(into.Nodes); i++ {
				into.Nodes[i].Struck = true
			}
			continue
		case !slices.Contains(boxes, c.DataAtom):
			gather(c, into, depth+1) // words in the line
			continue
		}
		gather(c, &one, depth+1)
		into.Nodes = append(into.Nodes, one)
	}
}

// rows gathers the rows of a table, whatever groups them.
func rows(e *html.Node, table *pages.Node, depth int) {
	for c := e.FirstChild; c != nil; c = c.NextSibling {
		switch {
		case c.Type != html.ElementNode:
		case c.DataAtom == atom.Tr:
			row := pages.Node{Kind: pages.Row}
			for d := c.FirstChild; d != nil; d = d.NextSibling {
				if d.Type == html.ElementNode && (d.DataAtom == atom.Td || d.DataAtom == atom.Th) {
					cell := pages.Node{Kind: pages.Cell}
					gather(d, &cell, depth+1)
					row.Nodes = append(row.Nodes, cell)
				}
			}
			table.Nodes = append(table.Nodes, row)
		default:
			rows(c, table, depth)
		}
	}
}

func hidden(e *html.Node) bool {
	for _, a := range e.Attr {
		if a.Key == "hidden" || a.Key == "aria-hidden" && a.Val == "true" || a.Key == "style" && strings.Contains(strings.ReplaceAll(a.Val, " ", ""), "display:none") {
			return true
		}
	}
	return false
}

// wordsOf are the words of an element.
func wordsOf(e *html.Node) string {
	var n pages.Node
	gather(e, &n, 0)
	var b strings.Builder
	for _, one := range n.Nodes {
		b.WriteString(one.Text)
	}
	return b.String()
}

// raised writes the mark of a footnote with raised digits, which are no figures.
func raised(text string) string {
	return strings.Map(func(r rune) rune {
		if r >= '0' && r <= '9' {
			return []rune("⁰¹²³⁴⁵⁶⁷⁸⁹")[r-'0']
		}
		if r == utf8.RuneError {
			return -1
		}
		return r
	}, text)
}
