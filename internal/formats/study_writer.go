package formats

import (
	"encoding/json"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/fit"
	"ninecoins/internal/core/study"
)

// The shapes of a study file, in the order in which its fields are written.
type (
	studyFile struct {
		Format   string        `json:"format"`
		Key      string        `json:"key"`
		Title    string        `json:"title"`
		Company  string        `json:"company,omitempty"`
		Question string        `json:"question,omitempty"`
		Currency string        `json:"currency"`
		Start    string        `json:"start"`
		Months   int           `json:"months"`
		Pay      string        `json:"pay"`
		Budget   string        `json:"budget,omitempty"`
		Patience int           `json:"patience_days"`
		Rates    []rateFile    `json:"rates,omitempty"`
		Drivers  []settingFile `json:"drivers"`
		Own      []driverFile  `json:"own_drivers,omitempty"`
		Needs    []needFile    `json:"needs,omitempty"`
		Options  []optionFile  `json:"options"`
		Criteria []criterion   `json:"criteria,omitempty"`
		Ratings  []ratingFile  `json:"ratings,omitempty"`
	}
	rateFile struct {
		Currency string `json:"currency"`
		Rate     string `json:"rate"`
		On       string `json:"on"`
	}
	settingFile struct {
		Driver string `json:"driver"`
		Now    string `json:"now"`
		Growth string `json:"growth"`
	}
	driverFile struct {
		Key     string `json:"key"`
		Name    string `json:"name"`
		Unit    string `json:"unit"`
		Kind    string `json:"kind"`
		Formula string `json:"formula,omitempty"`
		About   string `json:"about,omitempty"`
	}
	needFile struct {
		Feature string `json:"feature"`
		Name    string `json:"name"`
		Note    string `json:"note,omitempty"`
		Level   string `json:"level"`
	}
	optionFile struct {
		Key        string     `json:"key"`
		Platform   string     `json:"platform"`
		ObservedOn string     `json:"observed_on"`
		Name       string     `json:"name"`
		Face       int        `json:"face"`
		Now        bool       `json:"now,omitempty"`
		BinnedAt   *time.Time `json:"binned_at,omitempty"`
	}
	criterion struct {
		Key    string `json:"key"`
		Name   string `json:"name"`
		Note   string `json:"note,omitempty"`
		Source string `json:"source"`
		Weight string `json:"weight"`
		Best   string `json:"best,omitempty"`
		Worst  string `json:"worst,omitempty"`
	}
	ratingFile struct {
		Rater     string `json:"rater"`
		Option    string `json:"option"`
		Criterion string `json:"criterion"`
		Value     string `json:"value"`
		Reason    string `json:"reason,omitempty"`
	}
)

// WriteStudy writes a study as a file that [ReadStudy] reads back equal.
func WriteStudy(s *study.Study) ([]byte, error) {
	return json.MarshalIndent(toStudyFile(s, nil), "", "  ")
}

func toStudyFile(s *study.Study, binned map[string]time.Time) studyFile {
	f := studyFile{Format: StudyFormat, Key: s.Key, Title: s.Title, Company: s.Company, Question: s.Question, Currency: s.Currency.Code(), Start: s.Start.ISO(), Months: s.Horizon,
		Pay: string(s.Pay), Patience: s.Patience, Drivers: []settingFile{}, Options: []optionFile{}}
	if s.Budget != 0 {
		f.Budget = s.Budget.String()
	}
	for code, r := range s.Rates {
		f.Rates = append(f.Rates, rateFile{code, r.Rate.String(), r.On.Format(time.DateOnly)})
	}
	slices.SortFunc(f.Rates, func(a, b rateFile) int { return strings.Compare(a.Currency, b.Currency) })
	for _, d := range s.Drivers {
		f.Drivers = append(f.Drivers, settingFile{d.Driver, d.Path.Now.String(), d.Path.Growth.String()})
	}
	for _, d := range s.Own {
		f.Own = append(f.Own, driverFile{d.Key, d.Name, d.Unit, string(d.Kind), d.Formula, d.About})
	}
	for _, n := range s.Needs {
		f.Needs = append(f.Needs, needFile{n.Feature, n.Name, n.Note, string(n.Level)})
	}
	for _, o := range s.Options {
		one := optionFile{Key: o.Key, Platform: o.Edition.Platform.Key, ObservedOn: o.Edition.ObservedOn.Format(time.DateOnly), Name: o.Name, Face: o.Face, Now: o.Now}
		if at, ok := binned[o.Key]; ok {
			one.BinnedAt = &at
		}
		f.Options = append(f.Options, one)
	}
	for _, c := range s.Criteria {
		one := criterion{Key: c.ID, Name: c.Name, Note: c.Note, Source: string(c.Source), Weight: c.Weight.String()}
		if c.Source == fit.Cost {
			one.Best, one.Worst = c.Best.String(), c.Worst.String()
		}
		f.Criteria = append(f.Criteria, one)
	}
	for _, r := range s.Ratings {
		f.Ratings = append(f.Ratings, ratingFile{r.Rater, r.Option, r.Criterion, r.Value.String(), r.Reason})
	}
	return f
}
