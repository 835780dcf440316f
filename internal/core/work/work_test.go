package work_test

import (
	"context"
	"errors"
	"sync"
	"sync/atomic"
	"testing"
	"testing/synctest"

	"ninecoins/internal/core/work"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAPanicIsAnErrorOfTheWork(t *testing.T) {
	var p *work.Panic
	require.ErrorAs(t, work.Guarded(func() error { panic("secret") }), &p)
	assert.NotContains(t, p.Error(), "secret")
	assert.Equal(t, "string", p.Cause(), "what was worked on is kept out of logs")
	assert.Contains(t, p.Trace, "work_test.go")
	require.ErrorAs(t, work.Guarded(func() error { var none []int; _ = none[len(p.Trace)]; return nil }), &p)
	assert.Contains(t, p.Cause(), "index out of range")
	again := work.Guarded(func() error { panic(p) })
	assert.Same(t, p, again, "its trace is that of where it began")
	err := work.Each(t.Context(), 50, func(i int) error {
		if i == 7 {
			panic("on another goroutine")
		}
		return nil
	})
	require.ErrorAs(t, err, &p)
	var s work.Shared[int]
	_, err = s.Get(t.Context(), nil, func(context.Context, work.Tell) (int, error) { panic("in a flight") })
	require.ErrorAs(t, err, &p)
	n, err := s.Get(t.Context(), nil, func(context.Context, work.Tell) (int, error) { return 5, nil })
	require.NoError(t, err)
	assert.Equal(t, 5, n)
}

func TestEachDoesAllOnceAndEndsEarly(t *testing.T) {
	var done [100]atomic.Int32
	require.NoError(t, work.Each(t.Context(), len(done), func(i int) error { done[i].Add(1); return nil }))
	for i := range done {
		assert.EqualValues(t, 1, done[i].Load())
	}
	wrong, begun := errors.New("wrong"), atomic.Int32{}
	assert.Same(t, wrong, work.Each(t.Context(), 10_000, func(int) error { begun.Add(1); return wrong }))
	assert.Less(t, begun.Load(), int32(10_000))
	ctx, end := context.WithCancel(t.Context())
	end()
	assert.ErrorIs(t, work.Each(ctx, 3, func(int) error { t.Error("was begun"); return nil }), context.Canceled)
}

// TestWorkIsSharedAndEndsWithTheLastWhoWaits has three wait for one piece of work, and leave one by one.
func TestWorkIsSharedAndEndsWithTheLastWhoWaits(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		var s work.Shared[string]
		var begun, ended, heard atomic.Int32
		step := make(chan string)
		do := func(ctx context.Context, tell work.Tell) (string, error) {
			begun.Add(1)
			defer ended.Add(1)
			for i := 1; ; i++ {
				select {
				case v := <-step:
					if v != "" {
						return v, nil
					}
					tell(i, 9)
				case <-ctx.Done():
					return "", ctx.Err()
				}
			}
		}
		var leave [3]context.CancelFunc
		var all sync.WaitGroup
		results := make([]error, 3)
		for i := range leave {
			var ctx context.Context
			ctx, leave[i] = context.WithCancel(t.Context())
			all.Go(func() { _, results[i] = s.Get(ctx, func(done, of int) { heard.Add(1) }, do) })
		}
		synctest.Wait()
		assert.EqualValues(t, 1, begun.Load())
		step <- ""
		synctest.Wait()
		assert.EqualValues(t, 3, heard.Load(), "each hears how far it is")
		leave[0]()
		leave[1]()
		synctest.Wait()
		assert.EqualValues(t, 0, ended.Load(), "somebody waits")
		leave[2]()
		all.Wait()
		synctest.Wait()
		assert.EqualValues(t, 1, ended.Load())
		for _, err := range results {
			assert.ErrorIs(t, err, context.Canceled)
		}
		_, known := s.Known()
		assert.False(t, known)

		go func() { step <- "done" }()
		v, err := s.Get(t.Context(), nil, do)
		require.NoError(t, err, "who leaves takes nothing from the next")
		assert.Equal(t, "done", v)
		v, err = s.Get(t.Context(), nil, do)
		require.NoError(t, err)
		assert.Equal(t, "done", v)
		assert.EqualValues(t, 2, begun.Load(), "it is kept")
	})
}

// TestAGateLetsOneOfEachOwnerIn has three pieces of work of one owner and one of another at a gate for two.
func TestAGateLetsOneOfEachOwnerIn(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		gate := work.NewGate(2)
		var at sync.Map
		free := map[string]chan struct{}{}
		begin := func(ctx context.Context, owner, name string) {
			free[name] = make(chan struct{})
			end := free[name]
			go func() {
				var s work.Shared[int]
				_, _ = s.Get(gate.Within(ctx, owner), nil, func(ctx context.Context, _ work.Tell) (int, error) {
					at.Store(name, true)
					defer at.Delete(name)
					var inner work.Shared[int] // is not held up by what holds it
					if _, err := inner.Get(ctx, nil, func(context.Context, work.Tell) (int, error) { return 1, nil }); err != nil {
						return 0, err
					}
					select {
					case <-end:
					case <-ctx.Done():
					}
					return 0, ctx.Err()
				})
			}()
			synctest.Wait()
		}
		atWork := func() (names []string) {
			at.Range(func(k, _ any) bool { names = append(names, k.(string)); return true })
			return names
		}
		begin(t.Context(), "a", "a1")
		ctx, leave := context.WithCancel(t.Context())
		begin(ctx, "a", "a2")
		begin(t.Context(), "a", "a3")
		assert.ElementsMatch(t, []string{"a1"}, atWork())
		begin(t.Context(), "b", "b1")
		begin(t.Context(), "c", "c1")
		assert.ElementsMatch(t, []string{"a1", "b1"}, atWork())
		leave() // while it waits
		close(free["a1"])
		synctest.Wait()
		assert.ElementsMatch(t, []string{"a3", "b1"}, atWork())
		close(free["a3"])
		synctest.Wait()
		assert.ElementsMatch(t, []string{"b1", "c1"}, atWork())
		assert.False(t, gate.Idle())
		close(free["b1"])
		close(free["c1"])
		synctest.Wait()
		assert.True(t, gate.Idle())
	})
}

func TestAGroupKeepsTheNewest(t *testing.T) {
	var g work.Group[int, int]
	made := 0
	get := func(key int) int {
		v, err := g.Get(t.Context(), key, func(context.Context) (int, error) { made++; return 10 * key, nil })
		require.NoError(t, err)
		return v
	}
	for key := range 5 {
		assert.Equal(t, 10*key, get(key))
	}
	for key := 1; key < 5; key++ {
		assert.Equal(t, 10*key, get(key))
	}
	assert.Equal(t, 5, made, "the newest four are kept")
	assert.Equal(t, 0, get(0))
	assert.Equal(t, 6, made)
}
