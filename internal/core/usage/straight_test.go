package usage

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestStraightIsWhatIsWrittenAsAStraightLine(t *testing.T) {
	formula := func(s string) Formula {
		f, err := ParseFormula(s)
		require.NoError(t, err)
		return f
	}
	m, err := NewModel(nil, map[string]Path{"newsletters": {Now: Of(4)}})
	require.NoError(t, err)
	for text, straight := range map[string]bool{
		"contacts":                               true,
		"-contacts / 2 + 7":                      true,
		"seats * 3":                              true, // not at all
		"seats * contacts":                       true,
		"newsletters * contacts + seats":         true,
		"emails_sent":                            true, // contacts times letters
		"contacts * contacts":                    false,
		"emails_sent * contacts":                 false,
		"seats / contacts":                       false,
		"max(0, contacts - 100)":                 false,
		"ceil(contacts)":                         false,
		"ceil(contacts / 100) * 100":             false,
		"max(seats, newsletters)":                true, // of what does not follow it
		"contacts + ceil(seats / 3)":             true,
		"contacts * (newsletters + emails_sent)": false,
	} {
		require.Equal(t, straight, m.Straight(formula(text), "contacts"), text)
	}
}
