package formats_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/money"
	"ninecoins/internal/core/pricelist"
	"ninecoins/internal/core/projection"
	"ninecoins/internal/core/quote"
	"ninecoins/internal/core/tariff"
	"ninecoins/internal/core/usage"
	"ninecoins/internal/formats"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// shape is a way of pricing, with receipts that were worked out by hand.
type shape struct {
	name, plans, more string            // of the list, as JSON
	meters            string            // key=formula, apart by spaces
	usage             map[string]string // drivers
	musts             []string
	want              map[string]string // "plan term": a month, "–" where it does not serve; "plan term once"; "plan term after": once offers have ended
}

const (
	monthly = `"offered": "public", "terms": [{"key": "monthly", "months": 1}]`
	flat39  = `{"key": "base", "kind": "flat", "price": "39"}`
)

func plan(key, rest string) string {
	return fmt.Sprintf(`{"key": %q, "name": %q, %s}`, key, strings.ToUpper(key[:1])+key[1:], rest)
}

func banded(kind, meter string, bands ...string) string {
	return fmt.Sprintf(`{"key": "base", "kind": %q, "meter": %q, "bands": [%s]}`, kind, meter, strings.Join(bands, ", "))
}

func band(to, price string) string {
	if to == "" {
		return fmt.Sprintf(`{"price": %q}`, price)
	}
	return fmt.Sprintf(`{"to": %s, "price": %q}`, to, price)
}

var shapes = []shape{
	{"contact bands with a table of its own per plan", plan("a", monthly+`, "charges": [`+banded("stair", "contacts", band("500", "9"), band("2500", "19"))+`]`) + "," +
		plan("b", monthly+`, "charges": [`+banded("stair", "contacts", band("500", "29"), band("2500", "49"))+`]`), "", "contacts=contacts",
		map[string]string{"contacts": "1200"}, nil, map[string]string{"a monthly": "19", "b monthly": "49"}},
	{"one flat price whatever the size", plan("a", monthly+`, "charges": [`+flat39+`]`), "", "contacts=contacts",
		map[string]string{"contacts": "999999"}, nil, map[string]string{"a monthly": "39"}},
	{"per seat with a minimum of three", plan("a", monthly+`, "charges": [{"key": "base", "kind": "unit", "meter": "seats", "at_least": 3, "price": "15"}]`), "", "seats=seats",
		map[string]string{"seats": "2"}, nil, map[string]string{"a monthly": "45"}},
	{"seats included, the next at a price of the plan", plan("a", monthly+`, "charges": [{"key": "base", "kind": "flat", "price": "49"},
		{"key": "seats", "kind": "unit", "meter": "seats", "included": 2, "price": "12"}]`) + "," +
		plan("b", monthly+`, "charges": [{"key": "base", "kind": "flat", "price": "99"},
			{"key": "seats", "kind": "unit", "meter": "seats", "included": 5, "price": "10"}]`), "", "seats=seats",
		map[string]string{"seats": "7"}, nil, map[string]string{"a monthly": "109", "b monthly": "119"}}, // 49 + 5 x 12; 99 + 2 x 10
	{"per social account, cheaper from the eleventh on: for all, or for those above",
		plan("all", monthly+`, "charges": [`+banded("volume", "accounts", band("10", "6"), band("", "4"))+`]`) + "," +
			plan("above", monthly+`, "charges": [`+banded("graduated", "accounts", band("10", "6"), band("", "4"))+`]`), "", "accounts=clients*accounts_per_client",
		map[string]string{"clients": "2", "accounts_per_client": "7"}, nil, map[string]string{"all monthly": "56", "above monthly": "76"}}, // 14 x 4; 10 x 6 + 4 x 4
	{"per client workspace up to three, then unlimited on the next plan",
		plan("a", monthly+`, "charges": [{"key": "base", "kind": "unit", "meter": "clients", "price": "12"}],
			"limits": [{"meter": "clients", "most": 3, "beyond": "move up"}]`) + "," +
			plan("b", monthly+`, "charges": [{"key": "base", "kind": "flat", "price": "59"}], "limits": [{"meter": "clients", "most": "unlimited"}]`), "", "clients=clients",
		map[string]string{"clients": "4"}, nil, map[string]string{"a monthly": "–", "b monthly": "59"}},
	{"sends capped at a multiple of contacts, packs beyond", plan("a", monthly+`, "charges": [{"key": "base", "kind": "flat", "price": "45"},
		{"key": "packs", "kind": "pack", "meter": "emails", "size": 10000, "price": "8", "optional": true}],
		"limits": [{"meter": "emails", "most": {"times": 12, "meter": "contacts"}, "beyond": "buy a pack"}]`), "", "contacts=contacts emails=emails_sent",
		map[string]string{"contacts": "1000", "newsletters": "27"}, nil, map[string]string{"a monthly": "61"}}, // 27,000 sends, 12,000 held: 2 packs
	{"by campaign, automated letters counting as campaigns",
		plan("a", monthly+`, "charges": [`+banded("stair", "letters", band("4", "18"), band("12", "48"))+`]`), "", "letters=newsletters+workflows",
		map[string]string{"newsletters": "4", "workflows": "3"}, nil, map[string]string{"a monthly": "48"}},
	{"per task with bands, and a cap on active workflows",
		plan("a", monthly+`, "charges": [`+banded("stair", "tasks", band("1000", "19"), band("5000", "49"))+`],
			"limits": [{"meter": "workflows", "most": 20, "beyond": "move up"}]`) + "," +
			plan("b", monthly+`, "charges": [`+banded("stair", "tasks", band("1000", "29"), band("5000", "79"))+`]`), "", "tasks=runs*steps_per_run workflows=workflows",
		map[string]string{"runs": "800", "steps_per_run": "3", "workflows": "21"}, nil, map[string]string{"a monthly": "–", "b monthly": "79"}},
	{"bots, message packs, collaborators, rows, storage and writing help on top", plan("a", monthly+`, "charges": [{"key": "base", "kind": "flat", "price": "40"},
		{"key": "bots", "kind": "unit", "meter": "bots", "included": 2, "price": "10"},
		{"key": "chats", "kind": "pack", "meter": "chats", "included": 2000, "size": 1000, "price": "20"},
		{"key": "seats", "kind": "unit", "meter": "seats", "included": 3, "price": "25"},
		{"key": "rows", "kind": "pack", "meter": "rows", "included": 1000, "size": 1000, "price": "5"},
		{"key": "storage", "kind": "unit", "meter": "storage", "included": 5, "price": "2"},
		{"key": "help", "kind": "unit", "meter": "help", "included": 100, "price": "0.10"}]`), "",
		"bots=bots chats=conversations seats=seats rows=products storage=storage help=ai_credits",
		map[string]string{"bots": "3", "conversations": "4500", "seats": "4", "products": "1500", "storage": "8", "ai_credits": "350"}, nil,
		map[string]string{"a monthly": "171"}}, // 40 + 10 + 3 x 20 + 25 + 5 + 3 x 2 + 250 x 0.10
	{"tracked keywords and crawled pages as limits only", plan("a", monthly+`, "charges": [`+flat39+`],
		"limits": [{"meter": "keywords", "most": 250, "beyond": "move up"}, {"meter": "pages", "most": 10000, "beyond": "work stops"}]`) + "," +
		plan("b", monthly+`, "charges": [{"key": "base", "kind": "flat", "price": "99"}],
			"limits": [{"meter": "keywords", "most": 750, "beyond": "move up"}]`), "", "keywords=keywords pages=crawled_pages",
		map[string]string{"keywords": "250", "crawled_pages": "10001"}, nil, map[string]string{"a monthly": "–", "b monthly": "99"}},
	{"click bands, on request above", plan("a", monthly+`, "charges": [`+banded("stair", "clicks", band("5000", "59"), band("20000", "99"))+`]`), "", "clicks=ad_clicks",
		map[string]string{"ad_clicks": "20001"}, nil, map[string]string{"a monthly": "–"}},
	{"helpers one by one, or all for a flat price", plan("a", monthly+`, "charges": [{"key": "base", "kind": "flat", "price": "19"}],
		"features": {"content/ideas": {"has": "add-on", "add_on": "ideas"}, "content/images": {"has": "add-on", "add_on": "images"}}`),
		`, "add_ons": [{"key": "ideas", "name": "Ideas", "plans": ["a"], "charges": [{"key": "p", "kind": "flat", "price": "7"}], "gives": ["content/ideas"]},
		{"key": "images", "name": "Images", "plans": ["a"], "charges": [{"key": "p", "kind": "flat", "price": "9"}], "gives": ["content/images"]},
		{"key": "all", "name": "All helpers", "plans": ["a"], "charges": [{"key": "p", "kind": "flat", "price": "12"}], "gives": ["content/ideas", "content/images"]}]`, "seats=seats",
		map[string]string{}, []string{"content/ideas", "content/images"}, map[string]string{"a monthly": "31"}},
	{"a share of ad spend with a floor", plan("a", monthly+`, "charges": [{"key": "base", "kind": "share", "meter": "spend", "rate": "3%", "floor": "99"}]`) + "," +
		plan("b", monthly+`, "charges": [{"key": "base", "kind": "share", "meter": "spend", "rate": "6%", "floor": "99", "cap": "110"}]`), "", "spend=ad_spend",
		map[string]string{"ad_spend": "2000"}, nil, map[string]string{"a monthly": "99", "b monthly": "110"}}, // 60, at least 99; 120, at most 110
	{"lifetime beside monthly", plan("a", `"offered": "public", "terms": [{"key": "monthly", "months": 1}, {"key": "lifetime", "months": "lifetime"}],
		"charges": [{"key": "base", "kind": "flat", "price": "12", "lifetime": "399"}]`), "", "seats=seats",
		map[string]string{}, nil, map[string]string{"a monthly": "12", "a lifetime bill": "399"}},
	{"the first three months for a fixed sum", plan("a", monthly+`, "charges": [{"key": "base", "kind": "flat", "price": "30"}]`),
		`, "offers": [{"key": "first", "name": "first months", "plans": ["a"], "kind": "fixed price", "price": "10", "months": 3, "new_customers": true}]`, "seats=seats",
		map[string]string{}, nil, map[string]string{"a monthly": "10", "a monthly after": "30"}},
	{"half price for good if signed before a day", plan("a", monthly+`, "charges": [{"key": "base", "kind": "flat", "price": "22"}]`),
		`, "offers": [{"key": "early", "name": "early birds", "plans": ["a"], "kind": "percent", "value": "50%", "new_customers": true, "until": "2027-01-31"}]`, "seats=seats",
		map[string]string{}, nil, map[string]string{"a monthly": "11", "a monthly after": "11"}},
	{"a free plan with caps", plan("free", monthly+`, "charges": [{"key": "base", "kind": "flat", "price": "0"}],
		"limits": [{"meter": "contacts", "most": 500, "beyond": "move up"}]`) + "," +
		plan("b", monthly+`, "charges": [`+flat39+`]`), "", "contacts=contacts", map[string]string{"contacts": "501"}, nil, map[string]string{"free monthly": "–", "b monthly": "39"}},
	{"a move that is free on yearly terms", plan("a", `"offered": "public", "terms": [{"key": "monthly", "months": 1},
		{"key": "yearly", "months": 12, "paid": "upfront", "off": "10%"}],
		"charges": [{"key": "base", "kind": "flat", "price": "50"}, {"key": "move", "kind": "once", "price": "300", "waived_on": ["yearly"]}]`), "", "seats=seats",
		map[string]string{}, nil, map[string]string{"a monthly": "50", "a monthly once": "300", "a yearly": "45", "a yearly bill": "540", "a yearly once": "0"}},
	{"contacts counted once, once per list, or with those who left", plan("once", monthly+`, "charges": [{"key": "base", "kind": "unit", "meter": "people", "price": "0.01"}]`) + "," +
		plan("lists", monthly+`, "charges": [{"key": "base", "kind": "unit", "meter": "listed", "price": "0.01"}]`) + "," +
		plan("stored", monthly+`, "charges": [{"key": "base", "kind": "unit", "meter": "stored", "price": "0.01"}]`), "",
		"people=contacts listed=contacts*(1+list_overlap) stored=contacts+unsubscribed", map[string]string{"contacts": "6400", "list_overlap": "0.18", "unsubscribed": "900"}, nil,
		map[string]string{"once monthly": "64", "lists monthly": "75.52", "stored monthly": "73"}},
	{"add-ons at a price lower down, included higher up", plan("a", monthly+`, "charges": [{"key": "base", "kind": "flat", "price": "19"}],
		"features": {"conversation/texting": {"has": "add-on", "add_on": "texting"}}`) + "," +
		plan("b", monthly+`, "includes": "a", "charges": [`+flat39+`]`),
		`, "add_ons": [{"key": "texting", "name": "Texting", "plans": ["a"], "included_on": ["b"], "charges": [{"key": "p", "kind": "flat", "price": "25"}],
			"gives": ["conversation/texting"]}]`, "seats=seats",
		map[string]string{}, []string{"conversation/texting"}, map[string]string{"a monthly": "44", "b monthly": "39"}},
	{"a server by capacity, with hours of one's own", plan("a", monthly+`, "charges": [`+banded("stair", "contacts", band("10000", "15"), band("50000", "40"))+`,
		{"key": "upkeep", "kind": "share", "meter": "upkeep", "rate": "100%"}, {"key": "setup", "kind": "once", "meter": "setup", "rate": "100%"}]`), "",
		"contacts=contacts upkeep=upkeep_hours*hourly_cost setup=setup_hours*hourly_cost",
		map[string]string{"contacts": "8000", "upkeep_hours": "4", "hourly_cost": "40", "setup_hours": "10"}, nil,
		map[string]string{"a monthly": "175", "a monthly once": "400"}}, // 15 + 4 x 40; 10 x 40
}

// list is the price list of a shape.
func (s shape) list(t *testing.T) (*pricelist.Edition, []byte) {
	t.Helper()
	var meters []string
	for one := range strings.FieldsSeq(s.meters) {
		key, formula, _ := strings.Cut(one, "=")
		meters = append(meters, fmt.Sprintf(`{"key": %q, "unit": %q, "kind": "stock", "counts": %q}`, key, strings.TrimSuffix(key, "s"), formula))
	}
	file := []byte(`{"format": "nine-coins/price-list/1", "observed_on": "2026-11-20", "source": "by hand", "currency": "EUR", "platform": {"key": "it", "name": "It", "does": []},
		"tax": {}, "meters": [` + strings.Join(meters, ", ") + `], "plans": [` + s.plans + `]` + s.more + `}`)
	e, err := formats.ReadPriceList(t.Context(), file, day)
	require.NoError(t, err)
	return e, file
}

func TestEachShapeIsPricedAsByHand(t *testing.T) {
	require.GreaterOrEqual(t, len(shapes), 22)
	for _, s := range shapes {
		t.Run(s.name, func(t *testing.T) {
			e, _ := s.list(t)
			paths := map[string]usage.Path{}
			for driver, text := range s.usage {
				q, err := usage.ParseQuantity(text)
				require.NoError(t, err)
				paths[driver] = usage.Path{Now: q}
			}
			model, err := usage.NewModel(nil, paths)
			require.NoError(t, err)
			columns, err := model.Columns(12)
			require.NoError(t, err)
			rows, err := tariff.Read(e, columns)
			require.NoError(t, err)
			basis := quote.Basis{Currency: e.Currency}
			sign := time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC)
			receipts, err := projection.Preview(projection.Candidate{Edition: e, Rows: rows, Musts: s.musts, Basis: basis, Customer: quote.Customer{Sign: sign}}, 0)
			require.NoError(t, err)
			got := map[string]string{}
			for i := range receipts {
				r := &receipts[i]
				key := r.Plan.Key + " " + r.Term.Key
				got[key] = orDash(r.Serves(), r.Monthly())
				got[key+" bill"], got[key+" once"] = r.Settled.String(), r.AtSigning.String()
				sum := money.Amount(0)
				for _, l := range r.Lines {
					sum += l.Amount
				}
				assert.Equal(t, r.Bill+r.Used+r.Once, sum, "the lines of %s add up", key)
				got[key+" after"] = orDash(r.Serves(), r.Monthly())
				if r.Until > 0 {
					got[key+" after"] = r.Then.String()
				}
			}
			for key, want := range s.want {
				assert.Equal(t, want, strings.TrimSuffix(got[key], ".00"), key)
			}
		})
	}
}

func orDash(serves bool, a money.Amount) string {
	if !serves {
		return "–"
	}
	return a.String()
}

// Every shape goes out and in again, as a file and as a draft, and all that it says of its
// prices can be edited in a draft.
func TestEachShapeCanBeEnteredAndKept(t *testing.T) {
	schema := schemaOf(t, "price-list.schema.json")
	for _, s := range shapes {
		_, file := s.list(t)
		stated, err := formats.StatedPriceList(t.Context(), file)
		require.NoError(t, err)
		written, err := formats.WritePriceList(&stated)
		require.NoError(t, err)
		assert.NoError(t, schema(written), s.name)
		again, err := formats.StatedPriceList(t.Context(), written)
		require.NoError(t, err)
		twice, err := formats.WritePriceList(&again)
		require.NoError(t, err)
		assert.Equal(t, string(written), string(twice), s.name)
		flatly, err := formats.WritePrices(&stated)
		require.NoError(t, err)
		back, err := formats.ReadPrices(flatly, stated)
		require.NoError(t, err, s.name)
		assert.Equal(t, flats(&stated), flats(&back), s.name)

		d := pricelist.Drafted(stated, day)
		for _, p := range stated.Plans {
			at := document.Path("plans").To(p.Key)
			for _, c := range p.Charges {
				charge := at.To("charges", c.Key)
				fields := map[pricelist.ChargeKind][]string{pricelist.Flat: {"price"}, pricelist.Unit: {"price", "included", "at_least", "each"}, pricelist.Pack: {"price", "included", "size"},
					pricelist.Stair: {"above"}, pricelist.Graduated: {"above", "each"}, pricelist.Volume: {"above", "each"}, pricelist.Share: {"rate", "floor", "cap"},
					pricelist.Once: {"price", "waived_on"}}[c.Kind]
				for _, b := range c.Bands {
					fields = append(fields, "bands."+b.KeyOf()+".price", "bands."+b.KeyOf()+".to")
				}
				for key := range c.Price.ByKey {
					fields = append(fields, key)
				}
				for _, f := range append(fields, "label", "optional") {
					spot, ok := pricelist.Drafts().Spot(d, document.Path(string(charge)+"."+f))
					assert.True(t, ok && spot.Need > 0, "%s: %s.%s", s.name, charge, f)
				}
			}
			for i := range p.Limits {
				field := "most"
				if p.Limits[i].OfMeter != "" {
					field = "most.times"
				}
				spot, ok := pricelist.Drafts().Spot(d, document.Path(string(at.To("limits", p.Limits[i].KeyOf()))+"."+field))
				assert.True(t, ok && spot.Need > 0, s.name)
			}
		}
	}
}
