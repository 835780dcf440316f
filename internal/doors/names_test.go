package doors_test

import (
	"strings"
	"testing"

	"ninecoins/internal/doors"

	"github.com/stretchr/testify/assert"
)

func TestNamesAreFoldedOrRefused(t *testing.T) {
	for in, want := range map[string]string{
		"Imke Vroom": "Imke Vroom", "  Imke\u00a0 \u2003Vroom\t": "Imke Vroom", "Ｉｍｋｅ": "Imke", "O'Brien-Śliwa, Jr. (2)": "O'Brien-Śliwa, Jr. (2)",
		"Zoe\u0301": "Zoé", "山田 太郎": "山田 太郎", "カタカナ漢字ひらがな": "カタカナ漢字ひらがな", "김한자漢": "김한자漢", "Маша": "Маша", "سارة": "سارة", "🌱 Rue": "🌱 Rue", "ﬁnn": "finn",
		"Μαρία 2": "Μαρία 2", "Imke Маша": "Imke Маша",
	} {
		got, err := doors.FoldName(in)
		assert.NoError(t, err, in)
		assert.Equal(t, want, got, in)
		again, err := doors.FoldName(got)
		assert.NoError(t, err)
		assert.Equal(t, got, again, "folding once is enough")
	}
	for in, why := range map[string]string{
		"": "empty", " \u2003 ": "empty", strings.Repeat("é", 61): "at most 60", "Imke\u200bVroom": "not seen", "a\u202eb": "not seen", "a\x07b": "signs only", "a\nb\x00": "signs only",
		"\xff": "signs only", "Im\u043ae": "letters of Latin and of Cyrillic", "Vr\u03bfom": "letters of Latin and of Greek", "ᎪmᎬ": "Cherokee", "Rue\u200d": "not seen",
		strings.Repeat("ﷺ", 20): "at most 60",
	} {
		_, err := doors.FoldName(in)
		assert.ErrorContains(t, err, why, "%q", in)
	}
	title, err := doors.JudgeTitle(" Marl  &\u00a0Thistle™ ")
	assert.NoError(t, err)
	assert.Equal(t, "Marl & Thistle™", title, "a thing's name keeps its signs")
}

func TestLikenessesTellWhoCouldBeTakenForWhom(t *testing.T) {
	alike := [][]string{
		{"Imke Vroom", "imke vroom", "IMKE VROOM", "Imke  Vroom", "Imke Vr0om", "Imkе Vrооm", "Іmke Vroom", "Ιmke Vroom", "Ｉmke Vroom"},
		{"Rue 1", "Rue l", "rue 1"},
		{"Coo", "Соо", "CОО", "C00"},
		{"Zoé", "Zoe\u0301", "ZOÉ"},
	}
	for i, group := range alike {
		for _, name := range group {
			assert.Equal(t, doors.Likeness(group[0]), doors.Likeness(name), name)
			for j, other := range alike {
				if i != j {
					assert.NotEqual(t, doors.Likeness(other[0]), doors.Likeness(name))
				}
			}
		}
	}
	for a, b := range map[string]string{"Amo": "Arno", "Zoe": "Zoé", "Ida": "Lda", "Dov Amsel": "Dov Amsell", "Vera": "Wera", "Маша": "Даша", "Rue 1": "Rue 2"} {
		assert.NotEqual(t, doors.Likeness(a), doors.Likeness(b))
	}
}
