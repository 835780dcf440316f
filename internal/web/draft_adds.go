package web

import (
	"errors"
	"slices"
	"strings"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"

	"github.com/gin-gonic/gin"
)

func typedQuantity(text string) (usage.Quantity, error) { return notation.Quantity.Typed(text) }
func parseQuantity(text string) (usage.Quantity, error) { return usage.ParseQuantity(text) }

// typedAmount reads an amount in a list's currency as people type it, with its sign or code or without;
// else why it is none.
func typedAmount(text string, in money.Currency) (a money.Amount, why string) {
	plain := strings.TrimSpace(text)
	for _, sign := range []string{strings.TrimSpace(in.Symbol()), in.Code()} {
		plain = strings.TrimSpace(strings.TrimSuffix(strings.TrimPrefix(plain, sign), sign))
	}
	a, err := notation.Price.Typed(plain)
	var asked *money.UnclearError
	switch {
	case errors.As(err, &asked):
		return 0, couldMean(text, asked)
	case err != nil:
		return 0, quoted(text) + " is no amount in " + in.Code() + ", such as 12.00"
	}
	return a, ""
}

// chargeKinds are the ways of charging as they are chosen, with what the number beside
// the price is.
var chargeKinds = []choiceView{{Label: "a month, flat", Value: "flat"}, {Label: "for every one", Value: "unit"}, {Label: "for each started pack of", Value: "pack"},
	{Label: "the whole price of the band up to", Value: "stair"}, {Label: "for each, by its own band up to", Value: "graduated"},
	{Label: "for all, by the band they fall in up to", Value: "volume"}, {Label: "per cent of money", Value: "share"}, {Label: "once, at signing", Value: "once"}}

// adders puts the forms that add things onto the page.
func (e *draftEditor) adders(b *pricesDraft) {
	ed := &e.draft.Draft.Edition
	for i := range b.Plans {
		on := "plans." + b.Plans[i].Key
		b.Plans[i].NewCharge = e.adder("charge", on, "Add a charge", e.chargeFields()...)
		b.Plans[i].NewLimit = e.adder("limit", on, "Add a limit", addField{Name: "meter", Label: "On", Choices: e.meterChoices()},
			addField{Name: "most", Label: "At most: 2500, unlimited, or 12 x contacts"})
		b.Plans[i].NewTerm = e.adder("term", on, "Add a term", addField{Name: "months", Label: "Months, or lifetime", Value: "12"},
			addField{Name: "paid", Label: "Paid", Choices: []choiceView{{Label: "up front, one bill", Value: string(pricelist.Upfront)}, {Label: "monthly", Value: string(pricelist.Monthly)}}},
			addField{Name: "off", Label: "Takes off, per cent", Decimal: true})
	}
	for i := range b.AddOns {
		b.AddOns[i].NewCharge = e.adder("charge", "add_ons."+ed.AddOns[i].Key, "Add a charge", e.chargeFields()...)
	}
	first := addField{Name: "includes", Label: "Has all of", Choices: []choiceView{{Label: "nothing below", Value: ""}}}
	for i := range ed.Plans {
		first.Choices = append(first.Choices, choiceView{Label: ed.Plans[i].Name, Value: ed.Plans[i].Key})
	}
	b.NewPlan = e.adder("plan", "plans", "Add a plan", addField{Name: "name", Label: "Plan", Longest: 60},
		addField{Name: "price", Label: "A month, empty where one has to ask", Decimal: true}, first)
	b.NewAddOn = e.adder("addon", "add_ons", "Add an add-on", addField{Name: "name", Label: "Add-on", Longest: 60}, addField{Name: "price", Label: "A month", Decimal: true})
	b.NewOffer = e.adder("offer", "offers", "Add an offer", addField{Name: "name", Label: "Called", Longest: 60},
		addField{Name: "kind", Label: "Gives", Choices: []choiceView{{Label: "per cent off", Value: string(pricelist.PercentOff)}, {Label: "a price of its own", Value: string(pricelist.FixedPrice)},
			{Label: "free months", Value: string(pricelist.FreeMonths)}}}, addField{Name: "value", Label: "Per cent, or price a month", Decimal: true},
		addField{Name: "months", Label: "For months, empty for good", Decimal: true})
	drivers := []choiceView{}
	for _, d := range e.drivers() {
		drivers = append(drivers, choiceView{Label: d.Name, Value: d.Key})
	}
	drivers = append(drivers, choiceView{Label: "something of its own, called below", Value: ownDriverOf})
	b.NewMeter = e.adder("meter", "meters", "Add a meter", addField{Name: "driver", Label: "Counts", Choices: drivers},
		addField{Name: "unit", Label: "Called, one of them", Longest: 30}, addField{Name: "kind", Label: "Of its own, it is", Choices: []choiceView{
			{Label: "a level, such as courses", Value: string(usage.Stock)}, {Label: "an amount each month", Value: string(usage.Flow)}}}, addField{Name: "counts", Label: "Or by a formula", Longest: 500})
}

func (e *draftEditor) chargeFields() []addField {
	return []addField{{Name: "price", Label: "Price, or per cent", Decimal: true}, {Name: "kind", Label: "Charged", Choices: chargeKinds},
		{Name: "size", Label: "Per, in a pack, or up to", Decimal: true}, {Name: "meter", Label: "Of", Choices: append([]choiceView{{Label: "nothing counted", Value: ""}}, e.meterChoices()...)},
		{Name: "label", Label: "Called", Longest: 60}}
}

// meterChoices are the meters of the list, and the drivers that have none yet.
func (e *draftEditor) meterChoices() (all []choiceView) {
	ed := &e.draft.Draft.Edition
	for _, m := range ed.Meters {
		all = append(all, choiceView{Label: e.unitsOf(m.Key), Value: m.Key})
	}
	for _, d := range e.drivers() {
		if _, there := ed.Meter(d.Key); !there {
			all = append(all, choiceView{Label: strings.ToLower(d.Name), Value: d.Key})
		}
	}
	return all
}

// adder makes a form, with what was typed into it and not taken.
func (e *draftEditor) adder(op, on, title string, fields ...addField) *draftAdd {
	a := &draftAdd{Op: op, On: on, ID: "add-" + op + "-" + inIDs.Replace(strings.ReplaceAll(on, ".", "-")), Title: title}
	for _, f := range fields {
		f.ID = a.ID + "-" + f.Name
		for i := range e.problems {
			p := e.problems[i]
			if p.Item == nil || p.Item["form"] != a.ID {
				continue
			}
			a.Open, p.told = true, true
			f.Value = p.Item[f.Name]
			if p.Field == f.ID {
				f.Problem = p.Message
			}
			f.Choices = slices.Clone(f.Choices)
			for j := range f.Choices {
				f.Choices[j].Chosen = f.Choices[j].Value == p.Item[f.Name]
			}
		}
		a.Fields = append(a.Fields, f)
	}
	return a
}

// wrongAdd is a field of a form that adds, and why it was not taken.
type wrongAdd struct{ name, why string }

func (w *wrongAdd) Error() string { return w.why }

// insertTyped adds to the draft what a form says.
func (s *Server) insertTyped(c *gin.Context, e *draftEditor, form draftForm) (*refusal, error) {
	typed := typedItem(c)
	id := "add-" + form.Op + "-" + inIDs.Replace(strings.ReplaceAll(form.On, ".", "-"))
	change, err := e.inserted(form.Op, document.Path(form.On), typed)
	var at *wrongAdd
	var asked *money.UnclearError
	switch {
	case errors.As(err, &at):
		wrong := refuse(id+"-"+at.name, typed[at.name], at.why+" Nothing was added.")
		typed["form"] = id
		wrong.problem.Item = typed
		return wrong, nil
	case errors.As(err, &asked):
		return nil, unreadable()
	case err != nil:
		return nil, err
	}
	wrong, err := saved(c, s.store.Edit(c, e.at, change), id, "")
	if wrong != nil {
		typed["form"] = id
		wrong.problem.Item = typed
	}
	return wrong, err
}
