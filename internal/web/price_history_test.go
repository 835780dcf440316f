package web_test

import (
	"encoding/json"
	"fmt"
	"html"
	"math/rand/v2"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"testing"

	"ninecoins/internal/doors"
	"ninecoins/internal/testkit"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// told is how a plan's price is said to have gone.
var told = regexp.MustCompile(`^(Reed|Sedge|Rush) (?:(has stayed) at (\S+) since (\w+ \d+)|(stayed) at (\S+) from (\w+ \d+) to (\w+ \d+)|(was) at (\S+) in (\w+ \d+) again, as in (\w+ \d+)|(rose|fell) from (\S+) in (\w+ \d+) to (\S+?)(?: in (\w+ \d+))?)(; since then it (?:is not on the list|does not hold this usage))?\.$`)

// TestWhatIsSaidOfPricesOverTheYearsIsSo brings in random editions, of which some lack a plan, hold less, or
// are in another currency, and holds each sentence against the table beside it and the lists.
func TestWhatIsSaidOfPricesOverTheYearsIsSo(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, false)
	e := testkit.As(t, app.Store, app.Workspace.ID, uuid.Nil, doors.Owner)
	heard := map[string]int{}
	for n := range 60 {
		r := rand.New(rand.NewPCG(24, uint64(n)))
		key, days := fmt.Sprintf("marsh-%d", n), []string{"2024-02-01", "2024-07-01", "2025-03-01", "2025-10-01"}[:2+r.IntN(3)]
		on := []map[string]bool{} // of each edition, the plans that it has
		currency := "EUR"
		for _, day := range days {
			if r.IntN(6) == 0 {
				currency = []string{"EUR", "GBP"}[r.IntN(2)]
			}
			here, plans := map[string]bool{}, []map[string]any{}
			for _, name := range []string{"Reed", "Sedge", "Rush"} {
				if name != "Reed" && r.IntN(4) == 0 {
					continue
				}
				here[name] = true
				plan := map[string]any{"key": strings.ToLower(name), "name": name, "offered": "public", "terms": []any{map[string]any{"key": "monthly", "months": 1}},
					"charges": []any{map[string]any{"key": "flat", "kind": "flat", "price": fmt.Sprint(10 + 2*r.IntN(3))}}}
				if r.IntN(5) == 0 {
					plan["limits"] = []any{map[string]any{"meter": "contacts", "most": 1, "beyond": "move up"}}
				}
				plans = append(plans, plan)
			}
			on = append(on, here)
			list, err := json.Marshal(map[string]any{"format": "nine-coins/price-list/1", "platform": map[string]any{"key": key, "name": "Marsh", "does": []string{"email"}, "about": "Made up."},
				"observed_on": day, "source": "made", "currency": currency, "tax": map[string]any{"included": false, "rate": "20%"}, "plans": plans,
				"meters": []any{map[string]any{"key": "contacts", "unit": "contact", "kind": "stock", "counts": "contacts"}}})
			require.NoError(t, err)
			_, err = app.Store.ImportPriceList(t.Context(), e, list)
			require.NoError(t, err, string(list))
		}
		a := get(t, app.Client, app.Address+"/shelf/platforms/"+key)
		require.Equal(t, http.StatusOK, a.status)
		_, part, there := strings.Cut(html.UnescapeString(a.body), "What its plans cost over the years</h2>")
		if !there {
			continue
		}
		part, _, _ = strings.Cut(part, "</table>")
		heads := regexp.MustCompile(`<th scope="col"[^>]*>(Reed|Sedge|Rush)</th>`).FindAllStringSubmatch(part, -1)
		rows := regexp.MustCompile(`(?s)<tr><th scope="row">(.*?)</th>(.*?)</tr>`).FindAllStringSubmatch(part, -1)
		require.Len(t, rows, len(days), part)
		cost := map[string][]string{} // of each plan, by edition
		for _, row := range rows {
			for i, cell := range regexp.MustCompile(`<td[^>]*>([^<]*)</td>`).FindAllStringSubmatch(row[2], -1) {
				cost[heads[i][1]] = append(cost[heads[i][1]], cell[1])
			}
		}
		month := func(day string) string {
			return map[string]string{"2024-02-01": "Feb 2024", "2024-07-01": "Jul 2024", "2025-03-01": "Mar 2025", "2025-10-01": "Oct 2025"}[day]
		}
		said := map[string]bool{}
		for _, s := range regexp.MustCompile(`<p[^>]*>((?:Reed|Sedge|Rush) [^<]*)</p>`).FindAllStringSubmatch(part, -1) {
			m := told.FindStringSubmatch(s[1])
			require.NotNil(t, m, s[1])
			said[m[1]] = true
			all := cost[m[1]]
			first := slices.IndexFunc(all, func(c string) bool { return c != "–" })
			last := len(all) - 1
			for all[last] == "–" {
				last--
			}
			level := !slices.ContainsFunc(all, func(c string) bool { return c != "–" && c != all[first] })
			why := fmt.Sprintf("%s of %v in %v", s[1], all, days)
			from, until := month(days[first]), month(days[last])
			switch {
			case m[2] != "":
				require.True(t, level && last == len(all)-1 && m[3] == all[first] && m[4] == from, why)
			case m[5] != "":
				require.True(t, level && last < len(all)-1 && m[6] == all[first] && m[7] == from && m[8] == until, why)
			case m[9] != "":
				require.True(t, !level && all[first] == all[last] && m[10] == all[first] && m[11] == until && m[12] == from, why)
			default:
				require.True(t, m[14] == all[first] && m[15] == from && m[16] == all[last] && (m[17] == "") == (last == len(all)-1) && (m[17] == "" || m[17] == until), why)
				require.Equal(t, m[13] == "rose", figure(all[last]) > figure(all[first]), why)
			}
			require.Equal(t, last < len(all)-1, m[18] != "", why)
			if m[18] != "" {
				require.Equal(t, !on[len(on)-1][m[1]], strings.Contains(m[18], "not on the list"), why)
			}
			heard[m[2]+m[5]+m[9]+m[13]]++
		}
		for name, all := range cost { // and of whom nothing is said there is nothing to say
			known := slices.DeleteFunc(slices.Clone(all), func(c string) bool { return c == "–" })
			if !said[name] && len(known) > 1 {
				require.NotEqual(t, known[0][:1], known[len(known)-1][:1], "%s: %v", name, all)
			}
		}
	}
	for _, word := range []string{"has stayed", "stayed", "was", "rose", "fell"} {
		assert.Positive(t, heard[word], word)
	}
}

// TestThePriceCurveSaysWhereEachPlanCostsLeast has three plans trade places twice on one straight part.
func TestThePriceCurveSaysWhereEachPlanCostsLeast(t *testing.T) {
	t.Parallel()
	app := testkit.Start(t, false)
	e := testkit.As(t, app.Store, app.Workspace.ID, uuid.Nil, doors.Owner)
	plan := func(name, flat, each string) map[string]any {
		charges := []any{map[string]any{"key": "flat", "kind": "flat", "price": flat}}
		if each != "" {
			charges = append(charges, map[string]any{"key": "each", "kind": "unit", "meter": "contacts", "price": each})
		}
		return map[string]any{"key": strings.ToLower(name), "name": name, "offered": "public", "terms": []any{map[string]any{"key": "monthly", "months": 1}}, "charges": charges}
	}
	list, err := json.Marshal(map[string]any{"format": "nine-coins/price-list/1", "platform": map[string]any{"key": "marsh", "name": "Marsh", "does": []string{"email"}, "about": "Made up."},
		"observed_on": "2025-02-01", "source": "made", "currency": "EUR", "tax": map[string]any{"included": false, "rate": "20%"},
		"plans":  []any{plan("Reed", "1", "0.02"), plan("Sedge", "4", "0.01"), plan("Rush", "10", "")},
		"meters": []any{map[string]any{"key": "contacts", "unit": "contact", "kind": "stock", "counts": "contacts"}}})
	require.NoError(t, err)
	_, err = app.Store.ImportPriceList(t.Context(), e, list)
	require.NoError(t, err)
	post(t, app.Client, app.Address+"/shelf/platforms/marsh", "op", "open")
	a := words(get(t, app.Client, app.Address+"/shelf/platforms/marsh/draft/prices"))
	for _, want := range []string{"From 0 to 300 contacts Reed costs least.", "From 301 to 600 contacts Sedge costs least.", "From 601 contacts on Rush costs least."} {
		assert.Contains(t, a, want)
	}
}
