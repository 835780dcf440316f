package study

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/pricelist"
)

// PrivateOffer is what somebody was quoted for a plan: for one whose price is on request, or
// on better terms than its list has. It belongs to one study; no price list holds it.
type PrivateOffer struct {
	Option, Plan string // by key
	Months       int    // of the term, 1 to 60
	Paid         pricelist.Paid
	// Bill is what one bill comes to, in the currency of the option's price list,
	// with tax where its prices have it: all of a term that is paid up front, else a
	// month.
	Bill  money.Amount
	On    time.Time // the day of the quote
	Until time.Time // last day to sign; zero is no end
	Note  string
}

// Key tells private offers apart: by option, plan and term.
func (p *PrivateOffer) Key() string {
	return strings.Join([]string{p.Option, p.Plan, p.Term().Key}, "/")
}

// Term is the term that the offer is for.
func (p *PrivateOffer) Term() pricelist.Term {
	t := pricelist.Term{Key: strconv.Itoa(p.Months), Months: p.Months, Paid: p.Paid}
	if p.Months > 1 {
		t.Key += "-" + string(p.Paid)
	}
	return t
}

// RanOut reports whether the offer can no longer be signed on a day.
func (p *PrivateOffer) RanOut(on time.Time) bool { return !p.Until.IsZero() && on.After(p.Until) }

func privateParts(latest time.Time) document.Parts[PrivateOffer] {
	type p = *PrivateOffer
	edits := document.Needs(toEdit)
	return document.Parts[PrivateOffer]{
		document.Field("option", "option", document.Key, func(p p) *string { return &p.Option }, document.Must),
		document.Field("plan", "plan", document.Key, func(p p) *string { return &p.Plan }, document.Must),
		document.Field("months", "term, in months", document.Whole(1, 60), func(p p) *int { return &p.Months }, document.Must),
		document.Field("paid", "paid", document.Among(pricelist.Upfront, pricelist.Monthly), func(p p) *pricelist.Paid { return &p.Paid }, document.Must),
		document.Field("bill", "one bill", plainPrice, func(p p) *money.Amount { return &p.Bill }, document.Must, edits),
		document.Field("on", "quoted on", document.Until(latest), func(p p) *time.Time { return &p.On }, document.Must, edits),
		document.Field("until", "to be signed by", document.Day, func(p p) *time.Time { return &p.Until }, edits),
		document.Field("note", "note", notation.Note(200), func(p p) *string { return &p.Note }, edits),
	}
}

// newPrivateOffer is an offer of today, for a year.
func newPrivateOffer(s *Study) PrivateOffer {
	return PrivateOffer{Months: 12, Paid: pricelist.Upfront, On: s.Today}
}

// plainPrice is a price that need not be in the study's currency.
var plainPrice = notation.Amount(notation.Price.Want, 0)

// privateName says what a private offer is for.
func privateName(s *Study, p *PrivateOffer) string {
	option, plan := p.Option, p.Plan
	for i := range s.Options {
		o := &s.Options[i]
		if o.Key != p.Option {
			continue
		}
		option = orElse(o.Name, o.Key)
		if o.Edition != nil {
			if found, ok := o.Edition.Plan(p.Plan); ok {
				plan = found.Name
			}
		}
	}
	return fmt.Sprintf("for %s, %s, %s", option, plan, SayTerm(p.Term()))
}

func privateOffersHaveTheirPlace(s *Study, tell tells) {
	for i := range s.PrivateOffers {
		p := &s.PrivateOffers[i]
		if !slices.ContainsFunc(s.Options, func(o Option) bool { return o.Key == p.Option }) {
			tell(document.Path("private_offers").To(p.Key(), "option"), "there is no option %q", p.Option)
		}
	}
}

// privateOffersEnd tells which of them had run out before they were made.
func privateOffersEnd(s *Study, tell tells) {
	for i := range s.PrivateOffers {
		p := &s.PrivateOffers[i]
		if !p.Until.IsZero() && p.Until.Before(p.On) {
			tell(document.Path("private_offers").To(p.Key(), "until"), "the last day to sign, %s, is before the quote's, %s",
				p.Until.Format("2 Jan 2006"), p.On.Format("2 Jan 2006"))
		}
	}
}

// privately returns a price list of an option with the private offers of the study
// in it: a plan that is on request is sold as it was quoted, on the terms that
// were. What cannot be counted is told at the offer.
func (o *Outcome) privately(option *Option, e *pricelist.Edition) *pricelist.Edition {
	s, list, own := o.Study, e, false
	for i := range s.PrivateOffers {
		p := &s.PrivateOffers[i]
		if p.Option != option.Key {
			continue
		}
		plan, has := list.Plan(p.Plan)
		switch {
		case !has && slices.ContainsFunc(option.Tools(), func(t Tool) bool { _, ok := t.Edition.Plan(p.Plan); return ok }):
			continue // it is of another tool of the stack
		case !has && e.Platform.Key != option.Platform:
			continue // told of the first
		case !has:
			o.fault(document.Path("private_offers").To(p.Key()), "%s has no plan %q in the price list of %s: remove its private offer, or choose another list",
				option.Name, p.Plan, pricelist.SayRead(option.ObservedOn))
			continue
		case p.RanOut(FirstDay(s.Start)):
			continue
		}
		if !own {
			copied := *e
			copied.Plans, own = slices.Clone(e.Plans), true
			e = &copied
		}
		sold := plan.Offered != pricelist.OnRequest
		if sold && !slices.ContainsFunc(e.Plans, func(one pricelist.Plan) bool { return one.QuotedOf == p.Plan }) {
			besideList(e, p.Plan)
		}
		at := slices.IndexFunc(e.Plans, func(one pricelist.Plan) bool { return sold && one.QuotedOf == p.Plan || !sold && one.Key == p.Plan })
		p.into(&e.Plans[at], plan, e)
	}
	return e
}

// besideList puts the plan that a customer was quoted better terms for beside the plan as it is
// sold to everybody, with all that it has.
func besideList(e *pricelist.Edition, plan string) {
	at := slices.IndexFunc(e.Plans, func(one pricelist.Plan) bool { return one.Key == plan })
	key := plan + "-" + AsQuoted
	for _, taken := e.Plan(key); taken; _, taken = e.Plan(key) {
		key += "-" + AsQuoted
	}
	quoted := e.Plans[at]
	quoted.Key, quoted.QuotedOf, quoted.Name, quoted.Offered = key, plan, quoted.Name+" as quoted", pricelist.OnRequest
	e.Plans = slices.Insert(e.Plans, at+1, quoted)
	e.AddOns = slices.Clone(e.AddOns)
	for i := range e.AddOns {
		a := &e.AddOns[i]
		if slices.Contains(a.Plans, plan) {
			a.Plans = append(slices.Clone(a.Plans), key)
		}
		if slices.Contains(a.IncludedOn, plan) {
			a.IncludedOn = append(slices.Clone(a.IncludedOn), key)
		}
	}
}

// AsQuoted is the key of the charge that a private offer makes.
const AsQuoted = "as-quoted"

// QuotedOn is the newest day on which a plan of an option was quoted, where its
// price is a private offer's; else the zero time.
func (s *Study) QuotedOn(option string, plan *pricelist.Plan) (on time.Time) {
	if len(plan.Charges) == 0 || plan.Charges[0].Key != AsQuoted {
		return on
	}
	for i := range s.PrivateOffers {
		if p := &s.PrivateOffers[i]; p.Option == option && plan.Is(p.Plan) && p.On.After(on) {
			on = p.On
		}
	}
	return on
}

// into sells a plan as it was quoted: what recurs for the bill, packs and what is charged once as
// in its list.
func (p *PrivateOffer) into(plan, listed *pricelist.Plan, e *pricelist.Edition) {
	if plan.Offered == pricelist.OnRequest { // the first offer for it
		plan.Offered, plan.Terms = pricelist.Public, nil
		var packs []pricelist.Charge
		for _, c := range plan.Charges {
			if c.Optional || c.Kind == pricelist.Once {
				c.WaivedOn = slices.Clone(c.WaivedOn)
				packs = append(packs, c)
			}
		}
		plan.Charges = append([]pricelist.Charge{{Key: AsQuoted, Label: "As quoted to you", Kind: pricelist.Flat, Each: 1,
			Price: pricelist.Price{ByKey: map[string]money.Amount{}}}}, packs...)
		e.Offers = slices.DeleteFunc(slices.Clone(e.Offers), func(o pricelist.Offer) bool { return slices.Equal(o.Plans, []string{plan.Key}) })
		for i := range e.Offers {
			e.Offers[i].Plans = slices.DeleteFunc(slices.Clone(e.Offers[i].Plans), func(one string) bool { return one == plan.Key })
		}
	}
	t := p.Term()
	plan.Terms = append(plan.Terms, t)
	for _, like := range listed.Terms { // what a term of the list waives, one like it does
		for i := range plan.Charges {
			if c := &plan.Charges[i]; like.Months == t.Months && like.Paid == t.Paid && slices.Contains(c.WaivedOn, like.Key) {
				c.WaivedOn = append(c.WaivedOn, t.Key)
			}
		}
	}
	// A month's part of a bill, which comes out whole again when it is rounded.
	plan.Charges[0].Price.ByKey[t.Key] = (p.Bill + money.Amount(t.Period()/2)) / money.Amount(t.Period())
}
