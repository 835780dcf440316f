package web

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
)

// sayCharges writes the rules of charges: "up to 1,000 contacts €12.00, …".
func sayCharges(e *pricelist.Edition, charges []pricelist.Charge) []editionCharge {
	var out []editionCharge
	for _, ch := range charges {
		label := ch.Label
		if label == "" {
			label = ch.Key
		}
		out = append(out, editionCharge{label, sayCharge(e, ch)})
	}
	return out
}

func sayCharge(e *pricelist.Edition, ch pricelist.Charge) string {
	cur, units := e.Currency, ""
	if m, ok := e.Meter(ch.Meter); ok {
		units = quote.Plural(m.Unit)
	}
	switch ch.Kind {
	case pricelist.Unit:
		s := cur.FormatExact(ch.Price.Usual) + " each"
		if ch.Each > 1 {
			s = fmt.Sprintf("%s per %s", cur.FormatExact(ch.Price.Usual), money.Thousands(uint64(ch.Each)))
		}
		if ch.Included > 0 {
			s += fmt.Sprintf(", %s included", ch.Included.Format())
		}
		if ch.AtLeast > 0 {
			s += fmt.Sprintf(", at least %s", ch.AtLeast.Format())
		}
		return s + own(cur, ch.Price)
	case pricelist.Pack:
		return fmt.Sprintf("%s per started pack of %s %s, %s included", cur.FormatExact(ch.Price.Usual), ch.Size.Format(), units,
			ch.Included.Format()) + own(cur, ch.Price)
	case pricelist.Stair, pricelist.Graduated, pricelist.Volume:
		return sayBands(cur, units, ch)
	case pricelist.Share:
		s := sayShare(ch.Rate, units)
		if ch.Floor > 0 {
			s += ", at least " + cur.FormatExact(ch.Floor)
		}
		if ch.Cap > 0 {
			s += ", at most " + cur.FormatExact(ch.Cap)
		}
		return s
	case pricelist.Once:
		s := cur.FormatExact(ch.Price.Usual) + own(cur, ch.Price)
		if ch.Meter != "" {
			s = sayShare(ch.Rate, units)
		}
		if s += ", once"; len(ch.WaivedOn) > 0 {
			s += ", waived on " + list(ch.WaivedOn)
		}
		return s
	}
	return cur.FormatExact(ch.Price.Usual) + own(cur, ch.Price)
}

func sayBands(cur money.Currency, units string, ch pricelist.Charge) string {
	parts := make([]string, len(ch.Bands))
	for i, b := range ch.Bands {
		to := "up to " + b.To.Format()
		if b.Open {
			to = "more"
		}
		parts[i] = to + ": " + cur.FormatExact(b.Price.Usual)
		if ch.Kind != pricelist.Stair {
			parts[i] += orElse(ch.Each > 1, per(ch.Each), " each")
		}
		parts[i] += own(cur, b.Price)
	}
	s := map[pricelist.ChargeKind]string{pricelist.Graduated: ", each band at its own rate, ", pricelist.Volume: ", all at the rate of the band, "}[ch.Kind]
	s = units + orElse(s != "", s, " ") + strings.Join(parts, "; ")
	switch {
	case ch.Above != nil:
		s += fmt.Sprintf("; above, %s per %s more", cur.FormatExact(ch.Above.Price.Usual), money.Thousands(uint64(ch.Above.Each)))
	case !ch.Bands[len(ch.Bands)-1].Open:
		s += "; above, on request"
	}
	return s
}

func sayShare(rate pricelist.Price, units string) string {
	s := fmt.Sprintf("%s of %s", money.Share(rate.Usual), units)
	for _, key := range slices.Sorted(maps.Keys(rate.ByKey)) {
		s += fmt.Sprintf(" (%s %s)", key, money.Share(rate.ByKey[key]))
	}
	return s
}

func own(cur money.Currency, p pricelist.Price) string {
	s := ""
	for _, key := range slices.Sorted(maps.Keys(p.ByKey)) {
		s += fmt.Sprintf(" (%s %s)", key, cur.FormatExact(p.ByKey[key]))
	}
	return s
}

// sayLimitUnits is what a meter counts, several of them.
func sayLimitUnits(e *pricelist.Edition, meter string) string {
	if m, ok := e.Meter(meter); ok {
		return quote.Plural(m.Unit)
	}
	return meter
}

// sayLimit says what a plan takes at most: "at most 1 seat; beyond, move up".
func sayLimit(e *pricelist.Edition, l pricelist.Limit) string {
	units := sayLimitUnits(e, l.Meter)
	s := fmt.Sprintf("at most %s %s", l.Most.Format(), units)
	if m, ok := e.Meter(l.Meter); ok && l.Most == usage.One {
		s = "at most 1 " + m.Unit
	}
	if l.Unlimited {
		s = units + " unlimited"
	} else if m, ok := e.Meter(l.OfMeter); ok {
		s = fmt.Sprintf("at most %s %s per %s", l.Times.Format(), units, m.Unit)
	}
	switch l.Beyond {
	case "":
	case pricelist.FairUse:
		s += ", fair use"
	default:
		s += "; beyond, " + string(l.Beyond)
	}
	if l.Note != "" {
		s += " (" + l.Note + ")"
	}
	return s
}
