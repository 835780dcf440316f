package testkit

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/study"
	"ninecoins/internal/doors"
	"ninecoins/internal/formats"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"
)

// Size is how large a made-up study is.
type Size struct {
	Options, Plans, Terms, Bands, AddOns, Offers, Packs, Months int
	Fees                                                        bool // charged once at signing
	Anybody                                                     bool // offers are for customers of before, too
}

// UpperCase is as large as the limits allow in earnest: what takes longest to work out.
var UpperCase = Size{Options: 24, Plans: 12, Terms: 4, Bands: 60, AddOns: 10, Offers: 1, Packs: 2, Months: 120}

type obj = map[string]any

// UpperFiles are the price lists of a made-up study, and the study, as files; the same at every run.
func UpperFiles(s Size) (lists [][]byte, study []byte) {
	var options []obj
	for i := range s.Options {
		key := fmt.Sprintf("hv%c", 'a'+i)
		lists = append(lists, written(s.list(key, uint64(i))))
		options = append(options, obj{"key": key, "platform": key, "observed_on": "2026-11-01", "face": 1 + i})
	}
	var needs []obj
	for j := range s.AddOns {
		needs = append(needs, obj{"feature": fmt.Sprintf("x/f%d", j), "name": fmt.Sprintf("F%d", j), "level": []string{"bonus", "want"}[j%2]})
	}
	driver := func(key string, now any, low, growth, high string) obj {
		return obj{"driver": key, "now": now, "growth": growth, "low": obj{"growth": low}, "high": obj{"growth": high}}
	}
	return lists, written(obj{"format": "nine-coins/study/1", "key": "heavy", "title": "Heavy one", "question": "?", "currency": "EUR", "start": "2027-01", "months": s.Months,
		"pay": "mix", "budget": "8000.00", "budget_for": "a year", "patience_days": 90, "needs": needs, "options": options,
		"drivers": []obj{driver("contacts", 6400, "1.1%", "2%", "2.8%"), driver("unsubscribed", 900, "0.5%", "1%", "1.5%"), {"driver": "newsletters", "now": 4, "growth": "0%"},
			driver("automated_emails", "0.6", "0.1%", "0.5%", "1%"), driver("seats", 3, "1%", "1.5%", "2%")},
		"criteria": []obj{{"key": "cost", "name": "Cost", "source": "cost", "weight": "50", "best": "4000.00", "worst": "100000.00"},
			{"key": "ease", "name": "Ease", "source": "rated", "weight": "50"}}})
}

func written(o obj) []byte {
	data, err := json.MarshalIndent(o, "", " ")
	if err != nil {
		panic(err)
	}
	return data
}

// list is a price list of such a study.
func (s Size) list(key string, seed uint64) obj {
	r := rand.New(rand.NewPCG(seed, 1))
	terms := []obj{{"key": "monthly", "months": 1}, {"key": "quarter", "months": 3, "paid": "upfront", "off": "3%"}, {"key": "half", "months": 6, "paid": "upfront", "off": "6%"},
		{"key": "yearly", "months": 12, "paid": "upfront", "off": fmt.Sprintf("%d%%", 8+r.IntN(11))}, {"key": "yearlym", "months": 12, "paid": "monthly", "off": "7%"},
		{"key": "two", "months": 24, "paid": "upfront", "off": "20%"}}[:s.Terms]
	var plans, adds, offers []obj
	for i := range s.Plans {
		var bands []obj
		up := 0
		for j := range s.Bands {
			up += 50 + r.IntN(351) + j*3
			bands = append(bands, obj{"to": up, "price": fmt.Sprintf("%.4f", max(0.0001, 0.05+0.001*float64(i)-0.0002*float64(j)))})
		}
		delete(bands[len(bands)-1], "to")
		charges := []obj{{"key": "base", "label": "Plan", "kind": "flat", "price": fmt.Sprintf("%d.00", 9+i*3)},
			{"key": "c", "label": "Contacts", "kind": []string{"graduated", "volume"}[i%2], "meter": "contacts", "bands": bands},
			{"key": "seats", "label": "Seats", "kind": "unit", "meter": "seats", "included": i % 5, "price": fmt.Sprintf("%d.00", 4+i%7)}}
		for q := range s.Packs {
			charges = append(charges, obj{"key": fmt.Sprintf("pack%d", q), "label": fmt.Sprintf("Pack %d", q), "kind": "pack", "meter": []string{"sends", "contacts", "seats"}[q%3],
				"size": []int{5000, 700, 3}[q%3] * (1 + i%4), "price": fmt.Sprintf("%d.00", 7+q+i%3), "optional": true})
		}
		if s.Fees {
			charges = append(charges, obj{"key": fmt.Sprint("setup", i%2), "label": "Set-up", "kind": "once", "price": fmt.Sprintf("%d.00", 100+i)})
		}
		beyond := func(packs int) string {
			if s.Packs > packs {
				return "buy a pack"
			}
			return "move up"
		}
		features := obj{}
		for j := range s.AddOns {
			features[fmt.Sprintf("x/f%d", j)] = obj{"has": "add-on", "add_on": fmt.Sprintf("a%d", j)}
		}
		plans = append(plans, obj{"key": fmt.Sprintf("p%d", i), "name": fmt.Sprintf("Plan %d", i), "offered": "public", "terms": terms, "charges": charges, "features": features,
			"limits": []obj{{"meter": "sends", "most": 20000 + 3000*i, "beyond": beyond(0)}, {"meter": "contacts", "most": 2000 + 500*i, "beyond": beyond(1)}}})
	}
	for j := range s.AddOns {
		var on []string
		for i := range s.Plans {
			on = append(on, fmt.Sprintf("p%d", i))
		}
		adds = append(adds, obj{"key": fmt.Sprintf("a%d", j), "name": fmt.Sprintf("Add %d", j), "plans": on, "gives": []string{fmt.Sprintf("x/f%d", j)},
			"charges": []obj{{"key": "fee", "label": "Fee", "kind": "graduated", "meter": "contacts", "bands": []obj{{"to": 3000 + j*100, "price": "0.01"}, {"price": "0.005"}}}}})
	}
	for j := range s.Offers {
		var on []string
		for q := range min(8, s.Plans) {
			on = append(on, fmt.Sprintf("p%d", (j*7+q)%s.Plans))
		}
		offers = append(offers, obj{"key": fmt.Sprintf("o%d", j), "name": fmt.Sprintf("Offer %d", j), "plans": on, "kind": "percent", "value": fmt.Sprintf("%d%%", 5+j%30),
			"months": 1 + j%11, "new_customers": !s.Anybody})
	}
	return obj{"format": "nine-coins/price-list/1", "platform": obj{"key": key, "name": "H" + key[1:], "does": []string{"email"}, "about": "Heavy."}, "observed_on": "2026-11-01",
		"source": "made", "currency": "EUR", "tax": obj{"included": false, "rate": "20%"}, "plans": plans, "add_ons": adds, "offers": offers,
		"meters": []obj{{"key": "contacts", "unit": "contact", "kind": "stock", "counts": "contacts"}, {"key": "sends", "unit": "email", "kind": "flow", "counts": "emails_sent"},
			{"key": "seats", "unit": "seat", "kind": "stock", "counts": "seats"}}}
}

// Upper reads such a study.
func Upper(t testing.TB, s Size) *study.Study {
	t.Helper()
	lists, file := UpperFiles(s)
	read := map[string]*pricelist.Edition{}
	for _, data := range lists {
		e, err := formats.ReadPriceList(context.Background(), data, Day)
		require.NoError(t, err)
		read[e.Platform.Key] = e
	}
	st, err := formats.ReadStudy(context.Background(), file, Day, func(platform string, _ time.Time) (*pricelist.Edition, bool) { e, ok := read[platform]; return e, ok })
	require.NoError(t, err)
	st.Today = Day
	return st
}

// StartLarge starts the application with such a study alone.
func StartLarge(t *testing.T, s Size) *App {
	t.Helper()
	app := Start(t, false)
	e := As(t, app.Store, app.Workspace.ID, uuid.Nil, doors.Owner)
	lists, study := UpperFiles(s)
	for _, list := range lists {
		_, err := app.Store.ImportPriceList(t.Context(), e, list)
		require.NoError(t, err)
	}
	var err error
	app.Study, err = app.Store.ImportStudy(t.Context(), e, study)
	require.NoError(t, err)
	return app
}
