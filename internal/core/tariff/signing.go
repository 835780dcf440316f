package tariff

import (
	"slices"

	"ninecoins/internal/core/pricelist"
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
				if s.refs[l].charge.Key != first.refs[l].charge.Key {
					return false
				}
			}
		}
	}
	return true
}

// Signing returns what is charged once at signing, in minor units of the study:
// without the charges that the plan which is left for it has under the same
// keys. It is false where the amount does not fit.
func (p *Program) Signing(q []int64, left *pricelist.Plan) (int64, bool) {
	c, _ := p.Cost(0, 0, q)
	s := &p.at(0).ways[c.Way].once
	if len(s.lines) == 0 {
		return 0, true
	}
	had := func(key string) bool {
		return left != nil && slices.ContainsFunc(left.Charges, func(ch pricelist.Charge) bool { return ch.Kind == pricelist.Once && ch.Key == key })
	}
	if !slices.ContainsFunc(s.refs, func(r ref) bool { return had(r.charge.Key) }) {
		return s.price(q)
	}
	some := sheet{settle: s.settle, most: s.most}
	for i := range s.lines {
		if !had(s.refs[i].charge.Key) {
			some.lines = append(some.lines, s.lines[i])
		}
	}
	return some.exactly(q)
}
