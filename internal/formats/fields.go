package formats

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"
)

// fields reads an object's fields into typed values and gathers what is wrong
// with them. After reading, done reports the fields that nobody asked for.
type fields struct {
	node   *node
	path   string
	faults *Faults
	asked  map[string]bool
}

func open(n *node, path string, faults *Faults) *fields {
	f := &fields{node: n, path: path, faults: faults, asked: map[string]bool{}}
	if n == nil || n.shape != object {
		if n != nil {
			f.refuse(n, "", "expected an object, found %s", n.shape)
		}
		f.node = &node{shape: object, fields: map[string]*node{}}
		if n != nil {
			f.node.line = n.line
		}
	}
	return f
}

func (f *fields) refuse(n *node, name, format string, a ...any) {
	path := f.path
	if name != "" {
		path = join(f.path, name)
	}
	*f.faults = append(*f.faults, Fault{n.line, path, fmt.Sprintf(format, a...)})
}

// take returns a field's value; nil when it is missing or null.
func (f *fields) take(name string, required bool, want string) *node {
	f.asked[name] = true
	n := f.node.fields[name]
	if n == nil || n.shape == null {
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

func (f *fields) done() {
	for _, name := range f.node.names {
		if !f.asked[name] {
			known := make([]string, 0, len(f.asked))
			for k := range f.asked {
				known = append(known, k)
			}
			slices.Sort(known)
			f.refuse(f.node.fields[name], name, "is not a field here; there are %s", strings.Join(known, ", "))
		}
	}
}

// rest returns the names of the fields that nobody asked for yet.
func (f *fields) rest() []string {
	var names []string
	for _, name := range f.node.names {
		if !f.asked[name] {
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

// text reads a text of one line, at most longest characters.
func (f *fields) text(name string, required bool, longest int) string {
	n := f.of(name, required, "text", text)
	if n == nil {
		return ""
	}
	s := strings.TrimSpace(n.text)
	switch {
	case s == "" && required:
		f.refuse(n, name, "is empty")
	case utf8.RuneCountInString(s) > longest:
		f.refuse(n, name, "has %d characters; at most %d are taken", utf8.RuneCountInString(s), longest)
	case strings.ContainsFunc(s, unicode.IsControl):
		f.refuse(n, name, "holds control characters")
	}
	return s
}

var keyForm = regexp.MustCompile(`^[a-z0-9][a-z0-9_-]{0,59}$`)
var featureForm = regexp.MustCompile(`^[a-z0-9][a-z0-9_-]{0,59}/[a-z0-9][a-z0-9_-]{0,59}$`)

func (f *fields) key(name string, required bool) string {
	n := f.of(name, required, "a key such as \"brindlepost\"", text)
	if n == nil {
		return ""
	}
	if !keyForm.MatchString(n.text) {
		f.refuse(n, name, "expected a key of small letters, digits, - and _, found %s", n.describe())
	}
	return n.text
}

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
	q, err := usage.ParseQuantity(n.text)
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

// moment reads a point in time.
func (f *fields) moment(name string, required bool) time.Time {
	const want = "a moment such as \"2026-10-02T09:30:00Z\""
	n := f.of(name, required, want, text)
	if n == nil {
		return time.Time{}
	}
	at, err := time.Parse(time.RFC3339Nano, n.text)
	if err != nil || at.Year() < 1990 || at.Year() > 2199 {
		f.refuse(n, name, "expected %s, found %s", want, n.describe())
	}
	return at.UTC()
}

func (f *fields) formula(name string) usage.Formula {
	n := f.of(name, must, "a formula such as \"contacts * 2\"", text)
	if n == nil {
		return usage.Formula{}
	}
	formula, err := usage.ParseFormula(n.text)
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
		inner := open(item, fmt.Sprintf("%s[%d]", join(f.path, name), i), f.faults)
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
	return open(n, join(f.path, name), f.faults)
}

func (f *fields) texts(name string, required bool, check func(string) bool, want string) []string {
	n := f.of(name, required, "a list of "+want, array)
	if n == nil {
		return nil
	}
	var out []string
	for i, item := range n.items {
		if item.shape != text || !check(item.text) {
			f.refuse(item, fmt.Sprintf("%s[%d]", name, i), "expected %s, found %s", want, item.describe())
			continue
		}
		out = append(out, item.text)
	}
	return out
}

func (f *fields) keys(name string, required bool) []string {
	return f.texts(name, required, keyForm.MatchString, "a key")
}

// format checks the file's first word.
func (f *fields) format(want string) {
	if n := f.of("format", must, strconv.Quote(want), text); n != nil && n.text != want {
		f.refuse(n, "format", "expected %q, found %s", want, n.describe())
	}
}
