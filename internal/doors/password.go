package doors

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"

	"golang.org/x/crypto/argon2"
)

// The parameters of argon2id (RFC 9106) for new passwords: 19 MiB of memory, 2
// passes, 1 lane, 16 bytes of salt, 32 of key. A password kept under others is
// hashed anew when its owner signs in.
const (
	memory  = 19 * 1024 // KiB
	passes  = 2
	lanes   = 1
	saltLen = 16
	keyLen  = 32
)

// atOnce bounds how many passwords are hashed at the same time, and so the
// memory that signing in may take: 4 x 19 MiB.
var atOnce = make(chan struct{}, 4)

// ErrHash reports a kept password that cannot be read.
var ErrHash = errors.New("doors: a kept password is not in the form $argon2id$v=19$m=…,t=…,p=…$salt$key")

// HashPassword hashes a password for keeping, in the PHC string format. It
// waits while others are hashed, until the context ends.
func HashPassword(ctx context.Context, password string) (string, error) {
	salt := make([]byte, saltLen)
	_, _ = rand.Read(salt) // never fails, by its documentation
	key, err := derive(ctx, password, salt, memory, passes, lanes, keyLen)
	if err != nil {
		return "", err
	}
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, memory, passes, lanes,
		base64.RawStdEncoding.EncodeToString(salt), base64.RawStdEncoding.EncodeToString(key)), nil
}

func derive(ctx context.Context, password string, salt []byte, m, t uint32, p uint8, n uint32) ([]byte, error) {
	select {
	case atOnce <- struct{}{}:
		defer func() { <-atOnce }()
		return argon2.IDKey([]byte(password), salt, t, m, p, n), nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// nobodys is compared with where there is no such account, so that the answer
// takes as long as for a real one.
var nobodys = fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, memory, passes, lanes,
	base64.RawStdEncoding.EncodeToString(make([]byte, saltLen)), base64.RawStdEncoding.EncodeToString(make([]byte, keyLen)))

// CheckPassword compares a password with a kept one, in constant time for the
// key. An empty kept matches nothing and takes as long as any. old reports a
// match that was hashed with other parameters than today's.
func CheckPassword(ctx context.Context, password, kept string) (match, old bool, err error) {
	known := kept != ""
	if !known {
		kept = nobodys
	}
	parts := strings.Split(kept, "$")
	if len(parts) != 6 || parts[1] != "argon2id" {
		return false, false, ErrHash
	}
	var version int
	var m, t uint32
	var p uint8
	_, err = fmt.Sscanf(parts[2]+" "+parts[3], "v=%d m=%d,t=%d,p=%d", &version, &m, &t, &p)
	salt, saltErr := base64.RawStdEncoding.DecodeString(parts[4])
	key, keyErr := base64.RawStdEncoding.DecodeString(parts[5])
	if err != nil || saltErr != nil || keyErr != nil || version != argon2.Version || t == 0 || p == 0 || len(key) < 16 {
		return false, false, ErrHash
	}
	got, err := derive(ctx, password, salt, m, t, p, uint32(len(key)))
	if err != nil {
		return false, false, err
	}
	match = subtle.ConstantTimeCompare(got, key) == 1 && known
	return match, match && (m != memory || t != passes || p != lanes || len(key) != keyLen), nil
}
