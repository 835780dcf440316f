package study_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"ninecoins/internal/core/study"
	"ninecoins/internal/core/usage"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// inWords reads a formula in words: "contacts times (letters plus 2) rounded up".
type inWords struct {
	text   string
	values map[string]float64
}

func (w *inWords) next(words ...string) string {
	for _, word := range words {
		if rest, ok := strings.CutPrefix(w.text, word); ok {
			w.text = rest
			return word
		}
	}
	return ""
}

func (w *inWords) sum() float64 {
	v := w.product()
	for {
		switch w.next(" plus ", " minus ") {
		case " plus ":
			v += w.product()
		case " minus ":
			v -= w.product()
		default:
			return v
		}
	}
}

func (w *inWords) product() float64 {
	v := w.rounded()
	for {
		switch w.next(" times ", " divided by ") {
		case " times ":
			v *= w.rounded()
		case " divided by ":
			v /= w.rounded()
		default:
			return v
		}
	}
}

func (w *inWords) rounded() float64 {
	v := w.one()
	switch w.next(" rounded up", " rounded down", " rounded") {
	case " rounded up":
		return math.Ceil(v)
	case " rounded down":
		return math.Floor(v)
	case " rounded":
		return math.Round(v)
	}
	return v
}

func (w *inWords) one() float64 {
	if most := w.next("the larger of (", "the smaller of (", "("); most != "" {
		v := w.sum()
		for w.next(", ", " and ") != "" {
			if most == "the larger of (" {
				v = max(v, w.sum())
			} else {
				v = min(v, w.sum())
			}
		}
		if w.next(")") == "" {
			return math.NaN()
		}
		return v
	}
	for name, v := range w.values {
		if w.next(name) != "" {
			return v
		}
	}
	digits := regexp.MustCompile(`^[\d.]+`).FindString(w.text)
	w.text = w.text[len(digits):]
	v, err := strconv.ParseFloat(digits, 64)
	if err != nil {
		return math.NaN()
	}
	return v
}

// counted is a formula of contacts and seats.
func counted(r *rand.Rand, deep int) string {
	if deep == 0 || r.IntN(4) == 0 {
		return []string{"contacts", "contacts", "seats", "2", "1.5"}[r.IntN(5)]
	}
	a, b := counted(r, deep-1), counted(r, deep-1)
	switch r.IntN(8) {
	case 0:
		return fmt.Sprintf("ceil(%s / 3)", a)
	case 1:
		return fmt.Sprintf("max(%s, %s)", a, b)
	case 2:
		return fmt.Sprintf("min(%s, %s)", a, b)
	case 3:
		return fmt.Sprintf("(%s) / (1 + %s)", a, b)
	case 4:
		return fmt.Sprintf("(%s) * (%s)", a, b)
	case 5:
		return fmt.Sprintf("(%s) + floor(%s)", a, b)
	}
	return fmt.Sprintf("%s + (%s)", a, b)
}

// TestWhatIsSaidToBeBilledIsSo reads how options count contacts, in words and filled in, and works both
// out; where nothing is said, all count as the driver stands.
func TestWhatIsSaidToBeBilledIsSo(t *testing.T) {
	said := regexp.MustCompile(`^(Ash|Birch) counts ([\d,]+) contacts?(?:: (.*) = (.*))?\.$`)
	verbs := strings.NewReplacer(" + ", " plus ", " − ", " minus ", " × ", " times ", " ÷ ", " divided by ")
	thousands := regexp.MustCompile(`(\d),(\d)`)
	heard, silent := 0, 0
	for n := range 400 {
		r := rand.New(rand.NewPCG(24, uint64(n)))
		s := of(option("Ash", 5000, 10), option("Birch", 5000, 12))
		s.Drivers = append(s.Drivers, study.Setting{Driver: "seats", Path: usage.Path{Now: usage.Of(1 + r.Int64N(9))}})
		for i := range s.Options {
			if f, err := usage.ParseFormula(counted(r, r.IntN(4))); err == nil && r.IntN(3) > 0 {
				s.Options[i].Edition.Meters[0].Counts = f
			}
		}
		o, month := study.Compute(s), r.IntN(6)
		values := map[string]float64{"contacts": o.Values.Of("contacts")[month], "seats": o.Values.Of("seats")[month]}
		all := o.SayBilled(month)
		for i := range o.Results {
			f := o.Results[i].Tools[0].Tool.Edition.Meters[0].Counts
			reads, err := f.Value(values)
			require.NoError(t, err)
			at := 0
			for at < len(all) && !strings.HasPrefix(all[at], o.Results[i].Option.Name) {
				at++
			}
			if at == len(all) { // it does not count contacts, or all count alike
				if len(all) == 0 && strings.Contains(f.String(), "contacts") {
					require.LessOrEqual(t, math.Abs(math.Ceil(reads)-values["contacts"]), 0.5, "study %d, %s", n, f)
					silent++
				}
				continue
			}
			m := said.FindStringSubmatch(all[at])
			require.NotNil(t, m, "study %d: %s", n, all[at])
			require.EqualValues(t, math.Ceil(math.Round(reads*1e6)/1e6), number(m[2]), "study %d: %s", n, all[at])
			if m[3] == "" {
				require.EqualValues(t, values["contacts"], number(m[2]), "study %d: %s", n, all[at])
				continue
			}
			for _, text := range []string{m[3], verbs.Replace(thousands.ReplaceAllString(m[4], "$1$2"))} {
				words := inWords{text, values}
				require.InDelta(t, reads, words.sum(), 1e-3, "study %d: %s, for %s", n, all[at], f)
				require.Empty(t, words.text, "study %d: %s", n, all[at])
			}
			heard++
		}
	}
	assert.Greater(t, heard, 100)
	assert.Positive(t, silent)
}
