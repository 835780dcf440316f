package usage

import (
	"fmt"

	"ninecoins/internal/core/money"
)

// Shape is the course that a driver takes where nothing else is told of a month.
type Shape string

// The shapes. The zero value is [Compound].
const (
	Compound Shape = ""         // x·(1+g)^t; with g = 0 it is constant
	Constant Shape = "constant" // x
	Straight Shape = "straight" // x + a·t
	SCurve   Shape = "s-curve"  // logistic (Verhulst 1838), from x to a ceiling
	Turnover Shape = "sign-ups" // sign-ups and leavers: c[t+1] = c[t]·(1-l) + s
	ByMonth  Shape = "by month" // values told month by month
)

// Path is a driver's value in each month of a study. Its course is that of its shape
// from where it stands in the first month, its season included; events and list
// cleaning change the course from a month on, or one month alone. The zero value is 0
// for good.
type Path struct {
	Now     Quantity // in the first month
	Shape   Shape
	Growth  money.Share // a month; may be negative. Of an S-curve while it is far below its ceiling
	Add     Quantity    // a month, of a straight line; may be negative
	Ceiling Quantity    // of an S-curve
	Joins   Quantity    // sign-ups a month
	Leaves  money.Share // of those who are there, a month
	// With [ByMonth], what is told. A value stands until the next one; after the last
	// the course is that of Then.
	Told   []Told
	Then   Shape
	Season Season
	Events []Event
	Clean  Cleaning
	// What is another in the other cases.
	Low, High Variant
}

// Told is a value that is known, or planned, for a month.
type Told struct {
	Month Month
	Value Quantity
}

// Event is something that happens in a month.
type Event struct {
	Key, Note string
	Month     Month
	Do        Doing
	By        Quantity // what is added or set, or the factor; what is added may be negative
	Stays     bool     // from then on; else in that month alone
}

// Doing is what an event does to a driver.
type Doing string

// What events do.
const (
	Adds       Doing = "add"
	Multiplies Doing = "multiply"
	Sets       Doing = "set"
)

// Cleaning takes a share of a list away every so many months.
type Cleaning struct {
	Every int // months; 0: never
	Share money.Share
}

// Case names one of three assumptions about growth. The zero value is [Expected].
type Case string

// The cases.
const (
	Low      Case = "low"
	Expected Case = ""
	High     Case = "high"
)

// Cases lists the cases from low to high.
func Cases() []Case { return []Case{Low, Expected, High} }

// Say names a case.
func (c Case) Say() string {
	if c == Expected {
		return "expected"
	}
	return string(c)
}

// Given is a value that may not be told.
type Given[V any] struct {
	Value V
	Told  bool
}

func (g Given[V]) or(v V) V {
	if g.Told {
		return g.Value
	}
	return v
}

// Variant is what differs from the expected course; what is not told is as there.
type Variant struct {
	Now, Add, Ceiling, Joins Given[Quantity]
	Growth, Leaves           Given[money.Share]
}

// Told reports whether anything differs.
func (v Variant) Told() bool { return v != Variant{} }

// Has reports whether a field differs, by its name as files hold it.
func (v *Variant) Has(field string) bool {
	return map[string]bool{"now": v.Now.Told, "add": v.Add.Told, "ceiling": v.Ceiling.Told, "joins": v.Joins.Told,
		"growth": v.Growth.Told, "leaves": v.Leaves.Told}[field]
}

// Variant is what differs in a case; nil in the expected one.
func (p *Path) Variant(c Case) *Variant {
	switch c {
	case Low:
		return &p.Low
	case High:
		return &p.High
	}
	return nil
}

// Under is the path as it is in a case.
func (p Path) Under(c Case) Path {
	v := p.Variant(c)
	if v == nil {
		return p
	}
	p.Now, p.Add, p.Ceiling, p.Joins = v.Now.or(p.Now), v.Add.or(p.Add), v.Ceiling.or(p.Ceiling), v.Joins.or(p.Joins)
	p.Growth, p.Leaves = v.Growth.or(p.Growth), v.Leaves.or(p.Leaves)
	return p
}

// Ends is the shape of the course after everything that is told by month.
func (p *Path) Ends() Shape {
	if p.Shape == ByMonth {
		return p.Then
	}
	return p.Shape
}

// The growth a month that is taken: from losing half to doubling.
const (
	LeastGrowth = -money.Whole / 2
	MostGrowth  = money.Whole
)

// PathError reports what cannot be taken of a path, with the name of its field as
// files hold it.
type PathError struct {
	Field string
	Err   error
}

func (e *PathError) Error() string { return e.Err.Error() }
func (e *PathError) Unwrap() error { return e.Err }

// outOfRange is what is wrong with a number, in words; it is an [ErrRange].
type outOfRange string

func (e outOfRange) Error() string        { return string(e) }
func (e outOfRange) Is(target error) bool { return target == ErrRange }

// Check returns a [*PathError], wrapping [ErrRange] for numbers that are not taken: a
// start below 0, growth that is not between [LeastGrowth] and [MostGrowth], a ceiling
// below where an S-curve starts. It looks at the path as it is in one case.
func (p Path) Check() error {
	wrong := func(field, format string, a ...any) error {
		return &PathError{field, outOfRange(fmt.Sprintf(format, a...))}
	}
	ends := p.Ends()
	switch {
	case p.Now < 0 || p.Now > Most:
		return wrong("now", "%s is not from 0 to %s", p.Now.Grouped(), Most.Format())
	case p.Growth < LeastGrowth || p.Growth > MostGrowth:
		return wrong("growth", "growth %s a month is not between %s and %s", p.Growth, LeastGrowth, MostGrowth)
	case ends == SCurve && p.Growth < 0:
		return wrong("growth", "an S-curve grows, and %s a month is below none", p.Growth)
	case ends == SCurve && p.Ceiling < p.Now:
		return wrong("ceiling", "the ceiling, %s, is below today's %s", p.Ceiling.Grouped(), p.Now.Grouped())
	case ends == Turnover && (p.Leaves < 0 || p.Leaves > money.Whole):
		return wrong("leaves", "leavers of %s a month are not between 0%% and 100%%", p.Leaves)
	}
	return nil
}
