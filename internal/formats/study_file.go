package formats

import (
	"context"
	"fmt"
	"slices"
	"time"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/document"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/doors"
)

// StudyFormat is the first word of a study file.
const StudyFormat = "nine-coins/study/1"

// FindEdition returns the edition of a platform that was read on a day.
type FindEdition func(platform string, observedOn time.Time) (*pricelist.Edition, bool)

// ReadStudy reads a study on a day and checks it whole: it must compute. A
// file at fault is refused with [Faults].
func ReadStudy(ctx context.Context, data []byte, today time.Time, find FindEdition) (*study.Study, error) {
	file, err := openUpTo(ctx, data, today, single)
	if err != nil {
		return nil, err
	}
	return file.Study(find)
}

// Study reads the file as a study.
func (file *File) Study(find FindEdition) (*study.Study, error) {
	f := open(file.root, "", file.r)
	s, _ := readStudy(f, find, false)
	f.done()
	if err := file.r.done(); err != nil {
		return nil, err
	}
	return s, nil
}

// readStudy reads the fields of a study. Options that rest in the bin, each
// with the moment it was put there, are read only where that is asked for;
// they are not in the study that is checked.
func readStudy(f *fields, find FindEdition, withBin bool) (*study.Study, map[string]time.Time) {
	before := f.r.faults.Count()
	f.format(StudyFormat)
	s := &study.Study{Key: f.key("key", must), Title: f.text("title", must, 120), Company: f.text("company", optional, 80), Question: f.text("question", optional, 600),
		Currency: f.currency("currency"), Start: f.month("start"), Horizon: f.whole("months", must, 1, study.MostMonths),
		Pay:    projection.Policy(f.choice("pay", must, string(projection.Monthly), string(projection.Yearly))),
		Budget: f.amount("budget", optional), Patience: f.whole("patience_days", must, 1, 3650), Rates: map[string]quote.Rate{}}
	f.each("rates", optional, 40, func(r *fields) {
		code, rate := r.currency("currency").Code(), quote.Rate{Rate: r.amount("rate", must), On: r.pastDay("on")}
		if _, twice := s.Rates[code]; twice && code != "" {
			r.refuse(r.node, "currency", "there are two rates for %s; keep one", code)
		}
		if n := r.node.Field("rate"); n != nil && rate.Rate <= 0 {
			r.refuse(n, "rate", "expected a rate above 0")
		}
		s.Rates[code] = rate
	})
	var model *usage.Model
	s.Drivers, s.Own, model = readDrivers(f)
	needed := map[string]bool{}
	f.each("needs", optional, 200, func(n *fields) {
		if feature := n.node.Field("feature"); feature != nil && feature.Shape == document.IsText {
			if needed[feature.Text] {
				n.refuse(feature, "feature", "there are two needs of %s; keep one", feature.Describe())
			}
			needed[feature.Text] = true
		}
		s.Needs = append(s.Needs, coverage.Need{ID: n.feature("feature"), Feature: n.feature("feature"), Name: n.text("name", must, 80), Note: n.text("note", optional, 200),
			Level: coverage.Level(n.choice("level", must, string(coverage.Must), string(coverage.Want), string(coverage.Bonus)))})
	})
	binned := readOptions(f, s, find, withBin)
	readScores(f, s)
	if f.r.faults.Count() == before && model != nil && !f.r.ended() {
		if _, err := study.Compute(withoutBinned(s, binned)); err != nil {
			f.refuse(f.node, "", "%v", err)
		}
	}
	return s, binned
}

// withoutBinned returns the study as it is computed.
func withoutBinned(s *study.Study, binned map[string]time.Time) *study.Study {
	if len(binned) == 0 {
		return s
	}
	rest := *s
	rest.Options = slices.DeleteFunc(slices.Clone(s.Options), func(o study.Option) bool { return !binned[o.Key].IsZero() })
	rest.Ratings = slices.DeleteFunc(slices.Clone(s.Ratings), func(r fit.Rating) bool { return !binned[r.Option].IsZero() })
	return &rest
}

func (f *fields) feature(name string) string {
	n := f.of(name, must, "a feature such as \"automation/event-triggers\"", document.IsText)
	if n == nil {
		return ""
	}
	if !featureForm.MatchString(n.Text) {
		f.refuse(n, name, "expected a feature such as \"automation/event-triggers\", found %s", n.Describe())
	}
	return n.Text
}

func readOptions(f *fields, s *study.Study, find FindEdition, withBin bool) (binned map[string]time.Time) {
	keys, faces, now := map[string]bool{}, map[int]bool{}, 0
	binned = map[string]time.Time{}
	f.each("options", must, orMore(withBin, study.MostOptions), func(o *fields) {
		option := study.Option{Key: o.key("key", must), Face: o.whole("face", must, 1, study.MostOptions), Now: o.yes("now")}
		if keys[option.Key] {
			o.refuse(o.node, "key", "option %q stands twice", option.Key)
		}
		keys[option.Key] = true
		if withBin {
			if at := o.moment("binned_at", optional); !at.IsZero() {
				binned[option.Key] = at
			}
		}
		if here := binned[option.Key].IsZero(); here && option.Face > 0 {
			if faces[option.Face] {
				o.refuse(o.node, "face", "two options have face %d; each needs one of its own", option.Face)
			}
			faces[option.Face] = true
		}
		if option.Now && binned[option.Key].IsZero() {
			now++
		}
		if now > 1 {
			o.refuse(o.node, "now", "only one option can be what runs today")
		}
		platform, day := o.key("platform", must), o.day("observed_on", must)
		e, ok := find(platform, day)
		if !ok {
			o.refuse(o.node, "platform", "there is no edition of platform %q read on %s; import its price list first", platform, day.Format(time.DateOnly))
			return
		}
		option.Edition, option.Name = e, o.text("name", optional, 60)
		if option.Name == "" {
			option.Name = e.Platform.Name
		}
		s.Options = append(s.Options, option)
	})
	return binned
}

// orMore gives room for what rests in the bin beside what is in the running.
func orMore(withBin bool, most int) int {
	if withBin {
		return 20 * most
	}
	return most
}

func readScores(f *fields, s *study.Study) {
	criteria, options := map[string]bool{}, map[string]bool{}
	for _, o := range s.Options {
		options[o.Key] = true
	}
	f.each("criteria", optional, 60, func(c *fields) {
		one := fit.Criterion{ID: c.key("key", must), Name: c.text("name", must, 60), Note: c.text("note", optional, 200), Weight: c.share("weight", must, 0, money.Whole),
			Source: fit.Source(c.choice("source", must, string(fit.Rated), string(fit.Cost)))}
		if one.Source == fit.Cost {
			one.Best, one.Worst = c.amount("best", must), c.amount("worst", must)
			if one.Worst < one.Best {
				c.refuse(c.node.Field("worst"), "worst", "the worst cost, %s, is below the best, %s", one.Worst, one.Best)
			}
		}
		if criteria[one.ID] {
			c.refuse(c.node, "key", "criterion %q stands twice", one.ID)
		}
		criteria[one.ID] = true
		s.Criteria = append(s.Criteria, one)
	})
	given, called := map[string]bool{}, map[string]string{}
	f.each("ratings", optional, 5000, func(r *fields) {
		one := fit.Rating{Rater: r.person("rater", must), Option: r.key("option", must), Criterion: r.key("criterion", must), Reason: r.text("reason", optional, 300)}
		like := doors.Likeness(one.Rater)
		if other, known := called[like]; !known {
			called[like] = one.Rater
		} else if other != one.Rater {
			r.refuse(r.node, "rater", "%q looks like %q, who rates too; write the name the same way", one.Rater, other)
		}
		if n := r.of("value", must, "a rating from 0 to 9 in halves", document.IsText, document.IsNumber); n != nil {
			var err error
			if one.Value, err = fit.ParseHalves(n.Text); err != nil {
				r.refuse(n, "value", "%v", err)
			}
		}
		if len(s.Options) > 0 && !options[one.Option] {
			r.refuse(r.node, "option", "there is no option %q", one.Option)
		}
		if !criteria[one.Criterion] {
			r.refuse(r.node, "criterion", "there is no criterion %q", one.Criterion)
		}
		id := fmt.Sprintf("%q %q %q", one.Rater, one.Option, one.Criterion)
		if given[id] {
			r.refuse(r.node, "rater", "%s has rated %q on %q already", one.Rater, one.Option, one.Criterion)
		}
		given[id] = true
		s.Ratings = append(s.Ratings, one)
	})
}
