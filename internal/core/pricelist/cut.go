package pricelist

import (
	"maps"
	"slices"

	"ninecoins/internal/core/money"
)

// Cut is an edition with every price of plans and add-ons lower by a share, rounded to a
// millionth, half away from zero. What is a share of money already is lower by as much.
func Cut(e *Edition, by money.Share) *Edition {
	cut := *e
	left := int64(money.Whole - by)
	lower := func(a money.Amount) money.Amount {
		whole, rest := int64(a)/int64(money.Whole), int64(a)%int64(money.Whole)
		return money.Amount(whole*left + (rest*left+int64(money.Whole)/2)/int64(money.Whole))
	}
	price := func(p Price) Price {
		p.Usual = lower(p.Usual)
		if p.ByKey = maps.Clone(p.ByKey); p.ByKey != nil {
			for key, a := range p.ByKey {
				p.ByKey[key] = lower(a)
			}
		}
		return p
	}
	charges := func(all []Charge) []Charge {
		all = slices.Clone(all)
		for i := range all {
			ch := &all[i]
			ch.Price, ch.Floor, ch.Cap = price(ch.Price), lower(ch.Floor), lower(ch.Cap)
			ch.Rate = price(ch.Rate)
			ch.Bands = slices.Clone(ch.Bands)
			for k := range ch.Bands {
				ch.Bands[k].Price = price(ch.Bands[k].Price)
			}
			if ch.Above != nil {
				above := *ch.Above
				above.Price = price(above.Price)
				ch.Above = &above
			}
		}
		return all
	}
	cut.Plans, cut.AddOns = slices.Clone(e.Plans), slices.Clone(e.AddOns)
	for i := range cut.Plans {
		cut.Plans[i].Charges = charges(cut.Plans[i].Charges)
	}
	for i := range cut.AddOns {
		cut.AddOns[i].Charges = charges(cut.AddOns[i].Charges)
	}
	return &cut
}
