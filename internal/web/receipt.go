package web

import (
	"fmt"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

type receiptBody struct {
	Base, Back  string
	Head        optionHead
	Title       string
	Edition     string
	Lines       []receiptLine
	Totals      []receiptTotal
	Why         []string
	Explanation []string
}

type receiptLine struct {
	Label, Amount string
	How           []string
}

type receiptTotal struct {
	Label, Amount string
	Strong        bool
}

// buildReceipt shows one receipt: of a month of the schedule (?month=2027-05),
// or of a plan on a term in the first month (?plan=…&term=…).
func buildReceipt(r *request) (any, error) {
	s := r.study()
	res, ok := r.outcome.Result(r.c.Param("option"))
	if !ok {
		return nil, notFound("There is no such option in this study.")
	}
	b := receiptBody{Base: r.base(), Edition: res.Option.Name + "'s price list, read " + res.Option.Edition.ObservedOn.Format("2 Jan 2006")}
	for i, h := range r.heads() {
		if r.outcome.Results[i].Option.Key == res.Option.Key {
			b.Head = h
		}
	}
	if plan := r.c.Query("plan"); plan != "" {
		b.Back = "prices"
		for i := range res.Prices {
			if q := &res.Prices[i]; q.Plan.Key == plan && q.Term.Key == r.c.Query("term") {
				b.fill(q, s.Start)
				return b, nil
			}
		}
		return nil, notFound("There is no such plan or term on this price list.")
	}
	b.Back = "costs"
	month, err := usage.ParseMonth(r.c.Query("month"))
	t := int(month - s.Start)
	if err != nil || t < 0 || t >= s.Horizon {
		return nil, notFound("That month is not within the horizon of this study.")
	}
	m := res.Schedule.Months[t]
	if !m.Serves {
		return nil, notFound("No plan serves " + res.Option.Name + " in " + month.String() + ".")
	}
	b.fill(&m.Receipt, month)
	b.share(s, &m, t)
	for _, step := range res.Schedule.Steps {
		if step.Month == t {
			b.Explanation = append(b.Explanation, fmt.Sprintf("The bill changes by %s a month: %s.", signed(s.Currency, step.Delta), step.Why()))
		}
	}
	return b, nil
}

func (b *receiptBody) fill(q *quote.Receipt, month usage.Month) {
	from, to := q.Conversion.From, q.Conversion.To
	b.Title = fmt.Sprintf("%s, paid %s, in %s", q.Plan.Name, study.SayTerm(q.Term), month)
	for i := range q.Lines {
		l := &q.Lines[i]
		b.Lines = append(b.Lines, receiptLine{Label: label(l), How: explain(l, from), Amount: from.Format(l.Amount)})
	}
	for _, reason := range q.Reasons {
		b.Why = append(b.Why, reason.String())
	}
	period := "for 1 month"
	if q.Period > 1 {
		period = fmt.Sprintf("for %d months", q.Period)
	}
	b.total("Total "+period, from.Format(q.Bill), !q.Converted())
	if q.Used != 0 {
		b.total("Used this month", from.Format(q.Used), false)
	}
	if q.Converted() {
		b.total(sayConversion(q.Conversion), to.Format(q.Settled), true)
		if q.Used != 0 {
			b.total("Used this month, converted likewise", to.Format(q.AsYou), false)
		}
	}
	if q.Period > 1 {
		b.total("That is, a month", to.Format(q.Monthly()), false)
	}
}

// share adds what the month of a schedule takes of the bill.
func (b *receiptBody) share(s *study.Study, m *projection.Month, t int) {
	if m.Receipt.Period > 1 {
		b.total(fmt.Sprintf("Share of %s, month %d of %d", s.Month(t), t-m.Start+1, m.Receipt.Period), s.Currency.Format(m.Accrued), true)
		b.Explanation = append(b.Explanation, fmt.Sprintf("The bill is spread over its %d months so that the running total is rounded each month; shares may differ by a cent.", m.Receipt.Period))
	}
	if m.Cash != m.Accrued {
		b.total("Paid in "+s.Month(t).String(), s.Currency.Format(m.Cash), false)
	}
}

func (b *receiptBody) total(label, amount string, strong bool) {
	b.Totals = append(b.Totals, receiptTotal{label, amount, strong})
}

func sayConversion(c quote.Conversion) string {
	var parts []string
	if c.Tax > 0 {
		parts = append(parts, fmt.Sprintf("without %s tax (÷ %s)", c.Tax, money.Amount(money.Whole+c.Tax)))
	}
	if c.Rate != 0 {
		parts = append(parts, fmt.Sprintf("in %s (× %s, rate of %s)", c.To.Code(), c.Rate, c.On.Format("2 Jan 2006")))
	}
	return "The same " + strings.Join(parts, ", ")
}

func label(l *quote.Line) string {
	if l.AddOn != "" && l.AddOn != l.Label {
		return "Add-on " + l.AddOn + ": " + l.Label
	}
	if l.AddOn != "" {
		return "Add-on " + l.AddOn
	}
	return l.Label
}

// explain writes how a line came to its amount, step by step.
func explain(l *quote.Line, c money.Currency) []string {
	units := quote.Plural(l.Unit)
	var how []string
	switch l.Kind {
	case pricelist.Flat:
		how = append(how, "flat "+c.FormatExact(l.Price))
	case pricelist.Unit:
		s := fmt.Sprintf("%s %s", l.Quantity.Format(), units)
		if l.Included > 0 {
			s += fmt.Sprintf(", %s included", l.Included.Format())
		}
		s += fmt.Sprintf(": %s × %s", l.Billed.Format(), c.FormatExact(l.Price))
		if l.Each > 1 {
			s += " per " + money.Thousands(uint64(l.Each))
		}
		how = append(how, s)
	case pricelist.Pack:
		s := fmt.Sprintf("%s %s, %s included: ", l.Quantity.Format(), units, l.Included.Format())
		if l.Packs == 0 {
			s += "no pack needed"
		} else {
			s += fmt.Sprintf("%d × %s for each started %s", l.Packs, c.FormatExact(l.Price), l.Size.Format())
		}
		how = append(how, s)
	case pricelist.Stair:
		to := "the last band"
		if l.BandTo > 0 {
			to = "the band to " + l.BandTo.Format()
		}
		how = append(how, fmt.Sprintf("%s %s, in %s: %s", l.Quantity.Format(), units, to, c.FormatExact(l.Price)))
		if l.Billed > 0 {
			how = append(how, fmt.Sprintf("%s above it × %s per %s", l.Billed.Format(), c.FormatExact(l.AbovePrice), money.Thousands(uint64(l.Each))))
		}
	}
	if l.Off > 0 {
		how = append(how, "less "+l.Off.String()+" on this term")
	}
	if l.OfferMonths > 0 {
		how = append(how, fmt.Sprintf("offer “%s”: %s off %d of %d %s", l.Offer, l.OfferOff, l.OfferMonths, l.Months,
			map[bool]string{true: "month", false: "months"}[l.Months == 1]))
	}
	if l.Months > 1 {
		how = append(how, fmt.Sprintf("× %d months", l.Months))
	}
	return how
}
