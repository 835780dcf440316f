package usage

import (
	"math"
	"slices"
)

// When is the first month of a model, and the case that it follows. The zero value is
// the expected case from no month.
type When struct {
	Start Month
	Case  Case
}

// after is the course of a shape, n months after it stood at a level.
func (p *Path) after(shape Shape, level float64, n int) float64 {
	if n == 0 {
		return level
	}
	switch shape {
	case Constant, ByMonth:
		return level
	case Straight:
		return level + p.Add.Float()*float64(n)
	case SCurve:
		if level <= 0 {
			return 0
		}
		top := p.Ceiling.Float()
		return top / (1 + (top/level-1)*math.Pow(1+p.Growth.Float(), -float64(n)))
	case Turnover:
		joins, leaves := p.Joins.Float(), p.Leaves.Float()
		if leaves == 0 {
			return level + joins*float64(n)
		}
		settles := joins / leaves
		return settles + (level-settles)*math.Pow(1-leaves, float64(n))
	}
	if p.Growth == 0 {
		return level
	}
	return level * math.Pow(1+p.Growth.Float(), float64(n))
}

// plain reports whether the course is that of its shape in every month.
func (p *Path) plain() bool {
	return p.Shape != ByMonth && p.Season == Season{} && len(p.Events) == 0 && p.Clean.Every == 0
}

// At returns the value in month t of a path without what hangs on the calendar: see
// [Path.Over].
func (p Path) At(t int) float64 { return p.in(When{}, t) }

func (p *Path) in(w When, t int) float64 {
	if c := p.Under(w.Case); c.plain() {
		return c.after(c.Shape, c.Now.Float(), t)
	}
	return p.Over(w, t+1)[t]
}

// Over returns the value in each of the first months. In the first it stands at Now,
// its season included, so the level there is Now divided by the factor of that month;
// in month t the value is the level times the factor of that month. Every so many
// months list cleaning takes its share of the level; then what stays of an event takes
// its place, so that the value of that month is what the event makes of it, and the
// course goes on from there. Events of one month change the value of that month alone,
// in the order in which they stand. Values told by month are values, seasons and
// cleaning included, and hold until the next; cleaning begins after the last.
// A result may be negative or too large to hold; [Model] refuses both.
func (p Path) Over(w When, months int) []float64 {
	c := p.Under(w.Case)
	values := make([]float64, months)
	if c.plain() {
		for t := range values {
			values[t] = c.after(c.Shape, c.Now.Float(), t)
		}
		return values
	}
	shape, seasonal := c.Shape, true
	told, last := c.told(w.Start)
	if shape == ByMonth {
		shape, seasonal = Constant, len(told) == 0
		if seasonal {
			shape = c.Then
		}
	}
	factor := func(t int) float64 {
		if !seasonal {
			return 1
		}
		return c.Season.At(w.Start.Plus(t))
	}
	level, since := 0.0, 0
	put := func(t int, value float64) {
		level, since = value, t
		if f := factor(t); f > 0 {
			level /= f
		}
	}
	put(0, c.Now.Float())
	for t := range values {
		month := w.Start.Plus(t)
		if c.Clean.Every > 0 && t > max(0, last) && t%c.Clean.Every == 0 {
			level, since = c.after(shape, level, t-since)*(1-c.Clean.Share.Float()), t
		}
		if v, ok := told[t]; ok {
			if t == last {
				shape, seasonal = c.Then, true
			}
			put(t, v)
		}
		for _, e := range c.Events {
			if e.Stays && e.Month == month {
				put(t, e.makes(c.after(shape, level, t-since)*factor(t)))
			}
		}
		v := c.after(shape, level, t-since) * factor(t)
		for _, e := range c.Events {
			if !e.Stays && e.Month == month {
				v = e.makes(v)
			}
		}
		values[t] = v
	}
	return values
}

// makes is what the event makes of a value.
func (e Event) makes(v float64) float64 {
	switch e.Do {
	case Multiplies:
		return v * e.By.Float()
	case Sets:
		return e.By.Float()
	}
	return v + e.By.Float()
}

// told returns what is told by month, by how many months after the first it is; what
// was told last before that holds in it. last is where the last one stands.
func (p *Path) told(start Month) (values map[int]float64, last int) {
	values, last = map[int]float64{}, -1
	if p.Shape != ByMonth {
		return values, last
	}
	all := slices.Clone(p.Told)
	slices.SortStableFunc(all, func(a, b Told) int { return int(a.Month - b.Month) })
	for _, one := range all {
		at := max(0, int(one.Month-start))
		values[at], last = one.Value.Float(), max(last, at)
	}
	return values, last
}

// Outside lists the events that no month of the horizon has, which change nothing.
func (p *Path) Outside(start Month, months int) (all []Event) {
	for _, e := range p.Events {
		if e.Month < start || e.Month >= start.Plus(months) {
			all = append(all, e)
		}
	}
	return all
}
