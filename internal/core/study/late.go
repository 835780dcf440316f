package study

import "sync"

// once is something that is worked out when it is first looked at, and kept.
type once[V any] struct {
	mu    sync.Mutex
	known bool
	value V
}

// get returns it. A failure is not kept: the next who looks tries again.
func (o *once[V]) get(work func() (V, error)) (V, error) {
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.known {
		return o.value, nil
	}
	v, err := work()
	o.value, o.known = v, err == nil
	return v, err
}

// late is what is worked out of an outcome only where it is looked at. Copies of an
// outcome share it.
type late struct {
	roads  once[*Roads]
	spread once[*Spread]
	cases  once[[3]*Outcome]
	dear   once[[]Bargain]
}
