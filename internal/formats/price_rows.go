package formats

import (
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// row takes one row.
func (in *priceReader) row(line int, row priceRow) {
	empty := true
	for _, cell := range row {
		empty = empty && cell == ""
	}
	if empty {
		return
	}
	p := in.plan(line, row["plan"])
	if p == nil {
		return
	}
	c := &cells{in, line, row}
	switch what := strings.ToLower(row["what"]); what {
	case "plan":
		if key := row["key"]; document.KeyForm.MatchString(key) && in.fresh[p.Key] {
			if _, there := in.e.Plan(key); !there {
				p.Key = key
			}
		}
		if offered := pricelist.Offered(row["note"]); offered == pricelist.Public || offered == pricelist.OnRequest || offered == pricelist.Closed {
			p.Offered = offered
		} else if offered != "" {
			in.fault(line, "note", fmt.Sprintf("expected public, on request or closed, found %q", document.Shorten(row["note"], 40)))
		}
	case "term":
		c.term(p)
	case "limit":
		c.limit(p)
	case "band", "above":
		c.band(p, what == "above")
	default:
		if !slices.Contains(pricelist.ChargeKinds, pricelist.ChargeKind(what)) {
			in.fault(line, "what", fmt.Sprintf("expected plan, term, limit, band, above or a kind of charge, found %q", document.Shorten(row["what"], 40)))
			return
		}
		c.charge(p, pricelist.ChargeKind(what))
	}
}

func (c *cells) key() string {
	if !document.KeyForm.MatchString(c.row["key"]) {
		c.in.fault(c.line, "key", fmt.Sprintf("expected a key of small letters, digits, - and _, found %q", document.Shorten(c.row["key"], 40)))
	}
	return c.row["key"]
}

func (c *cells) term(p *pricelist.Plan) {
	t := pricelist.Term{Key: c.key(), Paid: pricelist.Paid(c.row["paid"]), Off: c.share("off")}
	if t.Paid == "" {
		t.Paid = pricelist.Upfront
	}
	if t.Paid != pricelist.Upfront && t.Paid != pricelist.Monthly {
		c.in.fault(c.line, "paid", "expected upfront or monthly")
	}
	if c.row["months"] == "lifetime" {
		t.Months = pricelist.Lifetime
	} else {
		n, err := document.Whole(1, 60).Parse(c.row["months"])
		if err != nil {
			c.in.fault(c.line, "months", fmt.Sprintf("expected a whole number from 1 to 60, or lifetime, found %q", document.Shorten(c.row["months"], 40)))
		}
		t.Months = n
	}
	p.Terms = append(p.Terms, t)
}

func (c *cells) limit(p *pricelist.Plan) {
	l := pricelist.Limit{Meter: c.row["meter"], Beyond: pricelist.Beyond(c.row["beyond"]), Note: c.row["note"]}
	c.in.meter(c.line, l.Meter)
	if !slices.Contains([]pricelist.Beyond{"", pricelist.MoveUp, pricelist.BuyPack, pricelist.Stops, pricelist.FairUse}, l.Beyond) {
		c.in.fault(c.line, "beyond", "expected move up, buy a pack, work stops, fair use or nothing")
	}
	times, of, multiple := strings.Cut(c.row["up_to"], " x ")
	switch {
	case c.row["up_to"] == "unlimited":
		l.Unlimited = true
	case multiple:
		q, err := usage.ParseQuantity(times)
		if err != nil {
			c.in.fault(c.line, "up_to", fmt.Sprintf("expected a multiple such as 12 x contacts, found %q", document.Shorten(c.row["up_to"], 40)))
		}
		l.Times, l.OfMeter = q, of
		c.in.meter(c.line, of)
	case c.row["up_to"] == "":
		c.in.fault(c.line, "up_to", "expected a number, unlimited, or a multiple such as 12 x contacts")
	default:
		l.Most = c.quantity("up_to")
	}
	p.Limits = append(p.Limits, l)
}

// charge takes the row that begins a charge, or one with the price of a single term of one
// that stands above.
func (c *cells) charge(p *pricelist.Plan, kind pricelist.ChargeKind) {
	key := c.key()
	at := slices.IndexFunc(p.Charges, func(o pricelist.Charge) bool { return o.Key == key })
	shared := func(ch *pricelist.Charge) bool {
		return ch.Kind == pricelist.Share || ch.Kind == pricelist.Once && ch.Meter != ""
	}
	if term := c.row["term"]; term != "" {
		switch {
		case at < 0:
			c.in.fault(c.line, "key", fmt.Sprintf("the price of term %q belongs to a charge %q, which stands nowhere above", document.Shorten(term, 40), document.Shorten(key, 40)))
		case shared(&p.Charges[at]):
			own(&p.Charges[at].Rate, term, money.Amount(c.share("price")))
		default:
			own(&p.Charges[at].Price, term, c.amount("price"))
		}
		return
	}
	if at >= 0 {
		c.in.fault(c.line, "key", fmt.Sprintf("the charge %q stands above already", document.Shorten(key, 40)))
		return
	}
	ch := pricelist.Charge{Key: key, Label: c.row["label"], Kind: kind, Meter: c.row["meter"], Included: c.quantity("included"), AtLeast: c.quantity("at_least"), Size: c.quantity("size"),
		Floor: c.amount("floor"), Cap: c.amount("cap"), WaivedOn: strings.Fields(c.row["waived_on"]), Optional: c.row["optional"] == "yes"}
	if len(ch.WaivedOn) == 0 {
		ch.WaivedOn = nil
	}
	c.in.meter(c.line, ch.Meter)
	if kind == pricelist.Unit || kind == pricelist.Graduated || kind == pricelist.Volume {
		ch.Each = c.each()
	}
	if kind == pricelist.Pack && ch.Size <= 0 {
		c.in.fault(c.line, "size", "a pack needs how many it holds")
	}
	switch {
	case kind.Banded():
	case shared(&ch):
		ch.Rate.Usual = money.Amount(c.share("price"))
	default:
		ch.Price.Usual = c.amount("price")
	}
	p.Charges = append(p.Charges, ch)
}

func own(p *pricelist.Price, term string, a money.Amount) {
	if p.ByKey == nil {
		p.ByKey = map[string]money.Amount{}
	}
	p.ByKey[term] = a
}

// band takes a band of a charge that stands above, what holds past its last band, or the
// price of a single term of either.
func (c *cells) band(p *pricelist.Plan, above bool) {
	key := c.key()
	at := slices.IndexFunc(p.Charges, func(o pricelist.Charge) bool { return o.Key == key })
	if at < 0 || !p.Charges[at].Kind.Banded() {
		c.in.fault(c.line, "key", fmt.Sprintf("a band belongs to a stair, graduated or volume charge %q, which stands nowhere above", document.Shorten(key, 40)))
		return
	}
	ch := &p.Charges[at]
	price := c.amount("price")
	term := c.row["term"]
	if above {
		switch {
		case term != "" && ch.Above != nil:
			own(&ch.Above.Price, term, price)
		case term == "":
			ch.Above = &pricelist.Above{Price: pricelist.Price{Usual: price}, Each: c.each()}
		default:
			c.in.fault(c.line, "term", "the usual price above the bands comes first")
		}
		return
	}
	b := pricelist.Band{Open: c.row["up_to"] == "more" || c.row["up_to"] == "", Price: pricelist.Price{Usual: price}}
	if !b.Open {
		b.To = c.quantity("up_to")
	}
	if term != "" {
		for i := range ch.Bands {
			if ch.Bands[i].KeyOf() == b.KeyOf() {
				own(&ch.Bands[i].Price, term, price)
				return
			}
		}
		c.in.fault(c.line, "up_to", "the usual price of this band comes first")
		return
	}
	ch.Bands = append(ch.Bands, b)
}
