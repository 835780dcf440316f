package doors

import (
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
)

// NewToken makes a secret of 256 random bits, as 43 letters that may stand in
// an address, and the hash that is kept of it.
func NewToken() (token string, hash []byte) {
	raw := make([]byte, 32)
	_, _ = rand.Read(raw) // never fails, by its documentation
	token = base64.RawURLEncoding.EncodeToString(raw)
	return token, HashOf(token)
}

// HashOf returns what is kept of a token, so that whoever reads the database
// cannot open doors with it. The token is random, so one round of SHA-256 is
// enough.
func HashOf(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}
