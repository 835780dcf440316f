// Package keep holds values in memory so that they need not be made again,
// bounded by what they weigh.
package keep

import (
	"container/list"
	"sync"
)

// Cache holds values up to a weight in bytes; what was used longest ago goes
// first. A value that alone weighs more is not held. It is safe for concurrent
// use. The zero value holds nothing; [New] makes one.
type Cache[K comparable, V any] struct {
	mu      sync.Mutex
	most    int64
	weight  int64
	order   list.List // of *entry, the one used last in front
	entries map[K]*list.Element
}

type entry[K comparable, V any] struct {
	key    K
	value  V
	weight int64
}

// New makes a cache that holds at most so many bytes.
func New[K comparable, V any](most int64) *Cache[K, V] {
	return &Cache[K, V]{most: most, entries: map[K]*list.Element{}}
}

// Get returns what is held under a key.
func (c *Cache[K, V]) Get(key K) (value V, ok bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	at, ok := c.entries[key]
	if !ok {
		return value, false
	}
	c.order.MoveToFront(at)
	return at.Value.(*entry[K, V]).value, true
}

// Put holds a value in the place of what was held under its key.
func (c *Cache[K, V]) Put(key K, value V, weight int64) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if at, ok := c.entries[key]; ok {
		c.drop(at)
	}
	if weight > c.most {
		return
	}
	c.entries[key] = c.order.PushFront(&entry[K, V]{key, value, weight})
	for c.weight += weight; c.weight > c.most; {
		c.drop(c.order.Back())
	}
}

// Drop lets go of what is held under a key.
func (c *Cache[K, V]) Drop(key K) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if at, ok := c.entries[key]; ok {
		c.drop(at)
	}
}

func (c *Cache[K, V]) drop(at *list.Element) {
	e := c.order.Remove(at).(*entry[K, V])
	delete(c.entries, e.key)
	c.weight -= e.weight
}

// Weight returns how many bytes are held.
func (c *Cache[K, V]) Weight() int64 {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.weight
}
