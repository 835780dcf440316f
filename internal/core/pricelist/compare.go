package pricelist

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"
)

// Turn tells which way a thing of a list has changed, for who buys.
type Turn string

// The turns.
const (
	Dearer  Turn = "dearer"
	Cheaper Turn = "cheaper"
	More    Turn = "more"
	Less    Turn = "less"
	Added   Turn = "new"
	Gone    Turn = "gone"
	Altered Turn = "changed"
)

// Difference is one thing in which two lists of a platform differ.
type Difference struct {
	Plan    string // the name of the plan or add-on; "" for the whole list
	What    string // "a month", "contacts up to 5,000, yearly"
	Was, Is string // as people read them; "" where it is not there
	Turn    Turn
	Share   float64 // of prices: by how much it rose, as a share; 0 where there is none
	Feature string  // its key, where a feature differs
}

// Compare lists what differs between two editions, in the order of the later one.
// Plans, charges, terms, limits, add-ons and offers are the same where their keys are.
func Compare(before, after *Edition) []Difference {
	c := &comparing{before: before, after: after}
	c.fact("currency", before.Currency.Code(), after.Currency.Code())
	c.fact("tax", sayTax(before.Tax), sayTax(after.Tax))
	c.fact("days of trial", fmt.Sprint(before.Trial.Days), fmt.Sprint(after.Trial.Days))
	c.fact("days to get money back", fmt.Sprint(before.Trial.RefundDays), fmt.Sprint(after.Trial.RefundDays))
	for i := range after.Meters {
		m := &after.Meters[i]
		if was, ok := before.Meter(m.Key); ok {
			c.fact("what counts as a "+m.Unit, was.Counts.String(), m.Counts.String())
		}
	}
	for i := range after.Plans {
		p := &after.Plans[i]
		if was, ok := before.Plan(p.Key); ok {
			c.plan(was, p)
			continue
		}
		c.all = append(c.all, Difference{Plan: p.Name, What: "plan", Is: "there", Turn: Added})
	}
	for i := range before.Plans {
		if _, there := after.Plan(before.Plans[i].Key); !there {
			c.all = append(c.all, Difference{Plan: before.Plans[i].Name, What: "plan", Was: "there", Turn: Gone})
		}
	}
	c.addOns()
	c.offers()
	return c.all
}

// comparing gathers differences.
type comparing struct {
	before, after *Edition
	name          string // of the plan
	all           []Difference
}

func sayTax(t Tax) string {
	if t.Included {
		return "included, " + t.Rate.String()
	}
	return "not included"
}

// fact compares what is neither more nor less.
func (c *comparing) fact(what, was, is string) {
	if was != is {
		c.all = append(c.all, Difference{Plan: c.name, What: what, Was: was, Is: is, Turn: Altered})
	}
}

// cost compares prices: there is none where it is not told.
func (c *comparing) cost(what string, was, is money.Amount, told, tells bool) {
	d := Difference{Plan: c.name, What: what, Turn: Dearer}
	if told {
		d.Was = c.before.Currency.FormatExact(was)
	}
	if tells {
		d.Is = c.after.Currency.FormatExact(is)
	}
	switch {
	case told == tells && (!told || was == is && c.before.Currency == c.after.Currency):
		return
	case !told:
		d.Turn = Added
	case !tells:
		d.Turn = Gone
	case is < was:
		d.Turn = Cheaper
	}
	if told && tells && was > 0 {
		d.Share = float64(is-was) / float64(was)
	}
	c.all = append(c.all, d)
}

// much compares quantities of which more is better for who buys.
func (c *comparing) much(what string, was, is usage.Quantity, none string) {
	if was == is {
		return
	}
	say := func(q usage.Quantity) string {
		if q == 0 && none != "" {
			return none
		}
		return q.Format()
	}
	d := Difference{Plan: c.name, What: what, Was: say(was), Is: say(is), Turn: More}
	if is < was {
		d.Turn = Less
	}
	c.all = append(c.all, d)
}

func (c *comparing) plan(was, is *Plan) {
	c.name = is.Name
	c.fact("name", was.Name, is.Name)
	c.fact("offered", string(was.Offered), string(is.Offered))
	for _, t := range is.Terms {
		old, ok := was.Term(t.Key)
		if !ok {
			c.all = append(c.all, Difference{Plan: c.name, What: "term " + t.Key, Is: "there", Turn: Added})
			continue
		}
		if old.Off != t.Off {
			c.much(t.Key+" takes off, per cent", usage.Quantity(old.Off*100), usage.Quantity(t.Off*100), "nothing")
		}
	}
	for _, t := range was.Terms {
		if _, there := is.Term(t.Key); !there {
			c.all = append(c.all, Difference{Plan: c.name, What: "term " + t.Key, Was: "there", Turn: Gone})
		}
	}
	c.charges(was.Charges, is.Charges)
	c.limits(was.Limits, is.Limits)
	c.features(was, is)
	c.name = ""
}

func named(c *Charge) string {
	if c.Label != "" {
		return usage.LowerFirst(c.Label)
	}
	return c.Key
}

func (c *comparing) charges(was, is []Charge) {
	find := func(all []Charge, key string) *Charge {
		if i := slices.IndexFunc(all, func(o Charge) bool { return o.Key == key }); i >= 0 {
			return &all[i]
		}
		return nil
	}
	for i := range is {
		one, old := &is[i], find(was, is[i].Key)
		switch {
		case old == nil:
			c.all = append(c.all, Difference{Plan: c.name, What: named(one), Is: string(one.Kind), Turn: Added})
			continue
		case old.Kind != one.Kind || old.Meter != one.Meter:
			c.fact("how "+named(one)+" is charged", strings.TrimSpace(string(old.Kind)+" "+old.Meter), strings.TrimSpace(string(one.Kind)+" "+one.Meter))
		}
		c.price(named(one), old.Price, one.Price)
		if one.Kind == Share || old.Kind == Share {
			c.fact(named(one)+", share", money.Share(old.Rate.Usual).String(), money.Share(one.Rate.Usual).String())
			c.cost(named(one)+", at least", old.Floor, one.Floor, old.Floor > 0, one.Floor > 0)
			c.cost(named(one)+", at most", old.Cap, one.Cap, old.Cap > 0, one.Cap > 0)
		}
		c.much(named(one)+" included", old.Included, one.Included, "")
		if old.AtLeast != one.AtLeast {
			c.much(named(one)+", least that is billed", one.AtLeast, old.AtLeast, "")
			d := &c.all[len(c.all)-1]
			d.Was, d.Is = d.Is, d.Was
		}
		c.much(named(one)+", size of a pack", old.Size, one.Size, "")
		c.bands(named(one), old, one)
	}
	for i := range was {
		if find(is, was[i].Key) == nil {
			c.all = append(c.all, Difference{Plan: c.name, What: named(&was[i]), Was: string(was[i].Kind), Turn: Gone})
		}
	}
}

// price compares a price and those of single terms.
func (c *comparing) price(what string, was, is Price) {
	c.cost(what, was.Usual, is.Usual, true, true)
	keys := maps.Clone(was.ByKey)
	if keys == nil {
		keys = map[string]money.Amount{}
	}
	maps.Copy(keys, is.ByKey)
	for _, key := range sortedKeys(keys) {
		a, told := was.ByKey[key]
		b, tells := is.ByKey[key]
		c.cost(what+", "+key, a, b, told, tells)
	}
}

func (c *comparing) bands(name string, was, is *Charge) {
	for i := range is.Bands {
		b := &is.Bands[i]
		if old, there := was.Band(b.KeyOf()); there {
			c.price(b.Called(name), old.Price, b.Price)
		} else {
			c.cost(b.Called(name), 0, b.Price.Usual, false, true)
		}
	}
	for i := range was.Bands {
		b := &was.Bands[i]
		if _, there := is.Band(b.KeyOf()); !there {
			c.cost(b.Called(name), b.Price.Usual, 0, true, false)
		}
	}
	var a, b money.Amount
	if was.Above != nil {
		a = was.Above.Price.Usual
	}
	if is.Above != nil {
		b = is.Above.Price.Usual
	}
	if len(was.Bands)+len(is.Bands) > 0 {
		c.cost(name+", beyond the bands", a, b, was.Above != nil, is.Above != nil)
	}
}

func (c *comparing) limits(was, is []Limit) {
	key := func(l *Limit) string { return l.KeyOf() }
	say := func(e *Edition, l *Limit) string {
		switch {
		case l.Unlimited:
			return unlimited
		case l.OfMeter != "":
			return l.Times.Format() + " times " + e.units(l.OfMeter)
		}
		return l.Most.Format()
	}
	for i := range is {
		l := &is[i]
		at := slices.IndexFunc(was, func(o Limit) bool { return key(&o) == key(l) })
		what := "limit on " + c.after.units(l.Meter)
		if at < 0 {
			c.all = append(c.all, Difference{Plan: c.name, What: what, Is: say(c.after, l), Turn: Added})
			continue
		}
		old := &was[at]
		if a, b := say(c.before, old), say(c.after, l); a != b {
			d := Difference{Plan: c.name, What: what, Was: a, Is: b, Turn: Less}
			if l.Unlimited || !old.Unlimited && (l.Most > old.Most || l.Times > old.Times) {
				d.Turn = More
			}
			c.all = append(c.all, d)
		}
	}
	for i := range was {
		if l := &was[i]; !slices.ContainsFunc(is, func(o Limit) bool { return key(&o) == key(l) }) {
			c.all = append(c.all, Difference{Plan: c.name, What: "limit on " + c.before.units(l.Meter), Was: say(c.before, l), Turn: Gone})
		}
	}
}

// units is what a meter counts.
func (e *Edition) units(meter string) string {
	if m, ok := e.Meter(meter); ok {
		return m.Unit + "s"
	}
	return meter
}

func (c *comparing) features(was, is *Plan) {
	keys := map[string]Feature{}
	maps.Copy(keys, was.Features)
	maps.Copy(keys, is.Features)
	for _, key := range sortedKeys(keys) {
		a, b := was.Feature(key), is.Feature(key)
		if a.Cell() == b.Cell() {
			continue
		}
		d := Difference{Plan: c.name, What: FeatureName(key), Was: a.Cell(), Is: b.Cell(), Turn: Altered, Feature: key}
		switch {
		case !a.Has.Meets() && b.Has.Meets():
			d.Turn = More
		case a.Has.Meets() && !b.Has.Meets():
			d.Turn = Less
		}
		c.all = append(c.all, d)
	}
}

func (c *comparing) addOns() {
	for i := range c.after.AddOns {
		a := &c.after.AddOns[i]
		old, ok := c.before.AddOn(a.Key)
		if !ok {
			c.all = append(c.all, Difference{Plan: a.Name, What: "add-on", Is: "there", Turn: Added})
			continue
		}
		c.name = a.Name
		c.charges(old.Charges, a.Charges)
		c.fact("sold on", strings.Join(old.Plans, ", "), strings.Join(a.Plans, ", "))
		c.fact("included on", strings.Join(old.IncludedOn, ", "), strings.Join(a.IncludedOn, ", "))
		c.name = ""
	}
	for i := range c.before.AddOns {
		if _, there := c.after.AddOn(c.before.AddOns[i].Key); !there {
			c.all = append(c.all, Difference{Plan: c.before.AddOns[i].Name, What: "add-on", Was: "there", Turn: Gone})
		}
	}
}

func (c *comparing) offers() {
	say := func(o *Offer) string {
		text := o.Called()
		if o.Months > 0 {
			text += fmt.Sprintf(", %d months", o.Months)
		}
		if !o.Until.IsZero() {
			text += ", until " + o.Until.Format("2 Jan 2006")
		}
		return text
	}
	find := func(all []Offer, key string) *Offer {
		if i := slices.IndexFunc(all, func(o Offer) bool { return o.Key == key }); i >= 0 {
			return &all[i]
		}
		return nil
	}
	for i := range c.after.Offers {
		o := &c.after.Offers[i]
		if old := find(c.before.Offers, o.Key); old == nil {
			c.all = append(c.all, Difference{What: "offer", Is: say(o), Turn: Added})
		} else if a, b := say(old), say(o); a != b || old.Off != o.Off || old.Price != o.Price {
			c.fact("offer", a+" "+old.Off.String(), b+" "+o.Off.String())
		}
	}
	for i := range c.before.Offers {
		if find(c.after.Offers, c.before.Offers[i].Key) == nil {
			c.all = append(c.all, Difference{What: "offer", Was: say(&c.before.Offers[i]), Turn: Gone})
		}
	}
}

// Unchanged is the list as if it was read again on a later day, with nothing changed.
func (e Edition) Unchanged(on time.Time) Edition {
	e.ObservedOn = on.Truncate(24 * time.Hour)
	return e
}
