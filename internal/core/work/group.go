package work

import (
	"context"
	"sync"
)

// Group is [Shared] work by key, of which the newest few are kept. The zero value holds nothing.
type Group[K comparable, V any] struct {
	mu    sync.Mutex
	all   map[K]*Shared[V]
	order []K // the oldest first
}

// keptOfGroup is how many values of a group are kept.
const keptOfGroup = 4

// Get returns the value of a key, as [Shared.Get] does.
func (g *Group[K, V]) Get(ctx context.Context, key K, do func(context.Context) (V, error)) (V, error) {
	g.mu.Lock()
	one := g.all[key]
	if one == nil {
		if g.all == nil {
			g.all = map[K]*Shared[V]{}
		}
		one = &Shared[V]{}
		g.all[key], g.order = one, append(g.order, key)
		if len(g.order) > keptOfGroup { // who waits for it has it still
			delete(g.all, g.order[0])
			g.order = g.order[1:]
		}
	}
	g.mu.Unlock()
	return one.Get(ctx, nil, func(ctx context.Context, _ Tell) (V, error) { return do(ctx) })
}
