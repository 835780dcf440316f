package study

import (
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/usage"
)

// SayWhy tells why a plan cannot serve, with needs by the names that the study gives
// them: "no trade-buyer lists", "too little site audit".
func (s *Study) SayWhy(r quote.Reason) string {
	if r.Kind != quote.MustMissing && r.Kind != quote.MustNotKnown {
		return r.String()
	}
	for i := range s.Needs {
		n := &s.Needs[i]
		if n.Feature != r.Feature {
			continue
		}
		name := usage.LowerFirst(n.Name)
		switch {
		case r.Kind == quote.MustNotKnown:
			return name + " not yet known"
		case r.Has == pricelist.Partly && (n.Depth > 0 || n.Number > 0):
			return "too little " + name
		case r.Has == pricelist.Partly:
			return name + " only in part"
		case r.Has == pricelist.Announced:
			return name + " only announced"
		}
		return "no " + name
	}
	return r.String()
}
