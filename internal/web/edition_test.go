package web_test

import (
	"html"
	"net/http"
	"regexp"
	"testing"

	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// everyKind is a list with every kind of charge, a lifetime, a limit that asks for
// a pack, and an offer at a fixed price.
const everyKind = `{"format": "nine-coins/price-list/1", "platform": {"key": "hazelring", "name": "Hazelring", "does": ["email"]}, "observed_on": "2026-11-20", "source": "by hand", "currency": "EUR",
	"tax": {"included": false}, "meters": [{"key": "contacts", "unit": "contact", "kind": "stock", "counts": "contacts"}, {"key": "sends", "unit": "email", "kind": "flow", "counts": "emails_sent"},
		{"key": "spend", "unit": "ad spend", "kind": "flow", "counts": "contacts * 0.3", "fractions": true}, {"key": "seats", "unit": "seat", "kind": "stock", "counts": "seats"}],
	"plans": [{"key": "loop", "name": "Loop", "offered": "public", "terms": [{"key": "monthly", "months": 1}, {"key": "yearly", "months": 12, "off": "10%"}, {"key": "life", "months": "lifetime"}],
		"charges": [{"key": "flat", "label": "Base", "kind": "flat", "price": "5", "life": "900"},
			{"key": "base", "label": "Contacts", "kind": "graduated", "meter": "contacts", "each": 1000, "bands": [{"to": 2000, "price": "9.00"}, {"price": "4.00"}]},
			{"key": "sends", "label": "Emails", "kind": "volume", "meter": "sends", "each": 1000, "bands": [{"to": 10000, "price": "0.90"}, {"price": "0.40"}]},
			{"key": "ads", "label": "Share of ad spend", "kind": "share", "meter": "spend", "rate": "2.5%", "floor": "10.00", "cap": "60.00"},
			{"key": "setup", "label": "Set-up", "kind": "once", "price": "170.00", "waived_on": ["yearly"]},
			{"key": "more", "label": "Seat packs", "kind": "pack", "meter": "seats", "size": 2, "price": "12.00", "optional": true}],
		"limits": [{"meter": "seats", "most": 1, "beyond": "buy a pack"}, {"meter": "sends", "most": "unlimited", "note": "as a newsletter needs"}],
		"features": {"automation/event-triggers": {"has": "yes", "depth": 2}}}],
	"offers": [{"key": "hello", "name": "First spring", "plans": ["loop"], "terms": ["monthly"], "kind": "fixed price", "price": "19.00", "months": 3}]}`

func TestEveryKindOfChargeIsExplained(t *testing.T) {
	app := testkit.Start(t, true)
	editor := testkit.As(t, app.Store, app.Workspace.ID, app.Study, "editor")
	_, err := app.Store.ImportPriceList(t.Context(), editor, []byte(everyKind))
	require.NoError(t, err)
	assert.Contains(t, get(t, app.Client, app.Address+"/shelf").body, `href="/shelf/platforms/hazelring"`)
	address := regexp.MustCompile(`href="(/shelf/[0-9a-f-]{36})"`).FindStringSubmatch(get(t, app.Client, app.Address+"/shelf/platforms/hazelring").body)
	require.Len(t, address, 2)
	shelf := words(get(t, app.Client, app.Address+address[1]))
	for _, rule := range []string{"contacts, each band at its own rate, up to 2,000: €9.00 per 1,000; more: €4.00 per 1,000", "emails, all at the rate of the band, up to 10,000: €0.90 per 1,000",
		"2.5% of ad spends, at least €10.00, at most €60.00", "€170.00, once, waived on yearly", "€5.00 (life €900.00)"} {
		assert.Contains(t, shelf, rule)
	}
	require.Equal(t, http.StatusOK, post(t, app.Client, app.Page("line-up"), "op", "insert", "path", "options", "item.list", "hazelring 2026-11-20").status)
	require.Equal(t, http.StatusOK, post(t, app.Client, app.Page("costs"), "op", "set", "path", "pay", "was", "monthly", "value", "mix").status)
	assert.Contains(t, words(get(t, app.Client, app.Page("costs"))), "Paid by the cheapest mix")
	for path, wants := range map[string][]string{
		"plan=loop&term=monthly": {"Fixed price in place of the plan's charges, for 1 month offer “First spring”", "Once, at signing €170.00", "3 seats, 1 included: 1 × €12.00 for each started 2"},
		"plan=loop&term=yearly":  {"6,400 contacts, each band at its own rate: 2,000 × €9.00 per 1,000 4,400 × €4.00 per 1,000 less 10% on this term × 12 months", "emails, all at the rate of the last band: × €0.40 per 1,000", "2.5% of 1,920 in the study's currency, at least €10.00, at most €60.00"},
		"plan=loop&term=life":    {"paid once for life", "Total for life €900.00", "a month over the 36 left of the horizon", "Fair use, in the list's words: as a newsletter needs"},
	} {
		page := html.UnescapeString(words(get(t, app.Client, app.Page("receipts/hazelring?"+path))))
		for _, want := range wants {
			assert.Contains(t, page, want, path)
		}
	}
}
