package web

import (
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

var beyondWords = map[pricelist.Beyond]string{pricelist.MoveUp: "move up", pricelist.BuyPack: "buy a pack", pricelist.Stops: "work stops", pricelist.FairUse: "fair use, not enforced"}

func (e *draftEditor) limitSentence(p *pricelist.Plan, plan document.Path, j int, at place) sentence {
	l := &p.Limits[j]
	path := plan.To("limits", l.KeyOf())
	s := sentence{ID: idOf(path), Place: at}
	units := e.unitsOf(l.Meter)
	if l.OfMeter != "" {
		s.say("%s up to", units)
		s.field(e.field(path.To("most", "times"), "How many times "+e.unitsOf(l.OfMeter)+" "+units+" of "+p.Name+" may be"))
		s.say("times %s", e.unitsOf(l.OfMeter))
	} else {
		s.say("%s up to", units)
		f := e.field(path.To("most"), "Most "+units+" on "+p.Name)
		f.Wide, f.Text, f.Long = true, false, false
		s.field(f)
	}
	if !l.Unlimited {
		s.say("; beyond:")
		beyond := e.field(path.To("beyond"), "What happens beyond the "+units+" of "+p.Name)
		for i := range beyond.Choices {
			beyond.Choices[i].Label = beyondWords[pricelist.Beyond(beyond.Choices[i].Value)]
		}
		s.field(beyond.orNothing("not said"))
	}
	if l.Note != "" || l.Unlimited || l.Beyond == pricelist.FairUse {
		s.field(e.field(path.To("note"), "Note on the "+units+" of "+p.Name))
	}
	s.Faults = e.faultsOf(path)
	return s
}

// addOnView is an add-on: what it is, where it is sold, what it costs and raises.
func (e *draftEditor) addOnView(i int) addOnView {
	ed := &e.draft.Draft.Edition
	a := &ed.AddOns[i]
	path := document.Path("add_ons").To(a.Key)
	v := addOnView{sentence: sentence{ID: idOf(path), Place: e.placeIn("add_ons", keysIn(ed.AddOns, func(a *pricelist.AddOn) string { return a.Key }), i, "add-on "+a.Name)}}
	name := e.field(path.To("name"), "Name of add-on "+a.Name)
	name.Long = false
	v.field(name)
	v.say(", on plans")
	v.field(e.field(path.To("plans"), "Plans on which "+a.Name+" can be bought"))
	v.say(", included in")
	included := e.field(path.To("included_on"), "Plans that hold "+a.Name+" already")
	included.Empty = "none"
	v.field(included)
	v.say(", brings")
	gives := e.field(path.To("gives"), "Features that "+a.Name+" brings")
	gives.Empty = "no feature"
	v.field(gives)
	var terms []pricelist.Term
	for _, key := range a.Plans {
		if p, ok := ed.Plan(key); ok && len(p.Terms) > len(terms) {
			terms = p.Terms
		}
	}
	keys := keysIn(a.Charges, func(c *pricelist.Charge) string { return c.Key })
	for j := range a.Charges {
		v.Charges = append(v.Charges, e.chargeView(path, a.Charges, j, terms, e.placeIn(path.To("charges"), keys, j, chargeName(&a.Charges[j])+" of "+a.Name), a.Name))
	}
	for _, r := range a.Raises {
		at := path.To("raises", r.Meter)
		one := sentence{ID: idOf(at), Place: place{Path: string(at), Remove: string(at), Name: "what " + a.Name + " raises", First: true, Last: true, May: e.mayEdit()}}
		one.say("raises the limit on %s by", e.unitsOf(r.Meter))
		one.field(e.field(at.To("by"), "By how much "+a.Name+" raises the "+e.unitsOf(r.Meter)))
		v.Raises = append(v.Raises, one)
	}
	v.Faults = e.faultsOf(path)
	v.Form = rowForm(name)
	return v
}

func (e *draftEditor) offerView(i int) offerView {
	ed := &e.draft.Draft.Edition
	o := &ed.Offers[i]
	path := document.Path("offers").To(o.Key)
	v := offerView{sentence: sentence{ID: idOf(path), Place: e.placeIn("offers", keysIn(ed.Offers, func(o *pricelist.Offer) string { return o.Key }), i, "offer "+o.Called())}}
	name := e.field(path.To("name"), "Name of offer "+o.Called())
	name.Long, name.Empty = false, "its name"
	v.field(name)
	months := e.field(path.To("months"), "Months that offer "+o.Called()+" lasts")
	switch o.Kind {
	case pricelist.PercentOff:
		v.field(e.field(path.To("value"), "What offer "+o.Called()+" takes off"))
		v.say("off for")
	case pricelist.FixedPrice:
		v.field(e.priceAt(path.To("price"), "Price a month of offer "+o.Called()))
		v.say("a month in place of all that recurs, for")
	case pricelist.FreeMonths:
		v.say("free for")
	}
	months.Empty = "good"
	if o.Months == 0 {
		months.Value = ""
	}
	v.field(months)
	v.say("months, on plans")
	v.field(e.field(path.To("plans"), "Plans of offer "+o.Called()))
	v.say(", terms")
	terms := e.field(path.To("terms"), "Terms of offer "+o.Called())
	terms.Empty = "all"
	v.field(terms)
	v.say(", for new customers")
	v.field(e.field(path.To("new_customers"), "Offer "+o.Called()+" is for new customers"))
	v.say(", to be signed until")
	until := e.field(path.To("until"), "Last day to sign offer "+o.Called())
	until.Empty = "no end"
	v.field(until)
	v.say(", with others")
	v.field(e.field(path.To("together"), "Offer "+o.Called()+" goes with others"))
	v.Faults = e.faultsOf(path)
	v.Form = rowForm(name)
	return v
}

func (e *draftEditor) meterView(i int) meterView {
	ed := &e.draft.Draft.Edition
	m := &ed.Meters[i]
	path := document.Path("meters").To(m.Key)
	v := meterView{sentence: sentence{ID: idOf(path), Place: e.placeIn("meters", keysIn(ed.Meters, func(m *pricelist.Meter) string { return m.Key }), i, "meter "+m.Unit)}, Words: m.Counts.Words(usage.Called)}
	unit := e.field(path.To("unit"), "What meter "+m.Unit+" counts, one of them")
	unit.Long = false
	v.field(unit)
	v.say("=")
	counts := e.field(path.To("counts"), "Formula of meter "+m.Unit)
	v.field(counts)
	v.field(e.field(path.To("kind"), "Kind of meter "+m.Unit))
	v.say(", in fractions")
	v.field(e.field(path.To("fractions"), "Meter "+m.Unit+" is billed in fractions"))
	v.Faults = e.faultsOf(path)
	v.Form = rowForm(unit)
	return v
}

// driverView is a driver of the list's own.
func (e *draftEditor) driverView(i int) meterView {
	ed := &e.draft.Draft.Edition
	d := &ed.Drivers[i]
	path := document.Path("drivers").To(d.Key)
	v := meterView{sentence: sentence{ID: idOf(path), Place: e.placeIn("drivers", keysIn(ed.Drivers, func(d *usage.Driver) string { return d.Key }), i, "driver "+d.Name)}}
	name := e.field(path.To("name"), "Name of driver "+d.Name)
	name.Long = false
	v.field(name)
	v.say(", one of them a")
	unit := e.field(path.To("unit"), "Unit of driver "+d.Name)
	unit.Long = false
	v.field(unit)
	v.field(e.field(path.To("kind"), "Kind of driver "+d.Name))
	v.say(", in whole ones")
	v.field(e.field(path.To("whole"), "Driver "+d.Name+" comes in whole ones"))
	v.Faults = e.faultsOf(path)
	v.Form = rowForm(name)
	return v
}
