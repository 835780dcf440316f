package formats

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"ninecoins/internal/core/pricelist"
	pages "ninecoins/internal/core/reader"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// meant is what a figure of a page means, as it is written into the page behind it by
// hand: [[runner base]] is plans.runner.charges.base.price, [[runner <seats]] the limit
// on seats, [[!]] anything.
var meant = regexp.MustCompile(`\[\[([^\]]*)\]\]`)

// stop is what stands in the page for an answer while it is read.
const stop = "\ue000"

// unfold writes out what an answer says, as a path into the draft.
func unfold(short string) (path, value string) {
	short, value, _ = strings.Cut(short, "=")
	if strings.Contains(short, ".") || short == "!" {
		return short, value
	}
	w := strings.Fields(short)
	at := "plans." + w[0]
	switch {
	case strings.HasPrefix(w[1], "<"):
		at += ".limits." + w[1][1:] + ".most"
		if len(w) > 2 {
			at += "." + w[2]
		}
	case strings.HasPrefix(w[1], "~"):
		at += ".terms." + w[1][1:] + "." + w[2]
	case len(w) > 2 && regexp.MustCompile(`^\d+$`).MatchString(w[2]):
		at += ".charges." + w[1] + ".bands." + w[2] + "."
		if len(w) > 3 {
			at += w[3]
		} else {
			at += "price"
		}
	case len(w) > 2 && w[2] == "above":
		at += ".charges." + w[1] + ".above.price"
	case len(w) > 2:
		at += ".charges." + w[1] + "." + w[2]
	default:
		at += ".charges." + w[1] + ".price"
	}
	return at, value
}

// score is how a page was read.
type score struct {
	name                                      string
	right, guessed, guessedWrong, left, wrong int
	loose, looseLeft                          int // figures that mean nothing for a price list, and those of them left over
	notes                                     []string
}

// rate reads a page with its answers and compares.
func rate(t *testing.T, file string) (*pages.Reading, score) {
	data, err := os.ReadFile(file)
	require.NoError(t, err)
	s := score{name: filepath.Base(file)}
	// The answers stay out of what is read: each is kept by the figure before it.
	plain := meant.ReplaceAllString(string(data), "")
	page, err := ParsePage([]byte(plain))
	require.NoError(t, err)
	got := pages.Page(page, pricelist.Platform{Key: "it", Name: "It", Does: []string{"email"}}, time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC), "a test")
	marked, err := ParsePage([]byte(meant.ReplaceAllStringFunc(string(data), func(a string) string {
		return stop + strings.ReplaceAll(strings.ReplaceAll(meant.FindStringSubmatch(a)[1], " ", "\ue001"), "<", "\ue003") + "\ue002"
	})))
	require.NoError(t, err)
	answers := map[pages.Span]string{} // by where the figure ends
	answered := map[[2]int]string{}
	lines := pages.Page(marked, pricelist.Platform{}, time.Time{}, "").Lines
	require.Len(t, lines, len(got.Lines), s.name)
	for at, l := range lines {
		text, cut := l.Text, 0
		for {
			i := strings.Index(text, stop)
			if i < 0 {
				break
			}
			j := strings.Index(text, "\ue002")
			cut = i
			answered[[2]int{at, cut}] = strings.NewReplacer("\ue001", " ", "\ue003", "<").Replace(text[i+len(stop) : j])
			text = text[:i] + text[j+len("\ue002"):]
		}
		require.Equal(t, strings.TrimSpace(got.Lines[at].Text), strings.TrimSpace(text), s.name)
	}
	_ = answers
	claims := map[[2]int][]pages.Claim{}
	for _, c := range got.Claims {
		for _, span := range c.Spans {
			end := [2]int{span.Line, span.To}
			claims[end] = append(claims[end], c)
		}
	}
	left := map[[2]int]bool{}
	for _, l := range got.Left {
		left[[2]int{l.Line, l.To}] = true
	}
	near := func(end [2]int) [2]int { // "half off": the answer stands behind the words
		for d := 0; d < 6; d++ {
			one := [2]int{end[0], end[1] - d}
			if len(claims[one]) > 0 || left[one] {
				return one
			}
		}
		return end
	}
	seen := map[[2]int]bool{}
	for end, short := range answered {
		end = near(end)
		seen[end] = true
		for one := range strings.SplitSeq(short, ";") {
			path, value := unfold(one)
			if path == "!" {
				continue
			}
			var found *pages.Claim
			for i := range claims[end] {
				if string(claims[end][i].Path) == path {
					found = &claims[end][i]
				}
			}
			others := ""
			for _, c := range claims[end] {
				others += fmt.Sprintf(" %s=%s (%s)", c.Path, c.Value, c.Mark)
			}
			switch {
			case found != nil && (value == "" || sameValue(found.Value, value)) && found.Mark == pages.Read:
				s.right++
			case found != nil && (value == "" || sameValue(found.Value, value)):
				s.guessed++
			case len(claims[end]) == 0:
				s.left++
				s.notes = append(s.notes, fmt.Sprintf("left over: %s in %q", one, got.Lines[end[0]].Text))
			case claims[end][0].Mark == pages.Guessed:
				s.guessedWrong++
				s.notes = append(s.notes, fmt.Sprintf("guessed wrong: %s in %q is%s", one, got.Lines[end[0]].Text, others))
			default:
				s.wrong++
				s.notes = append(s.notes, fmt.Sprintf("WRONG: %s in %q is%s", one, got.Lines[end[0]].Text, others))
			}
		}
	}
	for end, all := range claims {
		if seen[end] {
			continue
		}
		s.loose++
		if all[0].Mark == pages.Read {
			s.wrong++
			s.notes = append(s.notes, fmt.Sprintf("WRONG: nothing is meant in %q, got %s=%s", got.Lines[end[0]].Text, all[0].Path, all[0].Value))
		} else {
			s.guessedWrong++
			s.notes = append(s.notes, fmt.Sprintf("guessed wrong: nothing is meant in %q, got %s=%s", got.Lines[end[0]].Text, all[0].Path, all[0].Value))
		}
	}
	for end := range left {
		if !seen[end] {
			s.loose++
			s.looseLeft++
		}
	}
	return got, s
}

func sameValue(got, want string) bool {
	trim := func(s string) string {
		if strings.Contains(s, ".") {
			s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
		}
		return s
	}
	return trim(got) == trim(want)
}

func TestPricePagesAreRead(t *testing.T) {
	files, err := filepath.Glob("testdata/pages/*")
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(files), 24)
	var all score
	for _, file := range files {
		_, s := rate(t, file)
		all.right, all.guessed, all.guessedWrong, all.left, all.wrong = all.right+s.right, all.guessed+s.guessed, all.guessedWrong+s.guessedWrong, all.left+s.left, all.wrong+s.wrong
		all.loose, all.looseLeft = all.loose+s.loose, all.looseLeft+s.looseLeft
		t.Logf("%-32s right %3d guessed %2d/%d left %2d wrong %d", s.name, s.right, s.guessed, s.guessedWrong, s.left, s.wrong)
		for _, n := range s.notes {
			t.Log("    " + n)
		}
	}
	total := all.right + all.guessed + all.guessedWrong + all.left + all.wrong
	t.Logf("of %d: right %d, guessed %d and wrongly %d, left %d, wrong %d; %d mean nothing, %d of them left over", total, all.right, all.guessed, all.guessedWrong, all.left, all.wrong,
		all.loose, all.looseLeft)
	assert.Zero(t, all.wrong)
	assert.GreaterOrEqual(t, float64(all.right)/float64(total), 0.85)
}

// What a claim says of the draft stands in the draft, and every number is used or left
// over; what was read can be published.
func TestWhatWasReadStandsInTheDraft(t *testing.T) {
	files, err := filepath.Glob("testdata/pages/*")
	require.NoError(t, err)
	for _, file := range files {
		got, _ := rate(t, file)
		d := pricelist.Draft{Edition: got.Edition}
		for _, c := range got.Claims {
			spot, ok := pricelist.Drafts().Spot(d, c.Path)
			if assert.True(t, ok, "%s: %s", file, c.Path) {
				assert.True(t, sameValue(spot.Text, c.Value), "%s: %s is %s, not %s", file, c.Path, spot.Text, c.Value)
			}
			for _, s := range c.Spans {
				assert.NotEmpty(t, strings.TrimSpace(got.Lines[s.Line].Text[s.From:s.To]), file)
			}
		}
		if len(got.Edition.Plans) == 0 {
			continue
		}
		written, err := WritePriceList(&got.Edition)
		require.NoError(t, err)
		_, err = ReadPriceList(t.Context(), written, time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC))
		assert.NoError(t, err, file)
		_, faults := d.Whole()
		assert.Empty(t, faults, file)
	}
}

// Packs beyond a multiple are bought past it, not from the first send on.
func TestPacksBeyondAMultipleAreBoughtPastIt(t *testing.T) {
	got, _ := rate(t, "testdata/pages/08-sends-multiple.txt")
	p, ok := got.Edition.Plan("broadsheet")
	require.True(t, ok)
	assert.True(t, p.Charges[1].Optional)
	assert.Equal(t, pricelist.BuyPack, p.Limits[1].Beyond)
	assert.Equal(t, "contacts", p.Limits[1].OfMeter)
}

func TestAPageInAnotherLanguageIsLeftOver(t *testing.T) {
	got, _ := rate(t, "testdata/pages/22-other-language.html")
	assert.True(t, got.Foreign)
	assert.Empty(t, got.Claims)
	assert.Len(t, got.Left, 6)
}

func TestPagesThatAreNone(t *testing.T) {
	for name, data := range map[string]string{"empty": " \n\t", "nought": "€12\x00 a month", "too long": strings.Repeat("x", LargestPage+1)} {
		_, err := ParsePage([]byte(data))
		assert.Error(t, err, name)
	}
	// Nothing of a script or a style is words, however much of it there is.
	page, err := ParsePage([]byte("<html><body><h2>Moss</h2><p>€12 a month</p>" + strings.Repeat(`<script>var a = "€99 a month"; alert(1)</script><style>p{width:77px}</style>`, 40_000) +
		`<p onclick="alert(2)">1,000 contacts <img src=x onerror=alert(3)></p></body></html>`))
	require.NoError(t, err)
	got := pages.Page(page, pricelist.Platform{}, time.Time{}, "")
	require.Len(t, got.Lines, 3)
	assert.Equal(t, "1,000 contacts", got.Lines[2].Text)
	assert.Empty(t, got.Left)
}

func FuzzPage(f *testing.F) {
	files, _ := filepath.Glob("testdata/pages/*")
	for _, file := range files {
		data, _ := os.ReadFile(file)
		f.Add(meant.ReplaceAllString(string(data), ""))
	}
	f.Add("<table><tr><td>\n€1</td></tr></table><table><tr></tr></table>")
	f.Add("a\tb\n1\t2\n")
	f.Add(strings.Repeat("<div>", 600) + "€9 a month")
	f.Fuzz(func(t *testing.T, text string) {
		page, err := ParsePage([]byte(text))
		if err != nil {
			return
		}
		got := pages.Page(page, pricelist.Platform{Key: "it", Name: "It", Does: []string{}}, time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC), "a test")
		d := pricelist.Draft{Edition: got.Edition}
		for _, c := range got.Claims {
			spot, ok := pricelist.Drafts().Spot(d, c.Path)
			if !ok || !sameValue(spot.Text, c.Value) {
				t.Fatalf("%s should be %s, is %q", c.Path, c.Value, spot.Text)
			}
		}
	})
}

// A page of the largest size is read in a time that grows with its length.
func BenchmarkPage(b *testing.B) {
	one, err := os.ReadFile("testdata/pages/31-badges-and-taglines.html")
	require.NoError(b, err)
	page := meant.ReplaceAllString(string(one), "")
	for _, n := range []int{1, 10, 100} {
		b.Run(fmt.Sprintf("%dx", n), func(b *testing.B) {
			text := []byte(strings.Repeat(page, n))
			for b.Loop() {
				parsed, err := ParsePage(text)
				require.NoError(b, err)
				pages.Page(parsed, pricelist.Platform{}, time.Time{}, "")
			}
			b.ReportMetric(float64(len(text))/1024, "KB")
		})
	}
}
