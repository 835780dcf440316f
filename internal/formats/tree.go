// Package formats reads the open file formats. A file is checked whole: it is
// taken, or refused with every fault listed by line and field.
package formats

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
)

// MostBytes is the size up to which a file is read.
const MostBytes = 2 << 20

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

// Faults is the error of a file that was refused. It is never empty.
type Faults []Fault

func (f Faults) Error() string {
	lines := make([]string, len(f))
	for i, fault := range f {
		lines[i] = fault.String()
	}
	return strings.Join(lines, "\n")
}

type shape int

const (
	null shape = iota
	boolean
	number
	text
	array
	object
)

func (s shape) String() string {
	return [...]string{"null", "true or false", "a number", "text", "a list", "an object"}[s]
}

// node is a JSON value with the line it begins on.
type node struct {
	shape  shape
	line   int
	text   string // of text, numbers and booleans
	items  []*node
	names  []string // of an object's fields, in order
	fields map[string]*node
}

const deepest = 20

// parse reads one JSON value with its lines. Broken JSON and fields that stand
// twice are faults.
func parse(data []byte) (*node, Faults) { return parseUpTo(data, MostBytes) }

func parseUpTo(data []byte, most int) (*node, Faults) {
	if len(data) > most {
		return nil, Faults{{1, "", fmt.Sprintf("the file has %.1f MB; at most %d MB are read", float64(len(data))/(1<<20), most>>20)}}
	}
	p := &treeReader{data: data, dec: json.NewDecoder(bytes.NewReader(data)), line: 1}
	p.dec.UseNumber()
	root, err := p.value("", 0)
	if err == nil {
		if _, more := p.dec.Token(); !errors.Is(more, io.EOF) {
			err = errors.New("something follows the end of the value")
		}
	}
	if err != nil {
		problem := err.Error()
		if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
			problem = "the file ends too early"
		}
		return nil, append(p.faults, Fault{p.here(), "", "not valid JSON: " + problem})
	}
	return root, p.faults
}

type treeReader struct {
	data   []byte
	dec    *json.Decoder
	line   int
	upTo   int
	faults Faults
}

// here returns the line that the decoder has come to.
func (p *treeReader) here() int {
	at := min(int(p.dec.InputOffset()), len(p.data))
	p.line += bytes.Count(p.data[p.upTo:at], []byte("\n"))
	p.upTo = at
	return p.line
}

func (p *treeReader) value(path string, depth int) (*node, error) {
	token, err := p.dec.Token()
	if err != nil {
		return nil, err
	}
	if depth > deepest {
		return nil, fmt.Errorf("values are nested more than %d deep", deepest)
	}
	n := &node{line: p.here()}
	switch v := token.(type) {
	case json.Delim:
		if v == '{' {
			n.shape, n.fields = object, map[string]*node{}
			return n, p.object(n, path, depth)
		}
		n.shape = array
		for p.dec.More() {
			item, err := p.value(fmt.Sprintf("%s[%d]", path, len(n.items)), depth+1)
			if err != nil {
				return nil, err
			}
			n.items = append(n.items, item)
		}
		_, err = p.dec.Token()
		return n, err
	case string:
		n.shape, n.text = text, v
	case json.Number:
		n.shape, n.text = number, v.String()
	case bool:
		n.shape, n.text = boolean, strconv.FormatBool(v)
	}
	return n, nil
}

func (p *treeReader) object(n *node, path string, depth int) error {
	for p.dec.More() {
		token, err := p.dec.Token()
		if err != nil {
			return err
		}
		name, _ := token.(string)
		line := p.here()
		value, err := p.value(join(path, name), depth+1)
		if err != nil {
			return err
		}
		if slices.Contains(n.names, name) {
			p.faults = append(p.faults, Fault{line, join(path, name), "this field stands twice"})
			continue
		}
		n.names = append(n.names, name)
		n.fields[name] = value
	}
	_, err := p.dec.Token()
	return err
}

func join(path, name string) string {
	if path == "" {
		return name
	}
	return path + "." + name
}

// lineOf returns the line of the value at a path such as
// "plans[0].charges[1].to", or of the nearest value around it.
func (n *node) lineOf(path string) int {
	for path != "" {
		var step string
		if cut := strings.IndexAny(path[1:], ".["); cut >= 0 {
			step, path = path[:cut+1], path[cut+1:]
		} else {
			step, path = path, ""
		}
		var next *node
		if strings.HasPrefix(step, "[") {
			if i, err := strconv.Atoi(strings.Trim(step, "[]")); err == nil && i < len(n.items) {
				next = n.items[i]
			}
		} else {
			next = n.fields[strings.TrimPrefix(step, ".")]
		}
		if next == nil {
			break
		}
		n = next
	}
	return n.line
}
