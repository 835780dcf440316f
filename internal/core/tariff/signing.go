package tariff

import (
	"fmt"
	"math/big"
	"slices"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
)

// ChargesOnce reports whether anything is charged at signing.
func (p *Program) ChargesOnce() bool {
	return slices.ContainsFunc(p.phases, func(f *phase) bool {
		return slices.ContainsFunc(f.ways, func(w way) bool { return len(w.once.lines) > 0 })
	})
}

// SignsAtFixed reports whether [Program.Signing] says the same whatever is used.
func (p *Program) SignsAtFixed() bool {
	first := &p.at(0).ways[0].once
	for _, f := range p.phases {
		for i := range f.ways {
			s := &f.ways[i].once
			if len(s.flats) != len(s.lines) || len(s.lines) != len(first.lines) || s.fixed != first.fixed || s.exactOnly {
				return false
			}
			for l := range s.refs {
				if s.refs[l].charge.Key != first.refs[l].charge.Key || s.refs[l].addOn != first.refs[l].addOn || slices.ContainsFunc(s.refs[l].had, func(h hadLine) bool { return h.line.meter >= 0 }) {
					return false
				}
			}
		}
	}
	return true
}

// Signing returns what is charged once at signing, in minor units of the study: less what the plan
// that is left for it charges under the same keys. It is false where the amount does not fit.
func (p *Program) Signing(q []int64, left *pricelist.Plan) (int64, bool) {
	c, _ := p.Cost(0, 0, q)
	s := &p.at(0).ways[c.Way].once
	if left == nil || !slices.ContainsFunc(s.refs, func(r ref) bool { return r.from(left) != nil }) {
		if len(s.lines) == 0 {
			return 0, true
		}
		return s.price(q)
	}
	total := new(big.Int)
	for i := range s.lines {
		_, amount := s.lines[i].at(q)
		total.Add(total, s.refs[i].less(rounded(amount), left, q))
	}
	return s.inMoney(total)
}

// Begun returns what is charged once, in minor units of the study, for the add-ons that a month's
// readings ask for on a plan which was signed before, and those of the month before do not. It is
// false where the amount does not fit.
func (p *Program) Begun(since, into int, before, q []int64) (int64, bool) {
	all := p.begun(since, into, before, q)
	if all == nil {
		return 0, true
	}
	s, total := all.once, new(big.Int)
	for i := range s.lines {
		if all.begins(&s.refs[i]) {
			_, amount := s.lines[i].at(q)
			total.Add(total, rounded(amount))
		}
	}
	return s.inMoney(total)
}

// beginning is what is charged once where add-ons begin beside others.
type beginning struct {
	once *sheet
	had  []*pricelist.AddOn
}

func (b *beginning) begins(r *ref) bool { return r.addOn != nil && !slices.Contains(b.had, r.addOn) }

// begun tells which add-ons a month takes that the one before had not; nil where it is none that
// charges for it.
func (p *Program) begun(since, into int, before, q []int64) *beginning {
	if !p.fees || since+into == 0 {
		return nil
	}
	was, served := p.Cost(since, into, before)
	now, _ := p.Cost(since, into, q)
	if !served || was.Way == now.Way {
		return nil
	}
	ways := p.at(since).ways
	b := &beginning{&ways[now.Way].once, ways[was.Way].addOns}
	if !slices.ContainsFunc(b.once.refs, func(r ref) bool { return b.begins(&r) }) {
		return nil
	}
	return b
}

// Begins makes the receipt of a month that of one in which add-ons begin ([Program.Begun]): what they
// charge once is added.
func (p *Program) Begins(r *quote.Receipt, since, into int, before, q []int64) {
	all := p.begun(since, into, before, q)
	if all == nil {
		return
	}
	first := len(r.Lines)
	p.lines(r, all.once, 0, q)
	lines := r.Lines[first:]
	for i := len(lines) - 1; i >= 0; i-- {
		if all.begins(&all.once.refs[i]) {
			r.Once += lines[i].Amount
		} else {
			lines = slices.Delete(lines, i, i+1)
		}
	}
	r.Lines, r.Begins = r.Lines[:first+len(lines)], true
}

// from is what a plan charges under the key of a line; nil where that is nothing.
func (r *ref) from(plan *pricelist.Plan) *exactLine {
	for i := range r.had {
		if r.had[i].plan == plan.Key {
			return &r.had[i].line
		}
	}
	return nil
}

// less takes off an amount what the plan that is left charges for the same, in minor units of the list.
func (r *ref) less(amount *big.Int, left *pricelist.Plan, q []int64) *big.Int {
	line := r.from(left)
	if line == nil {
		return amount
	}
	_, was := line.at(q)
	if amount.Sub(amount, rounded(was)); amount.Sign() < 0 {
		amount.SetInt64(0)
	}
	return amount
}

// Moved makes the receipt of a month in which the plan is signed that of who leaves another for it:
// what that plan charges at signing for the same is taken off, and said.
func (p *Program) Moved(r *quote.Receipt, q []int64, left *pricelist.Plan) {
	c, _ := p.Cost(0, 0, q)
	s := &p.at(0).ways[c.Way].once
	for i := range s.refs {
		at := slices.IndexFunc(r.Lines, func(l quote.Line) bool { return l.Once && s.refs[i].charge != nil && l.Key == s.refs[i].charge.Key })
		if at < 0 || s.refs[i].from(left) == nil {
			continue
		}
		minor, l := r.Conversion.From.Minor(), &r.Lines[at]
		was := l.Amount
		l.Amount = money.Amount(s.refs[i].less(big.NewInt(int64(was)/minor), left, q).Int64() * minor)
		r.Once -= was - l.Amount
		if l.Amount == 0 {
			r.Lines = slices.Delete(r.Lines, at, at+1)
		} else if l.Amount < was {
			r.Notes = append(r.Notes, fmt.Sprintf("%s: %s of %s was charged on %s before.", l.Label, r.Conversion.From.Format(was-l.Amount), r.Conversion.From.Format(was), left.Name))
		}
	}
}
