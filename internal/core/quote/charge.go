package quote

import (
	"fmt"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// oneMonth works out the amount of one month of a charge, before offers and
// rounding, and fills in the line. A stair that ends below the reading and
// does not say what lies above yields a reason instead.
//
// With q the reading, the rules are:
//
//	flat   price
//	unit   max(0, max(q, at least) - included) x price / each
//	stair  price of the first band with q <= to; past the last, that price
//	       and (q - to) x the rate above / each
//	pack   ceil(max(0, q - included) / size) x price
//
// A price stated for the term replaces the price; else the term's share is
// taken off.
func oneMonth(l *Line, ch *pricelist.Charge, q usage.Quantity, t pricelist.Term) (money.Fraction, *Reason, error) {
	var exact money.Fraction
	var err error
	switch ch.Kind {
	case pricelist.Flat:
		l.Price, l.Off = ch.Price.For(t)
		exact = money.Exactly(l.Price)
	case pricelist.Unit:
		l.Price, l.Off = ch.Price.For(t)
		l.Each = max(1, ch.Each)
		l.Billed = max(0, max(q, ch.AtLeast)-ch.Included)
		exact, err = perUnit(l.Price, l.Billed, l.Each)
	case pricelist.Pack:
		l.Price, l.Off = ch.Price.For(t)
		l.Size = ch.Size
		if extra := q - ch.Included; extra > 0 {
			l.Packs = int64((extra + ch.Size - 1) / ch.Size)
		}
		exact, err = money.Exactly(l.Price).Times(l.Packs, 1)
	case pricelist.Stair:
		return stair(l, ch, q, t)
	default:
		return exact, nil, fmt.Errorf("charge %q: kind %q is not priced", ch.Key, ch.Kind)
	}
	if err != nil {
		return exact, nil, fmt.Errorf("charge %q: %w", ch.Key, err)
	}
	exact, err = exact.Times(int64(money.Whole-l.Off), int64(money.Whole))
	return exact, nil, err
}

func stair(l *Line, ch *pricelist.Charge, q usage.Quantity, t pricelist.Term) (money.Fraction, *Reason, error) {
	last := len(ch.Bands) - 1
	l.Band = last
	for i, b := range ch.Bands {
		if b.Open || q <= b.To {
			l.Band = i
			break
		}
	}
	b := ch.Bands[l.Band]
	if l.Band > 0 {
		l.BandFrom = ch.Bands[l.Band-1].To
	}
	l.Price, l.Off = b.Price.For(t)
	exact, err := money.Exactly(l.Price).Times(int64(money.Whole-l.Off), int64(money.Whole))
	if err != nil {
		return exact, nil, fmt.Errorf("charge %q: %w", ch.Key, err)
	}
	if b.Open {
		return exact, nil, nil
	}
	l.BandTo = b.To
	if q <= b.To {
		return exact, nil, nil
	}
	if ch.Above == nil {
		return exact, &Reason{Kind: PastBands, Meter: ch.Meter, Unit: l.Unit, Reading: q, Most: b.To}, nil
	}
	price, off := ch.Above.Price.For(t)
	l.AbovePrice, l.Each, l.Billed = price, ch.Above.Each, q-b.To
	more, err := perUnit(price, l.Billed, ch.Above.Each)
	if err == nil {
		more, err = more.Times(int64(money.Whole-off), int64(money.Whole))
	}
	if err == nil {
		exact, err = exact.Plus(more)
	}
	if err != nil {
		return exact, nil, fmt.Errorf("charge %q: %w", ch.Key, err)
	}
	return exact, nil, nil
}

// perUnit returns price x q / each exactly.
func perUnit(price money.Amount, q usage.Quantity, each int64) (money.Fraction, error) {
	f, err := money.Exactly(price).Times(int64(q), int64(usage.One))
	if err != nil {
		return f, err
	}
	return f.Times(1, each)
}
