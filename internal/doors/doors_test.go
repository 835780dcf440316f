package doors_test

import (
	"context"
	"errors"
	"strings"
	"testing"

	"ninecoins/internal/doors"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEachRoleMayWhatItSaysAndWhatTheLowerOnesMay(t *testing.T) {
	for _, row := range []struct {
		role doors.Role
		upTo doors.Need
	}{
		{"", doors.Anyone}, {"queen", doors.Anyone}, {doors.Reader, doors.ToRead}, {doors.Rater, doors.ToRate}, {doors.Editor, doors.ToEdit}, {doors.Owner, doors.ToGovern},
	} {
		for need := doors.Untold; need <= doors.ToGovern; need++ {
			assert.Equal(t, need != doors.Untold && need <= row.upTo, row.role.May(need), "%q and need %d", row.role, need)
		}
		assert.Equal(t, row.upTo > doors.Anyone, row.role.Valid())
		assert.NotEmpty(t, row.role.Can())
	}
	assert.Equal(t, doors.Reader, doors.Least(doors.ToRead))
	assert.Equal(t, doors.Rater, doors.Least(doors.ToRate))
	assert.Equal(t, doors.Editor, doors.Least(doors.ToEdit))
	assert.Equal(t, doors.Owner, doors.Least(doors.ToGovern))
	assert.Equal(t, doors.Role(""), doors.Least(doors.SignedIn))
}

func TestAPasswordMatchesOnlyItself(t *testing.T) {
	ctx := t.Context()
	kept, err := doors.HashPassword(ctx, "fennel under glass 9")
	require.NoError(t, err)
	assert.Regexp(t, `^\$argon2id\$v=19\$m=19456,t=2,p=1\$[A-Za-z0-9+/]{22}\$[A-Za-z0-9+/]{43}$`, kept)
	again, err := doors.HashPassword(ctx, "fennel under glass 9")
	require.NoError(t, err)
	assert.NotEqual(t, kept, again, "each has its own salt")
	for _, row := range []struct {
		password, kept string
		match, old     bool
	}{
		{"fennel under glass 9", kept, true, false},
		{"Fennel under glass 9", kept, false, false},
		{"", kept, false, false},
		{"anything at all", "", false, false},
		{"", "", false, false},
		// The same password under weaker parameters: it matches, and is to be hashed anew.
		{"password", "$argon2id$v=19$m=65536,t=2,p=1$c29tZXNhbHQ$CTFhFdXPJO1aFaMaO6Mm5c8y7cJHAph8ArZWb2GRPPc", true, true},
	} {
		match, old, err := doors.CheckPassword(ctx, row.password, row.kept)
		require.NoError(t, err)
		assert.Equal(t, row.match, match, row.password)
		assert.Equal(t, row.old, old, row.password)
	}
	for _, odd := range []string{"plain", "$argon2i$v=19$m=1,t=1,p=1$YQ$YQ", "$argon2id$v=19$m=8,t=0,p=1$c29tZXNhbHQ$CTFhFdXPJO1aFaMaO6Mm5c8y7cJHAph8ArZWb2GRPPc", "$argon2id$v=18$m=8,t=1,p=1$c29tZXNhbHQ$CTFhFdXPJO1aFaMaO6Mm5c8y7cJHAph8ArZWb2GRPPc", "$argon2id$v=19$m=8,t=1,p=1$c29tZXNhbHQ$YQ"} {
		_, _, err := doors.CheckPassword(ctx, "x", odd)
		assert.ErrorIs(t, err, doors.ErrHash, odd)
	}
	ended, cancel := context.WithCancel(ctx)
	cancel()
	for range 20 { // a place may be free, or the end be seen first
		if _, err = doors.HashPassword(ended, "x"); err != nil {
			break
		}
	}
	assert.ErrorIs(t, err, context.Canceled)
}

func TestWeakPasswordsAreRefusedWithTheReason(t *testing.T) {
	for password, why := range map[string]string{
		"short":                    "at least 12 characters, and this one has 5",
		"ÄÖÜäöüßßßßß":              "this one has 11",
		strings.Repeat("ab c", 51): "at most 200",
		"leavemealone":             "most common",
		"LeaveMeAlone":             "most common",
		"qwertyuiop99881":          "digits or signs around it",
		"!!sunflower2026":          "digits or signs around it",
		"abcabcabcabcab":           "repeats the same few characters",
		"............":             "repeats the same few characters",
		"imke.vroom2026":           "your name or email",
		"Marjoleine-88":            "your name or email",
		"bad \xff\xfe bytes here":  "no text",
	} {
		err := doors.JudgePassword(password, "Marjoleine Vroom", "imke.vroom@marl.example")
		var weak *doors.WeakError
		require.True(t, errors.As(err, &weak), password)
		assert.Contains(t, err.Error(), why, password)
	}
	for _, good := range []string{"fennel under glass 9", "ÄÖÜäöüßßßßß9", strings.Repeat("abcde fghij", 18)} {
		assert.NoError(t, doors.JudgePassword(good, "Marjoleine Vroom", "imke.vroom@marl.example"), good)
	}
}

func TestTokensAreLongDifferAndAreKeptOnlyHashed(t *testing.T) {
	one, hash := doors.NewToken()
	other, _ := doors.NewToken()
	assert.Len(t, one, 43)
	assert.NotEqual(t, one, other)
	assert.Equal(t, hash, doors.HashOf(one))
	assert.NotContains(t, string(hash), one)
}

func BenchmarkHashPassword(b *testing.B) {
	for b.Loop() {
		_, _ = doors.HashPassword(b.Context(), "fennel under glass 9")
	}
}
