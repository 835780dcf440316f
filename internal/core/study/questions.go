package study

import (
	"fmt"
	"slices"
	"strings"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
)

// Vendor is a platform with what is to be asked of it.
type Vendor struct {
	Platform, Name string
	Faces          []int // of the options that it is part of
	Questions      []Question
	Unsaid         []string // what to ask about things that its list says nothing of, and others bill or limit
}

// Question is something about a plan that is needed and not yet known.
type Question struct {
	Need    int // index into the needs
	Plan    *pricelist.Plan
	Text    string // as it is asked
	Finding string // key of the finding that answers it
}

// Vendors lists the platforms of the options in the running, with what is not yet
// known of the needs: of each the lowest plan of which it is not. Musts come first.
func (o *Outcome) Vendors() (all []Vendor) {
	at := map[string]int{}
	for i := range o.Results {
		r := &o.Results[i]
		for t := range r.Tools {
			e := r.Tools[t].Tool.Edition
			n, there := at[e.Platform.Key]
			if !there {
				n = len(all)
				at[e.Platform.Key] = n
				all = append(all, Vendor{Platform: e.Platform.Key, Name: e.Platform.Name})
			}
			v := &all[n]
			v.Faces = append(v.Faces, r.Option.Face)
			for need := range o.Study.Needs {
				if q, ok := o.question(r, e, need); ok && !slices.ContainsFunc(v.Questions, func(other Question) bool { return other.Need == need }) {
					v.Questions = append(v.Questions, q)
				}
			}
		}
	}
	for i := range all {
		slices.SortStableFunc(all[i].Questions, func(a, b Question) int {
			return o.Study.Needs[b.Need].Level.Weight() - o.Study.Needs[a.Need].Level.Weight()
		})
	}
	o.unsaid(all)
	return all
}

// question is what is asked about a need of which a platform's plans do not tell
// whether they meet it; false where one meets it, or where all that is told is a no.
func (o *Outcome) question(r *Result, e *pricelist.Edition, need int) (Question, bool) {
	n := o.Study.Needs[need]
	if p := r.taken(e, &n); p != nil {
		f := Finding{Platform: e.Platform.Key, Plan: p.Key, Feature: n.Feature}
		return Question{Need: need, Plan: p, Text: o.ask(&n, p, p.Feature(n.Feature)), Finding: f.Key()}, true
	}
	cell := coverage.Of(e, n, r.Option.Now)
	if cell.Answer != coverage.Open || r.Coverage[need].Answer != coverage.Open { // another tool of the stack has it
		return Question{}, false
	}
	for i := range e.Plans {
		p := &e.Plans[i]
		if p.Offered == pricelist.Closed && !r.Option.Now || n.Meets(p.Feature(n.Feature)) != coverage.Open {
			continue
		}
		f := Finding{Platform: e.Platform.Key, Plan: p.Key, Feature: n.Feature}
		return Question{Need: need, Plan: p, Text: o.ask(&n, p, p.Feature(n.Feature)), Finding: f.Key()}, true
	}
	return Question{}, false
}

// taken is the plan of a price list that is taken in some month though it is not known whether it
// meets a need that it is to bring; nil for none.
func (r *Result) taken(e *pricelist.Edition, n *coverage.Need) *pricelist.Plan {
	must := n.Level == coverage.Must
	if !must && r.Option.Stack() {
		return nil // no tool is to bring it
	}
	for i := range r.Tools {
		t := &r.Tools[i]
		if t.Tool.Edition != e || must && !slices.Contains(t.Musts, n.Feature) {
			continue
		}
		for m := range t.Schedule.Months {
			month := &t.Schedule.Months[m]
			if !month.Serves {
				continue
			}
			if p, ok := e.Plan(month.Plan().Key); ok && n.Meets(p.Feature(n.Feature)) == coverage.Open {
				return p
			}
		}
	}
	return nil
}

// ask puts a need into a question about a plan.
func (o *Outcome) ask(n *coverage.Need, p *pricelist.Plan, f pricelist.Feature) string {
	known, inCatalogue := o.Study.Catalogue.Find(n.Feature)
	name := usage.LowerFirst(n.Name)
	switch {
	case f.Has.Meets() && n.Number > 0 && f.Number == 0 && !f.Unlimited:
		unit := known.Unit
		if unit == "" {
			unit = name
		} else {
			unit = quote.Plural(unit)
		}
		return fmt.Sprintf("%s: how many %s are there on %s? We need %s.", n.Name, unit, p.Name, n.Number.Format())
	case inCatalogue && known.Question != "":
		return fmt.Sprintf("%s on %s: %s", n.Name, p.Name, usage.LowerFirst(known.Question))
	}
	return fmt.Sprintf("Is there %s on %s, and how far does it go?", name, p.Name)
}

// AskVendor writes the questions to a vendor as a text to send.
func (o *Outcome) AskVendor(v *Vendor) string {
	var b strings.Builder
	who := o.Study.Company
	if who == "" {
		who = "We"
	}
	fmt.Fprintf(&b, "%s: questions about %s\n\n", who, v.Name)
	for i, q := range v.Questions {
		fmt.Fprintf(&b, "%d. %s", i+1, q.Text)
		if o.Study.Needs[q.Need].Level == coverage.Must {
			b.WriteString(" (We cannot do without it.)")
		}
		b.WriteString("\n")
	}
	for i, text := range v.Unsaid {
		fmt.Fprintf(&b, "%d. %s\n", len(v.Questions)+i+1, text)
	}
	return b.String()
}
