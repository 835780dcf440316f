package usage

import (
	"strings"
)

// Filled writes the formula with values in the place of names: "6,400 × (1 + 0.18)". A name
// without a value stays.
func (f Formula) Filled(value func(key string) (string, bool)) string {
	var b strings.Builder
	text := f.text
	for i := 0; i < len(text); {
		j := i
		for j < len(text) && (text[j] == '_' || text[j] >= 'a' && text[j] <= 'z' || text[j] >= 'A' && text[j] <= 'Z' || j > i && text[j] >= '0' && text[j] <= '9') {
			j++
		}
		switch {
		case j > i:
			if shown, ok := value(text[i:j]); ok {
				b.WriteString(shown)
			} else {
				b.WriteString(text[i:j])
			}
			i = j
		case text[i] == '*':
			b.WriteString("×")
			i++
		case text[i] == '/':
			b.WriteString("÷")
			i++
		default:
			b.WriteByte(text[i])
			i++
		}
	}
	return b.String()
}
