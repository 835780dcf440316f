package projection

import (
	"slices"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/tariff"
)

// contract is a plan with the offers that it is on, and the one that stands alone which was
// chosen at its signing. Terms of a plan follow each other without a new signing.
type contract struct {
	rank   int
	offers []*pricelist.Offer
	chosen *pricelist.Offer
	lasts  int // months after signing until its offers have ended
	at     int // its first state
}

func (c contract) same(as contract) bool {
	return c.rank == as.rank && c.chosen == as.chosen && slices.Equal(c.offers, as.offers)
}

// chosenOf is the offer of a program that stands alone; nil for none.
func chosenOf(p *tariff.Program) *pricelist.Offer {
	for _, o := range p.Offers {
		if !o.Together {
			return o
		}
	}
	return nil
}

// choices adds the terms that a plan's offer which stands alone does not cover: it can be chosen
// with these, and is had once a term follows that it does. An offer for first signers is not
// had then.
func (h *choosing) choices() {
	type choice struct {
		rank  int
		offer *pricelist.Offer
	}
	var choices []choice
	for _, c := range h.contracts {
		if one := (choice{c.rank, c.chosen}); c.chosen != nil && !c.chosen.NewCustomers && !slices.Contains(choices, one) {
			choices = append(choices, one)
		}
	}
	all := h.all
	for _, c := range choices {
		for _, p := range all {
			covers := func(o *tariff.Program) bool {
				return o.Rank == p.Rank && o.Term.Key == p.Term.Key && chosenOf(o) == c.offer
			}
			if p.Rank == c.rank && chosenOf(p) == nil && !slices.ContainsFunc(all, covers) {
				one := *p
				h.add(&one, c.offer)
			}
		}
	}
}

func (h *choosing) add(p *tariff.Program, chosen *pricelist.Offer) {
	one := contract{rank: p.Rank, offers: p.Offers, chosen: chosen, lasts: p.Settles()}
	at := slices.IndexFunc(h.contracts, one.same)
	if at < 0 {
		at, h.contracts = len(h.contracts), append(h.contracts, one)
	}
	h.contracts[at].lasts = max(h.contracts[at].lasts, one.lasts)
	i := len(h.all)
	h.all, h.of = append(h.all, p), append(h.of, at)
	kind := slices.IndexFunc(h.kinds, func(k []int) bool { return h.all[k[0]].Term.Like(p.Term) })
	if kind < 0 {
		kind, h.kinds = len(h.kinds), append(h.kinds, nil)
	}
	h.kinds[kind] = append(h.kinds[kind], i)
}
