package reader

import (
	"regexp"
	"strings"
	"time"
	"unicode/utf8"

	"ninecoins/internal/core/money"
)

// sort tells what a figure is by how it is written.
type sort byte

// The sorts of figure, by the letter that stands for them in a sentence.
const (
	amount   sort = 'M' // €24, 24 EUR
	number   sort = 'N' // 2,000
	percent  sort = 'P' // 20%
	multiple sort = 'X' // 12x
	ordinal  sort = 'O' // 11th
	date     sort = 'D' // 31 January 2027
)

// Figure is a number on the page, with where it stands.
type Figure struct {
	Line, From, To int // bytes of the line's text
	Text           string
	sort           sort
	value          money.Amount // in millionths
	currency       string       // the sign or code that it was written with
	day            time.Time
	unsure         string // why its value may be another
	word           bool   // "half", "three": told only where it is used
	struck         bool
	claimed        bool
}

const (
	signs  = `(?:US\$|[€£$¥₹])`
	codes  = `(?:EUR|GBP|USD|CHF|JPY|SEK|NOK|DKK|PLN|CZK|CAD|AUD|NZD|INR)`
	digits = `\d{1,3}(?:[ \x{a0}\x{2009}\x{202f}]\d{3})+(?:[.,]\d{1,2})?|\d{1,3}(?:,\d{3})+(?:\.\d{1,4})?|\d{1,3}(?:\.\d{3})+(?:,\d{1,4})?|` +
		`\d{1,3}(?:['’]\d{3})+(?:\.\d{1,2})?|\d+(?:[.,]\d+)?`
	months = `(?:January|February|March|April|May|June|July|August|September|October|November|December|Jan|Feb|Mar|Apr|Jun|Jul|Aug|Sep|Sept|Oct|Nov|Dec)`
)

var (
	written = regexp.MustCompile(`(?i)(\d{4}-\d{2}-\d{2}|\d{1,2}(?:st|nd|rd|th)? ` + months + ` \d{4}|` + months + ` \d{1,2}(?:st|nd|rd|th)?,? \d{4})` +
		`|((?-i:` + signs + `|` + codes + `)[ \x{a0}]?)?(` + digits + `)(,-|\.-)?([kK]\b|[mM]\b|(?:st|nd|rd|th)\b|[ \x{a0}]?%|[ ]?[x×](?:\b| )|[ \x{a0}]?(?-i:` + signs + `|` + codes + `\b))?`)
	named = map[string]money.Amount{"half": 0, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9, "ten": 10, "twelve": 12}
)

// manner is how numbers are written on a page.
type manner struct{ commas, points bool } // decimals begin with a comma, with a point

var (
	withComma = regexp.MustCompile(`\d,\d{2}(?:[^\d]|$)|\d\.\d{3},\d`)
	withPoint = regexp.MustCompile(`\d\.\d{2}(?:[^\d]|$)|\d,\d{3}\.\d`)
)

func mannerOf(lines []Line) (m manner) {
	for _, l := range lines {
		m.commas = m.commas || withComma.MatchString(l.Text)
		m.points = m.points || withPoint.MatchString(l.Text)
	}
	return m
}

// value reads a number as it is written, in millionths. unsure says why it may be
// meant otherwise.
func (m manner) value(text string) (v money.Amount, unsure string, ok bool) {
	plain := strings.NewReplacer(" ", "", "\u00a0", "", "\u2009", "", "\u202f", "", "'", "", "’", "").Replace(text)
	comma, point := strings.LastIndexByte(plain, ','), strings.LastIndexByte(plain, '.')
	grouped := func(sep string) bool { // groups of three behind each one
		parts := strings.Split(plain, sep)
		for _, p := range parts[1:] {
			if len(p) != 3 {
				return false
			}
		}
		return len(parts[0]) > 0 && len(parts[0]) <= 3 && parts[0] != "0"
	}
	switch {
	case comma >= 0 && point > comma:
		plain = strings.ReplaceAll(plain, ",", "")
	case point >= 0 && comma > point:
		plain = strings.Replace(strings.ReplaceAll(plain, ".", ""), ",", ".", 1)
	case comma >= 0 && grouped(","):
		if m.commas && !m.points {
			unsure = "“" + text + "” is taken for thousands, though decimals begin with a comma elsewhere on this page"
		}
		plain = strings.ReplaceAll(plain, ",", "")
	case comma >= 0:
		if m.points {
			unsure = "“" + text + "” is taken for a decimal, though decimals begin with a point elsewhere on this page"
		}
		plain = strings.Replace(plain, ",", ".", 1)
	case point >= 0 && grouped("."):
		if !m.commas && strings.Count(plain, ".") == 1 {
			unsure = "“" + text + "” is taken for thousands"
		}
		plain = strings.ReplaceAll(plain, ".", "")
	}
	v, err := money.ParseAmount(plain)
	return v, unsure, err == nil && v >= 0 && v <= 1_000_000_000_000*money.Scale
}

// figuresOf finds the figures of a line.
func figuresOf(l Line, at int, m manner) (all []*Figure) {
	text := l.Text
	if !strings.ContainsAny(text, "0123456789") {
		return numberWords(l, at)
	}
	for _, g := range written.FindAllStringSubmatchIndex(text, -1) {
		f := &Figure{Line: at, From: g[0], To: g[1], sort: number}
		part := func(i int) string {
			if g[2*i] < 0 {
				return ""
			}
			return text[g[2*i]:g[2*i+1]]
		}
		if before, _ := utf8.DecodeLastRuneInString(text[:g[0]]); isLetter(before) && part(2) == "" {
			continue // a part of a word: B2B, H2
		}
		if day := part(1); day != "" {
			when, ok := dayOf(day)
			if !ok {
				continue
			}
			f.sort, f.day = date, when
		} else {
			v, unsure, ok := m.value(part(3))
			if !ok {
				f.unsure = "too long a number"
			}
			f.value, f.unsure = v, unsure
			f.currency = strings.TrimSpace(part(2))
			if f.currency != "" {
				f.sort = amount
			}
			f.tail(part(5), g)
		}
		for _, s := range l.struck {
			f.struck = f.struck || (f.From >= s[0] && f.To <= s[1])
		}
		for f.To > f.From && text[f.To-1] == ' ' {
			f.To--
		}
		f.Text = text[f.From:f.To]
		all = append(all, f)
	}
	all = append(all, numberWords(l, at)...)
	sortFigures(all)
	return all
}

// numberWords finds the numbers of a line that are written as words.
func numberWords(l Line, at int) (all []*Figure) {
	for from := 0; from < len(l.Text); {
		to := from
		for to < len(l.Text) && isLetter(rune(l.Text[to])) {
			to++
		}
		if to == from {
			from++
			continue
		}
		word := strings.ToLower(l.Text[from:to])
		if n, is := named[word]; is {
			f := &Figure{Line: at, From: from, To: to, Text: l.Text[from:to], sort: number, value: n * money.Scale, word: true}
			if word == "half" {
				f.sort, f.value = percent, money.Amount(money.Whole)/2
			}
			all = append(all, f)
		}
		from = to
	}
	return all
}

// tail reads what follows the digits: k, %, x, th, a currency.
func (f *Figure) tail(tail string, g []int) {
	switch tail = strings.TrimSpace(strings.Trim(tail, "\u00a0")); strings.ToLower(tail) {
	case "":
		return
	case "k":
		f.value *= 1_000
		f.unsure = orElse(f.unsure, "“k” is taken for thousands")
	case "m":
		f.value *= 1_000_000
		f.unsure = orElse(f.unsure, "“M” is taken for millions")
	case "%":
		f.sort = percent
		f.value /= 100
	case "x", "×":
		f.sort = multiple
	case "st", "nd", "rd", "th":
		f.sort = ordinal
	default:
		if f.currency == "" {
			f.sort, f.currency = amount, tail
		} else {
			f.To = g[2*5] // a second sign belongs to what follows
		}
	}
}

func sortFigures(all []*Figure) {
	for i := 1; i < len(all); i++ {
		for j := i; j > 0 && all[j].From < all[j-1].From; j-- {
			all[j], all[j-1] = all[j-1], all[j]
		}
	}
}

func dayOf(text string) (time.Time, bool) {
	text = regexp.MustCompile(`(\d)(?:st|nd|rd|th)\b`).ReplaceAllString(text, "$1")
	text = strings.ReplaceAll(text, ",", "")
	for _, form := range []string{time.DateOnly, "2 January 2006", "2 Jan 2006", "January 2 2006", "Jan 2 2006"} {
		if d, err := time.Parse(form, text); err == nil {
			return d, true
		}
	}
	return time.Time{}, false
}

func isLetter(r rune) bool { return r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' }

func orElse(s, other string) string {
	if s == "" {
		return other
	}
	return s
}
