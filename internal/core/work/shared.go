package work

import (
	"context"
	"sync"
)

// Shared is a value that is worked out when it is first asked for, once for all who ask, and
// kept. The work ends when the last who waits has left; the next begins anew. The zero value is
// not worked out yet.
type Shared[V any] struct {
	mu     sync.Mutex
	known  bool
	value  V
	flight *flight[V]
}

// flight is work under way.
type flight[V any] struct {
	cancel   context.CancelFunc
	waiting  int
	done, of int
	moved    chan struct{} // closed when done grows, and made anew
	ended    chan struct{}
	value    V
	err      error
}

// Tell says how far work is.
type Tell func(done, of int)

// Known returns the value if it was worked out already.
func (s *Shared[V]) Known() (V, bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.value, s.known
}

// Get returns the value, which is worked out by do where nobody does so yet. The context that do
// is given ends once nobody waits any more; of that of who came first it holds the [Gate] alone. told, on the goroutine of who waits, hears how far the work is; nil: nobody. Get
// fails with the error of ctx, or of do, which is not kept: who asks next tries again.
func (s *Shared[V]) Get(ctx context.Context, told Tell, do func(context.Context, Tell) (V, error)) (V, error) {
	s.mu.Lock()
	if s.known {
		defer s.mu.Unlock()
		return s.value, nil
	}
	if err := ctx.Err(); err != nil {
		defer s.mu.Unlock()
		return s.value, err
	}
	f := s.flight
	if f == nil {
		f = &flight[V]{moved: make(chan struct{}), ended: make(chan struct{})}
		var within context.Context
		within, f.cancel = context.WithCancel(apart(ctx))
		s.flight = f
		go s.fly(within, f, do)
	}
	f.waiting++
	s.mu.Unlock()
	defer s.leave(f)
	for {
		s.mu.Lock()
		moved, done, of := f.moved, f.done, f.of
		s.mu.Unlock()
		if told != nil && of > 0 {
			told(done, of)
		}
		select {
		case <-f.ended:
			return f.value, f.err
		case <-ctx.Done():
			var none V
			return none, ctx.Err()
		case <-moved:
		}
	}
}

// fly does the work and keeps what came of it.
func (s *Shared[V]) fly(ctx context.Context, f *flight[V], do func(context.Context, Tell) (V, error)) {
	defer f.cancel()
	tell := func(done, of int) {
		s.mu.Lock()
		defer s.mu.Unlock()
		f.done, f.of = done, of
		close(f.moved)
		f.moved = make(chan struct{})
	}
	value, err := f.value, error(nil)
	err = through(ctx, func(ctx context.Context) error {
		return Guarded(func() (err error) { value, err = do(ctx, tell); return err })
	})
	s.mu.Lock()
	defer s.mu.Unlock()
	if f.value, f.err = value, err; err == nil {
		s.value, s.known = value, true
	}
	if s.flight == f {
		s.flight = nil
	}
	close(f.ended)
}

// leave ends the work where nobody waits for it any more; who comes next begins it anew.
func (s *Shared[V]) leave(f *flight[V]) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if f.waiting--; f.waiting > 0 {
		return
	}
	f.cancel()
	if s.flight == f {
		s.flight = nil
	}
}
