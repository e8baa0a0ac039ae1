package events

import (
	"context"
	"fmt"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// of is a reader of submissions called CLASS-OWNER-TEXT, which counts how often it reads.
type of struct{ reads atomic.Int64 }

func (o *of) read(_ context.Context, submission string, wanted func(class, owner int64) (bool, bool)) (t Told,
	err error) {
	o.reads.Add(1)
	text := ""
	if _, err := fmt.Sscanf(submission, "%d-%d-%s", &t.Class, &t.Owner, &text); err != nil {
		return t, err
	}
	staff, own := wanted(t.Class, t.Owner)
	if staff {
		t.Staff = []byte("staff " + submission)
	}
	if own {
		t.Own = []byte("own " + submission)
	}
	return t, nil
}

func hub(t *testing.T) (*Hub, *of) {
	h, o := NewHub(time.Now), &of{}
	var wait sync.WaitGroup
	ctx, cancel := context.WithCancel(t.Context())
	wait.Go(func() { h.Run(ctx, o.read) })
	t.Cleanup(func() { cancel(); wait.Wait(); h.Close() })
	return h, o
}

func next(t *testing.T, c <-chan Event) Event {
	t.Helper()
	select {
	case e := <-c:
		return e
	case <-time.After(5 * time.Second):
		require.Fail(t, "nothing came")
		return Event{}
	}
}

// Everybody hears what concerns them and nothing else, and many changes of one submission are read once for all.
func TestAddressed(t *testing.T) {
	h, o := hub(t)
	var staff []<-chan Event
	for i := range 50 {
		c, _, _, stop := h.Listen(Listener{1, int64(100 + i), true}, 0)
		defer stop()
		staff = append(staff, c)
	}
	own, _, _, _ := h.Listen(Listener{1, 7, false}, 0)
	other, _, _, _ := h.Listen(Listener{1, 8, false}, 0)
	elsewhere, _, _, _ := h.Listen(Listener{2, 100, true}, 0)
	for range 1000 {
		h.Changed("1-7-x")
	}
	for _, c := range staff {
		assert.Equal(t, "staff 1-7-x", string(next(t, c).Data))
	}
	assert.Equal(t, "own 1-7-x", string(next(t, own).Data))
	assert.LessOrEqual(t, o.reads.Load(), int64(2))
	h.Changed("1-7-x") // the same to its owner: no event for them
	next(t, staff[0])
	assert.Empty(t, own)
	assert.Empty(t, other)
	assert.Empty(t, elsewhere)
}

// Numbers tell a listener nothing of what happens to others.
func TestNumbersAreTimes(t *testing.T) {
	h, _ := hub(t)
	own, begin, _, _ := h.Listen(Listener{1, 7, false}, 0)
	for i := range 500 {
		h.Changed(fmt.Sprintf("1-8-%d", i))
	}
	h.Changed("1-7-x")
	e := next(t, own)
	assert.InDelta(t, time.Now().UnixMicro(), e.Number, 5e6)
	assert.Greater(t, e.Number, begin)
}

// Whoever comes back hears what was missed, or that it cannot be told any more.
func TestResume(t *testing.T) {
	h, _ := hub(t)
	first, begin, whole, stop := h.Listen(Listener{1, 7, false}, 0)
	assert.True(t, whole)
	h.Changed("1-7-a")
	seen := next(t, first)
	stop()
	staff, _, _, _ := h.Listen(Listener{1, 1, true}, 0)
	h.Changed("1-7-b")
	h.Changed("1-8-c")
	next(t, staff)
	next(t, staff)
	again, _, whole, _ := h.Listen(Listener{1, 7, false}, seen.Number)
	assert.True(t, whole)
	assert.Equal(t, "own 1-7-b", string(next(t, again).Data))
	for after, want := range map[int64]bool{seen.Number: true, begin: false, 5: false,
		time.Now().Add(time.Hour).UnixMicro(): false} {
		_, _, whole, stop := h.Listen(Listener{1, 7, false}, after)
		stop()
		assert.Equal(t, want, whole, after)
	}
}

// A listener that does not keep up is let go, and holds nobody up.
func TestSlowListener(t *testing.T) {
	h, _ := hub(t)
	slow, _, _, stop := h.Listen(Listener{1, 7, true}, 0)
	defer stop()
	for i := range 2 * backlog {
		h.Changed(fmt.Sprintf("1-7-%d", i))
	}
	assert.Eventually(t, func() bool { return h.Streams() == 0 }, 5*time.Second, 10*time.Millisecond)
	n := 0
	for range slow {
		n++
	}
	assert.Equal(t, backlog, n)
}

// An account has only that many streams: the oldest ends.
func TestStreamsOfOne(t *testing.T) {
	h, _ := hub(t)
	first, _, _, _ := h.Listen(Listener{1, 7, false}, 0)
	for range maxStreams {
		_, _, _, stop := h.Listen(Listener{2, 7, false}, 0)
		defer stop()
	}
	e := <-first
	assert.Nil(t, e.Data, "it is told why")
	_, open := <-first
	assert.False(t, open)
	assert.Equal(t, maxStreams, h.Streams())
}

func TestClosedHub(t *testing.T) {
	h := NewHub(time.Now)
	before, _, _, _ := h.Listen(Listener{}, 0)
	h.Close()
	_, open := <-before
	assert.False(t, open)
	after, _, _, stop := h.Listen(Listener{}, 0)
	stop()
	_, open = <-after
	assert.False(t, open)
	h.Changed("x")
}
