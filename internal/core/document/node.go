package document

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf8"
)

// Bounds say how much of a file is read.
type Bounds struct {
	Bytes  int
	Values int // objects, lists and what stands in them
}

const (
	deepest    = 20
	mostFields = 2_000 // of one object
	often      = 4_096 // values between two looks at the context
)

// Shape is what a JSON value is.
type Shape uint8

// The shapes of JSON values.
const (
	IsNull Shape = iota
	IsBool
	IsNumber
	IsText
	IsList
	IsObject
)

func (s Shape) String() string {
	return [...]string{"null", "true or false", "a number", "text", "a list", "an object"}[s]
}

// Node is a JSON value with the line it begins on.
type Node struct {
	Shape Shape
	Line  int32
	Text  string   // of text, numbers and booleans
	Items []*Node  // of a list; of an object: its fields' values
	Names []string // of an object's fields, in order
	index map[string]int
}

// indexed is how many fields an object has before they are looked up by an
// index.
const indexed = 12

// Field returns the value of a field; nil where it is missing or null, which
// is the same.
func (n *Node) Field(name string) *Node {
	at, ok := n.at(name)
	if !ok || n.Items[at].Shape == IsNull {
		return nil
	}
	return n.Items[at]
}

func (n *Node) at(name string) (int, bool) {
	if n.index != nil {
		at, ok := n.index[name]
		return at, ok
	}
	for i, other := range n.Names {
		if other == name && n.Shape == IsObject {
			return i, true
		}
	}
	return 0, false
}

func (n *Node) put(name string, value *Node) {
	n.Names, n.Items = append(n.Names, name), append(n.Items, value)
	switch {
	case n.index != nil:
		n.index[name] = len(n.Names) - 1
	case len(n.Names) > indexed:
		n.index = make(map[string]int, 2*indexed)
		for i, name := range n.Names {
			n.index[name] = i
		}
	}
}

// Parse reads one JSON value with its lines. Broken JSON, fields that stand
// twice, text that was damaged and more values than are taken are faults. The
// error is the context's, where that has ended.
func Parse(ctx context.Context, data []byte, b Bounds, faults *Gathering) (*Node, error) {
	p := &treeReader{ctx: ctx, data: data, dec: json.NewDecoder(bytes.NewReader(data)), line: 1, left: b.Values, bounds: b, faults: faults}
	p.dec.UseNumber()
	root, err := p.value(0)
	if err == nil {
		if _, more := p.dec.Token(); !errors.Is(more, io.EOF) {
			err = errors.New("something follows the end of the value")
		}
	}
	var large tooLarge
	switch {
	case err == nil:
		return root, nil
	case ctx.Err() != nil:
		return nil, ctx.Err()
	case errors.As(err, &large):
		faults.Add(p.here(), p.path(), "%s", string(large))
	case errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF):
		faults.Add(p.here(), "", "not valid JSON: the file ends too early")
	default:
		faults.Add(p.here(), "", "not valid JSON: %s", p.misfit(err))
	}
	return nil, nil
}

// misfit says what does not fit where the reader has come to.
func (p *treeReader) misfit(err error) string {
	var syntax *json.SyntaxError
	if !errors.As(err, &syntax) {
		return err.Error()
	}
	_, sign, _ := strings.Cut(syntax.Error(), "invalid character ")
	sign, _, _ = strings.Cut(sign+" ", "' ")
	if sign = strings.Trim(sign, "' "); sign == "" {
		sign = "what stands"
	}
	return fmt.Sprintf("“%s” does not fit there. Look just before it for a comma, a quotation mark or a bracket that is missing or stands twice", sign)
}

// tooLarge says that a file holds more than is read.
type tooLarge string

func (t tooLarge) Error() string { return string(t) }

type treeReader struct {
	ctx    context.Context
	data   []byte
	dec    *json.Decoder
	line   int
	upTo   int
	left   int // values that may still come
	bounds Bounds
	steps  []step // to the value that is read
	faults *Gathering
}

// step is one step of a path: to a field, or to an item of a list.
type step struct {
	name string
	item int
}

// path writes where the reader is; it is asked for only where a fault is told.
func (p *treeReader) path() string {
	var b strings.Builder
	for _, s := range p.steps {
		switch {
		case s.name == "":
			fmt.Fprintf(&b, "[%d]", s.item)
		case b.Len() > 0:
			b.WriteString("." + Shorten(s.name, LongestField))
		default:
			b.WriteString(Shorten(s.name, LongestField))
		}
	}
	return b.String()
}

// here returns the line that the decoder has come to.
func (p *treeReader) here() int {
	at := min(int(p.dec.InputOffset()), len(p.data))
	p.line += bytes.Count(p.data[p.upTo:at], []byte("\n"))
	p.upTo = at
	return p.line
}

func (p *treeReader) value(depth int) (*Node, error) {
	token, err := p.dec.Token()
	if err != nil {
		return nil, err
	}
	if p.left--; p.left < 0 {
		return nil, tooLarge(fmt.Sprintf("the file holds more than %d values; at most that many are read", p.bounds.Values))
	}
	if p.left%often == 0 && p.ctx.Err() != nil {
		return nil, p.ctx.Err()
	}
	if depth > deepest {
		return nil, fmt.Errorf("values are nested more than %d deep", deepest)
	}
	n := &Node{Line: int32(p.here())}
	switch v := token.(type) {
	case json.Delim:
		if v == '{' {
			n.Shape = IsObject
			return n, p.object(n, depth)
		}
		n.Shape = IsList
		p.steps = append(p.steps, step{})
		for p.dec.More() {
			p.steps[len(p.steps)-1].item = len(n.Items)
			item, err := p.value(depth + 1)
			if err != nil {
				return nil, err
			}
			n.Items = append(n.Items, item)
		}
		p.steps = p.steps[:len(p.steps)-1]
		_, err = p.dec.Token()
		return n, err
	case string:
		n.Shape, n.Text = IsText, v
		p.sound(v)
	case json.Number:
		n.Shape, n.Text = IsNumber, v.String()
	case bool:
		n.Shape, n.Text = IsBool, strconv.FormatBool(v)
	}
	return n, nil
}

func (p *treeReader) object(n *Node, depth int) error {
	p.steps = append(p.steps, step{})
	for p.dec.More() {
		token, err := p.dec.Token()
		if err != nil {
			return err
		}
		name, _ := token.(string)
		line := p.here()
		p.steps[len(p.steps)-1].name = name
		p.sound(name)
		value, err := p.value(depth + 1)
		if err != nil {
			return err
		}
		if _, twice := n.at(name); twice {
			p.faults.Add(line, p.path(), "this field stands twice")
			continue
		}
		if len(n.Names) == mostFields {
			return tooLarge(fmt.Sprintf("an object has more than %d fields; at most that many are read", mostFields))
		}
		n.put(name, value)
	}
	p.steps = p.steps[:len(p.steps)-1]
	_, err := p.dec.Token()
	return err
}

// sound looks at a text as the decoder gave it, which puts the replacement
// character where bytes were no UTF-8, or half a character was escaped.
func (p *treeReader) sound(s string) {
	switch {
	case strings.ContainsRune(s, utf8.RuneError):
		p.faults.Add(p.here(), p.path(), "holds a character that was lost (\ufffd); type it again and save the file as UTF-8")
	case strings.ContainsRune(s, 0):
		p.faults.Add(p.here(), p.path(), "holds a NUL character (\\u0000), which is no text; take it out")
	}
}

// Describe writes a value for a fault: a short text in quotation marks, else
// what it is.
func (n *Node) Describe() string {
	if n.Text != "" && len(n.Text) < 60 {
		return strconv.Quote(n.Text)
	}
	return n.Shape.String()
}

// Join writes a path to a field below another path.
func Join(path, name string) string {
	if path == "" {
		return name
	}
	return path + "." + name
}

// LineOf returns the line of the value at a path such as
// "plans[0].charges[1].to", or of the nearest value around it.
func (n *Node) LineOf(path string) int {
	for path != "" {
		var step string
		if cut := strings.IndexAny(path[1:], ".["); cut >= 0 {
			step, path = path[:cut+1], path[cut+1:]
		} else {
			step, path = path, ""
		}
		var next *Node
		if strings.HasPrefix(step, "[") {
			if i, err := strconv.Atoi(strings.Trim(step, "[]")); err == nil && i < len(n.Items) {
				next = n.Items[i]
			}
		} else {
			next = n.Field(strings.TrimPrefix(step, "."))
		}
		if next == nil {
			break
		}
		n = next
	}
	return int(n.Line)
}
