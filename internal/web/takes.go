package web

import (
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
)

// takesCard says what an option takes to meet every must, and why.
type takesCard struct {
	Head   optionHead
	Out    string
	WaysIn string
	Lines  []string
	Forced []string
	Below  []string // why the plan below would not do
	Next   []string
	Link   string
}

// takes says what an option takes: plans, add-ons and bridges, with what they cost.
func (r *request) takes(result int) takesCard {
	o, res := r.outcome, &r.outcome.Results[result]
	card := takesCard{Head: r.heads()[result], Link: r.base() + "/options/" + res.Option.Key}
	if !res.In() {
		card.Out, card.WaysIn = list(res.Standing.Out), o.SayWaysIn(res)
	}
	if res.Today == nil {
		return card
	}
	for at := range res.Tools {
		t := &res.Tools[at]
		line := t.Today.Plan.Name
		if res.Option.Stack() {
			line = t.Tool.Edition.Platform.Name + ", " + line
		}
		line += ", paid " + study.SayTerm(t.Today.Term) + ": " + r.study().Currency.Format(t.Schedule.Months[0].Monthly()) + " a month"
		if len(t.Today.AddOns) > 0 {
			line += ", with " + list(t.Today.AddOns)
		}
		card.Lines = append(card.Lines, line)
		if below := r.sayBelow(t); below != "" {
			card.Below = append(card.Below, below)
		}
		if next := o.NextUp(res, at); next != nil {
			card.Next = append(card.Next, r.outcome.SayNextUp(next))
		}
	}
	for _, b := range o.Bridges(res) {
		card.Lines = append(card.Lines, r.sayBridgeUsed(&b))
	}
	for _, f := range res.Forced() {
		card.Forced = append(card.Forced, capital(o.SayForced(res, f))+".")
	}
	return card
}

// sayBelow tells why the plan below the one that is taken would not do.
func (r *request) sayBelow(t *study.ToolResult) string {
	at := slices.IndexFunc(t.Tool.Edition.Plans, func(p pricelist.Plan) bool { return p.Key == t.Today.Plan.Key })
	if at < 1 {
		return ""
	}
	below := &t.Tool.Edition.Plans[at-1]
	for _, q := range t.Prices() {
		reasons := t.Against(&q)
		if q.Plan.Key != below.Key || q.Term.Key != t.Today.Term.Key || len(reasons) == 0 {
			continue
		}
		const most = 3
		var why []string
		for _, reason := range reasons[:min(len(reasons), most)] {
			why = append(why, r.study().SayWhy(reason))
		}
		if n := len(reasons) - most; n > 0 {
			return fmt.Sprintf("%s would not do: %s and %d more.", below.Name, strings.Join(why, ", "), n)
		}
		return fmt.Sprintf("%s would not do: %s.", below.Name, list(why))
	}
	return ""
}

func (r *request) sayBridgeUsed(b *study.Bridge) string {
	text := "A bridge to " + usage.LowerFirst(r.study().Needs[b.Need].Name)
	if b.Lacks != "" {
		return text + ": how many tasks it uses is not known (" + b.Lacks + "), and counted as nothing"
	}
	text += fmt.Sprintf(", %s tasks a month", show(b.Tasks))
	switch {
	case b.By != "":
		text += " through " + b.By
	case !b.Told:
		return text + ": what they cost is not said yet, and counted as nothing"
	}
	if b.Costs > 0 {
		text += ", " + r.study().Currency.Format(b.Costs)
	}
	return text
}
