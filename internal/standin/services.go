package standin

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/formats"
	"ninecoins/internal/outside"
)

// Services stands in for services outside: a feed of made-up price lists, which change now
// and then, and daily reference rates of exchange, made up and plausible.
type Services struct {
	Lists [][]byte         // price lists in the open format
	Today func() time.Time // a day in universal time
}

// ServeHTTP answers /index.json, /lists/PLATFORM-DAY.json, /rates/DAY.csv and /rates/DAY.json.
func (s *Services) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	switch path := r.URL.Path; {
	case path == "/index.json":
		index := outside.Index{Format: outside.IndexFormat}
		for _, p := range s.published() {
			index.Lists = append(index.Lists, outside.Entry{Platform: p.edition.Platform.Key, Name: p.edition.Platform.Name, ObservedOn: p.day(), Path: p.path(),
				Bytes: int64(len(p.file)), SHA256: outside.Sum(p.file)})
		}
		w.Header().Set("Content-Type", "application/json; charset=utf-8")
		_ = json.NewEncoder(w).Encode(index)
	case strings.HasPrefix(path, "/lists/"):
		for _, p := range s.published() {
			if p.path() == path {
				w.Header().Set("Content-Type", "application/json; charset=utf-8")
				_, _ = w.Write(p.file)
				return
			}
		}
		http.NotFound(w, r)
	case strings.HasPrefix(path, "/rates/"):
		s.rates(w, r)
	default:
		http.NotFound(w, r)
	}
}

// published is a list of the feed.
type published struct {
	edition *pricelist.Edition
	file    []byte
}

func (p *published) day() string { return pricelist.ReadText(p.edition.ObservedOn) }
func (p *published) path() string {
	return "/lists/" + p.edition.Platform.Key + "-" + p.day() + ".json"
}

// published are the lists of the feed as of today: every platform's as it stands, and of
// one in three a newer one of this week's Monday, some prices of which have changed.
func (s *Services) published() (all []published) {
	today := s.Today()
	monday := today.AddDate(0, 0, -(int(today.Weekday())+6)%7)
	week := int(monday.Unix() / 86_400 / 7)
	for i, file := range s.Lists {
		e, err := formats.StatedPriceList(context.Background(), file)
		if err != nil {
			continue
		}
		if (i+week)%3 == 0 && e.ObservedOn.Before(monday) {
			e.ObservedOn, e.Source = monday, "price feed, "+monday.Format("2 Jan 2006")
			changed(&e, week+i)
		}
		if file, err = formats.WritePriceList(&e); err != nil {
			continue
		}
		all = append(all, published{&e, file})
	}
	slices.SortStableFunc(all, func(a, b published) int { return strings.Compare(a.edition.Platform.Key, b.edition.Platform.Key) })
	return all
}

// changed moves some prices of a list: in one week up, in another down, by a few per cent.
func changed(e *pricelist.Edition, seed int) {
	by := []float64{1.04, 1.08, 0.95, 1.05, 0.9}[seed%5]
	move := func(p *pricelist.Price) {
		step := float64(money.Scale)
		if p.Usual < 10*money.Scale {
			step /= 10
		}
		p.Usual = money.Amount(math.Round(float64(p.Usual)*by/step) * step)
	}
	for i := range e.Plans {
		if (i+seed)%2 != 0 {
			continue
		}
		e.Plans[i].Charges = slices.Clone(e.Plans[i].Charges)
		for j := range e.Plans[i].Charges {
			c := &e.Plans[i].Charges[j]
			move(&c.Price)
			c.Bands = slices.Clone(c.Bands)
			for k := range c.Bands {
				move(&c.Bands[k].Price)
			}
		}
	}
}

// baseRates are about what one euro came to; made up.
var baseRates = []struct {
	code string
	rate float64
	wave float64 // days of its slow wave
}{{"USD", 1.09, 311}, {"GBP", 0.85, 257}, {"CHF", 0.95, 401}, {"SEK", 11.4, 283}, {"NOK", 11.7, 197}, {"DKK", 7.46, 999}, {"PLN", 4.3, 229}, {"CZK", 25.1, 347}, {"JPY", 163, 271},
	{"CAD", 1.49, 239}, {"AUD", 1.66, 263}, {"INR", 91.5, 331}}

// rates answers with the reference rates of a day: of the last weekday up to it.
func (s *Services) rates(w http.ResponseWriter, r *http.Request) {
	text, kind, _ := strings.Cut(strings.TrimPrefix(r.URL.Path, "/rates/"), ".")
	day, err := time.Parse(time.DateOnly, text)
	if err != nil || day.After(s.Today()) || kind != "csv" && kind != "json" {
		http.NotFound(w, r)
		return
	}
	for day.Weekday() == time.Saturday || day.Weekday() == time.Sunday {
		day = day.AddDate(0, 0, -1)
	}
	n := float64(day.Unix() / 86_400)
	head, row := []string{"date"}, []string{day.Format(time.DateOnly)}
	of := map[string]json.Number{}
	for i, b := range baseRates {
		rate := b.rate * (1 + 0.035*math.Sin(2*math.Pi*n/b.wave) + 0.006*math.Sin(n/5+float64(i)))
		shown := strconv.FormatFloat(rate, 'f', 4, 64)
		head, row = append(head, b.code), append(row, shown)
		of[b.code] = json.Number(shown)
	}
	if kind == "json" {
		w.Header().Set("Content-Type", "application/json; charset=utf-8")
		_ = json.NewEncoder(w).Encode(map[string]any{"base": "EUR", "date": row[0], "rates": of})
		return
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	out := csv.NewWriter(w)
	_ = out.WriteAll([][]string{head, row})
	if err := out.Error(); err != nil {
		http.Error(w, fmt.Sprint(err), http.StatusInternalServerError)
	}
}
