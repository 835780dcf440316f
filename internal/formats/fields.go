package formats

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"
)

// fields reads an object's fields into typed values and gathers what is wrong
// with them. After reading, done reports the fields that nobody asked for.
type fields struct {
	node  *node
	path  string
	r     *reader
	asked []string        // the names of the fields that are known here
	taken map[string]bool // names that were looked at and are no fields: keys
}

func open(n *node, path string, r *reader) *fields {
	f := &fields{node: n, path: path, r: r}
	if n == nil || n.shape != object {
		if n != nil {
			f.refuse(n, "", "expected an object, found %s", n.shape)
		}
		f.node = &node{shape: object}
		if n != nil {
			f.node.line = n.line
		}
	}
	return f
}

func (f *fields) refuse(n *node, name, format string, a ...any) {
	if f.r.faults.full() { // the path is not needed
		f.r.faults.add(int(n.line), "", "")
		return
	}
	path := f.path
	if name != "" {
		path = join(f.path, shorten(name, longestField))
	}
	f.r.faults.add(int(n.line), path, format, a...)
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
func (f *fields) take(name string, required bool, want string) *node {
	f.know(name)
	n := f.node.field(name)
	if n == nil {
		if required {
			f.refuse(f.node, name, "is missing; expected %s", want)
		}
		return nil
	}
	return n
}

// of takes a field that must have one of the shapes.
func (f *fields) of(name string, required bool, want string, shapes ...shape) *node {
	n := f.take(name, required, want)
	if n != nil && !slices.Contains(shapes, n.shape) {
		f.refuse(n, name, "expected %s, found %s", want, n.describe())
		return nil
	}
	return n
}

func (n *node) describe() string {
	if n.text != "" && len(n.text) < 60 {
		return strconv.Quote(n.text)
	}
	return n.shape.String()
}

// done reports the fields that do not belong here.
func (f *fields) done() {
	if f.r.kept {
		return
	}
	for i, name := range f.node.names {
		if !f.known(name) {
			f.refuse(f.node.items[i], name, "is not a field here; there are %s", strings.Join(slices.Sorted(slices.Values(f.asked)), ", "))
		}
	}
}

// rest returns the names of the fields that nobody asked for yet.
func (f *fields) rest() []string {
	var names []string
	for _, name := range f.node.names {
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
	n := f.of(name, required, want, text)
	if n == nil {
		return ""
	}
	if !slices.Contains(among, n.text) {
		f.refuse(n, name, "expected %s, found %s", want, n.describe())
	}
	return n.text
}

func (f *fields) yes(name string) bool {
	n := f.of(name, optional, "true or false", boolean)
	return n != nil && n.text == "true"
}

func (f *fields) whole(name string, required bool, least, most int) int {
	want := fmt.Sprintf("a whole number from %d to %d", least, most)
	n := f.of(name, required, want, number)
	if n == nil {
		return 0
	}
	v, err := strconv.Atoi(n.text)
	if err != nil || v < least || v > most {
		f.refuse(n, name, "expected %s, found %s", want, n.text)
		return 0
	}
	return v
}

// mostAmount is the largest price that is taken.
const mostAmount = 1_000_000_000

func (f *fields) amount(name string, required bool) money.Amount {
	const want = "an amount such as \"12.00\""
	n := f.of(name, required, want, text, number)
	if n == nil {
		return 0
	}
	return f.price(n, name)
}

func (f *fields) price(n *node, name string) money.Amount {
	if n.shape != text && n.shape != number {
		f.refuse(n, name, "expected an amount such as \"12.00\", found %s", n.describe())
		return 0
	}
	a, err := money.ParseAmount(n.text)
	if err != nil {
		f.refuse(n, name, "expected an amount such as \"12.00\": %v", err)
	} else if a < 0 || a > money.Units(mostAmount) {
		f.refuse(n, name, "expected an amount from 0 to %s, found %s", money.Thousands(mostAmount), n.text)
	}
	return a
}

func (f *fields) quantity(name string, required bool) usage.Quantity {
	n := f.of(name, required, "a number", text, number)
	if n == nil {
		return 0
	}
	digits := n.text
	if f.r.kept { // commas were once taken for what stands between thousands
		digits = strings.ReplaceAll(digits, ",", "")
	}
	q, err := usage.ParseQuantity(digits)
	if err != nil {
		f.refuse(n, name, "expected a number from 0 to %s, found %s", usage.Most.Format(), n.describe())
	}
	return q
}

func (f *fields) share(name string, required bool, least, most money.Share) money.Share {
	want := fmt.Sprintf("a share from %s to %s, such as \"15%%\"", least, most)
	n := f.of(name, required, want, text, number)
	if n == nil {
		return 0
	}
	s, err := money.ParseShare(n.text)
	if err != nil || s < least || s > most {
		f.refuse(n, name, "expected %s, found %s", want, n.describe())
		return 0
	}
	return s
}

func (f *fields) day(name string, required bool) time.Time {
	const want = "a day such as \"2026-10-02\""
	n := f.of(name, required, want, text)
	if n == nil {
		return time.Time{}
	}
	d, err := time.Parse(time.DateOnly, n.text)
	if err != nil || d.Year() < 1990 || d.Year() > 2199 {
		f.refuse(n, name, "expected %s, found %s", want, n.describe())
	}
	return d
}

// pastDay reads a day that has come.
func (f *fields) pastDay(name string) time.Time {
	d := f.day(name, must)
	if !f.r.kept && d.After(f.r.latest) {
		f.refuse(f.node.field(name), name, "%s is in the future", d.Format(time.DateOnly))
	}
	return d
}

// moment reads a point in time that has come.
func (f *fields) moment(name string, required bool) time.Time {
	const want = "a moment such as \"2026-10-02T09:30:00Z\""
	n := f.of(name, required, want, text)
	if n == nil {
		return time.Time{}
	}
	at, err := time.Parse(time.RFC3339Nano, n.text)
	switch {
	case err != nil || at.Year() < 1990 || at.Year() > 2199:
		f.refuse(n, name, "expected %s, found %s", want, n.describe())
	case at.After(f.r.latest.AddDate(0, 0, 1)):
		f.refuse(n, name, "%s is in the future", n.text)
	}
	return at.UTC()
}

func (f *fields) formula(name string) usage.Formula {
	n := f.of(name, must, "a formula such as \"contacts * 2\"", text)
	if n == nil {
		return usage.Formula{}
	}
	parse := usage.ParseFormula
	if f.r.kept {
		parse = usage.KeptFormula
	}
	formula, err := parse(n.text)
	if err != nil {
		f.refuse(n, name, "%v", err)
	}
	return formula
}

func (f *fields) currency(name string) money.Currency {
	n := f.of(name, must, "an ISO 4217 code such as \"EUR\"", text)
	if n == nil {
		return money.Currency{}
	}
	c, err := money.ParseCurrency(n.text)
	if err != nil {
		f.refuse(n, name, "%v", err)
	}
	return c
}

// each calls with for every item of a list of objects.
func (f *fields) each(name string, required bool, most int, with func(item *fields)) {
	n := f.of(name, required, "a list", array)
	if n == nil {
		return
	}
	if len(n.items) > most {
		f.refuse(n, name, "has %d entries; at most %d are taken", len(n.items), most)
		return
	}
	for i, item := range n.items {
		if f.r.ended() {
			return
		}
		inner := open(item, fmt.Sprintf("%s[%d]", join(f.path, name), i), f.r)
		if item.shape == object {
			with(inner)
			inner.done()
		}
	}
}

// inside opens a field that is an object; missing, it is nil.
func (f *fields) inside(name string, required bool) *fields {
	n := f.of(name, required, "an object", object)
	if n == nil {
		return nil
	}
	return open(n, join(f.path, name), f.r)
}

// format checks the file's first word.
func (f *fields) format(want string) {
	if n := f.of("format", must, strconv.Quote(want), text); n != nil && n.text != want {
		f.refuse(n, "format", "expected %q, found %s", want, n.describe())
	}
}
