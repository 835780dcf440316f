package study

import (
	"context"
	"reflect"
)

// ComputeAfter is [ComputeWithin] of what another outcome's study was edited into; nil: of nothing.
// Where price lists are asked the same as before, they are not compiled anew.
func ComputeAfter(ctx context.Context, s *Study, before *Outcome) (*Outcome, error) {
	if before != nil && (before.Panic != nil || !reflect.DeepEqual(s.asks(), before.Study.asks())) {
		before = nil
	}
	return computeLike(ctx, s, before)
}

// asks is the study without what price lists are not asked for: what is left says which plans, offers
// and add-ons there are, what they charge, and which of them would do.
func (s *Study) asks() *Study {
	one := *s
	one.Key, one.Title, one.Company, one.Question = "", "", "", ""
	one.Horizon, one.Pay, one.Case, one.Budget, one.Patience = 0, "", "", 0, 0
	one.Drivers, one.History, one.Reasons, one.Criteria, one.Ratings, one.People = nil, nil, nil, nil, nil, nil
	return &one
}
