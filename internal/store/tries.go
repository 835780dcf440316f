package store

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"
)

// Limit is how many tries within a time one key has, such as an account's
// email or an address on the network.
type Limit struct {
	Key    string
	Most   int
	Within time.Duration
}

func (l Limit) hash() []byte {
	sum := sha256.Sum256([]byte(l.Key))
	return sum[:]
}

var errTooMany = errors.New("too many tries")

// Try counts a try under all the limits, before it is made, so that many at
// once on several servers are counted too. Where one of them is used up
// nothing is counted, and it returns how long to wait.
func (s *Store) Try(ctx context.Context, limits ...Limit) (wait time.Duration, err error) {
	slices.SortFunc(limits, func(a, b Limit) int { return bytes.Compare(a.hash(), b.hash()) })
	err = s.tx(ctx, func(tx pgx.Tx) error {
		wait = 0
		for _, l := range limits {
			var left float64
			// The oldest of the last Most tries: when it leaves the window, there is room again.
			if _, err := tx.Exec(ctx, "select pg_advisory_xact_lock(hashtextextended(encode($1, 'hex'), 0))", l.hash()); err != nil {
				return err
			}
			err := tx.QueryRow(ctx, `select coalesce((select extract(epoch from at + $2 - clock_timestamp())::float8 from tries
				where key = $1 and at > clock_timestamp() - $2 order by at desc offset $3 limit 1), 0)`, l.hash(), l.Within, l.Most-1).Scan(&left)
			if err != nil {
				return err
			}
			wait = max(wait, time.Duration(left*float64(time.Second)))
		}
		if wait > 0 {
			return errTooMany
		}
		for _, l := range limits {
			if _, err := tx.Exec(ctx, "insert into tries (key) values ($1)", l.hash()); err != nil {
				return err
			}
		}
		return nil
	})
	if errors.Is(err, errTooMany) {
		err = nil
	}
	return wait, err
}

// TakeBack forgets the newest try of a key: one that was right counts against
// nobody else who comes from the same address.
func (s *Store) TakeBack(ctx context.Context, l Limit) error {
	_, err := s.pool.Exec(ctx, "delete from tries where ctid = (select ctid from tries where key = $1 order by at desc limit 1 for update skip locked)", l.hash())
	return err
}

// Forgive forgets the tries of a key, after one that was right.
func (s *Store) Forgive(ctx context.Context, l Limit) error {
	_, err := s.pool.Exec(ctx, "delete from tries where key = $1", l.hash())
	return err
}
