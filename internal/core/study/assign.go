package study

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/usage"
)

// assign settles which tool of an option brings which must, and compiles each tool's
// price list for that. Of an option of one tool, it brings them all. Of a stack, each
// must is brought by the tool, natively or over a bridge, with which the whole costs
// least at today's usage: found exactly, by branch and bound over the musts. The
// bound is what the tools cost with what was assigned so far; a must more never
// makes a tool cheaper. Musts that the same tools bring in the same ways are
// assigned together. Where no assignment serves, the first is kept.
func (o *Outcome) assign(r *Result) error {
	if !r.Option.Stack() {
		return o.alone(r)
	}
	a := &assignment{o: o, r: r, memo: map[string]*priced{}, carrier: -1, best: -1}
	for i := range r.Tools {
		if r.Tools[i].Tool.Carries {
			a.carrier = i
		}
	}
	a.classes()
	a.parts = make([][]coverage.Need, len(r.Tools))
	a.over = make([][]coverage.Need, len(r.Tools))
	if len(a.open) == 0 {
		a.keep(0)
	} else {
		a.branch(0)
	}
	if a.err != nil && a.found == nil {
		return a.err
	}
	for i, p := range a.found {
		r.Tools[i].candidate, r.Tools[i].Musts = p.Candidate, p.Musts
	}
	return nil
}

// alone lets the one tool of an option bring every must that it has.
func (o *Outcome) alone(r *Result) (err error) {
	var musts []coverage.Need
	for i := range r.Coverage {
		// A must that nothing has puts the option out; it is costed without it.
		if c := &r.Coverage[i]; c.Need.Level == coverage.Must && !fails(c) {
			musts = append(musts, c.Need)
		}
	}
	t := &r.Tools[0]
	for _, n := range musts {
		t.Musts = append(t.Musts, n.Feature)
	}
	if like := o.like.compiled(r, t.Musts); like != nil {
		t.candidate, err = o.candidate(&r.Option, like.Edition, t.Musts, o.Values, like.Programs)
		return err
	}
	e, err := o.Study.priced(t.Tool.Edition, musts, nil)
	if err != nil {
		return err
	}
	t.candidate, err = o.candidate(&r.Option, e, t.Musts, o.Values, nil)
	return err
}

// assignment is the search for it.
type assignment struct {
	o       *Outcome
	r       *Result
	carrier int     // tool that bridges run through; -1: none
	open    []class // to be assigned
	memo    map[string]*priced
	parts   [][]coverage.Need // what each tool brings
	over    [][]coverage.Need // of that, over a bridge that the carrier carries
	best    money.Amount      // -1: nothing is found yet
	found   []*priced
	err     error
	tried   int
}

// class is some musts that the same tools bring in the same ways.
type class struct {
	needs []coverage.Need
	ways  []wayIn
}

// wayIn is a tool that brings a must.
type wayIn struct {
	tool   int
	bridge bool // over a bridge that the carrier carries
}

// priced is a tool that brings some musts.
type priced struct {
	projection.Candidate
	today  money.Amount
	serves bool
	plans  []*pricelist.Plan // that it takes, by month; nil where none serves. Worked out for what a carrier carries
}

// takes are the plans that a tool takes, by month.
func (p *priced) takes() ([]*pricelist.Plan, error) {
	if p.plans == nil {
		s, err := projection.Project(p.Candidate)
		if err != nil {
			return nil, err
		}
		p.plans = make([]*pricelist.Plan, len(s.Months))
		for t := range s.Months {
			if m := &s.Months[t]; m.Serves {
				p.plans[t] = m.Plan()
			}
		}
	}
	return p.plans, nil
}

// mostTried bounds the search: it ends with the best found so far where a stack could
// be assigned in more ways than anybody's needs have.
const mostTried = 20_000

// classes groups the musts by who brings them and how. A must that a tool has
// natively on each of its plans costs nothing there.
func (a *assignment) classes() {
	at := map[string]int{}
	for i := range a.r.Coverage {
		cell := &a.r.Coverage[i]
		// A must that nothing has puts the option out; it is costed without it.
		if cell.Need.Level != coverage.Must || fails(cell) {
			continue
		}
		var ways []wayIn
		sign := ""
		for t := range a.r.Tools {
			e := a.r.Tools[t].Tool.Edition
			c := coverage.Of(e, cell.Need, a.r.Option.Now)
			if c.Answer == coverage.Unmet || c.Answer != cell.Answer {
				continue
			}
			native, bridge := false, false
			for p := range e.Plans {
				f := e.Plans[p].Feature(cell.Need.Feature)
				bridged := f.Has == pricelist.Bridge && a.carrier >= 0 && f.Uses.Amount != ""
				native, bridge = native || !bridged && cell.Need.Meets(f) == cell.Answer, bridge || bridged
				sign += fmt.Sprintf("%d.%d:%v:%s:%v:%s|", t, p, cell.Need.Meets(f), f.Has, f.Uses, f.AddOn)
			}
			if native {
				ways = append(ways, wayIn{t, false})
			}
			if bridge {
				ways = append(ways, wayIn{t, true})
			}
		}
		if len(ways) == 0 {
			ways = []wayIn{{cell.Tool, false}}
		}
		if i, there := at[sign]; there {
			a.open[i].needs = append(a.open[i].needs, cell.Need)
			continue
		}
		at[sign] = len(a.open)
		a.open = append(a.open, class{[]coverage.Need{cell.Need}, ways})
	}
	slices.SortStableFunc(a.open, func(x, y class) int { return len(x.ways) - len(y.ways) })
}

// branch tries all ways to assign the musts from a class on.
func (a *assignment) branch(from int) {
	if a.tried++; a.tried > mostTried && a.found != nil {
		return
	}
	if from == len(a.open) {
		a.keep(a.cost(true))
		return
	}
	if a.best >= 0 && len(a.open[from].ways) > 1 && a.cost(false) >= a.best {
		return
	}
	for _, w := range a.open[from].ways {
		n, over := len(a.parts[w.tool]), len(a.over[w.tool])
		a.parts[w.tool] = append(a.parts[w.tool], a.open[from].needs...)
		if w.bridge {
			a.over[w.tool] = append(a.over[w.tool], a.open[from].needs...)
		}
		a.branch(from + 1)
		a.parts[w.tool], a.over[w.tool] = a.parts[w.tool][:n], a.over[w.tool][:over]
	}
}

// unserved weighs more than whatever is served.
const unserved = money.Amount(1) << 60 / MostTools

// cost is what the tools cost today with what is assigned: before all of it is, what
// they cost at least, without what the carrier carries.
func (a *assignment) cost(all bool) (sum money.Amount) {
	for t := range a.r.Tools {
		if t == a.carrier && !all {
			continue // more tasks may make it cheaper, on a list of falling rates
		}
		p, err := a.tool(t)
		switch {
		case err != nil && a.err == nil:
			a.err = err
			return unserved
		case err != nil:
			return unserved
		case !p.serves:
			sum += unserved
		default:
			sum += p.today
		}
	}
	return sum
}

// keep notes an assignment that is better than the best so far.
func (a *assignment) keep(cost money.Amount) {
	if a.best >= 0 && cost >= a.best {
		return
	}
	found := make([]*priced, len(a.r.Tools))
	for t := range a.r.Tools {
		p, err := a.tool(t)
		if err != nil {
			a.err = err
			return
		}
		found[t] = p
	}
	a.best, a.found = cost, found
}

// tool compiles a tool for what is assigned to it, once.
func (a *assignment) tool(t int) (*priced, error) {
	key := fmt.Sprint(t)
	var names []string
	native := map[string]bool{}
	for _, n := range a.parts[t] {
		names = append(names, n.Feature)
		native[n.Feature] = a.carrier >= 0
	}
	for _, n := range a.over[t] {
		delete(native, n.Feature)
		names = append(names, ">"+n.Feature)
	}
	if t == a.carrier {
		for from := range a.over {
			for _, n := range a.over[from] {
				names = append(names, fmt.Sprintf("%d<%s", from, n.Feature))
			}
		}
	}
	slices.Sort(names)
	key += strings.Join(names, " ")
	if p := a.memo[key]; p != nil {
		return p, nil
	}
	p, err := a.price(t, native)
	if err == nil {
		a.memo[key] = p
	}
	return p, err
}

func (a *assignment) price(t int, native map[string]bool) (*priced, error) {
	s := a.o.Study
	if a.carrier >= 0 { // tasks of bridges are the carrier's, and have no price of their own
		own := *s
		own.Connector.Price = 0
		s = &own
	}
	e, err := s.priced(a.r.Tools[t].Tool.Edition, a.parts[t], native)
	if err != nil {
		return nil, err
	}
	musts := make([]string, len(a.parts[t]))
	for i, n := range a.parts[t] {
		musts[i] = n.Feature
	}
	values := a.o.Values
	if t == a.carrier {
		if values, err = a.carried(); err != nil {
			return nil, err
		}
	}
	c, err := a.o.candidate(&a.r.Option, e, musts, values, nil)
	if err != nil {
		return nil, err
	}
	p := &priced{Candidate: c}
	c.Rows = c.Rows[:1]
	today, err := projection.Project(c)
	if err != nil {
		return nil, err
	}
	p.serves, p.today = today.Months[0].Serves, today.Months[0].Monthly()
	return p, nil
}

// carried are the drivers as the carrier sees them: with the tasks of the bridges
// that run through it, each month those of the plan that is taken then.
func (a *assignment) carried() (usage.Columns, error) {
	values := a.o.Values
	for t := range a.over {
		if len(a.over[t]) == 0 {
			continue
		}
		plans, err := a.bridged(t)
		if err != nil {
			return values, err
		}
		for _, n := range a.over[t] {
			if values, err = a.carry(values, a.r.Tools[t].Tool.Edition, plans, &n); err != nil {
				return values, fmt.Errorf("the bridge to %s: %w", n.Name, err)
			}
		}
	}
	return values, nil
}

// bridged are the plans that a tool takes, by month. What the carrier takes hangs on what it
// carries: of its own bridges the lowest plan that has one counts.
func (a *assignment) bridged(t int) ([]*pricelist.Plan, error) {
	if t != a.carrier {
		p, err := a.tool(t)
		if err != nil {
			return nil, err
		}
		return p.takes()
	}
	e := a.r.Tools[t].Tool.Edition
	for i := range e.Plans {
		if slices.ContainsFunc(a.over[t], func(n coverage.Need) bool { return e.Plans[i].Feature(n.Feature).Has == pricelist.Bridge }) {
			return slices.Repeat([]*pricelist.Plan{&e.Plans[i]}, a.o.Values.Rows()), nil
		}
	}
	return nil, nil
}

// carry adds what a bridge uses on the plans that are taken, by month.
func (a *assignment) carry(values usage.Columns, e *pricelist.Edition, plans []*pricelist.Plan, n *coverage.Need) (usage.Columns, error) {
	more := map[string][]float64{} // by driver
	tasks := map[pricelist.Uses][]float64{}
	for t, taken := range plans {
		if taken == nil {
			continue
		}
		plan, ok := e.Plan(taken.Key) // as the list has it: the bridge may be priced as an add-on
		if !ok {
			continue
		}
		uses := plan.Feature(n.Feature).Uses
		if uses.Amount == "" || plan.Feature(n.Feature).Has != pricelist.Bridge {
			continue
		}
		if tasks[uses] == nil {
			f, err := usage.ParseFormula(uses.Amount)
			if err != nil {
				return values, err
			}
			if tasks[uses], err = f.Over(a.o.Values); err != nil {
				return values, err
			}
		}
		if more[uses.Driver] == nil {
			more[uses.Driver] = make([]float64, len(plans))
		}
		more[uses.Driver][t] += tasks[uses][t]
	}
	for _, driver := range slices.Sorted(maps.Keys(more)) {
		var err error
		if values, err = a.o.Model.Adding(values, driver, more[driver]); err != nil {
			return values, err
		}
	}
	return values, nil
}
