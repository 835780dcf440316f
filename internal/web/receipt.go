package web

import (
	"fmt"
	"strconv"
	"strings"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

type receiptBody struct {
	Base, Back string
	Self       string // where this receipt stands
	Head       optionHead
	Papers     []*receiptPaper // one for each tool of a stack
	Sum, SumOf string          // of all of them, and what is counted off
	Others     []choiceView    // plans that it can be set against
	Asked      []againField    // what the address says, for the form that sets it against one
	Against    *againstView
}

// againstView is a receipt beside that of another plan, line by line.
type againstView struct {
	This, Other string
	Rows        []againstRow
	Monthly     againstRow
	Why         []string // the other cannot serve
}

type againstRow struct{ Label, A, B, Change string }

// receiptPaper is the receipt of one plan.
type receiptPaper struct {
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
	b := receiptBody{Base: r.base(), Self: r.base() + "/receipts/" + res.Option.Key}
	for i, h := range r.heads() {
		if r.outcome.Results[i].Option.Key == res.Option.Key {
			b.Head = h
		}
	}
	if plan := r.c.Query("plan"); plan != "" {
		b.Back = "prices"
		at, _ := strconv.Atoi(r.c.Query("tool"))
		if at < 0 || at >= len(res.Tools) || res.AtFault {
			return nil, notFound("There is no such tool in this option.")
		}
		prices := res.Tools[at].Prices()
		for i := range prices {
			if q := &prices[i]; q.Plan.Key == plan && q.Term.Key == r.c.Query("term") {
				p := b.paper(res, at)
				p.fill(s, q, s.Start)
				p.quoted(s, res, q.Plan)
				p.counted(r.outcome, res.Tools[at].Tool.Edition, q, 0)
				b.against(r, prices, i)
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
	for at, part := range m.Parts() {
		receipt := part.Receipt()
		p := b.paper(res, at)
		p.fill(s, &receipt, month)
		p.quoted(s, res, receipt.Plan)
		p.counted(r.outcome, res.Tools[at].Tool.Edition, &receipt, t)
		bill := *part
		if !res.Option.Stack() { // of which what falls away is counted off
			bill.Accrued, bill.Cash = bill.Accrued+m.Falls, bill.Cash+m.Falls
		}
		p.share(s, &bill, &receipt, t)
		if m.Falls > 0 && !res.Option.Stack() {
			p.total("Less what it makes unneeded", signed(s.Currency, -m.Falls), false)
			p.total(fmt.Sprintf("Counted in %s", month), s.Currency.Format(m.Accrued), true)
			p.Explanation = append(p.Explanation, s.SayFalls(&res.Option))
		}
		for _, step := range res.Schedule.Steps {
			if step.Month == t && step.Tool == at {
				p.Explanation = append(p.Explanation, fmt.Sprintf("The bill changes by %s a month: %s.", signed(s.Currency, step.Delta), step.Why()))
			}
		}
	}
	if res.Option.Stack() {
		b.Sum = s.Currency.Format(m.Accrued)
		if m.Falls > 0 {
			b.SumOf = ", less " + s.Currency.Format(m.Falls) + " for what it makes unneeded"
		}
	}
	return b, nil
}

// paper begins the receipt of a tool.
func (b *receiptBody) paper(res *study.Result, at int) *receiptPaper {
	e := res.Tools[at].Tool.Edition
	p := &receiptPaper{Edition: e.Platform.Name + "'s price list, read " + pricelist.SayRead(e.ObservedOn)}
	b.Papers = append(b.Papers, p)
	return p
}

func (b *receiptPaper) fill(s *study.Study, q *quote.Receipt, month usage.Month) {
	from, to := q.Conversion.From, q.Conversion.To
	b.Title = fmt.Sprintf("%s, paid %s, in %s", q.Plan.Name, study.SayTerm(q.Term), month)
	for i := range q.Lines {
		l := &q.Lines[i]
		line := receiptLine{Label: label(l), How: explain(l, from), Amount: from.Format(l.Amount)}
		if l.Key == study.AsQuoted { // it has no price a month of its own
			line.How = []string{"one bill, for " + months(l.Months)}
		}
		b.Lines = append(b.Lines, line)
	}
	for _, reason := range q.Reasons {
		b.Why = append(b.Why, s.SayWhy(reason))
	}
	period := "for 1 month"
	switch {
	case q.Period > 1:
		period = fmt.Sprintf("for %d months", q.Period)
	case q.Period == pricelist.Lifetime:
		period = "for life"
	}
	b.total("Total "+period, from.Format(q.Bill), !q.Converted())
	once := "Once, at signing"
	if q.Begins {
		once = "Once, as the add-on begins"
	}
	others := []struct {
		label         string
		list, settled money.Amount
	}{{"Used this month", q.Used, q.AsYou}, {once, q.Once, q.AtSigning}}
	for _, o := range others {
		if o.list != 0 {
			b.total(o.label, from.Format(o.list), false)
		}
	}
	if q.Converted() {
		b.total(sayConversion(q.Conversion), to.Format(q.Settled), true)
		for _, o := range others {
			if o.list != 0 {
				b.total(o.label+", converted likewise", to.Format(o.settled), false)
			}
		}
	}
	if q.Period > 1 {
		b.total("That is, a month", to.Format(q.Monthly()), false)
	}
	if q.Over > 0 {
		b.total(fmt.Sprintf("That is, a month over the %d left of the horizon", q.Over), to.Format(q.Monthly()), false)
	}
	for _, note := range q.Notes {
		b.Explanation = append(b.Explanation, "Fair use, in the list's words: "+note)
	}
}

// counted adds to each line how its meter comes to what it reads, with the formula filled in.
func (b *receiptPaper) counted(o *study.Outcome, e *pricelist.Edition, q *quote.Receipt, month int) {
	for i := range q.Lines {
		m, ok := e.Meter(q.Lines[i].Meter)
		if !ok || i >= len(b.Lines) {
			continue
		}
		if text := counting(o, m, q.Lines[i].Quantity, month); text != "" {
			b.Lines[i].How = append([]string{text}, b.Lines[i].How...)
		}
	}
}

// against sets the receipt of one plan beside that of another, of the same list, which the
// address names as "plan term".
func (b *receiptBody) against(r *request, prices []quote.Receipt, at int) {
	q := &prices[at]
	asked := r.c.Query("against")
	for _, name := range []string{"plan", "term", "tool"} {
		if v := r.c.Query(name); v != "" {
			b.Asked = append(b.Asked, againField{name, v})
		}
	}
	for i := range prices {
		o := &prices[i]
		if i == at || !o.Priced {
			continue
		}
		key := o.Plan.Key + " " + o.Term.Key
		b.Others = append(b.Others, choiceView{Label: o.Plan.Name + ", paid " + study.SayTerm(o.Term), Value: key, Chosen: key == asked})
		if key == asked {
			b.Against = beside(r.study(), q, o)
		}
	}
}

// beside compares two receipts line by line, each as a month of its own list's currency, and
// in the study's currency in the end.
func beside(s *study.Study, a, o *quote.Receipt) *againstView {
	v := &againstView{This: a.Plan.Name + ", " + study.SayTerm(a.Term), Other: o.Plan.Name + ", " + study.SayTerm(o.Term)}
	cur := a.Conversion.From
	month := func(q *quote.Receipt, l *quote.Line) money.Amount {
		return l.Amount / money.Amount(max(1, l.Months))
	}
	find := func(q *quote.Receipt, of *quote.Line) *quote.Line {
		for i := range q.Lines {
			if l := &q.Lines[i]; l.Key == of.Key && l.AddOn == of.AddOn {
				return l
			}
		}
		return nil
	}
	for i := range a.Lines {
		l := &a.Lines[i]
		row := againstRow{Label: label(l), A: cur.Format(month(a, l)), B: "–", Change: signed(cur, -month(a, l))}
		if other := find(o, l); other != nil {
			row.B, row.Change = cur.Format(month(o, other)), signed(cur, month(o, other)-month(a, l))
		}
		v.Rows = append(v.Rows, row)
	}
	for i := range o.Lines {
		if l := &o.Lines[i]; find(a, l) == nil {
			v.Rows = append(v.Rows, againstRow{Label: label(l), A: "–", B: cur.Format(month(o, l)), Change: signed(cur, month(o, l))})
		}
	}
	to := a.Conversion.To
	v.Monthly = againstRow{"A month", to.Format(a.Monthly()), to.Format(o.Monthly()), signed(to, o.Monthly()-a.Monthly())}
	for _, reason := range o.Reasons {
		v.Why = append(v.Why, s.SayWhy(reason))
	}
	return v
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
	how := []string{rule(l, c)}
	switch {
	case l.Kind == "":
		how[0] = fmt.Sprintf("in place of the plan's charges, for %s", months(l.Months))
	case l.Kind == pricelist.Graduated:
		how = parts(l, c)
	}
	if l.Kind.Banded() && l.BandTo > 0 && l.Billed > 0 {
		how = append(how, fmt.Sprintf("%s above it × %s%s", l.Billed.Format(), c.FormatExact(l.AbovePrice), per(l.AboveEach)))
	}
	if l.Off > 0 {
		how = append(how, "less "+l.Off.String()+" on this term")
	}
	for _, o := range l.Offers {
		off := map[pricelist.OfferKind]string{pricelist.PercentOff: o.Off.String() + " off", pricelist.FreeMonths: "free for",
			pricelist.FixedPrice: "in its fixed price for"}[o.Kind]
		how = append(how, fmt.Sprintf("offer “%s”: %s %d of %s", o.Name, off, o.Months, months(l.Months)))
	}
	if l.Months > 1 && l.Kind != "" {
		how = append(how, fmt.Sprintf("× %d months", l.Months))
	}
	return how
}

func months(n int) string {
	if n == 1 {
		return "1 month"
	}
	return fmt.Sprintf("%d months", n)
}

// per says for how many units a price is.
func per(each int64) string {
	if each <= 1 {
		return ""
	}
	return " per " + money.Thousands(uint64(each))
}

// rule writes one month of a charge.
func rule(l *quote.Line, c money.Currency) string {
	q := l.Quantity.Format() + " " + quote.Plural(l.Unit)
	switch l.Kind {
	case pricelist.Flat:
		return "flat " + c.FormatExact(l.Price)
	case pricelist.Unit:
		if l.Included > 0 {
			q += fmt.Sprintf(", %s included", l.Included.Format())
		}
		return fmt.Sprintf("%s: %s × %s%s", q, l.Billed.Format(), c.FormatExact(l.Price), per(l.Each))
	case pricelist.Pack:
		q += fmt.Sprintf(", %s included: ", l.Start.Format())
		if l.Packs == 0 {
			return q + "no pack needed"
		}
		return q + fmt.Sprintf("%d × %s for each started %s", l.Packs, c.FormatExact(l.Price), l.Size.Format())
	case pricelist.Stair, pricelist.Volume:
		to := "the last band"
		if l.BandTo > 0 {
			to = "the band to " + l.BandTo.Format()
		}
		if l.Kind == pricelist.Volume {
			return fmt.Sprintf("%s, all at the rate of %s: × %s%s", q, to, c.FormatExact(l.Price), per(l.Each))
		}
		return fmt.Sprintf("%s, in %s: %s", q, to, c.FormatExact(l.Price))
	case pricelist.Share:
		return share(l, c)
	case pricelist.Once:
		if l.Rate > 0 {
			return fmt.Sprintf("%s of %s, once", l.Rate, q)
		}
		return "once " + c.FormatExact(l.Price)
	}
	return q
}

func share(l *quote.Line, c money.Currency) string {
	s := fmt.Sprintf("%s of %s in the study's currency", l.Rate, l.Quantity.Format())
	if l.Floor > 0 {
		s += ", at least " + c.FormatExact(l.Floor)
	}
	if l.Cap > 0 {
		s += ", at most " + c.FormatExact(l.Cap)
	}
	return s
}

// parts writes what falls into each band of a graduated charge.
func parts(l *quote.Line, c money.Currency) []string {
	how := []string{fmt.Sprintf("%s %s, each band at its own rate:", l.Quantity.Format(), quote.Plural(l.Unit))}
	for _, p := range l.Parts {
		how = append(how, fmt.Sprintf("%s × %s%s", p.Units.Format(), c.FormatExact(p.Price), per(p.Each)))
	}
	return how
}
