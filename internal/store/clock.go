package store

import (
	"context"
	"sync/atomic"
	"time"
)

// Clock tells the time of the database, which all processes share: that of
// this machine, and how far the database's is ahead of it. It is safe for
// concurrent use; the zero value goes by this machine alone.
type Clock struct{ ahead atomic.Int64 }

// Set asks the database what time it is. The answer counts as of halfway
// between asking and hearing it.
func (c *Clock) Set(ctx context.Context, s *Store) error {
	var there time.Time
	asked := time.Now()
	if err := s.pool.QueryRow(ctx, "select clock_timestamp()").Scan(&there); err != nil {
		return err
	}
	c.ahead.Store(int64(there.Sub(asked.Add(time.Since(asked) / 2))))
	return nil
}

// Now returns the database's time.
func (c *Clock) Now() time.Time { return time.Now().Add(time.Duration(c.ahead.Load())) }
