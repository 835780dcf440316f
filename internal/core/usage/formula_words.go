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
	return f.told(speech{name, map[string]string{"+": " plus ", "-": " minus ", "*": " times ", "/": " divided by "}, "minus "})
}

// Filled writes the formula with values in the place of names: "6,400 × (1 + 0.18)". A name
// without a value stays.
func (f Formula) Filled(value func(key string) (string, bool)) string {
	name := func(key string) string {
		if shown, ok := value(key); ok {
			return shown
		}
		return key
	}
	return f.told(speech{name, map[string]string{"+": " + ", "-": " − ", "*": " × ", "/": " ÷ "}, "−"})
}

// speech is how names, and what is done with them, are written.
type speech struct {
	name  func(key string) string
	verbs map[string]string
	minus string // before what is counted off from nothing
}

func (f Formula) told(s speech) string {
	tree, err := parser.Parse(f.text)
	if err != nil {
		return f.text // which was read before, and is never asked for otherwise
	}
	return s.all(tree.Node)
}

func (s speech) all(n ast.Node) string {
	switch n := n.(type) {
	case *ast.IntegerNode:
		return strconv.Itoa(n.Value)
	case *ast.FloatNode:
		return strconv.FormatFloat(n.Value, 'f', -1, 64)
	case *ast.IdentifierNode:
		return s.name(n.Value)
	case *ast.UnaryNode:
		if n.Operator == "-" {
			return s.minus + s.part(n.Node)
		}
		return s.all(n.Node)
	case *ast.BinaryNode:
		left, right := s.part(n.Left), s.part(n.Right)
		if one, ok := n.Left.(*ast.BinaryNode); ok && (one.Operator == n.Operator && n.Operator != "/" || n.Operator == "+" || n.Operator == "-" && one.Operator == "+") {
			left = s.all(n.Left)
		}
		return left + s.verbs[n.Operator] + right
	case *ast.BuiltinNode:
		return s.call(n)
	}
	return ""
}

// part is a part of a sum or a product, in brackets where it has parts itself.
func (s speech) part(n ast.Node) string {
	if _, sum := n.(*ast.BinaryNode); sum {
		return "(" + s.all(n) + ")"
	}
	return s.all(n)
}

var rounded = map[string]string{"ceil": " rounded up", "floor": " rounded down", "round": " rounded"}

func (s speech) call(n *ast.BuiltinNode) string {
	if how := rounded[n.Name]; how != "" {
		what := s.part(n.Arguments[0])
		if one, ok := n.Arguments[0].(*ast.BuiltinNode); ok && rounded[one.Name] != "" {
			what = "(" + what + ")"
		}
		return what + how
	}
	var parts []string
	for _, a := range n.Arguments {
		parts = append(parts, s.all(a))
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
