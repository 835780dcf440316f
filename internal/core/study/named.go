package study

import (
	"cmp"
	"fmt"
	"slices"

	"ninecoins/internal/core/fit"
)

// told is what an option is called beside the others: those of one name are told
// apart by their number in the line-up.
func (s *Study) told(o *Option) string {
	at, alike := 0, 0
	for i := range s.Options {
		if s.Options[i].Key == o.Key {
			at = i + 1
		}
		alike += count(s.Options[i].Name == o.Name)
	}
	if alike < 2 {
		return o.Name
	}
	return fmt.Sprintf("%s (no. %d)", o.Name, at)
}

// Named returns the study as files hold it: raters by their names, ratings in
// the order of the raters, the options and the criteria.
func (s *Study) Named() *Study {
	named := *s
	named.People = nil
	named.Ratings = slices.Clone(s.Ratings)
	options, criteria := map[string]int{}, map[string]int{}
	for i, o := range s.Options {
		options[o.Key] = i
	}
	for i, c := range s.Criteria {
		criteria[c.ID] = i
	}
	for i := range named.Ratings {
		named.Ratings[i].Rater = s.NameOf(named.Ratings[i].Rater)
	}
	slices.SortStableFunc(named.Ratings, func(a, b fit.Rating) int {
		return cmp.Or(cmp.Compare(a.Rater, b.Rater), options[a.Option]-options[b.Option], criteria[a.Criterion]-criteria[b.Criterion])
	})
	return &named
}

// ByKey returns the study as the database keeps it: raters by the keys of
// people, found by their names.
func (s *Study) ByKey(keys map[string]string) *Study {
	kept := *s
	kept.Ratings = slices.Clone(s.Ratings)
	kept.People = map[string]string{}
	for i := range kept.Ratings {
		r := &kept.Ratings[i]
		kept.People[keys[r.Rater]] = r.Rater
		r.Rater = keys[r.Rater]
	}
	return &kept
}
