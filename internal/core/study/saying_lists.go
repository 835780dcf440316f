package study

import (
	"fmt"

	"ninecoins/internal/core/pricelist"
)

// SayDifferences says what changed between two lists: "Between 2 Oct 2026 and the draft 3
// prices rise, by up to 12.5%, and 1 falls; 2 other things change."
func SayDifferences(name, before, after string, all []pricelist.Difference) Phrase {
	if len(all) == 0 {
		return say("Nothing differs between the list of *%s* and *%s*.", before, after)
	}
	var up, down, others int
	most := 0.0
	for _, d := range all {
		switch d.Turn {
		case pricelist.Dearer:
			up++
			most = max(most, d.Share)
		case pricelist.Cheaper:
			down++
		default:
			others++
		}
	}
	p := say("Between the list of %s and %s", before, after)
	sep := " "
	add := func(q Phrase) {
		p = append(append(p, Part{Text: sep}), q...)
		sep = ", "
	}
	if up > 0 {
		by := ""
		if most > 0 {
			by = fmt.Sprintf(", by up to %.1f%%", 100*most)
		}
		add(say("*%s*%s", somePrices(up, "rises", "rise"), by))
	}
	if down > 0 {
		add(say("*%s*", somePrices(down, "falls", "fall")))
	}
	if others > 0 {
		thing := "other things change"
		if others == 1 {
			thing = "other thing changes"
		}
		if up+down == 0 {
			thing = map[bool]string{true: "thing changes", false: "things change"}[others == 1]
		}
		add(say("*%d* %s", others, thing))
	}
	return append(p, Part{Text: "."})
}

func somePrices(n int, one, several string) string {
	if n == 1 {
		return "1 price " + one
	}
	return fmt.Sprintf("%d prices %s", n, several)
}
