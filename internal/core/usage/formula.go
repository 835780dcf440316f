package usage

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"github.com/expr-lang/expr/ast"
	"github.com/expr-lang/expr/file"
	"github.com/expr-lang/expr/parser"
)

// Formula is plain arithmetic over named numbers: + - * /, parentheses, min,
// max, ceil, floor and round. The zero value is invalid; [ParseFormula] makes
// one. The grammar is that of expr; what a formula may hold of it is checked
// here, so that nothing but arithmetic runs.
type Formula struct {
	text  string
	names []string
	value term
	root  ast.Node
}

// FormulaError tells what is wrong with a formula and where.
type FormulaError struct {
	Formula string
	Column  int // of the fault, from 1; 0 when the whole formula is meant
	Reason  string
}

func (e *FormulaError) Error() string {
	if e.Column == 0 {
		return fmt.Sprintf("formula %q: %s", e.Formula, e.Reason)
	}
	return fmt.Sprintf("formula %q, column %d: %s", e.Formula, e.Column, e.Reason)
}

const longestFormula = 500

// term yields the values of a part of a formula, row by row; faults are noted in the
// frame. What it yields is not to be written to.
type term func(in *frame) []float64

// ParseFormula reads a formula: only the signs of arithmetic, plain decimal
// numbers and names, and nothing that can never be worked out. A fault is a
// [*FormulaError].
func ParseFormula(text string) (Formula, error) {
	if fault := spelled(text); fault != nil {
		return Formula{}, fault
	}
	f, err := KeptFormula(text)
	if err != nil {
		return f, err
	}
	if fault := f.hopeless(); fault != nil {
		return Formula{}, fault
	}
	return f, nil
}

// KeptFormula reads a formula that was taken at some time, perhaps under wider
// rules than those of [ParseFormula]: what was kept goes on computing.
func KeptFormula(text string) (Formula, error) {
	if strings.TrimSpace(text) == "" {
		return Formula{}, &FormulaError{Formula: text, Reason: "is empty"}
	}
	if len(text) > longestFormula {
		return Formula{}, &FormulaError{Formula: text[:40] + "…", Reason: fmt.Sprintf("is longer than %d characters", longestFormula)}
	}
	tree, err := parser.Parse(text)
	if err != nil {
		fault := &FormulaError{Formula: text, Reason: err.Error()}
		if at := (*file.Error)(nil); errors.As(err, &at) {
			fault.Column, fault.Reason = at.Column+1, at.Message
		}
		return Formula{}, fault
	}
	r := formulaReader{text: text}
	value := r.read(tree.Node)
	if r.fault != nil {
		return Formula{}, r.fault
	}
	slices.Sort(r.names)
	return Formula{text: text, names: slices.Compact(r.names), value: value, root: tree.Node}, nil
}

// String returns the formula as it was written.
func (f Formula) String() string { return f.text }

// Names returns the names that the formula refers to, sorted.
func (f Formula) Names() []string { return f.names }

type formulaReader struct {
	text  string
	names []string
	fault *FormulaError
}

func (r *formulaReader) refuse(n ast.Node, format string, a ...any) term {
	if r.fault == nil {
		r.fault = &FormulaError{Formula: r.text, Column: n.Location().From + 1, Reason: fmt.Sprintf(format, a...)}
	}
	return nil
}

func (r *formulaReader) read(n ast.Node) term {
	switch n := n.(type) {
	case *ast.IntegerNode:
		return constant(float64(n.Value))
	case *ast.FloatNode:
		return constant(n.Value)
	case *ast.IdentifierNode:
		r.names = append(r.names, n.Value)
		column := n.Location().From + 1
		return func(in *frame) []float64 {
			if at, ok := in.at[n.Value]; ok {
				return in.all[at]
			}
			in.refuse(0, column, "there is no driver %q", n.Value)
			return make([]float64, in.rows)
		}
	case *ast.UnaryNode:
		inner := r.read(n.Node)
		switch n.Operator {
		case "+":
			return inner
		case "-":
			return func(in *frame) []float64 {
				out := in.take()
				for row, v := range inner(in) {
					out[row] = -v
				}
				return out
			}
		}
		return r.refuse(n, "%q is not arithmetic", n.Operator)
	case *ast.BinaryNode:
		return r.binary(n)
	case *ast.BuiltinNode:
		return r.call(n)
	case *ast.CallNode:
		return r.refuse(n, "a formula can call min, max, ceil, floor and round, nothing else")
	}
	return r.refuse(n, "a formula holds numbers, driver names and + - * / ( ) only")
}

func constant(v float64) term {
	return func(in *frame) []float64 {
		out := in.take()
		for row := range out {
			out[row] = v
		}
		return out
	}
}

func (r *formulaReader) binary(n *ast.BinaryNode) term {
	left, right := r.read(n.Left), r.read(n.Right)
	var apply func(a, b float64) float64
	switch n.Operator {
	case "+":
		apply = func(a, b float64) float64 { return a + b }
	case "-":
		apply = func(a, b float64) float64 { return a - b }
	case "*":
		apply = func(a, b float64) float64 { return a * b }
	case "/":
		apply = func(a, b float64) float64 { return a / b }
	default:
		return r.refuse(n, "%q is not one of + - * /", n.Operator)
	}
	column := n.Location().From + 1
	return func(in *frame) []float64 {
		out, a, b := in.take(), left(in), right(in)
		for row := range out {
			if b[row] == 0 && n.Operator == "/" {
				in.refuse(row, column, "divides by zero")
			}
			out[row] = apply(a[row], b[row])
		}
		return out
	}
}

// calls maps what a formula may call to its meaning and to how many numbers
// it takes at most.
var calls = map[string]struct {
	most int
	fold func(a, b float64) float64
	of   func(a float64) float64
}{
	"min":   {most: 20, fold: math.Min},
	"max":   {most: 20, fold: math.Max},
	"ceil":  {most: 1, of: func(a float64) float64 { return math.Ceil(steady(a)) }},
	"floor": {most: 1, of: func(a float64) float64 { return math.Floor(steady(a)) }},
	"round": {most: 1, of: func(a float64) float64 { return math.Round(steady(a)) }},
}

func (r *formulaReader) call(n *ast.BuiltinNode) term {
	known, ok := calls[n.Name]
	if !ok {
		return r.refuse(n, "%s is unknown here; a formula can call min, max, ceil, floor and round", n.Name)
	}
	if len(n.Arguments) == 0 || len(n.Arguments) > known.most {
		return r.refuse(n, "%s takes 1 to %d numbers", n.Name, known.most)
	}
	var parts []term
	for _, a := range n.Arguments {
		parts = append(parts, r.read(a))
	}
	return func(in *frame) []float64 {
		out, first := in.take(), parts[0](in)
		if copy(out, first); known.of != nil {
			for row, v := range first {
				out[row] = known.of(v)
			}
		}
		for _, part := range parts[1:] {
			for row, v := range part(in) {
				out[row] = known.fold(out[row], v)
			}
		}
		return out
	}
}

// steady takes the noise of binary floating point away before a step
// function, to the millionth that quantities are held in.
func steady(x float64) float64 { return math.Round(x*1e6) / 1e6 }
