package keep_test

import (
	"math/rand/v2"
	"testing"

	"ninecoins/internal/keep"

	"github.com/stretchr/testify/assert"
)

func TestWhatWasUsedLongestAgoGoesFirst(t *testing.T) {
	c := keep.New[string, int](100)
	c.Put("a", 1, 40)
	c.Put("b", 2, 40)
	_, ok := c.Get("a")
	assert.True(t, ok)
	c.Put("c", 3, 40)
	_, ok = c.Get("b")
	assert.False(t, ok, "a was used since")
	for key, want := range map[string]int{"a": 1, "c": 3} {
		v, ok := c.Get(key)
		assert.True(t, ok)
		assert.Equal(t, want, v)
	}
	c.Put("whale", 4, 101)
	_, ok = c.Get("whale")
	assert.False(t, ok)
	assert.EqualValues(t, 80, c.Weight(), "and nothing else went for it")
	c.Put("a", 5, 10)
	v, _ := c.Get("a")
	assert.Equal(t, 5, v)
	assert.EqualValues(t, 50, c.Weight())
	c.Drop("a")
	c.Drop("nobody")
	assert.EqualValues(t, 40, c.Weight())
}

func TestTheWeightNeverPassesItsBound(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 3))
	c := keep.New[int, int](1000)
	held := map[int]int64{}
	for range 20_000 {
		key, weight := random.IntN(60), random.Int64N(400)
		switch random.IntN(4) {
		case 0:
			c.Drop(key)
		case 1:
			c.Get(key)
		default:
			c.Put(key, key, weight)
			held[key] = weight
		}
		assert.LessOrEqual(t, c.Weight(), int64(1000))
	}
	var sum int64
	for key, weight := range held {
		if v, ok := c.Get(key); ok {
			assert.Equal(t, key, v)
			sum += weight
		}
	}
	assert.Equal(t, sum, c.Weight(), "what is held is what is weighed")
}
