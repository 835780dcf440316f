package study_test

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/coverage"
	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/study"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// wanting are the forms of what the Desk says wants looking at.
var wanting = map[string]claim{
	"notice": form(`(Old tool|Other) renews on {D}(?:: notice is due by {D}|, and the day for notice, {D}, is past)$`, func(l *listener, m []string) bool {
		k := slices.IndexFunc(l.o.Study.Running, func(r study.Running) bool { return r.Name == m[1] })
		run, today := &l.o.Study.Running[k], l.o.Study.Today
		by := run.Renews.AddDate(0, 0, -run.Notice)
		return day(m[2]).Equal(run.Renews) && day(m[3]+m[4]).Equal(by) && (m[4] != "") == by.Before(today) && !run.Renews.Before(today) && by.Sub(today) < 60*24*time.Hour
	}),
	"old": form(`{O}: prices were read (\d+) days? ago$`, func(l *listener, m []string) bool {
		read := l.o.Results[l.at(m[1])].Option.ObservedOn
		days := number(m[2])
		return read.AddDate(0, 0, days).Equal(l.o.Study.Today) && days > 90
	}),
	"rate": form(`{O}: its prices are in GBP, and there is no rate from GBP to EUR yet$`, func(l *listener, m []string) bool {
		return l.o.Results[l.at(m[1])].Option.Edition.Currency.Code() == "GBP"
	}),
	"quoted": form(`{O}: what was quoted for {P} (had|has) to be signed by {D}(, before the first month here, so it is not counted)?$`, func(l *listener, m []string) bool {
		i := slices.IndexFunc(l.o.Study.PrivateOffers, func(p study.PrivateOffer) bool {
			return p.Option == m[1] && m[1]+" "+p.Plan == strings.Replace(m[2], "small", "plan", 1)
		})
		until := day(m[4])
		past := until.Before(l.o.Study.Today)
		return l.o.Study.PrivateOffers[i].Until.Equal(until) && until.Before(study.FirstDay(l.o.Study.Start)) && past == (m[3] == "had") && past == (m[5] == "")
	}),
	"unknown": form(`{O}: (forms|tests) not yet known on {Q}(?: and {Q})?$`, func(l *listener, m []string) bool {
		r := &l.o.Results[l.at(m[1])]
		taken := map[string]bool{}
		for _, now := range r.Schedule.Months {
			if now.Serves && now.Plan().Features[map[string]string{"forms": "a/one", "tests": "a/two"}[m[2]]].Has == pricelist.Unknown {
				taken[now.Plan().Name] = true
			}
		}
		must := slices.ContainsFunc(l.o.Study.Needs, func(n coverage.Need) bool { return strings.EqualFold(n.Name, m[2]) && n.Level == coverage.Must })
		return must && taken[m[3]] && len(taken) == len(slices.DeleteFunc([]string{m[3], m[4]}, func(s string) bool { return s == "" }))
	}),
	"budget": form(`{O}, the pick, costs {A} more than the budget$`, func(l *listener, m []string) bool {
		i, most := l.at(m[1]), l.o.Study.Budget
		switch l.o.Study.Brief.BudgetFor {
		case study.ForMonth:
			most *= 6
		case study.ForYear:
			most /= 2
		}
		return i == l.o.Pick.First && comes(m[2], l.o.Results[i].Schedule.Total-most) && l.o.Results[i].Schedule.Total > most
	}),
	"ahead": form(`{O}, the pick, asks for {A} at once in {M}, more than may be paid ahead$`, func(l *listener, m []string) bool {
		i, t := l.at(m[1]), month(m[3])
		now := &l.o.Results[i].Schedule.Months[t]
		return i == l.o.Pick.First && comes(m[2], now.Cash+now.Falls) && now.Cash+now.Falls > l.o.Study.Brief.Upfront
	}),
	"ratings": form(`{O}: (\d+) ratings? (?:is|are) missing$`, func(l *listener, m []string) bool {
		return l.unrated(m[1]) == number(m[2])
	}),
}

// unrated counts the criteria that weigh and that nobody rated an option by.
func (l *listener) unrated(name string) (n int) {
	s := l.o.Study
	for _, c := range s.Criteria {
		if c.Source == fit.Rated && c.Weight > 0 && !slices.ContainsFunc(s.Ratings, func(r fit.Rating) bool { return r.Option == name && r.Criterion == c.ID }) {
			n++
		}
	}
	return n
}

func day(text string) time.Time {
	d, _ := time.Parse("2 Jan 2006", text)
	return d
}

// What the Desk says wants looking at does, and what does is said; where it says that all is settled,
// nothing is left.
func TestWhatWantsLookingAtDoes(t *testing.T) {
	heard := map[string]int{}
	for n := range 2000 {
		r := rand.New(rand.NewPCG(24, uint64(n)))
		s := spoken(r)
		s.Budget, s.Brief.BudgetFor = money.Units(r.Int64N(3)*20), []study.BudgetFor{study.ForAll, study.ForMonth, study.ForYear}[r.IntN(3)]
		s.Brief.Upfront = money.Units(r.Int64N(3) * 30)
		for k := range s.Running {
			s.Running[k].Notice = r.IntN(90)
		}
		if r.IntN(2) == 0 {
			s.Running = append(s.Running, study.Running{Key: "other", Name: "Other", Cost: money.Units(3), Renews: s.Today.AddDate(0, 0, r.IntN(120)-20), Notice: r.IntN(40)})
		}
		for i := range s.Options {
			read := s.Today.AddDate(0, 0, -r.IntN(120))
			s.Options[i].ObservedOn, s.Options[i].Edition.ObservedOn = read, read
			if r.IntN(4) == 0 {
				s.PrivateOffers = append(s.PrivateOffers, study.PrivateOffer{Option: s.Options[i].Key, Plan: "big", Months: 12, Paid: pricelist.Upfront, Bill: money.Units(100),
					On: s.Today.AddDate(0, 0, -30), Until: s.Today.AddDate(0, 0, r.IntN(90)-20)})
			}
		}
		o := compute(t, s)
		l := &listener{o: o}
		said := map[string]int{}
		for _, note := range o.Facts().Notes {
			kind := ""
			for k, c := range wanting {
				if m := c.words.FindStringSubmatch(note.Text); m != nil {
					kind = k
					require.True(t, c.holds(l, m), "study %d: %s", n, note.Text)
				}
			}
			require.NotEmpty(t, kind, "study %d: %s", n, note.Text)
			heard[kind]++
			said[kind]++
		}
		due := map[string]int{}
		for i := range s.Running {
			if by := s.Running[i].Renews.AddDate(0, 0, -s.Running[i].Notice); !s.Running[i].Renews.Before(s.Today) && by.Sub(s.Today) < 60*24*time.Hour {
				due["notice"]++
			}
		}
		for i := range s.Options {
			op := &s.Options[i]
			if op.ObservedOn.AddDate(0, 0, 90).Before(s.Today) {
				due["old"]++
			}
			if op.Edition.Currency.Code() == "GBP" {
				due["rate"]++
			}
			if o.Results[i].In() && l.unrated(op.Key) > 0 {
				due["ratings"]++
			}
		}
		for _, p := range s.PrivateOffers {
			if p.Until.Before(study.FirstDay(s.Start)) {
				due["quoted"]++
			}
		}
		for kind, want := range due {
			require.Equal(t, want, said[kind], "study %d, %s: %v", n, kind, o.Facts().Notes)
		}
		if len(said) == 0 { // the Desk says what is settled
			heard["settled"]++
			text := o.SaySettled()
			if known := strings.Contains(text, "needs are known"); known || len(s.Needs) > 0 {
				require.Equal(t, known, !slices.ContainsFunc(s.Needs, func(need coverage.Need) bool {
					return slices.ContainsFunc(o.Results, func(r study.Result) bool { return unknown(&r, need.Feature) })
				}), "study %d: %s", n, text)
			}
		}
	}
	for kind := range wanting {
		assert.Greater(t, heard[kind], 10, kind)
	}
	assert.Greater(t, heard["settled"], 10)
}

// unknown reports whether it is open how an option has something, or whether a plan that it takes does.
func unknown(r *study.Result, feature string) bool {
	cell := func(c coverage.Cell) bool { return c.Need.Feature == feature && c.Answer == coverage.Open }
	return slices.ContainsFunc(r.Coverage, cell) || slices.ContainsFunc(r.Schedule.Months, func(m projection.Month) bool {
		return m.Serves && m.Plan().Features[feature].Has == pricelist.Unknown
	})
}
