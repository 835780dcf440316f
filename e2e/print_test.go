package e2e_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"unicode"

	"ninecoins/e2e/browser"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// onPaper gives the words that a page shows on paper, with what stands in its
// fields.
const onPaper = `(() => {
	const text = [];
	const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
	for (let n = walker.nextNode(); n; n = walker.nextNode()) {
		const e = n.parentElement;
		if (e.checkVisibility({ visibilityProperty: true }) && e.closest(".head, main, .counter") && !e.closest(".visually-hidden, select, textarea, script, details:not([open]) > :not(summary)")) text.push(n.data);
	}
	for (const f of document.querySelectorAll("main input:not([type=hidden], [type=checkbox]), main textarea, main select")) if (f.checkVisibility()) text.push(f.selectedOptions?.[0]?.text ?? f.value);
	return text.join(" ");
})()`

// squeezed leaves letters and digits, so that it does not count where lines are
// broken.
func squeezed(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return unicode.ToLower(r)
		}
		return -1
	}, s)
}

// printed is the text of a page on paper, as pdftotext reads it.
func (v *visitor) printed(width, height float64) string {
	v.t.Helper()
	pdf, err := chromedp.Run(v.ctx, browser.Print(width, height))
	require.NoError(v.t, err)
	name := filepath.Join(v.t.TempDir(), "page.pdf")
	require.NoError(v.t, os.WriteFile(name, pdf, 0o600))
	text, err := exec.CommandContext(v.t.Context(), "pdftotext", "-raw", name, "-").Output()
	require.NoError(v.t, err, "pdftotext is of Debian's poppler-utils")
	return squeezed(string(text))
}

// TestEveryPagePrintsWhole prints each page on A4 and Letter: every word of it is on
// the paper.
func TestEveryPagePrintsWhole(t *testing.T) {
	t.Parallel()
	v := visit(t, 1280, 800)
	v.do(browser.Media("print"))
	for _, page := range append(inStudy, "options/brindlepost", "receipts/brindlepost?month=2027-01") {
		v.open(page)
		words := strings.Fields(see[string](v, onPaper))
		assert.Greater(t, len(words), 30, page)
		for _, paper := range [][2]float64{{8.27, 11.69}, {8.5, 11}} {
			text := v.printed(paper[0], paper[1])
			var lost []string
			for _, word := range words {
				if w := squeezed(word); w != "" && !strings.Contains(text, w) {
					lost = append(lost, word)
				}
			}
			assert.Empty(t, lost, "%s on paper %v inches wide", page, paper[0])
		}
		for _, control := range []string{"Undo", "Save as SVG", "Add a"} {
			assert.NotContains(t, see[string](v, `[...document.querySelectorAll("button, summary")].filter((e) => e.checkVisibility()).map((e) => e.textContent).join()`), control, page)
		}
	}
}
