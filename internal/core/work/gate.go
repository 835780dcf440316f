package work

import (
	"context"
	"runtime"
	"sync"
)

// Gate lets so much long work go on at once: in all, and of one owner one after the other. Who
// comes first goes first, but for those whose owner is at work. The zero value lets nothing
// through; [NewGate] makes one.
type Gate struct {
	mu      sync.Mutex
	free    int
	at      map[any]bool // owners at work
	waiting []*ticket
}

type ticket struct {
	owner any
	turn  chan struct{} // closed when it may go
}

// NewGate makes a gate for so much work at once.
func NewGate(most int) *Gate { return &Gate{free: max(1, most), at: map[any]bool{}} }

type gateKey struct{}

type gateOf struct {
	gate  *Gate
	owner any
}

// Within is a context whose [Shared] work goes through a gate, as an owner's.
func (g *Gate) Within(ctx context.Context, owner any) context.Context {
	return context.WithValue(ctx, gateKey{}, gateOf{g, owner})
}

// through does something once the gate of a context lets it; what it does in turn is not held up
// again. It fails with the error of the context where that ends before.
func through(ctx context.Context, do func(context.Context) error) error {
	of, _ := ctx.Value(gateKey{}).(gateOf)
	if of.gate == nil {
		return do(ctx)
	}
	if err := of.gate.enter(ctx, of.owner); err != nil {
		return err
	}
	defer of.gate.leave(of.owner)
	return do(context.WithValue(context.WithValue(ctx, gateKey{}, gateOf{}), modestKey{}, true))
}

// modestKey marks the context of work that came through a gate: it leaves a processor to others.
type modestKey struct{}

// hands is how many processors work within a context takes.
func hands(ctx context.Context) int {
	n := runtime.GOMAXPROCS(0)
	if ctx.Value(modestKey{}) != nil {
		n = max(1, n-1)
	}
	return n
}

// apart is a context of its own that goes through the same gate: what else the other one holds may be
// gone before the work is.
func apart(ctx context.Context) context.Context {
	own := context.Background()
	for _, key := range []any{gateKey{}, modestKey{}} {
		if v := ctx.Value(key); v != nil {
			own = context.WithValue(own, key, v)
		}
	}
	return own
}

func (g *Gate) enter(ctx context.Context, owner any) error {
	t := &ticket{owner, make(chan struct{})}
	g.mu.Lock()
	g.waiting = append(g.waiting, t)
	g.next()
	g.mu.Unlock()
	select {
	case <-t.turn:
		return nil
	case <-ctx.Done():
	}
	g.mu.Lock()
	defer g.mu.Unlock()
	for i, other := range g.waiting {
		if other == t {
			g.waiting = append(g.waiting[:i], g.waiting[i+1:]...)
			return ctx.Err()
		}
	}
	g.out(owner) // its turn came meanwhile
	return ctx.Err()
}

func (g *Gate) leave(owner any) {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.out(owner)
}

func (g *Gate) out(owner any) {
	g.free++
	delete(g.at, owner)
	g.next()
}

// next lets in who may go.
func (g *Gate) next() {
	for i := 0; i < len(g.waiting) && g.free > 0; {
		t := g.waiting[i]
		if g.at[t.owner] {
			i++
			continue
		}
		g.free--
		g.at[t.owner] = true
		g.waiting = append(g.waiting[:i], g.waiting[i+1:]...)
		close(t.turn)
	}
}

// Idle reports whether nothing is at work, nor waits to be.
func (g *Gate) Idle() bool {
	g.mu.Lock()
	defer g.mu.Unlock()
	return len(g.at) == 0 && len(g.waiting) == 0
}
