package study

import (
	"slices"
	"strings"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/usage"
)

// Start is a brief to begin with: drivers with typical values, needs, and criteria
// with weights. All of it can be changed once it is in a study.
type Start struct {
	Key, Name, About, Question string

	drivers  []startDriver
	needs    []startNeed
	criteria []startCriterion
}

type startDriver struct {
	key    string
	now    int64
	growth money.Share // a month
}

type startNeed struct {
	feature string
	level   coverage.Level
	depth   int
	number  int64
}

type startCriterion struct {
	name, note string
	weight     money.Share
	source     fit.Source
	worst      int64 // of a cost: where it scores 0
}

// Starts lists the briefs that a study can begin with.
func Starts() []Start { return starts }

// StartOf finds one by its key.
func StartOf(key string) (Start, bool) {
	at := slices.IndexFunc(starts, func(s Start) bool { return s.Key == key })
	if at < 0 {
		return Start{}, false
	}
	return starts[at], true
}

// Brings says what it brings along, in a few words.
func (st *Start) Brings() string {
	return list([]string{plural(len(st.drivers), "driver"), plural(len(st.needs), "need"), strings.Replace(plural(len(st.criteria), "criterion"), "criterions", "criteria", 1)})
}

// Into is the change that brings it into a study: what the study has already stays as
// it is.
func (st *Start) Into(s *Study) (c document.Change) {
	if s.Question == "" {
		c = append(c, document.Op{Do: document.Set, Path: "question", To: st.Question})
	}
	for _, d := range st.drivers {
		if slices.ContainsFunc(s.Drivers, func(one Setting) bool { return one.Driver == d.key }) {
			continue
		}
		text := settingTable.WriteItem(Setting{Driver: d.key, Path: usage.Path{Now: usage.Of(d.now), Growth: d.growth}})
		c = append(c, document.Op{Do: document.Insert, Path: document.Path("drivers").To(d.key), To: text})
	}
	for _, n := range st.needs {
		key := s.Catalogue.Key(n.feature)
		if slices.ContainsFunc(s.Needs, func(one coverage.Need) bool { return s.Catalogue.Key(one.Feature) == key }) {
			continue
		}
		f, _ := s.Catalogue.Find(key)
		text := needTable.WriteItem(coverage.Need{ID: key, Feature: key, Name: f.Name, Level: n.level, Depth: n.depth, Number: usage.Of(n.number)})
		c = append(c, document.Op{Do: document.Insert, Path: document.Path("needs").To(key), To: text})
	}
	taken := map[string]bool{}
	for _, one := range s.Criteria {
		taken[one.ID] = true
	}
	for _, one := range st.criteria {
		if slices.ContainsFunc(s.Criteria, func(there fit.Criterion) bool {
			return strings.EqualFold(there.Name, one.name) || one.source != fit.Rated && there.Source == one.source
		}) {
			continue
		}
		key := document.KeyFor(one.name, func(key string) bool { return taken[key] })
		taken[key] = true
		item := fit.Criterion{ID: key, Name: one.name, Note: one.note, Source: one.source, Weight: one.weight, Worst: money.Units(one.worst)}
		c = append(c, document.Op{Do: document.Insert, Path: document.Path("criteria").To(key), To: criterionTable.WriteItem(item)})
	}
	return c
}

var (
	needTable      = document.Item(needParts())
	criterionTable = document.Item(criterionParts())
)

// Begins reports whether a study has nothing to compare by yet, so that it begins with
// the choice of a brief.
func (s *Study) Begins() bool {
	return len(s.Needs) == 0 && len(s.Drivers) == 0 && len(s.Criteria) == 0 && len(s.Options) == 0
}
