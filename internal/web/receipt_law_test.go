package web_test

import (
	"fmt"
	"html"
	"math"
	"net/http"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"ninecoins/internal/testkit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What stands on receipts, in the test's own reading.
var (
	paperPart = regexp.MustCompile(`(?s)<p class="receipt-title">(.*?)</p>.*?<table>(.*?)</table>(.*?)(?:<p class="receipt-title">|</div>|$)`)
	paperRow  = regexp.MustCompile(`(?s)<tr( class="total[^"]*")?><th scope="row">([^<]*)((?:<span class="how">[^<]*</span>)*)</th><td>([^<]*)</td></tr>`)
	howSteps  = regexp.MustCompile(`<span class="how">([^<]*)</span>`)
	stackSum  = regexp.MustCompile(`All tools of the stack, in this month(?:, less ([^<]*?) for what it makes unneeded)?</th><td>([^<]*)</td>`)
	moneyText = regexp.MustCompile(`^([−-]?)(?:[€£$]|[A-Z]{3} )([\d,]+(?:\.\d+)?)$`)
)

// figure reads a number, or an amount in whatever currency.
func figure(text string) float64 {
	if m := moneyText.FindStringSubmatch(text); m != nil {
		text = m[1] + m[2]
	}
	text = strings.TrimSuffix(text, "%")
	v, err := strconv.ParseFloat(strings.NewReplacer(",", "", "−", "-").Replace(text), 64)
	if err != nil {
		return math.NaN()
	}
	return v
}

// reckoning works a line out step by step, as its words say: what a month takes, and how many
// months of it count, offers taken off.
type reckoning struct {
	month, months, read, spread float64
	odd                         string // what no form reads, or what does not hold
}

// steps are the words of lines; n are the numbers in their places.
var steps = []struct {
	words string
	does  func(k *reckoning, n []float64)
}{
	{`flat {A}`, func(k *reckoning, n []float64) { k.month = n[0] }},
	{`once {A}`, func(k *reckoning, n []float64) { k.month = n[0] }},
	{`{N} {U}: {N} × {A}(?: per {N})?`, func(k *reckoning, n []float64) {
		k.month = n[1] * n[2] / each(n[3])
	}},
	{`{N} {U}, {N} included: {N} × {A}(?: per {N})?`, func(k *reckoning, n []float64) {
		k.holds(math.Abs(math.Max(0, n[0]-n[1])-n[2]) < 1, "what is above what is included")
		k.month = n[2] * n[3] / each(n[4])
	}},
	{`{N} {U}, {N} included: no pack needed`, func(k *reckoning, n []float64) { k.holds(n[0] <= n[1], "none is needed") }},
	{`{N} {U}, {N} included: {N} × {A} for each started {N}`, func(k *reckoning, n []float64) {
		k.holds(math.Ceil((n[0]-n[1])/n[4]) == n[2], "packs")
		k.month = n[2] * n[3]
	}},
	{`{N} {U}, in (?:the last band|the band to {N}): {A}`, func(k *reckoning, n []float64) {
		k.holds(math.IsNaN(n[1]) || n[0] <= n[1], "its band")
		k.month = n[2]
	}},
	{`{N} {U}, all at the rate of (?:the last band|the band to {N}): × {A}(?: per {N})?`, func(k *reckoning, n []float64) {
		k.holds(math.IsNaN(n[1]) || n[0] <= n[1], "its band")
		k.month = math.Ceil(n[0]) * n[2] / each(n[3])
	}},
	{`{N} {U}, each band at its own rate:`, func(k *reckoning, n []float64) { k.read = n[0] }},
	{`{N} × {A}(?: per {N})?`, func(k *reckoning, n []float64) {
		k.spread += n[0]
		k.month += n[0] * n[1] / each(n[2])
	}},
	{`{N} above it × {A}(?: per {N})?`, func(k *reckoning, n []float64) { k.month += n[0] * n[1] / each(n[2]) }},
	{`{N}% of {N} in the study's currency(?:, at least {A})?(?:, at most {A})?`, func(k *reckoning, n []float64) {
		k.month = n[0] / 100 * n[1]
		if !math.IsNaN(n[2]) {
			k.month = math.Max(k.month, n[2])
		}
		if !math.IsNaN(n[3]) {
			k.month = math.Min(k.month, n[3])
		}
	}},
	{`less {N}% on this term`, func(k *reckoning, n []float64) { k.month *= 1 - n[0]/100 }},
	{`offer “.*?”: {N}% off {N} of {N} months?`, func(k *reckoning, n []float64) { k.months -= n[1] * n[0] / 100 }},
	{`offer “.*?”: free for {N} of {N} months?`, func(k *reckoning, n []float64) { k.months -= n[0] }},
	{`offer “.*?”: in its fixed price for {N} of {N} months?`, func(k *reckoning, n []float64) { k.months -= n[0] }},
	{`× {N} months`, func(k *reckoning, n []float64) { k.months += n[0] - 1 }},
	{`.* = {N} {U}`, func(k *reckoning, n []float64) { k.read = n[0] }}, // how its meter counts
}

func each(n float64) float64 {
	if math.IsNaN(n) {
		return 1
	}
	return n
}

func (k *reckoning) holds(so bool, what string) {
	if !so {
		k.odd += what + "; "
	}
}

var forms = func() (all []*regexp.Regexp) {
	in := strings.NewReplacer("{A}", `([−-]?(?:[€£$]|[A-Z]{3} )[\d,]+(?:\.\d+)?)`, "{N}", `([\d,]+(?:\.\d+)?)`, "{U}", `[\pL][^:,=]*`)
	for _, s := range steps {
		all = append(all, regexp.MustCompile("^"+in.Replace(s.words)+"$"))
	}
	return all
}()

func (k *reckoning) takes(step string) {
	for i, f := range forms {
		if m := f.FindStringSubmatch(step); m != nil {
			n := make([]float64, len(m)-1)
			for j := range n {
				n[j] = figure(m[j+1])
			}
			steps[i].does(k, n)
			return
		}
	}
	k.odd += "no form reads “" + step + "”; "
}

// misreckoned is what on a receipt does not come to what it says; "" for nothing. Lines are rounded to
// the cent each month.
func misreckoned(page string) (wrong string, lines int) {
	page = strings.ReplaceAll(html.UnescapeString(page), "<span class=\"how\"></span>", "")
	var papers float64
	for at := 0; ; {
		m := paperPart.FindStringSubmatchIndex(page[at:])
		if m == nil {
			break
		}
		title, table, after := page[at+m[2]:at+m[3]], page[at+m[4]:at+m[5]], page[at+m[6]:at+m[7]]
		at += m[5]
		var sum, bill, beside, settled, used, strong float64
		months, shared := 1.0, false
		say := func(format string, args ...any) { wrong += title + ": " + fmt.Sprintf(format, args...) + "; " }
		for _, row := range paperRow.FindAllStringSubmatch(table, -1) {
			label, amount := row[2], figure(row[4])
			if math.IsNaN(amount) {
				say("%s is no amount: %s", label, row[4])
				continue
			}
			if row[1] == "" {
				lines++
				sum += amount
				k := reckoning{months: 1}
				fixed := false
				for _, step := range howSteps.FindAllStringSubmatch(row[3], -1) {
					fixed = fixed || strings.HasPrefix(step[1], "in place of the plan's charges") || strings.HasPrefix(step[1], "one bill, for ")
					if !fixed {
						k.takes(step[1])
					}
				}
				switch {
				case k.odd != "":
					say("%s: %s", label, k.odd)
				case k.spread > 0 && math.Abs(math.Ceil(k.read)-k.spread) > 1:
					say("%s: its bands hold %g of %g", label, k.spread, k.read)
				case !fixed && math.Abs(k.month*k.months-amount) > 0.0051*math.Max(1, k.months)+0.006:
					say("%s: its words come to %g, not %s", label, k.month*k.months, row[4])
				}
				continue
			}
			near := func(want, off float64) {
				if math.Abs(want-amount) > off {
					say("%s is %s, not %g", label, row[4], want)
				}
			}
			words := strings.Fields(label)
			switch {
			case strings.HasPrefix(label, "Total for"):
				if bill, settled = amount, amount; words[2] != "life" {
					months = figure(words[2])
				}
			case label == "Used this month, converted likewise":
				used = amount
			case label == "Once, at signing, converted likewise", label == "Once, as the add-on begins, converted likewise", strings.HasPrefix(label, "Paid in "):
			case strings.HasPrefix(label, "The same"):
				want := bill
				if m := regexp.MustCompile(`\(÷ ([\d.]+)\)`).FindStringSubmatch(label); m != nil {
					want /= figure(m[1])
				}
				if m := regexp.MustCompile(`\(× ([\d.]+), rate`).FindStringSubmatch(label); m != nil {
					want *= figure(m[1])
				}
				near(want, 0.0051)
				settled = amount
			case label == "That is, a month":
				near(settled/months+used, 0.0051)
			case strings.HasPrefix(label, "That is, a month over"):
				near(settled/figure(words[6])+used, 0.0051)
			case label == "Used this month":
				beside, used = beside+amount, amount
			case strings.HasPrefix(label, "Once, "):
				beside += amount
			case strings.HasPrefix(label, "Share of"):
				shared = true
				if n := figure(words[len(words)-1]); beside == 0 && !strings.Contains(after, "is lost in this month") {
					near(settled/n, 0.0101)
				}
			case label == "Less what it makes unneeded":
				strong += amount
				continue
			case strings.HasPrefix(label, "Counted in"):
				near(strong, 0.0001)
			default:
				say("no form reads “%s”", label)
			}
			if strings.Contains(row[1], "strong") {
				strong = amount
			}
		}
		if math.Abs(sum-bill-beside) > 0.0001 {
			say("its lines come to %g, not %g and %g", sum, bill, beside)
		}
		if papers += strong; !shared {
			papers += used
		}
	}
	if m := stackSum.FindStringSubmatch(page); m != nil {
		if m[1] != "" {
			papers -= figure(m[1])
		}
		if math.Abs(papers-figure(m[2])) > 0.0051 {
			wrong += fmt.Sprintf("its tools come to %g, not %s; ", papers, m[2])
		}
	}
	return wrong, lines
}

// TestReceiptsComeToWhatTheySay reads every line and total of all receipts of the demo, and of a
// study with bands, packs, add-ons, fees and offers, and works them out anew; and finds figures that
// were changed.
func TestReceiptsComeToWhatTheySay(t *testing.T) {
	t.Parallel()
	found, changed, stacks := 0, 0, 0
	planted := testkit.Start(t, true)
	resp, err := planted.Client.PostForm(planted.Page("line-up"), url.Values{"op": {"stack"}, "tool": {"quirebird 2026-07-04 folio", "osier-mail 2026-10-05 one-price"}})
	require.Equal(t, http.StatusOK, read(t, resp, err).status)
	for name, app := range map[string]*testkit.App{"demo": planted,
		"made up": testkit.StartLarge(t, testkit.Size{Options: 3, Plans: 3, Terms: 3, Bands: 6, AddOns: 2, Offers: 1, Packs: 2, Months: 15, Fees: true})} {
		seen, lines := map[string]bool{}, 0
		links := regexp.MustCompile(`href="(/studies/[0-9a-f-]{36}/receipts/[^"]*)"`)
		desk := get(t, app.Client, app.Address+"/")
		for _, of := range regexp.MustCompile(`href="(/studies/[0-9a-f-]{36})[/"]`).FindAllStringSubmatch(desk.body, -1) {
			for _, from := range []string{"/prices", "/costs?as=table"} {
				for _, m := range links.FindAllStringSubmatch(get(t, app.Client, app.Address+of[1]+from).body, -1) {
					if path := html.UnescapeString(m[1]); !seen[path] {
						seen[path] = true
						a := get(t, app.Client, app.Address+path)
						require.Equal(t, http.StatusOK, a.status, path)
						wrong, n := misreckoned(a.body)
						require.Empty(t, wrong, "%s: %s", name, path)
						lines += n
						stacks += strings.Count(a.body, "All tools of the stack")
						if digits := regexp.MustCompile(`<td>[^<\d]*(\d)`).FindStringSubmatchIndex(a.body); digits != nil && len(seen)%7 == 0 {
							changed++
							if wrong, _ := misreckoned(a.body[:digits[2]] + string('0'+(a.body[digits[2]]-'0'+1)%10) + a.body[digits[3]:]); wrong != "" {
								found++
							}
						}
					}
				}
			}
		}
		assert.Greater(t, len(seen), 60, name)
		assert.Greater(t, lines, 100, name)
	}
	assert.Positive(t, changed)
	assert.Positive(t, stacks)
	assert.Equal(t, changed, found, "changed figures are found")
}
