package formats

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"
)

// fields reads an object's fields into typed values and gathers what is wrong
// with them. After reading, done reports the fields that nobody asked for.
type fields struct {
	node  *document.Node
	path  string
	r     *reader
	asked []string        // the names of the fields that are known here
	taken map[string]bool // names that were looked at and are no fields: keys
}

func open(n *document.Node, path string, r *reader) *fields {
	f := &fields{node: n, path: path, r: r}
	if n == nil || n.Shape != document.IsObject {
		if n != nil {
			f.refuse(n, "", "expected an object, found %s", n.Shape)
		}
		f.node = &document.Node{Shape: document.IsObject}
		if n != nil {
			f.node.Line = n.Line
		}
	}
	return f
}

func (f *fields) refuse(n *document.Node, name, format string, a ...any) {
	if f.r.faults.Full() { // the path is not needed
		f.r.faults.Add(int(n.Line), "", "")
		return
	}
	path := f.path
	if name != "" {
		path = document.Join(f.path, document.Shorten(name, document.LongestField))
	}
	f.r.faults.Add(int(n.Line), path, format, a...)
}

// know notes that a field belongs here.
func (f *fields) know(name string) {
	if !slices.Contains(f.asked, name) {
		f.asked = append(f.asked, name)
	}
}

// pass notes that a name was looked at that is no field but a key.
func (f *fields) pass(name string) {
	if f.taken == nil {
		f.taken = map[string]bool{}
	}
	f.taken[name] = true
}

func (f *fields) known(name string) bool { return f.taken[name] || slices.Contains(f.asked, name) }

// take returns a field's value; nil when it is missing or null.
func (f *fields) take(name string, required bool, want string) *document.Node {
	f.know(name)
	n := f.node.Field(name)
	if n == nil {
		if required {
			f.refuse(f.node, name, "is missing; expected %s", want)
		}
		return nil
	}
	return n
}

// of takes a field that must have one of the shapes.
func (f *fields) of(name string, required bool, want string, shapes ...document.Shape) *document.Node {
	n := f.take(name, required, want)
	if n != nil && !slices.Contains(shapes, n.Shape) {
		f.refuse(n, name, "expected %s, found %s", want, n.Describe())
		return nil
	}
	return n
}

// done reports the fields that do not belong here.
func (f *fields) done() {
	if f.r.kept {
		return
	}
	for i, name := range f.node.Names {
		if !f.known(name) {
			f.refuse(f.node.Items[i], name, "is not a field here; there are %s", strings.Join(slices.Sorted(slices.Values(f.asked)), ", "))
		}
	}
}

// rest returns the names of the fields that nobody asked for yet.
func (f *fields) rest() []string {
	var names []string
	for _, name := range f.node.Names {
		if !f.known(name) {
			names = append(names, name)
		}
	}
	return names
}

// Must and Optional say whether a field has to be there.
const (
	must     = true
	optional = false
)

func (f *fields) choice(name string, required bool, among ...string) string {
	want := "one of " + strings.Join(among, ", ")
	n := f.of(name, required, want, document.IsText)
	if n == nil {
		return ""
	}
	if !slices.Contains(among, n.Text) {
		f.refuse(n, name, "expected %s, found %s", want, n.Describe())
	}
	return n.Text
}

func (f *fields) yes(name string) bool {
	n := f.of(name, optional, "true or false", document.IsBool)
	return n != nil && n.Text == "true"
}

func (f *fields) whole(name string, required bool, least, most int) int {
	want := fmt.Sprintf("a whole number from %d to %d", least, most)
	n := f.of(name, required, want, document.IsNumber)
	if n == nil {
		return 0
	}
	v, err := strconv.Atoi(n.Text)
	if err != nil || v < least || v > most {
		f.refuse(n, name, "expected %s, found %s", want, n.Text)
		return 0
	}
	return v
}

// mostAmount is the largest price that is taken.
const mostAmount = 1_000_000_000

func (f *fields) amount(name string, required bool) money.Amount {
	const want = "an amount such as \"12.00\""
	n := f.of(name, required, want, document.IsText, document.IsNumber)
	if n == nil {
		return 0
	}
	return f.price(n, name)
}

func (f *fields) price(n *document.Node, name string) money.Amount {
	if n.Shape != document.IsText && n.Shape != document.IsNumber {
		f.refuse(n, name, "expected an amount such as \"12.00\", found %s", n.Describe())
		return 0
	}
	a, err := money.ParseAmount(n.Text)
	if err != nil {
		f.refuse(n, name, "expected an amount such as \"12.00\": %v", err)
	} else if a < 0 || a > money.Units(mostAmount) {
		f.refuse(n, name, "expected an amount from 0 to %s, found %s", money.Thousands(mostAmount), n.Text)
	}
	return a
}

func (f *fields) quantity(name string, required bool) usage.Quantity {
	n := f.of(name, required, "a number", document.IsText, document.IsNumber)
	if n == nil {
		return 0
	}
	digits := n.Text
	if f.r.kept { // commas were once taken for what stands between thousands
		digits = strings.ReplaceAll(digits, ",", "")
	}
	q, err := usage.ParseQuantity(digits)
	if err != nil {
		f.refuse(n, name, "expected a number from 0 to %s, found %s", usage.Most.Format(), n.Describe())
	}
	return q
}

func (f *fields) share(name string, required bool, least, most money.Share) money.Share {
	want := fmt.Sprintf("a share from %s to %s, such as \"15%%\"", least, most)
	n := f.of(name, required, want, document.IsText, document.IsNumber)
	if n == nil {
		return 0
	}
	s, err := money.ParseShare(n.Text)
	if err != nil || s < least || s > most {
		f.refuse(n, name, "expected %s, found %s", want, n.Describe())
		return 0
	}
	return s
}

func (f *fields) day(name string, required bool) time.Time {
	const want = "a day such as \"2026-10-02\""
	n := f.of(name, required, want, document.IsText)
	if n == nil {
		return time.Time{}
	}
	d, err := time.Parse(time.DateOnly, n.Text)
	if err != nil || d.Year() < 1990 || d.Year() > 2199 {
		f.refuse(n, name, "expected %s, found %s", want, n.Describe())
	}
	return d
}

// pastDay reads a day that has come.
func (f *fields) pastDay(name string) time.Time {
	d := f.day(name, must)
	if !f.r.kept && d.After(f.r.latest) {
		f.refuse(f.node.Field(name), name, "%s is in the future", d.Format(time.DateOnly))
	}
	return d
}

// moment reads a point in time that has come.
func (f *fields) moment(name string, required bool) time.Time {
	const want = "a moment such as \"2026-10-02T09:30:00Z\""
	n := f.of(name, required, want, document.IsText)
	if n == nil {
		return time.Time{}
	}
	at, err := time.Parse(time.RFC3339Nano, n.Text)
	switch {
	case err != nil || at.Year() < 1990 || at.Year() > 2199:
		f.refuse(n, name, "expected %s, found %s", want, n.Describe())
	case at.After(f.r.latest.AddDate(0, 0, 1)):
		f.refuse(n, name, "%s is in the future", n.Text)
	}
	return at.UTC()
}

func (f *fields) formula(name string) usage.Formula {
	n := f.of(name, must, "a formula such as \"contacts * 2\"", document.IsText)
	if n == nil {
		return usage.Formula{}
	}
	parse := usage.ParseFormula
	if f.r.kept {
		parse = usage.KeptFormula
	}
	formula, err := parse(n.Text)
	if err != nil {
		f.refuse(n, name, "%v", err)
	}
	return formula
}

func (f *fields) currency(name string) money.Currency {
	n := f.of(name, must, "an ISO 4217 code such as \"EUR\"", document.IsText)
	if n == nil {
		return money.Currency{}
	}
	c, err := money.ParseCurrency(n.Text)
	if err != nil {
		f.refuse(n, name, "%v", err)
	}
	return c
}

// each calls with for every item of a list of objects.
func (f *fields) each(name string, required bool, most int, with func(item *fields)) {
	n := f.of(name, required, "a list", document.IsList)
	if n == nil {
		return
	}
	if len(n.Items) > most {
		f.refuse(n, name, "has %d entries; at most %d are taken", len(n.Items), most)
		return
	}
	for i, item := range n.Items {
		if f.r.ended() {
			return
		}
		inner := open(item, fmt.Sprintf("%s[%d]", document.Join(f.path, name), i), f.r)
		if item.Shape == document.IsObject {
			with(inner)
			inner.done()
		}
	}
}

// inside opens a field that is an object; missing, it is nil.
func (f *fields) inside(name string, required bool) *fields {
	n := f.of(name, required, "an object", document.IsObject)
	if n == nil {
		return nil
	}
	return open(n, document.Join(f.path, name), f.r)
}

// format checks the file's first word.
func (f *fields) format(want string) {
	if n := f.of("format", must, strconv.Quote(want), document.IsText); n != nil && n.Text != want {
		f.refuse(n, "format", "expected %q, found %s", want, n.Describe())
	}
}
