package doors

import (
	"bufio"
	"bytes"
	"compress/gzip"
	_ "embed"
	"fmt"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"
)

// The bounds of a password, in letters; the longest keeps hashing quick.
const (
	LeastPassword = 12
	MostPassword  = 200
)

// common holds about 42,000 common passwords of six letters and more, one a
// line, from a package that common.LICENSE names.
//
//go:embed common.txt.gz
var common []byte

var listed = sync.OnceValue(func() map[string]bool {
	list := map[string]bool{}
	z, err := gzip.NewReader(bytes.NewReader(common))
	if err != nil {
		panic(err) // the list is part of the binary
	}
	for lines := bufio.NewScanner(z); lines.Scan(); {
		list[lines.Text()] = true
	}
	return list
})

// WeakError says why a password is refused, and what to do.
type WeakError struct{ Why string }

func (e *WeakError) Error() string { return e.Why }

func weak(format string, a ...any) error { return &WeakError{fmt.Sprintf(format, a...)} }

// JudgePassword refuses, with a [*WeakError], a password that is too short or
// too long, stands on the list of common ones (also with digits and signs
// around it), repeats itself, or is made of the person's own name or email.
func JudgePassword(password, name, email string) error {
	letters := utf8.RuneCountInString(password)
	low := strings.ToLower(password)
	core := strings.TrimFunc(low, func(r rune) bool { return !unicode.IsLetter(r) })
	switch {
	case !utf8.ValidString(password):
		return weak("That password holds bytes that are no text. Type another.")
	case letters < LeastPassword:
		return weak("A password needs at least %d characters, and this one has %d. Four or five words that have nothing to do with each other are easy to remember.", LeastPassword, letters)
	case letters > MostPassword:
		return weak("A password may have at most %d characters.", MostPassword)
	case listed()[low]:
		return weak("That is one of the most common passwords, which are tried first. Choose another.")
	case listed()[core]:
		return weak("That is a common password with digits or signs around it, which are tried early. Choose another.")
	case repeats(low):
		return weak("That password repeats the same few characters. Choose another.")
	}
	rest := low
	for _, own := range append([]string{strings.ToLower(email), strings.SplitN(strings.ToLower(email), "@", 2)[0]}, strings.Fields(strings.ToLower(name))...) {
		if len(own) > 2 {
			rest = strings.ReplaceAll(rest, own, "")
		}
	}
	if utf8.RuneCountInString(rest) < LeastPassword/2 {
		return weak("That password is mostly your name or email. Choose another.")
	}
	return nil
}

// repeats reports whether s is a unit of at most four letters over and over.
func repeats(s string) bool {
	runes := []rune(s)
	for unit := 1; unit <= 4; unit++ {
		same := true
		for i := unit; i < len(runes) && same; i++ {
			same = runes[i] == runes[i-unit]
		}
		if same {
			return true
		}
	}
	return false
}
