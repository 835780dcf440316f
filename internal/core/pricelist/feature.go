package pricelist

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"ninecoins/internal/core/document"
	"ninecoins/internal/core/notation"
	"ninecoins/internal/core/usage"
)

// Has says how a plan has a feature.
type Has string

// The ways of having a feature.
const (
	Yes       Has = "yes"
	Partly    Has = "partly"
	AsAddOn   Has = "add-on"
	Bridge    Has = "bridge"
	Announced Has = "announced"
	No        Has = "no"
	Unknown   Has = "unknown"
)

// Feature is what a plan has of a feature.
type Feature struct {
	Has       Has
	Depth     int            // 1 to 3; 0 when not stated
	Number    usage.Quantity // where one is meant: 20 workflows; 0 when not stated
	Unlimited bool           // the number has no end
	AddOn     string         // key of the add-on that brings it
	Alone     bool           // no other add-on does, as far as is asked: depth and number are stated of that one
	Uses      Uses           // what a bridge costs in turn
	Note      string
	From      Known     // where it is known from; "" when not stated
	On        time.Time // the day on which that was found; zero when not stated
	Direct    bool      // stated for this plan itself, not taken over from an included one
}

// Known says where it is known from what a plan has.
type Known string

// The ways of knowing.
const (
	PricePage Known = "price page"
	Docs      Known = "docs"
	Asked     Known = "asked"
	HandsOn   Known = "hands-on"
)

// Uses is what a bridge makes another driver grow by.
type Uses struct{ Driver, Amount string }

// Feature returns what the plan has of a feature; one that the list does not
// mention is [Unknown].
func (p *Plan) Feature(key string) Feature {
	if f, ok := p.Features[key]; ok {
		return f
	}
	return Feature{Has: Unknown}
}

// Meets reports whether having a feature in this way meets a must: having it,
// buying it as an add-on, or reaching it through a bridge does.
func (h Has) Meets() bool { return h == Yes || h == AsAddOn || h == Bridge }

// Ways lists the ways of having a feature.
var Ways = []Has{Yes, Partly, AsAddOn, Bridge, Announced, No, Unknown}

// Cell is what a plan has of a feature, in one text as a grid shows it: "yes",
// "yes 2" with its depth, "yes = 20" and "yes = unlimited" with its number,
// "add-on texting" with the add-on's key, "partly 1", "no", "unknown". Nothing is
// not told. As it is typed, a number alone is "yes" with that number.
var Cell = document.Notation[Feature]{Parse: parseCell, Typed: typedCell, Text: Feature.Cell,
	Want: `how a plan has it: yes, yes 2 (its depth), 20 (its number), unlimited, partly, add-on and which, bridge, announced, no, unknown`,
	As:   document.IsText, Input: document.Input{Longest: 100}}

// Cell writes the feature as a grid shows it.
func (f Feature) Cell() string {
	if f.Has == "" {
		return ""
	}
	text := string(f.Has)
	if f.Has == AsAddOn && f.AddOn != "" {
		text += " " + f.AddOn
	}
	if f.Depth > 0 {
		text += fmt.Sprintf(" %d", f.Depth)
	}
	if f.Unlimited {
		text += " = " + unlimited
	} else if f.Number > 0 {
		text += " = " + f.Number.String()
	}
	return text
}

func parseCell(text string) (f Feature, err error) {
	words, number, numbered := strings.Cut(text, " = ")
	if numbered {
		if f.Unlimited = number == unlimited; !f.Unlimited {
			if f.Number, err = usage.ParseQuantity(number); err != nil {
				return f, err
			}
		}
	}
	for _, has := range Ways {
		if rest, is := strings.CutPrefix(words, string(has)); is && (rest == "" || rest[0] == ' ') {
			f.Has, words = has, strings.TrimSpace(rest)
			break
		}
	}
	if f.Has == "" && text != "" {
		return f, fmt.Errorf("%q is no way of having a feature", text)
	}
	for _, word := range strings.Fields(words) {
		switch {
		case len(word) == 1 && word >= "1" && word <= "3" && f.Depth == 0:
			f.Depth = int(word[0] - '0')
		case f.Has == AsAddOn && f.AddOn == "" && document.KeyForm.MatchString(word):
			f.AddOn = word
		default:
			return f, fmt.Errorf("%q does not belong there", word)
		}
	}
	if f.Has == AsAddOn && f.AddOn == "" {
		return f, document.Problem("needs the add-on that brings it, by its key: add-on texting")
	}
	return f, nil
}

// typedCell reads what people type and paste: words in any capitals, a number
// alone, and the usual other words for yes and no.
func typedCell(text string) (Feature, error) {
	low := strings.ToLower(strings.Join(strings.Fields(text), " "))
	switch {
	case low == unlimited:
		return Feature{Has: Yes, Unlimited: true}, nil
	case slices.Contains([]string{"not yet known", "not known", "?", "unknown"}, low):
		return Feature{Has: Unknown}, nil
	case slices.Contains([]string{"✓", "x", "included", "y"}, low):
		return Feature{Has: Yes}, nil
	case slices.Contains([]string{"✕", "✗", "–", "-", "n", "none"}, low):
		return Feature{Has: No}, nil
	case low != "" && (low[0] >= '0' && low[0] <= '9'):
		n, err := notation.Quantity.Typed(low)
		if err == nil && n == 0 {
			return Feature{Has: No}, nil
		}
		return Feature{Has: Yes, Number: n}, err
	}
	return parseCell(low)
}

// Kept returns what was typed into a cell with what stays of what stood there: its
// note, and where that is known from.
func (f Feature) Kept(was Feature) Feature {
	f.Note, f.From, f.On, f.Direct = was.Note, was.From, was.On, true
	if f.Has == Bridge {
		f.Uses = was.Uses
	}
	return f
}
