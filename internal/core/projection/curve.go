package projection

import (
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
)

// Curve is what a plan on a term costs a month along one driver, offers left out.
type Curve struct {
	Plan   *pricelist.Plan
	Term   pricelist.Term
	Points []Point
	May    bool // of a must it is not known whether the plan meets it
	Cut    bool // there are more turns than [mostTurns]: what lies beyond the last is left out
}

// Point is a turn of a curve: from X to Last the price is straight, but for the cents
// that are rounded and, where a meter rounds a formula up, for what one unit costs; behind
// Last it may jump.
type Point struct {
	X, Last int64 // of the driver
	Serves  bool
	From    money.Amount // a month at X
	To      money.Amount // a month at Last
	Cause   tariff.Cause // what has brought the price there; of the first point nothing
	Meter   string       // by which it did
}

// mostTurns is how many turns of one curve are looked for.
const mostTurns = 400

// Curves follows every plan of a list on its terms of a length along a driver, from low
// to high; read gives the readings of the meters at a value of it. A plan that is not
// sold on such a term is left out. Errors are those of [tariff.Compile].
func Curves(e *pricelist.Edition, asked tariff.Deal, months int, read func(x int64) []int64, low, high int64) ([]Curve, error) {
	asked.Customer.Here = true // offers are for a while; the curve is what holds after them
	programs, err := tariff.All(e, asked)
	if err != nil {
		return nil, err
	}
	var all []Curve
	for i, p := range programs {
		if p.Term.Months != months || i > 0 && programs[i-1].Plan == p.Plan && programs[i-1].Term == p.Term {
			continue
		}
		all = append(all, curve(p, read, low, high))
	}
	return all, nil
}

func curve(p *tariff.Program, read func(x int64) []int64, low, high int64) Curve {
	c := Curve{Plan: p.Plan, Term: p.Term, May: len(p.Questions) > 0}
	d := &tariff.Drive{Program: p, Since: LongSince, Read: read}
	at := func(x int64) quote.Receipt { return p.Explain(LongSince, 0, read(x)) }
	x, cause, meter := low, tariff.Cause{}, ""
	for len(c.Points) < mostTurns {
		here := at(x)
		one := Point{X: x, Serves: here.May(), From: here.Monthly(), Cause: cause, Meter: meter}
		next, m, why, more := d.Next(x, high)
		last := high
		if more {
			last = next - 1
		}
		end := at(last)
		one.Last, one.To = last, end.Monthly()
		c.Points = append(c.Points, one)
		if !more || next > high {
			return c
		}
		x, cause, meter = next, why, ""
		if m >= 0 {
			meter = p.Edition.Meters[m].Key
		}
	}
	c.Cut = true
	return c
}

// At is what the curve says of a value of the driver.
func (c *Curve) At(x int64) (monthly money.Amount, serves bool) {
	for i := range c.Points {
		p := &c.Points[i]
		switch {
		case x < p.X || x > p.Last:
			continue
		case p.Last == p.X:
			return p.From, p.Serves
		}
		return p.From + money.Amount(float64(p.To-p.From)*float64(x-p.X)/float64(p.Last-p.X)), p.Serves
	}
	return 0, false
}
