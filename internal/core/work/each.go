// Package work does what takes long: on as many processors as there are, once for all who wait
// for the same, and no longer than somebody waits. A panic on the way is an error of the work,
// so that nothing else ends with it.
package work

import (
	"context"
	"fmt"
	"runtime"
	"runtime/debug"
	"sync"
	"sync/atomic"
)

// Panic is the error of work that panicked.
type Panic struct {
	Value any
	Trace string // where; it holds no values
}

func (p *Panic) Error() string {
	return "Nine Coins failed on it; whoever runs it finds more in its log"
}

// Cause is what went wrong, for a log: what the runtime says, or the type of another value, whose
// text might hold what was worked on.
func (p *Panic) Cause() string {
	if e, is := p.Value.(runtime.Error); is {
		return e.Error()
	}
	return fmt.Sprintf("%T", p.Value)
}

// Panicked is the error of what was recovered, called where it was.
func Panicked(v any) *Panic {
	if p, is := v.(*Panic); is {
		return p
	}
	return &Panic{v, string(debug.Stack())}
}

// Guarded does something. A panic in it is returned as a [*Panic].
func Guarded(do func() error) (err error) {
	defer func() {
		if v := recover(); v != nil {
			err = Panicked(v)
		}
	}()
	return do()
}

// Each does something for each of n, on as many processors as there are; behind a [Gate] on one less,
// so that others are not held up. It ends early with the
// error of the context, or of what failed first; a panic is a [*Panic].
func Each(ctx context.Context, n int, do func(i int) error) error {
	var all sync.WaitGroup
	var next atomic.Int64
	var once sync.Once
	var failed atomic.Bool
	var first error
	fail := func(err error) { once.Do(func() { first = err; failed.Store(true) }) }
	for range min(n, hands(ctx)) {
		all.Go(func() {
			for i := int(next.Add(1)) - 1; i < n && !failed.Load(); i = int(next.Add(1)) - 1 {
				err := ctx.Err()
				if err == nil {
					err = Guarded(func() error { return do(i) })
				}
				if err != nil {
					fail(err)
				}
			}
		})
	}
	all.Wait()
	return first
}
