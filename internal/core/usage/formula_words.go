package usage

import (
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/expr-lang/expr/ast"
	"github.com/expr-lang/expr/parser"
)

// Words says the formula in words: "contacts times (letters plus automated
// emails)". Names are what drivers are called in the middle of a sentence.
func (f Formula) Words(name func(key string) string) string {
	tree, err := parser.Parse(f.text)
	if err != nil {
		return f.text // which was read before, and is never asked for otherwise
	}
	return inWords(tree.Node, name)
}

func inWords(n ast.Node, name func(string) string) string {
	switch n := n.(type) {
	case *ast.IntegerNode:
		return strconv.Itoa(n.Value)
	case *ast.FloatNode:
		return strconv.FormatFloat(n.Value, 'f', -1, 64)
	case *ast.IdentifierNode:
		return name(n.Value)
	case *ast.UnaryNode:
		if n.Operator == "-" {
			return "minus " + part(n.Node, name)
		}
		return inWords(n.Node, name)
	case *ast.BinaryNode:
		verb := map[string]string{"+": " plus ", "-": " minus ", "*": " times ", "/": " divided by "}[n.Operator]
		left, right := part(n.Left, name), part(n.Right, name)
		if one, ok := n.Left.(*ast.BinaryNode); ok && (one.Operator == n.Operator && n.Operator != "/" || n.Operator == "+" || n.Operator == "-" && one.Operator == "+") {
			left = inWords(n.Left, name)
		}
		return left + verb + right
	case *ast.BuiltinNode:
		return call(n, name)
	}
	return ""
}

// part is a part of a sum or a product, in brackets where it has parts itself.
func part(n ast.Node, name func(string) string) string {
	if _, sum := n.(*ast.BinaryNode); sum {
		return "(" + inWords(n, name) + ")"
	}
	return inWords(n, name)
}

func call(n *ast.BuiltinNode, name func(string) string) string {
	var parts []string
	for _, a := range n.Arguments {
		parts = append(parts, inWords(a, name))
	}
	if rounded := map[string]string{"ceil": " rounded up", "floor": " rounded down", "round": " rounded"}[n.Name]; rounded != "" {
		return part(n.Arguments[0], name) + rounded
	}
	if len(parts) == 1 {
		return parts[0]
	}
	which := map[string][2]string{"min": {"smaller", "smallest"}, "max": {"larger", "largest"}}[n.Name]
	most := which[0]
	if len(parts) > 2 {
		most = which[1]
	}
	return "the " + most + " of (" + strings.Join(parts[:len(parts)-1], ", ") + " and " + parts[len(parts)-1] + ")"
}

// LowerFirst writes a name as in the middle of a sentence: with a small letter first,
// unless it is an abbreviation.
func LowerFirst(name string) string {
	first, size := utf8.DecodeRuneInString(name)
	if size == 0 {
		return ""
	}
	if second, _ := utf8.DecodeRuneInString(name[size:]); unicode.IsUpper(second) {
		return name
	}
	return string(unicode.ToLower(first)) + name[size:]
}

// Called is what a driver of the catalogue is called in the middle of a sentence;
// one that is none, by its key as words.
func Called(key string) string {
	for _, d := range Catalogue() {
		if d.Key == key {
			return LowerFirst(d.Name)
		}
	}
	return strings.ReplaceAll(key, "_", " ")
}
