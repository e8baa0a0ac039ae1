package turns

import (
	"context"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// enter waits until a caller is in the line, and gives the function that ends the turn once it comes.
func enter(t *testing.T, g *Gate, c Caller) <-chan func() {
	t.Helper()
	g.mu.Lock()
	before := g.count
	g.mu.Unlock()
	out := make(chan func(), 1)
	go func() {
		leave, err := g.Enter(context.Background(), c)
		assert.NoError(t, err)
		out <- leave
	}()
	require.Eventually(t, func() bool { g.mu.Lock(); defer g.mu.Unlock(); return g.count > before }, time.Second,
		time.Millisecond)
	return out
}

func turn(t *testing.T, c <-chan func()) func() {
	t.Helper()
	select {
	case leave := <-c:
		return leave
	case <-time.After(time.Second):
		require.Fail(t, "no turn")
		return nil
	}
}

func none(t *testing.T, c <-chan func()) {
	t.Helper()
	select {
	case <-c:
		require.Fail(t, "a turn too early")
	case <-time.After(20 * time.Millisecond):
	}
}

// Six windows of one student hold up neither an instructor nor another student.
func TestManyOfOne(t *testing.T) {
	g := New(3)
	oke := Caller{"oke", true}
	first := turn(t, enter(t, g, oke))
	second := enter(t, g, oke)
	none(t, second)
	turn(t, enter(t, g, Caller{"marsh", true}))()
	turn(t, enter(t, g, Caller{"keeper", false}))()
	ahead, waiting := g.Ahead("oke")
	assert.True(t, waiting)
	assert.Equal(t, 1, ahead)
	first()
	turn(t, second)()
	_, waiting = g.Ahead("oke")
	assert.False(t, waiting)
}

// Students leave a place free for those who mark; those who mark go first; and who had a turn longest ago goes next.
func TestOrder(t *testing.T) {
	g := New(2)
	a := turn(t, enter(t, g, Caller{"a", true}))
	b := enter(t, g, Caller{"b", true})
	none(t, b)
	keeper := turn(t, enter(t, g, Caller{"keeper", false}))
	again := enter(t, g, Caller{"a", true})
	c := enter(t, g, Caller{"c", true})
	other := enter(t, g, Caller{"other", false})
	for who, want := range map[string]int{"b": 3, "c": 4, "a": 5, "other": 2} {
		ahead, _ := g.Ahead(who)
		assert.Equal(t, want, ahead, who)
	}
	a()
	o := turn(t, other)
	none(t, b)
	keeper()
	turn(t, b)()
	turn(t, c)()
	turn(t, again)()
	o()
	g.mu.Lock()
	defer g.mu.Unlock()
	assert.Zero(t, g.all)
	assert.Zero(t, g.pupils)
	assert.Empty(t, g.running)
}

func TestBusyAndGone(t *testing.T) {
	g := New(2)
	leave := turn(t, enter(t, g, Caller{"a", true}))
	ctx, cancel := context.WithCancel(t.Context())
	var wait sync.WaitGroup
	for range maxWaitingOf {
		wait.Go(func() {
			_, err := g.Enter(ctx, Caller{"a", true})
			assert.ErrorIs(t, err, context.Canceled)
		})
	}
	require.Eventually(t, func() bool { g.mu.Lock(); defer g.mu.Unlock(); return len(g.line) == maxWaitingOf },
		time.Second, time.Millisecond)
	_, err := g.Enter(t.Context(), Caller{"a", true})
	assert.ErrorIs(t, err, ErrBusy)
	cancel()
	wait.Wait()
	leave()
	leave() // twice does no harm
	assert.Zero(t, g.all)
	assert.Empty(t, g.line)
}
