package study

import (
	"slices"
	"strings"

	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
)

// SayLeaving tells whether leaving what runs today is worth it.
func (o *Outcome) SayLeaving(all []Leaving) Phrase { return o.priced(o.sayLeaving(all)) }

func (o *Outcome) sayLeaving(all []Leaving) Phrase {
	base := o.Baseline()
	switch {
	case base == nil:
		return say("Neither brief nor line-up says what runs today, so there is nothing to leave.")
	case base.Result < 0:
		return say("What runs today costs *%s* over %s, as the brief tells. Bring it into the line-up, marked as what runs today, and leaving it can be weighed.",
			o.Study.Currency.FormatWhole(base.Total), allOf(o.Study.Horizon, "month"))
	}
	var pays []*Leaving
	for i := range all {
		if l := &all[i]; l.Served && l.PaidBack > 0 && !o.Results[l.Result].fails() {
			pays = append(pays, l)
		}
	}
	stay := o.name(base.Result)
	p := say("Staying on *%s* costs *%s*", stay, o.Study.Currency.FormatWhole(base.Total))
	if o.NoRate(&o.Results[base.Result]) != "" {
		return say("What staying on *%s* costs cannot be told.", stay)
	}
	if base.Until == 0 {
		return append(say("*%s*, which runs today, does not serve even the first month", stay), o.sayNeeded(all)...)
	}
	if base.Until < o.Study.Horizon {
		return append(append(p, Part{Text: o.servesOnly(base)}), o.sayNeeded(all)...)
	}
	p = append(p, say(" over %s", allOf(o.Study.Horizon, "month"))...)
	if len(pays) == 0 {
		return append(p, say(". No option pays for the move within the horizon.")...)
	}
	slices.SortStableFunc(pays, func(a, b *Leaving) int {
		switch {
		case a.Saves > b.Saves:
			return -1
		case a.Saves < b.Saves:
			return 1
		}
		return 0
	})
	best := pays[0]
	p = append(p, say(". Leaving it now for *%s* saves *%s*, the move taken off, and has paid for itself by the end of *%s*.", o.name(best.Result),
		o.Study.Currency.FormatWhole(best.Saves), o.Study.Month(best.PaidBack-1).String())...)
	return p
}

// sayNeeded tells which option to leave for costs least where staying is no way.
func (o *Outcome) sayNeeded(all []Leaving) Phrase {
	var best *Leaving
	for i := range all {
		if l := &all[i]; l.Served && !o.Results[l.Result].fails() && (best == nil || l.Total < best.Total) {
			best = l
		}
	}
	if best == nil {
		return say(". No option%s in the line-up serves all months.", o.withPrice())
	}
	return say(". Of those that serve all months, leaving it now for *%s* costs least: *%s*, the move counted.", o.name(best.Result), o.Study.Currency.FormatWhole(best.Total))
}

// SayRoad tells a road: "stay on A until Mar 2028, then B".
func (o *Outcome) SayRoad(r projection.Road, of []int) string {
	var parts []string
	for i, leg := range r.Legs {
		text := o.name(of[leg.Option])
		if i < len(r.Legs)-1 {
			text += " until " + o.Study.Month(leg.To).String()
		}
		parts = append(parts, text)
	}
	return strings.Join(parts, ", then ")
}

// Plural is a unit of which there are several: "contacts".
func Plural(unit string) string { return quote.Plural(unit) }

// SayDoing tells what the option that is first, or cheapest, asks to be done.
func (o *Outcome) SayDoing() Phrase { return o.priced(o.sayDoing()) }

func (o *Outcome) sayDoing() Phrase {
	at := o.Pick.First
	if at < 0 {
		at = o.Cheapest
	}
	if at < 0 {
		return say("There is nothing to do yet: no option%s serves every month.", o.withPrice())
	}
	r := &o.Results[at]
	return say("*%s*: %s. That costs *%s* over %s.", r.Option.Name, o.SayDeeds(r), o.Study.Currency.FormatWhole(r.Schedule.Total), allOf(o.Study.Horizon, "month"))
}

// SayBargains tells what to ask for first.
func (o *Outcome) SayBargains(all []Bargain) Phrase { return o.priced(o.sayBargains(all)) }

func (o *Outcome) sayBargains(all []Bargain) Phrase {
	if len(all) == 0 {
		return say("There is nothing to bargain for: no option%s serves every month.", o.withPrice())
	}
	best := -1
	for i := range all {
		if b := &all[i]; !b.IsLeast && b.LeastDoes && (best < 0 || b.Least < all[best].Least) {
			best = i
		}
	}
	p := Phrase{}
	for i := range all {
		if all[i].IsLeast {
			p = say("*%s* costs least at its list's prices.", o.name(all[i].Result))
			break
		}
	}
	if best < 0 {
		return p
	}
	return p.and(say("*%s* would from *%s* off its list on.", o.name(all[best].Result), all[best].Least))
}
