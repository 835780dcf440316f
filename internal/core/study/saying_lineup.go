package study

import "ninecoins/internal/core/coverage"

// SayLineUp tells what is in the running, what runs today, and how many needs decide.
func (o *Outcome) SayLineUp() Phrase {
	if len(o.Results) == 0 {
		return say("Nothing is in the running yet. An option is a platform by one of the price lists on the shelf, one plan of it, or a stack of several.")
	}
	stacks, tools := 0, 0
	for i := range o.Results {
		if n := len(o.Results[i].Tools); n > 1 {
			stacks++
			tools = n
		}
	}
	verb := " are"
	if len(o.Results) == 1 {
		verb = " is"
	}
	p := say("*%s*"+verb+" in the running", plural(len(o.Results), "option"))
	switch stacks {
	case 0:
		p = append(p, Part{Text: "."})
	case 1:
		p = append(p, say(", one of them a stack of %d tools.", tools)...)
	default:
		p = append(p, say(", %d of them stacks.", stacks)...)
	}
	for i := range o.Results {
		if r := &o.Results[i]; r.Option.Now && r.Today != nil {
			p = p.and(say("*%s* runs today, for *%s* a month.", r.Option.Name, o.Study.Currency.Format(r.Monthly(0))))
		}
	}
	return p.and(o.sayShared())
}

// sayShared tells how many needs all options have alike, so that the others decide.
func (o *Outcome) sayShared() Phrase {
	needs := len(o.Study.Needs)
	if len(o.Results) < 2 || needs == 0 {
		return nil
	}
	shared := 0
	for n := range o.Study.Needs {
		met := 0
		for i := range o.Results {
			met += count(o.Results[i].Meets(n) == coverage.Met)
		}
		shared += count(met == len(o.Results))
	}
	switch shared {
	case 0:
		return say("No need is met by all of them.")
	case needs:
		return say("All of them meet *%s*: what decides is elsewhere.", allOf(needs, "need"))
	}
	if needs-shared == 1 {
		return say("All of them meet *%d* of %s; what decides is the other one.", shared, plural(needs, "need"))
	}
	return say("All of them meet *%d* of %s; what decides is in the other *%d*.", shared, plural(needs, "need"), needs-shared)
}
