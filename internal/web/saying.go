package web

import (
	"fmt"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
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
	case pricelist.Stair:
		parts := make([]string, len(ch.Bands))
		for i, b := range ch.Bands {
			to := "up to " + b.To.Format()
			if b.Open {
				to = "more"
			}
			parts[i] = to + ": " + cur.FormatExact(b.Price.Usual) + own(cur, b.Price)
		}
		s := units + " " + strings.Join(parts, "; ")
		if ch.Above != nil {
			return s + fmt.Sprintf("; above, %s per %s more", cur.FormatExact(ch.Above.Price.Usual), money.Thousands(uint64(ch.Above.Each)))
		}
		if !ch.Bands[len(ch.Bands)-1].Open {
			s += "; above, on request"
		}
		return s
	}
	return cur.FormatExact(ch.Price.Usual) + own(cur, ch.Price)
}

func own(cur money.Currency, p pricelist.Price) string {
	s := ""
	for key, a := range p.ByKey {
		s += fmt.Sprintf(" (%s %s)", key, cur.FormatExact(a))
	}
	return s
}

func sayLimit(e *pricelist.Edition, l pricelist.Limit) string {
	units := l.Meter
	if m, ok := e.Meter(l.Meter); ok {
		units = quote.Plural(m.Unit)
	}
	s := fmt.Sprintf("at most %s %s", l.Most.Format(), units)
	if l.Unlimited {
		s = units + " unlimited"
	} else if m, ok := e.Meter(l.OfMeter); ok {
		s = fmt.Sprintf("at most %s %s per %s", l.Times.Format(), units, m.Unit)
	}
	if l.Beyond != "" {
		s += "; beyond, " + string(l.Beyond)
	}
	if l.Note != "" {
		s += " (" + l.Note + ")"
	}
	return s
}
