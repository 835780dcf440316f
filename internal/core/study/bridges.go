package study

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/usage"
)

// Bridge is a must that is met through a connector.
type Bridge struct {
	Need  int // index into the needs
	Tool  int
	Tasks float64      // in the first month
	Costs money.Amount // a month, by the price of tasks; what a tool of the stack asks is in its own receipt
	By    string       // what carries it: a tool of the stack, a running tool, or ""
	Asked bool         // what it costs stands in the receipt of the tool that carries it
	Told  bool         // whether it is known what it costs
	Lacks string       // why it is not known how many tasks it uses; ""
}

// Bridges lists the musts that an option meets through a connector today.
func (o *Outcome) Bridges(r *Result) (all []Bridge) {
	s := o.Study
	for i, n := range s.Needs {
		if n.Level != coverage.Must || r.Today == nil {
			continue
		}
		for at := range r.Tools {
			t := &r.Tools[at]
			plan, ok := t.Tool.Edition.Plan(t.Today.Plan.Key)
			if !ok || !slices.Contains(t.Musts, n.Feature) || plan.Feature(n.Feature).Has != pricelist.Bridge {
				continue
			}
			b := Bridge{Need: i, Tool: at}
			if tasks, err := o.tasks(plan.Feature(n.Feature).Uses); err != nil {
				b.Lacks = err.Error()
			} else {
				b.Tasks = tasks
			}
			b.Told = b.Lacks == "" && (s.Connector.Told() || b.Tasks == 0)
			if run, ok := s.runs(s.Connector.Through); ok {
				b.By = run.Name
			}
			b.Costs = s.costOf(b.Tasks)
			for j := range r.Tools {
				if r.Tools[j].Tool.Carries {
					b.By, b.Told, b.Costs, b.Asked = r.Tools[j].Tool.Called(), b.Lacks == "", 0, true
				}
			}
			all = append(all, b)
		}
	}
	return all
}

// costOf is what tasks cost at the study's price, rounded to the minor unit.
func (s *Study) costOf(tasks float64) money.Amount {
	to := float64(s.Currency.Minor())
	return money.Amount(math.Round(math.Ceil(tasks)*float64(s.Connector.Price)/float64(max(1, s.Connector.Each))/to) * to)
}

// runs finds a tool that runs today.
func (s *Study) runs(key string) (*Running, bool) {
	for i := range s.Running {
		if s.Running[i].Key == key {
			return &s.Running[i], true
		}
	}
	return nil, false
}

// BridgeCosts is what a bridge costs in the first month by the price of tasks; false
// where it is not said what tasks cost, or what the bridge uses.
func (o *Outcome) BridgeCosts(uses pricelist.Uses) (money.Amount, bool) {
	tasks, err := o.tasks(uses)
	if err != nil || !o.Study.Connector.Told() {
		return 0, false
	}
	return o.Study.costOf(tasks), true
}

// tasks is how many tasks a bridge uses in the first month. The error says why that is
// not known: the price list does not say it, or by what this study does not have.
func (o *Outcome) tasks(uses pricelist.Uses) (float64, error) {
	if uses.Amount == "" {
		return 0, errors.New("the price list does not say")
	}
	f, err := tasksOf(uses)
	if err != nil {
		return 0, err
	}
	for _, name := range f.Names() {
		if slices.Contains(o.Model.Assumed(), name) {
			d, _ := usage.InCatalogue(name)
			return 0, fmt.Errorf("no %s in Growth", usage.LowerFirst(d.Name))
		}
	}
	tasks, err := f.Over(o.Values)
	if err != nil {
		return 0, err
	}
	return tasks[0], nil
}
