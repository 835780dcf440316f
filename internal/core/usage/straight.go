package usage

import (
	"slices"

	"github.com/expr-lang/expr/ast"
)

// bent is the degree of what is no straight line, nor level.
const bent = 2

// Straight reports whether a formula follows a driver in a straight line, or not at
// all, without any rounding: as far as that can be told from how it, and the formulas
// of the drivers that it names, are written.
func (m *Model) Straight(f Formula, driver string) bool {
	return m.degree(f, driver, 0) < bent
}

func (m *Model) degree(f Formula, driver string, deep int) int {
	return degreeOf(f.root, func(name string) int {
		switch {
		case name == driver:
			return 1
		case deep > len(m.drivers):
			return bent
		}
		at := slices.IndexFunc(m.derived, func(d derived) bool { return d.key == name })
		if at < 0 {
			return 0
		}
		return m.degree(m.derived[at].formula, driver, deep+1)
	})
}

// degreeOf is 0 for what stays level, 1 for what is straight, and [bent] for the rest.
func degreeOf(n ast.Node, of func(name string) int) int {
	switch n := n.(type) {
	case *ast.IdentifierNode:
		return of(n.Value)
	case *ast.UnaryNode:
		return degreeOf(n.Node, of)
	case *ast.BinaryNode:
		a, b := degreeOf(n.Left, of), degreeOf(n.Right, of)
		switch {
		case n.Operator == "*":
			return min(bent, a+b)
		case n.Operator == "/" && b > 0:
			return bent
		}
		return max(a, b)
	case *ast.BuiltinNode: // rounding too: by whole hundreds it is far off a line in between
		for _, a := range n.Arguments {
			if degreeOf(a, of) > 0 {
				return bent
			}
		}
	}
	return 0
}
