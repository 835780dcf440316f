package tariff

import (
	"errors"
	"fmt"
	"math"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
)

// Explain writes what [Program.Cost] adds up as a receipt: the same numbers with
// what each was made from, or the reasons why the plan does not serve. Where it
// does not, amounts are those of the first set of add-ons and packs, as far as
// they are to be had.
func (p *Program) Explain(since, into int, q []int64) quote.Receipt {
	r := quote.Receipt{Plan: p.Plan, Term: p.Term, Period: p.Period, Conversion: p.conv, Priced: len(p.Plan.Charges) > 0}
	r.Reasons = append(r.Reasons, p.Barred...)
	for _, reason := range p.Barred {
		r.Priced = r.Priced && reason.Kind != quote.NoRate && reason.Kind != quote.NoLifePrice
	}
	cost, ok := p.Cost(since, into, q)
	if !ok {
		r.Reasons = append(r.Reasons, p.against(p.at(since), q)...)
	}
	r.Reasons = append(r.Reasons, p.Questions...)
	bill, used := &p.at(since).ways[cost.Way], &p.at(since + into).ways[cost.Way]
	for _, a := range bill.addOns {
		r.AddOns = append(r.AddOns, a.Name)
	}
	r.Bill = p.lines(&r, &bill.bill, since, q)
	if p.Period != 1 {
		r.Used = p.lines(&r, &used.used, since+into, q)
	}
	if since+into == 0 {
		r.Once = p.lines(&r, &bill.once, 0, q)
	}
	r.Settled, r.AsYou, r.AtSigning = p.settled(&bill.bill, q), p.settled(&used.used, q), 0
	if since+into == 0 {
		r.AtSigning = p.settled(&bill.once, q)
	}
	for i := range p.Plan.Limits {
		if l := &p.Plan.Limits[i]; !l.Holds() && l.Note != "" {
			r.Notes = append(r.Notes, l.Note)
		}
	}
	for _, reason := range r.Reasons {
		r.Priced = r.Priced && reason.Kind != quote.PastBands && reason.Kind != quote.TooLarge
	}
	if r.Lowered() && ok {
		r.Until, r.Then = p.then(since+into, q)
	}
	return r
}

// then is for how many months from one on offers lower the price, in whole bills,
// and what a month costs after that at the same readings; 0 where some offer is for
// good.
func (p *Program) then(since int, q []int64) (months int, monthly money.Amount) {
	for _, o := range p.Offers {
		if o.Months == 0 {
			return 0, 0
		}
		months = max(months, o.Months-since)
	}
	n := max(1, p.Period)
	months = (months + n - 1) / n * n
	c, ok := p.Cost(since+months, 0, q)
	if !ok {
		return 0, 0
	}
	return months, p.Amount((2*c.Bill+int64(n))/(2*int64(n)) + c.Used)
}

// settled is what a sheet comes to in the study's currency; 0 where it does not
// fit, which the reasons tell.
func (p *Program) settled(s *sheet, q []int64) money.Amount {
	minor, ok := s.price(q)
	if !ok {
		return 0
	}
	return p.Amount(minor)
}

// Amount turns minor units of the study's currency into an amount.
func (p *Program) Amount(minor int64) money.Amount {
	return money.Amount(minor * p.conv.To.Minor())
}

// against tells why no set of add-ons and packs serves: what stands against the
// one that comes nearest.
func (p *Program) against(now *phase, q []int64) (best []quote.Reason) {
	for i := range now.ways {
		w := &now.ways[i]
		var reasons []quote.Reason
		for j := range w.limits {
			if l := &w.limits[j]; q[l.meter] > l.at(q) {
				reasons = append(reasons, p.reason(l, q))
			}
		}
		if reasons == nil {
			reasons = []quote.Reason{{Kind: quote.TooLarge}}
		}
		if best == nil || len(reasons) < len(best) {
			best = reasons
		}
	}
	return best
}

func (p *Program) reason(l *limit, q []int64) quote.Reason {
	m := &p.Edition.Meters[l.meter]
	quantity := func(x int64) usage.Quantity { return usage.Quantity(min(x, int64(usage.Most)/Grain(m)) * Grain(m)) }
	r := quote.Reason{Kind: quote.PastBands, Meter: m.Key, Unit: m.Unit, Reading: quantity(q[l.meter]), Most: quantity(l.at(q))}
	if l.from == nil {
		return r
	}
	r.Kind, r.Stops = quote.PastLimit, l.from.Beyond == pricelist.Stops
	if r.Short = r.Reading - r.Most; l.times != nil {
		r.Times, r.OfUnit = l.from.Times, p.Edition.Meters[l.times.of].Unit
	}
	return r
}

// lines appends the lines of a sheet to a receipt and returns their sum, in the
// list's currency.
func (p *Program) lines(r *quote.Receipt, s *sheet, since int, q []int64) (total money.Amount) {
	first := len(r.Lines)
	for i := range s.lines {
		r.Lines = append(r.Lines, p.words(&s.lines[i], &s.refs[i], since, q))
	}
	entries, ok := s.entries(q, nil)
	if !ok {
		return 0
	}
	for _, e := range entries {
		amount := money.Amount(e.Amount * p.conv.From.Minor())
		r.Lines[first+e.Line].Amount = amount
		total += amount
	}
	return total
}

// words says what a line was made from.
func (p *Program) words(line *exactLine, from *ref, since int, q []int64) quote.Line {
	l := quote.Line{Months: from.months, AsUsed: from.asUsed}
	p.offers(&l, from, since)
	ch := from.charge
	if ch == nil {
		l.Key, l.Label = "fixed", "Fixed price"
		return l
	}
	l.Key, l.Label, l.Kind, l.Meter, l.Included, l.Once = ch.Key, ch.Label, ch.Kind, ch.Meter, ch.Included, ch.Kind == pricelist.Once
	if l.Label == "" {
		l.Label = ch.Key
	}
	if from.addOn != nil {
		l.AddOn = from.addOn.Name
	}
	if line.meter >= 0 {
		m := &p.Edition.Meters[line.meter]
		l.Unit, l.Quantity = m.Unit, usage.Quantity(q[line.meter]*Grain(m))
	}
	l.Price, l.Off = ch.Price.For(p.Term)
	switch ch.Kind {
	case pricelist.Unit:
		l.Each, l.Billed = max(1, ch.Each), max(0, max(l.Quantity, ch.AtLeast)-ch.Included)
	case pricelist.Pack:
		l.Size, l.Packs = ch.Size, line.packs(q)
		if l.Start = usage.Quantity(startAt(line.start, line.times, q) * Grain(&p.Edition.Meters[line.meter]) / line.scale); l.Start < ch.Included {
			l.Start = ch.Included
		}
	case pricelist.Share, pricelist.Once:
		if line.meter >= 0 {
			rate, off := ch.Rate.For(p.Term)
			l.Rate, l.Off, l.Floor, l.Cap = money.Share(rate), off, ch.Floor, ch.Cap
		}
	case pricelist.Stair, pricelist.Graduated, pricelist.Volume:
		p.band(&l, ch)
	}
	return l
}

// band fills in which band of a charge a reading falls into.
func (p *Program) band(l *quote.Line, ch *pricelist.Charge) {
	l.Each = max(1, ch.Each)
	for l.Band = 0; l.Band < len(ch.Bands)-1 && l.Quantity > ch.Bands[l.Band].To; l.Band++ {
	}
	b := &ch.Bands[l.Band]
	l.Price, l.Off = b.Price.For(p.Term)
	if l.Band > 0 {
		l.BandFrom = ch.Bands[l.Band-1].To
	}
	if !b.Open {
		l.BandTo = b.To
		if l.Billed = max(0, l.Quantity-b.To); l.Billed > 0 && ch.Above != nil {
			l.AbovePrice, _ = ch.Above.Price.For(p.Term)
			l.AboveEach = ch.Above.Each
		}
	}
	if ch.Kind != pricelist.Graduated {
		return
	}
	from := usage.Quantity(0)
	for _, b := range ch.Bands[:l.Band+1] {
		price, _ := b.Price.For(p.Term)
		to := l.Quantity
		if !b.Open {
			to = min(to, b.To)
		}
		l.Parts = append(l.Parts, quote.Part{Units: to - from, Price: price, Each: l.Each})
		from = to
	}
}

// offers tells the offers that a line was worked out with. A line that is billed as
// used looks at the first month only.
func (p *Program) offers(l *quote.Line, from *ref, since int) {
	if from.shares == nil && from.charge != nil {
		return
	}
	for _, o := range p.Offers {
		if from.charge == nil && o.Kind != pricelist.FixedPrice {
			continue
		}
		if covers := min(from.months, p.covers(o, since)); covers > 0 {
			l.Offers = append(l.Offers, quote.LineOffer{Key: o.Key, Name: o.Called(), Kind: o.Kind, Off: o.Off, Months: covers})
		}
	}
}

// Read works out every meter of an edition from the drivers' values: rows of
// readings in the order of the meters, rounded up to whole units unless the meter
// counts fractions. The first row at fault is a [*usage.RowError] that names the
// meter and wraps a [*usage.FormulaError] or [usage.ErrRange].
func Read(e *pricelist.Edition, of usage.Columns) ([][]int64, error) {
	columns, err := ReadColumns(e, of)
	if err != nil {
		return nil, err
	}
	n := len(e.Meters)
	rows, room := make([][]int64, of.Rows()), make([]int64, of.Rows()*n)
	for i := range rows {
		rows[i] = room[i*n : (i+1)*n : (i+1)*n]
		columns.row(i, rows[i])
	}
	return rows, nil
}

// ReadColumns reads the meters as [Read] does, a column for each.
func ReadColumns(e *pricelist.Edition, of usage.Columns) (Columns, error) {
	first := usage.RowError{Row: of.Rows()}
	columns, room := make(Columns, len(e.Meters)), make([]int64, of.Rows()*len(e.Meters))
	for at := range e.Meters {
		m := &e.Meters[at]
		fault := func(row int, err error) {
			if row < first.Row {
				first = usage.RowError{Row: row, Err: fmt.Errorf("%s: meter %q: %w", e.Platform.Name, m.Key, err)}
			}
		}
		values, err := m.Counts.Over(of)
		if one := (*usage.RowError)(nil); errors.As(err, &one) {
			fault(one.Row, one.Err)
			values = values[:one.Row]
		}
		var column []int64
		column, room = room[:of.Rows():of.Rows()], room[of.Rows():]
		columns[at] = column
		grain, fractions := Grain(m), m.Fractions
		whole := int64(usage.One) / grain
		for row, v := range values {
			if n := int64(v); v >= 0 && v < 1e9 && float64(n) == v { // as most are
				column[row] = n * whole
				continue
			}
			q, err := usage.FromFloat(v)
			if err != nil {
				fault(row, err)
				break
			}
			if !fractions {
				q = q.Ceil()
			}
			column[row] = int64(q) / grain
		}
	}
	if first.Err != nil {
		return nil, &first
	}
	return columns, nil
}

// Readings are a row of readings by name.
func Readings(e *pricelist.Edition, row []int64) quote.Readings {
	named := make(quote.Readings, len(row))
	for i := range e.Meters {
		m := &e.Meters[i]
		named[m.Key] = usage.Quantity(row[i] * Grain(m))
	}
	return named
}

// Row turns readings into whole numbers in the order of an edition's meters.
func Row(e *pricelist.Edition, readings quote.Readings) []int64 {
	row := make([]int64, len(e.Meters))
	for i := range e.Meters {
		m := &e.Meters[i]
		row[i] = int64(readings[m.Key]) / Grain(m)
	}
	return row
}

// MayBeSigned reports whether the program can be signed on a day: offers end, and
// some are for who signs first of all.
func (p *Program) MayBeSigned(on time.Time, first bool) bool {
	return (p.Until.IsZero() || !on.After(p.Until)) && (!p.NewOnly || first)
}

// Quote explains a plan on a term for somebody who signed since months before the
// bill began, with the offers that leave least to pay then. Errors are those of
// [Compile].
func Quote(e *pricelist.Edition, plan *pricelist.Plan, term pricelist.Term, d Deal, since, into int, row []int64) (quote.Receipt, error) {
	all, err := Compile(e, plan, term, d)
	if err != nil {
		return quote.Receipt{}, err
	}
	return Best(all, d.Customer, since, into, row), nil
}

// Best explains the program of a plan on a term, of all that [Compile] makes, with
// the offers that leave least to pay in a month.
func Best(all []*Program, c quote.Customer, since, into int, q []int64) quote.Receipt {
	best, least := (*Program)(nil), int64(math.MaxInt64)
	for _, p := range all {
		if !p.MayBeSigned(c.Sign, !c.Here) {
			continue
		}
		c, ok := p.Cost(since, into, q)
		if total := c.Bill + c.Used + c.Once; best == nil || ok && total < least {
			if best = p; ok {
				least = total
			}
		}
	}
	return best.Explain(since, into, q)
}
